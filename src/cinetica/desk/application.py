"""Starting the window: fonts, look, and the kernel, which is compiled outside of the window's own process."""

from __future__ import annotations

import gc
import sys
from pathlib import Path

import pyqtgraph as pg
from PySide6.QtCore import QProcess, QTimer
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.session import Session
from cinetica.desk.settings import Settings
from cinetica.desk.window import Window
from cinetica.model.study import Study
from cinetica.motion.native import is_ready

PREPARING = "Preparing the motion kernel for this machine.\nThis happens once and takes about twenty seconds."


def application() -> QApplication:
    """The one QApplication, with our font."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("cinetica")
    app.setApplicationDisplayName("Cinetica")
    app.setStyle("Fusion")
    app.setFont(look.font(10))
    pg.setConfigOptions(antialias=True)
    return app


def open_window(study: Study | None, path: Path | None) -> Window:
    """A window whose kernel is loaded as soon as it is painted, or compiled first by another process."""
    window = Window(Session(study, path), settings=Settings())
    window.show()
    if is_ready():
        QTimer.singleShot(0, lambda: _start_for_good(window))
    else:
        window.page.say(PREPARING)
        _compile_aside(window)
    return window


def start(window: Window) -> None:
    """Load the kernel and show the traces."""
    window.session.start()
    window.session.drill_changed.emit()


def _start_for_good(window: Window) -> None:
    start(window)
    # What is loaded by now stays: the collector need not look at it again in the middle of a drag.
    gc.collect()
    gc.freeze()
    gc.enable()


def _compile_aside(window: Window) -> None:
    process = QProcess(window)
    process.finished.connect(lambda *_: _start_for_good(window))
    process.errorOccurred.connect(lambda *_: _start_for_good(window))
    process.start(sys.executable, ["-m", "cinetica.motion.warm"])


def run(study: Study | None, path: Path | None) -> int:
    """Open the window and stay until it is closed; the exit status."""
    app = application()
    window = open_window(study, path)
    window.raise_()
    return app.exec()


def picture_of(study: Study, path: Path, *, drill: str = "", cursor: int = 0, size: tuple[int, int] = (1280, 800)) -> None:
    """A picture of the window on a study, as a PNG."""
    app = application()
    window = Window(Session(study))
    window.resize(*size)
    window.show()
    start(window)
    if drill:
        window.session.choose_drill(drill)
    window.session.set_cursor(cursor)
    app.processEvents()
    window.grab().save(str(path))
    window.close()
