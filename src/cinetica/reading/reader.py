"""The machine code that reads figures off: all functions of `measures.py` in one object file, which calls the kernel's.

It holds no lock of Python's while it runs, so that threads share the work.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from cinetica.machine.code import COUNT, POINTER, MachineCode
from cinetica.motion.compiling import SOURCES, apart, copy_record, make_compilable
from cinetica.motion.records import HAND, TRACE, TUNE
from cinetica.reading.evidence import next_jump, note_pushes
from cinetica.reading.facts import FACTS, begin_anew, run_on, tune_at
from cinetica.reading.fates import FATE, follow
from cinetica.reading.measures import MEASURES
from cinetica.reading.within import POSITION_FIRST

HERE = Path(__file__).parent
FIGURE = np.dtype([("value", "f8"), ("first", "i8"), ("last", "i8"), ("ticks", "i8"), ("shows", "?")], align=True)


OF_HANDS = tuple(measure.of_hands for measure in MEASURES)


@apart
def _store(out, figure):
    out.shows, out.value, out.first, out.last, out.ticks = figure


def _one_after_the_other(place: int = 0) -> Callable[..., None]:
    """A function that reads every measure from `place` on that is wanted: each is called by its own name, since
    compiled code knows no list of functions."""
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
    """Run a tune (where `runs`; else the rows are there) and read off what is wanted."""
    copy_record(tune, tune_at(f, 0))
    copy_record(tune, tune_at(f, 1))
    tune_at(f, 1).integrator = POSITION_FIRST
    f.kept = f.way_row = 0
    f.own_hands = f.hands
    if runs:
        begin_anew(f)
        run_on(f, 0, True, f.count, 0)
    asked = hands = False
    for place in range(wanted.shape[0]):
        asked = asked or wanted[place]
        hands = hands or (wanted[place] and OF_HANDS[place])
    if hands:
        note_pushes(f)
    if asked:
        f.jump, f.landing = next_jump(f, 0)
        _read_all(f, wanted, out)


SIGNATURE = (POINTER, COUNT, COUNT, COUNT, COUNT, COUNT, POINTER, POINTER, POINTER, COUNT, POINTER)


def _compiled_reader() -> Any:
    import numba
    from numba import carray, types  # type: ignore[attr-defined]

    from cinetica.reading.calling import teach_calling

    teach_calling()
    make_compilable()
    measures, row, hand = len(MEASURES), TRACE.itemsize, HAND.itemsize

    def entry(facts, count, tune_step, hand_step, trace_step, runs, tunes, wanted, out, follows, fates):
        f = carray(facts, (1,))[0]
        every_tune = carray(tunes, (count if tune_step else 1,))
        every_figure = carray(out, (count * measures,))
        flags = carray(wanted, (measures,))
        every_fate = carray(fates, (count if follows else 0,))
        for i in range(count):
            read_run(f, every_tune[i * tune_step], flags, every_figure[i * measures : (i + 1) * measures], runs != 0)
            if follows:
                follow(f, every_fate[i])
            f.rows += trace_step * f.count * row
            f.hands += hand_step * f.count * hand

    def to(dtype: np.dtype[Any]) -> Any:
        return types.CPointer(numba.from_dtype(np.dtype((np.record, dtype))))

    count, flags = types.int64, types.CPointer(types.boolean)
    signature = types.void(to(FACTS), count, count, count, count, count, to(TUNE), flags, to(FIGURE), count, to(FATE))
    return numba.cfunc(signature, nopython=True, error_model="numpy")(entry)  # type: ignore[call-arg]


READER = MachineCode("figures", "read", sorted([*SOURCES, *HERE.glob("*.py")]), SIGNATURE, _compiled_reader)
