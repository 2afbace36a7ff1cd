"""Rolling strips: the last seconds of the chosen channels, with marks as they happen."""

from __future__ import annotations

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.compare.strips import signed
from cinetica.desk.compare.time_axis import WIDEST_FIGURE
from cinetica.desk.play.game import Game
from cinetica.motion.records import AIR_LAUNCH, LAND, LAUNCH, LOST_PRESS, PRESS
from cinetica.motion.simulate import column_of
from cinetica.reading.channels import BY_COLUMN, Channel

SECONDS = 4.0
SIGNS = ((PRESS, "press"), (LAUNCH | AIR_LAUNCH, "launch"), (LAND, "land"), (LOST_PRESS, "lost"))


class Rolling(QWidget):
    """The newest tick is at the right edge."""

    def __init__(self, game: Game) -> None:
        super().__init__()
        self.game = game
        self.channels: list[Channel] = [BY_COLUMN[column] for column in ("vx", "vy", "y")]
        self.places: list[int] = []
        self._scales: dict[str, tuple[float, float]] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The last four seconds")
        self.setMinimumHeight(2 * (look.height(9, bold=True) + look.height(8)))

    def show_channels(self, channels: list[Channel]) -> None:
        self.channels = channels
        self._scales.clear()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(look.worn().paper))
        live = self.game.live
        if live is None or not self.channels:
            return
        high = self.height() / len(self.channels)
        for number, channel in enumerate(self.channels):
            left, right = self._rooms()
            self._paint_channel(painter, QRectF(left, number * high, self.width() - left - right, high), channel)

    def _rooms(self) -> tuple[int, int]:
        """What words need at the left, and letters and the figure at the right."""
        titles = max(look.width(channel.short_label, 9, bold=True) for channel in self.channels)
        letters = max(1, len(self.places)) * look.width("W", 9)
        return titles + look.px(26), letters + look.width(WIDEST_FIGURE, 9) + look.px(26)

    def _paint_channel(self, painter: QPainter, area: QRectF, channel: Channel) -> None:
        live = self.game.live
        assert live is not None
        count = round(SECONDS * live.tick_rate)
        rows = [live.trace(place)[-count:] for place in range(len(live.tunes))]
        columns = [column_of(each, channel.column).astype(float) for each in rows]
        if not channel.always_finite:
            columns = [np.where(np.isfinite(column), column, 0.0) for column in columns]
        low, high = self._scale_for(channel, columns)
        painter.setPen(QPen(QColor(look.worn().grid), 1))
        painter.drawLine(QPointF(0, area.bottom()), QPointF(self.width(), area.bottom()))
        zero = area.bottom() - 4 - (0 - low) / (high - low) * (area.height() - 8)
        painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero))
        painter.setPen(QColor(look.worn().accent))
        painter.setFont(look.font(9, bold=True))
        line = look.height(9, bold=True)
        painter.drawText(
            QRectF(look.px(14), area.top() + 1, area.left(), line), Qt.AlignmentFlag.AlignVCenter, channel.short_label
        )
        painter.setPen(QColor(look.worn().soft))
        painter.setFont(look.font(8))
        if area.height() >= line + look.height(8):
            painter.drawText(
                QRectF(look.px(14), area.top() + 1 + line, area.left(), look.height(8)),
                Qt.AlignmentFlag.AlignVCenter,
                channel.unit,
            )
        step = area.width() / count
        for place in reversed(range(len(columns))):
            values = columns[place]
            x = area.right() - step * np.arange(len(values) - 1, -1, -1)
            y = area.bottom() - 4 - (values - low) / (high - low) * (area.height() - 8)
            number = self.places[place] if place < len(self.places) else place
            painter.setPen(look.ink_pen(look.worn(), number, 1))
            painter.drawPolyline(arrayToQPolygonF(x, y))
            painter.setFont(look.font(9))
            letters = area.right() + look.px(8) + look.width("W", 9) * place
            middle = min(max(float(y[-1]), area.top() + look.height(9) / 2), area.bottom() - look.height(9) / 2)
            spot = QRectF(letters, middle - look.height(9) / 2, look.width("W", 9), look.height(9))
            painter.drawText(spot, Qt.AlignmentFlag.AlignVCenter, look.letter(number))
            if place == 0:
                painter.setPen(QColor(look.worn().ink))
                box = QRectF(area.right(), area.top() + 2, self.width() - area.right() - look.px(8), look.height(9))
                painter.drawText(box, Qt.AlignmentFlag.AlignRight, signed(float(values[-1])))
        if channel is self.channels[0]:
            self._paint_marks(painter, area, rows[0]["marks"], step)

    def _scale_for(self, channel: Channel, columns: list[np.ndarray]) -> tuple[float, float]:
        """Least and greatest so far: a scale that breathes with every tick cannot be read."""
        low, high = self._scales.get(channel.column, (-1.0, 1.0))
        low, high = (
            min(low, *(float(column.min()) for column in columns)),
            max(high, *(float(column.max()) for column in columns)),
        )
        self._scales[channel.column] = (low, high)
        return low, high

    def _paint_marks(self, painter: QPainter, area: QRectF, marks: np.ndarray, step: float) -> None:
        painter.setFont(look.font(7))
        every = sum(mark for mark, _ in SIGNS)
        for row in np.flatnonzero(marks & every).tolist():
            x = area.right() - step * (len(marks) - 1 - row)
            painter.setPen(QPen(QColor(look.worn().soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, self.height()))
            painter.setPen(QColor(look.worn().soft))
            words = ", ".join(word for mark, word in SIGNS if int(marks[row]) & mark)
            width = painter.fontMetrics().horizontalAdvance(words) + 4
            # Close to the right edge the word stands on the other side of its line, clear of the figures.
            left = x + 2 if x + width < area.right() else x - width
            painter.drawText(QRectF(left, area.top(), width, look.height(7)), Qt.AlignmentFlag.AlignVCenter, words)
