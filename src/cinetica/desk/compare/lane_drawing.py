"""Where the input lanes are and how they are painted: one for each key, one for each axis of a stick."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from typing import cast

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter

from cinetica.desk import look
from cinetica.desk.compare.lane_editor import LaneEditor, Part
from cinetica.desk.compare.time_axis import ROOM
from cinetica.desk.compare.time_axis_widget import OnTimeAxis
from cinetica.desk.paint.canvas import PIXELS, Canvas, Mark, Sketch, caption_width
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.paint.signs import disc_path, pointer_path
from cinetica.model import takes
from cinetica.model.take import KEYS, Press, Take
from cinetica.model.takes import Event, Stick

GRIP = 5


class LaneDrawing:
    """Where the lanes are on their widget, and how they are painted."""

    def __init__(self, editor: LaneEditor, widget: OnTimeAxis) -> None:
        self._editor, self._widget, self._axis = editor, widget, widget.axis
        # The heights of a lane, and of the strip above them, in pixels.
        self.lane, self.top = look.height(8) + look.px(8), look.height(8, bold=True) + 5
        self._cache = LayerCache()

    @property
    def height(self) -> int:
        """The height of all lanes, in pixels."""
        return self.top + self.lane * max(1, len(self._editor.lanes))

    def paint(self, painter: QPainter, above: Callable[[Canvas], None]) -> None:
        """Paint the lanes, and then what is `above` them."""
        take, lanes, axis = self._editor.take, self._editor.lanes, self._axis
        shared = (tuple(lanes), take and (take.rate, take.length), axis.start, axis.end, self._widget.size())
        layers = [Layer(shared, self._draw_under)]
        layers += [
            Layer(self._key_of(number, name), partial(self._draw_lane, number, name))
            for number, name in enumerate(lanes)
        ]
        layers += [Layer(None, self._draw_cursor), Layer(None, above)]
        self._cache.paint(painter, QRectF(self._widget.rect()), look.color(look.palette().paper), layers)

    def _key_of(self, number: int, name: str) -> object:
        """What a lane shows in addition to what all lanes share."""
        assert self._editor.take is not None
        holder = self._editor.take.keys if name in KEYS else self._editor.take
        here = number == self._editor.current and self._widget.hasFocus()
        # Only if the selected item is in this lane; a push is in both lanes of its stick.
        stem, selected = name.split()[0], self._editor.selected
        mine = selected if selected is not None and selected[0].split()[0] == stem else None
        return getattr(holder, stem), mine, here

    @property
    def _right(self) -> int:
        """Where the lanes end, in pixels."""
        return self._widget.width() - ROOM.right

    def _draw_under(self, canvas: Canvas) -> None:
        palette, right = look.palette(), self._right
        canvas.box((right, self._widget.height(), right + 1, 0), PIXELS, look.color(palette.grid))
        if self._editor.take is not None and not self._editor.lanes:
            words = "No input yet: add a lane from the Hands menu."
            words = QFontMetrics(look.font(8)).elidedText(words, Qt.TextElideMode.ElideRight, right - ROOM.left)
            canvas.text(words, ROOM.left, self.top + self.lane / 2, 8, look.color(palette.soft))
        self._draw_end(canvas)

    def _draw_lane(self, number: int, name: str, canvas: Canvas) -> None:
        palette, take, y = look.palette(), self._editor.take, self.top + number * self.lane
        here = number == self._editor.current and self._widget.hasFocus()
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
        take = self._editor.take
        if take is not None and (x := math.floor(self._widget.at(take.seconds)) + 0.5) < self._right:
            ending = Sketch((x, x), (self.top, self._widget.height()))
            canvas.line(ending, PIXELS, look.color(look.palette().soft), 1, (1.0, 2.0))

    def _rect(self, press: Press, y: float, rate: float) -> QRectF:
        left, right = self._widget.at(press.start / rate), self._widget.at(press.end / rate)
        return QRectF(max(left, ROOM.left), y + 4, right - max(left, ROOM.left), self.lane - 9)

    def _draw_presses(self, canvas: Canvas, y: float, name: str, take: Take) -> None:
        accent, ink = look.color(look.palette().accent), look.color(look.palette().ink)
        for press in takes.presses_of(take, name):
            rect = self._rect(press, y, take.rate)
            left, right = round(rect.left()), round(min(rect.right(), self._right))
            if right <= left:
                continue
            if self._editor.selected == (name, press):
                canvas.rounded((left - 1, rect.bottom() + 1, right + 1, rect.top() - 1), ink)
                left, right = left + 1, right - 1
                rect.adjust(0, 1, 0, -1)
            canvas.rounded((left, rect.bottom(), right, rect.top()), accent)

    def _draw_stick(self, canvas: Canvas, y: float, name: str, take: Take) -> None:
        """Draw the stick's axis as steps between -1 and 1, with a dot for each push; of moments, a stem for each."""
        stick, axis = name.split()
        most = takes.extent(take, cast(Stick, stick))
        held = stick in takes.STICKS
        pushes = takes.pushes_of(take, cast(Stick, stick))
        palette, first, last = look.palette(), float(ROOM.left), float(self._right)
        xs, ys = [first], [self._height_of(0.0, y)]
        dots: tuple[list[float], list[float]] = ([], [])
        chosen: tuple[list[float], list[float]] = ([], [])
        for push in pushes:
            at, high = self._widget.at(push.frame / take.rate), self._height_of(push[1 if axis == "x" else 2] / most, y)
            # Steps are vertical or horizontal: clipping them to the view moves no visible part.
            within = min(max(at, first), last)
            xs += (within, within) if held else (within, within, within)
            ys += (ys[-1], high) if held else (ys[-1], high, ys[-1])
            if first - 4 <= at <= last:
                selected = self._editor.selected is not None and self._editor.selected[0].split()[0] == stick
                into = chosen if selected and self._editor.selected and self._editor.selected[1] == push else dots
                into[0].append(at)
                into[1].append(high)
        xs.append(min(max(self._widget.at(take.seconds), first), last))
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

    def _draw_cursor(self, canvas: Canvas) -> None:
        palette, x, text = look.palette(), self._widget.cursor_x, str(self._widget.session.cursor)
        ink = look.color(palette.ink)
        canvas.box((x, self._widget.height(), x + 1, self.top - 2), PIXELS, ink)
        self.draw_flag(canvas, x + 0.5, text, 1)

    def draw_flag(self, canvas: Canvas, x: float, text: str, y: float) -> None:
        """Draw a flag with a caption, centred on `x` as far as there is room."""
        palette, wide = look.palette(), caption_width(text, 8, bold=True)
        left = round(min(max(x - wide / 2 - 7, 2.0), self._widget.width() - wide - 16))
        top, bottom = round(y), round(y) + self.top - 2
        canvas.rounded((left, bottom, left + wide + 14, top), look.color(palette.ink))
        canvas.text(text, left + 7, (top + bottom) / 2, 8, look.color(palette.paper), bold=True)

    def _lane_at(self, y: float) -> str | None:
        number = int((y - self.top) // self.lane)
        return self._editor.lanes[number] if y >= self.top and 0 <= number < len(self._editor.lanes) else None

    def frame_at(self, x: float) -> int:
        """The frame of the take under a pixel."""
        return int(
            self._axis.time(x, self._widget.width()) * (self._editor.take.rate if self._editor.take else 60.0) + 1e-6
        )

    def edge_at(self, x: float) -> int:
        """The border between frames nearest to a pixel."""
        return round(self._frames_at(x))

    def _frames_at(self, x: float) -> float:
        take = self._editor.take
        return self._axis.time(x, self._widget.width()) * (take.rate if take else 60.0)

    def thing_at(self, at: QPointF) -> tuple[str, Press | Event | None, Part] | None:
        """The lane under the mouse, and the press or push there, and which part of it."""
        lane, take = self._lane_at(at.y()), self._editor.take
        if (
            lane is None
            or take is None
            or at.x() < ROOM.left - GRIP
            or at.x() > self._widget.width() - ROOM.right + GRIP
        ):
            return None
        y = self.top + self._editor.lanes.index(lane) * self.lane
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
        near = [push for push in pushes if abs(self._widget.at(push.frame / take.rate) - at.x()) <= GRIP]
        return lane, near[0] if near else None, "middle"

    def spot_of(self, lane: str, frame: float) -> QPoint:
        """The pixel of a frame in a lane."""
        take = self._editor.take
        assert take is not None
        y = self.top + (self._editor.lanes.index(lane) + 0.5) * self.lane
        return QPoint(round(self._widget.at(frame / take.rate)), round(y))
