"""Windows that stay open beside the main window: the guide, the history, and notes and targets."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QWidget

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.desk.state.study_runs import StudyRuns

if TYPE_CHECKING:
    from cinetica.desk.dialogs.guide import Guide
    from cinetica.desk.match.drawing import WantedEditor


class SideWindows:
    """Each is imported and created on first use, to keep the start fast.

    `to_drill` shows a drill, a tune and a figure, given their names.
    """

    def __init__(self, session: Session, window: QWidget, to_drill: Callable[[str, str, str], object]) -> None:
        self._session, self._window, self._to_drill = session, window, to_drill
        self.history: QDialog | None = None
        self.decided: QDialog | None = None
        self.guide: Guide | None = None
        self.match: QDialog | None = None
        self.pictures: QDialog | None = None

    def show_history(self) -> None:
        """Show the history."""
        from cinetica.desk.dialogs.history import History

        if self.history is None:
            self.history = History(self._session, self._window)
        _show(self.history)

    def show_notes_and_targets(self, study_runs: StudyRuns) -> None:
        """Show notes and targets."""
        from cinetica.desk.dialogs.notes_and_targets import NotesAndTargets

        if self.decided is None:
            self.decided = NotesAndTargets(self._session, study_runs, self._to_drill, self._window)
        _show(self.decided)

    def show_match(self, wanted: WantedEditor) -> None:
        """Show the panel that matches a curve."""
        from cinetica.desk.match.panel import MatchPanel

        if self.match is None:
            self.match = MatchPanel(self._session, wanted, self._window)
        _show(self.match)

    def show_pictures(self) -> None:
        """Show the window that reads a curve off pictures."""
        from cinetica.desk.match.footage import ReadPictures

        if self.pictures is None:
            self.pictures = ReadPictures(self._session, self._window)
        _show(self.pictures)

    def show_guide(self, job: str) -> None:
        """Show the guide at the job whose title contains these words."""
        from cinetica.desk.dialogs.guide import Guide

        if self.guide is None or self.guide.text_scale != look.text_scale():
            self.guide = Guide(self._window)
        self.guide.to(job)
        _show(self.guide)

    def close(self) -> None:
        """Close them all."""
        for dialog in (self.history, self.decided, self.guide, self.match, self.pictures):
            if dialog is not None:
                dialog.close()


def _show(dialog: QDialog) -> None:
    dialog.show()
    dialog.raise_()
