"""The machine code that reads figures: all functions of `measures.py` in one object file, which calls the kernel's.

It releases the GIL, so threads share the work.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, cast

import numpy as np

from cinetica.machine.code import COUNT, POINTER, MachineCode
from cinetica.motion.compiling import SOURCES, apart, copy_record, make_compilable
from cinetica.motion.native import RUN
from cinetica.motion.records import GROUND_COLUMNS, HAND, JUMP, STATE, TRACE, TUNE, ZONE_COLUMNS
from cinetica.reading.evidence import next_jump, note_pushes
from cinetica.reading.facts import NOTES, PUSH, Facts, restart, run_on, tune_at
from cinetica.reading.measures import MEASURES
from cinetica.reading.press_outcomes import PRESS_OUTCOME, follow
from cinetica.reading.subtick import POSITION_FIRST

HERE = Path(__file__).parent
FIGURE = np.dtype([("value", "f8"), ("first", "i8"), ("last", "i8"), ("ticks", "i8"), ("shows", "?")], align=True)


OF_HANDS = tuple(measure.of_hands for measure in MEASURES)


@apart
def _store(out, figure):
    out.shows, out.value, out.first, out.last, out.ticks = figure


def _one_after_the_other(place: int = 0) -> Callable[..., None]:
    """Build a function that reads every wanted measure from `place` on.

    Each is called by name, since compiled code has no lists of functions.
    """
    read = MEASURES[place].read
    if place + 1 == len(MEASURES):

        @apart
        def last(f, wanted, out):
            if wanted[place]:
                _store(out[place], read(f))

        return last
    rest = _one_after_the_other(place + 1)

    @apart
    def read_on(f, wanted, out):
        if wanted[place]:
            _store(out[place], read(f))
        rest(f, wanted, out)

    return read_on


_read_all = _one_after_the_other()


@apart
def read_run(f, tune, wanted, out, runs):
    """Run a tune (if `runs`; else the rows are given) and read the wanted figures."""
    copy_record(tune, tune_at(f, 0))
    copy_record(tune, tune_at(f, 1))
    tune_at(f, 1).integrator = POSITION_FIRST
    f.n.kept = f.n.way_row = 0
    f.n.moved = False
    if runs:
        restart(f)
        run_on(f, 0, True, f.n.count, 0)
    asked = hands = False
    for place in range(wanted.shape[0]):
        asked = asked or wanted[place]
        hands = hands or (wanted[place] and OF_HANDS[place])
    if hands:
        note_pushes(f)
    if asked:
        f.n.jump, f.n.landing = next_jump(f, 0)
        _read_all(f, wanted, out)


# The name under which this machine code finds the kernel's.
KERNEL = "cinetica_run"
SIGNATURE = (
    POINTER, *5 * (COUNT,), POINTER, POINTER, POINTER, COUNT, POINTER, *6 * (POINTER,), *2 * (POINTER,),
    *3 * (POINTER,), *len(GROUND_COLUMNS) * (POINTER,),
)  # fmt: skip


def _call_the_kernel() -> None:
    """Make compiled code call the kernel's machine code where plain Python has `run_on`."""
    from numba import types
    from numba.extending import overload

    place, whole, number = types.voidptr, types.int64, types.float64
    shapes = len(GROUND_COLUMNS)
    numbers = types.CPointer(number)
    # As `native.SIGNATURE`.
    signature = types.void(
        place, place, whole, *shapes * (numbers, whole), number, number, place, numbers, place, whole, whole
    )  # fmt: skip
    kernel: Any = types.ExternalFunction(KERNEL, signature)

    def run_on_compiled(f, place, into_rows, end, first):
        # Tune 1 has no course.
        n, shown = f.n, (1 if place == 0 else 0)
        tune = f.tunes[place:]
        hands = f.moved if n.moved else f.hands
        trace = f.rows if into_rows else f.again
        kernel(
            f.states.ctypes, tune.ctypes, 1, f.solids, shown * n.solids, f.oneway, shown * n.oneway, f.climb,
            shown * n.climb, f.slopes, shown * n.slopes, f.zones.ctypes, shown * n.zones, f.mouse, n.mouse,
            f.shoves, n.shoves, n.x, n.y, hands.ctypes, f.lengths,
            trace.ctypes, end, first,
        )  # fmt: skip

    overload(run_on, jit_options=cast("Any", {"_nrt": False}), strict=False)(lambda *arguments: run_on_compiled)


def _pointer_to(dtype: np.dtype[Any]) -> Any:
    """The compiler's type of a pointer to records."""
    import numba
    from numba import types

    return types.CPointer(numba.from_dtype(np.dtype((np.record, dtype))))


def _signature() -> Any:
    """The compiler's types of the arguments of `entry`."""
    from numba import types

    count, numbers, flags = types.int64, types.CPointer(types.float64), types.CPointer(types.boolean)
    notes, tune, figure, result, state, push, hand, row, jump = map(
        _pointer_to, (NOTES, TUNE, FIGURE, PRESS_OUTCOME, STATE, PUSH, HAND, TRACE, JUMP)
    )
    return types.void(
        notes, *5 * (count,), tune, flags, figure, count, result,
        tune, state, numbers, row, push, hand, hand, row, hand, jump, types.CPointer(count),
        *len(GROUND_COLUMNS) * (numbers,),
    )  # fmt: skip


def _compiled_reader() -> Any:
    import numba
    from numba import carray  # type: ignore[attr-defined]

    _call_the_kernel()
    make_compilable()
    measures = len(MEASURES)

    def entry(
        notes, count, tune_step, hand_step, trace_step, runs, all_tunes, wanted, out, follows, outcomes,
        tunes, states, lengths, again, pushes, moved, all_hands, all_rows, plain, shifted, shift_rows,
        solids, oneway, climb, slopes, zones, mouse, shoves,
    ):  # fmt: skip
        n = carray(notes, (1,))[0]
        rows = n.count
        hands = carray(all_hands, (count if hand_step else 1, rows))
        traces = carray(all_rows, (count if trace_step else 1, rows))
        every_tune = carray(all_tunes, (count if tune_step else 1,))
        figures, every_outcome = carray(out, (count, measures)), carray(outcomes, (count if follows else 0,))
        for i in range(count):
            f = Facts(
                n, traces[i * trace_step], hands[i * hand_step], carray(tunes, (2,)), carray(states, (3,)), lengths,
                carray(again, (rows,)), carray(pushes, (rows,)), carray(moved, (rows,)), carray(plain, (rows,)),
                carray(shifted, (n.shifts * rows,)), shift_rows, solids, oneway, climb, slopes,
                carray(zones, (n.zones, ZONE_COLUMNS)),
                mouse, shoves,
            )  # fmt: skip
            read_run(f, every_tune[i * tune_step], carray(wanted, (measures,)), figures[i], runs != 0)
            if follows:
                follow(f, every_outcome[i])

    return numba.cfunc(_signature(), nopython=True, error_model="numpy")(entry)  # type: ignore[call-arg]


READER = MachineCode(
    "figures", "read", sorted([*SOURCES, *HERE.glob("*.py")]), SIGNATURE, _compiled_reader, calls={KERNEL: RUN}
)
