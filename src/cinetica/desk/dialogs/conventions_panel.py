"""The conventions of the game, chosen beside the numbers that are exported."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QFormLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel
from cinetica.model.conventions import Angle, Conventions, Per, Times, Turn, Zero
from cinetica.model.tune import PARAMETERS

PER_WORDS = {Per.SECOND: "per second", Per.FRAME: "per frame"}
TIME_WORDS = {
    Times.AS_SPEEDS: "as speeds do", Times.SECOND: "in seconds", Times.MILLISECOND: "in milliseconds",
    Times.FRAME: "in frames",
}  # fmt: skip
ANGLE_WORDS = {Angle.DEGREE: "degrees", Angle.RADIAN: "radians"}
ZERO_WORDS = {Zero.RIGHT: "to the right", Zero.UP: "up", Zero.LEFT: "to the left", Zero.DOWN: "down"}
TURN_WORDS = {
    Turn.AXES: "from x to y",
    Turn.COUNTER_CLOCKWISE: "counter-clockwise",
    Turn.CLOCKWISE: "clockwise",
}


def _spin(low: float, high: float, digits: int, tip: str) -> NumberBox:
    spin = NumberBox()
    spin.setDecimals(digits)
    spin.setRange(low, high)
    spin.setKeyboardTracking(False)
    spin.setToolTip(tip)
    return spin


def _chooser(words: Mapping[Any, str], name: str) -> Chooser:
    chooser = Chooser()
    for value, text in words.items():
        chooser.addItem(text, value)
    chooser.setAccessibleName(name)
    return chooser


class ConventionsSide(QWidget):
    """How the game counts, and what it calls each number."""

    changed = Signal()

    def __init__(self, room: int) -> None:
        """`room`: the width of the screen, in pixels."""
        super().__init__()
        self.setMinimumWidth(min(46 * look.width("n"), room * 2 // 5))
        self.setMaximumWidth(56 * look.width("n"))
        self.pixels = _spin(1e-6, 1e6, 6, "How many of the game's pixels make one world unit (u)")
        self.rate = _spin(1, 10000, 3, "Frames per second of the game")
        self.y_down = QCheckBox("y points down")
        self.per = _chooser(PER_WORDS, "Speeds count")
        self.times = _chooser(TIME_WORDS, "Times count")
        self.angle = _chooser(ANGLE_WORDS, "Angles in")
        self.zero = _chooser(ZERO_WORDS, "Where an angle of 0 points")
        self.turn = _chooser(TURN_WORDS, "Which way angles grow")
        self.names = QTableWidget(0, 2)
        self._names: list[QTableWidgetItem] = []
        self._list_names()
        self._lay_out()
        self.y_down.toggled.connect(self.changed)
        for chooser in (self.per, self.times, self.angle, self.zero, self.turn):
            chooser.currentIndexChanged.connect(self.changed)
        for spin in (self.pixels, self.rate):
            spin.valueChanged.connect(self.changed)
        self.names.itemChanged.connect(self.changed)

    def _lay_out(self) -> None:
        form = QFormLayout()
        for label, widget in (
            ("Pixels per unit", self.pixels), ("Axes", self.y_down), ("Speeds count", self.per),
            ("Times count", self.times), ("Frames per second", self.rate), ("Angles in", self.angle),
            ("0° points", self.zero),
            ("Angles grow", self.turn),
        ):  # fmt: skip
            form.addRow(label, widget)
        heading = PlainLabel("Conventions of the game")
        heading.setFont(look.font(11, bold=True))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(heading)
        column.addLayout(form)
        column.addWidget(PlainLabel("Names (double-click to change)"))
        column.addWidget(self.names, 1)

    def _list_names(self) -> None:
        self.names.setHorizontalHeaderLabels(["Ours", "The game's name"])
        self.names.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.names.verticalHeader().hide()
        self.names.setAccessibleName("Names")
        self.names.setRowCount(len(PARAMETERS))
        for row, parameter in enumerate(PARAMETERS):
            item = QTableWidgetItem(parameter.label)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
            item.setToolTip(f"{parameter.id}: {parameter.meaning}")
            self.names.setItem(row, 0, item)
            self._names.append(QTableWidgetItem(""))
            self.names.setItem(row, 1, self._names[row])

    def fill(self, conventions: Conventions) -> None:
        """Show these conventions."""
        self.pixels.setValue(conventions.pixels_per_unit)
        self.rate.setValue(conventions.rate)
        self.y_down.setChecked(conventions.y_down)
        for chooser, value in (
            (self.per, conventions.per), (self.times, conventions.times), (self.angle, conventions.angle),
            (self.zero, conventions.zero), (self.turn, conventions.turn),
        ):  # fmt: skip
            chooser.setCurrentIndex(chooser.findData(value))
        for row, parameter in enumerate(PARAMETERS):
            self._names[row].setText(conventions.names.get(parameter.id, parameter.name))

    @property
    def chosen(self) -> Conventions:
        """The conventions shown; ValueError if they are invalid."""
        names = {
            parameter.id: text
            for row, parameter in enumerate(PARAMETERS)
            if (text := self._names[row].text().strip()) not in ("", parameter.name)
        }
        content = {
            "pixels_per_unit": self.pixels.value(), "y_down": self.y_down.isChecked(),
            "per": Per(self.per.currentData()), "rate": self.rate.value(),
            "times": Times(self.times.currentData()), "angle": Angle(self.angle.currentData()),
            "zero": Zero(self.zero.currentData()),
            "turn": Turn(self.turn.currentData()), "names": names,
        }  # fmt: skip
        return Conventions.model_validate(content)
