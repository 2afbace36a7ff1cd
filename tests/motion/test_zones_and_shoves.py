"""Zones, shoves, drawn curves, and the rarer rules of contact, against sums worked out by hand."""

import math

import numpy as np
import pytest

from cinetica.model.clock import Clock
from cinetica.model.course import Zone
from cinetica.model.take import Shove
from cinetica.motion.simulate import simulate
from tests.builders import FLOOR, make_drill, make_tune, marks_at, run

H = 1 / 60
EVERYWHERE = (-900.0, -900.0, 900.0, 900.0)


def rows_of(trace, mark):
    return [row for row in range(len(trace)) if mark in marks_at(trace, row)]


def in_zone(drill, box=EVERYWHERE, **numbers):
    zones = (*drill.course.zones, Zone(box=box, **numbers))
    return drill.model_copy(update={"course": drill.course.model_copy(update={"zones": zones})})


def shoved(drill, *shoves):
    return drill.model_copy(update={"take": drill.take.model_copy(update={"shoves": tuple(Shove(*s) for s in shoves)})})


# Zones


def test_zone_factors_multiply():
    tune = make_tune(drive__acceleration=48.0, drive__friction=60.0, drive__top_speed=6.0)
    drill = in_zone(make_drill(length=60, right=[(0, 30)]), acceleration=0.5, friction=0.25, speed=2.0)
    trace = run(tune, drill)
    assert trace["vx"][1] == pytest.approx(24 * H)
    # 12 u/s at 0.4 u/s per tick: 30 ticks; then 15 u/s² slow it.
    assert trace["vx"][30] == pytest.approx(12)
    assert trace["vx"][31] == pytest.approx(12 - 15 * H)
    twice = run(tune, in_zone(drill, acceleration=0.5))
    assert twice["vx"][1] == pytest.approx(12 * H)


def test_a_zone_acts_in_ticks_that_begin_in_it():
    """Its left side is at 1; the body, 0.8 wide, reaches it when x exceeds 0.6: after 6 ticks of 0.1 u and one more."""
    tune = make_tune(drive__law="instant", drive__top_speed=6.0)
    drill = in_zone(make_drill(length=20, right=[(0, 20)]), (1.0, 0.0, 9.0, 2.0), speed=0.5)
    assert run(tune, drill)["vx"][1:11] == pytest.approx([6.0] * 7 + [3.0] * 3)


def test_water_slows_a_fall_to_the_balance_of_drag_and_gravity():
    """In a tick vy becomes (vy - 12 h)·k, with k = exp(-3 h): balanced at -12 h k/(1 - k)."""
    drill = in_zone(make_drill(length=600, solids=[]), gravity=0.3, drag=3.0)
    trace = run(make_tune(gravity__gravity=40.0), drill)
    kept = math.exp(-3 * H)
    assert trace["vy"][-1] == pytest.approx(-12 * H * kept / (1 - kept))


def test_wind_lifts_and_a_conveyor_carries():
    trace = run(make_tune(gravity__gravity=40.0), in_zone(make_drill(length=30, solids=[]), push=(0.0, 50.0)))
    assert trace["vy"][30] == pytest.approx(10 * 30 * H)
    # Friction of 60 u/s² resists 30, but not 90.
    belt = run(make_tune(drive__friction=60.0), in_zone(make_drill(length=30), push=(90.0, 0.0)))
    held = run(make_tune(drive__friction=60.0), in_zone(make_drill(length=30), push=(30.0, 0.0)))
    assert belt["vx"][30] == pytest.approx(90 * H + 29 * 30 * H)
    assert held["vx"][30] == pytest.approx(30 * H)


# Shoves


def test_a_shove_acts_in_the_first_tick_of_its_frame_without_latency():
    tune = make_tune(view="top", drive__friction=0.0, input__latency=7)
    trace = run(tune, shoved(make_drill(view="top", length=30), (10, 3.0, -2.0), (10, 1.0, 0.0)))
    assert trace["vx"][9:13] == pytest.approx([0, 0, 4, 4])
    assert trace["vy"][11] == pytest.approx(-2)
    assert rows_of(trace, "shove") == [11]


