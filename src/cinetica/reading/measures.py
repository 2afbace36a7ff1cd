"""Measures: figures read from a run.

Each is declared once, by decorating the function that reads it: label, unit, from which event to which, and when it is
absent; the sheet, the command line, reports and the table of docs/model.md follow. Times are exact within a tick, so
that they change smoothly while a number is dragged; whole ticks are given beside them. A measure is absent where the
drill does not show it.

The functions are compiled like the kernel's, so that a survey can read thousands of runs during a drag; they are called
by `reading_off.py`.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

from cinetica.model.tune import Tune
from cinetica.model.value_text import COUNTED, reading_text
from cinetica.motion.compiling import apart
from cinetica.motion.contact import extents, touches_any
from cinetica.motion.intent import length
from cinetica.motion.jump import buffer_left, coyote_left
from cinetica.motion.records import (
    AIR_LAUNCH,
    AT_WALL,
    BUFFERED_LAUNCH,
    CLIMB,
    CLIMB_ON,
    COYOTE_LAUNCH,
    DASH,
    DASH_END,
    FALL,
    GROUND,
    LAND,
    LAUNCH,
    LOST_PRESS,
    PRESS,
    SHOVE,
    SLACK,
    WALL,
    WALL_LAUNCH,
)
from cinetica.reading.evidence import (
    NEARLY,
    apex_of,
    height_of,
    jumps_on,
    landing_speed_of,
    next_flight,
    next_jump,
    next_run,
    off_net,
    pushed,
    touch_of,
    turn_after,
)
from cinetica.reading.facts import hand_at, push_at, row_at, tune_at
from cinetica.reading.pose_steps import RISING, RUN, WALK, begin_poses, next_pose
from cinetica.reading.press_outcomes import has_no_effect, launches
from cinetica.reading.subtick import along_or_speed, before, distance_moved, ground_per_x, speed_at, time_at, when

# A speed that changes by less than this share of itself in a tick is steady.
STEADY = 1e-4
# Samples within a tick, to find what happens neither at its beginning nor at its end.
PARTS = 50
# A camera has come to rest when this share is left of the way that it had to go when the body came to rest. It is only
# known to rest if it moves by less than the second number in the last tick.
CAMERA_NEAR, CAMERA_STILL = 0.01, 0.001

# The result of a measure's function: whether the run shows it, its value, the first and last row it was taken from, and
# its whole ticks where it is a time, else NO_TICKS.
Figure = tuple[bool, float, int, int, int]
NO_TICKS = -1
ABSENT = (False, 0.0, 0, 0, NO_TICKS)


class Reading(NamedTuple):
    """A figure in the measure's unit, the rows (first, last) that it comes from and, for a time, its whole ticks."""

    value: float
    rows: tuple[int, int]
    ticks: int | None = None


@dataclass(frozen=True)
class Measure:
    """One figure: its id, label, unit, meaning, when it is absent, and the views that have it."""

    id: str
    label: str
    unit: str
    meaning: str
    absent: str
    views: tuple[str, ...]
    # Of the facts of a run (`subtick.Facts`), compiled.
    read: Callable[[Any], Figure]
    # Whether it can be typed over: `goal_seek.seek` then finds the numbers behind it.
    seekable: bool = False
    # Whether it is a height, which is shown in body heights; other lengths are shown in body widths.
    is_height: bool = False
    # Whether it needs to know what the input pushes (`evidence.note_pushes`).
    of_hands: bool = False
    # Whether it describes the tune rather than a run, and is slow, or the poses rather than the motion. It is read only
    # where it is asked for or has a target on the drill.
    on_request: bool = False

    def text(self, value: float) -> str:
        """A value of it as text; one without a unit is a count."""
        return reading_text(value, self.unit or COUNTED[0])

    @property
    def body_unit(self) -> str:
        """The unit when lengths are counted in bodies."""
        return self.unit if self.unit != "u" else "heights" if self.is_height else "widths"

    def body(self, tune: Tune) -> float:
        """The size of that unit in the measure's own, for a tune."""
        return 1.0 if self.unit != "u" else tune.body.height if self.is_height else tune.body.width


MEASURES: list[Measure] = []
SIDE, TOP = ("side",), ("top",)
Read = Callable[[Any], Figure]


