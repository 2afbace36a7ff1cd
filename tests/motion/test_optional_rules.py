"""Rules that most tunes do not use, against sums worked out by hand."""

import math

import numpy as np
import pytest

from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.model.take import Moved
from cinetica.motion.simulate import simulate
from tests.builders import make_drill, make_tune, marks_at, run

H = 1 / 60


def with_mouse(drill, *moves):
    return drill.model_copy(update={"take": drill.take.model_copy(update={"mouse": tuple(Moved(*m) for m in moves)})})


def moving(drill, vx, vy, heading=0.0):
    return drill.model_copy(update={"start_velocity": (vx, vy), "start_heading": heading})


# Input


def test_input_read_after_the_ticks_is_that_of_the_previous_frame():
    drill = make_drill(length=40, right=[(5, 30)], jump=[(8, 12)])
    now, after = run(make_tune(), drill), simulate(make_tune(), drill, Clock(hands="after"))
    assert np.array_equal(after["intent_x"][2:], now["intent_x"][1:-1])
    assert np.array_equal(after["y"][2:], now["y"][1:-1])
    assert after["intent_x"][1] == 0.0
    assert list(after.frames[:4]) == [-1, -1, 0, 1]


def test_a_press_read_after_slow_ticks_still_reaches_one():
    clock = Clock(mode="fixed", frame_rate=60, tick_rate=20, hands="after")
    drill = make_drill(length=60, jump=[(7, 8)])
    launches = [row for row in range(len(simulate(make_tune(), drill, clock))) if "launch" in
                marks_at(simulate(make_tune(), drill, clock), row)]  # fmt: skip
    # Frame 7 is read after the ticks of its own frame; ticks run in the frames 2, 5, 8 …
    assert launches == [3]


def test_forward_follows_the_look():
    """The look turns right by 90° in half a second; then forward is to the right of the world."""
    tune = make_tune(view="top", input__view="look", look__look_rate_x=180)
    drill = make_drill(view="top", length=60, up=[(0, 60)], aim=[(0, 1, 0), (30, 0, 0)])
    trace = run(tune, drill)
    assert trace["look_yaw"][30] == pytest.approx(90)
    assert (trace["intent_x"][1], trace["intent_y"][1]) == (0.0, 1.0)
    assert trace["intent_x"][11] == pytest.approx(math.sin(math.radians(30)))
    assert trace["intent_y"][11] == pytest.approx(math.cos(math.radians(30)))
    assert (trace["intent_x"][40], trace["intent_y"][40]) == pytest.approx((1.0, 0.0))


@pytest.mark.parametrize("rate", [30, 60, 144])
def test_mouse_turns_are_independent_of_the_tick_rate_unless_scaled_by_time(rate):
    drill = with_mouse(make_drill(length=60), (10, 120, -50), (11, 30, 0), (40, -20, 10))
    right = simulate(make_tune(), drill, Clock(tick_rate=rate))
    assert right["look_yaw"][-1] == pytest.approx(13.0)
    assert right["look_pitch"][-1] == pytest.approx(-4.0)
    wrong = simulate(make_tune(look__mouse_dt=True), drill, Clock(tick_rate=rate))
    assert wrong["look_yaw"][-1] == pytest.approx(13.0 * 60 / rate)


def test_mouse_counts_accumulate_between_ticks_and_latency_delays_them():
    drill = with_mouse(make_drill(length=30), (4, 10, 0), (5, 20, 0))
    slow = simulate(make_tune(), drill, Clock(mode="fixed", frame_rate=60, tick_rate=20))
    assert slow["look_yaw"][2:4] == pytest.approx([3.0, 3.0])
    late = run(make_tune(input__latency=3), drill)
    assert late["look_yaw"][7:10] == pytest.approx([0.0, 1.0, 3.0])


def test_the_modifier_has_a_separate_pitch_factor():
    drill = with_mouse(make_drill(length=20, modifier=[(0, 20)]), (5, 100, 100))
    trace = run(make_tune(look__look_modifier=0.5, look__look_modifier_y=0.2), drill)
    assert (trace["look_yaw"][-1], trace["look_pitch"][-1]) == pytest.approx((5.0, 2.0))
    both = run(make_tune(look__look_modifier=0.5), drill)
    assert both["look_pitch"][-1] == pytest.approx(5.0)


