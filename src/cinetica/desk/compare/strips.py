"""The strips: channels over time and channels against each other, every tune's curve, the wake, and the readout."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QShowEvent, QWheelEvent
from PySide6.QtWidgets import QGraphicsScene, QHBoxLayout, QLabel, QMenu, QSplitter, QToolButton, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.compare.comparing import Comparing, Curve
from cinetica.desk.compare.curve import Curves, finite_span, with_zero
from cinetica.desk.compare.on_time_axis import turn_axis
from cinetica.desk.compare.paper import CursorItem, PaperGrid
from cinetica.desk.compare.time_axis import ROOM, TimeAxis, round_step
from cinetica.desk.session import Session, Shown
from cinetica.reading.channels import CHANNELS, PHASES, Channel, Phase

MOST_STRIPS = 8
SHORTEST_STRIP = 44


class PlotOnPaper(pg.PlotWidget):
    """A plot without the things that pyqtgraph brings: no menu, no buttons, no dragging; on the paper's grid."""

    def __init__(self, palette: look.Palette, *, bottom: bool = False) -> None:
        super().__init__(background=palette.paper)
        item = self.getPlotItem()
        item.hideButtons()
        item.setMenuEnabled(False)
        item.layout.setContentsMargins(0, 0, 0, 0)
        item.layout.setSpacing(0)
        if bottom:
            item.getAxis("bottom").setHeight(look.px(18))
            item.getAxis("bottom").setCacheMode(pg.AxisItem.CacheMode.DeviceCoordinateCache)
        else:
            item.hideAxis("bottom")
        item.getAxis("left").setWidth(ROOM.left)
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
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def showEvent(self, event: QShowEvent) -> None:
        """What changed while another page was shown was not painted: the kept pictures of the axes are of the scale before."""
        super().showEvent(event)
        for name in ("left", "bottom"):
            axis = self.getPlotItem().getAxis(name)
            axis.setCacheMode(pg.AxisItem.CacheMode.NoCache)
            axis.setCacheMode(pg.AxisItem.CacheMode.DeviceCoordinateCache)

    def set_look(self, palette: look.Palette) -> None:
        self.grid.look = palette
        self.setBackground(palette.paper)
        for name in ("left", "bottom"):
            axis = self.getPlotItem().getAxis(name)
            axis.setPen(pg.mkPen(None))
            axis.setTickPen(pg.mkPen(None))
            axis.setTextPen(QColor(palette.soft))
            axis.setStyle(tickLength=0, tickTextOffset=8 if name == "left" else 2, tickFont=look.font(8))


