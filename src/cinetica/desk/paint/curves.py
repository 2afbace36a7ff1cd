"""The curves of a plot: thick and dashed lines at the price of thin ones, and no more points than the screen shows."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from cinetica.desk import look
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.session import Shown
from cinetica.reading.thinning import Curve, as_steps, envelope, in_view, without_repeats

# Qt strokes a wide antialiased path twelve times slower than a thin one (measured: 0.5 ms against 0.04 ms for 160
# points). Four thin strokes, each off by a part of a pixel, look the same.
SPREAD = tuple((x, y) for x in (-0.45, 0.45) for y in (-0.45, 0.45))
WAKE_SPREAD = ((0, 0), (-1, 0), (1, 0), (0, -1), (0, 1))
# Curves of up to so many points are drawn as they are.
PLAIN = 1500
# Up to so many samples in view each bear the tune's own shape; more of them are dots.
SHAPED = 150
WAKE_SHARE = 0.35

CurveOf = Callable[[Shown], Curve]


class DrawnCurve:
    """One tune's curve. `key` says what it is made of."""

    def __init__(self, key: tuple[object, ...], shown: Shown, curve: Curve, drawing: str) -> None:
        self.key, self.place, self.drawing = key, shown.place, drawing
        self.x, self.y = np.ascontiguousarray(curve[0], dtype=float), np.ascontiguousarray(curve[1], dtype=float)
        # What of a long curve can be seen, and in which view.
        self.thinned: tuple[object, Curve] | None = None


class Curves:
    """A layer: a curve for each tune that is shown; `curve` says which x and y a tune has here.

    Over time x is sorted; a path goes anywhere. A wake is what was there before, paler.
    """

    def __init__(self, curve: CurveOf, *, wake: bool = False, over_time: bool = True) -> None:
        self._curve, self._wake, self._over_time = curve, wake, over_time
        self.drawn: list[DrawnCurve] = []

    @property
    def key(self) -> object:
        return tuple(self.drawn)

    def show(self, shown: Sequence[Shown], drawing: str = "lines", *also: object) -> bool:
        """Whether anything is other than before; `also` is all else that the curves depend on."""
        drawn = []
        for number, one in enumerate(shown):
            # What a game has logged is nothing but samples.
            style = "points" if one.trace.logged else drawing
            key = (one, style, *also)
            kept = self.drawn[number] if number < len(self.drawn) else None
            drawn.append(kept if kept is not None and _same(kept.key, key) else DrawnCurve(key, one, self._curve(one), style))
        changed = len(drawn) != len(self.drawn) or any(a is not b for a, b in zip(drawn, self.drawn, strict=True))
        self.drawn = drawn
        return changed

    def paint(self, painter: QPainter, mapping: Mapping, palette: look.Palette) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        # The first tune is the one that the others are held against: it lies on top.
        for curve in reversed(self.drawn):
            self._paint_curve(painter, mapping, palette, curve)

    def _pen(self, palette: look.Palette, place: int) -> QPen:
        if self._wake:
            return QPen(look.mixed(look.ink(palette, place), QColor(palette.paper), WAKE_SHARE), 1)
        pen = look.ink_pen(palette, place, 1)
        pen.setDashPattern([2 * length for length in pen.dashPattern()])
        return pen

    def _paint_curve(self, painter: QPainter, mapping: Mapping, palette: look.Palette, curve: DrawnCurve) -> None:
        x, y = self._visible(curve, mapping)
        painter.setPen(self._pen(palette, curve.place))
        if curve.drawing == "points":
            _paint_points(painter, mapping, palette, curve.place, x, y)
            return
        if curve.drawing == "steps":
            x, y = as_steps(x, y)
        x, y = mapping.x(x), mapping.y(y)
        # Up and down by more than a pixel in most columns.
        thicket = self._over_time and len(curve.x) > PLAIN and len(y) > 1 and float(np.nanmean(np.abs(np.diff(y)))) > 1
        spread: Sequence[tuple[float, float]] = WAKE_SPREAD if self._wake else SPREAD
        if thicket:
            # Dashes and antialiasing of what goes up and down within a pixel cannot be seen, only waited for.
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.setPen(QPen(painter.pen().color(), 0))
            spread = ((0.0, 0.0),)
        for polygon in polygons(x, y):
            for offset in spread:
                painter.drawPolyline(polygon.translated(*offset))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _visible(self, curve: DrawnCurve, mapping: Mapping) -> Curve:
        """The points to draw: of a curve over time those in view, and of a long one no more than can be told apart."""
        left, right = mapping.view.left(), mapping.view.right()
        if len(curve.x) <= PLAIN:
            return in_view(curve.x, curve.y, left, right) if self._over_time else (curve.x, curve.y)
        view = (left, right, mapping.area.width()) if self._over_time else mapping.pixel
        if curve.thinned is None or curve.thinned[0] != view:
            if self._over_time:
                thinned = envelope(*in_view(curve.x, curve.y, left, right), max(16, round(mapping.area.width())))
            else:
                thinned = without_repeats(curve.x, curve.y, *mapping.pixel)
            curve.thinned = (view, thinned)
        return curve.thinned[1]


def _same(kept: tuple[object, ...], key: tuple[object, ...]) -> bool:
    return len(kept) == len(key) and all(a is b for a, b in zip(kept, key, strict=True))


def polygons(x: NDArray[np.float64], y: NDArray[np.float64]) -> Iterator[QPolygonF]:
    """The line through all points, broken where one is not finite."""
    finite = np.isfinite(y)
    if finite.all():
        yield arrayToQPolygonF(x, y)
        return
    edges = np.flatnonzero(np.diff(np.concatenate(([False], finite, [False])).astype(np.int8)))
    for first, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        yield arrayToQPolygonF(x[first:end], y[first:end])


def _paint_points(
    painter: QPainter, mapping: Mapping, palette: look.Palette, place: int, x: NDArray[np.float64], y: NDArray[np.float64]
) -> None:
    """Nothing but the samples."""
    seen = np.isfinite(y) & (x >= mapping.view.left()) & (x <= mapping.view.right())
    color = painter.pen().color()
    spots = [QPointF(*spot) for spot in zip(mapping.x(x[seen]).tolist(), mapping.y(y[seen]).tolist(), strict=True)]
    if len(spots) > SHAPED:
        painter.setPen(QPen(color, 3))
        painter.drawPoints(spots)
        return
    painter.setPen(QPen(color, 1))
    for spot in spots:
        painter.drawPath(look.shape(place, 5).translated(spot))


def finite_span(values: NDArray[np.float64]) -> tuple[float, float]:
    """Least and greatest finite value; 0 and 0 where there is none."""
    if len(values) and not (np.isfinite(values.min()) and np.isfinite(values.max())):
        values = values[np.isfinite(values)]
    return (float(values.min()), float(values.max())) if len(values) else (0.0, 0.0)


def with_zero(spans: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The span of several spans, and of 0."""
    return min(0.0, *(span[0] for span in spans), 0.0), max(0.0, *(span[1] for span in spans), 0.0)
