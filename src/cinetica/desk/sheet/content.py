"""What the sheet shows: rows by section, and their content for each tune. Independent of table widgets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import accumulate

from cinetica.desk.sheet.cells import share_of_comfort
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.essentials import essentials_of, is_new
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.parameters import SECTIONS, Parameter, Value, as_number
from cinetica.model.tune import PARAMETERS, Tune, View
from cinetica.model.world_size import sized
from cinetica.reading.measures import MEASURES, Measure, Reading
from cinetica.reading.targets import Verdict, judge

READ_OFF = "Read off"
Row = Parameter | Measure
# What a cell shows: its text, where a number stands in its comfortable range, how it stands against the reference (see
# `Content.differs`), and whether it is as agreed.
Cell = tuple[str, float | None, int, Verdict | None]
# Shown where there is no value.
ABSENT = "–"


@cached_by_identity(256)
def _values_of(tune: Tune) -> dict[str, Value]:
    return tune.values()


@cached_by_identity(256)
def _mattering_of(tune: Tune) -> frozenset[str]:
    """The parameters that have any effect with the tune's own choices."""
    values = _values_of(tune)
    return _mattering_under(tune.view, tuple(values[id] for id in _DECISIVE))


_RARE = tuple(parameter for parameter in PARAMETERS if parameter.rare)
# What others depend on; most numbers are not among them.
_DECISIVE = tuple(dict.fromkeys(when.id for parameter in PARAMETERS for when in parameter.when))


@lru_cache(256)
def _mattering_under(view: View, decided: tuple[Value, ...]) -> frozenset[str]:
    values = dict(zip(_DECISIVE, decided, strict=True))
    return frozenset(parameter.id for parameter in PARAMETERS if parameter.matters(view, values))


def _by_figure(found: list[Verdict]) -> dict[str, Verdict]:
    """The verdict for each figure; of several targets the first that is missed."""
    by_figure: dict[str, Verdict] = {}
    for verdict in found:
        kept = by_figure.get(verdict.target.measure)
        if kept is None or (verdict.missed and not kept.missed) or (kept.met and not verdict.met):
            by_figure[verdict.target.measure] = verdict
    return by_figure


def _stands(mine: Value | None, reference: Value | None) -> int:
    """How a value compares with another that reads differently; see `Content.differs`."""
    if mine is None or reference is None or mine == reference:
        return 0
    if isinstance(mine, str | tuple) or isinstance(reference, str | tuple):
        return 1
    return 1 if mine > reference else -1


@dataclass
class Group:
    """A section with its rows."""

    title: str
    rows: list[Row] = field(default_factory=list)
    # How many rows are left out; and how many of those are numbers to tune later, rather than rules that are off.
    more: int = 0
    later: int = 0

    @property
    def is_line(self) -> bool:
        """Whether it is collapsed to one line, with no rows shown."""
        return not self.rows

    @property
    def line_words(self) -> str:
        """The text of that line."""
        return f"{self.more} more" if self.later else "off"


