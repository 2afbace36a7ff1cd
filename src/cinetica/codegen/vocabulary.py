"""The fields of the kernel's records: their types, their units, and which of them point up."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from cinetica.codegen.expressions import BARE, Kind, Unit
from cinetica.codegen.specialise import Column
from cinetica.model.parameters import Parameter
from cinetica.model.quantity import POWERS
from cinetica.motion.records import HAND, STATE

LENGTH, SPEED, PUSH, TIME, RATE = (1, 0), (1, -1), (1, -2), (0, 1), (0, -1)

# The fields of the state that are not bare numbers, by their units.
_FIELDS: Mapping[Unit, str] = {
    LENGTH: "x y overlap drop_left drop_right drop_low drop_high camera_x camera_y lead_x lead_y whole_x whole_y"
    " shown_x shown_y",
    SPEED: "vx vy throttle row_vx row_vy rise_rate late_x late_y",
    PUSH: "zone_push_x zone_push_y",
    TIME: "elapsed share_h",
    RATE: "turn_speed zone_drag",
}
_UNITS = {name: unit for unit, names in _FIELDS.items() for name in names.split()}
# What changes its sign if y points down: everything along y, angles, and the slope of a line.
_ODD = frozenset(
    [
        "y",
        "vy",
        "input_y",
        "key_y",
        "wy",
        "wy_before",
        "throttle_y",
        "turn_speed",
        "lean",
        "bank",
        "aim_y",
        "facing",
        "look_yaw",
        "look_pitch",
        "row_vy",
        "slope",
        "ground_angle",
        "rise_rate",
        "drop_low",
        "drop_high",
        "last_source",
        "camera_y",
        "lead_y",
        "zone_push_y",
        "dash_y",
        "whole_y",
        "shown_y",
    ]
)


def _kind(dtype: np.dtype[Any]) -> Kind:
    return {"f": "number", "i": "whole", "b": "flag"}[dtype.kind]  # type: ignore[return-value]


def _unit(name: str, kind: Kind) -> Unit:
    if kind != "number":
        return None
    return TIME if name.startswith("since_") else _UNITS.get(name, BARE)


def state_columns() -> dict[str, Column]:
    """The fields of the state, except for the timers of presses, which are a list."""
    found = {}
    for name in STATE.names or ():
        if STATE[name].shape:
            continue
        kind = _kind(STATE[name])
        found[name] = Column(name, kind, _unit(name, kind), name in _ODD)
    return found


def input_columns() -> dict[str, Column]:
    """The input, in the kernel's form."""
    odd = ("stick_y", "aim_y")
    kinds = {name: _kind(HAND[name]) for name in HAND.names or ()}
    return {name: Column(name, kind, BARE if kind == "number" else None, name in odd) for name, kind in kinds.items()}


def unit_of(parameter: Parameter) -> Unit:
    """The unit of a number of a tune; angles are bare numbers, in radians."""
    if parameter.kind != "number":
        return None
    length, time, _ = POWERS.get(parameter.unit, (0, 0, 0))
    return length, time


def _columns(unit: Unit, even: str, odd: str, order: str) -> tuple[Column, ...]:
    found = {name: Column(name, "number", unit) for name in even.split()}
    found |= {name: Column(name, "number", unit, odd=True) for name in odd.split()}
    return tuple(found[name] for name in order.split())


_BOX = _columns(LENGTH, "left right", "bottom top", "left bottom right top")
# The columns of each type of row, in the order of `records.GROUND_COLUMNS`.
ROWS: Mapping[str, tuple[Column, ...]] = {
    "rectangle": _BOX,
    "line": (
        *_columns(LENGTH, "left_x right_x", "left_y right_y", "left_x left_y right_x right_y"),
        Column("slope", "number", BARE, odd=True), Column("angle", "number", BARE, odd=True),
    ),
    "zone": (
        *_BOX, *(Column(name, "number", BARE) for name in ("speed", "acceleration", "friction", "gravity")),
        Column("drag", "number", RATE), Column("push_x", "number", PUSH), Column("push_y", "number", PUSH, odd=True),
    ),
    "shove": (Column("tick", "whole"), Column("vx", "number", SPEED), Column("vy", "number", SPEED, odd=True)),
    "point": (Column("x", "number", BARE), Column("y", "number", BARE)),
}  # fmt: skip
# The lists of a course, and the type of their rows.
COURSE = {
    "solids": "rectangle", "oneway": "rectangle", "climb": "rectangle", "slopes": "line", "zones": "zone",
    "shoves": "shove",
}  # fmt: skip
# What the game's own move reports as hit (`motion/in_game.py`).
HIT = {
    **{name: Column(name, "flag") for name in ("wall", "ceiling", "floor", "near_floor", "wall_x", "wall_y")},
    "slope": Column("slope", "number", BARE, odd=True), "rise_rate": Column("rise_rate", "number", SPEED, odd=True),
}  # fmt: skip
# What else the game reports about its surroundings, before and after the move.
FROM_GAME = {name: Column(name, "flag") for name in ("over_net", "on_oneway")}
FROM_GAME_AFTER = {name: Column(name, "flag") for name in ("in_oneway", "wall_left", "wall_right")}

# Names in the code for fields whose names are short in the kernel; as in a trace if it has them.
RENAMED: Mapping[tuple[str, str], str] = {
    **{
        ("state", name): words
        for name, words in {
            "wx": "intent_x", "wy": "intent_y", "wy_before": "intent_y_before", "row_vx": "shown_vx",
            "row_vy": "shown_vy", "armed": "jump_armed", "spent": "coyote_spent", "press_used": "press_used",
            "passes_for_held": "counts_as_held", "jump": "jump_held", "modifier": "modifier_held",
            "left": "left_held", "right": "right_held", "up": "up_held", "down": "down_held",
            "passes_zero": "key_passes_zero", "slope": "ground_slope", "line": "ground_line",
            "rise_rate": "ground_rise_rate",
        }.items()
    },
    **{
        ("input", name): words
        for name, words in {"pressed": "jump_pressed", "released": "jump_released"}.items()
    },
}  # fmt: skip
