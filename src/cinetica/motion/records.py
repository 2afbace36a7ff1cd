"""The structured records that the kernel works on, derived from the declarations of the model.

A tune is one row of `TUNE`, so a sweep is many rows. Angles are in radians here. Records are NumPy record arrays, so
that `p.top_speed` means the same compiled and uncompiled.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from functools import cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.model.base import FrozenModel
from cinetica.model.course import Course, Rectangle, Slope, Zone
from cinetica.model.curves import EVEN, MOST_POINTS, STRAIGHT, Points
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.laws import LAWS
from cinetica.model.parameters import Parameter
from cinetica.model.study import Drill
from cinetica.model.take import KEYS
from cinetica.model.tune import GROUPS, PARAMETERS, CutRepeat, Follow, FollowHeight, Forward, FrictionStep, Tune

Records = np.recarray[Any, Any]

# Slack with which boundaries compare, so that "0.1 s at 60 per second" is 6 ticks and not 5.
SLACK = 1e-9

_TYPES: dict[str, tuple[Any, ...]] = {
    "number": ("f8",), "whole": ("i8",), "switch": ("?",), "choice": ("i8",), "curve": ("f8", (MOST_POINTS, 2)),
}  # fmt: skip


def field_name(parameter: Parameter) -> str:
    """The field of a parameter: its name, changed where NumPy records have a method of that name.

    Uncompiled, `p.repeat` would be the method.
    """
    return f"{parameter.name}_rule" if hasattr(np.record, parameter.name) else parameter.name


# Records are aligned: a number that lies across two cache lines costs as much as a rule of the model.
TUNE = np.dtype(
    [
        (name, "?")
        for name in ("top_view", "has_heading", "has_controls", "on_body", "has_more", "has_curves", "has_response")
    ]
    + [(field_name(parameter), *_TYPES[parameter.kind]) for parameter in PARAMETERS],
    align=True,
)

# The input of one tick. `pressed` and `released` are about the jump button; `held` has `held_bits`, so that a
# tick in which nothing moves is known by one comparison. What comes for one tick alone, the counts of a mouse, is rare
# and kept apart: `held` then has the number of its row, times MOUSE_ROW.
HAND = np.dtype(
    [(name, "?") for name in (*KEYS, "pressed", "released", "dash_pressed")]
    + [("held", "i8")]
    + [(name, "f8") for name in ("stick_x", "stick_y", "aim_x", "aim_y")],
    align=True,
)

# The jump button in one tick, by itself.
JUMP = np.dtype([(name, "?") for name in ("jump", "pressed", "released")])

STICK_OUT = 1 << len(KEYS)
MOUSE_ROW = STICK_OUT << 1


def held_bit(key: str) -> int:
    """The bit of one of `KEYS`."""
    return 1 << KEYS.index(key)


JUMP_HELD = held_bit("jump")


def held_bits(keys: Iterable[Any], stick_out: Any) -> Any:
    """One bit for each of `KEYS` that is held, and STICK_OUT where a stick is deflected.

    Takes numbers or arrays.
    """
    return sum(key * (1 << place) for place, key in enumerate(keys)) + stick_out * STICK_OUT


MOST_TIMERS = 32

# All that lasts from one tick to the next.
STATE = np.dtype(
    [(name, "f8") for name in (
        "x", "y", "vx", "vy",
        "input_x", "input_y", "key_x", "key_y", "wx", "wy", "wy_before",
        "throttle", "throttle_x", "throttle_y", "turn_speed", "lean", "bank",
        "aim_x", "aim_y", "since_aim", "facing", "look_yaw", "look_pitch",
        "since_ground", "since_press", "since_launch", "since_climb_jump", "overlap",
        "row_vx", "row_vy", "slope", "ground_angle", "rise_rate",
        "drop_left", "drop_right", "drop_low", "drop_high", "last_source", "late_x", "late_y",
        "camera_x", "camera_y", "lead_x", "lead_y", "share_h", "lead_share", "follow_share",
        "zone_speed", "zone_acceleration", "zone_friction", "zone_gravity", "zone_drag", "zone_push_x", "zone_push_y",
        "braking_x", "braking_y", "elapsed", "since_shove", "since_wall", "since_wall_jump",
        "since_dash", "since_dash_end", "since_dash_press", "dash_x", "dash_y",
        "since_left", "since_right", "since_up", "since_down", "whole_x", "whole_y", "shown_x", "shown_y",
    )]
    + [(name, "i8") for name in ("tick", "marks", "motion", "held", "air_jumps_left", "left_at", "right_at", "up_at",
    "down_at", "line", "next_shove", "wall_side", "air_dashes_left", "timers_running")]
    + [(name, "?") for name in (
        "left", "right", "up", "down", "jump", "modifier", "followed", "rests", "passes_zero",
        "grounded", "hovers", "climbing", "armed", "spent", "launched", "hop_open", "passes_for_held",
        "slides", "dropping", "press_used", "aims",
        "stunned", "on_wall", "dashing", "dash_armed", "blocked_x", "blocked_y", "is_late",
    )]
    # The times of the presses whose timers run, in s since the start (`jump.stale_timer`).
    + [("timers", "f8", (MOST_TIMERS,))],
    align=True,
)  # fmt: skip

# One row per tick, in the order of the trace's columns. `state` and `marks` are codes; see `STATES` and `MARKS`.
TRACE = np.dtype(
    [("tick", "i8"), ("time", "f8"), ("dt", "f8"), ("input_x", "f8"), ("input_y", "f8"), ("intent_x", "f8"),
    ("intent_y", "f8"),
     ("jump_held", "?"), ("modifier_held", "?"), ("x", "f8"), ("y", "f8"), ("vx", "f8"), ("vy", "f8"), ("ax", "f8"),
     ("ay", "f8"),
     ("speed", "f8"), ("facing", "f8"), ("bank", "f8"), ("look_yaw", "f8"), ("look_pitch", "f8"), ("state", "i8"),
     ("since_ground", "f8"), ("since_press", "f8"), ("overlap", "f8"), ("marks", "i8"),
     ("ground_angle", "f8"), ("camera_x", "f8"), ("camera_y", "f8")],
    align=True,
)  # fmt: skip

STATES = ("ground", "rise", "fall", "climb", "wall", "dash")
GROUND, RISE, FALL, CLIMB, AT_WALL, IN_DASH = range(len(STATES))

MARKS = (
    "press", "release", "launch", "coyote_launch", "buffered_launch", "air_launch", "cut", "apex", "land", "bump",
    "wall", "leave", "climb_on", "climb_off", "lost_press", "shove", "wall_on", "wall_off", "wall_launch", "dash",
    "dash_end", "lost_dash",
)  # fmt: skip
(
    PRESS, RELEASE, LAUNCH, COYOTE_LAUNCH, BUFFERED_LAUNCH, AIR_LAUNCH, CUT, APEX, LAND, BUMP,
    WALL, LEAVE, CLIMB_ON, CLIMB_OFF, LOST_PRESS, SHOVE, WALL_ON, WALL_OFF, WALL_LAUNCH, DASH, DASH_END, LOST_DASH,
) = (1 << place for place in range(len(MARKS)))  # fmt: skip


class Start(NamedTuple):
    """Where and how a run begins: position in u, velocity in u/s, and heading in radians."""

    x: float
    y: float
    vx: float = 0.0
    vy: float = 0.0
    heading: float = 0.0

    def put_into(self, states: NDArray[Any]) -> None:
        """Set what zeroed states of dtype STATE begin with besides the position."""
        states["vx"], states["vy"], states["facing"] = self.vx, self.vy, self.heading


def start_of(drill: Drill) -> Start:
    """The start of a drill."""
    (x, y), (vx, vy) = drill.start, drill.start_velocity
    return Start(float(x), float(y), vx, vy, math.radians(drill.start_heading))


class Ground(NamedTuple):
    """A course as the kernel uses it, and what a take brings for single ticks.

    Rectangles are arrays of shape (n, 4): left, bottom, right, top. Slopes are of shape (n, 6): x0, y0, x1, y1, rise
    over run, and angle in radians. Zones are of shape (n, 11): a rectangle, the factors on speed, acceleration,
    friction and gravity, the drag in 1/s, and the push in u/s². Mouse rows are of shape (n, 2): counts to the right,
    and up. Shoves are of shape (n, 3): the tick, and the velocity in u/s; in the order of their ticks, one for each.
    """

    solids: NDArray[np.float64]
    oneway: NDArray[np.float64]
    climb: NDArray[np.float64]
    slopes: NDArray[np.float64]
    zones: NDArray[np.float64]
    mouse: NDArray[np.float64]
    shoves: NDArray[np.float64]


# How many columns each of them has.
GROUND_COLUMNS = (4, 4, 4, 6, 11, 2, 3)
ZONE_COLUMNS = GROUND_COLUMNS[Ground._fields.index("zones")]
NO_MOUSE, NO_SHOVES = np.zeros((0, 2)), np.zeros((0, 3))


@cached_by_identity(64)
def ground(course: Course) -> Ground:
    """The kernel's form of a course."""
    return Ground(
        _rectangles(course.solids),
        _rectangles(course.oneway),
        _rectangles(course.climb),
        _lines(course.slopes),
        _zones(course.zones),
        NO_MOUSE,
        NO_SHOVES,
    )


