"""What several figures look for in a trace, found once: what the hands pushed, runs, jumps, and when within a tick it
happened."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from cinetica.model.tune import Integrator
from cinetica.motion.clock import schedule
from cinetica.motion.inside import Inside
from cinetica.motion.intent import directed, shape_stick
from cinetica.motion.records import AIR_LAUNCH, BUMP, CLIMB_OFF, CLIMB_ON, LAND, LAUNCH, SLACK, Records, tune_records
from cinetica.motion.simulate import Trace

# Share of top speed that counts as reached, and whose rest counts as stopped.
NEARLY = 0.99
FloatArray = NDArray[np.float64]
BoolArray = NDArray[np.bool_]


@dataclass(frozen=True)
class Moment:
    """A moment within a tick: after a share (0 to 1) of the tick that ends in a row."""

    row: int
    share: float


class Evidence:
    """Columns of a trace, shape (rows,), and what they show."""

    def __init__(self, trace: Trace) -> None:
        self.trace = trace
        self.tune = trace.tune
        self.side = trace.drill.view == "side"
        self.time: FloatArray = trace["time"]
        self.x: FloatArray = trace["x"]
        self.y: FloatArray = trace["y"]
        self.vx: FloatArray = trace["vx"]
        self.vy: FloatArray = trace["vy"]
        self.marks: NDArray[np.int64] = trace["marks"]
        self.top_speed = self.tune.drive.top_speed

    @cached_property
    def inside(self) -> Inside | None:
        """Nothing is known of the ticks of a log."""
        return None if self.trace.logged else Inside(self.trace)

    @cached_property
    def speed(self) -> FloatArray:
        """Speed of what is driven, in u/s: along the ground from the side, in the plane from above."""
        return np.abs(self.vx) if self.side else np.hypot(self.vx, self.vy)

    # Moments

    def at(self, moment: Moment) -> float:
        """The time of a moment in s."""
        row = moment.row
        return (
            float(self.time[row - 1] + moment.share * (self.time[row] - self.time[row - 1]))
            if row
            else float(self.time[0])
        )

    def way(self, axis: int, moment: Moment) -> float:
        """How far the body has gone along an axis (0: x, 1: y) since the row before, in u."""
        column, row = (self.x, self.y)[axis], moment.row
        if (
            self.inside is not None
            and 0.0 < moment.share < 1.0
            and self.tune.stepping.integrator is Integrator.MIDPOINT
        ):
            return self.inside.gone_after(row, moment.share)[axis]
        # By one velocity, whichever: straight.
        return float(column[row] - column[row - 1]) * moment.share

    def when(
        self, values: FloatArray, row: int, level: float, *, axes: tuple[float, float] | None = None, rising: bool
    ) -> Moment:
        """The moment within the tick that ends in `row` at which `values` cross `level`.

        `axes`: the direction along which the values are the velocity; without it they are its length.
        """
        before, after = float(values[row - 1]), float(values[row])
        if (before >= level) if rising else (before <= level):
            return Moment(row, 0.0)
        if self.inside is None:
            return Moment(row, (level - before) / (after - before))
        sign = 1.0 if rising else -1.0

        def past(vx: float, vy: float) -> float:
            speed = vx * axes[0] + vy * axes[1] if axes else abs(vx) if self.side else math.hypot(vx, vy)
            return sign * (speed - level) + SLACK

        return Moment(row, self.inside.share_until(row, past))

    # What the hands push

    @cached_property
    def pushes(self) -> NDArray[np.complex128]:
        """The intent that the hands of each row are after, x + iy: where their key axes lead, 0 where nothing is
        pushed.

        From the side x alone: what drives nothing is no push. Hands count as they arrive, after the latency.
        """
        found = np.zeros(len(self.time), dtype=complex)
        p, known = tune_records([self.tune])[0], {}
        raw = self.trace["input_x"] + 1j * self.trace["input_y"]
        for row in np.flatnonzero(raw):
            key = (complex(raw[row]), bool(self._sticks[row]))
            if key not in known:
                known[key] = self._push(*key, p)
            found[row] = known[key]
        return found.real + 0j if self.side else found

    def _push(self, raw: complex, stick: bool, p: Records) -> complex:
        x, y = shape_stick(raw.real, raw.imag, p) if stick else (raw.real, raw.imag)
        return complex(*directed(x, y, p))

    @cached_property
    def _sticks(self) -> BoolArray:
        """Rows whose input is the stick's."""
        if self.trace.logged:
            return np.zeros(len(self.time), dtype=bool)
        hands = schedule(self.trace.drill.take, self.trace.clock).hands
        late = np.maximum(np.arange(len(hands)) - self.tune.input.latency, 0)
        x, y = hands["stick_x"][late], hands["stick_y"][late]
        return np.asarray(((x != 0) | (y != 0)) & (x == self.trace["input_x"]) & (y == self.trace["input_y"]))

    @cached_property
    def pushed(self) -> BoolArray:
        return self.pushes != 0

    @cached_property
    def tilts(self) -> NDArray[np.int64]:
        """For each row 1 where the hands push fully along one axis, 2 where fully along both, else 0. A stick counts to
        the nearer."""
        found = np.zeros(len(self.time), dtype=np.int64)
        p = tune_records([self.tune])[0]
        for row in np.flatnonzero(self.pushed & ~self.trace["modifier_held"]):
            x, y = float(self.trace["input_x"][row]), float(self.trace["input_y"][row])
            if self._sticks[row]:
                x, y = shape_stick(x, y, p)
            low, high = sorted((abs(x), abs(y)))
            if math.hypot(x, y) >= NEARLY:
                found[row] = 2 if low > math.tan(math.pi / 8) * high else 1
        return found

    def runs(self) -> Iterator[tuple[int, int]]:
        """First and last row of each stretch in which the hands push without a break, and never against its first
        push."""
        # Plain numbers: those of an array take ten times as long to ask one by one.
        row, count, pushed, pushes = 1, len(self.time), self.pushed.tolist(), self.pushes.tolist()
        while row < count:
            if not pushed[row]:
                row += 1
                continue
            way = pushes[row].conjugate()
            end = row
            while end + 1 < count and (pushes[end + 1] * way).real > SLACK:
                end += 1
            yield row, end
            row = end + 1

    # Jumps

    @cached_property
    def flights(self) -> list[Flight]:
        """From every launch off the ground or a net to the landing, without those that the take's end cuts off or a net
        ends."""
        return list(self._flights())

    def _flights(self) -> Iterator[Flight]:
        ends = np.flatnonzero(self.marks & (LAND | CLIMB_ON | LAUNCH))
        for row in np.flatnonzero(self.marks & LAUNCH).tolist():
            end = next((int(end) for end in ends if end > row), None)
            landed = end is not None and self.marks[end] & LAND and not self.marks[end] & (CLIMB_ON | LAUNCH)
            # A launch that the same tick brings back to the ground is a flight, too.
            if self.marks[row] & LAND:
                yield Flight(self, row, row)
            elif landed and end is not None:
                yield Flight(self, row, end)

    @cached_property
    def jumps(self) -> list[Flight]:
        """Those off the ground, in one go."""
        return [flight for flight in self.flights if not flight.off_net and not flight.air_launches]

    @cached_property
    def jump(self) -> Flight | None:
        return self.jumps[0] if self.jumps else None


