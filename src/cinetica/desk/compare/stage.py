"""The stage: the course, each tune's path, the body printed every n frames, and bold at the cursor."""

from __future__ import annotations

from functools import cache

import numpy as np
import pyqtgraph as pg
from pyqtgraph.graphicsItems.ScatterPlotItem import Symbols
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QTransform
from PySide6.QtWidgets import QGraphicsScene, QLabel, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.compare.curve import Curve, Curves
from cinetica.desk.compare.strips import PaperGrid
from cinetica.desk.session import Session, Shown
from cinetica.model.course import Rectangle
from cinetica.motion.records import AIR_LAUNCH, APEX, CLIMB_ON, LAND, LAUNCH, LOST_PRESS, PRESS
from cinetica.motion.simulate import Trace

PRINT_EVERY = 6
ARROW_SECONDS = 0.15
# Marks drawn on the paths: what is drawn at the feet, by mark.
GLYPHS = ((PRESS, "o"), (LAUNCH | AIR_LAUNCH, "t1"), (APEX, "|"), (LAND, "s"), (LOST_PRESS, "x"), (CLIMB_ON, "d"))
GLYPH_SIZE = 9


class CourseItem(pg.GraphicsObject):
    """Solids as earth, one-way solids as planks, climb zones as nets."""

    def __init__(self, palette: look.Palette) -> None:
        super().__init__()
        self.look = palette
        self.solids: tuple[Rectangle, ...] = ()
        self.oneway: tuple[Rectangle, ...] = ()
        self.climb: tuple[Rectangle, ...] = ()
        self.setZValue(-50)
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)

    def show_course(self, solids: tuple[Rectangle, ...], oneway: tuple[Rectangle, ...], climb: tuple[Rectangle, ...]) -> None:
        self.prepareGeometryChange()
        self.solids, self.oneway, self.climb = solids, oneway, climb
        self.update()

    def boundingRect(self) -> QRectF:
        bounds = QRectF()
        for rectangle in (*self.solids, *self.oneway, *self.climb):
            bounds = bounds.united(_rect(rectangle))
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
        painter.drawRect(_rect(rectangle))


def _rect(rectangle: Rectangle) -> QRectF:
    return QRectF(QPointF(rectangle.left, rectangle.bottom), QPointF(rectangle.right, rectangle.top))


@cache
def _glyph(symbol: str) -> QPainterPath:
    return QTransform.fromScale(GLYPH_SIZE, GLYPH_SIZE).map(Symbols[symbol])


