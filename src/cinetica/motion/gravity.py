"""Gravity in one tick (docs/model.md, section 6)."""

from __future__ import annotations

from cinetica.motion.compiling import compiled
from cinetica.motion.intent import pushes_down
from cinetica.motion.jump import HEAVY_HOP, SUSTAIN_HOP, close_hop, holding
from cinetica.motion.records import SLACK


@compiled
def weight(s, p, airborne, more):
    """The downward acceleration of this tick: gravity times the factors that apply."""
    g = p.gravity * s.zone_gravity if more else p.gravity
    if s.vy < -SLACK:
        g *= p.fall_factor
        if pushes_down(s):
            g *= p.fast_fall_factor
    if airborne and holding(s) and abs(s.vy) < p.apex_speed - SLACK:
        g *= p.apex_factor
    if s.hop_open:
        if p.short_hop == HEAVY_HOP:
            if s.vy > SLACK and not holding(s) and s.since_launch >= p.min_hold - SLACK:
                g *= p.heavy_factor
        elif p.short_hop == SUSTAIN_HOP and s.since_launch < p.sustain_time - SLACK:
            g *= p.sustain_factor
    return g


@compiled
def fall(s, p, airborne, h, more):
    """vy -= g·h, limited to -terminal_speed.

    Nothing is subtracted on a weightless launch tick, or while floating in coyote time or after a jump off a net.
    """
    off_net = more and s.since_climb_jump < p.jump_float - SLACK
    in_coyote = p.coyote_float and not s.spent and not s.hovers and s.since_ground <= p.coyote + SLACK
    if not off_net and not in_coyote and (p.launch_gravity or not s.launched):
        s.vy -= weight(s, p, airborne, more) * h
    if p.terminal_speed > 0.0 and s.vy < -p.terminal_speed:
        s.vy = -p.terminal_speed
    if s.vy <= SLACK:
        close_hop(s)