def _measure(
    id: str,
    label: str,
    unit: str,
    meaning: str,
    absent: str,
    *,
    views: tuple[str, ...] = ("side", "top"),
    seekable: bool = False,
    is_height: bool = False,
    of_hands: bool = False,
    on_request: bool = False,
) -> Callable[[Read], Read]:
    def declare(read: Read) -> Read:
        function = apart(read)
        made = Measure(id, label, unit, meaning, absent, views, function, seekable, is_height, of_hands, on_request)
        MEASURES.append(made)
        return function

    return declare


# Running


@apart
def _since(f, began, row, share):
    """The time from the start of the tick that ends in row `began` to a moment."""
    return True, time_at(f, row, share) - row_at(f, began - 1).time, began - 1, row, row - began + 1


@_measure(
    "time_to_top_speed", "Time to top speed", "s",
    "From the first push at rest to 99% of top speed, in the first run that gets there.",
    "no run from rest gets there before the push ends or turns", seekable=True, of_hands=True,
)  # fmt: skip
def _time_to_top_speed(f):
    top = tune_at(f, 0).top_speed
    start, end = next_run(f, 1)
    while start != 0 and top > 0.0:
        if speed_at(f, start - 1) <= (1.0 - NEARLY) * top + SLACK:
            for row in range(start, end + 1):
                if speed_at(f, row) >= NEARLY * top - SLACK:
                    return _since(f, start, row, when(f, row, NEARLY * top, 1.0, False, 0.0, 0.0))
        start, end = next_run(f, end + 1)
    return ABSENT


@apart
def _stop(f):
    """The first release at top speed after which the take shows the body stop.

    Returns its row, the row in which 1% of the speed is left, and the share of that tick; row 0 if there is none.
    """
    top, count = tune_at(f, 0).top_speed, f.n.count
    if top > 0.0:
        for row in range(1, count):
            let_go = pushed(f, row - 1) and not pushed(f, row)
            if let_go and speed_at(f, row - 1) >= NEARLY * top - SLACK:
                k = row
                while k < count and not pushed(f, k) and not row_at(f, k).marks & WALL:
                    if speed_at(f, k) <= (1.0 - NEARLY) * top + SLACK:
                        return row, k, when(f, k, (1.0 - NEARLY) * top, -1.0, False, 0.0, 0.0)
                    k += 1
    return 0, 0, 0.0


@_measure(
    "stopping_time", "Stopping time", "s", "From the first release at top speed until 1% of the speed is left.",
    "no run at 99% of top speed is released and stops by itself before the next push",
    seekable=True, of_hands=True,
)  # fmt: skip
def _stopping_time(f):
    row, end, share = _stop(f)
    if row == 0:
        return ABSENT
    return _since(f, row, end, share)


@apart
def _gone(f, start, row, ux, uy):
    """Distance along a direction since before row `start`; from the side along the ground."""
    here, there = row_at(f, row), row_at(f, start - 1)
    if f.n.slopes == 0 or not f.n.side:
        return (here.x - there.x) * ux + (here.y - there.y) * uy
    way = 0.0
    for k in range(start, row + 1):
        way += (row_at(f, k).x - row_at(f, k - 1).x) * ux * ground_per_x(f, k)
    return way


@_measure(
    "stopping_distance",
    "Stopping distance",
    "u",
    "Distance along the ground from that release to the stop.",
    "as the stopping time",
    seekable=True,
    of_hands=True,
)
def _stopping_distance(f):
    row, end, share = _stop(f)
    if row == 0:
        return ABSENT
    if f.n.side:
        way = _gone(f, row, end - 1, 1.0, 0.0) + distance_moved(f, 0, end, share) * ground_per_x(f, end)
        return True, abs(way), row - 1, end, NO_TICKS
    near, start = row_at(f, end - 1), row_at(f, row - 1)
    x = near.x - start.x + distance_moved(f, 0, end, share)
    y = near.y - start.y + distance_moved(f, 1, end, share)
    return True, length(x, y), row - 1, end, NO_TICKS


@apart
def _along(f, row, ux, uy):
    """Velocity of a row along a direction; from the side along the ground."""
    return along_or_speed(f, row, row_at(f, row).vx, row_at(f, row).vy, True, ux, uy)


