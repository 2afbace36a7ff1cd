"""Measures: figures read off a trace.

Each is declared once, by decorating the function that reads it. Times are interpolated between rows
so that they move smoothly while a number is dragged; whole ticks stand beside them. A measure is
absent (None) where the drill never shows it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from cinetica.motion.records import (
    AIR_LAUNCH,
    BUFFERED_LAUNCH,
    CLIMB,
    COYOTE_LAUNCH,
    GROUND,
    LAND,
    LAUNCH,
    LOST_PRESS,
    PRESS,
    SLACK,
    WALL,
)
from cinetica.motion.simulate import Trace

NEARLY = 0.99
FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Reading:
    """A figure in the measure's unit and, where it is a time, the whole ticks that it took."""

    value: float
    ticks: int | None = None


@dataclass(frozen=True)
class Measure:
    id: str
    label: str
    unit: str
    meaning: str
    views: tuple[str, ...]
    read: Callable[[Evidence], Reading | None]
    # Whether it can be wished for: `wishes.grant` finds the numbers behind it.
    wishable: bool = False


MEASURES: list[Measure] = []


def _measure(
    id: str, label: str, unit: str, meaning: str, *, views: tuple[str, ...] = ("side", "top"), wishable: bool = False
) -> Callable[[Callable[[Evidence], Reading | None]], Callable[[Evidence], Reading | None]]:
    def declare(read: Callable[[Evidence], Reading | None]) -> Callable[[Evidence], Reading | None]:
        MEASURES.append(Measure(id, label, unit, meaning, views, read, wishable))
        return read

    return declare


def read_off(trace: Trace) -> dict[str, Reading]:
    """Every measure that this trace shows, by id, in the order of declaration."""
    evidence = Evidence(trace)
    readings = {
        measure.id: measure.read(evidence) for measure in MEASURES if trace.drill.view in measure.views
    }
    return {id: reading for id, reading in readings.items() if reading is not None}


class Evidence:
    """What several measures look for in a trace, found once."""

    def __init__(self, trace: Trace) -> None:
        self.trace = trace
        self.tune = trace.tune
        self.side = trace.drill.view == "side"
        self.time: FloatArray = np.ascontiguousarray(trace["time"])
        self.x: FloatArray = np.ascontiguousarray(trace["x"])
        self.y: FloatArray = np.ascontiguousarray(trace["y"])
        self.vx: FloatArray = np.ascontiguousarray(trace["vx"])
        self.vy: FloatArray = np.ascontiguousarray(trace["vy"])
        self.marks: NDArray[np.int64] = np.ascontiguousarray(trace["marks"])
        self.top_speed = self.tune.drive.top_speed

    @cached_property
    def speed(self) -> FloatArray:
        """Speed of what is driven: along the ground from the side, in the plane from above."""
        return np.abs(self.vx) if self.side else np.hypot(self.vx, self.vy)

    @cached_property
    def wx(self) -> FloatArray:
        return np.ascontiguousarray(self.trace["intent_x"])

    @cached_property
    def wy(self) -> FloatArray:
        return np.zeros_like(self.wx) if self.side else np.ascontiguousarray(self.trace["intent_y"])

    @cached_property
    def driven(self) -> NDArray[np.bool_]:
        """Rows with an intent on a driven axis."""
        return (self.wx != 0) | (self.wy != 0)

    @cached_property
    def launches(self) -> NDArray[np.int64]:
        return np.flatnonzero(self.marks & (LAUNCH | AIR_LAUNCH))

    @cached_property
    def jump(self) -> Flight | None:
        """The first flight that begins with a launch from the ground."""
        return next(iter(self.flights), None)

    @cached_property
    def flights(self) -> list[Flight]:
        return list(self._flights())

    def _flights(self) -> Iterator[Flight]:
        rows = np.flatnonzero(self.marks & LAUNCH)
        ends = np.flatnonzero(self.marks & LAND)
        for place, row in enumerate(rows):
            until = rows[place + 1] if place + 1 < len(rows) else len(self.time)
            landing = next((int(end) for end in ends if row < end <= until), None)
            end = landing if landing is not None else min(int(until), len(self.time))
            yield Flight(self, int(row), end, landing)


