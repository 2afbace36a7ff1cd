"""What figures are read from: the rows of a run, and what happens inside one of its ticks.

The inside of a tick comes from the kernel itself, by running the tick again, whole or in part. Functions here are
compiled like the kernel's (`motion/compiling.py`) and also run as plain Python. They call the kernel's machine code, so
that the program contains the tick only once.
"""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import Integrator, TimeBase
from cinetica.motion.compiling import apart, copy_record
from cinetica.motion.intent import length
from cinetica.motion.records import CLIMB, CLIMB_ON, GROUND, LAUNCH, SLACK
from cinetica.motion.slopes import ALONG
from cinetica.reading.facts import again_at, restart, row_at, run_on, state_at, tune_at

# How often a tick is halved: down to a millionth.
MOST_HALVINGS = 20
POSITION_FIRST, MIDPOINT = code(Integrator.POSITION_FIRST), code(Integrator.MIDPOINT)
SECONDS, PER_FRAME = code(TimeBase.SECONDS), code(TimeBase.FRAMES)


@apart
def before(f, row):
    """Make the state before the tick that ends in this row (1 or later) the current one."""
    if f.n.kept != row:
        if 0 < f.n.kept < row:
            copy_record(state_at(f, 1), state_at(f, 0))
            run_on(f, 0, False, row, f.n.kept)
        else:
            restart(f)
            run_on(f, 0, False, row, 0)
        copy_record(state_at(f, 0), state_at(f, 1))
        f.n.kept = row
    else:
        copy_record(state_at(f, 1), state_at(f, 0))


@apart
def tick_again(f, place, row, share):
    """x, y, vx and vy after a share (more than 0) of that tick."""
    before(f, row)
    p = tune_at(f, place)
    rate = p.reference_rate
    f.lengths[row] = row_at(f, row).dt * share
    if p.time_base != SECONDS:
        p.reference_rate = rate / share
    run_on(f, place, False, row + 1, row)
    f.lengths[row] = row_at(f, row).dt
    p.reference_rate = rate
    end = again_at(f, row)
    return end.x, end.y, end.vx, end.vy


@apart
def find_way(f, row):
    """Note how the body would move in that tick if nothing stopped it.

    That is its velocities (u/s) after the impulses and after the forces, between which velocity changes evenly, and the
    tick's length for the rules, in s. Tune 1 has no course and moves by the velocity before the forces, so its
    displacement gives that velocity.
    """
    if f.n.way_row != row:
        x, y, vx, vy = tick_again(f, 1, row, 1.0)
        p = tune_at(f, 0)
        h = 1.0 / p.reference_rate if p.time_base == PER_FRAME else row_at(f, row).dt
        old = state_at(f, 1)
        f.n.old_x = (x - old.x) / h if h > 0.0 else 0.0
        f.n.old_y = (y - old.y) / h if h > 0.0 else 0.0
        f.n.new_x, f.n.new_y, f.n.way_h, f.n.way_row = vx, vy, h, row


@apart
def displacement_after(f, old, new, h, share):
    """Displacement in u after a share (0 to 1) of a tick between two velocities: linear, or a parabola (`midpoint`)."""
    integrator = tune_at(f, 0).integrator
    if integrator == MIDPOINT:
        return (old + 0.5 * (new - old) * share) * share * h
    return (old if integrator == POSITION_FIRST else new) * share * h


@apart
def still_at(old, new):
    """The share of a tick after which a velocity is 0; -1 if it never is."""
    if old == 0.0:
        return 0.0
    return old / (old - new) if old * new <= 0.0 else -1.0


@apart
def share_per_tick(f, old, new, h, way, rising):
    """The share of a tick, 0 to 1, after which a displacement is reached.

    A parabola may reach it twice: rising, then falling.
    """
    if tune_at(f, 0).integrator != MIDPOINT or old == new:
        whole = displacement_after(f, old, new, h, 1.0)
        return min(1.0, max(0.0, way / whole)) if whole != 0.0 else 0.0
    # a·t² + b·t = way with a = (new - old)·h/2, b = old·h, in the form in which nearly equal numbers are not
    # subtracted.
    a, b = 0.5 * (new - old) * h, old * h
    q = -0.5 * (b + math.copysign(math.sqrt(max(0.0, b * b + 4.0 * a * way)), b))
    one = q / a
    other = -way / q if q != 0.0 else one
    one_within = -SLACK <= one <= 1.0 + SLACK
    other_within = -SLACK <= other <= 1.0 + SLACK
    found = 1.0
    if one_within and other_within:
        found = min(one, other) if rising else max(one, other)
    elif one_within:
        found = one
    elif other_within:
        found = other
    return min(1.0, max(0.0, found))


