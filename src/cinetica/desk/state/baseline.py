"""What tunes are compared with: the reference, the last edit or save, a milestone, snapshots, or a file. No Qt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from cinetica.desk.state.document import Document
from cinetica.desk.state.selection import Selection
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.state.visible_runs import VisibleRuns
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune
from cinetica.palette import OVER_PLACE

EDIT, SAVED, REFERENCE, SNAPSHOTS = "edit", "saved", "reference", "snapshots"
WORDS = {EDIT: "the last edit", REFERENCE: "the reference", SNAPSHOTS: "snapshots"}


@dataclass
class Baseline:
    """`chosen` is one of those above, `milestone NAME`, or `file`; `changed` is called when it changes."""

    document: Document
    selection: Selection
    runs: VisibleRuns
    changed: Callable[[], None]
    chosen: str = EDIT
    file: Study | None = None
    file_name: str = ""
    _cached: dict[tuple[int, int, int], tuple[object, TuneRun]] = field(default_factory=dict)

    @property
    def choices(self) -> list[tuple[str, str]]:
        """The possible choices, with their labels."""
        study = self.document.study
        saved = "the last save" if self.document.was_saved else "opening"
        listed = [(EDIT, WORDS[EDIT]), (SAVED, saved), (REFERENCE, WORDS[REFERENCE])]
        if any(tune.snapshot_of for tune in study.tunes):
            listed.append((SNAPSHOTS, WORDS[SNAPSHOTS]))
        listed += [(f"milestone {each.name}", f"milestone “{each.name}”") for each in study.milestones]
        if self.file is not None:
            listed.append(("file", f"the file {self.file_name}"))
        return listed

    @property
    def words(self) -> str:
        """The label of the current choice."""
        return dict(self.choices).get(self.chosen, WORDS[EDIT])

    @property
    def state_words(self) -> str:
        """The label of the current choice as a state, not as a moment."""
        return f"the study at {self.words}" if self.chosen == SAVED else self.words

    @property
    def is_reference(self) -> bool:
        """Whether tunes are compared with the reference."""
        return self.chosen == REFERENCE

    @property
    def is_fixed(self) -> bool:
        """Whether a fixed state is the baseline, shown as the wake until it is cleared."""
        return self.chosen not in (EDIT, REFERENCE)

    def runs_on(self, drill: Drill) -> list[TuneRun]:
        """The baseline runs of the tunes shown on a drill; cached until something changes."""
        clock, cached = self.document.study.clock, {}
        for shown in self.runs.shown:
            other = None if shown.trace.logged or shown.place >= OVER_PLACE else self.of(shown.tune)
            # While another drill is being chosen, what is shown is still that of the one before.
            if other is not None and other.view == drill.view:
                key = (id(other), id(drill), id(clock))
                cached[key] = self._cached.get(key) or (
                    (other, drill, clock), self.runs.run(shown.place, other, drill)
                )  # fmt: skip
        self._cached = cached
        return [shown for _, shown in cached.values()]

    def choose(self, chosen: str) -> None:
        """Set the baseline."""
        self.chosen = chosen
        self.changed()

    def clear(self) -> None:
        """Return to comparing with the last edit."""
        if self.is_fixed:
            self.choose(EDIT)

    @property
    def tunes(self) -> list[Tune]:
        """The tunes of the study as the baseline has them; those that it does not have, as they are."""
        return [self.of(tune) or tune for tune in self.document.study.tunes]

    def of(self, tune: Tune) -> Tune | None:
        """The baseline of this tune; None if there is none, or it is equal."""
        found = self._find(tune)
        return None if found is tune else found

    def _find(self, tune: Tune) -> Tune | None:
        study = self.document.study
        if self.chosen == REFERENCE:
            same_view = [other for other in study.tunes if other.view == tune.view]
            reference = self.selection.reference
            return reference if reference in same_view else same_view[0]
        if self.chosen == SNAPSHOTS:
            return next((other for other in study.tunes if other.snapshot_of == tune.name), None)
        if self.chosen.startswith("milestone "):
            name = self.chosen.removeprefix("milestone ")
            kept = next((each.tunes for each in study.milestones if each.name == name), ())
            return next((other for other in kept if other.name == tune.name and other.view == tune.view), None)
        before = {"file": self.file, SAVED: self.document.saved}.get(self.chosen, self.document.before_edit)
        if before is None:
            return None
        return next((other for other in before.tunes if other.name == tune.name and other.view == tune.view), None)