@dataclass(frozen=True)
class Flight:
    """From the row of a launch to the row of the landing, if it comes before the take ends or the next launch."""

    evidence: Evidence
    row: int
    end: int
    landing: int | None

    @property
    def began(self) -> float:
        """Time at which the tick of the launch began."""
        return float(self.evidence.time[self.row - 1])

    @property
    def top(self) -> int:
        """Row of the apex: the highest one; of several alike the last."""
        heights = self.evidence.y[self.row : self.end + 1]
        return self.row + len(heights) - 1 - int(np.argmax(heights[::-1] >= heights.max() - SLACK))

    @property
    def height(self) -> float:
        return float(self.evidence.y[self.top] - self.evidence.y[self.row - 1])

    @property
    def touch(self) -> float | None:
        """Share of the landing tick after which the feet touch the ground."""
        if self.landing is None:
            return None
        e, k = self.evidence, self.landing
        dt = e.time[k] - e.time[k - 1]
        would_fall = -(e.vy[k - 1] + e.trace["ay"][k - 1] * dt) * dt
        fell = e.y[k - 1] - e.y[k]
        return float(min(1.0, max(0.0, fell / would_fall))) if would_fall > 0 else 1.0


def _crossing(times: FloatArray, values: FloatArray, level: float, start: int, *, rising: bool) -> tuple[float, int] | None:
    """Time at which `values` first crosses `level` in the rows from `start` on, interpolated, and the row that it ends in.

    A change that ends in that row was cut off there, so the slope of the tick before says when it crossed.
    """
    there = values[start:] >= level - SLACK if rising else values[start:] <= level + SLACK
    if not there.any():
        return None
    row = start + int(np.argmax(there))
    if row == 0 or values[row] == values[row - 1]:
        return float(times[row]), row
    slope = values[row] - values[row - 1]
    ends_here = row + 1 < len(values) and values[row + 1] == values[row]
    if ends_here and row - 2 >= start - 1 and row >= 2:
        before = values[row - 1] - values[row - 2]
        slope = max(slope, before) if rising else min(slope, before)
    share = (level - values[row - 1]) / slope
    share = min(1.0, max(0.0, float(share)))
    return float(times[row - 1] + share * (times[row] - times[row - 1])), row


def _at(times: FloatArray, values: FloatArray, time: float) -> float:
    return float(np.interp(time, times, values))


@_measure("time_to_top_speed", "Time to top speed", "s", "From the first input to 99 % of top speed.", wishable=True)
def _time_to_top_speed(e: Evidence) -> Reading | None:
    rows = np.flatnonzero(e.driven)
    if len(rows) == 0 or e.top_speed == 0:
        return None
    first = int(rows[0])
    reached = _crossing(e.time, e.speed, NEARLY * e.top_speed, first, rising=True)
    if reached is None:
        return None
    time, row = reached
    return Reading(time - float(e.time[first - 1]), row - first + 1)


def _stop(e: Evidence) -> tuple[int, float, int] | None:
    """The row of the first release of input while moving, and the time and row at which 1 % of top speed is left."""
    released = np.flatnonzero(e.driven[:-1] & ~e.driven[1:]) + 1
    slow = (1 - NEARLY) * e.top_speed
    for row in released:
        if e.speed[row - 1] <= slow:
            continue
        again = np.flatnonzero(e.driven[row:])
        end = int(row + again[0]) if len(again) else len(e.time)
        stopped = _crossing(e.time[:end], e.speed[:end], slow, int(row), rising=False)
        if stopped is not None:
            return int(row), *stopped
    return None


@_measure("stopping_time", "Stopping time", "s", "From the release of input until 1 % of top speed is left.", wishable=True)
def _stopping_time(e: Evidence) -> Reading | None:
    stop = _stop(e)
    if stop is None:
        return None
    row, time, end = stop
    return Reading(time - float(e.time[row - 1]), end - row + 1)


@_measure("stopping_distance", "Stopping distance", "u", "Way gone in the stopping time.", wishable=True)
def _stopping_distance(e: Evidence) -> Reading | None:
    stop = _stop(e)
    if stop is None:
        return None
    row, time, _ = stop
    dx = _at(e.time, e.x, time) - e.x[row - 1]
    dy = 0.0 if e.side else _at(e.time, e.y, time) - e.y[row - 1]
    return Reading(float(np.hypot(dx, dy)))


def _reversal(e: Evidence) -> tuple[int, FloatArray, FloatArray] | None:
    """First row in which the input points against the motion; velocity and way along the old direction from the row before."""
    vx, vy = e.vx[:-1], np.zeros_like(e.vx[:-1]) if e.side else e.vy[:-1]
    speed = np.hypot(vx, vy)
    length = np.hypot(e.wx[1:], e.wy[1:])
    against = (vx * e.wx[1:] + vy * e.wy[1:]) < -0.5 * speed * length
    rows = np.flatnonzero(against & (speed > (1 - NEARLY) * e.top_speed) & (length > 0))
    if len(rows) == 0:
        return None
    before = int(rows[0])
    ux, uy = vx[before] / speed[before], vy[before] / speed[before]
    along_v = e.vx[before:] * ux + (0.0 if e.side else e.vy[before:] * uy)
    along_x = (e.x[before:] - e.x[before]) * ux + (0.0 if e.side else (e.y[before:] - e.y[before]) * uy)
    return before + 1, np.asarray(along_v), np.asarray(along_x)


