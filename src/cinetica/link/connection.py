"""The connection for scripts: wait for a game, send it a tune, play a take in it, and record it.

from cinetica import read_study
from cinetica.link import listen

study = read_study("harbour.json")
with listen(study) as connection:
print(connection.wait(), "is linked")
connection.send("Wren")
log = connection.play("Quay sprint")
"""

from __future__ import annotations

import select
import time
from collections.abc import Callable
from types import TracebackType

from cinetica.link.conventions import logged_run, solids_of, start_of, values_of
from cinetica.link.desk_link import LOOPBACK, DeskLink, Event, LinkState
from cinetica.link.frames import Frame
from cinetica.link.messages import PORT
from cinetica.link.take_rows import rows_of, take_rows
from cinetica.model.milestone import Logged
from cinetica.model.study import Study

# How long a call may wait for the game, and how long it waits for a datagram before it checks the time, in s.
PATIENCE, PAUSE = 10.0, 0.01


class Connection:
    """A connection to one game, which it opens on `with`. Every call waits until the game has confirmed it."""

    def __init__(self, study: Study, port: int = PORT, host: str = LOOPBACK) -> None:
        self.study = study
        self.link = DeskLink(port, host, name=study.name)
        self.events: list[Event] = []

    def __enter__(self) -> Connection:
        self.link.open()
        return self

    def __exit__(self, *_: type[BaseException] | BaseException | TracebackType | None) -> None:
        self.link.close()

    def run(self, seconds: float, until: Callable[[], bool] = lambda: False) -> bool:
        """Send and receive for this many seconds, or until a condition holds; returns whether it does."""
        end = time.monotonic() + seconds
        while not until():
            left = end - time.monotonic()
            if left <= 0:
                return False
            select.select([self.link], [], [], min(PAUSE, left))
            self.events += self.link.receive()
            self.events += self.link.tick()
        return True

    def wait(self, seconds: float = PATIENCE) -> str:
        """Wait for a game; returns its name. TimeoutError if none comes."""
        if not self.run(seconds, lambda: self.link.state is LinkState.LINKED):
            raise TimeoutError(f"no game has said hello on port {self.link.port} in {seconds:g} s")
        assert self.link.peer is not None
        return self.link.peer.name

    def send(self, tune: str, seconds: float = PATIENCE) -> list[str]:
        """Make a tune live in the game; returns the numbers that it does not know.

        KeyError if there is no such tune.
        """
        self.link.show(tune, values_of(self.study.tune(tune), self.study.conventions))
        self._settle(seconds)
        return self.link.unknown

    def reset(self, drill: str, seconds: float = PATIENCE) -> None:
        """Put the body at the start of a drill, on its solids. KeyError if there is no such drill."""
        chosen = self.study.drill(drill)
        self.link.reset(start_of(self.study, chosen), solids_of(self.study, chosen))
        self._settle(seconds)

    def play(self, drill: str, seconds: float = PATIENCE) -> Logged:
        """Play the take of a drill in the game, from its start; returns the run as a log of that drill.

        Raises TimeoutError if the game does not get to the end in the length of the take and `seconds` more.
        """
        chosen = self.study.drill(drill)
        self.reset(drill, seconds)
        take = chosen.take
        rows = rows_of(take, self.link.peer.tick_rate if self.link.peer else take.rate)
        number = self.link.play(take_rows(take), take.rate, take.length)
        self._settle(seconds)

        def is_over() -> bool:
            last = self.link.frames.last
            return last is not None and last.take == number and last.row >= rows

        if not self.run(take.seconds + seconds, is_over):
            raise TimeoutError(f"the game has not played “{drill}” to its end")
        frames = [frame for frame in self.link.frames.run() if frame.row <= rows]
        return logged_run(frames, self.study, chosen, f"{self.game} on {drill}"[:100])

    def record(self, seconds: float) -> list[Frame]:
        """The frames of the next seconds."""
        last = self.link.frames.last
        first = last.number + 1 if last else 0
        self.run(seconds)
        return self.link.frames.since(first)

    @property
    def game(self) -> str:
        """The name of the game; empty without one."""
        return self.link.peer.name if self.link.peer else ""

    def _settle(self, seconds: float) -> None:
        if not self.run(seconds, lambda: self.link.is_settled):
            raise TimeoutError("the game does not confirm what it is sent")


def listen(study: Study, port: int = PORT, host: str = LOOPBACK) -> Connection:
    """A connection for a study, to be used with `with`; OSError there if the port is taken."""
    return Connection(study, port, host)
