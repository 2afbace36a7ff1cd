"""Within a tick: the position under a linear velocity, and when a position is reached."""

import math
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.motion.records import tune_records
from cinetica.reading.reading_off import read_off
from cinetica.reading.subtick import displacement_after, ground_per_x, share_per_tick, still_at
from tests.builders import make_drill, make_tune, rows_of, run


def facts(integrator="midpoint"):
    """The fields of Facts that these functions use."""
    return SimpleNamespace(tunes=tune_records([make_tune(stepping__integrator=integrator)]))


def test_a_parabola_crosses_a_height_twice():
    """From 4 to -4 u/s in a tick of 1 s: 4·t - 4·t², which is 0.75 at a quarter and at three quarters."""
    f = facts()
    assert displacement_after(f, 4.0, -4.0, 1.0, 0.25) == displacement_after(f, 4.0, -4.0, 1.0, 0.75) == 0.75
    assert share_per_tick(f, 4.0, -4.0, 1.0, 0.75, True) == pytest.approx(0.25)
    assert share_per_tick(f, 4.0, -4.0, 1.0, 0.75, False) == pytest.approx(0.75)
    # Down and back up, with reversed signs.
    assert share_per_tick(f, -4.0, 4.0, 1.0, -0.75, True) == pytest.approx(0.25)


def test_a_position_crossed_once_and_one_never_reached():
    """From 2 to 4 u/s in 1 s: 2·t + t², which is 1.25 after a half and 3 at the end."""
    f = facts()
    assert displacement_after(f, 2.0, 4.0, 1.0, 0.5) == 1.25
    assert share_per_tick(f, 2.0, 4.0, 1.0, 1.25, True) == pytest.approx(0.5)
    assert share_per_tick(f, 2.0, 4.0, 1.0, 3.0, True) == pytest.approx(1.0)
    assert share_per_tick(f, 2.0, 4.0, 1.0, 9.0, True) == 1.0
    assert share_per_tick(f, 2.0, 4.0, 1.0, 0.0, True) == pytest.approx(0.0)


@pytest.mark.parametrize(("integrator", "velocity"), [("position_first", 2.0), ("velocity_first", 4.0)])
def test_constant_velocity_is_interpolated_linearly(integrator, velocity):
    f = facts(integrator)
    assert displacement_after(f, 2.0, 4.0, 0.5, 0.25) == velocity * 0.125
    assert share_per_tick(f, 2.0, 4.0, 0.5, velocity * 0.125, True) == pytest.approx(0.25)
    assert share_per_tick(f, 0.0, 0.0, 0.5, 1.0, True) == 0.0


def test_the_moment_at_which_the_velocity_is_0():
    assert still_at(3.0, -1.0) == 0.75
    assert still_at(-1.0, 3.0) == 0.25
    assert still_at(0.0, 5.0) == 0.0
    assert still_at(2.0, 0.0) == 1.0
    assert still_at(2.0, 1.0) == -1.0


@pytest.mark.parametrize(
    ("angles", "state", "slopes", "longer"),
    [
        ((53.0, 53.0), 0, 1, 5 / 3), ((0.0, 53.0), 0, 1, 5 / 3), ((53.0, 0.0), 0, 1, 5 / 3), ((53.0, 53.0), 2, 1, 1.0),
        # Up a step the way is no longer, with or without slopes elsewhere.
        ((0.0, 0.0), 0, 1, 1.0), ((0.0, 0.0), 0, 0, 1.0),
    ],
)  # fmt: skip
def test_on_a_line_the_way_along_the_ground_is_longer_than_across(angles, state, slopes, longer):
    """4 up over 3 across are 5 along."""
    start, end = (
        SimpleNamespace(x=3.0 * at, y=4.0 * at, ground_angle=angle, state=state) for at, angle in enumerate(angles)
    )
    f = SimpleNamespace(n=SimpleNamespace(slopes=slopes), rows=[start, end])
    assert ground_per_x(f, 1) == pytest.approx(longer)


@given(st.floats(-50, 50), st.floats(-50, 50), st.floats(0.001, 0.1), st.floats(0.05, 0.95))
def test_the_crossing_share_leads_to_the_crossed_position(old, new, h, share):
    f = facts()
    way = displacement_after(f, old, new, h, share)
    for rising in (True, False):
        found = share_per_tick(f, old, new, h, way, rising)
        assert displacement_after(f, old, new, h, found) == pytest.approx(way, abs=1e-7)


@pytest.mark.parametrize("rise", [0.5, 0.25, -0.5])
def test_a_jump_onto_a_slope_ends_where_its_parabola_meets_the_line(rise):
    """With 12 u/s up and 3 u/s across under 30 u/s²: 12·t - 15·t² = rise·(x₀ + 3·t - 1), the later of its roots."""
    tune = make_tune(
        drive__law="instant", drive__top_speed=3.0, jump__jump_speed=12.0, gravity__gravity=30.0,
        slope__max_slope=60.0, stepping__integrator="midpoint",
    )  # fmt: skip
    drill = make_drill(
        right=[(0, 120)], jump=[(10, 100)], length=120, solids=[(-50, -20, 1, 0)], slopes=[(1, 0, 41, 40 * rise)]
    )
    trace = run(tune, drill)
    start = float(trace["x"][rows_of(trace, "launch")[0] - 1])
    linear, constant = 12.0 - 3.0 * rise, -rise * (start - 1.0)
    expected = (linear + math.sqrt(linear**2 + 60.0 * constant)) / 30.0
    assert read_off(trace, ["air_time"])["air_time"].value == pytest.approx(expected, abs=2e-8)
