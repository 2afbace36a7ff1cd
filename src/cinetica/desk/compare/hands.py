"""The hands: one lane for each key, one for each axis of a stick, all of them edited in place, frame by frame."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Literal, cast

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QLineEdit, QMenu, QSizePolicy

from cinetica.desk import look
from cinetica.desk.compare.on_time_axis import OnTimeAxis
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.paint.kept import Kept
from cinetica.desk.paint.signs import paint_triangle
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import OpensButton
from cinetica.model import hands
from cinetica.model.hands import STICKS, Stick
from cinetica.model.take import KEYS, Press, Push, Take

Part = Literal["start", "end", "middle"]
GRIP = 5
NEW_PRESS = 6
ARROWS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


@dataclass
class _Drag:
    """What is being dragged: in which lane, which press or push (none: a new one), by which part, from where, over
    which take."""

    lane: str
    thing: Press | Push | None
    part: Part
    frame: int
    at: QPointF
    take: Take
    moving: bool = False


class Hands(OnTimeAxis):
    """Drag on an empty lane to add, drag an end or the middle to change; the strip above the lanes moves the frame
    cursor."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(session, axis, palette)
        self.lane, self.top = look.height(8) + look.px(8), look.height(8, bold=True) + 5
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Hands: keys and sticks by frame")
        self.selected: tuple[str, Press | Push] | None = None
        self.current_lane = 0
        self._added: list[str] = []
        self._drag: _Drag | None = None
        self._said = ""
        self._picture = Kept()
        self._editor: QLineEdit | None = None
        self.menu_button = OpensButton("Hands", self)
        self.menu_button.setObjectName("title")
        self.menu_button.setFont(look.font(9, bold=True))
        self.menu_button.setToolTip("Add and remove lanes, set the length of the drill")
        self.menu_button.setAccessibleName("Hands")
        self.menu = QMenu(self.menu_button)
        self.menu.aboutToShow.connect(self._fill_menu)
        self.menu_button.setMenu(self.menu)
        self.menu_button.move(look.px(8), self.top)
        session.cursor_moved.connect(self.move_cursor)
        session.drill_changed.connect(self._new_drill)
        session.drill_edited.connect(self._resize)
        session.traces_changed.connect(self._resize)
        session.let_go.connect(self._let_go)

    def _let_go(self) -> None:
        self._drag, self._said, self.selected = None, "", None
        self.update()

    def _new_drill(self) -> None:
        self._added, self.selected, self.current_lane = [], None, 0
        self._close_editor()
        self._resize()

    def _resize(self) -> None:
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.menu_button.adjustSize()
        self.update()

    @property
    def take(self) -> Take | None:
        return self.session.drill.take if self.session.drill else None

    @property
    def lanes(self) -> list[str]:
        """Those that the take uses, and those that the person has added."""
        take = self.take
        if take is None:
            return []
        sticks = [stick for stick in STICKS if getattr(take, stick) or stick in self._added]
        return [key for key in KEYS if getattr(take.keys, key) or key in self._added] + [
            f"{stick} {axis}" for stick in sticks for axis in "xy"
        ]

    def sizeHint(self) -> QSize:
        return QSize(
            ROOM.left + ROOM.right + 40,
            self.top + max(self.lane * max(1, len(self.lanes)), self.menu_button.sizeHint().height()) + 2,
        )

    minimumSizeHint = sizeHint

    # The menu

    def _fill_menu(self) -> None:
        self.menu.clear()
        lanes = self.lanes
        add = self.menu.addMenu("Add a lane")
        for name in (*KEYS, *STICKS):
            if name not in lanes and f"{name} x" not in lanes:
                add.addAction(name, partial(self.add_lane, name))
        remove = self.menu.addMenu("Remove a lane")
        for name in dict.fromkeys(lane.split()[0] for lane in lanes):
            remove.addAction(name, partial(self.remove_lane, name))
        self.menu.addSeparator()
        self.menu.addAction("Length of the drill…", self.ask_length)

    def add_lane(self, name: str) -> None:
        """An empty lane to drag on."""
        self._added.append(name)
        self.current_lane = next(place for place, lane in enumerate(self.lanes) if lane.split()[0] == name)
        self._resize()
        self.session.told.emit(f"Drag on the lane “{name}” to hold it, or press Insert to hold it at the frame cursor.")

    def remove_lane(self, name: str) -> None:
        """The lane with all that is in it; an undo brings it back."""
        take = self.take
        self._added = [other for other in self._added if other != name]
        if take is not None:
            emptied = hands.with_presses(take, name, ()) if name in KEYS else take.model_copy(update={name: ()})
            self.session.set_take(f"Remove the lane {name}", emptied)
        self.selected = None
        self._resize()

    def ask_length(self) -> None:
        """Type the length of the drill in the place of the first lane."""
        if self.take is not None:
            where = QRectF(ROOM.left, self.top, look.width("000000", 9) + look.px(18), self.lane)
            self._open_editor(where, str(self.take.length), "Length of the drill in frames", self._set_length)

    def _set_length(self, text: str) -> None:
        take = self.take
        if take is None:
            return
        if not text.strip().isdigit():
            raise ValueError(f"“{text}” is no length: type a whole number of frames.")
        self.session.set_take("Length of the drill", hands.with_length(take, int(text)))
        self.axis.fit()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        chosen = (self.selected, self.current_lane, tuple(self._added), self.hasFocus())
        drawn = (self.session.drill, self.axis.start, self.axis.end, self.look, chosen)
        self._picture.lay(painter, QRectF(self.rect()), QColor(self.look.paper), drawn, self._paint_lanes)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_flag(painter)
        if self._said and self._drag is not None:
            self._paint_said(painter)

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(self.width() - ROOM.right, 0, 1, self.height()), QColor(self.look.grid))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, self.width() - ROOM.right + 1, self.height()))
        painter.setFont(look.font(8))
        take, lanes = self.take, self.lanes
        if take is not None and not lanes:
            painter.setPen(QColor(self.look.soft))
            area = QRectF(ROOM.left, self.top, self.width() - ROOM.left - ROOM.right, self.lane)
            words = "The hands do nothing yet: add a lane from the menu Hands."
            words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(area.width()))
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)
        for number, name in enumerate(lanes):
            y = self.top + number * self.lane
            here = number == self.current_lane and self.hasFocus()
            color = QColor(self.look.accent if here else self.look.soft)
            painter.setPen(color)
            painter.drawText(
                QRectF(0, y, ROOM.left - 8, self.lane),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                name,
            )
            if here:
                x = ROOM.left - 8 - look.width(name, 8) - look.px(7)
                paint_triangle(painter, QPointF(x, y + self.lane / 2), look.px(8), "right", color)
            painter.setPen(QColor(self.look.grid_fine))
            painter.drawLine(
                QPointF(ROOM.left, y + self.lane - 0.5), QPointF(self.width() - ROOM.right, y + self.lane - 0.5)
            )
            assert take is not None
            if name in KEYS:
                self._paint_presses(painter, y, name, take)
            else:
                self._paint_stick(painter, y, name, take)
        self._paint_end(painter, take)

    def _paint_end(self, painter: QPainter, take: Take | None) -> None:
        """Where the take ends."""
        if take is not None and (x := self.at(take.seconds)) < self.width() - ROOM.right:
            painter.setPen(QPen(QColor(self.look.soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, self.top), QPointF(x, self.height()))

    def _rect(self, press: Press, y: float, rate: float) -> QRectF:
        left, right = self.at(press.start / rate), self.at(press.end / rate)
        return QRectF(max(left, ROOM.left), y + 4, right - max(left, ROOM.left), self.lane - 9)

    def _paint_presses(self, painter: QPainter, y: float, name: str, take: Take) -> None:
        for press in hands.presses_of(take, name):
            rect = self._rect(press, y, take.rate)
            if rect.width() <= 0:
                continue
            selected = self.selected == (name, press)
            painter.setPen(QPen(QColor(self.look.ink), 2) if selected else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self.look.accent))
            painter.drawRoundedRect(rect, 3, 3)

    def _paint_stick(self, painter: QPainter, y: float, name: str, take: Take) -> None:
        """The stick's axis as steps between -1 and 1, with a dot for each push."""
        stick, axis = name.split()
        points = [QPointF(self.at(0), self._height_of(0.0, y))]
        dots: list[tuple[Push, QPointF]] = []
        for push in hands.pushes_of(take, cast(Stick, stick)):
            at = QPointF(self.at(push.frame / take.rate), self._height_of(push.x if axis == "x" else push.y, y))
            points += [QPointF(at.x(), points[-1].y()), at]
            dots.append((push, at))
        points.append(QPointF(self.at(take.seconds), points[-1].y()))
        painter.save()
        painter.setClipRect(QRectF(ROOM.left - 4, y, self.width() - ROOM.right - ROOM.left + 4, self.lane))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.look.accent), 1.5))
        painter.drawPolyline(QPolygonF(points))
        for push, at in dots:
            selected = self.selected is not None and self.selected[0].split()[0] == stick and self.selected[1] == push
            painter.setPen(QPen(QColor(self.look.ink), 2) if selected else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self.look.accent))
            painter.drawEllipse(at, 3.0, 3.0)
        painter.restore()

    def _height_of(self, value: float, y: float) -> float:
        return y + self.lane / 2 - (self.lane / 2 - 3) * value

    def _paint_flag(self, painter: QPainter) -> None:
        x = self.paint_cursor(painter, self.top - 2, self.height())
        self._paint_label(painter, x, str(self.session.cursor), 1)

    def _paint_said(self, painter: QPainter) -> None:
        """The frames of what is being dragged, over its lane."""
        assert self._drag is not None
        y = self.top + self.lanes.index(self._drag.lane) * self.lane if self._drag.lane in self.lanes else 0
        self._paint_label(painter, self._drag.at.x(), self._said, max(1.0, y - self.top + 3))

    def _paint_label(self, painter: QPainter, x: float, text: str, y: float) -> None:
        painter.setFont(look.font(8, bold=True))
        width = painter.fontMetrics().horizontalAdvance(text) + 14
        left = min(max(x - width / 2, 2.0), self.width() - width - 2)
        flag = QRectF(left, y, width, self.top - 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.look.ink))
        painter.drawRoundedRect(flag, 3, 3)
        painter.setPen(QColor(self.look.paper))
        painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, text)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._close_editor()

    # The mouse

    def _lane_at(self, y: float) -> str | None:
        number = int((y - self.top) // self.lane)
        return self.lanes[number] if y >= self.top and 0 <= number < len(self.lanes) else None

    def frame_at(self, x: float) -> int:
        """The frame of the take under a pixel."""
        return int(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0) + 1e-6)

    def _edge_at(self, x: float) -> int:
        """The border between frames that is nearest to a pixel."""
        return round(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0))

    def thing_at(self, at: QPointF) -> tuple[str, Press | Push | None, Part] | None:
        """The lane under the mouse, and in it the press or push, and which part of it."""
        lane, take = self._lane_at(at.y()), self.take
        if lane is None or take is None or at.x() < ROOM.left - GRIP or at.x() > self.width() - ROOM.right + GRIP:
            return None
        y = self.top + self.lanes.index(lane) * self.lane
        if lane in KEYS:
            for press in hands.presses_of(take, lane):
                rect = self._rect(press, y, take.rate)
                grip = min(GRIP, max(1.0, rect.width() / 4))
                if rect.left() - GRIP <= at.x() <= rect.right() + GRIP:
                    part: Part = (
                        "start" if at.x() < rect.left() + grip else "end" if at.x() > rect.right() - grip else "middle"
                    )
                    return lane, press, part
            return lane, None, "end"
        pushes = hands.pushes_of(take, cast(Stick, lane.split()[0]))
        near = [push for push in pushes if abs(self.at(push.frame / take.rate) - at.x()) <= GRIP]
        return lane, near[0] if near else None, "middle"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._close_editor()
        found = self.thing_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton or found is None or self.take is None:
            self._to_cursor(event)
            return
        lane, thing, part = found
        self.current_lane = self.lanes.index(lane)
        self.selected = (lane, thing) if thing is not None else None
        frame = self._edge_at(event.position().x()) if thing is not None else self.frame_at(event.position().x())
        self._drag = _Drag(lane, thing, part, frame, event.position(), self.take)
        self.update()

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
            self.session.begin(f"{'Stick' if drag.lane not in KEYS else 'Press'} of {drag.lane}")
        drag.at = event.position()
        if drag.lane in KEYS:
            self._drag_press(drag)
        else:
            self._drag_push(drag)
        self.update()

    def _drag_press(self, drag: _Drag) -> None:
        edge, old = self._edge_at(drag.at.x()), cast("Press | None", drag.thing)
        if old is None:
            press = hands.fitted(drag.take, drag.frame, max(edge, drag.frame + 1) if edge > drag.frame else edge)
        elif drag.part == "middle":
            press = hands.moved(drag.take, old, edge - drag.frame)
        elif drag.part == "start":
            press = hands.fitted(drag.take, min(edge, old.end - 1), old.end)
        else:
            press = hands.fitted(drag.take, old.start, max(edge, old.start + 1))
        self._put_press(drag.lane, drag.take, old, press)
        outside = edge < 0 or edge > drag.take.length
        self._said = _press_words(press) + (f" · the take has {drag.take.length} frames" if outside else "")

    def _put_press(self, lane: str, take: Take, old: Press | None, press: Press, *, joins: bool = False) -> None:
        after = hands.with_press(take, lane, press, instead_of=old)
        self.session.set_take(f"Press of {lane}", after, joins=joins)
        # Where it has met another, the two are one now.
        merged = next(other for other in hands.presses_of(after, lane) if other.start <= press.start < other.end)
        self.selected = (lane, merged)

    def _drag_push(self, drag: _Drag) -> None:
        stick, axis = drag.lane.split()
        y = self.top + self.lanes.index(drag.lane) * self.lane
        value = round(min(1.0, max(-1.0, (y + self.lane / 2 - drag.at.y()) / (self.lane / 2 - 3))), 2)
        frame = self.frame_at(drag.at.x()) if drag.thing is None else self._edge_at(drag.at.x())
        old = cast("Push | None", drag.thing)
        x, other = (old.x, old.y) if old else hands.stick_at(drag.take, cast(Stick, stick), frame)
        push = Push(frame, value, other) if axis == "x" else Push(frame, x, value)
        self._said = _push_words(self._put_push(cast(Stick, stick), drag.lane, drag.take, old, push))

    def _put_push(
        self, stick: Stick, lane: str, take: Take, old: Push | None, push: Push, *, joins: bool = False
    ) -> Push:
        after = hands.with_push(take, stick, push, instead_of=old)
        self.session.set_take(f"Stick of {lane}", after, joins=joins)
        placed = next(
            other for other in hands.pushes_of(after, stick) if other.frame == min(max(push.frame, 0), take.length - 1)
        )
        self.selected = (lane, placed)
        return placed

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag, self._said = self._drag, None, ""
        if drag is None:
            return
        if drag.moving:
            self.session.end()
        elif drag.thing is None:
            # A click on empty lane is no edit: it moves the cursor.
            self.session.set_cursor(self.axis.row_at(self.axis.time(event.position().x(), self.width())))
        self.update()

    def _show_grip(self, at: QPointF) -> None:
        found = self.thing_at(at)
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
            words = _press_words(found[1]) if isinstance(found[1], Press) else _push_words(found[1])
            self.setToolTip(
                f"{found[0]}: {words}. Drag an end or the middle; double-click to type frames; Delete removes."
            )
        else:
            self.setToolTip("Drag to add. A click moves the frame cursor." if found else "")

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self.thing_at(event.position())
        self._drag = None
        if found is not None and found[1] is not None:
            self.selected = (found[0], found[1])
            self.type_frames()

    # Typing exact frames

    def type_frames(self) -> None:
        """Open a line over the selected press or push in which its frames are typed."""
        if self.selected is None or self.take is None:
            return
        lane, thing = self.selected
        y = self.top + self.lanes.index(lane) * self.lane
        x = self.at((thing.start if isinstance(thing, Press) else thing.frame) / self.take.rate)
        text = f"{thing.start} {thing.end}" if isinstance(thing, Press) else f"{thing.frame} {thing.x:g} {thing.y:g}"
        name = (
            f"{lane}: first frame and the frame in which it is let go"
            if isinstance(thing, Press)
            else f"{lane}: frame, x and y"
        )
        self._open_editor(
            QRectF(x, y, look.width("00000 −0.00 −0.00", 9) + look.px(18), self.lane), text, name, self._set_frames
        )

    def _set_frames(self, text: str) -> None:
        take = self.take
        if self.selected is None or take is None:
            return
        lane, thing = self.selected
        if isinstance(thing, Press):
            self._put_press(lane, take, thing, hands.press_from_text(take, text))
        else:
            self._put_push(cast(Stick, lane.split()[0]), lane, take, thing, hands.push_from_text(take, text))

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
        """What was typed, or a refusal in words with the line left open."""
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

    def event(self, event: QEvent) -> bool:
        # While something is selected its arrows are for it; elsewhere they step the frame cursor.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            arrows = event.key() in ARROWS and self.selected is not None
            escape = event.key() == Qt.Key.Key_Escape and (self.selected is not None or self._editor is not None)
            if arrows or escape or (event.key() == Qt.Key.Key_Delete):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, modifiers = event.key(), event.modifiers()
        if key == Qt.Key.Key_Escape:
            self._close_editor()
            self.selected = None
            self.setFocus()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._choose_lane(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._choose_next(-1 if key == Qt.Key.Key_PageUp else 1)
        elif key == Qt.Key.Key_Insert:
            self._insert()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.type_frames()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.remove_selected()
        elif key in ARROWS and self.selected is not None:
            part: Part = (
                "end"
                if modifiers & Qt.KeyboardModifier.ShiftModifier
                else "start"
                if modifiers & Qt.KeyboardModifier.AltModifier
                else "middle"
            )
            self._nudge(ARROWS[Qt.Key(key)], part)
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def _choose_lane(self, by: int) -> None:
        if self.lanes:
            self.current_lane = (self.current_lane + by) % len(self.lanes)
            self.selected = None
            self._choose_next(1)

    def _things(self, lane: str) -> list[Press | Push]:
        assert self.take is not None
        return (
            list(hands.presses_of(self.take, lane))
            if lane in KEYS
            else list(hands.pushes_of(self.take, cast(Stick, lane.split()[0])))
        )

    def _choose_next(self, by: int) -> None:
        """Select the next or the previous press of the lane."""
        if not self.lanes:
            return
        lane = self.lanes[min(self.current_lane, len(self.lanes) - 1)]
        things = self._things(lane)
        if not things:
            return
        at = (
            things.index(self.selected[1])
            if self.selected is not None and self.selected[0] == lane and self.selected[1] in things
            else -1
            if by > 0
            else 0
        )
        thing = things[(at + by) % len(things)]
        self.selected = (lane, thing)
        self.session.told.emit(f"{lane}: {_press_words(thing) if isinstance(thing, Press) else _push_words(thing)}")

    def _insert(self) -> None:
        """A press, or a push, at the frame cursor."""
        take = self.take
        if take is None or not self.lanes:
            return
        lane = self.lanes[min(self.current_lane, len(self.lanes) - 1)]
        frame = min(int(self.session.time_at(self.session.cursor) * take.rate + 1e-6), take.length - 1)
        if lane in KEYS:
            self._put_press(lane, take, None, hands.fitted(take, frame, frame + NEW_PRESS))
        else:
            stick = cast(Stick, lane.split()[0])
            x, y = hands.stick_at(take, stick, frame)
            self._put_push(stick, lane, take, None, Push(frame, *((1.0, y) if lane.endswith("x") else (x, 1.0))))

    def remove_selected(self) -> None:
        take = self.take
        if self.selected is None or take is None:
            return
        lane, thing = self.selected
        self.selected = None
        if lane.split()[0] not in self._added:
            self._added.append(lane.split()[0])
        if isinstance(thing, Press):
            self.session.set_take(f"Remove a press of {lane}", hands.without_press(take, lane, thing))
        else:
            self.session.set_take(
                f"Remove a push of {lane}", hands.without_push(take, cast(Stick, lane.split()[0]), thing)
            )

    def _nudge(self, by: int, part: Part) -> None:
        take = self.take
        assert take is not None
        assert self.selected is not None
        lane, thing = self.selected
        if isinstance(thing, Push):
            self._put_push(
                cast(Stick, lane.split()[0]),
                lane,
                take,
                thing,
                Push(max(0, thing.frame + by), thing.x, thing.y),
                joins=True,
            )
            return
        if part == "middle":
            press = hands.moved(take, thing, by)
        elif part == "end":
            press = hands.fitted(take, thing.start, max(thing.end + by, thing.start + 1))
        else:
            press = hands.fitted(take, min(max(thing.start + by, 0), thing.end - 1), thing.end)
        self._put_press(lane, take, thing, press, joins=True)
        self.session.told.emit(f"{lane}: {_press_words(press)}")

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.update()

    def spot_of(self, lane: str, frame: float) -> QPoint:
        """The pixel of a frame in a lane."""
        assert self.take is not None
        return QPoint(
            round(self.at(frame / self.take.rate)), round(self.top + (self.lanes.index(lane) + 0.5) * self.lane)
        )


def _press_words(press: Press) -> str:
    count = press.end - press.start
    return f"frames {press.start} – {press.end} ({count} frame{'s' if count != 1 else ''})"


def _push_words(push: Push) -> str:
    return f"frame {push.frame}: x {push.x:+.2f}, y {push.y:+.2f}".replace("-", "−")