@dataclass(frozen=True)
class Flight:
    """From the row of a launch to the row of the landing."""

    evidence: Evidence
    row: int
    landing: int

    @property
    def off_net(self) -> bool:
        return bool(self.evidence.marks[self.row] & CLIMB_OFF)

    @property
    def air_launches(self) -> int:
        return int(np.count_nonzero(self.evidence.marks[self.row : self.landing + 1] & AIR_LAUNCH))

    @property
    def began(self) -> float:
        """Time at which the tick of the launch began."""
        return float(self.evidence.time[self.row - 1])

    @cached_property
    def height(self) -> float:
        """From the feet at the launch to the highest point of the path, in u."""
        e = self.evidence
        heights = e.y[self.row : self.landing + 1]
        highest = float(heights.max())
        if e.inside is not None:
            # Between two rows a parabola is higher than at either.
            near = self.row + int(np.argmax(heights))
            for row in (near, near + 1):
                if self.row <= row <= self.landing and not e.marks[row] & BUMP:
                    way = e.inside.way(row)
                    share = way.still_at(1)
                    if share is not None and share > 0 and e.tune.stepping.integrator is Integrator.MIDPOINT:
                        highest = max(highest, float(e.y[row - 1]) + e.way(1, Moment(row, share)))
        return highest - float(e.y[self.row - 1])

    @cached_property
    def apex(self) -> Moment | None:
        """When the body stops rising: its velocity comes to 0, or its head to a ceiling."""
        e = self.evidence
        for row in range(self.row, self.landing + 1):
            bumps = bool(e.marks[row] & BUMP)
            if not bumps and e.vy[row] > SLACK:
                continue
            if e.inside is None:
                return Moment(row, _share(float(e.vy[row - 1]), float(e.vy[row]), 0.0))
            way = e.inside.way(row)
            # It rose at least up to this tick, and what is within the slack of 0 no longer rises.
            still = 0.0 if way.old[1] <= SLACK else min(1.0, way.old[1] / max(SLACK, way.old[1] - way.new[1]))
            return Moment(
                row, min(still, way.share_of(1, float(e.y[row] - e.y[row - 1]), rising=True)) if bumps else still
            )
        return None

    @cached_property
    def touch(self) -> Moment:
        """When the feet touch the ground, or where they never quite do, the end of the tick that counts as standing."""
        e, k = self.evidence, self.landing
        fell = float(e.y[k] - e.y[k - 1])
        if e.inside is None:
            would = float(e.vy[k - 1] + e.trace["ay"][k - 1] * (e.time[k] - e.time[k - 1])) * float(
                e.time[k] - e.time[k - 1]
            )
            return Moment(k, min(1.0, max(0.0, fell / would)) if would < 0 else 1.0)
        way = e.inside.way(k)
        return Moment(k, way.share_of(1, fell) if way.gone(1, 1.0) < fell - SLACK else 1.0)

    @property
    def landing_speed(self) -> float:
        """Downward speed at the touch, in u/s."""
        e, moment = self.evidence, self.touch
        if e.inside is not None:
            return -e.inside.way(moment.row).velocity(1, moment.share)
        dt = float(e.time[moment.row] - e.time[moment.row - 1])
        return float(-e.vy[moment.row - 1] - e.trace["ay"][moment.row - 1] * moment.share * dt)


def _share(before: float, after: float, level: float) -> float:
    return min(1.0, max(0.0, (level - before) / (after - before))) if after != before else 1.0
