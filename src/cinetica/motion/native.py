"""The compiled run: machine code called on arrays, loaded without the compiler."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import COUNT, NUMBER, POINTER, MachineCode, pointer, uncompiled
from cinetica.motion.compiling import SOURCES, make_compilable
from cinetica.motion.records import GROUND_COLUMNS, HAND, STATE, TRACE, TUNE, Ground, Records, empty_records

# `step.run_one`; the last argument, the row to go on from, may be left out.
Run = Callable[..., None]

SIGNATURE = (
    POINTER, POINTER, COUNT, *len(GROUND_COLUMNS) * (POINTER, COUNT), NUMBER, NUMBER,
    POINTER, POINTER, POINTER, COUNT, COUNT,
)  # fmt: skip


def _compiled_run() -> Any:
    import numba
    from numba import carray, types  # type: ignore[attr-defined]

    from cinetica.motion.step import run

    make_compilable()
    # Columns of the rows of each kind.
    solid, plank, net, line, zone, move, shove = GROUND_COLUMNS

    def entry(  # type: ignore[no-untyped-def]
        states, tunes, count, solids, n_solids, oneway, n_oneway, climb, n_climb, slopes, n_slopes,
        zones, n_zones, mouse, n_mouse, shoves, n_shoves, x, y,
        hands, dts, traces, rows, first,
    ):  # fmt: skip
        ground = Ground(
            carray(solids, (n_solids, solid)), carray(oneway, (n_oneway, plank)), carray(climb, (n_climb, net)),
            carray(slopes, (n_slopes, line)), carray(zones, (n_zones, zone)), carray(mouse, (n_mouse, move)),
            carray(shoves, (n_shoves, shove)),
        )  # fmt: skip
        s, p, trace = carray(states, (count,)), carray(tunes, (count,)), carray(traces, (count, rows))
        for i in range(count):
            run(s[i], p[i], ground, x, y, carray(hands, (rows,)), carray(dts, (rows,)), trace[i], first)

    def to(dtype: np.dtype[Any]) -> Any:
        return types.CPointer(numba.from_dtype(np.dtype((np.record, dtype))))

    numbers, count = types.CPointer(types.float64), types.int64
    signature = types.void(
        to(STATE), to(TUNE), count, *len(GROUND_COLUMNS) * (numbers, count),
        types.float64, types.float64,
        to(HAND), numbers, to(TRACE), count, count,
    )  # fmt: skip
    return numba.cfunc(signature, nopython=True, error_model="numpy")(entry)  # type: ignore[call-arg]


RUN = MachineCode("kernel", "run", SOURCES, SIGNATURE, _compiled_run)


@cache
def kernel() -> Run:
    """`step.run_one` from the object file, which is compiled first if it is missing or damaged."""
    if uncompiled():
        from cinetica.motion.step import run_one

        return run_one

    def run(
        states: Records,
        tunes: Records,
        ground: Ground,
        x: float,
        y: float,
        hands: Records,
        dts: NDArray[np.float64],
        trace: Records,
        first: int = 0,
    ) -> None:
        """Run one tune; see `step.run_one`."""
        RUN.function(*_arguments(states, tunes, ground, x, y, hands, dts, trace), len(trace), first)

    return run


def run_all(
    states: NDArray[Any],
    tunes: Records,
    ground: Ground,
    x: float,
    y: float,
    hands: Records,
    dts: NDArray[np.float64],
    rows: NDArray[Any],
) -> None:
    """Run several tunes on the same input.

    `states` and `tunes` have shape (tunes,), `rows` (tunes, ticks + 1).
    """
    if not uncompiled():
        RUN.function(*_arguments(states, tunes, ground, x, y, hands, dts, rows), len(dts), 0)
        return
    for place, trace in enumerate(rows):
        state, tune = (each[place : place + 1].view(np.recarray) for each in (states, tunes))
        kernel()(state, tune, ground, x, y, hands, dts, trace.view(np.recarray))


def in_parts(
    states: Records,
    tunes: Records,
    ground: Ground,
    x: float,
    y: float,
    hands: Records,
    dts: NDArray[np.float64],
    part: int,
) -> Iterator[tuple[int, NDArray[Any]]]:
    """Run `kernel` in blocks of `part` rows; yields the number of the first row, and the rows.

    A few rows stay in the processor's cache while they are read; writing those of a long run takes as long as the run.
    """
    run, count, late = kernel(), len(dts), int(tunes[0].latency)
    end = min(part, count)
    rows = empty_records(TRACE, end)
    run(states, tunes, ground, x, y, hands[:end], dts[:end], rows)
    yield 0, rows
    while end < count:
        first, last, end = end, rows[-1], min(end + part, count)
        # The part continues from the last row of the previous one, and looks back at the input as far as it lags.
        before = max(0, first - 1 - late)
        rows = empty_records(TRACE, end - before)
        rows[first - 1 - before] = last
        run(states, tunes, ground, x, y, hands[before:end], dts[before:end], rows, first - before)
        yield first, rows[first - before :]


def bound(
    states: Records,
    tunes: Records,
    ground: Ground,
    x: float,
    y: float,
    hands: Records,
    dts: NDArray[np.float64],
    trace: Records,
) -> Callable[[int, int], None]:
    """`kernel` bound to these arrays, called as often as needed with (rows, first).

    Each call continues the run from row `first` up to `rows`.
    """
    if uncompiled():
        return lambda rows, first: kernel()(states, tunes, ground, x, y, hands[:rows], dts[:rows], trace[:rows], first)
    arrays = (states, tunes, ground, x, y, hands, dts, trace)
    function, arguments = RUN.function, _arguments(*arrays)

    def go_on(rows: int, first: int) -> None:
        """Run from row `first` up to `rows`."""
        assert arrays  # They must live as long as the pointers to them.
        function(*arguments, rows, first)

    return go_on


def _arguments(
    states: NDArray[Any], tunes: Records, ground: Ground, x: float, y: float, hands: Records,
    dts: NDArray[np.float64], traces: NDArray[Any],
) -> tuple[Any, ...]:  # fmt: skip
    """The arguments of the machine code, without the last two."""
    shapes = [argument for shapes in ground for argument in (pointer(shapes), len(shapes))]
    return (
        pointer(states), pointer(tunes), len(states), *shapes, x, y, pointer(hands), pointer(dts), pointer(traces),
    )  # fmt: skip
