"""Rolling strips: the last seconds of the chosen channels, with marks as they happen."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.strips import decimals_of, signed
from cinetica.desk.compare.time_axis import WIDEST_FIGURE
from cinetica.desk.paint import mapping as maps
from cinetica.desk.paint.canvas import PIXELS, Canvas, Numbers, Pen, Sketch, pen_of
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.play.game import Game
from cinetica.model.world_size import world_size
from cinetica.motion.polyline import Points
from cinetica.motion.records import AIR_LAUNCH, LAND, LAUNCH, LOST_PRESS, PRESS
from cinetica.motion.simulate import column_of
from cinetica.reading.channels import BY_COLUMN, Channel
from cinetica.reading.display_units import OURS

SECONDS = 4.0
SIGNS = ((PRESS, "press"), (LAUNCH | AIR_LAUNCH, "launch"), (LAND, "land"), (LOST_PRESS, "lost"))


class Recent(NamedTuple):
    """The last frames of a linked game: its ticks a second, and its columns by name, in our units."""

    tick_rate: float
    columns: Mapping[str, Numbers]


class Rolling(QWidget):
    """The newest tick is at the right edge."""

    def __init__(self, game: Game) -> None:
        super().__init__()
        self.game, self.units = game, OURS
        self.channels: list[Channel] = [BY_COLUMN[column] for column in ("vx", "vy", "y")]
        self.places: list[int] = []
        # Gives the last seconds of the linked game; None if there is none.
        self.linked: Callable[[float], Recent | None] = lambda _: None
        # The place of its curve, for the same letter and colour as in Compare.
        self.linked_place: Callable[[], int] = lambda: look.LOG_PLACE
        self._recent: Recent | None = None
        self._scales: dict[str, tuple[float, float]] = {}
        self._cache = LayerCache()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The last four seconds")
        self.setMinimumHeight(2 * (look.height(9, bold=True) + look.height(8)))

    def show_channels(self, channels: list[Channel]) -> None:
        """Show these channels."""
        self.channels = channels
        self._scales.clear()
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        layers: list[Layer] = []
        if self.game.live is not None and self.channels:
            self._recent = self.linked(SECONDS)
            key = (tuple(self.channels), len(self.places), self.units, self._recent is None)
            layers = [Layer(key, self._draw_titles), Layer(None, self._draw_channels)]
        with QPainter(self) as painter:
            self._cache.paint(painter, QRectF(self.rect()), look.color(look.palette().paper), layers)

    def _areas(self) -> list[QRectF]:
        """The area of each channel's curves."""
        left, right = self._rooms()
        high = self.height() / len(self.channels)
        return [QRectF(left, number * high, self.width() - left - right, high) for number in range(len(self.channels))]

    def _rooms(self) -> tuple[int, int]:
        """The width of the labels at the left, and of letters and figures at the right."""
        titles = max(look.width(channel.short_label, 9, bold=True) for channel in self.channels)
        letters = (max(1, len(self.places)) + (self._recent is not None)) * look.width("W", 9)
        return titles + look.px(26), letters + look.width(WIDEST_FIGURE, 9) + look.px(26)

    def _draw_titles(self, canvas: Canvas) -> None:
        palette, line = look.palette(), look.height(9, bold=True)
        for channel, area in zip(self.channels, self._areas(), strict=True):
            top, left = area.top() + 1, look.px(14)
            canvas.text(channel.short_label, left, top + line / 2, 9, look.color(palette.accent), bold=True)
            if area.height() >= line + look.height(8):
                unit = self.units.unit(channel.unit)
                canvas.text(unit, left, top + line + look.height(8) / 2, 8, look.color(palette.soft))
            end = round(area.bottom())
            canvas.box((0, end + 1, self.width(), end), PIXELS, look.color(palette.grid))

    def _draw_channels(self, canvas: Canvas) -> None:
        live = self.game.live
        assert live is not None
        count = round(SECONDS * live.tick_rate)
        rows = [live.trace(place)[-count:] for place in range(len(live.tunes))]
        areas = self._areas()
        ticks = np.arange(len(rows[0]), dtype=float)
        for channel, area in zip(self.channels, areas, strict=True):
            columns = np.stack(
                [column_of(each, channel.column, tune) for each, tune in zip(rows, live.tunes, strict=True)]
            ).astype(float)
            columns[~np.isfinite(columns)] = 0.0
            self._draw_channel(canvas, channel, area, columns, [Points(ticks, each) for each in columns], count)
        self._draw_marks(canvas, areas[0], rows[0]["marks"], areas[0].width() / count)

    def _draw_channel(
        self, canvas: Canvas, channel: Channel, area: QRectF, columns: Numbers, lines: list[Points], count: int
    ) -> None:
        theirs = self._recent.columns.get(channel.column) if self._recent is not None else None
        every = columns if theirs is None else np.concatenate([columns.reshape(-1), theirs])
        palette, (low, high) = look.palette(), self._scale_for(channel, every)
        step, letter, tall = area.width() / count, look.width("W", 9), look.height(9)
        right, down = area.right(), -(area.height() - 8) / (high - low)
        highest, lowest = area.top() + tall / 2, area.bottom() - tall / 2
        top = area.bottom() - 4 - down * low
        zero = round(top)
        canvas.box((area.left(), zero + 1, right, zero), PIXELS, look.color(palette.grid))
        # The newest tick at the right edge.
        rolled = maps.Mapping(right - step * (columns.shape[1] - 1), step, top, down, area, area)
        last = columns[:, -1].tolist()
        if theirs is not None and self._recent is not None and len(theirs):
            # Its newest frame is at the right edge, too.
            ticks = (np.arange(len(theirs)) - (len(theirs) - 1)) / self._recent.tick_rate
            rate = self.game.live.tick_rate if self.game.live else self._recent.tick_rate
            line = Points(columns.shape[1] - 1 + ticks * rate, theirs)
            place = self.linked_place()
            canvas.curve(line, rolled, pen_of(palette, place, 1.4, None))
            middle = min(max(top + down * float(theirs[-1]), highest), lowest)
            left = right + look.px(8) + letter * len(lines)
            canvas.text(look.letter(place), left, middle, 9, look.ink(palette, place))
        for place in reversed(range(len(lines))):
            number = self.places[place] if place < len(self.places) else place
            canvas.curve(lines[place], rolled, pen_of(palette, number, 1.0, None))
            middle = min(max(top + down * last[place], highest), lowest)
            left = right + look.px(8) + letter * place
            canvas.text(look.letter(number), left, middle, 9, look.ink(palette, number))
        scale = self.units.column(channel.column)
        size = world_size(self.game.live.tunes[0] if self.game.live else None)
        figure = signed(scale.shown(last[0]), decimals_of(scale.unit, scale.change(size)))
        canvas.figure(figure, self.width() - look.px(8), highest + 2, 9, look.color(palette.ink))

    def _scale_for(self, channel: Channel, columns: Numbers) -> tuple[float, float]:
        """The range so far: a scale that changes with every tick cannot be read."""
        size = world_size(self.game.live.tunes[0]) if self.game.live and channel.unit.startswith("u") else 1.0
        low, high = self._scales.get(channel.column, (-size, size))
        low, high = min(low, float(columns.min())), max(high, float(columns.max()))
        self._scales[channel.column] = (low, high)
        return low, high

    def _draw_marks(self, canvas: Canvas, area: QRectF, marks: np.ndarray, step: float) -> None:
        soft, high = look.color(look.palette().soft), look.height(7)
        every = sum(mark for mark, _ in SIGNS)
        # Where the words of each line end: those of marks that follow each other closely stand one under the other.
        ends = [-math.inf] * max(1, int(area.height() // high))
        # One line, broken between the marks.
        xs, ys = list[float](), list[float]()
        for row in np.flatnonzero(marks & every).tolist():
            x = area.right() - step * (len(marks) - 1 - row)
            xs += (x, x, math.nan)
            ys += (area.top(), self.height(), math.nan)
            words = ", ".join(word for mark, word in SIGNS if int(marks[row]) & mark)
            width = look.width(words, 7) + 4
            # Near the right edge, place the word left of its line, clear of the figures.
            left = x + 2 if x + width < area.right() else x - width
            line = next((line for line, end in enumerate(ends) if end <= left), None)
            if line is not None:
                ends[line] = left + width
                canvas.text(words, left, area.top() + (line + 0.5) * high, 7, soft)
        if xs:
            canvas.curve(Sketch(xs, ys), PIXELS, Pen(soft, 1.0, (1.0, 2.0)))
