"""The tick, cut where a game moves its own body: what comes before the move, and what after it.

The course is the game's. `hit` says what its move has met: `wall` (along x) and `ceiling`; `floor`, what stopped the
body on its way down or touches its feet; `near_floor`, something within the ground probe; `wall_left` and `wall_right`
within the wall probe; `slope` and `rise_rate` of the ground under a walking body; from above `wall_x` and `wall_y`.
Nothing runs this but the code that is handed over (docs/model.md, section 1).
"""

from __future__ import annotations

import math

from cinetica.motion.compiling import compiled
from cinetica.motion.contact import bump, stop_at_side, stop_at_wall
from cinetica.motion.displacement import after_contact
from cinetica.motion.records import SLACK
from cinetica.motion.step import after_move, before_move, place, set_out, tick_length


@compiled
def begin_in_game(s, p, x, y, grounded):
    """Row 0 at (x, y), with the velocity and the heading that the state has, standing or not."""
    place(s, p, x, y)
    s.grounded = p.top_view or (grounded and s.vy <= SLACK)
    s.since_wall = math.inf
    set_out(s, p)


@compiled
def before_move_in_game(s, p, hand, ground, dt, more):
    """Steps 1 to 9. Returns the displacement that the game should try, dx and dy."""
    return before_move(s, p, hand, ground, tick_length(p, dt), more)


@compiled
def after_move_in_game(s, p, hand, ground, hit, dt, more):
    """Steps 10 to 12, with x and y where the game's move has put them."""
    h, was_grounded = tick_length(p, dt), s.grounded
    if p.top_view:
        react_from_above(s, p, hit)
    else:
        react(s, p, hit)
    if more:
        after_contact(s, p)
    s.row_vx, s.row_vy = s.vx, s.vy
    after_move(s, p, hand, ground, was_grounded, h, more)


@compiled
def react(s, p, hit):
    """What was hit takes the velocity into it, seen from the side."""
    walked = s.grounded and not s.launched and not s.climbing
    if hit.wall:
        stop_at_wall(s, p)
    if hit.ceiling:
        bump(s, p)
    if hit.floor:
        s.vy = 0.0
    near = p.ground_probe > 0.0 and hit.near_floor and not hit.floor and (s.vy <= SLACK or p.probe_rising)
    s.grounded, s.hovers = hit.floor or near, near
    if walked and not s.grounded:
        # Off the end of a slope.
        s.vy += p.slope_carry * s.rise_rate
    s.slope = hit.slope if s.grounded else 0.0
    s.rise_rate = hit.rise_rate if s.grounded else 0.0


@compiled
def react_from_above(s, p, hit):
    """What was hit takes the velocity into it, seen from above."""
    if hit.wall_x:
        stop_at_wall(s, p)
    if hit.wall_y:
        stop_at_side(s, p)
