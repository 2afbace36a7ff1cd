"""The course on the stage: solids as earth, one-way solids as planks, climb zones as nets, slopes as slanted earth.

A slope that is too steep for a tune is drawn broken, with the letters of the tunes that slide on it if some do not.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from cinetica.desk import look
from cinetica.desk.paint.canvas import PIXELS, Canvas, Sketch
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.courses import zone_name
from cinetica.reading.body import too_steep

# How deep the earth under a slope is drawn, and the line on it, in pixels.
UNDER, EDGE = 6.0, 2.0
BROKEN = [3.0, 2.0]
# Opacities, from 0 to 255.
ZONE_ALPHA = 30


class CourseLayer:
    """A layer: all shapes of a course, for the visible tunes."""

    def __init__(self) -> None:
        self.course = Course()
        # The letters of those that slide on each slope; none where all can walk.
        self.sliding: tuple[str, ...] = ()

    @property
    def key(self) -> object:
        """What the layer depends on."""
        return self.course, self.sliding

    def show(self, course: Course, shown: Sequence[TuneRun]) -> None:
        """Update."""
        self.course = course
        self.sliding = tuple(_sliding(slope, shown) for slope in course.slopes)

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        painter = canvas.painter

        def on_pixels(rectangle: Rectangle) -> QRectF:
            """A rectangle in whole pixels, clipped to the view."""
            rect = mapping.rect(rect_of(rectangle)).intersected(mapping.area.adjusted(-4, -4, 4, 4))
            return QRectF(rect.toRect()) if rect.isValid() else QRectF()

        canvas.antialias(False)
        for zone in self.course.zones:
            paint_zone(painter, palette, on_pixels(zone.box), zone_name(zone))
        earth, edge = QColor(palette.earth), QColor(palette.earth_edge)
        for rect in map(on_pixels, self.course.climb):
            painter.fillRect(rect, QBrush(earth, Qt.BrushStyle.DiagCrossPattern))
        painter.setPen(QPen(edge, 0))
        painter.setBrush(earth)
        for rect in map(on_pixels, self.course.solids):
            if not rect.isEmpty():
                painter.drawRect(rect)
        for rect in map(on_pixels, self.course.oneway):
            if not rect.isEmpty():
                painter.fillRect(rect, QBrush(earth, Qt.BrushStyle.Dense6Pattern))
                painter.fillRect(QRectF(rect.topLeft(), QPointF(rect.right(), rect.top() + 2)), edge)
        for slope, sliding in zip(self.course.slopes, self.sliding, strict=True):
            one, other = mapping.point(QPointF(slope.x0, slope.y0)), mapping.point(QPointF(slope.x1, slope.y1))
            if QRectF(one, other).normalized().adjusted(0, 0, 1, UNDER).intersects(mapping.area):
                canvas.antialias(True)
                paint_slope(painter, palette, one, other, sliding)


def paint_zone(painter: QPainter, palette: look.Palette, rect: QRectF, words: str) -> None:
    """Paint a zone, in pixels: a tint with a dotted rim, and what it does where there is room for it."""
    if rect.isEmpty():
        return
    painter.fillRect(rect, look.color(palette.accent, ZONE_ALPHA))
    painter.setPen(QPen(look.color(palette.accent, 150), 1, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(rect)
    painter.setFont(look.font(8))
    words = look.shortened(words, 8, rect.width() - 8)
    if rect.height() > look.height(8) + 2:
        painter.setPen(look.color(palette.soft))
        painter.drawText(rect.adjusted(4, 1, -4, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, words)


def _sliding(slope: Slope, shown: Sequence[TuneRun]) -> str:
    """The letters of the tunes for which it is too steep; a dash if it is for all."""
    letters = [look.letter(one.place) for one in shown if too_steep(one.tune, slope)]
    return "–" if letters and len(letters) == len(shown) else " ".join(letters)


def paint_slope(painter: QPainter, palette: look.Palette, one: QPointF, other: QPointF, sliding: str) -> None:
    """Paint a slope, in pixels. `sliding`: the letters of the tunes that slide on it; a dash: all do."""
    earth, edge = QColor(palette.earth), QColor(palette.earth_edge)
    down = QPointF(0.0, UNDER)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(earth, Qt.BrushStyle.Dense4Pattern) if sliding else earth)
    painter.drawPolygon(QPolygonF([one, other, other + down, one + down]))
    pen = QPen(edge, EDGE, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
    if sliding:
        pen.setDashPattern(BROKEN)
    painter.setPen(pen)
    painter.drawLine(one, other)
    if sliding and sliding != "–":
        words = f"{sliding} slide" if " " in sliding else f"{sliding} slides"
        painter.setFont(look.font(8))
        wide, high = look.width(words, 8), look.height(8)
        middle = (one + other) / 2
        painter.setPen(QColor(palette.soft))
        painter.drawText(QRectF(middle.x() - wide / 2, middle.y() + UNDER + 1, wide + 1, high), words)


def draw_slope(canvas: Canvas, mapping: Mapping, palette: look.Palette, slope: Slope, *, slides: bool) -> None:
    """The same on a canvas, without words."""
    x, y = (mapping.x(slope.x0), mapping.x(slope.x1)), (mapping.y(slope.y0), mapping.y(slope.y1))
    along = math.hypot(x[1] - x[0], y[1] - y[0]) or 1.0
    broken = tuple(EDGE * length for length in BROKEN) if slides else ()
    # As wide as the earth is deep, straight down.
    deep = UNDER * abs(x[1] - x[0]) / along
    under = Sketch(x, tuple(each + UNDER / 2 for each in y))
    canvas.line(under, PIXELS, look.color(palette.earth), deep, broken)
    canvas.line(Sketch(x, y), PIXELS, look.color(palette.earth_edge), EDGE, broken)


def rect_of(rectangle: Rectangle) -> QRectF:
    """The rectangle in Qt's form."""
    return QRectF(QPointF(rectangle.left, rectangle.bottom), QPointF(rectangle.right, rectangle.top))
