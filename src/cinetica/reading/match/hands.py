"""Presses reconstructed from a log that does not record them: from its jumps, starts and stops.

They are a reconstruction: a push that changes nothing, such as one against a wall, leaves no trace.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from cinetica.model.milestone import Logged
from cinetica.model.take import Keys, Press, Take

Numbers = NDArray[np.float64]
# A launch brings at least this share of the fastest rise at once, also where the hop is cut on its first tick; a body
# whose speed changes by less than this share of the greatest in a tick goes on as it is.
LAUNCH_SHARE, STEADY = 0.12, 1e-3
# On a line the direction changes by less than the first share in a tick, in more than the second of all ticks.
ALONG, STRAIGHT = 2e-3, 0.75
# A rise is cut where it slows down this many times as much as in the ticks before.
CUT = 1.6


def hands_of(log: Logged, view: str) -> Take:
    """Reconstruct a take from a log, at the log's rate and of its length."""
    time = np.array(log.time) - log.time[0]
    rate = float(f"{1.0 / float(np.median(np.diff(time))):.6g}")
    vx, vy = np.array(log.vx), np.array(log.vy)
    keys = {"left": _pushes(vx, -1), "right": _pushes(vx, 1)}
    if view == "side":
        keys["jump"] = tuple(_jumps(vx, vy))
    else:
        keys |= {"down": _pushes(vy, -1), "up": _pushes(vy, 1)}
    return Take(rate=min(max(rate, 1.0), 1000.0), length=max(1, len(time) - 1), keys=Keys(**keys))


def launch_rows(vx: Numbers, vy: Numbers) -> list[int]:
    """The rows in which a jump begins: an abrupt rise that is not a walk up a slope."""
    fastest = float(vy.max(initial=0.0))
    gained = np.diff(vy, prepend=vy[:1])
    found = np.flatnonzero((gained > LAUNCH_SHARE * fastest) & (vy > LAUNCH_SHARE * fastest)).tolist()
    # Adjacent rows are one launch: it lies between two rows of the log.
    apart = [row for place, row in enumerate(found) if not place or row - found[place - 1] > 1]
    return [row for row in apart if not _is_uphill(vx, vy, row)]


def _is_uphill(vx: Numbers, vy: Numbers, row: int) -> bool:
    """Whether a rise is a walk up a slope: nearly straight, where gravity would bend it."""
    top = _top(vy, row, len(vy))
    if top - row < 2 or np.any(np.abs(vx[row : top + 1]) < 1e-9):
        return False
    steep = vy[row : top + 1] / vx[row : top + 1]
    straight = np.abs(np.diff(steep)) <= ALONG * np.abs(steep).max()
    return float(straight.mean()) > STRAIGHT


def _top(vy: Numbers, row: int, end: int) -> int:
    """The last row of the rise that contains a row."""
    while row + 1 < end and vy[row + 1] > 0.0:
        row += 1
    return row


def _jumps(vx: Numbers, vy: Numbers) -> Iterator[Press]:
    rows = launch_rows(vx, vy)
    for place, row in enumerate(rows):
        end = rows[place + 1] if place + 1 < len(rows) else len(vy)
        # The hands of the tick that ends in a row are those of the frame before.
        yield Press(row - 1, max(row, _release(vy, row, end) - 1))


def _release(vy: Numbers, launch: int, end: int) -> int:
    """The row of the release: where the rise is cut or, if it is not, where the flight ends."""
    top = _top(vy, launch, end)
    slowed = -np.diff(vy[launch : top + 1])
    for k in range(len(slowed)):
        usual = float(np.median(slowed[:k])) if k else float(np.median(slowed))
        if slowed[k] > CUT * max(usual, 1e-12) and slowed[k] > 0.02 * vy[launch]:
            return launch + 1 + k
    # Nothing shows when it was released after the rise; the whole flight is safe.
    landing = top + 1
    while landing + 1 < end and vy[landing] < 0.0:
        landing += 1
    return landing


def _pushes(v: Numbers, sign: int) -> tuple[Press, ...]:
    """Presses toward one side: while the body speeds up that way, keeps its speed, or turns round."""
    still = STEADY * float(np.abs(v).max())
    gained = sign * np.diff(v, prepend=v[:1])
    goes = sign * v > still
    pushed = goes & (gained > -still)
    # A run that slows down and then goes the other way without a stop is pushed that way from where it slows down.
    for row in np.flatnonzero(pushed & ~np.concatenate([[False], pushed[:-1]])).tolist():
        at = row - 1
        while at > 0 and gained[at] > still and sign * v[at] <= still:
            at -= 1
        if at + 1 < row and sign * v[at] < -still:
            pushed[at + 1 : row] = True
    pushed[0] = False
    edges = np.flatnonzero(np.diff(np.concatenate([[False], pushed, [False]]).astype(np.int8)))
    # The tick that ends in a row has the hands of the frame before.
    return tuple(Press(int(start) - 1, int(end) - 1) for start, end in zip(edges[::2], edges[1::2], strict=True))
