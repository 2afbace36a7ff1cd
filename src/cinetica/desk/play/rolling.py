"""Rolling strips: the last seconds of the chosen channels, with marks as they happen."""

from __future__ import annotations

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.play.game import Game
from cinetica.motion.records import AIR_LAUNCH, LAND, LAUNCH, LOST_PRESS, PRESS
from cinetica.reading.channels import BY_COLUMN, Channel

SECONDS = 4.0
SIGNS = ((PRESS, "press"), (LAUNCH | AIR_LAUNCH, "launch"), (LAND, "land"), (LOST_PRESS, "lost"))
ROOM_LEFT, ROOM_RIGHT = 112, 84


class Rolling(QWidget):
    """The newest tick is at the right edge."""

    def __init__(self, game: Game, palette: look.Palette) -> None:
        super().__init__()
        self.game, self.look = game, palette
        self.channels: list[Channel] = [BY_COLUMN[column] for column in ("vx", "vy", "y")]
        self.places: list[int] = []
        self._scales: dict[str, tuple[float, float]] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The last four seconds")
        self.setMinimumHeight(look.px(54) * len(self.channels))

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        self.update()

    def show_channels(self, channels: list[Channel]) -> None:
        self.channels = channels
        self._scales.clear()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.look.paper))
        live = self.game.live
        if live is None or not self.channels:
            return
        high = self.height() / len(self.channels)
        for number, channel in enumerate(self.channels):
            self._paint_channel(painter, QRectF(look.px(ROOM_LEFT), number * high, self.width() - look.px(ROOM_LEFT + ROOM_RIGHT), high), channel)

    def _paint_channel(self, painter: QPainter, area: QRectF, channel: Channel) -> None:
        live = self.game.live
        assert live is not None
        count = round(SECONDS * live.tick_rate)
        rows = [live.trace(place)[-count:] for place in range(len(live.tunes))]
        columns = [each[channel.column].astype(float) for each in rows]
        if not channel.always_finite:
            columns = [np.where(np.isfinite(column), column, 0.0) for column in columns]
        low, high = self._scale_for(channel, columns)
        painter.setPen(QPen(QColor(self.look.grid), 1))
        painter.drawLine(QPointF(0, area.bottom()), QPointF(self.width(), area.bottom()))
        zero = area.bottom() - 4 - (0 - low) / (high - low) * (area.height() - 8)
        painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero))
        painter.setPen(QColor(self.look.accent))
        painter.setFont(look.font(9, bold=True))
        painter.drawText(QRectF(14, area.top() + 3, look.px(96), look.px(16)), Qt.AlignmentFlag.AlignVCenter, channel.short_label)
        painter.setPen(QColor(self.look.soft))
        painter.setFont(look.font(8))
        painter.drawText(QRectF(14, area.top() + look.px(19), look.px(60), look.px(14)), Qt.AlignmentFlag.AlignVCenter, channel.unit)
        step = area.width() / count
        for place in reversed(range(len(columns))):
            values = columns[place]
            x = area.right() - step * np.arange(len(values) - 1, -1, -1)
            y = area.bottom() - 4 - (values - low) / (high - low) * (area.height() - 8)
            number = self.places[place] if place < len(self.places) else place
            painter.setPen(look.ink_pen(self.look, number, 1))
            painter.drawPolyline(arrayToQPolygonF(x, y))
            painter.drawText(QPointF(area.right() + 8 + look.px(10) * place, float(y[-1]) + 4), look.letter(number))
            if place == 0:
                painter.setPen(QColor(self.look.ink))
                box = QRectF(area.right() + 20, area.top() + 2, look.px(42), look.px(16))
                painter.drawText(box, Qt.AlignmentFlag.AlignRight, f"{values[-1]:+.2f}".replace("-", "−"))
        if channel is self.channels[0]:
            self._paint_marks(painter, area, rows[0]["marks"], step)

    def _scale_for(self, channel: Channel, columns: list[np.ndarray]) -> tuple[float, float]:
        """Least and greatest so far: a scale that breathes with every tick cannot be read."""
        low, high = self._scales.get(channel.column, (-1.0, 1.0))
        low, high = min(low, *(float(column.min()) for column in columns)), max(high, *(float(column.max()) for column in columns))
        self._scales[channel.column] = (low, high)
        return low, high

    def _paint_marks(self, painter: QPainter, area: QRectF, marks: np.ndarray, step: float) -> None:
        painter.setFont(look.font(7))
        every = sum(mark for mark, _ in SIGNS)
        for row in np.flatnonzero(marks & every).tolist():
            x = area.right() - step * (len(marks) - 1 - row)
            painter.setPen(QPen(QColor(self.look.soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, self.height()))
            painter.setPen(QColor(self.look.soft))
            words = ", ".join(word for mark, word in SIGNS if int(marks[row]) & mark)
            width = painter.fontMetrics().horizontalAdvance(words) + 4
            # Close to the right edge the word stands on the other side of its line, clear of the figures.
            left = x + 2 if x + width < area.right() else x - width
            painter.drawText(QRectF(left, area.top(), width, 12), Qt.AlignmentFlag.AlignVCenter, words)
