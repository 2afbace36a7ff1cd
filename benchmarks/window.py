"""The window: every kind of drag from the mouse to the screen, a step of the cursor, the start, memory."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import pyqtgraph as pg

from benchmarks import drags
from benchmarks.kernel import hands_for
from cinetica.desk.application import application

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
from cinetica.files.shipped import shipped_study
from cinetica.desk.application import application, start
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
app = application()
window = Window(Session(shipped_study("harbour")))
window.show()
start(window)
app.processEvents()
assert window.session.shown and window.page.strips.strips[0].curves.drawn
"""


MEMORY = """
import resource
from cinetica.files.shipped import shipped_study
from cinetica.desk.application import application, start
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
app = application()
window = Window(Session(shipped_study("harbour")))
window.resize(1280, 800)
window.show()
start(window)
for _ in range(10):
    app.processEvents()
print(next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("VmRSS")))
"""
TWICE = """
from benchmarks import drags
window = drags.opened(drags.study_of_six(), "Rooftop hop")
for name, kind in drags.kinds().items():
    if name != "the tick rate":
        print(statistics.median(drags.taken(window, kind, 40).complete), name, sep="\\t")
"""
# The kinds of drag of which the worst is told.
HANDS = ("a press", "a stick step", "a course's edge")


class Dragged(NamedTuple):
    """What each kind of drag took, and, taken in turns with it, a bare repaint of as many points."""

    taken: dict[str, drags.Taken]
    bare: dict[str, list[float]]

    def worst(self, kinds: Sequence[str]) -> str:
        """Of these kinds the one whose median is greatest."""
        return max(kinds, key=lambda kind: statistics.median(self.taken[kind].complete))

    def ratio(self, kind: str) -> float:
        return statistics.median(self.taken[kind].complete) / statistics.median(self.bare[kind])


def dragged(count: int = 200, turns: int = 4) -> Dragged:
    """All kinds of drag with six tunes on the longest drill from the side, 1280×800."""
    window = drags.opened(drags.study_of_six(), "Rooftop hop")
    points = len(window.session.shown[0].trace)
    found = Dragged({}, {})
    for name, kind in drags.kinds().items():
        taken, bare = drags.Taken([], []), []
        for _ in range(turns):
            part = drags.taken(window, kind, count // turns)
            taken.painted.extend(part.painted)
            taken.complete.extend(part.complete)
            bare += bare_repaint(points, curves=6, plots=4, count=count // turns)
        found.taken[name], found.bare[name] = taken, bare
    drags.closed(window)
    return found


def many(count: int = 2000) -> float:
    """The longest of many moves of one number, with everything in the background: collector, autosave and log."""
    window = drags.opened(drags.study_of_six(), "Rooftop hop")
    taken = drags.taken(window, drags.kinds()["gravity.gravity"], count)
    drags.closed(window)
    return max(taken.complete)


def long_take(count: int = 30) -> tuple[list[float], list[float]]:
    """Six tunes, ten minutes at 120 ticks a second: top speed dragged, and a bare repaint of as many points."""
    study = drags.study_of_six()
    drill = study.drill("Rooftop hop").model_copy(update={"take": hands_for(72_000).model_copy(update={"rate": 120})})
    study = study.model_copy(update={"drills": (drill,), "clock": study.clock.model_copy(update={"tick_rate": 120})})
    window = drags.opened(study, drill.name)
    taken = drags.taken(window, drags.kinds()["drive.top_speed"], count)
    drags.closed(window)
    return taken.painted, bare_repaint(72_001, curves=6, plots=4, count=5)


def memory() -> float:
    """Megabytes of a process with the demo open."""
    done = subprocess.run([sys.executable, "-c", MEMORY], check=True, capture_output=True, text=True)
    return int(done.stdout) / 1024


def at_twice_the_scale() -> tuple[float, str]:
    """The worst median of all kinds of drag at 2560×1600 pixels of the device, in s, and its kind."""
    program = "import statistics\n" + TWICE
    done = subprocess.run(
        [sys.executable, "-c", program],
        check=True,
        capture_output=True,
        text=True,
        env={**os.environ, "QT_SCALE_FACTOR": "2"},
    )
    worst, name = max((float(line.split("\t")[0]), line.split("\t")[1]) for line in done.stdout.splitlines())
    return worst, name


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
    """Median seconds from the start of a process to its painted window, taken in turn; how it ends does not count."""
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
            begin = time.monotonic()
            # All processes see one and the same clock.
            timed = f"{program}\nimport time\nprint(time.monotonic())"
            done = subprocess.run([sys.executable, "-c", timed], check=True, capture_output=True, env=usual)
            took[name].append(float(done.stdout.split()[-1]) - begin)
    return {name: statistics.median(each) for name, each in took.items()}