class StripView(PlotOnPaper):
    """The plot of one strip. A drag moves the frame cursor; the wheel turns the shared axis."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(palette)
        self.session, self.axis = session, axis

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

    def __init__(self, comparing: Comparing, channel: Channel, palette: look.Palette) -> None:
        super().__init__()
        self.comparing, self.session, self.channel, self.look = comparing, comparing.session, channel, palette
        self.setFixedWidth(ROOM.right)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(f"Readout of {channel.label}")
        self._ground: QPixmap | None = None
        self._ground_for: object = None

    def lines(self) -> list[tuple[int, str, str]]:
        """Place, value and difference from the reference for each tune shown."""
        reference = self.session.reference_shown
        if reference is None:
            return []
        against = self.comparing.value(reference, self.channel.column)
        values = [(shown, self.comparing.value(shown, self.channel.column)) for shown in self.session.shown]
        return [(shown.place, signed(value), "" if shown is reference else signed(value - against)) for shown, value in values]

    def paintEvent(self, event: QPaintEvent) -> None:
        lines = self.lines()
        high = min(float(look.px(20)), (self.height() - 4) / max(1, len(lines)))
        top = 6 if high > look.px(15) else 2
        font = look.font(9 if high > look.px(15) else 8 if high > look.px(12) else 7 if high > look.px(9) else 6)
        letters = (tuple(place for place, _, _ in lines), self.size(), self.look, font)
        if self._ground is None or self._ground_for != letters:
            self._ground, self._ground_for = self._painted_ground(letters[0], top, high, font), letters
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._ground)
        painter.setFont(font)
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(QColor(self.look.ink))
        for number, (_, value, _) in enumerate(lines):
            painter.drawText(QRectF(look.px(24), top + number * high, look.px(56), high), flags, value)
        painter.setPen(QColor(self.look.soft))
        for number, (_, _, difference) in enumerate(lines):
            if difference:
                painter.drawText(QRectF(look.px(80), top + number * high, ROOM.right - look.px(92), high), flags, difference)

    def _painted_ground(self, places: tuple[int, ...], top: float, high: float, font: QFont) -> QPixmap:
        """The paper with the letters, which stay while the cursor moves."""
        picture = QPixmap(self.size() * self.devicePixelRatio())
        picture.setDevicePixelRatio(self.devicePixelRatio())
        picture.fill(QColor(self.look.paper))
        painter = QPainter(picture)
        painter.setPen(QColor(self.look.grid))
        painter.drawLine(QPointF(0.5, 0), QPointF(0.5, self.height()))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font)
        for number, place in enumerate(places):
            painter.setPen(look.ink(self.look, place))
            painter.drawText(QRectF(14, top + number * high, look.px(20), high), Qt.AlignmentFlag.AlignVCenter, look.letter(place))
        painter.end()
        return picture


def signed(value: float) -> str:
    """Two decimals with a sign; a minus as wide as a plus."""
    if not np.isfinite(value):
        return "–"
    text = f"{value:+.2f}" if abs(value) < 1000 else f"{value:+.4g}"
    return text.replace("-", "−")


class Titled(QWidget):
    """What both kinds of strips have: a title that is a menu, and the comparison that they draw."""

    def __init__(self, comparing: Comparing, title: str, unit: str, palette: look.Palette) -> None:
        super().__init__()
        self.setObjectName("strip")
        look.on_paper(self)
        self.comparing, self.session, self.look = comparing, comparing.session, palette
        self.setMinimumHeight(SHORTEST_STRIP)
        self._title = title
        self.title = QToolButton(self)
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.title.setToolTip("Show another channel here; add, move and remove strips")
        self.title.setAccessibleName(f"Strip {title}")
        self.title.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.unit = QLabel(unit, self)
        self.unit.setObjectName("soft")
        self.unit.setFont(look.font(8))
        # Known to be opaque, it is not painted again whenever the plot under it is.
        self.title.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.title.move(9, 3)
        self.unit.move(14, look.px(23))
        self.say_title()

    def say_title(self) -> None:
        text = f"Δ {self._title}" if self.comparing.differences else self._title
        metrics = self.title.fontMetrics()
        self.title.setText(metrics.elidedText(text, Qt.TextElideMode.ElideRight, ROOM.left - 40) + " ▾")
        self.title.adjustSize()

    def raise_titles(self) -> None:
        self.title.raise_()
        self.unit.raise_()


class Strip(Titled):
    """One channel of every tune over time."""

    def __init__(self, comparing: Comparing, axis: TimeAxis, channel: Channel, palette: look.Palette) -> None:
        super().__init__(comparing, channel.short_label, channel.unit, palette)
        self.axis, self.channel = axis, channel
        self.plot = StripView(self.session, axis, palette)
        self.plot.setAccessibleName(f"{channel.label} over time")
        self.readout = Readout(comparing, channel, palette)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.readout)
        self.raise_titles()
        self.curves = Curves(self.plot, self._over_time)
        self.wakes = Curves(self.plot, self._over_time, wake=True)
        self.cursor_item = CursorItem(self.plot.box, palette)
        self.plot.addItem(self.cursor_item, ignoreBounds=True)

    def set_look(self, palette: look.Palette) -> None:
        self.look = self.readout.look = self.cursor_item.look = palette
        self.plot.set_look(palette)

    def show_time(self) -> None:
        self.plot.box.setXRange(self.axis.start, self.axis.end, padding=0)

    def _made_of(self) -> tuple[object, ...]:
        """All that a curve depends on beside its own trace; the shift of a tune follows from these."""
        comparing = self.comparing
        laid = comparing.differences or comparing.anchor != "start"
        return (comparing.anchor, comparing.differences, self.session.reference_shown if laid else None)

    def draw(self) -> None:
        """Redraw the curves from the session's traces."""
        self.curves.show(self.session.shown, self.look, self.comparing.drawing, *self._made_of())
        self.draw_wake()

    def draw_wake(self) -> None:
        """The curves as they were when the last edit began, pale, where they are other than now."""
        self.wakes.show(self.session.wake_shown, self.look, "lines", *self._made_of())

    def _over_time(self, shown: Shown) -> Curve:
        return self.comparing.over_time(shown, self.channel.column)

    def span(self) -> tuple[float, float]:
        """Least and greatest value that is drawn, and 0."""
        shown = (*self.session.shown, *self.session.wake)
        if not self.comparing.differences:
            return with_zero([one.trace.span(self.channel.column) for one in shown])
        return with_zero([finite_span(self._over_time(one)[1]) for one in shown])

    def fit_values(self, low: float, high: float) -> None:
        """Show these values with a little room."""
        if high - low < 1e-9:
            low, high = low - 1, high + 1
        # Rounded outward, so that the scale stands still while a number is dragged a little.
        step = round_step(high - low, 5) / 2
        low, high = (np.floor(low / step) - 0.3) * step, (np.ceil(high / step) + 0.5) * step
        if self.plot.box.viewRange()[1] != [low, high]:
            self.plot.box.setYRange(low, high, padding=0)

    def move_cursor(self) -> None:
        comparing, reference = self.comparing, self.session.reference_shown
        against = comparing.value(reference, self.channel.column) if comparing.differences and reference else 0.0
        spots: list[tuple[int, float]] = []
        for shown in self.session.shown:
            value = comparing.value(shown, self.channel.column) - against
            if np.isfinite(value):
                spots.append((shown.place, value))
        self.cursor_item.show_at(self.session.time_at(self.session.cursor), spots)
        self.readout.update()


