"""Functions of the kernel, called as the plain Python that they are: each against a sum done by hand."""

import math

import numpy as np
import pytest

from cinetica.motion import contact, drive, slopes
from cinetica.motion.records import STATE, empty_records, ground, tune_records
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
    """Lines as the kernel has them, with slope and angle."""
    return ground(make_drill(slopes=ends).course).slopes


# Contact


def test_a_sweep_stops_at_the_first_face_in_its_way():
    """A body 1 u wide and 2 u high at x = 0; walls at 2 and 5 u, and one over its head."""
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
    # What it is in already does not stop it.
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
    # Of two that it overlaps at its end, the nearer face counts.
    assert contact.stepped(boxes((5, 0, 8, 9), (4.9, 0, 8, 9)), 0, 4.0, 0.5, 0.5, 0.0, 2.0, 1.0) == (4.4, True)


def test_up_a_step_that_is_low_enough_with_room_above():
    """0.5 u high steps at 1 and at 2 u, walked up by a body 1 x 2 u; then a wall, and a beam over the first step."""
    first, second, wall = (1, -1, 9, 0.5), (2, -1, 9, 1.0), (3, -1, 9, 5)

    def go(*solids, to=1.0, most=0.5):
        return contact.step_up(boxes(*solids), 0.5, 0.0, 0.5, 2.0, 0.0, to, most)

    assert go(first) == (1.0, 0.5, False)
    assert go(first, most=0.4) == (0.5, 0.0, True)
    assert go(first, second, to=2.0) == (2.0, 1.0, False)
    assert go(first, second, to=2.0, most=0.4) == (0.5, 0.0, True)
    assert go(first, wall, to=3.0) == (2.5, 0.5, True)
    # A beam under which there is no room to rise, and one that only blocks further on.
    assert go(first, (0, 2.2, 0.9, 3)) == (0.5, 0.0, True)
    assert go(first, (1.5, 2.2, 3, 3), to=2.0) == (1.0, 0.5, True)
    # To the left it is the same.
    mirrored = boxes((-9, -1, -1, 0.5))
    assert contact.step_up(mirrored, -0.5, 0.0, 0.5, 2.0, 0.0, -1.0, 0.5) == (-1.0, 0.5, False)


def test_past_a_corner_by_the_smallest_shift():
    """A rise of 1 u under a block from x = 0.3 on: 0.2 u to the left is enough for a body 1 u wide."""
    block = boxes((0.3, 2.5, 3, 4))
    assert contact.slip(block, 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == pytest.approx(-0.2)
    assert contact.slip(block, 0.0, 0.0, 0.5, 2.0, 1.0, 0.1) == 0.0
    assert contact.slip(boxes((-3, 2.5, -0.4, 4)), 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == pytest.approx(0.1)
    # A wall on that side leaves no room.
    assert contact.slip(boxes((0.3, 2.5, 3, 4), (-3, 0, -0.6, 2)), 0.0, 0.0, 0.5, 2.0, 1.0, 0.25) == 0.0


def test_whole_pixels_stop_short_of_the_end():
    assert contact.whole_pixels(0.0, 0.99, 0.25) == 0.75
    assert contact.whole_pixels(0.0, 1.0, 0.25) == 1.0
    assert contact.whole_pixels(2.0, 1.1, 0.25) == 1.25


def test_tops_under_the_feet_leave_out_what_the_body_drops_through():
    course = ground(make_drill(solids=[(-5, -1, 5, 0)], oneway=[(-1, 1.5, 1, 2), (2, 2.5, 4, 3)]).course)
    s = state()
    assert contact.tops_under_feet(s, course, 0.0, 2.25, 0.5) == 0.25
    assert contact.tops_under_feet(s, course, 0.0, 1.75, 0.5) == 1.75
    assert contact.tops_under_feet(s, course, 9.0, 2.25, 0.5) == contact.FAR
    s.dropping, s.drop_low, s.drop_high, s.drop_left, s.drop_right = True, 1.9, 2.1, -0.5, 0.5
    assert contact.tops_under_feet(s, course, 0.0, 2.25, 0.5) == 2.25
    # Another plank than those that it drops through still counts.
    assert contact.tops_under_feet(s, course, 3.0, 3.5, 0.5) == 0.5


# Slopes


def test_a_box_enters_the_highest_solid_that_it_was_not_in():
    """A body of 1 x 2 u goes from x = 0 to 2, or stays; solids at its end, at its beginning, and at both."""
    p = numbers(body__width=1.0, body__height=2.0)
    low, high, left, both = (1.6, -1, 3, 0.5), (1.6, -1, 3, 1.5), (-0.4, -1, 0.4, 1), (-0.4, -1, 3, 1)

    def found(*solids, lift=0.0, x=2.0):
        return slopes.entered(p, boxes(*solids), lift, 0.0, 0.0, x, 0.0)

    assert (found(), found(low), found(low, high), found(high, low)) == (-1, 0, 1, 0)
    assert (found(left), found(both), found(both, low), found(low, both)) == (-1, -1, 1, 0)
    assert found(left, x=0.0) == -1
    # Lifted over the lower one, the box meets only the higher.
    assert (found(low, lift=0.5), found(low, high, lift=0.5)) == (-1, 1)


def test_the_line_that_the_feet_have_gone_under():
    """Two rising lines over each other, the upper one steep; the feet fall from 6 u at x = 2."""
    p = numbers(slope__max_slope=40.0)
    both = lines((0, 0, 4, 2), (0, 1, 4, 9))
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 0.5, True) == 1
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 0.5, False) == 0
    assert slopes.met(both, p, -1, 2.0, 6.0, 2.0, 5.5, True) == -1
    # From between them only the lower one is met.
    assert slopes.met(both, p, -1, 2.0, 3.0, 2.0, 0.5, True) == 0
    assert slopes.met(both, p, -1, 2.0, 0.9, 2.0, 0.5, True) == -1
    assert slopes.met(both, p, -1, 2.0, 6.0, 5.0, -1.0, True) == -1


