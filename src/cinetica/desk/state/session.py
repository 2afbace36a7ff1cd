"""What the window works on: the study with its undo list, the current drill, the traces and the frame cursor."""

from __future__ import annotations

import time
from collections import deque
from pathlib import Path

from PySide6.QtCore import Signal
from typing_extensions import override

from cinetica.desk.look import LOG_PLACE, OVER_PLACE
from cinetica.desk.state.baseline import Baseline
from cinetica.desk.state.editing import Editing
from cinetica.desk.state.tune_run import TuneRun, run_tunes
from cinetica.model.clock import Clock
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune
from cinetica.motion.simulate import Trace, simulate
from cinetica.reading.logs import trace_of

# While a number is dragged, figures that take less than AT_ONCE (s) are painted with the curves, those that take less
# than QUICK right after them; others wait for RESTING (ms).
AT_ONCE, QUICK, RESTING = 0.006, 0.012, 120
EMPTY = Study.model_construct(format="cinetica-study", version=1, name="Untitled study")

# What of the study is on the page, found once for each study: with the study, the drill, its tunes with their places,
# the reference, and the names that drill and reference were found by.
_OnPage = tuple[Study, Drill | None, list[tuple[int, Tune]], Tune | None, str, str]


def _same_run(one: Drill, other: Drill) -> bool:
    """Whether a tune runs identically on both: they may differ in targets and notes."""
    same = one.take is other.take and one.course is other.course and one.view == other.view
    return one is other or (same and (one.start, one.name) == (other.start, other.name))


