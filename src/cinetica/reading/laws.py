"""What each drive law says of itself: of a tick in which it acted, and of how it is written down."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cinetica.model.laws import Law
from cinetica.model.parameters import code
from cinetica.model.tune import Form, Tune
from cinetica.motion.records import SLACK
from cinetica.reading.phrases import figure, from_to, plain, times
from cinetica.reading.ticks import Call, Tick


@dataclass(frozen=True)
class Words:
    """`acted`: what a law did in a tick. `written`: its lines of the tick, with numbers that `n` writes."""

    acted: Callable[[Tick, Call], str]
    written: Callable[[Tune, Callable[[str], str]], Iterator[str]]


def _top(tick: Tick) -> str:
    p = tick.p
    return (
        f"{plain(p.top_speed)} u/s{times(p.modifier_speed, 'modifier')}"
        if tick.s.modifier
        else f"{plain(p.top_speed)} u/s"
    )


def _still(call: Call, tick: Tick) -> bool:
    return bool(call.before.wx == 0 and (call.before.wy == 0 or not tick.top_view))


def _control(tick: Tick) -> str:
    return times(tick.p.air_control, "air control") if tick.airborne else ""


def _braking(tick: Tick) -> str:
    return times(tick.p.air_friction, "air friction") if tick.airborne else ""


def _goal(tick: Tick, call: Call) -> str:
    w = call.before
    share = f"({figure(w.wx)}, {figure(w.wy)})" if tick.top_view else figure(w.wx)
    return f"{_top(tick)} × intent {share}"


def _instant(tick: Tick, call: Call) -> str:
    share = (
        f", by the share {plain(min(1.0, tick.p.air_control))} of air control"
        if tick.airborne and tick.p.air_control < 1
        else ""
    )
    return f"{_goal(tick, call)}{share}"


def _ramp(tick: Tick, call: Call) -> str:
    p = tick.p
    if _still(call, tick):
        done = ", which is all there was" if call.after.vx == 0 and (call.after.vy == 0 or not tick.top_view) else ""
        return f"friction {plain(p.friction)} u/s²{_braking(tick)} × {tick.tick_words}{done}"
    along = call.before.vx * call.before.wx + (call.before.vy * call.before.wy if tick.top_view else 0.0)
    turning = p.turn_acceleration > 0 and along < 0
    name, value = ("turn acceleration", p.turn_acceleration) if turning else ("acceleration", p.acceleration)
    return f"{name} {plain(value)} u/s²{_control(tick)} × {tick.tick_words}, toward {_goal(tick, call)}"


def _ease(tick: Tick, call: Call) -> str:
    p = tick.p
    still = _still(call, tick)
    name, k, air = ("stop rate", p.stop_rate, _braking(tick)) if still else ("rate", p.rate, _control(tick))
    product = f"{plain(k)} /s{air} × {tick.tick_words}"
    share = f"1 − e^(−{product})" if p.form == code(Form.EXACT) else f"min(1, {product})"
    return f"{name}: {share} of the way to " + ("0" if still else _goal(tick, call))


def _throttle(tick: Tick, call: Call) -> str:
    p = tick.p
    ramped = from_to("speed", call.before.throttle, call.after.throttle)
    if _still(call, tick):
        return f"{ramped}, " + (
            "stops on release"
            if p.release_stop
            else f"friction {plain(p.friction)} u/s²{_braking(tick)} × {tick.tick_words}"
        )
    return f"{ramped} by {plain(p.acceleration)} u/s²{_control(tick)} × {tick.tick_words}, times the intent"


def _push(tick: Tick, call: Call) -> str:
    p = tick.p
    words = [] if _still(call, tick) else [f"{plain(p.acceleration)} u/s²{_control(tick)} × intent × {tick.tick_words}"]
    if p.drag:
        words.append(f"drag {plain(p.drag)} /s")
    if _still(call, tick):
        words.append(
            "stops on release"
            if p.release_stop
            else f"friction {plain(p.friction)} u/s²{_braking(tick)} × {tick.tick_words}"
        )
    top = p.top_speed * (p.modifier_speed if tick.s.modifier else 1.0)
    speed = math.hypot(call.after.vx, call.after.vy if tick.top_view else 0.0)
    if abs(speed - top) < SLACK:
        words.append(f"capped at {_top(tick)}")
    return ", ".join(words)


def _steer(tick: Tick, call: Call) -> str:
    before, after = math.degrees(call.before.facing), math.degrees(call.after.facing)
    p = tick.p
    thrust = f"friction {plain(p.friction)}" if call.before.wy == 0 else f"acceleration {plain(p.acceleration)}"
    return (
        f"heading {figure(before)}° → {figure(after)}°, along it {thrust} u/s² × {tick.tick_words}, across it grip"
        f" {plain(p.grip)} /s"
    )


def _arc(tick: Tick, call: Call) -> str:
    before, after = math.degrees(call.before.facing), math.degrees(call.after.facing)
    p = tick.p
    still = _still(call, tick)
    thrust = f"friction {plain(p.friction)}" if still else f"acceleration {plain(p.acceleration)}"
    turn = "heading stays" if before == after else f"heading {figure(before)}° → {figure(after)}°"
    return f"{turn}, along it {thrust} u/s² × {tick.tick_words}, across it grip {plain(p.grip)} /s"


# As it is written down: v and its goal from the side are those of x alone.


def _goal_of(tune: Tune) -> tuple[str, str]:
    return ("v.x", "S · w.x") if tune.view == "side" else ("v", "S · w")


def _toward(what: str, to: str, by: str) -> str:
    return f"{what} moves toward {to} by at most {by} · h, and stops there."


def _write_instant(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    v, goal = _goal_of(tune)
    yield f"{v} = {goal}."


def _write_ramp(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    v, goal = _goal_of(tune)
    yield f"With w other than 0: {_toward(v, goal, n('drive.acceleration'))}"
    if tune.drive.turn_acceleration:
        yield f"Where that is against the motion it moves by {n('drive.turn_acceleration')} · h instead."
    yield f"With w = 0: {_toward(v, '0', n('drive.friction'))}"


def _write_ease(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    v, goal = _goal_of(tune)
    share = "1 − exp(−k · h)" if tune.drive.form == "exact" else "min(1, k · h)"
    k = f"k = {n('drive.rate')}, and {n('drive.stop_rate')} while w = 0"
    yield f"{v} += ({goal} − {v}) · ({share}), with {k}."


def _write_throttle(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    yield f"A number s moves toward S by {n('drive.acceleration')} · h; v = s · w: a turn keeps the speed."
    falls = f"s falls by {n('drive.friction')} · h along the last direction"
    yield f"With w = 0: {'s = 0 at once' if tune.drive.release_stop else falls}."


def _write_push(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    v, goal = _goal_of(tune)
    drag = "exp(−drag · h)" if tune.drive.form == "exact" else "max(0, 1 − drag · h)"
    push = f"{v} += {n('drive.acceleration')} · {goal.removeprefix('S · ')} · h"
    yield f"{push}; then {v} *= {drag} with drag = {n('drive.drag')}."
    stop = f"{v} = 0" if tune.drive.release_stop else _toward(v, "0", n("drive.friction"))
    yield f"With w = 0: {stop} Then it is cut to S."


def _write_lean(tune: Tune, target: str) -> Iterator[str]:
    p = tune.drive
    if not p.bank_angle:
        return
    stages = [f"1 − exp(−{rate:g} · h)" for rate in (p.lean_ease, p.lean_settle) if rate]
    yield f"The bank is {target}" + (f", followed by {' and then by '.join(stages)}." if stages else ".")


def _write_arc(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    p = tune.drive
    share = f"1 − exp(−{p.turn_ease:g} · h) of" if p.turn_ease else "all of"
    most = f"at most {n('drive.turn_rate')} · h"
    yield f"With w other than 0 the heading turns by {share} the shorter arc toward w, {most}."
    if p.pivot_angle < 180:
        yield f"Where that arc is over {n('drive.pivot_angle')} it is turned at once, whole."
    yield f"Along the heading v moves toward S · |w| by {n('drive.acceleration')} · h."
    yield f"With w = 0 it moves toward 0 by {n('drive.friction')} · h."
    yield f"Across the heading v *= exp(−{n('drive.grip')} · h)."
    cut = f"cut to ±{abs(p.bank_angle):g}°"
    yield from _write_lean(tune, f"−{p.bank_angle:g}° · turn/h / {n('drive.turn_rate')}, {cut}")


def _write_steer(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    p = tune.drive
    eased = f", its turn speed eased by 1 − exp(−{p.turn_ease:g} · h)" if p.turn_ease else ""
    yield f"The heading turns by −w.x · {n('drive.turn_rate')} · h{eased}."
    along = f"Along the heading v moves toward S · w.y by {n('drive.acceleration')} · h"
    yield f"{along}; backward S is times {p.reverse_factor:g}."
    yield f"Without w.y it moves toward 0 by {n('drive.friction')} · h."
    yield f"Across the heading v *= exp(−{n('drive.grip')} · h)."
    yield from _write_lean(tune, f"−{p.bank_angle:g}° · turn speed / {n('drive.turn_rate')}")


LAW_WORDS = {
    Law.INSTANT: Words(_instant, _write_instant),
    Law.RAMP: Words(_ramp, _write_ramp),
    Law.EASE: Words(_ease, _write_ease),
    Law.THROTTLE: Words(_throttle, _write_throttle),
    Law.PUSH: Words(_push, _write_push),
    Law.STEER: Words(_steer, _write_steer),
    Law.ARC: Words(_arc, _write_arc),
}
