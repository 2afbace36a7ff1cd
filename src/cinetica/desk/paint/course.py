"""The course on the stage: solids as earth, one-way solids as planks, climb zones as nets."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.paint.mapping import Mapping
from cinetica.model.course import Course, Rectangle


class CourseLayer:
    """A layer: all rectangles of a course."""

    def __init__(self) -> None:
        self.course = Course()

    @property
    def key(self) -> object:
        return self.course

    def paint(self, painter: QPainter, mapping: Mapping, palette: look.Palette) -> None:
        def on_pixels(rectangle: Rectangle) -> QRectF:
            rect = mapping.rect(rect_of(rectangle)).intersected(mapping.area.adjusted(-4, -4, 4, 4))
            return QRectF(rect.toRect()) if rect.isValid() else QRectF()

        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
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


def rect_of(rectangle: Rectangle) -> QRectF:
    return QRectF(QPointF(rectangle.left, rectangle.bottom), QPointF(rectangle.right, rectangle.top))