def _rectangles(rectangles: Sequence[Rectangle]) -> NDArray[np.float64]:
    return np.array(rectangles, dtype=np.float64).reshape(-1, 4)


def _zones(zones: Sequence[Zone]) -> NDArray[np.float64]:
    rows = [
        (*zone.box, zone.speed, zone.acceleration, zone.friction, zone.gravity, zone.drag, *zone.push) for zone in zones
    ]
    return np.array(rows, dtype=np.float64).reshape(-1, ZONE_COLUMNS)


def _lines(slopes: Sequence[Slope]) -> NDArray[np.float64]:
    ends = np.array(slopes, dtype=np.float64).reshape(-1, 4)
    run, rise = ends[:, 2] - ends[:, 0], ends[:, 3] - ends[:, 1]
    # A line narrower than the slack counts as being that wide.
    return np.column_stack([ends, rise / np.maximum(run, SLACK), np.arctan2(rise, run)])


def empty_records(dtype: np.dtype[Any], count: int) -> Records:
    """Zeroed records of a dtype, shape (count,)."""
    return np.zeros(count, _record_of(dtype)).view(np.recarray)


@cache
def _record_of(dtype: np.dtype[Any]) -> np.dtype[Any]:
    """The dtype as a record array has it; cached, since NumPy would build it again field by field."""
    return np.dtype((np.record, dtype))


