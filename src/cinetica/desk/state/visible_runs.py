"""The runs of everything visible: tunes, the overlaid drill, and game logs. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable

from cinetica.desk.state.document import Document
from cinetica.desk.state.selection import Selection
from cinetica.desk.state.tune_run import TuneRun, run_tunes
from cinetica.model.clock import Clock
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.motion.simulate import Trace, simulate
from cinetica.palette import LOG_PLACE, OVER_PLACE
from cinetica.reading.logs import trace_of
from cinetica.reading.reading_off import asked_by


def _same_run(one: Drill, other: Drill) -> bool:
    """Whether a tune runs identically on both, with the same figures: they may differ in targets and notes."""
    same = one.take is other.take and one.course is other.course and one.view == other.view
    same = same and all(
        getattr(one, part) == getattr(other, part) for part in ("start", "start_velocity", "start_heading", "name")
    )
    return one is other or (same and asked_by(one) == asked_by(other))


class VisibleRuns:
    """Runs are reused for as long as tune, drill and clock are the same objects."""

    def __init__(self, document: Document, selection: Selection) -> None:
        self._document, self._selection = document, selection
        self.shown: list[TuneRun] = []
        self._overlaid: tuple[Tune, Drill, Clock, TuneRun] | None = None
        self._logs: dict[int, tuple[Logged, Drill, Clock, TuneRun]] = {}
        # What gives the run of a linked game on a drill, and the run that it gave last.
        self.live_log: Callable[[Drill], Logged | None] | None = None
        # The best so far of a search, while it goes on.
        self.best: TuneRun | None = None
        self._live: tuple[Logged, int, Drill, Clock, TuneRun] | None = None

    @property
    def reference(self) -> TuneRun | None:
        """The reference if it is visible, else the first visible tune."""
        reference, shown = self._selection.reference, self.shown
        if shown and shown[0].tune is reference:
            return shown[0]
        return next((each for each in shown if each.tune is reference), shown[0] if shown else None)

    @property
    def last_row(self) -> int:
        """The last row of the longest trace."""
        return max((len(shown.trace) - 1 for shown in self.shown), default=0)

    def run(self, place: int, tune: Tune, drill: Drill) -> TuneRun:
        """Run a tune on a drill under the study's clock; ValueError if the take is too long for it."""
        return TuneRun(place, tune, simulate(tune, drill, self._document.study.clock))

    def update(self) -> None:
        """Run everything visible that has no current trace; ValueError if the take is too long for the clock."""
        drill, clock, selection = self._selection.drill, self._document.study.clock, self._selection
        have = {
            (shown.place, id(shown.tune)): shown
            for shown in self.shown
            if drill is not None and _same_run(shown.trace.drill, drill) and shown.trace.clock is clock
        }
        self.shown = []
        tunes = [each for each in selection.tunes if drill is not None and not selection.is_hidden(each[1].name)]
        missing = [(place, tune) for place, tune in tunes if (place, id(tune)) not in have]
        if drill is not None and missing:
            have |= {(shown.place, id(shown.tune)): shown for shown in run_tunes(missing, drill, clock)}
        shown = [have[place, id(tune)] for place, tune in tunes]
        self.shown = shown + self._overlay(drill) + self._logs_of(drill) + self._live_run(drill)
        if self.best is not None and drill is not None and self.best.trace.drill.name == drill.name:
            self.shown.append(self.best)

    def _overlay(self, drill: Drill | None) -> list[TuneRun]:
        """The reference on the overlaid drill."""
        study, reference = self._document.study, self._selection.reference
        other = next((each for each in study.drills if each.name == self._selection.overlay), None)
        if drill is None or other is None or other is drill or reference is None or other.view != drill.view:
            return []
        found = self._overlaid
        if found is None or found[0] is not reference or found[1] is not other or found[2] is not study.clock:
            named = reference.model_copy(update={"name": f"{reference.name} on {other.name}"})
            shown = TuneRun(OVER_PLACE, named, simulate(reference, other, study.clock))
            found = self._overlaid = (reference, other, study.clock, shown)
        return [found[3]]

    def _logs_of(self, drill: Drill | None) -> list[TuneRun]:
        """The game logs of this drill; their body is as large as the reference's."""
        clock = self._document.study.clock
        if drill is None or not self._document.study.logs:
            return []
        cached, listed = {}, []
        for number, log in enumerate(self._selection.logs):
            found = self._logs.get(id(log))
            if found is None or found[0] is not log or found[1] is not drill or found[2] is not clock:
                shown = TuneRun(LOG_PLACE + number % 3, *self._as_tune(trace_of(log, drill, clock)))
                found = (log, drill, clock, shown)
            cached[id(log)] = found
            if not self._selection.is_hidden(log.name):
                listed.append(found[3])
        self._logs = cached
        return listed

    @property
    def live_place(self) -> int:
        """The place of a linked game's run: after the kept ones of this drill."""
        return LOG_PLACE + len(self._selection.logs) % 3

    @property
    def best_place(self) -> int:
        """The place of the best match so far: after a linked game's run."""
        return LOG_PLACE + (len(self._selection.logs) + 1) % 3

    def _live_run(self, drill: Drill | None) -> list[TuneRun]:
        """The run of a linked game, on this drill."""
        clock = self._document.study.clock
        log = self.live_log(drill) if drill is not None and self.live_log is not None else None
        if log is None or drill is None:
            return []
        found, place = self._live, self.live_place
        if found is None or found[:2] != (log, place) or found[2] is not drill or found[3] is not clock:
            run = TuneRun(place, *self._as_tune(trace_of(log, drill, clock)), live=True)
            found = self._live = (log, place, drill, clock, run)
        return [found[4]]

    def _as_tune(self, trace: Trace) -> tuple[Tune, Trace]:
        reference = self._selection.reference
        return (trace.tune.model_copy(update={"body": reference.body}) if reference else trace.tune), trace
