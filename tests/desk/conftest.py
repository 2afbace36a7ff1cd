from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from cinetica.desk import application as desk_application
from cinetica.desk.application import Windows, application, start
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Settings
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.hookimpl(trylast=True)
def pytest_runtest_teardown(item):
    """Free closed windows before the next test, since a change of look is applied to every window that exists."""
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture(scope="session", autouse=True)
def collector_at_rest():
    """Opening and closing windows does not start Python's collector, which would traverse all of pytest's objects.

    Session-wide, because a window may be freed after its test. `test_memory.py` undoes it.
    """
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(desk_application, "freeze_live_objects", lambda: None)
        yield


@pytest.fixture
def windows(qtbot, tmp_path):
    """The window manager of a process, with no window open yet."""
    opened = Windows(Settings(tmp_path / "settings.ini"))
    yield opened
    for window in list(opened.open_ones):
        window.session.undo_stack.setClean()
        window.close()
        qtbot.waitUntil(lambda window=window: window not in opened.open_ones)


@pytest.fixture
def open_window(qtbot):
    """Opens the real window, on the demo study unless another is given, with the kernel loaded."""

    def opened(study=None, *, size: tuple[int, int] | None = None, **how) -> Window:
        window = Window(Session(study or shipped_study("harbour")), **how)
        # Closing must not ask whether to save what a test has changed.
        qtbot.addWidget(window, before_close_func=lambda window: window.session.undo_stack.setClean())
        if size is not None:
            window.resize(*size)
        window.show()
        start(window)
        return window

    return opened


@pytest.fixture
def window(open_window):
    return open_window()


# A mouse reports a long drag in a few dozen moves.
MOST_MOVES = 40


def drag(widget, start: QPoint, to: QPoint, *, modifier=Qt.KeyboardModifier.NoModifier, release: bool = True) -> None:
    """Drag on a widget in a few moves, as a person does."""
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, modifier, start)
    for share in (0.2, 0.5, 0.8, 1.0):
        _move(widget, start + (to - start) * share, modifier)
    if release:
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, modifier, to)


def turn_wheel(widget, x: int, y: int, modifier=Qt.KeyboardModifier.NoModifier, at: QPoint | None = None) -> None:
    """Turn the wheel by eighths of a degree over a place, or over the middle of a widget."""
    place = QPointF(widget.rect().center() if at is None else at)
    event = QWheelEvent(
        place, QPointF(widget.mapToGlobal(place)), QPoint(), QPoint(x, y), Qt.MouseButton.NoButton, modifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def key(window, which, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    """Press a key in the window and process all events."""
    QTest.keyClick(window, which, modifier)
    QApplication.processEvents()


class Hand:
    """Mouse and keyboard on the sheet."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.view = window.sheet.view

    def spot(self, id: str, tune: str) -> QPoint:
        index = self.view.cell(id, tune)
        assert index.isValid(), f"{id} is not shown"
        self.view.scrollTo(index)
        return self.view.visualRect(index).center()

    def drag(
        self, id: str, tune: str, pixels: int, *, modifier=Qt.KeyboardModifier.NoModifier, release: bool = True
    ) -> None:
        start, port = self.spot(id, tune), self.view.viewport()
        QTest.mousePress(port, Qt.MouseButton.LeftButton, modifier, start)
        moves = min(abs(pixels), MOST_MOVES)
        for moved in range(1, moves + 1):
            _move(port, start + QPoint(pixels * moved // moves, 0), modifier)
        if release:
            QTest.mouseRelease(port, Qt.MouseButton.LeftButton, modifier, start + QPoint(pixels, 0))

    def release(self) -> None:
        QTest.mouseRelease(self.view.viewport(), Qt.MouseButton.LeftButton)

    def type(self, id: str, tune: str, text: str) -> None:
        QTest.mouseClick(self.view.viewport(), Qt.MouseButton.LeftButton, pos=self.spot(id, tune))
        QTest.keyClicks(self.view, text[0])
        editor = self.view.viewport().findChildren(QLineEdit)[-1]
        QTest.keyClicks(editor, text[1:])
        QTest.keyClick(editor, Qt.Key.Key_Return)
        QApplication.processEvents()

    def value(self, id: str, tune: str):
        return self.window.session.study.tune(tune).get(id)


def _move(port, to, modifier) -> None:
    left = Qt.MouseButton.LeftButton
    event = QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(to), QPointF(port.mapToGlobal(to)), left, left, modifier)
    QApplication.sendEvent(port, event)


@pytest.fixture
def hand(window):
    return Hand(window)


@pytest.fixture
def messages(window):
    """All messages of the window, refusals included."""
    words = []
    window.session.message.connect(words.append)
    window.session.refused.connect(words.append)
    return words
