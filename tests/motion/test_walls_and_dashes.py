"""Sliding down walls, jumping off them, and dashes, against sums worked out by hand."""

import math

import numpy as np
import pytest

from cinetica.motion.records import STATES
from tests.builders import FLOOR, make_drill, make_tune, marks_at, run

H = 1 / 60
# Half of the body's width, 0.4 u, from the start at 0.
WALL = (0.4, -50.0, 2.0, 50.0)
SLIDES = {"wall__slide_speed": 3.0, "gravity__gravity": 30.0}
LEAPS = {"wall__jump_speed": 10.0, "wall__jump_away": 6.0, "gravity__gravity": 30.0, "drive__top_speed": 4.0}


def rows_of(trace, mark):
    return [row for row in range(len(trace)) if mark in marks_at(trace, row)]


def states_of(trace):
    return [STATES[code] for code in trace["state"]]


# Sliding


def test_a_body_pushed_at_a_wall_falls_at_the_slide_speed():
    drill = make_drill(length=60, solids=[WALL], right=[(0, 60)])
    trace = run(make_tune(**SLIDES), drill)
    # 0.5 u/s more per tick, up to 3 u/s.
    assert trace["vy"][1:10] == pytest.approx([-0.5, -1, -1.5, -2, -2.5, -3, -3, -3, -3])
    assert states_of(trace)[1:] == ["wall"] * 60
    # It touches the wall from the start, and pushes from the first tick on.
    assert rows_of(trace, "wall_on") == rows_of(trace, "wall_off") == []


def test_without_a_push_it_falls_freely_but_touches_the_wall():
    trace = run(make_tune(**SLIDES), make_drill(length=40, solids=[WALL], right=[(0, 20)]))
    assert trace["vy"][20] == pytest.approx(-3)
    assert trace["vy"][23] == pytest.approx(-4.5)
    assert states_of(trace)[20:24] == ["wall", "fall", "fall", "fall"]
    assert not rows_of(trace, "wall_off")


def test_a_wall_must_cover_half_of_the_body_within_the_probe():
    """The body is 1.6 high: 0.8 of it beside the wall is just enough."""
    for bottom, gap, on in ((0.8, 0.0, True), (0.81, 0.0, False), (-9, 0.05, True), (-9, 0.06, False)):
        wall = (0.4 + gap, bottom, 2.0, 50.0)
        tune = make_tune(**SLIDES | {"gravity__gravity": 0.0})
        # Away and back, so that touching it sets a mark.
        trace = run(tune, make_drill(length=5, solids=[wall]))
        drifting = run(tune, make_drill(length=5, solids=[wall], left=[(0, 5)]))
        assert rows_of(trace, "wall_on") == []
        assert bool(rows_of(drifting, "wall_off")) is on, (bottom, gap)


def test_on_the_ground_there_is_no_wall_to_slide_down():
    trace = run(make_tune(**SLIDES), make_drill(length=20, solids=[FLOOR, (0.4, 0, 2, 9)], right=[(0, 20)]))
    assert set(states_of(trace)) == {"ground"}
    assert not rows_of(trace, "wall_on")


# Jumping off


def test_a_wall_jump_goes_up_and_away_and_is_locked():
    tune = make_tune(**LEAPS, wall__lock=0.1, jump__short_hop="none")
    trace = run(tune, make_drill(length=40, solids=[WALL], right=[(0, 40)], jump=[(5, 30)]))
    assert rows_of(trace, "wall_launch") == [6]
    assert "launch" not in marks_at(trace, 6)
    assert trace["vy"][6] == pytest.approx(10 - 30 * H)
    # 0.1 s are 6 ticks, including its own; then the push back slows it by 50 u/s².
    assert trace["vx"][6:12] == pytest.approx([-6.0] * 6)
    assert trace["vx"][12] == pytest.approx(-6 + 50 * H)


def test_a_buffered_press_launches_when_the_wall_is_reached():
    """At 4 u/s it is 0.3 u away: the tick that ends there is the 5th, since it takes 4.5 ticks."""
    tune = make_tune(**LEAPS, drive__law="instant", wall__probe=0.0)
    drill = make_drill(length=40, solids=[(0.7, -50, 2, 50)], right=[(0, 40)], jump=[(2, 3)])
    trace = run(tune, drill)
    assert rows_of(trace, "wall_on")[0] == 5
    assert rows_of(trace, "wall_launch") == [6]


