"""Convert our numbers to the game's and back.

Lengths in u or px, y up or down, seconds or frames, degrees or radians from the game's zero.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from cinetica.model.conventions import Angle, Conventions, Per, Turn, Zero
from cinetica.model.parameters import Parameter, Value
from cinetica.model.quantity import POWERS
from cinetica.model.rate_shares import WHOLE, is_exact, rate_from_share, share_per_tick
from cinetica.reading.channels import BY_COLUMN

UPWARD_COLUMNS = ("y", "vy", "ay", "camera_y", "screen_y")
# Angles in the plane; only a facing has a zero. Bank and pitch turn over with the y axis.
TURNED = ("facing", "look_yaw", "input.view_yaw")
TILTED = ("bank", "look_pitch", "ground_angle")
ZEROS = {Zero.RIGHT: 0.0, Zero.UP: 90.0, Zero.LEFT: 180.0, Zero.DOWN: -90.0}
Numbers = TypeVar("Numbers", float, NDArray[np.float64])


def factor(unit: str, conventions: Conventions) -> float:
    """The factor from a number in our unit to the game's."""
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
    length, time, angle = POWERS[unit]
    second = "frame" if conventions.per is Per.FRAME else "s"
    if length == angle == 0:
        return ("frames" if second == "frame" else "s") if time > 0 else f"1/{second}"
    above = conventions.length_unit if length else "rad" if conventions.angle is Angle.RADIAN else "°"
    return above + {0: "", -1: f"/{second}", -2: f"/{second}²"}[time]


def is_share(parameter: Parameter, conventions: Conventions) -> bool:
    """Whether the game keeps a rate as the share of the gap that it closes in a frame."""
    return bool(parameter.share) and conventions.per is Per.FRAME


def game_name(parameter: Parameter, conventions: Conventions) -> str:
    """The game's name of a parameter."""
    return conventions.names.get(parameter.id, parameter.key)


def game_unit(parameter: Parameter, conventions: Conventions) -> str:
    """The game's unit of a parameter; empty for a bare number."""
    return "share/frame" if is_share(parameter, conventions) else unit_words(parameter.unit, conventions)


def to_game(
    parameter: Parameter, value: Value, conventions: Conventions, values: Mapping[str, Value] | None = None
) -> Value:
    """A tune's value as the game keeps it; choices and switches are unchanged.

    `values` are the tune's own and determine in which form a rate closes its share.
    """
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
    if parameter.kind != "number" or isinstance(value, str | bool):
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


def column_to_game(column: str, values: Numbers, conventions: Conventions) -> Numbers:
    """A column of a trace as the game logs it. A facing is within half a turn of the game's zero."""
    if column == "facing":
        values = _wrapped((-1.0 if conventions.turns_clockwise else 1.0) * (values - ZEROS[conventions.zero]))
    elif conventions.turns_clockwise if column in TURNED else conventions.y_down and column in UPWARD_COLUMNS + TILTED:
        values = -values
    return values * factor(BY_COLUMN[column].unit, conventions)


def _wrapped(angle: Numbers) -> Numbers:
    """Angles in (-180, 180]."""
    return 180.0 - (180.0 - angle) % 360.0


def words(conventions: Conventions) -> str:
    """The conventions in one line."""
    lengths = "world units" if conventions.pixels_per_unit == 1 else f"{conventions.pixels_per_unit:g} pixels per unit"
    time = f"per frame at {conventions.rate:g} per second" if conventions.per is Per.FRAME else "per second"
    angle = "radians" if conventions.angle is Angle.RADIAN else "degrees"
    if conventions.zero is not Zero.RIGHT or conventions.turn is not Turn.AXES:
        way = "clockwise" if conventions.turns_clockwise else "counter-clockwise"
        angle += f" from {conventions.zero} {way}"
    return f"{lengths}, y {'down' if conventions.y_down else 'up'}, {time}, {angle}"
