"""The fine printed grid of the paper, and the frame cursor on it."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.compare.time_axis import round_step


class PaperGrid(pg.GraphicsObject):
    """The fine printed grid of the paper, in the view's own coordinates."""

    def __init__(self, box: pg.ViewBox, palette: look.Palette, *, square: bool = False) -> None:
        super().__init__()
        self._box, self.look, self._square = box, palette, square
        self._lines: tuple[QRectF, list[QLineF], list[QLineF]] = (QRectF(), [], [])
        self.setZValue(-100)
        # Ruling the paper costs more than all curves; it stays the same until the view is turned.
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)
        box.sigRangeChanged.connect(lambda *_: self._changed())

    def _changed(self) -> None:
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        rect = self._box.viewRect()
        if rect.width() <= 0 or rect.height() <= 0:
            return
        if self._lines[0] != rect:
            self._lines = (rect, *self._ruled(rect))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for color, lines in zip((self.look.grid_fine, self.look.grid), self._lines[1:], strict=True):
            painter.setPen(QPen(QColor(color), 0))
            painter.drawLines(lines)
        painter.drawLine(QPointF(rect.left(), rect.bottom()), QPointF(rect.right(), rect.bottom()))

    def _ruled(self, rect: QRectF) -> tuple[list[QLineF], list[QLineF]]:
        """The fine and the strong lines of this stretch of paper."""
        across = round_step(rect.width(), self._box.width() / 46)
        up = across if self._square else round_step(rect.height(), self._box.height() / 26)
        ruled = []
        for step_x, step_y in ((across / 5, up / 5 if self._square else 0.0), (across, up)):
            lines = [QLineF(x, rect.top(), x, rect.bottom()) for x in _multiples(step_x, rect.left(), rect.right())]
            if step_y:
                lines += [QLineF(rect.left(), y, rect.right(), y) for y in _multiples(step_y, rect.top(), rect.bottom())]
            ruled.append(lines)
        return ruled[0], ruled[1]


def _multiples(step: float, low: float, high: float) -> list[float]:
    return [number * step for number in range(int(np.ceil(low / step)), int(np.floor(high / step)) + 1)]


class CursorItem(pg.GraphicsObject):
    """The frame cursor in a strip, with every tune's marker on its curve. It is as narrow as its markers, so that
    a step repaints no more than it must."""

    REACH = 7

    def __init__(self, box: pg.ViewBox, palette: look.Palette) -> None:
        super().__init__()
        self._box, self.look = box, palette
        self._spots: list[tuple[int, float]] = []
        self.setZValue(20)
        box.sigRangeChanged.connect(lambda *_: self._resized())

    def _resized(self) -> None:
        self.prepareGeometryChange()
        self.update()

    def show_at(self, time: float, spots: list[tuple[int, float]]) -> None:
        """Stand at a time, with a marker for each (place of the tune, value)."""
        if self._spots != spots:
            self._spots = spots
            self.update()
        self.setPos(time, 0)

    def boundingRect(self) -> QRectF:
        rect = self._box.viewRect()
        wide = self.REACH * rect.width() / max(1.0, self._box.width())
        return QRectF(-wide, rect.top(), 2 * wide, rect.height())

    def paint(self, painter: QPainter, *_: object) -> None:
        rect = self._box.viewRect()
        painter.setPen(QPen(QColor(self.look.ink), 0))
        painter.drawLine(QPointF(0, rect.top()), QPointF(0, rect.bottom()))
        transform = painter.transform()
        painter.resetTransform()
        painter.setBrush(QColor(self.look.paper))
        for place, value in self._spots:
            painter.setPen(QPen(look.ink(self.look, place), 1.6))
            middle = transform.map(QPointF(0, value))
            painter.drawPath(look.shape(place, 9).translated(middle))
