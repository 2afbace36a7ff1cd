"""The drive, in the words of its law, and gravity."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from cinetica.model.laws import Law
from cinetica.motion import gravity
from cinetica.motion.records import SLACK
from cinetica.reading.laws import LAW_WORDS
from cinetica.reading.phrases import plain
from cinetica.reading.rules.register import NO_CHANGE, Line, explains, line
from cinetica.reading.ticks import LAW_RULES, Call, Tick

FACTORS = (
    ("fall_factor", "fall factor"), ("fast_fall_factor", "fast fall"), ("apex_factor", "apex factor"),
    ("heavy_factor", "heavy factor"), ("sustain_factor", "sustain factor"),
)  # fmt: skip


@explains("on_slope")
def _on_slope(tick: Tick, call: Call) -> Iterator[Line]:
    top, uphill = call.arguments[2], call.before.wx * call.before.slope > 0
    factor = tick.p.uphill_factor if uphill else tick.p.downhill_factor
    if factor != 1.0 and call.result != top:
        where = "uphill" if uphill else "downhill"
        yield line(
            "on_slope", f"{where}: top speed {tick.say.speed(top)} × {plain(factor)} {tick.say.units.unit('u/s')}"
        )


@explains("drive", *(law.value for law in Law))
def _drive(tick: Tick, call: Call) -> Iterator[Line]:
    laws = tick.calls_of(*(law.__name__ for law in LAW_RULES))
    # Laws call each other: the last to return is the chosen one.
    law = laws[-1]
    if not np.any(call.change) and call.before.throttle == call.after.throttle:
        return
    words = LAW_WORDS[Law(law.rule)].acted(tick, call)
    yield line(law.rule, f"{tick.say.velocities(call.before, call.after)}: {law.rule}, {words}", call.change)


@explains("feel_zones")
def _feel_zones(tick: Tick, call: Call) -> Iterator[Line]:
    s = call.after
    factors = [(s[f"zone_{name}"], name) for name in ("speed", "acceleration", "friction", "gravity")]
    felt = [f"{name} × {plain(value)}" for value, name in factors if value != 1.0]
    felt += [f"drag {tick.say.entered(s.zone_drag, '/s')}"] if s.zone_drag else []
    if s.zone_push_x or s.zone_push_y:
        felt.append(f"push {tick.say.value('ax', s.zone_push_x)}, {tick.say.value('ay', s.zone_push_y)}")
    if felt:
        yield line("feel_zones", f"in a zone: {', '.join(felt)}")


@explains("push_and_drag")
def _push_and_drag(tick: Tick, call: Call) -> Iterator[Line]:
    if np.any(call.change):
        words = f"{tick.say.velocities(call.before, call.after)}: push and drag of the zone"
        yield line("push_and_drag", words, call.change)


@explains("slide_down")
def _slide_down(tick: Tick, call: Call) -> Iterator[Line]:
    if np.any(call.change):
        slowest = tick.say.entered(tick.p.wall_slide_speed, "u/s")
        words = f"{tick.say.velocities(call.before, call.after)}: slides down the wall at {slowest} at most"
        yield line("slide_down", words, call.change)


@explains("fall", "weight")
def _fall(tick: Tick, call: Call) -> Iterator[Line]:
    p = tick.p
    weighed = tick.calls_of("weight")
    pulled = np.zeros(4)
    if not weighed:
        why = (
            "no gravity in the tick of the launch"
            if call.before.launched and not p.launch_gravity
            else "no gravity after the jump off the net: it floats"
            if call.before.since_climb_jump < p.jump_float - SLACK
            else "no gravity in coyote time: it floats"
        )
        yield line("fall", why)
    elif p.gravity:
        pulled[1] = -weighed[-1].result * tick.h
    rest = call.change - pulled
    if abs(rest[1]) <= SLACK:
        rest = NO_CHANGE
    if weighed and p.gravity:
        before = call.before.vy
        factors = "".join(_acting_factors(tick, weighed[-1]))
        words = f"gravity {tick.say.entered(p.gravity, 'u/s²')}{factors} × {tick.tick_words}"
        yield line("weight", f"{tick.say.change('vy', before, before + pulled[1])}: {words}", call.change - rest)
    if np.any(rest):
        fell = call.after.vy - rest[1]
        yield line(
            "fall",
            f"{tick.say.change('vy', fell, call.after.vy)}: terminal speed {tick.say.entered(p.terminal_speed, 'u/s')}",
            rest,
        )


def _acting_factors(tick: Tick, call: Call) -> Iterator[str]:
    """The factors that change the weight."""
    _, _, airborne, more = call.arguments
    if call.before.zone_gravity != 1.0:
        yield f" × {plain(call.before.zone_gravity)} of the zone"
    for field, name in FACTORS:
        without = tick.p.copy()
        without[field] = 1.0
        state = call.before
        if tick.p[field] != 1.0 and gravity.weight(state, without, airborne, more) != call.result:
            yield f" × {name} {plain(tick.p[field])}"