# The start


def test_a_start_in_motion_is_in_row_0_and_continues():
    tune = make_tune(gravity__gravity=36, drive__friction=0, drive__law="throttle")
    trace = run(tune, moving(make_drill(length=30, start=(0, 5)), 3.0, 6.0))
    assert (trace["vx"][0], trace["vy"][0], trace["speed"][0]) == pytest.approx((3.0, 6.0, math.hypot(3, 6)))
    assert trace["state"][0] == 1
    assert trace["vx"][1] == pytest.approx(3.0)
    assert trace["vy"][1] == pytest.approx(6.0 - 36 * H)
    assert trace["x"][1] == pytest.approx(3.0 * H)
    on_the_ground = run(make_tune(), moving(make_drill(length=5), 0.0, 6.0))
    assert on_the_ground["state"][0] == 1
    assert np.isinf(on_the_ground["since_ground"][0])


def test_a_drive_starts_at_the_given_heading():
    trace = run(
        make_tune(view="top", drive__law="steer"), moving(make_drill(view="top", length=30, up=[(0, 30)]), 0, 0, 90)
    )
    assert trace["facing"][0] == pytest.approx(90)
    assert trace["y"][-1] > 1
    assert trace["x"][-1] == pytest.approx(0.0, abs=1e-9)
    assert run(make_tune(), moving(make_drill(length=3), 0, 0, 270))["facing"][0] == pytest.approx(-90)


def test_files_without_the_new_keys_run_as_before():
    assert Drill(name="A") == Drill(name="A", start_velocity=(0.0, 0.0), start_heading=0.0)


# Press and hop


def test_every_release_cuts_again_also_in_air_jumps():
    tune = make_tune(jump__cut_repeat="every", jump__cut_factor=0.5, gravity__gravity=0)
    trace = run(tune, make_drill(length=40, jump=[(2, 6), (10, 14)]))
    assert trace["vy"][6] == pytest.approx(14.0)
    assert trace["vy"][7] == pytest.approx(7.0)
    assert trace["vy"][14] == pytest.approx(7.0)
    assert trace["vy"][15] == pytest.approx(3.5)
    once = run(make_tune(jump__cut_factor=0.5, gravity__gravity=0), make_drill(length=40, jump=[(2, 6), (10, 14)]))
    assert once["vy"][15] == pytest.approx(7.0)
    # The minimum hold has no effect.
    held = run(
        make_tune(jump__cut_repeat="every", jump__min_hold=1.0, gravity__gravity=0),
        make_drill(length=20, jump=[(2, 6)]),
    )
    assert held["vy"][7] == pytest.approx(7.0)


def test_an_unspent_press_launches_again_within_its_buffer():
    """A low hop is over before its buffer: the body jumps once more by the same press."""
    settings = {"jump__jump_speed": 1.0, "gravity__gravity": 40, "jump__buffer": 0.2}
    drill = make_drill(length=40, jump=[(2, 30)])

    def launches(**more):
        trace = run(make_tune(**settings, **more), drill)
        return [row for row in range(len(trace)) if "launch" in marks_at(trace, row)]

    assert len(launches()) == 1
    again = launches(jump__spend_press=False)
    assert len(again) > 2
    # The buffer counts from the press.
    assert max(again) <= 3 + round(0.2 / H)
    trace = run(make_tune(**settings, jump__spend_press=False), drill)
    assert not any("lost_press" in marks_at(trace, row) for row in range(len(trace)))


def test_gravity_is_off_for_a_while_after_a_jump_off_a_net():
    tune = make_tune(climb__jump_float=0.1, climb__climb_jump_speed=10, gravity__gravity=40, jump__short_hop="none")
    trace = run(tune, make_drill(length=60, climb=[(-2, 0, 2, 9)], up=[(0, 10)], jump=[(20, 50)]))
    launch = next(row for row in range(len(trace)) if "launch" in marks_at(trace, row))
    # Six ticks of 1/60 s, its own among them.
    assert trace["vy"][launch : launch + 6] == pytest.approx([10.0] * 6)
    assert trace["vy"][launch + 6] == pytest.approx(10.0 - 40 * H)


# Forces


