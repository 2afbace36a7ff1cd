"""The state lanes: in which state each tune was, and its windows of grace with what was left of them."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from cinetica.desk import look
from cinetica.desk.compare.comparing import Comparing
from cinetica.desk.compare.on_time_axis import OnTimeAxis
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.paint.kept import Kept
from cinetica.desk.state.session import Session
from cinetica.desk.state.shown import Shown
from cinetica.desk.widgets import plain_tip
from cinetica.motion.records import STATES
from cinetica.reading.spans import GRACE_WORDS, Grace, Span, grace_spans, state_runs, state_spans

ALPHA = {"ground": 36, "rise": 120, "fall": 74, "climb": 150}


class States(OnTimeAxis):
    """One lane for each tune."""

    def __init__(self, session: Session, axis: TimeAxis, comparing: Comparing) -> None:
        super().__init__(session, axis)
        self.comparing = comparing
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("States of the tunes")
        self._spans: dict[int, tuple[Shown, list[Span], list[Grace]]] = {}
        self._lanes: list[Kept] = []
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
        """Height of a lane; where there are many tunes each is lower."""
        return look.height(8) + (look.px(6) if len(self.session.shown) < 5 else look.px(2))

    def sizeHint(self) -> QSize:
        return QSize(
            ROOM.left + ROOM.right + 40, max(self.lane * max(1, len(self.session.shown)), look.height(9, bold=True)) + 8
        )

    minimumSizeHint = sizeHint

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        lined_up = self.comparing.anchor != "start"
        place = (
            self.axis.start,
            self.axis.end,
            look.worn(),
            self.comparing.anchor,
            self.session.reference_shown if lined_up else None,
        )
        painter.fillRect(self.rect(), QColor(look.worn().paper))
        self._lay_lanes(place, painter)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(look.worn().accent))
        painter.drawText(
            QRectF(look.px(18), 0, ROOM.titles - look.px(18), self.lane), Qt.AlignmentFlag.AlignVCenter, "State"
        )
        self._paint_readout_title(painter)
        self.paint_cursor(painter, 0, self.height())

    def _lay_lanes(self, place: tuple[object, ...], painter: QPainter) -> None:
        """Each lane is a kept picture of its own: of a tune that is dragged only its own is painted anew."""
        shown = self.session.shown
        self._lanes = self._lanes[: len(shown)] + [Kept() for _ in shown[len(self._lanes) :]]
        for number, (one, lane) in enumerate(zip(shown, self._lanes, strict=True)):
            area = QRectF(0, number * self.lane, self.width(), self.lane)
            lane.lay(
                painter, area, QColor(look.worn().paper), (one, *place), partial(self._paint_lane, one, area.top())
            )

    def _paint_readout_title(self, painter: QPainter) -> None:
        left = self.width() - ROOM.right
        painter.fillRect(QRectF(left, 0, 1, self.height()), QColor(look.worn().grid))
        reference = self.session.reference_shown
        if reference is None:
            return
        painter.setFont(look.font(8))
        painter.setPen(QColor(look.worn().soft))
        area = QRectF(left + look.px(14), self.height() - look.height(8) - 4, ROOM.right - look.px(26), look.height(8))
        painter.drawText(
            area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, f"at frame {self.session.cursor}"
        )
        if len(self.session.shown) > 1:
            painter.drawText(
                area,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"minus {look.letter(reference.place)}",
            )

    def _paint_lane(self, shown: Shown, top: float, painter: QPainter) -> None:
        painter.translate(0, top)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, self.width() - ROOM.right + 1, self.lane), Qt.ClipOperation.IntersectClip)
        ink = look.ink(look.worn(), shown.place)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(ink)
        painter.drawText(
            QRectF(0, 0, ROOM.left - 8, self.lane),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            look.letter(shown.place),
        )
        delay = self.comparing.delay(shown)
        painter.setFont(look.font(8))
        view = (self.axis.start + delay, self.axis.end + delay)
        first, last = ROOM.left, self.width() - ROOM.right
        scale, begin, high = (last - first) / (self.axis.end - self.axis.start), self.axis.start + delay, self.lane - 4

        def rect_of(start: float, end: float) -> QRectF:
            left, right = max(first + (start - begin) * scale, first), min(first + (end - begin) * scale, last)
            return QRectF(left, 2, right - left - 1, high)

        graces = [
            (window, rect_of(window.start, window.full_end))
            for window in grace_spans(shown.trace, least=self._pixel, view=view)
        ]
        covered = [rect for _, rect in graces]
        for span in self._visible_states(shown, view):
            self._paint_state(painter, span, rect_of(span.start, span.end), ink, covered)
        for window, rect in graces:
            self._paint_grace(painter, window, rect, rect_of(window.start, window.end), ink)

    @property
    def _pixel(self) -> float:
        """The time that a pixel stands for, in s."""
        return (self.axis.end - self.axis.start) / max(1, self.width() - ROOM.left - ROOM.right)

    def _visible_states(self, shown: Shown, view: tuple[float, float]) -> list[Span]:
        """The states in view, but of several that end within one pixel only the first."""
        runs = state_runs(shown.trace)
        pixels = np.floor(runs.ends / self._pixel)
        seen = (runs.ends > view[0]) & (runs.starts < view[1]) & np.append(True, np.diff(pixels) > 0)
        kept = zip(runs.codes[seen].tolist(), runs.starts[seen].tolist(), runs.ends[seen].tolist(), strict=True)
        return [Span(STATES[code], start, end) for code, start, end in kept]

    def _paint_state(self, painter: QPainter, span: Span, rect: QRectF, ink: QColor, graces: list[QRectF]) -> None:
        if rect.width() <= 0:
            return
        fill = QColor(ink)
        fill.setAlpha(ALPHA[span.word])
        painter.fillRect(rect, fill)
        # The word stands in the first part of the span that no window of grace covers.
        free = QRectF(rect)
        for other in graces:
            if other.left() <= free.left() + 4 and other.right() > free.left():
                free.setLeft(min(other.right() + 1, free.right()))
            elif free.left() < other.left() < free.right():
                free.setRight(other.left())
        if free.width() > look.width(span.word, 8) + 8:
            painter.setPen(QColor(look.worn().ink))
            painter.drawText(free.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, span.word)

    def _paint_grace(self, painter: QPainter, window: Grace, whole: QRectF, used: QRectF, ink: QColor) -> None:
        """Coyote time is hatched one way, the jump buffer the other; what was left of it when it was used is an empty
        box."""
        if whole.width() <= 0:
            return
        pattern = Qt.BrushStyle.FDiagPattern if window.word == "coyote" else Qt.BrushStyle.BDiagPattern
        painter.fillRect(whole, QColor(look.worn().paper))
        if used.width() > 0:
            painter.fillRect(used, QBrush(ink, pattern))
        painter.setPen(QPen(ink, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(whole)

    def spans_of(self, shown: Shown) -> tuple[list[Span], list[Grace]]:
        kept = self._spans.get(shown.place)
        if kept is None or kept[0] is not shown:
            kept = (shown, state_spans(shown.trace), grace_spans(shown.trace))
            self._spans[shown.place] = kept
        return kept[1], kept[2]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to_cursor(event)
        self.setToolTip(plain_tip(self.words_at(event.position())))

    def words_at(self, at: QPointF) -> str:
        """What lies under the mouse, in words."""
        number = int(at.y() // self.lane)
        if not 0 <= number < len(self.session.shown):
            return ""
        shown = self.session.shown[number]
        time = self.axis.time(at.x(), self.width()) + self.comparing.delay(shown)
        spans, grace = self.spans_of(shown)
        for window in grace:
            if window.start <= time <= window.full_end:
                return f"{shown.tune.name}: {GRACE_WORDS[window.word]}, {_grace_words(window, shown)}"
        return next(
            (
                f"{shown.tune.name}: {span.word}, {span.end - span.start:.3f} s"
                for span in spans
                if span.start <= time <= span.end
            ),
            "",
        )


def _grace_words(window: Grace, shown: Shown) -> str:
    length = f"{window.full_end - window.start:.3f} s"
    if not window.used:
        return f"{length}, not used"
    dt = float(shown.trace["dt"][1:].mean())
    return f"used with {window.left:.3f} s left of {length} ({round(window.left / dt)} ticks)"
