"""One tick, a whole run, and many runs (docs/model.md, section 1).

Everything here works on records: `s` of STATE, `p` of TUNE, `hand` of HAND, and on a `Ground`.
"""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import Integrator, TimeBase
from cinetica.motion.angles import wrapped
from cinetica.motion.camera import camera_of_row, look_at_shown
from cinetica.motion.climb import climb
from cinetica.motion.compiling import compiled, copy_record, on_stack
from cinetica.motion.contact import half_probe, note_overlap, tops_under_feet
from cinetica.motion.dash import count_dash, dash, leave_dash
from cinetica.motion.displacement import move
from cinetica.motion.drive import drive, note_late, take_over, waits_for_move
from cinetica.motion.dropping import NEVER, drop, end_drop
from cinetica.motion.facing import face_and_look
from cinetica.motion.gravity import fall
from cinetica.motion.intent import LOOK, intend, length, sample
from cinetica.motion.jump import (
    CAP_HOP,
    CUT_HOP,
    EVERY,
    arm,
    arm_with_timers,
    close_hop,
    cut_again,
    jump_in_air,
    launch,
    shorten,
)
from cinetica.motion.records import (
    APEX,
    AT_WALL,
    CLIMB,
    CLIMB_OFF,
    FALL,
    GROUND,
    IN_DASH,
    LAND,
    LEAVE,
    PRESS,
    RELEASE,
    RISE,
    SLACK,
)
from cinetica.motion.shoves import shove, stun
from cinetica.motion.slopes import find_ground, has_lines, note_line, note_overlap_on_lines
from cinetica.motion.walls import (
    feel_walls,
    jump_off_wall,
    knows_walls,
    locked_off_wall,
    note_walls,
    pushes_at_wall,
    slide_down,
)
from cinetica.motion.zones import feel_zones, push_and_drag

POSITION_FIRST, MIDPOINT = code(Integrator.POSITION_FIRST), code(Integrator.MIDPOINT)
PER_FRAME, MIXED = code(TimeBase.FRAMES), code(TimeBase.MIXED)
DEGREES = 180.0 / math.pi


@compiled
def begin(s, p, ground, x, y):
    """Row 0: at (x, y), with the velocity and the heading that the state has.

    A body that starts in the air, or upward, has no coyote time: its timers are infinite.
    """
    vx, vy = s.vx, s.vy
    place(s, p, x, y)
    half = half_probe(p, 0.5 * p.width)
    if not p.top_view and has_lines(p, ground):
        find_ground(s, p, ground, half)
        note_line(s, p, ground.slopes)
        note_overlap_on_lines(s, p, ground.solids, 0.0)
    else:
        note_overlap(s, p, ground.solids)
        if not p.top_view:
            gap = tops_under_feet(s, ground, x, y, half)
            s.grounded = gap <= p.ground_probe + SLACK
            s.hovers = s.grounded and gap > SLACK
    if not p.top_view and vy > SLACK:
        s.grounded, s.hovers, s.line, s.slope, s.ground_angle = False, False, 0, 0.0, 0.0
    s.vx, s.vy = vx, vy
    if knows_walls(p):
        feel_walls(s, p, ground.solids)
    s.since_wall = 0.0 if s.on_wall else math.inf
    set_out(s, p)


@compiled
def place(s, p, x, y):
    """Put the body and the camera at (x, y)."""
    s.x, s.y = x, y
    s.facing = wrapped(s.facing)
    s.last_source = s.facing
    s.camera_x, s.camera_y = x, y
    s.grounded = p.top_view
    s.zone_speed = s.zone_acceleration = s.zone_friction = s.zone_gravity = 1.0


@compiled
def set_out(s, p):
    """What row 0 has where it is known whether the body stands."""
    s.row_vx, s.row_vy = s.vx, s.vy
    take_over(s, p)
    s.since_ground = 0.0 if s.grounded else math.inf
    s.since_press = s.since_launch = s.since_climb_jump = s.since_aim = math.inf
    s.since_shove = s.since_wall_jump = s.since_dash_end = math.inf
    s.since_left = s.since_right = s.since_up = s.since_down = math.inf
    s.air_jumps_left, s.air_dashes_left = p.air_jumps, p.dash_air_dashes
    s.motion = GROUND if s.grounded else RISE if s.vy > SLACK else FALL


