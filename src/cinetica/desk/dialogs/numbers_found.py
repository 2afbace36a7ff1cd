"""The numbers of the game, one a row: which number of a tune each is, and what could not be read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from cinetica.desk import look
from cinetica.desk.widgets import Chooser, plain_tip
from cinetica.files.assignments import UnreadLine
from cinetica.files.game_numbers import NumberFound, Numbers, converted
from cinetica.model.conventions import Conventions
from cinetica.model.parameters import Value
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.model.value_text import number_text
from cinetica.reading.display_units import OURS, DisplayUnits

HEADS = ("In the game", "Value", "Is", "Becomes")
NAME, VALUE, IS, BECOMES = range(4)
NOTHING = "not used"


# A whole source file has hundreds of numbers that belong to no tune: at most this many get a row.
MOST_OTHERS = 100


def _worth_a_row(entries: Sequence[NumberFound]) -> list[NumberFound]:
    """All numbers that may be a tune's, and the first of the others, in the order of the text."""
    others = iter(range(MOST_OTHERS))
    return [each for each in entries if each.parameter is not None or next(others, None) is not None]


class NumbersFound(QTableWidget):
    """A tick takes a number; one that is only proposed stays unticked until the user ticks it."""

    changed = Signal()

    def __init__(self, *, in_game: bool) -> None:
        """`in_game`: what they become is shown in the game's units."""
        super().__init__(0, len(HEADS))
        self._in_game = in_game
        self.setAccessibleName("Numbers found")
        self.setHorizontalHeaderLabels(HEADS)
        self.setFont(look.font(9))
        self.horizontalHeader().setFont(look.font(8))
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setStretchLastSection(True)
        self.verticalHeader().setVisible(False)
        self.verticalHeader().setDefaultSectionSize(look.height(9) + look.px(10))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self._entries: list[NumberFound] = []
        self._conventions, self._filling = Conventions(), False
        self._values_of_tune: dict[str, Value] = {}
        self.itemChanged.connect(self._ticked)

    def show_numbers(self, numbers: Numbers | None, conventions: Conventions, tune: Tune | None) -> None:
        """Show what was read; what was ticked or chosen for the same names before stays."""
        before = {each.assigned.name: (each.parameter, self._is_ticked(row)) for row, each in enumerate(self._entries)}
        self._filling, self._conventions = True, conventions
        self._entries = []
        found = _worth_a_row(numbers.entries) if numbers else []
        unread: Sequence[UnreadLine] = numbers.unread[:MOST_OTHERS] if numbers else ()
        self.setRowCount(0)
        self.setRowCount(len(found) + len(unread))
        view = tune.view if tune else "side"
        self._values_of_tune = tune.values() if tune else {}
        for row, each in enumerate(found):
            was, ticked = before.get(each.assigned.name, (each.parameter, each.sure))
            if not each.sure and was is not each.parameter:
                each = converted(each.assigned, was, conventions)
            self._entries.append(each)
            self._fill_row(row, each, view, ticked=ticked or each.sure)
        for row, line in enumerate(unread, len(found)):
            self._fill_unread(row, line)
        self._filling = False

    @property
    def values(self) -> dict[str, Value]:
        """What is ticked, in our units, by id."""
        return {
            each.parameter.id: each.value
            for row, each in enumerate(self._entries)
            if each.parameter is not None and each.value is not None and self._is_ticked(row)
        }

    @property
    def entries(self) -> list[NumberFound]:
        """Every number, as it is matched now."""
        return self._entries

    def tick(self, name: str, *, on: bool = True) -> None:
        """Take the number of this name, or not."""
        row = next(row for row, each in enumerate(self._entries) if each.assigned.name == name)
        item = self.item(row, NAME)
        assert item is not None
        item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)

    def chooser(self, name: str) -> Chooser:
        """The chooser that assigns the number of this name to a number of a tune."""
        row = next(row for row, each in enumerate(self._entries) if each.assigned.name == name)
        found = self.cellWidget(row, IS)
        assert isinstance(found, Chooser)
        return found

    def _is_ticked(self, row: int) -> bool:
        item = self.item(row, NAME)
        return item is not None and item.checkState() == Qt.CheckState.Checked

    def _fill_row(self, row: int, number: NumberFound, view: str, *, ticked: bool) -> None:
        assigned = number.assigned
        name = QTableWidgetItem(assigned.name)
        where = f"Line {assigned.line}. " if assigned.line else ""
        name.setToolTip(plain_tip(f"{where}{assigned.note or 'Tick to take it.'}"))
        self.setItem(row, NAME, name)
        value = assigned.value
        shown = (
            number_text(float(value), 6) if isinstance(value, int | float) and not isinstance(value, bool) else value
        )
        written = QTableWidgetItem(f"{shown} {assigned.unit}".strip() + (" ¹" if assigned.note else ""))
        written.setToolTip(plain_tip(assigned.note))
        self.setItem(row, VALUE, written)
        self.setItem(row, BECOMES, QTableWidgetItem())
        chooser = Chooser()
        chooser.setFont(look.font(9))
        chooser.setAccessibleName(f"What {assigned.name} is")
        chooser.addItem(NOTHING, "")
        for parameter in (each for each in PARAMETERS if view in each.views or each is number.parameter):
            chooser.addItem(parameter.label, parameter.id)
        chooser.setCurrentIndex(max(0, chooser.findData(number.parameter.id if number.parameter else "")))
        chooser.activated.connect(lambda _: self._chosen(chooser))
        self.setCellWidget(row, IS, chooser)
        self._show_value(row, ticked=ticked)

    def _show_value(self, row: int, *, ticked: bool) -> None:
        number = self._entries[row]
        parameter, value = number.parameter, number.value
        name, becomes = self.item(row, NAME), self.item(row, BECOMES)
        assert name is not None
        assert becomes is not None
        can = parameter is not None and value is not None
        name.setFlags(Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEnabled if can else Qt.ItemFlag.NoItemFlags)
        name.setCheckState(Qt.CheckState.Checked if ticked and can else Qt.CheckState.Unchecked)
        if parameter is not None and value is not None:
            proposed = "" if number.sure or ticked else "  proposed by its name"
            units = DisplayUnits(self._conventions) if self._in_game else OURS
            becomes.setText(units.with_unit(parameter, value, self._values_of_tune) + proposed)
        else:
            becomes.setText(number.fault)
        becomes.setToolTip(plain_tip(number.fault))

    def _fill_unread(self, row: int, unread: UnreadLine) -> None:
        for column, text in ((NAME, f"line {unread.line}"), (VALUE, " ".join(unread.text.split())[:40])):
            item = QTableWidgetItem(text)
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.setItem(row, column, item)
        item = QTableWidgetItem(f"not read: {unread.why}")
        item.setToolTip(plain_tip(unread.words))
        self.setItem(row, IS, item)
        self.setSpan(row, IS, 1, 2)

    def _chosen(self, chooser: Chooser) -> None:
        """Take a number as another one of a tune."""
        row = next(row for row in range(len(self._entries)) if self.cellWidget(row, IS) is chooser)
        id = chooser.currentData()
        found = converted(self._entries[row].assigned, parameter_by_id(id) if id else None, self._conventions)
        self._entries[row] = replace(found, sure=False)
        self._filling = True
        self._show_value(row, ticked=True)
        self._filling = False
        self.changed.emit()

    def _ticked(self, item: QTableWidgetItem) -> None:
        if self._filling or item.column() != NAME or item.row() >= len(self._entries):
            return
        self._filling = True
        self._show_value(item.row(), ticked=self._is_ticked(item.row()))
        self._filling = False
        self.changed.emit()
