"""Arrows, marks and glyphs, drawn instead of typed, so that no font needs to have them."""

from __future__ import annotations

from functools import cache

from pyqtgraph.graphicsItems.ScatterPlotItem import Symbols
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from cinetica.motion.records import AIR_LAUNCH, APEX, CLIMB_ON, LAND, LAUNCH, LOST_PRESS, PRESS

# What is drawn at the feet, by mark, and its word in the legend.
MARKS = (
    (PRESS, "o", "press"), (LAUNCH | AIR_LAUNCH, "t1", "launch"), (APEX, "|", "apex"), (LAND, "s", "land"), (LOST_PRESS,
    "x", "press lost"),
    (CLIMB_ON, "d", "grabs net"),
)  # fmt: skip
MARK_SIZE = 9
VERDICT_WIDTH = 1.8


@cache
def mark_path(symbol: str, size: float = MARK_SIZE) -> QPainterPath:
    """The outline of a mark around the origin."""
    return QTransform.fromScale(size, size).map(Symbols[symbol])


def paint_mark(
    painter: QPainter, at: QPointF, symbol: str, ink: QColor, paper: QColor, size: float = MARK_SIZE
) -> None:
    """Paint a mark."""
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(paper)
    painter.drawPath(mark_path(symbol, size).translated(at))


def triangle(middle: QPointF, size: float, towards: str) -> QPolygonF:
    """A filled arrow; `towards` is up, down, left or right."""
    long, short = size / 2, size * 0.3
    corners = {
        "down": ((-long, -short), (long, -short), (0.0, short)), "up": ((-long, short), (long, short), (0.0, -short)),
        "right": ((-short, -long), (short, 0.0), (-short, long)), "left": ((short, -long), (-short, 0.0), (short,
        long)),
    }[towards]  # fmt: skip
    return QPolygonF([middle + QPointF(*corner) for corner in corners])


@cache
def verdict_path(size: float, *, met: bool) -> QPainterPath:
    """A tick (met) or a cross (missed) around the origin, so that not only colour tells them apart."""
    path = QPainterPath()
    if met:
        path.moveTo(-size, 0)
        path.lineTo(-0.3 * size, size)
        path.lineTo(size, -size)
    else:
        path.moveTo(-size, -size)
        path.lineTo(size, size)
        path.moveTo(-size, size)
        path.lineTo(size, -size)
    return path


def paint_verdict(painter: QPainter, middle: QPointF, size: float, color: QColor, *, met: bool) -> None:
    """Paint a tick or a cross."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(color, VERDICT_WIDTH))
    painter.drawPath(verdict_path(size, met=met).translated(middle))
    painter.restore()


@cache
def pointer_path(size: float) -> QPainterPath:
    """A filled arrow to the right around the origin."""
    path = QPainterPath()
    path.addPolygon(triangle(QPointF(0, 0), size, "right"))
    path.closeSubpath()
    return path


@cache
def disc_path(radius: float) -> QPainterPath:
    """A disc around the origin."""
    path = QPainterPath()
    path.addEllipse(QPointF(0, 0), radius, radius)
    return path


@cache
def arrow_path(size: float, *, up: bool) -> QPainterPath:
    """A flat arrow around the origin, twice as wide as `size`."""
    path, way = QPainterPath(), -1 if up else 1
    path.moveTo(-size, -0.5 * way * size)
    path.lineTo(size, -0.5 * way * size)
    path.lineTo(0, way * size)
    path.closeSubpath()
    return path