@apart
def distance_moved(f, axis, row, share):
    """How far the body has moved along an axis (0: x, 1: y) after a share of the tick that ends in `row`, in u.

    Includes whatever is in its way.
    """
    if not f.n.logged and 0.0 < share < 1.0 and tune_at(f, 0).integrator == MIDPOINT:
        x, y, _, _ = tick_again(f, 0, row, share)
        old = state_at(f, 1)
        return x - old.x if axis == 0 else y - old.y
    # With a single velocity the body moves in a straight line.
    end, start = row_at(f, row), row_at(f, row - 1)
    return (end.x - start.x if axis == 0 else end.y - start.y) * share


@apart
def share_across(f, row):
    """The share of the driven speed that moves across in the tick that ends in `row`.

    cos α for a walk along a line with `slope_pace = along`, else 1.
    """
    if f.n.slopes == 0 or not f.n.side or row == 0 or tune_at(f, 0).slope_pace != ALONG:
        return 1.0
    start, end = row_at(f, row - 1), row_at(f, row)
    if start.state != GROUND or end.state == CLIMB or end.marks & (LAUNCH | CLIMB_ON):
        return 1.0
    return math.cos(math.radians(start.ground_angle))


@apart
def ground_per_x(f, row):
    """The distance along the ground in the tick that ends in `row`, divided by that along x: over 1 on lines."""
    if f.n.slopes == 0 or row == 0:
        return 1.0
    start, end = row_at(f, row - 1), row_at(f, row)
    on_line = start.ground_angle != 0.0 or end.ground_angle != 0.0
    if not on_line or start.state != GROUND or end.state != GROUND or end.x == start.x:
        return 1.0
    return length(end.x - start.x, end.y - start.y) / abs(end.x - start.x)


@apart
def driven_speed(f, row, vx, vy):
    """The driven part of a velocity in the tick that ends in `row`, in u/s.

    From the side that is along the ground, from above all of it.
    """
    return abs(vx) / share_across(f, row) if f.n.side else length(vx, vy)


@apart
def speed_at(f, row):
    """`driven_speed` of a row."""
    end = row_at(f, row)
    return driven_speed(f, row, end.vx, end.vy)


@apart
def along_or_speed(f, row, vx, vy, along, ux, uy):
    """A velocity along the direction (ux, uy) or, if none is given, the speed; from the side along the ground."""
    if not along:
        return driven_speed(f, row, vx, vy)
    return vx * ux / share_across(f, row) if f.n.side else vx * ux + vy * uy


@apart
def share_until(f, row, level, sign, along, ux, uy):
    """The share of that tick after which a velocity first reaches a level; from below if the sign is 1.

    How velocity changes within a tick follows from the law of motion itself: the tick is run for a part of its length.
    """
    _, _, vx, vy = tick_again(f, 0, row, 1.0)
    if sign * (along_or_speed(f, row, vx, vy, along, ux, uy) - level) + SLACK <= 0.0:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(MOST_HALVINGS):
        middle = 0.5 * (low + high)
        _, _, vx, vy = tick_again(f, 0, row, middle)
        if sign * (along_or_speed(f, row, vx, vy, along, ux, uy) - level) + SLACK < 0.0:
            low = middle
        else:
            high = middle
    return high


@apart
def when(f, row, level, sign, along, ux, uy):
    """The share (0 to 1) of the tick that ends in `row` at which a velocity crosses a level; upward if sign is 1."""
    start, end = row_at(f, row - 1), row_at(f, row)
    from_value = along_or_speed(f, row - 1, start.vx, start.vy, along, ux, uy)
    if sign * (from_value - level) >= 0.0:
        return 0.0
    if f.n.logged:
        # The inside of a log's tick is unknown.
        return (level - from_value) / (along_or_speed(f, row, end.vx, end.vy, along, ux, uy) - from_value)
    return share_until(f, row, level, sign, along, ux, uy)


@apart
def time_at(f, row, share):
    """The time after a share of the tick that ends in `row`, in s."""
    if row == 0:
        return row_at(f, 0).time
    start = row_at(f, row - 1).time
    return start + share * (row_at(f, row).time - start)
