"""The plate of a plot: paper, grid and course; on them wakes, then the curves and prints; on those what goes with the
frame cursor.

The first is a picture that is kept for as long as its key stays the same; the key holds all that it depends on. Of the
second, which goes tune by tune with the reference on top, as much as lay under the first change is kept: while one tune
is dragged the others are not drawn again. The third is drawn whenever the plot is painted.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import NamedTuple, Protocol

import pyqtgraph as pg
from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QColor, QPainter, QRegion, QTransform
from PySide6.QtWidgets import QStyleOptionGraphicsItem

from cinetica.desk import look
from cinetica.desk.paint.board import Board, Shape, compiled
from cinetica.desk.paint.canvas import Canvas, Strokes
from cinetica.desk.paint.kept import anew, on_pixels, whole_pixels
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


# What layers are drawn with.
How = tuple[Mapping, look.Palette]


class _Stack:
    """Parts on a ground, as many of them kept on a board as have stayed the same from one time to the next; and over
    them what goes with the cursor."""

    def __init__(self) -> None:
        # What is kept, and the finished picture.
        self._boards: tuple[Board, Board] | None = None
        # What is kept there, and what there was the last time: the key of the ground, and the parts.
        self._kept: list[object] = []
        self._last: list[object] = []
        self._over: list[object] = []

    def finished(
        self, key: object, ground: Board, parts: Sequence[Part], over: Sequence[Layer], how: How
    ) -> Board:  # fmt: skip
        """A board with all of it."""
        now, keys = [key, *(part.made for part in parts)], [layer.key for layer in over]
        if self._boards is None or self._boards[1].shape != ground.shape:
            self._boards = Board(*ground.shape), Board(*ground.shape)
            self._kept, self._last = [], []
        same = next((at for at, alike in enumerate(map(_alike, now, self._last)) if not alike), None)
        same = min(len(now), len(self._last)) if same is None else same
        board = self._boards[1]
        if anew() or keys != self._over or not same == len(now) == len(self._last):
            self._lay(board, now, same, ground, parts, how)
            for layer in over:
                layer.draw(board, *how)
            self._last, self._over = now, keys
        return board

    def _lay(
        self, board: Board, now: list[object], same: int, ground: Board, parts: Sequence[Part], how: How
    ) -> None:  # fmt: skip
        """All parts; so many of what there is now have stayed the same."""
        assert self._boards is not None
        under = self._boards[0]
        # Where it is only the ground that stays, it need not lie on the board, too.
        if anew() or not self._kept or not _begins(now, self._kept):
            self._kept = now[:1]
        staying = parts[len(self._kept) - 1 : max(0, same - 1)]
        if len(self._kept) == 1 and staying:
            under.copy_of(ground)
        for part in staying:
            part.draw(under, *how)
            self._kept.append(part.made)
        board.copy_of(under if len(self._kept) > 1 else ground)
        for part in parts[len(self._kept) - 1 :]:
            part.draw(board, *how)


def _alike(one: object, other: object) -> bool:
    return one is other or one == other


def _begins(whole: list[object], beginning: list[object]) -> bool:
    return len(beginning) <= len(whole) and all(map(_alike, whole, beginning))


class _Sheet:
    """A picture with the key that it was drawn for."""

    def __init__(self) -> None:
        self.board: Board | None = None
        self.key: object = None

    def shown(self, key: object, shape: Shape, draw: Callable[[Board], None]) -> Board:
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
        self._plot, self._box, self._port = plot, plot.box, plot.viewport()
        self.grounds, self.under, self.layers, self.over = list(grounds), list(under), list(layers), list(over)
        self._sheets, self._stack = [_Sheet() for _ in grounds], _Stack()
        # Where it lay when it was painted last, in pixels of the plot's viewport.
        self._rect = QRect()
        # The mapping there, until the view turns or moves.
        self._placed: tuple[QTransform, Mapping] | None = None
        # Whether it has been asked to be painted, and has not been drawn since.
        self._due = False
        # What the finished board was drawn for, and that board.
        self._about: tuple[object, ...] = (None,)
        self._board: Board | None = None
        self.setZValue(-100)
        plot.put(self)
        plot.plate = self
        self._box.sigRangeChanged.connect(self._turned)
        for moved in (self._box.sigTransformChanged, self._box.geometryChanged):
            moved.connect(self._moved)

    def refresh(self) -> None:
        """Have it painted anew, once, when the event loop comes round; see `paint_alone`."""
        self._due = True
        if self._rect.isEmpty():
            self.update()
        else:
            # Whatever else has changed, such as its place, has asked for itself.
            self._port.update(self._rect)

    def begin(self) -> None:
        """Where it is to be painted anew, draw what will be painted, beside Python: all that it shows is there by now.
        Should anything change until then, it is drawn once more."""
        port = self._port
        if self._due and port.isVisible() and compiled() is not None and not anew() and self._place():
            assert self._placed is not None
            board = self._finished(self._placed[1], port.devicePixelRatioF())
            if board is not None:
                board.begin()

    def _place(self) -> bool:
        """Find where it lies on the screen; whether it lies anywhere."""
        self._box.prepareForPaint()
        turned = self._plot.viewportTransform()
        if self._placed is None or self._placed[0] != turned:
            view = self._box.viewRect()
            if view.width() <= 0 or view.height() <= 0:
                return False
            mapping = Mapping.of(self.deviceTransform(turned), view)
            self._placed = (turned, mapping)
            self._rect = mapping.area.toAlignedRect()
        return True

    def paint_alone(self, wanted: QRegion) -> bool:
        """Paint what is wanted of the viewport without Qt's scene, which takes several times as long; whether that can
        be done."""
        if not self._place():
            return False
        assert self._placed is not None
        turned, mapping = self._placed
        painter = QPainter(self._port)
        if not self._rect.contains(wanted.boundingRect()):
            self._plot.paint_around(painter, wanted.subtracted(QRegion(self._rect)))
            if not wanted.intersects(self._rect):
                return True
        self._paint(painter, mapping)
        for item in self._plot.over:
            if item.isVisible():
                painter.setClipRect(self._rect)
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
        # The numbers of the axes with it: Qt's scene has them painted a little later.
        self._port.update()

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
        if compiled() is not None and on_pixels(painter):
            self._lay_kept(painter, mapping)
            return
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
        parts = [part for layer in self.under for part in layer.parts]
        if len(by_layer) == 1:
            return parts + by_layer[0]
        return parts + [part for of_tune in zip(*by_layer, strict=True) for part in of_tune]

    def _paint_ground(self, painter: QPainter, mapping: Mapping) -> None:
        painter.fillRect(mapping.area, QColor(look.worn().paper))
        for ground in self.grounds:
            painter.save()
            ground.paint(painter, mapping, look.worn())
            painter.restore()

    def _lay_kept(self, painter: QPainter, mapping: Mapping) -> None:
        board = self._finished(mapping, painter.device().devicePixelRatioF())
        if board is not None:
            painter.drawImage(board.area, board.image, board.pixel_area)

    def _finished(self, mapping: Mapping, ratio: float) -> Board | None:
        """All of it on a board; None where there is no room for any of it."""
        palette, scale = look.worn(), look.text_scale()
        about, known = (mapping, palette, scale, ratio), self._about
        # Whatever changes what is shown asks for it to be painted anew.
        if not self._due and known[0] is mapping and known[1:] == about[1:] and not anew():
            return self._board
        self._due, self._about, self._board = False, about, None
        left, top, wide, high = whole_pixels(mapping.area, ratio)
        if wide <= 0 or high <= 0:
            return None

        shape = (wide, high, ratio, left, top)
        ground, key = self._lay_grounds(shape, (mapping, palette, scale), (mapping, palette))
        self._board = self._stack.finished(key, ground, self._parts(), self.over, (mapping, palette))
        return self._board

    def _lay_grounds(self, shape: Shape, key: tuple[object, ...], how: How) -> tuple[Board, tuple[object, ...]]:
        """All grounds on a board, each kept with what lies under it; and what that depends on."""
        board: Board | None = None
        for sheet, ground in zip(self._sheets, self.grounds, strict=True):
            key = (*key, ground.key)
            board = sheet.shown(key, shape, partial(_draw_ground, ground, board, how))
        assert board is not None
        return board, key


def _draw_ground(ground: Ground, under: Board | None, how: How, board: Board) -> None:
    """On the one that lies under it, or on paper."""
    if under is None:
        board.fill(QColor(how[1].paper))
    else:
        board.copy_of(under)
    _wide, _high, ratio, left, top = board.shape
    painter = QPainter(board.image)
    painter.translate(-left, -top)
    painter.scale(ratio, ratio)
    ground.paint(painter, *how)
    painter.end()
