"""Drags in the real window: mouse moves on the real widgets, from the event to everything painted."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from typing import NamedTuple

from PySide6.QtCore import QAbstractEventDispatcher, QEventLoop, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from cinetica.desk.application import application, start_session
from cinetica.desk.dialogs.clock_panel import ClockPanel
from cinetica.desk.state.session import Session
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from cinetica.model.editing import with_new_tune
from cinetica.model.study import Study
from cinetica.model.take import Push
from cinetica.model.takes import STICKS

LEFT = Qt.MouseButton.LeftButton
NUMBERS = ("gravity.gravity", "jump.jump_speed", "drive.top_speed", "body.height", "jump.coyote")
# The number that is dragged goes so many pixels up, and back again.
SWAY = 60


class Taken(NamedTuple):
    """Seconds of each move of one kind: to the curves on the screen, and to all that follows them."""

    painted: list[float]
    complete: list[float]


def study_of_six() -> Study:
    """The demo study with six tunes for the side view."""
    study = shipped_study("harbour")
    for number in range(4):
        tune = study.tune("Wren").put("drive.top_speed", 4.0 + number).model_copy(update={"name": f"Wren {number}"})
        study = with_new_tune(study, tune)
    return study


def opened(study: Study, drill: str) -> Window:
    application()
    window = Window(Session(study))
    window.resize(1280, 800)
    window.show()
    start_session(window)
    window.session.choose_drill(drill)
    settle()
    check_size(window)
    return window


def check_size(window: QWidget) -> None:
    """A window that its screen has cut would be measured as less than it is."""
    if (window.width(), window.height()) != (1280, 800):
        raise AssertionError(f"the window is {window.width()}×{window.height()}: the screen is too small")


def closed(window: Window) -> None:
    window.session.undo_stack.setClean()
    window.close()


def settle() -> None:
    """Run the event loop until nothing is left to do."""
    dispatcher = QAbstractEventDispatcher.instance()
    for _ in range(50):
        if not dispatcher.processEvents(QEventLoop.ProcessEventsFlag.AllEvents):
            return


def timed(act: Callable[[], None]) -> tuple[float, float]:
    """From an event to the curves on the screen, which are posted by then, and to the end of all that it has caused."""
    begin = time.perf_counter()
    act()
    QApplication.sendPostedEvents()
    painted = time.perf_counter() - begin
    settle()
    return painted, time.perf_counter() - begin


def move(widget: QWidget, to: QPointF) -> None:
    event = QMouseEvent(
        QMouseEvent.Type.MouseMove,
        to,
        QPointF(widget.mapToGlobal(to.toPoint())),
        LEFT,
        LEFT,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(widget, event)


def swayed(
    widget: QWidget, at: QPoint, count: int, *, up: bool = False, width: int = SWAY, step: int = 1
) -> Iterator[Callable[[], None]]:
    """A drag of `count` moves of so many pixels each, there and back over `width` of them."""
    QTest.mousePress(widget, LEFT, pos=at)
    for number in range(1, count + 1):
        gone = step * abs((number + width) % (2 * width) - width) if width else 0
        to = QPointF(at) + (QPointF(0, -gone) if up else QPointF(gone, 0))
        yield lambda to=to: move(widget, to)
    QTest.mouseRelease(widget, LEFT, pos=at)


def number(window: Window, id: str, count: int) -> Iterator[Callable[[], None]]:
    view = window.sheet.view
    index = view.cell(id, "Wren")
    view.scrollTo(index)
    settle()
    yield from swayed(view.viewport(), view.visualRect(index).center(), count)


def press(window: Window, count: int) -> Iterator[Callable[[], None]]:
    """The first jump of the drill, by its middle, a frame with every move: less would change nothing."""
    hands = window.page.hands
    take = window.session.drill.take  # type: ignore[union-attr]
    jump, frame = take.keys.jump[0], math.ceil(hands.at(1 / take.rate) - hands.at(0.0))
    spot = hands.spot_of("jump", (jump.start + jump.end) / 2)
    yield from swayed(hands, spot, count, width=24, step=frame)


def stick(window: Window, count: int) -> Iterator[Callable[[], None]]:
    """A push of the left stick, from all the way to the middle and back."""
    session, hands = window.session, window.page.hands
    take = session.drill.take  # type: ignore[union-attr]
    keys = take.keys.model_copy(update={"right": ()})
    session.set_take(
        "A stick", take.model_copy(update={"keys": keys, STICKS[0]: (Push(5, 1.0, 0.0), Push(120, 0.0, 0.0))})
    )
    settle()
    lane = hands.lanes.index(f"{STICKS[0]} x")
    drawing = hands.drawing
    middle = drawing.top + lane * drawing.lane + drawing.lane / 2
    spot = QPoint(round(hands.at(5 / take.rate)), round(middle - drawing.swing))
    yield from swayed(hands, spot, count, up=True, width=round(drawing.swing), step=-1)


def edge(window: Window, count: int) -> Iterator[Callable[[], None]]:
    """The roof that is landed on, by its edge, without snapping."""
    stage = window.page.stage
    stage.toggle_editing()
    stage.editor.grid = 0.0
    settle()
    roof = window.session.drill.course.solids[1]  # type: ignore[union-attr]
    stage.editor.selected = ("solids", roof)
    port = stage.plot.viewport()
    at = stage.plot.mapFromScene(stage.box.mapViewToScene(QPointF(roof.left + 1.0, roof.top)))
    yield from swayed(port, at, count, up=True, width=10)
    stage.toggle_editing()


def clock(window: Window, count: int) -> Iterator[Callable[[], None]]:
    """The tick rate, typed: 60, 61, 62 and so on, up and down."""
    panel = ClockPanel(window.session, window)
    panel.show()
    line = panel.fields["clock.tick_rate"]
    assert isinstance(line, QLineEdit)
    settle()

    def typed(text: str) -> None:
        line.setText(text)
        line.editingFinished.emit()

    for number in range(1, count + 1):
        rate = str(60 + abs((number + 20) % 40 - 20))
        yield lambda text=rate: typed(text)
    panel.close()


def step(window: Window, count: int) -> Iterator[Callable[[], None]]:
    """Steps of the frame cursor."""
    session = window.session
    for number in range(count):
        yield lambda row=number % session.last_row: session.set_cursor(row)


def kinds() -> dict[str, Callable[[Window, int], Iterator[Callable[[], None]]]]:
    numbers = {id: lambda window, count, id=id: number(window, id, count) for id in NUMBERS}
    return {
        **numbers,
        "a press": press,
        "a stick step": stick,
        "a course's edge": edge,
        "the tick rate": clock,
        "a step of the cursor": step,
    }


def taken(window: Window, kind: Callable[[Window, int], Iterator[Callable[[], None]]], count: int) -> Taken:
    took = Taken([], [])
    for act in kind(window, count):
        painted, complete = timed(act)
        took.painted.append(painted)
        took.complete.append(complete)
    settle()
    while window.session.undo_stack.canUndo():
        window.session.undo()
    settle()
    return took
