"""Nets, launches, short hops, and dropping through one-way solids."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.model.parameters import Parameter, code
from cinetica.model.tune import ShortHop, parameter_by_id
from cinetica.motion.records import AIR_LAUNCH, BUFFERED_LAUNCH, CLIMB_OFF, CLIMB_ON, COYOTE_LAUNCH, CUT, LAUNCH
from cinetica.reading.phrases import figure, plain, velocities
from cinetica.reading.rules.register import Line, explains, line
from cinetica.reading.ticks import Call, Tick


@explains("drop")
def _drop(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.dropping and not call.before.dropping:
        used_up = ", and the press is used up" if call.result else ""
        yield line("drop", f"down is held: what is one-way lets the body down{used_up}; its coyote time is spent")


@explains("climb")
def _climb(tick: Tick, call: Call) -> Iterator[Line]:
    s, p = call.after, tick.p
    if s.marks & ~call.before.marks & LAUNCH:
        yield line("climb", f"{velocities(call.before, s)}: jump off, {plain(p.climb_jump_speed)} u/s", call.change)
    elif s.climbing:
        holds = "grabs the net, " if s.marks & CLIMB_ON else "climbs, "
        words = f"{holds}{plain(p.climb_speed)} u/s × intent ({figure(s.wx)}, {figure(s.wy)})"
        yield line("climb", f"{velocities(call.before, s)}: {words}", call.change)
    elif s.marks & ~call.before.marks & CLIMB_OFF:
        yield line("climb", "lets go: past the end of the climb zone")


@explains("launch")
def _launch(tick: Tick, call: Call) -> Iterator[Line]:
    marks, p, s = call.after.marks & ~call.before.marks, tick.p, call.before
    if marks & AIR_LAUNCH:
        left = call.after.air_jumps_left
        yield line(
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
        yield line("launch", f"{velocities(s, call.after)}: {words}", call.change)


def _spends_grace() -> Parameter:
    return parameter_by_id("jump.spend_grace")


@explains("shorten")
def _shorten(tick: Tick, call: Call) -> Iterator[Line]:
    p = tick.p
    if not call.after.marks & ~call.before.marks & CUT:
        return
    how = f"cut × {plain(p.cut_factor)}" if p.short_hop == code(ShortHop.CUT) else f"capped at {plain(p.cap_speed)} u/s"
    yield line("shorten", f"{velocities(call.before, call.after)}: short hop {how}", call.change)
