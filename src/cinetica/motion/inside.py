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
from cinetica.motion.native import bound, kernel
from cinetica.motion.records import STATE, TRACE, Ground, Records, empty_records, ground, tune_records
from cinetica.motion.simulate import Trace

# A tick is halved so often: to a millionth of it.
MOST_HALVINGS = 20
_POSITION_FIRST = code(Integrator.POSITION_FIRST)


@dataclass(frozen=True)
class Way:
    """How a body would go through a tick if nothing stopped it.

    `old` and `new` are its velocities (u/s) after the impulses and after the forces; between them velocity changes evenly.
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
        """The share of the tick after which so much of the way is gone, 0 to 1. A parabola may be there twice: rising, then falling."""
        old, new, h = self.old[axis], self.new[axis], self.h
        if self.integrator is not Integrator.MIDPOINT or old == new:
            whole = self.gone(axis, 1.0)
            return min(1.0, max(0.0, way / whole)) if whole else 0.0
        # a·t² + b·t = way with a = (new - old)·h/2, b = old·h, in the form in which nearly equal numbers are not subtracted.
        a, b = 0.5 * (new - old) * h, old * h
        q = -0.5 * (b + math.copysign(max(0.0, b * b + 4.0 * a * way) ** 0.5, b))
        times = [q / a, *([-way / q] if q else [])]
        within = [time for time in times if -1e-9 <= time <= 1.0 + 1e-9]
        return min(1.0, max(0.0, (min if rising else max)(within, default=1.0)))


class Inside:
    """The ticks of one trace, to be looked into. Not for a trace that a game has logged."""

    def __init__(self, trace: Trace) -> None:
        self.trace = trace
        self._hands, self._dts, _ = schedule(trace.drill.take, trace.clock)
        self._ways: dict[int, Way] = {}
        self._states: dict[int, Records] = {}

    @cached_property
    def _tune(self) -> Records:
        return tune_records([self.trace.tune])

    @cached_property
    def _course(self) -> Ground:
        return ground(self.trace.drill.course)

    def _before(self, row: int) -> Records:
        """The state before the tick that ends in this row (1 or later)."""
        found = self._states.get(row)
        if found is None:
            found = self._states[row] = empty_records(STATE, 1)
            x, y = self.trace.drill.start
            kernel()(found, self._tune, self._course, float(x), float(y), self._hands[:row], self._dts[:row], empty_records(TRACE, row))
        return found

    def _again(self, row: int, course: Ground, *, asks_old: bool = False) -> Callable[[float], None]:
        """That tick to be run again and again for a share of its length; it leaves the row that it ends in in `self.end`.

        `asks_old`: with the velocity before the forces as the way of the tick, so that the way tells it.
        """
        before, tune, dts = self._before(row), self._tune.copy(), self._dts[: row + 1].copy()
        state, rows, dt = before.copy(), empty_records(TRACE, row + 1), float(self._dts[row])
        rate = self.trace.tune.stepping.reference_rate if self.trace.tune.stepping.time_base is TimeBase.FRAMES else 0.0
        if asks_old:
            tune["integrator"] = _POSITION_FIRST
        run = bound(state, tune, course, 0.0, 0.0, self._hands[: row + 1].view(np.recarray), dts, rows)
        # Plain arrays: a record array takes a hundred times as long as the tick.
        copied, kept, rates = state.view(np.ndarray).view(np.uint8), before.view(np.ndarray).view(np.uint8), tune.view(np.ndarray)["reference_rate"]
        plain = rows.view(TRACE, np.ndarray)[row:]
        self.end = {name: plain[name] for name in ("x", "y", "vx", "vy")}

        def ran(share: float) -> None:
            copied[:] = kept
            dts[row] = dt * share
            if rate:
                rates[0] = rate / share
            run(row + 1, row)

        return ran

    def way(self, row: int) -> Way:
        """The way of the tick that ends in this row, if nothing stood in it."""
        found = self._ways.get(row)
        if found is None:
            before = self._before(row).view(np.ndarray)[0]
            self._again(row, _nothing(), asks_old=True)(1.0)
            x, y, vx, vy = (float(self.end[name][0]) for name in ("x", "y", "vx", "vy"))
            stepping = self.trace.tune.stepping
            h = 1.0 / stepping.reference_rate if stepping.time_base is TimeBase.FRAMES else float(self._dts[row])
            old = ((x - float(before["x"])) / h, (y - float(before["y"])) / h) if h else (0.0, 0.0)
            found = self._ways[row] = Way(old, (vx, vy), h, stepping.integrator)
        return found

    def gone_after(self, row: int, share: float) -> tuple[float, float]:
        """Way along x and y in u after a share (over 0) of that tick, with what stands in it: the tick is run for so long."""
        before = self._before(row).view(np.ndarray)[0]
        self._again(row, self._course)(share)
        return float(self.end["x"][0] - before["x"]), float(self.end["y"][0] - before["y"])

    def share_until(self, row: int, reached: Callable[[float, float], float]) -> float:
        """The share of that tick after which `reached` of the velocity (vx, vy in u/s), under 0 before, comes to 0.

        The law of motion itself says how velocity changes within a tick: the tick is run for a part of its length.
        """
        ran = self._again(row, self._course)
        vx, vy = self.end["vx"], self.end["vy"]

        def missing(share: float) -> float:
            ran(share)
            return reached(float(vx[0]), float(vy[0]))

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
    return Ground(none, none, none)
