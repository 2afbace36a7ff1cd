"""The clock's panel: how the machine divides time. It is the same for all tunes."""

from __future__ import annotations

import json

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFormLayout, QFrame, QLabel, QLineEdit, QWidget

from cinetica.desk import look
from cinetica.desk.sheet.cells import value_from_text
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser
from cinetica.model.clock import CLOCK_PARAMETERS, Clock, Mode
from cinetica.model.parameters import Parameter, Value
from cinetica.model.value_text import value_text


class ClockPanel(QFrame):
    """One line for each setting that matters in the current mode; hitches as pairs of `at seconds`."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.session = session
        self.setObjectName("clock")
        self.setStyleSheet(
            f"#clock {{ background: {look.palette().sheet}; border: 1px solid {look.palette().earth_edge}; }}"
        )
        self._form = QFormLayout(self)
        self._form.setContentsMargins(16, 12, 16, 12)
        self.message = QLabel()
        self.message.setObjectName("warning")
        self.message.setWordWrap(True)
        self.fields: dict[str, QWidget] = {}
        self._build()

    def show_under(self, button: QWidget) -> None:
        """Show the panel below a button."""
        corner = button.mapToGlobal(button.rect().bottomRight())
        self.move(corner.x() - self.sizeHint().width(), corner.y())
        self.show()

    def _build(self) -> None:
        while self._form.rowCount():
            if (
                self._form.itemAt(0)
                and self._form.itemAt(self._form.rowCount() - 1, QFormLayout.ItemRole.SpanningRole) is not None
            ):
                self._form.takeRow(self._form.rowCount() - 1)
            else:
                self._form.removeRow(self._form.rowCount() - 1)
        clock = self.session.study.clock
        values = {parameter.id: _value(clock, parameter) for parameter in CLOCK_PARAMETERS}
        self.fields = {}
        about = QLabel("The clock belongs to the machine: every tune runs on it.")
        about.setObjectName("soft")
        self._form.addRow(about)
        for parameter in CLOCK_PARAMETERS:
            if parameter.matters("side", values):
                self._add(parameter, values[parameter.id])
        if clock.mode is not Mode.LOCKED:
            hitches = QLineEdit("; ".join(f"{hitch.at:g} {hitch.seconds:g}" for hitch in clock.hitches))
            hitches.setPlaceholderText("at seconds; at seconds")
            hitches.setToolTip(
                "Pairs of times in s: when, and by how much that frame is longer; for example 0.5 0.2; 1.1 0.05"
            )
            hitches.editingFinished.connect(lambda: self._set_hitches(hitches.text()))
            self._form.addRow("Hitches, s", hitches)
            self.fields["clock.hitches"] = hitches
        self._form.addRow(self.message)
        self.adjustSize()

    def _add(self, parameter: Parameter, value: Value) -> None:
        label = f"{parameter.label}{', ' + parameter.unit if parameter.unit else ''}"
        if parameter.kind == "choice":
            box = Chooser()
            for option in parameter.options:
                box.addItem(f"{option.id}: {option.meaning}", option.id)
            box.setMaximumWidth(60 * look.width("n"))
            box.setCurrentIndex([option.id for option in parameter.options].index(str(value)))
            box.activated.connect(lambda _: self._set(parameter, box.currentData()))
            self.fields[parameter.id] = box
        else:
            line = QLineEdit(value_text(parameter, value))
            line.editingFinished.connect(lambda: self._set_text(parameter, line))
            self.fields[parameter.id] = line
        self._set_tip(self.fields[parameter.id], f"{parameter.meaning} {parameter.allowed}")
        self.fields[parameter.id].setAccessibleName(label)
        self._form.addRow(label, self.fields[parameter.id])

    @staticmethod
    def _set_tip(field: QWidget, tip: str) -> None:
        if isinstance(field, Chooser):
            field.set_tip(tip)
        else:
            field.setToolTip(tip)

    def _set_text(self, parameter: Parameter, line: QLineEdit) -> None:
        before = value_text(parameter, _value(self.session.study.clock, parameter))
        if line.text() == before:
            return
        try:
            self._set(parameter, value_from_text(parameter, line.text()))
        except ValueError as error:
            self.message.setText(str(error) or f"{parameter.label} is {parameter.allowed}. It was not changed.")
            line.setText(before)
            self.adjustSize()

    def _set(self, parameter: Parameter, value: Value) -> None:
        """Change one setting; ValueError if it is invalid."""
        content = self.session.study.clock.model_dump(mode="json") | {parameter.key: value}
        try:
            clock = Clock.model_validate_json(json.dumps(content))
        except ValueError:
            raise ValueError(f"{parameter.label} is {parameter.allowed}. It was not changed.") from None
        if self.message.text():
            self.message.clear()
        self.session.set_clock(clock, f"{parameter.label} of the clock")
        if parameter.kind == "choice":
            # Later: the chooser that was clicked is deleted with the other lines, and not during its own signal.
            QTimer.singleShot(0, self, self._build)

    def _set_hitches(self, text: str) -> None:
        try:
            pairs = [
                [float(number) for number in pair.split()] for pair in text.replace(",", ".").split(";") if pair.strip()
            ]
            content = self.session.study.clock.model_dump(mode="json") | {"hitches": pairs}
            clock = Clock.model_validate_json(json.dumps(content))
        except ValueError:
            self.message.setText("Hitches are pairs of two times in seconds, such as: 0.5 0.2; 1.1 0.05")
            return
        if self.message.text():
            self.message.clear()
        self.session.set_clock(clock, "Hitches of the clock")


def _value(clock: Clock, parameter: Parameter) -> Value:
    value: Value = clock.model_dump(mode="json")[parameter.key]
    return value
