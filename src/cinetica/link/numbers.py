"""The numbers of the tune that is live, on their way to the game: what changed is sent again until it is confirmed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from cinetica.link.messages import Value

# Unconfirmed numbers are sent again after this many seconds, at most this many at once.
AGAIN, MOST_AT_ONCE = 0.05, 40


@dataclass
class _Sent:
    """A number that is not confirmed yet: its count, its value, and when it was sent last."""

    count: int
    value: Value
    at: float = -1.0


class Numbers:
    """The numbers by the game's names, and which of them the game may not have."""

    def __init__(self) -> None:
        self.tune = ""
        self.count = 0
        self._values: dict[str, Value] = {}
        self._pending: dict[str, _Sent] = {}
        self._tune: _Sent | None = None

    @property
    def values(self) -> Mapping[str, Value]:
        """The numbers that the game should have."""
        return self._values

    @property
    def is_settled(self) -> bool:
        """Whether the game has confirmed all of them."""
        return not self._pending and self._tune is None

    def show(self, tune: str, values: Mapping[str, Value]) -> None:
        """Make a tune with these numbers the live one; what is as before is not sent again."""
        if tune != self.tune:
            self.tune = tune
            self._tune = _Sent(self._next(), tune)
        for name in self._values.keys() - values.keys():
            self._pending.pop(name, None)
        for name, value in values.items():
            if name not in self._values or self._values[name] != value or type(self._values[name]) is not type(value):
                self._pending[name] = _Sent(self._next(), value)
        self._values = dict(values)

    def send_all(self) -> None:
        """Send everything again: the game has none of it."""
        self._tune = _Sent(self._next(), self.tune) if self.tune else None
        self._pending = {name: _Sent(self._next(), value) for name, value in self._values.items()}

    def confirm(self, count: int) -> None:
        """The game has the number that was sent with this count."""
        if self._tune is not None and self._tune.count == count:
            self._tune = None
        for name, sent in self._pending.items():
            if sent.count == count:
                del self._pending[name]
                return

    def due(self, now: float) -> Iterator[tuple[str, tuple[Value, ...]]]:
        """The messages to send now: their names and arguments."""
        if self._tune is not None and now - self._tune.at >= AGAIN:
            self._tune.at = now
            yield "tune", (self._tune.count, self.tune, len(self._values))
        waiting = [(name, sent) for name, sent in self._pending.items() if now - sent.at >= AGAIN]
        for name, sent in waiting[:MOST_AT_ONCE]:
            sent.at = now
            yield "number", (sent.count, name, sent.value)

    def _next(self) -> int:
        self.count += 1
        return self.count