@pytest.mark.parametrize(("ticks", "jumps"), [(6, True), (7, False)])
def test_wall_coyote_time_includes_its_end(ticks, jumps):
    """0.1 s are 6 ticks; the tick after leaving has 1."""
    tune = make_tune(**LEAPS, drive__law="instant", wall__coyote=0.1)
    off = 4
    trace = run(tune, make_drill(length=40, solids=[WALL], left=[(off, 40)], jump=[(off + ticks, 30)]))
    assert rows_of(trace, "wall_off") == [off + 1]
    assert bool(rows_of(trace, "wall_launch")) is jumps


def test_a_launch_spends_the_wall_grace_if_grace_is_spent():
    presses = [(2, 3), (4, 5)]
    drill = make_drill(length=20, solids=[WALL], jump=presses)
    assert rows_of(run(make_tune(**LEAPS), drill), "wall_launch") == [3]
    assert rows_of(run(make_tune(**LEAPS, jump__spend_grace=False), drill), "wall_launch") == [3, 5]


def test_a_wall_jump_comes_before_an_air_jump_and_after_the_ground():
    drill = make_drill(length=30, solids=[FLOOR, (0.4, 0, 2, 9)], jump=[(2, 3), (10, 11)])
    trace = run(make_tune(**LEAPS, jump__air_jumps=1), drill)
    assert rows_of(trace, "launch") == [3]
    assert rows_of(trace, "wall_launch") == [11]
    assert rows_of(trace, "air_launch") == []


# Dashing

DASHES = {"dash__speed": 12.0, "dash__time": 0.1, "dash__cooldown": 0.2, "gravity__gravity": 30.0}


def test_a_dash_covers_its_distance_in_its_time_without_gravity():
    trace = run(make_tune(**DASHES), make_drill(length=40, solids=[], dash=[(3, 4)]))
    assert rows_of(trace, "dash") == [4]
    # 0.1 s: 6 ticks, and 1.2 u.
    assert states_of(trace)[4:11] == ["dash"] * 6 + ["fall"]
    assert rows_of(trace, "dash_end") == [10]
    assert trace["x"][9] - trace["x"][3] == pytest.approx(1.2)
    assert trace["y"][9] == trace["y"][3]
    # Then it falls from rest, since a dash has no vy.
    assert trace["vy"][10] == pytest.approx(-30 * H)


@pytest.mark.parametrize(("exit", "left"), [("keep", 12.0), ("top", 7.0), ("stop", 0.0)])
def test_the_velocity_left_after_a_dash(exit, left):
    tune = make_tune(**DASHES, dash__exit=exit, drive__law="push", drive__cap_step="before", drive__friction=0.0)
    tune = tune.put("drive.top_speed", 7.0)
    trace = run(tune, make_drill(length=20, dash=[(3, 4)]))
    # The push law caps before it pushes, and there is no push in the last tick.
    assert trace["vx"][9] == 12.0
    assert trace["vx"][10] == pytest.approx(min(left, 7.0))


def test_a_dash_lasts_one_tick_at_least():
    trace = run(make_tune(**DASHES | {"dash__time": 0.0}), make_drill(length=20, dash=[(3, 4)]))
    assert states_of(trace).count("dash") == 1


def test_the_next_dash_waits_for_its_cooldown_and_a_press_waits_for_the_buffer():
    """It ends in tick 10; 0.2 s later is tick 22. A press waits 0.1 s: that of tick 14 is lost in tick 21."""
    tune = make_tune(**DASHES, dash__buffer=0.1)
    trace = run(tune, make_drill(length=60, dash=[(3, 4), (13, 14)]))
    assert rows_of(trace, "dash") == [4]
    assert rows_of(trace, "lost_dash") == [21]
    trace = run(tune, make_drill(length=60, dash=[(3, 4), (15, 16)]))
    assert rows_of(trace, "dash") == [4, 22]


