"""What the report is to contain: which drills, which curves, and whether game logs are in it."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QDialogButtonBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.widgets import Chooser, PlainLabel, push_button
from cinetica.files.report import Contents
from cinetica.model.study import Drill, Study
from cinetica.reading.channels import CHANNELS, FIRST_PRESET, PRESETS, Channel

PAPERS = ("A4", "Letter")


class ReportContents(Dialog):
    """Two lists to tick, and what else there is to choose."""

    def __init__(self, study: Study, window: QWidget) -> None:
        super().__init__("Report", window)
        self._study = study
        usual = [
            each.column for strips in PRESETS[FIRST_PRESET].values() for each in strips if isinstance(each, Channel)
        ]
        self.drills = _ticked("Drills", ((drill.name, drill.name, True) for drill in study.drills))
        self.curves = _ticked("Curves", ((each.label, each.column, each.column in usual) for each in CHANNELS))
        self.logs = QCheckBox("Game logs, beside the tunes")
        self.logs.setChecked(bool(study.logs))
        self.logs.setEnabled(bool(study.logs))
        self.logs.setToolTip("" if study.logs else "There is no game log in this study")
        self.paper = Chooser()
        self.paper.addItems(PAPERS)
        self.paper.setAccessibleName("Paper of a PDF")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.save_button = buttons.addButton("Save as…", QDialogButtonBox.ButtonRole.AcceptRole)
        self.save_button.setDefault(True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        lists = QHBoxLayout()
        for title, ticks in (("Drills", self.drills), ("Curves of each drill", self.curves)):
            lists.addLayout(_titled(title, ticks), 1)
        below = QHBoxLayout()
        below.addWidget(self.logs)
        below.addStretch(1)
        below.addWidget(PlainLabel("Paper of a PDF"))
        below.addWidget(self.paper)
        column = QVBoxLayout(self)
        column.addLayout(lists, 1)
        column.addLayout(below)
        column.addWidget(buttons)
        for ticks in (self.drills, self.curves):
            ticks.itemChanged.connect(self._changed)
        self.fit(70, 26)

    def _changed(self) -> None:
        """Allow the report only if something is chosen for it."""
        self.save_button.setEnabled(bool(self.chosen_drills) and bool(_chosen(self.curves)))

    @property
    def chosen_drills(self) -> list[Drill]:
        """The drills that are ticked, in the order of the study."""
        names = set(_chosen(self.drills))
        return [drill for drill in self._study.drills if drill.name in names]

    @property
    def contents(self) -> Contents:
        """What is ticked. The usual curves differ between the views, so they are left to the report."""
        columns = tuple(_chosen(self.curves))
        usual = {
            each.column for strips in PRESETS[FIRST_PRESET].values() for each in strips if isinstance(each, Channel)
        }
        return Contents(() if set(columns) == usual else columns, self.logs.isChecked())


def _ticked(name: str, entries: Iterable[tuple[str, str, bool]]) -> QListWidget:
    """A list of words to tick, each with what it stands for."""
    ticks = QListWidget()
    ticks.setAccessibleName(name)
    for words, value, on in entries:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, value)
        item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
        ticks.addItem(item)
    return ticks


def _titled(title: str, ticks: QListWidget) -> QVBoxLayout:
    """A list below its title, with buttons that tick all or none."""
    head = QHBoxLayout()
    head.addWidget(PlainLabel(title), 1)
    for words, state in (("All", Qt.CheckState.Checked), ("None", Qt.CheckState.Unchecked)):
        button = push_button(words, partial(_tick_all, ticks, state))
        button.setAccessibleName(f"{words}: {title}")
        head.addWidget(button)
    column = QVBoxLayout()
    column.addLayout(head)
    column.addWidget(ticks)
    return column


def _tick_all(ticks: QListWidget, state: Qt.CheckState) -> None:
    for row in range(ticks.count()):
        ticks.item(row).setCheckState(state)


def _chosen(ticks: QListWidget) -> list[str]:
    """What stands behind the ticked words."""
    items = [ticks.item(row) for row in range(ticks.count())]
    return [item.data(Qt.ItemDataRole.UserRole) for item in items if item.checkState() == Qt.CheckState.Checked]
