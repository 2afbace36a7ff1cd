"""The window: from a changed number to painted curves, a step of the cursor, and the start."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time

import numpy as np
import pyqtgraph as pg

from cinetica.cli import demo_study
from cinetica.desk.application import application, start
from cinetica.desk.session import Session
from cinetica.desk.window import Window
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
from cinetica.cli import demo_study
from cinetica.desk.application import application, start
from cinetica.desk.session import Session
from cinetica.desk.window import Window
app = application()
window = Window(Session(demo_study("harbour")))
window.show()
start(window)
app.processEvents()
assert window.session.shown and window.page.strips.strips[0].curves.items
"""


def settled(app: object, window: Window) -> None:
    for _ in range(10):
        app.processEvents()  # type: ignore[attr-defined]


def drags(count: int = 200) -> tuple[list[float], list[float], list[float], list[float]]:
    """Seconds from a changed number to painted curves, and to all that follows it; from a moved cursor to painted
    widgets; and of a bare repaint of as many points."""
    app = application()
    window = Window(Session(demo_study("harbour")))
    window.show()
    start(window)
    session = window.session
    session.choose_drill(max((drill for drill in session.study.drills if drill.view == "side"), key=lambda drill: drill.take.seconds).name)
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
    points = len(session.shown[0].trace)
    session.undo_stack.setClean()
    window.close()
    return changed, complete, stepped, bare_repaint(points, curves=2, plots=4, count=count)


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
    took: dict[str, list[float]] = {name: [] for name in programs}
    for _ in range(times):
        for name, program in programs.items():
            begin = time.perf_counter()
            subprocess.run([sys.executable, "-c", program], check=True, capture_output=True)
            took[name].append(time.perf_counter() - begin)
    return {name: statistics.median(each) for name, each in took.items()}
