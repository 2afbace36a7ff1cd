"""A widget that is drawn on a canvas, as the plots are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPaintEngine, QPainter, QRegion
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.paint.board import Board, Shape, compiled
from cinetica.desk.paint.canvas import PIXELS, Canvas, Strokes
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import anew, whole_pixels

Draw = Callable[[Canvas], None]


def paint_parts(painter: QPainter, size: QSize, parts: Sequence[QRect], ground: QColor, draw: Draw) -> None:
    """Draw parts of a widget of this size, all in one go, from within its paint event: `draw` draws what is in them, on
    `ground`."""
    ratio = painter.device().devicePixelRatioF()
    if painter.paintEngine().type() != QPaintEngine.Type.Raster or compiled() is None:
        for part in parts:
            painter.fillRect(part, ground)
        draw(Strokes(painter, QRectF(QPoint(0, 0), size)))
        return
    _left, _top, wide, high = whole_pixels(QRectF(QPoint(0, 0), size), ratio)
    if wide <= 0 or high <= 0:
        return
    board, region = front((wide, high, ratio, 0, 0)), QRegion()
    under: list[float] = []
    for part in parts:
        left, top = part.left(), part.top()
        under += (left, top + part.height(), left + part.width(), top)
        region += part
    board.boxes(under, PIXELS, None, ground)
    draw(board)
    painter.save()
    painter.setClipRegion(region, Qt.ClipOperation.IntersectClip)
    painter.drawImage(QRectF(0, 0, wide / ratio, high / ratio), board.image, QRectF(0, 0, wide, high))
    painter.restore()


class Row(NamedTuple):
    """A part of a panel that is drawn anew by itself. `key` holds all that it depends on beside the panel's key."""

    key: object
    area: QRectF
    draw: Draw


class Panel:
    """What is kept of a widget's picture: all that its key tells, and rows with keys of their own. Over it lies what
    is drawn every time; where nothing lies under that, it is drawn on paper."""

    def __init__(self) -> None:
        self._board: Board | None = None
        self._key: object = None
        self._rows: list[object] = []
        # The board that was begun, and what is on it.
        self._begun: Board | None = None
        self._begun_for: object = None

    def begin(self, widget: QWidget, key: object, under: Draw | None, over: Draw) -> None:
        """Draw beside Python what is to be painted next, when `paint` is asked for the same."""
        ratio = widget.devicePixelRatioF()
        shape = _shape_of(QRectF(widget.rect()), ratio)
        if shape is None or compiled() is None or anew():
            return
        if self._begun is None or self._begun.shape != shape:
            self._begun = Board(*shape)
        self._draw(self._begun, key, under, over, ())
        self._begun.begin()
        self._begun_for = (shape, key, over, look.worn(), look.text_scale())

    def paint(self, widget: QWidget, key: object, under: Draw | None, over: Draw, rows: Sequence[Row] = ()) -> None:
        """Paint all of a widget, on paper, from within its paint event."""
        painter = QPainter(widget)
        area, paper = QRectF(widget.rect()), look.color(look.worn().paper)
        if painter.paintEngine().type() != QPaintEngine.Type.Raster or compiled() is None:
            painter.setClipRect(area)
            painter.fillRect(QRectF(QPoint(0, 0), widget.size()), paper)
            canvas = Strokes(painter, area)
            for draw in (under, *(row.draw for row in rows), over):
                if draw is not None:
                    draw(canvas)
            return
        ratio = painter.device().devicePixelRatioF()
        shape = _shape_of(area, ratio)
        if shape is None:
            return
        begun, self._begun_for = self._begun_for, None
        board = self._begun
        if board is None or begun != (shape, key, over, look.worn(), look.text_scale()) or anew():
            board = front(shape)
            self._draw(board, key, under, over, rows)
        painter.drawImage(board.area, board.image, QRectF(0, 0, *shape[:2]))

    def _draw(self, board: Board, key: object, under: Draw | None, over: Draw, rows: Sequence[Row]) -> None:
        if under is None:
            board.lay(look.color(look.worn().paper))
        else:
            board.copy_of(self._kept(board.shape, (key, look.worn(), look.text_scale()), under, rows))
        over(board)

    def _kept(self, shape: Shape, key: object, under: Draw, rows: Sequence[Row]) -> Board:
        board, paper = self._board, look.color(look.worn().paper)
        if board is None or board.shape != shape:
            board = self._board = Board(*shape)
            self._key = None
        if anew() or self._key != key or len(self._rows) != len(rows):
            board.fill(paper)
            under(board)
            self._key, self._rows = key, [None] * len(rows)
            for row in rows:
                board.clip(row.area)
                row.draw(board)
            board.clip(None)
        else:
            for row, kept in zip(rows, self._rows, strict=True):
                if row.key != kept:
                    area = row.area
                    board.clip(area)
                    board.boxes((area.left(), area.bottom() + 1, area.right() + 1, area.top()), PIXELS, None, paper)
                    row.draw(board)
                    board.clip(None)
        self._rows = [row.key for row in rows]
        return board


def _shape_of(area: QRectF, ratio: float) -> Shape | None:
    """Of the board of a widget; None where there is no room for any."""
    _left, _top, wide, high = whole_pixels(area, ratio)
    return (wide, high, ratio, 0, 0) if wide > 0 and high > 0 else None
