"""A run and what belongs to it, as the functions see it that read figures off.

Compiled, the facts are one record, FACTS, which has the addresses of the arrays; as plain Python they are `PlainFacts`,
which has the arrays themselves. What goes through the functions here looks the same in both.
"""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np

from cinetica.motion.compiling import apart, copy_record
from cinetica.motion.records import HAND, JUMP, STATE, TRACE, TUNE, Ground

# What the hands of a row push (`evidence.note_pushes`); and the length of a tick, to be changed.
PUSH = np.dtype([("x", "f8"), ("y", "f8"), ("tilt", "i8")], align=True)
LENGTH = np.dtype([("seconds", "f8")])
WHOLE = np.dtype([("row", "i8")])

# `rows`: the trace. `tunes`: the tune, and the same without what hinders it (`within.find_way`). `states`: the one that
# runs on, the one that is kept, and an empty one. `lengths`, `again` (a trace), `pushes`, `moved` (hands): scratch, by
# row. `plain`: the hands without jump. `shifted`, `shift_rows`: what jump does where its first press comes earlier or
# later, `shifts` times `count` rows, and the row of that press in each (`survey/shifting.py`).
ARRAYS = {
    "rows": TRACE, "tunes": TUNE, "hands": HAND, "lengths": LENGTH, "again": TRACE, "states": STATE, "pushes": PUSH,
    "plain": HAND, "moved": HAND, "shifted": JUMP, "shift_rows": WHOLE,
}  # fmt: skip
SHAPES = ("solids", "oneway", "climb", "slopes")
# `x`, `y`: the start. `pressed`: how often jump goes down in the take. `jump`, `landing`: rows of the first whole jump.
# `kept`: the row before whose tick the state is kept. `way_row`: the row whose way is in `old_x` to `way_h`.
FACTS = np.dtype(
    [(name, "f8") for name in ("x", "y", "old_x", "old_y", "new_x", "new_y", "way_h")]
    + [(name, "i8") for name in ("kernel", "own_hands", *ARRAYS, *SHAPES, *(f"{shape}_count" for shape in SHAPES))]
    + [(name, "i8") for name in ("count", "pressed", "jump", "landing", "kept", "way_row", "shifts")]
    + [(name, "?") for name in ("side", "logged")],
    align=True,
)


class PlainFacts(SimpleNamespace):
    """The facts for plain Python: the fields of FACTS, with arrays in place of addresses."""


def row_at(f: Any, place: int) -> Any:
    """A row of the trace."""
    return f.rows[place]


def tune_at(f: Any, place: int) -> Any:
    return f.tunes[place]


def hand_at(f: Any, place: int) -> Any:
    return f.hands[place]


def length_at(f: Any, place: int) -> Any:
    return f.lengths[place]


def again_at(f: Any, place: int) -> Any:
    return f.again[place]


def state_at(f: Any, place: int) -> Any:
    return f.states[place]


def push_at(f: Any, place: int) -> Any:
    return f.pushes[place]


def shift_row_at(f: Any, place: int) -> Any:
    return f.shift_rows[place]


def plain_at(f: Any, place: int) -> Any:
    return f.plain[place]


def moved_at(f: Any, place: int) -> Any:
    return f.moved[place]


def shifted_at(f: Any, place: int) -> Any:
    return f.shifted[place]


def take_hands(f: Any, moved: bool) -> None:
    """The hands of the run are from now on those that are moved, or its own again."""
    f.hands = f.moved if moved else f.own_hands


# Each with the array that it looks into.
LOOKS = {
    row_at: "rows", tune_at: "tunes", hand_at: "hands", length_at: "lengths", again_at: "again", state_at: "states",
    push_at: "pushes", shift_row_at: "shift_rows", plain_at: "plain", moved_at: "moved", shifted_at: "shifted",
}  # fmt: skip


def run_on(f: Any, place: int, into_rows: bool, end: int, first: int) -> None:
    """The kernel with tune `place` from `states[0]`, filling the trace, or `again`, from row `first` up to `end`. Tune
    1 has no course."""
    from cinetica.motion.step import run_one

    ground = Ground(*(getattr(f, shape)[: None if place == 0 else 0] for shape in SHAPES))
    trace = f.rows if into_rows else f.again
    run_one(
        f.states[:1], f.tunes[place : place + 1], ground, f.x, f.y, f.hands[:end], f.lengths["seconds"][:end],
        trace[:end], first,
    )  # fmt: skip


@apart
def begin_anew(f):
    """The empty state is the one that runs on."""
    copy_record(state_at(f, 2), state_at(f, 0))
