"""What a study remembers besides its current state: earlier tunes, and curves logged by the game."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import FailFast, Field, model_validator

from cinetica.model.base import FrozenModel
from cinetica.model.text import Name, Note
from cinetica.model.tune import Tune

MOST_ROWS = 200_000


class Milestone(FrozenModel):
    """All tunes as they were `at` a moment (ISO 8601), under a name given by the user."""

    name: Name
    at: Annotated[str, Field(max_length=40)]
    tunes: Annotated[tuple[Tune, ...], Field(max_length=1000)]

    def tune(self, name: str) -> Tune:
        """The tune of this name at the milestone; KeyError if there was none."""
        for tune in self.tunes:
            if tune.name == name:
                return tune
        raise KeyError(f"no tune called {name!r} in the milestone {self.name!r}")


Column = Annotated[tuple[float, ...], Field(max_length=MOST_ROWS), FailFast()]


class Logged(FrozenModel):
    """A curve logged by a game on one drill, in world units and seconds, y up.

    `derived` names the columns that were computed from others instead of logged.
    """

    name: Name
    drill: Name
    note: Note = ""
    time: Column
    x: Column
    y: Column
    vx: Column
    vy: Column
    derived: tuple[str, ...] = ()

    @model_validator(mode="after")
    def _check(self) -> Self:
        if len(self.time) < 2:
            raise ValueError("a logged curve has at least two rows")
        if {len(self.x), len(self.y), len(self.vx), len(self.vy)} != {len(self.time)}:
            raise ValueError("the columns of a logged curve are of one length")
        if any(after <= before for before, after in zip(self.time, self.time[1:], strict=False)):
            raise ValueError("the times of a logged curve grow from row to row")
        return self
