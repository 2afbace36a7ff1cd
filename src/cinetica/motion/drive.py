"""The drive: from intent and velocity to the new planar velocity (docs/model.md, section 5).

Every law takes a velocity v, the intent w and the speed S of full input, all as x and y. One axis alone is the same law
with the other axis at 0; the side view and separate axes use it so.
"""

from __future__ import annotations

import math

from cinetica.model.laws import Law
from cinetica.model.parameters import code
from cinetica.model.tune import Axes, CapStep, Form, FrictionStep, TurnBlend
from cinetica.motion.angles import wrapped
from cinetica.motion.compiling import compiled
from cinetica.motion.curve import height_at
from cinetica.motion.intent import length
from cinetica.motion.records import SLACK

INSTANT, RAMP, EASE, THROTTLE, PUSH, STEER, ARC = (
    code(law) for law in (Law.INSTANT, Law.RAMP, Law.EASE, Law.THROTTLE, Law.PUSH, Law.STEER, Law.ARC)
)
JOINED = code(Axes.JOINED)
EXACT = code(Form.EXACT)
AFTER_MOVE = code(FrictionStep.AFTER)
CAP_FIRST = code(CapStep.BEFORE)
SUM = code(TurnBlend.SUM)


@compiled
def toward(vx, vy, tx, ty, d):
    """Move v by at most d straight toward T, stopping there."""
    gap_x, gap_y = tx - vx, ty - vy
    reach = d + SLACK
    square = gap_x * gap_x + gap_y * gap_y
    if square <= reach * reach:
        return tx, ty
    if gap_y == 0.0:
        # The same result as below, to the bit, without a root and two divisions.
        return vx + math.copysign(d, gap_x), vy
    gap = math.sqrt(square)
    return vx + d * (gap_x / gap), vy + d * (gap_y / gap)


@compiled
def instant(vx, vy, wx, wy, top, airborne, p):
    """v = S·w; in the air v += (S·w - v)·min(1, air_control)."""
    share = p.air_control if airborne and p.air_control < 1.0 else 1.0
    if share == 1.0:
        return top * wx, top * wy
    return vx + (top * wx - vx) * share, vy + (top * wy - vy) * share


@compiled
def ramp(vx, vy, wx, wy, top, control, braking, p, h):
    """Without input, change v toward 0 by friction·h, else toward S·w by a·h.

    a is turn_acceleration where that is set and v·w < 0.
    """
    if wx == 0.0 and wy == 0.0:
        if p.friction_step == AFTER_MOVE and p.law == RAMP:
            return vx, vy
        return toward(vx, vy, 0.0, 0.0, p.friction * braking * h)
    turning = p.turn_acceleration > 0.0 and (vx * wx + vy * wy) * top < -SLACK
    acceleration = p.turn_acceleration if turning else p.acceleration
    return toward(vx, vy, top * wx, top * wy, acceleration * control * h)


@compiled
def ease(vx, vy, wx, wy, top, control, braking, p, h):
    """v += (S·w - v)·f with f = 1 - exp(-k·h), or min(1, k·h) in the linear form."""
    still = wx == 0.0 and wy == 0.0
    k = p.stop_rate * braking if still else p.rate * control
    if p.form == EXACT:
        f = 1.0 - math.exp(-k * h)
    else:
        f = k * h if k * h < 1.0 else 1.0
    return vx + (top * wx - vx) * f, vy + (top * wy - vy) * f


@compiled
def throttle(s, vx, vy, wx, wy, top, control, braking, p, h):
    """Ramp a scalar s to S, with v = s·w.

    Without input s falls, starting at no more than |v|, along the last direction. A key axis on its way through 0 still
    counts as input.
    """
    if wx != 0.0 or wy != 0.0 or s.passes_zero:
        s.throttle, _ = toward(s.throttle, 0.0, top, 0.0, p.acceleration * control * h)
        m = length(wx, wy)
        if m > 0.0:
            s.throttle_x, s.throttle_y = wx / m, wy / m
        return s.throttle * wx, s.throttle * wy
    speed = length(vx, vy)
    if s.throttle > speed:
        s.throttle = speed
    if p.release_stop:
        s.throttle = 0.0
    s.throttle, _ = toward(s.throttle, 0.0, 0.0, 0.0, p.friction * braking * h)
    return s.throttle * s.throttle_x, s.throttle * s.throttle_y


@compiled
def capped(vx, vy, top):
    """v, shortened to the length S where it is longer."""
    speed = length(vx, vy)
    if speed > top:
        return vx * (top / speed), vy * (top / speed)
    return vx, vy


