"""Editing the course in place: shapes are dragged, added, removed and typed, and the start is dragged."""

from __future__ import annotations

from dataclasses import dataclass

import pyqtgraph as pg
from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QTransform
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.start_editor import NAME, StartEditor
from cinetica.desk.paint.course import rect_of
from cinetica.desk.state.session import Session
from cinetica.model import courses
from cinetica.model.course import Course, Slope, Zone
from cinetica.model.courses import KINDS, Kind, Shape
from cinetica.model.world_size import world_size
from cinetica.reading.display_units import DisplayUnits

GRIP = 7.0
HOW_TO_START = "Drag to move it, with Alt to pull out its velocity; the ring turns it."


@dataclass
class _Drag:
    """What is dragged from where: handles of a shape (none: all of it), a new shape, or a handle of the start."""

    at: QPointF
    course: Course
    start: tuple[float, float]
    kind: Kind
    shape: Shape | None
    reach: QPointF
    handles: tuple[str, ...] = ()
    of_start: str = ""
    moving: bool = False


class SelectionItem(pg.GraphicsObject):
    """The outline of the selected shape with its grips and the angle of a slope, and the start.

    The start is a cross with the arrow of its velocity; where it is selected, with the line of its heading, too.
    """

    def __init__(self) -> None:
        super().__init__()
        self.start = self.tip = QPointF()
        self.ring: QPointF | None = None
        self.shape_: Shape | None = None
        self._angle = ""
        self.setZValue(40)
        self.hide()

    def show_selection(self, shape: Shape | None, start: StartEditor, units: DisplayUnits, *, chosen: bool) -> None:
        """Set what is shown from the next repaint on; `chosen`: whether the start is selected."""
        assert start.drill is not None
        self.shape_, self.start = shape, QPointF(*start.drill.start)
        self.tip, self.ring = start.tip(), start.ring() if chosen else None
        self._angle = units.slope(shape.angle) if isinstance(shape, Slope) else ""

    @override
    def boundingRect(self) -> QRectF:
        box = self.getViewBox()
        return QRectF() if box is None else QRectF(box.viewRect())

    @override
    def paint(self, painter: QPainter, *_: object) -> None:
        transform = painter.transform()
        painter.resetTransform()
        # Never outside the paper: what is painted there is not repainted with it.
        painter.setClipRect(transform.mapRect(self.boundingRect()), Qt.ClipOperation.IntersectClip)
        at = transform.map(self.start)
        painter.setPen(QPen(QColor(look.palette().accent), 2))
        painter.drawLine(at + QPointF(-7, 0), at + QPointF(7, 0))
        painter.drawLine(at + QPointF(0, -7), at + QPointF(0, 7))
        self._paint_start(painter, at, transform)
        if isinstance(self.shape_, Slope):
            one, other = (
                transform.map(QPointF(x, y))
                for x, y in ((self.shape_.x0, self.shape_.y0), (self.shape_.x1, self.shape_.y1))
            )
            painter.drawLine(one, other)
            self._paint_angle(painter, (one + other) / 2, self._angle)
            grips = [one, other]
        elif self.shape_ is not None:
            rect = transform.mapRect(rect_of(self.shape_.box if isinstance(self.shape_, Zone) else self.shape_))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)
            middle = rect.center()
            grips = [
                QPointF(rect.left(), middle.y()), QPointF(rect.right(), middle.y()),
                QPointF(middle.x(), rect.top()), QPointF(middle.x(), rect.bottom()),
            ]  # fmt: skip
        else:
            return
        painter.setBrush(QColor(look.palette().paper))
        for grip in grips:
            painter.drawRect(QRectF(grip.x() - 3.5, grip.y() - 3.5, 7, 7))

    def _paint_start(self, painter: QPainter, at: QPointF, transform: QTransform) -> None:
        """Paint the velocity and, where the start is selected, the heading."""
        painter.setBrush(QColor(look.palette().paper))
        if self.ring is not None:
            ring = transform.map(self.ring)
            painter.drawLine(at, ring)
            painter.drawEllipse(ring, 4.5, 4.5)
        if self.tip != self.start:
            tip = transform.map(self.tip)
            painter.drawLine(at, tip)
            if self.ring is not None:
                painter.drawRect(QRectF(tip.x() - 3.5, tip.y() - 3.5, 7, 7))

    def _paint_angle(self, painter: QPainter, middle: QPointF, text: str) -> None:
        """Paint the angle above the middle of a slope, on its own background."""
        painter.setFont(look.font(9, bold=True))
        wide, high = look.width(text, 9, bold=True) + look.px(8), look.height(9, bold=True) + 2
        room = QRectF(middle.x() - wide / 2, middle.y() - high - look.px(8), wide, high)
        painter.fillRect(room, QColor(look.palette().paper))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, text)


