"""The game's side of the link to Cinetica, to be copied: about a hundred lines, with python-osc and a socket.

The messages are those of docs/link.md. Call `receive` once in every frame, before the game reads its numbers and hands,
and `send_frame` after every tick. Nothing here waits.
"""

import contextlib
import random
import socket
import time
from collections.abc import Collection
from typing import Any

from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.osc_packet import OscPacket, ParseError

ROOT, VERSION = "/cinetica/", 1
KEYS = ("left", "right", "up", "down", "jump", "modifier", "dash")
# Hello goes out four times a second; a desk that is silent for a second is gone; what it has not confirmed is repeated.
HELLO, SILENCE, AGAIN = 0.25, 1.0, 0.05


class GameLink:
    """One socket. `game` has a name, a tick rate, units, its numbers, and a method for each request of the desk."""

    def __init__(self, game: Any, host: str = "127.0.0.1", port: int = 9471) -> None:
        self.game, self.desk = game, (host, port)
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.setblocking(False)
        self.run = random.randrange(1, 2**31)
        self.said_hello = self.heard = -10.0
        self.frame = self.last_request = self.changes = 0
        # The count of each number's newest value; the numbers changed here that the desk has not confirmed.
        self.counts: dict[str, int] = {}
        self.unconfirmed: dict[str, list[Any]] = {}
        self.tune, self.desk_name, self.desk_run = "", "", 0

    @property
    def linked(self) -> bool:
        """Whether the desk has been heard in the last second."""
        return time.monotonic() - self.heard < SILENCE

    # Sending

    def send(self, name: str, types: str = "", *values: Any) -> None:
        """Send a message, lost or not."""
        builder = OscMessageBuilder(ROOT + name)
        for kind, value in zip(types, values, strict=True):
            builder.add_arg(value, kind)
        with contextlib.suppress(OSError):
            self.socket.sendto(builder.build().dgram, self.desk)

    def send_frame(self, take: int, row: int, dt: float, keys: Collection[str], marks: Collection[str] = ()) -> None:
        """Send the body after a tick: `row` 0 is the start."""
        body, units = self.game.body, self.game.units
        self.frame += 1
        held = sum(1 << place for place, key in enumerate(KEYS) if key in keys)
        self.send("frame", "iiiddddddii", self.frame, take, row, self.game.time, dt, *units.place(body.x, body.y),
                  *units.velocity(body.vx, body.vy), int(body.grounded), held)  # fmt: skip
        for word in marks:
            self.send("mark", "is", self.frame, word)

    def change(self, name: str, value: float | str, who: str) -> None:
        """Tell the desk that a number was changed here; it is sent until the desk confirms it."""
        self.changes += 1
        self.unconfirmed[name] = [self.changes, value, who, -10.0]

    # Receiving

    def receive(self) -> None:
        """Say hello, repeat what is not confirmed, and do what the desk asks for."""
        now = time.monotonic()
        if now - self.said_hello >= HELLO:
            self.said_hello = now
            self.send("hello", "isdi", VERSION, self.game.name, self.game.tick_rate, self.run)
            names = list(self.game.numbers)
            for first in range(0, len(names), 20):
                some = names[first : first + 20]
                self.send("knows", "ii" + "s" * len(some), first, len(names), *some)
        for name, change in self.unconfirmed.items():
            if self.linked and now - change[3] >= AGAIN:
                change[3] = now
                kind = "d" if isinstance(change[1], float) else "s"
                self.send("changed", f"is{kind}s", change[0], name, change[1], change[2])
        while True:
            try:
                datagram, sender = self.socket.recvfrom(2048)
            except BlockingIOError:
                return
            except OSError:
                continue
            if sender != self.desk:
                continue
            try:
                messages = [each.message for each in OscPacket(datagram).messages]
            except (ParseError, ValueError, IndexError):
                continue
            for message in messages:
                if message.address.startswith(ROOT):
                    self.heard = now
                    self.take(message.address[len(ROOT) :], message.params)

    def take(self, name: str, values: list[Any]) -> None:
        """Do what one message says."""
        if name == "hello":
            if values[2] != self.desk_run:
                # A desk that has restarted counts from 1 again.
                self.desk_run, self.last_request, self.counts = values[2], 0, {}
            self.desk_name = values[1]
        elif name == "ping":
            self.send("pong", "i", values[0])
        elif name == "tune":
            self.tune = values[1]
            self.send("got", "i", values[0])
        elif name == "number":
            count, number, value = values
            # A late answer must not overwrite a newer one.
            if count > self.counts.get(number, 0):
                self.counts[number] = count
                self.game.set_number(number, value)
            self.send("got", "i", count)
        elif name == "took":
            self.unconfirmed = {name: each for name, each in self.unconfirmed.items() if each[0] != values[0]}
        elif name in ("reset", "solids", "pause", "step", "take", "hands", "play"):
            # Requests come one at a time; a repeated one was confirmed, but the desk has not received that.
            if values[0] > self.last_request:
                self.last_request = values[0]
                getattr(self.game, name)(*values[1:])
            self.send("done", "i", values[0])
        elif name == "bye":
            self.heard = -10.0

    def close(self) -> None:
        """Say goodbye."""
        self.send("bye")
        self.socket.close()