def test_late_friction_acts_after_the_move():
    early, late = (
        run(make_tune(drive__friction=60, drive__friction_step=step), moving(make_drill(length=20), 6.0, 0.0))
        for step in ("before", "after")
    )
    # 1 u/s per tick: the speeds are the same, and the distance of each tick is that of the tick before.
    assert late["vx"] == pytest.approx(early["vx"])
    assert late["x"][1] == pytest.approx(6.0 * H)
    assert early["x"][1] == pytest.approx(5.0 * H)
    assert late["x"][-1] - early["x"][-1] == pytest.approx(6.0 * H)


def test_a_cap_before_the_push_is_exceeded_by_one_tick():
    tune = make_tune(drive__law="push", drive__acceleration=30, drive__top_speed=5, drive__cap_step="before")
    assert run(tune, make_drill(length=60, right=[(0, 60)]))["vx"][-1] == pytest.approx(5.0 + 30 * H)
    after = run(tune.put("drive.cap_step", "after"), make_drill(length=60, right=[(0, 60)]))
    assert after["vx"][-1] == pytest.approx(5.0)


def test_the_linear_share_of_a_turn_is_the_rate_times_the_tick():
    tune = make_tune(
        view="top", drive__law="arc", drive__turn_ease=6, drive__turn_rate=36000, drive__turn_form="linear"
    )
    trace = run(tune, make_drill(view="top", length=10, up=[(0, 10)]))
    assert trace["facing"][1] == pytest.approx(90 * 6 * H)
    assert trace["facing"][2] == pytest.approx(90 - 90 * (1 - 6 * H) ** 2)
    exact = run(tune.put("drive.turn_form", "exact"), make_drill(view="top", length=10, up=[(0, 10)]))
    assert exact["facing"][1] == pytest.approx(90 * (1 - math.exp(-6 * H)))


def test_summed_directions_turn_by_the_angle_of_the_sum():
    half = {"drive__turn_ease": 30, "drive__turn_form": "linear", "drive__pivot_angle": 10}
    tune = make_tune(view="top", drive__law="arc", drive__turn_blend="sum", drive__turn_rate=36000, **half)
    trace = run(tune, make_drill(view="top", length=10, up=[(0, 10)]))
    # Half of each: the diagonal, without a pivot.
    assert trace["facing"][1] == pytest.approx(45.0)
    # Where they cancel, half of the arc.
    back = run(tune, make_drill(view="top", length=10, left=[(0, 10)]))
    assert back["facing"][1] == pytest.approx(90.0)


def test_without_thrust_a_cruise_is_reached_from_both_sides():
    tune = make_tune(view="top", drive__law="steer", drive__cruise_speed=3, drive__friction=12, drive__top_speed=8)
    slow = run(tune, moving(make_drill(view="top", length=60), 1.0, 0.0))
    fast = run(tune, moving(make_drill(view="top", length=60), 6.0, 0.0))
    assert slow["vx"][:4] == pytest.approx([1.0, 1.2, 1.4, 1.6])
    assert fast["vx"][:4] == pytest.approx([6.0, 5.8, 5.6, 5.4])
    assert slow["vx"][-1] == fast["vx"][-1] == pytest.approx(3.0)


# Facing


def test_a_started_turn_is_finished():
    settings = {"facing__facing": "constant", "facing__facing_speed": 60}
    drill = make_drill(length=240, left=[(0, 30)])
    stopped, finished = (run(make_tune(**settings, facing__after_release=rule), drill) for rule in ("stop", "finish"))
    assert stopped["facing"][-1] == pytest.approx(30.0)
    assert finished["facing"][90] == pytest.approx(90.0)
    assert abs(finished["facing"][-1]) == pytest.approx(180.0)


def test_an_aim_stays_until_the_body_moves():
    settings = {"facing__facing": "direct", "facing__aim": "aim_stick", "facing__keep_last": False}
    drill = make_drill(length=60, aim=[(5, 0, 1), (10, 0, 0)], right=[(30, 32)])
    until = run(make_tune(**settings, facing__aim_release="moves"), drill)
    assert until["facing"][12] == until["facing"][30] == pytest.approx(90.0)
    # It moves, and the aim is over afterwards.
    assert until["facing"][31] == until["facing"][40] == 0.0
    assert run(make_tune(**settings), drill)["facing"][12] == 0.0
