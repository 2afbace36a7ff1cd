"""The strips: channels over time and against each other, every tune's curve, the wake, and the readout."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QSizePolicy, QSplitter, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.compare.time_axis_widget import turn_axis
from cinetica.desk.match.drawing import GRIP, WantedEditor, WantedItem, as_channel
from cinetica.desk.paint.canvas import PIXELS, Canvas
from cinetica.desk.paint.cursor import Spots
from cinetica.desk.paint.curves import Curves, with_zero
from cinetica.desk.paint.grid import Grid
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.paint.off_course import deepest_followed, followed_span
from cinetica.desk.paint.plot import PaperPlot
from cinetica.desk.paint.plot_layers import PlotLayers
from cinetica.desk.paint.steps import round_step
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import OpensButton, PlainLabel, button, plain_tip
from cinetica.model.drawing import Channel as WantedChannel
from cinetica.model.value_text import SMALL
from cinetica.model.world_size import SMALL_WORLD, world_size
from cinetica.motion.polyline import Points
from cinetica.motion.simulate import span_of
from cinetica.reading.channels import CHANNELS, PHASES, Channel, Phase

MOST_STRIPS = 8
FLAT_TIP = "This curve stays flat on this drill. Click to show it."
# QWIDGETSIZE_MAX: no limit.
NO_LIMIT = (1 << 24) - 1


NUDGES = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class StripView(PaperPlot):
    """The plot of one strip. A drag moves the frame cursor; the wheel zooms the shared axis."""

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__()
        self.session, self.axis = session, axis
        # What draws the wanted curve, and its channel; None where it cannot be drawn.
        self.wanted: tuple[WantedEditor, WantedChannel] | None = None
        self.set_numbers_width(ROOM.numbers)

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(ROOM.numbers + 40, 2 * look.height(8))

    def _time(self, x: float) -> float:
        return float(self.box.mapSceneToView(QPointF(x, 0)).x())

    @property
    def _drawing(self) -> tuple[WantedEditor, WantedChannel] | None:
        return self.wanted if self.wanted is not None and self.wanted[0].on else None

    def _place(self, event: QMouseEvent) -> QPointF:
        return QPointF(self.box.mapSceneToView(self.mapToScene(event.position().toPoint())))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (drawing := self._drawing) and event.button() == Qt.MouseButton.LeftButton:
            rect, at = self.box.viewRect(), self._place(event)
            reach = QPointF(GRIP * rect.width() / max(1, self.width()), GRIP * rect.height() / max(1, self.height()))
            drawing[0].press(drawing[1], at.x(), at.y(), reach)
            self.setFocus()
        else:
            self._to_cursor(event)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if (drawing := self._drawing) and event.buttons() & Qt.MouseButton.LeftButton:
            at = self._place(event)
            drawing[0].move(drawing[1], at.x(), at.y())
        else:
            self._to_cursor(event)

    def _to_cursor(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.session.set_cursor(self.axis.row_at(self._time(event.position().x())))

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if drawing := self._drawing:
            drawing[0].release()
        event.accept()

    @override
    def event(self, event: QEvent) -> bool:
        # While a point is selected the arrows move it, and Delete removes it.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and self._drawing:
            if self._drawing[0].selected is not None and (event.key() in NUDGES or event.key() == Qt.Key.Key_Delete):
                event.accept()
                return True
        return bool(super().event(event))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        drawing = self._drawing
        if drawing and event.key() == Qt.Key.Key_Delete:
            drawing[0].remove()
        elif drawing and event.key() in NUDGES:
            drawing[0].nudge(*NUDGES[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_axis(self.axis, event, self._time(event.position().x()))


class Now(NamedTuple):
    """What all strips show.

    The runs, those of the wake, everything else that a curve depends on (which also gives the alignment), the
    reference, and the time under the cursor.
    """

    shown: list[TuneRun]
    wake: list[TuneRun]
    also: tuple[object, ...]
    reference: TuneRun | None
    time: float


class Readout(QWidget):
    """Every tune's value at the cursor, and its difference from the reference."""

    def __init__(self, comparing: Comparing, channel: Channel) -> None:
        super().__init__()
        self.comparing, self.session, self.channel = comparing, comparing.session, channel
        self.setFixedWidth(ROOM.right)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(f"Readout of {channel.label}")
        self._cache = LayerCache()
        self._shown_lines: list[tuple[int, str, str]] = []
        # The values that were last found to give the same text.
        self._seen: object = None

    def lines(self) -> list[tuple[int, str, str]]:
        """Place, value and difference from the reference for each visible tune."""
        reference = self.session.reference_shown
        if reference is None:
            return []
        values = self.comparing.values(self.channel.column)
        reference_value = values[self.session.shown.index(reference)]
        scale = self.session.units.column(self.channel.column)
        places = decimals_of(scale.unit, scale.change(world_size(reference.tune)))
        return [
            (
                shown.place,
                signed(scale.shown(value), places),
                "" if shown is reference else signed(scale.change(value - reference_value), places),
            )
            for shown, value in zip(self.session.shown, values, strict=True)
        ]

    def follow(self, values: list[float], now: Now) -> None:
        """Repaint if the text changes; `values` are those under the cursor."""
        places = [shown.place for shown in now.shown]
        seen = (values, places, now.reference and now.reference.place, self.session.units)
        if seen != self._seen:
            self._seen = seen
            if self._shown_lines != self.lines():
                self.update()

    def needed(self) -> int:
        """The height of the lines of all tunes."""
        return len(self.session.shown) * look.height(8) + 6

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        places = tuple(shown.place for shown in self.session.shown)
        layers = [Layer((places, self.height()), self._draw_letters), Layer(None, self._draw_figures)]
        with QPainter(self) as painter:
            self._cache.paint(painter, QRectF(self.rect()), look.color(look.palette().paper), layers)

    def _rows(self, count: int) -> tuple[int, float, float]:
        """The text size, the height of a line, and the middle of the first."""
        tall = self.height()
        size = 9 if count * look.height(9) + 8 <= tall else 8
        # On whole pixels, so that lines stand evenly.
        high = min(look.height(size) + look.px(4), (tall - 4) // max(1, count))
        return size, high, (6 if count * high + 8 <= tall else 3) + high / 2

    def _draw_letters(self, canvas: Canvas) -> None:
        palette, letter = look.palette(), look.width("W", 9)
        edges = ((0.0, 0.0, 1.0, self.height()), (1.0, 0.0, self.width(), 1.0))
        canvas.boxes(edges, PIXELS, look.color(palette.grid))
        size, high, middle = self._rows(len(self.session.shown))
        for shown in self.session.shown:
            ink = look.ink(palette, shown.place)
            canvas.word(look.letter(shown.place), look.px(14) + letter / 2, middle, size, ink)
            middle += high

    def _draw_figures(self, canvas: Canvas) -> None:
        palette, first = look.palette(), look.px(14) + look.width("W", 9)
        ink, soft = look.color(palette.ink), look.color(palette.soft)
        lines = self._shown_lines = self.lines()
        size, high, middle = self._rows(len(lines))
        figure = (self.width() - first - look.px(20)) / 2
        values = first + look.px(6)
        for _place, value, difference in lines:
            canvas.figure(value, values + figure - look.px(3), middle, size, ink)
            if difference:
                canvas.figure(difference, values + 2 * figure, middle, size, soft)
            middle += high


def decimals_of(unit: str, size: float) -> int:
    """How many decimals a readout has: more for lengths and speeds of a small world, where a usual one is `size`."""
    return 4 if unit.startswith(SMALL) and abs(size) < SMALL_WORLD else 2


def signed(value: float, decimals: int = 2) -> str:
    """A figure with its sign, no wider than WIDEST_FIGURE, with a minus as wide as a plus."""
    if not math.isfinite(value):
        return "–"
    size = abs(value)
    text = (
        f"{value:+.{decimals}f}"
        if size < (999.995 if decimals == 2 else 9.99995)
        else f"{value:+.2f}"
        if size < 999.995
        else f"{value:+.0f}"
        if size < 999_999.5
        else f"{value:+.0e}".replace("e+0", "e").replace("e+", "e")
    )
    return text.replace("-", "−")


class Titled(QWidget):
    """What both kinds of strips share: a title that is a menu, and the comparison that they draw."""

    def __init__(self, comparing: Comparing, title: str) -> None:
        super().__init__()
        self.setObjectName("strip")
        look.on_paper(self)
        self.comparing, self.session = comparing, comparing.session
        self._title = title
        self.title = OpensButton()
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.title.setToolTip(plain_tip(f"{title}. Show another channel here; add, move and remove strips"))
        self.title.setAccessibleName(f"Strip {title}")
        self.unit = PlainLabel("")
        self.unit.setObjectName("soft")
        self.unit.setFont(look.font(8))
        self.unit.setContentsMargins(look.px(6), 0, 0, 0)
        self.update_title()

    def update_title(self) -> None:
        """Update the title."""
        self.title.setText(f"Δ {self._title}" if self.comparing.differences else self._title)


class Strip(Titled):
    """One channel of every tune over time."""

    def __init__(
        self, comparing: Comparing, axis: TimeAxis, channel: Channel, wanted: WantedEditor | None = None
    ) -> None:
        super().__init__(comparing, channel.short_label)
        self.axis, self.channel = axis, channel
        self.title.setToolTip(f"{channel.label}. Show another channel here; add, move and remove strips")
        self.plot = StripView(self.session, axis)
        self._fitted = (0.0, 0.0)
        self.plot.setAccessibleName(f"{channel.label} over time")
        self.readout = Readout(comparing, channel)
        titles = QWidget()
        titles.setFixedWidth(ROOM.titles)
        column = QVBoxLayout(titles)
        column.setContentsMargins(look.px(8), 3, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.title, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.unit)
        column.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.flat = button("stays 0 on this drill", FLAT_TIP, self.unfold)
        self.flat.hide()
        layout.addWidget(titles)
        layout.addWidget(self.flat, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.readout)
        # Where the plot is hidden.
        layout.addStretch(0)
        self.curves = Curves(self._over_time)
        self.wakes = Curves(self._over_time, wake=True, under=self.curves)
        self.spots = Spots()
        self.layers = PlotLayers(self.plot.box, [Grid(self.plot.scales)], [self.wakes], [self.curves], [self.spots])
        drawn = as_channel(channel.column)
        if wanted is not None and drawn is not None:
            self.plot.wanted = (wanted, drawn)
            self.plot.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            self.plot.box.addItem(WantedItem(wanted, drawn), ignoreBounds=True)
        self.update_units()

    def update_units(self) -> None:
        """Show the numbers in the units of the study."""
        scale = self.session.units.column(self.channel.column)
        self.unit.setText(scale.unit)
        # A difference has no direction of its own.
        up = replace(scale, zero=0.0, turn=0.0) if self.comparing.differences else scale
        self.plot.show_in(self.session.units.scale("s"), up)
        self._fitted = (0.0, 0.0)
        self.readout.update()
        self.layers.refresh()

    @property
    def is_folded(self) -> bool:
        """Whether only a line is shown."""
        return not self.flat.isHidden()

    def fold(self) -> None:
        """Show only a line, since all curves stay 0."""
        if not self.is_folded:
            self._show_plot(False)

    def unfold(self) -> None:
        """Show the curves."""
        if self.is_folded:
            self._show_plot(True)

    def _show_plot(self, on: bool) -> None:
        for widget in (self.plot, self.readout, self.unit):
            widget.setVisible(on)
        self.flat.setVisible(not on)
        self.setMaximumHeight(NO_LIMIT if on else self.minimumSizeHint().height())
        self.updateGeometry()

    @override
    def minimumSizeHint(self) -> QSize:
        if self.is_folded:
            return QSize(ROOM.left + ROOM.right + 40, self.title.sizeHint().height() + 4)
        titles = self.title.sizeHint().height() + self.unit.sizeHint().height() + 4
        return QSize(ROOM.left + ROOM.right + 40, max(titles, self.readout.needed(), 3 * look.height(8)))

    def show_time(self) -> None:
        """Show the current stretch of time."""
        self.plot.box.setXRange(self.axis.start, self.axis.end, padding=0)

    def draw(self, now: Now) -> None:
        """Draw the curves of the current traces."""
        if self.curves.show(now.shown, self.comparing.drawing, *now.also):
            self.layers.refresh()
        self.draw_wake(now)

    def draw_wake(self, now: Now) -> None:
        """Draw the changed curves as they were when the last edit began, pale."""
        if self.wakes.show(now.wake, "lines", *now.also):
            self.layers.refresh()

    def _over_time(self, shown: TuneRun) -> Points:
        return self.comparing.line(shown, self.channel.column)

    def span(self, now: Now) -> tuple[float, float]:
        """The least and greatest value drawn, including 0."""
        shown = (*now.shown, *now.wake)
        if not self.comparing.differences:
            deepest = deepest_followed(self.comparing.session.drill, now.shown)
            drawn = [value for _, value in self.plot.wanted[0].points(self.channel.column)] if self.plot.wanted else []
            wanted = [(min(drawn), max(drawn))] if drawn else []
            return with_zero([*(followed_span(one, self.channel.column, deepest) for one in shown), *wanted])
        return with_zero([span_of(self._over_time(one).y) for one in shown])

    def fit_values(self, low: float, high: float) -> None:
        """Show these values with a margin."""
        if high - low < 1e-9:
            low, high = low - 1, high + 1
        # Rounded outward, so that the scale stands still while a number is dragged a little.
        factor = abs(self.plot.scales.up.factor)
        step = round_step((high - low) * factor, 5) / 2 / factor
        low, high = (math.floor(low / step) - 0.3) * step, (math.ceil(high / step) + 0.5) * step
        if (low, high) != self._fitted:
            self._fitted = (low, high)
            self.plot.box.setYRange(low, high, padding=0)

    def move_cursor(self, now: Now) -> None:
        """Draw the values at the frame cursor."""
        comparing, reference, time = self.comparing, now.reference, now.time
        reference_value = (
            comparing.value(reference, self.channel.column) if comparing.differences and reference else 0.0
        )
        values = comparing.values(self.channel.column)
        if self.spots.show_at(
            [
                (one.place, time, at - reference_value)
                for one, at in zip(now.shown, values, strict=True)
                if math.isfinite(at)
            ],
            time,
        ):
            self.layers.refresh()
        self.readout.follow(values, now)


class PhaseStrip(Titled):
    """One channel of every tune against another, frame by frame; the markers are at the frame cursor."""

    def __init__(self, comparing: Comparing, phase: Phase) -> None:
        super().__init__(comparing, phase.label)
        self.phase = phase
        self.plot = PaperPlot(bottom=True)
        self.plot.setAccessibleName(phase.label)
        # From above, directions on the paper are directions of motion: both scales must be equal.
        from_above = self.session.drill is not None and self.session.drill.view == "top"
        self.plot.box.setAspectLocked(from_above and phase.up.unit == phase.across.unit)
        titles = QHBoxLayout()
        titles.setContentsMargins(look.px(8), 0, look.px(8), 0)
        titles.addWidget(self.title)
        titles.addWidget(self.unit)
        titles.addStretch(1)
        self.unit.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 3, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(titles)
        layout.addWidget(self.plot, 1)
        self.curves = Curves(self._path, over_time=False)
        self.wakes = Curves(self._path, wake=True, over_time=False, under=self.curves)
        self.spots = Spots()
        self.layers = PlotLayers(self.plot.box, [Grid(self.plot.scales)], [self.wakes], [self.curves], [self.spots])
        self.update_units()

    def update_units(self) -> None:
        """Show the numbers in the units of the study."""
        across, up = (self.session.units.column(each.column) for each in (self.phase.across, self.phase.up))
        self.unit.setText(f"up: {up.unit}, across: {across.unit}")
        self.plot.show_in(across, up)
        self.layers.refresh()

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(self.title.sizeHint().width() + look.px(16), self.title.sizeHint().height() + 8 * look.height(8))

    @override
    def update_title(self) -> None:
        self.title.setText(self._title)

    def _path(self, shown: TuneRun) -> Points:
        return shown.trace.points(self.phase.across.column, self.phase.up.column)

    def draw(self, now: Now) -> None:
        """Draw the curves of the current traces."""
        if self.curves.show(now.shown, "points" if self.comparing.drawing == "points" else "lines"):
            self.layers.refresh()
        self.draw_wake(now)
        shown = (*now.shown, *now.wake)
        (left, right), (low, high) = (
            with_zero([one.trace.span(channel.column) for one in shown])
            for channel in (self.phase.across, self.phase.up)
        )
        wide, tall = ((right - left) or 0.1) * 0.06, ((high - low) or 0.1) * 0.08
        self.plot.box.setRange(
            QRectF(left - wide, low - tall, right - left + 2 * wide, high - low + 2 * tall), padding=0
        )

    def draw_wake(self, now: Now) -> None:
        """Draw the wake."""
        if self.wakes.show(now.wake):
            self.layers.refresh()

    def move_cursor(self, now: Now) -> None:
        """Move the markers to the frame cursor."""
        across, up = (self.comparing.values(each.column) for each in (self.phase.across, self.phase.up))
        places = (shown.place for shown in now.shown)
        if self.spots.show_at(list(zip(places, across, up, strict=True))):
            self.layers.refresh()


def _splitter(orientation: Qt.Orientation, handle: int) -> QSplitter:
    splitter = QSplitter(orientation)
    splitter.setHandleWidth(handle)
    splitter.setChildrenCollapsible(False)
    return splitter


class Strips(QWidget):
    """The stack of strips, with phases side by side below those over time. Each title opens a menu."""

    def __init__(
        self,
        comparing: Comparing,
        axis: TimeAxis,
        ruler: QWidget,
        channels: Sequence[Channel | Phase],
        wanted: WantedEditor | None = None,
    ) -> None:
        super().__init__()
        look.on_paper(self)
        self._wanted = wanted
        self.comparing, self.session, self.axis = comparing, comparing.session, axis
        # The number of tunes that the readouts have room for.
        self._count = -1
        self._lay_out(ruler)
        self._all: list[Strip | PhaseStrip] = []
        self.show_channels(channels)
        self._listen()

    def _lay_out(self, ruler: QWidget) -> None:
        self._stack = _splitter(Qt.Orientation.Vertical, 4)
        self._stack.setObjectName("stack")
        self._side_by_side = _splitter(Qt.Orientation.Horizontal, 2)
        self._over_time = QWidget()
        layout = QVBoxLayout(self._over_time)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._stack, 1)
        layout.addWidget(ruler)
        self._both = _splitter(Qt.Orientation.Vertical, 2)
        self._both.addWidget(self._over_time)
        self._both.addWidget(self._side_by_side)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._both)

    def _listen(self) -> None:
        session, comparing = self.session, self.comparing
        session.units_changed.connect(self._update_units)
        session.drill_changed.connect(self._fold_flat)
        session.traces_changed.connect(self.draw)
        session.wake_changed.connect(self._draw_wake)
        session.cursor_moved.connect(self._move_cursor)
        if self._wanted is not None:
            self._wanted.changed.connect(self.draw)
        comparing.changed.connect(self._refresh_comparison)
        self.axis.changed.connect(self._show_time)
        for signal in (session.lit_changed, session.figures_changed, comparing.changed):
            signal.connect(self._light)

    def _light(self) -> None:
        """Highlight the frames that the figure under the pointer comes from."""
        lit = self.session.highlighted_rows
        band = None
        if lit is not None:
            shown, first, last = lit
            time, delay = shown.trace["time"], self.comparing.delay(shown)
            band = (shown.place, float(time[first]) - delay, float(time[last]) - delay)
        for strip in self.strips:
            if strip.spots.light(band):
                strip.layers.refresh()

    @property
    def strips(self) -> list[Strip]:
        """The strips over time."""
        return [strip for strip in self._all if isinstance(strip, Strip)]

    @property
    def phases(self) -> list[PhaseStrip]:
        """The phase strips."""
        return [strip for strip in self._all if isinstance(strip, PhaseStrip)]

    @property
    def channels(self) -> list[Channel | Phase]:
        """What the strips show, in order."""
        return [strip.channel if isinstance(strip, Strip) else strip.phase for strip in self._all]

    def show_channels(self, channels: Sequence[Channel | Phase]) -> None:
        """Show these, in this order; phases go below, side by side."""
        ordered: list[Channel | Phase] = [
            *(each for each in channels if isinstance(each, Channel)),
            *(each for each in channels if isinstance(each, Phase)),
        ]
        if self.channels == ordered:
            return
        for gone in self._all:
            gone.hide()
            gone.setParent(None)
            gone.deleteLater()
        self._all = [
            Strip(self.comparing, self.axis, each, self._wanted)
            if isinstance(each, Channel)
            else PhaseStrip(self.comparing, each)
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
            menu = QMenu(strip)
            menu.aboutToShow.connect(partial(self._fill_menu, menu, place))
            strip.title.setMenu(menu)
        self._show_time()
        self.draw()
        self._fold_flat()

    def _fold_flat(self) -> None:
        """Fold the strips over time in which nothing happens on this drill, unless it happens in none."""
        now = self._now
        if not now.shown:
            return
        flat = [strip for strip in self.strips if strip.span(now) == (0.0, 0.0)]
        for strip in self.strips:
            if strip in flat and len(flat) < len(self._all):
                strip.fold()
            else:
                strip.unfold()

    def _fill_menu(self, menu: QMenu, place: int) -> None:
        """Fill the menu of a strip just before it opens: its many actions would delay every window."""
        channels = self.channels
        for earlier in menu.findChildren(QMenu):
            earlier.deleteLater()
        menu.clear()
        instead, strips, phases = map(menu.addMenu, ("Show instead", "Add a strip below", "Add a phase below"))
        everything: list[Channel | Phase] = [*CHANNELS, *PHASES]
        others = [each for each in everything if each not in channels]
        before, here, after = channels[:place], channels[place], channels[place + 1 :]
        for each in others:
            if isinstance(each, Channel) is isinstance(here, Channel):
                instead.addAction(each.name, partial(self._later, [*before, each, *after]))
            below = strips if isinstance(each, Channel) else phases
            below.addAction(each.name, partial(self._later, [*before, here, each, *after]))
        for below in (strips, phases):
            below.setEnabled(len(channels) < MOST_STRIPS and not below.isEmpty())
        menu.addSeparator()
        for words, to in (("Move up", place - 1), ("Move down", place + 1)):
            moved = list(channels)
            if 0 <= to < len(channels):
                moved.insert(to, moved.pop(place))
            move = menu.addAction(words, partial(self._later, moved))
            move.setEnabled(
                0 <= to < len(channels) and isinstance(channels[to], Channel) is isinstance(channels[place], Channel)
            )
        remove = menu.addAction("Remove this strip", partial(self._later, [*channels[:place], *channels[place + 1 :]]))
        remove.setEnabled(len(channels) > 1)

    def _later(self, channels: list[Channel | Phase]) -> None:
        # The menu that asked belongs to a strip that goes: it must close first.
        QTimer.singleShot(0, self, lambda: self.show_channels(channels))

    @property
    def _now(self) -> Now:
        session, comparing = self.session, self.comparing
        reference, laid = session.reference_shown, comparing.differences or comparing.anchor != "start"
        also = (comparing.anchor, comparing.differences, reference if laid else None)
        return Now(session.shown, session.wake_shown, also, reference, session.time_at(session.cursor))

    def draw(self) -> None:
        """Draw the current traces."""
        now = self._now
        for strip in self._all:
            strip.draw(now)
        if len(self.session.shown) != self._count:
            self._count = len(self.session.shown)
            for strip in self._all:
                strip.updateGeometry()
        self._fit_values(now)
        for strip in self._all:
            strip.move_cursor(now)

    def _fit_values(self, now: Now) -> None:
        """Scale each strip separately, or all strips of a unit alike."""
        spans = {strip: strip.span(now) for strip in self.strips}
        for strip, (low, high) in spans.items():
            if (low, high) != (0.0, 0.0):
                strip.unfold()
            if self.comparing.shared_scale:
                alike = [span for other, span in spans.items() if other.channel.unit == strip.channel.unit]
                low, high = min(span[0] for span in alike), max(span[1] for span in alike)
            strip.fit_values(low, high)

    def _draw_wake(self) -> None:
        now = self._now
        for strip in self._all:
            strip.draw_wake(now)

    def _update_units(self) -> None:
        for strip in self._all:
            strip.update_units()
        self.draw()

    def _refresh_comparison(self) -> None:
        for strip in self._all:
            strip.update_title()
            strip.update_units()
        self.draw()

    def _move_cursor(self, *_: object) -> None:
        now = self._now
        for strip in self._all:
            strip.move_cursor(now)

    def _show_time(self) -> None:
        for strip in self.strips:
            strip.show_time()
