"""Cutting a line into its dashes, so that a pattern can stay where it is while the line moves.

Qt's own dash patterns begin with the line and go by its length: while a number is dragged, dashes would run along the
curve. Cut beforehand, a dash of a curve over time begins at a time.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
# A piece that rises by more than this share of its width is steep: its dashes go by its length.
STEEP = 0.7


def cut_into_dashes(
    pieces: Numbers,
    starts: NDArray[np.bool_],
    dashes: Sequence[float],
    *,
    cap: float = 0.0,
    origin: float | None = None,
) -> Numbers:
    """The parts of straight pieces on which a dash pattern is on.

    `pieces`: shape (n, 4), rows of x0, y0, x1, y1, each beginning where the one before ends, unless `starts` says that
    it begins a line of its own. `dashes`: lengths on and off, in turn. `cap`: how far the pen's caps reach beyond an
    end; dashes are that much shorter at both ends. With an `origin` the pattern goes by x and begins there, but along
    steep pieces, where it goes on by length; without one it goes by the length of each line.

    Returns rows of x0, y0, x1, y1, shape (m, 4).
    """
    delta = pieces[:, 2:] - pieces[:, :2]
    length = np.hypot(delta[:, 0], delta[:, 1])
    kept = length > 0
    pieces, delta, length, starts = pieces[kept], delta[kept], length[kept], starts[kept]
    if not len(pieces):
        return pieces
    begin, extent = _along_pattern(pieces, delta, length, starts, origin)
    period = float(sum(dashes))
    # Caps are as long as the pen is wide; along x a slanted piece is passed faster.
    short = cap * extent / length
    found, on = [], 0.0
    for lit, dark in zip(dashes[::2], dashes[1::2], strict=True):
        # The periods whose dash this piece meets.
        first = np.floor((begin - on - lit) / period).astype(np.int64) + 1
        last = np.ceil((begin + extent - on) / period).astype(np.int64) - 1
        count = np.maximum(last - first + 1, 0)
        piece = np.repeat(np.arange(len(pieces)), count)
        number = np.arange(len(piece)) - np.repeat(np.cumsum(count) - count, count) + first[piece]
        dash = number * period + on
        # A dash that is no longer than its caps is a dot in its middle.
        inner = np.minimum(short[piece], 0.499 * lit)
        start = np.maximum(begin[piece], dash + inner)
        end = np.minimum(begin[piece] + extent[piece], dash + lit - inner)
        there = end > start
        piece, start, end = piece[there], start[there], end[there]
        share = (np.stack([start, end], axis=1) - begin[piece, np.newaxis]) / extent[piece, np.newaxis]
        ends = pieces[piece, np.newaxis, :2] + share[:, :, np.newaxis] * delta[piece, np.newaxis]
        found.append(ends.reshape(-1, 4))
        on += lit + dark
    return np.concatenate(found)


def _along_pattern(
    pieces: Numbers, delta: Numbers, length: Numbers, starts: NDArray[np.bool_], origin: float | None
) -> tuple[Numbers, Numbers]:
    """Where each piece begins in the pattern, and how much of the pattern it passes."""
    number = np.arange(len(pieces))
    line = np.maximum.accumulate(np.where(starts, number, 0))
    if origin is None:
        passed = np.cumsum(length) - length
        return passed - passed[line], length
    flat = np.abs(delta[:, 1]) < STEEP * delta[:, 0]
    passed = np.cumsum(np.where(flat, 0.0, length))
    # A steep piece goes on from the last flat one before it, or from the beginning of its line.
    before = np.maximum.accumulate(np.where(flat, number, -1))
    before = np.concatenate([[-1], before[:-1]])
    goes_on = before >= line
    known = np.where(goes_on, pieces[before, 2] - origin, pieces[line, 0] - origin)
    gone = passed - length - np.where(goes_on, passed[before], passed[line] - np.where(flat[line], 0.0, length[line]))
    return np.where(flat, pieces[:, 0] - origin, known + gone), np.where(flat, delta[:, 0], length)
