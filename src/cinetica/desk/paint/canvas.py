"""What layers draw on: an image in memory by compiled code, or a painter, for files of lines and until code is
compiled.

Both take the same calls and draw the same: lengths are pixels of the plot, whatever the pixels of the screen.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from functools import cache, lru_cache
from typing import Protocol

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from cinetica.desk import look
from cinetica.machine.points import Numbers, Points

# Left, bottom, right and top.
Box = tuple[float, float, float, float]
SOLID: tuple[float, ...] = ()


class Sketch:
    """A few points that are drawn once and not kept."""

    __slots__ = ("x", "y")

    def __init__(self, x: Sequence[float], y: Sequence[float]) -> None:
        self.x, self.y = x, y

    @property
    def numbers(self) -> tuple[Numbers, Numbers]:
        return np.array(self.x, dtype=float), np.array(self.y, dtype=float)


class Gathered(Sketch):
    """Points that come one after the other."""

    __slots__ = ()

    x: list[float]
    y: list[float]

    def __init__(self) -> None:
        super().__init__([], [])

    def add(self, x: float, y: float) -> None:
        self.x.append(x)
        self.y.append(y)


class Pen:
    """How a line is drawn; see `Canvas.line`. `made`: what boards have made of it, by their ratio."""

    __slots__ = ("anchored", "color", "dashes", "made", "width")

    def __init__(
        self, color: QColor, width: float, dashes: tuple[float, ...] = SOLID, *, anchored: bool = False
    ) -> None:  # fmt: skip
        self.color, self.width, self.dashes, self.anchored = color, width, dashes, anchored
        self.made: dict[float, tuple[float, ...]] = {}


class Mark:
    """A small outline; see `Canvas.marks`. `made`: as of a pen."""

    __slots__ = ("fill", "made", "path", "rim", "width")

    def __init__(self, path: QPainterPath, rim: QColor, width: float, fill: QColor) -> None:
        self.path, self.rim, self.width, self.fill = path, rim, width, fill
        self.made: dict[float, tuple[int, ...]] = {}


@cache
def pen_of(
    palette: look.Palette, place: int, width: float, dashes: tuple[float, ...] | None = SOLID, *, anchored: bool = False
) -> Pen:  # fmt: skip
    """In the ink of the tune at a place; without dashes of its own in those of the tune."""
    if dashes is None:
        dashes = look.dashes(place, width)
    return Pen(look.ink(palette, place), width, dashes, anchored=anchored)


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
FIGURES = {sign: ord(sign) for sign in "0123456789+.e"} | {"−": ord("-"), "–": ord("~"), "…": ord("_")}
CODES = str.maketrans({sign: chr(code) for sign, code in FIGURES.items()})
PIXELS = _Pixels()


class Canvas(Protocol):
    """`area` is the part that can be seen, in pixels."""

    area: QRectF

    def line(
        self,
        points: Points | Sketch,
        place: Place,
        color: QColor,
        width: float,
        dashes: tuple[float, ...] = SOLID,
        *,
        anchored: bool = False,
    ) -> None:
        """A line through all points, broken where one is not finite. See `raster.lines`."""

    def stroke(self, points: Points | Sketch, place: Place, pen: Pen) -> None:
        """The same with a pen that is drawn with again and again."""

    def boxes(
        self, boxes: Numbers | Sequence[float], place: Place, rim: QColor | None, fill: QColor | None, hatch: int = 0
    ) -> None:
        """Rectangles, contiguous rows of left, bottom, right, top, on whole pixels, with their alpha; the rim is a
        pixel wide. Few that are not kept may be given as numbers, four for each. `hatch`: filled by lines so many
        pixels apart, which rise to the right, or with a negative one fall."""

    def tints(self, boxes: Sequence[float], place: Place) -> None:
        """Rectangles, each with its own colour: left, bottom, right and top, then its 0xRRGGBB and its alpha."""

    def prints(
        self, way: Points, step: int, count: int, body: Box, place: Place, rim: QColor, fill: QColor
    ) -> None:  # fmt: skip
        """A rectangle, `body`, around each of `count` points of a way, `step` points apart; see `boxes`."""

    def marks(
        self, path: QPainterPath, points: Points | Sketch, place: Place, rim: QColor, width: float, fill: QColor
    ) -> None:
        """A small outline around each of the points."""

    def stamp(self, points: Points | Sketch, place: Place, mark: Mark) -> None:
        """The same with a mark that is drawn again and again."""

    def word(self, text: str, x: float, y: float, size: int, color: QColor) -> None:
        """A short bold text around a place."""

    def text(self, text: str, left: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        """A short text that begins at `left`; of the texts of a program there are few, and each is kept."""

    def texts(self, text: str, at: Sketch, size: int, color: QColor, *, bold: bool = False) -> None:
        """The same text at several places, each its left end and its middle."""

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        """A figure, made of the signs in `FIGURES`, that ends at `end`."""

    def figures(self, figures: Sequence[tuple[str, float, float]], size: int, color: QColor) -> None:
        """Several of them, each with its end and its middle."""


class Strokes:
    """The same with a painter."""

    def __init__(self, painter: QPainter, area: QRectF) -> None:
        self._painter, self.area = painter, area

    def line(
        self,
        points: Points | Sketch,
        place: Place,
        color: QColor,
        width: float,
        dashes: tuple[float, ...] = SOLID,
        *,
        anchored: bool = False,
    ) -> None:
        self.stroke(points, place, Pen(color, width, dashes, anchored=anchored))

    def stroke(self, points: Points | Sketch, place: Place, pen: Pen) -> None:
        (x, y), color, width, dashes, anchored = points.numbers, pen.color, pen.width, pen.dashes, pen.anchored
        x, y = place.left + place.across * x, place.top + place.down * y
        inked = QPen(color, width)
        inked.setCapStyle(Qt.PenCapStyle.FlatCap)
        if len(dashes):
            inked.setDashPattern([length / width for length in dashes])
        painter = self._painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        finite = np.isfinite(x) & np.isfinite(y)
        edges = np.flatnonzero(np.diff(np.concatenate(([False], finite, [False])).astype(np.int8)))
        for first, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
            if len(dashes) and anchored:
                inked.setDashOffset((float(x[first]) - place.left) / width % (sum(dashes) / width))
            painter.setPen(inked)
            painter.drawPolyline(arrayToQPolygonF(x[first:end], y[first:end]))

    def boxes(
        self, boxes: Numbers | Sequence[float], place: Place, rim: QColor | None, fill: QColor | None, hatch: int = 0
    ) -> None:
        painter, area = self._painter, self.area.adjusted(-99, -99, 99, 99)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        edge = 1 if rim else 0
        for left, bottom, right, top in np.reshape(boxes, (-1, 4)).tolist():
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
                inside = QRectF(x0 + edge, y0 + edge, x1 - x0 - 2 * edge, y1 - y0 - 2 * edge)
                if hatch:
                    self._hatch(inside, fill, hatch)
                else:
                    painter.fillRect(inside, fill)
            if rim:
                for y in {y0, y1 - 1}:
                    painter.fillRect(QRectF(x0, y, x1 - x0, 1), rim)
                for x in {x0, x1 - 1}:
                    painter.fillRect(QRectF(x, y0 + 1, 1, y1 - y0 - 2), rim)

    def tints(self, boxes: Sequence[float], place: Place) -> None:
        for at in range(0, len(boxes), 6):
            ink = QColor(int(boxes[at + 4]))
            ink.setAlpha(int(boxes[at + 5]))
            self.boxes(boxes[at : at + 4], place, None, ink)

    def prints(
        self, way: Points, step: int, count: int, body: Box, place: Place, rim: QColor, fill: QColor
    ) -> None:  # fmt: skip
        x, y = way.x[::step][:count], way.y[::step][:count]
        boxes = np.column_stack([x + body[0], y + body[1], x + body[2], y + body[3]])
        self.boxes(boxes, place, rim, fill)

    def marks(
        self, path: QPainterPath, points: Points | Sketch, place: Place, rim: QColor, width: float, fill: QColor
    ) -> None:
        self.stamp(points, place, Mark(path, rim, width, fill))

    def stamp(self, points: Points | Sketch, place: Place, mark: Mark) -> None:
        painter, area = self._painter, self.area.adjusted(-20, -20, 20, 20)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for x, y in zip(*(part.tolist() for part in points.numbers), strict=True):
            at = QPointF(place.left + place.across * x, place.top + place.down * y)
            if area.contains(at):
                paint_outline(painter, mark.path.translated(at), mark.rim, mark.width, mark.fill)

    def word(self, text: str, x: float, y: float, size: int, color: QColor) -> None:
        wide, high = look.width(text, size, bold=True) + 4, look.height(size, bold=True) + 2
        self._painter.setFont(look.font(size, bold=True))
        self._painter.setPen(color)
        self._painter.drawText(QRectF(x - wide / 2, y - high / 2, wide, high), Qt.AlignmentFlag.AlignCenter, text)

    def _hatch(self, area: QRectF, color: QColor, apart: int) -> None:
        painter = self._painter
        painter.save()
        painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        high = area.height()
        x = area.left() - high - (area.left() + (area.bottom() if apart > 0 else -area.top())) % abs(apart)
        while x < area.right() + high:
            low, up = (area.bottom(), area.top()) if apart > 0 else (area.top(), area.bottom())
            # As wide across as a pixel.
            corners = ((x, low), (x + 1, low), (x + high + 1, up), (x + high, up))
            painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in corners]))
            x += abs(apart)
        painter.restore()

    def text(self, text: str, left: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        high = look.height(size, bold=bold)
        self._painter.setFont(look.font(size, bold=bold))
        self._painter.setPen(color)
        where = QRectF(left, middle - high / 2, look.width(text, size, bold=bold) + 2, high)
        self._painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, text)

    def texts(self, text: str, at: Sketch, size: int, color: QColor, *, bold: bool = False) -> None:
        for left, middle in zip(at.x, at.y, strict=True):
            self.text(text, left, middle, size, color, bold=bold)

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        high, wide = look.height(size, bold=bold), look.width(text, size, bold=bold) + 2
        self._painter.setFont(look.font(size, bold=bold))
        self._painter.setPen(color)
        where = QRectF(end - wide, middle - high / 2, wide, high)
        self._painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)

    def figures(self, figures: Sequence[tuple[str, float, float]], size: int, color: QColor) -> None:
        for text, end, middle in figures:
            self.figure(text, end, middle, size, color)


def rounded(left: float, top: float, right: float, bottom: float) -> tuple[float, ...]:
    """A rectangle with round corners as boxes, one over the other."""
    return (
        left, bottom - 2, right, top + 2, left + 1, bottom - 1, right - 1, top + 1, left + 2, bottom, right - 2, top,
    )  # fmt: skip


def draw_caption(
    canvas: Canvas, text: str, left: float, middle: float, size: int, color: QColor, *, bold: bool = False
) -> None:
    """Words with numbers in them that change: the words are kept, the numbers are put together from their signs."""
    for part, wide in _parts_of(text, size, bold=bold):
        # Not all that counts as a digit is a sign of a figure.
        if part[0] in FIGURES:
            canvas.figure(part, left + wide, middle, size, color, bold=bold)
        else:
            canvas.text(part, left, middle, size, color, bold=bold)
        left += wide


def caption_width(text: str, size: int, *, bold: bool = False) -> int:
    """How wide a caption is, in pixels; as wide whatever its digits are."""
    return sum(wide for _, wide in _parts_of(text, size, bold=bold))


def _parts_of(text: str, size: int, *, bold: bool) -> list[tuple[str, int]]:
    """Words and numbers, in turns, with their widths."""
    return _parts_in(text, size, look.text_scale(), bold)


@lru_cache(128)
def _parts_in(text: str, size: int, _scale: float, bold: bool) -> list[tuple[str, int]]:
    parts = re.findall(r"[0-9]+(?:[.][0-9]+)?|[^0-9]+", text)
    return [(part, look.width(re.sub(r"\d", "0", part), size, bold=bold)) for part in parts]


def paint_outline(painter: QPainter, path: QPainterPath, rim: QColor, width: float, fill: QColor) -> None:
    painter.setPen(QPen(rim, width))
    painter.setBrush(fill)
    painter.drawPath(path)
