"""The body against the course: x first, then y (docs/model.md, section 8).

Rectangles are rows of left, bottom, right, top, so that column `axis` is the low side and column `axis + 2` the high
side of an axis (x: 0, y: 1), and one function serves both axes.
"""

from __future__ import annotations

import math

from cinetica.model.parameters import code
from cinetica.model.tune import HeadBump, Sweep, Wall
from cinetica.motion.compiling import apart, compiled
from cinetica.motion.records import BUMP, SLACK, WALL

SWEPT, STEPPED, PASS_THROUGH = code(Sweep.SWEPT), code(Sweep.STEPPED), code(Sweep.NONE)
STOP_ALL = code(Wall.STOP)
KEEP_RISE = code(HeadBump.KEEP)
FAR = 1e30


@compiled
def extents(p):
    """How far the body extends from its position: to either side, below and above."""
    if p.top_view:
        return 0.5 * p.width, 0.5 * p.height, 0.5 * p.height
    return 0.5 * p.width, 0.0, p.height


@compiled
def overlaps(rectangles, i, left, bottom, right, top):
    """Whether the box overlaps the i-th rectangle by more than the slack on both axes."""
    return (
        right - rectangles[i, 0] > SLACK
        and rectangles[i, 2] - left > SLACK
        and top - rectangles[i, 1] > SLACK
        and rectangles[i, 3] - bottom > SLACK
    )


@compiled
def touches_any(rectangles, left, bottom, right, top):
    """Whether the box overlaps any of the rectangles."""
    for i in range(rectangles.shape[0]):
        if overlaps(rectangles, i, left, bottom, right, top):
            return True
    return False


@compiled
def free_way(rectangles, axis, low, high, across_low, across_high, d):
    """How much of d the interval (low, high) can move along `axis` before a face of a rectangle in its path.

    Faces already passed by more than the slack do not count, so a body that starts inside can leave.
    """
    free = FAR
    for i in range(rectangles.shape[0]):
        if rectangles[i, 1 - axis] < across_high - SLACK and rectangles[i, 3 - axis] > across_low + SLACK:
            gap = rectangles[i, axis] - high if d > 0.0 else low - rectangles[i, axis + 2]
            if gap >= -SLACK:
                free = min(free, gap)
    return free


@compiled
def swept(rectangles, axis, at, below, above, across_low, across_high, d):
    """Position after moving by d up to the first face in the way, and whether there was one.

    A move that just fits is not blocked.
    """
    if d == 0.0:
        return at, False
    free = free_way(rectangles, axis, at - below, at + above, across_low, across_high, d)
    if free >= abs(d):
        return at + d, False
    return (at + free if d > 0.0 else at - free), free < abs(d) - SLACK


@compiled
def stepped(rectangles, axis, at, below, above, across_low, across_high, d):
    """Position after moving by d and backing out of what is then overlapped, and whether it had to.

    A rectangle that the body already overlapped does not push it out, so it can leave.
    """
    there = at + d
    if d == 0.0:
        return there, False
    face, blocked = (FAR if d > 0.0 else -FAR), False
    for i in range(rectangles.shape[0]):
        low, high = rectangles[i, axis], rectangles[i, axis + 2]
        across = rectangles[i, 1 - axis] < across_high - SLACK and rectangles[i, 3 - axis] > across_low + SLACK
        inside = low < at + above - SLACK and high > at - below + SLACK
        if across and not inside and low < there + above - SLACK and high > there - below + SLACK:
            blocked = True
            face = min(face, low) if d > 0.0 else max(face, high)
    if not blocked:
        return there, False
    return (face - above if d > 0.0 else face + below), True


@compiled
def moved(p, rectangles, axis, at, below, above, across_low, across_high, d):
    """Position and block after moving by d along one axis, by the method that `sweep` selects."""
    if p.sweep == SWEPT:
        return swept(rectangles, axis, at, below, above, across_low, across_high, d)
    if p.sweep == STEPPED:
        return stepped(rectangles, axis, at, below, above, across_low, across_high, d)
    return at + d, False


