"""The rows of the sheet: parameters by section, then figures; columns are tunes."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, QPersistentModelIndex, Qt
from typing_extensions import override

from cinetica.desk.actions.keys import keyed
from cinetica.desk.look import letter
from cinetica.desk.sheet.content import Content, Group, Row
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import plain_tip
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.quantity import POWERS, examples
from cinetica.model.rate_shares import is_exact, share_per_tick
from cinetica.model.targets import HOW
from cinetica.model.tune import Tune
from cinetica.model.value_text import number_text
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.explain import equation, rule_of
from cinetica.reading.measures import REACHED, Measure, Reading
from cinetica.reading.targets import Verdict

Index = QModelIndex | QPersistentModelIndex
LABEL, UNIT, FIRST_TUNE = 0, 1, 2


class SheetModel(QAbstractTableModel, Content):
    """Groups, each a row with its parameters below it or, with `figures`, the figures.

    A row that matters to no tune is left out.
    """

    def __init__(self, session: Session, parent: QObject | None = None, *, figures: bool = False) -> None:
        super().__init__(parent)
        self.set_up(session, figures=figures)
        self.begin()
        self.rebuild()
        # One of them comes at the end of every drag.
        session.undo_stack.indexChanged.connect(self._remove_lingering_rows)
        session.wake_changed.connect(self._remove_lingering_rows)
        session.loaded.connect(self._start_over)
        session.units_changed.connect(self.rebuild)

    # What there is to show

    def filter(self, wanted: str, differing_only: bool) -> None:
        """Show only rows that match, or differ."""
        self.wanted, self.differing_only = wanted.strip().lower(), differing_only
        self.rebuild()

    def show_all_rules(self, on: bool) -> None:
        """Show rules that are off, too, or only those in use."""
        self.all_rules = on
        self.opened.clear()
        self.rebuild()

    def _start_over(self) -> None:
        self.begin()
        self.rebuild()

    def open_section(self, title: str) -> None:
        """Show the rules of a section that are off."""
        self.opened.add(title)
        self.rebuild()

    def refresh(self) -> None:
        """Read the session's values; rebuild only if other rows or columns are needed."""
        if [tune.name for _, tune in self.tunes] != [tune.name for _, tune in self.columns_wanted()]:
            self.rebuild()
            return
        before, held_against, verdicts = self._row_values, self._reference_and_hidden, self._verdicts
        if not self.figures and self._is_as_read():
            return
        self._read()
        groups = self._grouped()
        if [group.rows for group in groups] != [group.rows for group in self.groups]:
            self.rebuild()
            return
        self._read_values()
        columns, reference = range(len(self.tunes)), self._reference_and_hidden[0]
        other = held_against != self._reference_and_hidden or verdicts != self._verdicts
        for row, (was, now) in enumerate(zip(before, self._row_values, strict=True)):
            if other or was != now:
                # All others are compared with the reference.
                every = other or was[reference] != now[reference]
                self._change(row, columns if every else [at for at in columns if was[at] != now[at]])

    def _change(self, place: int, columns: Sequence[int]) -> None:
        """Update these cells of a row, and tell the views which ones read differently."""
        cells, found = self._cells[place], []
        for column, cell in zip(columns, self._cells_of(place, columns), strict=True):
            if cells[column] != cell:
                cells[column] = cell
                found.append(column)
        if found:
            group, number, _ = self._places[place]
            row = self.row_of(group, number)
            self.dataChanged.emit(self.index(row, FIRST_TUNE + found[0]), self.index(row, FIRST_TUNE + found[-1]))

    def _remove_lingering_rows(self, *_: object) -> None:
        if self._lingering and not self.session.in_gesture:
            self.refresh()

    def rebuild(self) -> None:
        """Read everything again."""
        self.beginResetModel()
        self._read()
        self.groups = self._grouped()
        self._place()
        self._read_values()
        columns = range(len(self.tunes))
        self._cells = [self._cells_of(row, columns) for row in range(len(self._places))]
        self.endResetModel()

    # What a cell says

    def row_of(self, group: int, number: int | None = None) -> int:
        """The table row of a group, or of one of its rows."""
        return self._firsts[group] + group + (0 if number is None else 1 + number)

    def place_at(self, index: Index) -> tuple[int, int | None] | None:
        """The group of an index, and its row within the group (None for the group itself)."""
        if not index.isValid():
            return None
        group = bisect_right(self._begins, index.row()) - 1
        number = index.row() - self._begins[group] - 1
        return group, (None if number < 0 else number)

    def row_at(self, index: Index) -> Row | None:
        """The parameter or measure of an index; None for a group."""
        place = self.place_at(index)
        return None if place is None or place[1] is None else self.groups[place[0]].rows[place[1]]

    def tune_at(self, index: Index) -> Tune | None:
        """The tune of an index."""
        column = index.column() - FIRST_TUNE
        return self.tunes[column][1] if 0 <= column < len(self.tunes) else None

    def cell_at(self, index: Index) -> tuple[Tune, Parameter] | None:
        """The number at an index, if it can be edited."""
        row, tune = self.row_at(index), self.tune_at(index)
        editable = isinstance(row, Parameter) and tune is not None and self.flags(index) & Qt.ItemFlag.ItemIsEditable
        return (tune, row) if editable else None  # type: ignore[return-value]

    def verdict_at(self, index: Index) -> Verdict | None:
        """The verdict on the figure at an index."""
        row, column = self.row_at(index), index.column() - FIRST_TUNE
        return self.verdict(row, column) if isinstance(row, Measure) and column >= 0 else None

    def figure_at(self, index: Index) -> tuple[str, str] | None:
        """The names of tune and figure at an index, if it is shown."""
        row, tune = self.row_at(index), self.tune_at(index)
        return None if row is None or tune is None or self.reading_at(index) is None else (tune.name, row.id)

    def edit_text(self, index: Index) -> str:
        """The text of a cell as it is edited."""
        return str(self.data(index, Qt.ItemDataRole.EditRole))

    def show_in_bodies(self, on: bool) -> None:
        """Show lengths in bodies, or in u."""
        self.in_bodies = on
        self.rebuild()

    def reading_at(self, index: Index) -> Reading | None:
        """The figure in a cell; None if there is none."""
        row, column = self.row_at(index), index.column() - FIRST_TUNE
        return (
            self._readings[column].get(row.id) if isinstance(row, Measure) and 0 <= column < len(self.tunes) else None
        )

    # Qt's side of it

    @override
    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._places) + len(self.groups)

    @override
    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else FIRST_TUNE + len(self.tunes)

    @override
    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        row = self.row_at(index)
        column = index.column() - FIRST_TUNE
        if row is not None and column >= 0 and not self.tunes[column][1].snapshot_of and not self.is_log(column):
            takes = (
                self.matters(row, column)
                if isinstance(row, Parameter)
                else not self.session.is_hidden(self.tunes[column][1])
            )
            flags |= Qt.ItemFlag.ItemIsEditable if takes else Qt.ItemFlag.NoItemFlags
        return flags

    @override
    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole and section >= FIRST_TUNE:
            place, tune = self.tunes[section - FIRST_TUNE]
            return f"{letter(place)} {tune.name}"
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.ToolTipRole and section >= FIRST_TUNE:
            tune = self.tunes[section - FIRST_TUNE][1]
            if self.is_log(section - FIRST_TUNE):
                return plain_tip(f"{tune.name}: a game log, with the figures read off it. {tune.note}")
            kept = f"A snapshot of {tune.snapshot_of}: it cannot be changed. " if tune.snapshot_of else ""
            how = "Click: make it the reference. Double-click: rename. Right-click: more. Drag onto another tune: copy."
            return plain_tip(f"{tune.name}. {tune.note} {kept}{how}")
        return None

    def _in_ticks(self, row: Row, tune: Tune | None) -> str:
        if isinstance(row, Measure) or tune is None:
            return ""
        rate = self.session.study.clock.tick_rate
        if row.share:
            return as_share(as_number(tune.get(row.id)), rate, is_exact(row, tune.values()))
        if row.unit != "s":
            return ""
        value = as_number(tune.get(row.id))
        return in_ticks(self.session.units.with_unit(row, value), value * rate, rate)

    def _taken_from(self, index: Index) -> str:
        """The frames that a figure comes from, or why it is absent."""
        row, reading = self.row_at(index), self.reading_at(index)
        if not isinstance(row, Measure) or index.column() < FIRST_TUNE:
            return ""
        if reading is None:
            return f"\nAbsent: {row.absent}."
        if row.id in REACHED:
            return "\nOf the tune itself, the same on every drill."
        first, last = reading.rows
        where = f"frame {last}" if first == last else f"frames {first} to {last}"
        ticks = f", {reading.ticks} ticks" if reading.ticks is not None and row.unit == "s" else ""
        return f"\nRead from {where}{ticks}. Click to go there."

    def _target_tip(self, index: Index) -> str:
        """The target of a figure, and how to set one."""
        row, column = self.row_at(index), index.column() - FIRST_TUNE
        if not isinstance(row, Measure) or column < 0:
            return ""
        verdict = self.verdict(row, column)
        if verdict is None:
            return f"\nTo set a target: {HOW}, with “all” behind it for all tunes."
        return f"\nTarget {verdict.wanted}, {verdict.word}: {verdict.why}. Type another, or “none”."

    @staticmethod
    def _group_tip(group: Group) -> str | None:
        if group.is_line and not group.later:
            return plain_tip(f"{group.title}: off. A click, or Enter, shows what switches it on.")
        if not group.more:
            return None
        what = "numbers that are tuned later" if group.later else "rules that are off and that few tunes use"
        how = "A click" if group.is_line else "Click there"
        return plain_tip(keyed("{0} more: {1}. {2}, or {all_rules}, shows them.", str(group.more), what, how))

    @override
    def data(self, index: Index, role: int = 0) -> Any:
        row, place = self.row_at(index), self.place_at(index)
        if row is None and place is not None and role == Qt.ItemDataRole.ToolTipRole:
            return self._group_tip(self.groups[place[0]])
        if row is None or place is None:
            shown = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
            if not place or role not in shown or index.column() != LABEL:
                return None
            group = self.groups[place[0]]
            return f"{group.title}: {group.line_words}" if group.is_line else group.title
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if index.column() == LABEL:
                return row.label
            return self.unit(row) if index.column() == UNIT else self.text(row, index.column() - FIRST_TUNE)
        if role == Qt.ItemDataRole.ToolTipRole:
            tune = self.tune_at(index)
            return plain_tip(
                explanation(row, self.session.units, tune)
                + self._in_ticks(row, tune)
                + self._taken_from(index)
                + self._target_tip(index)
                + _rule(row, tune or self.session.reference)
            )
        if role == Qt.ItemDataRole.AccessibleTextRole:
            tune = self.tune_at(index)
            named = f"{row.label} of {tune.name}: {self.text(row, index.column() - FIRST_TUNE)}" if tune else row.label
            verdict = self.verdict(row, index.column() - FIRST_TUNE) if tune else None
            agreed = f", target {verdict.wanted} {verdict.word}" if verdict else ""
            return f"{named} {self.unit(row)}".strip() + agreed
        return None


