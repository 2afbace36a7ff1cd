"""A monkey test of the real window: random mouse and keyboard input, garbage, unfinished drags, bursts of undo.

`python -m tests.desk.monkey --seconds 600 --seed 7` runs it for longer; see also `make monkey`. It stops at the
first fault:
an exception, a warning from Qt, an act that takes too long, a study that does not read back, an undo list that does not
lead back to the start.
"""

from __future__ import annotations

import argparse
import faulthandler
import os
import random
import resource
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer, qInstallMessageHandler
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QWidget,
)  # fmt: skip
from shiboken6 import isValid

from cinetica.desk.application import Windows, application, start
from cinetica.desk.state.document import Document
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Settings
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, study_text
from cinetica.model.tune import PARAMETERS
from tests.desk.conftest import turn_wheel

GARBAGE = (
    "", " ", "0", "-1", "7.5", "12,5", "1e999", "nan", "6t", "½", "٣", "x" * 300, "<b>bold</b>", "a\tb", "\u202eabc",
    "../../etc", "=1+1", "1:2:3", "true",
    "Wren", "None", "0x10", "+", "5..9", "😀", "\x00", "9" * 40, "-0", "1e-320", "40 px", "'; --", "{jump}", "%s%n",
)  # fmt: skip
KEYS = (
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Escape,
    Qt.Key.Key_Tab, Qt.Key.Key_Delete,
    Qt.Key.Key_Space, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_F2,
    Qt.Key.Key_Backspace, Qt.Key.Key_Insert,
    Qt.Key.Key_A, Qt.Key.Key_D, Qt.Key.Key_W, Qt.Key.Key_C, Qt.Key.Key_R, Qt.Key.Key_K, Qt.Key.Key_V, Qt.Key.Key_1,
    Qt.Key.Key_Period, Qt.Key.Key_Plus,
)  # fmt: skip
MODIFIERS = (Qt.KeyboardModifier.NoModifier,) * 4 + (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
# These end the window or open another.
NOT_DONE = ("quit", "new_window", "duplicate_study", "close_window")
# Warnings of Qt about the offscreen platform, not about the program.
HARMLESS = ("OpenType support missing", "This plugin does not support", "propagateSizeHints")
LONGEST_ACT = 30.0


class Fault(Exception):
    """A fault found by the monkey."""


class Monkey:
    """Acts on a window at random, and records its acts so that a fault can be reported and reproduced from the seed."""

    def __init__(self, window: Window, seed: int, folder: Path) -> None:
        self.window, self.chance, self.folder = window, random.Random(seed), folder
        self.faults: list[str] = []
        self.log: list[str] = []
        self.done: Counter[str] = Counter()
        self._acts: list[Callable[[], object]] = [getattr(self, name) for name in dir(self) if name.startswith("do_")]
        self._poking = self._poke_waits = False
        self._pokes: Counter[int] = Counter()
        self._down: tuple[QWidget, QPoint] | None = None
        self._opened: dict[Document, object] = {}

    # One act after another

    def act(self) -> None:
        """Perform one random act."""
        self.next_window()
        self._do(self.chance.choice(self._acts))

    def do(self, name: str, seed: int) -> None:
        """Perform the act of this name, with choices drawn from this seed."""
        self.chance = random.Random(seed)
        self._do(getattr(self, name))

    def _do(self, act: Callable[[], object]) -> None:
        self.log.append(act.__name__)
        self.done[act.__name__] += 1
        begun = time.monotonic()
        # An act that never returns leaves a stack trace.
        faulthandler.dump_traceback_later(3 * LONGEST_ACT, exit=True)
        self._poking = True
        self._poke_soon()
        act()
        for _ in range(3):
            QApplication.processEvents()
        self._close_all()
        self._poking = False
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        faulthandler.cancel_dump_traceback_later()
        if (took := time.monotonic() - begun) > LONGEST_ACT:
            self.faults.append(f"{act.__name__} took {took:.1f} s")
        if self.faults:
            raise Fault("\n".join([*self.faults, f"after {len(self.log)} acts, the last: {', '.join(self.log[-12:])}"]))

    def next_window(self) -> None:
        """Switch to another window if there are several."""

    def look(self) -> None:
        """Check that the study can be read back."""
        study = self.window.session.study
        if parse_study(study_text(study).encode(), "the study") != study:
            raise Fault(f"it does not read back; the last acts: {self.log[-12:]}")

    def undo_all(self) -> None:
        """Undo everything, back to the study as it was opened, and redo it."""
        session = self.window.session
        # An unfinished drag is an edit as well.
        session.end_from_outside()
        now, count = session.study, session.undo_stack.index()
        while session.undo_stack.canUndo():
            session.undo()
        opened = self.opened
        if session.study != opened:
            raise Fault(f"undo does not lead back; the last acts: {self.log[-12:]}")
        while session.undo_stack.canRedo() and session.undo_stack.index() < count:
            session.redo()
        if session.study != now and count:
            other = [name for name in type(now).model_fields if getattr(now, name) != getattr(session.study, name)]
            raise Fault(f"redo does not lead on: {other} differ; the last acts: {self.log[-12:]}")

    def open(self, name: str) -> None:
        self.window.session.load(shipped_study(name), None)

    @property
    def opened(self) -> object:
        return self._opened[self.window.session.document]

    def watch(self) -> None:
        """Expect undo to lead to the study as it is now."""
        session, document = self.window.session, self.window.session.document
        self._opened.setdefault(document, session.study)
        session.loaded.connect(lambda: self._opened.update({document: document.study}))
        # Poking at a menu, or Ctrl+W, would close it; closing is a separate act.
        for name in ("quit", "close_window"):
            self.window.actions_by_name[name].setEnabled(False)

    # Acts

    def do_a_command(self) -> None:
        name = self.chance.choice([name for name in self.window.actions_by_name if name not in NOT_DONE])
        self.log[-1] += f" {name}"
        self.window.actions_by_name[name].trigger()

    def do_commands(self) -> None:
        for _ in range(self.chance.randrange(8)):
            self.do_a_command()

    def do_undo_storm(self) -> None:
        for _ in range(self.chance.randrange(30)):
            (self.window.session.undo if self.chance.random() < 0.6 else self.window.session.redo)()

    def do_click(self) -> None:
        if (widget := self._any_widget()) is not None:
            at = self._within(widget)
            button = self.chance.choice([Qt.MouseButton.LeftButton] * 4 + [Qt.MouseButton.RightButton])
            if isinstance(widget, QAbstractButton) and widget.text() == "Quit":
                return
            (QTest.mouseDClick if self.chance.random() < 0.2 else QTest.mouseClick)(
                widget, button, self.chance.choice(MODIFIERS[:6]), at
            )

    def do_drag(self) -> None:
        """Press, move, and sometimes never release."""
        if (widget := self._any_widget(visible_part=True)) is None:
            return
        start, keys = self._within(widget), self.chance.choice(MODIFIERS[:6])
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, keys, start)
        at = start
        for _ in range(self.chance.randrange(1, 8)):
            at += QPoint(self.chance.randint(-60, 60), self.chance.randint(-30, 30))
            _move(widget, at, keys)
            if self.chance.random() < 0.1:
                self.do_a_command()
        self._down = (widget, at)
        if self.chance.random() < 0.8:
            self._end_gesture()

    def do_drag_a_number(self) -> None:
        view = self.window.sheet.view
        tunes = [tune for _, tune in self.window.session.tunes]
        parameter = self.chance.choice(PARAMETERS)
        if tunes and view.isVisible():
            index = view.cell(parameter.id, self.chance.choice(tunes).name)
            if index.isValid():
                view.scrollTo(index)
                at = view.visualRect(index).center()
                QTest.mousePress(view.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
                for _ in range(self.chance.randrange(1, 6)):
                    at += QPoint(self.chance.randint(-40, 40), 0)
                    _move(view.viewport(), at, self.chance.choice(MODIFIERS))
                if self.chance.random() < 0.2:
                    self.window.session.undo()
                QTest.mouseRelease(view.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)

    def do_keys(self) -> None:
        target = QApplication.focusWidget() or self.window
        for _ in range(self.chance.randrange(1, 12)):
            QTest.keyClick(
                target if _usable(target) else self.window, self.chance.choice(KEYS), self.chance.choice(MODIFIERS)
            )
            target = QApplication.focusWidget() or self.window

    def do_type_into_the_sheet(self) -> None:
        view = self.window.sheet.view
        tunes = [tune for _, tune in self.window.session.tunes]
        if tunes and view.isVisible():
            index = view.cell(self.chance.choice(PARAMETERS).id, self.chance.choice(tunes).name)
            if index.isValid():
                view.setCurrentIndex(index)
                typed = self._typed()[:20] or "4"
                _type(view, typed[0])
                editor = next((each for each in view.viewport().findChildren(QLineEdit) if each.isVisible()), view)
                _type(editor, typed[1:])
                QTest.keyClick(
                    editor if _usable(editor) else view,
                    self.chance.choice([Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab]),
                )

    def do_wheel(self) -> None:
        if (widget := self._any_widget(visible_part=True)) is not None:
            at, keys = self._within(widget), self.chance.choice(MODIFIERS[:6])
            turn_wheel(widget, 0, self.chance.choice([-120, 120, 960]), keys, at)

    def do_resize(self) -> None:
        self.window.resize(self.chance.randint(600, 1900), self.chance.randint(400, 1000))

    def do_choose_a_drill(self) -> None:
        if drills := self.window.session.study.drills:
            self.window.session.choose_drill(self.chance.choice(drills).name)

    def do_wait(self) -> None:
        QTest.qWait(self.chance.choice([1, 5, 30]))

    def do_drop_a_file(self) -> None:
        path = self._some_file()
        (self.window.documents.open_file if self.chance.random() < 0.5 else self.window.exchange.import_log)(path)

    # What is open is poked a few times and then closed

    def _poke_soon(self) -> None:
        """Start a new timer each time, since what a poke opens may wait for the next one. At most one is pending."""
        if self._poking and not self._poke_waits:
            self._poke_waits = True
            QTimer.singleShot(1, self._poke_what_is_open)

    def _poke_what_is_open(self) -> None:
        self._poke_waits = False
        self._poke_soon()
        try:
            open_one = QApplication.activePopupWidget() or QApplication.activeModalWidget()
            if open_one is None:
                return
            self._pokes[id(open_one)] += 1
            if self._pokes[id(open_one)] > self.chance.randrange(2, 9):
                self._pokes.pop(id(open_one))
                (
                    open_one.close()
                    if not isinstance(open_one, QDialog) or self.chance.random() < 0.5
                    else open_one.done(self.chance.randrange(2))
                )
            else:
                self._poke(open_one)
        except Exception:
            self.faults.append(traceback.format_exc())

    def _poke(self, dialog: QWidget) -> None:
        fields = [child for child in dialog.findChildren(QWidget) if child.isVisible() and child.isEnabled()]
        if isinstance(dialog, QMenu):
            QTest.keyClick(
                dialog,
                self.chance.choice(
                    [Qt.Key.Key_Down, Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Escape]
                ),
            )
        elif fields:
            self._disturb(self.chance.choice(fields))

    def _disturb(self, field: QWidget) -> None:
        if isinstance(field, QLineEdit | QPlainTextEdit | QAbstractSpinBox):
            if isinstance(field, QLineEdit) and self.chance.random() < 0.5:
                field.selectAll()
            _type(field, self._typed())
            if self.chance.random() < 0.5:
                QTest.keyClick(field, Qt.Key.Key_Tab)
        elif isinstance(field, QComboBox):
            field.setCurrentIndex(self.chance.randrange(max(1, field.count())))
        elif isinstance(field, QAbstractItemView):
            QTest.keyClick(field, self.chance.choice(KEYS))
        else:
            QTest.mouseClick(field, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self._within(field))

    def _close_all(self) -> None:
        for _ in range(20):
            open_one = QApplication.activePopupWidget() or QApplication.activeModalWidget()
            if open_one is None:
                return
            open_one.close()
            QApplication.processEvents()
        self.faults.append(f"{open_one} does not close")

    # Files

    def path_to_save(self, *arguments: object) -> tuple[str, str]:
        return (
            self.chance.choice(
                [str(self._some_file()), "", str(self.folder / "a.json"), "/proc/a.json", "/dev/null/x.json"]
            ),
            "",
        )

    def path_to_open(self, *arguments: object) -> tuple[str, str]:
        return self.chance.choice([str(self._some_file()), ""]), ""

    def some_folder(self, *arguments: object) -> str:
        return self.chance.choice([str(self.folder), "", str(self.folder / "a.json"), "/dev/null/x"])

    def _some_file(self) -> Path:
        name = self.chance.choice(
            ["a.json", "b.json", "c.png", "d.svg", "e.csv", "f.html", "no-ending", "g" * 260, "ü.toml"]
        )
        path = self.folder / name
        if self.chance.random() < 0.2 and len(name) < 200 and not path.is_dir():
            path.write_bytes(
                self.chance.choice(
                    [b"", b"{}", b"t,x\n0,1\n0.1,2\n", b"\xff" * 50, study_text(shipped_study("harbour")).encode()]
                )
            )
        return path

    # Helpers

    def _typed(self) -> str:
        return self.chance.choice(GARBAGE).replace("\x00", "").replace("\t", " ")

    def _any_widget(self, *, visible_part: bool = False) -> QWidget | None:
        widgets = [
            widget
            for widget in self.window.findChildren(QWidget)
            if widget.isVisible() and widget.isEnabled() and widget.window() is self.window
        ]
        if visible_part:
            widgets = [widget for widget in widgets if not widget.visibleRegion().isEmpty()]
        return self.chance.choice(widgets) if widgets else None

    def _within(self, widget: QWidget) -> QPoint:
        return QPoint(self.chance.randrange(max(1, widget.width())), self.chance.randrange(max(1, widget.height())))

    def _end_gesture(self) -> None:
        if self._down is not None and _alive(self._down[0]):
            QTest.mouseRelease(self._down[0], Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self._down[1])
        self._down = None


class SeveralWindows(Monkey):
    """Opens and closes windows, and acts on all of them in turn."""

    def __init__(self, windows: Windows, most: int, seed: int, folder: Path) -> None:
        self.windows, self.most = windows, most
        self._watched: set[Session] = set()
        super().__init__(self._open(), seed, folder)

    def _open(self) -> Window:
        window = self.windows.open(shipped_study("harbour"), None)
        window.resize(1000, 700)
        return window

    def next_window(self) -> None:
        self._end_gesture()
        self.window = self.chance.choice(self.windows.open_ones)
        if self.window.session not in self._watched:
            self._watched.add(self.window.session)
            self.watch()
        self.window.activateWindow()

    def do_open_another(self) -> None:
        if len(self.windows.open_ones) < self.most:
            if self.chance.random() < 0.5:
                self.window.actions_by_name["new_window"].trigger()
            else:
                self._open()

    def do_close_one(self) -> None:
        """Close a window. If it has changes it asks; the question is poked at, and the window may stay open."""
        if len(self.windows.open_ones) > 1:
            session = self.window.session
            if self.chance.random() < 0.5:
                session.undo_stack.setClean()
            if self.window.close():
                self._watched.discard(session)
                self.window = self.windows.open_ones[0]


def _type(widget: QWidget, text: str) -> None:
    """Type letters of any language, which `QTest.keyClicks` does not support."""
    for letter in text:
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            if isValid(widget):
                QApplication.sendEvent(widget, QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter))


