import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import make_drill, make_tune, rows_of, run

DIAGONAL = {"right": [(0, 10)], "up": [(0, 10)]}


def intent(tune, **drill):
    """The intent of the first tick, as a pair."""
    trace = run(tune, make_drill(view=tune.view, length=10, **drill))
    return float(trace["intent_x"][1]), float(trace["intent_y"][1])


@pytest.mark.parametrize(
    ("rule", "expected"),
    [
        ("free", (1, 1)),
        ("limited", (math.sqrt(0.5), math.sqrt(0.5))),
        ("normalized", (math.sqrt(0.5), math.sqrt(0.5))),
        ("disc", (math.sqrt(0.5), math.sqrt(0.5))),
    ],
)
def test_two_keys_under_each_diagonal_rule(rule, expected):
    assert intent(make_tune("top", input__diagonal=rule), **DIAGONAL) == pytest.approx(expected, abs=1e-12)


@pytest.mark.parametrize(("rule", "length"), [("free", 0.5), ("limited", 0.5), ("normalized", 1.0), ("disc", 0.5)])
def test_half_a_push_stays_half_unless_normalized(rule, length):
    tune = make_tune("top", input__diagonal=rule, input__dead_zone_shape="none")
    assert intent(tune, stick=[(0, 0.5, 0.0)]) == pytest.approx((length, 0), abs=1e-12)


@given(x=st.floats(-1, 1), y=st.floats(-1, 1))
def test_the_disc_mapping_covers_the_whole_square(x, y):
    wx, wy = intent(make_tune("top", input__diagonal="disc", input__dead_zone_shape="none"), stick=[(0, x, y)])
    assert wx * wx + wy * wy <= 1 + 1e-9
    # The squares of both coordinates add up to 1 - (1 - x²)(1 - y²): the edge of the square maps to that of the disc.
    assert wx * wx + wy * wy == pytest.approx(1 - (1 - x * x) * (1 - y * y), abs=1e-9)


@pytest.mark.parametrize(("rule", "expected"), [("cancel", [1, 0, -1]), ("latest", [1, -1, -1]), ("first", [1, 1, -1])])
def test_opposed_keys(rule, expected):
    trace = run(make_tune(input__opposed=rule), make_drill(length=30, right=[(0, 20)], left=[(10, 30)]))
    assert [float(trace["intent_x"][row]) for row in (5, 15, 25)] == expected


@pytest.mark.parametrize("rule", ["cancel", "latest", "first"])
def test_keys_pressed_together_cancel(rule):
    trace = run(make_tune(input__opposed=rule), make_drill(length=10, right=[(2, 9)], left=[(2, 9)]))
    assert not trace["intent_x"].any()


def test_key_attack_and_release_are_straight_lines():
    trace = run(make_tune(input__key_attack=0.1, input__key_release=0.2), make_drill(length=30, right=[(0, 10)]))
    assert trace["intent_x"][1:8] == pytest.approx([1 / 6, 2 / 6, 3 / 6, 4 / 6, 5 / 6, 1, 1])
    assert trace["intent_x"][11:24] == pytest.approx([*(1 - n / 12 for n in range(1, 13)), 0], abs=1e-12)


def test_reversal_with_reset_starts_from_zero():
    hands = make_drill(length=20, right=[(0, 8)], left=[(8, 20)])
    through = run(make_tune(input__key_attack=0.1), hands)
    reset = run(make_tune(input__key_attack=0.1, input__key_reverse_reset=True), hands)
    assert through["intent_x"][9] == pytest.approx(1 - 1 / 6)
    assert reset["intent_x"][9] == pytest.approx(-1 / 6)


@pytest.mark.parametrize(
    ("values", "stick", "expected"),
    [
        ({}, 0.15, 0),
        ({}, 0.55, 0.5),
        ({}, 0.95, 1),
        ({"input__dead_zone_rescale": False}, 0.55, 0.55),
        ({"input__curve": 2}, 0.55, 0.25),
        ({"input__dead_zone_shape": "none"}, 0.1, 0.1),
    ],
)
def test_dead_zone_and_curve_on_one_axis(values, stick, expected):
    assert intent(make_tune("top", **values), stick=[(0, stick, 0)])[0] == pytest.approx(expected, abs=1e-12)


def test_radial_keeps_the_direction_and_axial_snaps_to_the_axis():
    push = (0.8 * math.cos(0.15), 0.8 * math.sin(0.15))
    radial = intent(make_tune("top"), stick=[(0, *push)])
    axial = intent(make_tune("top", input__dead_zone_shape="axial"), stick=[(0, *push)])
    assert math.atan2(radial[1], radial[0]) == pytest.approx(0.15)
    assert axial == pytest.approx(((push[0] - 0.15) / 0.8, 0), abs=1e-12)


def test_a_stick_beyond_its_dead_zone_overrides_keys():
    assert intent(make_tune("top"), stick=[(0, -1, 0)], right=[(0, 10)])[0] == -1
    assert intent(make_tune("top"), stick=[(0, -0.1, 0)], right=[(0, 10)])[0] == 1


def test_axis_ratio_before_and_after_the_rule():
    after = intent(make_tune("top", input__axis_ratio=0.5), **DIAGONAL)
    before = intent(make_tune("top", input__axis_ratio=0.5, input__axis_ratio_order="before"), **DIAGONAL)
    assert after == pytest.approx((math.sqrt(0.5), math.sqrt(0.5) / 2))
    assert before == pytest.approx((1 / math.hypot(1, 0.5), 0.5 / math.hypot(1, 0.5)))


def test_the_view_turns_and_tilts_the_intent():
    assert intent(make_tune("top", input__view_yaw=90), right=[(0, 9)]) == pytest.approx((0, 1), abs=1e-12)
    assert intent(make_tune("top", input__view_pitch=60), up=[(0, 9)]) == pytest.approx((0, 1), abs=1e-12)
    tilted = make_tune("top", input__view_pitch=60, input__view_flatten=False)
    assert intent(tilted, up=[(0, 9)]) == pytest.approx((0, 0.5), abs=1e-12)


@given(ticks=st.integers(0, 20))
def test_latency_delays_the_response_by_whole_ticks(ticks):
    hands = make_drill(length=60, right=[(3, 25)], jump=[(10, 20)])
    now, late = run(make_tune(), hands), run(make_tune(input__latency=ticks), hands)
    for column in ("x", "y", "vx", "vy", "intent_x", "marks", "state"):
        assert np.array_equal(now[column][: len(now) - ticks], late[column][ticks:])
    assert rows_of(late, "press") == [11 + ticks]
