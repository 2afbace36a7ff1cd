"""The bodies on the stage: printed every n frames, and once more, bold, at the frame cursor."""

from __future__ import annotations

from functools import cache

import numpy as np
import pyqtgraph as pg
from pyqtgraph.graphicsItems.ScatterPlotItem import Symbols
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from cinetica.desk import look
from cinetica.desk.session import Shown
from cinetica.motion.records import AIR_LAUNCH, APEX, CLIMB_ON, LAND, LAUNCH, LOST_PRESS, PRESS

# An arrow is as long as the way at that velocity in so many seconds; that of the acceleration, in so many seconds squared.
VELOCITY_SCALE, ACCELERATION_SCALE = 0.15, 0.015
# Marks drawn on the paths: what is drawn at the feet, by mark.
GLYPHS = ((PRESS, "o"), (LAUNCH | AIR_LAUNCH, "t1"), (APEX, "|"), (LAND, "s"), (LOST_PRESS, "x"), (CLIMB_ON, "d"))
GLYPH_SIZE = 9
# More prints than these are a smear: of a long take every so many are left out.
MOST_PRINTS = 240


@cache
def _glyph(symbol: str) -> QPainterPath:
    return QTransform.fromScale(GLYPH_SIZE, GLYPH_SIZE).map(Symbols[symbol])


def body_at(shown: Shown, x: float, y: float) -> QRectF:
    """The box of the body around its position: the feet from the side, the middle from above."""
    width, height = shown.tune.body.width, shown.tune.body.height
    bottom = y if shown.tune.view == "side" else y - height / 2
    return QRectF(x - width / 2, bottom, width, height)


