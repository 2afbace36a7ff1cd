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
# So many standard errors are a range; so finely bounds are looked through.
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
    reach = _linear_reach(runs, best, off, slopes)
    found = []
    for place, each in enumerate(runs.free):
        low, high = _scanned(runs, best, place, off)
        # Others may make up for it: the valley may be longer than it looks along one number.
        low = max(0.0, min(low, best[place] - reach[place]))
        high = min(1.0, max(high, best[place] + reach[place]))
        lowest, highest = each.low + low * runs.width[place], each.low + high * runs.width[place]
        room = CLEAR * max(abs(value[place]), 1e-3 * runs.width[place])
        clear = bool(value[place] - lowest <= room and highest - value[place] <= room)
        at = "low" if best[place] <= AT_BOUND else "high" if best[place] >= 1.0 - AT_BOUND else ""
        found.append(Told(each, float(value[place]), float(lowest), float(highest), clear, at))
    return tuple(found)


def _linear_reach(runs: Runs, best: Numbers, off: float, slopes: Slopes) -> Numbers:
    """How far each share can move while the others make up for it as well as they can, to first order."""
    moving = ~runs.whole
    reach = np.zeros(len(best))
    if not moving.any():
        return reach
    steep = slopes(best, best[moving], moving)
    allowed = max(ERRORS * off, HAIR * runs.size * np.sqrt(runs.samples))
    # A direction in which nothing moves reaches across the bounds.
    _, sizes, ways = np.linalg.svd(steep, full_matrices=False)
    spread = np.where(sizes > 1e-9 * max(float(sizes.max(initial=0.0)), 1e-30), 1.0 / np.maximum(sizes, 1e-30), np.inf)
    with np.errstate(invalid="ignore"):
        along = np.where(np.abs(ways) > 1e-6, np.abs(ways) * spread[:, np.newaxis], 0.0)
    reach[moving] = np.minimum(1.0, allowed * np.sqrt(np.sum(along**2, axis=0)))
    return reach


def _scanned(runs: Runs, best: Numbers, place: int, off: float) -> tuple[float, float]:
    """The shares around the best between which the curve fits as well, all other numbers as they are."""
    allowed = np.hypot(off * np.sqrt(1.0 + ERRORS**2 / max(1, runs.samples)), HAIR * runs.size)
    near = np.concatenate([-np.geomspace(1e-4, 1.0, FINELY)[::-1], [0.0], np.geomspace(1e-4, 1.0, FINELY)])
    shares = np.clip(best[place] + near, 0.0, 1.0)
    tried = np.repeat(best[np.newaxis], len(shares), axis=0)
    tried[:, place] = shares
    fits = runs.costs(tried) <= allowed
    low = high = FINELY
    while low > 0 and fits[low - 1]:
        low -= 1
    while high < len(shares) - 1 and fits[high + 1]:
        high += 1
    return float(shares[low]), float(shares[high])
