"""The state lanes: each tune's states, and its coyote and buffer windows with what was left of them."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QColor
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.compare.time_axis import TimeAxis
from cinetica.desk.compare.tune_lanes import Along, Run, TuneLanes
from cinetica.desk.paint.canvas import PIXELS, Box, Canvas
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.motion.records import STATES
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.spans import GRACE_WORDS, Grace, Span, grace_spans, state_runs, state_spans

HATCHES = {"coyote": Qt.BrushStyle.BDiagPattern, "buffer": Qt.BrushStyle.FDiagPattern}
_ALPHAS = {"ground": 36, "rise": 120, "fall": 74, "climb": 150, "wall": 98, "dash": 190}


class States(TuneLanes):
    """One lane for each tune."""

    TITLE, WORDS, ALPHAS = "State", STATES, [_ALPHAS[state] for state in STATES]

    def __init__(self, session: Session, axis: TimeAxis, comparing: Comparing) -> None:
        super().__init__(session, axis, comparing, "States of the tunes")
        self._spans: dict[int, tuple[TuneRun, list[Span], list[Grace]]] = {}

    @override
    def runs_of(self, shown: TuneRun) -> list[Run]:
        return state_runs(shown.trace)

    @override
    def lane_key(self, shown: TuneRun) -> tuple[object, ...]:
        """Everything that a lane shows of a trace: most drags change the path, not the events on it."""
        trace, take = shown.trace, shown.trace.drill.take
        _times, happened, _places, turns = trace.events
        # Only a log has times that do not follow from these.
        times = trace["time"].tobytes() if trace.logged else (trace.clock, take.rate, take.length)
        first = trace.value("state", 1) if len(trace) > 1 else None
        return shown.place, times, first, turns, happened, trace.drill.view, shown.tune.jump

    @override
    def draw_lane(self, shown: TuneRun, top: int, along: Along, canvas: Canvas) -> None:
        view, ink = self.view_of(shown), look.ink(look.palette(), shown.place)
        graces = grace_spans(shown.trace, least=along.pixel, view=view)
        whole = [along.stretch(window.start - view[0], window.full_end - view[0]) for window in graces]
        self.draw_runs(canvas, shown, along, top, whole)
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
    def lane_words(self, shown: TuneRun, time: float) -> str:
        spans, grace = self.spans_of(shown)
        for window in grace:
            if window.start <= time <= window.full_end:
                return f"{GRACE_WORDS[window.word]}, {_grace_words(window, shown, self.session.units)}"
        return next(
            (
                f"{span.word}, {self.session.units.time(span.end - span.start)}"
                for span in spans
                if span.start <= time <= span.end
            ),
            "",
        )


def _draw_grace(canvas: Canvas, box: Box, used: float, ink: QColor, hatch: Qt.BrushStyle) -> None:
    """Draw a window, with its unused rest as an empty box.

    Coyote time is hatched in one direction, the jump buffer in the other.
    """
    left, low, _, up = box
    canvas.box(box, PIXELS, look.color(look.palette().paper))
    if used > left:
        canvas.box((left, low, used, up), PIXELS, QBrush(ink, hatch))
    canvas.box(box, PIXELS, None, ink)


def _grace_words(window: Grace, shown: TuneRun, units: DisplayUnits) -> str:
    length = units.time(window.full_end - window.start)
    if not window.used:
        return f"{length}, not used"
    dt = float(shown.trace["dt"][1:].mean())
    return f"used with {units.time(window.left)} left of {length} ({round(window.left / dt)} ticks)"
