"""The state lanes: each tune's states, and its coyote and buffer windows with what was left of them."""

from __future__ import annotations

import math
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.compare.time_axis_widget import OnTimeAxis
from cinetica.desk.paint.canvas import PIXELS, Box, Canvas
from cinetica.desk.paint.layer_cache import Layer, LayerCache
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import plain_tip
from cinetica.motion.records import STATES
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.spans import GRACE_WORDS, Grace, Span, grace_spans, state_runs, state_spans

# A stretch of a lane: left and right, in pixels.
Stretch = tuple[float, float]
HATCHES = {"coyote": Qt.BrushStyle.BDiagPattern, "buffer": Qt.BrushStyle.FDiagPattern}
# Of 255, for each of the states.
ALPHAS = [{"ground": 36, "rise": 120, "fall": 74, "climb": 150, "wall": 98, "dash": 190}[state] for state in STATES]


class States(OnTimeAxis):
    """One lane for each tune."""

    def __init__(self, session: Session, axis: TimeAxis, comparing: Comparing) -> None:
        super().__init__(session, axis)
        self.comparing = comparing
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("States of the tunes")
        self._spans: dict[int, tuple[TuneRun, list[Span], list[Grace]]] = {}
        self._cache = LayerCache()
        session.cursor_moved.connect(self.move_cursor)
        session.figures_changed.connect(self._resize)
        session.drill_changed.connect(self._resize)
        comparing.changed.connect(self.update)

    def _resize(self) -> None:
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.update()

    @property
    def lane(self) -> int:
        """The height of a lane, lower if there are many tunes."""
        return look.height(8) + (look.px(6) if len(self.session.shown) < 5 else look.px(2))

    @override
    def sizeHint(self) -> QSize:
        return QSize(
            ROOM.left + ROOM.right + 40, max(self.lane * max(1, len(self.session.shown)), look.height(9, bold=True)) + 8
        )

    minimumSizeHint = sizeHint

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        comparing, axis, reference = self.comparing, self.axis, self.session.reference_shown
        along = self._along
        laid = (axis.start, axis.end, comparing.anchor, reference if comparing.anchor != "start" else None)
        titles = (along, reference.place if reference else None, len(self.session.shown))
        layers = [Layer(titles, self._draw_titles)]
        # The first tune, which is dragged most, comes last: the lanes below it in the list are kept.
        layers += [
            Layer((*_lane_key(one), *laid), partial(self._draw_lane, one, number * along.lane, along))
            for number, one in reversed(list(enumerate(self.session.shown)))
        ]
        layers.append(Layer(None, self._draw_cursor))
        with QPainter(self) as painter:
            self._cache.paint(painter, QRectF(self.rect()), look.color(look.worn().paper), layers)

    def _draw_titles(self, canvas: Canvas) -> None:
        palette, left = look.worn(), self.width() - ROOM.right
        canvas.text("State", look.px(18), self.lane / 2, 9, look.color(palette.accent), bold=True)
        canvas.box((left, self.height(), left + 1, 0), PIXELS, look.color(palette.grid))
        reference = self.session.reference_shown
        if reference is not None:
            words, soft, middle = (
                f"minus {look.letter(reference.place)}",
                look.color(palette.soft),
                self._readout_middle,
            )
            canvas.text("at frame", left + look.px(14), middle, 8, soft)
            if len(self.session.shown) > 1:
                canvas.text(words, self.width() - look.px(12) - look.width(words, 8), middle, 8, soft)

    @property
    def _readout_middle(self) -> float:
        return self.height() - look.height(8) / 2 - 4

    def _draw_cursor(self, canvas: Canvas) -> None:
        x, palette, session = self.cursor_x, look.worn(), self.session
        if session.reference_shown is not None:
            frame = str(session.cursor)
            end = self.width() - ROOM.right + look.px(14) + look.width("at frame ", 8) + look.width(frame, 8)
            canvas.figure(frame, end, self._readout_middle, 8, look.color(palette.soft))
        canvas.box((x, self.height(), x + 1, 0), PIXELS, look.color(palette.ink))

    @property
    def _along(self) -> _Along:
        first, last = ROOM.left, self.width() - ROOM.right
        long = self.axis.end - self.axis.start
        words = tuple(look.width(state, 8) + 8 for state in STATES)
        return _Along(first, last, (last - first) / long, long / max(1, last - first), words, self.lane)

    def _draw_lane(self, shown: TuneRun, top: int, along: _Along, canvas: Canvas) -> None:
        letter, ink = look.letter(shown.place), look.ink(look.worn(), shown.place)
        canvas.text(letter, ROOM.left - 8 - look.width(letter, 9, bold=True), top + along.lane / 2, 9, ink, bold=True)
        delay = self.comparing.delay(shown)
        view = (self.axis.start + delay, self.axis.end + delay)
        graces = grace_spans(shown.trace, least=along.pixel, view=view)
        whole = [along.stretch(window.start - view[0], window.full_end - view[0]) for window in graces]
        _draw_states(canvas, shown, view, along, top, whole)
        for window, (left, right) in zip(graces, whole, strict=True):
            if right > left:
                _, used = along.stretch(window.start - view[0], window.end - view[0])
                box = (left, top + along.lane - 2, right + 1, top + 2)
                _draw_grace(canvas, box, used, ink, HATCHES[window.word])

    def spans_of(self, shown: TuneRun) -> tuple[list[Span], list[Grace]]:
        """The states and windows of a tune."""
        kept = self._spans.get(shown.place)
        if kept is None or kept[0] is not shown:
            kept = (shown, state_spans(shown.trace), grace_spans(shown.trace))
            self._spans[shown.place] = kept
        return kept[1], kept[2]

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to_cursor(event)
        self.setToolTip(plain_tip(self.words_at(event.position())))

    def words_at(self, at: QPointF) -> str:
        """What is under the mouse, in words."""
        number = int(at.y() // self.lane)
        if not 0 <= number < len(self.session.shown):
            return ""
        shown = self.session.shown[number]
        time = self.axis.time(at.x(), self.width()) + self.comparing.delay(shown)
        spans, grace = self.spans_of(shown)
        for window in grace:
            if window.start <= time <= window.full_end:
                words = _grace_words(window, shown, self.session.units)
                return f"{shown.tune.name}: {GRACE_WORDS[window.word]}, {words}"
        return next(
            (
                f"{shown.tune.name}: {span.word}, {self.session.units.time(span.end - span.start)}"
                for span in spans
                if span.start <= time <= span.end
            ),
            "",
        )


class _Along(NamedTuple):
    """The time axis across the lanes.

    The pixels where it begins and ends, pixels per second, seconds per pixel, the width of each state's word, and the
    height of a lane.
    """

    first: int
    last: int
    scale: float
    pixel: float
    words: tuple[int, ...]
    lane: int

    def stretch(self, start: float, end: float) -> Stretch:
        """From one time to another, in s from the left end, limited to the lanes."""
        left, right = self.first + start * self.scale, self.first + end * self.scale
        return max(left, float(self.first)), min(right, float(self.last)) - 1


def _draw_states(
    canvas: Canvas, shown: TuneRun, view: Stretch, along: _Along, top: int, covered: list[Stretch]
) -> None:
    """Draw a box for each state, with its word in the first part that no window covers, if there is room.

    Of several states that end within one pixel only the first is drawn.
    """
    ink, middle, before = look.color(look.worn().ink), top + along.lane / 2, -1
    boxes: dict[int, list[Box]] = {}
    words: list[tuple[str, float]] = []
    for code, start, end in state_runs(shown.trace):
        at = math.floor(end / along.pixel)
        if at > before and end > view[0] and start < view[1]:
            left, right = along.stretch(max(start, view[0]) - view[0], end - view[0])
            if right > left:
                boxes.setdefault(code, []).append((left, top + along.lane - 2, right, top + 2))
                left, right = _uncovered(left, right, covered)
                if right - left > along.words[code]:
                    words.append((STATES[code], left + 5))
        before = at
    for code, of_state in boxes.items():
        canvas.boxes(of_state, PIXELS, look.ink(look.worn(), shown.place, ALPHAS[code]))
    for word, left in words:
        canvas.text(word, left, middle, 8, ink)


def _uncovered(left: float, right: float, covered: list[Stretch]) -> Stretch:
    """The part of a stretch before the first window that covers it, or after those that cover its beginning."""
    for begin, over in covered:
        if begin <= left + 4 and over > left:
            left = min(over + 1, right)
        elif left < begin < right:
            right = begin
    return left, right


def _draw_grace(canvas: Canvas, box: Box, used: float, ink: QColor, hatch: Qt.BrushStyle) -> None:
    """Draw a window, with its unused rest as an empty box.

    Coyote time is hatched in one direction, the jump buffer in the other.
    """
    left, low, _, up = box
    canvas.box(box, PIXELS, look.color(look.worn().paper))
    if used > left:
        canvas.box((left, low, used, up), PIXELS, QBrush(ink, hatch))
    canvas.box(box, PIXELS, None, ink)


def _lane_key(shown: TuneRun) -> tuple[object, ...]:
    """Everything that a lane shows of a trace: most drags change the path, not the events on it."""
    trace, take = shown.trace, shown.trace.drill.take
    _times, happened, _places, turns = trace.events
    # The times of all rows, which follow from these but in a log.
    times = trace["time"].tobytes() if trace.logged else (trace.clock, take.rate, take.length)
    first = trace.value("state", 1) if len(trace) > 1 else None
    return shown.place, times, first, turns, happened, trace.drill.view, shown.tune.jump


def _grace_words(window: Grace, shown: TuneRun, units: DisplayUnits) -> str:
    length = units.time(window.full_end - window.start)
    if not window.used:
        return f"{length}, not used"
    dt = float(shown.trace["dt"][1:].mean())
    return f"used with {units.time(window.left)} left of {length} ({round(window.left / dt)} ticks)"
