"""A take: the player's input, frame by frame."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from pydantic import AfterValidator, FailFast, Field

from cinetica.model.base import FrozenModel

KEYS = ("left", "right", "up", "down", "jump", "modifier", "dash")
LONGEST = 1_000_000

Frame = Annotated[int, Field(ge=0, le=LONGEST)]
Counts = Annotated[float, Field(ge=-1e6, le=1e6)]
Speed = Annotated[float, Field(ge=-1e5, le=1e5)]
Deflection = Annotated[float, Field(ge=-1, le=1)]


class Press(NamedTuple):
    """A key held during the frames `[start, end)`."""

    start: Frame
    end: Frame


def _lasts(press: Press) -> Press:
    if press.end <= press.start:
        raise ValueError("a press is [from, to) in frames, with from before to")
    return press


# Only the first fault in a list is reported: lists can be long.
Held = Annotated[tuple[Annotated[Press, AfterValidator(_lasts)], ...], FailFast()]


class Push(NamedTuple):
    """A stick position from this frame on, until the next push."""

    frame: Frame
    x: Deflection
    y: Deflection


Pushes = Annotated[tuple[Push, ...], FailFast()]


class Moved(NamedTuple):
    """How far a mouse moved within a frame, in counts: to the right, and up."""

    frame: Frame
    dx: Counts
    dy: Counts


class Shove(NamedTuple):
    """A velocity that is added at once when this frame begins, in u/s: a hit, or a bounce."""

    frame: Frame
    vx: Speed
    vy: Speed


Shoves = Annotated[tuple[Shove, ...], FailFast()]
Mouse = Annotated[tuple[Moved, ...], FailFast()]


class Keys(FrozenModel):
    """The presses of each key."""

    left: Held = ()
    right: Held = ()
    up: Held = ()
    down: Held = ()
    jump: Held = ()
    modifier: Held = ()
    dash: Held = ()


class Take(FrozenModel):
    """The input of one performance: `length` frames at `rate` per second. Another clock resamples it."""

    rate: Annotated[float, Field(ge=1, le=1000)] = 60
    length: Annotated[int, Field(ge=1, le=LONGEST)] = 120
    keys: Keys = Keys()
    stick: Pushes = ()
    aim: Pushes = ()
    mouse: Mouse = ()
    shoves: Shoves = ()

    @property
    def seconds(self) -> float:
        """The length in seconds."""
        return self.length / self.rate
