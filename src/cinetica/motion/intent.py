"""From the player's input to the intent w, a vector of length up to 1 (docs/model.md, section 2)."""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import DeadZone, Diagonal, Forward, Opposed, RatioOrder
from cinetica.motion.compiling import compiled
from cinetica.motion.curve import height_at
from cinetica.motion.records import SLACK, STICK_OUT

LATEST, FIRST = code(Opposed.LATEST), code(Opposed.FIRST)
NO_ZONE, AXIAL = code(DeadZone.NONE), code(DeadZone.AXIAL)
NORMALIZED, LIMITED, DISC = code(Diagonal.NORMALIZED), code(Diagonal.LIMITED), code(Diagonal.DISC)
LOOK = code(Forward.LOOK)
BEFORE, AFTER = code(RatioOrder.BEFORE), code(RatioOrder.AFTER)


@compiled
def length(x, y):
    """|(x, y)|. Not `hypot`, whose last bit differs between the C library and Python."""
    return math.sqrt(x * x + y * y)


@compiled
def cleared(value):
    """The value, or 0 if it is only a rounding error away from 0."""
    return 0.0 if abs(value) <= SLACK else value


@compiled
def opposed(negative, positive, negative_at, positive_at, rule):
    """Direction -1, 0 or 1 of two opposite keys, pressed at these ticks. Both pressed in one tick cancel."""
    if negative != positive:
        return 1.0 if positive else -1.0
    if not positive or negative_at == positive_at:
        return 0.0
    later = 1.0 if positive_at > negative_at else -1.0
    if rule == LATEST:
        return later
    if rule == FIRST:
        return -later
    return 0.0


@compiled
def key_axis(value, direction, attack, release, reset, h):
    """A key axis after one tick: toward `direction` by h/attack, toward 0 by h/release (0 s: immediately)."""
    seconds = release if direction == 0.0 else attack
    if reset and value * direction < 0.0:
        value = 0.0
    if seconds <= 0.0:
        return direction
    step = h / seconds
    gap = direction - value
    if abs(gap) <= step + SLACK:
        return direction
    return cleared(value + math.copysign(step, gap))


@compiled
def dead_zone(m, inner, outer, rescale):
    """Deflection m >= 0 after the dead zones: 0 up to `inner`, 1 from 1 - `outer`, m or rescaled m between."""
    if m <= inner + SLACK:
        return 0.0
    if m >= 1.0 - outer - SLACK:
        return 1.0
    if rescale:
        return (m - inner) / (1.0 - outer - inner)
    return m


@compiled
def shape_stick(x, y, p):
    """A raw stick position after dead zone, response and curve.

    `radial` applies them to the length, `axial` to each axis.
    """
    if p.dead_zone_shape == AXIAL:
        x = math.copysign(dead_zone(abs(x), p.dead_zone, p.outer_zone, p.dead_zone_rescale), x)
        y = math.copysign(dead_zone(abs(y), p.dead_zone, p.outer_zone, p.dead_zone_rescale), y)
    elif p.dead_zone_shape != NO_ZONE:
        m = length(x, y)
        shaped = dead_zone(m, p.dead_zone, p.outer_zone, p.dead_zone_rescale)
        scale = shaped / m if shaped > 0.0 else 0.0
        x, y = x * scale, y * scale
    m = length(x, y)
    if p.has_response and 0.0 < m <= 1.0 + SLACK:
        given = height_at(p.response, m)
        x, y = x * (given / m), y * (given / m)
        m = given
    if p.curve != 1.0 and 0.0 < m <= 1.0 + SLACK:
        scale = m**p.curve / m
        x, y = x * scale, y * scale
    return cleared(x), cleared(y)


