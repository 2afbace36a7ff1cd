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
    "facing": "face_and_look", "look": "face_and_look",
    "stepping": "travel",
}  # fmt: skip
_RULE_OF_NUMBER = {
    "jump.buffer": "arm", "contact.corner_slip": "slip",
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
    met = list(_contact(tick, call, call.change - [0.0, 0.0, dx, dy]))
    ways = (("x", call.before.x, dx), ("y", call.before.y, dy))
    parts = [from_to(name, start, start + way) for name, start, way in ways if way]
    if parts:
        change = call.change - sum((line.change for line in met), NO_CHANGE)
        yield _line("travel", f"{', '.join(parts)}: by {_BY[int(tick.p.integrator)]} × {tick.tick_words}", change)
    yield from met


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
    "fall": _fall, "move": _move,
    "face_and_look": _face,
}  # fmt: skip
