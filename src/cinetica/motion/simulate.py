"""The public interface of the kernel: a tune on a drill under a clock gives a trace."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property, partial
from operator import itemgetter
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.model.words import unknown
from cinetica.motion.clock import schedule
from cinetica.motion.columns import COUNTS, FLAGS, NUMBERS, WHOLE_WORDS, WORDS, Events, SplitTraces, split_columns
from cinetica.motion.native import in_parts, kernel, run_all
from cinetica.motion.polyline import Points
from cinetica.motion.records import (
    MARKS,
    STATE,
    STATES,
    TRACE,
    Ground,
    Records,
    empty_records,
    ground,
    records_of,
    start_of,
    tune_record,
)

# A trace of up to this many rows is split into all of its columns at once.
SHORT = 4000
# How many rows of a long run are made at a time.
PART = 2048
# The columns that long runs keep from the start: those that every picture uses, and all requested since.
asked = dict.fromkeys(("time", "x", "y", "vx", "vy", "ax", "ay", "facing", "state", "marks"))


class Columns(Protocol):
    """Something that has columns by name: rows of dtype TRACE, or a trace."""

    def __getitem__(self, column: str, /) -> NDArray[Any]: ...


class Batch:
    """Short traces that were run in one call, and are split into columns in one.

    Their rows have shape (traces, ticks + 1).
    """

    def __init__(self, rows: NDArray[Any]) -> None:
        self.rows = rows

    @cached_property
    def columns(self) -> SplitTraces:
        """The rows split into columns."""
        return split_columns(self.rows)


class Scale(Protocol):
    """Converts a column."""

    def shown(self, values: NDArray[Any], /) -> NDArray[Any]:
        """The numbers in other units."""


class Units(Protocol):
    """Knows the scale of each column (`reading.display_units.DisplayUnits`)."""

    def column(self, column: str, /) -> Scale:
        """The scale of a column."""


@dataclass(frozen=True, eq=False)
class Trace:
    """The result of a run, one row per tick; row 0 is the start.

    `trace["vy"]` is a column as a NumPy array of shape (ticks + 1,).

    - `tick`: number of the tick
    - `time`, `dt`: s
    - `input_x`, `input_y`: direction of the keys, or the raw stick, -1 to 1
    - `intent_x`, `intent_y`: the intended direction after all rules, of length up to 1
    - `jump_held`, `modifier_held`: whether the key is held
    - `x`, `y`: position, u; of the middle of the feet or, seen from above, of the body
    - `vx`, `vy`: velocity, u/s
    - `ax`, `ay`: acceleration, u/s²
    - `speed`: u/s
    - `facing`, `bank`, `look_yaw`, `look_pitch`: °
    - `state`: code of `records.STATES`
    - `since_ground`, `since_press`: s, infinite before the first time
    - `overlap`: depth of the deepest overlap with a solid, u
    - `marks`: bits of `records.MARKS`
    - `ground_angle`: angle of the line stood or slid on, else 0, °
    - `camera_x`, `camera_y`: position of the camera, u

    Derived from these, and not columns of a file: `screen_x`, `screen_y`, the position minus the camera, u.

    `rows` has all of it as a record array of dtype TRACE; for a long run it is computed on first use. `frames` is the
    frame of the take that each row's input was read from (-1 at the start).
    """

    tune: Tune
    drill: Drill
    clock: Clock
    # The rows, or a function that makes them.
    made: Records | Callable[[], Records]
    frames: NDArray[np.int64]
    # Logged by a game instead of run here, so that the rules that acted are unknown.
    logged: bool = False
    # Columns that are available without the rows.
    taken: Mapping[str, NDArray[Any]] = field(default_factory=dict)
    # The short traces that this one was run with, in one call, and its place among them.
    batch: tuple[Batch, int] | None = None
    # Cached results: columns, lines through two of them, spans, and the text of a row.
    _columns: dict[str, NDArray[Any]] = field(default_factory=dict, init=False, repr=False)
    _lines: dict[tuple[str, str], Points] = field(default_factory=dict, init=False, repr=False)
    _spans: dict[str, tuple[float, float]] = field(default_factory=dict, init=False, repr=False)
    _row: dict[int, list[float]] = field(default_factory=dict, init=False, repr=False)

    def __post_init__(self) -> None:
        self._columns.update(self.taken)

    def __len__(self) -> int:
        return len(self.frames)

    @cached_property
    def rows(self) -> Records:
        """All rows, as a record array of dtype TRACE."""
        return self.made() if callable(self.made) else self.made

    def is_as(self, other: Trace) -> bool:
        """Whether all columns are equal."""
        if len(self) != len(other):
            return False
        if self._table is not None and other._table is not None:
            # Word by word: a difference is usually in one of the first.
            return all(mine.tobytes() == its.tobytes() for mine, its in zip(self._table, other._table, strict=True))
        at_hand = self.taken.keys() & other.taken.keys()
        return all(np.array_equal(self[name], other[name]) for name in at_hand) and all(
            np.array_equal(self.rows[name], other.rows[name]) for name in TRACE.names or ()
        )

    def __repr__(self) -> str:
        return f"<Trace of {self.tune.name} on {self.drill.name}: {len(self) - 1} ticks, {self['time'][-1]:.2f} s>"

    @cached_property
    def _plain_rows(self) -> NDArray[Any]:
        # A record array looks a field up a hundred times slower than the plain array under it.
        return self.batch[0].rows[self.batch[1]] if self.batch else self.rows.view(TRACE, np.ndarray)

    @cached_property
    def _in_batch(self) -> tuple[Batch, int] | None:
        """For a short trace, the traces that it is split with, and its index among them."""
        if not self.is_short:
            return None
        return self.batch or (Batch(self._plain_rows[np.newaxis]), 0)

    @cached_property
    def _table(self) -> NDArray[Any] | None:
        """All words of a short trace, as rows of columns; None for a long one."""
        return None if self._in_batch is None else self._in_batch[0].columns.tables[self._in_batch[1]]

    def __getitem__(self, column: str) -> NDArray[Any]:
        """A column as a contiguous array of shape (ticks + 1,), which is read five times faster than a field."""
        found = self._columns.get(column)
        if found is None:
            found = self._columns[column] = self._column(column)
        return found

    def _column(self, column: str) -> NDArray[Any]:
        word, table = WHOLE_WORDS.get(column), self._table
        if word is not None and table is not None:
            return table[word].view(np.int64) if column in COUNTS else table[word]
        if self.taken and word is not None:
            asked[column] = None
        source = self if column in RECKONED else self._plain_rows
        return np.ascontiguousarray(column_of(source, column, self.tune))

    def table(self, *columns: str, units: Units | None = None) -> dict[str, NDArray[Any]]:
        """Columns by name, all of them if none is named: `pandas.DataFrame(trace.table())`, or Polars' or Arrow's.

        They are in `units`, such as `cinetica.game_units(study)`. States and marks are words, as in the trace's CSV.
        KeyError if there is no such column.
        """
        words: dict[str, Callable[[int], str]] = {
            "state": STATES.__getitem__,
            "marks": lambda code: "+".join(mark_names(code)),
        }
        found = {
            name: np.array([words[name](code) for code in self[name].tolist()]) if name in words else self[name]
            for name in columns or TRACE.names or ()
        }
        if units is None:
            return found
        numbers = {name: units.column(name) for name, column in found.items() if column.dtype == float}
        return found | {name: scale.shown(found[name]) for name, scale in numbers.items()}

    def points(self, x: str, y: str) -> Points:
        """The polyline through two columns."""
        found = self._lines.get((x, y))
        if found is None:
            found = self._lines[x, y] = Points(self[x], self[y])
        return found

    def _words(self, row: int) -> list[float]:
        """All words of a row of a short trace; the last row's are cached."""
        words = self._row.get(row)
        if words is None:
            assert self._table is not None
            self._row.clear()
            words = self._row[row] = self._table[:, row].tolist()
        return words

    def value(self, column: str, row: int) -> float:
        """One number of a column; negative rows count from the end."""
        row = row if row >= 0 else len(self) + row
        if column in NUMBERS and self._table is not None:
            return self._words(row)[WHOLE_WORDS[column]]
        found = self._columns.get(column)
        if found is None and (self.taken or self._table is not None or column in RECKONED):
            found = self[column]
        if found is not None:
            return float(found.item(row))
        return float(column_of(self._plain_rows[row : row + 1], column, self.tune)[0])

    def numbers(self, columns: tuple[str, ...], row: int) -> tuple[float, ...]:
        """One number of each of several columns."""
        if self._table is None:
            return tuple(self.value(column, row) for column in columns)
        taken: tuple[float, ...] = _field_getter(columns)(self._words(row))
        return taken

    def span(self, column: str) -> tuple[float, float]:
        """Least and greatest finite value of a column; 0 and 0 if there is none."""
        found = self._spans.get(column)
        if found is None:
            found = self._spans[column] = self._span(column)
        return found

    def _span(self, column: str) -> tuple[float, float]:
        if self._in_batch is not None and column in NUMBERS:
            (batch, place), word = self._in_batch, WHOLE_WORDS[column]
            least, most = batch.columns.least[place][word], batch.columns.most[place][word]
            if math.isfinite(least) and math.isfinite(most):
                return least, most
        return span_of(self[column])

    @property
    def is_short(self) -> bool:
        """Whether the trace is split into columns as a whole."""
        return len(self.frames) <= SHORT

    @cached_property
    def events(self) -> Events:
        """What happens in which row."""
        if self._in_batch is not None:
            batch, place = self._in_batch
            return batch.columns.events[place]
        marks, states, x, y = self["marks"], self["state"], self["x"], self["y"]
        rows, turns = np.flatnonzero(marks), np.flatnonzero(states[2:] != states[1:-1]) + 2
        return Events(
            self["time"],
            list(zip(rows.tolist(), marks[rows].tolist(), strict=True)),
            list(zip(marks[rows].tolist(), x[rows].tolist(), y[rows].tolist(), strict=True)),
            list(zip(turns.tolist(), states[turns].tolist(), strict=True)),
        )

    def rows_with(self, mark: int) -> NDArray[np.int64]:
        """Indices of the rows with this mark."""
        return np.flatnonzero(self["marks"] & mark)


