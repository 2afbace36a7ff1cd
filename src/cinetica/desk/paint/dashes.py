"""Cutting a line into its dashes, so that a pattern can stay where it is while the line moves.

Qt's own dash patterns begin with the line and go by its length: while a number is dragged, dashes would run along the
curve. Cut beforehand, a dash of a curve over time begins at a time.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
# A line of more periods than this crosses the view so often that it is drawn solid.
MOST_PERIODS = 20_000


def cut_into_dashes(
    x: Numbers, y: Numbers, dashes: Sequence[float], *, cap: float = 0.0, origin: float | None = None
) -> Numbers:
    """The straight pieces of a line on which a dash pattern is on, as rows of x0, y0, x1, y1.

    `x`, `y`: the points of the line, shape (n,), finite. `dashes`: lengths on and off, in turn. `cap`: how far the
    pen's caps reach beyond an end; dashes are that much shorter at both ends, but never gone. With an `origin` the
    pattern begins there and goes by x, which must not fall; without one it goes by length, from the line's beginning.
    """
    dx, period = np.diff(x), float(sum(dashes))
    length = np.hypot(dx, np.diff(y))
    if origin is None:
        begin, passed = 0.0, length
    else:
        # Along x, and where the line is steep by whole periods more: dashes there are not torn apart, and those behind
        # stay where they are.
        begin, passed = x[0] - origin, dx + period * np.round((length - dx) / period)
    along = np.concatenate([[begin], begin + np.cumsum(passed)])
    if along[-1] - along[0] > MOST_PERIODS * period:
        return pieces_between(x, y)
    lit = np.array(dashes[::2], dtype=float)
    on = np.concatenate([[0.0], np.cumsum(dashes)[1:-1:2]])
    inner = np.minimum(cap, 0.49 * lit)
    first, last = on + inner, on + lit - inner
    periods = period * np.arange(np.floor(along[0] / period), np.floor(along[-1] / period) + 1)
    ends = (periods[:, np.newaxis] + np.concatenate([first, last])).ravel()
    cuts = np.concatenate([along, ends[(ends > along[0]) & (ends < along[-1])]])
    cuts.sort()
    middle = (0.5 * (cuts[1:] + cuts[:-1])) % period
    is_on = ((middle[:, np.newaxis] > first) & (middle[:, np.newaxis] < last)).any(axis=1)
    return pieces_between(np.interp(cuts, along, x), np.interp(cuts, along, y))[is_on]


def pieces_between(x: Numbers, y: Numbers) -> Numbers:
    """The straight pieces between points, as rows of x0, y0, x1, y1."""
    pieces = np.empty((max(0, len(x) - 1), 4))
    pieces[:, 0], pieces[:, 1], pieces[:, 2], pieces[:, 3] = x[:-1], y[:-1], x[1:], y[1:]
    return pieces
