"""For a missed target, numbers whose small change would meet it. Nothing changes until one is taken."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialogButtonBox, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import PlainLabel
from cinetica.model.value_text import reading_text
from cinetica.reading.target_search import Proposal
from cinetica.reading.targets import Verdict


class FindNumber(Dialog):
    """`proposals`: the smallest change first."""

    def __init__(self, session: Session, verdict: Verdict, proposals: list[Proposal], window: QWidget) -> None:
        super().__init__("Find a number", window)
        self.close_when_removed(session, tunes=[verdict.tune], drills=[verdict.drill])
        self.session, self.verdict, self.proposals = session, verdict, proposals
        self.about = PlainLabel(
            f"{verdict.label} of {verdict.tune} on {verdict.drill} should be {verdict.wanted}; {verdict.why}."
        )
        self.about.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Numbers that would meet the target")
        for proposal in proposals:
            words = proposal.words(session.units)
            item = QListWidgetItem(f"{words}   ({100 * proposal.size:.3g}%)")
            item.setData(Qt.ItemDataRole.AccessibleTextRole, words)
            self.list.addItem(item)
        self.preview = PlainLabel()
        self.preview.setWordWrap(True)
        self.preview.setMinimumHeight(7 * look.height())
        self.answers = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.answers.button(QDialogButtonBox.StandardButton.Ok).setText("&Apply")
        self.answers.accepted.connect(self.take)
        self.answers.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        for widget in (self.about, self.list, self.preview, self.answers):
            layout.addWidget(widget)
        self.list.currentRowChanged.connect(self._show_preview)
        self.list.itemActivated.connect(self.take)
        self.list.setCurrentRow(0)
        self.list.setFocus()
        self.fit(76, 24)

    @property
    def chosen(self) -> Proposal:
        """The selected proposal."""
        return self.proposals[max(0, self.list.currentRow())]

    def _show_preview(self, *_: object) -> None:
        """Say what the proposal does, and what else changes."""
        proposal = self.chosen
        measure, units = self.verdict.measure, self.session.units
        then = units.reading_words(measure, proposal.value) if measure else reading_text(proposal.value)
        lines = [f"{self.verdict.label} is then {then}; every target that is met stays met."]
        for drill, each in proposal.also:
            was, now = (
                "not shown" if value is None else units.reading_text(each.measure, value)
                for value in (each.before, each.after)
            )
            unit = units.unit(each.measure.unit)
            lines.append(f"Also changes: {drill}, {each.measure.label} {was} → {now} {unit}".rstrip())
        if not proposal.also:
            lines.append("Nothing else changes.")
        self.preview.setText("\n".join(lines))

    def take(self, *_: object) -> None:
        """Apply the proposal."""
        proposal = self.chosen
        tune = self.session.study.tune(self.verdict.tune)
        if self.session.set_value(tune, proposal.parameter, proposal.after):
            self.session.message.emit(
                f"{proposal.words(self.session.units)}: {self.verdict.label} of {tune.name} is {self.verdict.wanted}."
            )
            self.accept()
