"""An image in memory that compiled code draws on, at once or beside Python."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import cache
from struct import pack_into
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPainterPath

from cinetica.desk import look
from cinetica.desk.paint import raster
from cinetica.desk.paint.canvas import (
    CODES,
    FIGURES,
    PIXELS,
    SOLID,
    Box,
    Mark,
    Pen,
    Place,
    Sketch,
    paint_outline,
)  # fmt: skip
from cinetica.desk.paint.raster import BOXES, CLIP, COPY, GLYPHS, LINE, PRINTS, STAMPS, TINTS
from cinetica.machine.beside import beside
from cinetica.machine.code import address, uncompiled
from cinetica.machine.points import Numbers, Points

# Of a board: width, height, device pixels for a pixel, left and top, in device pixels.
Shape = tuple[int, int, float, int, int]
OPAQUE = 0xFF000000
# The thread that draws what is begun.
HELPER = "drawing"


def compiled() -> Any | None:
    """The function that draws, `raster.draw`, or None while there is none."""
    if not _function and not uncompiled() and raster.is_ready():
        _function.append(raster.CODE.function)
    return _function[0] if _function else None


_function: list[Any] = []


class _Memory:
    """Room for a list of commands as numbers, where machine code finds it."""

    def __init__(self) -> None:
        self._made = np.empty(0)

    def holding(self, commands: list[float]) -> int:
        """The address of the commands, until the next ones are held: `array` would take twice as long."""
        count = len(commands)
        if len(self._made) < count:
            self._made = np.empty(2 * count)
            self._buffer, self._place = self._made.data, address(self._made)
        pack_into(f"{count}d", self._buffer, 0, *commands)
        return self._place


# Of commands that are carried out at once.
_at_once = _Memory()


class Board:
    """A canvas. What is asked of it is noted down and drawn, all in one call, when the image is looked at; or, where
    that is begun before, meanwhile. `area` is in pixels of the plot."""

    def __init__(self, wide: int, high: int, ratio: float, left: int, top: int) -> None:
        self._image = QImage(wide, high, QImage.Format.Format_RGB32)
        self._pixels = np.frombuffer(self._image.bits(), np.uint32)
        self.shape = (wide, high, ratio, left, top)
        self.ratio, self._corner = ratio, (left, top)
        self.area = self._whole = QRectF(left / ratio, top / ratio, wide / ratio, high / ratio)
        # The same in its own pixels.
        self.pixel_area = QRectF(0, 0, wide, high)
        self.cover = np.zeros(len(self._pixels), np.uint8)
        self._low, self._high = np.empty(wide, np.int32), np.empty(wide, np.int32)
        self._room = (
            address(self._pixels), self._image.bytesPerLine() // 4, address(self.cover), address(self._low),
            address(self._high), wide, high,
        )  # fmt: skip
        function = compiled()
        assert function is not None
        self._draw = function
        # Commands of `raster.draw`, and what they name by its address.
        self._todo, self._named = list[float](), list[object]()
        # What they begin with, where that is another board; the last call beside Python that works on this one; and the
        # commands of that.
        self._onto: Board | None = None
        self._busy = 0
        self._memory = _Memory()
        self._mapped: tuple[Place | None, tuple[float, float, float, float]] = (None, (0.0, 0.0, 0.0, 0.0))

    @property
    def image(self) -> QImage:
        self.finish()
        return self._image

    @property
    def pixels(self) -> Any:
        self.finish()
        return self._pixels

    def begin(self) -> None:
        """Draw what is noted down beside Python; who looks at the image then waits for it, if it is not done."""
        helper = beside(HELPER)
        if helper is None or not self._todo:
            return
        if self._onto is not None:
            self._onto.begin()
        helper.wait(self._busy)
        commands = self._memory.holding(self._todo)
        arguments = (*self._room, commands, len(self._todo))
        self._busy = helper.ask(raster.CODE.address, arguments, (self, self._onto, self._named))
        if self._onto is not None:
            # It must stay as it is until this is done.
            self._onto._busy = self._busy
        self._todo, self._named, self._onto = [], [], None

    def _wait(self) -> None:
        if self._busy:
            helper = beside(HELPER)
            assert helper is not None
            helper.wait(self._busy)
            self._busy = 0

    def finish(self) -> None:
        """Have all that is noted down drawn, now."""
        self._wait()
        if self._todo:
            if self._onto is not None:
                self._onto.finish()
            self._draw(*self._room, _at_once.holding(self._todo), len(self._todo))
            self._forget()

    def clip(self, area: QRectF | None) -> None:
        """From now on only this part of it, in pixels of the plot, is drawn on; or all of it again."""
        (wide, high), (left, top), ratio = self.shape[:2], self._corner, self.ratio
        if area is None:
            self._todo += (CLIP, 0, 0, wide, high)
            self.area = self._whole
        else:
            self._todo += (
                CLIP,
                max(0, round(area.left() * ratio) - left), max(0, round(area.top() * ratio) - top),
                min(wide, round(area.right() * ratio) - left), min(high, round(area.bottom() * ratio) - top),
            )  # fmt: skip
            self.area = area

    @contextmanager
    def within(self, area: QRectF) -> Iterator[Board]:
        """See `clip`; meanwhile."""
        self.clip(area)
        try:
            yield self
        finally:
            self.clip(None)

    def fill(self, color: QColor) -> None:
        """All of it, whatever is on it."""
        self._forget()
        self._wait()
        self._image.fill(color)

    def lay(self, color: QColor) -> None:
        """The same, noted down like all else."""
        self._forget()
        area = self._whole
        self.boxes((area.left(), area.bottom(), area.right(), area.top()), PIXELS, None, color)

    def copy_of(self, other: Board) -> None:
        """All of it, as what is on the other, which is as large and stays as it is until this is drawn."""
        self._forget()
        self._onto = other
        self._todo.extend((COPY, other._room[0]))

    def _forget(self) -> None:
        del self._todo[:]
        self._named.clear()
        self._onto = None

    def _mapping(self, place: Place) -> tuple[float, float, float, float]:
        """It is mostly that of the last time: who draws much looks there first."""
        if self._mapped[0] is not place:
            ratio, (left, top) = self.ratio, self._corner
            mapping = (place.left * ratio - left, place.across * ratio, place.top * ratio - top, place.down * ratio)
            self._mapped = (place, mapping)
        return self._mapped[1]

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
        how = pen.made.get(self.ratio) or _made_of(pen, self.ratio)
        mapping = self._mapped[1] if self._mapped[0] is place else self._mapping(place)
        if isinstance(points, Points):
            self._named.append(points)
            self._todo.extend((LINE, *points.at, 0, points.count, *mapping, *how))
        else:
            self._todo.extend((LINE, 0, 0, 0, len(points.x), *mapping, *how, *points.x, *points.y))

    def boxes(
        self, boxes: Numbers | Sequence[float], place: Place, rim: QColor | None, fill: QColor | None, hatch: int = 0
    ) -> None:
        thick = max(1, round(self.ratio))
        # Of a colour with its share, in one question: the first 8 bits are the share.
        edge = ((ink := rim.rgba()) | OPAQUE, ink >> 24, thick) if rim else (0, 0, thick)
        inside = ((ink := fill.rgba()) | OPAQUE, ink >> 24, hatch * thick) if fill else (0, 0, 0)
        if isinstance(boxes, np.ndarray):
            self._named.append(boxes)
            if len(boxes):
                at = address(boxes)
                self._todo.extend((BOXES, at, len(boxes), *self._mapping(place), *edge, *inside))
        else:
            self._todo.extend((BOXES, 0, len(boxes) // 4, *self._mapping(place), *edge, *inside, *boxes))

    def tints(self, boxes: Sequence[float], place: Place) -> None:
        self._todo.extend((TINTS, len(boxes) // 6, *self._mapping(place), *boxes))

    def prints(
        self, way: Points, step: int, count: int, body: Box, place: Place, rim: QColor, fill: QColor
    ) -> None:  # fmt: skip
        self._named.append(way)
        inks = (rim.rgb(), rim.alpha(), max(1, round(self.ratio)), fill.rgb(), fill.alpha())
        self._todo.extend((PRINTS, *way.at, step, count, *body, *self._mapping(place), *inks))

    def marks(
        self, path: QPainterPath, points: Points | Sketch, place: Place, rim: QColor, width: float, fill: QColor
    ) -> None:
        self.stamp(points, place, Mark(path, rim, width, fill))

    def stamp(self, points: Points | Sketch, place: Place, mark: Mark) -> None:
        shape = mark.made.get(self.ratio) or _stamp_of(mark, self.ratio)
        mapping = self._mapped[1] if self._mapped[0] is place else self._mapping(place)
        if isinstance(points, Points):
            self._named.append(points)
            if points.count:
                self._todo.extend((STAMPS, *shape, *points.at, points.count, *mapping))
        else:
            self._todo.extend((STAMPS, *shape, 0, 0, len(points.x), *mapping, *points.x, *points.y))

    def word(self, text: str, x: float, y: float, size: int, color: QColor) -> None:
        key = (text, size, look.text_scale(), color.rgba(), self.ratio)
        stamp = _stamps.get(key) or _text_stamp(key, text, size, color, self.ratio, bold=True, around=True)
        ratio, (left, top) = self.ratio, self._corner
        self._todo.extend((STAMPS, *stamp.shape, 0, 0, 1, 0.0, 1.0, 0.0, 1.0, x * ratio - left, y * ratio - top))

    def text(self, text: str, left: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        self.texts(text, Sketch((left,), (middle,)), size, color, bold=bold)

    def texts(self, text: str, at: Sketch, size: int, color: QColor, *, bold: bool = False) -> None:
        ratio, (left, top) = self.ratio, self._corner
        key = (text, size, look.text_scale(), color.rgba(), ratio, bold)
        stamp = _stamps.get(key) or _text_stamp(key, text, size, color, ratio, bold=bold)
        # Its corner, which comes to lie on a whole pixel, is half of it before its place.
        mapping = (stamp.shape[2] / 2 - left, ratio, -top, ratio)
        self._todo += (STAMPS, *stamp.shape, 0, 0, len(at.x), *mapping, *at.x, *at.y)

    def figure(self, text: str, end: float, middle: float, size: int, color: QColor, *, bold: bool = False) -> None:
        self.figures(((text, end, middle),), size, color, bold=bold)

    def figures(
        self, figures: Sequence[tuple[str, float, float]], size: int, color: QColor, *, bold: bool = False
    ) -> None:  # fmt: skip
        font = _figures(size, look.text_scale(), self.ratio, color.lightness() < 128, bold)
        (left, top), ratio, ink, note, above = self._corner, self.ratio, color.rgb(), self._todo.extend, font.high / 2
        for text, end, middle in figures:
            codes = text.translate(CODES).encode("ascii")
            over = _nearest(middle * ratio - above) - top
            note((GLYPHS, *font.at, _nearest(end * ratio) - left, over, ink, len(codes), *codes))


def _nearest(place: float) -> int:
    """A whole pixel; of two that are as near always the second, so that lines of text stay equally far apart."""
    return math.floor(place + 0.5)


class _Stamp:
    """A small picture, premultiplied; `kept` is what its key names by its place in memory."""

    def __init__(self, kept: object, image: QImage) -> None:
        self.kept, self.image = kept, image
        self.pixels = np.frombuffer(image.constBits(), np.uint32)
        # Its address, numbers in a row, width and height.
        self.shape = (address(self.pixels), image.bytesPerLine() // 4, image.width(), image.height())


_stamps: dict[tuple[Any, ...], _Stamp] = {}


def _picture(wide: float, high: float, ratio: float, ground: QColor, paint: Callable[[QPainter], None]) -> QImage:
    image = QImage(math.ceil(wide * ratio), math.ceil(high * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(ground)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(ratio, ratio)
    paint(painter)
    painter.end()
    return image


def _inked(
    wide: float, high: float, ratio: float, color: QColor, paint: Callable[[QPainter], None]
) -> tuple[QImage, NDArray[np.uint8]]:  # fmt: skip
    """A picture of text, and how much of each pixel is inked. Qt inks dark text on light ground less than light text
    on dark ground, so that both look alike; on no ground it does neither."""
    dark = color.lightness() < 128
    ink, ground = (QColor(0, 0, 0), QColor(255, 255, 255)) if dark else (QColor(255, 255, 255), QColor(0, 0, 0))

    def in_ink(painter: QPainter) -> None:
        painter.setPen(ink)
        paint(painter)

    image = _picture(wide, high, ratio, ground, in_ink)
    shades = (np.frombuffer(image.constBits(), np.uint32) >> 8).astype(np.uint8)
    return image, 255 - shades if dark else shades


def _made_of(pen: Pen, ratio: float) -> tuple[float, ...]:
    """Colour, width, address and count of the dashes, and whether they are anchored."""
    pattern = _pattern(pen.dashes, ratio)
    pen.made[ratio] = made = (pen.color.rgb(), pen.width * ratio, pattern.at[0], pattern.count, pen.anchored)
    return made


def _stamp_of(mark: Mark, ratio: float) -> tuple[int, ...]:
    """The shape of the stamp of a mark."""
    path, width = mark.path, mark.width
    key = (id(path), mark.rim.rgba(), width, mark.fill.rgba(), ratio)
    if (found := _stamps.get(key)) is None:
        bounds = path.boundingRect()
        sides = (bounds.left(), bounds.right(), bounds.top(), bounds.bottom())
        reach = math.ceil(max(map(abs, sides)) + width + 1)

        def paint(painter: QPainter) -> None:
            painter.translate(reach, reach)
            paint_outline(painter, path, mark.rim, width, mark.fill)

        found = _stamps[key] = _Stamp(path, _picture(2 * reach, 2 * reach, ratio, QColor(0, 0, 0, 0), paint))
    mark.made[ratio] = found.shape
    return found.shape


def _text_stamp(
    key: tuple[Any, ...], text: str, size: int, color: QColor, ratio: float, *, bold: bool, around: bool = False
) -> _Stamp:  # fmt: skip
    """`around`: with its place in the middle, else at the left."""
    room = (4, 2) if around else (2, 0)
    wide, high = look.width(text, size, bold=bold) + room[0], look.height(size, bold=bold) + room[1]
    how = Qt.AlignmentFlag.AlignCenter if around else Qt.AlignmentFlag.AlignVCenter

    def paint(painter: QPainter) -> None:
        painter.setFont(look.font(size, bold=bold))
        painter.drawText(QRectF(0, 0, wide, high), how, text)

    image, ink = _inked(wide, high, ratio, color, paint)
    shades = ink.astype(np.uint32)
    parts = ((shades * part + 127) // 255 for part in (255, color.red(), color.green(), color.blue()))
    alpha, red, green, blue = parts
    np.frombuffer(image.bits(), np.uint32)[:] = alpha << 24 | red << 16 | green << 8 | blue
    _stamps[key] = made = _Stamp(None, image)
    return made


@cache
def _pattern(dashes: tuple[float, ...], ratio: float) -> Points:
    lengths = np.array(dashes, dtype=float) * ratio
    return Points(lengths, lengths)


class _Figures:
    """The signs of a figure in one size of text, side by side in one picture of how much is inked."""

    def __init__(self, size: int, ratio: float, *, dark: bool, bold: bool) -> None:
        font = look.font(size, bold=bold)
        metrics = QFontMetricsF(font)
        # As high as words are, and their signs on the same line.
        tall = look.height(size, bold=bold)
        self.high = math.ceil(tall * ratio)
        self._widths, self._starts = np.zeros(128, np.int32), np.zeros(128, np.int32)
        for sign, code in FIGURES.items():
            self._widths[code] = round(metrics.horizontalAdvance(sign) * ratio)
        self._starts[1:] = np.cumsum(self._widths)[:-1]

        def paint(painter: QPainter) -> None:
            painter.setFont(font)
            for sign, code in FIGURES.items():
                place = QRectF(float(self._starts[code]) / ratio, 0, metrics.height() * 2, tall)
                painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, sign)

        # Room behind the last one, for what leans over its width.
        wide = (int(self._widths.sum()) + 8) / ratio
        image, self._ink = _inked(wide, tall, ratio, QColor("black" if dark else "white"), paint)
        self.at = (
            address(self._ink),
            image.bytesPerLine() // 4,
            self.high,
            address(self._starts),
            address(self._widths),
        )


@cache
def _figures(size: int, _scale: float, ratio: float, dark: bool, bold: bool) -> _Figures:
    return _Figures(size, ratio, dark=dark, bold=bold)
