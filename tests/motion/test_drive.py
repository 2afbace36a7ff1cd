import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.model.laws import LAWS
from tests.builders import make_drill, make_tune, run, takes

RUN = make_drill(length=120, right=[(0, 60)])


def test_ramp_worked_by_hand():
    trace = run(make_tune(drive__acceleration=48, drive__top_speed=6), RUN)
    assert trace["vx"][1] == pytest.approx(0.8, abs=1e-12)
    assert trace["vx"][7] == pytest.approx(5.6, abs=1e-12)
    assert trace["vx"][8] == pytest.approx(6, abs=1e-12)
    assert trace["ax"][1] == pytest.approx(48, abs=1e-9)
    assert trace["x"][2] == pytest.approx((0.8 + 1.6) / 60, abs=1e-12)


def test_friction_and_turn_acceleration():
    tune = make_tune(drive__acceleration=60, drive__friction=30, drive__turn_acceleration=120, drive__top_speed=6)
    assert run(tune, RUN)["vx"][61:64] == pytest.approx([5.5, 5.0, 4.5])
    turned = run(tune, make_drill(length=60, right=[(0, 30)], left=[(30, 60)]))
    # Against the motion 2 u/s per tick, from rest on 1 u/s per tick.
    assert turned["vx"][30:36] == pytest.approx([6, 4, 2, 0, -1, -2], abs=1e-12)


def test_instant_reaches_its_speed_in_one_tick_and_less_in_the_air():
    assert run(make_tune(drive__law="instant"), RUN)["vx"][[1, 60, 61]] == pytest.approx([7, 7, 0])
    falling = make_drill(length=5, solids=(), right=[(0, 5)])
    airborne = run(make_tune(drive__law="instant", drive__air_control=0.25), falling)
    assert airborne["vx"][1:4] == pytest.approx([7 * (1 - 0.75**n) for n in (1, 2, 3)])


@pytest.mark.parametrize("tick_rate", [30, 60, 144, 240])
def test_exact_ease_is_the_exponential_at_every_rate(tick_rate):
    trace = run(make_tune(drive__law="ease", drive__rate=9), RUN, tick_rate)
    held = trace["time"] <= 1.0 + 1e-9
    assert trace["vx"][held] == pytest.approx(7 * (1 - np.exp(-9 * trace["time"][held])), abs=1e-9)


def test_linear_ease_depends_on_the_rate():
    tune = make_tune(drive__law="ease", drive__rate=12, drive__form="linear")
    assert run(tune, RUN, 60)["vx"][1] == pytest.approx(7 * 0.2)
    assert run(tune, RUN, 30)["vx"][1] == pytest.approx(7 * 0.4)
    overdone = make_tune(drive__law="ease", drive__rate=1000, drive__form="linear")
    assert run(overdone, RUN)["vx"][1] == pytest.approx(7)


def test_throttle_keeps_its_speed_through_a_turn():
    hands = make_drill(view="top", length=60, right=[(0, 30)], up=[(30, 45)])
    trace = run(make_tune("top", drive__law="throttle", drive__acceleration=14, drive__friction=21), hands)
    assert trace["speed"][30] == pytest.approx(7)
    assert (trace["vx"][31], trace["vy"][31]) == pytest.approx((0, 7))
    assert trace["vy"][46:49] == pytest.approx([7 - 0.35 * n for n in (1, 2, 3)])
    stopped = run(make_tune("top", drive__law="throttle", drive__release_stop=True), hands)
    assert stopped["speed"][46] == 0


def test_push_drags_and_is_capped():
    tune = make_tune(drive__law="push", drive__acceleration=30, drive__drag=2, drive__top_speed=100)
    trace = run(tune, RUN)
    kept = math.exp(-2 / 60)
    assert trace["vx"][:4] == pytest.approx([0, 0.5 * kept, 0.5 * (kept + kept**2), 0.5 * (kept + kept**2 + kept**3)])
    assert run(make_tune(drive__law="push", drive__top_speed=3), RUN)["vx"].max() == pytest.approx(3)
    linear = make_tune(drive__law="push", drive__acceleration=30, drive__drag=1e4, drive__form="linear")
    assert not run(linear, RUN)["vx"].any()
    assert run(make_tune(drive__law="push", drive__release_stop=True), RUN)["vx"][61] == 0


def test_push_caps_the_length_when_joined_and_each_axis_when_separate():
    hands = make_drill(view="top", length=60, right=[(0, 60)], up=[(0, 60)])
    values = {"drive__law": "push", "drive__top_speed": 5, "input__diagonal": "free"}
    assert run(make_tune("top", **values), hands)["speed"][-1] == pytest.approx(5)
    separate = run(make_tune("top", drive__axes="separate", **values), hands)
    assert separate["speed"][-1] == pytest.approx(5 * math.sqrt(2))


