"""The body on sloping lines, seen from the side (docs/model.md, section 8).

Lines are rows of x0, y0, x1, y1, rise over run, and angle in radians (`records.ground`). They act on the middle of the
feet, and only from above; beyond its ends a line counts as level.
"""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import SlopePace
from cinetica.motion.compiling import compiled
from cinetica.motion.contact import (
    FAR,
    PASS_THROUGH,
    STOP_ALL,
    half_probe,
    move_x,
    moved,
    overlap_depth,
    overlaps,
    passes,
    rise,
    sink,
    tops_under_feet,
    touch_while_rising,
)
from cinetica.motion.records import SLACK, WALL

ALONG = code(SlopePace.ALONG)
RISE_OVER_RUN, ANGLE = 4, 5


@compiled
def has_lines(p, ground):
    """Whether there is a line that can carry the body; without a sweep none can."""
    return ground.slopes.shape[0] > 0 and p.sweep != PASS_THROUGH


@compiled
def walkable(lines, i, p):
    """Whether line i is not steeper than `max_slope`."""
    return abs(lines[i, ANGLE]) <= p.max_slope + SLACK


@compiled
def spans(lines, i, x):
    """Whether x is between the ends of line i."""
    return lines[i, 0] - SLACK <= x <= lines[i, 2] + SLACK


@compiled
def height_of(lines, i, x):
    """The height of a line at x, level beyond its ends."""
    if x <= lines[i, 0]:
        return lines[i, 1]
    if x >= lines[i, 2]:
        return lines[i, 3]
    return lines[i, 1] + (x - lines[i, 0]) * lines[i, RISE_OVER_RUN]


@compiled
def walkable_under(lines, p, x, y, reach):
    """The highest walkable line at the feet or within `reach` below them; -1 if there is none.

    Of equally high ones, the first.
    """
    found, highest = -1, -FAR
    for i in range(lines.shape[0]):
        if walkable(lines, i, p) and spans(lines, i, x):
            at = height_of(lines, i, x)
            if y - reach - SLACK <= at <= y + SLACK and at > highest + SLACK:
                found, highest = i, at
    return found


@compiled
def line_at(lines, x, y):
    """Whether any line, walkable or not, is at the feet."""
    for i in range(lines.shape[0]):
        if spans(lines, i, x) and abs(height_of(lines, i, x) - y) <= SLACK:
            return True
    return False


@compiled
def pace(p, lines, on, walks):
    """The factor for walking along a line: dx·cos α in x."""
    return math.cos(lines[on, ANGLE]) if walks and on >= 0 and p.slope_pace == ALONG else 1.0


@compiled
def met(lines, p, on, start_x, start_y, x, y, steep_too):
    """The highest line that the feet are below now and were not before; -1 if there is none.

    Of two at the same height a walkable one, else the first. If x has passed an end of the line `on`, where the tick
    began, the feet count as having been at that end, or as far above it as they were above the line.
    """
    if on >= 0:
        if x > lines[on, 2]:
            start_x, start_y = lines[on, 2], max(lines[on, 3], start_y)
        elif x < lines[on, 0]:
            start_x, start_y = lines[on, 0], max(lines[on, 1], start_y)
    found, highest = -1, -FAR
    for i in range(lines.shape[0]):
        if (steep_too or walkable(lines, i, p)) and spans(lines, i, x):
            at = height_of(lines, i, x)
            if y < at - SLACK and start_y >= height_of(lines, i, start_x) - SLACK:
                level = abs(at - highest) <= SLACK
                if (at > highest and not level) or (level and walkable(lines, i, p) and not walkable(lines, found, p)):
                    found, highest = i, at
    return found


@compiled
def exit_x(lines, steep, on, height):
    """The x at which a steep line leaves the line `on` or, without one, a height."""
    x0, y0, m = lines[steep, 0], lines[steep, 1], lines[steep, RISE_OVER_RUN]
    if on < 0:
        return x0 + (height - y0) / m
    slope = lines[on, RISE_OVER_RUN]
    x = (lines[on, 1] - slope * lines[on, 0] - y0 + m * x0) / (m - slope)
    if x < lines[on, 0]:
        return x0 + (lines[on, 1] - y0) / m
    if x > lines[on, 2]:
        return x0 + (lines[on, 3] - y0) / m
    return x


