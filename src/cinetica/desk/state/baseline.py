"""What the tunes are compared with: the reference, the last edit, a milestone, their snapshots, or a file."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from cinetica.desk.look import OVER_PLACE
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune

if TYPE_CHECKING:
    from cinetica.desk.state.session import Session

EDIT, REFERENCE, SNAPSHOTS = "edit", "reference", "snapshots"
WORDS = {EDIT: "the last edit", REFERENCE: "the reference", SNAPSHOTS: "snapshots"}


@dataclass
class Baseline:
    """`chosen` is one of `WORDS`, `milestone NAME`, or `file`."""

    session: Session
    chosen: str = EDIT
    file: Study | None = None
    file_name: str = ""
    _held: dict[tuple[int, int, int], tuple[object, TuneRun]] = field(default_factory=dict)

    @property
    def choices(self) -> list[tuple[str, str]]:
        """The possible choices, with their labels."""
        study = self.session.study
        listed = [(EDIT, WORDS[EDIT]), (REFERENCE, WORDS[REFERENCE])]
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
    def is_reference(self) -> bool:
        """Whether tunes are compared with the reference."""
        return self.chosen == REFERENCE

    @property
    def is_held(self) -> bool:
        """Whether a fixed state is the baseline, shown as the wake until it is cleared."""
        return self.chosen not in (EDIT, REFERENCE)

    def held_on(self, drill: Drill) -> list[TuneRun]:
        """The baseline runs of the tunes shown on a drill; cached until something changes."""
        session, kept = self.session, {}
        for shown in session.shown:
            other = None if shown.trace.logged or shown.place >= OVER_PLACE else self.of(shown.tune)
            # While another drill is being chosen, what is shown is still that of the one before.
            if other is not None and other.view == drill.view:
                key = (id(other), id(drill), id(session.study.clock))
                kept[key] = self._held.get(key) or (
                    (other, drill, session.study.clock), session.run(shown.place, other, drill)
                )  # fmt: skip
        self._held = kept
        return [shown for _, shown in kept.values()]

    def choose(self, chosen: str) -> None:
        """Set the baseline."""
        self.chosen = chosen
        self.session.wake_changed.emit()

    def let_go(self) -> None:
        """Return to comparing with the last edit."""
        if self.is_held:
            self.choose(EDIT)

    def of(self, tune: Tune) -> Tune | None:
        """The baseline of this tune; None if there is none, or it is equal."""
        found = self._find(tune)
        return None if found is tune else found

    def _find(self, tune: Tune) -> Tune | None:
        study = self.session.study
        if self.chosen == REFERENCE:
            same_view = [other for other in study.tunes if other.view == tune.view]
            reference = self.session.reference
            return reference if reference in same_view else same_view[0]
        if self.chosen == SNAPSHOTS:
            return next((other for other in study.tunes if other.snapshot_of == tune.name), None)
        if self.chosen.startswith("milestone "):
            name = self.chosen.removeprefix("milestone ")
            kept = next((each.tunes for each in study.milestones if each.name == name), ())
            return next((other for other in kept if other.name == tune.name and other.view == tune.view), None)
        before = self.file if self.chosen == "file" else self.session.before_edit
        if before is None:
            return None
        return next((other for other in before.tunes if other.name == tune.name and other.view == tune.view), None)
