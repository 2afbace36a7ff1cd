"""What several figures look for in a run: pushes, runs and jumps. Compiled; see `subtick.py`."""

from __future__ import annotations

import math

from cinetica.motion.compiling import apart
from cinetica.motion.intent import directed, length, shape_stick
from cinetica.motion.records import AIR_LAUNCH, BUMP, CLIMB_OFF, CLIMB_ON, LAND, LAUNCH, SLACK
from cinetica.reading.facts import hand_at, push_at, row_at, tune_at
from cinetica.reading.subtick import (
    MIDPOINT,
    MOST_HALVINGS,
    displacement_after,
    distance_moved,
    find_way,
    share_per_tick,
    speed_at,
    still_at,
)

# The share of top speed that counts as reached; the rest to 1 counts as stopped.
NEARLY = 0.99
TILTED = math.tan(math.pi / 8)
# Changes of velocity that differ by less than this share are the same interpolation.
ALIKE = 0.01


@apart
def stick_of(f, row):
    """Whether the input of a row is the stick's."""
    if f.n.logged:
        return False
    hand, end = hand_at(f, max(0, row - tune_at(f, 0).latency)), row_at(f, row)
    out = hand.stick_x != 0.0 or hand.stick_y != 0.0
    return out and hand.stick_x == end.input_x and hand.stick_y == end.input_y


RADIANS = math.pi / 180.0


@apart
def note_pushes(f):
    """Note for each row the intent that the input aims at, and its tilt.

    The intent is where the axes lead, 0 if nothing is pushed. The tilt is 1 for a full push along one axis, 2 along
    both, else 0; a stick counts as the nearer of the two. From the side only x counts, since nothing else drives the
    body. Input counts when it arrives, after the latency.
    """
    p, side = tune_at(f, 0), f.n.side
    for row in range(f.n.count):
        end = row_at(f, row)
        push_at(f, row).x = push_at(f, row).y = 0.0
        push_at(f, row).tilt = 0
        x, y = end.input_x, end.input_y
        if x == 0.0 and y == 0.0:
            continue
        if stick_of(f, row):
            x, y = shape_stick(x, y, p)
        yaw = row_at(f, row - 1).look_yaw * RADIANS if row > 0 else 0.0
        px, py = directed(x, y, p, yaw)
        push_at(f, row).x = px
        push_at(f, row).y = 0.0 if side else py
        if pushed(f, row) and not end.modifier_held and length(x, y) >= NEARLY:
            low, high = min(abs(x), abs(y)), max(abs(x), abs(y))
            push_at(f, row).tilt = 2 if low > TILTED * high else 1


@apart
def pushed(f, row):
    """Whether the input of a row pushes anything."""
    return push_at(f, row).x != 0.0 or push_at(f, row).y != 0.0


@apart
def next_run(f, row):
    """The first stretch, from `row` on, of pushes without a break that never oppose its first push.

    Returns its first and last row; 0 and 0 if there is none.
    """
    count = f.n.count
    row = max(1, row)
    while row < count and not pushed(f, row):
        row += 1
    if row == count:
        return 0, 0
    x, y, end = push_at(f, row).x, push_at(f, row).y, row
    while end + 1 < count and push_at(f, end + 1).x * x + push_at(f, end + 1).y * y > SLACK:
        end += 1
    return row, end


@apart
def turn_after(f, row):
    """The first push after `row` against a run that still has 99% of top speed.

    Returns its first and last row, and the direction of the run; row 0 if there is none. With a gap between the keys
    the body loses speed before the turn begins, so that is not a turn at top speed.
    """
    top, side = tune_at(f, 0).top_speed, f.n.side
    _, let_go = next_run(f, 1)
    while let_go != 0 and top > 0.0:
        start, end = next_run(f, let_go + 1)
        if start == 0:
            break
        before = row_at(f, start - 1)
        vx, vy = before.vx, 0.0 if side else before.vy
        speed = length(vx, vy)
        px, py = push_at(f, start).x, push_at(f, start).y
        if start > row and speed > SLACK and speed_at(f, start - 1) >= NEARLY * top - SLACK:
            if vx * px + vy * py < -0.5 * speed * length(px, py):
                return start, end, vx / speed, vy / speed
        let_go = end
    return 0, 0, 0.0, 0.0


# Jumps


@apart
def next_flight(f, row):
    """The rows of the first launch after `row` that leads to a landing, and of that landing; 0 and 0 if there is none.

    The launch is off the ground or a net. Flights cut off by the end of the take, a net or another launch do not count.
    """
    count = f.n.count
    start = row + 1
    while start < count:
        if row_at(f, start).marks & LAUNCH:
            # A launch that lands in the same tick is a flight, too.
            if row_at(f, start).marks & LAND:
                return start, start
            end = start + 1
            while end < count and not row_at(f, end).marks & (LAND | CLIMB_ON | LAUNCH):
                end += 1
            if end < count and row_at(f, end).marks & LAND and not row_at(f, end).marks & (CLIMB_ON | LAUNCH):
                return start, end
        start += 1
    return 0, 0


@apart
def off_net(f, launch):
    """Whether a launch is off a net."""
    return row_at(f, launch).marks & CLIMB_OFF != 0


