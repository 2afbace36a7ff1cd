"""The link to a running game: how soon a number is there, and a minute of frames at 240 a second, in a window."""

from __future__ import annotations

import resource
import signal
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QApplication

from cinetica.desk.application import application
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.link.desk_link import DeskLink
from cinetica.model.tune import parameter_by_id
from cinetica.stand_in.game import StandIn, run_headless

WARMING = 10.0


class Linked:
    """A window with a stand-in game in a process of its own."""

    def __init__(self, tick_rate: int, game: Sequence[str] = ()) -> None:
        """`game`: what to run instead of the stand-in; the port is added."""
        self.app = application()
        self.window = Window(Session(shipped_study("harbour")))
        self.window.resize(1280, 800)
        self.window.session.start()
        self.window.show()
        self.window.session.choose_drill("Quay sprint")
        stand_in = [sys.executable, "-m", "cinetica", "stand-in", "--headless", "--tick-rate", str(tick_rate), "--port"]
        self._command = list(game) or stand_in
        free = DeskLink(0)
        free.open()
        self.window.game.connection.port = free.port
        free.close()
        self.window.game.turn()
        self.game = self.start()
        self.until(lambda: self.window.game.connection.linked)

    def start(self) -> subprocess.Popen[bytes]:
        """Start the game."""
        return subprocess.Popen([*self._command, str(self.window.game.connection.port)], stdout=subprocess.PIPE)

    def until(self, is_so: Callable[[], bool], seconds: float = 30.0) -> float:
        """Run Qt's event loop until something is so; returns how long it took, in s."""
        begin = time.perf_counter()
        while not is_so():
            QApplication.processEvents()
            if time.perf_counter() - begin > seconds:
                raise TimeoutError("it did not come about")
        return time.perf_counter() - begin

    def close(self) -> None:
        """End the game and the window."""
        self.game.kill()
        self.game.wait()
        self.window.session.undo_stack.setClean()
        self.window.close()


class _Timed(StandIn):
    """A game that writes down when it takes a number over."""

    def set_number(self, name: str, value: object) -> None:
        """Take it over."""
        super().set_number(name, value)
        print(name, value, time.monotonic(), flush=True)


def number_there(count: int = 200) -> tuple[list[float], list[float]]:
    """A number is dragged in the window: how long until the game uses it, and until the window is painted, in s."""
    linked = Linked(60, [sys.executable, "-m", "benchmarks.link"])
    session, link = linked.window.session, linked.window.game.connection.link
    assert link is not None
    linked.until(lambda: link.is_settled)
    sent, painted = {}, []
    session.begin("Top speed of Wren")
    for step in range(count):
        value = 5.0 + step / 100
        sent[f"{value}"] = begin = time.monotonic()
        session.set_value(session.study.tune("Wren"), parameter_by_id("drive.top_speed"), value)
        linked.until(lambda: link.is_settled)
        painted.append(time.monotonic() - begin)
    session.end()
    linked.close()
    assert linked.game.stdout is not None
    there = {value: float(at) for name, value, at in map(str.split, linked.game.stdout.read().decode().splitlines())
             if name == "top_speed"}  # fmt: skip
    return [there[value] - begin for value, begin in sent.items() if value in there], painted


@dataclass(frozen=True)
class Minute:
    """What a stretch of frames came to: lost ones, how long the window's event loop stood still, and memory."""

    frames: int
    lost: int
    stood_still: list[float]
    grown: float


class _Beat(QObject):
    """Notes how late a timer of 10 ms is."""

    def __init__(self) -> None:
        super().__init__()
        self.late: list[float] = []
        self._then = time.perf_counter()
        self._timer = QTimer(self, interval=10)
        self._timer.timeout.connect(self._note)
        self._timer.start()

    def _note(self) -> None:
        now = time.perf_counter()
        self.late.append(now - self._then - 0.010)
        self._then = now


def many_frames(seconds: float = 60.0, tick_rate: int = 240) -> Minute:
    """Frames of a game at this rate while the window shows its run, played again and again."""
    linked = Linked(tick_rate)
    connection = linked.window.game.connection
    link = connection.link
    assert link is not None
    linked.window.game.play()
    linked.until(lambda: link.is_settled)
    # What is made once has been made by then.
    begin = time.perf_counter()
    linked.until(lambda: time.perf_counter() - begin > WARMING)
    before, begun = _memory(), link.frames.last
    assert begun is not None
    beat, again = _Beat(), QTimer(interval=3000)
    again.timeout.connect(linked.window.game.play)
    again.start()
    end = time.perf_counter() + seconds
    linked.until(lambda: time.perf_counter() > end, seconds + 30)
    again.stop()
    last = link.frames.last
    assert last is not None
    result = Minute(last.number - begun.number, link.frames.lost, beat.late[5:], _memory() - before)
    linked.close()
    return result


def linked_again() -> tuple[float, float]:
    """From the end of a killed game, and of a killed desk, until both are linked again once they are back, in s."""
    linked = Linked(60)
    link = linked.window.game.connection.link
    assert link is not None
    assert link.peer is not None
    first = link.peer.run
    linked.game.send_signal(signal.SIGKILL)
    linked.game.wait()
    linked.game = linked.start()
    # Its own start is no part of it: it is linked as soon as it speaks and the other is silent.
    game = linked.until(lambda: link.peer is not None and link.peer.run != first)
    connection = linked.window.game.connection
    connection.turn(False)
    connection.turn(True, "Wren")
    desk = linked.until(lambda: connection.linked)
    linked.close()
    return game, desk


def _memory() -> float:
    """Memory of this process, in MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 2**20


def rows(seconds: float = 60.0) -> list[tuple[str, str, str]]:
    """The rows of docs/benchmarks.md."""
    (there, painted), minute, (game, desk) = number_there(), many_frames(seconds), linked_again()
    still = sorted(minute.stood_still)
    return [
        (
            "a number dragged in the window until the game uses it, median / worst of 200",
            f"{statistics.median(there) * 1e3:.1f} / {max(there) * 1e3:.1f} ms", "20 ms",
        ),
        ("the same, until it is confirmed and the window is painted, median",
         f"{statistics.median(painted) * 1e3:.1f} ms", ""),
        (f"{minute.frames} frames at 240 a second: lost", f"{minute.lost}", "0"),
        (
            "the window's event loop meanwhile: late by, median / 99th percentile / most",
            f"{statistics.median(still) * 1e3:.1f} / {still[int(0.99 * len(still))] * 1e3:.1f} /"
            f" {still[-1] * 1e3:.1f} ms", "16.7 ms",
        ),
        ("memory meanwhile", f"{minute.grown:+.1f} MB", "flat"),
        ("a killed game that is started again: linked after (its own start is in it)", f"{game:.2f} s", "2 s"),
        ("a desk that ended and is back: linked after", f"{desk:.2f} s", "2 s"),
    ]  # fmt: skip


if __name__ == "__main__":
    run_headless(_Timed(port=int(sys.argv[1])))