class BodyItem(pg.GraphicsObject):
    """One tune on the stage: prints every n frames, and the body at the cursor with its velocity arrow."""

    def __init__(self, shown: Shown, palette: look.Palette, every: int) -> None:
        super().__init__()
        self.setZValue(10 - shown.place)
        self.show_trace(shown, palette, every)

    def show_trace(self, shown: Shown, palette: look.Palette, every: int) -> None:
        self.prepareGeometryChange()
        self.shown, self.look = shown, palette
        self.row = 0
        x, y = shown.trace["x"], shown.trace["y"]
        self.prints = [self.body(float(x[row]), float(y[row])) for row in range(0, len(x), every)]
        self.extent = self.body(float(x.min()), float(y.min())).united(self.body(float(x.max()), float(y.max())))
        self._bounds = self.extent.adjusted(-5, -5, 5, 5)
        self._glyphs = [
            (float(x[row]), float(y[row]), symbol) for mark, symbol in GLYPHS for row in shown.trace.rows_with(mark)
        ]
        self.update()

    def body(self, x: float, y: float) -> QRectF:
        """The box of the body around its position: the feet from the side, the middle from above."""
        tune = self.shown.tune
        width, height = tune.body.width, tune.body.height
        bottom = y if tune.view == "side" else y - height / 2
        return QRectF(x - width / 2, bottom, width, height)

    def move_to(self, row: int) -> None:
        self.row = min(row, len(self.shown.trace) - 1)
        self.update()

    def boundingRect(self) -> QRectF:
        return self._bounds

    def paint(self, painter: QPainter, *_: object) -> None:
        trace = self.shown.trace
        ink = look.ink(self.look, self.shown.place)
        faint, wash = QColor(ink), QColor(ink)
        faint.setAlpha(95)
        wash.setAlpha(16)
        painter.setPen(QPen(faint, 0))
        painter.setBrush(wash)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawRects(self.prints)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        x, y = float(trace["x"][self.row]), float(trace["y"][self.row])
        body = self.body(x, y)
        wash.setAlpha(70)
        painter.setBrush(wash)
        painter.setPen(look.ink_pen(self.look, self.shown.place, 2.2))
        painter.drawRect(body)
        self._paint_facing(painter, body, trace, ink)
        self._paint_arrow(painter, body.center(), float(trace["vx"][self.row]), float(trace["vy"][self.row]), ink)
        self._paint_signs(painter, body, ink)

    def _paint_signs(self, painter: QPainter, body: QRectF, ink: QColor) -> None:
        """Marks at the feet and the letter over the body, in the size of the screen and not of the course."""
        transform = painter.transform()
        painter.resetTransform()
        painter.setPen(QPen(ink, 1.5))
        painter.setBrush(QColor(self.look.paper))
        for x, y, symbol in self._glyphs:
            at = transform.map(QPointF(x, y))
            painter.drawPath(_glyph(symbol).translated(at))
        painter.setFont(look.font(9, bold=True))
        over = transform.map(QPointF(body.center().x(), body.bottom()))
        area = QRectF(over.x() - 20, over.y() - 20, 40, 18)
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, look.letter(self.shown.place))

    def _paint_facing(self, painter: QPainter, body: QRectF, trace: Trace, ink: QColor) -> None:
        """From above a notch shows where the body faces."""
        if self.shown.tune.view != "top":
            return
        angle = np.radians(float(trace["facing"][self.row]))
        reach = min(body.width(), body.height()) / 2
        nose = body.center() + QPointF(reach * float(np.cos(angle)), reach * float(np.sin(angle)))
        pen = QPen(ink, 4)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawPoint(nose)

    def _paint_arrow(self, painter: QPainter, middle: QPointF, vx: float, vy: float, ink: QColor) -> None:
        speed = float(np.hypot(vx, vy))
        if speed < 0.05:
            return
        tip = middle + QPointF(vx * ARROW_SECONDS, vy * ARROW_SECONDS)
        ux, uy = vx / speed, vy / speed
        head = min(0.22, speed * ARROW_SECONDS / 2)
        pen = QPen(ink, 2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawLine(middle, tip)
        painter.drawLine(tip, tip - QPointF((ux * 0.87 - uy * 0.5) * head, (uy * 0.87 + ux * 0.5) * head))
        painter.drawLine(tip, tip - QPointF((ux * 0.87 + uy * 0.5) * head, (uy * 0.87 - ux * 0.5) * head))


class Stage(QWidget):
    """Equal scale on both axes; the wheel zooms, a drag pans, F fits."""

    def __init__(self, session: Session, palette: look.Palette) -> None:
        super().__init__()
        look.on_paper(self)
        self.session, self.look, self.every = session, palette, PRINT_EVERY
        self.plot = pg.PlotWidget(background=palette.paper)
        self.plot.setFrameShape(self.plot.Shape.NoFrame)
        self.plot.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.plot.setAccessibleName("Stage")
        item = self.plot.getPlotItem()
        item.hideButtons()
        item.setMenuEnabled(False)
        item.hideAxis("left")
        item.getAxis("bottom").setHeight(20)
        item.layout.setContentsMargins(0, 0, 0, 0)
        self.box: pg.ViewBox = item.getViewBox()
        self.plot.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        item.getAxis("bottom").setCacheMode(pg.AxisItem.CacheMode.DeviceCoordinateCache)
        self.box.setAspectLocked(True)
        self.box.setDefaultPadding(0)
        self.grid = PaperGrid(self.box, palette, square=True)
        self.course = CourseItem(palette)
        for thing in (self.grid, self.course):
            self.plot.addItem(thing, ignoreBounds=True)
        self.bodies: list[BodyItem] = []
        self.paths = Curves(self.plot, self._path)
        self.wakes = Curves(self.plot, self._path, wake=True)
        self._add_labels()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.plot)
        self.set_look(palette)
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self.draw_wake)
        session.cursor_moved.connect(self.move_cursor)
        session.drill_changed.connect(self._new_drill)
        self.box.sigRangeChanged.connect(lambda *_: self._say_scale())

    def _add_labels(self) -> None:
        self.title, self.about, self.scale = QLabel("Stage", self.plot), QLabel("", self.plot), QLabel("", self.plot)
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        for label in (self.about, self.scale):
            label.setObjectName("soft")
            label.setFont(look.font(8))
        self.title.move(14, 6)
        self.about.move(14, 24)

    def set_look(self, palette: look.Palette) -> None:
        self.look = self.grid.look = self.course.look = palette
        self.plot.setBackground(palette.paper)
        bottom = self.plot.getPlotItem().getAxis("bottom")
        bottom.setPen(pg.mkPen(None))
        bottom.setTickPen(pg.mkPen(None))
        bottom.setTextPen(QColor(palette.soft))
        bottom.setStyle(tickLength=0, tickFont=look.font(8))
        self.course.update()
        self.draw()

    def _new_drill(self) -> None:
        drill = self.session.drill
        if drill is not None:
            self.course.show_course(drill.course.solids, drill.course.oneway, drill.course.climb)
        self.draw()
        self.fit()

    def fit(self) -> None:
        """Show all paths with a little room."""
        bounds = QRectF()
        for body in self.bodies:
            if body.isVisible():
                bounds = bounds.united(body.extent)
        if not bounds.isEmpty():
            self.box.setRange(bounds.adjusted(-0.5, -0.7, 0.5, 0.9), padding=0)

    def draw(self) -> None:
        shown = self.session.shown
        self.paths.show(shown, self.look)
        self.draw_wake()
        for number, one in enumerate(shown):
            if number == len(self.bodies):
                self.bodies.append(BodyItem(one, self.look, self.every))
                self.plot.addItem(self.bodies[number], ignoreBounds=True)
            if self.bodies[number].shown is not one or self.bodies[number].look is not self.look:
                self.bodies[number].show_trace(one, self.look, self.every)
        for number, body in enumerate(self.bodies):
            body.setVisible(number < len(shown))
        self.move_cursor()

    def draw_wake(self) -> None:
        self.wakes.show(self.session.wake_shown, self.look)

    @staticmethod
    def _path(shown: Shown) -> Curve:
        """The way of the middle of the body."""
        middle = shown.tune.body.height / 2 if shown.tune.view == "side" else 0.0
        return shown.trace["x"], shown.trace["y"] + middle

    def move_cursor(self, *_: object) -> None:
        for body in self.bodies:
            body.move_to(self.session.cursor)

    def _say_scale(self) -> None:
        pixels = self.box.width() / max(self.box.viewRect().width(), 1e-9)
        self.about.setText(f"a print every {self.every} frames")
        self.scale.setText(f"○ press   △ launch   ❘ apex   □ land   × press lost        1 u = {pixels:.0f} px")
        for label in (self.title, self.about, self.scale):
            label.adjustSize()
        self.scale.move(self.plot.width() - self.scale.width() - 12, 6)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.fit()
        self._say_scale()
