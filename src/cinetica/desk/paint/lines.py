"""Lines in pixels: their corners, and how they are cut into dashes.

The points of a line are complex numbers, x + iy, so that NumPy processes both coordinates at once.

Qt's own dash patterns begin with the line and go by its length, so dashes would run along a curve while a number is
dragged. Cut beforehand, a dash of a curve over time begins at a time.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Line = NDArray[np.complex128]
# A line of more periods than this crosses the view so often that it is drawn solid.
MOST_PERIODS = 20_000
# The sine of the angle by which a line may turn at a point and still count as straight.
STRAIGHT = 1e-7


def corners(line: Line) -> Line:
    """The ends of a line and the points at which it turns; `line` has shape (n,)."""
    if len(line) < 3:
        return line
    way = line[1:] - line[:-1]
    if not way.all():
        # A body that stands still: from a point to itself there is no direction to turn from.
        line = line[np.concatenate([[True], way != 0])]
        way = way[way != 0]
    # The real part is above 0 where the line continues; the imaginary part is how far it turns aside.
    turn, length = way[:-1].conj() * way[1:], np.abs(way)
    stays = np.ones(len(line), dtype=bool)
    stays[1:-1] = (np.abs(turn.imag) > STRAIGHT * length[:-1] * length[1:]) | (turn.real < 0)
    return line[stays]


def cut_into_dashes(line: Line, dashes: Sequence[float], *, cap: float = 0.0, origin: float | None = None) -> Line:
    """The straight segments of a line on which a dash pattern is on, as rows of their two ends, shape (m, 2).

    `line`: shape (n,), finite. `dashes`: alternating lengths on and off. `cap`: how far the pen's caps extend beyond an
    end; dashes are shortened by that at both ends, but never removed. With an `origin` the pattern begins there and
    goes by x, which must not decrease; without one it goes by length, from the beginning of the line.
    """
    way, period = line[1:] - line[:-1], float(sum(dashes))
    length = np.abs(way)
    along = np.empty(len(line))
    if origin is None:
        along[0], passed = 0.0, length
    else:
        # Along x, and where the line is steep by whole periods more: dashes there are not torn apart, and those behind
        # stay where they are.
        along[0], passed = line[0].real - origin, way.real + period * np.rint((length - way.real) / period)
    np.cumsum(passed, out=along[1:])
    along[1:] += along[0]
    if along[-1] - along[0] > MOST_PERIODS * period:
        return pieces_between(line)
    first, last = _lit(tuple(dashes), cap)
    periods = period * np.arange(along[0] // period, along[-1] // period + 1)
    ends = np.concatenate([periods + end for end in (*first, *last)])
    cuts = np.concatenate([along, ends[(ends > along[0]) & (ends < along[-1])]])
    cuts.sort()
    middle = (0.5 * (cuts[1:] + cuts[:-1])) % period
    is_on = np.zeros(len(middle), dtype=bool)
    for start, end in zip(first, last, strict=True):
        is_on |= (middle > start) & (middle < end)
    return pieces_between(np.interp(cuts, along, line))[is_on]


def _lit(dashes: tuple[float, ...], cap: float) -> tuple[list[float], list[float]]:
    """Where each dash of a pattern begins and ends, without its caps."""
    first, last, at = [], [], 0.0
    for lit, dark in zip(dashes[::2], dashes[1::2], strict=True):
        inner = min(cap, 0.49 * lit)
        first.append(at + inner)
        last.append(at + lit - inner)
        at += lit + dark
    return first, last


def pieces_between(line: Line) -> Line:
    """The straight segments between points, as rows of their two ends, shape (n - 1, 2)."""
    pieces = np.empty((max(0, len(line) - 1), 2), dtype=complex)
    pieces[:, 0], pieces[:, 1] = line[:-1], line[1:]
    return pieces
