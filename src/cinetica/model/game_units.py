"""Convert our numbers to the game's and back.

Lengths in u or px, y up or down, seconds or frames, degrees or radians from the game's zero.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from cinetica.model.conventions import Angle, Conventions, Per, Times, Turn, Zero
from cinetica.model.curves import curve_from_text, curve_text
from cinetica.model.parameters import Parameter, Value
from cinetica.model.quantity import POWERS
from cinetica.model.rate_shares import WHOLE, is_exact, rate_from_share, share_per_tick

# Angles in the plane, which turn as the game counts them.
TURNED = ("facing", "look_yaw", "input.view_yaw")
TIME_WORDS = {Times.SECOND: "s", Times.MILLISECOND: "ms", Times.FRAME: "frames"}
ZEROS = {Zero.RIGHT: 0.0, Zero.UP: 90.0, Zero.LEFT: 180.0, Zero.DOWN: -90.0}


def factor(unit: str, conventions: Conventions) -> float:
    """The factor from a number in our unit to the game's."""
    if unit == "s":
        return {Times.SECOND: 1.0, Times.MILLISECOND: 1000.0, Times.FRAME: conventions.rate}[conventions.time_unit]
    length, time, angle = POWERS.get(unit, (0, 0, 0))
    scale = conventions.pixels_per_unit**length
    if conventions.per is Per.FRAME:
        scale *= conventions.rate**time
    if angle and conventions.angle is Angle.RADIAN:
        scale *= math.pi / 180.0
    return scale


def unit_words(unit: str, conventions: Conventions) -> str:
    """The game's unit for one of ours, such as px/frame²."""
    if unit not in POWERS:
        return {"": "", "×": "factor"}.get(unit, unit)
    if unit == "s":
        return TIME_WORDS[conventions.time_unit]
    length, time, angle = POWERS[unit]
    second = "frame" if conventions.per is Per.FRAME else "s"
    if length == angle == 0:
        return f"1/{second}"
    above = conventions.length_unit if length else "rad" if conventions.angle is Angle.RADIAN else "°"
    return above + {0: "", -1: f"/{second}", -2: f"/{second}²"}[time]


def is_share(parameter: Parameter, conventions: Conventions) -> bool:
    """Whether the game keeps a rate as the share of the gap that it closes in a frame."""
    return bool(parameter.share) and conventions.per is Per.FRAME


def game_name(parameter: Parameter, conventions: Conventions) -> str:
    """The game's name of a parameter."""
    return conventions.names.get(parameter.id, parameter.name)


def game_unit(parameter: Parameter, conventions: Conventions) -> str:
    """The game's unit of a parameter; empty for a bare number."""
    return "share/frame" if is_share(parameter, conventions) else unit_words(parameter.unit, conventions)


def to_game(
    parameter: Parameter, value: Value, conventions: Conventions, values: Mapping[str, Value] | None = None
) -> Value:
    """A tune's value as the game keeps it; choices and switches are unchanged.

    `values` are the tune's own and determine in which form a rate closes its share.
    """
    if isinstance(value, tuple):
        return curve_text(value)
    if parameter.kind != "number":
        return value
    if is_share(parameter, conventions):
        return share_per_tick(float(value), 1.0 / conventions.rate, is_exact(parameter, values or {}))
    return sign_in_game(parameter, conventions) * float(value) * factor(parameter.unit, conventions)


def from_game(
    parameter: Parameter, value: Value, conventions: Conventions, values: Mapping[str, Value] | None = None
) -> Value:
    """The inverse of `to_game`. An upward speed may have either sign.

    An exact share that rounds to 1 becomes the slowest rate that closes it.
    """
    if parameter.kind == "whole" and isinstance(value, float) and value.is_integer():
        return int(value)
    if parameter.kind == "curve":
        return curve_from_text(str(value))
    if parameter.kind != "number" or isinstance(value, str | bool | tuple):
        return value
    if is_share(parameter, conventions):
        exact = is_exact(parameter, values or {})
        if exact and value == 1.0:
            return min(WHOLE * conventions.rate, parameter.high)
        return rate_from_share(float(value), 1.0 / conventions.rate, exact)
    return sign_in_game(parameter, conventions) * float(value) / factor(parameter.unit, conventions)


def sign_in_game(parameter: Parameter, conventions: Conventions) -> float:
    """-1 for what points the other way in the game."""
    turned = parameter.id in TURNED and conventions.turns_clockwise
    return -1.0 if turned or (parameter.upward and conventions.y_down) else 1.0


def words(conventions: Conventions) -> str:
    """The conventions in one line."""
    lengths = "world units" if conventions.pixels_per_unit == 1 else f"{conventions.pixels_per_unit:g} pixels per unit"
    time = f"per frame at {conventions.rate:g} per second" if conventions.per is Per.FRAME else "per second"
    if conventions.time_unit is not (Times.FRAME if conventions.per is Per.FRAME else Times.SECOND):
        time += f", times in {TIME_WORDS[conventions.time_unit]}"
    angle = "radians" if conventions.angle is Angle.RADIAN else "degrees"
    if conventions.zero is not Zero.RIGHT or conventions.turn is not Turn.AXES:
        way = "clockwise" if conventions.turns_clockwise else "counter-clockwise"
        angle += f" from {conventions.zero} {way}"
    return f"{lengths}, y {'down' if conventions.y_down else 'up'}, {time}, {angle}"