def _alive(widget: QWidget) -> bool:
    return isValid(widget)


def _usable(widget: QWidget) -> bool:
    return isValid(widget) and widget.isVisible()


def _move(widget: QWidget, to: QPoint, keys: Qt.KeyboardModifier) -> None:
    if _alive(widget):
        left = Qt.MouseButton.LeftButton
        QApplication.sendEvent(
            widget,
            QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(to), QPointF(widget.mapToGlobal(to)), left, left, keys),
        )


@contextmanager
def at_the_window(seed: int, folder: Path) -> Iterator[Monkey]:
    """A monkey with its own window."""
    with _ears(Monkey(Window(Session(shipped_study("harbour"))), seed, folder)) as monkey:
        monkey.watch()
        monkey.window.resize(1280, 800)
        monkey.window.show()
        start(monkey.window)
        yield monkey
        _leave(monkey.window)


@contextmanager
def at_windows(seed: int, folder: Path, most: int) -> Iterator[Monkey]:
    """A monkey with several windows of one process."""
    windows = Windows(Settings(folder / "settings.ini"))
    with _ears(SeveralWindows(windows, most, seed, folder)) as monkey:
        yield monkey
        for window in [*windows.open_ones]:
            _leave(window)


def _leave(window: Window) -> None:
    window.set_text_size(1.0)
    window.session.undo_stack.setClean()
    window.close()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@contextmanager
