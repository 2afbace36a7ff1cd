"""Functions of the kernel, called as plain Python, each against a sum worked out by hand."""

import math

import numpy as np
import pytest

from cinetica.motion import contact, dash, drive, jump, slopes
from cinetica.motion.records import (
    BUFFERED_LAUNCH,
    COYOTE_LAUNCH,
    CUT,
    DASH_END,
    LAUNCH,
    LOST_PRESS,
    MOST_TIMERS,
    STATE,
    empty_records,
    ground,
    tune_records,
)
from tests.builders import make_drill, make_tune

H = 1 / 60


def numbers(view="side", **values):
    return tune_records([make_tune(view, **values)])[0]


def state(**fields):
    s = empty_records(STATE, 1)[0]
    for name in STATE.names:
        s[name] = 0
    for name, value in fields.items():
        s[name] = value
    return s


def boxes(*rows):
    return np.array(rows, dtype=float).reshape(-1, 4)


def lines(*ends):
    """Lines in the kernel's form, with slope and angle."""
    return ground(make_drill(slopes=ends).course).slopes


# Contact


def test_a_sweep_stops_at_the_first_face():
    """A body 1 u wide and 2 u high at x = 0; walls at 2 and 5 u, and one above its head."""
    walls = boxes((5, 0, 6, 9), (2, 0, 3, 9), (0.6, 2, 1, 9))

    def go(d):
        return contact.swept(walls, 0, 0.0, 0.5, 0.5, 0.0, 2.0, d)

    assert go(1.0) == (1.0, False)
    assert go(1.5) == (1.5, False)
    assert go(2.0) == (1.5, True)
    assert go(0.0) == (0.0, False)
    assert go(-3.0) == (-3.0, False)
    # From beyond the first wall the way back ends at its right face.
    assert contact.swept(walls, 0, 4.0, 0.5, 0.5, 0.0, 2.0, -2.0) == (3.5, True)
    # A solid that it already overlaps does not stop it.
    assert contact.swept(boxes((-0.2, 0, 0.2, 9)), 0, 0.0, 0.5, 0.5, 0.0, 2.0, 1.0) == (1.0, False)


def test_a_step_goes_through_thin_walls_and_backs_out_of_thick_ones():
    walls = boxes((2, 0, 2.2, 9), (5, 0, 8, 9))

    def go(at, d):
        return contact.stepped(walls, 0, at, 0.5, 0.5, 0.0, 2.0, d)

    assert go(0.0, 3.0) == (3.0, False)
    assert go(0.0, 2.0) == (1.5, True)
    assert go(4.0, 1.0) == (4.5, True)
    assert go(9.0, -1.0) == (8.5, True)
    assert go(6.0, 0.5) == (6.5, False)
    assert go(6.0, 0.0) == (6.0, False)
    # Of two that it overlaps at the end, the nearer face counts.
    assert contact.stepped(boxes((5, 0, 8, 9), (4.9, 0, 8, 9)), 0, 4.0, 0.5, 0.5, 0.0, 2.0, 1.0) == (4.4, True)


def test_a_step_that_only_touches_is_not_blocked():
    floor, wall = boxes((-9, -1, 9, 0)), boxes((2, 0, 3, 9))
    assert contact.stepped(floor, 1, 1.0, 0.0, 2.0, -0.5, 0.5, -1.0) == (0.0, False)
    assert contact.stepped(floor, 1, 1.0, 0.0, 2.0, -0.5, 0.5, -1.25) == (0.0, True)
    assert contact.stepped(wall, 0, 0.0, 0.5, 0.5, 0.0, 2.0, 1.5) == (1.5, False)
    assert contact.stepped(wall, 0, 4.5, 0.5, 0.5, 0.0, 2.0, -1.0) == (3.5, False)


