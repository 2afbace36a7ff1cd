"""Commands on tunes and drills as a whole, from menus and keys. Impossible ones are refused with a reason."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from cinetica.desk.actions.keys import keyed
from cinetica.desk.dialogs.base import run
from cinetica.desk.state.baseline import EDIT, REFERENCE
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import plain_tip
from cinetica.files.reading import Refused
from cinetica.files.study_json import read_study
from cinetica.model import editing
from cinetica.model.edit_words import NOTHING_CHANGED, changed_tunes
from cinetica.model.rescaling import Scope
from cinetica.model.study import Drill
from cinetica.model.tune import Tune, View
from cinetica.reading.targets import Verdict

A_FILE = "a file"
# What fits into the two lines below the sheet.
SHORT_ENOUGH = 70


class Commands(QObject):
    """`current_tune` gives the tune of the sheet's current column; without one the reference is used."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self._window = session, window
        self.current_tune: Callable[[], Tune | None] = lambda: None

    @property
    def tune(self) -> Tune | None:
        """The tune that commands apply to; if there is none, say so."""
        tune = self.current_tune() or self.session.reference
        if tune is None:
            self.session.refused.emit("There is no tune yet. Add one from the Tune menu.")
        return tune

    @property
    def drill(self) -> Drill | None:
        """The drill that commands apply to; if there is none, say so."""
        if self.session.drill is None:
            self.session.refused.emit("There is no drill yet. Add one from the Drill menu.")
        return self.session.drill

    def ask(self, title: str, label: str, text: str, *, long: bool = False) -> str | None:
        """Ask for a text; None if it is cancelled."""
        answer, given = (QInputDialog.getMultiLineText if long else QInputDialog.getText)(
            self._window, title, plain_tip(label), text=text
        )
        return answer if given else None

    def rename_study(self) -> None:
        """Ask for a new name of the study."""
        name = self.ask("Rename the study", "Name of the study", self.session.study.name)
        if name is not None:
            self.session.alter("Name of the study", lambda study: editing.described(study, name=name))

    # Tunes

    def new_tune(self) -> None:
        """Add a tune."""
        view: View = self.session.drill.view if self.session.drill else "side"
        self.session.alter("New tune", lambda study: editing.new_tune(study, view))

    def duplicate(self) -> None:
        """Duplicate the tune."""
        if tune := self.tune:
            self.session.alter(f"Duplicate {tune.name}", lambda study: editing.duplicated(study, tune.name))

    def copy_from_study(self, recent: list[Path]) -> None:
        """Copy tunes and drills from another study; `recent`: studies to offer."""
        from cinetica.desk.dialogs.copy_from_study import CopyFromStudy

        run(CopyFromStudy(self.session, recent, self._window))

    def snapshot(self) -> None:
        """Take a snapshot of the tune."""
        tune = self.tune
        if tune and self.session.alter(
            f"Snapshot of {tune.name}", lambda study: editing.with_snapshot(study, tune.name)
        ):
            self.session.message.emit(
                keyed(
                    "A snapshot of {0} now stands beside it. Restore the snapshot ({put_back}) to go back.", tune.name
                )
            )

    def put_back(self) -> None:
        """Restore the snapshot of the current column, or else the last one of its tune."""
        tune = self.tune
        if tune is None:
            return
        taken = [other.name for other in self.session.study.tunes if other.snapshot_of == tune.name]
        snapshot = tune.name if tune.snapshot_of or not taken else taken[0]
        if self.session.alter(f"Restore {snapshot}", lambda study: editing.restore_snapshot(study, snapshot)):
            self.session.message.emit(f"“{snapshot}” is restored.")

    def rename(self) -> None:
        """Ask for a new name of the tune."""
        if (tune := self.tune) and (name := self.ask("Rename the tune", "Name of the tune", tune.name)) is not None:
            self.session.alter(f"Rename {tune.name}", lambda study: editing.renamed_tune(study, tune.name, name))

    def edit_note(self) -> None:
        """Ask for a note on the tune."""
        if (tune := self.tune) and (
            note := self.ask("Note on the tune", f"Note on {tune.name}", tune.note, long=True)
        ) is not None:
            self.session.alter(f"Note on {tune.name}", lambda study: editing.with_tune_note(study, tune.name, note))

    def make_reference(self) -> None:
        """Make the tune the reference."""
        if tune := self.tune:
            self.session.choose_reference(tune)

    def hide(self) -> None:
        """Hide the tune, or show it again."""
        if tune := self.tune:
            self.session.toggle(tune)

    def choose_baseline(self) -> None:
        """Ask for the baseline, which Compare and Overview show pale until it is cleared."""
        baseline = self.session.baseline
        listed = [pair for pair in baseline.choices if pair[0] != REFERENCE] + [(A_FILE, "another file…")]
        words = [text for _, text in listed]
        now = next((place for place, (id, _) in enumerate(listed) if id == baseline.chosen), 0)
        text, given = QInputDialog.getItem(
            self._window,
            "Compare with an earlier state",
            "Draw it pale, and list what has changed since",
            words,
            now,
            False,
        )
        if given and text in words:
            self.hold(listed[words.index(text)][0])

    def hold(self, chosen: str) -> None:
        """Set the baseline to one of `Baseline.choices`, or to a file that is asked for."""
        if chosen == A_FILE:
            name, _ = QFileDialog.getOpenFileName(
                self._window, "Compare with a study", str(Path.cwd()), "Studies (*.json)"
            )
            if name:
                self.compare_with_file(Path(name))
            return
        self.session.hold(chosen)
        self.session.message.emit(self._changed_since())

    def _changed_since(self) -> str:
        """Which numbers differ from the baseline, or how many tunes if that is too long to say here."""
        baseline, session = self.session.baseline, self.session
        since = "by the last edit" if baseline.chosen == EDIT else f"since {baseline.words}"
        now = session.study.tunes
        words = changed_tunes(baseline.tunes, now, session.units.value)
        if words == NOTHING_CHANGED:
            return f"No number was changed {since}."
        if len(words) <= SHORT_ENOUGH:
            return f"Changed {since}: {words}"
        changed = sum(was != tune for was, tune in zip(baseline.tunes, now, strict=True))
        tunes = f"{changed} tunes were" if changed > 1 else "Several numbers of one tune were"
        return f"{tunes} changed {since}. Overview says which figures moved."

    def compare_with_file(self, path: Path) -> None:
        """Use the tunes of the same names in another file as the baseline."""
        try:
            study = read_study(path)
        except Refused as refused:
            self.session.refused.emit(refused.faults[0])
        except OSError as error:
            self.session.refused.emit(f"{path}: {error.strerror or error}")
        else:
            self.session.baseline.file, self.session.baseline.file_name = study, path.name
            self.hold("file")

    def find_number(self, verdict: Verdict) -> None:
        """Propose the smallest changes of one number that meet a missed target; the user may take one."""
        # Imported on first use, to keep the start fast.
        from cinetica.desk.dialogs.find_number import FindNumber
        from cinetica.reading.target_search import solve

        try:
            proposals = solve(self.session.study, verdict)
        except ValueError as error:
            self.session.refused.emit(str(error))
            return
        if proposals:
            run(FindNumber(self.session, verdict, proposals, self._window))
        else:
            self.session.refused.emit(
                f"No single number brings {verdict.label.lower()} of {verdict.tune} on {verdict.drill} to"
                f" {verdict.wanted} without missing another target."
            )

    def hand_over(self, page: str) -> None:
        """Show the dialog to hand a tune over, or to import numbers, at one of its pages."""
        from cinetica.desk.dialogs.hand_over import HandOver

        if tune := self.tune:
            dialog = HandOver(self.session, tune, self._window)
            dialog.show_page(page)
            run(dialog)

    def show_rates(self) -> None:
        """Compare the tune at several tick rates."""
        from cinetica.desk.dialogs.rates import Rates

        if self.drill and (tune := self.tune):
            run(Rates(self.session, tune, self._window))

    def rescale(self, scope: Scope, then: Callable[[], object]) -> None:
        """Ask for a factor and rescale; `then` is called if that was done."""
        # Imported on first use, to keep the start fast.
        from cinetica.desk.dialogs.rescale import RescaleDialog

        if (tune := self.tune) and run(RescaleDialog(self.session, tune, scope, self._window)):
            then()

    def move(self, by: int) -> None:
        """Move the tune among those of its view."""
        if tune := self.tune:
            self.session.alter(f"Move {tune.name}", lambda study: editing.moved_tune(study, tune.name, by))

    def remove(self) -> None:
        """Remove the tune."""
        if tune := self.tune:
            self.session.alter(f"Remove {tune.name}", lambda study: editing.without_tune(study, tune.name))
            self.session.message.emit(keyed("“{0}” is removed. Undo ({undo}) brings it back.", tune.name))

    def milestone(self) -> None:
        """Keep all tunes as they are now, under a name."""
        name = self.ask("Milestone", "Name of the milestone, such as “before the gravity change”", "")
        if name is None:
            return
        at = datetime.now().astimezone().isoformat(timespec="seconds")
        if self.session.alter(f"Milestone “{name.strip()}”", lambda study: editing.with_milestone(study, name, at)):
            self.session.message.emit(
                keyed(
                    "Milestone “{0}” is kept in the study. The history ({history}) can restore any of its tunes.",
                    name.strip(),
                )
            )

    # Drills

    def new_drill(self, view: View) -> None:
        """Add a drill and choose it."""
        if self.session.alter("New drill", lambda study: editing.with_new_drill(study, view)):
            self.session.choose_drill(self.session.study.drills[-1].name)

    def copy_drill(self) -> None:
        """Duplicate the drill and choose the copy."""
        if drill := self.drill:
            place = self.session.study.drills.index(drill)
            if self.session.alter(f"Copy {drill.name}", lambda study: editing.duplicated_drill(study, drill.name)):
                self.session.choose_drill(self.session.study.drills[place + 1].name)

    def rename_drill(self) -> None:
        """Ask for a new name of the drill."""
        if (drill := self.drill) and (
            name := self.ask("Rename the drill", "Name of the drill", drill.name)
        ) is not None:
            self.session.alter(f"Rename {drill.name}", lambda study: editing.renamed_drill(study, drill.name, name))

    def edit_drill_note(self) -> None:
        """Ask for a note on the drill."""
        if (drill := self.drill) and (
            note := self.ask("Note on the drill", f"Note on {drill.name}", drill.note, long=True)
        ) is not None:
            self.session.alter(f"Note on {drill.name}", lambda study: editing.with_drill_note(study, drill.name, note))

    def remove_drill(self) -> None:
        """Remove the drill."""
        if drill := self.drill:
            self.session.alter(f"Remove {drill.name}", lambda study: editing.without_drill(study, drill.name))
            self.session.message.emit(keyed("“{0}” is removed. Undo ({undo}) brings it back.", drill.name))

    def ask_one(self, title: str, label: str, of: list[str]) -> str | None:
        """Ask for one of these; None if it is cancelled."""
        answer, given = QInputDialog.getItem(self._window, title, label, of, 0, False)
        return answer if given and answer in of else None

    def lay_over(self) -> None:
        """Overlay the reference on a second drill, or remove the overlay."""
        drill, reference = self.drill, self.session.reference
        if drill is None or reference is None:
            return
        if self.session.overlay:
            self.session.lay_over("")
            self.session.message.emit("The overlay is off.")
            return
        others = [each.name for each in self.session.study.drills if each is not drill and each.view == drill.view]
        if not others:
            self.session.refused.emit(
                keyed(
                    "There is no other drill of this view to overlay. Duplicate this one ({copy_drill}) and"
                    " change its hands."
                )
            )
            return
        name = (
            others[0]
            if len(others) == 1
            else self.ask_one("Overlay a second drill", f"Drill on which {reference.name} is shown, too", others)
        )
        if name is not None:
            self.session.lay_over(name)
            self.session.message.emit(
                keyed(
                    "W is {0} on {1}. Line up ({line_up}) to compare launch with launch; {lay_over} again turns it"
                    " off.",
                    reference.name,
                    name,
                )
            )

    def next_drill(self, by: int) -> None:
        """Choose the next or previous drill."""
        drills = self.session.study.drills
        if self.session.drill is not None:
            place = drills.index(self.session.drill) + by
            self.session.choose_drill(drills[place % len(drills)].name)
