"""Facing and look (docs/model.md, section 9). Angles in radians."""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import Aim, FacingRule
from cinetica.motion.angles import TURN, wrapped
from cinetica.motion.compiling import compiled
from cinetica.motion.intent import shape_stick
from cinetica.motion.records import SLACK

OFF, MIRROR, DIRECT, SECTORS, EASE, CONSTANT = (code(rule) for rule in FacingRule)
AIM_STICK = code(Aim.AIM_STICK)


@compiled
def wanted_facing(s, p, x, y):
    """The angle of the source (x, y); without a source the present facing, or 0."""
    if x == 0.0 and (y == 0.0 or p.facing == MIRROR):
        return s.facing if p.keep_last else 0.0
    if p.facing == MIRROR:
        return math.pi if x < 0.0 else 0.0
    angle = math.atan2(y, x)
    if p.facing == SECTORS:
        sector = TURN / p.sectors
        angle = math.floor((angle + SLACK) / sector + 0.5) * sector
    return wrapped(angle)


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
    if p.has_heading:
        s.facing = wrapped(s.facing)
    elif p.facing != OFF:
        # Once let go, the second stick is held for a while where it was.
        aims = p.aim == AIM_STICK and (s.since_aim == 0.0 or s.since_aim <= p.aim_hold + SLACK)
        s.facing = turned(s, p, s.aim_x, s.aim_y, h) if aims else turned(s, p, s.wx, s.wy, h)


@compiled
def look(s, p, aim_x, aim_y, h):
    """Integrate yaw and pitch from the second stick; pitch stays within ±90°."""
    scale = p.look_modifier * h if s.modifier else h
    s.look_yaw += aim_x * p.look_rate_x * scale
    s.look_pitch += aim_y * p.look_rate_y * scale
    s.look_pitch = max(-0.5 * math.pi, min(0.5 * math.pi, s.look_pitch))


@compiled
def face_and_look(s, p, hand, h):
    """Facing and look, the first half of step 11 of a tick."""
    if s.rests and p.facing != EASE and p.facing != CONSTANT and not p.has_heading and p.aim_hold == 0.0:
        return
    if hand.aim_x == 0.0 and hand.aim_y == 0.0:
        face(s, p, 0.0, 0.0, h)
        return
    aim_x, aim_y = shape_stick(hand.aim_x, hand.aim_y, p)
    face(s, p, aim_x, aim_y, h)
    look(s, p, aim_x, aim_y, h)