@apart
def jumps_on(f, launch, landing):
    """Whether a flight contains jumps in the air."""
    for row in range(launch, landing + 1):
        if row_at(f, row).marks & AIR_LAUNCH:
            return True
    return False


@apart
def next_jump(f, row):
    """The first flight after `row` that starts on the ground and has no jump in the air."""
    launch, landing = next_flight(f, row)
    while launch != 0 and (off_net(f, launch) or jumps_on(f, launch, landing)):
        launch, landing = next_flight(f, launch)
    return launch, landing


@apart
def height_of(f, launch, landing):
    """From the feet at the launch to the highest point of the path, in u."""
    near = launch
    for row in range(launch, landing + 1):
        if row_at(f, row).y > row_at(f, near).y:
            near = row
    highest = row_at(f, near).y
    if not f.n.logged and tune_at(f, 0).integrator == MIDPOINT:
        # Between two rows a parabola is higher than at either.
        for row in range(near, min(near + 1, landing) + 1):
            if not row_at(f, row).marks & BUMP:
                find_way(f, row)
                share = still_at(f.n.old_y, f.n.new_y)
                if share > 0.0:
                    highest = max(highest, row_at(f, row - 1).y + distance_moved(f, 1, row, share))
    return highest - row_at(f, launch - 1).y


@apart
def apex_of(f, launch, landing):
    """The moment at which the body stops rising, as a row and a share of its tick; row 0 if it never does.

    Its velocity reaches 0, or its head a ceiling.
    """
    for row in range(launch, landing + 1):
        end, start = row_at(f, row), row_at(f, row - 1)
        bumps = end.marks & BUMP != 0
        if not bumps and end.vy > SLACK:
            continue
        if f.n.logged:
            change = end.vy - start.vy
            return row, min(1.0, max(0.0, -start.vy / change)) if change != 0.0 else 1.0
        find_way(f, row)
        # It rose at least up to this tick; a velocity within the slack of 0 no longer rises.
        still = 0.0 if f.n.old_y <= SLACK else min(1.0, f.n.old_y / max(SLACK, f.n.old_y - f.n.new_y))
        if bumps:
            still = min(still, share_per_tick(f, f.n.old_y, f.n.new_y, f.n.way_h, end.y - start.y, True))
        return row, still
    return 0, 0.0


@apart
def over_line(f, landing, share):
    """The height in u above the line that it lands on, after a share of that tick, if nothing stopped the feet."""
    end, start = row_at(f, landing), row_at(f, landing - 1)
    x = start.x + displacement_after(f, f.n.old_x, f.n.new_x, f.n.way_h, share)
    y = start.y + displacement_after(f, f.n.old_y, f.n.new_y, f.n.way_h, share)
    return y - end.y - math.tan(math.radians(end.ground_angle)) * (x - end.x)


@apart
def touch_of_line(f, landing):
    """`touch_of` for a landing on a line, which the feet meet while moving across."""
    if over_line(f, landing, 1.0) >= -SLACK:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(MOST_HALVINGS):
        middle = 0.5 * (low + high)
        if over_line(f, landing, middle) > 0.0:
            low = middle
        else:
            high = middle
    return high


@apart
def last_falling_row(f, landing):
    """The last row of a logged fall whose velocity the landing has not changed.

    Between the log's own frames velocities are interpolated: from the one before the landing to the one after it they
    change by the same amount in each row.
    """
    row = landing - 1
    while row > 1 and row_at(f, row).ay > 0.0 and row_at(f, row - 1).vy < 0.0:
        after = row_at(f, row + 1).ay
        if row < landing - 1 and abs(row_at(f, row).ay - after) > ALIKE * after:
            break
        row -= 1
    return row


@apart
def touch_of_log(f, landing):
    """`touch_of` for a log, whose fall is extrapolated, and the downward speed there, in u/s."""
    row = last_falling_row(f, landing)
    start = row_at(f, row)
    left, vy = start.y - row_at(f, landing).y, start.vy
    while row < landing:
        dt = row_at(f, row + 1).time - row_at(f, row).time
        way = -(vy + start.ay * dt) * dt
        if way > 0.0 and way >= left:
            share = max(0.0, left / way)
            # In a row before that of the landing it touched before that tick began.
            return share if row == landing - 1 else 0.0, -vy - start.ay * share * dt
        left -= way
        vy += start.ay * dt
        row += 1
    return 1.0, -vy


@apart
def touch_of(f, landing):
    """The share of the landing's tick after which the feet touch the ground.

    1, the end of the tick, if they never quite do and the tick only counts as standing.
    """
    if f.n.logged:
        return touch_of_log(f, landing)[0]
    end, start = row_at(f, landing), row_at(f, landing - 1)
    fell = end.y - start.y
    find_way(f, landing)
    if end.ground_angle != 0.0:
        return touch_of_line(f, landing)
    if displacement_after(f, f.n.old_y, f.n.new_y, f.n.way_h, 1.0) < fell - SLACK:
        return share_per_tick(f, f.n.old_y, f.n.new_y, f.n.way_h, fell, False)
    return 1.0


@apart
def landing_speed_of(f, landing):
    """Downward speed at the touch, in u/s."""
    if f.n.logged:
        return touch_of_log(f, landing)[1]
    share = touch_of(f, landing)
    return -(f.n.old_y + (f.n.new_y - f.n.old_y) * share)
