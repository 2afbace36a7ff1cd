"""A study: the document. Tunes, drills and a clock under one name."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from itertools import pairwise
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import AfterValidator, FailFast, Field, model_validator

from cinetica.model.base import Choice, FrozenModel
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions
from cinetica.model.course import Coordinate, Course
from cinetica.model.milestone import Logged, Milestone
from cinetica.model.take import LONGEST, Take
from cinetica.model.targets import Target
from cinetica.model.text import Name, Note
from cinetica.model.tune import Tune, View

FORMAT = "cinetica-study"
VERSION = 1

Named = TypeVar("Named", Tune, "Drill", Milestone, Logged)


# Of a start, in u/s.
FASTEST = 1e5
StartSpeed = Annotated[float, Field(ge=-FASTEST, le=FASTEST)]


class UnitSystem(Choice):
    """The units in which a study's numbers are shown; they are kept in ours."""

    OURS = "ours"
    GAME = "game"


class Drawn(FrozenModel):
    """A channel of a wanted curve, drawn by hand: points (frame, value in u or u/s) with growing frames."""

    channel: Literal["x", "y", "vx", "vy"]
    points: Annotated[
        tuple[tuple[Annotated[int, Field(ge=0, le=LONGEST)], StartSpeed], ...], Field(max_length=1000), FailFast()
    ]

    @model_validator(mode="after")
    def _grow(self) -> Self:
        frames = [frame for frame, _ in self.points]
        if any(after <= before for before, after in pairwise(frames)):
            raise ValueError("the points of a drawn curve are in order, one for each frame")
        return self


class Drill(FrozenModel):
    """A course, a take and a start: the middle of the feet or, seen from above, the middle of the body."""

    name: Name
    note: Note = ""
    view: View = "side"
    start: tuple[Coordinate, Coordinate] = (0.0, 0.0)
    start_velocity: tuple[StartSpeed, StartSpeed] = (0.0, 0.0)
    start_heading: Annotated[float, Field(ge=-360, le=360)] = 0.0
    course: Course = Course()
    take: Take = Take()
    # The wanted motion, as drawn.
    wanted: Annotated[tuple[Drawn, ...], Field(max_length=4)] = ()
    # Targets for the figures that it shows.
    targets: Annotated[tuple[Target, ...], Field(max_length=1000)] = ()


def _named_once(things: tuple[Named, ...]) -> tuple[Named, ...]:
    names = Counter(thing.name for thing in things)
    twice = {name for name, count in names.items() if count > 1}
    if twice:
        raise ValueError(f"two of the same name: {', '.join(sorted(twice))}")
    return things


class Study(FrozenModel):
    """The document: everything that one file holds."""

    format: Literal["cinetica-study"]
    version: Literal[1]
    name: Name
    notes: Note = ""
    clock: Clock = Clock()
    tunes: Annotated[tuple[Tune, ...], Field(max_length=1000), AfterValidator(_named_once)] = ()
    drills: Annotated[tuple[Drill, ...], Field(max_length=1000), AfterValidator(_named_once)] = ()
    milestones: Annotated[tuple[Milestone, ...], Field(max_length=1000), AfterValidator(_named_once)] = ()
    logs: Annotated[tuple[Logged, ...], Field(max_length=100), AfterValidator(_named_once)] = ()
    conventions: Conventions = Conventions()
    units: UnitSystem = UnitSystem.OURS

    @classmethod
    def new(cls, name: str, **parts: Any) -> Study:
        """A study in the present format; `parts` are its other fields, such as `tunes` and `drills`."""
        return cls(format="cinetica-study", version=1, name=name, **parts)

    def tune(self, name: str) -> Tune:
        """The tune of this name; KeyError, listing the names there are, if there is none."""
        return _by_name(self.tunes, name, "tune")

    def drill(self, name: str) -> Drill:
        """The drill of this name; KeyError, listing the names there are, if there is none."""
        return _by_name(self.drills, name, "drill")

    def milestone(self, name: str) -> Milestone:
        """The milestone of this name; KeyError, listing the names there are, if there is none."""
        return _by_name(self.milestones, name, "milestone")

    def tunes_for(self, drill: Drill) -> tuple[Tune, ...]:
        """The tunes of the drill's view, which can run on it."""
        return tuple(tune for tune in self.tunes if tune.view == drill.view)

    def with_tune(self, changed: Tune, *, instead_of: str) -> Self:
        """Replace the tune named `instead_of`."""
        return self.model_copy(
            update={"tunes": tuple(changed if tune.name == instead_of else tune for tune in self.tunes)}
        )


def _by_name(things: Iterable[Named], name: str, noun: str) -> Named:
    listed = tuple(things)
    for thing in listed:
        if thing.name == name:
            return thing
    there = ", ".join(thing.name for thing in listed) or "none"
    raise KeyError(f"no {noun} called {name!r}; there are: {there}")