@compiled
def slip(solids, x, y, half, height, dy, reach):
    """x after the smallest sideways shift, at most `reach`, with which the whole rise passes; x if there is none.

    Of two shifts that differ by less than the slack the first found is used: the left side of the first solid.
    """
    least, found = FAR, x
    for i in range(solids.shape[0]):
        for face in range(2):
            to = solids[i, 0] - half if face == 0 else solids[i, 2] + half
            shift = abs(to - x)
            if shift <= reach + SLACK and shift < least - SLACK:
                _, sideways = swept(solids, 0, x, half, half, y, y + height, to - x)
                _, overhead = swept(solids, 1, y, 0.0, height, to - half, to + half, dy)
                if not sideways and not overhead:
                    least, found = shift, to
    return found


@compiled
def under_feet(rectangles, x, y, half):
    """The height of the feet above the nearest top at or below them; FAR if there is none."""
    return free_way(rectangles, 1, y, y, x - half, x + half, -1.0)


@compiled
def passes(s, oneway, i):
    """Whether the body is dropping through the i-th one-way solid."""
    return (
        s.dropping
        and s.drop_low <= oneway[i, 3] <= s.drop_high
        and oneway[i, 0] < s.drop_right - SLACK
        and oneway[i, 2] > s.drop_left + SLACK
    )


@compiled
def tops_under_feet(s, ground, x, y, half):
    """The height of the feet above the nearest top of a solid or of a one-way solid that is not being passed."""
    gap = under_feet(ground.solids, x, y, half)
    if not s.dropping:
        return min(gap, under_feet(ground.oneway, x, y, half))
    for i in range(ground.oneway.shape[0]):
        over = y - ground.oneway[i, 3]
        beneath = ground.oneway[i, 0] < x + half - SLACK and ground.oneway[i, 2] > x - half + SLACK
        if beneath and over >= -SLACK and not passes(s, ground.oneway, i):
            gap = min(gap, over)
    return gap


@compiled
def half_probe(p, half):
    """Half the width of the part under the feet that has to be over ground."""
    return 0.5 * p.probe_width if p.probe_width > 0.0 else half


@compiled
def touch_while_rising(s, p, ground, half):
    """Let a body that rises stand on a top within the probe."""
    gap = tops_under_feet(s, ground, s.x, s.y, half_probe(p, half))
    s.grounded = gap <= p.ground_probe + SLACK
    s.hovers = s.grounded and gap > SLACK


@compiled
def show_late(s, p, before_vx, before_vy):
    """The row under late contact: the body's whole displacement into what blocks it, at its old velocity."""
    s.is_late = s.blocked_x or s.blocked_y
    s.shown_x = s.whole_x if s.blocked_x else s.x
    s.shown_y = s.whole_y if s.blocked_y else s.y
    ends_all = p.wall == STOP_ALL
    if s.blocked_x or (s.blocked_y and ends_all and p.top_view):
        s.row_vx = before_vx
    if (s.blocked_x and ends_all) or (s.blocked_y and (s.vy == 0.0 or p.top_view)):
        s.row_vy = before_vy


@compiled
def overlap_depth(solids, left, bottom, right, top):
    """The deepest overlap with a solid, along the axis where it is smaller; 0 if there is none."""
    deepest = 0.0
    for i in range(solids.shape[0]):
        if overlaps(solids, i, left, bottom, right, top):
            wide = min(right, solids[i, 2]) - max(left, solids[i, 0])
            high = min(top, solids[i, 3]) - max(bottom, solids[i, 1])
            deepest = max(deepest, min(wide, high))
    return deepest


@compiled
def note_overlap(s, p, solids):
    """Store how deep the body is in a solid."""
    half, below, above = extents(p)
    s.overlap = overlap_depth(solids, s.x - half, s.y - below, s.x + half, s.y + above)


@compiled
def stop_at_wall(s, p):
    """A block along x: vx is 0 and, with `wall = stop`, vy too. Returns whether the tick's motion continues."""
    s.vx = 0.0
    s.marks |= WALL
    if p.wall != STOP_ALL:
        return True
    s.vy = 0.0
    return False


@compiled
def stop_at_side(s, p):
    """A block along y, seen from above: vy is 0 and, with `wall = stop`, vx too."""
    s.vy = 0.0
    s.marks |= WALL
    if p.wall == STOP_ALL:
        s.vx = 0.0


@compiled
def bump(s, p):
    """A block overhead, which ends the rise unless `head_bump` keeps it."""
    s.marks |= BUMP
    if p.head_bump != KEEP_RISE:
        s.vy = 0.0


