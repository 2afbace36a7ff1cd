"""The wake: the curves as they were when the last edit began, drawn pale. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable

from cinetica.desk.state.tune_run import TuneRun


class Wake:
    """The runs before the last edit, and its name."""

    def __init__(self) -> None:
        self.runs: list[TuneRun] = []
        self.name = ""
        # The points drawn, and the wake and runs that they are for.
        self._drawn: tuple[list[TuneRun], list[TuneRun], list[TuneRun]] | None = None

    def begin(self, name: str, shown: list[TuneRun]) -> None:
        """Remember the current runs."""
        self.runs, self.name = list(shown), name

    def clear(self) -> None:
        """Forget everything."""
        self.runs, self.name = [], ""

    def moved(self, shown: list[TuneRun]) -> bool:
        """Whether any curve differs from its wake: a new name or note changes none."""
        now = {each.place: each for each in shown}
        return not all(
            run is now.get(run.place) or (run.place in now and run.trace.is_as(now[run.place].trace))
            for run in self.runs
        )

    def drawn(self, shown: list[TuneRun], is_hidden: Callable[[str], bool]) -> list[TuneRun]:
        """The wake of the visible tunes whose curves have changed; the same list until something changes."""
        drawn = self._drawn
        # Hiding a tune updates the runs, which then are another list.
        if drawn is None or drawn[0] is not self.runs or drawn[1] is not shown:
            now = {id(each) for each in shown}
            listed = [run for run in self.runs if id(run) not in now and not is_hidden(run.tune.name)]
            drawn = self._drawn = (self.runs, shown, listed)
        return drawn[2]
