"""Dropping through one-way solids (docs/model.md, section 8)."""

from __future__ import annotations

from cinetica.model.parameters import code
from cinetica.model.tune import DropThrough
from cinetica.motion.compiling import compiled
from cinetica.motion.contact import passes, under_feet
from cinetica.motion.intent import pushes_down
from cinetica.motion.records import SLACK
from cinetica.motion.slopes import has_lines, walkable_under

NEVER, BY_JUMP = code(DropThrough.NONE), code(DropThrough.DOWN_JUMP)


@compiled
def stands_on_oneway_alone(s, p, ground, half):
    """Whether the feet are on, or within the probe above, one-way solids only."""
    reach = p.ground_probe + SLACK
    if under_feet(ground.solids, s.x, s.y, half) <= reach:
        return False
    if has_lines(p, ground) and walkable_under(ground.slopes, p, s.x, s.y, p.ground_probe) >= 0:
        return False
    return under_feet(ground.oneway, s.x, s.y, half) <= reach


@compiled
def drop(s, p, ground, pressed):
    """Let the body drop through the one-way solids below it, with down held or on a press while it is held.

    Coyote time is used up. Returns whether the press is used up too.
    """
    half = 0.5 * p.width
    by_jump = p.drop_through == BY_JUMP
    asked = pushes_down(s) and (pressed or not by_jump)
    if not asked or not s.grounded or s.climbing or not stands_on_oneway_alone(s, p, ground, half):
        return False
    s.dropping, s.spent = True, True
    s.drop_left, s.drop_right = s.x - half, s.x + half
    s.drop_low, s.drop_high = s.y - p.ground_probe - SLACK, s.y + SLACK
    return by_jump


@compiled
def is_passing(s, p, oneway):
    """Whether the body is still in, or within the probe above, a one-way solid that it drops through."""
    half = 0.5 * p.width
    for i in range(oneway.shape[0]):
        beside = oneway[i, 0] >= s.x + half - SLACK or oneway[i, 2] <= s.x - half + SLACK
        over = s.y > oneway[i, 3] + p.ground_probe + SLACK
        if passes(s, oneway, i) and not beside and not over and s.y + p.height > oneway[i, 1] + SLACK:
            return True
    return False


@compiled
def end_drop(s, p, oneway):
    """End the drop once the body stands or has left the solids that it passed."""
    if s.grounded or not is_passing(s, p, oneway):
        s.dropping = False
