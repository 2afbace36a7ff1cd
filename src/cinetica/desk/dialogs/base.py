"""What all dialogs have in common: they fit the screen, and are deleted when closed."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QShowEvent
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.state.session import Session


class Dialog(QDialog):
    """A dialog with a title, sized by its text."""

    def __init__(self, title: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._session: Session | None = None
        self._needs: tuple[frozenset[str], frozenset[str]] = (frozenset(), frozenset())

    def close_when_removed(self, session: Session, *, tunes: Iterable[str] = (), drills: Iterable[str] = ()) -> None:
        """Close when the study loses one of these: a reload or an undo may remove what the dialog is about."""
        self._session, self._needs = session, (frozenset(tunes), frozenset(drills))
        session.study_changed.connect(self._close_if_gone)
        session.loaded.connect(self._close_if_gone)

    def _close_if_gone(self) -> None:
        if self._session is None:
            return
        study, (tunes, drills) = self._session.study, self._needs
        there = tunes <= {tune.name for tune in study.tunes} and drills <= {drill.name for drill in study.drills}
        if not there and self.isVisible():
            self.reject()
            self._session.refused.emit(f"“{self.windowTitle()}” was closed: what it showed is gone.")

    def fit(self, letters: int, lines: int) -> None:
        """Set the width in letters and the height in lines, limited to the screen."""
        wanted = QSize(letters * look.width("n"), lines * look.height())
        self.resize(wanted.expandedTo(self.minimumSizeHint()).boundedTo(self.room()))

    @override
    def showEvent(self, event: QShowEvent) -> None:
        # A desktop may add icons to these buttons, in colours that do not fit; the text is enough.
        for box in self.findChildren(QDialogButtonBox):
            for button in box.buttons():
                button.setIcon(QIcon())
        super().showEvent(event)

    def room(self) -> QSize:
        """The space on the screen, without a frame."""
        return self.screen().availableGeometry().size() - QSize(24, 56)


def run(dialog: QDialog) -> int:
    """Open a dialog and wait for the answer. It is deleted once control returns to the event loop."""
    answer = dialog.exec()
    dialog.deleteLater()
    return answer