@compiled
def push(vx, vy, wx, wy, top, control, braking, p, h):
    """v += acceleration·w·h, then drag; without input friction or an immediate stop.

    Finally |v| is limited to S; with `cap_step = before` it is at first, and not then.
    """
    if p.cap_step == CAP_FIRST:
        vx, vy = capped(vx, vy, top)
    vx += p.acceleration * control * h * wx
    vy += p.acceleration * control * h * wy
    kept = math.exp(-p.drag * h) if p.form == EXACT else 1.0 - p.drag * h
    if kept < 0.0:
        kept = 0.0
    vx, vy = vx * kept, vy * kept
    if wx == 0.0 and wy == 0.0:
        if p.release_stop:
            return 0.0, 0.0
        if p.friction_step != AFTER_MOVE:
            vx, vy = toward(vx, vy, 0.0, 0.0, p.friction * braking * h)
    return (vx, vy) if p.cap_step == CAP_FIRST else capped(vx, vy, top)


@compiled
def turn_share(p, rate, h):
    """The share that a rate of turn or lean closes in a tick: 1 - exp(-k·h), or min(1, k·h) in the linear form."""
    if p.turn_form == EXACT:
        return 1.0 - math.exp(-rate * h)
    return rate * h if rate * h < 1.0 else 1.0


@compiled
def lean(s, target, p, h):
    """The bank, smoothed twice.

    A first value moves toward the target by the share of lean_ease, and the bank moves toward that value alike.
    """
    s.lean = s.lean + (target - s.lean) * turn_share(p, p.lean_ease, h) if p.lean_ease > 0.0 else target
    s.bank = s.bank + (s.lean - s.bank) * turn_share(p, p.lean_settle, h) if p.lean_settle > 0.0 else s.lean


@compiled
def along_heading(s, vx, vy, w, top, control, braking, p, h):
    """Along the heading v ramps to S·w, without w to 0 or cruise_speed; across it v decays by exp(-grip·h)."""
    ux, uy = math.cos(s.facing), math.sin(s.facing)
    along, across = vx * ux + vy * uy, vy * ux - vx * uy
    if w == 0.0 and p.cruise_speed > 0.0 and p.law == STEER:
        along, _ = toward(along, 0.0, p.cruise_speed, 0.0, p.friction * braking * h)
    else:
        along, _ = ramp(along, 0.0, w, 0.0, top, control, braking, p, h)
    across = across * math.exp(-p.grip * h)
    return along * ux - across * uy, along * uy + across * ux


@compiled
def blended(s, wx, wy, way, share):
    """The turn to the angle of (1 - f)·u + f·w, both of length 1; f of the arc where they cancel."""
    size = length(wx, wy)
    x = (1.0 - share) * math.cos(s.facing) + share * (wx / size)
    y = (1.0 - share) * math.sin(s.facing) + share * (wy / size)
    if length(x, y) <= SLACK:
        return way * share
    return wrapped(math.atan2(y, x) - s.facing)


@compiled
def arc(s, vx, vy, wx, wy, top, control, braking, p, h):
    """Turn the heading toward w by the share of turn_ease, at most turn_rate·h.

    The share is of the shorter arc, or of the two directions (`blended`). The velocity follows the heading.
    """
    turn = 0.0
    if wx != 0.0 or wy != 0.0:
        way = wrapped(math.atan2(wy, wx) - s.facing)
        share = turn_share(p, p.turn_ease, h) if p.turn_ease > 0.0 else 1.0
        turn = blended(s, wx, wy, way, share) if p.turn_blend == SUM else way * share
        if abs(way) > p.pivot_angle + SLACK and p.turn_blend != SUM:
            turn = way
        elif abs(turn) > p.turn_rate * h:
            turn = math.copysign(p.turn_rate * h, turn)
    s.facing += turn
    target = -p.bank_angle * (turn / h) / p.turn_rate if p.turn_rate > 0.0 and h > 0.0 else 0.0
    reach = abs(p.bank_angle)
    lean(s, max(-reach, min(reach, target)), p, h)
    return along_heading(s, vx, vy, length(wx, wy), top, control, braking, p, h)


@compiled
def steer(s, vx, vy, wx, wy, top, control, braking, p, h):
    """Left and right turn the heading; along it v ramps to S·wy, across it v decays by exp(-grip·h)."""
    share = turn_share(p, p.turn_ease, h) if p.turn_ease > 0.0 else 1.0
    s.turn_speed += (-wx * p.turn_rate - s.turn_speed) * share
    s.facing += s.turn_speed * h
    lean(s, -p.bank_angle * s.turn_speed / p.turn_rate if p.turn_rate > 0.0 else 0.0, p, h)
    return along_heading(s, vx, vy, wy, top * p.reverse_factor if wy < 0.0 else top, control, braking, p, h)


