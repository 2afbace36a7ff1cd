"""The frames that come from the game: put in order, with what was lost, doubled or late."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections import deque
from operator import attrgetter
from typing import NamedTuple

# Ten minutes at 240 frames a second are kept. A gap of more is a game that has begun anew.
MOST_FRAMES, LARGEST_GAP = 144_000, 10_000


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


class Frames:
    """The frames of a game since it was linked, or has begun anew."""

    def __init__(self) -> None:
        self._rows: list[Frame] = []
        self._missing: set[int] = set()
        self.begins_anew()

    def begins_anew(self) -> None:
        """Forget everything: the game counts from the beginning again."""
        self._rows.clear()
        self._missing.clear()
        self.received = self.doubled = self.late = 0
        self._times: deque[float] = deque(maxlen=1024)

    def add(self, frame: Frame, now: float) -> bool:
        """Take a frame that came at a time, in s; returns whether it is new."""
        last = self._rows[-1].number if self._rows else frame.number - 1
        gap = frame.number - last
        if abs(gap) > LARGEST_GAP:
            self.begins_anew()
            gap = 1
        if gap <= 0:
            if frame.number not in self._missing:
                self.doubled += 1
                return False
            self._missing.discard(frame.number)
            self.late += 1
            insort(self._rows, frame)
        else:
            self._missing.update(range(last + 1, frame.number))
            self._rows.append(frame)
        self.received += 1
        self._times.append(now)
        if len(self._rows) > MOST_FRAMES:
            del self._rows[: MOST_FRAMES // 10]
        return True

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
        return self._rows[-1] if self._rows else None

    def since(self, number: int, most: int | None = None) -> list[Frame]:
        """The frames from a number on, in order; at most so many."""
        at = bisect_left(self._rows, number, key=attrgetter("number"))
        return self._rows[at:] if most is None else self._rows[at : at + most]

    def run(self, most: int | None = None) -> list[Frame]:
        """The frames since the body was last put at its start; at most the first so many."""
        if not self._rows:
            return []
        begins = self._rows[-1].begins
        return [frame for frame in self.since(begins, most) if frame.begins == begins]

    def newest(self, most: int) -> list[Frame]:
        """The last frames, at most so many."""
        return self._rows[-most:]

    def gaps(self, first: int, last: int) -> list[int]:
        """The numbers between two that are missing."""
        return sorted(number for number in self._missing if first <= number <= last)
