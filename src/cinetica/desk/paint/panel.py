"""A widget that is drawn on a canvas, as the plots are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QPaintEngine, QPainter
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.paint.board import Board, compiled
from cinetica.desk.paint.canvas import PIXELS, Canvas, Strokes
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import anew, whole_pixels

Draw = Callable[[Canvas], None]


def paint_part(painter: QPainter, area: QRectF, ground: QColor, draw: Draw) -> None:
    """Draw a small part of a widget, from within its paint event, on a canvas whose corner is the part's."""
    if painter.paintEngine().type() != QPaintEngine.Type.Raster or compiled() is None:
        painter.save()
        painter.translate(area.topLeft())
        room = QRectF(0, 0, area.width(), area.height())
        painter.setClipRect(room, Qt.ClipOperation.IntersectClip)
        painter.fillRect(room, ground)
        draw(Strokes(painter, room))
        painter.restore()
        return
    ratio = painter.device().devicePixelRatioF()
    left, top, wide, high = whole_pixels(area, ratio)
    if wide > 0 and high > 0:
        board = front((wide, high, ratio, 0, 0))
        board.fill(ground)
        draw(board)
        where = QRectF(left / ratio, top / ratio, wide / ratio, high / ratio)
        painter.drawImage(where, board.image, QRectF(0, 0, wide, high))


class Row(NamedTuple):
    """A part of a panel that is drawn anew by itself. `key` holds all that it depends on beside the panel's key."""

    key: object
    area: QRectF
    draw: Draw


class Panel:
    """What is kept of a widget's picture: all that its key tells, and rows with keys of their own. Over it lies what
    is drawn every time."""

    def __init__(self) -> None:
        self._board: Board | None = None
        self._key: object = None
        self._rows: list[object] = []

    def paint(self, widget: QWidget, key: object, under: Draw, over: Draw, rows: Sequence[Row] = ()) -> None:
        """Paint all of a widget, on paper, from within its paint event."""
        painter = QPainter(widget)
        area, paper = QRectF(widget.rect()), look.color(look.worn().paper)
        if painter.paintEngine().type() != QPaintEngine.Type.Raster or compiled() is None:
            painter.setClipRect(area)
            painter.fillRect(QRectF(QPoint(0, 0), widget.size()), paper)
            canvas = Strokes(painter, area)
            for draw in (under, *(row.draw for row in rows), over):
                draw(canvas)
            return
        ratio = painter.device().devicePixelRatioF()
        _left, _top, wide, high = whole_pixels(area, ratio)
        if wide <= 0 or high <= 0:
            return
        shape = (wide, high, ratio, 0, 0)
        board = front(shape)
        board.copy_of(self._kept(shape, (key, look.worn(), look.text_scale()), under, rows))
        over(board)
        painter.drawImage(QRectF(0, 0, wide / ratio, high / ratio), board.image, QRectF(0, 0, wide, high))

    def _kept(self, shape: tuple[int, int, float, int, int], key: object, under: Draw, rows: Sequence[Row]) -> Board:
        board, paper = self._board, look.color(look.worn().paper)
        if board is None or board.shape != shape:
            board = self._board = Board(*shape)
            self._key = None
        if anew() or self._key != key or len(self._rows) != len(rows):
            board.fill(paper)
            under(board)
            self._key, self._rows = key, [None] * len(rows)
            for row in rows:
                row.draw(board)
        else:
            for row, kept in zip(rows, self._rows, strict=True):
                if row.key != kept:
                    with board.within(row.area):
                        area = row.area
                        whole = (area.left(), area.bottom() + 1, area.right() + 1, area.top())
                        board.boxes(whole, PIXELS, None, paper)
                        row.draw(board)
        self._rows = [row.key for row in rows]
        return board
