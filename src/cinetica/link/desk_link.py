"""The desk's end of the link: a socket that never blocks, and the game that it is linked to.

Whoever owns it calls `receive` when something has come, and `tick` about fifty times a second. It knows no study: what
it sends and returns is in the game's conventions.
"""

from __future__ import annotations

import random
import socket
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NamedTuple

from cinetica.link.frames import Frame, Frames
from cinetica.link.messages import (
    FROM_DESK,
    FROM_GAME,
    LARGEST,
    PORT,
    VERSION,
    BadMessage,
    Value,
    decode,
    encode,
)
from cinetica.link.numbers import Numbers
from cinetica.link.take_rows import HandsRow

LOOPBACK = "127.0.0.1"
# In s: a game that is silent for this long is gone; how often it is pinged; when a request is repeated.
SILENCE, PING, AGAIN = 1.0, 0.25, 0.05
# The most datagrams read in one call, and the most processed in a second; the rest is dropped.
AT_ONCE, MOST_A_SECOND = 2000, 20_000
ROOM = 1 << 21
HANDS_IN_A_MESSAGE, SOLIDS_IN_A_MESSAGE, MOST_NAMES = 16, 24, 2000
Address = tuple[str, int]


class LinkState(StrEnum):
    """Off, waiting for a game, or linked."""

    OFF = "off"
    WAITING = "waiting"
    LINKED = "linked"


class Changed(NamedTuple):
    """A number was changed in the game, and by whom."""

    name: str
    value: Value
    who: str


class Marked(NamedTuple):
    """Something happened in a frame."""

    number: int
    word: str


class Linked(NamedTuple):
    """A game has come, or come back."""

    name: str


class Lost(NamedTuple):
    """The game is gone."""

    name: str


Event = Changed | Marked | Linked | Lost


@dataclass
class Peer:
    """The game that is linked."""

    address: Address
    run: int
    name: str
    tick_rate: float
    heard: float
    # The numbers that the game knows, as far as it has reported them.
    names: dict[int, str] = field(default_factory=dict)
    all_names: int | None = None

    @property
    def known(self) -> frozenset[str] | None:
        """The numbers that it knows; None until it has named them all."""
        complete = self.all_names is not None and len(self.names) == self.all_names
        return frozenset(self.names.values()) if complete else None


@dataclass
class Refusals:
    """What was not taken: malformed, from somebody who is not linked, or too much at once."""

    bad: int = 0
    foreign: int = 0
    flooded: int = 0
    # Why the last one was rejected, in words.
    last: str = ""


@dataclass
class _Request:
    number: int
    name: str
    arguments: tuple[Value, ...]
    at: float = -1.0