@cache
def _field_getter(columns: tuple[str, ...]) -> Callable[[list[float]], Any]:
    """A function that picks several columns out of the words of a row."""
    return itemgetter(*(WHOLE_WORDS[column] for column in columns))


def span_of(values: NDArray[Any]) -> tuple[float, float]:
    """Least and greatest finite value; 0 and 0 if there is none."""
    if len(values):
        least, most = float(values.min()), float(values.max())
        if math.isfinite(least) and math.isfinite(most):
            return least, most
        values = values[np.isfinite(values)]
    return (float(values.min()), float(values.max())) if len(values) else (0.0, 0.0)


# What is computed from the rows and is not a column of them, by its name; `reading/channels.py` declares them.
RECKONED: dict[str, Callable[[Columns, Tune], NDArray[Any]]] = {}


def column_of(rows: Columns, column: str, tune: Tune) -> NDArray[Any]:
    """A column of a tune's rows of dtype TRACE, or one derived from them.

    KeyError, with similar names, if there is none.
    """
    if column in RECKONED:
        return RECKONED[column](rows, tune)
    if column not in (names := TRACE.names or ()):
        raise KeyError(unknown("column", column, (*names, *RECKONED)))
    return rows[column]


def simulate(tune: Tune, drill: Drill, clock: Clock) -> Trace:
    """Run a tune on a drill under a clock.

    Raises ValueError if the views differ or the take is too long for the clock.
    """
    return simulate_all([tune], drill, clock)[0]


