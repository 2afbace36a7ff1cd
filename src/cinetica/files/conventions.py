"""From our numbers to the game's and back: lengths in u or px, y up or down, seconds or frames, degrees or radians."""

from __future__ import annotations

import math

from cinetica.model.conventions import Angle, Conventions, Per
from cinetica.model.parameters import Parameter, Value
from cinetica.reading.channels import BY_COLUMN

# Each unit as powers of length, time and angle; what is not here is a bare number.
POWERS = {
    "u": (1, 0, 0),
    "u/s": (1, -1, 0),
    "u/s²": (1, -2, 0),
    "s": (0, 1, 0),
    "/s": (0, -1, 0),
    "°": (0, 0, 1),
    "°/s": (0, -1, 1),
}
UPWARD_COLUMNS = ("y", "vy", "ay")
TURNED_COLUMNS = ("facing", "bank", "look_yaw", "look_pitch")


def factor(unit: str, conventions: Conventions) -> float:
    """What a number in this unit of ours is multiplied by to be one of the game's."""
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


def to_game(parameter: Parameter, value: Value, conventions: Conventions) -> Value:
    """A value of a tune as the game keeps it. Choices and switches stay as they are."""
    if parameter.kind != "number":
        return value
    sign = -1.0 if parameter.upward and conventions.y_down else 1.0
    return sign * float(value) * factor(parameter.unit, conventions)


def from_game(parameter: Parameter, value: Value, conventions: Conventions) -> Value:
    """The opposite of `to_game`. A speed that points up may come with either sign."""
    if parameter.kind == "whole" and isinstance(value, float) and value.is_integer():
        return int(value)
    if parameter.kind != "number" or isinstance(value, str | bool):
        return value
    ours = float(value) / factor(parameter.unit, conventions)
    return -ours if parameter.upward and conventions.y_down else ours


def column_factor(column: str, conventions: Conventions) -> float:
    """What a column of a trace is multiplied by to be as the game logs it."""
    turned = conventions.y_down and (column in UPWARD_COLUMNS or column in TURNED_COLUMNS)
    return (-1.0 if turned else 1.0) * factor(BY_COLUMN[column].unit, conventions)


def words(conventions: Conventions) -> str:
    """The conventions in a line."""
    lengths = "world units" if conventions.pixels_per_unit == 1 else f"{conventions.pixels_per_unit:g} pixels per unit"
    time = f"per frame at {conventions.rate:g} per second" if conventions.per is Per.FRAME else "per second"
    angle = "radians" if conventions.angle is Angle.RADIAN else "degrees"
    return f"{lengths}, y {'down' if conventions.y_down else 'up'}, {time}, {angle}"
