"""The dash: a burst at a fixed speed (docs/model.md, section 13)."""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import DashAim, DashExit, DashTrigger
from cinetica.motion.angles import wrapped
from cinetica.motion.compiling import apart, compiled, copy_record, on_stack
from cinetica.motion.drive import capped, take_over
from cinetica.motion.intent import cleared, length
from cinetica.motion.jump import close_hop
from cinetica.motion.records import CLIMB_OFF, DASH, DASH_END, LOST_DASH, SLACK

FACING, EIGHT = code(DashAim.FACING), code(DashAim.EIGHT)
TOP_SPEED, STOP = code(DashExit.TOP), code(DashExit.STOP)
DOUBLE_TAP = code(DashTrigger.DOUBLE_TAP)
EIGHTH = 0.25 * math.pi


@compiled
def leave_dash(s, p):
    """End the dash, with its velocity as it is."""
    s.dashing = False
    s.since_dash_end = 0.0
    s.marks |= DASH_END
    take_over(s, p)


@compiled
def end_dash(s, p):
    """End the dash: keep the velocity, shorten it to top speed, or stop."""
    leave_dash(s, p)
    if p.dash_exit == STOP:
        s.vx, s.vy = 0.0, 0.0
    elif p.dash_exit == TOP_SPEED:
        top = (p.top_speed * p.modifier_speed if s.modifier else p.top_speed) * s.zone_speed
        s.vx, s.vy = capped(s.vx, s.vy, top)
    take_over(s, p)


@compiled
def tapped(since, window, down):
    """The time since the first tap of a key after this tick's, and whether it was tapped twice within the window."""
    if not down:
        return since, False
    if since <= window + SLACK:
        # A third tap starts a new pair.
        return math.inf, True
    return 0.0, False


@compiled
def asks_for_dash(s, p, hand):
    """Whether a dash is asked for: by a press of its key, or by the second of two quick taps."""
    if p.dash_trigger != DOUBLE_TAP:
        return hand.dash_pressed
    s.since_left, left = tapped(s.since_left, p.dash_double_tap, s.left_at == s.tick)
    s.since_right, right = tapped(s.since_right, p.dash_double_tap, s.right_at == s.tick)
    s.since_up, up = tapped(s.since_up, p.dash_double_tap, s.up_at == s.tick)
    s.since_down, down = tapped(s.since_down, p.dash_double_tap, s.down_at == s.tick)
    return left or right or up or down


@compiled
def direction(s, p):
    """Where a dash goes: along the intent, or along the facing."""
    if p.dash_aim != FACING and not p.has_controls and (s.wx != 0.0 or s.wy != 0.0):
        x, y = s.wx, s.wy
    elif p.top_view:
        x, y = math.cos(s.facing), math.sin(s.facing)
    else:
        x, y = (1.0 if abs(wrapped(s.facing)) <= 0.5 * math.pi + SLACK else -1.0), 0.0
    if p.dash_aim == EIGHT:
        angle = math.floor((math.atan2(y, x) + SLACK) / EIGHTH + 0.5) * EIGHTH
        x, y = math.cos(angle), math.sin(angle)
    size = length(x, y)
    return cleared(x / size), cleared(y / size)


@compiled
def begin_dash(s, p):
    """Begin a dash; it ends a climb and closes the hop. In the air it uses up one of the air dashes."""
    s.dashing, s.dash_armed = True, False
    s.since_dash = 0.0
    s.marks |= DASH
    if not s.grounded:
        s.air_dashes_left -= 1
    if s.climbing:
        s.climbing = False
        s.marks |= CLIMB_OFF
    close_hop(s)
    s.dash_x, s.dash_y = direction(s, p)


@compiled
def dash(s, p, hand):
    """End a dash whose time is over, begin one that is asked for, and give a dashing body dash.speed along its way."""
    # On a copy: what a called function may change could not stay in registers.
    copy = on_stack(s)
    dash_on_copy(copy, p, hand)
    copy_record(copy, s)


@apart
def dash_on_copy(s, p, hand):
    """The work of `dash`."""
    if s.dashing and s.since_dash >= p.dash_time - SLACK:
        end_dash(s, p)
    asked = asks_for_dash(s, p, hand)
    if asked and not s.stunned:
        s.dash_armed = True
        s.since_dash_press = 0.0
    elif s.dash_armed and p.dash_buffer - s.since_dash_press < -SLACK:
        s.dash_armed = False
        s.marks |= LOST_DASH
    ready = not s.dashing and s.since_dash_end >= p.dash_cooldown - SLACK
    if s.dash_armed and ready and (s.grounded or s.air_dashes_left > 0):
        begin_dash(s, p)
    if s.dashing:
        s.vx, s.vy = p.dash_speed * s.dash_x, p.dash_speed * s.dash_y
        s.turn_speed = 0.0


@compiled
def count_dash(s, h):
    """Step 11: the timers of the dash."""
    s.since_dash += h
    s.since_dash_end += h
    s.since_dash_press += h
    s.since_left += h
    s.since_right += h
    s.since_up += h
    s.since_down += h
