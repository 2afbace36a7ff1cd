"""The rows of the sheet: parameters by section, then the figures read off; columns are tunes."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from PySide6.QtCore import QAbstractItemModel, QModelIndex, QObject, QPersistentModelIndex, Qt

from cinetica.desk.look import letter
from cinetica.desk.sheet.cells import number_text, reading_text, value_text
from cinetica.desk.state.session import Session
from cinetica.desk.state.shown import Shown
from cinetica.desk.widgets import plain_tip
from cinetica.model.memo import by_identity
from cinetica.model.parameters import SECTIONS, Parameter, Value
from cinetica.model.shares import is_exact, share_of
from cinetica.model.targets import HOW
from cinetica.model.tune import PARAMETERS, Tune, View
from cinetica.reading.explain import equation, rule_of
from cinetica.reading.measures import MEASURES, Measure, Reading
from cinetica.reading.targets import Verdict, judge

Index = QModelIndex | QPersistentModelIndex
READ_OFF = "Read off"
LABEL, UNIT, FIRST_TUNE = 0, 1, 2
Row = Parameter | Measure
Cell = tuple[Value | None, int, Verdict | None]


@by_identity(256)
def _values_of(tune: Tune) -> dict[str, Value]:
    return tune.values()


@by_identity(256)
def _mattering_of(tune: Tune) -> frozenset[str]:
    """The parameters that have any effect under the tune's own choices."""
    values = _values_of(tune)
    return _mattering_under(tune.view, tuple(values[id] for id in _DECISIVE))


# What others depend on; most numbers are not among them.
_DECISIVE = tuple(dict.fromkeys(when.id for parameter in PARAMETERS for when in parameter.when))


@lru_cache(256)
def _mattering_under(view: View, decided: tuple[Value, ...]) -> frozenset[str]:
    values = dict(zip(_DECISIVE, decided, strict=True))
    return frozenset(parameter.id for parameter in PARAMETERS if parameter.matters(view, values))


def _by_figure(found: list[Verdict]) -> dict[str, Verdict]:
    """Of several targets for a figure the first that is missed."""
    by_figure: dict[str, Verdict] = {}
    for verdict in found:
        kept = by_figure.get(verdict.target.measure)
        if kept is None or (kept.met and not verdict.met):
            by_figure[verdict.target.measure] = verdict
    return by_figure


@dataclass
class Group:
    title: str
    rows: list[Row] = field(default_factory=list)


