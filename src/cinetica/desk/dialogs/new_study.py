"""Starting a new study: with a character and drills to run it on, or empty."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk.dialogs.base import Dialog, run
from cinetica.files.shipped import shipped_study
from cinetica.model.templates import TEMPLATES, Template

CHOICES = (
    *TEMPLATES,
    Template(
        "The demo: harbour couriers",
        "Finished tunes and drills of both views, to look at and to copy from.",
        lambda: shipped_study("harbour"),
    ),
    Template(
        "Pitfalls",
        "One tune for each common mistake, with a note on what to look for and on which frame.",
        lambda: shipped_study("pitfalls"),
    ),
)


class NewStudy(Dialog):
    """The choice of a template."""

    def __init__(self, window: QWidget) -> None:
        super().__init__("New study", window)
        self.list = QListWidget()
        self.list.setAccessibleName("What to start from")
        self.list.setSpacing(4)
        for template in CHOICES:
            self.list.addItem(QListWidgetItem(f"{template.name}\n{template.meaning}"))
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(lambda _: self.accept())
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        begin = buttons.addButton("Begin", QDialogButtonBox.ButtonRole.AcceptRole)
        begin.setDefault(True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(QLabel("What does your character do?"))
        layout.addWidget(self.list, 1)
        layout.addWidget(buttons)
        # All of them visible without scrolling.
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        letters = max(len(template.meaning) for template in CHOICES)
        self.fit(letters + 4, len(CHOICES) * 3 + 7)

    def chosen(self) -> Template | None:
        """Ask for a template; None if it is cancelled."""
        if run(self) != QDialog.DialogCode.Accepted:
            return None
        return CHOICES[max(0, self.list.currentRow())]