def test_a_low_step_with_headroom_is_climbed():
    """Steps 0.5 u high at 1 and at 2 u, walked up by a body 1 x 2 u; then a wall, and a beam above the first step."""
    first, second, wall = (1, -1, 9, 0.5), (2, -1, 9, 1.0), (3, -1, 9, 5)

    def go(*solids, to=1.0, most=0.5):
        return contact.step_up(boxes(*solids), 0.5, 0.0, 0.5, 2.0, 0.0, to, most)

    assert go(first) == (1.0, 0.5, False)
    assert go(first, most=0.4) == (0.5, 0.0, True)
    assert go(first, second, to=2.0) == (2.0, 1.0, False)
    assert go(first, second, to=2.0, most=0.4) == (0.5, 0.0, True)
    assert go(first, wall, to=3.0) == (2.5, 0.5, True)
    # A beam that leaves no headroom, and one that only blocks further on.
    assert go(first, (0, 2.2, 0.9, 3)) == (0.5, 0.0, True)
    assert go(first, (1.5, 2.2, 3, 3), to=2.0) == (1.0, 0.5, True)
    # To the left it is the same.
    mirrored = boxes((-9, -1, -1, 0.5))
    assert contact.step_up(mirrored, -0.5, 0.0, 0.5, 2.0, 0.0, -1.0, 0.5) == (-1.0, 0.5, False)


def test_corner_slip_takes_the_smallest_shift():
    """A rise of 1 u below a block from x = 0.3 on: 0.2 u to the left is enough for a body 1 u wide."""
    block = boxes((0.3, 2.5, 3, 4))
    assert contact.slip(block, 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == pytest.approx(-0.2)
    assert contact.slip(block, 0.0, 0.0, 0.5, 2.0, 1.0, 0.1) == 0.0
    assert contact.slip(boxes((-3, 2.5, -0.4, 4)), 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == pytest.approx(0.1)
    # A wall on that side leaves no space.
    assert contact.slip(boxes((0.3, 2.5, 3, 4), (-3, 0, -0.6, 2)), 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == 0.0


def test_whole_pixels_stop_short_of_the_end():
    assert contact.whole_pixels(0.0, 0.99, 0.25) == 0.75
    assert contact.whole_pixels(0.0, 1.0, 0.25) == 1.0
    assert contact.whole_pixels(2.0, 1.1, 0.25) == 1.25


def test_tops_under_the_feet_exclude_dropped_platforms():
    course = ground(make_drill(solids=[(-5, -1, 5, 0)], oneway=[(-1, 1.5, 1, 2), (2, 2.5, 4, 3)]).course)
    s = state()
    assert contact.tops_under_feet(s, course, 0.0, 2.25, 0.5) == 0.25
    assert contact.tops_under_feet(s, course, 0.0, 1.75, 0.5) == 1.75
    assert contact.tops_under_feet(s, course, 9.0, 2.25, 0.5) == contact.FAR
    s.dropping, s.drop_low, s.drop_high, s.drop_left, s.drop_right = True, 1.9, 2.1, -0.5, 0.5
    assert contact.tops_under_feet(s, course, 0.0, 2.25, 0.5) == 2.25
    # A platform other than the dropped ones still counts.
    assert contact.tops_under_feet(s, course, 3.0, 3.5, 0.5) == 0.5


# Slopes


def test_a_box_enters_the_highest_solid_that_it_was_not_in():
    """A body of 1 x 2 u moves from x = 0 to 2, or stays; solids at its end, at its start, and at both."""
    p = numbers(body__width=1.0, body__height=2.0)
    low, high, left, both = (1.6, -1, 3, 0.5), (1.6, -1, 3, 1.5), (-0.4, -1, 0.4, 1), (-0.4, -1, 3, 1)

    def found(*solids, lift=0.0, x=2.0):
        return slopes.entered(p, boxes(*solids), lift, 0.0, 0.0, x, 0.0)

    assert (found(), found(low), found(low, high), found(high, low)) == (-1, 0, 1, 0)
    assert (found(left), found(both), found(both, low), found(low, both)) == (-1, -1, 1, 0)
    assert found(left, x=0.0) == -1
    # Lifted above the lower one, the box only meets the higher.
    assert (found(low, lift=0.5), found(low, high, lift=0.5)) == (-1, 1)


def test_the_line_that_the_feet_passed_below():
    """Two rising lines above each other, the upper one steep; the feet fall from 6 u at x = 2."""
    p = numbers(slope__max_slope=40.0)
    both = lines((0, 0, 4, 2), (0, 1, 4, 9))
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 0.5, True) == 1
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 0.5, False) == 0
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 5.5, True) == -1
    # From between them only the lower one is met.
    assert slopes.met(both, p, -1, 2.0, 3.0, 2.0, 0.5, True) == 0
    assert slopes.met(both, p, -1, 2.0, 0.9, 2.0, 0.5, True) == -1
    assert slopes.met(both, p, -1, 2.0, 6.0, 5.0, -1.0, True) == -1