@_measure(
    "turn_time", "Turn-round time", "s",
    "From the push against a run at top speed (99%) to 99% of it the other way, in the first turn that gets there.",
    "no push comes against a run at top speed (a gap between the keys costs speed), or the turn does not get there",
    of_hands=True,
)  # fmt: skip
def _turn_time(f):
    level = NEARLY * tune_at(f, 0).top_speed
    start, end, ux, uy = turn_after(f, 0)
    while start != 0:
        for row in range(start, end + 1):
            if -_along(f, row, ux, uy) >= level - SLACK:
                return _since(f, start, row, when(f, row, level, 1.0, True, -ux, -uy))
        start, end, ux, uy = turn_after(f, start)
    return ABSENT


@_measure(
    "turn_overshoot", "Turn-round overshoot", "u",
    "Distance still covered in the old direction after the push against it, in the first turn that stops.",
    "no push comes against a run at top speed (a gap between the keys costs speed), or the body never stops",
    of_hands=True,
)  # fmt: skip
def _turn_overshoot(f):
    start, end, ux, uy = turn_after(f, 0)
    while start != 0:
        for still in range(start, end + 1):
            if _along(f, still, ux, uy) > SLACK:
                continue
            most = 0.0
            for row in range(start - 1, still + 1):
                most = max(most, _gone(f, start, row, ux, uy))
            # Within the tick of the stand the body may be farther than at either end of it.
            for part in range(1, 1 if f.n.logged else PARTS):
                share = part / PARTS
                way = distance_moved(f, 0, still, share) * ux * ground_per_x(f, still)
                if uy != 0.0:
                    way += distance_moved(f, 1, still, share) * uy
                most = max(most, _gone(f, start, still - 1, ux, uy) + way)
            return True, most, start - 1, still, NO_TICKS
        start, end, ux, uy = turn_after(f, start)
    return ABSENT


@apart
def _pushes(f):
    """Whether the input pushes anything at all."""
    for row in range(f.n.count):
        if pushed(f, row):
            return True
    return False


@_measure(
    "top_speed_reached",
    "Top speed reached",
    "u/s",
    "Greatest speed along the driven axes; on a slope, along it.",
    "nothing is pushed",
    of_hands=True,
)
def _top_speed_reached(f):
    if not _pushes(f):
        return ABSENT
    best, most = 0, speed_at(f, 0)
    for row in range(1, f.n.count):
        speed = speed_at(f, row)
        if speed > most + SLACK:
            best, most = row, speed
    return True, most, best, best, NO_TICKS


@apart
def _same_push(f, row, tilt):
    """Whether the input pushes fully, and in the same way as in the row before."""
    x, y = (push_at(f, row).x, push_at(f, row).y) if push_at(f, row).tilt == tilt else (0.0, 0.0)
    x0, y0 = (push_at(f, row - 1).x, push_at(f, row - 1).y) if push_at(f, row - 1).tilt == tilt else (0.0, 0.0)
    return length(x - x0, y - y0) <= SLACK


@apart
def _steady(f, tilt):
    """The greatest speed at which a stretch of full pushes of this kind ends steady, away from walls."""
    best, most = 0, 0.0
    for row in range(2, f.n.count):
        if push_at(f, row).tilt != tilt or row_at(f, row).marks & WALL or not pushed(f, row):
            continue
        speed = speed_at(f, row)
        if speed > most + SLACK and abs(speed - speed_at(f, row - 1)) <= STEADY * speed:
            if _same_push(f, row, tilt) and _same_push(f, row - 1, tilt):
                best, most = row, speed
    if best == 0:
        return ABSENT
    return True, most, best - 1, best, NO_TICKS


@_measure(
    "straight_speed", "Straight speed", "u/s", "Steady speed under a full push along one axis, the greatest one.",
    "no such push lasts until the speed is steady", views=TOP, of_hands=True,
)  # fmt: skip
def _straight_speed(f):
    return _steady(f, 1)


@_measure(
    "diagonal_speed", "Diagonal speed", "u/s", "Steady speed under a full push along both axes, the greatest one.",
    "no such push lasts until the speed is steady", views=TOP, of_hands=True,
)  # fmt: skip
def _diagonal_speed(f):
    return _steady(f, 2)


