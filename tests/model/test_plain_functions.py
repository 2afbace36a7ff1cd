"""Functions of the model, one at a time: drawn curves, shares, handles of shapes, limits, unknown names."""

import math
from contextlib import nullcontext

import pytest
from pydantic import ValidationError

from cinetica.model.course import Course, Rectangle
from cinetica.model.courses import handles_at
from cinetica.model.curves import Point, height_at, with_point, with_point_moved, without_point
from cinetica.model.quantity import HIGHEST_POWER, LONGEST, Units, quantity
from cinetica.model.rate_shares import rate_from_share
from cinetica.model.take import Push, Take
from cinetica.model.takes import stick_at
from cinetica.model.targets import Target
from cinetica.model.tune import Tune
from cinetica.model.words import MOST_LISTED, unknown

CURVE = (Point(0, 1), Point(1, 3), Point(2, 0))


@pytest.mark.parametrize(("x", "y"), [(-1, 1), (0, 1), (0.25, 1.5), (1, 3), (1.5, 1.5), (2, 0), (9, 0)])
def test_a_curve_is_straight_between_its_points_and_level_outside(x, y):
    assert height_at(CURVE, x) == pytest.approx(y)


def test_a_point_moves_up_to_its_neighbours():
    assert with_point_moved(CURVE, 0, 0.5, 2) == (Point(0.5, 2), *CURVE[1:])
    assert with_point_moved(CURVE, 0, 5, 2)[0] == Point(0.999, 2)
    assert with_point_moved(CURVE, 1, -5, 2)[1] == Point(0.001, 2)
    assert with_point_moved(CURVE, 1, 5, 2)[1] == Point(1.999, 2)
    assert with_point_moved(CURVE, 2, 9, 2)[2] == Point(9, 2)


@pytest.mark.parametrize(("x", "y", "is_share"), [(1, 1, True), (1.5, 1, False), (1, 1.5, False)])
def test_a_response_goes_from_a_share_to_a_share(x, y, is_share):
    points = (Point(0, 0), Point(x, y))
    assert Tune(name="Wren").put("drive.acceleration_curve", points).get("drive.acceleration_curve") == points
    with nullcontext() if is_share else pytest.raises(ValidationError, match="from 0 to 1"):
        Tune(name="Wren").put("input.response", points)


def test_points_are_added_in_order_replaced_and_removed():
    assert with_point(CURVE, 0.5, 4) == (CURVE[0], Point(0.5, 4), *CURVE[1:])
    assert with_point(CURVE, 1, 4) == (CURVE[0], Point(1, 4), CURVE[2])
    assert without_point(CURVE, 1) == (CURVE[0], CURVE[2])


def test_the_rate_of_a_share():
    assert rate_from_share(0.5, 0.1, exact=False) == pytest.approx(5)
    assert rate_from_share(1.5, 0.1, exact=False) == pytest.approx(15)
    assert rate_from_share(0.5, 0.1, exact=True) == pytest.approx(10 * math.log(2))
    assert rate_from_share(0.0, 0.1, exact=True) == 0
    for share, message in ((1.0, "infinite rate"), (-0.1, "negative"), (math.nan, "negative")):
        with pytest.raises(ValueError, match=message):
            rate_from_share(share, 0.1, exact=True)


def test_of_two_sides_within_reach_the_first_is_held():
    narrow, reach = Rectangle(0, 0, 0.1, 4), (0.2, 0.2)
    assert handles_at(narrow, (0.05, 2), reach) == ("left",)
    assert handles_at(narrow, (0.05, 4.1), reach) == ("left", "top")
    assert handles_at(Rectangle(0, 0, 4, 0.1), (2, 0.05), reach) == ("top",)
    assert handles_at(narrow, (-0.2, 2), reach) == ("left",)
    assert handles_at(narrow, (0.35, 2), reach) is handles_at(narrow, (0.05, 4.25), reach) is None


def test_an_unknown_name_is_answered_with_similar_ones_or_all():
    assert unknown("tune", "Wrem", ["Wren", "Wrens", "Wreny", "Wrena"]).count(" or ") == 2
    assert unknown("number", "jump.gravity", ["gravity.gravity", "body.width"]).endswith(
        "did you mean gravity.gravity?"
    )
    many = [f"{letter}{number}" for letter in "qxz" for number in range(100, 111)]
    listed = unknown("tune", "Wren", many)
    assert listed.endswith(f"{many[MOST_LISTED - 1]}, …")
    assert unknown("tune", "Wren", many[:MOST_LISTED]).endswith(many[MOST_LISTED - 1])


def test_a_large_target_has_a_slack_in_proportion():
    target = Target(measure="top_speed_reached", low=-2e6, high=1e6)
    for value, miss in ((1e6 + 5e-4, 0), (1e6 + 2e-3, 2e-3), (-2e6 - 1e-3, 0), (-2e6 - 4e-3, -4e-3)):
        assert target.misses_by(value) == pytest.approx(miss, abs=1e-6), value


def test_a_push_holds_from_its_frame_on():
    take = Take(length=20, stick=(Push(5, 0.5, 0.25), Push(10, -1.0, 0.0)))
    found = [stick_at(take, "stick", frame) for frame in (4, 5, 9, 10, 19)]
    assert found == [(0, 0), (0.5, 0.25), (0.5, 0.25), (-1, 0), (-1, 0)]


def test_powers_go_up_to_their_limit():
    assert quantity(f"2 ** {HIGHEST_POWER}", Units()).value == 2**HIGHEST_POWER
    with pytest.raises(ValueError, match="number"):
        quantity(f"2 ** {HIGHEST_POWER + 1}", Units())


def test_a_number_may_be_as_long_as_its_limit():
    long = "1.".ljust(LONGEST, "0")
    assert quantity(long, Units()).value == 1
    with pytest.raises(ValueError, match="too long"):
        quantity(f"{long}0", Units())


@pytest.mark.parametrize("box", [(0, 0, 0, 1), (0, 0, 1, 0), (1, 0, 0, 1)])
def test_a_solid_has_a_width_and_a_height(box):
    with pytest.raises(ValidationError):
        Course(solids=(Rectangle(*box),))