def test_beyond_a_line_the_feet_count_from_its_end():
    """Up 0.5 to (2, 1) and down 0.25 from there: the next line, if longer, would have been above the feet before."""
    p = numbers()
    roof = lines((0, 0, 2, 1), (2, 1, 6, 0))
    assert slopes.met(roof, p, 0, 1.5, 0.75, 2.5, 0.8, True) == 1
    assert slopes.met(roof, p, -1, 1.5, 0.75, 2.5, 0.8, True) == -1
    # To the left from the second line onto the first.
    assert slopes.met(roof, p, 1, 2.5, 0.875, 1.0, 0.4, True) == 0
    assert slopes.met(roof, p, -1, 2.5, 0.875, 1.0, 0.4, True) == -1
    falling = lines((0, 0, 2, -1), (2, -1, 6, 3))
    assert slopes.met(falling, p, 1, 2.25, -0.75, 1.5, -0.9, True) == 0
    rising = lines((0, 0, 2, 4), (2, 4, 6, 8))
    assert slopes.met(rising, p, 0, 1.5, 3.0, 2.5, 4.2, True) == 1
    # From above its own line the feet were as far above its end.
    assert slopes.met(roof, p, 0, 1.5, 3.0, 2.5, 0.8, True) == 1


def test_feet_are_put_down_onto_a_line_or_from_a_line_onto_a_top():
    """0.25 u above a floor, with a ground snap of 0.3 u; a slope of 45 degrees ends there."""
    p = numbers(slope__ground_snap=0.3, contact__step_height=0.0, body__width=1.0, body__height=2.0)

    def after(*, p=p, on=0, y=0.25, x=1.0, solids=((-9, -1, 9, 0),), slopes_there=((-3, 3, 0, 0),), more=False):
        s = state(x=x, y=y, vy=-1.0)
        slopes.snap(s, p, ground(make_drill(solids=solids, slopes=slopes_there).course), on, 0.5, more)
        return s.y

    assert after() == 0.0
    # Not from a top, not from too high, and not onto nothing.
    assert after(on=-1) == 0.25
    assert after(y=0.35) == 0.35
    assert after(solids=((-9, -1, 0, 0),)) == 0.25
    # A line is snapped to from anywhere.
    assert after(on=-1, x=-1.0, y=1.2) == 1.0
    assert after(x=-1.0, y=1.2) == 1.0
    # Of a floor and a line below it, the floor.
    assert after(slopes_there=((0, -0.5, 3, -0.25),)) == 0.0
    # With climbable steps, not down into one of them.
    step, climbs = ((-9, -1, 9, 0), (1.4, 0, 9, 0.2)), numbers(
        slope__ground_snap=0.3, contact__step_height=0.5, body__width=1.0, body__height=2.0
    )  # fmt: skip
    assert after(p=climbs, solids=step, more=True) == 0.25
    assert after(p=climbs, more=True) == 0.0
    assert after(p=climbs, solids=step, more=False) == 0.0


def test_a_walk_ends_where_a_steep_line_rises_from_its_own():
    """From (0, 0) level to (4, 0), and steep from (1, -1) to (3, 3): they cross at x = 1.5."""
    level = lines((0, 0, 4, 0), (1, -1, 3, 3))
    assert slopes.exit_x(level, 1, -1, 0.0) == 1.5
    assert slopes.exit_x(level, 1, 0, 9.0) == 1.5
    assert slopes.stopping_place(level, 1, 0, 0.0, 0.0, 2.0) == 1.5
    assert slopes.stopping_place(level, 1, 0, 0.0, 0.0, 1.25) == 1.25
    # A line that begins above the ground is met at its lower end.
    assert slopes.stopping_place(lines((0, 0, 4, 0), (1, 0, 3, 4)), 1, 0, 0.0, 0.0, 2.0) == 1.0
    # From the right, down to the left.
    falling = lines((0, 0, 4, 0), (1, 3, 3, -1))
    assert slopes.stopping_place(falling, 1, 0, 4.0, 0.0, 2.0) == 2.5


