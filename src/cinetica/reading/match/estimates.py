"""How well a curve determines each number: how far it can move while the curve fits as well."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from cinetica.reading.match.runs import Free, Runs
from cinetica.reading.match.wanted import Numbers

# A curve that is off by at most this, in u for a body of the usual size, fits as well.
HAIR = 1e-3
# A number is determined if the range that fits is within this share of it to both sides.
DETERMINED = 0.02
# Standard errors to each side of an estimate; steps in which the way to a bound is sampled.
ERRORS, FINELY = 2.0, 60
AT_BOUND = 1e-3


@dataclass(frozen=True)
class Estimate:
    """A number, the range that fits as well, whether it is well determined, and the bound that it is at, if any."""

    free: Free
    value: float
    low: float
    high: float
    determined: bool
    bound: str = ""


Slopes = Callable[[Numbers, Numbers, Numbers], Numbers]


def estimates_of(runs: Runs, best: Numbers, off: float, slopes: Slopes) -> tuple[Estimate, ...]:
    """Estimate each free number at the best shares; `off` is the RMS of the residuals there, in u."""
    value = runs.values(best[np.newaxis])[0]
    allowed = float(np.hypot(off * np.sqrt(1.0 + ERRORS**2 / max(1, runs.samples)), HAIR * runs.size))
    low, high = best.copy(), best.copy()
    # Along each number by itself, and along the valleys in which others make up for it.
    ways = list(np.eye(len(best))) + _valleys(runs, best, off, slopes)
    for way in ways:
        for shares in _ends(runs, best, way, allowed):
            low, high = np.minimum(low, shares), np.maximum(high, shares)
    found = []
    for place, each in enumerate(runs.free):
        lowest, highest = each.low + low[place] * runs.width[place], each.low + high[place] * runs.width[place]
        room = DETERMINED * max(abs(value[place]), 1e-3 * runs.width[place])
        determined = bool(value[place] - lowest <= room and highest - value[place] <= room)
        at = "low" if best[place] <= AT_BOUND else "high" if best[place] >= 1.0 - AT_BOUND else ""
        found.append(Estimate(each, float(value[place]), float(lowest), float(highest), determined, at))
    return tuple(found)


def _valleys(runs: Runs, best: Numbers, off: float, slopes: Slopes) -> list[Numbers]:
    """For each number, the direction in which it can move farthest while others compensate, to first order."""
    moving = ~runs.whole
    if np.count_nonzero(moving) < 2:
        return []
    steep = slopes(best, best[moving], moving)
    # A number without effect cannot make up for others.
    felt = np.linalg.norm(steep, axis=0) > 1e-9 * max(1.0, float(np.linalg.norm(steep)))
    steep = steep[:, felt]
    if steep.shape[1] < 2:
        return []
    # The covariance of the fit; its columns are these directions.
    spread = np.linalg.pinv(steep.T @ steep, rcond=1e-12)
    places = np.flatnonzero(moving)[felt]
    ways = []
    for column in spread.T:
        way = np.zeros(len(best))
        way[places] = column / max(float(np.abs(column).max()), 1e-30)
        ways.append(way)
    return ways


def _ends(runs: Runs, best: Numbers, way: Numbers, allowed: float) -> list[Numbers]:
    """The farthest shares along a direction, both ways, at which the curve still fits as well."""
    far = np.geomspace(1e-4, 1.0, FINELY)
    ends = []
    for sign in (-1.0, 1.0):
        tried = np.clip(best + sign * far[:, np.newaxis] * way, 0.0, 1.0)
        fits = runs.costs(tried) <= allowed
        count = int(np.argmin(fits)) if not fits.all() else len(fits)
        if count:
            ends.append(tried[count - 1])
    return ends
