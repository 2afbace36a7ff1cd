"""The ten numbers that each kind of character is tuned by first, with the choices that go with them."""

from __future__ import annotations

from cinetica.model.laws import Law
from cinetica.model.tune import PARAMETERS, Tune

# The chosen law's own numbers are always included.
_DRIVE = (
    "drive.law", "drive.axes", "drive.top_speed", "drive.acceleration", "drive.friction", "drive.rate",
    "drive.stop_rate", "drive.form",
)  # fmt: skip
_SIDE = (
    "drive.air_control", "gravity.gravity", "gravity.fall_factor", "jump.jump_speed", "jump.short_hop",
    "jump.cut_factor", "jump.buffer", "jump.coyote",
)  # fmt: skip
_TOP = (
    "drive.turn_acceleration", "drive.modifier_speed", "input.dead_zone", "input.outer_zone", "input.curve",
    "input.diagonal", "body.width", "body.height", "facing.facing",
)  # fmt: skip
_STEER = (
    "drive.turn_rate", "drive.turn_ease", "drive.grip", "drive.reverse_factor", "drive.bank_angle",
    "drive.cruise_speed", "input.dead_zone",
)  # fmt: skip


def essentials_of(tune: Tune) -> frozenset[str]:
    """The ids of the parameters that a tune of this kind begins with."""
    own = _SIDE if tune.view == "side" else _STEER if tune.drive.law == Law.STEER else _TOP
    return frozenset((*_DRIVE, *own))


def is_new(tune: Tune) -> bool:
    """Whether nothing but its essentials has ever been set."""
    values, own = tune.values(), essentials_of(tune)
    return all(values[each.id] == each.default for each in PARAMETERS if each.id not in own)