class DeskLink:
    """One socket, and at most one game."""

    def __init__(
        self, port: int = PORT, host: str = LOOPBACK, *, name: str = "", clock: Callable[[], float] = time.monotonic
    ) -> None:
        """`port` 0 takes a free one. `name` is the study's. `clock` gives s."""
        self.host, self.port, self.name, self._clock = host, port, name, clock
        self._run = random.SystemRandom().randrange(1, 2**31)
        self._socket: socket.socket | None = None
        self.peer: Peer | None = None
        self.numbers, self.frames, self.refusals = Numbers(), Frames(), Refusals()
        self.paused = False
        self._requests: deque[_Request] = deque()
        self._asked = self._takes = self._pings = 0
        self._pinged: dict[int, float] = {}
        self._pings_at = -1.0
        self._round_trips: deque[float] = deque(maxlen=20)
        # The counts of changes already applied, so that none is applied twice.
        self._taken: dict[str, int] = {}
        self._budget, self._budget_at = float(MOST_A_SECOND), clock()
        self.version_refused = 0

    # The socket

    def open(self) -> None:
        """Begin to listen; OSError if the port is taken or the host is not one of this machine's."""
        opened = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        try:
            opened.setblocking(False)
            opened.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, ROOM)
            opened.bind((self.host, self.port))
        except (OSError, OverflowError):
            opened.close()
            raise
        self._socket, self.port = opened, opened.getsockname()[1]

    def close(self) -> None:
        """Say goodbye, and stop listening."""
        if self._socket is not None:
            if self.peer is not None:
                self._send("bye")
            self._socket.close()
        self._socket, self.peer = None, None
        self._requests.clear()

    def fileno(self) -> int:
        """The file descriptor of the open socket."""
        assert self._socket is not None
        return self._socket.fileno()

    @property
    def state(self) -> LinkState:
        """Off, waiting for a game, or linked."""
        if self._socket is None:
            return LinkState.OFF
        return LinkState.LINKED if self.peer is not None else LinkState.WAITING

    @property
    def round_trip(self) -> float | None:
        """The median of the last round trips, in s."""
        known = sorted(self._round_trips)
        return known[len(known) // 2] if known else None

    @property
    def frames_a_second(self) -> float:
        """How many frames came in the last second."""
        return self.frames.rate(self._clock())

    # Requests to the game

    def show(self, tune: str, values: dict[str, Value]) -> None:
        """Make a tune with these numbers, by the game's names, the one that is live there."""
        self.numbers.show(tune, values)
        self._send_due()

    @property
    def unknown(self) -> list[str]:
        """The numbers of the tune that the game does not know."""
        known = self.peer.known if self.peer else None
        return [] if known is None else [name for name in self.numbers.values if name not in known]

    def reset(self, place: Sequence[float], solids: Sequence[Sequence[float]] = ()) -> None:
        """Put the body at a start (x, y, vx, vy, heading), on these solids (left, bottom, right, top)."""
        for first in range(0, len(solids), SOLIDS_IN_A_MESSAGE):
            some = solids[first : first + SOLIDS_IN_A_MESSAGE]
            self._ask("solids", first, len(solids), *(float(side) for solid in some for side in solid))
        self._ask("reset", *map(float, place))

    def play(self, rows: Sequence[HandsRow], rate: float, frames: int) -> int:
        """Play a take from the start that was given last; returns its number."""
        self._takes += 1
        self._ask("take", self._takes, float(rate), frames, len(rows))
        for first in range(0, len(rows), HANDS_IN_A_MESSAGE):
            some = rows[first : first + HANDS_IN_A_MESSAGE]
            self._ask("hands", self._takes, first, *(value for row in some for value in row))
        self._ask("play", self._takes)
        return self._takes

    def pause(self, on: bool) -> None:
        """Stop the game, or let it go on."""
        self.paused = on
        self._ask("pause", int(on))

    def step(self, ticks: int = 1) -> None:
        """Run this many ticks of the game, and pause it."""
        self.paused = True
        self._ask("step", ticks)

    @property
    def is_settled(self) -> bool:
        """Whether the game has confirmed all numbers and requests."""
        return not self._requests and self.numbers.is_settled

    def _ask(self, name: str, *arguments: Value) -> None:
        if self.peer is not None:
            self._asked += 1
            self._requests.append(_Request(self._asked, name, arguments))
            self._send_due()

    # Sending

    def tick(self) -> list[Event]:
        """Send what is due; returns what has happened by itself."""
        if self._socket is None or self.peer is None:
            return []
        now = self._clock()
        if now - self.peer.heard > SILENCE:
            return [self._lose()]
        if now - self._pings_at >= PING:
            self._pings_at = now
            self._pings += 1
            self._pinged = {ping: at for ping, at in self._pinged.items() if now - at < SILENCE} | {self._pings: now}
            self._send("ping", self._pings)
        self._send_due()
        return []

    def _send_due(self) -> None:
        if self._socket is None or self.peer is None:
            return
        now, known = self._clock(), self.peer.known
        for name, arguments in self.numbers.due(now):
            if name == "number" and known is not None and arguments[1] not in known:
                self.numbers.confirm(int(arguments[0]))
            else:
                self._send(name, *arguments)
        # One at a time, so that a game need not order them.
        if self._requests and now - self._requests[0].at >= AGAIN:
            first = self._requests[0]
            first.at = now
            self._send(first.name, first.number, *first.arguments)

    def _send(self, name: str, *arguments: Value) -> None:
        assert self._socket is not None
        if self.peer is not None:
            # Whatever does not fit into the buffers, or reaches nobody, is sent again.
            try:
                self._socket.sendto(encode(FROM_DESK[name], *arguments), self.peer.address)
            except OSError:
                return

    # Receiving

    def receive(self) -> list[Event]:
        """Read everything received, and return what has happened."""
        events: list[Event] = []
        for _ in range(AT_ONCE):
            if self._socket is None:
                break
            try:
                datagram, address = self._socket.recvfrom(LARGEST + 1)
            except BlockingIOError:
                break
            except OSError:
                # The reply of a closed port.
                continue
            now = self._clock()
            if not self._may_look(now):
                self.refusals.flooded += 1
                continue
            events += self._take(datagram, address, now)
        return events

    def _may_look(self, now: float) -> bool:
        self._budget = min(float(MOST_A_SECOND), self._budget + (now - self._budget_at) * MOST_A_SECOND)
        self._budget_at = now
        if self._budget < 1.0:
            return False
        self._budget -= 1.0
        return True

    def _take(self, datagram: bytes, address: Address, now: float) -> list[Event]:
        """Take the messages of a datagram; of somebody who is not linked only a hello."""
        try:
            messages = decode(datagram, FROM_GAME)
        except BadMessage as bad:
            self.refusals.bad += 1
            self.refusals.last = str(bad)
            return []
        events: list[Event] = []
        for name, arguments in messages:
            if name == "hello":
                events += self._greet(address, arguments, now)
            elif self.peer is None or address != self.peer.address:
                self.refusals.foreign += 1
            else:
                self.peer.heard = now
                events += self._handlers[name](self, arguments, now)
        return events

    def _greet(self, address: Address, arguments: list[Any], now: float) -> list[Event]:
        version, name, tick_rate, run = arguments
        if self.peer is not None and address != self.peer.address:
            self.refusals.foreign += 1
            return []
        if version != VERSION:
            self.version_refused = version
            return []
        self.version_refused = 0
        if self.peer is not None and run == self.peer.run:
            self.peer.heard, self.peer.name, self.peer.tick_rate = now, name, tick_rate
            self._send("hello", VERSION, self.name, self._run)
            return []
        self.peer = Peer(address, run, name, tick_rate, now)
        self.frames.restart()
        self._requests.clear()
        self._taken.clear()
        self._round_trips.clear()
        self.paused = False
        self._send("hello", VERSION, self.name, self._run)
        self.numbers.send_all()
        self._send_due()
        return [Linked(name)]

    def _lose(self) -> Event:
        assert self.peer is not None
        gone, self.peer = self.peer, None
        self._requests.clear()
        self._round_trips.clear()
        return Lost(gone.name)

    # Messages of the game

    def _knows(self, arguments: list[Any], _: float) -> list[Event]:
        assert self.peer is not None
        first, self.peer.all_names, *names = arguments
        if len(self.peer.names) + len(names) <= MOST_NAMES:
            self.peer.names |= dict(enumerate(names, first))
        return []

    def _frame(self, arguments: list[Any], now: float) -> list[Event]:
        self.frames.add(Frame(*arguments), now)
        return []

    def _mark(self, arguments: list[Any], _: float) -> list[Event]:
        return [Marked(*arguments)]

    def _got(self, arguments: list[Any], _: float) -> list[Event]:
        self.numbers.confirm(arguments[0])
        return []

    def _done(self, arguments: list[Any], _: float) -> list[Event]:
        if self._requests and self._requests[0].number == arguments[0]:
            self._requests.popleft()
            self._send_due()
        return []

    def _pong(self, arguments: list[Any], now: float) -> list[Event]:
        if (sent := self._pinged.pop(arguments[0], None)) is not None:
            self._round_trips.append(now - sent)
        return []

    def _changed(self, arguments: list[Any], _: float) -> list[Event]:
        count, name, value, who = arguments
        self._send("took", count)
        if self._taken.get(name, 0) >= count or len(self._taken) > MOST_NAMES:
            return []
        self._taken[name] = count
        return [Changed(name, value, who)]

    def _ask_all(self, _arguments: list[Any], _: float) -> list[Event]:
        self.numbers.send_all()
        self._send_due()
        return []

    def _bye(self, _arguments: list[Any], _: float) -> list[Event]:
        return [self._lose()]

    _handlers: dict[str, Callable[[DeskLink, list[Any], float], list[Event]]] = {  # noqa: RUF012
        "knows": _knows, "frame": _frame, "mark": _mark, "got": _got, "done": _done, "pong": _pong,
        "changed": _changed, "ask": _ask_all, "bye": _bye,
    }  # fmt: skip
