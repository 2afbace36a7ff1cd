import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.model.course import Course, Rectangle
from cinetica.model.courses import (
    KINDS,
    rectangle_from_text,
    shifted,
    snapped,
    with_area,
    with_rectangle,
    without_rectangle,
)

COURSE = Course(solids=(Rectangle(0, 0, 1, 1), Rectangle(2, 0, 3, 1)), climb=(Rectangle(5, 0, 6, 4),))
numbers = st.floats(-1e4, 1e4, allow_nan=False)


@given(numbers, numbers, numbers, numbers, st.sampled_from([0.0, 0.25, 1.0]))
def test_any_two_corners_make_a_rectangle_that_a_course_takes(a, b, c, d, grid):
    made = with_area(Rectangle(a, b, c, d), grid)
    assert made.right - made.left >= (grid or 0.01) - 1e-9
    assert made.top - made.bottom >= (grid or 0.01) - 1e-9
    assert Course(solids=(made,)).solids == (made,)


@given(numbers, st.sampled_from([0.1, 0.25, 0.5, 2.0]))
def test_snapping_goes_to_the_nearest_line_of_the_grid(value, grid):
    near = snapped(value, grid)
    assert abs(near - value) <= grid / 2 + 1e-6
    assert abs(near / grid - round(near / grid)) < 1e-6


def test_without_a_grid_only_idle_digits_go():
    assert snapped(1.23456789, 0) == 1.2346


def test_a_rectangle_is_exchanged_in_its_place_added_and_removed():
    first = COURSE.solids[0]
    changed = with_rectangle(COURSE, "solids", shifted(first, 0.5, 1), instead_of=first)
    assert changed.solids == (Rectangle(0.5, 1, 1.5, 2), COURSE.solids[1])
    added = with_rectangle(COURSE, "oneway", Rectangle(0, 3, 1, 3.2))
    assert added.oneway == (Rectangle(0, 3, 1, 3.2),)
    assert without_rectangle(added, "oneway", Rectangle(0, 3, 1, 3.2)) == COURSE
    assert set(KINDS) == {"solids", "oneway", "climb"}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("1 2 3", "no rectangle"),
        ("a b c d", "no rectangle"),
        ("2 0 1 3", "left smaller"),
        ("0 3 1 3", "bottom smaller"),
        ("0 0 1 1e9", "reaches from"),
    ],
)
def test_a_bad_rectangle_is_refused_in_words(text, said):
    with pytest.raises(ValueError, match=said):
        rectangle_from_text(text)


def test_a_typed_rectangle():
    assert rectangle_from_text("−1, 0; 2.5 3") == (-1, 0, 2.5, 3)