def test_heights_are_constant_beyond_the_ends_of_a_line():
    one = lines((0, 1, 4, 3))
    assert [slopes.height_of(one, 0, x) for x in (-1.0, 0.0, 1.0, 4.0, 9.0)] == [1.0, 1.0, 1.5, 3.0, 3.0]
    assert [bool(slopes.spans(one, 0, x)) for x in (-0.1, 0.0, 4.0, 4.1)] == [False, True, True, False]
    assert slopes.line_at(one, 2.0, 2.0)
    assert not slopes.line_at(one, 2.0, 2.1)


def test_a_slide_keeps_the_velocity_along_the_line():
    """Down a line of 45° a fall of 2 u/s continues at √2 along it: 1 down, and 1 back."""
    s = state(x=1.0, vx=0.0, vy=-2.0, grounded=True)
    slopes.slide(s, lines((0, 0, 4, 4)), 0)
    assert (s.vx, s.vy, s.y) == pytest.approx((-1.0, -1.0, 1.0))
    assert (bool(s.grounded), bool(s.slides), int(s.line)) == (False, True, 1)


def test_pace_along_a_line_is_slower_in_x():
    p = numbers(slope__slope_pace="along")
    half = lines((0, 0, 4, 4 * math.tan(math.radians(60))))
    assert slopes.pace(p, half, 0, True) == pytest.approx(0.5)
    assert slopes.pace(p, half, 0, False) == slopes.pace(p, half, -1, True) == 1.0
    assert slopes.pace(numbers(slope__slope_pace="level"), half, 0, True) == 1.0


# Jumps and dashes


def test_a_press_is_armed_for_the_buffer_and_then_lost_unless_used():
    p = numbers(jump__buffer=0.1)
    s = state(since_press=0.2)
    jump.arm(s, p, True)
    assert (bool(s.armed), bool(s.press_used)) == (True, False)
    for since, used, armed, lost in ((0.1, False, True, False), (0.11, False, False, True), (0.11, True, False, False)):
        s = state(armed=True, press_used=used, since_press=since)
        jump.arm(s, p, False)
        assert (bool(s.armed), bool(s.marks & LOST_PRESS)) == (armed, lost)
    s = state(since_press=9.0)
    jump.arm(s, p, False)
    assert s.marks == 0


def test_with_a_timer_per_press_any_that_ends_disarms():
    p = numbers(jump__buffer=0.1)

    def after(*timers, pressed=False, now=1.0, used=False):
        s = state(armed=True, press_used=used, elapsed=now, timers_running=len(timers))
        s.timers[: len(timers)] = timers
        jump.arm_with_timers(s, p, pressed)
        return bool(s.armed), bool(s.marks & LOST_PRESS), s.timers[: s.timers_running].tolist()

    assert after(0.9, 0.95) == (True, False, [0.9, 0.95])
    assert after(0.8, 0.95) == (False, True, [0.95])
    assert after(0.8, 0.95, used=True) == (False, False, [0.95])
    # A press in the same tick is armed, and nothing is lost.
    assert after(0.8, 0.95, pressed=True) == (True, False, [0.95, 1.0])
    assert after(0.95, pressed=True) == (True, False, [0.95, 1.0])
    full = [0.95 + 0.001 * number for number in range(MOST_TIMERS)]
    assert after(*full, pressed=True) == (True, False, [*full[1:], 1.0])


@pytest.mark.parametrize(
    ("fields", "marks"),
    [
        ({"grounded": True, "armed": True}, LAUNCH),
        ({"grounded": True, "armed": True, "since_press": 0.05}, LAUNCH | BUFFERED_LAUNCH),
        ({"armed": True, "since_ground": 0.1}, LAUNCH | COYOTE_LAUNCH),
        ({"armed": True, "since_ground": 0.11}, 0),
        ({"grounded": True, "armed": True, "spent": True}, 0),
        ({"grounded": True, "jump": True}, 0),
    ],
)
def test_a_launch_needs_a_press_and_recent_ground(fields, marks):
    s = state(vx=-3.0, vy=-1.0, air_jumps_left=2, **fields)
    jump.launch(s, numbers(jump__coyote=0.1, jump__jump_speed=10.0, jump__run_boost=0.5), False)
    assert s.marks == marks
    assert s.vy == (11.5 if marks else -1.0)
    assert (bool(s.launched), bool(s.hop_open), bool(s.press_used)) == (bool(marks),) * 3
    assert s.air_jumps_left == 2


