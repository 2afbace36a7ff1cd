"""What happens inside one tick of a trace: asked of the kernel itself, by running that tick again, whole or in part."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from cinetica.model.parameters import code
from cinetica.model.tune import Integrator, TimeBase
from cinetica.motion.clock import schedule
from cinetica.motion.native import bound
from cinetica.motion.records import STATE, TRACE, Ground, Records, empty_records, ground, tune_records
from cinetica.motion.simulate import Trace

# A tick is halved so often: to a millionth of it.
MOST_HALVINGS = 20
_POSITION_FIRST = code(Integrator.POSITION_FIRST)


@dataclass(frozen=True)
class Way:
    """How a body would go through a tick if nothing stopped it.

    `old` and `new` are its velocities (u/s) after the impulses and after the forces; between them velocity changes
    evenly.
    `h` is the tick's length for the rules, in s.
    """

    old: tuple[float, float]
    new: tuple[float, float]
    h: float
    integrator: Integrator

    def gone(self, axis: int, share: float) -> float:
        """Way along an axis after a share (0 to 1) of the tick, in u: straight, or with `midpoint` a parabola."""
        old, new = self.old[axis], self.new[axis]
        if self.integrator is Integrator.MIDPOINT:
            return (old + 0.5 * (new - old) * share) * share * self.h
        return (old if self.integrator is Integrator.POSITION_FIRST else new) * share * self.h

    def velocity(self, axis: int, share: float) -> float:
        return self.old[axis] + (self.new[axis] - self.old[axis]) * share

    def still_at(self, axis: int) -> float | None:
        """The share of the tick after which the velocity along an axis is 0; None if it never is."""
        old, new = self.old[axis], self.new[axis]
        if old == 0.0:
            return 0.0
        return old / (old - new) if old * new <= 0.0 else None

    def share_of(self, axis: int, way: float, *, rising: bool = False) -> float:
        """The share of the tick after which so much of the way is gone, 0 to 1. A parabola may be there twice: rising,
        then falling."""
        old, new, h = self.old[axis], self.new[axis], self.h
        if self.integrator is not Integrator.MIDPOINT or old == new:
            whole = self.gone(axis, 1.0)
            return min(1.0, max(0.0, way / whole)) if whole else 0.0
        # a·t² + b·t = way with a = (new - old)·h/2, b = old·h, in the form in which nearly equal numbers are not
        # subtracted.
        a, b = 0.5 * (new - old) * h, old * h
        q = -0.5 * (b + math.copysign(max(0.0, b * b + 4.0 * a * way) ** 0.5, b))
        times = [q / a, *([-way / q] if q else [])]
        within = [time for time in times if -1e-9 <= time <= 1.0 + 1e-9]
        return min(1.0, max(0.0, (min if rising else max)(within, default=1.0)))


class _Again:
    """A run on arrays of its own, of which any tick can be run again, for any share of its length."""

    def __init__(self, trace: Trace, tune: Records, course: Ground) -> None:
        hands, dts, _ = schedule(trace.drill.take, trace.clock)
        x, y = trace.drill.start
        self._state, self._rows, self._dts = empty_records(STATE, 1), empty_records(TRACE, len(dts)), dts.copy()
        self._lengths = dts
        self._run = bound(self._state, tune, course, float(x), float(y), hands, self._dts, self._rows)
        # Plain arrays: a record array takes a hundred times as long as the tick.
        self._bytes, self._plain = self._state.view(np.ndarray).view(np.uint8), self._rows.view(TRACE, np.ndarray)
        self._rates = tune.view(np.ndarray)["reference_rate"]
        stepping = trace.tune.stepping
        self._rate = 0.0 if stepping.time_base is TimeBase.SECONDS else stepping.reference_rate

    def before(self, row: int) -> Records:
        """The state before the tick that ends in this row: all before it is run."""
        self._bytes[:] = 0
        self._run(row, 0)
        return self._state.copy()

    def tick(self, row: int, before: Records, share: float = 1.0) -> tuple[float, float, float, float]:
        """x, y, vx and vy after a share of that tick."""
        self._bytes[:] = before.view(np.ndarray).view(np.uint8)
        self._dts[row] = self._lengths[row] * share
        if self._rate:
            self._rates[0] = self._rate / share
        self._run(row + 1, row)
        self._dts[row] = self._lengths[row]
        if self._rate:
            self._rates[0] = self._rate
        end = self._plain[row]
        return float(end["x"]), float(end["y"]), float(end["vx"]), float(end["vy"])


class Inside:
    """The ticks of one trace, to be looked into. Not for a trace that a game has logged."""

    def __init__(self, trace: Trace) -> None:
        self.trace = trace
        self._ways: dict[int, Way] = {}
        self._states: dict[int, Records] = {}

    @cached_property
    def _as_it_was(self) -> _Again:
        return _Again(self.trace, tune_records([self.trace.tune]), ground(self.trace.drill.course))

    @cached_property
    def _unhindered(self) -> _Again:
        """Without a course, and with the velocity before the forces as the way of the tick, so that the way tells
        it."""
        tune = tune_records([self.trace.tune])
        tune["integrator"] = _POSITION_FIRST
        return _Again(self.trace, tune, _nothing())

    def _before(self, row: int) -> Records:
        """The state before the tick that ends in this row (1 or later)."""
        found = self._states.get(row)
        if found is None:
            found = self._states[row] = self._as_it_was.before(row)
        return found

    def way(self, row: int) -> Way:
        """The way of the tick that ends in this row, if nothing stood in it."""
        found = self._ways.get(row)
        if found is None:
            before = self._before(row).view(np.ndarray)[0]
            x, y, vx, vy = self._unhindered.tick(row, self._before(row))
            stepping = self.trace.tune.stepping
            h = 1.0 / stepping.reference_rate if stepping.time_base is TimeBase.FRAMES else float(self.trace["dt"][row])
            old = ((x - float(before["x"])) / h, (y - float(before["y"])) / h) if h else (0.0, 0.0)
            found = self._ways[row] = Way(old, (vx, vy), h, stepping.integrator)
        return found

    def gone_after(self, row: int, share: float) -> tuple[float, float]:
        """Way along x and y in u after a share (over 0) of that tick, with what stands in it: the tick is run for so
        long."""
        before = self._before(row).view(np.ndarray)[0]
        x, y, _, _ = self._as_it_was.tick(row, self._before(row), share)
        return x - float(before["x"]), y - float(before["y"])

    def share_until(self, row: int, reached: Callable[[float, float], float]) -> float:
        """The share of that tick after which `reached` of the velocity (vx, vy in u/s), under 0 before, comes to 0.

        The law of motion itself says how velocity changes within a tick: the tick is run for a part of its length.
        """
        before = self._before(row)

        def missing(share: float) -> float:
            return reached(*self._as_it_was.tick(row, before, share)[2:])

        low, high, at_high = 0.0, 1.0, missing(1.0)
        if at_high <= 0.0:
            return 1.0
        for _ in range(MOST_HALVINGS):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if missing(middle) < 0.0 else (low, middle)
        return high


@cache
def _nothing() -> Ground:
    """A course without anything in it."""
    none = np.zeros((0, 4))
    return Ground(none, none, none, np.zeros((0, 6)))
