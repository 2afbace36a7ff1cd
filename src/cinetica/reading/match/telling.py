"""Which numbers a curve can tell: how far each can move while the curve fits as well."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from cinetica.reading.match.runs import Free, Runs
from cinetica.reading.match.wanted import Numbers

# A curve that is off by no more than this, in u for a body of the usual size, fits as well.
HAIR = 1e-3
# A number is told if the range that fits is within this share of it to both sides.
CLEAR = 0.02
# So many standard errors are a range; so finely a way is looked along.
ERRORS, FINELY = 2.0, 60
AT_BOUND = 1e-3


@dataclass(frozen=True)
class Told:
    """A number: its value, the range that fits as well, whether that tells it, and the bound that it is at, if any."""

    free: Free
    value: float
    low: float
    high: float
    clear: bool
    bound: str = ""


Slopes = Callable[[Numbers, Numbers, Numbers], Numbers]


def told_by(runs: Runs, best: Numbers, off: float, slopes: Slopes) -> tuple[Told, ...]:
    """What the curve tells of each free number at the best shares, whose runs are `off` (u, root mean square)."""
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
        room = CLEAR * max(abs(value[place]), 1e-3 * runs.width[place])
        clear = bool(value[place] - lowest <= room and highest - value[place] <= room)
        at = "low" if best[place] <= AT_BOUND else "high" if best[place] >= 1.0 - AT_BOUND else ""
        found.append(Told(each, float(value[place]), float(lowest), float(highest), clear, at))
    return tuple(found)


def _valleys(runs: Runs, best: Numbers, off: float, slopes: Slopes) -> list[Numbers]:
    """For each number the way in which it moves farthest while the others make up for it, to first order."""
    moving = ~runs.whole
    if np.count_nonzero(moving) < 2:
        return []
    steep = slopes(best, best[moving], moving)
    # What moves nothing by itself makes up for nothing.
    felt = np.linalg.norm(steep, axis=0) > 1e-9 * max(1.0, float(np.linalg.norm(steep)))
    steep = steep[:, felt]
    if steep.shape[1] < 2:
        return []
    # The covariance of a fit: its columns are these ways.
    spread = np.linalg.pinv(steep.T @ steep, rcond=1e-12)
    places = np.flatnonzero(moving)[felt]
    ways = []
    for column in spread.T:
        way = np.zeros(len(best))
        way[places] = column / max(float(np.abs(column).max()), 1e-30)
        ways.append(way)
    return ways


def _ends(runs: Runs, best: Numbers, way: Numbers, allowed: float) -> list[Numbers]:
    """How far one can go along a way, in both directions, while the curve fits as well."""
    far = np.geomspace(1e-4, 1.0, FINELY)
    ends = []
    for sign in (-1.0, 1.0):
        tried = np.clip(best + sign * far[:, np.newaxis] * way, 0.0, 1.0)
        fits = runs.costs(tried) <= allowed
        count = int(np.argmin(fits)) if not fits.all() else len(fits)
        if count:
            ends.append(tried[count - 1])
    return ends
