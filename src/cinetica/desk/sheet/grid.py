"""The grid of the sheet's table: which rows are folded, how wide the columns are, where a cell is."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex
from PySide6.QtWidgets import QTableView

from cinetica.desk import look
from cinetica.desk.sheet.header import TuneHeader, hidden_width, tight_width
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.desk.sheet.widths import NARROW_VALUE, USUAL_VALUE, label_width, tune_width, unit_width
from cinetica.desk.state.session import Session

FOLDED_AT_FIRST = {"Hands", "Climb", "Contact", "Slopes", "Facing", "Camera", "Poses", "Stepping"}


class SheetGrid:
    """Arranges rows and columns of a table, and keeps current cell and scroll position when its model is rebuilt."""

    def __init__(self, table: QTableView, model: SheetModel, header: TuneHeader, session: Session) -> None:
        self._table, self._model, self._header, self._session = table, model, header, session
        self.folded = set(FOLDED_AT_FIRST)
        self._current: tuple[str, str, int] | None = None
        self._scrolled = 0
        model.modelAboutToBeReset.connect(self._remember)
        model.modelReset.connect(self.restore)

    def fold(self, groups: list[str]) -> None:
        """Fold exactly these groups."""
        self.folded = set(groups)
        self.restore()

    def is_open(self, group: int) -> bool:
        """Whether the rows of a group are shown; one that is off has none."""
        return self._finds or self._model.groups[group].title not in self.folded

    def set_open(self, group: int, on: bool) -> None:
        """Show or hide the rows of a group."""
        title = self._model.groups[group].title
        (self.folded.discard if on else self.folded.add)(title)
        for number in range(len(self._model.groups[group].rows)):
            self._table.setRowHidden(self._model.row_of(group, number), not on)
        # It shows how many rows are folded.
        self._table.update(self._model.index(self._model.row_of(group), LABEL))

    def open_group_of(self, id: str) -> None:
        """Show the rows of the group that has a parameter or measure."""
        for place, group in enumerate(self._model.groups):
            if any(row.id == id for row in group.rows) and not self.is_open(place):
                self.set_open(place, True)

    def toggle_group(self, index: Index) -> None:
        """Show or hide the rows of the group at an index."""
        place = self._model.place_at(index)
        if place is not None and self._model.groups[place[0]].is_line:
            title = self._model.groups[place[0]].title
            self.folded.discard(title)
            self._model.open_section(title)
        elif place is not None:
            self.set_open(place[0], not self.is_open(place[0]))

    @property
    def _finds(self) -> bool:
        """Whether a search is active: all groups with matches are then open."""
        return bool(self._model.wanted or self._model.differing_only)

    def _remember(self) -> None:
        row, tune = self._model.row_at(self._table.currentIndex()), self._model.tune_at(self._table.currentIndex())
        self._current = (row.id, tune.name, self._table.currentIndex().column()) if row and tune else None
        self._scrolled = self._table.verticalScrollBar().value()

    def restore(self) -> None:
        """Arrange the rows and columns of the rebuilt model."""
        self._table.clearSpans()
        for place, group in enumerate(self._model.groups):
            self._table.setSpan(self._model.row_of(place), 0, 1, max(2, self._model.columnCount()))
            hidden = not self.is_open(place)
            # Qt remembers hidden rows by number: other rows may have that number now.
            for number in (None, *range(len(group.rows))):
                row, hides = self._model.row_of(place, number), hidden and number is not None
                if self._table.isRowHidden(row) != hides:
                    self._table.setRowHidden(row, hides)
        self.fit_columns()
        if self._current is not None:
            id, name, column = self._current
            names = [tune.name for _, tune in self._model.tunes]
            # A renamed tune keeps its column.
            self.go_to(id, name if name in names or not names else names[min(column - FIRST_TUNE, len(names) - 1)])
            self._table.verticalScrollBar().setValue(self._scrolled)

    def fit_columns(self) -> None:
        """Divide the width among the tunes, each wide enough to read; hidden ones keep only their letter."""
        hidden = [self._session.is_hidden(tune) for _, tune in self._model.tunes]
        # When large text leaves little room, labels are shortened; their tooltip shows them in full.
        labels = min(label_width(), self._table.viewport().width() * 9 // 20)
        unit = unit_width(self._session.units)
        for column, width in ((LABEL, labels), (UNIT, unit)):
            self._header.resizeSection(column, width)
        free = self._table.viewport().width() - labels - unit - 2 - hidden_width() * sum(hidden)
        shown = max(1, len(hidden) - sum(hidden))
        least = max(tune_width(USUAL_VALUE), tight_width()) if shown < 5 else tune_width(NARROW_VALUE)
        wide = max(least, min(look.px(150), free // shown))
        for column, is_hidden in enumerate(hidden):
            self._header.resizeSection(FIRST_TUNE + column, hidden_width() if is_hidden else wide)

    def cell(self, id: str, tune: str) -> QModelIndex:
        """The index of a parameter or measure in a tune's column; invalid if it is not shown."""
        names = [tune_.name for _, tune_ in self._model.tunes]
        for place, group in enumerate(self._model.groups):
            for number, row in enumerate(group.rows):
                if row.id == id and tune in names:
                    return self._model.index(self._model.row_of(place, number), FIRST_TUNE + names.index(tune))
        return QModelIndex()

    def go_to(self, id: str, tune: str) -> None:
        """Make a cell the current one."""
        index = self.cell(id, tune)
        if index.isValid():
            self._table.setCurrentIndex(index)

    def next_row(self, row: int, step: int) -> int | None:
        """The next visible row, up or down; None at the end."""
        row += step
        while 0 <= row < self._model.rowCount() and self._table.isRowHidden(row):
            row += step
        return row if 0 <= row < self._model.rowCount() else None
