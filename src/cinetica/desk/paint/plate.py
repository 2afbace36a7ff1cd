"""The plate of a plot: paper, grid, course and wakes; on them the curves and prints; on those what goes with the frame
cursor.

The first two are each one picture that is kept for as long as its key stays the same. The key holds all that it depends
on. The third is drawn whenever the plot is painted.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

import pyqtgraph as pg
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPaintEngine, QPainter

from cinetica.desk import look
from cinetica.desk.paint.canvas import Board, Canvas, Strokes, compiled
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import anew, whole_pixels
from cinetica.desk.paint.mapping import Mapping


class Ground(Protocol):
    """What lies under everything. `key` holds all that its picture depends on, besides the mapping and the look."""

    @property
    def key(self) -> object: ...

    def paint(self, painter: QPainter, mapping: Mapping, palette: look.Palette) -> None: ...


class Layer(Protocol):
    """What is drawn on the ground; `key` as of a ground."""

    @property
    def key(self) -> object: ...

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None: ...


class _Sheet:
    """A picture with the key that it was drawn for."""

    def __init__(self) -> None:
        self.board: Board | None = None
        self.key: object = None

    def shown(
        self, key: object, shape: tuple[int, int, float, int, int], under: Board | None, draw: Callable[[Board], None]
    ) -> Board:
        if self.board is None or self.board.shape != shape:
            self.board, self.key = Board(*shape), None
        if self.key != key or anew():
            if under is not None:
                self.board.copy_of(under)
            draw(self.board)
            self.key = key
        return self.board


class Plate(pg.GraphicsObject):
    """From the lowest to the highest, over the whole of a view: grounds, what stays during a drag, what changes, what
    goes with the cursor."""

    def __init__(
        self,
        box: pg.ViewBox,
        grounds: Sequence[Ground],
        still: Sequence[Layer],
        layers: Sequence[Layer],
        over: Sequence[Layer],
    ) -> None:
        super().__init__()
        self._box = box
        self.grounds, self.still, self.layers, self.over = list(grounds), list(still), list(layers), list(over)
        self._ground, self._drawn = _Sheet(), _Sheet()
        self.setZValue(-100)
        box.sigRangeChanged.connect(self._turned)

    def _turned(self, *_: object) -> None:
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        view = self._box.viewRect()
        if view.width() <= 0 or view.height() <= 0:
            return
        mapping = Mapping.of(painter.transform(), view)
        painter.save()
        painter.resetTransform()
        # On anything but a screen or an image (a printer, an SVG file) lines stay lines.
        if painter.paintEngine().type() == QPaintEngine.Type.Raster and compiled() is not None:
            self._lay_kept(painter, mapping)
        else:
            painter.setClipRect(mapping.area)
            self._paint_ground(painter, mapping)
            canvas = Strokes(painter, mapping.area)
            for layer in (*self.still, *self.layers, *self.over):
                layer.draw(canvas, mapping, look.worn())
        painter.restore()

    def _paint_ground(self, painter: QPainter, mapping: Mapping) -> None:
        painter.fillRect(mapping.area, QColor(look.worn().paper))
        for ground in self.grounds:
            painter.save()
            ground.paint(painter, mapping, look.worn())
            painter.restore()

    def _lay_kept(self, painter: QPainter, mapping: Mapping) -> None:
        ratio = painter.device().devicePixelRatioF()
        left, top, wide, high = whole_pixels(mapping.area, ratio)
        if wide <= 0 or high <= 0:
            return
        shape = (wide, high, ratio, left, top)

        def draw(board: Board, layers: Sequence[Layer]) -> None:
            for layer in layers:
                layer.draw(board, mapping, look.worn())

        def draw_ground(board: Board) -> None:
            board.image.fill(QColor(look.worn().paper))
            on = QPainter(board.image)
            on.translate(-left, -top)
            on.scale(ratio, ratio)
            self._paint_ground(on, mapping)
            on.end()
            draw(board, self.still)

        key: tuple[object, ...] = (
            mapping,
            look.worn(),
            look.text_scale(),
            *(each.key for each in self.grounds),
            *(each.key for each in self.still),
        )
        ground = self._ground.shown(key, shape, None, draw_ground)
        key = (key, *(layer.key for layer in self.layers))
        drawn = self._drawn.shown(key, shape, ground, lambda board: draw(board, self.layers))
        finished = front(shape)
        finished.copy_of(drawn)
        draw(finished, self.over)
        painter.drawImage(
            QRectF(left / ratio, top / ratio, wide / ratio, high / ratio), finished.image, QRectF(0, 0, wide, high)
        )