@pytest.mark.parametrize("clock", [Clock(hands="after"), Clock(mode="fixed", tick_rate=20), Clock(tick_rate=30)])
def test_a_shove_acts_in_its_frame_under_every_clock(clock):
    trace = simulate(make_tune(view="top"), shoved(make_drill(view="top", length=60), (10, 3.0, 0.0)), clock)
    (row,) = rows_of(trace, "shove")
    begins = trace["time"][row - 1]
    # The first tick that begins at 10/60 s or later; ticks of 1/20 s come with the frame that completes them.
    assert begins == pytest.approx({60: 10 / 60, 20: 3 / 20, 30: 10 / 60}[round(1 / trace["dt"][row])])


def test_stun_disables_input_for_its_time():
    tune = make_tune(drive__law="instant", drive__stun=0.2, drive__top_speed=5.0)
    drill = shoved(make_drill(length=60, right=[(0, 60)], jump=[(14, 20), (25, 30)]), (10, 0.0, 0.0))
    trace = run(tune, drill)
    # 0.2 s are the 12 ticks from 11 to 22.
    assert trace["intent_x"][10:24].tolist() == [1.0] + [0.0] * 12 + [1.0]
    assert trace["vx"][11:23] == pytest.approx([0.0] * 12)
    assert "press" in marks_at(trace, 15)
    assert rows_of(trace, "launch") == [26]
    assert not rows_of(trace, "lost_press")


def test_a_jump_armed_before_a_shove_may_launch_while_stunned():
    tune = make_tune(drive__stun=0.5, jump__buffer=0.2)
    drill = shoved(make_drill(length=60, start=(0, 0.2), jump=[(1, 20)]), (4, 0.0, 0.0))
    assert rows_of(run(tune, drill), "launch")


def test_a_shove_ends_a_dash():
    tune = make_tune(view="top", dash__speed=12.0, dash__exit="stop", drive__friction=0.0)
    trace = run(tune, shoved(make_drill(view="top", length=20, dash=[(2, 3)]), (5, 0.0, 3.0)))
    assert marks_at(trace, 6) == ["shove", "dash_end"]
    assert (trace["vx"][6], trace["vy"][6]) == (0.0, 3.0)


# Presses


def test_the_timer_of_an_old_press_ends_a_newer_one():
    """The first press launches in tick 3; over 0.5 s later, in tick 34, its timer ends the press of tick 33.

    The jump, at 9 u/s against 30 u/s², is back on the ground after 35 ticks.
    """
    times = {"jump__buffer": 0.5, "gravity__gravity": 30.0, "jump__jump_speed": 9.0, "jump__short_hop": "none"}
    drill = make_drill(length=60, jump=[(2, 4), (32, 60)])
    clean, stale = run(make_tune(**times), drill), run(make_tune(**times, jump__stale_timer=True), drill)
    assert rows_of(clean, "launch") == [3, 38]
    assert rows_of(stale, "launch") == [3]
    assert rows_of(stale, "lost_press") == [34]


# Drawn curves


def test_a_curve_scales_by_the_share_of_top_speed():
    """The factor falls from 1 to 0.5 at full speed: a = 30·(1 - v/20) with S = 10, v as the tick begins."""
    tune = make_tune(drive__top_speed=10.0, drive__acceleration=30.0)
    tune = tune.put("drive.acceleration_curve", ((0, 1), (1, 0.5)))
    trace = run(tune, make_drill(length=60, right=[(0, 60)]))
    v = [0.0]
    for _ in range(60):
        v.append(min(10.0, v[-1] + 30 * (1 - v[-1] / 20) * H))
    assert trace["vx"] == pytest.approx(v)


def test_a_curve_is_constant_outside_its_points():
    tune = make_tune(drive__top_speed=2.0, drive__friction=10.0)
    tune = tune.put("drive.friction_curve", ((0.5, 2), (1.5, 1)))
    fast = make_drill(length=40).model_copy(update={"start_velocity": (8.0, 0.0)})
    trace = run(tune, fast)
    # Beyond the last point, at 4 times the top speed; below the first, at under 1 u/s.
    assert trace["vx"][1] == pytest.approx(8 - 10 * H)
    slow = run(tune, make_drill(length=40).model_copy(update={"start_velocity": (0.9, 0.0)}))
    assert slow["vx"][1] == pytest.approx(0.9 - 20 * H)


def test_a_response_shapes_the_stick_before_its_power_and_leaves_keys_alone():
    tune = make_tune(input__dead_zone_shape="none", input__curve=2.0)
    tune = tune.put("input.response", ((0, 0), (0.5, 0.2), (1, 1)))
    stick = run(tune, make_drill(length=4, stick=[(0, 0.75, 0.0)]))
    # Half-way from 0.2 to 1 is 0.6, and its square 0.36.
    assert stick["intent_x"][2] == pytest.approx(0.36)
    assert run(tune, make_drill(length=4, right=[(0, 4)]))["intent_x"][2] == 1.0


