"""A drawn curve, large: its points are dragged, added, removed, typed, or copied from another tune."""

from __future__ import annotations

from functools import partial

import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.sheet.cells import value_from_text
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, push_button
from cinetica.model.curves import (
    FEWEST_POINTS,
    MOST_POINTS,
    Point,
    curve_text,
    with_point,
    with_point_moved,
    without_point,
)
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune

HOW = "Drag a point. Double-click adds one, Delete removes the marked one, arrows move it."
# What an arrow key moves a point by, as a share of what is shown; finely with Alt, coarsely with Shift.
STEP, FINE, COARSE = 0.01, 0.1, 10.0
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class CurveEditor(Dialog):
    """The curve of one tune; the trace follows each move, and a gesture is one undo."""

    def __init__(self, session: Session, tune: Tune, parameter: Parameter, parent: QWidget) -> None:
        super().__init__(f"{parameter.label} of {tune.name}", parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.session, self.parameter, self._name = session, parameter, tune.name
        self.marked = 0
        self._handles: list[pg.TargetItem] = []
        self._held = self._let_gone = False
        self.plot = pg.PlotWidget(background=look.palette().paper)
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMouseEnabled(False, False)
        self.plot.setAccessibleName(f"{parameter.label}: drag its points")
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        for side, words in (("bottom", self._across()), ("left", self._up())):
            axis = self.plot.getAxis(side)
            axis.setLabel(words, color=look.palette().soft)
            axis.setPen(look.color(look.palette().grid))
            axis.setTextPen(look.color(look.palette().soft))
            axis.setTickFont(look.font(8))
        self.plot.showGrid(x=True, y=True, alpha=0.15)
        self._line = self.plot.plot(pen=look.ink_pen(look.palette(), self._place, 2.0))
        self.text = QLineEdit()
        self.text.setAccessibleName("Points, x y")
        self.text.setToolTip("The points as x y, with commas between them: 0 1, 0.5 0.8, 1 0.5")
        self.text.editingFinished.connect(self._type)
        self.message = QLabel(HOW)
        self.message.setObjectName("soft")
        self.message.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.text)
        layout.addWidget(self.message)
        layout.addLayout(self._buttons())
        self.fit(70, 26)
        self.close_when_removed(session, tunes=[tune.name])
        session.refused.connect(self._show_message)
        session.study_changed.connect(self._show)
        session.gesture_ended.connect(self._end_gesture)
        self._show()

    def _across(self) -> str:
        return "Push of the stick" if self.parameter.id == "input.response" else "Speed as a share of top speed"

    def _up(self) -> str:
        return "Resulting input" if self.parameter.id == "input.response" else "Factor"

    @property
    def _place(self) -> int:
        return next((place for place, tune in self.session.tunes if tune.name == self._name), 0)

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.others = Chooser()
        self.others.setAccessibleName("Copy from another tune")
        self.others.addItem("Copy from …", "")
        for tune in self.session.study.tunes:
            if tune.name != self._name and self.parameter.matters(tune.view, tune.values()):
                self.others.addItem(tune.name, tune.name)
        self.others.activated.connect(self._copy)
        self.others.setEnabled(self.others.count() > 1)
        row.addWidget(self.others)
        row.addWidget(push_button("Add", self.add_in_widest))
        row.addWidget(push_button("Remove", self.remove_marked))
        row.addWidget(push_button("Default", self._reset))
        row.addStretch(1)
        row.addWidget(push_button("Close", self.accept, main=True))
        return row

    # The curve

    @property
    def points(self) -> tuple[Point, ...]:
        """The points of the tune's curve."""
        value = self.session.study.tune(self._name).get(self.parameter.id)
        assert isinstance(value, tuple)
        return value

    def put(self, points: tuple[Point, ...]) -> bool:
        """Set the curve; refused, with the reason, if the text is not a curve."""
        return self.session.set_value(self.session.study.tune(self._name), self.parameter, points)

    def _show(self) -> None:
        if self._name not in {tune.name for tune in self.session.study.tunes}:
            return
        points = self.points
        self.marked = min(self.marked, len(points) - 1)
        if not self._held:
            self._fit_axes(points)
        self._draw_line(points)
        if len(self._handles) != len(points):
            self._make_handles(len(points))
        for number, (handle, point) in enumerate(zip(self._handles, points, strict=True)):
            handle.blockSignals(True)
            handle.setPos(point.x, point.y)
            handle.blockSignals(False)
            handle.setBrush(look.color(look.palette().accent if number == self.marked else look.palette().paper))
        if not self.text.hasFocus() or not self.text.isModified():
            self.text.setText(curve_text(points))

    def _draw_line(self, points: tuple[Point, ...]) -> None:
        (low, high), _ = self.plot.viewRange()
        # It is level outside of its points.
        ends = [low, *(point.x for point in points), high]
        self._line.setData(ends, [points[0].y, *(point.y for point in points), points[-1].y])

    def _fit_axes(self, points: tuple[Point, ...]) -> None:
        across = max(1.0, points[-1].x)
        up = max(self.parameter.comfort[1], *(point.y for point in points))
        self.plot.setRange(xRange=(0, across * 1.05), yRange=(0, up * 1.05), padding=0.02)

    def _make_handles(self, count: int) -> None:
        for handle in self._handles:
            self.plot.removeItem(handle)
        self._handles, pen = [], look.ink_pen(look.palette(), self._place, 2.0)
        for number in range(count):
            handle = pg.TargetItem(
                size=look.px(11), symbol="o", movable=True, pen=pen, hoverPen=pen,
                hoverBrush=look.color(look.palette().accent),
            )  # fmt: skip
            handle.sigPositionChanged.connect(partial(self._drag, number))
            handle.sigPositionChangeFinished.connect(self._release)
            self.plot.addItem(handle)
            self._handles.append(handle)

    # Gestures

    def _end_gesture(self) -> None:
        """Something else, such as an undo, has ended the drag: the rest of it changes nothing."""
        self._let_gone, self._held = self._held, False

    def _drag(self, number: int, handle: pg.TargetItem) -> None:
        if self._let_gone:
            return
        if not self._held:
            self._held = True
            self.session.begin(f"{self.parameter.label} of {self._name}")
        self.marked = number
        self.put(with_point_moved(self.points, number, *self._inside(handle.pos())))
        self._show()

    def _release(self, *_: object) -> None:
        if self._held:
            self.session.end()
        self._held = self._let_gone = False
        self._show()

    def _inside(self, at: QPointF) -> tuple[float, float]:
        """A place of the plot, rounded to a hundredth and within the limits of the curve."""
        high = self.parameter.high
        return min(max(round(at.x(), 2), 0.0), self.parameter.reach), min(max(round(at.y(), 2), 0.0), high)

    def shows(self, tune: Tune, parameter: Parameter) -> bool:
        """Whether it is the editor of this curve."""
        return (self._name, self.parameter.id) == (tune.name, parameter.id)

    def _clicked(self, event: object) -> None:
        at = self.plot.getPlotItem().vb.mapSceneToView(event.scenePos())  # type: ignore[attr-defined]
        if event.double():  # type: ignore[attr-defined]
            self.add(*self._inside(at))
            return
        box = self.plot.getPlotItem().vb.viewPixelSize()
        near = [
            (abs(point.x - at.x()) / box[0] + abs(point.y - at.y()) / box[1], number)
            for number, point in enumerate(self.points)
        ]
        distance, number = min(near)
        if distance < look.px(16):
            self.marked = number
            self._show()

    def add(self, x: float, y: float) -> None:
        """Add a point, and mark it."""
        if len(self.points) >= MOST_POINTS:
            self._show_message(f"A curve has at most {MOST_POINTS} points.")
            return
        made = with_point(self.points, x, y)
        self.marked = [point.x for point in made].index(x)
        self.put(made)

    def add_in_widest(self) -> None:
        """Add a point in the middle of the widest gap, where it changes nothing yet."""
        pairs = list(zip(self.points, self.points[1:], strict=False))
        before, after = max(pairs, key=lambda pair: pair[1].x - pair[0].x)
        self.add(round((before.x + after.x) / 2, 4), (before.y + after.y) / 2)

    def remove_marked(self) -> None:
        """Remove the marked point."""
        if len(self.points) <= FEWEST_POINTS:
            self._show_message(f"A curve needs {FEWEST_POINTS} points at least.")
            return
        self.put(without_point(self.points, self.marked))

    def _reset(self) -> None:
        self.put(self.parameter.default)  # type: ignore[arg-type]

    def _copy(self) -> None:
        name = self.others.currentData()
        self.others.setCurrentIndex(0)
        if name:
            self.put(self.session.study.tune(name).get(self.parameter.id))  # type: ignore[arg-type]

    def _type(self) -> None:
        if not self.text.isModified():
            return
        self.text.setModified(False)
        try:
            typed = value_from_text(self.parameter, self.text.text())
        except ValueError as error:
            self._show_message(str(error))
            return
        if self.put(typed):  # type: ignore[arg-type]
            self._show_message(HOW)

    def _show_message(self, words: str) -> None:
        self.message.setText(words)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.text.hasFocus():
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._type()
                return
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.remove_marked()
            return
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Insert):
            self.add_in_widest()
            return
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            step = 1 if event.key() == Qt.Key.Key_PageUp else -1
            self.marked = (self.marked + step) % len(self.points)
            self._show()
            return
        elif event.key() in ARROWS:
            self._nudge(event)
            return
        super().keyPressEvent(event)

    def _nudge(self, event: QKeyEvent) -> None:
        scale = STEP
        scale *= FINE if event.modifiers() & Qt.KeyboardModifier.AltModifier else 1.0
        scale *= COARSE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        across, up = ARROWS[Qt.Key(event.key())]
        point = self.points[self.marked]
        x, y = round(point.x + across * scale, 6), round(point.y + up * scale, 6)
        tune = self.session.study.tune(self._name)
        moved = with_point_moved(self.points, self.marked, max(0.0, min(x, self.parameter.reach)), max(0.0, y))
        self.session.set_value(tune, self.parameter, moved, joins=True)
