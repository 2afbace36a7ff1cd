"""The table of the sheet: rows, columns, folds, the current cell."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QItemSelection, QModelIndex, QRect, Qt, Signal
from PySide6.QtGui import QAccessible, QPainter, QPaintEvent, QRegion
from PySide6.QtWidgets import (
    QAbstractItemView,
    QTreeView,
)

from cinetica.desk import look
from cinetica.desk.sheet.delegate import CellDelegate
from cinetica.desk.sheet.drawing import Drawing, Line, Places
from cinetica.desk.sheet.header import TuneHeader, hidden_width, tight_width
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.desk.sheet.widths import NARROW_VALUE, USUAL_VALUE, label_width, tune_width, unit_width
from cinetica.desk.state.session import Session
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune

FOLDED_AT_FIRST = {"Hands", "Climb", "Contact", "Slopes", "Facing", "Camera", "Stepping"}


class SheetTable(QTreeView):
    """What is shown, what is folded, and which cell is the current one."""

    hovered = Signal(str)
    # A figure was clicked on: the tune's name, first and last row that it was read off.
    figure_chosen = Signal(str, int, int)

    def __init__(self, session: Session, *, figures: bool = False) -> None:
        super().__init__()
        self.session = session
        self.sheet = SheetModel(session, self, figures=figures)
        self.folded = set(FOLDED_AT_FIRST)
        self._tune_name = ""
        # See `_where` and `_tops`.
        self._columns: Places | None = None
        self._rows: dict[tuple[int, int | None], int] = {}
        # The cells that are to be painted, by group and number in it, and where they are.
        self._stale: dict[tuple[int, int], Line] = {}
        self.drawing = Drawing(self.sheet, self._is_open, self.hasFocus)
        self.setModel(self.sheet)
        self.setItemDelegate(CellDelegate(self))
        self.tune_header = TuneHeader(self.sheet)
        self.tune_header.chosen.connect(self._choose_reference)
        self.tune_header.pressed_on.connect(self._go_to_column)
        self.setHeader(self.tune_header)
        self.setFrameShape(self.Shape.NoFrame)
        look.on_sheet(self.viewport())
        self.setIndentation(0)
        self.setRootIsDecorated(False)
        self.setUniformRowHeights(True)
        self.setMouseTracking(True)
        self.setExpandsOnDoubleClick(False)
        self.setItemsExpandable(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        # Always there, so that the columns of the two tables stay one under the other.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.AnyKeyPressed)
        self.setAccessibleName("Sheet of tunes")
        self.sheet.modelAboutToBeReset.connect(self._remember)
        self.sheet.modelReset.connect(self._forget_places)
        self.sheet.modelReset.connect(self._note_chosen)
        self.sheet.modelReset.connect(self._restore)
        self.tune_header.sectionResized.connect(self._forget_places)
        self.expanded.connect(self._forget_places)
        self.collapsed.connect(self._forget_places)
        self.expanded.connect(lambda index: self.folded.discard(str(index.data())))
        self.collapsed.connect(lambda index: self.folded.add(str(index.data())))
        self._restore()

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        self._note_chosen()
        tune = self.sheet.tune_at(current)
        if tune is not None:
            self._tune_name = tune.name
        if self.hasFocus():
            self.session.light(self._lit_by(current))

    def current_tune(self) -> Tune | None:
        """The tune in whose column the person was last."""
        return next((tune for _, tune in self.sheet.tunes if tune.name == self._tune_name), None)

    def _go_to_column(self, column: int) -> None:
        self._tune_name = self.sheet.tunes[column][1].name
        if self.sheet.row_at(self.currentIndex()) is not None:
            self.setCurrentIndex(self.currentIndex().siblingAtColumn(FIRST_TUNE + column))

    def _choose_reference(self, column: int) -> None:
        """A click on the name of a hidden tune shows it again; else it becomes the one that the others are held
        against."""
        tune = self.sheet.tunes[column][1]
        if self.session.is_hidden(tune):
            self.session.toggle(tune)
        else:
            self.session.choose_reference(tune)

    def fold(self, groups: list[str]) -> None:
        """Just these groups are folded."""
        self.folded = set(groups)
        self._restore()

    def _remember(self) -> None:
        row, tune = self.sheet.row_at(self.currentIndex()), self.sheet.tune_at(self.currentIndex())
        self._current = (row.id, tune.name, self.currentIndex().column()) if row and tune else None
        self._scrolled = self.verticalScrollBar().value()

    def _restore(self) -> None:
        searching = bool(self.sheet.wanted or self.sheet.differing_only)
        for row, group in enumerate(self.sheet.groups):
            index = self.sheet.index(row, 0)
            self.setFirstColumnSpanned(row, QModelIndex(), True)
            blocked = self.blockSignals(True)
            self.setExpanded(index, searching or group.title not in self.folded)
            self.blockSignals(blocked)
        self._forget_places()
        self.fit_columns()
        if (current := getattr(self, "_current", None)) is not None:
            id, name, column = current
            names = [tune.name for _, tune in self.sheet.tunes]
            # Of a tune that was renamed the column is still there.
            self.go_to(id, name if name in names or not names else names[min(column - FIRST_TUNE, len(names) - 1)])
            self.verticalScrollBar().setValue(self._scrolled)

    def fit_columns(self) -> None:
        """Share the width among the tunes, but keep each wide enough to read; of a hidden one only the letter stays."""
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

    def resizeEvent(self, event: object) -> None:
        self._forget_places()
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.fit_columns()

    def dataChanged(self, first: Index, last: Index, roles: Sequence[int] = ()) -> None:
        """Have in each row that has changed the stretch from the first to the last cell painted: Qt would ask of each
        cell by itself where it is, or paint all."""
        told = self.sheet.told
        if not told or self.state() == QAbstractItemView.State.EditingState or QAccessible.isActive():
            super().dataChanged(first, last, roles)
            return
        group, tops, places, tall = first.internalId() - 1, self._tops(), self._where(), self.viewport().height()
        lines = list[Line]()
        for number, columns in told.items():
            row = (group, number)
            top = tops.get(row)
            if top is not None and top + places.high >= 0 and top < tall:
                here, before = (columns[0], columns[-1]), self._stale.get(row)
                if before is not None:
                    here = min(before.first, here[0]), max(before.last, here[1])
                self._stale[row] = line = Line(top, *row, *here)
                lines.append(line)
        for part in _parts_of(lines, places):
            self.viewport().update(part)

    def _where(self) -> Places:
        if self._columns is None:
            header = self.tune_header
            columns = range(header.count())
            self._columns = Places(
                [(header.sectionViewportPosition(column), header.sectionSize(column)) for column in columns],
                self.visualRect(self.sheet.index(0, 0)).height(),
            )
        return self._columns

    def _tops(self) -> dict[tuple[int, int | None], int]:
        """Where rows begin, in pixels of the viewport, by group and number in it; None for the group itself."""
        if not self._rows:
            top, high = self.visualRect(self.sheet.index(0, 0)).top(), self._where().high
            for place, group in enumerate(self.sheet.groups):
                shown = range(len(group.rows)) if self._is_open(place) else ()
                for number in (None, *shown):
                    self._rows[place, number] = top
                    top += high
        return self._rows

    def _is_open(self, group: int) -> bool:
        return self.isExpanded(self.sheet.index(group, 0))

    def _forget_places(self) -> None:
        """Rows are elsewhere from now on: what was to be painted by itself is painted with all that is there."""
        self._columns = None
        self._rows.clear()
        self._stale.clear()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self._forget_places()
        super().scrollContentsBy(dx, dy)

    def doItemsLayout(self) -> None:
        self._forget_places()
        super().doItemsLayout()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Where nothing but numbers has changed, they alone; Qt's table, which would ask for every row and cell, is
        passed by."""
        self.executeDelayedItemsLayout()
        lines, self._stale = sorted(self._stale.values()), {}
        parts, left = _parts_of(lines, self._where()), QRegion(event.region())
        for part in parts:
            left -= part
        if not lines or not left.isEmpty():
            parts, lines = [event.rect()], self._lines_in(event.rect())
        self.drawing.paint(QPainter(self.viewport()), self.viewport().size(), parts, lines, self._where())

    def _lines_in(self, area: QRect) -> list[Line]:
        places, lines = self._where(), list[Line]()
        columns = [
            column for column, (left, wide) in enumerate(places.columns)
            if left + wide > area.left() and left <= area.right()
        ]  # fmt: skip
        for (group, number), top in self._tops().items():
            if top + places.high <= area.top() or top > area.bottom():
                continue
            if number is None:
                lines.append(Line(top, group))
            elif columns:
                lines.append(Line(top, group, number, columns[0], columns[-1]))
        return lines

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        super().selectionChanged(selected, deselected)
        self._note_chosen()

    def _note_chosen(self) -> None:
        indexes = [*self.selectedIndexes(), self.currentIndex()]
        self.drawing.framed = {
            (index.internalId() - 1, index.row(), index.column()) for index in indexes if index.isValid()
        }

    def cell(self, id: str, tune: str) -> QModelIndex:
        """The index of a parameter or measure in a tune's column; invalid if it is not shown."""
        names = [tune_.name for _, tune_ in self.sheet.tunes]
        for place, group in enumerate(self.sheet.groups):
            for number, row in enumerate(group.rows):
                if row.id == id and tune in names:
                    return self.sheet.index(number, FIRST_TUNE + names.index(tune), self.sheet.index(place, 0))
        return QModelIndex()

    def to_numbers(self) -> None:
        """The keyboard is in the table from now on, on a number that can be typed over at once."""
        self.setFocus()
        if self.sheet.tune_at(self.currentIndex()) is None or self.sheet.row_at(self.currentIndex()) is None:
            open_ones = (self.sheet.index(place, 0) for place in range(len(self.sheet.groups)))
            group = next((each for each in open_ones if self.isExpanded(each)), None)
            if group is not None and self.sheet.tunes:
                self.setCurrentIndex(self.sheet.index(0, FIRST_TUNE, group))

    def go_to(self, id: str, tune: str) -> None:
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

    def moveCursor(self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Tab goes from tune to tune in a row, then to the next row."""
        index = self.currentIndex()
        last = FIRST_TUNE + len(self.sheet.tunes) - 1
        if action == QAbstractItemView.CursorAction.MoveNext and FIRST_TUNE - 1 < index.column() < last:
            return index.siblingAtColumn(index.column() + 1)
        if action == QAbstractItemView.CursorAction.MovePrevious and index.column() > FIRST_TUNE:
            return index.siblingAtColumn(index.column() - 1)
        there = super().moveCursor(action, modifiers)
        if action == QAbstractItemView.CursorAction.MoveNext and there != index:
            return there.siblingAtColumn(FIRST_TUNE)
        if action == QAbstractItemView.CursorAction.MovePrevious and there != index:
            return there.siblingAtColumn(last)
        return there

    def focusNextPrevChild(self, onward: bool) -> bool:
        """Tab leaves the table only behind its last cell, and backward before its first."""
        index, actions = self.currentIndex(), QAbstractItemView.CursorAction
        if self.hasFocus() and self.sheet.tune_at(index) is not None:
            action = actions.MoveNext if onward else actions.MovePrevious
            there = self.moveCursor(action, Qt.KeyboardModifier.NoModifier)
            if there.isValid() and there != index:
                self.setCurrentIndex(there)
                return True
        return super().focusNextPrevChild(onward)


def _parts_of(lines: Sequence[Line], places: Places) -> list[QRect]:
    """Where lines are: those that stand one under the other, and are as wide, are one part."""
    parts, last = list[QRect](), (0, -1, -1)
    for line in lines:
        if last == (line.top, line.first, line.last):
            parts[-1].setHeight(parts[-1].height() + places.high)
        else:
            left, (begin, wide) = places.columns[line.first][0], places.columns[line.last]
            parts.append(QRect(left, line.top, begin + wide - left, places.high))
        # Where the next one would go on.
        last = (line.top + places.high, line.first, line.last)
    return parts
