"""Facing and look (docs/model.md, section 9). Angles in radians."""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import AfterRelease, Aim, AimRelease, FacingRule
from cinetica.motion.angles import TURN, wrapped
from cinetica.motion.compiling import compiled
from cinetica.motion.intent import shape_stick
from cinetica.motion.records import MOUSE_ROW, SLACK

OFF, MIRROR, DIRECT, SECTORS, EASE, CONSTANT = (code(rule) for rule in FacingRule)
AIM_STICK = code(Aim.AIM_STICK)
FINISH = code(AfterRelease.FINISH)
MOVES = code(AimRelease.MOVES)


@compiled
def wanted_facing(s, p, x, y):
    """The angle of the source (x, y); without a source the present facing, where the last one pointed, or 0."""
    if x == 0.0 and (y == 0.0 or p.facing == MIRROR):
        if not p.keep_last:
            return 0.0
        return s.last_source if p.after_release == FINISH and (p.facing == EASE or p.facing == CONSTANT) else s.facing
    if p.facing == MIRROR:
        return math.pi if x < 0.0 else 0.0
    angle = math.atan2(y, x)
    if p.facing == SECTORS:
        sector = TURN / p.sectors
        angle = math.floor((angle + SLACK) / sector + 0.5) * sector
    s.last_source = wrapped(angle)
    return s.last_source


@compiled
def turned(s, p, x, y, h):
    """The facing after this tick: immediately, by a share of the shorter arc, or by at most facing_speed·h."""
    wanted = wanted_facing(s, p, x, y)
    if p.facing != EASE and p.facing != CONSTANT and not p.has_heading:
        return wanted
    arc = wrapped(wanted - s.facing)
    if p.facing == EASE:
        return wrapped(s.facing + arc * (1.0 - math.exp(-p.facing_rate * h)))
    step = p.facing_speed * h
    if abs(arc) <= step + SLACK:
        return wanted
    return wrapped(s.facing + math.copysign(step, arc))


@compiled
def face(s, p, aim_x, aim_y, h):
    """Set the facing: the heading if the law has one, else toward the intent or the second stick."""
    s.since_aim += h
    if aim_x != 0.0 or aim_y != 0.0:
        s.aim_x, s.aim_y, s.since_aim = aim_x, aim_y, 0.0
        s.aims = p.aim_release == MOVES
    if p.has_heading:
        s.facing = wrapped(s.facing)
    elif p.facing != OFF:
        # After its release, the second stick is held where it was for a while.
        held = s.since_aim == 0.0 or s.since_aim <= p.aim_hold + SLACK
        if not held and (s.wx != 0.0 or s.wy != 0.0):
            s.aims = False
        aims = p.aim == AIM_STICK and (held or s.aims)
        s.facing = turned(s, p, s.aim_x, s.aim_y, h) if aims else turned(s, p, s.wx, s.wy, h)


@compiled
def mouse_moves(hand):
    """Whether the mouse moves in this tick."""
    return hand.held >= MOUSE_ROW


@compiled
def mouse_counts(hand, mouse):
    """How far the mouse moves in this tick: counts to the right, and up."""
    row = hand.held // MOUSE_ROW - 1
    return mouse[row, 0], mouse[row, 1]


@compiled
def look(s, p, aim_x, aim_y, hand, mouse, h):
    """Turn yaw and pitch by the second stick's rates and by the mouse's counts; pitch stays within ±90°."""
    scale_x = scale_y = 1.0
    if s.modifier:
        scale_x = p.look_modifier
        scale_y = p.look_modifier_y if p.look_modifier_y > 0.0 else p.look_modifier
    counts = h * p.reference_rate if p.mouse_dt else 1.0
    s.look_yaw += aim_x * p.look_rate_x * (scale_x * h)
    s.look_pitch += aim_y * p.look_rate_y * (scale_y * h)
    if mouse_moves(hand):
        right, up = mouse_counts(hand, mouse)
        s.look_yaw += right * p.mouse_x * scale_x * counts
        s.look_pitch += up * p.mouse_y * scale_y * counts
    s.look_pitch = max(-0.5 * math.pi, min(0.5 * math.pi, s.look_pitch))


@compiled
def face_and_look(s, p, hand, mouse, h, more):
    """Facing and look, the first half of step 11 of a tick."""
    moved = more and mouse_moves(hand)
    if s.rests and not moved and p.facing != EASE and p.facing != CONSTANT and not p.has_heading and p.aim_hold == 0.0:
        return
    if hand.aim_x == 0.0 and hand.aim_y == 0.0:
        face(s, p, 0.0, 0.0, h)
        if moved:
            look(s, p, 0.0, 0.0, hand, mouse, h)
        return
    aim_x, aim_y = shape_stick(hand.aim_x, hand.aim_y, p)
    face(s, p, aim_x, aim_y, h)
    look(s, p, aim_x, aim_y, hand, mouse, h)
