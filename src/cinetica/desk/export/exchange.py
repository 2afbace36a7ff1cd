"""Imports and exports: pictures, tables, the report, proofs, and game logs."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QWidget

from cinetica.desk.actions.keys import keyed
from cinetica.desk.compare.strips import Strips
from cinetica.desk.dialogs.base import run
from cinetica.desk.export.waiting import finished, meanwhile, progress_dialog
from cinetica.desk.state.session import Session
from cinetica.files.atomic_write import write_atomically
from cinetica.files.file_names import file_name
from cinetica.files.reading import Refused
from cinetica.files.trace_csv import trace_text
from cinetica.model.editing import without_log
from cinetica.model.tune import Tune

if TYPE_CHECKING:
    from cinetica.desk.survey.view import View
    from cinetica.files.report import Contents, Pinned
    from cinetica.model.study import Drill, Study

PICTURES = "Pictures (*.png *.svg)"
LOGS = "Tables (*.csv *.tsv *.txt *.log);;All files (*)"


class Exchange(QObject):
    """Every export reports where it went, or why it could not be written.

    The modules it needs are imported on first use.
    """

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self._window = session, window
        # What was added to the report on the page Survey; kept for as long as the window is open.
        self.pinned: list[Pinned] = []

    # Questions to the user; tests replace these

    def ask_where(self, title: str, name: str, kinds: str) -> Path | None:
        """Ask for a file to write."""
        chosen, _ = QFileDialog.getSaveFileName(self._window, title, str(self._folder / name), kinds)
        return Path(chosen) if chosen else None

    def ask_folder(self, title: str) -> Path | None:
        """Ask for a folder."""
        chosen = QFileDialog.getExistingDirectory(self._window, title, str(self._folder))
        return Path(chosen) if chosen else None

    def ask_file(self, title: str, kinds: str) -> Path | None:
        """Ask for a file to read."""
        chosen, _ = QFileDialog.getOpenFileName(self._window, title, str(self._folder), kinds)
        return Path(chosen) if chosen else None

    def ask_one(self, title: str, label: str, of: list[str]) -> str | None:
        """Ask for one of these; None if it is cancelled."""
        answer, given = QInputDialog.getItem(self._window, title, label, of, 0, False) if of else ("", False)
        return answer if given and answer in of else None

    def ask_contents(self, study: Study) -> tuple[list[Drill], Contents, str] | None:
        """Ask what goes into the report: its drills, the parts of each, and the paper of a PDF."""
        from cinetica.desk.dialogs.report_contents import ReportContents

        asked = ReportContents(study, self._window)
        accepted = run(asked) == QDialog.DialogCode.Accepted
        return (asked.chosen_drills, asked.contents, asked.paper.currentText()) if accepted else None

    @property
    def _folder(self) -> Path:
        return self.session.path.parent if self.session.path else Path.cwd()

    def _write(self, path: Path, write: Callable[[], object]) -> None:
        try:
            done = write()
        except OSError as error:
            self.session.refused.emit(f"{error.filename or path}: {error.strerror or error}. Choose another place.")
        except (Refused, ValueError) as error:
            self.session.refused.emit(str(error))
        else:
            self.session.message.emit(f"Saved in {path}." if done is not False else "Cancelled: nothing was written.")

    # Pictures and tables

    @property
    def _drill_file(self) -> str:
        return file_name(self.session.drill.name if self.session.drill else self.session.study.name)

    def save_picture(self, part: QWidget, what: str) -> None:
        """Save a picture of a part of the page."""
        from cinetica.desk.export.pictures import save_picture

        if path := self.ask_where(f"Picture of the {what}", f"{self._drill_file}-{what}.png", PICTURES):
            self._write(path, lambda: save_picture(part, path, self.session.study.name))

    def save_strip(self, strips: Strips) -> None:
        """Save a picture of one strip."""
        names = [strip.channel.label for strip in strips.strips]
        if not names:
            self.session.refused.emit("There is no strip to draw. Add one from the Strips menu.")
        if (name := self.ask_one("Picture of one strip", "Strip", names)) is not None:
            self.save_picture(strips.strips[names.index(name)], file_name(name))

    def save_traces(self) -> None:
        """Save the trace of each visible tune."""
        if not self.session.shown:
            self.session.refused.emit("There is no trace to save. Show a tune on a drill first.")
        elif folder := self.ask_folder("Folder for the traces"):
            shown = [each for each in self.session.shown if not each.trace.logged]

            def write() -> None:
                """Write the files."""
                for each in shown:
                    write_atomically(
                        folder / f"{self._drill_file}-{file_name(each.tune.name)}.csv",
                        trace_text(each.trace, self.session.units).encode(),
                    )

            self._write(folder, write)

    def save_measures(self) -> None:
        """Save the measures of every drill."""
        from cinetica.files.report import measures_csv

        if path := self.ask_where(
            "Figures of every drill", f"{file_name(self.session.study.name)}-measures.csv", "CSV (*.csv)"
        ):
            study = self.session.study
            self._write(path, lambda: write_atomically(path, measures_csv(study, study.drills).encode()))

    def save_table(self, view: View) -> None:
        """Save what a view of Survey shows, as CSV."""
        from cinetica.files.tables import table_csv

        head, rows = view.table()
        if not rows:
            self.session.refused.emit("There is nothing to save: this view is still empty.")
        elif path := self.ask_where(
            f"Numbers of {view.WORDS}", f"{self._drill_file}-{file_name(view.WORDS)}.csv", "CSV (*.csv)"
        ):
            self._write(path, lambda: write_atomically(path, table_csv(head, rows).encode()))

    def pin(self, view: View) -> None:
        """Add what a view of Survey shows to the report: a picture and, if short, a table."""
        from cinetica.desk.export.pictures import svg_of
        from cinetica.files.report import Pinned

        head, rows = view.table()
        if not rows:
            self.session.refused.emit("There is nothing to add: this view is still empty.")
            return
        drill = self.session.drill.name if self.session.drill else ""
        self.pinned.append(Pinned(f"{view.WORDS}: {drill}", svg_of(view, view.WORDS), head, tuple(rows)))
        self.session.message.emit(keyed("Added to the report ({report}); {0} pictures so far.", str(len(self.pinned))))

    def save_report(self) -> None:
        """Save the report after asking what is in it, with progress and a way to cancel: it draws every drill."""
        study = self.session.study
        if not study.drills:
            self.session.refused.emit("There is no drill to report on. Add one first.")
            return
        asked = self.ask_contents(study)
        if asked is None:
            return
        path = self.ask_where("Report", f"{file_name(study.name)}.html", "Web page (*.html);;PDF (*.pdf)")
        if path is not None:
            self.write_report(study, path, *asked)

    def write_report(self, study: Study, path: Path, drills: list[Drill], contents: Contents, paper: str) -> None:
        """Write the report with a bar that shows how far it is; the window stays alive while a PDF is set."""
        from cinetica.files.report import pdf_of, report_html

        progress = progress_dialog("Report", "Drawing the drills…", len(drills), self._window)

        def go_on(done: int, of: int) -> bool:
            """Show the progress; False once it is cancelled."""
            progress.setValue(done)
            QApplication.processEvents()
            return not progress.wasCanceled()

        def write() -> bool:
            """Draw, set and write the report; False once it is cancelled."""
            page = report_html(study, drills, go_on, paper, self.pinned, contents)
            if page is None:
                return False
            content: bytes | None = page.encode()
            if path.suffix.lower() == ".pdf":
                progress.setLabelText("Setting the PDF…")
                progress.setMaximum(0)
                content = meanwhile(lambda: pdf_of(page), progress.wasCanceled)
            if content is not None:
                write_atomically(path, content)
            return content is not None

        self._write(path, write)
        progress.reset()
        progress.deleteLater()

    # The game

    def write_proof(self, tune: Tune | None) -> None:
        """Write the proof of a tune."""
        from cinetica.files.proof import write_proof

        if tune is not None and (folder := self.ask_folder(f"Folder for the proof of {tune.name}")):
            study = self.session.study
            self._write(
                folder,
                lambda: finished(
                    lambda: write_proof(study, tune, folder),
                    "Proof",
                    f"Writing the proof of {tune.name}…",
                    self._window,
                ),
            )

    def import_log(self, path: Path | None = None) -> None:
        """Import a log, dropped on the window or asked for, after showing how it was understood."""
        from cinetica.desk.dialogs.import_log import ImportLog
        from cinetica.files.game_csv import read_text

        if self.session.drill is None:
            self.session.refused.emit(
                "There is no drill to compare the log with. Add the one that was played in the game first."
            )
            return
        path = path or self.ask_file("Import a game log", LOGS)
        if path is None:
            return
        try:
            dialog = ImportLog(self.session, path, read_text(path), self._window)
        except Refused as refused:
            self.session.refused.emit("; ".join(refused.faults))
            return
        run(dialog)

    def remove_log(self) -> None:
        """Remove a log of this drill."""
        names = [log.name for log in self.session.logs]
        if not names:
            self.session.refused.emit("There is no game log on this drill.")
            return
        name = names[0] if len(names) == 1 else self.ask_one("Remove a game log", "Curve", names)
        if name is not None and self.session.alter(f"Remove the log {name}", lambda study: without_log(study, name)):
            self.session.message.emit(keyed("“{0}” is removed. Undo ({undo}) brings it back.", name))
