"""What all dialogs have in common: they fit the screen, and they are gone once they are closed."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QShowEvent
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QWidget

from cinetica.desk import look


class Dialog(QDialog):
    """A dialog with a title, sized by the text in it."""

    def __init__(self, title: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)

    def fit(self, letters: int, lines: int) -> None:
        """As wide as so many letters and as high as so many lines, but never larger than the screen."""
        wanted = QSize(letters * look.width("n"), lines * look.height())
        self.resize(wanted.expandedTo(self.minimumSizeHint()).boundedTo(self.room()))

    def showEvent(self, event: QShowEvent) -> None:
        # A desktop gives these buttons signs of its own, in colours that are not ours; their words say it.
        for box in self.findChildren(QDialogButtonBox):
            for button in box.buttons():
                button.setIcon(QIcon())
        super().showEvent(event)

    def room(self) -> QSize:
        """What the screen has room for, beside a frame."""
        return self.screen().availableGeometry().size() - QSize(24, 56)


def run(dialog: QDialog) -> int:
    """Open a dialog and wait for the answer. It lives no longer than its answer is looked at."""
    answer = dialog.exec()
    dialog.deleteLater()
    return answer