@compiled
def stopping_place(lines, steep, on, start_x, start_y, x):
    """Where a walk from `start_x` to x ends at a steep line.

    That is its lower end or, if it is further on, where it comes out of the ground.
    """
    out = exit_x(lines, steep, on, start_y)
    if lines[steep, RISE_OVER_RUN] > 0.0:
        return min(max(lines[steep, 0], out, start_x), x)
    return max(min(lines[steep, 2], out, start_x), x)


@compiled
def stand(s, y):
    """Put the feet down at y."""
    s.y, s.vy = y, 0.0
    s.grounded, s.hovers = True, False


@compiled
def slide(s, lines, steep):
    """On a steep line the body keeps the velocity along it, and does not stand."""
    c, sine = math.cos(lines[steep, ANGLE]), math.sin(lines[steep, ANGLE])
    along = s.vx * c + s.vy * sine
    s.y, s.vx, s.vy = height_of(lines, steep, s.x), along * c, along * sine
    s.grounded, s.slides, s.line = False, True, steep + 1


@compiled
def climb_to(s, p, solids, on, lines, start_x, dx, half, height, more):
    """Carry a walking body up with its line, unless a ceiling is in the way, which blocks x.

    Returns the height gained and whether the tick's motion continues.
    """
    gain = height_of(lines, on, s.x) - s.y
    if gain <= 0.0:
        return 0.0, True
    _, blocked = moved(p, solids, 1, s.y, 0.0, height, s.x - half, s.x + half, gain)
    if not blocked:
        s.y += gain
        return gain, True
    s.x, s.vx = start_x, 0.0
    s.marks |= WALL
    if more:
        s.blocked_x, s.whole_x = True, start_x + dx
    if p.wall != STOP_ALL:
        return 0.0, True
    s.vy = 0.0
    return 0.0, False


@compiled
def feel_lines(s, p, lines, on, walks, start_x, start_y, gained):
    """Keep the feet from going below a line that they were on or above."""
    line = met(lines, p, on, start_x, start_y, s.x, s.y, True)
    if line < 0:
        return
    if walkable(lines, line, p):
        stand(s, height_of(lines, line, s.x))
    elif walks and lines[line, RISE_OVER_RUN] * (s.x - start_x) > 0.0:
        s.x = stopping_place(lines, line, on, start_x, start_y, s.x)
        s.vx = 0.0
        s.marks |= WALL
        if walks and on >= 0:
            # It was not carried further than it moved.
            s.y += max(0.0, height_of(lines, on, s.x) - start_y) - gained
        line = met(lines, p, on, start_x, start_y, s.x, s.y, False)
        if line >= 0:
            stand(s, height_of(lines, line, s.x))
    else:
        slide(s, lines, line)


@compiled
def top_under(s, rectangles, oneway, x, y):
    """The highest top at or below y whose rectangle spans x; -FAR if there is none."""
    highest = -FAR
    for i in range(rectangles.shape[0]):
        top = rectangles[i, 3]
        if rectangles[i, 0] - SLACK <= x <= rectangles[i, 2] + SLACK and top <= y + SLACK:
            if not (oneway and passes(s, rectangles, i)):
                highest = max(highest, top)
    return highest


@compiled
def snap(s, p, ground, on, half, more):
    """Put a body that walks down onto a line within `ground_snap` or, coming from a line, onto a top.

    Nothing happens if it is at either already.
    """
    if line_at(ground.slopes, s.x, s.y):
        return
    top = max(top_under(s, ground.solids, False, s.x, s.y), top_under(s, ground.oneway, True, s.x, s.y))
    if s.y - top <= SLACK:
        return
    line = walkable_under(ground.slopes, p, s.x, s.y, p.ground_snap)
    to, lift = top, 0.0
    if line >= 0 and height_of(ground.slopes, line, s.x) >= top - SLACK:
        to, lift = height_of(ground.slopes, line, s.x), half * abs(ground.slopes[line, RISE_OVER_RUN])
    elif on < 0 or s.y - top > p.ground_snap + SLACK or tops_under_feet(s, ground, s.x, s.y, half) <= SLACK:
        return
    if more and p.step_height > 0.0 and entered(p, ground.solids, lift, s.x, s.y, s.x, to) >= 0:
        # Not down from a step into it.
        return
    stand(s, to)


