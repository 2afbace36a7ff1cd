"""The strips: one channel each, every tune's curve, the wake of the last edit, and the readout at the cursor."""

from __future__ import annotations

from functools import partial

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QGraphicsScene, QHBoxLayout, QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.compare.curve import Curve, Curves
from cinetica.desk.compare.lanes import turn_axis
from cinetica.desk.compare.time_axis import LEFT, RIGHT, TimeAxis, round_step
from cinetica.desk.session import Session, Shown
from cinetica.reading.channels import CHANNELS, Channel

MOST_STRIPS = 8


class PaperGrid(pg.GraphicsObject):
    """The fine printed grid of the paper, in the view's own coordinates."""

    def __init__(self, box: pg.ViewBox, palette: look.Palette, *, square: bool = False) -> None:
        super().__init__()
        self._box, self.look, self._square = box, palette, square
        self._lines: tuple[QRectF, list[QLineF], list[QLineF]] = (QRectF(), [], [])
        self.setZValue(-100)
        # Ruling the paper costs more than all curves; it stays the same until the view is turned.
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)
        box.sigRangeChanged.connect(lambda *_: self._changed())

    def _changed(self) -> None:
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(self._box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        rect = self._box.viewRect()
        if rect.width() <= 0 or rect.height() <= 0:
            return
        if self._lines[0] != rect:
            self._lines = (rect, *self._ruled(rect))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for color, lines in zip((self.look.grid_fine, self.look.grid), self._lines[1:], strict=True):
            painter.setPen(QPen(QColor(color), 0))
            painter.drawLines(lines)
        painter.drawLine(QPointF(rect.left(), rect.bottom()), QPointF(rect.right(), rect.bottom()))

    def _ruled(self, rect: QRectF) -> tuple[list[QLineF], list[QLineF]]:
        """The fine and the strong lines of this stretch of paper."""
        across = round_step(rect.width(), self._box.width() / 46)
        up = across if self._square else round_step(rect.height(), self._box.height() / 26)
        ruled = []
        for step_x, step_y in ((across / 5, up / 5 if self._square else 0.0), (across, up)):
            lines = [QLineF(x, rect.top(), x, rect.bottom()) for x in _multiples(step_x, rect.left(), rect.right())]
            if step_y:
                lines += [QLineF(rect.left(), y, rect.right(), y) for y in _multiples(step_y, rect.top(), rect.bottom())]
            ruled.append(lines)
        return ruled[0], ruled[1]


def _multiples(step: float, low: float, high: float) -> list[float]:
    return [number * step for number in range(int(np.ceil(low / step)), int(np.floor(high / step)) + 1)]


class CursorItem(pg.GraphicsObject):
    """The frame cursor in a strip, with every tune's marker on its curve. It is as narrow as its markers, so that
    a step repaints no more than it must."""

    REACH = 7

    def __init__(self, box: pg.ViewBox, palette: look.Palette) -> None:
        super().__init__()
        self._box, self.look = box, palette
        self._spots: list[tuple[int, float]] = []
        self.setZValue(20)
        box.sigRangeChanged.connect(lambda *_: self._resized())

    def _resized(self) -> None:
        self.prepareGeometryChange()
        self.update()

    def show_at(self, time: float, spots: list[tuple[int, float]]) -> None:
        """Stand at a time, with a marker for each (place of the tune, value)."""
        if self._spots != spots:
            self._spots = spots
            self.update()
        self.setPos(time, 0)

    def boundingRect(self) -> QRectF:
        rect = self._box.viewRect()
        wide = self.REACH * rect.width() / max(1.0, self._box.width())
        return QRectF(-wide, rect.top(), 2 * wide, rect.height())

    def paint(self, painter: QPainter, *_: object) -> None:
        rect = self._box.viewRect()
        painter.setPen(QPen(QColor(self.look.ink), 0))
        painter.drawLine(QPointF(0, rect.top()), QPointF(0, rect.bottom()))
        transform = painter.transform()
        painter.resetTransform()
        painter.setBrush(QColor(self.look.paper))
        for place, value in self._spots:
            painter.setPen(QPen(look.ink(self.look, place), 1.6))
            middle = transform.map(QPointF(0, value))
            painter.drawPath(look.shape(place, 9).translated(middle))


class StripView(pg.PlotWidget):
    """The plot of one strip. A drag moves the frame cursor; the wheel turns the shared axis."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(background=palette.paper)
        self.session, self.axis = session, axis
        item = self.getPlotItem()
        item.hideButtons()
        item.setMenuEnabled(False)
        item.layout.setContentsMargins(0, 0, 0, 0)
        item.layout.setSpacing(0)
        item.hideAxis("bottom")
        item.getAxis("left").setWidth(LEFT)
        item.getAxis("left").setCacheMode(pg.AxisItem.CacheMode.DeviceCoordinateCache)
        self.box: pg.ViewBox = item.getViewBox()
        self.box.setMouseEnabled(x=False, y=False)
        self.box.setDefaultPadding(0)
        self.box.disableAutoRange()
        self.grid = PaperGrid(self.box, palette)
        item.addItem(self.grid, ignoreBounds=True)
        self.setAntialiasing(True)
        self.scene().setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        self.setFrameShape(self.Shape.NoFrame)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def _time(self, x: float) -> float:
        return float(self.box.mapSceneToView(QPointF(x, 0)).x())

    def _to_cursor(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.session.set_cursor(self.axis.row_at(self._time(event.position().x())))

    mousePressEvent = mouseMoveEvent = _to_cursor

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_axis(self.axis, event, self._time(event.position().x()))


class Readout(QWidget):
    """Every tune's value at the cursor, and its difference from the reference."""

    def __init__(self, session: Session, channel: Channel, palette: look.Palette) -> None:
        super().__init__()
        self.session, self.channel, self.look = session, channel, palette
        self.setFixedWidth(RIGHT)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(f"Readout of {channel.label}")

    def lines(self) -> list[tuple[int, str, str]]:
        """Place, value and difference from the reference for each tune shown."""
        made: list[tuple[int, str, str]] = []
        reference = None
        for shown in self.session.shown:
            column = shown.trace[self.channel.column]
            value = float(column[min(self.session.cursor, len(column) - 1)])
            if reference is None:
                reference = value
                made.append((shown.place, signed(value), ""))
            else:
                made.append((shown.place, signed(value), signed(value - reference)))
        return made

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.look.paper))
        painter.setPen(QColor(self.look.grid))
        painter.drawLine(QPointF(0.5, 0), QPointF(0.5, self.height()))
        painter.drawLine(0, 0, self.width(), 0)
        lines = self.lines()
        high = min(20.0, (self.height() - 4) / max(1, len(lines)))
        painter.setFont(look.font(9 if high > 15 else 8))
        right, middle = Qt.AlignmentFlag.AlignRight, Qt.AlignmentFlag.AlignVCenter
        for number, (place, value, difference) in enumerate(lines):
            y = 6 + number * high
            painter.setPen(look.ink(self.look, place))
            painter.drawText(QRectF(14, y, 20, high), middle, look.letter(place))
            painter.setPen(QColor(self.look.ink))
            painter.drawText(QRectF(24, y, 56, high), middle | right, value)
            painter.setPen(QColor(self.look.soft))
            painter.drawText(QRectF(80, y, RIGHT - 92, high), middle | right, difference)


