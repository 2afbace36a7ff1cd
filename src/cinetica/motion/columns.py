"""Traces split into columns, with the range of each column and the rows in which something happens."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.motion.records import TRACE

WORDS = TRACE.itemsize // 8
# The columns of a row that are one word of memory, by its place; those among them that are numbers, and the others.
WHOLE_WORDS = {
    name: kind[1] // 8 for name, kind in (TRACE.fields or {}).items() if kind[0].itemsize == 8
}  # fmt: skip
# The word that contains the flags.
FLAGS = {name: kind[1] // 8 for name, kind in (TRACE.fields or {}).items()}["jump_held"]
NUMBERS = frozenset(name for name in WHOLE_WORDS if TRACE[name].kind == "f")
COUNTS = WHOLE_WORDS.keys() - NUMBERS
TIME, X, Y, STATE_AT, MARKS_AT = (WHOLE_WORDS[name] for name in ("time", "x", "y", "state", "marks"))


class Events(NamedTuple):
    """What happens in a trace, and when.

    - `times`: the time of each row, in s; Python floats for a short trace, since they are read ten times faster.
    - `happened`: the rows with marks, and their marks.
    - `places`: the same marks with x and y.
    - `turns`: the rows whose state differs from the row before, with their state. The start has no state of its own and
      counts as that of the first tick.
    """

    times: list[float] | NDArray[np.float64]
    happened: list[tuple[int, int]]
    places: list[tuple[int, float, float]]
    turns: list[tuple[int, int]]


class SplitTraces(NamedTuple):
    """Traces of equal length, with the same times.

    `tables`: all words of each trace, shape (traces, words, rows); view those that are not f8 as their own type.
    `least`, `most`: the range of each word, as lists of (traces, words). `events`: of each trace.
    """

    tables: NDArray[np.float64]
    least: list[list[float]]
    most: list[list[float]]
    events: list[Events]


def split_columns(rows: NDArray[Any]) -> SplitTraces:
    """Split contiguous rows of dtype TRACE, shape (traces, rows), into columns."""
    traces, count = rows.shape
    words = rows.view(np.float64).reshape(traces, count, WORDS)
    tables = np.ascontiguousarray(words.transpose(0, 2, 1))
    whole = tables.view(np.int64)
    times = tables[0, TIME].tolist()
    return SplitTraces(
        tables, tables.min(axis=2).tolist(), tables.max(axis=2).tolist(),
        [_events_in(times, table, counts) for table, counts in zip(tables, whole, strict=True)],
    )  # fmt: skip


def _events_in(times: list[float], table: NDArray[np.float64], counts: NDArray[np.int64]) -> Events:
    """The events of one trace; `table` and `counts` are its words as f8 and as i8, shape (words, rows)."""
    marks, states = counts[MARKS_AT], counts[STATE_AT]
    rows, turns = np.flatnonzero(marks), np.flatnonzero(states[2:] != states[1:-1]) + 2
    marked = marks[rows].tolist()
    return Events(
        times,
        list(zip(rows.tolist(), marked, strict=True)),
        list(zip(marked, table[X, rows].tolist(), table[Y, rows].tolist(), strict=True)),
        list(zip(turns.tolist(), states[turns].tolist(), strict=True)),
    )