@compiled
def plain(vx, vy, wx, wy, top, airborne, control, braking, p, h):
    """The laws without internal state."""
    if p.law == INSTANT:
        return instant(vx, vy, wx, wy, top, airborne, p)
    if p.law == EASE:
        return ease(vx, vy, wx, wy, top, control, braking, p, h)
    if p.law == PUSH:
        return push(vx, vy, wx, wy, top, control, braking, p, h)
    return ramp(vx, vy, wx, wy, top, control, braking, p, h)


@compiled
def on_slope(s, p, top):
    """Scale S by uphill_factor when walking up a line and by downhill_factor when walking down."""
    if s.wx * s.slope > 0.0:
        return top * p.uphill_factor
    return top * p.downhill_factor if s.wx * s.slope < 0.0 else top


@compiled
def take_over(s, p):
    """The throttle of a velocity that something else has made: its length, along it."""
    vy = s.vy if p.top_view else 0.0
    s.throttle = length(s.vx, vy)
    if s.throttle > 0.0:
        s.throttle_x, s.throttle_y = s.vx / s.throttle, vy / s.throttle


@compiled
def waits_for_move(p):
    """Whether friction acts after the move."""
    return p.friction_step == AFTER_MOVE and (p.law == RAMP or (p.law == PUSH and not p.release_stop))


@compiled
def note_late(s, p, h):
    """Note by how much friction slows after the move, on each axis that has no input."""
    joined = p.top_view and p.axes == JOINED
    if s.wx == 0.0 and (not joined or s.wy == 0.0):
        s.late_x = p.friction * s.braking_x * h
    if p.top_view and s.wy == 0.0 and (not joined or s.wx == 0.0):
        s.late_y = p.friction * s.braking_y * h


@compiled
def late_friction(s, p):
    """Move what contact has left of v toward 0 by the friction that waited for the move."""
    if p.top_view and p.axes == JOINED:
        s.vx, s.vy = toward(s.vx, s.vy, 0.0, 0.0, s.late_x)
        return
    s.vx, _ = toward(s.vx, 0.0, 0.0, 0.0, s.late_x)
    s.vy, _ = toward(s.vy, 0.0, 0.0, 0.0, s.late_y) if p.top_view else (s.vy, 0.0)


@compiled
def curved(p, control, braking, speed, top):
    """The factors on acceleration and friction, times the drawn curves at the speed as a share of S."""
    if not p.has_curves:
        return control, braking
    # If S is 0, the last point counts.
    share = speed / top if top > 0.0 else math.inf
    return control * height_at(p.acceleration_curve, share), braking * height_at(p.friction_curve, share)


@compiled
def drive_each_axis(s, p, airborne, top, control, braking, h, more):
    """Drive x and, seen from above, y, each by itself."""
    control_x, braking_x = curved(p, control, braking, abs(s.vx), top) if more else (control, braking)
    s.vx, _ = plain(s.vx, 0.0, s.wx, 0.0, top, airborne, control_x, braking_x, p, h)
    if more:
        s.braking_x = braking_x
    if p.top_view:
        control_y, braking_y = curved(p, control, braking, abs(s.vy), top) if more else (control, braking)
        s.vy, _ = plain(s.vy, 0.0, s.wy, 0.0, top, airborne, control_y, braking_y, p, h)
        if more:
            s.braking_y = braking_y


@compiled
def drive(s, p, airborne, h, more):
    """Set the planar velocity of this tick. In the side view only x is driven.

    In the air, control and friction are scaled.
    """
    top = p.top_speed * p.modifier_speed if s.modifier else p.top_speed
    if s.slope != 0.0 and not airborne:
        top = on_slope(s, p, top)
    control = p.air_control if airborne else 1.0
    braking = p.air_friction if airborne else 1.0
    if more:
        top, control, braking = top * s.zone_speed, control * s.zone_acceleration, braking * s.zone_friction
    joined = p.has_heading or p.law == THROTTLE or (p.top_view and p.axes == JOINED)
    if not joined:
        drive_each_axis(s, p, airborne, top, control, braking, h, more)
        return
    if more:
        control, braking = curved(p, control, braking, length(s.vx, s.vy if p.top_view else 0.0), top)
        s.braking_x, s.braking_y = braking, braking
    if p.law == STEER:
        s.vx, s.vy = steer(s, s.vx, s.vy, s.wx, s.wy, top, control, braking, p, h)
    elif p.law == ARC:
        s.vx, s.vy = arc(s, s.vx, s.vy, s.wx, s.wy, top, control, braking, p, h)
    elif p.law != THROTTLE:
        s.vx, s.vy = plain(s.vx, s.vy, s.wx, s.wy, top, airborne, control, braking, p, h)
    elif p.top_view:
        s.vx, s.vy = throttle(s, s.vx, s.vy, s.wx, s.wy, top, control, braking, p, h)
    else:
        s.vx, _ = throttle(s, s.vx, 0.0, s.wx, 0.0, top, control, braking, p, h)