@_measure(
    "diagonal_ratio",
    "Diagonal to straight",
    "×",
    "Diagonal speed over straight speed.",
    "one of the two is",
    views=TOP,
    of_hands=True,
)
def _diagonal_ratio(f):
    shown, straight, first, last, _ = _steady(f, 1)
    too, diagonal, start, end, _ = _steady(f, 2)
    if not (shown and too):
        return ABSENT
    return True, diagonal / straight, min(first, start), max(last, end), NO_TICKS


# Jumping

_NO_JUMP = "no jump off the ground reaches its landing without another launch or a net"


@_measure(
    "jump_height", "Jump height", "u",
    "Rise of the first complete jump, from the feet at launch to the highest point of the path.", _NO_JUMP,
    views=SIDE, is_height=True, seekable=True,
)  # fmt: skip
def _jump_height(f):
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    return True, height_of(f, launch, landing), launch - 1, landing, NO_TICKS


@_measure(
    "time_to_apex", "Time to apex", "s",
    "From the launch of that jump until the body stops rising, or its head hits a ceiling.", _NO_JUMP,
    views=SIDE, seekable=True,
)  # fmt: skip
def _time_to_apex(f):
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    row, share = apex_of(f, launch, landing)
    if row == 0:
        return ABSENT
    return _since(f, launch, row, share)


@_measure(
    "air_time", "Air time", "s", "From the launch of that jump until the feet touch the ground.", _NO_JUMP, views=SIDE
)
def _air_time(f):
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    return _since(f, launch, landing, touch_of(f, landing))


@_measure("jump_distance", "Jump distance", "u", "Distance along the ground during the air time.", _NO_JUMP, views=SIDE)
def _jump_distance(f):
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    gone = row_at(f, landing - 1).x - row_at(f, launch - 1).x + distance_moved(f, 0, landing, touch_of(f, landing))
    return True, abs(gone), launch - 1, landing, NO_TICKS


@_measure(
    "landing_speed",
    "Fall speed at landing",
    "u/s",
    "Downward speed of that jump as the feet touch the ground.",
    _NO_JUMP,
    views=SIDE,
)
def _landing_speed(f):
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    return True, landing_speed_of(f, landing), landing - 1, landing, NO_TICKS


@apart
def _extreme_hop(f, sign):
    """The lowest (sign -1) or highest (1) of all complete jumps; the first of equals."""
    launch, landing = f.n.jump, f.n.landing
    if launch == 0:
        return ABSENT
    best, first, last = height_of(f, launch, landing), launch, landing
    launch, landing = next_jump(f, launch)
    while launch != 0:
        height = height_of(f, launch, landing)
        if sign * height > sign * best:
            best, first, last = height, launch, landing
        launch, landing = next_jump(f, launch)
    return True, best, first - 1, last, NO_TICKS


@_measure(
    "lowest_hop",
    "Lowest hop",
    "u",
    "Rise of the lowest complete jump: the tap.",
    _NO_JUMP,
    views=SIDE,
    is_height=True,
    seekable=True,
)
def _lowest_hop(f):
    return _extreme_hop(f, -1.0)


@_measure(
    "highest_hop",
    "Highest hop",
    "u",
    "Rise of the highest complete jump: the full hold.",
    _NO_JUMP,
    views=SIDE,
    is_height=True,
)
def _highest_hop(f):
    return _extreme_hop(f, 1.0)


@_measure(
    "air_jump_height", "Height with air jumps", "u",
    "Rise of the first jump off the ground that continues with air jumps, all of them together.",
    "no such jump reaches its landing", views=SIDE, is_height=True,
)  # fmt: skip
def _air_jump_height(f):
    launch, landing = next_flight(f, 0)
    while launch != 0:
        if jumps_on(f, launch, landing) and not off_net(f, launch):
            return True, height_of(f, launch, landing), launch - 1, landing, NO_TICKS
        launch, landing = next_flight(f, launch)
    return ABSENT


@_measure(
    "net_jump_height",
    "Jump off a net",
    "u",
    "Rise of the first jump off a net.",
    "no such jump reaches its landing",
    views=SIDE,
    is_height=True,
    seekable=True,
)
def _net_jump_height(f):
    launch, landing = next_flight(f, 0)
    while launch != 0:
        if off_net(f, launch):
            return True, height_of(f, launch, landing), launch - 1, landing, NO_TICKS
        launch, landing = next_flight(f, launch)
    return ABSENT