class PrintsItem(pg.GraphicsObject):
    """One tune's body every n frames, and its marks."""

    def __init__(self) -> None:
        super().__init__()
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)
        self._made_of: tuple[Shown, look.Palette, int] | None = None
        self._prints: list[QRectF] = []
        self._glyphs: list[tuple[QPointF, str]] = []
        self.extent = QRectF()

    def show_trace(self, shown: Shown, palette: look.Palette, every: int) -> None:
        made_of = (shown, palette, every)
        if self._made_of is not None and all(a is b for a, b in zip(self._made_of, made_of, strict=True)):
            return
        self.prepareGeometryChange()
        self._made_of = made_of
        self.setZValue(10 - shown.place)
        x, y = shown.trace["x"], shown.trace["y"]
        rows = range(0, len(x), max(every, every * (len(x) // max(1, every * MOST_PRINTS)))) if every else range(0)
        self._prints = [body_at(shown, float(x[row]), float(y[row])) for row in rows]
        (left, right), (low, high) = shown.trace.span("x"), shown.trace.span("y")
        self.extent = body_at(shown, left, low).united(body_at(shown, right, high))
        self._glyphs = []
        for mark, symbol in GLYPHS:
            found = shown.trace.rows_with(mark)
            for row in found[:: 1 + len(found) // MOST_PRINTS]:
                self._glyphs.append((QPointF(float(x[row]), float(y[row])), symbol))
        self.update()

    def boundingRect(self) -> QRectF:
        return self.extent.adjusted(-1, -1, 1, 1)

    def paint(self, painter: QPainter, *_: object) -> None:
        if self._made_of is None:
            return
        shown, palette, _every = self._made_of
        ink = look.ink(palette, shown.place)
        faint, wash = QColor(ink), QColor(ink)
        faint.setAlpha(95)
        wash.setAlpha(16)
        painter.setPen(QPen(faint, 0))
        painter.setBrush(wash)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawRects(self._prints)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        transform = painter.transform()
        painter.resetTransform()
        painter.setPen(QPen(ink, 1.5))
        painter.setBrush(QColor(palette.paper))
        for at, symbol in self._glyphs:
            painter.drawPath(_glyph(symbol).translated(transform.map(at)))


class GhostItem(pg.GraphicsObject):
    """One tune's body at the frame cursor, bold, with its letter and its arrows."""

    def __init__(self) -> None:
        super().__init__()
        self.look = look.DAY
        self.shown: Shown | None = None
        self._row = 0
        self._bounds = QRectF()
        self._arrows = (True, True)
        self.setZValue(30)

    def show_at(self, shown: Shown, row: int, palette: look.Palette, arrows: tuple[bool, bool]) -> None:
        """`arrows`: whether that of the velocity and that of the acceleration are drawn."""
        if (self.shown is shown and self._row == row and self.look is palette) and self._arrows == arrows:
            return
        self.prepareGeometryChange()
        self.shown, self._row, self.look, self._arrows = shown, row, palette, arrows
        self._bounds = self._reach()
        self.update()

    @property
    def body(self) -> QRectF:
        assert self.shown is not None
        return body_at(self.shown, self._value("x"), self._value("y"))

    def _value(self, column: str) -> float:
        assert self.shown is not None
        return float(self.shown.trace[column][self._row])

    def _tips(self) -> tuple[QPointF, QPointF]:
        """How far the arrows reach from the middle."""
        velocity = QPointF(self._value("vx"), self._value("vy")) * VELOCITY_SCALE
        acceleration = QPointF(self._value("ax"), self._value("ay")) * ACCELERATION_SCALE
        return velocity, acceleration

    def boundingRect(self) -> QRectF:
        return self._bounds

    def _reach(self) -> QRectF:
        body = self.body
        rect = QRectF(body)
        for tip in self._tips():
            rect = rect.united(QRectF(body.center(), body.center() + tip).normalized())
        return rect.adjusted(-0.5, -0.5, 0.5, 1.2)

    def paint(self, painter: QPainter, *_: object) -> None:
        if self.shown is None:
            return
        ink, body = look.ink(self.look, self.shown.place), self.body
        wash = QColor(ink)
        wash.setAlpha(70)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setBrush(wash)
        painter.setPen(look.ink_pen(self.look, self.shown.place, 2.2))
        painter.drawRect(body)
        self._paint_facing(painter, body, ink)
        velocity, acceleration = self._tips()
        if self._arrows[0]:
            self._paint_arrow(painter, body.center(), velocity, QPen(ink, 2))
        if self._arrows[1]:
            pen = QPen(ink, 1.4)
            pen.setDashPattern([2, 2])
            self._paint_arrow(painter, body.center(), acceleration, pen)
        self._paint_letter(painter, body, ink)

    def _paint_letter(self, painter: QPainter, body: QRectF, ink: QColor) -> None:
        """In the size of the screen and not of the course."""
        assert self.shown is not None
        transform = painter.transform()
        painter.resetTransform()
        painter.setPen(ink)
        painter.setFont(look.font(9, bold=True))
        over = transform.map(QPointF(body.center().x(), body.bottom()))
        painter.drawText(QRectF(over.x() - 20, over.y() - 20, 40, 18), 0x84, look.letter(self.shown.place))
        painter.setTransform(transform)

    def _paint_facing(self, painter: QPainter, body: QRectF, ink: QColor) -> None:
        """From above a notch shows where the body faces."""
        assert self.shown is not None
        if self.shown.tune.view != "top":
            return
        angle = np.radians(self._value("facing"))
        reach = min(body.width(), body.height()) / 2
        nose = body.center() + QPointF(reach * float(np.cos(angle)), reach * float(np.sin(angle)))
        pen = QPen(ink, 4)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawPoint(nose)

    def _paint_arrow(self, painter: QPainter, middle: QPointF, way: QPointF, pen: QPen) -> None:
        length = float(np.hypot(way.x(), way.y()))
        if length < 0.01:
            return
        tip = middle + way
        ux, uy = way.x() / length, way.y() / length
        head = min(0.22, length / 2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawLine(middle, tip)
        pen.setStyle(pen.style().SolidLine)
        painter.setPen(pen)
        painter.drawLine(tip, tip - QPointF((ux * 0.87 - uy * 0.5) * head, (uy * 0.87 + ux * 0.5) * head))
        painter.drawLine(tip, tip - QPointF((ux * 0.87 + uy * 0.5) * head, (uy * 0.87 - ux * 0.5) * head))
