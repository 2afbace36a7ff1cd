"""Fewer points that look the same: what a screen cannot resolve need not be drawn."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Curve = tuple[NDArray[np.float64], NDArray[np.float64]]


def part_in_view(x: NDArray[np.float64], low: float, high: float) -> tuple[int, int]:
    """The part of sorted x between `low` and `high`, plus a point on either side: its start and length."""
    first = max(0, int(x.searchsorted(low)) - 1)
    last = min(len(x), int(x.searchsorted(high, side="right")) + 1)
    return first, last - first


def envelope(x: NDArray[np.float64], y: NDArray[np.float64], bins: int) -> Curve:
    """The least and the greatest y in each of `bins` parts of a curve over sorted x; short curves stay as they are."""
    if len(x) <= 4 * bins:
        return x, y
    starts = np.linspace(0, len(x), bins, endpoint=False).astype(np.int64)
    kept_x, kept_y = np.repeat(x[starts], 2), np.empty(2 * bins)
    kept_y[::2], kept_y[1::2] = np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)
    return np.append(kept_x, x[-1]), np.append(kept_y, y[-1])


def without_repeats(x: NDArray[np.float64], y: NDArray[np.float64], dx: float, dy: float) -> Curve:
    """A path without the points in the same cell, dx wide and dy high, as the one before; its ends stay."""
    if len(x) < 3:
        return x, y
    cells = np.round(x / dx), np.round(y / dy)
    moved = np.empty(len(x), dtype=bool)
    moved[1:] = (cells[0][1:] != cells[0][:-1]) | (cells[1][1:] != cells[1][:-1])
    moved[0] = moved[-1] = True
    return x[moved], y[moved]


def as_steps(x: NDArray[np.float64], y: NDArray[np.float64]) -> Curve:
    """Each sample held until the next."""
    return np.repeat(x, 2)[1:], np.repeat(y, 2)[:-1]