class Session(Editing):
    """The only place where the window's state changes; widgets listen to its signals."""

    # Another study is shown: what was set up for the one before has no meaning.
    loaded = Signal()
    # Another drill is chosen; and, the hands or the course of the chosen one are edited.
    drill_changed = Signal()
    drill_edited = Signal()
    traces_changed = Signal()
    # What is read off the traces: figures, states, marks. While a number is dragged it follows the curves at once,
    # but after them.
    figures_changed = Signal()
    # Which stretch of which tune's trace is lit up.
    lit_changed = Signal()
    cursor_moved = Signal(int)
    shown_changed = Signal()
    reference_changed = Signal()

    def __init__(self, study: Study | None = None, path: Path | None = None) -> None:
        super().__init__(study or EMPTY, path)
        self.cursor = 0
        self.baseline = Baseline(self)
        self.lit: tuple[str, str] | None = None
        self.ready = False
        # The last times; the least of them counts, since any one may have been held up.
        self._figures_took = deque((0.0,) * 3, 3)
        self._hidden: set[str] = set()
        # What the person had hidden before a drill that hides for itself.
        self._hidden_before: set[str] | None = None
        self._reference = ""
        self.over = ""
        self._over_shown: tuple[Tune, Drill, Clock, TuneRun] | None = None
        self._logs: dict[int, tuple[Logged, Drill, Clock, TuneRun]] = {}
        self._kept: _OnPage | None = None
        self._drill_name = self.study.drills[0].name if self.study.drills else ""
        self._hide_others()

    def start(self) -> None:
        """Begin to run the (loaded) kernel and show traces."""
        self.ready = True
        self._run()
        self.drill_changed.emit()

    def tell_all(self) -> None:
        """Emit the drill, its traces and figures again, for new widgets."""
        self.drill_changed.emit()
        self.traces_changed.emit()
        self.figures_changed.emit()

    # The study and its edits

    def load(self, study: Study, path: Path | None) -> None:
        """Show another study."""
        self.end_from_outside()
        self.undo_stack.clear()
        self.path = path
        self._drill_name = study.drills[0].name if study.drills else ""
        self.clear_wake()
        self.study, self.before_edit = study, None
        self._hidden, self._hidden_before, self.over = set(), None, ""
        self.loaded.emit()
        self._hide_others()
        self.study_changed.emit()
        self._run()
        self.drill_changed.emit()
        self.set_cursor(0)

    @override
    def _take(self, study: Study) -> None:
        if study is self.study:
            return
        before, drill = self.study, self.drill
        self.study = study
        if self.drill is None and study.drills:
            # It was renamed, removed, or is not yet there again: the one at its place is the next best.
            place = next((place for place, other in enumerate(before.drills) if other is drill), 0)
            self._drill_name = study.drills[min(place, len(study.drills) - 1)].name
            self.study_changed.emit()
            self._run(quietly=True)
            self.drill_changed.emit()
            self._say_traces()
            return
        self.study_changed.emit()
        self._run()
        if self.drill is not drill:
            self.drill_edited.emit()

    # The drill and its traces

    @property
    @override
    def drill(self) -> Drill | None:
        return self._on_page[1]

    @property
    def _on_page(self) -> _OnPage:
        """The current drill, the tunes that can run on it, and the reference; found once per study."""
        kept = self._kept
        if kept is None or not (kept[0] is self.study and kept[4] is self._drill_name and kept[5] is self._reference):
            drill = next((drill for drill in self.study.drills if drill.name == self._drill_name), None)
            tunes = list(enumerate(tune for tune in self.study.tunes if drill is None or tune.view == drill.view))
            first = tunes[0][1] if tunes else None
            reference = next((tune for _, tune in tunes if tune.name == self._reference), first)
            kept = self._kept = (self.study, drill, tunes, reference, self._drill_name, self._reference)
        return kept

    @property
    @override
    def wake_shown(self) -> list[TuneRun]:
        """The baseline on the current drill, or else what was there before the last edit."""
        drill = self.drill
        if not self.baseline.is_held or drill is None or not self.ready:
            return super().wake_shown
        return self.baseline.held_on(drill)

    @override
    def clear_wake(self) -> None:
        self.baseline.let_go()
        super().clear_wake()

    def choose_drill(self, name: str) -> None:
        """Make a drill the current one."""
        if name == self._drill_name:
            return
        self._drill_name = name
        super().clear_wake()
        self._hide_others()
        self._run(quietly=True)
        self.drill_changed.emit()
        self._say_traces()
        self.set_cursor(min(self.cursor, self.last_row))

    @property
    def tunes(self) -> list[tuple[int, Tune]]:
        """The tunes that can run on the drill, each with its place among those of its view."""
        return self._on_page[2]

    @property
    def reference(self) -> Tune | None:
        """The tune that the others are compared with: the one chosen, or the first."""
        return self._on_page[3]

    @property
    def reference_shown(self) -> TuneRun | None:
        """The reference if it is visible, else the first visible tune."""
        reference, shown = self.reference, self.shown
        if shown and shown[0].tune is reference:
            return shown[0]
        return next((each for each in shown if each.tune is reference), shown[0] if shown else None)

    def light(self, lit: tuple[str, str] | None) -> None:
        """Highlight the rows that a figure comes from, given the names of tune and figure, or nothing."""
        if lit != self.lit:
            self.lit = lit
            self.lit_changed.emit()

    @property
    def lit_shown(self) -> tuple[TuneRun, int, int] | None:
        """The highlighted tune, with the first and last row of the figure as it is now."""
        if self.lit is None:
            return None
        name, figure = self.lit
        shown = next((each for each in self.shown if each.tune.name == name and not each.trace.logged), None)
        reading = shown.readings.get(figure) if shown else None
        return None if shown is None or reading is None else (shown, *reading.rows)

    def choose_reference(self, tune: Tune) -> None:
        """Make a tune the reference."""
        self._reference = tune.name
        self._hidden.discard(tune.name)
        self._run(quietly=True)
        self.reference_changed.emit()
        self._say_traces()

    @override
    def is_hidden(self, tune: Tune) -> bool:
        return tune.name in self._hidden

    def _hide_others(self) -> None:
        """On a drill named after a tune, show only that tune and the reference.

        On any other drill, what the user has hidden stays hidden.
        """
        names = [tune.name for _, tune in self.tunes]
        if self._drill_name in names:
            self._hidden_before = self._hidden if self._hidden_before is None else self._hidden_before
            self._reference = names[0]
            self._hidden = {name for name in names[1:] if name != self._drill_name}
        elif self._hidden_before is not None:
            self._hidden, self._hidden_before = self._hidden_before, None

    def toggle(self, tune: Tune) -> None:
        """Hide a tune, or show it again."""
        self._hidden ^= {tune.name}
        self._run()
        self.shown_changed.emit()

    def _run(self, *, quietly: bool = False) -> None:
        """Run every visible tune that has no current trace."""
        drill = self.drill
        if not self.ready:
            return
        have = {
            (shown.place, id(shown.tune)): shown
            for shown in self.shown
            if drill is not None and _same_run(shown.trace.drill, drill) and shown.trace.clock is self.study.clock
        }
        try:
            tunes = [each for each in self.tunes if drill is not None and each[1].name not in self._hidden]
            missing = [(place, tune) for place, tune in tunes if (place, id(tune)) not in have]
            if drill is not None and missing:
                new = run_tunes(missing, drill, self.study.clock)
                have |= {(shown.place, id(shown.tune)): shown for shown in new}
            self.shown = [have[place, id(tune)] for place, tune in tunes]
            self.shown += self._shown_over(drill) + self._shown_logs(drill)
        except ValueError as error:
            self.shown = []
            self.refused.emit(str(error))
        if not quietly:
            self._say_traces()
            if self.cursor > self.last_row:
                self.set_cursor(self.last_row)

    @property
    def logs(self) -> list[Logged]:
        """The game logs of this drill."""
        return [log for log in self.study.logs if log.drill == self._drill_name]

    def _shown_logs(self, drill: Drill | None) -> list[TuneRun]:
        """The game logs of this drill, after the tunes; their body is as large as the reference's."""
        if drill is None or not self.study.logs:
            return []
        kept, listed = {}, []
        for number, log in enumerate(self.logs):
            found = self._logs.get(id(log))
            if found is None or found[0] is not log or found[1] is not drill or found[2] is not self.study.clock:
                shown = TuneRun(LOG_PLACE + number % 3, *self._as_tune(trace_of(log, drill, self.study.clock)))
                found = (log, drill, self.study.clock, shown)
            kept[id(log)] = found
            if log.name not in self._hidden:
                listed.append(found[3])
        self._logs = kept
        return listed

    def lay_over(self, name: str) -> None:
        """Overlay the reference on another drill: the same tune with other input. An empty name removes it."""
        self.over = name
        self._run()
        self.shown_changed.emit()

    def _shown_over(self, drill: Drill | None) -> list[TuneRun]:
        reference = self.reference
        other = next((each for each in self.study.drills if each.name == self.over), None)
        if drill is None or other is None or other is drill or reference is None or other.view != drill.view:
            return []
        found = self._over_shown
        if found is None or found[0] is not reference or found[1] is not other or found[2] is not self.study.clock:
            named = reference.model_copy(update={"name": f"{reference.name} on {other.name}"})
            shown = TuneRun(OVER_PLACE, named, simulate(reference, other, self.study.clock))
            found = self._over_shown = (reference, other, self.study.clock, shown)
        return [found[3]]

    def _as_tune(self, trace: Trace) -> tuple[Tune, Trace]:
        reference = self.reference
        return (trace.tune.model_copy(update={"body": reference.body}) if reference else trace.tune), trace

    def _say_traces(self) -> None:
        self.traces_changed.emit()
        took = min(self._figures_took)
        if self._gesture is not None and took >= AT_ONCE:
            # Where the figures take long, they wait until the hand rests, so that the curves go on following it.
            self._figures.start(0 if took < QUICK else RESTING)
        else:
            self._say_figures()

    @override
    def _say_figures(self) -> None:
        self._figures.stop()
        begin = time.perf_counter()
        self.figures_changed.emit()
        self._figures_took.append(time.perf_counter() - begin)

    def run(self, place: int, tune: Tune, drill: Drill) -> TuneRun:
        """Run a tune on a drill under the study's clock; ValueError if the take is too long for it."""
        return TuneRun(place, tune, simulate(tune, drill, self.study.clock))

    # The frame cursor

    @property
    def last_row(self) -> int:
        """The last row of the longest trace."""
        return max((len(shown.trace) - 1 for shown in self.shown), default=0)

    def set_cursor(self, row: int) -> None:
        """Move the frame cursor."""
        row = max(0, min(row, self.last_row))
        if row != self.cursor:
            self.cursor = row
            self.cursor_moved.emit(row)

    def time_at(self, row: int) -> float:
        """The time of a row, in s; the same for all tunes, since they share the clock."""
        reference = self.reference_shown
        if reference is None:
            return 0.0
        return reference.trace.value("time", min(row, len(reference.trace) - 1))
