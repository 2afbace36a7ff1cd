"""Play: the work of a frame, a live tick, and whether simulated and wall time stay together."""

from __future__ import annotations

import time
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from benchmarks.drags import check_size, settle
from cinetica.desk.application import application, start_session
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.editing import with_new_tune
from cinetica.motion.live import Held, LiveRun


class Played(NamedTuple):
    """Seconds of work per frame, pictures a second, and how many ticks simulated and real time differ at the end."""

    work: list[float]
    rate: float
    drift: float


def on_the_yard() -> Window:
    """One tune and three shadows, at 1280×800."""
    application()
    study = shipped_study("harbour")
    for number in range(2):
        study = with_new_tune(
            study, study.tune("Wren").put("drive.top_speed", 5.0 + number).model_copy(update={"name": f"Wren {number}"})
        )
    window = Window(Session(study))
    window.resize(1280, 800)
    window.show()
    start_session(window)
    settle()
    window.show_page("play_page")
    play = window.play
    play.courses.setCurrentIndex(1)
    play.begin()
    settle()
    check_size(window)
    return window


def played(seconds: float = 60.0) -> Played:
    """Play in real time, running and jumping."""
    window, app = on_the_yard(), application()
    play, pictures = window.play, [0]
    play.arena.painted.connect(lambda: pictures.__setitem__(0, pictures[0] + 1))
    work: list[float] = []
    # The timer's own frames are timed by their parts: what is due, and the painting that it posts.
    play.timer.stop()
    play.begin()
    begin = time.perf_counter()
    play.game.resume(begin)
    play.game.dropped = 0
    ticks, following = 0, begin
    while (at := time.perf_counter()) - begin < seconds:
        if at < following:
            QTest.qWait(1)
            continue
        following += 1 / 60
        right = int((at - begin) * 2) % 4 < 2
        for key, down in (
            (Qt.Key.Key_Right, right),
            (Qt.Key.Key_Left, not right),
            (Qt.Key.Key_Space, int((at - begin) * 4) % 5 == 0),
        ):
            (play.keyboard.press if down else play.keyboard.release)(key.value)
        before = time.perf_counter()
        ticks += play.game.advance_to(before)
        play._paint()
        app.sendPostedEvents()
        app.processEvents()
        work.append(time.perf_counter() - before)
    drift = abs((play.game._then - begin) * 60 - ticks - play.game._due - play.game.dropped)
    window.session.undo_stack.setClean()
    window.close()
    return Played(work, pictures[0] / seconds, drift)


def live_tick() -> float:
    """Best seconds of a tick of four tunes."""
    study = shipped_study("harbour")
    drill, wren, bramble = study.drill("Rooftop hop"), study.tune("Wren"), study.tune("Bramble")
    live = LiveRun([wren, bramble, wren, bramble], drill.course, drill.start, 60.0)
    held, took = Held(frozenset({"right"})), []
    for _ in range(20):
        begin = time.perf_counter()
        for _ in range(150):
            live.tick(held)
        took.append((time.perf_counter() - begin) / 150)
    return min(took)