class SpotsItem(pg.GraphicsObject):
    """Every tune's marker at the frame cursor, where time is no axis."""

    def __init__(self, palette: look.Palette) -> None:
        super().__init__()
        self.look = palette
        self._spots: list[tuple[int, QPointF]] = []
        self.setZValue(20)

    def show_spots(self, spots: list[tuple[int, QPointF]]) -> None:
        self.prepareGeometryChange()
        self._spots = spots
        self.update()

    def boundingRect(self) -> QRectF:
        box = self.getViewBox()
        return QRectF() if box is None else QRectF(box.viewRect())

    def paint(self, painter: QPainter, *_: object) -> None:
        transform = painter.transform()
        painter.resetTransform()
        painter.setBrush(QColor(self.look.paper))
        for place, spot in self._spots:
            painter.setPen(QPen(look.ink(self.look, place), 1.6))
            painter.drawPath(look.shape(place, 10).translated(transform.map(spot)))


class PhaseStrip(Titled):
    """One channel of every tune against another, frame by frame; the markers stand at the frame cursor."""

    def __init__(self, comparing: Comparing, phase: Phase, palette: look.Palette) -> None:
        super().__init__(comparing, phase.label, f"up: {phase.up.unit}, across: {phase.across.unit}", palette)
        self.phase = phase
        self.plot = PlotOnPaper(palette, bottom=True)
        self.plot.getPlotItem().getAxis("left").setWidth(look.px(44))
        self.plot.setAccessibleName(phase.label)
        # Seen from above, a direction on the paper is a direction of the way: the scales must be equal.
        from_above = self.session.drill is not None and self.session.drill.view == "top"
        self.plot.box.setAspectLocked(from_above and phase.up.unit == phase.across.unit)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, look.px(38), 0, 0)
        layout.addWidget(self.plot)
        self.raise_titles()
        self.curves = Curves(self.plot, self._path, over_time=False)
        self.wakes = Curves(self.plot, self._path, wake=True, over_time=False)
        self.spots = SpotsItem(palette)
        self.plot.addItem(self.spots, ignoreBounds=True)

    def say_title(self) -> None:
        self.title.setText(f"{self._title} ▾")
        self.title.adjustSize()
        self.unit.adjustSize()

    def set_look(self, palette: look.Palette) -> None:
        self.look = self.spots.look = palette
        self.plot.set_look(palette)

    def _path(self, shown: Shown) -> Curve:
        return shown.trace[self.phase.across.column], shown.trace[self.phase.up.column]

    def draw(self) -> None:
        self.curves.show(self.session.shown, self.look, "points" if self.comparing.drawing == "points" else "lines")
        self.draw_wake()
        shown = (*self.session.shown, *self.session.wake)
        (left, right), (low, high) = (with_zero([one.trace.span(channel.column) for one in shown]) for channel in (self.phase.across, self.phase.up))
        wide, tall = max(right - left, 0.1) * 0.06, max(high - low, 0.1) * 0.08
        self.plot.box.setRange(QRectF(left - wide, low - tall, right - left + 2 * wide, high - low + 2 * tall), padding=0)

    def draw_wake(self) -> None:
        self.wakes.show(self.session.wake_shown, self.look)

    def move_cursor(self) -> None:
        comparing = self.comparing
        columns = (self.phase.across.column, self.phase.up.column)
        spots = [(shown.place, QPointF(*(comparing.value(shown, column) for column in columns))) for shown in self.session.shown]
        self.spots.show_spots(spots)