def test_air_dashes_are_limited_until_landing():
    tune = make_tune(**DASHES | {"dash__cooldown": 0.0, "dash__buffer": 0.0}, dash__air_dashes=2)
    trace = run(tune, make_drill(length=90, solids=[], dash=[(at, at + 1) for at in (3, 20, 40, 60)]))
    assert rows_of(trace, "dash") == [4, 21]
    assert rows_of(trace, "lost_dash") == [42, 62]
    grounded = run(tune, make_drill(length=90, dash=[(at, at + 1) for at in (3, 20, 40, 60)]))
    assert rows_of(grounded, "dash") == [4, 21, 41, 61]


def test_a_launch_from_the_ground_ends_a_dash_and_keeps_its_speed():
    tune = make_tune(**DASHES, drive__law="push", drive__cap_step="before", drive__top_speed=100.0)
    tune = tune.put("drive.friction", 0.0)
    trace = run(tune, make_drill(length=30, dash=[(3, 4)], jump=[(6, 20)]))
    assert marks_at(trace, 7)[:2] == ["press", "launch"]
    assert "dash_end" in marks_at(trace, 7)
    assert trace["vx"][7] == 12.0
    assert trace["vy"][7] == pytest.approx(14 - 30 * H)


def test_a_launch_out_of_a_dash_keeps_its_speed_under_a_throttle_too():
    tune = make_tune(**DASHES, drive__law="throttle", drive__friction=12.0)
    trace = run(tune, make_drill(length=30, dash=[(3, 4)], jump=[(6, 20)]))
    assert "dash_end" in marks_at(trace, 7)
    # In the air friction slows the speed left by the dash.
    assert trace["vx"][7] == pytest.approx(12 - 12 * H)


def test_a_wall_ends_a_dash_in_its_tick():
    trace = run(make_tune(**DASHES), make_drill(length=30, solids=[FLOOR, (0.9, 0, 2, 5)], dash=[(3, 4)]))
    # 0.2 u per tick: 0.5 u are covered in the third.
    assert marks_at(trace, 6) == ["wall", "dash_end"]
    assert trace["vx"][6] == 0.0
    assert states_of(trace)[6] == "ground"


ANGLES = {"intent": 30.0, "eight": 45.0, "facing": 0.0}


@pytest.mark.parametrize("aim", list(ANGLES))
def test_a_dash_points_along_intent_facing_or_the_nearest_of_eight(aim):
    stick = [(0, math.cos(math.radians(30)), math.sin(math.radians(30)))]
    tune = make_tune(view="top", dash__speed=12.0, dash__aim=aim, facing__facing="none", input__outer_zone=0.0)
    trace = run(tune, make_drill(view="top", length=20, stick=stick, dash=[(3, 4)]))
    angle = math.degrees(math.atan2(trace["vy"][4], trace["vx"][4]))
    assert angle == pytest.approx(ANGLES[aim])
    assert trace["speed"][4] == pytest.approx(12)


@pytest.mark.parametrize(("gap", "dashes"), [(15, True), (16, False)])
def test_two_taps_within_the_window_are_a_dash(gap, dashes):
    """0.25 s are 15 ticks, including the end."""
    tune = make_tune(**DASHES, dash__trigger="double_tap")
    trace = run(tune, make_drill(length=60, left=[(3, 5), (3 + gap, 5 + gap)], dash=[(1, 2)]))
    assert bool(rows_of(trace, "dash")) is dashes
    if dashes:
        assert rows_of(trace, "dash") == [4 + gap]
        assert trace["vx"][4 + gap] == -12


def test_a_third_tap_starts_again():
    tune = make_tune(**DASHES | {"dash__cooldown": 0.0, "dash__time": 0.0}, dash__trigger="double_tap")
    taps = [(3 + 6 * n, 5 + 6 * n) for n in range(4)]
    assert rows_of(run(tune, make_drill(length=60, right=taps)), "dash") == [10, 22]


def test_a_steady_throttle_continues_from_the_end_of_a_dash():
    tune = make_tune(**DASHES, drive__law="throttle", drive__friction=12.0, dash__exit="keep")
    trace = run(tune, make_drill(length=30, dash=[(3, 4)]))
    assert np.diff(trace["vx"][9:14]) == pytest.approx([-12 * H] * 4)
