"""The displacement of a tick through the course: steps 9 and 10 (docs/model.md, sections 7 and 8)."""

from __future__ import annotations

from cinetica.motion.compiling import compiled
from cinetica.motion.contact import (
    PASS_THROUGH,
    STOP_ALL,
    SWEPT,
    move_x,
    moved,
    note_overlap,
    rise,
    sink,
    tops_under_feet,
)
from cinetica.motion.drive import AFTER_MOVE, late_friction
from cinetica.motion.records import SLACK, WALL
from cinetica.motion.slopes import has_lines, move_over_lines


@compiled
def move_side(s, p, ground, dx, dy):
    """Move by (dx, dy) seen from the side, then find out whether the body stands."""
    half, height = 0.5 * p.width, p.height
    blocked_below = False
    if move_x(s, p, ground.solids, half, 0.0, height, dx):
        if dy > 0.0:
            rise(s, p, ground.solids, half, height, dy)
        elif dy < 0.0:
            blocked_below = sink(s, p, ground, half, height, dy)
    s.grounded, s.hovers = blocked_below, False
    if not blocked_below and s.vy <= SLACK:
        gap = tops_under_feet(s, ground, s.x, s.y, half)
        s.grounded = gap <= p.ground_probe + SLACK
        s.hovers = s.grounded and gap > SLACK
        if gap <= SLACK and p.sweep != PASS_THROUGH:
            # Gravity acts on the ground too; the ground takes it away even where the body did not move.
            s.vy = 0.0


@compiled
def move_top(s, p, solids, dx, dy):
    """Move by (dx, dy) seen from above."""
    half, reach = 0.5 * p.width, 0.5 * p.height
    if move_x(s, p, solids, half, reach, reach, dx):
        s.y, blocked = moved(p, solids, 1, s.y, reach, reach, s.x - half, s.x + half, dy)
        if blocked:
            s.vy = 0.0
            s.marks |= WALL
            if p.wall == STOP_ALL:
                s.vx = 0.0
    s.grounded = True


@compiled
def move(s, p, ground, dx, dy, h, more):
    """Steps 9 and 10 of a tick: move by (dx, dy) as far as the course allows, and store the remaining overlap."""
    if not p.top_view and has_lines(p, ground):
        move_over_lines(s, p, ground, dx, dy, h, more)
        return
    if p.top_view:
        move_top(s, p, ground.solids, dx, dy)
    else:
        move_side(s, p, ground, dx, dy)
    if p.sweep != SWEPT or s.overlap > 0.0:
        # A swept body that was outside of all solids still is.
        note_overlap(s, p, ground.solids)
    if more and p.friction_step == AFTER_MOVE:
        late_friction(s, p)
    s.row_vx, s.row_vy = s.vx, s.vy
