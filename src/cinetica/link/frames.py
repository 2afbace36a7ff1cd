"""Frames received from the game, in order, with counts of lost, duplicate and late ones."""

from __future__ import annotations

from collections import deque
from typing import NamedTuple

import numpy as np

# Ten minutes at 240 frames a second are kept. A larger gap means that the game has restarted.
MOST_FRAMES, LARGEST_GAP, FIRST_ROOM = 147_456, 10_000, 18_432


class Frame(NamedTuple):
    """The body after a tick, in the game's conventions; `time` and `dt` in s, `keys` as a sum (`take_rows.BITS`).

    `row` counts the ticks since the body was put at its start, which is row 0; `take` is the take that is played, or 0.
    """

    number: int
    take: int
    row: int
    time: float
    dt: float
    x: float
    y: float
    vx: float
    vy: float
    grounded: int
    keys: int

    @property
    def begins(self) -> int:
        """The number of the frame in which its run began."""
        return self.number - self.row


# Plain numbers, which take a fifth of the memory of as many objects.
_WHOLE = ("number", "take", "row", "grounded", "keys")
_FRAME = np.dtype([(name, "i8" if name in _WHOLE else "f8") for name in Frame._fields])


class Frames:
    """The frames of a game since it was linked or restarted."""

    def __init__(self) -> None:
        self._table = np.zeros(FIRST_ROOM, dtype=_FRAME)
        self._missing: set[int] = set()
        self.restart()

    def restart(self) -> None:
        """Forget everything: the game counts from the beginning again."""
        self._count = 0
        # The number of the newest frame.
        self._last = 0
        self._missing.clear()
        self.received = self.doubled = self.late = 0
        self._times: deque[float] = deque(maxlen=1024)

    def add(self, frame: Frame, now: float) -> bool:
        """Add a frame received at a time, in s; returns whether it is new."""
        last = self._last if self._count else frame.number - 1
        gap = frame.number - last
        if abs(gap) > LARGEST_GAP:
            self.restart()
            gap, last = 1, frame.number - 1
        if gap <= 0:
            if frame.number not in self._missing:
                self.doubled += 1
                return False
            self._missing.discard(frame.number)
            self.late += 1
            self._put(frame, self._place_of(frame.number))
        else:
            self._missing.update(range(last + 1, frame.number))
            self._put(frame, self._count)
            self._last = frame.number
        self.received += 1
        self._times.append(now)
        return True

    def _put(self, frame: Frame, place: int) -> None:
        table, count = self._table, self._count
        if count == len(table) and count < MOST_FRAMES:
            self._table = table = np.concatenate([table, np.zeros_like(table)])
        elif count == len(table):
            # The oldest tenth goes.
            gone = count // 10
            table[: count - gone] = table[gone:].copy()
            count, place = count - gone, max(0, place - gone)
        table[place + 1 : count + 1] = table[place:count].copy()
        table[place] = frame
        self._count = count + 1

    def _place_of(self, number: int) -> int:
        """The index of the first frame with this number, or a greater one."""
        return int(np.searchsorted(self._table["number"][: self._count], number))

    def _frames(self, first: int, end: int) -> list[Frame]:
        return [Frame(*row) for row in self._table[first : min(end, self._count)].tolist()]

    @property
    def lost(self) -> int:
        """How many frames never came, so far."""
        return len(self._missing)

    def rate(self, now: float) -> float:
        """Frames in the last second."""
        return float(sum(1 for time in self._times if now - time <= 1.0))

    @property
    def last(self) -> Frame | None:
        """The newest frame."""
        return self._frames(self._count - 1, self._count)[0] if self._count else None

    def since(self, number: int, most: int | None = None) -> list[Frame]:
        """The frames from a number on, in order, up to a limit."""
        at = self._place_of(number)
        return self._frames(at, self._count if most is None else at + most)

    def run(self, most: int | None = None) -> list[Frame]:
        """The frames since the body was last put at its start, up to a limit."""
        last = self.last
        if last is None:
            return []
        return [frame for frame in self.since(last.begins, most) if frame.begins == last.begins]

    def newest(self, most: int) -> list[Frame]:
        """The latest frames, up to a limit."""
        return self._frames(max(0, self._count - most), self._count)

    def gaps(self, first: int, last: int) -> list[int]:
        """The numbers between two that are missing."""
        return sorted(number for number in self._missing if first <= number <= last)