# Input, grace and the rest


@apart
def _first_hands(f):
    """The first row whose input drives something; 0 if there is none.

    That is a push or, from the side, a press of jump or grabbing a net.
    """
    for row in range(1, f.n.count):
        if pushed(f, row) or (f.n.side and row_at(f, row).marks & (PRESS | CLIMB_ON)):
            return row
    return 0


@apart
def _ticks_until(f, of_speed):
    """Ticks from the first input to the first change of speed, or of position.

    Latency delays only how the tune responds.
    """
    first = _first_hands(f)
    if first == 0:
        return ABSENT
    state = row_at(f, first - 1).state
    still = not f.n.side or state in (GROUND, CLIMB)
    for row in range(first, f.n.count):
        end, start = row_at(f, row), row_at(f, row - 1)
        if of_speed:
            changes = end.vx != start.vx or (still and end.vy != start.vy)
        else:
            changes = end.x != start.x or (still and end.y != start.y)
        if changes:
            ticks = row - first + tune_at(f, 0).latency
            return True, float(ticks), first - 1, row, ticks
    return ABSENT


@_measure(
    "press_to_velocity", "Input delay to speed", "ticks",
    "Ticks between the first push or press and a change of velocity; 0: in the same tick.",
    "the input drives nothing, or nothing changes", of_hands=True,
)  # fmt: skip
def _press_to_velocity(f):
    return _ticks_until(f, True)


@_measure(
    "press_to_position", "Input delay to motion", "ticks",
    "Ticks between the first push or press and a change of position; 0: in the same tick.",
    "the input drives nothing, or nothing changes", of_hands=True,
)  # fmt: skip
def _press_to_position(f):
    return _ticks_until(f, False)


@apart
def _first_marked(f, mark):
    """The first row with a mark, 0 if there is none."""
    for row in range(1, f.n.count):
        if row_at(f, row).marks & mark:
            return row
    return 0


@_measure(
    "coyote_spare", "Coyote time to spare", "s", "How much coyote time was left at the first launch that used it.",
    "no launch uses coyote time", views=SIDE,
)  # fmt: skip
def _coyote_spare(f):
    row = _first_marked(f, COYOTE_LAUNCH)
    if row == 0:
        return ABSENT
    return True, max(0.0, coyote_left(row_at(f, row - 1).since_ground, tune_at(f, 0))), row - 1, row, NO_TICKS


@_measure(
    "buffer_spare",
    "Jump buffer to spare",
    "s",
    "How much of the jump buffer was left at the first buffered launch.",
    "no launch is buffered",
    views=SIDE,
)
def _buffer_spare(f):
    row = _first_marked(f, BUFFERED_LAUNCH)
    if row == 0:
        return ABSENT
    return True, max(0.0, buffer_left(row_at(f, row - 1).since_press, tune_at(f, 0))), row - 1, row, NO_TICKS


@_measure(
    "frames_that_work", "Frames that work", "frames",
    "By how many frames the first press of jump may come earlier or later, all in all, and still launch; up to 30"
    " each way.",
    "jump is not pressed, or its first press has no effect", views=SIDE,
)  # fmt: skip
def _frames_that_work(f):
    middle = f.n.shifts // 2
    if f.n.shifts == 0 or f.shift_rows[middle] == 0:
        return ABSENT
    # From the earliest on: until its own press, a later one moves in the same way.
    first = f.n.count - 1
    for place in range(f.n.shifts):
        if f.shift_rows[place] > 0:
            first = min(first, f.shift_rows[place])
    before(f, max(1, first))
    early, late = 0, -1
    for place in range(f.n.shifts):
        if launches(f, place):
            late = place
        elif place < middle:
            early = place + 1
        else:
            break
    f.n.kept = 0
    if late < middle:
        return ABSENT
    row = f.shift_rows[middle]
    return True, float(late - early + 1), max(0, row - 1), row, NO_TICKS


@apart
def _driven_change(f, row):
    """Change of the driven velocity in a tick, seen from the side, in u/s²."""
    end = row_at(f, row)
    if f.n.slopes == 0 or row == 0 or end.dt <= 0.0:
        return end.ax
    return (_along(f, row, 1.0, 0.0) - _along(f, row - 1, 1.0, 0.0)) / end.dt