def test_a_held_jump_launches_again_unless_stunned():
    p = numbers(jump__repeat="hold", jump__jump_speed=10.0)
    for stunned, more, launched in ((False, True, True), (True, True, False), (True, False, True)):
        s = state(grounded=True, jump=True, stunned=stunned)
        jump.launch(s, p, more)
        assert bool(s.launched) is launched


def test_a_jump_off_a_rising_line_keeps_part_of_the_rise():
    p = numbers(jump__coyote=0.1, jump__jump_speed=10.0, slope__slope_carry=0.5)
    for grounded, speed in ((True, 12.0), (False, 10.0)):
        s = state(armed=True, grounded=grounded, since_ground=0.0, rise_rate=4.0)
        jump.launch(s, p, False)
        assert s.vy == speed


@pytest.mark.parametrize(
    ("hop", "fields", "vy", "open_", "cut"),
    [
        ("cut", {}, 4.0, False, True),
        ("cap", {}, 3.0, False, True),
        ("heavy", {}, 8.0, True, False),
        ("sustain", {}, 8.0, False, False),
        ("cut", {"jump": True}, 8.0, True, False),
        ("cut", {"passes_for_held": True}, 8.0, True, False),
        ("cut", {"hop_open": False}, 8.0, False, False),
        ("cut", {"since_launch": 0.04}, 8.0, True, False),
        ("cut", {"since_launch": 0.05}, 4.0, False, True),
        ("cut", {"vy": 0.0}, 0.0, True, False),
        ("cap", {"vy": 2.0}, 2.0, False, True),
    ],
)
def test_a_release_while_rising_shortens_the_hop(hop, fields, vy, open_, cut):
    p = numbers(jump__short_hop=hop, jump__cut_factor=0.5, jump__cap_speed=3.0, jump__min_hold=0.05)
    s = state(**({"vy": 8.0, "hop_open": True, "since_launch": 0.2} | fields))
    jump.shorten(s, p)
    assert (s.vy, bool(s.hop_open), bool(s.marks & CUT)) == (vy, open_, cut)


@pytest.mark.parametrize(
    ("fields", "cut"),
    [
        ({}, True),
        ({"climbing": True}, False),
        ({"grounded": True}, False),
        ({"grounded": True, "launched": True}, True),
        ({"vy": -1.0}, False),
    ],
)
def test_every_release_while_rising_cuts_the_jump(fields, cut):
    p = numbers(jump__short_hop="cut", jump__cut_factor=0.5)
    s = state(**({"vy": 8.0, "hop_open": True} | fields))
    before = float(s.vy)
    jump.cut_again(s, p, True)
    assert (bool(s.marks & CUT), s.vy) == (cut, before / 2 if cut else before)
    s = state(vy=8.0)
    jump.cut_again(s, p, False)
    assert s.vy == 8.0


def test_a_second_tap_in_time_is_a_double_tap_and_a_third_starts_again():
    assert dash.tapped(0.3, 0.2, False) == (0.3, False)
    assert dash.tapped(0.3, 0.2, True) == (0.0, False)
    assert dash.tapped(0.2, 0.2, True) == (math.inf, True)
    assert dash.tapped(math.inf, 0.2, True) == (0.0, False)


@pytest.mark.parametrize(
    ("exit_", "modifier", "vx"), [("keep", False, 20.0), ("stop", False, 0.0), ("top", False, 6.0), ("top", True, 12.0)]
)
def test_a_dash_ends_with_its_velocity_at_top_speed_or_at_rest(exit_, modifier, vx):
    s = state(vx=20.0, dashing=True, since_dash_end=9.0, modifier=modifier, zone_speed=1.0)
    dash.end_dash(s, numbers(dash__speed=20.0, dash__exit=exit_, drive__top_speed=6.0, drive__modifier_speed=2.0))
    assert (s.vx, bool(s.dashing), s.since_dash_end, bool(s.marks & DASH_END)) == (vx, False, 0.0, True)