@compiled
def find_ground(s, p, ground, half):
    """Whether a body that was not stopped stands: on a top or walkable line at its feet or within the probe."""
    gap = tops_under_feet(s, ground, s.x, s.y, half)
    line = walkable_under(ground.slopes, p, s.x, s.y, p.ground_probe)
    if line >= 0:
        gap = min(gap, s.y - height_of(ground.slopes, line, s.x))
    s.grounded = gap <= p.ground_probe + SLACK
    s.hovers = s.grounded and gap > SLACK
    if gap <= SLACK:
        s.vy = 0.0


@compiled
def entered(p, solids, lift, start_x, start_y, x, y):
    """The highest solid that the box is in now and was not in when the tick began; -1 if there is none."""
    half, height, found = 0.5 * p.width, p.height, -1
    for i in range(solids.shape[0]):
        if overlaps(solids, i, x - half, y + lift, x + half, y + height):
            was_inside = overlaps(solids, i, start_x - half, start_y + lift, start_x + half, start_y + height)
            if not was_inside and (found < 0 or solids[i, 3] > solids[found, 3]):
                found = i
    return found


@compiled
def line_crossed(lines, p, on, start_x, start_y, x, y):
    """The line found by `met`, else one that the feet were above when the tick began; -1 if there is none."""
    line = met(lines, p, on, start_x, start_y, x, y, True)
    return line if line >= 0 else met(lines, p, -1, start_x, start_y, x, y, True)


@compiled
def is_clear(p, ground, on, lift, start_x, start_y, x, y):
    """Whether the body may end a tick at (x, y).

    It may not be below a line that it was above, or in a solid that it was outside of.
    """
    return (
        line_crossed(ground.slopes, p, on, start_x, start_y, x, y) < 0
        and entered(p, ground.solids, lift, start_x, start_y, x, y) < 0
    )


@compiled
def keep_clear(s, p, ground, on, lift, start_x, start_y, more):
    """Keep a tick from ending below a line or in a solid.

    The body ends on the line, or on the solid that it came from; if neither is clear, x returns to where the tick
    began, and finally y too.
    """
    if is_clear(p, ground, on, lift, start_x, start_y, s.x, s.y):
        return
    lines, solids = ground.slopes, ground.solids
    solid = entered(p, solids, lift, start_x, start_y, s.x, s.y)
    if solid >= 0 and solids[solid, 3] <= start_y + SLACK:
        if is_clear(p, ground, on, lift, start_x, start_y, s.x, solids[solid, 3]):
            stand(s, solids[solid, 3])
            s.slides = False
            if more and p.probe_width > 0.0:
                find_ground(s, p, ground, half_probe(p, 0.0))
            return
    line = line_crossed(lines, p, on, start_x, start_y, s.x, s.y)
    if line >= 0:
        y = height_of(lines, line, s.x)
        if is_clear(p, ground, on, lift, start_x, start_y, s.x, y):
            if walkable(lines, line, p):
                stand(s, y)
            else:
                slide(s, lines, line)
            return
    s.marks |= WALL
    s.x, s.vx = start_x, 0.0
    if not is_clear(p, ground, on, lift, start_x, start_y, s.x, s.y):
        s.y, s.vy = start_y, 0.0
    s.grounded, s.hovers, s.slides = False, False, False
    if s.vy <= SLACK:
        find_ground(s, p, ground, half_probe(p, 0.5 * p.width) if more else 0.5 * p.width)


