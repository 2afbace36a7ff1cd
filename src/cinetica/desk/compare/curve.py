"""A curve as a pen draws it: thick and dashed lines at the price of thin ones."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from cinetica.desk import look
from cinetica.desk.session import Shown

# Qt strokes a wide antialiased path twelve times slower than a thin one (measured: 0.5 ms against 0.04 ms for 160
# points). Four thin strokes, each off by a part of a pixel, look the same.
SPREAD = tuple(QPointF(x, y) for x in (-0.45, 0.45) for y in (-0.45, 0.45))
WAKE_SPREAD = tuple(QPointF(x, y) for x, y in ((0, 0), (-1, 0), (1, 0), (0, -1), (0, 1)))


Curve = tuple[NDArray[np.float64], NDArray[np.float64]]


class CurveItem(pg.GraphicsObject):
    """One tune's curve, or the pale wake of one."""

    def __init__(self, *, wake: bool = False) -> None:
        super().__init__()
        self._wake = wake
        self._spread = WAKE_SPREAD if wake else SPREAD
        self._path = QPainterPath()
        self._bounds = QRectF()
        self._room: tuple[float, float] | None = None
        self._pen = QPen()
        self._drawn: tuple[Shown, look.Palette] | None = None

    def show_curve(self, shown: Shown, palette: look.Palette, x: NDArray[np.float64], y: NDArray[np.float64]) -> None:
        """Draw y over x, in the ink and dashes of the tune."""
        self.show()
        if self._drawn is not None and self._drawn[0] is shown and self._drawn[1] is palette:
            return
        self._drawn = (shown, palette)
        self.prepareGeometryChange()
        self._path = pg.arrayToQPath(np.ascontiguousarray(x), np.ascontiguousarray(y, dtype=float), connect="finite")
        finite = y[np.isfinite(y)]
        low, high = (float(finite.min()), float(finite.max())) if len(finite) else (0.0, 0.0)
        left, right = float(x.min()), float(x.max())
        self._bounds = QRectF(left, low, right - left, high - low)
        self._pen = look.ink_pen(palette, shown.place, 1) if not self._wake else QPen(self._pale(palette, shown.place), 1)
        self._pen.setDashPattern([2 * length for length in self._pen.dashPattern()])
        self._pen.setCosmetic(True)
        self.setZValue(-50 if self._wake else -shown.place)
        self.update()

    def _pale(self, palette: look.Palette, place: int) -> QColor:
        return look.mixed(look.ink(palette, place), QColor(palette.paper), 0.35)

    def boundingRect(self) -> QRectF:
        if self._room is None:
            self._room = self._margins()
        x, y = self._room
        return self._bounds.adjusted(-x, -y, x, y)

    def _margins(self) -> tuple[float, float]:
        """Three pixels in the view's units: the curve is thicker than its path."""
        box = self.getViewBox()
        if box is None or box.width() <= 0 or box.height() <= 0:
            return 0.0, 0.0
        rect = box.viewRect()
        return 3 * rect.width() / box.width(), 3 * rect.height() / box.height()

    def viewTransformChanged(self) -> None:
        self.prepareGeometryChange()
        self._room = None

    def paint(self, painter: QPainter, *_: object) -> None:
        path = painter.transform().map(self._path)
        painter.resetTransform()
        painter.setPen(self._pen)
        for offset in self._spread:
            painter.drawPath(path.translated(offset))


class Curves:
    """The curves of one plot, one for each tune that is shown; `curve` says which x and y a tune has there."""

    def __init__(self, plot: pg.PlotWidget, curve: Callable[[Shown], Curve], *, wake: bool = False) -> None:
        self._plot, self._curve, self._wake = plot, curve, wake
        self.items: list[CurveItem] = []

    def show(self, shown: Sequence[Shown], palette: look.Palette) -> None:
        while len(self.items) < len(shown):
            self.items.append(CurveItem(wake=self._wake))
            self._plot.addItem(self.items[-1], ignoreBounds=True)
        for item, one in zip(self.items, shown, strict=False):
            item.show_curve(one, palette, *self._curve(one))
        for item in self.items[len(shown) :]:
            item.hide()
