import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.courses import (
    KINDS,
    between,
    corners,
    dragged,
    grown,
    handles_at,
    shape_from_text,
    shifted,
    snapped,
    with_area,
    with_run,
    with_shape,
    without_shape,
    words,
)

COURSE = Course(solids=(Rectangle(0, 0, 1, 1), Rectangle(2, 0, 3, 1)), climb=(Rectangle(5, 0, 6, 4),))
numbers = st.floats(-1e4, 1e4, allow_nan=False)


@given(numbers, numbers, numbers, numbers, st.sampled_from([0.0, 0.25, 1.0]))
def test_any_two_corners_make_a_valid_rectangle(a, b, c, d, grid):
    made = with_area(Rectangle(a, b, c, d), grid)
    assert made.right - made.left >= (grid or 0.0001) - 1e-9
    assert made.top - made.bottom >= (grid or 0.0001) - 1e-9
    assert Course(solids=(made,)).solids == (made,)


@given(numbers, st.sampled_from([0.1, 0.25, 0.5, 2.0]))
def test_snapping_goes_to_the_nearest_line_of_the_grid(value, grid):
    near = snapped(value, grid)
    assert abs(near - value) <= grid / 2 + 1e-6
    assert abs(near / grid - round(near / grid)) < 1e-6


def test_without_a_grid_numbers_are_rounded_to_their_digits():
    assert snapped(1.23456789, 0) == 1.234568


def test_rectangles_are_replaced_in_place_added_and_removed():
    first = COURSE.solids[0]
    changed = with_shape(COURSE, "solids", shifted(first, 0.5, 1), instead_of=first)
    assert changed.solids == (Rectangle(0.5, 1, 1.5, 2), COURSE.solids[1])
    added = with_shape(COURSE, "oneway", Rectangle(0, 3, 1, 3.2))
    assert added.oneway == (Rectangle(0, 3, 1, 3.2),)
    assert without_shape(added, "oneway", Rectangle(0, 3, 1, 3.2)) == COURSE
    assert set(KINDS) == {"solids", "oneway", "climb", "slopes", "zones"}


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("1 2 3", "not a rectangle"),
        ("a b c d", "not a rectangle"),
        ("2 0 1 3", "left side left of"),
        ("0 3 1 3", "bottom below its top"),
        ("0 0 1 1e9", "reaches from"),
    ],
)
def test_a_bad_rectangle_is_refused_with_a_reason(text, message):
    with pytest.raises(ValueError, match=message):
        shape_from_text("solids", text)


def test_a_typed_rectangle():
    assert shape_from_text("solids", "−1, 0; 2.5 3") == (-1, 0, 2.5, 3)


SLOPE = Slope(2, 0, 6, 2)


@given(numbers, numbers, numbers, numbers, st.sampled_from([0.0, 0.25, 1.0]))
def test_any_two_points_make_a_valid_slope(a, b, c, d, grid):
    made = with_run(Slope(a, b, c, d), grid)
    assert made.x1 - made.x0 >= (grid or 0.0001) - 1e-9
    assert {made.y0, made.y1} == {b, d}
    assert Course(slopes=(made,)).slopes == (made,)


def test_a_slope_is_hit_at_its_ends_and_on_its_line_only():
    reach = (0.2, 0.2)
    assert handles_at(SLOPE, (2.1, 0.1), reach) == ("start",)
    assert handles_at(SLOPE, (5.9, 2.1), reach) == ("end",)
    assert handles_at(SLOPE, (4, 1.1), reach) == ()
    assert handles_at(SLOPE, (4, 1.5), reach) is None
    assert handles_at(SLOPE, (6.5, 2.25), reach) is None
    # Level with an end, and above one.
    assert handles_at(SLOPE, (4.2, 2.0), reach) is handles_at(SLOPE, (6, 1.2), reach) is None


def test_an_end_of_a_slope_is_not_dragged_past_the_other():
    assert dragged(SLOPE, ("end",), (7, -1)) == Slope(2, 0, 7, -1)
    assert dragged(SLOPE, ("end",), (1, 1)) == Slope(2, 0, 2.25, 1)
    assert dragged(SLOPE, ("start",), (9, 1)) == Slope(5.75, 1, 6, 2)
    assert dragged(Rectangle(0, 0, 2, 2), ("right", "top"), (3, -4)) == Rectangle(0, 0, 3, 0.25)
    assert grown(SLOPE, 0.25, -0.25, 0.25) == Slope(2, 0, 6.25, 1.75)
    assert grown(Rectangle(0, 0, 1, 1), -4, 1, 0.25) == Rectangle(0, 0, 0.25, 2)
    assert shifted(SLOPE, 1, 2) == Slope(3, 2, 7, 4)
    assert between("slopes", (6, 2), (2, 0)) == SLOPE


def test_corners_come_from_solids_and_other_slopes():
    course = Course(solids=(Rectangle(6, 0, 9, 2),), slopes=(SLOPE, Slope(9, 2, 12, 0)))
    assert set(corners(course, SLOPE)) == {(6, 2), (9, 2), (12, 0)}


def test_a_slope_is_typed_and_described_with_its_angle():
    assert shape_from_text("slopes", "2 0 4 -2") == Slope(2, 0, 4, -2)
    assert words("slopes", Slope(2, 0, 4, -2)) == "slope: from 2, 0 to 4, −2, −45.0°"
    assert words("oneway", Rectangle(0, 0, 1, 1)) == "one-way solid: left 0, bottom 0, right 1, top 1"
    for text, message in (
        ("2 0 4", "not a slope"),
        ("4 0 2 1", "x0 smaller"),
        ("0 0 nan 1", "x0 smaller"),
        ("0 0 1 nan", "reaches"),
    ):
        with pytest.raises(ValueError, match=message):
            shape_from_text("slopes", text)