@compiled
def note_line(s, p, lines):
    """Store the line that the body stands or slides on."""
    if s.grounded:
        s.line = walkable_under(lines, p, s.x, s.y, p.ground_probe) + 1
    elif not s.slides:
        s.line = 0
    s.slope = lines[s.line - 1, RISE_OVER_RUN] if s.line > 0 else 0.0
    s.ground_angle = lines[s.line - 1, ANGLE] if s.line > 0 else 0.0


@compiled
def note_overlap_on_lines(s, p, solids, slope):
    """Store how deep the body is in a solid.

    On a line, overlap beside the middle of the feet does not count.
    """
    half = 0.5 * p.width
    lift = half * max(abs(slope), abs(s.slope))
    s.overlap = overlap_depth(solids, s.x - half, s.y + lift, s.x + half, s.y + p.height)


@compiled
def seen(s, p, walks, on, stood, across, start_y, h):
    """The velocity that the trace shows.

    On a line, vy is the rate at which the feet rose in the tick; for a walk along the line, vx is scaled to its run.
    """
    rate = s.rise_rate
    s.rise_rate = 0.0
    if stood and s.grounded and s.line > 0:
        s.rise_rate = (s.y - start_y) / h if h > 0.0 else 0.0
        s.row_vx, s.row_vy = s.vx * across, s.rise_rate
        return
    if walks and on >= 0 and not s.grounded and not s.slides:
        # Off the line into the air.
        s.vy += p.slope_carry * rate
    # A landing within the probe over a line still falls inside, but its row shows 0, as one on the line does.
    s.row_vx, s.row_vy = s.vx * across, (0.0 if s.grounded and s.line > 0 else s.vy)


@compiled
def find_footing(s, p, ground, on, walks, half, more):
    """Find out whether a body that does not slide stands, and keep a walk on the way down."""
    if not s.grounded and s.vy <= SLACK:
        find_ground(s, p, ground, half_probe(p, half) if more else half)
    elif more and not s.grounded and p.probe_rising:
        touch_while_rising(s, p, ground, half)
    if walks and s.vy <= SLACK:
        snap(s, p, ground, on, half, more)


@compiled
def move_over_lines(s, p, ground, dx, dy, more):
    """Move by (dx, dy) over lines and against solids, then find out whether the body stands.

    Returns the factor on its way in x, and the slope that its box counts from beside the ground.
    """
    lines, half, height = ground.slopes, 0.5 * p.width, p.height
    stood, start_x, start_y = s.grounded, s.x, s.y
    walks = stood and not s.launched and not s.climbing
    on = s.line - 1 if stood else -1
    slope, strip, gained = 0.0, 0.0, 0.0
    across = pace(p, lines, on, walks)
    dx = dx * across
    if on >= 0:
        slope = lines[on, RISE_OVER_RUN]
        strip = half * abs(slope)
        if walks:
            strip += max(0.0, height_of(lines, on, start_x + dx) - height_of(lines, on, start_x))
    goes_on = move_x(s, p, ground.solids, half, -strip, height, dx, walks, more)
    if walks and on >= 0:
        gained, free = climb_to(s, p, ground.solids, on, lines, start_x, dx, half, height, more)
        goes_on = goes_on and free
    stands = False
    if goes_on and dy > 0.0:
        rise(s, p, ground.solids, half, height, dy, more)
    elif goes_on and dy < 0.0:
        stands = sink(s, p, ground, half, height, dy, more)
    box_x, box_y = s.x, s.y
    s.grounded, s.hovers, s.slides = stands, False, False
    feel_lines(s, p, lines, on, walks, start_x, start_y, gained)
    if not s.slides:
        find_footing(s, p, ground, on, walks, half, more)
    note_line(s, p, lines)
    keep_clear(s, p, ground, on, half * max(abs(slope), abs(s.slope)), start_x, start_y, more)
    note_line(s, p, lines)
    note_overlap_on_lines(s, p, ground.solids, slope)
    if more:
        # Contact with a line is never late.
        s.blocked_x = s.blocked_x and s.x == box_x
        s.blocked_y = s.blocked_y and s.y == box_y
    return across, slope
