"""From the key to the picture: how long a player waits."""

from __future__ import annotations

import statistics
from collections import deque


class Waits:
    """The last waits, in s, each from a hand's move to the first picture of a tick that knew of it."""

    def __init__(self) -> None:
        self._since: float | None = None
        self._rows = 0
        self._taken: deque[float] = deque(maxlen=30)

    def begin(self, now: float, rows: int) -> None:
        """A hand has moved, with so many rows in the trace."""
        if self._since is None:
            self._since, self._rows = now, rows

    def end(self, now: float, rows: int) -> bool:
        """A picture was painted; whether it ends a wait."""
        if self._since is None or rows <= self._rows:
            return False
        self._taken.append(now - self._since)
        self._since = None
        return True

    def forget(self) -> None:
        """All keys are let go: nothing is waited for."""
        self._since = None

    def words(self, rate: float) -> list[str]:
        if not self._taken:
            return []
        wait = statistics.median(self._taken)
        return [f"key to picture {wait * 1e3:.0f} ms ({wait * rate:.1f} frames)"]