# Contact

WALKS = {"drive__law": "instant", "drive__top_speed": 6.0}


@pytest.mark.parametrize(("rise", "goes_on"), [(0.5, True), (0.51, False)])
def test_a_walk_climbs_low_steps(rise, goes_on):
    tune = make_tune(**WALKS, contact__step_height=0.5)
    solids = [FLOOR, (1, 0, 20, rise), (2, rise, 20, 2 * rise)]
    trace = run(tune, make_drill(length=60, solids=solids, right=[(0, 60)]))
    if goes_on:
        assert trace["x"] == pytest.approx(np.arange(61) * 0.1)
        assert (trace["y"][5], trace["y"][7], trace["y"][-1]) == pytest.approx((0.0, 0.5, 1.0))
        assert not rows_of(trace, "wall")
    else:
        assert trace["x"][-1] == pytest.approx(0.6)
        assert trace["y"][-1] == 0.0


def test_a_step_under_a_low_ceiling_blocks():
    tune = make_tune(**WALKS, contact__step_height=0.5)
    trace = run(tune, make_drill(length=60, solids=[FLOOR, (1, 0, 20, 0.5), (-9, 1.8, 20, 3)], right=[(0, 60)]))
    assert trace["x"][-1] == pytest.approx(0.6)


@pytest.mark.parametrize(("width", "stands"), [(0.0, True), (0.7, True), (0.4, False)])
def test_only_ground_below_the_probe_counts(width, stands):
    """The floor ends 0.3 u beside the centre of the feet: the probe reaches it if wider than 0.6 u."""
    tune = make_tune(contact__probe_width=width)
    trace = run(tune, make_drill(length=10, solids=[(-9, -1, -0.3, 0)]))
    assert ("ground" if stands else "fall") == {0: "ground", 2: "fall"}[int(trace["state"][5])]
    # The box is supported all the same.
    assert trace["y"][5] == 0.0


def test_a_probe_that_grounds_a_rising_body_lets_it_jump_twice():
    probes = {"contact__ground_probe": 0.4, "jump__jump_speed": 10.0, "jump__short_hop": "none"}
    drill = make_drill(length=40, jump=[(2, 3), (4, 5)])
    assert rows_of(run(make_tune(**probes), drill), "launch") == [3]
    assert rows_of(run(make_tune(**probes, contact__probe_rising=True), drill), "launch") == [3, 5]


def test_late_contact_moves_in_fully_and_is_resolved_in_the_next_tick():
    solids, presses = [FLOOR, (1.0, 0.0, 3.0, 5.0)], {"right": [(0, 30)]}
    late, exact = (
        run(make_tune(drive__law="instant", drive__top_speed=7.2, contact__late=late, gravity__gravity=36.0),
            make_drill(length=40, solids=solids, **presses))
        for late in (True, False)
    )  # fmt: skip
    # 0.12 u per tick: 0.6 u are reached in the fifth; from then on it is shown 0.12 u inside.
    assert exact["x"][5:8] == pytest.approx([0.6, 0.6, 0.6])
    assert late["x"][5:8] == pytest.approx([0.6, 0.72, 0.72])
    assert late["vx"][6] == pytest.approx(7.2)
    # Gravity sinks it into the floor every tick, and the floor puts it back.
    assert late["y"][1:4] == pytest.approx([-36 * H * H] * 3)
    assert late["overlap"][3] == pytest.approx(36 * H * H)
    assert late["camera_x"][7] == pytest.approx(0.72)
    assert late["state"].tolist() == exact["state"].tolist()
    assert late["x"][-1] == exact["x"][-1]


def test_whole_pixels_stop_short_of_an_obstacle_and_the_body_falls_again():
    """From 0.14 u in whole pixels of 0.05 u: it hovers by the remainder."""
    tune = make_tune(contact__pixel=0.05, gravity__gravity=36.0)
    trace = run(tune, make_drill(length=30, start=(0, 0.14)))
    (landed, *_) = rows_of(trace, "land")
    fell = trace["y"][landed - 1]
    assert trace["y"][landed] == pytest.approx(fell - math.floor(fell / 0.05) * 0.05)
    assert 0 <= trace["y"][landed] < 0.05
    assert rows_of(trace, "leave")
