"""The contents of a plot as layers.

From the lowest: paper, grid and course; wakes, curves and prints, tune by tune; what moves with the frame cursor.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import NamedTuple, Protocol

import pyqtgraph as pg
from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.paint.mapping import Mapping


class Part(NamedTuple):
    """One tune's part of a layer. `key` is another object when the part is to be drawn again."""

    key: object
    draw: Callable[[Canvas, Mapping, look.Palette], None]


class PlotLayer(Protocol):
    """Something that a plot shows. `key` contains everything that it depends on besides the mapping and the look."""

    @property
    def key(self) -> object:
        """What the layer depends on."""

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""


class TuneLayer(Protocol):
    """A layer with a part for each tune."""

    @property
    def parts(self) -> list[Part]:
        """From the lowest to the highest."""


class PlotLayers(pg.GraphicsObject):
    """Paints the layers of a plot over its whole view.

    The backgrounds, then what is below all tunes, then each tune's parts, then what moves with the frame cursor.
    """

    def __init__(
        self,
        box: pg.ViewBox,
        grounds: Sequence[PlotLayer],
        under: Sequence[TuneLayer],
        layers: Sequence[TuneLayer],
        over: Sequence[PlotLayer],
    ) -> None:
        super().__init__()
        self._box = box
        self.grounds, self.under, self.layers, self.over = list(grounds), list(under), list(layers), list(over)
        self._cache = LayerCache()
        self.setZValue(-100)
        # Its extent does not affect the range that is shown.
        box.addItem(self, ignoreBounds=True)
        box.sigRangeChanged.connect(self._follow_view)

    def refresh(self) -> None:
        """Schedule a repaint."""
        self.update()

    def _follow_view(self, *_: object) -> None:
        self.prepareGeometryChange()
        self.update()

    @override
    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    @override
    def paint(self, painter: QPainter, *_: object) -> None:
        view = self._box.viewRect()
        if view.width() <= 0 or view.height() <= 0:
            return
        mapping, palette = Mapping.of(painter.transform(), view), look.palette()

        def layer(key: object, draw: Callable[[Canvas, Mapping, look.Palette], None]) -> Layer:
            """A layer for the cache."""
            return Layer(key, partial(_draw, draw, mapping, palette))

        layers = [layer((mapping, ground.key), ground.draw) for ground in self.grounds]
        layers += [layer(part.key, part.draw) for part in self._parts()]
        layers += [layer(None, over.draw) for over in self.over]
        self._cache.paint(painter, mapping.area, look.color(palette.paper), layers)

    def _parts(self) -> list[Part]:
        """What is below all tunes, then everything else, tune by tune."""
        by_layer = [layer.parts for layer in self.layers]
        parts = [part for layer in self.under for part in layer.parts]
        return parts + [part for of_tune in zip(*by_layer, strict=True) for part in of_tune]


def _draw(
    draw: Callable[[Canvas, Mapping, look.Palette], None], mapping: Mapping, palette: look.Palette, canvas: Canvas
) -> None:
    draw(canvas, mapping, palette)