class SheetModel(QAbstractItemModel):
    """Two levels: groups, and in them parameters, or with `figures` what is read off.

    A row that matters to no tune is left out.
    """

    def __init__(self, session: Session, parent: QObject | None = None, *, figures: bool = False) -> None:
        super().__init__(parent)
        self.session, self.figures = session, figures
        self.groups: list[Group] = []
        self.tunes: list[tuple[int, Tune]] = []
        self._values: list[dict[str, Value]] = []
        self._mattering: list[frozenset[str]] = []
        self._readings: list[dict[str, Reading]] = []
        self._verdicts: list[dict[str, Verdict]] = []
        # Each row with its place: group, and number in it; what they say in each column; and what the cells show.
        self._places: list[tuple[int, int, Row]] = []
        self._said: list[list[Value | None]] = []
        self._cells: list[list[Cell]] = []
        self._held_against: tuple[int, list[bool]] = (0, [])
        self.wanted = ""
        self.differing_only = False
        # The groups, and what they were found for.
        self._found_groups: list[Group] = []
        self._grouped_for: tuple[object, ...] = ()
        # Lengths that are read off are told in body heights and widths.
        self.in_bodies = False
        self.rebuild()

    # What there is to show

    def filter(self, wanted: str, differing_only: bool) -> None:
        self.wanted, self.differing_only = wanted.strip().lower(), differing_only
        self.rebuild()

    def refresh(self) -> None:
        """Take over the session's values; rebuild only where other rows or columns are needed."""
        if [tune.name for _, tune in self.tunes] != [tune.name for _, tune in self.session.tunes]:
            self.rebuild()
            return
        said, held_against, verdicts = self._said, self._held_against, self._verdicts
        self._read()
        groups = self._grouped()
        if [group.rows for group in groups] != [group.rows for group in self.groups]:
            self.rebuild()
            return
        self._say()
        columns = range(len(self._cells))
        if held_against != self._held_against or verdicts != self._verdicts:
            changed = {row: set(columns) for row in range(len(self._places))}
        else:
            changed = {}
            for column, (was, now) in enumerate(zip(said, self._said, strict=True)):
                if was != now:
                    # All others are held against the reference.
                    touched = set(columns) if column == held_against[0] else {column}
                    for row in (row for row, value in enumerate(now) if was[row] != value):
                        changed.setdefault(row, set()).update(touched)
        for row, touched in changed.items():
            self._tell_of(row, sorted(touched))

    def _tell_of(self, row: int, columns: list[int]) -> None:
        """Have those cells of a row painted that are other than before: from the first to the last of them."""
        group, number, shown = self._places[row]
        found = []
        for column in columns:
            if self._cells[column][row] != (cell := self._cell(shown, column)):
                self._cells[column][row] = cell
                found.append(FIRST_TUNE + column)
        if found:
            first, last = (self.createIndex(number, column, group + 1) for column in (found[0], found[-1]))
            self.dataChanged.emit(first, last)

    def rebuild(self) -> None:
        self.beginResetModel()
        self._read()
        self.groups = self._grouped()
        self._places = [
            (place, number, row) for place, group in enumerate(self.groups) for number, row in enumerate(group.rows)
        ]
        self._say()
        columns = range(len(self.tunes))
        self._cells = [[self._cell(row, column) for _, _, row in self._places] for column in columns]
        self.endResetModel()

    def _read(self) -> None:
        self.tunes = self.session.tunes
        self._values = [_values_of(tune) for _, tune in self.tunes]
        self._mattering = [_mattering_of(tune) for _, tune in self.tunes]
        by_name: dict[str, Shown] = {shown.tune.name: shown for shown in self.session.shown if not shown.trace.logged}
        self._readings = [by_name[tune.name].readings if tune.name in by_name else {} for _, tune in self.tunes]
        drill = self.session.drill
        self._verdicts = [
            _by_figure(judge(drill, tune, readings)) if self.figures and drill is not None and drill.targets else {}
            for (_, tune), readings in zip(self.tunes, self._readings, strict=True)
        ]
        hidden = [self.session.is_hidden(tune) for _, tune in self.tunes]
        self._held_against = (self.reference_column, hidden)

    def _say(self) -> None:
        """What every row says in each column: rows in which nothing has changed are not looked at any further."""
        ids = [row.id for _, _, row in self._places]
        if self.figures and not self.in_bodies:
            self._said = [
                [None if (found := readings.get(id)) is None else found.value for id in ids]
                for readings in self._readings
            ]
        elif self.figures:
            columns = range(len(self.tunes))
            self._said = [[self.value(row, column) for _, _, row in self._places] for column in columns]
        else:
            self._said = [
                [values[id] if id in mattering else None for id in ids]
                for values, mattering in zip(self._values, self._mattering, strict=True)
            ]

    def _cell(self, row: Row, column: int) -> Cell:
        """What a cell shows, so that only those that change are painted again."""
        return self.value(row, column), self.differs(row, column), self.verdict(row, column)

    def _grouped(self) -> list[Group]:
        drill = self.session.drill
        read = {target.measure for target in drill.targets} if drill and self.figures else set()
        read.update(*(self._readings if self.figures else ()))
        mattering = frozenset[str]().union(*self._mattering)
        if self.differing_only or self._grouped_for != (mattering, read, self.wanted):
            groups = {section: Group(section) for section in (*SECTIONS, READ_OFF)}
            for parameter in () if self.figures else PARAMETERS:
                if parameter.id in mattering and self._is_wanted(parameter):
                    groups[parameter.section].rows.append(parameter)
            for measure in MEASURES if self.figures else ():
                if measure.id in read and self._is_wanted(measure):
                    groups[READ_OFF].rows.append(measure)
            self._found_groups = [group for group in groups.values() if group.rows]
            self._grouped_for = (mattering, read, self.wanted)
        return self._found_groups

    def _is_wanted(self, row: Row) -> bool:
        if not self.wanted and not self.differing_only:
            return True
        if self.wanted and self.wanted not in f"{row.label} {row.id} {getattr(row, 'section', READ_OFF)}".lower():
            return False
        return not self.differing_only or any(self.differs(row, column) for column in range(len(self.tunes)))

    # What a cell says

    def row_at(self, index: Index) -> Row | None:
        """The parameter or measure of an index; None for a group."""
        if not index.isValid() or index.internalId() == 0:
            return None
        return self.groups[index.internalId() - 1].rows[index.row()]

    def tune_at(self, index: Index) -> Tune | None:
        column = index.column() - FIRST_TUNE
        return self.tunes[column][1] if 0 <= column < len(self.tunes) else None

    def matters(self, parameter: Parameter, column: int) -> bool:
        return parameter.id in self._mattering[column]

    def value(self, row: Row, column: int) -> Value | None:
        """The value or figure in a tune's column; None where it does not matter or is absent."""
        if isinstance(row, Measure):
            reading = self._readings[column].get(row.id)
            return None if reading is None else reading.value / self.counted_in(row, self.tunes[column][1])
        return self._values[column][row.id] if self.matters(row, column) else None

    def counted_in(self, measure: Measure, tune: Tune) -> float:
        """What a figure is divided by to be shown: 1, or the tune's own body."""
        return measure.body(tune) if self.in_bodies else 1.0

    def unit(self, row: Row) -> str:
        return row.body_unit if isinstance(row, Measure) and self.in_bodies else row.unit

    def tell_in_bodies(self, on: bool) -> None:
        self.in_bodies = on
        self.rebuild()

    def verdict(self, row: Row, column: int) -> Verdict | None:
        """Whether a figure is as agreed; of several targets the first that is missed. None where there is none."""
        return self._verdicts[column].get(row.id)

    def reading_at(self, index: Index) -> Reading | None:
        """The figure in a cell; None where there is none."""
        row, column = self.row_at(index), index.column() - FIRST_TUNE
        return (
            self._readings[column].get(row.id) if isinstance(row, Measure) and 0 <= column < len(self.tunes) else None
        )

    @property
    def reference_column(self) -> int:
        """The column of the tune that the others are held against."""
        reference = self.session.reference
        return next((column for column, (_, tune) in enumerate(self.tunes) if tune is reference), 0)

    def differs(self, row: Row, column: int) -> int:
        """How a tune stands against the reference: 0 equal, 1 more (or otherwise), -1 less."""
        against, hidden = self._held_against
        if column == against or hidden[column]:
            return 0
        mine, reference = self.value(row, column), self.value(row, against)
        if mine is None or reference is None or mine == reference:
            return 0
        if isinstance(mine, str) or isinstance(reference, str):
            return 1
        if isinstance(row, Measure) and reading_text(float(mine), row.unit) == reading_text(float(reference), row.unit):
            return 0
        return 1 if mine > reference else -1

    def text(self, row: Row, column: int) -> str:
        value = self.value(row, column)
        if value is None:
            return "–"
        return reading_text(float(value), row.unit) if isinstance(row, Measure) else value_text(row, value)

    # Qt's side of it

    def index(self, row: int, column: int, parent: Index = QModelIndex()) -> QModelIndex:  # noqa: B008
        return self.createIndex(row, column, parent.row() + 1 if parent.isValid() else 0)

    def parent(self, index: Index | None = None) -> Any:
        if index is None:
            return super().parent()
        if not index.isValid() or index.internalId() == 0:
            return QModelIndex()
        return self.createIndex(index.internalId() - 1, 0, 0)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        if not parent.isValid():
            return len(self.groups)
        return len(self.groups[parent.row()].rows) if parent.internalId() == 0 and parent.column() == 0 else 0

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return FIRST_TUNE + len(self.tunes)

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        row = self.row_at(index)
        column = index.column() - FIRST_TUNE
        if row is not None and column >= 0 and not self.tunes[column][1].snapshot_of:
            takes = (
                self.matters(row, column)
                if isinstance(row, Parameter)
                else not self.session.is_hidden(self.tunes[column][1])
            )
            flags |= Qt.ItemFlag.ItemIsEditable if takes else Qt.ItemFlag.NoItemFlags
        return flags

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole and section >= FIRST_TUNE:
            place, tune = self.tunes[section - FIRST_TUNE]
            return f"{letter(place)} {tune.name}"
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.ToolTipRole and section >= FIRST_TUNE:
            tune = self.tunes[section - FIRST_TUNE][1]
            kept = f"A snapshot of {tune.snapshot_of}: it stays as it was. " if tune.snapshot_of else ""
            how = (
                "Click: hold the others against it. Double-click: rename. Right-click: more. Drag on to another tune:"
                " copy."
            )
            return plain_tip(f"{tune.name}. {tune.note} {kept}{how}")
        return None

    def _in_ticks(self, row: Row, tune: Tune | None) -> str:
        if isinstance(row, Measure) or tune is None:
            return ""
        rate = self.session.study.clock.tick_rate
        if row.share:
            return as_share(float(tune.get(row.id)), rate, is_exact(row, tune.values()))
        return in_ticks(float(tune.get(row.id)), rate) if row.unit == "s" else ""

    def _taken_from(self, index: Index) -> str:
        """The frames that a figure was read off, or why there is none."""
        row, reading = self.row_at(index), self.reading_at(index)
        if not isinstance(row, Measure) or index.column() < FIRST_TUNE:
            return ""
        if reading is None:
            return f"\nAbsent: {row.absent}."
        first, last = reading.rows
        where = f"frame {last}" if first == last else f"frames {first} to {last}"
        ticks = f", {reading.ticks} ticks" if reading.ticks is not None and row.unit == "s" else ""
        return f"\nTaken from {where}{ticks}. Click: the frame cursor goes there."

    def _as_agreed(self, index: Index) -> str:
        """The target of a figure, and how one is set."""
        row, column = self.row_at(index), index.column() - FIRST_TUNE
        if not isinstance(row, Measure) or column < 0:
            return ""
        verdict = self.verdict(row, column)
        if verdict is None:
            return f"\nTo agree on a range: {HOW}, with “all” behind it for all tunes."
        return f"\nTarget {verdict.wanted}, {verdict.word}: {verdict.why}. Type another, or none."

    def data(self, index: Index, role: int = 0) -> Any:
        row = self.row_at(index)
        if row is None:
            if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole) and index.column() == LABEL:
                return self.groups[index.row()].title
            return None
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if index.column() == LABEL:
                return row.label
            return self.unit(row) if index.column() == UNIT else self.text(row, index.column() - FIRST_TUNE)
        if role == Qt.ItemDataRole.ToolTipRole:
            tune = self.tune_at(index)
            return plain_tip(
                explanation(row)
                + self._in_ticks(row, tune)
                + self._taken_from(index)
                + self._as_agreed(index)
                + _rule(row, tune or self.session.reference)
            )
        if role == Qt.ItemDataRole.AccessibleTextRole:
            tune = self.tune_at(index)
            named = f"{row.label} of {tune.name}: {self.text(row, index.column() - FIRST_TUNE)}" if tune else row.label
            verdict = self.verdict(row, index.column() - FIRST_TUNE) if tune else None
            agreed = f", target {verdict.wanted} {verdict.word}" if verdict else ""
            return f"{named} {self.unit(row)}".strip() + agreed
        return None