class CourseEditor(QObject):
    """Turns presses, moves and keys on the stage into edits of the course. Positions are in u."""

    changed = Signal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.on = False
        self.kind: Kind = "solids"
        # What the next zone does.
        self.preset = courses.ICE
        # As set by the user; None follows the size of the world.
        self._own_grid: float | None = None
        self.selected: tuple[Kind, Shape] | None = None
        self.start = StartEditor(session, self._snap)
        # Whether the start is selected, instead of a shape.
        self.start_chosen = False
        self._drag: _Drag | None = None
        session.drill_changed.connect(self._forget)
        session.drill_edited.connect(self._check)
        session.gesture_ended.connect(self._end_gesture)

    @property
    def grid(self) -> float:
        """The grid that edges snap to, in u; 0 for none."""
        return courses.GRID * world_size(self.session.reference) if self._own_grid is None else self._own_grid

    @grid.setter
    def grid(self, grid: float) -> None:
        self._own_grid = grid

    def turn(self, on: bool) -> None:
        """Turn editing on or off."""
        self.on = on
        self.selected = self._drag = None
        self.start_chosen = False
        self.changed.emit()

    def _end_gesture(self) -> None:
        self._drag = None
        self._check()

    def _forget(self) -> None:
        self.turn(False)

    def _check(self) -> None:
        """Clear the selection if an undo removed the shape."""
        if self.selected and self.course is not None and self.selected[1] not in getattr(self.course, self.selected[0]):
            self.selected = None
        self.changed.emit()

    @property
    def course(self) -> Course | None:
        """The course of the current drill."""
        return self.session.drill.course if self.session.drill else None

    @property
    def has_selected(self) -> bool:
        """Whether a shape or the start is selected."""
        return self.start_chosen or self.selected is not None

    def _all(self) -> list[tuple[Kind, Shape]]:
        course = self.course
        return [] if course is None else [(kind, shape) for kind in KINDS for shape in getattr(course, kind)]

    def found(self, at: QPointF, reach: QPointF) -> tuple[Kind, Shape, tuple[str, ...]] | None:
        """The shape at a place, and its handles within `reach`; the selected one first, then the last drawn."""
        selected = [self.selected] if self.selected else []
        for kind, shape in [*selected, *reversed(self._all())]:
            handles = courses.handles_at(shape, (at.x(), at.y()), (reach.x(), reach.y()))
            if handles is not None:
                return kind, shape, handles
        return None

    def held_at(
        self, at: QPointF, reach: QPointF, *, moves: bool = False
    ) -> tuple[Kind, Shape, tuple[str, ...]] | None:
        """What a drag from a place would change; None where it would draw a new shape.

        That is the selected shape by its handles; with `moves` any shape, and by its inside too.
        """
        found = self.found(at, reach)
        if found is None or moves:
            return found
        return found if found[2] and found[:2] == self.selected else None

    def press(self, at: QPointF, reach: QPointF, *, moves: bool = False) -> None:
        """Begin to drag, or to draw, at a place; `moves`: see `held_at`."""
        drill = self.session.drill
        if drill is None:
            return
        start = drill.start
        if handle := self.start.handle_at(at, reach, chosen=self.start_chosen, pulls=moves):
            self._choose_start()
            self._drag = _Drag(at, drill.course, start, self.kind, None, reach, of_start=handle)
            return
        self.start_chosen = False
        found = self.held_at(at, reach, moves=moves)
        if found is None:
            self._drag = _Drag(at, drill.course, start, self.kind, None, reach)
        else:
            kind, shape, handles = found
            self.selected = (kind, shape)
            self._drag = _Drag(at, drill.course, start, kind, shape, reach, handles)
        self.changed.emit()

    def move(self, to: QPointF) -> None:
        """Continue the drag."""
        drag = self._drag
        if drag is None:
            return
        if not drag.moving:
            drag.moving = True
            self.session.begin(
                NAME if drag.of_start else "Edit the course" if drag.shape else f"Add a {KINDS[drag.kind]}"
            )
        by = to - drag.at
        if drag.of_start:
            self.start.drag(drag.of_start, drag.start, by, to)
            self.changed.emit()
        elif drag.shape is None:
            new = courses.between(drag.kind, self._place(drag, drag.at), self._place(drag, to), self.grid, self.preset)
            self._put(drag.course, drag.kind, None, new)
        elif drag.handles:
            new = courses.dragged(drag.shape, drag.handles, self._place(drag, to), self.grid)
            self._put(drag.course, drag.kind, drag.shape, new)
        else:
            new = courses.shifted(drag.shape, self._snap(by.x()), self._snap(by.y()))
            self._put(drag.course, drag.kind, drag.shape, new)

    def _snap(self, value: float) -> float:
        return courses.snapped(courses.within(value), self.grid)

    def _place(self, drag: _Drag, at: QPointF) -> courses.Place:
        """A place on the grid; the end of a slope snaps to a corner, or to the end of another, within the grip."""
        if drag.kind == "slopes" and self.grid:
            for x, y in courses.corners(drag.course, drag.shape):
                if abs(at.x() - x) <= drag.reach.x() and abs(at.y() - y) <= drag.reach.y():
                    return x, y
        return self._snap(at.x()), self._snap(at.y())

    def _put(self, course: Course, kind: Kind, old: Shape | None, new: Shape, *, joins: bool = False) -> None:
        self.selected = (kind, new)
        self.session.set_course("Edit the course", courses.with_shape(course, kind, new, instead_of=old), joins=joins)
        self.session.message.emit(self._words(kind, new))
        self.changed.emit()

    def _choose_start(self) -> None:
        """Select the start, and say what it is and what can be done with it."""
        self.selected, self.start_chosen = None, True
        self.session.message.emit(f"{self.start.words} {HOW_TO_START}")
        self.changed.emit()

    def release(self) -> None:
        """End the drag."""
        drag, self._drag = self._drag, None
        if drag is not None and drag.moving:
            self.session.end()
        elif drag is not None and drag.shape is None and not drag.of_start:
            # A click draws nothing: it selects what is there.
            found = self.found(drag.at, drag.reach)
            self.selected = found[:2] if found else None
            if self.selected is not None:
                self.session.message.emit(self._words(*self.selected))
        self.changed.emit()

    def _words(self, kind: Kind, shape: Shape) -> str:
        return courses.words(kind, shape, self.session.units.place, self.session.units.slope, self.does)

    # Keys

    def choose_next(self, by: int) -> None:
        """Select the next or previous shape; the start comes before the first."""
        if self.session.drill is None:
            return
        everything = [None, *self._all()]
        at = everything.index(self.selected) if self.selected in everything else 0
        chosen = everything[(at + by) % len(everything)]
        if chosen is None:
            self._choose_start()
            return
        self.selected, self.start_chosen = chosen, False
        self.session.message.emit(self._words(*chosen))
        self.changed.emit()

    def nudge(self, dx: int, dy: int, *, resize: bool) -> None:
        """Move the selected shape, or its right and top sides or right end, by steps of the grid.

        The start is moved likewise, or its velocity changed.
        """
        step = self.grid or 0.05 * world_size(self.session.reference)
        if self.start_chosen and self.session.drill is not None:
            self.start.nudge(dx, dy, step, velocity=resize)
            self.changed.emit()
            return
        if self.selected is None or self.course is None:
            return
        kind, old = self.selected
        if resize:
            new = courses.grown(old, dx * step, dy * step, step)
        else:
            new = courses.shifted(old, dx * step, dy * step)
        self._put(self.course, kind, old, new, joins=True)

    def add_at(self, x: float, y: float) -> None:
        """Add a shape of the current kind around a place."""
        if self.course is not None:
            size = max(self.grid, courses.GRID * world_size(self.session.reference)) * 4
            left, bottom = self._snap(x - size / 2), self._snap(y - size / 2)
            top = bottom + (size / 2 if self.kind == "slopes" else size)
            new = courses.between(self.kind, (left, bottom), (left + size, top), self.grid, self.preset)
            self._put(self.course, self.kind, None, new)

    def remove(self) -> None:
        """Remove the selected shape."""
        if self.selected is None or self.course is None:
            return
        kind, shape = self.selected
        self.selected = None
        self.session.set_course(f"Remove a {KINDS[kind]}", courses.without_shape(self.course, kind, shape))
        self.changed.emit()

    def copy_text(self) -> str:
        """The selected shape as text, such as “solid 0 -1 4 0”; empty if none is selected."""
        if self.selected is None:
            return ""
        kind, shape = self.selected
        does = f" {courses.zone_words(shape)}" if isinstance(shape, Zone) else ""
        return f"{KINDS[kind]} {courses.numbers_text(shape)}{does}"

    def paste(self, text: str) -> None:
        """Add a shape from text, as `copy_text` writes it or four numbers, beside the one it was copied from."""
        kinds = {words: kind for kind, words in KINDS.items()}
        named = next((words for words in kinds if text.strip().startswith(words)), "")
        kind = kinds[named] if named else self.kind
        try:
            shape = courses.shape_from_text(kind, text.strip().removeprefix(named))
        except ValueError as error:
            self.session.refused.emit(str(error))
            return
        self._add_beside(kind, shape)

    def duplicate(self) -> None:
        """Add a copy of the selected shape beside it."""
        if self.selected is not None:
            self._add_beside(*self.selected)

    def _add_beside(self, kind: Kind, shape: Shape) -> None:
        if self.course is not None:
            step = 2 * (self.grid or courses.GRID * world_size(self.session.reference))
            while shape in getattr(self.course, kind):
                shape = courses.shifted(shape, step, step)
            self._put(self.course, kind, None, shape)

    @property
    def zone(self) -> Zone | None:
        """The selected zone, if it is one."""
        shape = self.selected[1] if self.selected else None
        return shape if isinstance(shape, Zone) else None

    def choose_preset(self, name: str) -> None:
        """Let the selected zone, and the next ones that are drawn, do what the preset of this name does."""
        self.preset = name
        if self.zone is not None and self.course is not None:
            self._put(self.course, "zones", self.zone, Zone(box=self.zone.box, **courses.PRESETS[name]))

    def type_over(self, text: str) -> None:
        """Set the selected shape, or the start, as typed; ValueError if the text is invalid."""
        if self.start_chosen:
            self.start.type_over(text)
            self.changed.emit()
        elif self.selected is not None and self.course is not None:
            kind, shape = self.selected
            self._put(self.course, kind, shape, self._typed(kind, text))

    def _typed(self, kind: Kind, text: str) -> Shape:
        units = self.session.units
        if kind != "zones":
            return courses.shape_from_text(kind, text, units.kept_place)
        across, up, drag = units.column("ax"), units.column("ay"), units.scale("/s")
        return courses.zone_from_text(
            text, units.kept_place, lambda x, y: (across.kept(x), up.kept(y)), lambda rate: drag.kept(rate)
        )

    def text_of(self, shape: Shape) -> str:
        """A shape as it is typed, in the units that are shown."""
        units = self.session.units
        numbers = courses.numbers_text(shape, units.place)
        return f"{numbers} {self.does(shape)}" if isinstance(shape, Zone) else numbers

    def does(self, zone: Zone) -> str:
        """What a zone does, in the units that are shown."""
        units = self.session.units
        across, up, drag = units.column("ax"), units.column("ay"), units.scale("/s")
        return courses.zone_words(zone, lambda x, y: (across.shown(x), up.shown(y)), lambda rate: drag.shown(rate))
