"""Copying tunes and drills from another study."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.dialogs.new_study import CHOICES
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, leaves, plain_tip, push_button
from cinetica.files.reading import Refused
from cinetica.files.study_json import read_study
from cinetica.model import editing
from cinetica.model.study import Drill, Study
from cinetica.model.templates import TEMPLATES
from cinetica.model.tune import Tune


class CopyFromStudy(Dialog):
    """`recent`: studies to offer. What is ticked is copied in one edit, which can be undone."""

    def __init__(self, session: Session, recent: Sequence[Path], window: QWidget) -> None:
        super().__init__("Copy from a study", window)
        self.session = session
        self.other: Study | None = None
        self.sources = Chooser()
        self.sources.setAccessibleName("Study to copy from")
        for path in recent:
            if path != session.path:
                self.sources.addItem(f"{path.name}  —  {path.parent}", path)
        # The finished studies first.
        for template in (*CHOICES[len(TEMPLATES) :], *TEMPLATES):
            if template.make().drills:
                self.sources.addItem(template.name, template)
        self.sources.setMaximumWidth(self.room().width() // 2)
        self.sources.currentIndexChanged.connect(self._read)
        self.list = QTreeWidget()
        self.list.setHeaderHidden(True)
        self.list.setAccessibleName("Tunes and drills in that study")
        self.list.itemChanged.connect(self._enable)
        self.message = PlainLabel()
        self.message.setWordWrap(True)
        self.message.setObjectName("warning")
        self.answers = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.answers.button(QDialogButtonBox.StandardButton.Ok).setText("&Take")
        self.answers.accepted.connect(self.take)
        self.answers.rejected.connect(self.reject)
        self._lay_out()
        self._read()
        self.list.setFocus()
        self.fit(84, 30)

    def _lay_out(self) -> None:
        from_file = push_button("Another &file…", self._choose_file)
        top = QHBoxLayout()
        top.addWidget(QLabel("From"))
        top.addWidget(self.sources, 1)
        top.addWidget(from_file)
        layout = QVBoxLayout(self)
        layout.addLayout(top)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.message)
        layout.addWidget(self.answers)

    def _choose_file(self) -> None:
        start = str(self.session.path.parent if self.session.path else Path.cwd())
        name, _ = QFileDialog.getOpenFileName(self, "Study to copy from", start, "Studies (*.json)")
        if name:
            path = Path(name)
            self.sources.insertItem(0, f"{path.name}  —  {path.parent}", path)
            self.sources.setCurrentIndex(0)

    def _read(self, *_: object) -> None:
        """List the contents of the chosen study, or say why it cannot be read."""
        source = self.sources.currentData()
        self.list.clear()
        self.message.setText("")
        self.other = None
        try:
            self.other = read_study(source) if isinstance(source, Path) else source.make()
        except Refused as refused:
            self.message.setText(refused.faults[0])
        except OSError as error:
            self.message.setText(f"{source}: {error.strerror or error}")
        else:
            self._list("Tunes", self.other.tunes)
            self._list("Drills", self.other.drills)
            if self.list.topLevelItemCount() == 0:
                self.message.setText("That study has no tunes and no drills.")
        self._enable()

    def _list(self, title: str, things: Sequence[Tune] | Sequence[Drill]) -> None:
        if not things:
            return
        top = QTreeWidgetItem([title])
        top.setFlags(Qt.ItemFlag.ItemIsEnabled)
        for thing in things:
            seen = "seen from above" if thing.view == "top" else "seen from the side"
            child = QTreeWidgetItem([f"{thing.name}  ({seen})"])
            child.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsUserCheckable)
            child.setCheckState(0, Qt.CheckState.Unchecked)
            child.setData(0, Qt.ItemDataRole.UserRole, thing.name)
            child.setToolTip(0, plain_tip(thing.note or thing.name))
            top.addChild(child)
        self.list.addTopLevelItem(top)
        top.setExpanded(True)
        if self.list.currentItem() is None and (first := top.child(0)) is not None:
            self.list.setCurrentItem(first)

    def ticked(self, title: str) -> list[str]:
        """Names of the ticked items under “Tunes” or “Drills”."""
        children = [child for top, child in leaves(self.list) if top.text(0) == title]
        return [
            str(child.data(0, Qt.ItemDataRole.UserRole))
            for child in children
            if child.checkState(0) is Qt.CheckState.Checked
        ]

    def _enable(self, *_: object) -> None:
        self.answers.button(QDialogButtonBox.StandardButton.Ok).setEnabled(
            bool(self.ticked("Tunes") or self.ticked("Drills"))
        )

    def take(self) -> None:
        """Copy what is ticked."""
        other, tunes, drills = self.other, self.ticked("Tunes"), self.ticked("Drills")
        if other is None or not (tunes or drills):
            return
        try:
            after = editing.with_taken(self.session.study, other, tunes, drills)
        except ValueError as error:
            self.message.setText(str(error))
            return
        names = ", ".join([*tunes, *drills])
        if self.session.alter(f"Copy {names} from {other.name}", lambda _: after):
            self.session.message.emit(f"Copied from {other.name}: {names}.")
            self.accept()
