"""Nets, launches, short hops, dashes, shoves, and dropping through one-way solids."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.model.parameters import Parameter, code
from cinetica.model.tune import DashExit, ShortHop, parameter_by_id
from cinetica.motion.records import (
    AIR_LAUNCH,
    BUFFERED_LAUNCH,
    CLIMB_OFF,
    CLIMB_ON,
    COYOTE_LAUNCH,
    CUT,
    DASH,
    DASH_END,
    LAUNCH,
    LOST_DASH,
    SHOVE,
    WALL,
    WALL_LAUNCH,
)
from cinetica.reading.phrases import plain
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
        yield line(
            "climb",
            f"{tick.say.velocities(call.before, s)}: jump off, {tick.say.upward(p.climb_jump_speed)}",
            call.change,
        )
    elif s.climbing:
        holds = "grabs the net, " if s.marks & CLIMB_ON else "climbs, "
        words = f"{holds}{tick.say.entered(p.climb_speed, 'u/s')} × intent {tick.say.intent(s.wx, s.wy)}"
        yield line("climb", f"{tick.say.velocities(call.before, s)}: {words}", call.change)
    elif s.marks & ~call.before.marks & CLIMB_OFF:
        yield line("climb", "lets go: past the end of the climb zone")


@explains("launch")
def _launch(tick: Tick, call: Call) -> Iterator[Line]:
    marks, p, s = call.after.marks & ~call.before.marks, tick.p, call.before
    say, plus = tick.say, tick.say.plus
    if marks & LAUNCH:
        boost = f" {plus} run boost {plain(p.run_boost)} × {say.speed(abs(s.vx))}" if p.run_boost else ""
        if p.slope_carry and s.grounded and s.rise_rate:
            boost += f" {plus} slope carry {plain(p.slope_carry)} × {say.speed(s.rise_rate)}"
        words = f"launch, jump speed {say.upward(p.jump_speed, boost)}"
        if marks & COYOTE_LAUNCH:
            words += f", in coyote time {say.computed(s.since_ground, 's')} after the ground"
            if s.since_launch <= s.since_ground:
                ago = say.computed(s.since_launch, "s")
                words += f"; the jump {ago} ago has not spent it, since {_spends_grace().label.lower()} is set to no"
        if marks & BUFFERED_LAUNCH:
            words += f", from a press {say.computed(s.since_press, 's')} old"
        yield line("launch", f"{say.velocities(s, call.after)}: {words}", call.change)


@explains("jump_in_air")
def _jump_in_air(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.marks & ~call.before.marks & AIR_LAUNCH:
        left, up = call.after.air_jumps_left, tick.say.upward(tick.p.air_jump_speed)
        words = f"{tick.say.velocities(call.before, call.after)}: air jump, {up}, {left} left"
        yield line("jump_in_air", words, call.change)


@explains("jump_off_wall")
def _jump_off_wall(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.marks & ~call.before.marks & WALL_LAUNCH:
        up, away = tick.say.upward(tick.p.wall_jump_speed), tick.say.entered(tick.p.wall_jump_away, "u/s")
        late = tick.say.computed(call.before.since_wall, "s")
        words = f"jump off the wall, {up} and {away} away from it" + (
            "" if call.before.on_wall else f", {late} after it"
        )
        yield line("jump_off_wall", f"{tick.say.velocities(call.before, call.after)}: {words}", call.change)


@explains("dash")
def _dash(tick: Tick, call: Call) -> Iterator[Line]:
    marks = call.after.marks & ~call.before.marks
    velocities = tick.say.velocities(call.before, call.after)
    if marks & LOST_DASH:
        yield line("dash", f"dash lost: it was not possible within {tick.say.entered(tick.p.dash_buffer, 's')}")
    if marks & DASH:
        speed, lasts = tick.say.entered(tick.p.dash_speed, "u/s"), tick.say.entered(tick.p.dash_time, "s")
        yield line("dash", f"{velocities}: dash at {speed} for {lasts}", call.change)
    elif marks & DASH_END:
        yield line("dash", f"{velocities}: the dash is over, {_left_of_dash(tick)}", call.change)
    elif call.after.dashing:
        yield line("dash", f"dashes at {tick.say.entered(tick.p.dash_speed, 'u/s')}", call.change)


def _left_of_dash(tick: Tick) -> str:
    return {
        DashExit.KEEP: "its velocity is kept", DashExit.TOP: "at most top speed is left", DashExit.STOP: "it stops",
    }[tick.trace.tune.dash.exit]  # fmt: skip


@explains("end_dash")
def _end_dash(tick: Tick, call: Call) -> Iterator[Line]:
    # Launches within a dash or a shove are explained there.
    if call.before.marks & WALL:
        words = f"a wall ends the dash, {_left_of_dash(tick)}"
        yield line("end_dash", f"{tick.say.velocities(call.before, call.after)}: {words}", call.change)


@explains("shove")
def _shove(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.marks & ~call.before.marks & SHOVE:
        ended = (
            ", which ends the dash" if call.before.dashing else ", which ends the climb" if call.before.climbing else ""
        )
        yield line("shove", f"{tick.say.velocities(call.before, call.after)}: a shove{ended}", call.change)


def _spends_grace() -> Parameter:
    return parameter_by_id("jump.spend_grace")


@explains("cut_again")
def _cut_again(tick: Tick, call: Call) -> Iterator[Line]:
    for words in _shorten(tick, call):
        yield line("cut_again", f"{words.words}, at every release", call.change)


@explains("shorten")
def _shorten(tick: Tick, call: Call) -> Iterator[Line]:
    p = tick.p
    if not call.after.marks & ~call.before.marks & CUT:
        return
    how = (
        f"cut × {plain(p.cut_factor)}"
        if p.short_hop == code(ShortHop.CUT)
        else f"capped at {tick.say.upward(p.cap_speed)}"
    )
    yield line("shorten", f"{tick.say.velocities(call.before, call.after)}: short hop {how}", call.change)
