"""Lanes of named stretches of time, one lane for each tune: what states and poses have in common."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import ClassVar, NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
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

# A stretch of a lane: left and right, in pixels.
Stretch = tuple[float, float]
# A stretch of time with its code, from and to in s.
Run = tuple[int, float, float]


class Along(NamedTuple):
    """The time axis across the lanes.

    The pixels where it begins and ends, pixels per second, seconds per pixel, the width of each code's word, and the
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


class TuneLanes(OnTimeAxis):
    """One lane for each tune. `WORDS` are the codes' names, `ALPHAS` how dense each is painted, of 255."""

    TITLE: ClassVar[str]
    WORDS: ClassVar[Sequence[str]]
    ALPHAS: ClassVar[Sequence[int]]

    def __init__(self, session: Session, axis: TimeAxis, comparing: Comparing, name: str) -> None:
        super().__init__(session, axis)
        self.comparing = comparing
        # Whether the readouts are right below: it then shows their frame.
        self.heads_readouts = True
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(name)
        self._cache = LayerCache()
        session.cursor_moved.connect(self.move_cursor)
        session.figures_changed.connect(self._resize)
        session.drill_changed.connect(self._resize)
        comparing.changed.connect(self.update)

    # What subclasses define

    def runs_of(self, shown: TuneRun) -> Sequence[Run]:
        """The stretches of a tune's lane, in order of time."""
        raise NotImplementedError

    def lane_key(self, shown: TuneRun) -> tuple[object, ...]:
        """Everything that a lane shows of a tune."""
        raise NotImplementedError

    def draw_lane(self, shown: TuneRun, top: int, along: Along, canvas: Canvas) -> None:
        """Draw a tune's lane, `top` pixels from above."""
        raise NotImplementedError

    def lane_words(self, shown: TuneRun, time: float) -> str:
        """What is shown of a tune at a time, in words; empty if it is nothing."""
        raise NotImplementedError

    # The widget

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
        along = self.along
        laid = (axis.start, axis.end, comparing.anchor, reference if comparing.anchor != "start" else None)
        titles = (along, reference.place if reference else None, len(self.session.shown), self.heads_readouts)
        layers = [Layer(titles, self._draw_titles)]
        # The first tune, which is dragged most, comes last: the lanes below it in the list are kept.
        layers += [
            Layer((*self.lane_key(one), *laid), partial(self._draw_lane, one, number * along.lane, along))
            for number, one in reversed(list(enumerate(self.session.shown)))
        ]
        layers.append(Layer(None, self._draw_cursor))
        with QPainter(self) as painter:
            self._cache.paint(painter, QRectF(self.rect()), look.color(look.palette().paper), layers)

    def _draw_titles(self, canvas: Canvas) -> None:
        palette, left = look.palette(), self.width() - ROOM.right
        canvas.text(self.TITLE, look.px(18), self.lane / 2, 9, look.color(palette.accent), bold=True)
        canvas.box((left, self.height(), left + 1, 0), PIXELS, look.color(palette.grid))
        reference = self.session.reference_shown
        if reference is not None and self.heads_readouts:
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
        x, palette, session = self.cursor_x, look.palette(), self.session
        if session.reference_shown is not None and self.heads_readouts:
            frame = str(session.cursor)
            end = self.width() - ROOM.right + look.px(14) + look.width("at frame ", 8) + look.width(frame, 8)
            canvas.figure(frame, end, self._readout_middle, 8, look.color(palette.soft))
        canvas.box((x, self.height(), x + 1, 0), PIXELS, look.color(palette.ink))

    @property
    def along(self) -> Along:
        """The time axis across the lanes."""
        first, last = ROOM.left, self.width() - ROOM.right
        long = self.axis.end - self.axis.start
        words = tuple(look.width(word, 8) + 8 for word in self.WORDS)
        return Along(first, last, (last - first) / long, long / max(1, last - first), words, self.lane)

    def view_of(self, shown: TuneRun) -> Stretch:
        """The times of a tune's own trace between the ends of the axis, in s."""
        delay = self.comparing.delay(shown)
        return self.axis.start + delay, self.axis.end + delay

    def _draw_lane(self, shown: TuneRun, top: int, along: Along, canvas: Canvas) -> None:
        letter, ink = look.letter(shown.place), look.ink(look.palette(), shown.place)
        canvas.text(letter, ROOM.left - 8 - look.width(letter, 9, bold=True), top + along.lane / 2, 9, ink, bold=True)
        self.draw_lane(shown, top, along, canvas)

    def draw_runs(self, canvas: Canvas, shown: TuneRun, along: Along, top: int, covered: Sequence[Stretch]) -> None:
        """Draw a box for each stretch, with its word in the first part that nothing covers, if there is room.

        Stretches that are no wider than a pixel share it: it has the colour of the longest of them.
        """
        view = self.view_of(shown)
        ink, middle = look.color(look.palette().ink), top + along.lane / 2
        boxes: dict[int, list[Box]] = {}
        words: list[tuple[str, float]] = []
        narrow: list[Run] = []
        for code, start, end in self.runs_of(shown):
            if end <= view[0] or start >= view[1]:
                continue
            start, end = max(start, view[0]) - view[0], min(end, view[1]) - view[0]
            left, right = along.stretch(start, end)
            if right <= left:
                narrow.append((code, start, end))
                continue
            boxes.setdefault(code, []).append((left, top + along.lane - 2, right, top + 2))
            left, right = _uncovered(left, right, covered)
            if right - left > along.words[code]:
                words.append((self.WORDS[code], left + 5))
        for code, pixel in longest_in_each(narrow, along.pixel):
            left = float(along.first + pixel)
            boxes.setdefault(code, []).append((left, top + along.lane - 2, left + 1, top + 2))
        for code, of_code in boxes.items():
            canvas.boxes(of_code, PIXELS, look.ink(look.palette(), shown.place, self.ALPHAS[code]))
        for word, left in words:
            canvas.text(word, left, middle, 8, ink)

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
        words = self.lane_words(shown, self.axis.time(at.x(), self.width()) + self.comparing.delay(shown))
        return f"{shown.tune.name}: {words}" if words else ""


def longest_in_each(runs: Sequence[Run], pixel: float) -> list[tuple[int, int]]:
    """For each pixel that short stretches fill by half or more, the code that takes most of it, and the pixel.

    `runs` are in order of time and do not overlap; `pixel` is the length of one in s.
    """
    if not runs:
        return []
    codes, ends = np.array([run[0] for run in runs]), np.array([run[1:] for run in runs])
    first, last = int(ends[0, 0] / pixel), int(ends[-1, 1] / pixel) + 1
    edges, kinds = pixel * np.arange(first, last + 1), np.unique(codes)
    filled = np.empty((len(kinds), last - first))
    for place, code in enumerate(kinds):
        of_code = ends[codes == code]
        # The total time of the code up to each of its ends.
        taken = np.repeat(np.cumsum(of_code[:, 1] - of_code[:, 0]), 2)
        taken[::2] -= of_code[:, 1] - of_code[:, 0]
        filled[place] = np.diff(np.interp(edges, of_code.ravel(), taken))
    longest = kinds[filled.argmax(axis=0)]
    return [(int(longest[at]), first + int(at)) for at in np.flatnonzero(filled.sum(axis=0) >= 0.5 * pixel)]


def _uncovered(left: float, right: float, covered: Sequence[Stretch]) -> Stretch:
    """The part of a stretch before the first window that covers it, or after those that cover its beginning."""
    for begin, over in covered:
        if begin <= left + 4 and over > left:
            left = min(over + 1, right)
        elif left < begin < right:
            right = begin
    return left, right
