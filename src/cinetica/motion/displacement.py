"""The displacement of a tick through the course: steps 9 and 10 (docs/model.md, sections 7 and 8)."""

from __future__ import annotations

from cinetica.motion.compiling import compiled
from cinetica.motion.contact import (
    PASS_THROUGH,
    SWEPT,
    half_probe,
    move_x,
    moved,
    note_overlap,
    rise,
    show_late,
    sink,
    stop_at_side,
    tops_under_feet,
    touch_while_rising,
    whole_pixels,
)
from cinetica.motion.dash import end_dash
from cinetica.motion.drive import AFTER_MOVE, late_friction
from cinetica.motion.records import SLACK, WALL
from cinetica.motion.slopes import has_lines, move_over_lines, note_overlap_on_lines, seen


@compiled
def move_side(s, p, ground, dx, dy, more):
    """Move by (dx, dy) seen from the side, then find out whether the body stands."""
    half, height = 0.5 * p.width, p.height
    walks = s.grounded and not s.launched and not s.climbing
    stands = False
    if move_x(s, p, ground.solids, half, 0.0, height, dx, walks, more):
        if dy > 0.0:
            rise(s, p, ground.solids, half, height, dy, more)
        elif dy < 0.0:
            stands = sink(s, p, ground, half, height, dy, more)
    s.grounded, s.hovers = stands, False
    if not stands and s.vy <= SLACK:
        gap = tops_under_feet(s, ground, s.x, s.y, half_probe(p, half) if more else half)
        s.grounded = gap <= p.ground_probe + SLACK
        s.hovers = s.grounded and gap > SLACK
        if gap <= SLACK and p.sweep != PASS_THROUGH:
            # Gravity acts on the ground, too; the ground cancels it even if the body did not move.
            s.vy = 0.0
    elif more and not stands and p.probe_rising:
        touch_while_rising(s, p, ground, half)


@compiled
def move_top(s, p, solids, dx, dy, more):
    """Move by (dx, dy) seen from above."""
    half, reach = 0.5 * p.width, 0.5 * p.height
    if move_x(s, p, solids, half, reach, reach, dx, False, more):
        y, blocked = moved(p, solids, 1, s.y, reach, reach, s.x - half, s.x + half, dy)
        if more and blocked:
            s.blocked_y, s.whole_y = True, s.y + dy
            if p.pixel > 0.0:
                y = whole_pixels(s.y, y, p.pixel)
        s.y = y
        if blocked:
            stop_at_side(s, p)
    s.grounded = True


@compiled
def after_contact(s, p):
    """What waits for contact: friction, and the end of a dash that a wall stops."""
    if p.friction_step == AFTER_MOVE:
        late_friction(s, p)
    if s.dashing and s.marks & WALL != 0:
        end_dash(s, p)


@compiled
def show_overlap(s, p, solids, slope, over_lines):
    """Store how deep the body is in a solid where the row shows it."""
    x, y = s.x, s.y
    s.x, s.y = s.shown_x, s.shown_y
    if over_lines:
        note_overlap_on_lines(s, p, solids, slope)
    else:
        note_overlap(s, p, solids)
    s.x, s.y = x, y


@compiled
def move(s, p, ground, dx, dy, h, more):
    """Steps 9 and 10 of a tick: move by (dx, dy) as far as the course allows, and store the remaining overlap."""
    vx, vy = s.vx, s.vy
    if more:
        s.blocked_x, s.blocked_y, s.is_late = False, False, False
    if not p.top_view and has_lines(p, ground):
        stood, start_y, walks, on = s.grounded, s.y, s.grounded and not s.launched and not s.climbing, s.line - 1
        across, slope = move_over_lines(s, p, ground, dx, dy, more)
        if more:
            after_contact(s, p)
        seen(s, p, walks, on if stood else -1, stood, across, start_y, h)
        if more and p.late:
            show_late(s, p, vx * across, vy)
            show_overlap(s, p, ground.solids, slope, True)
        return
    if p.top_view:
        move_top(s, p, ground.solids, dx, dy, more)
    else:
        move_side(s, p, ground, dx, dy, more)
    if p.sweep != SWEPT or s.overlap > 0.0:
        # A swept body that was outside of all solids still is.
        note_overlap(s, p, ground.solids)
    if more:
        after_contact(s, p)
    s.row_vx, s.row_vy = s.vx, s.vy
    if more and p.late:
        show_late(s, p, vx, vy)
        show_overlap(s, p, ground.solids, 0.0, False)
