"""A run and its context, in the form in which the functions that read figures see it.

These functions are compiled like the kernel's and also run as plain Python; `Facts` looks the same in both.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.motion.compiling import apart, copy_record
from cinetica.motion.records import Ground
from cinetica.reading.pose_steps import POSE_FIELDS

# What the input of a row pushes; see `evidence.note_pushes`.
PUSH = np.dtype([("x", "f8"), ("y", "f8"), ("tilt", "i8")], align=True)
SHAPES = Ground._fields
# `x`, `y`: the start. `count`: rows. `pressed`: how often jump goes down in the take. `jump`, `landing`: rows of the
# first whole jump. `kept`: the row before whose tick the state is kept. `way_row`: the row whose way is in `old_x` to
# `way_h`. `moved`: whether the kernel reads the moved hands. `solids` to `shoves`: how many shapes of each kind there
# are.
NOTES = np.dtype(
    [(name, "f8") for name in ("x", "y", "old_x", "old_y", "new_x", "new_y", "way_h")]
    + [(name, "i8") for name in ("count", "pressed", "jump", "landing", "kept", "way_row", "shifts", *SHAPES)]
    + [(name, "?") for name in ("side", "logged", "moved")]
    + [*POSE_FIELDS],
    align=True,
)


class Facts(NamedTuple):
    """A run, and the buffers needed to read figures from it.

    - `n`: numbers about it, of dtype NOTES.
    - `rows`: the trace. `hands`: the input of each row.
    - `tunes`: the tune, and the same without anything that stops it (`subtick.find_way`).
    - `states`: the current one, a saved one, and an empty one.
    - `lengths` (of ticks, in s), `again` (a trace), `pushes`, `moved` (input): buffers, by row.
    - `plain`: the input without jump.
    - `shifted`, `shift_rows`: what jump does if its first press comes earlier or later, `n.shifts` times `n.count`
      rows, and the row of that press in each (`survey/press_shifts.py`).
    - `solids` to `shoves`: the course, and what the take brings for single ticks.

    Plain numbers, but for the zones, are passed as pointers in compiled code: passing all arrays from function to
    function would double the compile time.
    """

    n: Any
    rows: NDArray[Any]
    hands: NDArray[Any]
    tunes: NDArray[Any]
    states: NDArray[Any]
    lengths: NDArray[np.float64]
    again: NDArray[Any]
    pushes: NDArray[Any]
    moved: NDArray[Any]
    plain: NDArray[Any]
    shifted: NDArray[Any]
    shift_rows: NDArray[np.int64]
    solids: NDArray[np.float64]
    oneway: NDArray[np.float64]
    climb: NDArray[np.float64]
    slopes: NDArray[np.float64]
    zones: NDArray[np.float64]
    mouse: NDArray[np.float64]
    shoves: NDArray[np.float64]


@apart
def row_at(f, place):
    """A row of the trace."""
    return f.rows[place]


@apart
def tune_at(f, place):
    """A tune."""
    return f.tunes[place]


@apart
def hand_at(f, place):
    """The input of a row."""
    return f.hands[place]


@apart
def again_at(f, place):
    """A row of the trace that is run again."""
    return f.again[place]


@apart
def state_at(f, place):
    """A state."""
    return f.states[place]


@apart
def push_at(f, place):
    """What the input of a row pushes."""
    return f.pushes[place]


def run_on(f: Facts, place: int, into_rows: bool, end: int, first: int) -> None:
    """Continue the run of tune `place` from `states[0]`, filling the trace, or `again`, from row `first` up to `end`.

    Tune 1 has no course. Compiled code calls the kernel's machine code instead (`reader.py`).
    """
    from cinetica.motion.step import run_one

    course = [f.solids, f.oneway, f.climb, f.slopes, f.zones]
    if place:
        course = [shapes[:0] for shapes in course]
    solids, oneway, climb, slopes, zones = course
    ground = Ground(solids, oneway, climb, slopes, zones, f.mouse, f.shoves)
    hands, trace = (f.moved if f.n.moved else f.hands), (f.rows if into_rows else f.again)
    run_one(
        f.states[:1], f.tunes[place : place + 1], ground, f.n.x, f.n.y, hands[:end], f.lengths[:end], trace[:end], first
    )


@apart
def restart(f):
    """Reset the current state to the empty one."""
    copy_record(state_at(f, 2), state_at(f, 0))
