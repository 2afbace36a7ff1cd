"""Nets and ladders (docs/model.md, section 4)."""

from __future__ import annotations

from cinetica.model.parameters import code
from cinetica.model.tune import Hold
from cinetica.motion.compiling import compiled
from cinetica.motion.contact import extents, touches_any
from cinetica.motion.jump import close_hop, lift_off
from cinetica.motion.records import CLIMB_OFF, CLIMB_ON, LAUNCH, SLACK

HELD = code(Hold.HELD)


@compiled
def climb(s, p, ground, pressed):
    """Grab a climb zone, climb in it, or jump off.

    Up grabs when newly pushed (or while held); in the zone v = climb_speed·w. A press jumps off and starts the lock.
    """
    half, below, above = extents(p)
    over = touches_any(ground.climb, s.x - half, s.y - below, s.x + half, s.y + above)
    if s.climbing and not over:
        s.climbing = False
        s.marks |= CLIMB_OFF
    elif over and not s.climbing and s.since_climb_jump >= p.climb_lock - SLACK:
        if s.wy > 0.5 + SLACK and (p.hold == HELD or s.wy_before <= 0.5 + SLACK):
            s.climbing = True
            close_hop(s)
            s.marks |= CLIMB_ON
    if s.climbing and pressed:
        s.climbing = False
        s.since_climb_jump = 0.0
        s.marks |= CLIMB_OFF | LAUNCH
        lift_off(s, p, p.climb_jump_speed)
    elif s.climbing:
        s.vx, s.vy = p.climb_speed * s.wx, p.climb_speed * s.wy
