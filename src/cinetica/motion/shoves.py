"""Shoves and the stun after them (docs/model.md, section 11)."""

from __future__ import annotations

from cinetica.motion.compiling import compiled
from cinetica.motion.dash import end_dash
from cinetica.motion.drive import take_over
from cinetica.motion.records import CLIMB_OFF, SHOVE, SLACK


@compiled
def shove(s, p, shoves):
    """Add the shove of this tick to the velocity. It ends a climb and a dash, and begins the stun."""
    if s.next_shove < shoves.shape[0] and shoves[s.next_shove, 0] == s.tick:
        take_shove(s, p, shoves[s.next_shove, 1], shoves[s.next_shove, 2])
        s.next_shove += 1


@compiled
def take_shove(s, p, vx, vy):
    """Add this velocity, and end what a shove ends."""
    if s.climbing:
        s.climbing = False
        s.marks |= CLIMB_OFF
    if s.dashing:
        end_dash(s, p)
    s.vx += vx
    s.vy += vy
    s.since_shove = 0.0
    s.marks |= SHOVE
    take_over(s, p)


@compiled
def stun(s, p):
    """For a while after a shove the intent counts as 0, down as not held, and no press has any effect."""
    s.stunned = s.since_shove < p.stun - SLACK
    if s.stunned:
        s.wx, s.wy, s.passes_zero, s.down = 0.0, 0.0, False, False
        # The intent must be computed again when it is over.
        s.rests, s.followed = False, False