@compiled
def impulses(s, p, hand, ground, more):
    """Steps 2, 4, 5 and 6: arm, climb, dash, launch, short hop. Seen from above only a dash."""
    s.launched = False
    pressed = hand.pressed and not (more and s.stunned)
    if not p.top_view and p.drop_through != NEVER and drop(s, p, ground, pressed):
        # The body drops by this press, which is used up; the timer of an older press keeps running.
        pressed = False
    if pressed:
        s.since_press = 0.0
    if not p.top_view:
        if more and p.stale_timer:
            arm_with_timers(s, p, pressed)
        else:
            arm(s, p, pressed)
        if ground.climb.shape[0] > 0 and not (more and s.dashing):
            climb(s, p, ground, pressed)
    if more and p.dash_speed > 0.0:
        dash(s, p, hand)
    if not p.top_view:
        if not s.climbing and not s.launched:
            leap(s, p, pressed, more)
        if more and s.dashing:
            # It has no hop.
            return
        if more and p.cut_repeat == EVERY and (p.short_hop == CUT_HOP or p.short_hop == CAP_HOP):
            cut_again(s, p, hand.released)
        else:
            shorten(s, p)


@compiled
def leap(s, p, pressed, more):
    """Step 5: launch from the ground, off a wall, or in the air. A dash allows only the first, which ends it."""
    launch(s, p, more)
    if s.launched:
        if more and s.dashing:
            leave_dash(s, p)
        return
    if more and s.dashing:
        return
    if more and knows_walls(p):
        jump_off_wall(s, p)
    if not s.launched:
        jump_in_air(s, p, pressed)


@compiled
def forces(s, p, h, more):
    """Steps 7 and 8: drive, gravity, the push of zones, and the slide down a wall.

    A climbing or dashing body has none of them; one that slides down a line is only driven downhill.
    """
    if more:
        s.late_x, s.late_y = 0.0, 0.0
    if s.climbing or (more and s.dashing):
        return
    airborne = not s.grounded or s.launched
    drives = not s.slides or s.launched or s.wx * s.slope < 0.0
    if drives and not (more and locked_off_wall(s, p)):
        drive(s, p, airborne, h, more)
        if more and waits_for_move(p):
            note_late(s, p, h)
    if not p.top_view:
        fall(s, p, airborne, h, more)
    if more:
        push_and_drag(s, h)
        slide_down(s, p)


@compiled
def travel(s, p, old_vx, old_vy, h):
    """Step 9: the displacement of this tick, from the new velocity, the old one, or their mean."""
    if p.integrator == POSITION_FIRST:
        return old_vx * h, old_vy * h
    if p.integrator == MIDPOINT:
        return 0.5 * (old_vx + s.vx) * h, 0.5 * (old_vy + s.vy) * h
    return s.vx * h, s.vy * h


@compiled
def settle(s, p, ground, was_grounded, h, more):
    """Second half of step 11: the state, its marks, and the timers."""
    was_rising = s.motion == RISE
    if s.climbing and s.grounded and s.wy <= SLACK:
        # On the floor and not on the way up, the body walks.
        s.climbing = False
        s.marks |= CLIMB_OFF
    if s.climbing:
        s.motion = CLIMB
    elif s.grounded:
        s.motion = GROUND
    else:
        s.motion = RISE if s.vy > SLACK and not s.slides else FALL
    if more:
        settle_more(s, p, ground, h)
    if was_rising and s.vy <= SLACK and not s.climbing:
        s.marks |= APEX
    if s.grounded and not was_grounded:
        s.marks |= LAND
    if was_grounded and not s.grounded:
        s.marks |= LEAVE
    s.since_ground = 0.0 if s.grounded else s.since_ground + h
    s.since_press += h
    s.since_launch += h
    s.since_climb_jump += h


@compiled
def settle_more(s, p, ground, h):
    """The states and timers of shoves, walls and dashes."""
    if knows_walls(p):
        note_walls(s, p, ground.solids, h)
        if s.vy <= SLACK and p.wall_slide_speed > 0.0 and pushes_at_wall(s):
            s.motion = AT_WALL
    if p.dash_speed > 0.0:
        count_dash(s, h)
        if s.dashing:
            s.motion = IN_DASH
    s.since_shove += h
    s.elapsed += h


@compiled
def tick_length(p, dt):
    """The length h that a tick reckons with, in s, where the clock's is dt."""
    return 1.0 / p.reference_rate if p.time_base == PER_FRAME else dt


@compiled
def tick(s, p, hand, ground, dt, more=True):
    """Run one tick of length dt, in the order of docs/model.md, section 1.

    Without `more` the rules are left out that `records.uses_more` asks for.
    """
    h = tick_length(p, dt)
    was_grounded = s.grounded
    dx, dy = before_move(s, p, hand, ground, h, more)
    move(s, p, ground, dx, dy, h, more)
    after_move(s, p, hand, ground, was_grounded, h, more)


