"""Beginning a new study: with a character and drills to run it on, or with nothing."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.files.shipped import shipped_study
from cinetica.model.templates import TEMPLATES, Template

CHOICES = (
    *TEMPLATES,
    Template("The demo: harbour couriers", "Four finished tunes on eleven drills, to look at and to take from.", lambda: shipped_study("harbour")),
    Template("Pitfalls", "One tune for each common mistake, with a note on what to look at and on which frame.", lambda: shipped_study("pitfalls")),
)


class NewStudy(QDialog):
    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle("New study")
        self.setMinimumWidth(look.px(460))
        self.list = QListWidget()
        self.list.setAccessibleName("What to begin with")
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
        layout.addWidget(self.list)
        layout.addWidget(buttons)

    def chosen(self) -> Template | None:
        """The template that the person chooses, or None if they call it off."""
        if self.exec() != QDialog.DialogCode.Accepted:
            return None
        return CHOICES[max(0, self.list.currentRow())]
