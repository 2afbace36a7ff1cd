"""The table of the sheet: rows, columns, folds, and the current cell."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.sheet.delegate import CellDelegate
from cinetica.desk.sheet.header import TuneHeader, hidden_width, tight_width
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.desk.sheet.widths import NARROW_VALUE, USUAL_VALUE, label_width, tune_width, unit_width
from cinetica.desk.state.session import Session
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune

FOLDED_AT_FIRST = {"Hands", "Climb", "Contact", "Slopes", "Facing", "Camera", "Stepping"}


class SheetTable(QTableView):
    """What is shown, what is folded, and the current cell."""

    hovered = Signal(str)
    # A figure was clicked on: the tune's name, first and last row that it was read off.
    figure_chosen = Signal(str, int, int)

    def __init__(self, session: Session, *, figures: bool = False) -> None:
        super().__init__()
        self.session = session
        self.sheet = SheetModel(session, self, figures=figures)
        self.folded = set(FOLDED_AT_FIRST)
        self._tune_name = ""
        self._current: tuple[str, str, int] | None = None
        self._scrolled = 0
        self.setModel(self.sheet)
        self.setItemDelegate(CellDelegate(self))
        self.tune_header = TuneHeader(self.sheet)
        self.tune_header.chosen.connect(self._choose_reference)
        self.tune_header.pressed_on.connect(self._go_to_column)
        self.setHorizontalHeader(self.tune_header)
        rows = self.verticalHeader()
        rows.hide()
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        rows.setMinimumSectionSize(1)
        rows.setDefaultSectionSize(look.height(9) + look.px(9))
        self.setFrameShape(self.Shape.NoFrame)
        self.setShowGrid(False)
        self.setCornerButtonEnabled(False)
        look.on_sheet(self.viewport())
        self.setMouseTracking(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        # Always there, so that the columns of the two tables stay one under the other.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.AnyKeyPressed)
        self.setAccessibleName("Sheet of tunes")
        self.sheet.modelAboutToBeReset.connect(self._remember)
        self.sheet.modelReset.connect(self._restore)
        self._restore()

    @override
    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        tune = self.sheet.tune_at(current)
        if tune is not None:
            self._tune_name = tune.name
        if self.hasFocus():
            self.session.light(self._lit_by(current))

    def current_tune(self) -> Tune | None:
        """The tune of the last current column."""
        return next((tune for _, tune in self.sheet.tunes if tune.name == self._tune_name), None)

    def _go_to_column(self, column: int) -> None:
        self._tune_name = self.sheet.tunes[column][1].name
        if self.sheet.row_at(self.currentIndex()) is not None:
            self.setCurrentIndex(self.currentIndex().siblingAtColumn(FIRST_TUNE + column))

    def _choose_reference(self, column: int) -> None:
        """Show a hidden tune again; make any other the reference."""
        tune = self.sheet.tunes[column][1]
        if self.session.is_hidden(tune):
            self.session.toggle(tune)
        else:
            self.session.choose_reference(tune)

    def fold(self, groups: list[str]) -> None:
        """Fold exactly these groups."""
        self.folded = set(groups)
        self._restore()

    def is_open(self, group: int) -> bool:
        """Whether the rows of a group are shown."""
        return self._finds or self.sheet.groups[group].title not in self.folded

    def set_open(self, group: int, on: bool) -> None:
        """Show or hide the rows of a group."""
        title = self.sheet.groups[group].title
        (self.folded.discard if on else self.folded.add)(title)
        for number in range(len(self.sheet.groups[group].rows)):
            self.setRowHidden(self.sheet.row_of(group, number), not on)
        # It tells how many rows are folded.
        self.update(self.sheet.index(self.sheet.row_of(group), LABEL))

    def toggle_group(self, index: Index) -> None:
        """Show or hide the rows of the group at an index."""
        place = self.sheet.place_at(index)
        if place is not None:
            self.set_open(place[0], not self.is_open(place[0]))

    @property
    def _finds(self) -> bool:
        """Whether a search is active: all groups with matches are then open."""
        return bool(self.sheet.wanted or self.sheet.differing_only)

    def _remember(self) -> None:
        row, tune = self.sheet.row_at(self.currentIndex()), self.sheet.tune_at(self.currentIndex())
        self._current = (row.id, tune.name, self.currentIndex().column()) if row and tune else None
        self._scrolled = self.verticalScrollBar().value()

    def _restore(self) -> None:
        self.clearSpans()
        for place, group in enumerate(self.sheet.groups):
            self.setSpan(self.sheet.row_of(place), 0, 1, max(2, self.sheet.columnCount()))
            hidden = not self.is_open(place)
            # Qt keeps what was hidden by its number: other rows may be there now.
            for number in (None, *range(len(group.rows))):
                row, hides = self.sheet.row_of(place, number), hidden and number is not None
                if self.isRowHidden(row) != hides:
                    self.setRowHidden(row, hides)
        self.fit_columns()
        if self._current is not None:
            id, name, column = self._current
            names = [tune.name for _, tune in self.sheet.tunes]
            # Of a tune that was renamed the column is still there.
            self.go_to(id, name if name in names or not names else names[min(column - FIRST_TUNE, len(names) - 1)])
            self.verticalScrollBar().setValue(self._scrolled)

    def fit_columns(self) -> None:
        """Divide the width among the tunes, each wide enough to read; hidden ones keep only their letter."""
        hidden = [self.session.is_hidden(tune) for _, tune in self.sheet.tunes]
        # Where larger text leaves little room, labels give some of theirs: they end in dots, and their tooltip has all.
        labels = min(label_width(), self.viewport().width() * 9 // 20)
        for column, width in ((LABEL, labels), (UNIT, unit_width())):
            self.tune_header.resizeSection(column, width)
        free = self.viewport().width() - labels - unit_width() - 2 - hidden_width() * sum(hidden)
        shown = max(1, len(hidden) - sum(hidden))
        least = max(tune_width(USUAL_VALUE), tight_width()) if shown < 5 else tune_width(NARROW_VALUE)
        wide = max(least, min(look.px(150), free // shown))
        for column, is_hidden in enumerate(hidden):
            self.tune_header.resizeSection(FIRST_TUNE + column, hidden_width() if is_hidden else wide)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit_columns()

    def cell(self, id: str, tune: str) -> QModelIndex:
        """The index of a parameter or measure in a tune's column; invalid if it is not shown."""
        names = [tune_.name for _, tune_ in self.sheet.tunes]
        for place, group in enumerate(self.sheet.groups):
            for number, row in enumerate(group.rows):
                if row.id == id and tune in names:
                    return self.sheet.index(self.sheet.row_of(place, number), FIRST_TUNE + names.index(tune))
        return QModelIndex()

    def to_numbers(self) -> None:
        """Focus the table, on a number that can be typed over."""
        self.setFocus()
        if self.sheet.tune_at(self.currentIndex()) is None or self.sheet.row_at(self.currentIndex()) is None:
            group = next((place for place in range(len(self.sheet.groups)) if self.is_open(place)), None)
            if group is not None and self.sheet.tunes:
                self.setCurrentIndex(self.sheet.index(self.sheet.row_of(group, 0), FIRST_TUNE))

    def go_to(self, id: str, tune: str) -> None:
        """Make a cell the current one."""
        index = self.cell(id, tune)
        if index.isValid():
            self.setCurrentIndex(index)

    def _parameter_cell(self, index: QModelIndex) -> tuple[Tune, Parameter] | None:
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        if isinstance(row, Parameter) and tune is not None and self.sheet.flags(index) & Qt.ItemFlag.ItemIsEditable:
            return tune, row
        return None

    def _lit_by(self, index: Index) -> tuple[str, str] | None:
        """The tune and the figure of a cell."""
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        return None if row is None or tune is None or self.sheet.reading_at(index) is None else (tune.name, row.id)

    def next_row(self, row: int, step: int) -> int | None:
        """The next visible row, up or down; None at the end."""
        row += step
        while 0 <= row < self.sheet.rowCount() and self.isRowHidden(row):
            row += step
        return row if 0 <= row < self.sheet.rowCount() else None

    @override
    def moveCursor(self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Let Tab go from tune to tune in a row, then to the next row."""
        index, last = self.currentIndex(), FIRST_TUNE + len(self.sheet.tunes) - 1
        steps = {QAbstractItemView.CursorAction.MoveNext: 1, QAbstractItemView.CursorAction.MovePrevious: -1}
        step = steps.get(action)
        if step is None or not index.isValid():
            return super().moveCursor(action, modifiers)
        in_row = self.sheet.row_at(index) is not None and FIRST_TUNE <= index.column() + step <= last
        if in_row and index.column() >= FIRST_TUNE:
            return index.siblingAtColumn(index.column() + step)
        row = self.next_row(index.row(), step)
        return index if row is None else self.sheet.index(row, FIRST_TUNE if step > 0 else last)

    @override
    def focusNextPrevChild(self, onward: bool) -> bool:
        """Let Tab leave the table only after its last cell, and backward before its first."""
        index, actions = self.currentIndex(), QAbstractItemView.CursorAction
        if self.hasFocus() and self.sheet.tune_at(index) is not None:
            action = actions.MoveNext if onward else actions.MovePrevious
            there = self.moveCursor(action, Qt.KeyboardModifier.NoModifier)
            if there.isValid() and there != index:
                self.setCurrentIndex(there)
                return True
        return super().focusNextPrevChild(onward)