@_measure(
    "peak_acceleration",
    "Peak acceleration",
    "u/s²",
    "Greatest change of the driven velocity per second, except for stops at walls.",
    "nothing is pushed",
    of_hands=True,
)
def _peak_acceleration(f):
    if not _pushes(f):
        return ABSENT
    best, most = 0, 0.0
    for row in range(f.n.count):
        end = row_at(f, row)
        slides = f.n.side and end.state == FALL and end.ground_angle != 0.0
        size = abs(_driven_change(f, row)) if f.n.side else length(end.ax, end.ay)
        if size > most + SLACK and not end.marks & WALL and not slides:
            best, most = row, size
    return True, most, max(0, best - 1), best, NO_TICKS


@_measure(
    "camera_distance", "Camera distance", "u",
    "Greatest distance of the body from the camera.",
    "the camera never leaves the body",
)  # fmt: skip
def _camera_distance(f):
    best, most = 0, 0.0
    for row in range(f.n.count):
        end = row_at(f, row)
        away = length(end.x - end.camera_x, end.y - end.camera_y)
        if away > most + SLACK:
            best, most = row, away
    if f.n.logged or most <= SLACK:
        return ABSENT
    return True, most, best, best, NO_TICKS


@apart
def _camera_left(f, row):
    """Distance of the camera from its final position."""
    here, end = row_at(f, row), row_at(f, f.n.count - 1)
    return length(here.camera_x - end.camera_x, here.camera_y - end.camera_y)


@_measure(
    "camera_rest", "Camera at rest after", "s",
    "Time from when the body comes to rest until the camera has covered all but 1% of its remaining distance.",
    "one of the two never rests, or the camera has no distance left",
)  # fmt: skip
def _camera_rest(f):
    count, still = f.n.count, 0
    for row in range(1, count):
        if row_at(f, row).x != row_at(f, row - 1).x or row_at(f, row).y != row_at(f, row - 1).y:
            still = row
    if f.n.logged or still == 0 or still + 1 >= count:
        return ABSENT
    left = _camera_left(f, still)
    if left <= SLACK or _camera_left(f, count - 2) > CAMERA_STILL * left:
        return ABSENT
    row = count - 1
    while row > still and _camera_left(f, row - 1) <= CAMERA_NEAR * left:
        row -= 1
    return True, row_at(f, row).time - row_at(f, still).time, still, row, row - still


@_measure("deepest_overlap", "Deepest overlap", "u", "How deep the body was inside a solid.", "it never was inside one")
def _deepest_overlap(f):
    best, most = 0, 0.0
    for row in range(f.n.count):
        if row_at(f, row).overlap > most:
            best, most = row, row_at(f, row).overlap
    if most <= 0.0:
        return ABSENT
    return True, most, best, best, NO_TICKS


@_measure(
    "lost_presses",
    "Lost presses",
    "",
    "Presses of jump without effect: expired unused, or never seen by a tick.",
    "jump is not pressed",
    views=SIDE,
)
def _lost_presses(f):
    if f.n.logged or f.n.pressed == 0:
        return ABSENT
    lost, at, seen = 0, 0, 0
    for row in range(f.n.count):
        seen += 1 if hand_at(f, row).pressed else 0
        if row_at(f, row).marks & LOST_PRESS and has_no_effect(f, row):
            lost += 1
            if at == 0:
                at = row
    return True, float(max(0, f.n.pressed - seen) + lost), at, at if at != 0 else f.n.count - 1, NO_TICKS


# Walls, dashes, zones, and time without control


@apart
def _off_wall(f):
    """The first launch off a wall, and the last row before the body stands, dashes, climbs or launches again."""
    launch = _first_marked(f, WALL_LAUNCH)
    if launch == 0:
        return 0, 0
    for row in range(launch + 1, f.n.count):
        if row_at(f, row).marks & (LAND | DASH | CLIMB_ON | AIR_LAUNCH | LAUNCH | WALL_LAUNCH | SHOVE):
            return launch, row
    return launch, f.n.count - 1


@_measure(
    "wall_jump_height", "Wall jump height", "u",
    "Rise of the first jump off a wall, until the body rises no more.",
    "no jump off a wall rises to its highest point", views=SIDE, is_height=True,
)  # fmt: skip
def _wall_jump_height(f):
    launch, end = _off_wall(f)
    if launch == 0:
        return ABSENT
    row, _ = apex_of(f, launch, end)
    if row == 0:
        return ABSENT
    return True, height_of(f, launch, row), launch - 1, row, NO_TICKS


