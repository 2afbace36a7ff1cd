"""Points of a line where machine code finds them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import address_of_numbers

Numbers = NDArray[np.float64]
# Of so many points the bytes are compared, the quickest way to find a difference; of more a few first, and without a
# copy.
FEW = 1500


class Points:
    """x and y, kept with their places in memory, `at`: contiguous numbers, `count` of each."""

    __slots__ = ("_ends", "_table", "_x", "_y", "at", "count")

    def __init__(self, x: Numbers | list[float], y: Numbers | list[float]) -> None:
        kept_x, kept_y = np.ascontiguousarray(x, dtype=float), np.ascontiguousarray(y, dtype=float)
        self.count, self.at = len(kept_x), (address_of_numbers(kept_x), address_of_numbers(kept_y))
        self._x: Numbers | None = kept_x
        self._y: Numbers | None = kept_y
        # Where they are not yet at hand: the table, and the rows of both.
        self._table: tuple[Numbers, int, int] | None = None
        self._ends: tuple[float, float] | None = None

    @classmethod
    def in_table(
        cls, table: Numbers, place: int, x: int, y: int, ends: tuple[float, float] | None = None
    ) -> Points:  # fmt: skip
        """Those of two rows of a contiguous table, which lies at this place in memory: no array is made of them before
        one is asked for. `ends`: see there; where they are known."""
        made = cls.__new__(cls)
        made.count = table.shape[1]
        made.at = (place + 8 * made.count * x, place + 8 * made.count * y)
        made._table, made._x, made._y, made._ends = (table, x, y), None, None, ends
        return made

    @property
    def x(self) -> Numbers:
        if self._x is None:
            assert self._table is not None
            self._x = self._table[0][self._table[1]]
        return self._x

    @property
    def y(self) -> Numbers:
        if self._y is None:
            assert self._table is not None
            self._y = self._table[0][self._table[2]]
        return self._y

    @property
    def ends(self) -> tuple[float, float]:
        """The first and the last x; of no points 0 and 0."""
        if self._ends is None:
            self._ends = (self.x.item(0), self.x.item(-1)) if self.count else (0.0, 0.0)
        return self._ends

    @property
    def numbers(self) -> tuple[Numbers, Numbers]:
        return self.x, self.y

    def part(self, first: int, count: int) -> Points:
        """Some of them."""
        if count == self.count:
            return self
        made = type(self).__new__(type(self))
        made._x, made._y, made.count = self.x[first : first + count], self.y[first : first + count], count
        made.at, made._table, made._ends = (self.at[0] + 8 * first, self.at[1] + 8 * first), None, None
        return made

    def is_as(self, other: Points) -> bool:
        """Whether all are the same; NaN is as NaN."""
        if self is other or self.count != other.count:
            return self is other
        # What is other is mostly other in y.
        return _equal(self.y, other.y) and _equal(self.x, other.x)


def _equal(one: Numbers, other: Numbers) -> bool:
    if one is other:
        return True
    if one.size <= FEW:
        return one.tobytes() == other.tobytes()
    step = 1 + one.size // FEW
    return one[::step].tobytes() == other[::step].tobytes() and bool((one.view(np.int64) == other.view(np.int64)).all())