def test_a_walk_ends_where_a_steep_line_comes_out_of_its_own():
    """From (0, 0) level to (4, 0), and steep from (1, -1) to (3, 3): it comes out at x = 1.5."""
    level = lines((0, 0, 4, 0), (1, -1, 3, 3))
    assert slopes.comes_out(level, 1, -1, 0.0) == 1.5
    assert slopes.comes_out(level, 1, 0, 9.0) == 1.5
    assert slopes.stopping_place(level, 1, 0, 0.0, 0.0, 2.0) == 1.5
    assert slopes.stopping_place(level, 1, 0, 0.0, 0.0, 1.25) == 1.25
    # One that begins over the ground is met at its lower end.
    assert slopes.stopping_place(lines((0, 0, 4, 0), (1, 0, 3, 4)), 1, 0, 0.0, 0.0, 2.0) == 1.0
    # From the right, down to the left.
    falling = lines((0, 0, 4, 0), (1, 3, 3, -1))
    assert slopes.stopping_place(falling, 1, 0, 4.0, 0.0, 2.0) == 2.5


def test_heights_are_level_beyond_the_ends_of_a_line():
    one = lines((0, 1, 4, 3))
    assert [slopes.height_of(one, 0, x) for x in (-1.0, 0.0, 1.0, 4.0, 9.0)] == [1.0, 1.0, 1.5, 3.0, 3.0]
    assert [bool(slopes.spans(one, 0, x)) for x in (-0.1, 0.0, 4.0, 4.1)] == [False, True, True, False]
    assert slopes.line_at(one, 2.0, 2.0)
    assert not slopes.line_at(one, 2.0, 2.1)


def test_a_slide_keeps_the_velocity_along_the_line():
    """Down a line of 45° a fall of 2 u/s goes on at √2 along it: 1 down, and 1 back."""
    s = state(x=1.0, vx=0.0, vy=-2.0, grounded=True)
    slopes.slide(s, lines((0, 0, 4, 4)), 0)
    assert (s.vx, s.vy, s.y) == pytest.approx((-1.0, -1.0, 1.0))
    assert (bool(s.grounded), bool(s.slides), int(s.line)) == (False, True, 1)


def test_only_along_the_line_a_walk_is_slower_in_x():
    p = numbers(slope__slope_pace="along")
    half = lines((0, 0, 4, 4 * math.tan(math.radians(60))))
    assert slopes.pace(p, half, 0, True) == pytest.approx(0.5)
    assert slopes.pace(p, half, 0, False) == slopes.pace(p, half, -1, True) == 1.0
    assert slopes.pace(numbers(slope__slope_pace="level"), half, 0, True) == 1.0


# Drive


def test_a_move_toward_a_target_goes_straight_and_stops_there():
    assert drive.toward(0.0, 0.0, 3.0, 4.0, 2.5) == pytest.approx((1.5, 2.0))
    assert drive.toward(0.0, 0.0, 3.0, 4.0, 5.0) == (3.0, 4.0)
    assert drive.toward(4.0, 1.0, -1.0, 1.0, 2.0) == (2.0, 1.0)


def test_half_a_cap_leaves_the_direction():
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


def test_along_the_heading_it_is_driven_and_across_it_grips():
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