@_measure("turn_time", "Turn-round time", "s", "From the reversal of input to 99 % of top speed the other way.")
def _turn_time(e: Evidence) -> Reading | None:
    found = _reversal(e)
    if found is None or e.top_speed == 0:
        return None
    row, along, _ = found
    turned = _crossing(e.time[row - 1 :], -along, NEARLY * e.top_speed, 1, rising=True)
    if turned is None:
        return None
    time, ticks = turned
    return Reading(time - float(e.time[row - 1]), ticks)


@_measure("turn_overshoot", "Turn-round overshoot", "u", "Way still gone in the old direction after the reversal of input.")
def _turn_overshoot(e: Evidence) -> Reading | None:
    found = _reversal(e)
    if found is None:
        return None
    _, along, way = found
    if not (along <= SLACK).any():
        return None
    return Reading(float(way[: int(np.argmax(along <= SLACK)) + 1].max()))


@_measure("top_speed_reached", "Top speed reached", "u/s", "Greatest speed along the driven axes.")
def _top_speed_reached(e: Evidence) -> Reading | None:
    return Reading(float(e.speed.max())) if e.driven.any() else None


def _settled_speed(e: Evidence, rows: NDArray[np.bool_]) -> float | None:
    """Greatest speed at the end of a stretch of these rows, where the change into it has died away."""
    ends = np.flatnonzero(rows & ~np.append(rows[1:], False))
    return float(e.speed[ends].max()) if len(ends) else None


@_measure("straight_speed", "Straight speed", "u/s", "Speed at the end of input along one axis.", views=("top",))
def _straight_speed(e: Evidence) -> Reading | None:
    speed = _settled_speed(e, (e.trace["input_x"] != 0) ^ (e.trace["input_y"] != 0))
    return None if speed is None else Reading(speed)


@_measure("diagonal_speed", "Diagonal speed", "u/s", "Speed at the end of input along both axes.", views=("top",))
def _diagonal_speed(e: Evidence) -> Reading | None:
    speed = _settled_speed(e, (e.trace["input_x"] != 0) & (e.trace["input_y"] != 0))
    return None if speed is None else Reading(speed)


@_measure("diagonal_ratio", "Diagonal to straight", "×", "Diagonal speed over straight speed.", views=("top",))
def _diagonal_ratio(e: Evidence) -> Reading | None:
    straight, diagonal = _straight_speed(e), _diagonal_speed(e)
    if straight is None or diagonal is None or straight.value == 0:
        return None
    return Reading(diagonal.value / straight.value)


@_measure("jump_height", "Jump height", "u", "Rise of the first jump, from the feet at the launch to the highest row.", views=("side",), wishable=True)
def _jump_height(e: Evidence) -> Reading | None:
    return None if e.jump is None else Reading(e.jump.height)


@_measure("time_to_apex", "Time to apex", "s", "From the launch of the first jump until it stops rising.", views=("side",), wishable=True)
def _time_to_apex(e: Evidence) -> Reading | None:
    if e.jump is None:
        return None
    apex = _crossing(e.time[: e.jump.end + 1], e.vy[: e.jump.end + 1], 0.0, e.jump.row, rising=False)
    if apex is None:
        return None
    time, row = apex
    return Reading(time - e.jump.began, row - e.jump.row + 1)


@_measure("air_time", "Air time", "s", "From the launch of the first jump until the feet touch the ground.", views=("side",))
def _air_time(e: Evidence) -> Reading | None:
    if e.jump is None or e.jump.landing is None or e.jump.touch is None:
        return None
    end = e.jump.landing
    time = e.time[end - 1] + e.jump.touch * (e.time[end] - e.time[end - 1])
    return Reading(float(time) - e.jump.began, end - e.jump.row + 1)


@_measure("jump_distance", "Jump distance", "u", "Way along the ground in the air time.", views=("side",))
def _jump_distance(e: Evidence) -> Reading | None:
    if e.jump is None or e.jump.landing is None or e.jump.touch is None:
        return None
    end = e.jump.landing
    x = e.x[end - 1] + e.jump.touch * (e.x[end] - e.x[end - 1])
    return Reading(float(abs(x - e.x[e.jump.row - 1])))