@apart
def step_up(solids, x, y, half, height, low, to, most):
    """Position after going up the steps in the way to the x `to`, each at most `most` high, and whether one blocks.

    `low` is how far above the feet the box begins; once it is up a step it is whole.
    """
    while True:
        right, top = to > x, -FAR
        for i in range(solids.shape[0]):
            beside = abs(solids[i, 0] - x - half) <= SLACK if right else abs(solids[i, 2] - x + half) <= SLACK
            if beside and solids[i, 1] < y + height - SLACK and solids[i, 3] > y + low + SLACK:
                top = max(top, solids[i, 3])
        if top == -FAR or top - y > most + SLACK:
            return x, y, True
        _, overhead = swept(solids, 1, y, 0.0, height, x - half, x + half, top - y)
        if overhead:
            return x, y, True
        further, blocked = swept(solids, 0, x, half, half, top, top + height, to - x)
        if abs(further - x) <= SLACK:
            return x, y, True
        x, y, low = further, top, 0.0
        if not blocked:
            return x, y, False


@apart
def whole_pixels(start, end, pixel):
    """Where a way from `start` to `end` stops if it is made of whole pixels."""
    return start + math.copysign(math.floor(abs(end - start) / pixel + SLACK) * pixel, end - start)


@compiled
def move_x(s, p, solids, half, below, above, dx, steps, more):
    """Move along x, up steps if the body takes them. Returns whether the tick's motion continues."""
    start = s.x
    s.x, blocked = moved(p, solids, 0, s.x, half, half, s.y - below, s.y + above, dx)
    if more and blocked:
        if steps and p.step_height > 0.0 and p.sweep == SWEPT:
            s.x, s.y, blocked = step_up(solids, s.x, s.y, half, above, -below, start + dx, p.step_height)
        if blocked and p.pixel > 0.0:
            s.x = whole_pixels(start, s.x, p.pixel)
        s.blocked_x, s.whole_x = blocked, start + dx
    if blocked:
        return stop_at_wall(s, p)
    return True


@compiled
def rise(s, p, solids, half, height, dy, more):
    """Move up, past a corner overhead if `corner_slip` allows it."""
    y, blocked = moved(p, solids, 1, s.y, 0.0, height, s.x - half, s.x + half, dy)
    if blocked and p.sweep == SWEPT and p.corner_slip > 0.0:
        x = slip(solids, s.x, s.y, half, height, dy, p.corner_slip)
        if x != s.x:
            s.x = x
            y, blocked = s.y + dy, False
    if more and blocked:
        s.blocked_y, s.whole_y = True, s.y + dy
        if p.pixel > 0.0:
            y = whole_pixels(s.y, y, p.pixel)
    s.y = y
    if blocked:
        bump(s, p)


@compiled
def caught(s, p, oneway, y, height, left, right, dy):
    """The highest one-way top that the feet were not below and would fall through; -FAR if there is none.

    With stepped motion the body must also overlap it.
    """
    there, highest = y + dy, -FAR
    for i in range(oneway.shape[0]):
        top = oneway[i, 3]
        if oneway[i, 0] < right - SLACK and oneway[i, 2] > left + SLACK and there < top <= y + SLACK:
            stops = p.sweep == SWEPT or there + height > oneway[i, 1] + SLACK
            if stops and not passes(s, oneway, i):
                highest = max(highest, top)
    return highest


@compiled
def sink(s, p, ground, half, height, dy, more):
    """Move down onto solids and the one-way solids that the feet were not below. Returns whether the body stands.

    What blocks it grounds it where the probe is over it.
    """
    left, right = s.x - half, s.x + half
    y, blocked = moved(p, ground.solids, 1, s.y, 0.0, height, left, right, dy)
    if p.sweep != PASS_THROUGH:
        top = caught(s, p, ground.oneway, s.y, height, left, right, dy)
        if top > y:
            y, blocked = top, True
    stands = blocked
    if more and blocked:
        s.blocked_y, s.whole_y = True, s.y + dy
        if p.probe_width > 0.0:
            stands = tops_under_feet(s, ground, s.x, y, half_probe(p, half)) <= p.ground_probe + SLACK
        if p.pixel > 0.0:
            y = whole_pixels(s.y, y, p.pixel)
    s.y = y
    if blocked:
        s.vy = 0.0
    return stands