class Content:
    """Parameters or, with `figures`, figures; a row that matters to no tune is left out."""

    def set_up(self, session: Session, *, figures: bool) -> None:
        """Prepare an empty content."""
        self.session, self.figures = session, figures
        self.groups: list[Group] = []
        # The columns: the tunes, and behind them the game logs of the drill, which have figures alone.
        self.tunes: list[tuple[int, Tune]] = []
        self._logs_from = 0
        self._values: list[dict[str, Value]] = []
        self._mattering: list[frozenset[str]] = []
        self._readings: list[dict[str, Reading]] = []
        self._verdicts: list[dict[str, Verdict]] = []
        # Each row with its place: group, and number in it; what they say in each column; and what the cells show.
        self._places: list[tuple[int, int, Row]] = []
        # The first place of each group; and the row of the table in which it begins, with one row for each group.
        self._firsts: list[int] = []
        self._begins: list[int] = []
        self._row_values: list[tuple[Value | None, ...]] = []
        self._cells: list[list[Cell]] = []
        self._reference_and_hidden: tuple[int, list[bool]] = (0, [])
        self.wanted = ""
        self.differing_only = False
        # Whether rules that are off are shown, too.
        self.all_rules = False
        # Whether a new study shows only the numbers to begin with.
        self.begins = False
        # The sections whose rules are shown though they are off.
        self.opened: set[str] = set()
        # Whether rows that are no longer needed stay until the drag ends.
        self._lingering = False
        # The groups, and what they were found for.
        self._found_groups: list[Group] = []
        self._grouped_for: tuple[object, ...] = ()
        # Whether lengths are shown in body heights and widths.
        self.in_bodies = False

    def _is_as_read(self) -> bool:
        """Whether the same tunes are compared in the same way: only input or a course has changed."""
        tunes = self.columns_wanted()
        return all(one is other for (_, one), (_, other) in zip(self.tunes, tunes, strict=True)) and (
            self._reference_and_hidden == (self.reference_column, [self.session.is_hidden(tune) for _, tune in tunes])
        )

    def columns_wanted(self) -> list[tuple[int, Tune]]:
        """The session's tunes and visible game logs, each with its place."""
        logs = ((each.place, each.tune) for each in self.session.shown if each.trace.logged and not each.live)
        return [*self.session.tunes, *logs]

    def is_log(self, column: int) -> bool:
        """Whether a column shows a game log."""
        return column >= self._logs_from

    def _read(self) -> None:
        self.tunes, self._logs_from = self.columns_wanted(), len(self.session.tunes)
        self._values = [_values_of(tune) for _, tune in self.tunes]
        self._mattering = [
            frozenset() if self.is_log(column) else _mattering_of(tune) for column, (_, tune) in enumerate(self.tunes)
        ]
        by_name: dict[tuple[str, bool], TuneRun] = {
            (each.tune.name, each.trace.logged): each for each in self.session.shown if self.figures and not each.live
        }
        runs = [by_name.get((tune.name, self.is_log(column))) for column, (_, tune) in enumerate(self.tunes)]
        poses = self.session.poses_shown
        self._readings = [(run.readings | run.pose_readings if poses else run.readings) if run else {} for run in runs]
        drill, units = self.session.drill, self.session.units
        judged = self.figures and drill is not None and bool(drill.targets)
        self._verdicts = [
            _by_figure(judge(drill, tune, readings, units)) if judged and drill and not self.is_log(column) else {}
            for column, ((_, tune), readings) in enumerate(zip(self.tunes, self._readings, strict=True))
        ]
        hidden = [self.session.is_hidden(tune) for _, tune in self.tunes]
        self._reference_and_hidden = (self.reference_column, hidden)

    def _read_values(self) -> None:
        """Compute what every row says in each column, skipping rows in which nothing has changed."""
        ids = [row.id for _, _, row in self._places]
        if self.figures and not self.in_bodies and self.session.units.game is None:
            self._row_values = [
                tuple([None if (found := readings.get(id)) is None else found.value for readings in self._readings])
                for id in ids
            ]
        elif self.figures:
            columns = range(len(self.tunes))
            self._row_values = [tuple([self.value(row, column) for column in columns]) for _, _, row in self._places]
        else:
            both = list(zip(self._values, self._mattering, strict=True))
            self._row_values = [
                tuple([values[id] if id in mattering else None for values, mattering in both]) for id in ids
            ]

    def _cells_of(self, number: int, columns: Sequence[int]) -> list[Cell]:
        """What the cells of a row show in these columns, so that only changed ones are repainted."""
        row, values = self._places[number][2], self._row_values[number]
        first, hidden = self._reference_and_hidden
        reference = values[first] if values else None
        measure, cells = isinstance(row, Measure), list[Cell]()
        ranged = row if isinstance(row, Parameter) and row.kind in ("number", "whole") else None
        reference_text = self._text_of(row, reference, first) if values else ABSENT
        for column in columns:
            value = values[column]
            text = reference_text if column == first else self._text_of(row, value, column)
            share = (
                share_of_comfort(sized(ranged, self.tunes[column][1]), as_number(value))
                if ranged and value is not None
                else None
            )
            # Figures that read alike count as equal.
            alike = column == first or hidden[column] or (measure and text == reference_text)
            differs = 0 if alike else _stands(value, reference)
            cells.append((text, share, differs, self._verdicts[column].get(row.id)))
        return cells

    def cell(self, group: int, number: int, column: int) -> Cell:
        """What a cell shows."""
        return self._cells[self._firsts[group] + number][column]

    def _place(self) -> None:
        self._places = [
            (place, number, row) for place, group in enumerate(self.groups) for number, row in enumerate(group.rows)
        ]
        self._firsts = [0, *accumulate(len(group.rows) for group in self.groups)]
        self._begins = [first + group for group, first in enumerate(self._firsts[:-1])]

    def _grouped(self) -> list[Group]:
        drill = self.session.drill
        read = {target.measure for target in drill.targets} if drill and self.figures else set()
        read.update(*(self._readings if self.figures else ()))
        self._lingering = False
        if self.figures and self.session.in_gesture:
            # During a drag no row is removed: those below it would jump.
            there = {row.id for group in self.groups for row in group.rows}
            self._lingering = not there <= read
            read |= there
        mattering = frozenset[str]().union(*self._mattering)
        off = frozenset() if self.all_rules or self.wanted or self.figures else self._left_out(mattering)
        if self.differing_only or self._grouped_for != (mattering, read, self.wanted, off):
            groups = {section: Group(section) for section in (*SECTIONS, READ_OFF)}
            for parameter in () if self.figures else PARAMETERS:
                if parameter.id in off:
                    groups[parameter.section].more += 1
                    groups[parameter.section].later += not parameter.rare
                elif parameter.id in mattering and self._is_wanted(parameter):
                    groups[parameter.section].rows.append(parameter)
            for measure in MEASURES if self.figures else ():
                if measure.id in read and self._is_wanted(measure):
                    groups[READ_OFF].rows.append(measure)
            self._found_groups = [group for group in groups.values() if group.rows or group.more]
            self._grouped_for = (mattering, read, self.wanted, off)
        return self._found_groups

    def begin(self) -> None:
        """Begin with a study: a new one shows the ten numbers of its kind."""
        tunes = self.session.study.tunes
        self.begins = bool(tunes) and all(map(is_new, tunes))
        self.opened.clear()

    def _left_out(self, mattering: frozenset[str]) -> frozenset[str]:
        """The rules that few tunes use, where no tune here does; in a new study, all that one does not begin with."""
        rules: Sequence[Parameter] = _RARE
        if self.begins:
            own = frozenset[str]().union(*(essentials_of(tune) for _, tune in self.tunes))
            rules = [each for each in PARAMETERS if each.id not in own]

        def is_off(rule: Parameter) -> bool:
            """Whether it is at its default in every tune."""
            return all(values.get(rule.id, rule.default) == rule.default for values in self._values)

        return frozenset(
            each.id for each in rules if each.id in mattering and each.section not in self.opened and is_off(each)
        )

    def _is_wanted(self, row: Row) -> bool:
        if not self.wanted and not self.differing_only:
            return True
        if self.wanted and self.wanted not in f"{row.label} {row.id} {getattr(row, 'section', READ_OFF)}".lower():
            return False
        return not self.differing_only or any(self.differs(row, column) for column in range(len(self.tunes)))

    # What a cell says

    def matters(self, parameter: Parameter, column: int) -> bool:
        """Whether a parameter has any effect for the tune of a column."""
        return parameter.id in self._mattering[column]

    def value(self, row: Row, column: int) -> Value | None:
        """The value or, as it is shown, the figure in a column; None if it does not matter or is absent."""
        if isinstance(row, Measure):
            reading = self._readings[column].get(row.id)
            return None if reading is None else reading.value / self.counted_in(row, self.tunes[column][1])
        return self._values[column][row.id] if self.matters(row, column) else None

    def counted_in(self, measure: Measure, tune: Tune) -> float:
        """The unit in which a figure is shown, in the figure's own: the tune's own body, or what is shown."""
        if self.in_bodies and measure.unit == "u":
            return measure.body(tune)
        return 1.0 / self.session.units.scale(measure.unit).factor

    def unit(self, row: Row) -> str:
        """The unit of a row."""
        if isinstance(row, Parameter):
            return self.session.units.parameter_unit(row)
        return row.body_unit if self.in_bodies and row.unit == "u" else self.session.units.unit(row.unit)

    def verdict(self, row: Row, column: int) -> Verdict | None:
        """Whether a figure's target is met; of several the first that is missed. None without a target."""
        return self._verdicts[column].get(row.id)

    @property
    def reference_column(self) -> int:
        """The column of the reference."""
        reference = self.session.reference
        return next((column for column, (_, tune) in enumerate(self.tunes) if tune is reference), 0)

    def differs(self, row: Row, column: int) -> int:
        """How a tune compares with the reference: 0 equal, 1 more (or different), -1 less."""
        first, hidden = self._reference_and_hidden
        if column == first or hidden[column]:
            return 0
        mine, reference = self.value(row, column), self.value(row, first)
        if isinstance(row, Measure) and self.text(row, column) == self.text(row, first):
            return 0
        return _stands(mine, reference)

    def text(self, row: Row, column: int) -> str:
        """The text of a cell."""
        return self._text_of(row, self.value(row, column), column)

    def _text_of(self, row: Row, value: Value | None, column: int) -> str:
        if value is None:
            return ABSENT
        units = self.session.units
        if isinstance(row, Parameter):
            return units.text(row, value, self._values[column])
        in_bodies = self.in_bodies and row.unit == "u"
        return (row if in_bodies else units.measure(row)).text(as_number(value))