def simulate_all(tunes: Sequence[Tune], drill: Drill, clock: Clock) -> list[Trace]:
    """Run several tunes on a drill under a clock; raises as `simulate`."""
    for tune in tunes:
        if tune.view != drill.view:
            raise ValueError(
                f"tune {tune.name!r} is for the view {tune.view!r}, drill {drill.name!r} for {drill.view!r}; "
                "the two views must be the same"
            )
    _, dts, frames, *_ = schedule(drill.take, clock)
    if len(dts) <= SHORT:
        batch = Batch(_all_rows(tunes, drill, clock))
        return [
            Trace(tune, drill, clock, partial(_records, batch, place), frames, batch=(batch, place))
            for place, tune in enumerate(tunes)
        ]
    return [
        Trace(
            tune, drill, clock, partial(_rows_of_long, tune, drill, clock), frames,
            taken=_columns_of_long(tune, drill, clock, tuple(asked)),
        )
        for tune in tunes
    ]  # fmt: skip


def _records(batch: Batch, place: int) -> Records:
    return batch.rows[place].view(np.recarray)


def _rows_of_long(tune: Tune, drill: Drill, clock: Clock) -> Records:
    return _all_rows([tune], drill, clock)[0].view(np.recarray)


def _all_rows(tunes: Sequence[Tune], drill: Drill, clock: Clock) -> NDArray[Any]:
    """Rows of dtype TRACE, shape (tunes, ticks + 1)."""
    planned = schedule(drill.take, clock)
    hands, dts, *_ = planned
    start, course = start_of(drill), planned.on(ground(drill.course))
    rows = np.empty((len(tunes), len(dts)), TRACE)
    # The kernel writes everything except the padding after a row's flags.
    rows.view(np.int64).reshape(-1, WORDS)[:, FLAGS] = 0
    states = np.zeros(len(tunes), STATE)
    start.put_into(states)
    run_all(states, records_of(tunes), course, start.x, start.y, hands, dts, rows)
    return rows