# Drive


def test_a_move_toward_a_target_goes_straight_and_stops_there():
    assert drive.toward(0.0, 0.0, 3.0, 4.0, 2.5) == pytest.approx((1.5, 2.0))
    assert drive.toward(0.0, 0.0, 3.0, 4.0, 5.0) == (3.0, 4.0)
    assert drive.toward(4.0, 1.0, -1.0, 1.0, 2.0) == (2.0, 1.0)


def test_capping_keeps_the_direction():
    assert drive.capped(6.0, 8.0, 5.0) == pytest.approx((3.0, 4.0))
    assert drive.capped(3.0, 4.0, 5.0) == (3.0, 4.0)


def test_a_push_then_drag_then_friction():
    """3 u/s pushed by 60 u/s² for a tick, with a drag of 6 /s: 4 · 0.9. Released it loses a tick of friction."""
    values = {"drive__law": "push", "drive__acceleration": 60.0, "drive__drag": 6.0, "drive__friction": 30.0}
    p = numbers("top", **values, drive__form="linear")
    assert drive.push(3.0, 0.0, 1.0, 0.0, 9.0, 1.0, 1.0, p, H) == pytest.approx((3.6, 0.0))
    assert drive.push(3.0, 0.0, 1.0, 0.0, 9.0, 0.5, 1.0, p, H) == pytest.approx((3.15, 0.0))
    assert drive.push(3.0, 0.0, 0.0, 0.0, 9.0, 1.0, 1.0, p, H) == pytest.approx((2.2, 0.0))
    assert drive.push(3.0, 0.0, 0.0, 0.0, 9.0, 1.0, 0.5, p, H) == pytest.approx((2.45, 0.0))
    assert drive.push(3.0, 0.0, 1.0, 0.0, 2.0, 1.0, 1.0, p, H) == pytest.approx((2.0, 0.0))
    exact = numbers("top", **values, drive__form="exact")
    assert drive.push(3.0, 0.0, 1.0, 0.0, 9.0, 1.0, 1.0, exact, H) == pytest.approx((4.0 * math.exp(-0.1), 0.0))
    first = numbers("top", **values, drive__form="linear", drive__cap_step="before")
    assert drive.push(3.0, 0.0, 1.0, 0.0, 2.0, 1.0, 1.0, first, H) == pytest.approx((2.7, 0.0))


def test_a_share_of_a_turn():
    linear, exact = (numbers("top", drive__turn_form=form) for form in ("linear", "exact"))
    assert drive.turn_share(linear, 6.0, H) == pytest.approx(0.1)
    assert drive.turn_share(linear, 120.0, H) == 1.0
    assert drive.turn_share(exact, 6.0, H) == pytest.approx(1.0 - math.exp(-0.1))


def test_drive_acts_along_the_heading_and_grip_across():
    """Heading up at 2 along and 1 to its right: 30 u/s² for a tick is 0.5, a grip of 60 /s leaves a share of 1/e."""
    p = numbers("top", drive__law="steer", drive__acceleration=30.0, drive__friction=12.0, drive__grip=60.0)
    s = state(facing=math.pi / 2)
    vx, vy = drive.along_heading(s, 1.0, 2.0, 1.0, 9.0, 1.0, 1.0, p, H)
    assert (vx, vy) == pytest.approx((math.exp(-1.0), 2.5))
    assert drive.along_heading(s, 0.0, 2.0, 0.0, 9.0, 1.0, 1.0, p, H) == pytest.approx((0.0, 1.8))
    cruising = numbers("top", drive__law="steer", drive__friction=12.0, drive__grip=60.0, drive__cruise_speed=3.0)
    assert drive.along_heading(s, 0.0, 2.0, 0.0, 9.0, 1.0, 1.0, cruising, H) == pytest.approx((0.0, 2.2))


def test_top_speed_uphill_and_downhill():
    p = numbers(slope__uphill_factor=0.5, slope__downhill_factor=2.0)
    for wx, slope, top in ((1.0, 1.0, 4.0), (-1.0, -1.0, 4.0), (1.0, -1.0, 16.0), (0.0, 1.0, 8.0)):
        assert drive.on_slope(state(wx=wx, slope=slope), p, 8.0) == top
