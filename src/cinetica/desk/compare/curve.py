"""A curve as a pen draws it: thick and dashed lines at the price of thin ones, and no more points than the screen shows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from cinetica.desk import look
from cinetica.desk.session import Shown
from cinetica.reading.thinning import Curve, as_steps, envelope, in_view, without_repeats

# Qt strokes a wide antialiased path twelve times slower than a thin one (measured: 0.5 ms against 0.04 ms for 160
# points). Four thin strokes, each off by a part of a pixel, look the same.
SPREAD = tuple(QPointF(x, y) for x in (-0.45, 0.45) for y in (-0.45, 0.45))
WAKE_SPREAD = tuple(QPointF(x, y) for x, y in ((0, 0), (-1, 0), (1, 0), (0, -1), (0, 1)))
# Curves of up to so many points are drawn as they are.
PLAIN = 1500
# Up to so many samples in view each bear the tune's own shape; more of them are dots.
SHAPED = 150


class CurveItem(pg.GraphicsObject):
    """One tune's curve, or the pale wake of one. Over time x is sorted; a path goes anywhere."""

    def __init__(self, *, wake: bool = False, over_time: bool = True) -> None:
        super().__init__()
        self._wake, self._over_time = wake, over_time
        self._spread = WAKE_SPREAD if wake else SPREAD
        self._x = self._y = np.zeros(0)
        self._path: QPainterPath | None = None
        self._is_thicket = False
        self._bounds = QRectF()
        self._room: tuple[float, float] | None = None
        self._pen = QPen()
        self._drawing, self._place = "lines", 0
        self._drawn: tuple[object, ...] = ()
        self.look = look.DAY
        # A curve that has not changed is a picture that is laid down again.
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)

    def shows(self, key: tuple[object, ...]) -> bool:
        """Whether this is what is drawn already."""
        return len(self._drawn) == len(key) and all(a is b for a, b in zip(self._drawn, key, strict=True))

    def show_curve(self, key: tuple[object, ...], shown: Shown, palette: look.Palette, curve: Curve, drawing: str) -> None:
        """Draw a curve in the ink and dashes of the tune; `key` says what it is made of."""
        self._drawn = key
        self.prepareGeometryChange()
        x, y = curve
        self._x, self._y = np.ascontiguousarray(x), np.ascontiguousarray(y, dtype=float)
        self._path, self._drawing, self._place, self.look = None, drawing, shown.place, palette
        low, high = finite_span(self._y)
        left, right = (float(x.min()), float(x.max())) if len(x) else (0.0, 0.0)
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

    def _pixel(self) -> tuple[float, float]:
        """A pixel in the view's units."""
        box = self.getViewBox()
        if box is None or box.width() <= 0 or box.height() <= 0:
            return 0.0, 0.0
        rect = box.viewRect()
        return rect.width() / box.width(), rect.height() / box.height()

    def _margins(self) -> tuple[float, float]:
        """Five pixels: the curve and its points are thicker than their path."""
        x, y = self._pixel()
        return 5 * x, 5 * y

    def viewTransformChanged(self) -> None:
        self.prepareGeometryChange()
        self._room = None
        if len(self._x) > PLAIN:
            self._path = None

    def _visible(self) -> Curve:
        """The points to draw: all of a short curve; of a long one those in view, and no more than can be told apart."""
        box = self.getViewBox()
        if len(self._x) <= PLAIN or box is None:
            return self._x, self._y
        rect = box.viewRect()
        if self._over_time:
            return envelope(*in_view(self._x, self._y, rect.left(), rect.right()), max(16, round(box.width())))
        x, y = self._pixel()
        return without_repeats(self._x, self._y, x or 1.0, y or 1.0)

    def paint(self, painter: QPainter, *_: object) -> None:
        transform = painter.transform()
        painter.resetTransform()
        painter.setPen(self._pen)
        if self._drawing == "points":
            self._paint_points(painter, transform)
            return
        if self._path is None:
            points = self._visible()
            x, y = as_steps(*points) if self._drawing == "steps" else points
            self._path = pg.arrayToQPath(x, y, connect="finite")
            # Up and down by more than a pixel in most columns.
            self._is_thicket = self._over_time and len(self._x) > PLAIN and float(np.abs(np.diff(points[1])).mean()) > self._pixel()[1]
        path = transform.map(self._path)
        if self._is_thicket:
            # Dashes and antialiasing of what goes up and down within a pixel cannot be seen, only waited for.
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.setPen(QPen(self._pen.color(), 0))
            painter.drawPath(path)
            return
        for offset in self._spread:
            painter.drawPath(path.translated(offset))

    def _paint_points(self, painter: QPainter, transform: object) -> None:
        """Nothing but the samples."""
        x, y = self._visible()
        spots = [transform.map(QPointF(*spot)) for spot in zip(x.tolist(), y.tolist(), strict=True) if np.isfinite(spot[1])]  # type: ignore[attr-defined]
        if len(spots) > SHAPED:
            painter.setPen(QPen(self._pen.color(), 3))
            painter.drawPoints(spots)
            return
        painter.setPen(QPen(self._pen.color(), 1))
        for spot in spots:
            painter.drawPath(look.shape(self._place, 5).translated(spot))


CurveOf = Callable[[Shown], Curve]


class Curves:
    """The curves of one plot, one for each tune that is shown; `curve` says which x and y a tune has there."""

    def __init__(self, plot: pg.PlotWidget, curve: CurveOf, *, wake: bool = False, over_time: bool = True) -> None:
        self._plot, self._curve, self._wake, self._over_time = plot, curve, wake, over_time
        self.items: list[CurveItem] = []

    def show(self, shown: Sequence[Shown], palette: look.Palette, drawing: str = "lines", *also: object) -> None:
        """`also` is all else that the curves depend on: where it is the same as before, nothing is drawn again."""
        while len(self.items) < len(shown):
            self.items.append(CurveItem(wake=self._wake, over_time=self._over_time))
            self._plot.addItem(self.items[-1], ignoreBounds=True)
        for item, one in zip(self.items, shown, strict=False):
            item.show()
            # What a game has logged is nothing but samples.
            drawn = "points" if one.trace.logged else drawing
            key = (one, palette, drawn, *also)
            if not item.shows(key):
                item.show_curve(key, one, palette, self._curve(one), drawn)
        for item in self.items[len(shown) :]:
            item.hide()


def finite_span(values: NDArray[np.float64]) -> tuple[float, float]:
    """Least and greatest finite value; 0 and 0 where there is none."""
    if len(values) and not (np.isfinite(values.min()) and np.isfinite(values.max())):
        values = values[np.isfinite(values)]
    return (float(values.min()), float(values.max())) if len(values) else (0.0, 0.0)


def with_zero(spans: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The span of several spans, and of 0."""
    return min(0.0, *(span[0] for span in spans), 0.0), max(0.0, *(span[1] for span in spans), 0.0)
