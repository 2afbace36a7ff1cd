"""Sliding down walls and jumping off them (docs/model.md, section 12; side view)."""

from __future__ import annotations

import math

from cinetica.motion.compiling import apart, compiled
from cinetica.motion.drive import take_over
from cinetica.motion.jump import lift_off
from cinetica.motion.records import SLACK, WALL_LAUNCH, WALL_OFF, WALL_ON


@compiled
def knows_walls(p):
    """Whether walls do anything but block."""
    return not p.top_view and (p.wall_slide_speed > 0.0 or p.wall_jump_speed > 0.0)


@apart
def sides_at_walls(solids, left, bottom, right, top, probe):
    """Whether a solid's upright face is within the probe, left and right, over at least half of the box's height."""
    at_left = at_right = False
    for i in range(solids.shape[0]):
        if min(top, solids[i, 3]) - max(bottom, solids[i, 1]) >= 0.5 * (top - bottom) - SLACK:
            if -SLACK <= left - solids[i, 2] <= probe + SLACK:
                at_left = True
            if -SLACK <= solids[i, 0] - right <= probe + SLACK:
                at_right = True
    return at_left, at_right


@compiled
def feel_walls(s, p, solids):
    """Find out whether the body ends the tick on a wall, and at which side."""
    s.on_wall = False
    if s.grounded or s.climbing or s.dashing:
        return
    half = 0.5 * p.width
    at_left, at_right = sides_at_walls(solids, s.x - half, s.y, s.x + half, s.y + p.height, p.wall_probe)
    left, right = at_left and s.vx <= SLACK, at_right and s.vx >= -SLACK
    if left or right:
        s.on_wall = True
        s.wall_side = 1 if right and (s.wx > 0.0 or not left) else -1


@compiled
def note_walls(s, p, solids, h):
    """Step 11: on a wall or not, its marks and timers."""
    was_on_wall = s.on_wall
    feel_walls(s, p, solids)
    if s.on_wall != was_on_wall:
        s.marks |= WALL_ON if s.on_wall else WALL_OFF
    s.since_wall = math.inf if s.grounded else 0.0 if s.on_wall else s.since_wall + h
    s.since_wall_jump = math.inf if s.grounded else s.since_wall_jump + h


@compiled
def pushes_at_wall(s):
    """Whether the intent points at the wall that the body is on."""
    return s.on_wall and s.wx * s.wall_side > 0.0


@compiled
def slide_down(s, p):
    """Limit the fall of a body that is pushed against its wall to slide_speed."""
    if p.wall_slide_speed > 0.0 and pushes_at_wall(s) and s.vy < -p.wall_slide_speed:
        s.vy = -p.wall_slide_speed


@compiled
def jump_off_wall(s, p):
    """Launch off the wall that the body is on, or was on within its coyote time: up, and away from it."""
    if p.wall_jump_speed <= 0.0 or s.grounded or not s.armed or p.wall_coyote - s.since_wall < -SLACK:
        return
    s.marks |= WALL_LAUNCH
    lift_off(s, p, p.wall_jump_speed)
    s.vx = -s.wall_side * p.wall_jump_away
    s.since_wall_jump = 0.0
    if p.spend_grace:
        s.since_wall = math.inf
    take_over(s, p)


@compiled
def locked_off_wall(s, p):
    """Whether input does not drive the body, so soon after a jump off a wall."""
    return s.since_wall_jump < p.wall_lock - SLACK
