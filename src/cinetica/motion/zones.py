"""Zones of a course, in which other numbers hold (docs/model.md, section 10)."""

from __future__ import annotations

import math

from cinetica.motion.compiling import apart, compiled
from cinetica.motion.contact import extents, overlaps


@apart
def felt(zones, left, bottom, right, top):
    """What the zones make of the numbers in this box: four factors multiplied, and drag and push added up."""
    speed = acceleration = friction = gravity = 1.0
    drag = push_x = push_y = 0.0
    for i in range(zones.shape[0]):
        if overlaps(zones, i, left, bottom, right, top):
            speed *= zones[i, 4]
            acceleration *= zones[i, 5]
            friction *= zones[i, 6]
            gravity *= zones[i, 7]
            drag += zones[i, 8]
            push_x += zones[i, 9]
            push_y += zones[i, 10]
    return speed, acceleration, friction, gravity, drag, push_x, push_y


@compiled
def feel_zones(s, p, zones):
    """Note what the zones do to the numbers of this tick, by where the body is when it begins."""
    half, below, above = extents(p)
    speed, acceleration, friction, gravity, drag, push_x, push_y = felt(
        zones, s.x - half, s.y - below, s.x + half, s.y + above
    )
    s.zone_speed, s.zone_acceleration, s.zone_friction, s.zone_gravity = speed, acceleration, friction, gravity
    s.zone_drag, s.zone_push_x, s.zone_push_y = drag, push_x, push_y


@compiled
def push_and_drag(s, h):
    """v += push·h, then v *= exp(-drag·h), of the zones that the body is in."""
    s.vx += s.zone_push_x * h
    s.vy += s.zone_push_y * h
    if s.zone_drag > 0.0:
        kept = math.exp(-s.zone_drag * h)
        s.vx, s.vy = s.vx * kept, s.vy * kept