def signed(value: float) -> str:
    """Two decimals with a sign; a minus as wide as a plus."""
    if not np.isfinite(value):
        return "–"
    text = f"{value:+.2f}" if abs(value) < 1000 else f"{value:+.4g}"
    return text.replace("-", "−")


class Strip(QWidget):
    """One channel of every tune over time."""

    def __init__(self, session: Session, axis: TimeAxis, channel: Channel, palette: look.Palette) -> None:
        super().__init__()
        self.setObjectName("strip")
        look.on_paper(self)
        self.session, self.axis, self.channel, self.look = session, axis, channel, palette
        self.plot = StripView(session, axis, palette)
        self.plot.setAccessibleName(f"{channel.label} over time")
        self.readout = Readout(session, channel, palette)
        self.title = QToolButton(self)
        self.title.setText(f"{channel.label.partition(':')[0].partition(',')[0]} ▾")
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.title.setToolTip("Show another channel here, or add and remove strips")
        self.title.setAccessibleName(f"Strip {channel.label}")
        self.title.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.title.adjustSize()
        self.unit = QLabel(channel.unit, self)
        self.unit.setObjectName("soft")
        self.unit.setFont(look.font(8))
        # Known to be opaque, it is not painted again whenever the plot under it is.
        self.title.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.title.move(9, 3)
        self.unit.move(14, 23)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.readout)
        self.title.raise_()
        self.unit.raise_()
        self.curves = Curves(self.plot, self._over_time)
        self.wakes = Curves(self.plot, self._over_time, wake=True)
        self.cursor_item = CursorItem(self.plot.box, palette)
        self.plot.addItem(self.cursor_item, ignoreBounds=True)
        self.set_look(palette)
        axis.changed.connect(self._show_time)
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self.draw_wake)
        session.cursor_moved.connect(self.move_cursor)
        self._show_time()

    def set_look(self, palette: look.Palette) -> None:
        self.look = self.readout.look = self.plot.grid.look = self.cursor_item.look = palette
        self.plot.setBackground(palette.paper)
        left = self.plot.getPlotItem().getAxis("left")
        left.setPen(pg.mkPen(None))
        left.setTickPen(pg.mkPen(None))
        left.setTextPen(QColor(palette.soft))
        left.setStyle(tickLength=0, tickTextOffset=8, tickFont=look.font(8))
        self.draw()

    def _show_time(self) -> None:
        self.plot.box.setXRange(self.axis.start, self.axis.end, padding=0)

    def draw(self) -> None:
        """Redraw the curves from the session's traces."""
        self.curves.show(self.session.shown, self.look)
        self.draw_wake()
        self._fit_values()
        self.move_cursor()

    def draw_wake(self) -> None:
        """The curves as they were when the last edit began, pale, where they are other than now."""
        self.wakes.show(self.session.wake_shown, self.look)

    def _over_time(self, shown: Shown) -> Curve:
        return shown.trace["time"], shown.trace[self.channel.column]

    def _fit_values(self) -> None:
        """Own scale: all that is drawn, and 0, with a little room."""
        low, high = 0.0, 0.0
        for shown in (*self.session.shown, *self.session.wake):
            column = shown.trace[self.channel.column]
            finite = column if self.channel.always_finite else column[np.isfinite(column)]
            if len(finite):
                low, high = min(low, float(finite.min())), max(high, float(finite.max()))
        if high - low < 1e-9:
            low, high = low - 1, high + 1
        # Rounded outward, so that the scale stands still while a number is dragged a little.
        step = round_step(high - low, 5) / 2
        low, high = (np.floor(low / step) - 0.3) * step, (np.ceil(high / step) + 0.5) * step
        if self.plot.box.viewRange()[1] != [low, high]:
            self.plot.box.setYRange(low, high, padding=0)

    def move_cursor(self, *_: object) -> None:
        row = self.session.cursor
        spots: list[tuple[int, float]] = []
        for shown in self.session.shown:
            at = min(row, len(shown.trace) - 1)
            value = float(shown.trace[self.channel.column][at])
            if np.isfinite(value):
                spots.append((shown.place, value))
        self.cursor_item.show_at(self.session.time_at(row), spots)
        self.readout.update()


