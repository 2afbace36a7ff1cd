"""The plate of a plot: paper, grid and all that moves less often than the frame cursor, as one kept picture."""

from __future__ import annotations

from typing import Protocol

import pyqtgraph as pg
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPainter

from cinetica.desk import look
from cinetica.desk.paint.kept import Kept
from cinetica.desk.paint.mapping import Mapping


class Layer(Protocol):
    """What lies on a plate. `key` holds all that its picture depends on, besides the mapping and the look."""

    @property
    def key(self) -> object: ...

    def paint(self, painter: QPainter, mapping: Mapping, palette: look.Palette) -> None: ...


class Plate(pg.GraphicsObject):
    """Layers, from the lowest to the highest, over the whole of a view."""

    def __init__(self, box: pg.ViewBox, palette: look.Palette, *layers: Layer) -> None:
        super().__init__()
        self._box, self.look, self.layers = box, palette, list(layers)
        self._kept = Kept()
        self.setZValue(-100)
        box.sigRangeChanged.connect(self._turned)

    def _turned(self, *_: object) -> None:
        self.prepareGeometryChange()
        self.update()

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        view = self._box.viewRect()
        if view.width() <= 0 or view.height() <= 0:
            return
        mapping = Mapping.of(painter.transform(), view)
        key = (mapping, self.look, look.text_scale(), tuple(layer.key for layer in self.layers))
        self._kept.lay(painter, mapping.area, QColor(self.look.paper), key, lambda on: self._paint_layers(on, mapping))

    def _paint_layers(self, painter: QPainter, mapping: Mapping) -> None:
        for layer in self.layers:
            painter.save()
            layer.paint(painter, mapping, self.look)
            painter.restore()
