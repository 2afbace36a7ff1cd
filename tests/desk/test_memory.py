"""What windows leave in memory, and how Python's collector is used."""

import gc
import os
import subprocess
import sys
import weakref

import pytest
import shiboken6
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from cinetica.desk import application
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study

FREEZE = application.freeze_live_objects
DEMO = shipped_study("harbour")


@pytest.fixture(autouse=True)
def collector_at_work(collector_at_rest, monkeypatch):
    monkeypatch.setattr(application, "freeze_live_objects", FREEZE)
    yield
    FREEZE()


def test_objects_loaded_at_start_are_frozen_for_the_collector(windows, qtbot):
    """Neither the first window nor one opened later unfreezes them."""
    for _ in range(2):
        window = windows.open(DEMO, None)
        qtbot.waitUntil(lambda window=window: bool(window.session.shown))
        trace = window.session.shown[0].trace
        qtbot.waitUntil(lambda trace=trace: not any(each is trace for each in gc.get_objects()))
    assert gc.isenabled()


@pytest.mark.thorough
def test_closed_windows_are_freed(windows, qtbot):
    """Widgets, sessions and their Qt objects are freed by reference counting alone."""
    stays = windows.open(DEMO, None)
    gone = []
    for _ in range(3):
        window = windows.open(DEMO, None)
        qtbot.waitUntil(lambda window=window: bool(window.session.shown))
        gone += [window, window.session, window.session.undo_stack, window.page.comparing, window.page.axis]
        gone += [window.page.stage.box, window.page.stage.layers, window.page.strips.strips[0].plot.axes["left"]]
        window.close()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert [type(each).__name__ for each in gone if shiboken6.isValid(each)] == []
    assert [each for each in QApplication.topLevelWidgets() if isinstance(each, Window)] == [stays]
    found = [weakref.ref(each) for each in gone[::8]]
    del gone, window
    # Objects frozen while they were open are examined again once they are closed.
    qtbot.waitUntil(lambda: not any(ref() for ref in found))


@pytest.mark.thorough
def test_a_window_closes_while_the_collector_runs_constantly(tmp_path):
    """In a separate process, since a deadlock inside Qt would stop this one."""
    program = """
import gc
from cinetica.desk.application import Windows, application
from cinetica.desk.state.settings import Settings
from cinetica.files.shipped import shipped_study
app = application()
windows = Windows(Settings())
gc.set_threshold(1, 1, 1)
for _ in range(3):
    window = windows.open(shipped_study("harbour"), None)
    for _ in range(5):
        app.processEvents()
    window.show_page("overview")
    app.processEvents()
    window.close()
    for _ in range(5):
        app.processEvents()
print(len(windows.open_ones))
"""
    settings = {"XDG_CONFIG_HOME": str(tmp_path), "XDG_STATE_HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path)}
    done = subprocess.run(
        [sys.executable, "-c", program], capture_output=True, text=True, timeout=200, env=os.environ | settings
    )
    assert done.stdout == "0\n", done.stderr