def in_ticks(time: str, ticks: float, rate: float) -> str:
    """A time in ticks, as a player counts it."""
    return f" {time} is {number_text(ticks, 2)} ticks at {rate:g} per second; type 6t for six ticks."


def as_share(rate: float, tick_rate: float, exact: bool) -> str:
    """A rate as the share of the gap that it closes in a tick, as games write it."""
    share = min(1.0, share_per_tick(rate, 1.0 / tick_rate, exact))
    return (
        f" {number_text(rate)} /s closes {number_text(100 * share, 2)}% of the gap in a tick at {tick_rate:g} per"
        " second; type 20% for a share."
    )


def _rule(row: Row, tune: Tune | None) -> str:
    """The equation that uses the number, as the kernel states it."""
    rule = rule_of(row.id, str(tune.get("drive.law"))) if isinstance(row, Parameter) and tune else ""
    return f"\n{rule.replace('_', ' ')}: {equation(rule)}" if rule else ""


def explanation(row: Row, units: DisplayUnits = OURS, tune: Tune | None = None) -> str:
    """One or two sentences on a row: what it means and what may be entered for a tune."""
    if isinstance(row, Measure):
        hint = " Type over it to find the numbers that give it." if row.seekable else ""
        return f"{row.label}: {row.meaning} Measured on the curve.{hint}"
    if row.kind == "choice":
        return f"{row.label}: {row.meaning}"
    how = f" Type it as {examples(row.unit)}." if row.unit in POWERS else ""
    allowed = units.parameter(row, tune.values() if tune else None).allowed
    return f"{row.label}: {row.meaning} {allowed[0].upper()}{allowed[1:]}.{how}"
