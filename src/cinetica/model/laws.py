"""The drive laws: their declarations and properties.

The function of each is in `motion/drive.py` and its words in `reading/laws.py`; a test checks that every law has both.
"""

from __future__ import annotations

from dataclasses import dataclass

from cinetica.model.base import Choice
from cinetica.model.parameters import VIEWS, When


class Law(Choice):
    """How the intended velocity becomes velocity."""

    INSTANT = "instant"
    RAMP = "ramp"
    EASE = "ease"
    THROTTLE = "throttle"
    PUSH = "push"
    STEER = "steer"
    ARC = "arc"


@dataclass(frozen=True)
class About:
    """The properties of one law.

    - `numbers`: keys of the group drive that this law uses and some others do not.
    - `starting`, `stopping`: the number that decides how fast the body starts and stops; empty if it is immediate.
    - `even`: speed changes by the same amount in every tick.
    - `heading`: it turns a heading, which is the facing.
    - `controls`: its two axes are two independent controls, not one direction.
    """

    meaning: str
    numbers: tuple[str, ...] = ()
    starting: str = ""
    stopping: str = ""
    even: bool = False
    heading: bool = False
    controls: bool = False
    views: tuple[str, ...] = VIEWS


# Numbers that act unless speed is simply set.
CURVES = ("acceleration_curve", "friction_curve")

LAWS: dict[Law, About] = {
    Law.INSTANT: About("Full speed in one tick, and stopped in one tick.", ("axes",)),
    Law.RAMP: About(
        "Speed rises and falls along straight lines.",
        ("axes", "acceleration", "friction", "turn_acceleration", "air_friction", "friction_step", *CURVES),
        starting="acceleration",
        stopping="friction",
        even=True,
    ),
    Law.EASE: About(
        "A share of the gap to the wanted velocity is closed.",
        ("axes", "rate", "stop_rate", "form", "air_friction", *CURVES),
        starting="rate",
        stopping="stop_rate",
    ),
    Law.THROTTLE: About(
        "Speed builds up and runs down; turning keeps it.",
        ("acceleration", "friction", "release_stop", "air_friction", *CURVES),
        starting="acceleration",
        stopping="friction",
        even=True,
    ),
    Law.PUSH: About(
        "Input accelerates, drag slows, a cap limits the speed.",
        (
            "axes",
            "acceleration",
            "friction",
            "form",
            "drag",
            "release_stop",
            "air_friction",
            "friction_step",
            "cap_step",
            *CURVES,
        ),
        starting="acceleration",
        stopping="friction",
    ),
    Law.STEER: About(
        "Left and right turn the heading, up and down thrust along it.",
        (
            "acceleration",
            "friction",
            "turn_acceleration",
            "turn_rate",
            "turn_ease",
            "grip",
            "reverse_factor",
            "bank_angle",
            "lean_ease",
            "lean_settle",
            "turn_form",
            "cruise_speed",
            *CURVES,
        ),
        starting="acceleration",
        stopping="friction",
        heading=True,
        controls=True,
        views=("top",),
    ),
    Law.ARC: About(
        "The body moves where it faces; the heading turns toward the stick.",
        (
            "acceleration",
            "friction",
            "turn_acceleration",
            "turn_rate",
            "turn_ease",
            "pivot_angle",
            "grip",
            "bank_angle",
            "lean_ease",
            "lean_settle",
            "turn_form",
            "turn_blend",
            *CURVES,
        ),
        starting="acceleration",
        stopping="friction",
        heading=True,
        views=("top",),
    ),
}


def used(number: str) -> When:
    """The condition that the current law uses a number."""
    return When("drive.law", tuple(law for law, about in LAWS.items() if number in about.numbers))


# The facing is set by a choice in the tune, and not by a heading.
FACING_FREE = When("drive.law", tuple(law for law, about in LAWS.items() if not about.heading))
