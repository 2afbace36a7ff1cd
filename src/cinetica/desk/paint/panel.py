"""A widget that is drawn on a canvas, as the plots are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QRegion
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.paint.board import Board, Shape, compiled
from cinetica.desk.paint.canvas import PIXELS, Canvas, Strokes
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import anew, on_pixels, whole_pixels

Draw = Callable[[Canvas], None]


def paint_parts(painter: QPainter, size: QSize, parts: Sequence[QRect], ground: QColor, draw: Draw) -> None:
    """Draw parts of a widget of this size, all in one go, from within its paint event: `draw` draws what is in them, on
    `ground`."""
    ratio = painter.device().devicePixelRatioF()
    if compiled() is None or not on_pixels(painter):
        for part in parts:
            painter.fillRect(part, ground)
        draw(Strokes(painter, QRectF(QPoint(0, 0), size)))
        return
    shape = _shape_of(QRectF(QPoint(0, 0), size), ratio)
    if shape is None:
        return
    board = front(shape)
    board.boxes([side for part in parts for side in _edges_of(part)], PIXELS, None, ground)
    draw(board)
    whole = len(parts) == 1 and parts[0].size() == size
    if not whole:
        region = QRegion()
        for part in parts:
            region += part
        painter.save()
        painter.setClipRegion(region, Qt.ClipOperation.IntersectClip)
    painter.drawImage(board.area, board.image, board.pixel_area)
    if not whole:
        painter.restore()


class Rows(NamedTuple):
    """Parts of a panel that are drawn anew by themselves: of each a key, which holds all that it depends on beside the
    panel's key, and its place. `draw` draws those of these numbers; `apart`: one after the other, none beyond its
    place."""

    keys: Sequence[object]
    areas: Sequence[QRectF]
    draw: Callable[[Canvas, Sequence[int]], None]
    apart: bool = False


NO_ROWS = Rows((), (), lambda _canvas, _numbers: None)


class Picture(NamedTuple):
    """All of a panel: `under`, which is kept for as long as `key` stays the same, with rows on it; over these what is
    drawn every time, and what that depends on, where it is begun before it is painted. With nothing under it, it is
    drawn on paper."""

    key: object
    under: Draw | None
    over: Draw
    rows: Rows = NO_ROWS
    over_key: object = None

    @property
    def asked(self) -> tuple[object, ...]:
        """All that it is drawn for, beside its size."""
        return self.key, self.over, self.rows.keys, self.over_key, look.worn(), look.text_scale()


class Panel:
    """What is kept of a widget's picture from one time to the next."""

    def __init__(self) -> None:
        self._board: Board | None = None
        self._key: object = None
        self._rows: list[object] = []
        # The board that was begun, and what is on it.
        self._begun: Board | None = None
        self._begun_for: object = None

    def begin(self, widget: QWidget, picture: Picture, *, beside: bool = True) -> None:
        """Draw what is to be painted next, when `paint` is asked for the same: beside Python, or at once, while what
        was begun before is drawn there."""
        ratio = widget.devicePixelRatioF()
        shape = _shape_of(QRectF(widget.rect()), ratio)
        if shape is None or compiled() is None or anew():
            return
        if self._begun is None or self._begun.shape != shape:
            self._begun = Board(*shape)
        self._draw(self._begun, picture)
        if beside:
            self._begun.begin()
        else:
            self._begun.finish()
        self._begun_for = (shape, picture.asked)

    def paint(self, widget: QWidget, picture: Picture) -> None:
        """Paint all of a widget, on paper, from within its paint event."""
        painter = QPainter(widget)
        area, paper = QRectF(widget.rect()), look.color(look.worn().paper)
        if compiled() is None or not on_pixels(painter):
            painter.setClipRect(area)
            painter.fillRect(QRectF(QPoint(0, 0), widget.size()), paper)
            canvas = Strokes(painter, area)
            if picture.under is not None:
                picture.under(canvas)
            picture.rows.draw(canvas, range(len(picture.rows.keys)))
            picture.over(canvas)
            return
        ratio = painter.device().devicePixelRatioF()
        shape = _shape_of(area, ratio)
        if shape is None:
            return
        begun, self._begun_for = self._begun_for, None
        board = self._begun
        if board is None or begun is None or begun != (shape, picture.asked) or anew():
            board = front(shape)
            self._draw(board, picture)
        painter.drawImage(board.area, board.image, board.pixel_area)

    def _draw(self, board: Board, picture: Picture) -> None:
        if picture.under is None:
            board.lay(look.color(look.worn().paper))
        else:
            board.copy_of(self._kept(board.shape, picture.key, picture.under, picture.rows))
        picture.over(board)

    def _kept(self, shape: Shape, key: object, under: Draw, rows: Rows) -> Board:
        board, paper, key = self._board, look.color(look.worn().paper), (key, look.worn(), look.text_scale())
        if board is None or board.shape != shape:
            board = self._board = Board(*shape)
            self._key = None
        if anew() or self._key != key or len(self._rows) != len(rows.keys):
            board.fill(paper)
            under(board)
            self._key, changed, edges = key, list(range(len(rows.keys))), []
        else:
            changed = [at for at, (now, was) in enumerate(zip(rows.keys, self._rows, strict=True)) if now != was]
            areas = (rows.areas[at] for at in changed)
            edges = [side for area in areas for side in (area.left(), area.bottom(), area.right(), area.top())]
        if changed:
            board.boxes(edges, PIXELS, None, paper)
            if rows.apart:
                for at in changed:
                    board.clip(rows.areas[at])
                    rows.draw(board, (at,))
                board.clip(None)
            else:
                rows.draw(board, changed)
        self._rows = list(rows.keys)
        return board


def _edges_of(part: QRect) -> tuple[int, int, int, int]:
    """Left, bottom, right and top; what Qt calls right and bottom of whole pixels are the last of them."""
    left, top = part.left(), part.top()
    return left, top + part.height(), left + part.width(), top


def _shape_of(area: QRectF, ratio: float) -> Shape | None:
    """Of the board of a widget; None where there is no room for any."""
    _left, _top, wide, high = whole_pixels(area, ratio)
    return (wide, high, ratio, 0, 0) if wide > 0 and high > 0 else None