class Strips(QWidget):
    """The stack of strips, phases side by side under those over time. Each one's title opens a menu."""

    def __init__(self, comparing: Comparing, axis: TimeAxis, palette: look.Palette, ruler: QWidget, channels: Sequence[Channel | Phase]) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing, self.session, self.axis, self.look = comparing, comparing.session, axis, palette
        self._stack = QSplitter(Qt.Orientation.Vertical)
        self._stack.setObjectName("stack")
        self._stack.setHandleWidth(4)
        self._stack.setChildrenCollapsible(False)
        self._side_by_side = QSplitter(Qt.Orientation.Horizontal)
        self._side_by_side.setHandleWidth(2)
        self._side_by_side.setChildrenCollapsible(False)
        self._over_time = QWidget()
        layout = QVBoxLayout(self._over_time)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._stack, 1)
        layout.addWidget(ruler)
        self._both = QSplitter(Qt.Orientation.Vertical)
        self._both.setHandleWidth(2)
        self._both.setChildrenCollapsible(False)
        self._both.addWidget(self._over_time)
        self._both.addWidget(self._side_by_side)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._both)
        self._all: list[Strip | PhaseStrip] = []
        self.show_channels(channels)
        session = self.session
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self._draw_wake)
        session.cursor_moved.connect(self._move_cursor)
        comparing.changed.connect(self._compare_anew)
        axis.changed.connect(self._show_time)

    @property
    def strips(self) -> list[Strip]:
        return [strip for strip in self._all if isinstance(strip, Strip)]

    @property
    def phases(self) -> list[PhaseStrip]:
        return [strip for strip in self._all if isinstance(strip, PhaseStrip)]

    @property
    def channels(self) -> list[Channel | Phase]:
        return [strip.channel if isinstance(strip, Strip) else strip.phase for strip in self._all]

    def show_channels(self, channels: Sequence[Channel | Phase]) -> None:
        """Show just these, in this order; the phases go below, side by side."""
        ordered: list[Channel | Phase] = [*(each for each in channels if isinstance(each, Channel)), *(each for each in channels if isinstance(each, Phase))]
        if self.channels == ordered:
            return
        for gone in self._all:
            gone.hide()
            gone.setParent(None)
            gone.deleteLater()
        self._all = [
            Strip(self.comparing, self.axis, each, self.look) if isinstance(each, Channel) else PhaseStrip(self.comparing, each, self.look)
            for each in ordered
        ]
        for over_time in self.strips:
            self._stack.addWidget(over_time)
        for phase in self.phases:
            self._side_by_side.addWidget(phase)
        self._side_by_side.setVisible(bool(self.phases))
        self._over_time.setVisible(bool(self.strips))
        self._stack.setSizes([100] * len(self.strips))
        self._both.setSizes([100 + 60 * len(self.strips), 300])
        for place, strip in enumerate(self._all):
            strip.title.setMenu(self._menu(place))
            strip.set_look(self.look)
        self._show_time()
        self.draw()

    def _menu(self, place: int) -> QMenu:
        channels = self.channels
        menu = QMenu(self)
        everything: list[Channel | Phase] = [*CHANNELS, *PHASES]
        for each in everything:
            if each not in channels and isinstance(each, Channel) is isinstance(channels[place], Channel):
                menu.addAction(each.label, partial(self._later, [*channels[:place], each, *channels[place + 1 :]]))
        menu.addSeparator()
        more = menu.addMenu("Add a strip below")
        for each in everything:
            if each not in channels and len(channels) < MOST_STRIPS:
                more.addAction(each.label, partial(self._later, [*channels[: place + 1], each, *channels[place + 1 :]]))
        for words, to in (("Move up", place - 1), ("Move down", place + 1)):
            moved = list(channels)
            if 0 <= to < len(channels):
                moved.insert(to, moved.pop(place))
            move = menu.addAction(words, partial(self._later, moved))
            move.setEnabled(0 <= to < len(channels) and isinstance(channels[to], Channel) is isinstance(channels[place], Channel))
        remove = menu.addAction("Remove this strip", partial(self._later, [*channels[:place], *channels[place + 1 :]]))
        remove.setEnabled(len(channels) > 1)
        return menu

    def _later(self, channels: list[Channel | Phase]) -> None:
        # The menu that asked belongs to a strip that goes: it must close first.
        QTimer.singleShot(0, self, lambda: self.show_channels(channels))

    def draw(self) -> None:
        for strip in self._all:
            strip.draw()
        self._fit_values()
        self._move_cursor()

    def _fit_values(self) -> None:
        """Each strip its own scale, or all strips of a unit the same."""
        spans = {strip: strip.span() for strip in self.strips}
        for strip, (low, high) in spans.items():
            if self.comparing.shared_scale:
                alike = [span for other, span in spans.items() if other.channel.unit == strip.channel.unit]
                low, high = min(span[0] for span in alike), max(span[1] for span in alike)
            strip.fit_values(low, high)

    def _draw_wake(self) -> None:
        for strip in self._all:
            strip.draw_wake()

    def _compare_anew(self) -> None:
        for strip in self._all:
            strip.say_title()
        self.draw()

    def _move_cursor(self, *_: object) -> None:
        for strip in self._all:
            strip.move_cursor()

    def _show_time(self) -> None:
        for strip in self.strips:
            strip.show_time()

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        for strip in self._all:
            strip.set_look(palette)
        self.draw()