@compiled
def join_axes(x, y, rule):
    """Apply the rule for diagonals. `disc` maps the square to the disc by x√(1-y²/2), y√(1-x²/2).

    A ratio applied before can leave the square, so the roots are limited to 0.
    """
    if rule == DISC:
        return x * math.sqrt(max(0.0, 1.0 - 0.5 * y * y)), y * math.sqrt(max(0.0, 1.0 - 0.5 * x * x))
    square = x * x + y * y
    if (rule == NORMALIZED and square > 0.0) or (rule == LIMITED and square > 1.0):
        m = math.sqrt(square)
        return x / m, y / m
    return x, y


@compiled
def to_view(x, y, p, look_yaw):
    """Rotate by the view's yaw, minus the look's yaw where forward is where the look points.

    A tilted view shortens forward by cos(pitch) unless it is flattened.
    """
    if not p.view_flatten:
        y = y * math.cos(p.view_pitch)
    yaw = p.view_yaw - look_yaw if p.view_rule == LOOK else p.view_yaw
    if yaw == 0.0:
        return x, y
    c, s = math.cos(yaw), math.sin(yaw)
    return x * c - y * s, x * s + y * c


@compiled
def is_as_before(s, hand):
    """Whether the same is held as in the tick before, and no mouse moves."""
    return hand.held == s.held


@compiled
def sample(s, hand):
    """Read the keys and sticks held, and note the tick in which each direction was pressed.

    A tick rests if the intent has settled on keys that are still held and no stick is deflected: nothing has changed.
    """
    s.rests = s.followed and is_as_before(s, hand)
    if is_as_before(s, hand):
        return
    s.held = hand.held
    if hand.left and not s.left:
        s.left_at = s.tick
    if hand.right and not s.right:
        s.right_at = s.tick
    if hand.up and not s.up:
        s.up_at = s.tick
    if hand.down and not s.down:
        s.down_at = s.tick
    s.left, s.right, s.up, s.down = hand.left, hand.right, hand.up, hand.down
    s.jump, s.modifier = hand.jump, hand.modifier


@compiled
def pushes_down(s):
    """Whether down is held, by the key or by the intent."""
    return s.down or s.wy < -0.5 - SLACK


@compiled
def directed(x, y, p, look_yaw):
    """The intent from two axes or a shaped stick: ratio, diagonals and view.

    A component within the slack of 0 is 0.
    """
    if p.axis_ratio_order == BEFORE:
        y = y * p.axis_ratio
    if not p.has_controls:
        # There left and right steer, and up and down thrust: two separate controls, so no diagonal.
        x, y = join_axes(x, y, p.diagonal_rule)
    if p.axis_ratio_order == AFTER:
        y = y * p.axis_ratio
    x, y = to_view(x, y, p, look_yaw)
    return cleared(x), cleared(y)


@compiled
def intend(s, p, hand, h):
    """Set input and intent of this tick. A stick beyond its dead zone overrides the keys."""
    s.wy_before = s.wy
    if s.rests:
        return
    s.input_x = opposed(s.left, s.right, s.left_at, s.right_at, p.opposed)
    s.input_y = opposed(s.down, s.up, s.down_at, s.up_at, p.opposed)
    s.key_x = key_axis(s.key_x, s.input_x, p.key_attack, p.key_release, p.key_reverse_reset, h)
    s.key_y = key_axis(s.key_y, s.input_y, p.key_attack, p.key_release, p.key_reverse_reset, h)
    s.followed = hand.held < STICK_OUT and s.key_x == s.input_x and s.key_y == s.input_y
    s.passes_zero = (s.input_x != 0.0 and s.key_x == 0.0) or (p.top_view and s.input_y != 0.0 and s.key_y == 0.0)
    x, y = s.key_x, s.key_y
    if hand.stick_x != 0.0 or hand.stick_y != 0.0:
        stick_x, stick_y = shape_stick(hand.stick_x, hand.stick_y, p)
        if stick_x != 0.0 or stick_y != 0.0:
            x, y = stick_x, stick_y
            s.passes_zero = False
            s.input_x, s.input_y = hand.stick_x, hand.stick_y
    s.wx, s.wy = directed(x, y, p, s.look_yaw)
