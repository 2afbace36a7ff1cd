"""Editing the course in place: rectangles dragged, added, removed and typed; the start of the body is dragged, too."""

from __future__ import annotations

from dataclasses import dataclass

import pyqtgraph as pg
from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.paint.course import rect_of
from cinetica.desk.state.session import Session
from cinetica.model import courses
from cinetica.model.course import Course, Rectangle
from cinetica.model.courses import KINDS, Kind

GRIP = 7.0
SIDES = ("left", "bottom", "right", "top")


@dataclass
class _Drag:
    """What is dragged from where: sides of a rectangle (none: all of it), a new rectangle, or the start."""

    at: QPointF
    course: Course
    start: tuple[float, float]
    kind: Kind
    rectangle: Rectangle | None
    sides: tuple[str, ...] = ()
    is_start: bool = False
    moving: bool = False


class SelectionItem(pg.GraphicsObject):
    """The outline of the selected rectangle with a grip on each side, and a cross at the start."""

    def __init__(self) -> None:
        super().__init__()
        self.look, self.rectangle, self.start = look.DAY, QRectF(), QPointF()
        self.setZValue(40)
        self.hide()

    def show_selection(self, palette: look.Palette, rectangle: Rectangle | None, start: tuple[float, float]) -> None:
        self.prepareGeometryChange()
        self.look, self.rectangle = palette, rect_of(rectangle) if rectangle else QRectF()
        self.start = QPointF(*start)
        self.update()

    def boundingRect(self) -> QRectF:
        box = self.getViewBox()
        return QRectF() if box is None else QRectF(box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        transform = painter.transform()
        painter.resetTransform()
        at = transform.map(self.start)
        painter.setPen(QPen(QColor(self.look.accent), 2))
        painter.drawLine(at + QPointF(-7, 0), at + QPointF(7, 0))
        painter.drawLine(at + QPointF(0, -7), at + QPointF(0, 7))
        if self.rectangle.isNull():
            return
        rect = transform.mapRect(self.rectangle)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)
        painter.setBrush(QColor(self.look.paper))
        middle = rect.center()
        for grip in (
            QPointF(rect.left(), middle.y()),
            QPointF(rect.right(), middle.y()),
            QPointF(middle.x(), rect.top()),
            QPointF(middle.x(), rect.bottom()),
        ):
            painter.drawRect(QRectF(grip.x() - 3.5, grip.y() - 3.5, 7, 7))


