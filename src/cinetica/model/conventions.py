"""The conventions in which a game keeps its numbers.

They are chosen once per study and apply to everything that is exported or imported.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from cinetica.model.base import Choice, FrozenModel
from cinetica.model.tune import PARAMETERS

GameName = Annotated[str, Field(pattern=r"^[A-Za-z_][A-Za-z0-9_]{0,99}$")]


class Per(Choice):
    """The time that a velocity refers to."""

    SECOND = "second"
    FRAME = "frame"


class Times(Choice):
    """The unit of times; as speeds means frames where speeds count per frame, else seconds."""

    AS_SPEEDS = "as_speeds"
    SECOND = "second"
    MILLISECOND = "millisecond"
    FRAME = "frame"


class Angle(Choice):
    """The unit of angles."""

    DEGREE = "degree"
    RADIAN = "radian"


class Zero(Choice):
    """The direction on screen in which an angle is 0."""

    RIGHT = "right"
    UP = "up"
    LEFT = "left"
    DOWN = "down"


class Turn(Choice):
    """The direction on screen in which angles grow; by the axes means from the game's x to its y."""

    AXES = "axes"
    COUNTER_CLOCKWISE = "counter_clockwise"
    CLOCKWISE = "clockwise"


def _known_and_distinct(names: dict[str, str]) -> dict[str, str]:
    known = {parameter.id: parameter.name for parameter in PARAMETERS}
    if unknown := [id for id in names if id not in known]:
        raise ValueError(f"names for something that is not a number of a tune: {', '.join(unknown)}")
    used = list((known | names).values())
    if twice := sorted({name for name in used if used.count(name) > 1}):
        raise ValueError(f"one name for two numbers: {', '.join(twice)}")
    return names


class Conventions(FrozenModel):
    """How the game counts length, time and angle, where its y points, and what it calls each number.

    `names` maps an id to the game's own name; a parameter that is not in it goes by the last part of its id.
    """

    pixels_per_unit: Annotated[float, Field(ge=1e-6, le=1e6)] = 1
    y_down: bool = False
    per: Per = Per.SECOND
    rate: Annotated[float, Field(ge=1, le=10000)] = 60
    times: Times = Times.AS_SPEEDS
    angle: Angle = Angle.DEGREE
    zero: Zero = Zero.RIGHT
    turn: Turn = Turn.AXES
    names: Annotated[dict[str, GameName], AfterValidator(_known_and_distinct)] = Field(default={})

    @property
    def turns_clockwise(self) -> bool:
        """Whether angles grow clockwise on screen."""
        return self.turn is Turn.CLOCKWISE or (self.turn is Turn.AXES and self.y_down)

    @property
    def time_unit(self) -> Times:
        """The unit of times: second, millisecond or frame."""
        if self.times is not Times.AS_SPEEDS:
            return self.times
        return Times.FRAME if self.per is Per.FRAME else Times.SECOND

    @property
    def length_unit(self) -> str:
        """The game's unit of length: `u` or `px`."""
        return "u" if self.pixels_per_unit == 1 else "px"
