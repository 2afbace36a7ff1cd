"""Marks as a person reads them: what happened to which tune in which row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from cinetica.motion.records import MARKS, WALL
from cinetica.motion.simulate import Trace, mark_names

WORDS = {
    "press": "jump pressed",
    "release": "jump released",
    "launch": "launches",
    "coyote_launch": "launches in coyote time",
    "buffered_launch": "launches from the buffer",
    "air_launch": "jumps in the air",
    "cut": "hop cut short",
    "apex": "at the apex",
    "land": "lands",
    "bump": "bumps its head",
    "wall": "meets a wall",
    "leave": "leaves the ground",
    "climb_on": "holds on",
    "climb_off": "lets go",
    "lost_press": "press lost",
}


@dataclass(frozen=True)
class Happening:
    """One mark of one trace: the place of the trace among those given, the row, and the mark's name."""

    place: int
    row: int
    mark: str

    @property
    def words(self) -> str:
        return WORDS[self.mark]


def starting_marks(trace: Trace) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """The marks of each row, a wall only in the first of the rows in which the body is held against it."""
    marks = trace["marks"].copy()
    held = marks & WALL
    if held.any():
        marks[1:] &= ~np.where(held[:-1] & held[1:], WALL, 0)
    return marks


def marked_rows(trace: Trace) -> list[tuple[int, str]]:
    """Row and mark of all that happens in a trace, in its order. What leaving adds to a launch is left out."""
    found = []
    marks = starting_marks(trace)
    for row in np.flatnonzero(marks).tolist():
        found += [(row, name) for name in _told(int(marks[row]))]
    return found


@cache
def _told(marks: int) -> tuple[str, ...]:
    names = mark_names(marks)
    special = [name for name in names if name.endswith("_launch")]
    hidden = {"launch", "leave"} if special else {"leave"} if "launch" in names else set()
    return tuple(name for name in names if name not in hidden)


def happenings(marked: Sequence[Sequence[tuple[int, str]]]) -> list[Happening]:
    """The `marked_rows` of several traces in the order of time."""
    found = [Happening(place, row, name) for place, rows in enumerate(marked) for row, name in rows]
    return sorted(found, key=lambda happening: (happening.row, happening.place, _ORDER[happening.mark]))


_ORDER = {name: place for place, name in enumerate(MARKS)}
