"""What moves with the frame cursor: its line in a strip, and every tune's marker."""

from __future__ import annotations

import math
from collections.abc import Sequence

import pyqtgraph as pg
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.paint.mapping import Mapping


class Spots(pg.GraphicsObject):
    """Each tune's marker at the frame cursor: `spots` are places of tunes with x and y. Over time a line goes through them."""

    SIZE = 9

    def __init__(self, box: pg.ViewBox, palette: look.Palette) -> None:
        super().__init__()
        self._box, self.look = box, palette
        self.spots: list[tuple[int, QPointF]] = []
        self.line: float | None = None
        self.band: tuple[int, float, float] | None = None
        self.setZValue(20)
        box.sigRangeChanged.connect(self._turned)

    def _turned(self, *_: object) -> None:
        self.prepareGeometryChange()
        self.update()

    def show_at(self, spots: Sequence[tuple[int, QPointF]], line: float | None = None) -> None:
        self.spots, self.line = list(spots), line
        self.update()

    def light(self, band: tuple[int, float, float] | None) -> None:
        """Light up a stretch of time, in the ink of the tune at a place: (place, from, to)."""
        if band != self.band:
            self.band = band
            self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        mapping = Mapping.of(painter.transform(), self._box.viewRect())
        painter.resetTransform()
        if self.band is not None:
            self._paint_band(painter, mapping, *self.band)
        if self.line is not None:
            painter.setPen(QPen(QColor(self.look.ink), 1))
            x = math.floor(mapping.x(self.line)) + 0.5
            painter.drawLine(QLineF(x, mapping.area.top(), x, mapping.area.bottom()))
        painter.setBrush(QColor(self.look.paper))
        for place, spot in self.spots:
            painter.setPen(QPen(look.ink(self.look, place), 1.6))
            painter.drawPath(look.shape(place, self.SIZE).translated(mapping.point(spot)))

    def _paint_band(self, painter: QPainter, mapping: Mapping, place: int, start: float, end: float) -> None:
        left, right = math.floor(mapping.x(start)), math.ceil(mapping.x(end))
        area = QRectF(left, mapping.area.top(), max(2, right - left), mapping.area.height())
        ink = look.ink(self.look, place)
        veil = QColor(ink)
        veil.setAlpha(36)
        painter.fillRect(area, veil)
        # Its ends, whatever lies under them.
        for edge in (area.left(), area.right() - 1):
            painter.fillRect(QRectF(edge, area.top(), 1, area.height()), ink)