def _columns_of_long(tune: Tune, drill: Drill, clock: Clock, names: tuple[str, ...]) -> dict[str, NDArray[Any]]:
    """Columns of a long run, whose rows are not kept."""
    planned = schedule(drill.take, clock)
    hands, dts, *_ = planned
    columns, start = np.empty((len(names), len(dts))), start_of(drill)
    states, course = empty_records(STATE, 1), planned.on(ground(drill.course))
    start.put_into(states)
    for first, rows in in_parts(states, tune_record(tune), course, start.x, start.y, hands, dts, PART):
        words = rows.view(np.float64).reshape(len(rows), -1)
        for column, name in zip(columns, names, strict=True):
            column[first : first + len(rows)] = words[:, WHOLE_WORDS[name]]
    return {name: one.view(np.int64) if name in COUNTS else one for name, one in zip(names, columns, strict=True)}


@dataclass(frozen=True)
class Moment:
    """The inputs of one tick: state s before it, tune p, hand, ground, and its length dt in s."""

    s: Any
    p: Any
    hand: Any
    ground: Ground
    dt: float


def before_tick(trace: Trace, row: int) -> Moment:
    """The inputs of the tick that ends in this row (1 or later); the run is repeated up to it."""
    planned = schedule(trace.drill.take, trace.clock)
    hands, dts, *_ = planned
    course, p = planned.on(ground(trace.drill.course)), tune_record(trace.tune)
    states = empty_records(STATE, 1)
    start = start_of(trace.drill)
    start.put_into(states)
    kernel()(states, p, course, start.x, start.y, hands[:row].view(np.recarray), dts[:row], empty_records(TRACE, row))
    return Moment(states[0], p[0], hands[max(0, row - trace.tune.input.latency)], course, float(dts[row]))


def mark_names(marks: int) -> list[str]:
    """The names of the marks in a code, in the order of the trace."""
    return [name for place, name in enumerate(MARKS) if marks >> place & 1]
