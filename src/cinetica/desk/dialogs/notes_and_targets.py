"""What was decided in a study, and why: its notes, those of tunes and drills, targets and milestones."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QRect, QSignalBlocker, QSize, Qt, QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QLineEdit,
    QPlainTextEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.dialogs.history import when
from cinetica.desk.state.session import Session
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.desk.widgets import leaves, plain_tip, push_button
from cinetica.model import editing
from cinetica.model.edit_words import changed_tunes
from cinetica.model.milestone import Milestone
from cinetica.reading.targets import SIGNS, summary

# Kind of a row, and the names that say which one.
Key = tuple[str, ...]
NOTES = "Notes of the study"
# How long nothing must change before the list is rebuilt, in ms.
RESTING = 150


class NotesAndTargets(Dialog):
    """Stays open beside the window. `go`: shows a drill, a tune and a figure, given their names."""

    def __init__(
        self, session: Session, study_runs: StudyRuns, go: Callable[[str, str, str], object], window: QWidget
    ) -> None:
        super().__init__("Notes and targets", window)
        self.session, self.study_runs, self._go = session, study_runs, go
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the study")
        self.name.editingFinished.connect(self._rename)
        self.notes = QPlainTextEdit()
        # The notes of the study that are shown.
        self._notes = ""
        self.notes.setAccessibleName("Notes of the study")
        self.notes.setPlaceholderText("What this study is for, what you decided, and why")
        self.notes.setTabChangesFocus(True)
        self.notes.setFixedHeight(6 * look.height())
        self.notes.textChanged.connect(self._note)
        self.list = QTreeWidget()
        self.list.setColumnCount(2)
        self.list.setHeaderHidden(True)
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Notes, targets and milestones")
        self.list.header().setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        self.list.header().sectionResized.connect(self._wrap)
        self.list.itemSelectionChanged.connect(self._enable)
        self.list.itemActivated.connect(lambda *_: self.open_chosen())
        self.edit, self.go = push_button("&Edit the note", self.edit_note), push_button("&Go there", self.go_to_chosen)
        self._lay_out()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(RESTING)
        self._later.timeout.connect(self._fill)
        session.study_changed.connect(self._follow)
        session.loaded.connect(self._follow)
        study_runs.judged.connect(self._follow)
        self.fit(100, 34)

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.addRow("Study", self.name)
        form.addRow("Notes", self.notes)
        bottom = QHBoxLayout()
        bottom.addStretch(1)
        bottom.addWidget(self.edit)
        bottom.addWidget(self.go)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        layout.addWidget(self.list, 1)
        layout.addLayout(bottom)

    # The study itself

    def _rename(self) -> None:
        name = self.name.text()
        if name != self.session.study.name:
            self.session.alter("Name of the study", lambda study: editing.described(study, name=name))
            self.name.setText(self.session.study.name)

    def _note(self) -> None:
        """Store the note; continuous typing is one edit."""
        self._notes = text = self.notes.toPlainText()
        self.session.alter(NOTES, lambda study: editing.described(study, notes=text), joins=True)

    # What there is

    def _follow(self) -> None:
        """Update the list when the drag pauses: nobody reads it meanwhile."""
        if self.isVisible():
            self._update_study()
            self._later.start()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._update_study()
        self._fill()

    def _update_study(self) -> None:
        study = self.session.study
        if not self.name.hasFocus():
            self.name.setText(study.name)
        if self._notes != study.notes:
            # Setting the text is not typing: line ends may read back differently.
            with QSignalBlocker(self.notes):
                self.notes.setPlainText(study.notes)
            self._notes = study.notes

    def _fill(self) -> None:
        study, chosen = self.session.study, self.chosen
        verdicts = self.study_runs.verdicts
        self.list.clear()
        targets = (
            (("target", each.drill, each.tune, each.target.measure),
             f"{SIGNS[each.word]} {each.drill}, {each.tune}", f"{each.label} should be {each.wanted}; {each.why}")
            for each in verdicts
        )  # fmt: skip
        self._section(f"Targets: {summary(verdicts)}" if verdicts else "Targets", targets)
        self._section("Milestones", self._milestones())
        self._section("Tunes", ((("tune", each.name), each.name, each.note) for each in study.tunes))
        self._section("Drills", ((("drill", each.name), each.name, each.note) for each in study.drills))
        for _, item in leaves(self.list):
            if item.data(0, Qt.ItemDataRole.UserRole) == chosen:
                self.list.setCurrentItem(item)
        self._enable()
        self._wrap()

    def _wrap(self, *_: object) -> None:
        """Give long words as many lines as they need: a tree wraps them, but does not make room."""
        metrics, wide = self.list.fontMetrics(), max(1, self.list.columnWidth(1) - look.px(10))
        for _top, child in leaves(self.list):
            words = metrics.boundingRect(QRect(0, 0, wide, 10**6), Qt.TextFlag.TextWordWrap.value, child.text(1))
            child.setSizeHint(1, QSize(0, max(words.height(), metrics.height()) + look.px(3)))

    def _milestones(self) -> Iterable[tuple[Key, str, str]]:
        """Each milestone with what changed since the previous one, and what changed since the last."""
        study = self.session.study
        then: Milestone | None = None
        for each in study.milestones:
            shown = self.session.units.value
            since = changed_tunes(then.tunes, each.tunes, shown) if then else f"{len(each.tunes)} tunes are kept."
            yield ("milestone", each.name), f"{each.name}   {when(each.at)}".rstrip(), since
            then = each
        if then is not None:
            yield ("milestone", ""), "Since then", changed_tunes(then.tunes, study.tunes, self.session.units.value)

    def _section(self, title: str, rows: Iterable[tuple[Key, str, str]]) -> None:
        top = QTreeWidgetItem([title])
        font = look.font(10, bold=True)
        top.setFont(0, font)
        top.setFlags(Qt.ItemFlag.ItemIsEnabled)
        for key, name, words in rows:
            child = QTreeWidgetItem([name, words])
            child.setData(0, Qt.ItemDataRole.UserRole, key)
            child.setToolTip(1, plain_tip(words))
            child.setTextAlignment(0, Qt.AlignmentFlag.AlignTop)
            child.setTextAlignment(1, Qt.AlignmentFlag.AlignTop)
            top.addChild(child)
        if top.childCount() == 0:
            top.setText(1, "none yet")
        self.list.addTopLevelItem(top)
        top.setExpanded(True)

    # What can be done with it

    @property
    def chosen(self) -> Key:
        """The key of the selected line."""
        items = self.list.selectedItems()
        return tuple(items[0].data(0, Qt.ItemDataRole.UserRole) or ()) if items else ()

    def _enable(self) -> None:
        kind = self.chosen[0] if self.chosen else ""
        self.edit.setEnabled(kind in ("tune", "drill"))
        self.go.setEnabled(kind in ("drill", "target"))

    def open_chosen(self) -> None:
        """What Enter and a double-click do."""
        if self.edit.isEnabled():
            self.edit_note()
        else:
            self.go_to_chosen()

    def edit_note(self) -> None:
        """Edit the selected note."""
        kind, name = self.chosen[:2]
        study = self.session.study
        old = study.tune(name).note if kind == "tune" else study.drill(name).note
        note, given = QInputDialog.getMultiLineText(self, f"Note on the {kind}", name, old)
        if given:
            change = editing.with_tune_note if kind == "tune" else editing.with_drill_note
            self.session.alter(f"Note on {name}", lambda study: change(study, name, note))

    def go_to_chosen(self) -> None:
        """Show what the selected line is about."""
        if self.go.isEnabled():
            _, drill, *rest = self.chosen
            tune, figure = rest or ("", "")
            self._go(drill, tune, figure)