@_measure(
    "wall_jump_way", "Wall jump distance", "u",
    "Greatest distance from the wall in the first jump off it, before the body lands or does something else.",
    "there is no jump off a wall", views=SIDE,
)  # fmt: skip
def _wall_jump_way(f):
    launch, end = _off_wall(f)
    if launch == 0:
        return ABSENT
    start, best, most = row_at(f, launch - 1).x, launch, 0.0
    for row in range(launch, end + 1):
        away = abs(row_at(f, row).x - start)
        if away > most:
            best, most = row, away
    return True, most, launch - 1, best, NO_TICKS


@_measure(
    "slide_speed_reached", "Wall slide speed", "u/s", "The fastest slide down a wall.", "nothing slides down a wall",
    views=SIDE,
)  # fmt: skip
def _slide_speed_reached(f):
    best, most = 0, 0.0
    for row in range(1, f.n.count):
        end = row_at(f, row)
        if end.state == AT_WALL and -end.vy > most + SLACK:
            best, most = row, -end.vy
    if best == 0:
        return ABSENT
    return True, most, best, best, NO_TICKS


@apart
def _first_dash(f):
    """The first and last row of the first dash."""
    first = _first_marked(f, DASH)
    last = first
    while first > 0 and last + 1 < f.n.count and not row_at(f, last + 1).marks & (DASH_END | DASH):
        last += 1
    return first, last


@_measure("dash_way", "Dash distance", "u", "Distance that the first dash goes.", "there is no dash")
def _dash_way(f):
    first, last = _first_dash(f)
    if first == 0:
        return ABSENT
    start, end = row_at(f, first - 1), row_at(f, last)
    return True, length(end.x - start.x, end.y - start.y), first - 1, last, NO_TICKS


@_measure("dash_duration", "Dash duration", "s", "How long the first dash lasts.", "there is no dash")
def _dash_duration(f):
    first, last = _first_dash(f)
    if first == 0:
        return ABSENT
    return True, row_at(f, last).time - row_at(f, first - 1).time, first - 1, last, last - first + 1


@_measure(
    "time_off_control", "Time without control", "s",
    "Time in which input does not move the body: stunned by a shove, or locked after a jump off a wall.",
    "it always has control",
)  # fmt: skip
def _time_off_control(f):
    p, total, first, last, ticks = tune_at(f, 0), 0.0, 0, 0, 0
    since_shove = since_jump = math.inf
    for row in range(1, f.n.count):
        end = row_at(f, row)
        # Counted as in the kernel: 0 in the tick itself; the ground ends the lock.
        since_shove = 0.0 if end.marks & SHOVE else since_shove + row_at(f, row - 1).dt
        since_jump = 0.0 if end.marks & WALL_LAUNCH else since_jump + row_at(f, row - 1).dt
        if since_shove < p.stun - SLACK or since_jump < p.wall_lock - SLACK:
            total, ticks, last = total + end.dt, ticks + 1, row
            first = row if first == 0 else first
        if end.state == GROUND:
            since_jump = math.inf
    if first == 0 or f.n.logged:
        return ABSENT
    return True, total, first - 1, last, ticks


@apart
def _is_in_zone(f, row):
    """Whether the body is in a zone at the end of a row."""
    p, here, zones = tune_at(f, 0), row_at(f, row), f.zones
    half, below, above = extents(p)
    return touches_any(zones, here.x - half, here.y - below, here.x + half, here.y + above)


@_measure("zone_way", "Distance in zones", "u", "Distance gone in ticks that begin in a zone.", "it is never in a zone")
def _zone_way(f):
    if f.n.zones == 0:
        return ABSENT
    total, first, last = 0.0, 0, 0
    for row in range(1, f.n.count):
        if _is_in_zone(f, row - 1):
            start, end = row_at(f, row - 1), row_at(f, row)
            total, last = total + length(end.x - start.x, end.y - start.y), row
            first = row if first == 0 else first
    if first == 0:
        return ABSENT
    return True, total, first - 1, last, NO_TICKS


# Poses