class CourseEditor(QObject):
    """Turns presses, moves and keys on the stage into edits of the course. Positions are in u."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.on = False
        self.kind: Kind = "solids"
        self.grid = courses.GRID
        self.selected: tuple[Kind, Rectangle] | None = None
        self._drag: _Drag | None = None
        session.drill_changed.connect(self._forget)
        session.drill_edited.connect(self._check)
        session.let_go.connect(self._let_go)

    def turn(self, on: bool) -> None:
        self.on = on
        self.selected = self._drag = None
        self.changed.emit()

    def _let_go(self) -> None:
        self._drag = None
        self._check()

    def _forget(self) -> None:
        self.turn(False)

    def _check(self) -> None:
        """After an undo the selected rectangle may be gone."""
        if self.selected and self.course is not None and self.selected[1] not in getattr(self.course, self.selected[0]):
            self.selected = None
        self.changed.emit()

    @property
    def course(self) -> Course | None:
        return self.session.drill.course if self.session.drill else None

    def _all(self) -> list[tuple[Kind, Rectangle]]:
        course = self.course
        return [] if course is None else [(kind, rectangle) for kind in KINDS for rectangle in getattr(course, kind)]

    def found(self, at: QPointF, reach: QPointF) -> tuple[Kind, Rectangle, tuple[str, ...]] | None:
        """The rectangle at a place, and the sides within `reach` of it; the selected one comes first, then the last
        drawn."""
        selected = [self.selected] if self.selected else []
        for kind, rectangle in [*selected, *reversed(self._all())]:
            grown = rect_of(rectangle).adjusted(-reach.x(), -reach.y(), reach.x(), reach.y())
            if not grown.contains(at):
                continue
            sides = [
                side
                for side, value in zip(("left", "right"), (rectangle.left, rectangle.right), strict=True)
                if abs(at.x() - value) <= reach.x()
            ][:1]
            sides += [
                side
                for side, value in zip(("bottom", "top"), (rectangle.bottom, rectangle.top), strict=True)
                if abs(at.y() - value) <= reach.y()
            ][-1:]
            return kind, rectangle, tuple(sides)
        return None

    def press(self, at: QPointF, reach: QPointF) -> None:
        drill = self.session.drill
        if drill is None:
            return
        start = drill.start
        if abs(at.x() - start[0]) <= reach.x() and abs(at.y() - start[1]) <= reach.y():
            self._drag = _Drag(at, drill.course, start, self.kind, None, is_start=True)
            return
        found = self.found(at, reach)
        if found is None:
            self.selected = None
            self._drag = _Drag(at, drill.course, start, self.kind, None)
        else:
            kind, rectangle, sides = found
            self.selected = (kind, rectangle)
            self._drag = _Drag(at, drill.course, start, kind, rectangle, sides)
        self.changed.emit()

    def move(self, to: QPointF) -> None:
        drag = self._drag
        if drag is None:
            return
        if not drag.moving:
            drag.moving = True
            self.session.begin(
                "Start of the drill"
                if drag.is_start
                else "Edit the course"
                if drag.rectangle
                else f"Add a {KINDS[drag.kind]}"
            )
        if drag.is_start:
            self._move_start(
                self._snap(drag.start[0] + to.x() - drag.at.x()), self._snap(drag.start[1] + to.y() - drag.at.y())
            )
        elif drag.rectangle is None:
            new = courses.with_area(
                Rectangle(self._snap(drag.at.x()), self._snap(drag.at.y()), self._snap(to.x()), self._snap(to.y())),
                self.grid,
            )
            self._put(drag.course, drag.kind, None, new)
        elif drag.sides:
            self._put(drag.course, drag.kind, drag.rectangle, self._resized(drag.rectangle, drag.sides, to))
        else:
            dx, dy = (self._snap(value) for value in (to.x() - drag.at.x(), to.y() - drag.at.y()))
            self._put(drag.course, drag.kind, drag.rectangle, courses.shifted(drag.rectangle, dx, dy))

    def _snap(self, value: float) -> float:
        return courses.snapped(min(max(value, -courses.FARTHEST), courses.FARTHEST), self.grid)

    def _resized(self, rectangle: Rectangle, sides: tuple[str, ...], to: QPointF) -> Rectangle:
        """The sides at the mouse, but never past the opposite ones."""
        values = rectangle._asdict()
        least = self.grid or 0.01
        for side in sides:
            value = self._snap(to.x() if side in ("left", "right") else to.y())
            opposite = values[{"left": "right", "right": "left", "bottom": "top", "top": "bottom"}[side]]
            values[side] = min(value, opposite - least) if side in ("left", "bottom") else max(value, opposite + least)
        return Rectangle(**values)

    def _put(self, course: Course, kind: Kind, old: Rectangle | None, new: Rectangle, *, joins: bool = False) -> None:
        self.selected = (kind, new)
        self.session.set_course(
            "Edit the course", courses.with_rectangle(course, kind, new, instead_of=old), joins=joins
        )
        self.session.told.emit(
            f"{KINDS[kind]}: left {new.left:g}, bottom {new.bottom:g}, right {new.right:g}, top {new.top:g}".replace(
                "-", "−"
            )
        )
        self.changed.emit()

    def _move_start(self, x: float, y: float) -> None:
        drill = self.session.drill
        if drill is not None:
            self.session.set_drill("Start of the drill", drill.model_copy(update={"start": (x, y)}))
            self.session.told.emit(f"The body starts at {x:g}, {y:g}.".replace("-", "−"))
            self.changed.emit()

    def release(self) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.moving:
            self.session.end()
        self.changed.emit()

    # Keys

    def choose_next(self, by: int) -> None:
        everything = self._all()
        if everything:
            at = everything.index(self.selected) if self.selected in everything else -1 if by > 0 else 0
            self.selected = everything[(at + by) % len(everything)]
            kind, it = self.selected
            self.session.told.emit(
                f"{KINDS[kind]}: left {it.left:g}, bottom {it.bottom:g}, right {it.right:g}, top {it.top:g}".replace(
                    "-", "−"
                )
            )
            self.changed.emit()

    def nudge(self, dx: int, dy: int, *, resize: bool) -> None:
        """Move the selected rectangle, or its right and top sides, by steps of the grid."""
        if self.selected is None or self.course is None:
            return
        kind, old = self.selected
        step = self.grid or 0.05
        if resize:
            right, top = max(old.right + dx * step, old.left + step), max(old.top + dy * step, old.bottom + step)
            new = Rectangle(old.left, old.bottom, right, top)
        else:
            new = courses.shifted(old, dx * step, dy * step)
        self._put(self.course, kind, old, new, joins=True)

    def add_at(self, x: float, y: float) -> None:
        """A new rectangle of the chosen kind around a place."""
        if self.course is not None:
            size = max(self.grid, 0.25) * 4
            left, bottom = self._snap(x - size / 2), self._snap(y - size / 2)
            self._put(self.course, self.kind, None, Rectangle(left, bottom, left + size, bottom + size))

    def remove(self) -> None:
        if self.selected is None or self.course is None:
            return
        kind, rectangle = self.selected
        self.selected = None
        self.session.set_course(f"Remove a {KINDS[kind]}", courses.without_rectangle(self.course, kind, rectangle))
        self.changed.emit()

    def type_over(self, text: str) -> None:
        """Set the selected rectangle as typed; ValueError, in words, if it will not do."""
        if self.selected is not None and self.course is not None:
            self._put(self.course, self.selected[0], self.selected[1], courses.rectangle_from_text(text))
