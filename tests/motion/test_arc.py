"""The law arc, lean in two stages, the hold of the aim and partial delta time, worked out by hand."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import make_drill, make_tune, run

FAST = 36000.0


def body(**numbers):
    """A body under arc that turns by at most 180°/s."""
    return make_tune("top", **{"drive__law": "arc", "drive__turn_rate": 180, **numbers})


def upward(frames=40):
    return make_drill(view="top", length=60, up=[(0, frames)])


def test_the_heading_turns_by_at_most_the_turn_rate_and_stops_where_the_hands_point():
    trace = run(body(), upward())
    assert trace["facing"][:32] == pytest.approx(np.minimum(3.0 * np.arange(32), 90.0))


@pytest.mark.parametrize("rate", [6.0, 0.5])
def test_an_eased_turn_covers_a_share_of_the_arc_every_tick(rate):
    trace = run(body(drive__turn_ease=rate, drive__turn_rate=FAST), upward())
    assert trace["facing"][:30] == pytest.approx(90 * (1 - np.exp(-rate * np.arange(30) / 60)))


@pytest.mark.parametrize(("pivot", "first"), [(120, 180.0), (180, 3.0)])
def test_a_turn_beyond_the_pivot_angle_is_instant(pivot, first):
    """Half a turn goes counter-clockwise; 180° never exceeds the pivot angle."""
    trace = run(body(drive__pivot_angle=pivot), make_drill(view="top", length=20, left=[(0, 20)]))
    assert trace["facing"][1] == pytest.approx(first)


def test_velocity_across_the_heading_decays_instead_of_turning():
    """At 7 u/s to the right, then upward with an instant heading: x decays by the grip, y rises by the acceleration."""
    tune = body(drive__turn_rate=FAST, drive__grip=5, drive__acceleration=30, drive__friction=0)
    drill = make_drill(view="top", length=60, right=[(0, 30)], up=[(30, 60)])
    trace = run(tune, drill)
    assert trace["vx"][30] == pytest.approx(7)
    after = np.arange(1, 10)
    assert trace["vx"][31:40] == pytest.approx(7 * np.exp(-5 * after / 60))
    assert trace["vy"][31:40] == pytest.approx(30 * after / 60)


@given(st.floats(-math.pi, math.pi), st.floats(0.2, 1), st.sampled_from([30, 60, 144]))
def test_with_instant_turns_and_a_constant_direction_it_is_a_ramp(angle, length, rate):
    stick = [(0, length * math.cos(angle), length * math.sin(angle)), (25, 0, 0)]
    drill = make_drill(view="top", length=50, stick=stick)
    arc = run(body(drive__turn_rate=FAST), drill, rate)
    ramp = run(make_tune("top", drive__law="ramp"), drill, rate)
    for column in ("x", "y", "vx", "vy"):
        assert arc[column] == pytest.approx(ramp[column], abs=1e-9)


def test_the_lean_follows_the_turn_and_ends_with_it():
    """A turn to the left at the full rate leans by the whole angle, and after its end by none."""
    trace = run(body(drive__bank_angle=30), upward())
    assert trace["bank"][1:31] == pytest.approx(-30.0)
    assert trace["bank"][32:] == pytest.approx(0.0)


def test_the_lean_follows_in_two_stages():
    """Toward a constant target B the first value is B(1 - q^n), and the bank follows it: tick by tick by hand."""
    trace = run(body(drive__bank_angle=30, drive__lean_ease=8, drive__lean_settle=20), upward())
    ease, settle, first, bank = 1 - math.exp(-8 / 60), 1 - math.exp(-20 / 60), 0.0, 0.0
    for row in range(1, 31):
        first += (-30 - first) * ease
        bank += (first - bank) * settle
        assert trace["bank"][row] == pytest.approx(bank)
    assert first == pytest.approx(-30 * (1 - math.exp(-8 * 30 / 60)))


def test_arc_is_refused_in_side_view():
    with pytest.raises(ValueError, match="arc"):
        make_tune("side", drive__law="arc")


@pytest.mark.parametrize(("hold", "rows"), [(0.0, 0), (0.1, 6)])
def test_the_aim_is_held_after_the_second_stick_is_released(hold, rows):
    """Released in frame 10: for 0.1 s, 6 ticks, the facing stays upward; then it follows the keys."""
    tune = make_tune("top", facing__facing="direct", facing__aim="aim_stick", facing__aim_hold=hold)
    trace = run(tune, make_drill(view="top", length=30, right=[(0, 30)], aim=[(2, 0, 1), (10, 0, 0)]))
    assert trace["facing"][3:11] == pytest.approx(90.0)
    assert trace["facing"][11 : 11 + rows] == pytest.approx(90.0)
    assert trace["facing"][11 + rows :] == pytest.approx(0.0)


@pytest.mark.parametrize("rate", [30, 60, 144])
def test_half_forgotten_delta_time_makes_the_jump_depend_on_the_rate(rate):
    """Every tick takes 40/60 u/s off the velocity, whatever its length: vy = v - 40 n/60; y is the sum of vy/rate."""
    tune = make_tune(stepping__time_base="mixed", gravity__gravity=40, gravity__fall_factor=1, jump__jump_speed=12)
    trace = run(tune, make_drill(length=40, jump=[(0, 40)]), rate)
    count = 12
    vy = 12 - 40 / 60 * np.arange(1, count + 1)
    assert trace["vy"][1 : count + 1] == pytest.approx(vy)
    assert trace["y"][1 : count + 1] == pytest.approx(np.cumsum(vy) / rate)
