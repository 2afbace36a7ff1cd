"""What each drive law says of itself: of a tick in which it acted, and of how it is written down."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cinetica.model.laws import Law
from cinetica.model.parameters import code
from cinetica.model.tune import Form, Tune
from cinetica.motion.drive import AFTER_MOVE, CAP_FIRST
from cinetica.motion.records import SLACK
from cinetica.reading.phrases import figure, plain, times
from cinetica.reading.ticks import Call, Tick


@dataclass(frozen=True)
class Words:
    """`acted`: what a law did in a tick. `written`: its lines of the tick, with numbers that `n` writes."""

    acted: Callable[[Tick, Call], str]
    written: Callable[[Tune, Callable[[str], str]], Iterator[str]]


def _top(tick: Tick) -> str:
    p = tick.p
    return f"{tick.say.entered(p.top_speed, 'u/s')}{times(p.modifier_speed, 'modifier') if tick.s.modifier else ''}"


def _still(call: Call, tick: Tick) -> bool:
    return bool(call.before.wx == 0 and (call.before.wy == 0 or not tick.top_view))


def _control(tick: Tick) -> str:
    return times(tick.p.air_control, "air control") if tick.airborne else ""


def _braking(tick: Tick) -> str:
    return times(tick.p.air_friction, "air friction") if tick.airborne else ""


def _friction(tick: Tick) -> str:
    return f"friction {tick.say.entered(tick.p.friction, 'u/s²')}{_braking(tick)} × {tick.tick_words}"


def _pushed(tick: Tick, between: str = "") -> str:
    return f"{tick.say.entered(tick.p.acceleration, 'u/s²')}{_control(tick)}{between} × {tick.tick_words}"


def _goal(tick: Tick, call: Call) -> str:
    w = call.before
    return f"{_top(tick)} × intent {tick.say.intent(w.wx, w.wy) if tick.top_view else figure(w.wx)}"


def _instant(tick: Tick, call: Call) -> str:
    share = (
        f", by the share {plain(tick.p.air_control)} of air control" if tick.airborne and tick.p.air_control < 1 else ""
    )
    return f"{_goal(tick, call)}{share}"


def _waits(tick: Tick) -> bool:
    """Whether friction waits for the move."""
    return bool(tick.p.friction_step == AFTER_MOVE)


def _ramp(tick: Tick, call: Call) -> str:
    p = tick.p
    if _still(call, tick):
        done = ", which is all there was" if call.after.vx == 0 and (call.after.vy == 0 or not tick.top_view) else ""
        return f"{_friction(tick)}{done}"
    along = call.before.vx * call.before.wx + (call.before.vy * call.before.wy if tick.top_view else 0.0)
    turning = p.turn_acceleration > 0 and along < 0
    name, value = ("turn acceleration", p.turn_acceleration) if turning else ("acceleration", p.acceleration)
    by = f"{name} {tick.say.entered(value, 'u/s²')}{_control(tick)} × {tick.tick_words}"
    return f"{by}, toward {_goal(tick, call)}"


def _ease(tick: Tick, call: Call) -> str:
    p = tick.p
    still = _still(call, tick)
    name, k, air = ("stop rate", p.stop_rate, _braking(tick)) if still else ("rate", p.rate, _control(tick))
    product = f"{_rate(tick, k)}{air} × {tick.tick_words}"
    share = f"1 − e^(−{product})" if p.form == code(Form.EXACT) else f"min(1, {product})"
    return f"{name}: {share} of the way to " + ("0" if still else _goal(tick, call))


def _rate(tick: Tick, k: float) -> str:
    return tick.say.entered(k, "/s").replace(" 1/", " /")


def _throttle(tick: Tick, call: Call) -> str:
    ramped = tick.say.change("speed", call.before.throttle, call.after.throttle)
    if _still(call, tick):
        return f"{ramped}, {'stops on release' if tick.p.release_stop else _friction(tick)}"
    return f"{ramped} by {_pushed(tick)}, times the intent"


def _push(tick: Tick, call: Call) -> str:
    p = tick.p
    words = [] if _still(call, tick) else [_pushed(tick, " × intent")]
    if p.drag:
        words.append(f"drag {_rate(tick, p.drag)}")
    if _still(call, tick) and (p.release_stop or not _waits(tick)):
        words.append("stops on release" if p.release_stop else _friction(tick))
    top = p.top_speed * (p.modifier_speed if tick.s.modifier else 1.0)
    speed = math.hypot(call.after.vx, call.after.vy if tick.top_view else 0.0)
    if abs(speed - top) < SLACK:
        words.append(f"capped at {_top(tick)}")
    if p.cap_step == CAP_FIRST:
        words.append("with the cap before the push")
    return ", ".join(words)


def _along(tick: Tick, *, driven: bool) -> str:
    name, value = ("acceleration", tick.p.acceleration) if driven else ("friction", tick.p.friction)
    if not driven and tick.p.cruise_speed > 0 and tick.p.law == code(Law.STEER):
        name = f"toward the cruise speed {tick.say.entered(tick.p.cruise_speed, 'u/s')} by friction"
    across = f"across it grip {_rate(tick, tick.p.grip)}"
    return f"along it {name} {tick.say.entered(value, 'u/s²')} × {tick.tick_words}, {across}"


def _steer(tick: Tick, call: Call) -> str:
    turn = tick.say.turned("heading", call.before.facing, call.after.facing)
    return f"{turn}, {_along(tick, driven=call.before.wy != 0)}"


def _arc(tick: Tick, call: Call) -> str:
    before, after = call.before.facing, call.after.facing
    turn = "heading stays" if before == after else tick.say.turned("heading", before, after)
    return f"{turn}, {_along(tick, driven=not _still(call, tick))}"


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
    yield f"With w = 0: {_toward(v, '0', n('drive.friction'))}{_late(tune)}"


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
    stop = f"{v} = 0." if tune.drive.release_stop else _toward(v, "0", n("drive.friction")) + _late(tune)
    if tune.drive.cap_step == "before":
        yield f"Before that {v} is cut to S, and not afterwards."
    yield f"With w = 0: {stop}{'' if tune.drive.cap_step == 'before' else ' Then it is cut to S.'}"


def _late(tune: Tune) -> str:
    return " It does so after the move and its contact, not before." if tune.drive.friction_step == "after" else ""


def _share(tune: Tune, rate: float) -> str:
    """The share that a rate of turn or lean closes."""
    return f"1 − exp(−{rate:g} · h)" if tune.drive.turn_form == "exact" else f"min(1, {rate:g} · h)"


def _write_lean(tune: Tune, target: str) -> Iterator[str]:
    p = tune.drive
    if not p.bank_angle:
        return
    stages = [_share(tune, rate) for rate in (p.lean_ease, p.lean_settle) if rate]
    yield f"The bank is {target}" + (f", followed by {' and then by '.join(stages)}." if stages else ".")


def _write_arc(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    p = tune.drive
    share = f"{_share(tune, p.turn_ease)} of" if p.turn_ease else "all of"
    most = f"at most {n('drive.turn_rate')} · h"
    if p.turn_blend == "sum":
        f = _share(tune, p.turn_ease) if p.turn_ease else "1"
        yield (
            f"With w other than 0 the heading turns to the angle of (1 − f) · heading + f · w, both 1 long, with"
            f" f = {f}, {most}; where they cancel, by f of the arc."
        )
    else:
        yield f"With w other than 0 the heading turns by {share} the shorter arc toward w, {most}."
    if p.pivot_angle < 180 and p.turn_blend != "sum":
        yield f"Where that arc is over {n('drive.pivot_angle')} it is turned at once, whole."
    yield f"Along the heading v moves toward S · |w| by {n('drive.acceleration')} · h."
    yield f"With w = 0 it moves toward 0 by {n('drive.friction')} · h."
    yield f"Across the heading v *= exp(−{n('drive.grip')} · h)."
    cut = f"cut to ±{abs(p.bank_angle):g}°"
    yield from _write_lean(tune, f"−{p.bank_angle:g}° · turn/h / {n('drive.turn_rate')}, {cut}")


def _write_steer(tune: Tune, n: Callable[[str], str]) -> Iterator[str]:
    p = tune.drive
    eased = f", its turn speed eased by {_share(tune, p.turn_ease)}" if p.turn_ease else ""
    yield f"The heading turns by −w.x · {n('drive.turn_rate')} · h{eased}."
    along = f"Along the heading v moves toward S · w.y by {n('drive.acceleration')} · h"
    yield f"{along}; backward S is times {p.reverse_factor:g}."
    goal = f"{n('drive.cruise_speed')}, from below too," if p.cruise_speed else "0"
    yield f"Without w.y it moves toward {goal} by {n('drive.friction')} · h."
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
