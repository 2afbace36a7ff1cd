"""What happened in one tick of a trace: one line for each rule that acted, with its numbers filled in.

The tick is run again as plain Python while its functions are watched, so what is explained is the kernel itself. The
changes of all lines add up to the change of velocity and position that the trace shows. Each rule's equation is the
docstring of its function, from which the table in docs/model.md is made, too.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from cinetica.model.laws import Law
from cinetica.model.parameters import Parameter, code
from cinetica.model.tune import Integrator, ShortHop, parameter_by_id
from cinetica.motion import contact, gravity
from cinetica.motion.records import (
    AIR_LAUNCH,
    BUFFERED_LAUNCH,
    BUMP,
    CLIMB_OFF,
    CLIMB_ON,
    COYOTE_LAUNCH,
    CUT,
    LAUNCH,
    LOST_PRESS,
    SLACK,
    WALL,
)
from cinetica.motion.simulate import Trace
from cinetica.reading.laws import LAW_WORDS
from cinetica.reading.phrases import figure, from_to, plain, velocities
from cinetica.reading.ticks import LAW_RULES, RULES, Call, Change, Tick

NO_CHANGE = np.zeros(4)


@dataclass(frozen=True)
class Line:
    """One rule that acted: its name, what it did in words, and by how much it changed vx, vy, x and y (u/s and u)."""

    rule: str
    words: str
    change: tuple[float, float, float, float]

    @property
    def equation(self) -> str:
        """The rule as the kernel states it."""
        return equation(self.rule)


_RULE_OF_GROUP = {
    "input": "intend", "gravity": "weight", "jump": "launch", "climb": "climb", "contact": "move",
    "facing": "face_and_look", "look": "face_and_look", "slope": "on_slope", "camera": "follow",
    "stepping": "travel",
}  # fmt: skip
_RULE_OF_NUMBER = {
    "jump.buffer": "arm", "contact.corner_slip": "slip", "contact.drop_through": "drop",
    "slope.max_slope": "feel_lines", "slope.slope_pace": "pace", "slope.ground_snap": "snap",
    "slope.slope_carry": "seen",
    **{f"jump.{key}": "shorten" for key in ("short_hop", "cut_factor", "cap_speed", "heavy_factor", "sustain_factor",
    "sustain_time", "min_hold")},
}  # fmt: skip


def rule_of(id: str, law: str) -> str:
    """The rule in which a number of a tune acts, given the drive law; empty for what is no rule's, such as the body's
    size."""
    return law if id.startswith("drive.") else _RULE_OF_NUMBER.get(id) or _RULE_OF_GROUP.get(id.partition(".")[0], "")


def equation(rule: str) -> str:
    return " ".join((RULES[rule].__doc__ or "").split())


def explain(trace: Trace, row: int) -> list[Line]:
    """The rules that acted in the tick that ends in `row`, in the order of the tick; none for row 0, the start, and for
    what a game has logged."""
    if trace.logged or not 1 <= row < len(trace):
        return []
    tick = Tick(trace, row)
    lines: list[Line] = []
    for call in tick.calls:
        if call.rule in _EXPLAINED:
            lines += _EXPLAINED[call.rule](tick, call)
    return lines


# Words for numbers


def _line(rule: str, words: str, change: Change = NO_CHANGE) -> Line:
    return Line(rule, words, tuple(float(part) for part in change))  # type: ignore[arg-type]


def _intend(tick: Tick, call: Call) -> Iterator[Line]:
    s, before = call.after, call.before
    if (s.wx, s.wy) == (before.wx, before.wy) and (s.input_x, s.input_y) == (before.input_x, before.input_y):
        return
    late = f", {tick.p.latency} ticks late" if tick.p.latency else ""
    if tick.top_view or s.wy != before.wy:
        words = f"intent ({figure(before.wx)}, {figure(before.wy)}) → ({figure(s.wx)}, {figure(s.wy)})"
        yield _line("intend", f"{words}: hands ({figure(s.input_x)}, {figure(s.input_y)}){late}")
    else:
        yield _line("intend", f"{from_to('intent', before.wx, s.wx)}: hands {figure(s.input_x)}{late}")


def _arm(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.marks & ~call.before.marks & LOST_PRESS:
        yield _line(
            "arm", f"press lost: {figure(call.after.since_press)} s old, the buffer is {plain(tick.p.buffer)} s"
        )
    elif tick.hand.pressed:
        yield _line("arm", f"jump pressed: remembered for {plain(tick.p.buffer)} s")


def _climb(tick: Tick, call: Call) -> Iterator[Line]:
    s, p = call.after, tick.p
    if s.marks & ~call.before.marks & LAUNCH:
        yield _line("climb", f"{velocities(call.before, s)}: jump off, {plain(p.climb_jump_speed)} u/s", call.change)
    elif s.climbing:
        holds = "holds on, " if s.marks & CLIMB_ON else "climbs, "
        words = f"{holds}{plain(p.climb_speed)} u/s × intent ({figure(s.wx)}, {figure(s.wy)})"
        yield _line("climb", f"{velocities(call.before, s)}: {words}", call.change)
    elif s.marks & ~call.before.marks & CLIMB_OFF:
        yield _line("climb", "lets go: past the end of the climb zone")


def _launch(tick: Tick, call: Call) -> Iterator[Line]:
    marks, p, s = call.after.marks & ~call.before.marks, tick.p, call.before
    if marks & AIR_LAUNCH:
        left = call.after.air_jumps_left
        yield _line(
            "launch", f"{velocities(s, call.after)}: air jump, {plain(p.air_jump_speed)} u/s, {left} left", call.change
        )
    elif marks & LAUNCH:
        boost = f" + run boost {plain(p.run_boost)} × {figure(abs(s.vx))}" if p.run_boost else ""
        if p.slope_carry and s.grounded and s.rise_rate:
            boost += f" + slope carry {plain(p.slope_carry)} × {figure(s.rise_rate)}"
        words = f"launch, jump speed {plain(p.jump_speed)}{boost} u/s"
        if marks & COYOTE_LAUNCH:
            words += f", in coyote time {figure(s.since_ground)} s after the ground"
            if s.since_launch <= s.since_ground:
                words += (
                    f"; the jump {figure(s.since_launch)} s ago has not spent it, since {_spends_grace().label.lower()}"
                    " is no"
                )
        if marks & BUFFERED_LAUNCH:
            words += f", from a press {figure(s.since_press)} s old"
        yield _line("launch", f"{velocities(s, call.after)}: {words}", call.change)


def _spends_grace() -> Parameter:
    return parameter_by_id("jump.spend_grace")


def _shorten(tick: Tick, call: Call) -> Iterator[Line]:
    p = tick.p
    if not call.after.marks & ~call.before.marks & CUT:
        return
    how = f"cut × {plain(p.cut_factor)}" if p.short_hop == code(ShortHop.CUT) else f"capped at {plain(p.cap_speed)} u/s"
    yield _line("shorten", f"{velocities(call.before, call.after)}: short hop {how}", call.change)


def _drive(tick: Tick, call: Call) -> Iterator[Line]:
    laws = tick.calls_of(*(law.__name__ for law in LAW_RULES))
    # Of the laws that call one another, the last to return is the one that was chosen.
    law = laws[-1]
    if not np.any(call.change) and call.before.throttle == call.after.throttle:
        return
    words = LAW_WORDS[Law(law.rule)].acted(tick, call)
    yield _line(law.rule, f"{velocities(call.before, call.after)}: {law.rule}, {words}", call.change)


FACTORS = (
    ("fall_factor", "fall factor"), ("fast_fall_factor", "fast fall"), ("apex_factor", "apex factor"),
    ("heavy_factor", "heavy factor"), ("sustain_factor", "sustain factor"),
)  # fmt: skip


def _fall(tick: Tick, call: Call) -> Iterator[Line]:
    p = tick.p
    weighed = tick.calls_of("weight")
    pulled = np.zeros(4)
    if not weighed:
        why = (
            "no gravity in the tick of the launch"
            if call.before.launched and not p.launch_gravity
            else "no gravity in coyote time: it floats"
        )
        yield _line("fall", why)
    elif p.gravity:
        pulled[1] = -weighed[-1].result * tick.h
    rest = call.change - pulled
    if abs(rest[1]) <= SLACK:
        rest = NO_CHANGE
    if weighed and p.gravity:
        before = call.before.vy
        words = f"gravity {plain(p.gravity)} u/s²{''.join(_acting_factors(tick, weighed[-1]))} × {tick.tick_words}"
        yield _line("weight", f"{from_to('vy', before, before + pulled[1])}: {words}", call.change - rest)
    if np.any(rest):
        fell = call.after.vy - rest[1]
        yield _line("fall", f"{from_to('vy', fell, call.after.vy)}: terminal speed {plain(p.terminal_speed)} u/s", rest)


def _acting_factors(tick: Tick, call: Call) -> Iterator[str]:
    """The factors without which the weight would be another."""
    s, _, airborne = call.arguments
    for field, name in FACTORS:
        without = tick.p.copy()
        without[field] = 1.0
        state = call.before
        if tick.p[field] != 1.0 and gravity.weight(state, without, airborne) != call.result:
            yield f" × {name} {plain(tick.p[field])}"


_BY = {
    code(Integrator.VELOCITY_FIRST): "the new velocity",
    code(Integrator.POSITION_FIRST): "the old velocity",
    code(Integrator.MIDPOINT): "the mean of old and new velocity",
}


def _move(tick: Tick, call: Call) -> Iterator[Line]:
    dx, dy = call.arguments[3], call.arguments[4]
    paced = tick.calls_of("pace")
    cosine = paced[-1].result if paced else 1.0
    dx = dx * cosine
    on_lines = [line for each in tick.calls_of(*_ON_LINES) for line in _ON_LINES[each.rule](tick, each)]
    felt = sum((each.change for each in tick.calls_of(*_ON_LINES)), NO_CHANGE)
    met = [*_contact(tick, call, call.change - felt - [0.0, 0.0, dx, dy]), *on_lines]
    seen = list(_seen(tick))
    ways = (("x", call.before.x, dx), ("y", call.before.y, dy))
    parts = [from_to(name, start, start + way) for name, start, way in ways if way]
    if parts:
        change = call.change - sum((line.change for line in met), NO_CHANGE)
        along = f" × cos {_degrees(tick.began.ground_angle)}, along the slope" if cosine != 1.0 else ""
        words = f"by {_BY[int(tick.p.integrator)]} × {tick.tick_words}{along}"
        yield _line("travel", f"{', '.join(parts)}: {words}", change)
    yield from met
    yield from seen


def _degrees(angle: float) -> str:
    return f"{figure(math.degrees(angle))}°"


# What acts on lines that are not level, in the order of a tick


def _drop(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.dropping and not call.before.dropping:
        used_up = ", and the press is used up" if call.result else ""
        yield _line("drop", f"down is held: what is one-way lets the body down{used_up}; its coyote time is spent")


def _on_slope(tick: Tick, call: Call) -> Iterator[Line]:
    top, uphill = call.arguments[2], call.before.wx * call.before.slope > 0
    factor = tick.p.uphill_factor if uphill else tick.p.downhill_factor
    if factor != 1.0 and call.result != top:
        where = "uphill" if uphill else "downhill"
        yield _line("on_slope", f"{where}: top speed {figure(top)} × {plain(factor)} u/s")


def _climb_to(tick: Tick, call: Call) -> Iterator[Line]:
    if call.result[0] > 0.0:
        words = f"carried up a slope of {_degrees(abs(tick.began.ground_angle))}"
        yield _line("climb_to", f"{from_to('y', call.before.y, call.after.y)}: {words}", call.change)
    elif np.any(call.change):
        yield _line("climb_to", "a ceiling over the slope: the body stays where it was", call.change)


def _feel_lines(tick: Tick, call: Call) -> Iterator[Line]:
    s, p = call.after, tick.p
    if not np.any(call.change):
        return
    if s.slides:
        words = f"{velocities(call.before, s)}: too steep, it slides; the velocity along the line is left"
    elif s.marks & ~call.before.marks & WALL or (s.vx != call.before.vx and s.vx == 0.0):
        words = f"{velocities(call.before, s)}: uphill it is steeper than {plain(math.degrees(p.max_slope))}°, a wall"
    else:
        words = f"{from_to('y', call.before.y, s.y)}: on the slope"
    yield _line("feel_lines", words, call.change)


def _snap(tick: Tick, call: Call) -> Iterator[Line]:
    if np.any(call.change):
        by = figure(call.before.y - call.after.y)
        yield _line("snap", f"set down by {by} u: ground snap {plain(tick.p.ground_snap)} u", call.change)


_ON_LINES = {"climb_to": _climb_to, "feel_lines": _feel_lines, "snap": _snap}


def _seen(tick: Tick) -> Iterator[Line]:
    """What the trace shows of a walk on a line: its part across, and the rate at which the feet rose."""
    for call in tick.calls_of("seen"):
        s, began = call.after, tick.began
        if np.any(call.change):
            carried = f"slope carry {plain(tick.p.slope_carry)} × {figure(began.rise_rate)} u/s"
            words = from_to("vy", call.before.vy, call.before.vy + call.change[1])
            yield _line("seen", f"{words}: {carried}", call.change)
        apart = [s.row_vx - s.vx, s.row_vy - s.vy]
        before = [began.row_vx - began.vx, began.row_vy - began.vy]
        change = np.array([apart[0] - before[0], apart[1] - before[1], 0.0, 0.0])
        if np.any(np.abs(change) > SLACK):
            words = f"shown vx {figure(s.row_vx)}, vy {figure(s.row_vy)}"
            what = "the rate at which the feet rose" if s.line and s.grounded else "off the slope"
            yield _line("seen", f"{words}: {what}", change)


def _follow(tick: Tick, call: Call) -> Iterator[Line]:
    before, after, p = call.before, call.after, tick.trace.tune.camera
    moved = [
        from_to(f"camera {axis}", before[f"camera_{axis}"], after[f"camera_{axis}"])
        for axis in "xy"
        if before[f"camera_{axis}"] != after[f"camera_{axis}"]
    ]
    if moved:
        lead = f", to {figure(after.lead_x)} u ahead" if p.look_ahead else ""
        yield _line("follow", f"{', '.join(moved)}: follows, {p.follow}{lead}")


def _contact(tick: Tick, call: Call, rest: Change) -> Iterator[Line]:
    """What the course took of the velocity and of the way, first along x, then along y."""
    before, after = call.before, call.after
    sideways, lengthwise = rest * [1, 0, 1, 0], rest * [0, 1, 0, 1]
    if np.any(np.abs(sideways) > SLACK):
        slipped = bool(tick.calls_of("slip")) and not sideways[0]
        what = "past a corner overhead" if slipped else "a wall"
        yield _line("slip" if slipped else "move", f"{_met('x', sideways[[0, 2]], before, after)}: {what}", sideways)
    if np.any(np.abs(lengthwise) > SLACK):
        stopped = tick.p.wall == contact.STOP_ALL and bool(after.marks & WALL) and after.y == before.y
        if tick.top_view or stopped:
            what = "a wall" if tick.top_view else "a wall that stops all motion"
        else:
            what = "a ceiling" if after.marks & BUMP else "the ground"
        yield _line("move", f"{_met('y', lengthwise[[1, 3]], before, after)}: {what}", lengthwise)


def _met(axis: str, rest: Change, before: Any, after: Any) -> str:
    """What contact took of one axis: velocity, way, or both."""
    words = []
    if rest[0]:
        words.append(from_to(f"v{axis}", before[f"v{axis}"], after[f"v{axis}"]))
    if abs(rest[1]) > SLACK:
        words.append(f"{axis} {figure(after[axis] - rest[1])} → {figure(after[axis])}")
    return ", ".join(words)


def _face(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.facing != tick.began.facing and not tick.calls_of("steer"):
        before, after = math.degrees(tick.began.facing), math.degrees(call.after.facing)
        yield _line("face_and_look", f"facing {figure(before)}° → {figure(after)}°: {tick.trace.tune.facing.facing}")


_EXPLAINED: dict[str, Callable[[Tick, Call], Iterator[Line]]] = {
    "intend": _intend, "arm": _arm, "climb": _climb, "launch": _launch, "shorten": _shorten, "drive": _drive,
    "drop": _drop, "on_slope": _on_slope, "fall": _fall, "move": _move,
    "face_and_look": _face, "follow": _follow,
}  # fmt: skip