def in_ticks(seconds: float, rate: float) -> str:
    """A time in ticks, as a player counts it."""
    return (
        f" {number_text(seconds)} s is {number_text(seconds * rate, 2)} ticks at {rate:g} per second; type 6t for six"
        " ticks."
    )


def as_share(rate: float, tick_rate: float, exact: bool) -> str:
    """A rate as the share of the gap that it closes in a tick, as games write it."""
    share = min(1.0, share_of(rate, 1.0 / tick_rate, exact))
    return (
        f" {number_text(rate)} /s closes {number_text(100 * share, 2)} % of the gap in a tick at {tick_rate:g} per"
        " second; type 20% for a share."
    )


def _rule(row: Row, tune: Tune | None) -> str:
    """The equation in which the number acts, as the kernel states it."""
    rule = rule_of(row.id, str(tune.get("drive.law"))) if isinstance(row, Parameter) and tune else ""
    return f"\n{rule.replace('_', ' ')}: {equation(rule)}" if rule else ""


def explanation(row: Row) -> str:
    """One or two sentences on a row: what it means and what may be entered."""
    if isinstance(row, Measure):
        wish = " Type over it: the numbers behind it are found." if row.wishable else ""
        return f"{row.label}: {row.meaning} Read off the trace.{wish}"
    if row.kind == "choice":
        return f"{row.label}: {row.meaning}"
    return f"{row.label}: {row.meaning} {row.allowed[0].upper()}{row.allowed[1:]}."