def tune_records(tunes: Sequence[Tune]) -> Records:
    """Tunes as records of shape (len(tunes),) and dtype `TUNE`."""
    return np.array([_fields_of(tune) for tune in tunes], TUNE).view(np.recarray)


@cached_by_identity(256)
def tune_record(tune: Tune) -> Records:
    """One tune as a shared, read-only record of shape (1,)."""
    return tune_records([tune])


def records_of(tunes: Sequence[Tune]) -> Records:
    """As `tune_records`, but joined from cached records, since NumPy would compare their fields one by one.

    Shared and read-only.
    """
    return _records_of(*tunes)


@cached_by_identity(16)
def _records_of(*tunes: Tune) -> Records:
    return np.concatenate([tune_record(tune).view(np.uint8, np.ndarray) for tune in tunes]).view(TUNE, np.recarray)


@cached_by_identity(256)
def _fields_of(tune: Tune) -> tuple[Any, ...]:
    about = LAWS[tune.drive.law]
    return (
        tune.view == "top",
        about.heading,
        about.controls,
        camera_is_on_body(tune),
        uses_more(tune),
        has_curves(tune),
        tune.input.response != STRAIGHT,
        *(value for group in GROUPS for value in _fields_of_group(getattr(tune, group))),
    )


@cached_by_identity(1024)
def _fields_of_group(group: FrozenModel) -> tuple[Any, ...]:
    """Cached, since tunes share the groups that have not been changed."""
    turns = zip(vars(group).values(), _TURNS[type(group)], strict=True)
    return tuple(value if turned is None else turned(value) for value, turned in turns)


@cached_by_identity(256)
def camera_is_on_body(tune: Tune) -> bool:
    """Whether the camera is at the body in every tick: locked to it, without a window or a lead."""
    camera = tune.camera
    waits = tune.view == "side" and camera.follow_height is FollowHeight.GROUNDED
    far = camera.window_width or camera.window_height or camera.look_ahead
    return camera.follow is Follow.LOCKED and not waits and not far


def uses_more(tune: Tune) -> bool:
    """Whether the tune uses a rule that most tunes do without: their ticks then do not ask for it."""
    return (
        tune.drive.friction_step is FrictionStep.AFTER
        or tune.jump.cut_repeat is CutRepeat.EVERY
        or tune.climb.jump_float > 0
        or tune.input.view is Forward.LOOK
        or tune.jump.stale_timer
        or tune.drive.stun > 0
        or tune.dash.speed > 0
        or has_curves(tune)
        or _uses_more_contact(tune)
    )


def _uses_more_contact(tune: Tune) -> bool:
    contact, wall = tune.contact, tune.wall
    if tune.view == "side" and (wall.slide_speed > 0 or wall.jump_speed > 0):
        return True
    return contact.late or contact.probe_rising or max(contact.step_height, contact.probe_width, contact.pixel) > 0


def has_curves(tune: Tune) -> bool:
    """Whether a drawn curve acts on acceleration or friction."""
    drive = tune.drive
    return drive.acceleration_curve != EVEN or drive.friction_curve != EVEN


def _turn(parameter: Parameter) -> Callable[[Any], Any] | None:
    """The conversion of a parameter's value to the kernel's number; None if none is needed."""
    if parameter.kind == "curve":
        return _filled
    if parameter.kind == "choice":
        return parameter.codes.__getitem__
    return math.radians if parameter.unit.startswith("°") else None


def _filled(points: Points) -> Points:
    """A curve of MOST_POINTS points, the last repeated: beyond it a curve is level."""
    return points + points[-1:] * (MOST_POINTS - len(points))


# By group, in the order of its parameters.
_TURNS = {
    model: tuple(_turn(parameter) for parameter in PARAMETERS if parameter.group == group)
    for group, model in GROUPS.items()
}