@pytest.mark.parametrize(("law", "ratio"), [("instant", math.sqrt(2)), ("ramp", math.sqrt(2)), ("ease", math.sqrt(2))])
def test_free_diagonals_are_faster_by_the_square_root_of_two(law, ratio):
    def speed(**keys):
        tune = make_tune("top", drive__law=law, drive__rate=30, input__diagonal="free")
        return run(tune, make_drill(view="top", length=120, **keys))["speed"][-1]

    assert speed(right=[(0, 120)], up=[(0, 120)]) / speed(right=[(0, 120)]) == pytest.approx(ratio)


def test_the_modifier_scales_the_top_speed():
    trace = run(make_tune(drive__modifier_speed=0.5), make_drill(length=60, right=[(0, 60)], modifier=[(30, 60)]))
    assert (trace["vx"][30], trace["vx"][60]) == pytest.approx((7, 3.5))


def test_air_control_and_air_friction_act_in_the_air_only():
    tune = make_tune(drive__acceleration=60, drive__friction=60, drive__air_control=0.5, drive__air_friction=0.25)
    trace = run(tune, make_drill(length=20, solids=(), right=[(0, 6)]))
    assert trace["vx"][1:9] == pytest.approx([0.5, 1, 1.5, 2, 2.5, 3, 2.75, 2.5])


def test_steer_turns_the_heading_and_slip_decays():
    tune = make_tune(
        "top", drive__law="steer", drive__turn_rate=90, drive__bank_angle=30, drive__grip=3, drive__friction=0
    )
    trace = run(tune, make_drill(view="top", length=120, up=[(0, 60)], left=[(60, 120)]))
    assert trace["facing"][60] == 0
    assert trace["facing"][120] == pytest.approx(90)
    assert trace["bank"][[60, 61]] == pytest.approx([0, -30])
    # In the first tick of the turn the old velocity is split along and across the new heading.
    turn = math.radians(90 / 60)
    along, across = 7 * math.cos(turn), -7 * math.sin(turn) * math.exp(-3 / 60)
    assert trace["speed"][61] == pytest.approx(math.hypot(along, across))


def test_steer_backs_up_slower_and_eases_into_a_turn():
    backing = run(
        make_tune("top", drive__law="steer", drive__reverse_factor=0.4), make_drill(view="top", down=[(0, 60)])
    )
    assert backing["vx"][-1] == pytest.approx(-2.8)
    eased = run(make_tune("top", drive__law="steer", drive__turn_ease=6), make_drill(view="top", right=[(0, 60)]))
    assert eased["facing"][1] == pytest.approx(-180 / 60 * (1 - math.exp(-6 / 60)))


# A law with a heading caps only the speed along it: sideways slip is added.
@given(
    take=takes(),
    law=st.sampled_from([law.value for law, about in LAWS.items() if not about.heading]),
    axes=st.sampled_from(["joined", "separate"]),
)
def test_speed_never_exceeds_its_cap(take, law, axes):
    tune = make_tune("top", drive__law=law, drive__axes=axes, drive__modifier_speed=1, input__diagonal="limited")
    trace = run(tune, make_drill(view="top").model_copy(update={"take": take}))
    cap = 7 * math.sqrt(2) if axes == "separate" else 7
    assert trace["speed"].max() <= cap + 1e-9


@given(take=takes(sticks=False), law=st.sampled_from(["instant", "ramp", "ease", "throttle", "push"]))
def test_mirrored_hands_give_a_mirrored_trace(take, law):
    mirrored = take.model_copy(
        update={"keys": take.keys.model_copy(update={"left": take.keys.right, "right": take.keys.left})}
    )
    tune = make_tune(drive__law=law, input__opposed="latest", jump__air_jumps=1, drive__air_control=0.5)
    one, other = (run(tune, make_drill().model_copy(update={"take": each})) for each in (take, mirrored))
    assert np.array_equal(one["vx"], -other["vx"])
    assert np.array_equal(one["x"], -other["x"])
    assert np.array_equal(one["y"], other["y"])


@pytest.mark.parametrize("yaw", range(0, 360, 15))
def test_a_right_angle_turn_is_not_against_the_motion(yaw):
    """v·w is 0 there, except for rounding: the acceleration is the normal one, 10 u/s², and not 100."""
    tune = make_tune(
        "top", drive__acceleration=10, drive__turn_acceleration=100, drive__top_speed=1, input__view_yaw=yaw
    )
    trace = run(tune, make_drill(view="top", right=[(0, 30)], up=[(30, 60)]))
    assert np.hypot(trace["ax"][31], trace["ay"][31]) == pytest.approx(10, abs=1e-6)
