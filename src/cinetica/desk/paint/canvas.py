"""Drawing with Qt's painter: curves, boxes, marks and text, the same on a screen, in an SVG file and in print.

A canvas takes points in units and the mapping that places them; what has no units is drawn with `PIXELS`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from functools import cache
from typing import Any, NamedTuple, Protocol

import numpy as np
import shiboken6
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from cinetica.desk import look
from cinetica.desk.paint.lines import Line, corners, cut_into_dashes, pieces_between
from cinetica.palette import Palette

Numbers = NDArray[np.float64]
# Left, bottom, right and top.
Box = tuple[float, float, float, float]
SOLID: tuple[float, ...] = ()
# The largest coordinates passed to Qt, in pixels, since its painter counts in whole numbers; and where curves are
# clipped, so that no dashes are computed far outside. The visible part of a line stays where it was.
FAR, NEAR = 1e7, 1e4


class Points(Protocol):
    """The x and y of some points, in units."""

    @property
    def x(self) -> Sequence[float] | Numbers:
        """The x coordinates."""

    @property
    def y(self) -> Sequence[float] | Numbers:
        """The y coordinates."""


class Sketch(NamedTuple):
    """A few points, such as the corners of a shape. A point that is not finite breaks the line."""

    x: Sequence[float]
    y: Sequence[float]


class Pen(NamedTuple):
    """How a curve is drawn. `dashes`: alternating lengths on and off, in pixels.

    Those of an `anchored` pen stay where they are along x while the curve moves up and down.
    """

    color: QColor
    width: float
    dashes: tuple[float, ...] = SOLID
    anchored: bool = False


class Mark(NamedTuple):
    """A small outline drawn around a point."""

    path: QPainterPath
    rim: QColor
    width: float
    fill: QColor


class Place(Protocol):
    """From units to pixels; see `mapping.Mapping`."""

    @property
    def left(self) -> float:
        """The pixel of x = 0."""

    @property
    def across(self) -> float:
        """Pixels per unit of x."""

    @property
    def top(self) -> float:
        """The pixel of y = 0."""

    @property
    def down(self) -> float:
        """Pixels per unit of y."""


class _Pixels:
    """The mapping of points that already are pixels."""

    left, across, top, down = 0.0, 1.0, 0.0, 1.0


PIXELS = _Pixels()


@cache
def pen_of(
    palette: Palette, place: int, width: float, dashes: tuple[float, ...] | None = SOLID, *, anchored: bool = False
) -> Pen:
    """A pen in the ink of the tune at a place; with None for `dashes` in that tune's pattern."""
    if dashes is None:
        dashes = look.dashes(place, width)
    return Pen(look.ink(palette, place), width, dashes, anchored)