@_measure("landing_speed", "Fall speed at landing", "u/s", "Downward speed as the feet touch the ground.", views=("side",))
def _landing_speed(e: Evidence) -> Reading | None:
    if e.jump is None or e.jump.landing is None or e.jump.touch is None:
        return None
    before = e.jump.landing - 1
    dt = e.time[before + 1] - e.time[before]
    return Reading(float(-e.vy[before] - e.trace["ay"][before] * e.jump.touch * dt))


@_measure("lowest_hop", "Lowest hop", "u", "Rise of the lowest jump: the tap.", views=("side",), wishable=True)
def _lowest_hop(e: Evidence) -> Reading | None:
    return Reading(min(flight.height for flight in e.flights)) if e.flights else None


@_measure("highest_hop", "Highest hop", "u", "Rise of the highest jump: the full hold.", views=("side",))
def _highest_hop(e: Evidence) -> Reading | None:
    return Reading(max(flight.height for flight in e.flights)) if e.flights else None


def _first_hands(e: Evidence) -> int | None:
    """Row whose tick began with the first thing the hands did; latency delays only what the tune makes of it."""
    active = (e.trace["input_x"] != 0) | (e.trace["input_y"] != 0) | ((e.marks & PRESS) != 0)
    rows = np.flatnonzero(active)
    return int(rows[0]) - e.tune.input.latency if len(rows) else None


def _ticks_until(e: Evidence, changed: NDArray[np.bool_]) -> Reading | None:
    first = _first_hands(e)
    rows = np.flatnonzero(changed)
    rows = rows[rows >= first] if first is not None else rows[:0]
    if first is None or len(rows) == 0:
        return None
    ticks = int(rows[0]) - first
    return Reading(float(ticks), ticks)


@_measure("press_to_velocity", "Press to speed", "ticks", "Ticks that pass between the first press and a change of velocity; 0 is in the same tick.")
def _press_to_velocity(e: Evidence) -> Reading | None:
    still = e.trace["state"][0] in (GROUND, CLIMB)
    changed = np.append(False, (np.diff(e.vx) != 0) | ((np.diff(e.vy) != 0) & still))
    return _ticks_until(e, changed)


@_measure("press_to_position", "Press to motion", "ticks", "Ticks that pass between the first press and a change of position; 0 is in the same tick.")
def _press_to_position(e: Evidence) -> Reading | None:
    still = e.trace["state"][0] in (GROUND, CLIMB)
    changed = np.append(False, (np.diff(e.x) != 0) | ((np.diff(e.y) != 0) & still))
    return _ticks_until(e, changed)


@_measure("coyote_spare", "Coyote time to spare", "s", "How much of the coyote time was left at the first launch in it.", views=("side",))
def _coyote_spare(e: Evidence) -> Reading | None:
    rows = np.flatnonzero(e.marks & COYOTE_LAUNCH)
    if len(rows) == 0:
        return None
    return Reading(max(0.0, e.tune.jump.coyote - float(e.trace["since_ground"][rows[0] - 1])))


@_measure("buffer_spare", "Jump buffer to spare", "s", "How much of the jump buffer was left at the first buffered launch.", views=("side",))
def _buffer_spare(e: Evidence) -> Reading | None:
    rows = np.flatnonzero(e.marks & BUFFERED_LAUNCH)
    if len(rows) == 0:
        return None
    return Reading(max(0.0, e.tune.jump.buffer - float(e.trace["since_press"][rows[0] - 1])))


@_measure("peak_acceleration", "Peak acceleration", "u/s²", "Greatest change of the driven velocity per second, but for the stop at a wall.")
def _peak_acceleration(e: Evidence) -> Reading | None:
    if not e.driven.any():
        return None
    free = (e.marks & WALL) == 0
    ax, ay = e.trace["ax"][free], e.trace["ay"][free]
    return Reading(float((np.abs(ax) if e.side else np.hypot(ax, ay)).max()))


@_measure("deepest_overlap", "Deepest overlap", "u", "How deep the body was in a solid.")
def _deepest_overlap(e: Evidence) -> Reading | None:
    deepest = float(e.trace["overlap"].max())
    return Reading(deepest) if deepest > 0 else None


@_measure("lost_presses", "Lost presses", "", "Presses of jump that expired unused.", views=("side",))
def _lost_presses(e: Evidence) -> Reading | None:
    if not (e.marks & PRESS).any():
        return None
    return Reading(float(np.count_nonzero(e.marks & LOST_PRESS)))
