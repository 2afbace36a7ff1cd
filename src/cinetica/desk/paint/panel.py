"""A widget that is drawn on a canvas, as the plots are."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QRectF
from PySide6.QtGui import QColor, QPaintEngine, QPainter
from PySide6.QtWidgets import QWidget

from cinetica.desk.paint.board import compiled
from cinetica.desk.paint.canvas import Canvas, Strokes
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import whole_pixels


def paint_panel(widget: QWidget, ground: QColor, draw: Callable[[Canvas], None]) -> None:
    """Paint all of a widget, from within its paint event."""
    painter = QPainter(widget)
    area = QRectF(widget.rect())
    if painter.paintEngine().type() == QPaintEngine.Type.Raster and compiled() is not None:
        ratio = painter.device().devicePixelRatioF()
        _left, _top, wide, high = whole_pixels(area, ratio)
        if wide <= 0 or high <= 0:
            return
        board = front((wide, high, ratio, 0, 0))
        board.fill(ground)
        draw(board)
        painter.drawImage(QRectF(0, 0, wide / ratio, high / ratio), board.image, QRectF(0, 0, wide, high))
    else:
        painter.setClipRect(area)
        painter.fillRect(QRectF(QPoint(0, 0), widget.size()), ground)
        draw(Strokes(painter, area))
