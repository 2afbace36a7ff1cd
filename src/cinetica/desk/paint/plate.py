"""The plate of a plot: paper, grid and course; on them wakes, then the curves and prints; on those what goes with the
frame cursor.

The first is a picture that is kept for as long as its key stays the same; the key holds all that it depends on. Of the
second, which goes tune by tune with the reference on top, as much as lay under the first change is kept: while one tune
is dragged the others are not drawn again. The third is drawn whenever the plot is painted.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple, Protocol

import pyqtgraph as pg
from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QColor, QPaintEngine, QPainter, QRegion, QTransform
from PySide6.QtWidgets import QStyleOptionGraphicsItem

from cinetica.desk import look
from cinetica.desk.paint.board import Board, compiled
from cinetica.desk.paint.canvas import Canvas, Strokes
from cinetica.desk.paint.fronts import front
from cinetica.desk.paint.kept import anew, whole_pixels
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.plot import PaperPlot


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


class Part(NamedTuple):
    """What one tune has in a layer. `made`: an object that is another one when the part is to be drawn anew, all else
    that it depends on being the mapping and the look."""

    made: object
    draw: Callable[[Canvas, Mapping, look.Palette], None]


class PartedLayer(Layer, Protocol):
    @property
    def parts(self) -> list[Part]:
        """From the lowest to the highest."""


class _Stack:
    """Parts on a ground, as many of them kept on a board as have stayed the same from one time to the next."""

    def __init__(self) -> None:
        self._board: Board | None = None
        # What is on the board, and what there was the last time: the key of the ground, and the parts.
        self._kept: list[object] = []
        self._last: list[object] = []

    def finished(
        self, key: object, ground: Board, parts: Sequence[Part], mapping: Mapping, palette: look.Palette
    ) -> Board:
        """A board that is shared with others, with all parts."""
        now = [key, *(part.made for part in parts)]
        if self._board is None or self._board.shape != ground.shape:
            self._board, self._kept = Board(*ground.shape), []
        # Where it is only the ground that stays, it need not lie on the board, too.
        if anew() or not self._kept or not _begins(now, self._kept):
            self._kept = now[:1]
        same = next((at for at, alike in enumerate(map(_alike, now, self._last)) if not alike), None)
        same = min(len(now), len(self._last)) if same is None else same
        staying = parts[len(self._kept) - 1 : max(0, same - 1)]
        if len(self._kept) == 1 and staying:
            self._board.copy_of(ground)
        for part in staying:
            part.draw(self._board, mapping, palette)
            self._kept.append(part.made)
        self._last = now
        board = front(ground.shape)
        board.copy_of(self._board if len(self._kept) > 1 else ground)
        for part in parts[len(self._kept) - 1 :]:
            part.draw(board, mapping, palette)
        return board


def _alike(one: object, other: object) -> bool:
    return one is other or one == other


def _begins(whole: list[object], beginning: list[object]) -> bool:
    return len(beginning) <= len(whole) and all(map(_alike, whole, beginning))


class _Sheet:
    """A picture with the key that it was drawn for."""

    def __init__(self) -> None:
        self.board: Board | None = None
        self.key: object = None

    def shown(self, key: object, shape: tuple[int, int, float, int, int], draw: Callable[[Board], None]) -> Board:
        if self.board is None or self.board.shape != shape:
            self.board, self.key = Board(*shape), None
        if self.key != key or anew():
            draw(self.board)
            self.key = key
        return self.board


class Plate(pg.GraphicsObject):
    """From the lowest to the highest, over the whole of a view: grounds, what lies under all tunes, what each tune has,
    what goes with the cursor."""

    def __init__(
        self,
        plot: PaperPlot,
        grounds: Sequence[Ground],
        under: Sequence[PartedLayer],
        layers: Sequence[PartedLayer],
        over: Sequence[Layer],
    ) -> None:
        super().__init__()
        self._plot, self._box = plot, plot.box
        self.grounds, self.under, self.layers, self.over = list(grounds), list(under), list(layers), list(over)
        self._ground, self._stack = _Sheet(), _Stack()
        # Where it lay when it was painted last, in pixels of the plot's viewport.
        self._rect = QRect()
        # The mapping there, until the view turns or moves.
        self._placed: tuple[QTransform, Mapping] | None = None
        self.setZValue(-100)
        plot.put(self)
        plot.plate = self
        self._box.sigRangeChanged.connect(self._turned)
        for moved in (self._box.sigTransformChanged, self._box.geometryChanged):
            moved.connect(self._moved)

    def refresh(self) -> None:
        """Have it painted anew, once, when the event loop comes round; see `paint_alone`."""
        if self._rect.isEmpty():
            self.update()
        else:
            # Whatever else has changed, such as its place, has asked for itself.
            self._plot.viewport().update(self._rect)

    def paint_alone(self, wanted: QRegion) -> bool:
        """Paint what is wanted of the viewport without Qt's scene, which takes several times as long; whether that can
        be done."""
        self._box.prepareForPaint()
        turned = self._plot.viewportTransform()
        if self._placed is None or self._placed[0] != turned:
            view = self._box.viewRect()
            if view.width() <= 0 or view.height() <= 0:
                return False
            mapping = Mapping.of(self.deviceTransform(turned), view)
            self._placed = (turned, mapping)
            self._rect = mapping.area.toAlignedRect()
        painter = QPainter(self._plot.viewport())
        around = wanted.subtracted(QRegion(self._rect))
        if not around.isEmpty():
            self._plot.paint_around(painter, around)
        if not wanted.intersects(self._rect):
            return True
        self._paint(painter, self._placed[1])
        painter.setClipRect(self._rect)
        for item in self._plot.over:
            if item.isVisible():
                painter.setRenderHints(self._plot.renderHints())
                painter.setTransform(item.deviceTransform(turned))
                item.paint(painter, QStyleOptionGraphicsItem(), None)
        painter.end()
        return True

    def _moved(self, *_: object) -> None:
        self._placed = None

    def _turned(self, *_: object) -> None:
        self._placed = None
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
        self._paint(painter, mapping)
        painter.restore()

    def _paint(self, painter: QPainter, mapping: Mapping) -> None:
        # On anything but a screen or an image (a printer, an SVG file) lines stay lines.
        if painter.paintEngine().type() == QPaintEngine.Type.Raster and compiled() is not None:
            self._lay_kept(painter, mapping)
        else:
            painter.setClipRect(mapping.area)
            self._paint_ground(painter, mapping)
            canvas = Strokes(painter, mapping.area)
            for part in self._parts():
                part.draw(canvas, mapping, look.worn())
            for layer in self.over:
                layer.draw(canvas, mapping, look.worn())

    def _parts(self) -> list[Part]:
        """Of those that lie under the others, then of all layers, tune by tune."""
        by_layer = [layer.parts for layer in self.layers]
        return [part for layer in self.under for part in layer.parts] + [
            part for of_tune in zip(*by_layer, strict=True) for part in of_tune
        ]

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
            board.fill(QColor(look.worn().paper))
            on = QPainter(board.image)
            on.translate(-left, -top)
            on.scale(ratio, ratio)
            self._paint_ground(on, mapping)
            on.end()

        key: tuple[object, ...] = (
            mapping,
            look.worn(),
            look.text_scale(),
            *(each.key for each in self.grounds),
        )
        ground = self._ground.shown(key, shape, draw_ground)
        palette = look.worn()
        finished = self._stack.finished(key, ground, self._parts(), mapping, palette)
        draw(finished, self.over)
        painter.drawImage(
            QRectF(left / ratio, top / ratio, wide / ratio, high / ratio), finished.image, QRectF(0, 0, wide, high)
        )
