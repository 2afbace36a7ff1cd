"""From key to picture: how long a player waits."""

from __future__ import annotations

import statistics
from collections import deque


class InputLatency:
    """The last waits, in s, each from an input to the first picture of a tick that used it."""

    def __init__(self) -> None:
        self._since: float | None = None
        self._rows = 0
        self._taken: deque[float] = deque(maxlen=30)

    def begin(self, now: float, rows: int) -> None:
        """Note an input, with this many rows in the trace."""
        if self._since is None:
            self._since, self._rows = now, rows

    def end(self, now: float, rows: int) -> bool:
        """Note that a picture was painted; returns whether that ends a wait."""
        if self._since is None or rows <= self._rows:
            return False
        self._taken.append(now - self._since)
        self._since = None
        return True

    def forget(self) -> None:
        """Stop waiting: all keys are released."""
        self._since = None

    def words(self, rate: float) -> list[str]:
        """The median wait in words; empty if there is none."""
        if not self._taken:
            return []
        wait = statistics.median(self._taken)
        return [f"key to picture {wait * 1e3:.0f} ms ({wait * rate:.1f} frames)"]
