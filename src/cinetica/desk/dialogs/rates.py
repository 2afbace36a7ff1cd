"""Whether a tune is the same on other machines: its measures at several rates, and what to set if they differ."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, push_button
from cinetica.model.tune import Tune
from cinetica.reading.measures import MEASURES
from cinetica.reading.rate_comparison import NOTICED, Advice, AtRates, at_rates

BY_ID = {measure.id: measure for measure in MEASURES}


class Rates(Dialog):
    """One row per measure, one column per machine; differing rows are marked by an arrow and in words."""

    def __init__(self, session: Session, tune: Tune, window: QWidget) -> None:
        super().__init__("Other tick rates", window)
        self.fit(110, 36)
        self.session = session
        self.found: AtRates | None = None
        self.tunes = Chooser()
        self.tunes.addItems([each.name for _, each in session.tunes])
        self.tunes.setCurrentText(tune.name)
        self.tunes.setAccessibleName("Tune")
        drill = session.drill
        names = [each.name for _, each in session.tunes]
        self.close_when_removed(session, tunes=names, drills=[drill.name] if drill else ())
        self.table = QTableWidget()
        self.table.setAccessibleName("Figures by machine")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().hide()
        self.outcome = PlainLabel()
        self.outcome.setWordWrap(True)
        self.outcome.setFont(look.font(11))
        self.remedies = QVBoxLayout()
        self.buttons: list[QPushButton] = []
        top = QHBoxLayout()
        top.addWidget(PlainLabel("Tune"))
        top.addWidget(self.tunes)
        top.addWidget(PlainLabel(f"on {session.drill.name if session.drill else 'no drill'}, ticks per second:"))
        top.addStretch(1)
        layout = QVBoxLayout(self)
        layout.addLayout(top)
        layout.addWidget(self.table, 1)
        layout.addWidget(self.outcome)
        layout.addLayout(self.remedies)
        self.tunes.currentIndexChanged.connect(self.refresh)
        session.study_changed.connect(self.refresh)
        self.refresh()

    @property
    def tune(self) -> Tune | None:
        """The tune chosen."""
        return next((tune for _, tune in self.session.tunes if tune.name == self.tunes.currentText()), None)

    def refresh(self, *_: object) -> None:
        """Compare the tune again."""
        tune, drill = self.tune, self.session.drill
        if tune is None or drill is None:
            return
        self.found = at_rates(tune, drill)
        self._fill(self.found)
        self._show_result(self.found, tune)

    def _fill(self, found: AtRates) -> None:
        units = self.session.units
        self.table.setColumnCount(2 + len(found.names))
        self.table.setHorizontalHeaderLabels(["Measure", *found.names, "differ by"])
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.setRowCount(len(found.values) + len(found.lost))
        for row, (id, values) in enumerate(found.values.items()):
            spread = found.spread(id)
            cells = [
                f"{BY_ID[id].label}, {units.unit(BY_ID[id].unit)}",
                *(units.reading_text(BY_ID[id], value) for value in values),
                f"{spread:.1%}" + (" differs" if spread >= NOTICED else ""),
            ]
            self._row(row, cells, bold=spread >= NOTICED)
        for row, measure in enumerate(found.lost, len(found.values)):
            self._row(row, [measure.label, *["" for _ in found.names], "at some rates only"], bold=True)

    def _row(self, row: int, cells: list[str], *, bold: bool) -> None:
        for column, text in enumerate(cells):
            item = QTableWidgetItem(text)
            item.setFont(look.font(10, bold=bold))
            if column:
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.table.setItem(row, column, item)

    def _show_result(self, found: AtRates, tune: Tune) -> None:
        if found.same:
            self.outcome.setText(f"{tune.name} moves the same at every rate, to within {NOTICED:.0%}.")
        elif found.advice:
            self.outcome.setText("It differs. What makes the difference, largest first:")
        else:
            self.outcome.setText(
                "It differs, and no setting of the tune changes that: presses are read at different moments, and"
                " ticks end at different ones."
            )
        # Buttons are reused: deleting one during its own click would leave the click without a button.
        while len(self.buttons) < len(found.advice):
            button = push_button("", partial(self._take_number, len(self.buttons)))
            self.buttons.append(button)
            self.remedies.addWidget(button)
        for number, button in enumerate(self.buttons):
            button.setVisible(number < len(found.advice))
        for button, advice in zip(self.buttons, found.advice, strict=False):
            set_to = f"Set {advice.parameter.label} to {self._advised(advice)}"
            button.setText(f"{set_to}: from {advice.before:.1%} to {advice.after:.1%}")
            button.setToolTip(advice.parameter.meaning)

    def _take_number(self, number: int, _checked: bool = False) -> None:
        if self.found is not None and number < len(self.found.advice):
            self.take(self.found.advice[number])

    def take(self, advice: Advice) -> None:
        """Apply the advice, as an edit."""
        tune = self.tune
        if tune is not None and self.session.set_value(tune, advice.parameter, advice.value):
            self.session.message.emit(f"{advice.parameter.label} of {tune.name} is {self._advised(advice)} now.")

    def _advised(self, advice: Advice) -> str:
        return self.session.units.with_unit(advice.parameter, advice.value)
