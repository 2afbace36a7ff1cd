"""Every tune on every drill: run on demand or in idle time, with the verdicts on all targets.

Runs are cached for as long as tune, drill and clock are the same objects.
"""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, QTimer, Signal

from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.motion.simulate import simulate
from cinetica.reading.targets import Verdict, judge, summary

# The length of a slice of work between two events, in s; and how long a drag must pause before it begins, in ms.
SLICE, REST = 0.006, 120


class StudyRuns(QObject):
    """`judged` is emitted when all targets have been checked against the current study."""

    judged = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.verdicts: list[Verdict] = []
        # Runs that a view still shows besides those of the current study, such as an earlier state.
        self.of_use: list[tuple[Drill, Tune]] = []
        self._kept: dict[tuple[int, int, int], tuple[object, TuneRun]] = {}
        self._waiting: list[tuple[Drill, Tune]] = []
        self._coming: list[Verdict] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._go_on)
        session.study_changed.connect(self._begin)
        session.loaded.connect(self._begin)
        session.traces_changed.connect(self._begin_where_none)

    def on(self, drill: Drill, tune: Tune, place: int) -> TuneRun:
        """Run a tune, with its place in its view, on a drill; ValueError if the take is too long for the clock."""
        clock = self.session.study.clock
        key = (id(drill), id(tune), id(clock))
        found = self._kept.get(key)
        if found is None or found[1].place != place:
            found = self._kept[key] = ((drill, tune, clock), TuneRun(place, tune, simulate(tune, drill, clock)))
        return found[1]

    def tunes_of(self, drill: Drill) -> list[tuple[int, Tune]]:
        """The visible tunes of the drill's view, each with its place."""
        listed = enumerate(tune for tune in self.session.study.tunes if tune.view == drill.view)
        return [(place, tune) for place, tune in listed if not self.session.is_hidden(tune)]

    @property
    def kept(self) -> int:
        """The number of cached runs."""
        return len(self._kept)

    def forget(self) -> None:
        """Drop runs of another clock, or that belong to no current study and are not `of_use`."""
        study = self.session.study
        clock = id(study.clock)
        drills, tunes = {id(drill) for drill in study.drills}, {id(tune) for tune in study.tunes}
        used = {(id(drill), id(tune)) for drill, tune in self.of_use}
        self._kept = {
            key: kept
            for key, kept in self._kept.items()
            if key[2] == clock and ((key[0] in drills and key[1] in tunes) or key[:2] in used)
        }

    # Targets

    @property
    def words(self) -> str:
        """How many targets are missed; empty if there are none."""
        return summary(self.verdicts) if self.verdicts else ""

    @property
    def first_missed(self) -> Verdict | None:
        """The first missed target."""
        return next((verdict for verdict in self.verdicts if verdict.missed), None)

    def _begin_where_none(self) -> None:
        if self.session.reads and not self.verdicts and not self._waiting:
            self._begin()

    def _begin(self) -> None:
        """Schedule a check for when the drag pauses; outdated runs are dropped immediately."""
        if self._kept:
            self.forget()
        study = self.session.study
        self._waiting = [
            (drill, tune)
            for drill in study.drills
            if drill.targets
            for tune in study.tunes_for(drill)
            if any(target.concerns(tune.name) for target in drill.targets)
        ]
        self._coming = []
        if self._waiting:
            self._timer.start(REST)
        else:
            self._timer.stop()
            self._finish()

    def _go_on(self) -> None:
        if not self.session.reads:
            return
        until = time.perf_counter() + SLICE
        while self._waiting and time.perf_counter() < until:
            drill, tune = self._waiting.pop(0)
            places = [other.name for other in self.session.study.tunes if other.view == tune.view]
            try:
                readings = self.on(drill, tune, places.index(tune.name)).readings
            except ValueError:
                readings = {}
            self._coming += judge(drill, tune, readings, self.session.units)
        if self._waiting:
            self._timer.start(0)
        else:
            self._finish()

    def _finish(self) -> None:
        if self._coming or self.verdicts:
            self.verdicts, self._coming = self._coming, []
            self.judged.emit()

    def stop(self) -> None:
        """Stop: the window is closing."""
        self._waiting = []
        self._timer.stop()

    def judge_now(self) -> None:
        """Check all targets immediately."""
        self._timer.stop()
        while self._waiting:
            self._go_on()
        self._timer.stop()
