"""The input: one lane for each key and each axis of a stick, all edited in place, frame by frame."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import cast

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QRegion, QResizeEvent
from PySide6.QtWidgets import QLineEdit, QMenu, QSizePolicy
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.lane_drawing import LaneDrawing
from cinetica.desk.compare.lane_editor import LaneEditor, Part, edit_words, press_words, push_words
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.compare.time_axis_widget import OnTimeAxis
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import OpensButton
from cinetica.model import takes
from cinetica.model.take import KEYS, Press, Take
from cinetica.model.takes import EVENTS, MOMENTS, STICKS, Event, Stick
from cinetica.reading.display_units import Scale

ARROWS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


@dataclass
class _Drag:
    """The drag in progress.

    Lane, press or push (None: a new one), which part of it, from where, and the take before.
    """

    lane: str
    thing: Press | Event | None
    part: Part
    frame: int
    at: QPointF
    take: Take
    moving: bool = False


class Hands(OnTimeAxis):
    """The lanes under mouse and keys: drag on an empty lane to add, drag an end or the middle to change.

    The strip above the lanes moves the frame cursor.
    """

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__(session, axis)
        self.editor = LaneEditor(session)
        self.drawing = LaneDrawing(self.editor, self)
        self._painted: tuple[object, ...] = ()
        # Whether a repaint is pending.
        self._asked = False
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Hands: keys and sticks by frame")
        self._drag: _Drag | None = None
        self.readout = ""
        self._editor: QLineEdit | None = None
        self.menu_button = OpensButton("Hands", self)
        self.menu_button.setObjectName("title")
        self.menu_button.setFont(look.font(9, bold=True))
        self.menu_button.setToolTip("Add and remove lanes, set the length of the drill")
        self.menu_button.setAccessibleName("Hands")
        self.menu = QMenu(self.menu_button)
        self.menu.aboutToShow.connect(self._fill_menu)
        self.menu_button.setMenu(self.menu)
        self.menu_button.move(look.px(8), self.drawing.top)
        session.cursor_moved.connect(self.move_cursor)
        session.drill_changed.connect(self._new_drill)
        session.drill_edited.connect(self._follow_drill)
        session.traces_changed.connect(self._follow_traces)
        session.gesture_ended.connect(self._end_gesture)

    def _end_gesture(self) -> None:
        self._drag, self.readout, self.editor.selected = None, "", None
        self.update()

    @property
    def take(self) -> Take | None:
        """The take of the current drill."""
        return self.editor.take

    @property
    def lanes(self) -> list[str]:
        """The names of the lanes."""
        return self.editor.lanes

    def spot_of(self, lane: str, frame: float) -> QPoint:
        """The pixel of a frame in a lane."""
        return self.drawing.spot_of(lane, frame)

    # What has changed

    def _new_drill(self) -> None:
        self.editor.reset()
        self._close_editor()
        self._resize()
        self.menu_button.adjustSize()

    def _resize(self) -> None:
        """Adapt the height to the number of lanes."""
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.repaint_lanes()

    def repaint_lanes(self) -> None:
        """Repaint all lanes once control returns to the event loop."""
        if not self._asked:
            self._asked = True
            # Without the titles: the button on them would be repainted, too.
            self.update(QRegion(self.rect()) - self.menu_button.geometry())

    def _follow_drill(self) -> None:
        """Follow an edited drill; the lanes stay while only the course is edited."""
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self._follow_traces()

    def _follow_traces(self) -> None:
        """Follow changed traces; the lanes stay during a drag, only the time at the cursor can change."""
        if not self._asked and self._painted != self._shown_now:
            self.repaint_lanes()

    @property
    def _shown_now(self) -> tuple[object, ...]:
        session = self.session
        return self.take, session.cursor, session.time_at(session.cursor)

    @override
    def sizeHint(self) -> QSize:
        return QSize(
            ROOM.left + ROOM.right + 40,
            max(self.drawing.height, self.drawing.top + self.menu_button.sizeHint().height()) + 2,
        )

    minimumSizeHint = sizeHint

    # The menu

    def _fill_menu(self) -> None:
        self.menu.clear()
        lanes = self.lanes
        add = self.menu.addMenu("Add a lane")
        for name in (*KEYS, *STICKS, *MOMENTS):
            if name not in lanes and f"{name} x" not in lanes:
                add.addAction(name, partial(self.add_lane, name))
        remove = self.menu.addMenu("Remove a lane")
        for name in dict.fromkeys(lane.split()[0] for lane in lanes):
            remove.addAction(name, partial(self.remove_lane, name))
        self.menu.addSeparator()
        self.menu.addAction("Length of the drill…", self.ask_length)

    def add_lane(self, name: str) -> None:
        """Add an empty lane to drag on."""
        self.editor.add_lane(name)
        self._resize()

    def remove_lane(self, name: str) -> None:
        """Remove a lane with everything in it; undo restores it."""
        self.editor.remove_lane(name)
        self._resize()

    def ask_length(self) -> None:
        """Type the length of the drill over the first lane."""
        if self.take is not None:
            where = QRectF(ROOM.left, self.drawing.top, look.width("000000", 9) + look.px(18), self.drawing.lane)
            self._open_editor(where, str(self.take.length), "Length of the drill in frames", self._set_length)

    def _set_length(self, text: str) -> None:
        take = self.take
        if take is None:
            return
        if not text.strip().isdigit():
            raise ValueError(f"“{text}” is not a length: type a whole number of frames.")
        self.session.set_take("Length of the drill", takes.with_length(take, int(text)))
        self.axis.fit()

    # Painting

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        self._painted, self._asked = self._shown_now, False
        with QPainter(self) as painter:
            self.drawing.paint(painter, self._draw_drag)

    def _draw_drag(self, canvas: Canvas) -> None:
        """Draw the frames of what is dragged, above its lane."""
        if self._drag is not None and self.readout:
            drawing, lane = self.drawing, self._drag.lane
            y = drawing.top + self.lanes.index(lane) * drawing.lane if lane in self.lanes else 0
            drawing.draw_flag(canvas, self._drag.at.x(), self.readout, max(1.0, y - drawing.top + 3))

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._close_editor()

    # The mouse

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._close_editor()
        found = self.drawing.thing_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton or found is None or self.take is None:
            self._to_cursor(event)
            return
        lane, thing, part = found
        self.editor.current = self.lanes.index(lane)
        self.editor.selected = (lane, thing) if thing is not None else None
        frame = (
            self.drawing.edge_at(event.position().x())
            if thing is not None
            else self.drawing.frame_at(event.position().x())
        )
        self._drag = _Drag(lane, thing, part, frame, event.position(), self.take)
        self.update()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drag = self._drag
        if drag is None:
            self._to_cursor(event)
            self._show_grip(event.position())
            return
        if not drag.moving:
            if (event.position() - drag.at).manhattanLength() < 3:
                return
            drag.moving = True
            self.session.begin(edit_words(drag.lane))
        drag.at = event.position()
        (self._drag_press if drag.lane in KEYS else self._drag_push)(drag)
        self.repaint_lanes()

    def _drag_press(self, drag: _Drag) -> None:
        edge, old = self.drawing.edge_at(drag.at.x()), cast("Press | None", drag.thing)
        if old is None:
            press = takes.fitted(drag.take, drag.frame, max(edge, drag.frame + 1) if edge > drag.frame else edge)
        elif drag.part == "middle":
            press = takes.moved(drag.take, old, edge - drag.frame)
        elif drag.part == "start":
            press = takes.fitted(drag.take, min(edge, old.end - 1), old.end)
        else:
            press = takes.fitted(drag.take, old.start, max(edge, old.start + 1))
        self.editor.put_press(drag.lane, drag.take, old, press)
        outside = edge < 0 or edge > drag.take.length
        self.readout = press_words(press) + (f" · the take has {drag.take.length} frames" if outside else "")

    def _drag_push(self, drag: _Drag) -> None:
        name, axis = drag.lane.split()
        stick = cast(Stick, name)
        y = self.drawing.top + self.lanes.index(drag.lane) * self.drawing.lane
        share = min(1.0, max(-1.0, (y + self.drawing.lane / 2 - drag.at.y()) / self.drawing.swing))
        value = round(share * takes.extent(drag.take, stick), 0 if stick == "mouse" else 2)
        frame = self.drawing.frame_at(drag.at.x()) if drag.thing is None else self.drawing.edge_at(drag.at.x())
        old = cast("Event | None", drag.thing)
        x, other = (old[1], old[2]) if old else takes.stick_at(drag.take, stick, frame)
        push = EVENTS[stick](frame, *((value, other) if axis == "x" else (x, value)))
        self.readout = push_words(self.editor.put_push(stick, drag.lane, drag.take, old, push), self.session.units)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag, self.readout = self._drag, None, ""
        if drag is None:
            return
        if drag.moving:
            self.session.end()
        elif drag.thing is None:
            # A click on an empty lane edits nothing: it moves the cursor.
            self.session.set_cursor(self.axis.row_at(self.axis.time(event.position().x(), self.width())))
        self.update()

    def _show_grip(self, at: QPointF) -> None:
        found = self.drawing.thing_at(at)
        shapes = {
            "start": Qt.CursorShape.SizeHorCursor,
            "end": Qt.CursorShape.SizeHorCursor,
            "middle": Qt.CursorShape.OpenHandCursor,
        }
        self.setCursor(
            shapes[found[2]]
            if found and found[1] is not None
            else Qt.CursorShape.CrossCursor
            if found
            else Qt.CursorShape.ArrowCursor
        )
        if found and found[1] is not None:
            words = press_words(found[1]) if isinstance(found[1], Press) else push_words(found[1], self.session.units)
            self.setToolTip(
                f"{found[0]}: {words}. Drag an end or the middle; double-click to type frames; Delete removes."
            )
        else:
            self.setToolTip("Drag to add. A click moves the frame cursor." if found else "")

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self.drawing.thing_at(event.position())
        self._drag = None
        if found is not None and found[1] is not None:
            self.editor.selected = (found[0], found[1])
            self.type_frames()

    # Typing exact frames

    def type_frames(self) -> None:
        """Open a line over the selected press or push to type its frames."""
        if self.editor.selected is None or self.take is None:
            return
        lane, thing = self.editor.selected
        y = self.drawing.top + self.lanes.index(lane) * self.drawing.lane
        x = self.at((thing.start if isinstance(thing, Press) else thing.frame) / self.take.rate)
        if isinstance(thing, Press):
            text = f"{thing.start} {thing.end}"
        else:
            across, up = self._scales(lane)
            text = f"{thing.frame} {across.shown(thing[1]):.10g} {up.shown(thing[2]):.10g}"
        name = (
            f"{lane}: first frame, and the frame of the release"
            if isinstance(thing, Press)
            else f"{lane}: frame, x and y"
        )
        self._open_editor(
            QRectF(x, y, look.width("00000 −0.00 −0.00", 9) + look.px(18), self.drawing.lane),
            text,
            name,
            self._set_frames,
        )

    def _set_frames(self, text: str) -> None:
        take = self.take
        if self.editor.selected is None or take is None:
            return
        lane, thing = self.editor.selected
        if isinstance(thing, Press):
            self.editor.put_press(lane, take, thing, takes.press_from_text(take, text))
        else:
            stick, scales = cast(Stick, lane.split()[0]), self._scales(lane)
            frame, x, y = takes.push_from_text(take, text, stick)
            typed = EVENTS[stick](frame, scales[0].kept(x), scales[1].kept(y))
            self.editor.put_push(stick, lane, take, thing, typed)

    def _scales(self, lane: str) -> tuple[Scale, Scale]:
        """The scales of what is typed across and up: shoves are velocities, all others are as they are."""
        if lane.split()[0] != "shoves":
            return Scale(""), Scale("")
        return self.session.units.column("vx"), self.session.units.column("vy")

    def _open_editor(self, rect: QRectF, text: str, name: str, take_over: object) -> None:
        self._close_editor()
        editor = self._editor = QLineEdit(text, self)
        editor.setAccessibleName(name)
        editor.setPlaceholderText(name)
        editor.setToolTip(name)
        editor.setFont(look.font(9))
        left = min(max(round(rect.left()), ROOM.left), self.width() - ROOM.right - round(rect.width()))
        editor.setGeometry(left, round(rect.top()), round(rect.width()), round(rect.height()))
        editor.selectAll()
        editor.show()
        editor.setFocus()
        editor.returnPressed.connect(partial(self._take_over, take_over))

    def _take_over(self, take_over: object) -> None:
        """Apply what was typed; if it is invalid, say why and keep the line open."""
        if self._editor is None:
            return
        try:
            take_over(self._editor.text())  # type: ignore[operator]
        except ValueError as error:
            self.session.refused.emit(str(error))
            return
        self._close_editor()
        self.setFocus()
        self.update()

    def _close_editor(self) -> None:
        if self._editor is not None:
            editor, self._editor = self._editor, None
            editor.hide()
            editor.deleteLater()

    # Keys

    @override
    def event(self, event: QEvent) -> bool:
        # While something is selected, the arrows move it; otherwise they step the frame cursor.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            arrows = event.key() in ARROWS and self.editor.selected is not None
            escape = event.key() == Qt.Key.Key_Escape and (self.editor.selected is not None or self._editor is not None)
            if arrows or escape or (event.key() == Qt.Key.Key_Delete):
                event.accept()
                return True
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, modifiers = event.key(), event.modifiers()
        if key == Qt.Key.Key_Escape:
            self._close_editor()
            self.editor.selected = None
            self.setFocus()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.editor.choose_lane(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self.editor.choose_next(-1 if key == Qt.Key.Key_PageUp else 1)
        elif key == Qt.Key.Key_Insert:
            self.editor.insert()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.type_frames()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.editor.remove_selected()
        elif key in ARROWS and self.editor.selected is not None:
            part: Part = (
                "end"
                if modifiers & Qt.KeyboardModifier.ShiftModifier
                else "start"
                if modifiers & Qt.KeyboardModifier.AltModifier
                else "middle"
            )
            self.editor.nudge(ARROWS[Qt.Key(key)], part)
        else:
            super().keyPressEvent(event)
            return
        self.update()

    @override
    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.update()
