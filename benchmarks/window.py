"""The window: from a changed number to painted curves, a step of the cursor, and the start."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from typing import NamedTuple

import numpy as np
import pyqtgraph as pg

from benchmarks.kernel import hands_for
from cinetica.desk.application import application, start
from cinetica.desk.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.editing import with_new_tune
from cinetica.model.study import Study
from cinetica.model.tune import parameter_by_id

BARE = """
import {imports}
app = pg.mkQApp()
window = pg.PlotWidget()
window.plot([1, 2, 3])
window.resize(1280, 800)
window.show()
app.processEvents()
"""
OURS = """
import gc
gc.disable()  # as cinetica.__main__ does
from cinetica.files.shipped import shipped_study
from cinetica.desk.application import application, start
from cinetica.desk.session import Session
from cinetica.desk.window import Window
app = application()
window = Window(Session(shipped_study("harbour")))
window.show()
start(window)
app.processEvents()
assert window.session.shown and window.page.strips.strips[0].curves.drawn
"""


def settled(app: object, window: Window) -> None:
    for _ in range(10):
        app.processEvents()  # type: ignore[attr-defined]


class Taken(NamedTuple):
    """Seconds of each of many repeats: changed number to painted curves, to all that follows it, and a step of the cursor
    to painted; and a bare repaint of as many points."""

    changed: list[float]
    complete: list[float]
    stepped: list[float]
    bare: list[float]


def study_of_six() -> Study:
    """The demo study with six tunes for the side view."""
    study = shipped_study("harbour")
    for number in range(4):
        tune = study.tune("Wren").put("drive.top_speed", 4.0 + number).model_copy(update={"name": f"Wren {number}"})
        study = with_new_tune(study, tune)
    return study


def drags(study: Study, count: int = 200, *, ticks: int = 0) -> Taken:
    """On the longest demo drill; or, with `ticks`, on one of so many at 120 ticks/s."""
    app = application()
    drill = max((drill for drill in study.drills if drill.view == "side"), key=lambda drill: drill.take.seconds)
    if ticks:
        long = hands_for(ticks).model_copy(update={"rate": 120})
        drill = drill.model_copy(update={"take": long})
        study = study.model_copy(update={"drills": (drill,), "clock": study.clock.model_copy(update={"tick_rate": 120})})
    window = Window(Session(study))
    window.show()
    start(window)
    session = window.session
    session.choose_drill(drill.name)
    settled(app, window)
    parameter = parameter_by_id("drive.top_speed")
    session.begin("Top speed of Wren")
    changed, complete, stepped = [], [], []
    for number in range(count):
        begin = time.perf_counter()
        session.set_value(session.study.tune("Wren"), parameter, 6 + 0.01 * number)
        # What is posted by now is the painting of the stage and the strips; the figures follow on a timer.
        app.sendPostedEvents()
        changed.append(time.perf_counter() - begin)
        app.processEvents()
        complete.append(time.perf_counter() - begin)
    session.end()
    for number in range(count):
        begin = time.perf_counter()
        session.set_cursor(number % session.last_row)
        app.processEvents()
        stepped.append(time.perf_counter() - begin)
    points, curves = len(session.shown[0].trace), len(session.shown)
    session.undo_stack.setClean()
    window.close()
    return Taken(changed, complete, stepped, bare_repaint(points, curves=curves, plots=4, count=min(count, 400_000 // points)))


def bare_repaint(points: int, curves: int, plots: int, count: int) -> list[float]:
    """Seconds for plain pyqtgraph to show as many new points in as many plots of the same size."""
    app = application()
    layout = pg.GraphicsLayoutWidget()
    layout.resize(936, 700)
    x = np.arange(points) / 60
    drawn = []
    for number in range(plots):
        plot = layout.addPlot(row=number, col=0)
        drawn += [plot.plot(x, np.sin(x), pen=pg.mkPen("b", width=2)) for _ in range(curves)]
    layout.show()
    app.processEvents()
    took = []
    for number in range(count):
        begin = time.perf_counter()
        for curve in drawn:
            curve.setData(x, (1 + 0.001 * number) * np.sin(x))
        app.processEvents()
        took.append(time.perf_counter() - begin)
    layout.close()
    return took


def starts(times: int = 9) -> dict[str, float]:
    """Median seconds of a whole process from start to a painted window, taken in turn."""
    programs = {
        "bare": BARE.format(imports="pyqtgraph as pg"),
        "bare with NumPy and Numba": BARE.format(imports="numpy, numba, pyqtgraph as pg"),
        "ours": OURS,
    }
    # As on any desk, modules are compiled once and kept: those of the packages were when they were installed.
    usual = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    took: dict[str, list[float]] = {name: [] for name in programs}
    for _ in range(times):
        for name, program in programs.items():
            begin = time.perf_counter()
            subprocess.run([sys.executable, "-c", program], check=True, capture_output=True, env=usual)
            took[name].append(time.perf_counter() - begin)
    return {name: statistics.median(each) for name, each in took.items()}
