"""Marks as a person reads them: what happened to which tune in which row."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import islice

from cinetica.motion.records import WALL
from cinetica.motion.simulate import mark_names

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
    "wall": "hits a wall",
    "leave": "leaves the ground",
    "climb_on": "grabs the net",
    "climb_off": "lets go",
    "lost_press": "press lost",
    "shove": "is shoved",
    "wall_on": "is on a wall",
    "wall_off": "leaves the wall",
    "wall_launch": "jumps off the wall",
    "dash": "dashes",
    "dash_end": "the dash is over",
    "lost_dash": "dash lost",
}


@dataclass(frozen=True)
class Happening:
    """One mark of one trace: the index of the trace among those given, the row, and the mark's name."""

    place: int
    row: int
    mark: str

    @property
    def words(self) -> str:
        """The mark in words."""
        return WORDS[self.mark]


def marked_from(happened: list[tuple[int, int]], first: int) -> Iterator[tuple[int, str]]:
    """Yield row and mark of everything that happens in a trace from a row on.

    Takes the rows with marks (see `motion.columns.Events`). A wall counts only in the first row of a contact, and
    leaving the ground does not count beside a launch.
    """
    at = bisect_left(happened, (first, 0))
    before, held = happened[at - 1] if at else (-1, 0)
    for row, marks in islice(happened, at, None):
        shown = marks & ~(held & WALL) if row == before + 1 else marks
        before, held = row, marks
        for name in _named(shown):
            yield row, name


@cache
def _named(marks: int) -> tuple[str, ...]:
    names = mark_names(marks)
    special = [name for name in names if name.endswith("_launch")]
    hidden = {"launch", "leave"} if special else {"leave"} if "launch" in names else set()
    return tuple(name for name in names if name not in hidden)


def happenings_at(happened: Sequence[list[tuple[int, int]]], row: int) -> tuple[list[Happening], Happening | None]:
    """What happens in a row, trace by trace, and what comes next after it; see `marked_from`."""
    here, following = [], []
    for place, rows in enumerate(happened):
        for at, name in marked_from(rows, row):
            if at > row:
                following.append(Happening(place, at, name))
                break
            here.append(Happening(place, at, name))
    return here, min(following, key=lambda happening: happening.row, default=None)
