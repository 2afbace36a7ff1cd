"""What the cards show: curves at once, figures when there is time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from cinetica.desk.overview.card import CHANNELS, MOST_MOVED, Content, shown_columns
from cinetica.desk.state.baseline import Baseline
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.study import Drill
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.figure_changes import FigureChange, farthest, moved
from cinetica.reading.targets import judge


def _same_path(one: TuneRun, other: TuneRun) -> bool:
    """Whether two traces are identical in every column."""
    return one.trace.rows.tobytes() == other.trace.rows.tobytes()


class Contents:
    """`columns`: curves to show instead of the usual ones."""

    def __init__(self, study_runs: StudyRuns, baseline: Baseline) -> None:
        self.study_runs, self.baseline = study_runs, baseline
        self.columns: tuple[str, ...] = ()
        # The contents of every card; and, for cards that are out of date, their last contents.
        self._contents: dict[str, Content] = {}
        self._last: dict[str, Content] = {}

    @property
    def _units(self) -> DisplayUnits:
        return self.study_runs.session.units

    def renew(self) -> None:
        """Update: something may have changed."""
        self._last |= self._contents
        self._contents = {}

    def is_known(self, drill: Drill) -> bool:
        """Whether the figures of a drill are up to date."""
        return drill.name in self._contents

    def of(self, drill: Drill) -> Content:
        """What the card of a drill shows."""
        found = self._contents.get(drill.name)
        if found is None or found.drill is not drill:
            found = self._contents[drill.name] = self._made(drill)
        return found

    def columns_of(self, drill: Drill) -> tuple[str, ...]:
        """The curves of a card, without those that stay 0."""
        return self.columns or CHANNELS[drill.view]

    def quick(self, drill: Drill) -> Content:
        """The current curves with the previous figures, which take longer and follow a moment later."""
        found, last = self._contents.get(drill.name), self._last.get(drill.name)
        if found is not None and found.drill is drill:
            return found
        if last is None:
            last = Content(drill, (), self.columns_of(drill), units=self._units)
        try:
            pairs = list(self._pairs(drill))
        except ValueError:
            return Content(drill, (), self.columns_of(drill))
        before = tuple(then for now, then in pairs if then is not None and not _same_path(now, then))
        shown = tuple(now for now, _ in pairs)
        columns = shown_columns(self.columns_of(drill), (*shown, *before))
        return replace(last, drill=drill, shown=shown, columns=columns, before=before)

    def _pairs(self, drill: Drill) -> Iterator[tuple[TuneRun, TuneRun | None]]:
        """Every tune on a drill, and its baseline there."""
        for place, tune in self.study_runs.tunes_of(drill):
            other = self.baseline.of(tune)
            held = other is not None and other.view == drill.view and other != tune
            now = self.study_runs.on(drill, tune, place)
            yield now, self.study_runs.on(drill, other, place) if held and other is not None else None

    def _made(self, drill: Drill) -> Content:
        try:
            return self._run(drill)
        except ValueError:
            # The take is too long for the clock.
            return Content(drill, (), self.columns_of(drill))

    def _run(self, drill: Drill) -> Content:
        shown, before, changes, verdicts = [], [], [], []
        for now, then in self._pairs(drill):
            shown.append(now)
            if drill.targets:
                verdicts += judge(drill, now.tune, now.readings, self._units)
            if then is not None and not _same_path(now, then):
                changes += moved(now.place, now.tune.name, then.readings, now.readings)
                if not self.baseline.is_reference:
                    before.append(then)
        flagged = bool(changes) and not self.baseline.is_reference
        if not changes:
            # Nothing has moved: show what distinguishes the tunes instead.
            changes = self._differing(shown)
        listed = tuple(farthest(changes, MOST_MOVED))
        columns = shown_columns(self.columns_of(drill), (*shown, *before))
        return Content(
            drill, tuple(shown), columns, tuple(before), tuple(verdicts), listed, flagged, not flagged, self._units
        )

    def _differing(self, shown: list[TuneRun]) -> list[FigureChange]:
        """What differs from the reference, or from the first visible tune."""
        reference = next((one for one in shown if one.tune is self.study_runs.session.reference), None)
        baseline = reference or (shown[0] if shown else None)
        return [
            each
            for one in shown
            if baseline is not None and one is not baseline
            for each in moved(one.place, one.tune.name, baseline.readings, one.readings)
            if each.before is not None and each.after is not None
        ]