@apart
def _pose_until(f, row, end, pose):
    """The first row from `row` on, after which the poses have been followed, that changes the pose; `end` if none.

    With `pose` of at least 0, the first that shows it.
    """
    p = tune_at(f, 0)
    while row < end:
        before = f.n.pose
        next_pose(f.n, p, row_at(f, row))
        if (f.n.pose == pose) if pose >= 0 else (before >= 0 and f.n.pose != before):
            return row
        row += 1
    return end


@_measure(
    "pose_changes", "Changes of pose", "", "How often another pose is shown.", "the pose never changes",
    on_request=True,
)  # fmt: skip
def _pose_changes(f):
    begin_poses(f.n)
    count, first, last = 0, 0, 0
    row = _pose_until(f, 0, f.n.count, -1)
    while row < f.n.count:
        count, last = count + 1, row
        first = row if first == 0 else first
        row = _pose_until(f, row + 1, f.n.count, -1)
    if count == 0:
        return ABSENT
    return True, float(count), first, last, NO_TICKS


@_measure(
    "shortest_pose", "Shortest pose", "s", "The shortest time between two changes of pose.",
    "the pose changes less than twice", on_request=True,
)  # fmt: skip
def _shortest_pose(f):
    begin_poses(f.n)
    first, last, least = 0, 0, math.inf
    begun = _pose_until(f, 0, f.n.count, -1)
    while begun < f.n.count:
        end = _pose_until(f, begun + 1, f.n.count, -1)
        if end < f.n.count and row_at(f, end).time - row_at(f, begun).time < least - SLACK:
            first, last, least = begun, end, row_at(f, end).time - row_at(f, begun).time
        begun = end
    if last == 0:
        return ABSENT
    return True, least, first, last, last - first


@_measure(
    "rise_delay", "Press to rise", "ticks",
    "Ticks from the first press that launches to the first that shows the rise; 0: the same tick.",
    "no press launches, or its rise is never shown", views=SIDE, on_request=True,
)  # fmt: skip
def _rise_delay(f):
    launch = _first_marked(f, LAUNCH | AIR_LAUNCH | WALL_LAUNCH)
    press = launch
    while press > 0 and not row_at(f, press).marks & PRESS:
        press -= 1
    if press == 0:
        return ABSENT
    begin_poses(f.n)
    for row in range(launch):
        next_pose(f.n, tune_at(f, 0), row_at(f, row))
    shown = _pose_until(f, launch, f.n.count, RISING)
    if shown == f.n.count:
        return ABSENT
    return True, float(shown - press), press, shown, NO_TICKS


@_measure(
    "stride_rate", "Strides a second", "/s", "Cycles of the stride a second at the greatest speed of a walk or run.",
    "it neither walks nor runs", on_request=True,
)  # fmt: skip
def _stride_rate(f):
    p = tune_at(f, 0)
    begin_poses(f.n)
    best, most, rate = -1, 0.0, 0.0
    for row in range(f.n.count):
        next_pose(f.n, p, row_at(f, row))
        speed, runs = row_at(f, row).speed, f.n.pose == RUN
        if (runs or f.n.pose == WALK) and speed > most + SLACK:
            best, most, rate = row, speed, speed / (p.pose_stride_run if runs else p.pose_stride_walk)
    if best < 0:
        return ABSENT
    return True, rate, best, best, NO_TICKS


# Reach: how far the tune goes, whatever the drill. `survey/reach.py` reads these; a run shows nothing of them.


def _nothing_of_the_run(f):
    return ABSENT


_REACHED = {
    "widest_gap": ("Widest gap", "Widest gap between two level edges that a running jump crosses.", False),
    "widest_gap_safe": ("Widest gap to spare", "The same gap with 3 frames to spare in press and hold.", False),
    "highest_step": ("Highest step", "Highest ledge that a jump reaches.", True),
    "highest_step_safe": ("Highest step to spare", "The same ledge with 3 frames to spare in the hold.", True),
}
for _id, (_label, _meaning, _is_height) in _REACHED.items():
    _measure(
        _id, _label, "u", _meaning, "the tune does not jump, or crosses nothing", views=SIDE, is_height=_is_height,
        on_request=True,
    )(_nothing_of_the_run)  # fmt: skip
REACHED = tuple(_REACHED)
OF_POSES = ("pose_changes", "shortest_pose", "rise_delay", "stride_rate")
