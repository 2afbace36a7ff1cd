"""Rows taken apart: the columns of traces that were run together, what they span, and the rows in which something
happens, in one call of machine code. NumPy would make a call of its own for each of a dozen steps.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import COUNT, POINTER, MachineCode, address, address_of_numbers, uncompiled
from cinetica.motion.records import TRACE

WORDS = TRACE.itemsize // 8
# The columns of a row that are one word of memory, by its place; those among them that are numbers, and the others.
WHOLE_WORDS = {
    name: kind[1] // 8 for name, kind in (TRACE.fields or {}).items() if kind[0].itemsize == 8
}  # fmt: skip
# The word in which the flags are.
FLAGS = {name: kind[1] // 8 for name, kind in (TRACE.fields or {}).items()}["jump_held"]
NUMBERS = frozenset(name for name in WHOLE_WORDS if TRACE[name].kind == "f")
COUNTS = WHOLE_WORDS.keys() - NUMBERS
TIME, X, Y, STATE_AT, MARKS_AT = (WHOLE_WORDS[name] for name in ("time", "x", "y", "state", "marks"))


class Events(NamedTuple):
    """What happens in a trace, and when.

    `times`: of all rows, in s; of a short trace numbers of Python's, which are got at ten times faster. `happened`: the
    rows that bear marks, with their marks; `places`: their marks again, with x and y. `turns`: the rows whose state is
    not that of the row before, with their state; the start, which has none of its own, counts as in that of the first
    tick.
    """

    times: list[float] | NDArray[np.float64]
    happened: list[tuple[int, int]]
    places: list[tuple[int, float, float]]
    turns: list[tuple[int, int]]


class Apart(NamedTuple):
    """Of traces with as many rows each, which have the same times.

    `tables`: all words of each trace side by side, shape (traces, words, rows); those that are no f8 are to be viewed
    otherwise. `places`: where each table lies in memory. `least`, `most`: of each word of each trace, shape (traces,
    words). `events`: of each trace.
    """

    tables: NDArray[np.float64]
    places: list[int]
    least: list[list[float]]
    most: list[list[float]]
    events: list[Events]


def take_apart(rows, counts, traces, count, words, x, y, state, marks, tables, least, most, found, places, ends):
    """`rows` are the words of all traces as f8, `counts` the same memory as i8; `x`, `y`, `state` and `marks` tell
    words of a row.

    `found` has room for four lists of traces × count whole numbers: rows with marks, their marks, rows with another
    state, their states; `places` for two of numbers, x and y of the first; `ends` for where both end for each trace.
    """
    room = traces * count
    happened = turned = 0
    for trace in range(traces):
        first = trace * count * words
        for word in range(words):
            at = first + word
            low = high = rows[at]
            for row in range(count):
                value = rows[at]
                tables[(trace * words + word) * count + row] = value
                low, high = min(low, value), max(high, value)
                at += words
            least[trace * words + word] = low
            most[trace * words + word] = high
        for row in range(count):
            at = first + row * words
            if counts[at + marks] != 0:
                found[happened] = row
                found[room + happened] = counts[at + marks]
                places[happened] = rows[at + x]
                places[room + happened] = rows[at + y]
                happened += 1
            if row > 1 and counts[at + state] != counts[at - words + state]:
                found[2 * room + turned] = row
                found[3 * room + turned] = counts[at + state]
                turned += 1
        ends[trace] = happened
        ends[traces + trace] = turned


def _compiled() -> Any:
    import numba
    from numba import types

    numbers, whole, count = types.CPointer(types.float64), types.CPointer(types.int64), types.int64
    signature = types.void(numbers, whole, *7 * (count,), *3 * (numbers,), whole, numbers, whole)
    return numba.cfunc(signature, nopython=True, error_model="numpy", fastmath={"nnan"})(take_apart)  # type: ignore[call-arg]


HERE = Path(__file__).parent
APART = MachineCode(
    "columns",
    "take_apart",
    (Path(__file__), *sorted(HERE.parent.glob("machine/*.py"))),
    [POINTER, POINTER, *7 * (COUNT,), *6 * (POINTER,)],
    _compiled,
)


def columns_of(rows: NDArray[Any]) -> Apart:
    """Of rows of dtype TRACE, contiguous, shape (traces, rows)."""
    traces, count = rows.shape
    room = traces * count
    tables, spans = np.empty((traces, WORDS, count)), np.empty((2, traces, WORDS))
    found, places, ends = np.empty((4, room), np.int64), np.empty((2, room)), np.empty((2, traces), np.int64)
    _taker()(rows, traces, count, (tables, spans[0], spans[1], found, places, ends))
    happened, turned = ends.tolist()
    at, marks = found[:2, : happened[-1]].tolist()
    x, y = places[:, : happened[-1]].tolist()
    rows, states = found[2:, : turned[-1]].tolist()
    all_marks = list(zip(at, marks, strict=True))
    all_places = list(zip(marks, x, y, strict=True))
    all_turns = list(zip(rows, states, strict=True))
    times, events, begin, first = tables[0, TIME].tolist(), [], 0, 0
    for end, last in zip(happened, turned, strict=True):
        events.append(Events(times, all_marks[begin:end], all_places[begin:end], all_turns[first:last]))
        begin, first = end, last
    least, most = spans.tolist()
    place = address_of_numbers(tables)
    return Apart(tables, [place + 8 * WORDS * count * trace for trace in range(traces)], least, most, events)


@cache
def _taker() -> Any:
    about = (WORDS, X, Y, STATE_AT, MARKS_AT)
    if uncompiled():

        def plainly(rows: NDArray[Any], traces: int, count: int, into: tuple[NDArray[Any], ...]) -> None:
            words = rows.view(np.float64).reshape(-1)
            take_apart(
                words, words.view(np.int64), traces, count, *about, *(array.reshape(-1) for array in into)
            )  # fmt: skip

        return plainly
    function = APART.function

    def taken(rows: NDArray[Any], traces: int, count: int, into: tuple[NDArray[Any], ...]) -> None:
        place = address(rows)
        function(place, place, traces, count, *about, *map(address, into))

    return taken
