"""Find where a game's log begins, its scale and its direction, by the best correlation with a trace.

The log is x′ = ox + k·x(t − start), y′ = oy ± k·y(t − start), with the same scale k on both axes. A coarse search
correlates the velocities at every whole tick; the best few starts are then refined between ticks on the positions.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
# Pixels per unit that games use, and the ratio within which a log of another tune is taken to be in such a scale.
USUAL_SCALES = (1, 8, 10, 16, 20, 24, 32, 48, 50, 64, 100, 128, 256)
LIKE = 1.25
# The share of the log's movement that may stay unexplained: in a proposal, and in a log of the very same movement.
UNLIKE, SAME = 0.2, 1e-4
# A less simple start (after the first row, or between two ticks) must leave at most this share of the residual.
BETTER = 0.5
SNAP = 0.005
CANDIDATES = 5
MOST_SAMPLES = 100_000
# Up to this many products, which take about a tenth of a second, shifts are correlated directly.
MOST_PRODUCTS = 400_000_000


@dataclass(frozen=True)
class Fit:
    """Where the drill starts in the log (s after the log's time 0), and how its positions read.

    `scale` is the number of the log's units in a world unit, `offset` what it shows where the trace has 0. `y_down` is
    None if neither moves up or down.
    `unexplained` is the share of the log's movement that the trace does not follow, 0 to 1.
    """

    start: float
    scale: float
    y_down: bool | None
    x_mirrored: bool
    offset: tuple[float, float]
    unexplained: float


@dataclass(frozen=True)
class _Matched:
    """Scale and signs by least squares at one start."""

    start: float
    scale: float
    signs: Mapping[str, float]
    unexplained: float


class _Pair:
    """A log and a trace, both as positions over time."""

    def __init__(self, time: Numbers, log: Mapping[str, Numbers], own: Numbers, trace: Mapping[str, Numbers]) -> None:
        self.time, self.own = time, own
        self.axes = [axis for axis in "xy" if axis in log]
        self.log, self.trace = log, trace
        self.tick = float(np.median(np.diff(own[:200])))

    def matched(self, start: float) -> _Matched | None:
        """Scale and signs at a start, in s of the log's clock; None where too little overlaps or nothing moves."""
        inside = (self.time >= start - self.tick / 2) & (self.time <= start + self.own[-1] + self.tick / 2)
        time = self.time[inside] - start
        # A log that is cut short is judged by what there is, if it covers half of the drill.
        if len(time) < 3 or time[-1] - time[0] < 0.5 * min(self.own[-1], self.time[-1] - self.time[0]):
            return None
        together, ours, theirs = {}, 0.0, 0.0
        for axis in self.axes:
            reference = np.interp(time, self.own, self.trace[axis])
            reference, logged = reference - reference.mean(), self.log[axis][inside] - self.log[axis][inside].mean()
            together[axis] = float(reference @ logged)
            ours += float(reference @ reference)
            theirs += float(logged @ logged)
        if ours <= 0 or theirs <= 0:
            return None
        common = sum(map(abs, together.values()))
        signs = {axis: float(np.sign(value)) for axis, value in together.items()}
        return _Matched(start, common / ours, signs, max(0.0, 1 - common * common / (ours * theirs)))

    def starts(self) -> list[float]:
        """The likeliest starts, at whole ticks, by the correlation of the velocities; best first."""
        count = min(MOST_SAMPLES, int((self.time[-1] - self.time[0]) / self.tick) + 1)
        even = self.time[0] + self.tick * np.arange(count)
        own = self.own[0] + self.tick * np.arange(int((self.own[-1] - self.own[0]) / self.tick) + 1)
        if count < 2 or len(own) < 2:
            # It lasts less than a tick: there is no velocity to compare.
            return []
        # One entry for each shift of the trace against the log.
        together, theirs = np.zeros(count + len(own) - 3), np.zeros(count + len(own) - 3)
        ours = 0.0
        for axis in self.axes:
            reference = np.diff(np.interp(own, self.own, self.trace[axis]))
            logged = np.diff(np.interp(even, self.time, self.log[axis]))
            together += np.abs(_correlated(logged, reference))
            ours += float(reference @ reference)
            theirs += _correlated(logged**2, np.ones(len(reference)))
        if ours <= 0 or not np.any(together):
            return []
        # Where the window contains hardly any of the log's movement, a high correlation means nothing.
        floor = 0.05 * float(np.max(theirs))
        likeness = np.where(theirs > floor, together / np.sqrt(ours * np.maximum(theirs, floor)), 0.0)
        best = np.argsort(-likeness, kind="stable")[:CANDIDATES]
        return [float(self.time[0] + (at - (len(own) - 2)) * self.tick) for at in best]

    def refined(self, near: float) -> _Matched | None:
        """The best start within a tick of one, between ticks."""
        from scipy.optimize import minimize_scalar

        def left(start: float) -> float:
            """The unexplained share at a start."""
            matched = self.matched(start)
            return matched.unexplained if matched else 1.0

        found = minimize_scalar(
            left, bounds=(near - self.tick, near + self.tick), method="bounded", options={"xatol": self.tick * 1e-4}
        )
        return self.matched(float(found.x))


def fit(time: Numbers, log: Mapping[str, Numbers], own: Numbers, trace: Mapping[str, Numbers]) -> Fit | None:
    """Fit a log's positions to a trace's; None if the log is like nothing in the trace.

    `time` (s, growing) and `log` are the log's rows, with x, y or both; `own` (s) and `trace` are the trace's, in
    world units. The simplest start that explains the log is preferred: its first row, then a whole tick, then any.
    """
    if not any(axis in log for axis in "xy"):
        return None
    pair = _Pair(time, log, own, trace)
    first = float(time[0])
    whole = [pair.matched(start) for start in pair.starts()]
    between = [pair.refined(each.start) for each in whole if each is not None]
    best: _Matched | None = None
    for group in ([pair.matched(first)], whole, between):
        candidate = min((each for each in group if each), key=lambda each: each.unexplained, default=None)
        if candidate and (best is None or candidate.unexplained < BETTER * best.unexplained - 1e-12):
            best = candidate
    if best is None or best.unexplained > UNLIKE:
        return None
    scale = _usual_scale(best.scale, best.unexplained)
    return Fit(
        best.start, scale, best.signs["y"] < 0 if best.signs.get("y") else None, best.signs.get("x", 1.0) < 0,
        _offset(pair, best, scale), best.unexplained,
    )  # fmt: skip


def _correlated(logged: Numbers, reference: Numbers) -> Numbers:
    """The full cross-correlation: one value for each shift.

    SciPy's, by FFT, is for long logs alone: it takes more than a second to load.
    """
    if len(logged) * len(reference) <= MOST_PRODUCTS:
        return np.correlate(logged, reference, "full")
    from scipy.signal import correlate

    return np.asarray(correlate(logged, reference))


def _usual_scale(scale: float, unexplained: float) -> float:
    """The usual scale that is meant: a log of another tune cannot tell its scale better than by its size."""
    nearest = float(min(USUAL_SCALES, key=lambda each: abs(math.log(scale / each))))
    within = 1 + SNAP if unexplained < SAME else LIKE
    return nearest if abs(math.log(scale / nearest)) <= math.log(within) else float(f"{scale:.4g}")


def _offset(pair: _Pair, best: _Matched, scale: float) -> tuple[float, float]:
    """What the log shows at the origin, so that both are in the same place when the drill starts."""
    at = max(best.start, float(pair.time[0]))
    offset = {"x": 0.0, "y": 0.0}
    for axis in pair.axes:
        logged = float(np.interp(at, pair.time, pair.log[axis]))
        ours = float(np.interp(at - best.start, pair.own, pair.trace[axis]))
        offset[axis] = logged - (best.signs[axis] or 1.0) * scale * ours
    return offset["x"], offset["y"]
