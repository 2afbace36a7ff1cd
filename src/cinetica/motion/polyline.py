"""A polyline as two arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
# For longer lines, a sample is compared first.
SAMPLE = 1500


@dataclass(frozen=True, eq=False, slots=True)
class Points:
    """The x and y of a polyline: two read-only arrays of shape (n,)."""

    x: Numbers
    y: Numbers

    @property
    def count(self) -> int:
        """The number of points."""
        return len(self.x)

    def part(self, first: int, count: int) -> Points:
        """A contiguous part of the points."""
        if count == self.count:
            return self
        return Points(self.x[first : first + count], self.y[first : first + count])

    def equals(self, other: Points) -> bool:
        """Whether all points are equal; NaN equals NaN."""
        if self is other:
            return True
        # Lines over time can only differ in y.
        return self.count == other.count and _equal(self.y, other.y) and _equal(self.x, other.x)


def _equal(one: Numbers, other: Numbers) -> bool:
    step = 1 + one.size // SAMPLE
    if step > 1 and not _equal(one[::step], other[::step]):
        return False
    same = one == other
    return bool(same.all() or (same | (np.isnan(one) & np.isnan(other))).all())