class Strips(QWidget):
    """The stack of strips. Each one's title opens a menu that exchanges, adds or removes."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette, channels: list[Channel]) -> None:
        super().__init__()
        self.session, self.axis, self.look = session, axis, palette
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(0)
        self.strips: list[Strip] = []
        self.show_channels(channels)

    def show_channels(self, channels: list[Channel]) -> None:
        """Show just these, in this order."""
        if [strip.channel for strip in self.strips] == channels:
            return
        for strip in self.strips:
            self._layout.removeWidget(strip)
            strip.hide()
            strip.deleteLater()
        self.strips = [Strip(self.session, self.axis, channel, self.look) for channel in channels]
        for place, strip in enumerate(self.strips):
            self._layout.addWidget(strip, 1)
            strip.title.setMenu(self._menu(place))

    def _menu(self, place: int) -> QMenu:
        channels = [strip.channel for strip in self.strips]
        menu = QMenu(self)
        for channel in CHANNELS:
            if channel not in channels:
                other = [*channels[:place], channel, *channels[place + 1 :]]
                menu.addAction(channel.label, partial(self._later, other))
        menu.addSeparator()
        more = menu.addMenu("Add a strip below")
        for channel in CHANNELS:
            if channel not in channels and len(channels) < MOST_STRIPS:
                longer = [*channels[: place + 1], channel, *channels[place + 1 :]]
                more.addAction(channel.label, partial(self._later, longer))
        remove = menu.addAction("Remove this strip", partial(self._later, [*channels[:place], *channels[place + 1 :]]))
        remove.setEnabled(len(channels) > 1)
        return menu

    def _later(self, channels: list[Channel]) -> None:
        # The menu that asked belongs to a strip that goes: it must close first.
        QTimer.singleShot(0, self, lambda: self.show_channels(channels))

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        for strip in self.strips:
            strip.set_look(palette)
