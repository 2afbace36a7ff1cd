"""The displacement of a tick, and what the course did to it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from cinetica.model.parameters import code
from cinetica.model.tune import Integrator
from cinetica.motion import contact, slopes
from cinetica.motion.records import BUMP, SLACK, WALL
from cinetica.reading.phrases import plain
from cinetica.reading.rules.register import NO_CHANGE, Line, explains, line
from cinetica.reading.ticks import Call, Change, Tick

# How far under the feet, in u, a slope is still mentioned.
NEAR_UNDER = 1.0
_BY = {
    code(Integrator.VELOCITY_FIRST): "the new velocity",
    code(Integrator.POSITION_FIRST): "the old velocity",
    code(Integrator.MIDPOINT): "the mean of old and new velocity",
}


@explains(
    "move", "late_friction", "travel", "pace", "slip", "climb_to", "feel_lines", "snap", "seen", "step_up", "show_late"
)
def _move(tick: Tick, call: Call) -> Iterator[Line]:
    dx, dy = call.arguments[3], call.arguments[4]
    paced = tick.calls_of("pace")
    cosine = paced[-1].result if paced else 1.0
    dx = dx * cosine
    on_lines = [line for each in tick.calls_of(*_ON_LINES) for line in _ON_LINES[each.rule](tick, each)]
    # Calls that explain their own change.
    slowed = [*tick.calls_of("late_friction"), *_ended_by_wall(tick), *tick.calls_of("seen")]
    felt = sum((each.change for each in (*tick.calls_of(*_ON_LINES), *slowed)), NO_CHANGE)
    met = [*_contact(tick, call, call.change - felt - [0.0, 0.0, dx, dy]), *on_lines]
    seen = [*_seen(tick), *_left_behind(tick, call)]
    ways = (("x", call.before.x, dx), ("y", call.before.y, dy))
    parts = [tick.say.change(name, start, start + way) for name, start, way in ways if way]
    if parts:
        change = call.change - sum((line.change for line in met), NO_CHANGE)
        change = change - sum((each.change for each in slowed), NO_CHANGE)
        along = f" × cos {tick.say.degrees(tick.began.ground_angle)}, along the slope" if cosine != 1.0 else ""
        words = f"by {_BY[int(tick.p.integrator)]} × {tick.say.duration(tick.moves_for)}{along}"
        yield line("travel", f"{', '.join(parts)}: {words}", change)
    yield from met
    for each in slowed:
        if np.any(each.change) and each.rule == "late_friction":
            by = f"friction {tick.say.entered(tick.p.friction, 'u/s²')} × {tick.tick_words}, after the move"
            yield line("late_friction", f"{tick.say.velocities(each.before, each.after)}: {by}", each.change)
    yield from seen
    yield from _late(tick)


def _ended_by_wall(tick: Tick) -> list[Call]:
    """The end of a dash at a wall, which tells its own change."""
    return [call for call in tick.calls_of("end_dash") if call.before.marks & WALL]


def _climbs_step(tick: Tick) -> bool:
    return any(call.result[1] > call.arguments[2] for call in tick.calls_of("step_up"))


def _late(tick: Tick) -> Iterator[Line]:
    """What a row shows of late contact, and what is put back of the row before."""
    s, began = tick.s, tick.began
    on_line = [call.after for call in tick.calls_of("seen")]
    if began.is_late:
        back = _apart(began) * ([0, 0, 1, 1] if on_line else [1, 1, 1, 1])
        yield line("show_late", "late contact: put back to the near side of what blocked it", -back)
    if s.is_late:
        apart = _apart(s)
        if on_line:
            # The velocity shown on a line is explained separately.
            apart[:2] = s.row_vx - on_line[-1].row_vx, s.row_vy - on_line[-1].row_vy
        yield line("show_late", "late contact: shown inside of what blocks it", apart)


def _apart(s: Any) -> Change:
    """By how much a late row differs from where the body is."""
    return np.array([s.row_vx - s.vx, s.row_vy - s.vy, s.shown_x - s.x, s.shown_y - s.y])


def _contact(tick: Tick, call: Call, rest: Change) -> Iterator[Line]:
    """What contact took from velocity and displacement, first along x, then along y."""
    before, after = call.before, call.after
    sideways, lengthwise = rest * [1, 0, 1, 0], rest * [0, 1, 0, 1]
    if np.any(np.abs(sideways) > SLACK):
        slipped = bool(tick.calls_of("slip")) and not sideways[0]
        what = "past a corner overhead" if slipped else "a wall"
        yield line(
            "slip" if slipped else "move", f"{_met(tick, 'x', sideways[[0, 2]], before, after)}: {what}", sideways
        )
    if np.any(np.abs(lengthwise) > SLACK):
        stopped = tick.p.wall == contact.STOP_ALL and bool(after.marks & WALL) and after.y == before.y
        if tick.top_view or stopped:
            what = "a wall" if tick.top_view else "a wall that stops all motion"
        elif _climbs_step(tick):
            what = f"up a step: step height {tick.say.entered(tick.p.step_height, 'u')}"
        else:
            what = "a ceiling" if after.marks & BUMP else "the ground"
        yield line("move", f"{_met(tick, 'y', lengthwise[[1, 3]], before, after)}: {what}", lengthwise)


def _met(tick: Tick, axis: str, rest: Change, before: Any, after: Any) -> str:
    """What contact took from one axis: velocity, displacement, or both."""
    words = []
    if rest[0]:
        words.append(tick.say.change(f"v{axis}", before[f"v{axis}"], after[f"v{axis}"]))
    if abs(rest[1]) > SLACK:
        words.append(tick.say.change(axis, after[axis] - rest[1], after[axis]))
    return ", ".join(words)


def _climb_to(tick: Tick, call: Call) -> Iterator[Line]:
    if call.result[0] > 0.0:
        words = f"carried up a slope of {tick.say.degrees(abs(tick.began.ground_angle))}"
        yield line("climb_to", f"{tick.say.change('y', call.before.y, call.after.y)}: {words}", call.change)
    elif np.any(call.change):
        yield line("climb_to", "a ceiling over the slope: the body stays where it was", call.change)


def _feel_lines(tick: Tick, call: Call) -> Iterator[Line]:
    s, p = call.after, tick.p
    steepest = tick.say.angle(tick.say.bare(math.degrees(p.max_slope), "°"))
    if not np.any(call.change):
        return
    if s.slides:
        words = f"{tick.say.velocities(call.before, s)}: too steep, it slides; the velocity along the line is left"
    elif s.marks & ~call.before.marks & WALL or (s.vx != call.before.vx and s.vx == 0.0):
        words = f"{tick.say.velocities(call.before, s)}: uphill it is steeper than {steepest}, a wall"
    else:
        words = f"{tick.say.change('y', call.before.y, s.y)}: on the slope"
    yield line("feel_lines", words, call.change)


def _snap(tick: Tick, call: Call) -> Iterator[Line]:
    if np.any(call.change):
        by = tick.say.computed(call.before.y - call.after.y, "u")
        yield line("snap", f"set down by {by}: ground snap {tick.say.entered(tick.p.ground_snap, 'u')}", call.change)


_ON_LINES = {"climb_to": _climb_to, "feel_lines": _feel_lines, "snap": _snap}


def _left_behind(tick: Tick, call: Call) -> Iterator[Line]:
    """A walking body leaves a slope that is just below it, and that nothing put it down on."""
    s, p, lines = call.after, tick.p, call.arguments[2].slopes
    if not tick.began.grounded or s.grounded or s.launched or s.climbing or tick.top_view:
        return
    under = slopes.walkable_under(lines, p, s.x, s.y, NEAR_UNDER)
    if under >= 0:
        gap = tick.say.computed(s.y - slopes.height_of(lines, under, s.x), "u")
        yield line(
            "snap", f"leaves the slope, which is {gap} under it: ground snap is {tick.say.entered(p.ground_snap, 'u')}"
        )


def _seen(tick: Tick) -> Iterator[Line]:
    """What the trace shows of a walk on a line: its part in x, and the rate at which the feet rose."""
    for call in tick.calls_of("seen"):
        s, began = call.after, tick.began
        if np.any(call.change):
            carried = f"slope carry {plain(tick.p.slope_carry)} × {tick.say.computed(began.rise_rate, 'u/s')}"
            words = tick.say.change("vy", call.before.vy, call.before.vy + call.change[1])
            yield line("seen", f"{words}: {carried}", call.change)
        apart = [s.row_vx - s.vx, s.row_vy - s.vy]
        before = [began.row_vx - began.vx, began.row_vy - began.vy]
        change = np.array([apart[0] - before[0], apart[1] - before[1], 0.0, 0.0])
        if np.any(np.abs(change) > SLACK):
            words = f"shown vx {tick.say.value('vx', s.row_vx)}, vy {tick.say.value('vy', s.row_vy)}"
            what = "the rate at which the feet rose" if s.line and s.grounded else "off the slope"
            yield line("seen", f"{words}: {what}", change)
