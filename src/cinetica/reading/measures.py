"""Measures: figures read off a trace.

Each is declared once, by decorating the function that reads it: name, unit, from which event to which, when it is
absent; the
sheet, the command line, reports and the table of docs/model.md follow. Times are those within the ticks, so that they
move
smoothly while a number is dragged; whole ticks stand beside them. A measure is absent (None) where the drill never
shows it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from cinetica.model.take import Press
from cinetica.model.tune import Tune
from cinetica.motion.clock import schedule
from cinetica.motion.records import (
    BUFFERED_LAUNCH,
    CLIMB,
    CLIMB_ON,
    COYOTE_LAUNCH,
    GROUND,
    LOST_PRESS,
    PRESS,
    SLACK,
    WALL,
)
from cinetica.motion.simulate import Trace
from cinetica.reading.evidence import NEARLY, BoolArray, Evidence, FloatArray, Moment

# A speed that changes by less than this share of itself in a tick is steady.
STEADY = 1e-4
# So finely a tick is looked through for what is neither at its beginning nor at its end.
PARTS = 50
# A camera has come to rest where so much of the way is left that it had left when the body rested; that is known where
# in the last tick it moved by less than the second.
CAMERA_NEAR, CAMERA_STILL = 0.01, 0.001


@dataclass(frozen=True)
class Reading:
    """A figure in the measure's unit, the rows (first, last) that it was taken from, and where it is a time its whole
    ticks."""

    value: float
    rows: tuple[int, int]
    ticks: int | None = None


@dataclass(frozen=True)
class Measure:
    id: str
    label: str
    unit: str
    meaning: str
    absent: str
    views: tuple[str, ...]
    read: Callable[[Evidence], Reading | None]
    # Whether it can be wished for: `wishes.grant` finds the numbers behind it.
    wishable: bool = False
    # For a height: it is told in body heights where it is told in bodies; other lengths are in body widths.
    is_height: bool = False

    @property
    def body_unit(self) -> str:
        """What it is counted in where bodies are the measure of lengths."""
        return self.unit if self.unit != "u" else "heights" if self.is_height else "widths"

    def body(self, tune: Tune) -> float:
        """How much of its own unit that is, for a tune."""
        return 1.0 if self.unit != "u" else tune.body.height if self.is_height else tune.body.width


MEASURES: list[Measure] = []
SIDE, TOP = ("side",), ("top",)


def _measure(
    id: str,
    label: str,
    unit: str,
    meaning: str,
    absent: str,
    *,
    views: tuple[str, ...] = ("side", "top"),
    wishable: bool = False,
    is_height: bool = False,
) -> Callable[[Callable[[Evidence], Reading | None]], Callable[[Evidence], Reading | None]]:
    def declare(read: Callable[[Evidence], Reading | None]) -> Callable[[Evidence], Reading | None]:
        MEASURES.append(Measure(id, label, unit, meaning, absent, views, read, wishable, is_height))
        return read

    return declare


def read_off(trace: Trace) -> dict[str, Reading]:
    """Every measure that this trace shows, by id, in the order of declaration."""
    evidence = Evidence(trace)
    readings = {measure.id: measure.read(evidence) for measure in MEASURES if trace.drill.view in measure.views}
    return {id: reading for id, reading in readings.items() if reading is not None}


# Running


def _time(e: Evidence, began: int, moment: Moment) -> Reading:
    """From the beginning of the tick that ends in row `began` to a moment."""
    return Reading(e.at(moment) - float(e.time[began - 1]), (began - 1, moment.row), moment.row - began + 1)


def _first(rows: BoolArray, start: int, end: int) -> int | None:
    """The first of the rows from `start` to `end` that is true."""
    found = np.flatnonzero(rows[start : end + 1])
    return start + int(found[0]) if len(found) else None


@_measure(
    "time_to_top_speed", "Time to top speed", "s",
    "From the push of a direction, at rest, to 99 % of top speed: of the first run that gets there.",
    "no run from rest gets there before it is let go or turned", wishable=True,
)  # fmt: skip
def _time_to_top_speed(e: Evidence) -> Reading | None:
    level = NEARLY * e.top_speed
    if level == 0:
        return None
    for start, end in e.runs():
        reached = _first(e.speed >= level - SLACK, start, end)
        if reached is not None and e.speed[start - 1] <= (1 - NEARLY) * e.top_speed + SLACK:
            return _time(e, start, e.when(e.speed, reached, level, rising=True))
    return None


def _stop(e: Evidence) -> tuple[int, Moment] | None:
    """The row of the first release at top speed whose stop the take shows, and when 1 % is left."""
    fast, slow = NEARLY * e.top_speed, (1 - NEARLY) * e.top_speed
    for row in (np.flatnonzero(e.pushed[:-1] & ~e.pushed[1:]) + 1).tolist():
        if e.top_speed == 0 or e.speed[row - 1] < fast - SLACK:
            continue
        again = _first(e.pushed, row, len(e.time) - 1)
        stopped = _first(e.speed <= slow + SLACK, row, len(e.time) - 1 if again is None else again - 1)
        if stopped is not None:
            return row, e.when(e.speed, stopped, slow, rising=False)
    return None


@_measure(
    "stopping_time", "Stopping time", "s", "From the first release at top speed until 1 % of it is left.",
    "no run at 99 % of top speed is let go and comes to a stop before the hands push again", wishable=True,
)  # fmt: skip
def _stopping_time(e: Evidence) -> Reading | None:
    found = _stop(e)
    return None if found is None else _time(e, *found)


@_measure(
    "stopping_distance",
    "Stopping distance",
    "u",
    "Way from that release to that stop.",
    "as the stopping time",
    wishable=True,
)
def _stopping_distance(e: Evidence) -> Reading | None:
    found = _stop(e)
    if found is None:
        return None
    row, moment = found
    ways = [
        float(column[moment.row - 1] - column[row - 1]) + e.way(axis, moment)
        for axis, column in enumerate((e.x, e.y))
        if axis == 0 or not e.side
    ]
    return Reading(float(np.hypot(ways[0], ways[1] if len(ways) > 1 else 0.0)), (row - 1, moment.row))


@dataclass(frozen=True)
class _Turn:
    """A reversal out of a run at top speed: its first row, its last, the old direction, and the velocity along it by
    row."""

    row: int
    end: int
    way: tuple[float, float]
    along: FloatArray


def _turns(e: Evidence) -> list[_Turn]:
    """Every push against the motion of a body that the run before had brought to 99 % of top speed."""
    found, runs = [], list(e.runs())
    for (_, let_go), (row, end) in zip(runs, runs[1:], strict=False):
        vx, vy = float(e.vx[row - 1]), 0.0 if e.side else float(e.vy[row - 1])
        speed, push = float(np.hypot(vx, vy)), complex(e.pushes[row])
        fast = e.top_speed > 0 and e.speed[let_go] >= NEARLY * e.top_speed - SLACK and speed > SLACK
        if fast and vx * push.real + vy * push.imag < -0.5 * speed * abs(push):
            way = (vx / speed, vy / speed)
            found.append(_Turn(row, end, way, e.vx * way[0] + (0.0 if e.side else e.vy * way[1])))
    return found


@_measure(
    "turn_time", "Turn-round time", "s",
    "From the push against a run at top speed until 99 % of it the other way: of the first turn that gets there.",
    "no such turn gets there before it is let go or turned",
)  # fmt: skip
def _turn_time(e: Evidence) -> Reading | None:
    for turn in _turns(e):
        level = NEARLY * e.top_speed
        reached = _first(-turn.along >= level - SLACK, turn.row, turn.end)
        if reached is not None:
            return _time(
                e, turn.row, e.when(-turn.along, reached, level, axes=(-turn.way[0], -turn.way[1]), rising=True)
            )
    return None


@_measure(
    "turn_overshoot", "Turn-round overshoot", "u",
    "Way still gone in the old direction after the push against it: of the first turn that comes to a stand.",
    "no turn out of a run at top speed comes to a stand before it is let go or turned",
)  # fmt: skip
def _turn_overshoot(e: Evidence) -> Reading | None:
    for turn in _turns(e):
        still = _first(turn.along <= SLACK, turn.row, turn.end)
        if still is None:
            continue
        ux, uy = turn.way
        gone = (e.x - e.x[turn.row - 1]) * ux + (0.0 if e.side else (e.y - e.y[turn.row - 1]) * uy)
        # Within the tick of the stand the body may be farther than at either end of it.
        moments = [Moment(still, part / PARTS) for part in range(1, PARTS)] if e.inside is not None else []
        ways = [
            float(gone[still - 1]) + e.way(0, moment) * ux + (0.0 if e.side else e.way(1, moment) * uy)
            for moment in moments
        ]
        return Reading(max(0.0, float(gone[turn.row - 1 : still + 1].max()), *ways), (turn.row - 1, still))
    return None


@_measure(
    "top_speed_reached", "Top speed reached", "u/s", "Greatest speed along the driven axes.", "the hands push nothing"
)
def _top_speed_reached(e: Evidence) -> Reading | None:
    if not e.pushed.any():
        return None
    row = int(np.argmax(e.speed))
    return Reading(float(e.speed[row]), (row, row))


def _steady(e: Evidence, tilt: int) -> Reading | None:
    """The greatest speed at which a stretch of full pushes of this kind ends steady, clear of walls."""
    pushes = np.where(e.tilts == tilt, e.pushes, 0)
    change = np.abs(np.diff(e.speed, prepend=0.0))
    same = np.append(False, np.abs(np.diff(pushes)) <= SLACK)
    steady = (
        (pushes != 0) & same & np.roll(same, 1) & (change <= STEADY * e.speed) & (e.speed > 0) & ((e.marks & WALL) == 0)
    )
    if not steady.any():
        return None
    row = int(np.argmax(np.where(steady, e.speed, -1.0)))
    return Reading(float(e.speed[row]), (row - 1, row))


@_measure(
    "straight_speed", "Straight speed", "u/s", "Steady speed under a full push along one axis, the greatest.",
    "no such push lasts until the speed is steady", views=TOP,
)  # fmt: skip
def _straight_speed(e: Evidence) -> Reading | None:
    return _steady(e, 1)


@_measure(
    "diagonal_speed", "Diagonal speed", "u/s", "Steady speed under a full push along both axes, the greatest.",
    "no such push lasts until the speed is steady", views=TOP,
)  # fmt: skip
def _diagonal_speed(e: Evidence) -> Reading | None:
    return _steady(e, 2)


@_measure(
    "diagonal_ratio", "Diagonal to straight", "×", "Diagonal speed over straight speed.", "one of the two is", views=TOP
)
def _diagonal_ratio(e: Evidence) -> Reading | None:
    straight, diagonal = _straight_speed(e), _diagonal_speed(e)
    if straight is None or diagonal is None:
        return None
    rows = (*straight.rows, *diagonal.rows)
    return Reading(diagonal.value / straight.value, (min(rows), max(rows)))


# Jumping

_NO_JUMP = "no jump off the ground goes to its landing without another launch or a net"


@_measure(
    "jump_height", "Jump height", "u",
    "Rise of the first whole jump, from the feet at the launch to the highest point of the path.", _NO_JUMP,
    views=SIDE, is_height=True, wishable=True,
)  # fmt: skip
def _jump_height(e: Evidence) -> Reading | None:
    return None if e.jump is None else Reading(e.jump.height, (e.jump.row - 1, e.jump.landing))


@_measure(
    "time_to_apex", "Time to apex", "s",
    "From the launch of that jump until the body stops rising, or its head meets a ceiling.", _NO_JUMP,
    views=SIDE, wishable=True,
)  # fmt: skip
def _time_to_apex(e: Evidence) -> Reading | None:
    if e.jump is None or e.jump.apex is None:
        return None
    return _time(e, e.jump.row, e.jump.apex)


@_measure(
    "air_time", "Air time", "s", "From the launch of that jump until the feet touch the ground.", _NO_JUMP, views=SIDE
)
def _air_time(e: Evidence) -> Reading | None:
    return None if e.jump is None else _time(e, e.jump.row, e.jump.touch)


@_measure("jump_distance", "Jump distance", "u", "Way along the ground in the air time.", _NO_JUMP, views=SIDE)
def _jump_distance(e: Evidence) -> Reading | None:
    if e.jump is None:
        return None
    touch = e.jump.touch
    gone = float(e.x[touch.row - 1] - e.x[e.jump.row - 1]) + e.way(0, touch)
    return Reading(abs(gone), (e.jump.row - 1, touch.row))


@_measure(
    "landing_speed",
    "Fall speed at landing",
    "u/s",
    "Downward speed of that jump as the feet touch the ground.",
    _NO_JUMP,
    views=SIDE,
)
def _landing_speed(e: Evidence) -> Reading | None:
    return None if e.jump is None else Reading(e.jump.landing_speed, (e.jump.landing - 1, e.jump.landing))


@_measure(
    "lowest_hop",
    "Lowest hop",
    "u",
    "Rise of the lowest whole jump: the tap.",
    _NO_JUMP,
    views=SIDE,
    is_height=True,
    wishable=True,
)
def _lowest_hop(e: Evidence) -> Reading | None:
    if not e.jumps:
        return None
    jump = min(e.jumps, key=lambda jump: jump.height)
    return Reading(jump.height, (jump.row - 1, jump.landing))


@_measure(
    "highest_hop",
    "Highest hop",
    "u",
    "Rise of the highest whole jump: the full hold.",
    _NO_JUMP,
    views=SIDE,
    is_height=True,
)
def _highest_hop(e: Evidence) -> Reading | None:
    if not e.jumps:
        return None
    jump = max(e.jumps, key=lambda jump: jump.height)
    return Reading(jump.height, (jump.row - 1, jump.landing))


@_measure(
    "air_jump_height", "Height with air jumps", "u",
    "Rise of the first jump off the ground that goes on with jumps in the air, over all of them.",
    "no such jump goes to its landing", views=SIDE, is_height=True,
)  # fmt: skip
def _air_jump_height(e: Evidence) -> Reading | None:
    jump = next((flight for flight in e.flights if flight.air_launches and not flight.off_net), None)
    return None if jump is None else Reading(jump.height, (jump.row - 1, jump.landing))


@_measure(
    "net_jump_height",
    "Jump off a net",
    "u",
    "Rise of the first jump off a net.",
    "none goes to its landing",
    views=SIDE,
    is_height=True,
    wishable=True,
)
def _net_jump_height(e: Evidence) -> Reading | None:
    jump = next((flight for flight in e.flights if flight.off_net), None)
    return None if jump is None else Reading(jump.height, (jump.row - 1, jump.landing))


# Input, grace and the rest


def _first_hands(e: Evidence) -> int | None:
    """The row of the first thing the hands do that drives something: a push, from the side a press of jump, or holding
    on to a net."""
    acts = e.pushed | ((e.marks & (PRESS | CLIMB_ON)) != 0 if e.side else False)
    return _first(acts, 1, len(e.time) - 1)


def _ticks_until(e: Evidence, along: FloatArray, up: FloatArray) -> Reading | None:
    """Ticks from the first hands to the first change; latency delays only what the tune makes of them."""
    first = _first_hands(e)
    if first is None:
        return None
    still = not e.side or e.trace["state"][first - 1] in (GROUND, CLIMB)
    changed = np.append(False, (np.diff(along) != 0) | ((np.diff(up) != 0) & still))
    row = _first(changed, first, len(e.time) - 1)
    if row is None:
        return None
    ticks = row - first + e.tune.input.latency
    return Reading(float(ticks), (first - 1, row), ticks)


@_measure(
    "press_to_velocity", "Press to speed", "ticks",
    "Ticks that pass between the first push or press and a change of velocity; 0 is in the same tick.",
    "the hands drive nothing, or nothing changes",
)  # fmt: skip
def _press_to_velocity(e: Evidence) -> Reading | None:
    return _ticks_until(e, e.vx, e.vy)


@_measure(
    "press_to_position", "Press to motion", "ticks",
    "Ticks that pass between the first push or press and a change of position; 0 is in the same tick.",
    "the hands drive nothing, or nothing changes",
)  # fmt: skip
def _press_to_position(e: Evidence) -> Reading | None:
    return _ticks_until(e, e.x, e.y)


def _spare(e: Evidence, mark: int, window: float, timer: str) -> Reading | None:
    row = _first((e.marks & mark) != 0, 1, len(e.time) - 1)
    return None if row is None else Reading(max(0.0, window - float(e.trace[timer][row - 1])), (row - 1, row))


@_measure(
    "coyote_spare", "Coyote time to spare", "s", "How much of the coyote time was left at the first launch in it.",
    "no launch happens in coyote time", views=SIDE,
)  # fmt: skip
def _coyote_spare(e: Evidence) -> Reading | None:
    return _spare(e, COYOTE_LAUNCH, e.tune.jump.coyote, "since_ground")


@_measure(
    "buffer_spare",
    "Jump buffer to spare",
    "s",
    "How much of the jump buffer was left at the first buffered launch.",
    "no launch is buffered",
    views=SIDE,
)
def _buffer_spare(e: Evidence) -> Reading | None:
    return _spare(e, BUFFERED_LAUNCH, e.tune.jump.buffer, "since_press")


@_measure(
    "peak_acceleration",
    "Peak acceleration",
    "u/s²",
    "Greatest change of the driven velocity per second, but for the stop at a wall.",
    "the hands push nothing",
)
def _peak_acceleration(e: Evidence) -> Reading | None:
    if not e.pushed.any():
        return None
    ax, ay = e.trace["ax"], e.trace["ay"]
    size = np.where((e.marks & WALL) == 0, np.abs(ax) if e.side else np.hypot(ax, ay), 0.0)
    row = int(np.argmax(size))
    return Reading(float(size[row]), (max(0, row - 1), row))


@_measure(
    "camera_distance", "Camera, farthest", "u",
    "Greatest distance of the body from the camera.",
    "the camera never leaves the body",
)  # fmt: skip
def _camera_distance(e: Evidence) -> Reading | None:
    if e.trace.logged:
        return None
    away = np.hypot(e.trace["screen_x"], e.trace["screen_y"])
    row = int(np.argmax(away))
    return Reading(float(away[row]), (row, row)) if away[row] > SLACK else None


@_measure(
    "camera_rest", "Camera at rest after", "s",
    "Time from when the body has come to rest until the camera has, but for 1 % of the way that it had left.",
    "one of the two does not come to rest, or the camera has no way left",
)  # fmt: skip
def _camera_rest(e: Evidence) -> Reading | None:
    camera_x, camera_y = e.trace["camera_x"], e.trace["camera_y"]
    moves = np.flatnonzero((np.diff(e.x) != 0) | (np.diff(e.y) != 0))
    if e.trace.logged or not len(moves) or moves[-1] + 2 >= len(e.time):
        return None
    still = int(moves[-1]) + 1
    left = np.hypot(camera_x - camera_x[-1], camera_y - camera_y[-1])
    if left[still] <= SLACK or left[-2] > CAMERA_STILL * left[still]:
        return None
    far = np.flatnonzero(left[still:] > CAMERA_NEAR * left[still])
    row = min(still + int(far[-1]) + 1, len(e.time) - 1)
    return Reading(float(e.time[row] - e.time[still]), (still, row), row - still)


@_measure("deepest_overlap", "Deepest overlap", "u", "How deep the body was in a solid.", "it never was in one")
def _deepest_overlap(e: Evidence) -> Reading | None:
    row = int(np.argmax(e.trace["overlap"]))
    deepest = float(e.trace["overlap"][row])
    return Reading(deepest, (row, row)) if deepest > 0 else None


@_measure(
    "lost_presses",
    "Lost presses",
    "",
    "Presses of jump that came to nothing: expired unused, or never seen by a tick.",
    "jump is not pressed",
    views=SIDE,
)
def _lost_presses(e: Evidence) -> Reading | None:
    if e.trace.logged:
        return None
    pressed = _presses(e.trace.drill.take.keys.jump, e.trace.drill.take.length)
    if not pressed:
        return None
    seen = int(np.count_nonzero(schedule(e.trace.drill.take, e.trace.clock).hands["pressed"]))
    lost = e.trace.rows_with(LOST_PRESS)
    return Reading(
        float(max(0, pressed - seen) + len(lost)), (int(lost[0]), int(lost[0])) if len(lost) else (0, len(e.time) - 1)
    )


def _presses(lane: tuple[Press, ...], length: int) -> int:
    """How often jump goes down within the take: presses that touch or overlap are one."""
    held = np.zeros(length + 1, dtype=bool)
    for start, end in lane:
        held[start + 1 : end + 1] = True
    return int(np.count_nonzero(held[1:] & ~held[:-1]))
