"""The input lanes: one for each key, one for each axis of a stick."""

from __future__ import annotations

import math
from functools import partial
from typing import Literal, cast

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.compare.time_axis_widget import OnTimeAxis
from cinetica.desk.paint.canvas import PIXELS, Canvas, Mark, Sketch, caption_width
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.paint.signs import disc_path, pointer_path
from cinetica.desk.state.session import Session
from cinetica.model import takes
from cinetica.model.take import KEYS, Press, Push, Take
from cinetica.model.takes import STICKS, Stick

Part = Literal["start", "end", "middle"]
GRIP = 5


class Lanes(OnTimeAxis):
    """The layout and painting of the lanes."""

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__(session, axis)
        self.lane, self.top = look.height(8) + look.px(8), look.height(8, bold=True) + 5
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.selected: tuple[str, Press | Push] | None = None
        self.current_lane = 0
        # Lanes that the person has added, though nothing is in them.
        self._added: list[str] = []
        self._cache = LayerCache()
        self._painted: tuple[object, ...] = ()
        # Whether it has been asked to be painted, and has not been yet.
        self._asked = False

    def _resize(self) -> None:
        """Adapt the height to the number of lanes."""
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.repaint_lanes()

    def repaint_lanes(self) -> None:
        """Repaint all lanes once control returns to the event loop."""
        if not self._asked:
            self._asked = True
            self._ask_for_lanes()

    def _ask_for_lanes(self) -> None:
        self.update()

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

    @property
    def take(self) -> Take | None:
        """The take of the current drill."""
        drill = self.session.drill
        return None if drill is None else drill.take

    @property
    def lanes(self) -> list[str]:
        """The lanes that the take uses, and those that the user has added."""
        take = self.take
        if take is None:
            return []
        sticks = [stick for stick in STICKS if getattr(take, stick) or stick in self._added]
        return [key for key in KEYS if getattr(take.keys, key) or key in self._added] + [
            f"{stick} {axis}" for stick in sticks for axis in "xy"
        ]

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        self._painted, self._asked = self._shown_now, False
        take, lanes, axis = self.take, self.lanes, self.axis
        shared = (tuple(lanes), take and (take.rate, take.length), axis.start, axis.end, self.size())
        layers = [Layer(shared, self._draw_under)]
        layers += [
            Layer(self._key_of(number, name), partial(self._draw_lane, number, name))
            for number, name in enumerate(lanes)
        ]
        layers.append(Layer(None, self._draw_over))
        with QPainter(self) as painter:
            self._cache.paint(painter, QRectF(self.rect()), look.color(look.worn().paper), layers)

    def _key_of(self, number: int, name: str) -> object:
        """What a lane shows besides what all have in common."""
        assert self.take is not None
        holder = self.take.keys if name in KEYS else self.take
        here = number == self.current_lane and self.hasFocus()
        # Of what is selected only what lies in this lane; a push lies in both of its stick.
        stem, selected = name.split()[0], self.selected
        mine = selected if selected is not None and selected[0].split()[0] == stem else None
        return getattr(holder, stem), mine, here

    @property
    def _right(self) -> int:
        """Where the lanes end, in pixels."""
        return self.width() - ROOM.right

    def _draw_under(self, canvas: Canvas) -> None:
        palette, right = look.worn(), self._right
        canvas.box((right, self.height(), right + 1, 0), PIXELS, look.color(palette.grid))
        if self.take is not None and not self.lanes:
            words = "The hands do nothing yet: add a lane from the menu Hands."
            words = QFontMetrics(look.font(8)).elidedText(words, Qt.TextElideMode.ElideRight, right - ROOM.left)
            canvas.text(words, ROOM.left, self.top + self.lane / 2, 8, look.color(palette.soft))
        self._draw_end(canvas)

    def _draw_lane(self, number: int, name: str, canvas: Canvas) -> None:
        palette, take, y = look.worn(), self.take, self.top + number * self.lane
        here = number == self.current_lane and self.hasFocus()
        color, left = look.color(palette.accent if here else palette.soft), ROOM.left - 8 - look.width(name, 8)
        canvas.text(name, left, y + self.lane / 2, 8, color)
        if here:
            at = Sketch((left - look.px(7),), (y + self.lane / 2,))
            canvas.marks(at, PIXELS, Mark(pointer_path(look.px(8)), color, 0.5, color))
        line = (ROOM.left, y + self.lane, self._right, y + self.lane - 1)
        canvas.box(line, PIXELS, look.color(palette.grid_fine))
        assert take is not None
        if name in KEYS:
            self._draw_presses(canvas, y, name, take)
        else:
            self._draw_stick(canvas, y, name, take)
        self._draw_end(canvas)

    def _draw_end(self, canvas: Canvas) -> None:
        """Draw the end of the take."""
        take = self.take
        if take is not None and (x := math.floor(self.at(take.seconds)) + 0.5) < self._right:
            ending = Sketch((x, x), (self.top, self.height()))
            canvas.line(ending, PIXELS, look.color(look.worn().soft), 1, (1.0, 2.0))

    def _rect(self, press: Press, y: float, rate: float) -> QRectF:
        left, right = self.at(press.start / rate), self.at(press.end / rate)
        return QRectF(max(left, ROOM.left), y + 4, right - max(left, ROOM.left), self.lane - 9)

    def _draw_presses(self, canvas: Canvas, y: float, name: str, take: Take) -> None:
        accent, ink = look.color(look.worn().accent), look.color(look.worn().ink)
        for press in takes.presses_of(take, name):
            rect = self._rect(press, y, take.rate)
            left, right = round(rect.left()), round(min(rect.right(), self._right))
            if right <= left:
                continue
            if self.selected == (name, press):
                canvas.rounded((left - 1, rect.bottom() + 1, right + 1, rect.top() - 1), ink)
                left, right = left + 1, right - 1
                rect.adjust(0, 1, 0, -1)
            canvas.rounded((left, rect.bottom(), right, rect.top()), accent)

    def _draw_stick(self, canvas: Canvas, y: float, name: str, take: Take) -> None:
        """Draw the stick's axis as steps between -1 and 1, with a dot for each push."""
        stick, axis = name.split()
        pushes = takes.pushes_of(take, cast(Stick, stick))
        palette, first, last = look.worn(), float(ROOM.left), float(self._right)
        xs, ys = [first], [self._height_of(0.0, y)]
        dots: tuple[list[float], list[float]] = ([], [])
        chosen: tuple[list[float], list[float]] = ([], [])
        for push in pushes:
            at, high = self.at(push.frame / take.rate), self._height_of(push.x if axis == "x" else push.y, y)
            # Steps are upright or level: to bring them into view moves no part of them that is seen.
            within = min(max(at, first), last)
            xs += (within, within)
            ys += (ys[-1], high)
            if first - 4 <= at <= last:
                selected = self.selected is not None and self.selected[0].split()[0] == stick
                into = chosen if selected and self.selected and self.selected[1] == push else dots
                into[0].append(at)
                into[1].append(high)
        xs.append(min(max(self.at(take.seconds), first), last))
        ys.append(ys[-1])
        accent, ink = look.color(palette.accent), look.color(palette.ink)
        canvas.line(Sketch(xs, ys), PIXELS, accent, 1.5)
        for points, rim, width in ((dots, accent, 0.1), (chosen, ink, 2)):
            if points[0]:
                canvas.marks(Sketch(*points), PIXELS, Mark(disc_path(3.0), rim, width, accent))

    @property
    def swing(self) -> float:
        """The amplitude of a stick's line, with room for a dot and its rim in the lane."""
        return self.lane / 2 - 4

    def _height_of(self, value: float, y: float) -> float:
        return y + self.lane / 2 - self.swing * value

    def _draw_over(self, canvas: Canvas) -> None:
        """Draw what is above the lanes, every time."""
        self._draw_cursor(canvas)

    def _draw_cursor(self, canvas: Canvas) -> None:
        palette, x, text = look.worn(), self.cursor_x, str(self.session.cursor)
        ink = look.color(palette.ink)
        canvas.box((x, self.height(), x + 1, self.top - 2), PIXELS, ink)
        self.draw_flag(canvas, x + 0.5, text, 1)

    def draw_flag(self, canvas: Canvas, x: float, text: str, y: float) -> None:
        """Draw a flag with a caption, centred on `x` as far as there is room."""
        palette, wide = look.worn(), caption_width(text, 8, bold=True)
        left = round(min(max(x - wide / 2 - 7, 2.0), self.width() - wide - 16))
        top, bottom = round(y), round(y) + self.top - 2
        canvas.rounded((left, bottom, left + wide + 14, top), look.color(palette.ink))
        canvas.text(text, left + 7, (top + bottom) / 2, 8, look.color(palette.paper), bold=True)

    def _lane_at(self, y: float) -> str | None:
        number = int((y - self.top) // self.lane)
        return self.lanes[number] if y >= self.top and 0 <= number < len(self.lanes) else None

    def frame_at(self, x: float) -> int:
        """The frame of the take under a pixel."""
        return int(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0) + 1e-6)

    def _edge_at(self, x: float) -> int:
        """The border between frames nearest to a pixel."""
        return round(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0))

    def thing_at(self, at: QPointF) -> tuple[str, Press | Push | None, Part] | None:
        """The lane under the mouse, and the press or push there, and which part of it."""
        lane, take = self._lane_at(at.y()), self.take
        if lane is None or take is None or at.x() < ROOM.left - GRIP or at.x() > self.width() - ROOM.right + GRIP:
            return None
        y = self.top + self.lanes.index(lane) * self.lane
        if lane in KEYS:
            for press in takes.presses_of(take, lane):
                rect = self._rect(press, y, take.rate)
                grip = min(GRIP, max(1.0, rect.width() / 4))
                if rect.left() - GRIP <= at.x() <= rect.right() + GRIP:
                    part: Part = (
                        "start" if at.x() < rect.left() + grip else "end" if at.x() > rect.right() - grip else "middle"
                    )
                    return lane, press, part
            return lane, None, "end"
        pushes = takes.pushes_of(take, cast(Stick, lane.split()[0]))
        near = [push for push in pushes if abs(self.at(push.frame / take.rate) - at.x()) <= GRIP]
        return lane, near[0] if near else None, "middle"

    def spot_of(self, lane: str, frame: float) -> QPoint:
        """The pixel of a frame in a lane."""
        assert self.take is not None
        return QPoint(
            round(self.at(frame / self.take.rate)), round(self.top + (self.lanes.index(lane) + 0.5) * self.lane)
        )
