"""A clock: how time is divided into ticks. It is a property of the machine, not of the character."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from pydantic import Field

from cinetica.model.base import Choice, FrozenModel
from cinetica.model.parameters import Parameter, When, choice, declared_in, number, whole


class Mode(Choice):
    """How frames and ticks are related."""

    LOCKED = "locked"
    VARIABLE = "variable"
    FIXED = "fixed"


class Read(Choice):
    """When the game reads its input."""

    FRAME = "frame"
    TICK = "tick"


class HandsRead(Choice):
    """Whether a frame reads its input before its ticks or after them."""

    BEFORE = "before"
    AFTER = "after"


FRAMED = When("clock.mode", (Mode.VARIABLE, Mode.FIXED))


class Hitch(NamedTuple):
    """The frame that contains time `at` (s) lasts `seconds` longer."""

    at: Annotated[float, Field(ge=0, le=1e6)]
    seconds: Annotated[float, Field(ge=0, le=60)]


class Clock(FrozenModel):
    """Frame rate, tick rate, the way they are coupled, hitches and jitter."""

    mode: Mode = choice(
        Mode.LOCKED,
        "Clock",
        "How frames and ticks are related.",
        {
            Mode.LOCKED: "One tick per frame, always the same length.",
            Mode.VARIABLE: "One tick per frame, as long as the frame was.",
            Mode.FIXED: "Ticks of a fixed length, run as frames leave time for them.",
        },
        section="Clock",
    )
    tick_rate: float = number(
        60,
        "Tick rate",
        "/s",
        (1, 10000),
        (20, 240),
        "Ticks per second.",
        section="Clock",
        when=(When("clock.mode", (Mode.LOCKED, Mode.FIXED)),),
    )
    frame_rate: float = number(
        60, "Frame rate", "/s", (1, 10000), (20, 240), "Frames per second.", section="Clock", when=(FRAMED,)
    )
    jitter: float = number(
        0,
        "Jitter",
        "×",
        (0, 0.99),
        (0, 0.5),
        "Largest random change of a frame's length, as a share of it.",
        section="Clock",
        when=(FRAMED,),
    )
    seed: int = whole(
        1, "Seed", "", (0, 2**31 - 1), (1, 100), "Seed of the random frames.", section="Clock", when=(FRAMED,)
    )
    hitches: tuple[Hitch, ...] = ()
    max_dt: float = number(
        0.1,
        "Longest delta time",
        "s",
        (1e-4, 60),
        (0.02, 0.5),
        "Longest time that one frame advances the game.",
        section="Clock",
        when=(FRAMED,),
    )
    read: Read = choice(
        Read.FRAME,
        "Presses are read",
        "Where a press is noticed.",
        {
            Read.FRAME: "Per frame, kept until a tick uses it.",
            Read.TICK: "Per tick, from the frame's own flag: some are lost, some count twice.",
        },
        section="Clock",
        when=(When("clock.mode", (Mode.FIXED,)),),
    )
    hands: HandsRead = choice(
        HandsRead.BEFORE,
        "Hands are read",
        "Whether a frame reads its input before its ticks or after them.",
        {
            HandsRead.BEFORE: "A press acts in its own frame.",
            HandsRead.AFTER: "A press acts a frame later.",
        },
        section="Clock",
    )


CLOCK_PARAMETERS: tuple[Parameter, ...] = tuple(declared_in("clock", Clock))


def clock_words(clock: Clock) -> str:
    """Describe the clock in a few words."""
    if clock.mode is Mode.LOCKED:
        return f"{clock.tick_rate:g} ticks/s"
    uneven = ", uneven" if clock.jitter or clock.hitches else ""
    if clock.mode is Mode.VARIABLE:
        return f"{clock.frame_rate:g} frames/s variable{uneven}"
    return f"{clock.tick_rate:g} ticks/s in {clock.frame_rate:g} frames/s{uneven}"
