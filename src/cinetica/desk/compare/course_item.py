"""The course on the stage: solids as earth, one-way solids as planks, climb zones as nets."""

from __future__ import annotations

import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.model.course import Course, Rectangle


class CourseItem(pg.GraphicsObject):
    """All rectangles of a course."""

    def __init__(self, palette: look.Palette) -> None:
        super().__init__()
        self.look = palette
        self.solids: tuple[Rectangle, ...] = ()
        self.oneway: tuple[Rectangle, ...] = ()
        self.climb: tuple[Rectangle, ...] = ()
        self.setZValue(-50)
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)

    def show_course(self, course: Course) -> None:
        self.prepareGeometryChange()
        self.solids, self.oneway, self.climb = course.solids, course.oneway, course.climb
        self.update()

    def boundingRect(self) -> QRectF:
        bounds = QRectF()
        for rectangle in (*self.solids, *self.oneway, *self.climb):
            bounds = bounds.united(rect_of(rectangle))
        return bounds

    def paint(self, painter: QPainter, *_: object) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        edge = QPen(QColor(self.look.earth_edge), 0)
        for rectangle in self.climb:
            self._fill(painter, rectangle, Qt.BrushStyle.DiagCrossPattern, QPen(Qt.PenStyle.NoPen))
        for rectangle in self.solids:
            self._fill(painter, rectangle, Qt.BrushStyle.SolidPattern, edge)
        for rectangle in self.oneway:
            self._fill(painter, rectangle, Qt.BrushStyle.Dense6Pattern, QPen(Qt.PenStyle.NoPen))
            top = QPen(QColor(self.look.earth_edge), 2)
            top.setCosmetic(True)
            painter.setPen(top)
            painter.drawLine(QPointF(rectangle.left, rectangle.top), QPointF(rectangle.right, rectangle.top))

    def _fill(self, painter: QPainter, rectangle: Rectangle, pattern: Qt.BrushStyle, pen: QPen) -> None:
        brush = QBrush(QColor(self.look.earth), pattern)
        # A pattern keeps its size on the screen, however far the view is zoomed.
        brush.setTransform(painter.worldTransform().inverted()[0])
        painter.setPen(pen)
        painter.setBrush(brush)
        painter.drawRect(rect_of(rectangle))


def rect_of(rectangle: Rectangle) -> QRectF:
    return QRectF(QPointF(rectangle.left, rectangle.bottom), QPointF(rectangle.right, rectangle.top))
