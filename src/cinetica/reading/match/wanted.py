"""The wanted curve: columns over time, each with its weight, from a log, another tune, or points drawn by hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from cinetica.model.milestone import Logged
from cinetica.motion.simulate import Trace

Numbers = NDArray[np.float64]
COLUMNS = ("x", "y", "vx", "vy")
# The fewest points of a curve, and the longest gap between two of them, in s.
FEWEST, LONGEST_GAP = 4, 1.0
FLAT = 1e-9
# A step is a leap if it is this many times the usual largest ones, and longer than this, in u.
LEAP, SHORTEST_LEAP = 8.0, 0.5


@dataclass(frozen=True, eq=False)
class Wanted:
    """Columns (u and u/s) at times (s from the drill's start, growing), with the weight of each; 0 does not count."""

    time: Numbers
    columns: Mapping[str, Numbers]
    weights: Mapping[str, float]

    @property
    def counted(self) -> list[str]:
        """The columns whose weight is not 0."""
        return [column for column in self.columns if self.weights.get(column, 0.0) > 0.0]

    def weighted(self, weights: Mapping[str, float]) -> Wanted:
        """The same curve with other weights."""
        return replace(self, weights=dict(weights))

    def moved(self, seconds: float) -> Wanted:
        """The same curve, later by some seconds."""
        return replace(self, time=self.time + seconds) if seconds else self

    def between(self, start: float, end: float) -> Wanted:
        """The part between two times, in s; ValueError if it has too few rows."""
        inside = (self.time >= start - FLAT) & (self.time <= end + FLAT)
        if np.count_nonzero(inside) < FEWEST:
            raise ValueError(f"Between {start:g} and {end:g} s the curve has fewer than {FEWEST} rows.")
        return replace(
            self, time=self.time[inside], columns={name: values[inside] for name, values in self.columns.items()}
        )


def check(wanted: Wanted) -> None:
    """Raise ValueError with a reason if nothing can be matched to this curve."""
    if len(wanted.time) < FEWEST:
        raise ValueError(f"The curve has {len(wanted.time)} rows; at least {FEWEST} are needed to match it.")
    if not wanted.counted:
        raise ValueError("No channel of the curve counts; give one a weight over 0.")
    for name, values in wanted.columns.items():
        if not np.isfinite(values).all():
            raise ValueError(f"The curve has gaps in {name}: every row needs a number.")
    steps = np.diff(wanted.time)
    if np.any(steps <= 0):
        raise ValueError("The times of the curve do not grow from row to row.")
    if steps.max() > LONGEST_GAP:
        at = float(wanted.time[int(steps.argmax())])
        raise ValueError(f"The curve has a gap of {steps.max():.2f} s after {at:.2f} s.")
    if all(np.ptp(wanted.columns[name]) < FLAT for name in wanted.counted):
        raise ValueError("The curve stays constant: nothing moves that a number could be found from.")
    if (leap := leap_of(wanted)) is not None:
        raise ValueError(
            f"The curve leaps by {leap[1]:.3g} u in a row, at {leap[0]:.2f} s: choose the part before it, or after it."
        )


def leap_of(wanted: Wanted) -> tuple[float, float] | None:
    """The time (s) and size (u) of a teleport: one step far larger than all others; None without one."""
    steps = np.zeros(len(wanted.time) - 1)
    for name in ("x", "y"):
        if name in wanted.columns:
            steps = np.hypot(steps, np.diff(wanted.columns[name]))
    if len(steps) < 2 * FEWEST:
        return None
    at = int(steps.argmax())
    usual = float(np.sort(steps)[-3])
    leaps = steps[at] > LEAP * max(usual, FLAT) and steps[at] > SHORTEST_LEAP
    return (float(wanted.time[at]), float(steps[at])) if leaps else None


def from_log(log: Logged, weights: Mapping[str, float] | None = None) -> Wanted:
    """Want the curve of a log, from its first row on. Derived columns count only if `weights` names them."""
    time = np.array(log.time) - log.time[0]
    columns = {name: np.array(getattr(log, name)) for name in COLUMNS}
    usual = {name: 0.0 if name in log.derived else 1.0 for name in COLUMNS}
    return Wanted(time, columns, dict(weights) if weights is not None else usual)


def from_trace(trace: Trace, weights: Mapping[str, float] | None = None) -> Wanted:
    """Want the curve of a tune's run."""
    columns = {name: np.array(trace[name], dtype=float) for name in COLUMNS}
    return Wanted(np.array(trace["time"]), columns, dict(weights or dict.fromkeys(COLUMNS, 1.0)))


def from_points(column: str, points: Sequence[tuple[float, float]], times: Numbers) -> Wanted:
    """A smooth curve through points (s, value) of one channel, at those of `times` that it spans.

    It has no bump that the points do not have (SciPy's PCHIP). ValueError with fewer than two points.
    """
    from scipy.interpolate import PchipInterpolator

    if len(points) < 2:
        raise ValueError("A drawn curve needs two points at least.")
    across, up = (np.array(each, dtype=float) for each in zip(*sorted(points), strict=True))
    inside = times[(times >= across[0] - FLAT) & (times <= across[-1] + FLAT)]
    # Points that differ by a denormal number overflow within SciPy: treat the curve as flat there.
    with np.errstate(over="ignore"):
        curve = PchipInterpolator(across, up)
    return Wanted(inside, {column: np.asarray(curve(inside))}, {column: 1.0})


def from_path(points: Sequence[tuple[float, float, float]], times: Numbers) -> Wanted:
    """A smooth path through points (s, x, y), at those of `times` that it spans; ValueError with fewer than two."""
    x = from_points("x", [(time, x) for time, x, _ in points], times)
    y = from_points("y", [(time, y) for time, _, y in points], times)
    return Wanted(x.time, {**x.columns, **y.columns}, {"x": 1.0, "y": 1.0})
