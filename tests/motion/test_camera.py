"""The camera against closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.motion.camera import follow
from cinetica.motion.records import STATE, empty_records, tune_records
from tests.builders import make_drill, make_tune, run

RIGHT = {"right": [(0, 400)]}


def body(**numbers):
    """Instantly at full speed: 6 u/s."""
    return make_tune(**{"drive__law": "instant", "drive__top_speed": 6, **numbers})


def test_a_locked_camera_is_at_the_body_and_none_stays_put():
    drill = make_drill(**RIGHT, jump=[(5, 20)])
    trace = run(make_tune(), drill)
    assert trace["camera_x"].tobytes() == trace["x"].tobytes()
    assert trace["camera_y"].tobytes() == trace["y"].tobytes()
    assert not trace["screen_x"].any()
    still = run(make_tune(camera__follow="none"), drill)
    assert set(still["camera_x"]) == {0.0}
    assert still["screen_x"].tobytes() == still["x"].tobytes()


def test_an_easing_camera_lags_by_speed_times_its_time_constant():
    """At a steady speed the share f of lag + v·h is closed in a tick, so that lag = v·h·(1 - f)/f."""
    h, kept = 1 / 60, math.exp(-8 / 60)
    trace = run(body(camera__follow="ease", camera__follow_rate=8), make_drill(length=300, **RIGHT))
    assert trace["screen_x"][-1] == pytest.approx(6 * h * kept / (1 - kept))
    blend = run(
        body(camera__follow="ease", camera__follow_rate=8, camera__follow_form="linear"),
        make_drill(length=300, **RIGHT),
    )
    assert blend["screen_x"][-1] == pytest.approx(6 * h * (1 - 8 * h) / (8 * h))


def test_a_camera_of_constant_speed_falls_behind_and_catches_up():
    tune = body(camera__follow="constant", camera__follow_speed=4)
    trace = run(tune, make_drill(length=120, right=[(0, 60)]))
    assert trace["camera_x"][60] == pytest.approx(4.0)
    assert trace["camera_x"][91] == pytest.approx(6.0)


def test_a_window_lets_the_body_move_before_the_camera_follows():
    trace = run(body(camera__window_width=2, camera__window_height=9), make_drill(length=60, **RIGHT, jump=[(5, 30)]))
    assert trace["camera_x"] == pytest.approx(np.maximum(0.0, trace["x"] - 1))
    assert set(trace["camera_y"]) == {0.0}


def test_the_lead_points_where_the_body_is_going():
    trace = run(body(camera__look_ahead=0.5, camera__look_ahead_rate=4), make_drill(length=120, **RIGHT))
    ticks = np.arange(1, 121)
    assert trace["camera_x"][1:] - trace["x"][1:] == pytest.approx(3 * (1 - np.exp(-4 * ticks / 60)))


def test_a_ground_camera_follows_upward_from_ground_and_always_below_the_window():
    tune = body(camera__follow_height="grounded")
    hop = run(tune, make_drill(jump=[(5, 30)], length=90))
    assert hop["y"].max() > 1
    assert np.abs(hop["camera_y"]).max() < 1e-9
    off = run(tune, make_drill(solids=[(-9, -1, 1, 0)], length=60, **RIGHT))
    assert off["y"][-1] < -1
    assert off["camera_y"] == pytest.approx(off["y"])
    up = run(tune, make_drill(solids=[(-9, -1, 9, 0), (1, 0, 9, 1)], length=90, jump=[(5, 30)], right=[(8, 90)]))
    assert up["camera_y"][-1] == 1


@given(st.floats(-20, 20), st.floats(-20, 20), st.floats(0.1, 60), st.floats(0, 4))
def test_an_exact_camera_agrees_at_shared_times_of_two_rates(x, y, rate, window):
    tune = make_tune(camera__follow="ease", camera__follow_rate=rate, camera__window_width=window)
    p = tune_records([tune])[0]
    places = []
    for ticks in (12, 48):
        (s,) = empty_records(STATE, 1)
        s.x, s.y, s.grounded = x, y, True
        for _ in range(ticks):
            follow(s, p, 1 / ticks)
        places.append((s.camera_x, s.camera_y))
    assert places[0] == pytest.approx(places[1], abs=1e-9)


def test_with_partial_delta_time_the_camera_uses_it():
    tune = body(camera__follow="ease", stepping__time_base="mixed")
    trace, whole = (
        run(tune, make_drill(**RIGHT), 30),
        run(tune.put("stepping.time_base", "seconds"), make_drill(**RIGHT), 30),
    )
    assert trace["camera_x"] == pytest.approx(whole["camera_x"])
