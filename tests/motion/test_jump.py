import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import make_drill, make_tune, marks_at, rows_of, run

HOLD = make_drill(length=90, jump=[(0, 60)])
TAP = make_drill(length=90, jump=[(0, 4)])
RATES = (30, 50, 60, 120, 144)
LEDGE = ((-10.0, -1.0, 0.0, 0.0), (-100.0, -6.0, 100.0, -5.0))


def test_jump_worked_by_hand():
    trace = run(make_tune(gravity__gravity=36, jump__jump_speed=12), HOLD)
    assert trace["vy"][1] == pytest.approx(11.4, abs=1e-12)
    assert trace["y"].max() == pytest.approx(1.9, abs=1e-9)
    assert trace["y"][19] == trace["y"][20] == pytest.approx(1.9, abs=1e-9)
    assert marks_at(trace, 1) == ["press", "launch", "leave"]
    assert rows_of(trace, "apex") == [20]


@pytest.mark.parametrize("tick_rate", RATES)
@pytest.mark.parametrize(("integrator", "extra"), [("velocity_first", -0.5), ("position_first", 0.5), ("midpoint", 0)])
def test_discrete_apex_of_each_integrator(tick_rate, integrator, extra):
    """Summed over n = v/(g·h) ticks the rise is v²/2g plus extra·v·h."""
    tune = make_tune(gravity__gravity=30, jump__jump_speed=12, stepping__integrator=integrator)
    trace = run(tune, HOLD, tick_rate)
    assert trace["y"].max() == pytest.approx(
        12 * 12 / 60 + extra * 12 / tick_rate, abs=1e-9 if tick_rate != 144 else 1e-2
    )


@given(gravity=st.integers(10, 80), ticks=st.integers(4, 20))
def test_midpoint_apex_is_the_same_at_every_rate(gravity, ticks):
    speed = gravity * ticks / 60
    tune = make_tune(gravity__gravity=float(gravity), jump__jump_speed=speed, stepping__integrator="midpoint")
    for tick_rate in (60, 120, 240):
        assert run(tune, HOLD, tick_rate)["y"].max() == pytest.approx(speed * speed / (2 * gravity), abs=1e-9)


def test_cut_multiplies_once_and_cap_limits():
    cut = run(make_tune(jump__cut_factor=0.5), TAP)
    before = 14 - 4 * 40 / 60
    assert cut["vy"][5] == pytest.approx(before / 2 - 40 / 60)
    assert rows_of(cut, "cut") == [5]
    cap = run(make_tune(jump__short_hop="cap", jump__cap_speed=3), TAP)
    assert cap["vy"][5] == pytest.approx(3 - 40 / 60)
    assert cap["vy"][6] == pytest.approx(3 - 80 / 60)


def test_heavy_and_sustain_act_through_gravity():
    heavy = run(make_tune(jump__short_hop="heavy", jump__heavy_factor=3), TAP)
    assert -heavy["ay"][[4, 5, 6]] == pytest.approx([40, 120, 120])
    assert heavy["ay"][rows_of(heavy, "apex")[0] + 2] == pytest.approx(-40)
    sustain = make_tune(jump__short_hop="sustain", jump__sustain_time=0.1, jump__sustain_factor=0)
    held, tapped = run(sustain, HOLD), run(sustain, TAP)
    assert held["vy"][1:9] == pytest.approx([14] * 6 + [14 - 40 / 60, 14 - 80 / 60])
    assert tapped["vy"][4:7] == pytest.approx([14, 14 - 40 / 60, 14 - 80 / 60])


def test_no_short_hop_and_minimum_hold():
    assert np.array_equal(run(make_tune(jump__short_hop="none"), TAP)["y"], run(make_tune(), HOLD)["y"])
    assert rows_of(run(make_tune(jump__min_hold=0.1), TAP), "cut") == [7]


def test_gravity_factors():
    falling = run(
        make_tune(gravity__fall_factor=2, gravity__fast_fall_factor=3),
        make_drill(length=20, solids=(), down=[(10, 20)]),
    )
    assert -falling["ay"][[1, 2, 10, 11]] == pytest.approx([40, 80, 80, 240])
    terminal = run(make_tune(gravity__terminal_speed=5), make_drill(length=60, solids=()))
    assert terminal["vy"][-1] == -5
    apex = run(make_tune(gravity__apex_speed=3, gravity__apex_factor=0.5), HOLD)
    slow = np.abs(apex["vy"][:-1]) < 3 - 1e-6
    in_air = (apex["state"][1:] != 0) & (apex["state"][:-1] != 0)
    assert -apex["ay"][1:][slow & in_air] == pytest.approx(20)
    assert -apex["ay"][1:][~slow & in_air] == pytest.approx(40)


def test_launch_gravity_and_run_boost():
    assert run(make_tune(jump__launch_gravity=False), HOLD)["vy"][1] == 14
    boosted = run(
        make_tune(jump__run_boost=0.5, jump__launch_gravity=False), make_drill(right=[(0, 60)], jump=[(30, 40)])
    )
    assert boosted["vy"][31] == pytest.approx(14 + 3.5)


