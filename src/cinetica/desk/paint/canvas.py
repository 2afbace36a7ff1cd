"""What layers draw on: an image in memory by compiled code, or a painter, for files of lines and until code is
compiled.

Both take the same calls and draw the same: lengths are pixels of the plot, whatever the pixels of the screen.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPainterPath, QPen

from cinetica.desk import look
from cinetica.desk.paint import raster
from cinetica.machine.code import address, uncompiled

Numbers = NDArray[np.float64]
SOLID: tuple[float, ...] = ()


class Points:
    """The points of a line, kept with their places in memory; `first` and `count`: the part of them that is drawn."""

    __slots__ = ("at", "count", "first", "x", "y")

    def __init__(self, x: Numbers | list[float], y: Numbers | list[float]) -> None:
        self.x, self.y = np.ascontiguousarray(x, dtype=float), np.ascontiguousarray(y, dtype=float)
        self.first, self.count = 0, len(self.x)
        self.at = (address(self.x), address(self.y))

    @property
    def part(self) -> tuple[Numbers, Numbers]:
        return self.x[self.first : self.first + self.count], self.y[self.first : self.first + self.count]


_sketch = Points(np.zeros(16), np.zeros(16))


def sketched(x: list[float], y: list[float]) -> Points:
    """Up to 16 points that are drawn at once and not kept: they take the room of the ones before."""
    _sketch.count = len(x)
    _sketch.x[: len(x)] = x
    _sketch.y[: len(x)] = y
    return _sketch


class Place(Protocol):
    """From units to pixels; see `mapping.Mapping`."""

    @property
    def left(self) -> float: ...
    @property
    def across(self) -> float: ...
    @property
    def top(self) -> float: ...
    @property
    def down(self) -> float: ...


class _Pixels:
    """Points that are pixels already."""

    left, across, top, down = 0.0, 1.0, 0.0, 1.0


# What a figure is made of, each with its code.
FIGURES = {sign: ord(sign) for sign in "0123456789+.e"} | {"−": ord("-"), "–": ord("~")}
_CODES = str.maketrans({sign: chr(code) for sign, code in FIGURES.items()})
PIXELS = _Pixels()
ORIGIN = Points(np.zeros(1), np.zeros(1))


@dataclass(frozen=True)
class At:
    """The one place (0, 0) of some points is here, in pixels."""

    left: float
    top: float
    across: float = 1.0
    down: float = 1.0


class Canvas(Protocol):
    """`area` is the part that can be seen, in pixels."""

    area: QRectF

    def line(
        self,
        points: Points,
        place: Place,
        color: QColor,
        width: float,
        dashes: Sequence[float] = SOLID,
        *,
        anchored: bool = False,
    ) -> None:
        """A line through all points, broken where one is not finite. See `raster.lines`."""

    def boxes(self, boxes: Numbers, place: Place, rim: QColor | None, fill: QColor | None) -> None:
        """Rectangles, contiguous rows of left, bottom, right, top, on whole pixels, with their alpha; the rim is a
        pixel wide."""

    def marks(self, path: QPainterPath, points: Points, place: Place, rim: QColor, width: float, fill: QColor) -> None:
        """A small outline around each of the points."""

    def word(self, text: str, at: QPointF, size: int, color: QColor) -> None:
        """A short bold text around a place."""

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor) -> None:
        """A figure, made of the signs in `FIGURES`, that ends at `end`."""


def compiled() -> dict[str, Any] | None:
    """The functions that draw, or None while there are none."""
    if _functions:
        return _functions
    if not uncompiled() and raster.is_ready():
        _functions.update(raster.drawing())
        return _functions
    return None


_functions: dict[str, Any] = {}


class Board:
    """An image with the room that the compiled code needs to draw on it. `area` is in pixels of the plot."""

    def __init__(self, wide: int, high: int, ratio: float, left: int, top: int) -> None:
        self.image = QImage(wide, high, QImage.Format.Format_RGB32)
        self.pixels = np.frombuffer(self.image.bits(), np.uint32)
        self.shape = (wide, high, ratio, left, top)
        self.ratio, self._corner = ratio, (left, top)
        self.area = QRectF(left / ratio, top / ratio, wide / ratio, high / ratio)
        self.cover = np.zeros(len(self.pixels), np.uint8)
        self._low, self._high = np.empty(wide, np.int32), np.empty(wide, np.int32)
        self._place = (address(self.pixels), self.image.bytesPerLine() // 4, 0, 0, wide, high)
        self._room = (address(self.cover), address(self._low), address(self._high))
        functions = compiled()
        assert functions is not None
        self._lines, self._boxes, self._stamps, self._glyphs = (
            functions[name] for name in ("lines", "boxes", "stamps", "glyphs")
        )

    @contextmanager
    def within(self, area: QRectF) -> Iterator[Board]:
        """Meanwhile only this part of it, in pixels of the plot, is drawn on."""
        whole, shown = self._place, self.area
        (wide, high), (left, top) = self.shape[:2], self._corner
        part = (
            max(0, round(area.left() * self.ratio) - left), max(0, round(area.top() * self.ratio) - top),
            min(wide, round(area.right() * self.ratio) - left), min(high, round(area.bottom() * self.ratio) - top),
        )  # fmt: skip
        self._place, self.area = (*whole[:2], *part), area
        try:
            yield self
        finally:
            self._place, self.area = whole, shown

    def copy_of(self, other: Board) -> None:
        self.pixels[:] = other.pixels

    def _mapping(self, place: Place) -> tuple[float, float, float, float]:
        ratio, (left, top) = self.ratio, self._corner
        return place.left * ratio - left, place.across * ratio, place.top * ratio - top, place.down * ratio

    def line(
        self,
        points: Points,
        place: Place,
        color: QColor,
        width: float,
        dashes: Sequence[float] = SOLID,
        *,
        anchored: bool = False,
    ) -> None:
        pattern = _pattern(tuple(dashes), self.ratio)
        self._lines(
            *self._place, *self._room, *points.at, points.first, points.count, *self._mapping(place),
            color.rgb(), width * self.ratio, *pattern.at[:1], pattern.count, anchored,
        )  # fmt: skip

    def boxes(self, boxes: Numbers, place: Place, rim: QColor | None, fill: QColor | None) -> None:
        edge = (rim.rgb(), rim.alpha(), max(1, round(self.ratio))) if rim else (0, 0, 0)
        inside = (fill.rgb(), fill.alpha()) if fill else (0, 0)
        self._boxes(*self._place, address(boxes), len(boxes), *self._mapping(place), *edge, *inside)

    def marks(self, path: QPainterPath, points: Points, place: Place, rim: QColor, width: float, fill: QColor) -> None:
        key = (id(path), rim.rgba(), width, fill.rgba(), self.ratio)
        self._stamp(_stamps.get(key) or _mark_stamp(key, path, rim, width, fill, self.ratio), points, place)

    def word(self, text: str, at: QPointF, size: int, color: QColor) -> None:
        key = (text, size, look.text_scale(), color.rgba(), self.ratio)
        self._stamp(_stamps.get(key) or _word_stamp(key, text, size, color, self.ratio), ORIGIN, At(at.x(), at.y()))

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor) -> None:
        font, (left, top) = _figures(size, look.text_scale(), self.ratio, color.lightness() < 128), self._corner
        over = round(middle * self.ratio - font.high / 2) - top
        code = text.translate(_CODES).encode("ascii")
        self._glyphs(*self._place, *font.at, code, len(code), round(end * self.ratio) - left, over, color.rgb())

    def _stamp(self, stamp: _Stamp, points: Points, place: Place) -> None:
        """Lay a small picture around each of the points."""
        x, y = (at + 8 * points.first for at in points.at)
        shape = (stamp.at, stamp.across, stamp.wide, stamp.high)
        self._stamps(*self._place, *shape, x, y, points.count, *self._mapping(place))


class _Stamp:
    """A small picture; `kept` is what its key names by its place in memory."""

    def __init__(self, kept: object, wide: int, high: int, ratio: float, paint: Any) -> None:
        self.kept, self.wide, self.high = kept, math.ceil(wide * ratio), math.ceil(high * ratio)
        self.image = QImage(self.wide, self.high, QImage.Format.Format_ARGB32_Premultiplied)
        self.image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(self.image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(ratio, ratio)
        paint(painter)
        painter.end()
        self.pixels = np.frombuffer(self.image.constBits(), np.uint32)
        self.at, self.across = address(self.pixels), self.image.bytesPerLine() // 4


_stamps: dict[tuple[Any, ...], _Stamp] = {}


def _mark_stamp(
    key: tuple[Any, ...], path: QPainterPath, rim: QColor, width: float, fill: QColor, ratio: float
) -> _Stamp:
    bounds = path.boundingRect()
    reach = math.ceil(max(abs(bounds.left()), abs(bounds.right()), abs(bounds.top()), abs(bounds.bottom())) + width + 1)

    def paint(painter: QPainter) -> None:
        painter.translate(reach, reach)
        _paint_mark(painter, path, rim, width, fill)

    _stamps[key] = made = _Stamp(path, 2 * reach, 2 * reach, ratio, paint)
    return made


def _word_stamp(key: tuple[Any, ...], text: str, size: int, color: QColor, ratio: float) -> _Stamp:
    wide, high = look.width(text, size, bold=True) + 4, look.height(size, bold=True) + 2

    def paint(painter: QPainter) -> None:
        painter.setFont(look.font(size, bold=True))
        painter.setPen(color)
        painter.drawText(QRectF(0, 0, wide, high), Qt.AlignmentFlag.AlignCenter, text)

    _stamps[key] = made = _Stamp(None, wide, high, ratio, paint)
    return made


@cache
def _pattern(dashes: tuple[float, ...], ratio: float) -> Points:
    lengths = np.array(dashes, dtype=float) * ratio
    return Points(lengths, lengths)


def _paint_mark(painter: QPainter, path: QPainterPath, rim: QColor, width: float, fill: QColor) -> None:
    painter.setPen(QPen(rim, width))
    painter.setBrush(fill)
    painter.drawPath(path)


class _Figures:
    """The signs of a figure in one size of text, side by side in one picture of how much is inked."""

    def __init__(self, size: int, ratio: float, *, dark: bool) -> None:
        font, metrics = look.font(size), QFontMetricsF(look.font(size))
        self.high = math.ceil(metrics.height() * ratio)
        self._widths, self._starts = np.zeros(128, np.int32), np.zeros(128, np.int32)
        for sign, code in FIGURES.items():
            self._widths[code] = round(metrics.horizontalAdvance(sign) * ratio)
        self._starts[1:] = np.cumsum(self._widths)[:-1]
        # Room behind the last one, for what leans over its width.
        image = QImage(int(self._widths.sum()) + 8, self.high, QImage.Format.Format_RGB32)
        # Qt inks dark text on light ground less than light text on dark ground, so that both look alike.
        ink, ground = (QColor(0, 0, 0), QColor(255, 255, 255)) if dark else (QColor(255, 255, 255), QColor(0, 0, 0))
        image.fill(ground)
        painter = QPainter(image)
        painter.scale(ratio, ratio)
        painter.setFont(font)
        painter.setPen(ink)
        for sign, code in FIGURES.items():
            painter.drawText(QPointF(float(self._starts[code]) / ratio, metrics.ascent()), sign)
        painter.end()
        shades = (np.frombuffer(image.constBits(), np.uint32) >> 8).astype(np.uint8)
        self._ink = 255 - shades if dark else shades
        self.at = (
            address(self._ink),
            image.bytesPerLine() // 4,
            self.high,
            address(self._starts),
            address(self._widths),
        )


@cache
def _figures(size: int, _scale: float, ratio: float, dark: bool) -> _Figures:
    return _Figures(size, ratio, dark=dark)


class Strokes:
    """The same with a painter."""

    def __init__(self, painter: QPainter, area: QRectF) -> None:
        self._painter, self.area = painter, area

    def line(
        self,
        points: Points,
        place: Place,
        color: QColor,
        width: float,
        dashes: Sequence[float] = SOLID,
        *,
        anchored: bool = False,
    ) -> None:
        x, y = points.part
        x, y = place.left + place.across * x, place.top + place.down * y
        pen = QPen(color, width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if len(dashes):
            pen.setDashPattern([length / width for length in dashes])
        painter = self._painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        finite = np.isfinite(x) & np.isfinite(y)
        edges = np.flatnonzero(np.diff(np.concatenate(([False], finite, [False])).astype(np.int8)))
        for first, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
            if len(dashes) and anchored:
                pen.setDashOffset((float(x[first]) - place.left) / width % (sum(dashes) / width))
            painter.setPen(pen)
            painter.drawPolyline(arrayToQPolygonF(x[first:end], y[first:end]))

    def boxes(self, boxes: Numbers, place: Place, rim: QColor | None, fill: QColor | None) -> None:
        painter, area = self._painter, self.area.adjusted(-99, -99, 99, 99)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        edge = 1 if rim else 0
        for left, bottom, right, top in boxes.tolist():
            corners = (
                QPointF(place.left + place.across * x, place.top + place.down * y)
                for x, y in ((left, top), (right, bottom))
            )
            whole = QRectF(*corners).normalized().intersected(area)
            x0, x1 = math.floor(whole.left() + 0.5), math.floor(whole.right() + 0.5)
            y0, y1 = math.floor(whole.top() + 0.5), math.floor(whole.bottom() + 0.5)
            if x1 <= x0 or y1 <= y0:
                continue
            if fill:
                painter.fillRect(QRectF(x0 + edge, y0 + edge, x1 - x0 - 2 * edge, y1 - y0 - 2 * edge), fill)
            if rim:
                for y in {y0, y1 - 1}:
                    painter.fillRect(QRectF(x0, y, x1 - x0, 1), rim)
                for x in {x0, x1 - 1}:
                    painter.fillRect(QRectF(x, y0 + 1, 1, y1 - y0 - 2), rim)

    def marks(self, path: QPainterPath, points: Points, place: Place, rim: QColor, width: float, fill: QColor) -> None:
        painter, area = self._painter, self.area.adjusted(-20, -20, 20, 20)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for x, y in zip(*(part.tolist() for part in points.part), strict=True):
            at = QPointF(place.left + place.across * x, place.top + place.down * y)
            if area.contains(at):
                _paint_mark(painter, path.translated(at), rim, width, fill)

    def word(self, text: str, at: QPointF, size: int, color: QColor) -> None:
        wide, high = look.width(text, size, bold=True) + 4, look.height(size, bold=True) + 2
        self._painter.setFont(look.font(size, bold=True))
        self._painter.setPen(color)
        self._painter.drawText(
            QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high), Qt.AlignmentFlag.AlignCenter, text
        )

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor) -> None:
        high = look.height(size)
        self._painter.setFont(look.font(size))
        self._painter.setPen(color)
        where = QRectF(end - look.width(text, size) - 2, middle - high / 2, look.width(text, size) + 2, high)
        self._painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
