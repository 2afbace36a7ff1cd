"""The bodies on the stage: printed every n frames with the marks of the path, and once more, bold, at the frame cursor."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.signs import MARKS, paint_mark
from cinetica.desk.session import Shown

# An arrow is as long as the way at that velocity in so many seconds; that of the acceleration, in so many seconds squared.
VELOCITY_SCALE, ACCELERATION_SCALE = 0.15, 0.015
# More prints than these are a smear: of a long take every so many are left out.
MOST_PRINTS = 240


def body_at(shown: Shown, x: float, y: float) -> QRectF:
    """The box of the body around its position: the feet from the side, the middle from above."""
    width, height = shown.tune.body.width, shown.tune.body.height
    bottom = y if shown.tune.view == "side" else y - height / 2
    return QRectF(x - width / 2, bottom, width, height)


class Printed:
    """One tune's body every n frames, and its marks, in units."""

    def __init__(self, shown: Shown, every: int) -> None:
        self.shown, self.every = shown, every
        x, y = shown.trace["x"], shown.trace["y"]
        rows = range(0, len(x), max(every, every * (len(x) // max(1, every * MOST_PRINTS)))) if every else range(0)
        self.bodies = [body_at(shown, float(x[row]), float(y[row])) for row in rows]
        (left, right), (low, high) = shown.trace.span("x"), shown.trace.span("y")
        self.extent = body_at(shown, left, low).united(body_at(shown, right, high))
        self.marks: list[tuple[QPointF, str]] = []
        for mark, symbol, _word in MARKS:
            found = shown.trace.rows_with(mark)
            for row in found[:: 1 + len(found) // MOST_PRINTS]:
                self.marks.append((QPointF(float(x[row]), float(y[row])), symbol))


class Prints:
    """A layer: what every tune has printed."""

    def __init__(self) -> None:
        self.printed: list[Printed] = []

    @property
    def key(self) -> object:
        return tuple(self.printed)

    def show(self, shown: Sequence[Shown], every: int) -> None:
        kept = {id(each.shown): each for each in self.printed if each.every == every}
        self.printed = [kept.get(id(one)) or Printed(one, every) for one in shown]

    def extent(self) -> QRectF:
        """All places that a body was at; empty where there is none."""
        whole = QRectF()
        for printed in self.printed:
            whole = whole.united(printed.extent)
        return whole

    def paint(self, painter: QPainter, mapping: Mapping, palette: look.Palette) -> None:
        for printed in reversed(self.printed):
            ink = look.ink(palette, printed.shown.place)
            faint, wash = QColor(ink), QColor(ink)
            faint.setAlpha(95)
            wash.setAlpha(16)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.setPen(QPen(faint, 0))
            painter.setBrush(wash)
            reach = mapping.area.adjusted(-4, -4, 4, 4)
            bodies = [rect.intersected(reach).toRect() for body in printed.bodies if (rect := mapping.rect(body)).intersects(reach)]
            painter.drawRects(bodies)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            for at, symbol in printed.marks:
                if reach.contains(spot := mapping.point(at)):
                    paint_mark(painter, spot, symbol, ink, QColor(palette.paper))


class GhostItem(pg.GraphicsObject):
    """One tune's body at the frame cursor, bold, with its letter and its arrows."""

    def __init__(self, box: pg.ViewBox) -> None:
        super().__init__()
        self._box = box
        self.look = look.DAY
        self.shown: Shown | None = None
        self._row = 0
        self.arrows = (True, True)
        self.setZValue(30)

    def show_at(self, shown: Shown, row: int, palette: look.Palette, arrows: tuple[bool, bool]) -> None:
        """`arrows`: whether that of the velocity and that of the acceleration are drawn."""
        self.prepareGeometryChange()
        self.shown, self._row, self.look, self.arrows = shown, row, palette, arrows
        self.update()

    @property
    def body(self) -> QRectF:
        assert self.shown is not None
        return body_at(self.shown, self._value("x"), self._value("y"))

    def _value(self, column: str) -> float:
        assert self.shown is not None
        return float(self.shown.trace[column][self._row])

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        if self.shown is None:
            return
        mapping = Mapping.of(painter.transform(), self._box.viewRect())
        painter.resetTransform()
        ink, body = look.ink(self.look, self.shown.place), mapping.rect(self.body)
        wash = QColor(ink)
        wash.setAlpha(70)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setBrush(wash)
        painter.setPen(look.ink_pen(self.look, self.shown.place, 2.2))
        painter.drawRect(body)
        self._paint_facing(painter, body, ink)
        if self.arrows[0]:
            self._paint_arrow(painter, mapping, ("vx", "vy"), VELOCITY_SCALE, QPen(ink, 2))
        if self.arrows[1]:
            pen = QPen(ink, 1.4)
            pen.setDashPattern([2, 2])
            self._paint_arrow(painter, mapping, ("ax", "ay"), ACCELERATION_SCALE, pen)
        self._paint_letter(painter, body, ink, mapping.area)

    def _paint_letter(self, painter: QPainter, body: QRectF, ink: QColor, area: QRectF) -> None:
        assert self.shown is not None
        painter.setPen(ink)
        painter.setFont(look.font(9, bold=True))
        high, wide = look.height(9, bold=True), look.width("W", 9, bold=True)
        # Bodies that stand in one place have their letters side by side, and one that is partly in view has its letter there.
        where = QRectF(body.center().x() - wide / 2 + wide * self.shown.place, max(body.top() - high - 2, area.top()), wide, high)
        if area.contains(where):
            painter.drawText(where, Qt.AlignmentFlag.AlignCenter, look.letter(self.shown.place))

    def _paint_facing(self, painter: QPainter, body: QRectF, ink: QColor) -> None:
        """From above a notch shows where the body faces."""
        assert self.shown is not None
        if self.shown.tune.view != "top":
            return
        angle = np.radians(self._value("facing"))
        reach = min(body.width(), body.height()) / 2
        painter.setPen(QPen(ink, 4))
        painter.drawPoint(body.center() + QPointF(reach * float(np.cos(angle)), -reach * float(np.sin(angle))))

    def _paint_arrow(self, painter: QPainter, mapping: Mapping, columns: tuple[str, str], scale: float, pen: QPen) -> None:
        way = QPointF(*(self._value(column) * scale for column in columns))
        length = float(np.hypot(way.x(), way.y()))
        if length < 0.01:
            return
        middle = self.body.center()
        tip = middle + way
        ux, uy = way.x() / length, way.y() / length
        head = min(0.22, length / 2)
        painter.setPen(pen)
        painter.drawLine(mapping.point(middle), mapping.point(tip))
        pen.setStyle(pen.style().SolidLine)
        painter.setPen(pen)
        for side in (0.5, -0.5):
            barb = tip - QPointF((ux * 0.87 - uy * side) * head, (uy * 0.87 + ux * side) * head)
            painter.drawLine(mapping.point(tip), mapping.point(barb))
