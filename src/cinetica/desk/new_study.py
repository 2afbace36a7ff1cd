"""Beginning a new study: with a character and drills to run it on, or with nothing."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.model.templates import TEMPLATES, Template


class NewStudy(QDialog):
    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle("New study")
        self.setMinimumWidth(look.px(460))
        self.list = QListWidget()
        self.list.setAccessibleName("What to begin with")
        self.list.setSpacing(4)
        for template in TEMPLATES:
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
        return TEMPLATES[max(0, self.list.currentRow())]
