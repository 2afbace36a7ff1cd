"""The history of a study: its edits by name, and the milestones that the user has named."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QUndoView,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import PlainLabel, plain_tip, push_button
from cinetica.model import editing
from cinetica.model.milestone import Milestone


class History(Dialog):
    """Stays open beside the window. A click on an edit goes back (or forward) to it."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__("History", window)
        self.session = session
        self.edits = QUndoView(session.undo_stack)
        self.edits.setEmptyLabel("As opened")
        self.edits.setAccessibleName("Edits")
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name of the milestone")
        self.name.setAccessibleName("Name of the new milestone")
        self.name.returnPressed.connect(self.add)
        self.milestones = QTreeWidget()
        self.milestones.setHeaderHidden(True)
        self.milestones.setAccessibleName("Milestones")
        self.milestones.itemDoubleClicked.connect(lambda item, _: self.restore_chosen() if item.parent() else None)
        halves = QHBoxLayout(self)
        halves.addLayout(
            _column("Edits since opening", "Click an edit to go back to it, or forward again.", self.edits), 2
        )
        bottom = QHBoxLayout()
        self.back, self.rename, self.remove = (
            push_button("&Restore as a new tune", self.restore_chosen), push_button("Re&name", self.rename_chosen),
            push_button("Re&move", self.remove_chosen),
        )  # fmt: skip
        for button in (self.back, self.rename, self.remove):
            bottom.addWidget(button)
        top = QHBoxLayout()
        top.addWidget(self.name, 1)
        top.addWidget(push_button("&Keep", self.add))
        about = "All tunes as they were, kept in the study. Restore one beside the current tune."
        right = _column("Milestones", about, top, self.milestones, bottom)
        halves.addLayout(right, 3)
        self.milestones.itemSelectionChanged.connect(self._enable)
        session.study_changed.connect(self._list)
        self._shown: tuple[Milestone, ...] | None = None
        self._list()
        self.fit(104, 32)

    def _list(self) -> None:
        listed = self.session.study.milestones
        if listed == self._shown:
            return
        self._shown = listed
        self.milestones.clear()
        for milestone in reversed(listed):
            top = QTreeWidgetItem([f"{milestone.name}   {when(milestone.at)}"])
            top.setData(0, Qt.ItemDataRole.UserRole, milestone.name)
            top.setToolTip(0, plain_tip(f"{milestone.name}, {when(milestone.at)}"))
            for tune in milestone.tunes:
                child = QTreeWidgetItem([tune.name])
                child.setData(0, Qt.ItemDataRole.UserRole, tune.name)
                child.setToolTip(0, plain_tip(f"{tune.name}. {tune.note}"))
                top.addChild(child)
            self.milestones.addTopLevelItem(top)
            top.setExpanded(True)
        if not listed:
            none = QTreeWidgetItem(["No milestones yet. Add one above before a big change."])
            none.setDisabled(True)
            self.milestones.addTopLevelItem(none)
        self._enable()

    @property
    def chosen(self) -> tuple[str, str]:
        """Names of the selected milestone and of the tune in it; empty if none is selected."""
        items = self.milestones.selectedItems()
        if not items:
            return "", ""
        name, parent = str(items[0].data(0, Qt.ItemDataRole.UserRole) or ""), items[0].parent()
        return (str(parent.data(0, Qt.ItemDataRole.UserRole)), name) if parent is not None else (name, "")

    def _enable(self) -> None:
        milestone, tune = self.chosen
        self.back.setEnabled(bool(tune))
        self.back.setToolTip("" if tune else "Select a tune under a milestone.")
        self.rename.setEnabled(bool(milestone))
        self.remove.setEnabled(bool(milestone))

    def add(self) -> None:
        """Add a milestone."""
        name, at = self.name.text(), datetime.now().astimezone().isoformat(timespec="seconds")
        if self.session.alter(f"Milestone “{name.strip()}”", lambda study: editing.with_milestone(study, name, at)):
            self.name.clear()
            self.session.message.emit(f"Milestone “{name.strip()}” is kept in the study.")

    def restore_chosen(self) -> None:
        """Bring the selected tune back beside the current one."""
        milestone, tune = self.chosen
        if tune and self.session.alter(
            f"Restore {tune}, {milestone}", lambda study: editing.with_restored_tune(study, milestone, tune)
        ):
            self.session.message.emit(
                f"{tune} from “{milestone}” now stands beside the current tune. Drag its name onto a group to copy"
                " that group."
            )

    def rename_chosen(self) -> None:
        """Rename the selected milestone."""
        milestone, _ = self.chosen
        name, given = QInputDialog.getText(self, "Rename the milestone", "Name of the milestone", text=milestone)
        if given:
            self.session.alter(
                f"Rename the milestone {milestone}", lambda study: editing.renamed_milestone(study, milestone, name)
            )

    def remove_chosen(self) -> None:
        """Remove the selected milestone."""
        milestone, _ = self.chosen
        self.session.alter(
            f"Remove the milestone {milestone}", lambda study: editing.without_milestone(study, milestone)
        )
        self.session.message.emit(keyed("The milestone “{0}” is removed. Undo ({undo}) brings it back.", milestone))


def _column(title: str, words: str, *parts: QWidget | QHBoxLayout) -> QVBoxLayout:
    column = QVBoxLayout()
    heading, soft = PlainLabel(title), PlainLabel(words)
    heading.setFont(look.font(11, bold=True))
    soft.setObjectName("soft")
    soft.setWordWrap(True)
    column.addWidget(heading)
    column.addWidget(soft)
    for part in parts:
        if isinstance(part, QWidget):
            column.addWidget(part, 1)
        else:
            column.addLayout(part)
    return column


def when(at: str) -> str:
    """A date and time in words; empty if it is invalid."""
    try:
        return f"{datetime.fromisoformat(at).astimezone():%-d %b, %H:%M}"
    except ValueError:
        return ""