def _ears(monkey: Monkey) -> Iterator[Monkey]:
    """Turn whatever goes wrong into a fault of the monkey, and open no system dialogs."""

    def wrong(kind: type[BaseException], error: BaseException, trace: object) -> None:
        monkey.faults.append("".join(traceback.format_exception(kind, error, error.__traceback__)))

    def warned(_kind: object, _context: object, message: str) -> None:
        if not any(words in message for words in HARMLESS):
            monkey.faults.append(f"Qt: {message}\n{''.join(traceback.format_stack(limit=14))}")

    asked = {
        name: getattr(QFileDialog, name) for name in ("getSaveFileName", "getOpenFileName", "getExistingDirectory")
    }
    QFileDialog.getSaveFileName, QFileDialog.getOpenFileName = (
        staticmethod(monkey.path_to_save),
        staticmethod(monkey.path_to_open),
    )
    QFileDialog.getExistingDirectory = staticmethod(monkey.some_folder)
    hook, sys.excepthook = sys.excepthook, wrong
    before = qInstallMessageHandler(warned)
    try:
        yield monkey
    finally:
        for name, function in asked.items():
            setattr(QFileDialog, name, function)
        sys.excepthook = hook
        qInstallMessageHandler(before)


def play(monkey: Monkey, *, acts: int = 10**9, seconds: float = 1e9) -> None:
    """Perform so many acts, or act for so many seconds; now and then, and at the end, check reading back and undo."""
    until = time.monotonic() + seconds
    for number in range(1, acts + 1):
        monkey.act()
        if number % 25 == 0 or number == acts:
            monkey.look()
        if number % 100 == 0 or number == acts:
            monkey.undo_all()
        if number % 500 == 0:
            monkey.open(monkey.chance.choice(["harbour", "pitfalls"]))
        if time.monotonic() > until:
            break


def main() -> None:
    asked = argparse.ArgumentParser(description="A monkey at the real window.")
    asked.add_argument("--seconds", type=float, default=60)
    asked.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**6))
    asked.add_argument("--windows", type=int, default=1, help="up to so many windows at a time")
    given = asked.parse_args()
    faulthandler.enable()
    application()
    print(f"seed {given.seed}, {given.seconds:g} s", flush=True)
    with tempfile.TemporaryDirectory() as name, ExitStack() as stack:
        folder = Path(name)
        os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = name
        monkey = stack.enter_context(
            at_the_window(given.seed, folder) if given.windows == 1 else at_windows(given.seed, folder, given.windows)
        )
        play(monkey, acts=100)
        first = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        try:
            play(monkey, seconds=given.seconds)
        except Fault as fault:
            print(f"{fault}\nseed {given.seed}, act {len(monkey.log)}")
            sys.exit(1)
        finally:
            last = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
            print(
                f"{len(monkey.log)} acts; memory at most {last // 1024} MB, after the first hundred {first // 1024} MB"
            )


if __name__ == "__main__":
    main()