@pytest.mark.parametrize("tick_rate", RATES)
def test_coyote_time_lasts_its_ticks(tick_rate):
    """0.1 s allows a press in as many ticks after leaving the ground as fit into 0.1 s, and in no more."""
    fit = math.floor(0.1 * tick_rate + 1e-9)
    leaving = make_drill(length=120, rate=tick_rate, start=(-1, 0), solids=LEDGE, right=[(0, 120)])
    left = rows_of(run(make_tune(), leaving, tick_rate), "leave")[0]
    for late, launches in ((fit, True), (fit + 1, False)):
        take = leaving.take.model_copy(
            update={"keys": leaving.take.keys.model_copy(update={"jump": ((left + late - 1, 119),)})}
        )
        trace = run(make_tune(), leaving.model_copy(update={"take": take}), tick_rate)
        assert bool(rows_of(trace, "coyote_launch")) is launches


@pytest.mark.parametrize("tick_rate", RATES)
def test_the_buffer_lasts_its_ticks(tick_rate):
    fit = math.floor(0.1 * tick_rate + 1e-9)
    falling = make_drill(length=120, rate=tick_rate, start=(0, 4))
    landed = rows_of(run(make_tune(), falling, tick_rate), "land")[0]
    for early, launches in ((fit, True), (fit + 1, False)):
        # The launch comes in the tick after the landing, `early` ticks after the press.
        take = falling.take.model_copy(
            update={"keys": falling.take.keys.model_copy(update={"jump": ((landed - early, 119),)})}
        )
        trace = run(make_tune(), falling.model_copy(update={"take": take}), tick_rate)
        assert rows_of(trace, "buffered_launch") == ([landed + 1] if launches else [])
        assert rows_of(trace, "lost_press") == ([] if launches else [landed + 1])


def test_unspent_grace_allows_a_second_jump():
    hands = make_drill(length=40, jump=[(0, 2), (4, 8)])
    assert len(rows_of(run(make_tune(), hands), "launch")) == 1
    leaky = run(make_tune(jump__spend_grace=False), hands)
    assert rows_of(leaky, "launch") == [1, 5]
    assert rows_of(leaky, "coyote_launch") == [5]


def test_buffered_release():
    early = make_drill(length=60, start=(0, 0.3), jump=[(2, 4)])
    short, full = (run(make_tune(jump__buffered_release=rule), early) for rule in ("short", "full"))
    launch = rows_of(short, "buffered_launch")[0]
    assert rows_of(short, "cut") == [launch]
    assert short["vy"][launch] == pytest.approx(7 - 40 / 60)
    assert rows_of(full, "cut") == []
    assert full["vy"][launch] == pytest.approx(14 - 40 / 60)


def test_holding_jumps_again_only_if_enabled():
    assert len(rows_of(run(make_tune(), HOLD), "launch")) == 1
    assert len(rows_of(run(make_tune(jump__repeat="hold"), HOLD), "launch")) == 2


def test_coyote_float():
    trace = run(make_tune(jump__coyote_float=True), make_drill(length=60, start=(-1, 0), solids=LEDGE, right=[(0, 60)]))
    left = rows_of(trace, "leave")[0]
    assert not trace["y"][left : left + 7].any()
    assert trace["y"][left + 7] < 0


def test_air_jumps_are_counted_and_come_back_on_the_ground():
    hands = make_drill(length=120, jump=[(0, 3), (10, 13), (20, 23), (30, 33), (80, 83), (90, 93)])
    trace = run(make_tune(jump__air_jumps=1), hands)
    assert rows_of(trace, "air_launch") == [11, 91]
    assert trace["vy"][11] == pytest.approx(12 - 40 / 60)


def test_a_body_that_starts_in_the_air_has_no_coyote_time():
    trace = run(make_tune(), make_drill(length=10, solids=(), jump=[(0, 5)]))
    assert math.isinf(trace["since_ground"][0])
    assert rows_of(trace, "launch") == []


def test_climbing():
    net = make_drill(length=90, climb=[(-1, 0, 1, 4)], up=[(5, 40)], jump=[(40, 45)])
    trace = run(make_tune(), net)
    assert rows_of(trace, "climb_on") == [6]
    assert trace["vy"][6:41] == pytest.approx(4)
    assert {"climb_off", "launch"} <= set(marks_at(trace, 41))
    assert trace["vy"][41] == pytest.approx(10 - 40 / 60)


def test_the_climb_lock_delays_grabbing_the_net():
    hands = {"up": [(0, 10), (14, 90)], "jump": [(8, 12)]}
    net = make_drill(length=90, climb=[(-1, 0, 1, 40)], **hands)
    assert rows_of(run(make_tune(climb__climb_lock=0.0), net), "climb_on") == [1, 15]
    assert rows_of(run(make_tune(climb__climb_lock=1.0), net), "climb_on") == [1]


def test_leaving_the_net_ends_the_climb():
    trace = run(make_tune(), make_drill(length=60, climb=[(-1, 0, 1, 1)], up=[(0, 60)]))
    off = rows_of(trace, "climb_off")[0]
    assert trace["y"][off - 1] >= 1 - 1e-9
    assert trace["state"][off] != trace["state"][off - 1]