@compiled
def before_move(s, p, hand, ground, h, more):
    """Steps 1 to 9: from the hands to the velocity. Returns the displacement of this tick, dx and dy."""
    s.tick += 1
    s.marks = (PRESS if hand.pressed else 0) | (RELEASE if hand.released else 0)
    if more:
        if ground.zones.shape[0] > 0:
            feel_zones(s, p, ground.zones)
        if ground.shoves.shape[0] > 0:
            shove(s, p, ground.shoves)
    sample(s, hand)
    if more and p.view_rule == LOOK:
        # The look may have turned.
        s.rests = False
    intend(s, p, hand, h)
    if more:
        stun(s, p)
    impulses(s, p, hand, ground, more)
    old_vx, old_vy = s.vx, s.vy
    # If delta time is missing only in the forces, they count with ticks of the reference rate.
    forces(s, p, 1.0 / p.reference_rate if p.time_base == MIXED else h, more)
    return travel(s, p, old_vx, old_vy, h)


@compiled
def after_move(s, p, hand, ground, was_grounded, h, more):
    """Steps 11 and 12: facing and look, state and timers, and the camera."""
    face_and_look(s, p, hand, ground.mouse, h, more)
    if more:
        # During a stun it is not felt.
        s.down = hand.down
    settle(s, p, ground, was_grounded, h, more)
    if s.dropping:
        end_drop(s, p, ground.oneway)
    if s.grounded:
        s.spent = False
        close_hop(s)
        s.air_jumps_left = p.air_jumps
        if more:
            s.air_dashes_left = p.dash_air_dashes
    if more and s.is_late:
        look_at_shown(s, p, h)
    else:
        camera_of_row(s, p, h)


@compiled
def write(s, row, time, dt, vx_before, vy_before):
    """Write the state s to a row of the trace, with angles in degrees."""
    row.tick, row.time, row.dt = s.tick, time, dt
    row.input_x, row.input_y, row.intent_x, row.intent_y = s.input_x, s.input_y, s.wx, s.wy
    row.jump_held, row.modifier_held = s.jump, s.modifier
    row.x, row.y, row.vx, row.vy = s.x, s.y, s.row_vx, s.row_vy
    row.ax = (s.row_vx - vx_before) / dt if dt > 0.0 else 0.0
    row.ay = (s.row_vy - vy_before) / dt if dt > 0.0 else 0.0
    row.speed = length(s.row_vx, s.row_vy)
    row.facing, row.bank = s.facing * DEGREES, s.bank * DEGREES
    row.look_yaw, row.look_pitch = s.look_yaw * DEGREES, s.look_pitch * DEGREES
    row.state, row.overlap, row.marks = s.motion, s.overlap, s.marks
    row.since_ground, row.since_press = s.since_ground, s.since_press
    row.ground_angle = s.ground_angle * DEGREES
    row.camera_x, row.camera_y = s.camera_x, s.camera_y


@compiled
def go_on(s, p, ground, hands, dts, trace, first, more):
    """Fill `trace` from row `first` on."""
    time = trace[first - 1].time
    # At least 1, so that the compiler need not handle negative indices.
    for k in range(max(1, first), trace.shape[0]):
        vx, vy, dt = s.row_vx, s.row_vy, dts[k]
        tick(s, p, hands[max(0, k - p.latency)], ground, dt, more)
        time += dt
        write(s, trace[k], time, dt, vx, vy)
        if more and s.is_late:
            trace[k].x, trace[k].y = s.shown_x, s.shown_y


@compiled
def run(end, p, ground, x, y, hands, dts, trace, first):
    """Run one tune, filling `trace` from row `first` on: 0 starts at (x, y), others continue from the state in `end`.

    `end` is zeroed first and holds the final state afterwards. `hands` and `dts` have one entry per row of `trace`;
    entry 0 belongs to the start, with no input and dt 0. Latency is a shift along `hands`.
    """
    s = on_stack(end)
    if first == 0:
        begin(s, p, ground, x, y)
        write(s, trace[0], 0.0, 0.0, 0.0, 0.0)
        first = 1
    more = p.has_more or ground.mouse.shape[0] + ground.zones.shape[0] + ground.shoves.shape[0] > 0
    # Most runs have neither lines nor rare rules: the compiler leaves both out of their loop.
    if ground.slopes.shape[0] == 0 and not more:
        go_on(s, p, ground, hands, dts, trace, first, False)
    else:
        go_on(s, p, ground, hands, dts, trace, first, more)
    copy_record(s, end)


@compiled
def run_one(states, tunes, ground, x, y, hands, dts, trace, first=0):
    """`run` on the first row of arrays, the form in which records are passed from Python."""
    run(states[0], tunes[0], ground, x, y, hands, dts, trace, first)
