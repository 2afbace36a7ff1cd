"""The compiled run as machine code that is loaded without the compiler."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache, partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import COUNT, NUMBER, POINTER, MachineCode, address, uncompiled
from cinetica.model.memo import by_identity
from cinetica.motion.compiling import SOURCES, make_compilable
from cinetica.motion.records import HAND, STATE, TRACE, TUNE, Ground, Records

# `step.run_one`; the last argument, the row to go on from, may be left out.
Run = Callable[..., None]

SIGNATURE = (
    POINTER, POINTER, POINTER, COUNT, POINTER, COUNT, POINTER, COUNT, POINTER, COUNT, NUMBER, NUMBER,
    POINTER, POINTER, POINTER, COUNT, COUNT,
)  # fmt: skip


def _compiled_run() -> Any:
    import numba
    from numba import carray, types  # type: ignore[attr-defined]

    from cinetica.motion.step import run

    make_compilable()

    def entry(  # type: ignore[no-untyped-def]
        states, tunes, solids, n_solids, oneway, n_oneway, climb, n_climb, slopes, n_slopes, x, y,
        hands, dts, trace, rows, first,
    ):  # fmt: skip
        ground = Ground(
            carray(solids, (n_solids, 4)), carray(oneway, (n_oneway, 4)), carray(climb, (n_climb, 4)),
            carray(slopes, (n_slopes, 6)),
        )  # fmt: skip
        s, p = carray(states, (1,))[0], carray(tunes, (1,))[0]
        run(s, p, ground, x, y, carray(hands, (rows,)), carray(dts, (rows,)), carray(trace, (rows,)), first)

    def to(dtype: np.dtype[Any]) -> Any:
        return types.CPointer(numba.from_dtype(np.dtype((np.record, dtype))))

    numbers, count = types.CPointer(types.float64), types.int64
    signature = types.void(
        to(STATE), to(TUNE), numbers, count, numbers, count, numbers, count, numbers, count,
        types.float64, types.float64,
        to(HAND), numbers, to(TRACE), count, count,
    )  # fmt: skip
    return numba.cfunc(signature, nopython=True, error_model="numpy")(entry)  # type: ignore[call-arg]


RUN = MachineCode("kernel", "run", SOURCES, SIGNATURE, _compiled_run)


@cache
def kernel() -> Run:
    """`step.run_one`: from the object file, which is compiled first where there is none that is whole (30 s)."""
    if uncompiled():
        from cinetica.motion.step import run_one

        return run_one
    function = RUN.function

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
        places = (address(hands), address(dts), address(trace))
        function(address(states), address(tunes), *shapes_at(ground), x, y, *places, len(trace), first)

    run.bind = partial(_bind, function)  # type: ignore[attr-defined]
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
    """Several tunes under the same hands: `states` and `tunes` have shape (tunes,), `rows` (tunes, ticks + 1)."""
    run, ticks = kernel(), len(dts)
    if not hasattr(run, "bind"):
        for place, trace in enumerate(rows):
            state, tune = (each[place : place + 1].view(np.recarray) for each in (states, tunes))
            run(state, tune, ground, x, y, hands, dts, trace.view(np.recarray))
        return
    about = (*shapes_at(ground), x, y, address(hands), address(dts))
    first_state, first_tune, first_row = address(states), address(tunes), address(rows)
    for place in range(len(rows)):
        RUN.function(
            first_state + place * STATE.itemsize, first_tune + place * TUNE.itemsize, *about,
            first_row + place * ticks * TRACE.itemsize, ticks, 0,
        )  # fmt: skip


@by_identity(64)
def shapes_at(ground: Ground) -> tuple[int, ...]:
    """Where the shapes of each kind lie, and how many there are."""
    return tuple(number for shapes in ground for number in (address(shapes), len(shapes)))


def _bind(
    function: Run,
    states: Records,
    tunes: Records,
    ground: Ground,
    x: float,
    y: float,
    hands: Records,
    dts: NDArray[np.float64],
    trace: Records,
) -> Callable[[int, int], None]:
    """The machine code on these arrays."""
    arrays = (states, tunes, *ground, hands, dts, trace)
    at = [POINTER(address(array)) for array in arrays]
    solids, oneway, climb, slopes = (COUNT(len(shapes)) for shapes in ground)
    before = (
        at[0], at[1], at[2], solids, at[3], oneway, at[4], climb, at[5], slopes, NUMBER(x), NUMBER(y),
        at[6], at[7], at[8],
    )  # fmt: skip

    def go_on(rows: int, first: int) -> None:
        function(*before, rows, first)

    go_on.arrays = arrays  # type: ignore[attr-defined]  # They must live as long as their addresses.
    return go_on


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
    """`kernel`, so many rows at a time: the number of the first, and the rows, which the next ones take the place
    of. They stay in the processor's own memory meanwhile; to write all rows of a long run takes as long as the run."""
    run, count, size = kernel(), len(dts), TRACE.itemsize
    if not hasattr(run, "bind"):
        trace = np.zeros(count, TRACE).view(np.recarray)
        run(states, tunes, ground, x, y, hands, dts, trace)
        yield from ((first, trace[first : first + part]) for first in range(0, count, part))
        return
    # The row before the part, which the run goes on from, and the part.
    room = np.zeros(part + 1, TRACE)
    place, before = address(room), (address(states), address(tunes), *shapes_at(ground), x, y)
    held = (address(hands), address(dts))
    for first in range(0, count, part):
        end = min(first + part, count)
        # Where row 0 would lie if all rows were there: the kernel counts rows from the start, and touches only these.
        RUN.function(*before, *held, place - (first - 1) * size, end, first)
        yield first, room[1 : end - first + 1]
        room[0] = room[end - first]


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
    """`kernel` on these arrays, to be called again and again with (rows, first): the run goes on from row `first` up to
    `rows`."""
    run = kernel()
    if hasattr(run, "bind"):
        go_on: Callable[[int, int], None] = run.bind(states, tunes, ground, x, y, hands, dts, trace)
        return go_on
    return lambda rows, first: run(states, tunes, ground, x, y, hands[:rows], dts[:rows], trace[:rows], first)
