"""Values of the sheet that are typed, copied and pasted, one or many at once."""

from __future__ import annotations

from PySide6.QtCore import (
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    Qt,
)
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QAbstractItemView,
    QWidget,
)
from typing_extensions import override

from cinetica.desk.sheet.cells import value_from_text, wish_from_text
from cinetica.desk.sheet.model import FIRST_TUNE, Index
from cinetica.desk.sheet.table import SheetTable
from cinetica.desk.state.session import Session
from cinetica.model import editing
from cinetica.model.parameters import Parameter, Value
from cinetica.model.targets import HOW, Target, range_from_text, split_all
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure


class CopyingTable(SheetTable):
    """What goes from cell to cell: several at once, as text, and between tunes."""

    def __init__(self, session: Session, *, figures: bool = False) -> None:
        super().__init__(session, figures=figures)
        self.tune_header.dropped.connect(self._drop)

    def _drop(self, column: int, at: QPoint) -> None:
        """Move the tune if dropped on a name, copy the value on a cell, copy the group on a group."""
        if column >= len(self.sheet.tunes):
            # Another study has been opened meanwhile.
            return
        source = self.sheet.tunes[column][1].name
        on_header = self.tune_header.viewport().mapFromGlobal(at)
        if self.tune_header.viewport().rect().contains(on_header):
            to = self.tune_header.logicalIndexAt(on_header) - FIRST_TUNE
            if to >= 0 and to != column:
                self.session.alter(f"Move {source}", lambda study: editing.moved_tune(study, source, to - column))
            return
        spot = self.viewport().mapFromGlobal(at)
        index, to = self.indexAt(spot), self.columnAt(spot.x()) - FIRST_TUNE
        if not index.isValid() or not 0 <= to < len(self.sheet.tunes) or to == column:
            return
        target, row = self.sheet.tunes[to][1].name, self.sheet.row_at(index)
        if isinstance(row, Parameter):
            self._copy_values(source, target, row.label, [row])
        elif row is None and (place := self.sheet.place_at(index)) is not None:
            self.copy_group(source, target, place[0])

    def copy_group(self, source: str, target: str, place: int) -> None:
        """Copy all values of a group from one tune to another."""
        group = self.sheet.groups[place]
        self._copy_values(source, target, group.title, [row for row in group.rows if isinstance(row, Parameter)])

    def _copy_values(self, source: str, target: str, what: str, parameters: list[Parameter]) -> None:
        done = self.session.alter(
            f"{what} of {source} to {target}",
            lambda study: editing.with_copied_values(study, source, target, parameters),
        )
        if done:
            self.hovered.emit(f"{what} of {source} copied to {target}.")

    @override
    def commitData(self, editor: QWidget) -> None:
        """Commit; Qt also calls this for an editor removed meanwhile, with its row or for another one."""
        if not editor.isHidden():
            super().commitData(editor)

    def type_into(self, index: Index, text: str) -> None:
        """Set what was typed into a cell in all selected cells; for a figure it is the wanted value."""
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        if row is None or tune is None:
            return
        try:
            if isinstance(row, Measure):
                if self._agree(row, tune, text):
                    return
                wish = wish_from_text(row, text, self.sheet.unit(row))
                self.session.wish(tune, row.id, wish * self.sheet.counted_in(row, tune))
                return
            cells = [each for each, parameter in self._chosen() if parameter is row]
            if len(cells) <= 1:
                self.session.set_value(tune, row, self._understood(row, text, tune))
            else:
                changes = [(each.name, row, self._understood(row, text, each)) for each in cells]
                self.session.set_values(f"{row.label} of {len(cells)} tunes", changes)
        except ValueError as error:
            self.session.refused.emit(str(error))

    def _agree(self, measure: Measure, tune: Tune, text: str) -> bool:
        """Set a typed range, or “none”, as the target of a figure; False if it is neither.

        It is for the cell's tune, or for all of the view with a trailing “all” or if the whole row is selected.
        """
        drill = self.session.drill
        bare, for_all = split_all(text)
        body = self.sheet.counted_in(measure, tune)
        if drill is None:
            return False
        for_all = for_all or len({index.column() for index in self.selectedIndexes()}) > 1
        names = () if for_all else (tune.name,)
        if bare.lower() in ("none", "no target"):
            return self.session.alter(
                f"No target for {measure.label.lower()}",
                lambda study: editing.without_target(study, drill.name, measure.id, names),
            ) or True  # fmt: skip
        ends = range_from_text(bare, self.sheet.unit(measure))
        if ends is None:
            if measure.wishable:
                return False
            raise ValueError(f"{measure.label} follows from no one number, so it cannot be set; as a target, {HOW}.")
        low, high = (None if end is None else end * body for end in ends)
        target = Target(measure=measure.id, low=low, high=high, tunes=names)
        if self.session.alter(
            f"Target for {measure.label.lower()}", lambda study: editing.with_target(study, drill.name, target)
        ):
            whose = "every tune" if for_all else tune.name
            self.session.told.emit(f"{measure.label} of {whose} is to be {target.words} {measure.unit}".rstrip() + ".")
        return True

    def _understood(self, parameter: Parameter, text: str, tune: Tune) -> Value:
        """The typed value: ticks are those of the clock, shares in the tune's own form."""
        return value_from_text(parameter, text, self._tick_rate, tune.values())

    def choose_row(self) -> None:
        """Select the current row in every tune."""
        index = self.currentIndex()
        if self._parameter_cell(index):
            last = FIRST_TUNE + len(self.sheet.tunes) - 1
            selection = QItemSelection(index.siblingAtColumn(FIRST_TUNE), index.siblingAtColumn(last))
            self.selectionModel().select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.hovered.emit("Chosen in every tune: what you type now goes to all of them.")

    def copy(self) -> None:
        """Copy the selected cells as text: rows are lines, tunes are separated by tabs."""
        indexes = [
            index
            for index in {*self.selectedIndexes(), self.currentIndex()}
            if self.sheet.row_at(index) and index.column() >= FIRST_TUNE
        ]
        rows = sorted({index.row() for index in indexes})
        columns = sorted({index.column() for index in indexes})
        texts = {(index.row(), index.column()): str(index.data(Qt.ItemDataRole.EditRole)) for index in indexes}
        lines = ["\t".join(texts.get((row, column), "") for column in columns) for row in rows]
        QGuiApplication.clipboard().setText("\n".join(lines))
        self.hovered.emit(f"Copied {len(indexes)} cell{'s' if len(indexes) != 1 else ''}.")

    def paste(self) -> None:
        """Paste tab-separated text from the current cell on; a single value goes to all selected cells."""
        lines = [line.split("\t") for line in QGuiApplication.clipboard().text().strip("\n").split("\n")]
        try:
            changes = self._pasted(lines)
        except ValueError as error:
            self.session.refused.emit(f"{error} Nothing was pasted.")
            return
        if changes and self.session.set_values(
            f"Paste {len(changes)} value{'s' if len(changes) != 1 else ''}", changes
        ):
            self.hovered.emit(f"Pasted {len(changes)} value{'s' if len(changes) != 1 else ''}.")

    def _pasted(self, lines: list[list[str]]) -> list[tuple[str, Parameter, Value]]:
        if len(lines) == 1 and len(lines[0]) == 1:
            return [
                (tune.name, parameter, self._understood(parameter, lines[0][0], tune))
                for tune, parameter in self._chosen()
            ]
        index = self.currentIndex()
        changes = []
        for line in lines:
            for number, text in enumerate(line):
                cell = index.siblingAtColumn(index.column() + number)
                found = self._parameter_cell(cell) if cell.isValid() else None
                if text.strip() and found is None:
                    raise ValueError(f"There is no cell that takes “{text}”.")
                if text.strip() and found is not None:
                    changes.append((found[0].name, found[1], self._understood(found[1], text, found[0])))
            below = self.next_row(index.row(), 1)
            index = QModelIndex() if below is None else self.sheet.index(below, index.column())
        return changes

    def _copy_group_here(self) -> bool:
        """Copy the current group from the reference to the current tune."""
        index, tune, reference = self.currentIndex(), self.current_tune(), self.session.reference
        if not index.isValid() or tune is None or reference is None or tune is reference or self.sheet.figures:
            return False
        place = self.sheet.place_at(index)
        if place is None:
            return False
        self.copy_group(reference.name, tune.name, place[0])
        return True

    def _all_to_default(self) -> None:
        cells = self._chosen()
        words = (
            f"{cells[0][1].label} of {cells[0][0].name}"
            if len(cells) == 1
            else f"{len(cells)} values to their defaults"
        )
        self.session.set_values(words, [(tune.name, parameter, parameter.default) for tune, parameter in cells])

    def to_default(self, tune: Tune, parameter: Parameter) -> None:
        """Reset a number to its default."""
        self.session.set_value(self.session.study.tune(tune.name), parameter, parameter.default)

    def _chosen(self) -> list[tuple[Tune, Parameter]]:
        """The selected parameter cells, and the current one."""
        indexes = sorted(
            {*self.selectedIndexes(), self.currentIndex()},
            key=lambda index: (index.row(), index.column()),
        )
        return [found for index in indexes if (found := self._parameter_cell(index)) is not None]

    @property
    def _tick_rate(self) -> float:
        return self.session.study.clock.tick_rate

    def _can_edit(self, index: QModelIndex) -> bool:
        """Whether an editor can be opened here now: not while another is open."""
        free = index.isValid() and self.state() != QAbstractItemView.State.EditingState
        return free and bool(self.sheet.flags(index) & Qt.ItemFlag.ItemIsEditable)