class Canvas:
    """A painter with drawing operations of its own. `area` is what is visible, in pixels."""

    def __init__(self, painter: QPainter, area: QRectF) -> None:
        self.painter, self.area = painter, area
        self._is_smooth: bool | None = None

    # Lines

    def curve(self, points: Points, place: Place, pen: Pen) -> None:
        """Draw a curve of many points, broken where one is not finite."""
        line = np.empty(len(points.x), dtype=complex)
        # A coordinate that is too large for a float is infinite in pixels.
        with np.errstate(over="ignore", invalid="ignore"):
            line.real, line.imag = points.x, points.y
            line.real *= place.across
            line.imag *= place.down
            line += complex(place.left, place.top)
            reach = float(np.abs(line).max(initial=0.0))
        if reach < NEAR:
            pieces = self._pieces(line, place, pen)
        else:
            finite = np.isfinite(line)
            line = line.real.clip(-NEAR, NEAR) + 1j * line.imag.clip(-NEAR, NEAR)
            parts = [line[first:end] for first, end in _runs(finite) if end - first > 1]
            pieces = np.concatenate([np.empty((0, 2), complex), *(self._pieces(part, place, pen) for part in parts)])
        if len(pieces):
            self.antialias(True)
            # Qt strokes separate lines several times faster than a polyline; square caps close the gaps between them.
            self.painter.setPen(QPen(pen.color, pen.width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
            self.painter.drawLines(_first_of(pieces, QLineF), len(pieces))

    @staticmethod
    def _pieces(line: Line, place: Place, pen: Pen) -> Line:
        """The straight segments of a line in pixels, as rows of their ends.

        Collinear segments are joined: where the caps of two overlap, soft edges are slightly darker.
        """
        turning = corners(line)
        if not pen.dashes or len(turning) < 2:
            return pieces_between(turning)
        origin = place.left if pen.anchored else None
        return cut_into_dashes(turning, pen.dashes, cap=pen.width / 2, origin=origin)

    def stroke(self, points: Points, place: Place, pen: Pen) -> None:
        """Draw a line through a few points, with flat ends, broken where one is not finite."""
        inked = QPen(pen.color, pen.width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.MiterJoin)
        if pen.dashes:
            inked.setDashPattern([length / pen.width for length in pen.dashes])
        self.antialias(True)
        self.painter.setPen(inked)
        run: list[QPointF] = []
        for x, y in zip(points.x, points.y, strict=True):
            if math.isfinite(x) and math.isfinite(y):
                at_x, at_y = place.left + place.across * x, place.top + place.down * y
                run.append(QPointF(min(max(at_x, -FAR), FAR), min(max(at_y, -FAR), FAR)))
            else:
                self.painter.drawPolyline(run)
                run = []
        self.painter.drawPolyline(run)

    def line(
        self, points: Points, place: Place, color: QColor, width: float, dashes: tuple[float, ...] = SOLID
    ) -> None:
        """`stroke` with a pen used once."""
        self.stroke(points, place, Pen(color, width, dashes))

    # Boxes, on whole pixels

    def box(self, box: Box, place: Place, fill: QColor | QBrush | None, rim: QColor | None = None) -> None:
        """Fill a rectangle, with a rim one pixel wide inside it."""
        left, bottom, right, top = box
        left, right = sorted((place.left + place.across * left, place.left + place.across * right))
        top, bottom = sorted((place.top + place.down * top, place.top + place.down * bottom))
        if not (math.isfinite(left + right) and math.isfinite(top + bottom)):
            return
        x, y = math.floor(max(left, -FAR) + 0.5), math.floor(max(top, -FAR) + 0.5)
        wide, high = math.floor(min(right, FAR) + 0.5) - x, math.floor(min(bottom, FAR) + 0.5) - y
        if wide <= 0 or high <= 0:
            return
        self.antialias(False)
        painter, edge = self.painter, 0 if rim is None else 1
        if fill is not None:
            painter.fillRect(QRect(x + edge, y + edge, wide - 2 * edge, high - 2 * edge), fill)
        if rim is not None:
            painter.fillRect(QRect(x, y, wide, 1), rim)
            painter.fillRect(QRect(x, y + 1, 1, high - 1), rim)
            if high > 1:
                painter.fillRect(QRect(x + 1, y + high - 1, wide - 1, 1), rim)
            if wide > 1:
                painter.fillRect(QRect(x + wide - 1, y + 1, 1, high - 2), rim)

    def boxes(
        self, boxes: Iterable[Box] | Numbers, place: Place, fill: QColor | QBrush | None, rim: QColor | None = None
    ) -> None:
        """Fill rectangles, with rims one pixel wide inside them."""
        if not isinstance(boxes, np.ndarray):
            for box in boxes:
                self.box(box, place, fill, rim)
            return
        edges = self._whole_pixels(boxes, place)
        if not len(edges):
            return
        self.antialias(False)
        if rim is None:
            self._fill(edges, fill)
            return
        # A pen is centred on its outline: this one goes half a pixel further in.
        rects = np.ascontiguousarray(np.column_stack([edges[:, :2] + 0.5, edges[:, 2:] - edges[:, :2] - 1.0]))
        self.painter.setPen(QPen(rim, 1.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.MiterJoin))
        self.painter.setBrush(Qt.BrushStyle.NoBrush if fill is None else fill)
        self.painter.drawRects(_first_of(rects, QRectF), len(rects))

    def _whole_pixels(self, edges: Numbers, place: Place) -> Numbers:
        """Rectangles in pixels as rows of left, top, right and bottom.

        They are clipped to what is visible; empty ones are left out.
        """
        with np.errstate(over="ignore", invalid="ignore"):
            x = place.left + place.across * edges[:, [0, 2]]
            y = place.top + place.down * edges[:, [1, 3]]
        finite = np.isfinite(x).all(axis=1) & np.isfinite(y).all(axis=1)
        x, y = np.sort(x[finite]), np.sort(y[finite])
        area = self.area.adjusted(-99, -99, 99, 99)
        x, y = np.clip(x, area.left(), area.right()), np.clip(y, area.top(), area.bottom())
        placed = np.floor(np.column_stack([x[:, 0], y[:, 0], x[:, 1], y[:, 1]]) + 0.5)
        return placed[(placed[:, 2] > placed[:, 0]) & (placed[:, 3] > placed[:, 1])]

    def _fill(self, edges: Numbers, fill: QColor | QBrush | None) -> None:
        """Fill rows of left, top, right and bottom."""
        if fill is None:
            return
        rects = np.ascontiguousarray(np.column_stack([edges[:, :2], edges[:, 2:] - edges[:, :2]]))
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(fill)
        self.painter.drawRects(_first_of(rects, QRectF), len(rects))

    def rounded(self, box: Box, fill: QColor, radius: float = 2.0) -> None:
        """Fill a rectangle with round corners."""
        left, bottom, right, top = box
        self.antialias(True)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(fill)
        self.painter.drawRoundedRect(QRectF(QPointF(left, top), QPointF(right, bottom)), radius, radius)

    def outline(self, box: Box, color: QColor, width: float, radius: float = 3.0) -> None:
        """Draw the outline of a rectangle with round corners."""
        left, bottom, right, top = box
        self.antialias(True)
        self.painter.setPen(QPen(color, width))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRoundedRect(QRectF(QPointF(left, top), QPointF(right, bottom)), radius, radius)

    def prints(self, way: Points, step: int, count: int, body: Box, place: Place, rim: QColor, fill: QColor) -> None:
        """Draw a rectangle, `body`, around `count` points of a path, `step` points apart."""
        x, y = (np.asarray(each, dtype=float)[::step][:count, np.newaxis] for each in (way.x, way.y))
        left, bottom, right, top = body
        self.boxes(np.hstack([x + left, y + bottom, x + right, y + top]), place, fill, rim)

    # Marks

    def marks(self, points: Points, place: Place, mark: Mark) -> None:
        """Draw a small outline around each visible point."""
        area, painter = self.area.adjusted(-20, -20, 20, 20), self.painter
        self.antialias(True)
        painter.setPen(QPen(mark.rim, mark.width) if mark.width else Qt.PenStyle.NoPen)
        painter.setBrush(mark.fill)
        for x, y in zip(points.x, points.y, strict=True):
            at_x, at_y = place.left + place.across * x, place.top + place.down * y
            if area.contains(at_x, at_y):
                painter.drawPath(mark.path.translated(at_x, at_y))

    # Text; `middle` is the middle of its line

    def text(self, text: str, left: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        """Write a text that begins at `left`."""
        self.painter.setFont(look.font(size, bold=bold))
        self.painter.setPen(color)
        self.painter.drawText(QPointF(round(left), look.baseline(middle, size, bold=bold)), text)

    def word(self, text: str, x: float, middle: float, size: int, color: QColor) -> None:
        """Write a short bold text centred on `x`."""
        self.text(text, x - look.advance(text, size, bold=True) / 2, middle, size, color, bold=True)

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        """Write a figure that ends at `end`."""
        self.text(text, end - caption_advance(text, size, bold=bold), middle, size, color, bold=bold)

    def antialias(self, on: bool) -> None:
        """Switch antialiasing.

        Set on the painter only if it changes: setting it takes longer than drawing a line.
        """
        if on is not self._is_smooth:
            self._is_smooth = on
            self.painter.setRenderHint(QPainter.RenderHint.Antialiasing, on)


def _first_of(rows: Numbers | Line, kind: type[QLineF] | type[QRectF]) -> Any:
    """The first of several lines or rectangles whose numbers are in contiguous rows.

    Together with their count Qt takes it for all of them; a list would need an object for each.
    """
    return shiboken6.wrapInstance(rows.ctypes.data, kind)


def _runs(there: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The contiguous stretches that are True: the first of each, and one past the last."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], there, [False])).astype(np.int8))).tolist()
    return list(zip(edges[::2], edges[1::2], strict=True))


def caption_advance(text: str, size: int, *, bold: bool = False) -> float:
    """The width of a caption in pixels; the same for all digits, since they are equally wide."""
    return look.advance(re.sub(r"\d", "0", text), size, bold=bold)


def caption_width(text: str, size: int, *, bold: bool = False) -> int:
    """`caption_advance`, rounded up."""
    return math.ceil(caption_advance(text, size, bold=bold))
