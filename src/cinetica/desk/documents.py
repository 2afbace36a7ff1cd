"""What the menu Study does: open, save, duplicate, and ask when another program has changed the file."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QFileDialog, QMenu, QMessageBox, QWidget

from cinetica.desk.dialogs.base import run
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Settings
from cinetica.desk.study_file import StudyFile, digest_of
from cinetica.files.file_names import file_name, fitting
from cinetica.files.reading import Refused
from cinetica.files.recovery import RecoveryFile, UnsavedStudy
from cinetica.files.study_json import read_study
from cinetica.model.editing import named_after
from cinetica.model.study import Study

FILES = "Cinetica studies (*.json)"
MOST_RECENT = 8


class Documents(QObject):
    """The menu Study of one window. `open_another` opens a study in another window, if there can be several."""

    def __init__(
        self,
        session: Session,
        window: QWidget,
        settings: Settings | None,
        recovery: RecoveryFile | None = None,
        beside: Documents | None = None,
    ) -> None:
        """`beside`: the documents of a window on the same study, whose file is shared."""
        super().__init__(window)
        self.session, self._window, self._settings = session, window, settings
        self.open_another: Callable[[Study, Path | None], object] | None = None
        self.file: StudyFile = beside.file if beside else StudyFile(session.document, session.undo_stack, recovery)
        self.file.enter(self._look_at_disk)
        # The number of this window among those on the study.
        self.number = self.file.windows
        self.file.not_kept.connect(session.refused)
        session.study_changed.connect(self.file.schedule_autosave)

    @property
    def modified(self) -> bool:
        """Whether there are unsaved changes."""
        return self.file.modified

    @property
    def is_shared(self) -> bool:
        """Whether another window shows the same study."""
        return self.file.windows > 1

    def recover(self, left: UnsavedStudy) -> None:
        """Show a study left by a crash: unsaved, with the path it had."""
        self.load(left.study, left.origin, modified=True)
        if done := self.file.keep():
            done.result()
        left.remove()

    def close(self) -> None:
        """Release the study: the window closes."""
        self.file.leave(self._look_at_disk)

    # Opening

    @property
    def pristine(self) -> bool:
        """Whether nothing is lost by showing another study in this window."""
        return not self.modified and self.session.path is None

    def load(self, study: Study, path: Path | None, *, modified: bool = False) -> None:
        """Show a study in this window."""
        self.session.load(study, path)
        if modified:
            self.session.undo_stack.resetClean()
        self.file.follow()
        if path is not None:
            self._remember(path)

    def duplicate(self) -> None:
        """Open a copy of the study, under another name, in another window."""
        study = self.session.study
        copy = study.model_copy(update={"name": named_after(study.name, " copy")})
        if self.open_another is not None:
            self.open_another(copy, None)

    def show(self, study: Study, path: Path | None) -> None:
        """Show a study in this window if it is free, else in a new one."""
        if self.pristine:
            self.load(study, path)
        elif self.open_another is not None:
            self.open_another(study, path)
        elif self.may_leave():
            self.load(study, path)

    def open(self) -> None:
        """Ask for a file and open it."""
        start = self.session.path.parent if self.session.path else Path.cwd()
        chosen, _ = QFileDialog.getOpenFileName(self._window, "Open a study", str(start), FILES)
        if chosen:
            self.open_file(Path(chosen))

    def open_file(self, path: Path) -> None:
        """Open a file, or say why it cannot be opened."""
        try:
            study = read_study(path)
        except Refused as refused:
            self.warn("This file cannot be opened", "\n".join(refused.faults))
            return
        self.show(study, path)

    def fill_recent(self, menu: QMenu) -> None:
        """Fill the menu with recently opened files that still exist, newest first."""
        menu.clear()
        for number, path in enumerate(self.recent(), 1):
            action = menu.addAction(f"&{number}  {path.name}  —  {path.parent}")
            action.triggered.connect(lambda _checked=False, path=path: self.open_file(path))
        if menu.isEmpty():
            menu.addAction("No recent studies").setEnabled(False)

    def recent(self) -> list[Path]:
        """Recently opened files that still exist, newest first."""
        listed = self._settings.get(Kept.RECENT) if self._settings else []
        return [Path(each) for each in listed if each and Path(each).is_file()]

    def _remember(self, path: Path) -> None:
        if self._settings is not None:
            path = path.resolve()
            others = [str(each) for each in self.recent() if each != path]
            self._settings.set(Kept.RECENT, [str(path), *others][:MOST_RECENT])

    # Saving

    def save(self) -> bool:
        """Save; returns whether the study is saved."""
        return self._write(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        """Ask for a file and save; returns whether the study is saved."""
        start = self.session.path or Path.cwd() / f"{file_name(self.session.study.name)}.json"
        chosen, _ = QFileDialog.getSaveFileName(self._window, "Save the study", str(start), FILES)
        path = self._accepted_path(Path(chosen)) if chosen else None
        return path is not None and self._write(path, chosen_now=True)

    def _accepted_path(self, chosen: Path) -> Path | None:
        """The chosen path with the suffix of a study, shortened if necessary; None if the user declines."""
        path = chosen if re.fullmatch(r"\.[A-Za-z]\w*", chosen.suffix) else chosen.with_name(f"{chosen.name}.json")
        if (shorter := fitting(path)) != path:
            question = f"The name is too long for this folder. Save as “{shorter.name}” instead?"
            path = shorter
            if self.ask("Name too long", question, "Save under the shorter name", "Cancel") != 0:
                return None
        # About the name as chosen, the file dialog has already asked.
        if path != chosen and path.exists():
            question = f"{path.name} already exists. Replace it? The earlier version is kept as {path.name}~."
            if self.ask("File exists", question, "Replace", "Cancel") != 0:
                return None
        return path

    def _write(self, path: Path, *, chosen_now: bool = False) -> bool:
        if not chosen_now and self.file.is_changed:
            question = (
                f"{path.name} was changed by another program since it was opened here. Replace it? The other version"
                f" stays as {path.name}~."
            )
            if self.ask("Changed on disk", question, "Replace", "Cancel") != 0:
                return False
        try:
            self.file.write(path)
        except OSError as error:
            self.warn(
                "The study could not be saved",
                f"{path}: {error.strerror or error}\nChoose another place; nothing is lost.",
            )
            return False
        self._remember(path)
        self.session.message.emit(f"Saved in {path}.")
        return True

    def may_leave(self) -> bool:
        """Whether the study may be closed: it is saved, or the user saves or discards the changes."""
        if not self.modified or self.is_shared:
            return True
        buttons = QMessageBox.StandardButton
        box = self.box(
            QMessageBox.Icon.Question,
            "Save changes?",
            f"“{self.session.study.name}” has unsaved changes.",
        )
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        box.setDefaultButton(buttons.Save)
        answer = buttons(run(box))
        return self.save() if answer == buttons.Save else answer == buttons.Discard

    # The file on disk

    def _look_at_disk(self) -> None:
        """The file was changed by another program: ask what to do if its content differs."""
        path = self.session.path
        if path is None:
            return
        digest = digest_of(path)
        if not digest:
            self.session.refused.emit(f"{path.name} is gone. Saving creates it again.")
            self.session.undo_stack.resetClean()
            return
        if digest == self.file.digest:
            self.file.watcher.addPath(str(path))
            return
        self.file.follow()
        try:
            study = read_study(path)
        except Refused as refused:
            self.session.refused.emit(
                f"Another program has changed {path.name} so that it cannot be read; what is here stays."
                f" {refused.faults[0]}"
            )
            self.session.undo_stack.resetClean()
            return
        if study == self.session.study:
            return
        lost = " Loading it would lose your unsaved changes." if self.modified else ""
        question = f"{path.name} was changed by another program.{lost} Which version do you want?"
        if self.ask("Changed on disk", question, "Load from disk", "Keep mine") == 0:
            self.load(study, path)
            self.session.message.emit(f"{path.name} was reloaded.")
        else:
            self.session.undo_stack.resetClean()

    # Asking

    def ask(self, title: str, question: str, *choices: str) -> int:
        """The index of the chosen answer; the last one if the question is closed."""
        box = self.box(QMessageBox.Icon.Question, title, question)
        buttons = [box.addButton(choice, QMessageBox.ButtonRole.ActionRole) for choice in choices]
        box.setEscapeButton(buttons[-1])
        run(box)
        clicked = box.clickedButton()
        return next((place for place, button in enumerate(buttons) if button is clicked), len(choices) - 1)

    def warn(self, title: str, text: str) -> None:
        """Show a warning."""
        run(self.box(QMessageBox.Icon.Warning, title, text))

    def box(self, icon: QMessageBox.Icon, title: str, text: str) -> QMessageBox:
        """A message box with plain text."""
        box = QMessageBox(icon, title, text, parent=self._window)
        box.setTextFormat(Qt.TextFormat.PlainText)
        return box
