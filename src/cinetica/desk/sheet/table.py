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
from cinetica.desk.sheet.delegate import CellDelegate, ValueCell
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
        self.exposed = QRegion()
        self.noted: list[ValueCell] = []
        # Where rows are seen, None for out of sight, by group and number in it; cells that are to be painted, each with
        # its column and place; the cells that are selected, and the current one.
        self._seen: dict[tuple[int, int], QRect | None] = {}
        self._stale: dict[tuple[int, int, int], QRect] = {}
        self._framed: set[tuple[int, int, int]] = set()
        self.setModel(self.sheet)
        self.cell_delegate = CellDelegate(self.sheet)
        self.cell_delegate.setParent(self)
        self.setItemDelegate(self.cell_delegate)
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
        """Have a stretch of a row painted: Qt would ask of each cell by itself where it is, or paint all."""
        if self.state() == QAbstractItemView.State.EditingState or QAccessible.isActive():
            super().dataChanged(first, last, roles)
            return
        key = (first.internalId(), first.row())
        if key not in self._seen:
            place = self.visualRect(first)
            here = place.isValid() and place.bottom() >= 0 and place.top() < self.viewport().height()
            self._seen[key] = place if here else None
        if (row := self._seen[key]) is not None:
            header, columns = self.tune_header, range(first.column(), last.column() + 1)
            cells = [
                QRect(header.sectionViewportPosition(column), row.top(), header.sectionSize(column), row.height())
                for column in columns
            ]
            self._stale.update({(*key, column): cell for column, cell in zip(columns, cells, strict=True)})
            self.viewport().update(cells[0].united(cells[-1]))

    def _forget_places(self) -> None:
        """Rows are elsewhere from now on: what was to be painted by itself is painted with all that is there."""
        self._seen.clear()
        self._stale.clear()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self._forget_places()
        super().scrollContentsBy(dx, dy)

    def doItemsLayout(self) -> None:
        self._forget_places()
        super().doItemsLayout()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Where nothing but numbers has changed, the table, which would ask for every row and cell, is passed by."""
        stale, self._stale = self._stale, {}
        self.exposed = event.region()
        left = QRegion(self.exposed)
        for cell in stale.values():
            left -= cell
        self.noted = []
        if stale and left.isEmpty():
            self.noted = [
                ValueCell(
                    cell,
                    self.sheet.groups[group - 1].rows[number],
                    column - FIRST_TUNE,
                    (group, number, column) in self._framed,
                )
                for (group, number, column), cell in stale.items()
            ]
        else:
            super().paintEvent(event)
        if self.noted:
            painter = QPainter(self.viewport())
            self.cell_delegate.paint_values(painter, self.viewport().size(), self.noted)

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        super().selectionChanged(selected, deselected)
        self._note_chosen()

    def _note_chosen(self) -> None:
        indexes = [*self.selectedIndexes(), self.currentIndex()]
        self._framed = {(index.internalId(), index.row(), index.column()) for index in indexes if index.isValid()}

    def is_chosen(self, index: Index) -> bool:
        return (index.internalId(), index.row(), index.column()) in self._framed

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
