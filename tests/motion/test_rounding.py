"""Rounding errors count as 0, ties are resolved consistently, and nothing depends on a last bit."""

import math

import numpy as np
import pytest

from cinetica.motion.records import CLIMB, CLIMB_OFF, CLIMB_ON, GROUND, LAUNCH
from tests.builders import make_drill, make_tune, run


@pytest.mark.parametrize("yaw", [90, -90, 180, 360, -360, 270])
def test_a_turned_view_leaves_no_rounding_on_the_other_axis(yaw):
    """Each key drives one axis; the other one is exactly 0, and brakes with friction."""
    tune = make_tune(
        "top",
        input__view_yaw=yaw,
        drive__axes="separate",
        drive__friction=10,
        drive__acceleration=80,
        drive__top_speed=7,
    )
    trace = run(tune, make_drill(view="top", length=60, right=[(0, 30)], up=[(30, 60)]))
    turn = np.exp(1j * math.radians(yaw)) ** -1
    along = (trace["vx"] + 1j * trace["vy"]) * turn
    intent = (trace["intent_x"] + 1j * trace["intent_y"]) * turn
    assert np.all(np.abs(trace["intent_x"]) + np.abs(trace["intent_y"]) == np.round(np.abs(intent), 12))
    # From 7 u/s by 10/60 per tick.
    assert along.real[30 + np.arange(1, 20)] == pytest.approx(7 - np.arange(1, 20) / 6)


def test_a_view_pitched_straight_down_leaves_no_forward_input():
    trace = run(
        make_tune("top", input__view_pitch=90, input__view_flatten=False),
        make_drill(view="top", length=20, up=[(0, 20)]),
    )
    assert not trace["intent_y"].any()
    assert not trace["vy"].any()


@pytest.mark.parametrize("attack", [0.05, 0.1, 0.2, 0.3, 1 / 3])
def test_a_key_axis_passes_exactly_through_0(attack):
    """Over n = 60·attack ticks from -1: at 0 after n of 2n."""
    steps = round(60 * attack)
    trace = run(
        make_tune(input__key_attack=attack, input__opposed="latest"),
        make_drill(length=90, left=[(0, 90)], right=[(40, 90)]),
    )
    assert trace["intent_x"][40 + steps] == 0.0
    assert trace["intent_x"][40 + 2 * steps] == 1.0


def test_throttle_keeps_its_speed_while_a_key_axis_passes_0():
    """s is at S = 6 when the axis turns: v = 6·w in every tick from there on."""
    tune = make_tune(
        drive__law="throttle",
        drive__top_speed=6,
        drive__acceleration=30,
        input__key_attack=0.1,
        input__opposed="latest",
    )
    trace = run(tune, make_drill(length=90, left=[(0, 90)], right=[(40, 90)]))
    assert trace["vx"][40:] == pytest.approx(6 * trace["intent_x"][40:])
    assert trace["vx"][46] == 0.0
    assert trace["vx"][52] == pytest.approx(6)


def test_a_stick_reduced_to_0_by_its_curve_is_no_input():
    drill = make_drill(view="top", length=30, stick=[(0, 0.5, 0.0)], up=[(0, 30)])
    trace = run(make_tune("top", input__curve=100, input__dead_zone=0, input__dead_zone_shape="none"), drill)
    # 0.5^100 is 8e-31: the keys win.
    assert list(trace["intent_y"][1:]) == [1.0] * 30


@pytest.mark.parametrize("yaw", [45, -45, 135, 225])
@pytest.mark.parametrize("key", ["left", "right", "up", "down"])
def test_sector_ties_round_up(yaw, key):
    angle = {"right": 0, "up": 90, "left": 180, "down": -90}[key] + yaw
    tune = make_tune("top", input__view_yaw=yaw, facing__facing="sectors", facing__sectors=4)
    trace = run(tune, make_drill(view="top", length=5, **{key: [(0, 5)]}))
    assert (trace["facing"][-1] - (angle + 45)) % 360 == pytest.approx(0, abs=1e-9)


def test_corner_slip_goes_left_at_a_tie():
    beam = ((-40.0, -2.0, 40.0, 0.0), (-0.2, 1.6, 0.2, 1.8))
    trace = run(make_tune(contact__corner_slip=1), make_drill(length=12, solids=beam, jump=[(5, 20)]))
    # Half of the body and half of the beam: 0.4 + 0.2.
    assert trace["x"][-1] == pytest.approx(-0.6)


def test_a_body_starting_inside_a_solid_can_leave_when_stepped():
    inside = ((-5.0, -3.0, 50.0, 0.0), (-1.0, 0.0, 1.0, 3.0))
    trace = run(make_tune(contact__sweep="stepped"), make_drill(length=60, solids=inside, right=[(0, 60)]))
    assert np.all(trace["y"] == 0)
    assert trace["x"][-1] > 2
    assert trace["overlap"][0] == pytest.approx(0.8)
    assert trace["overlap"][-1] == 0


NET = {"solids": ((-10.0, -1.0, 10.0, 0.0),), "climb": ((-3.0, 0.0, 3.0, 8.0),)}


def test_at_the_foot_of_a_net_the_body_walks():
    """Up 18 ticks, down again, and along the floor at the speed of the ground, not of the net."""
    trace = run(make_tune(), make_drill(length=110, up=[(2, 20)], down=[(20, 50)], right=[(60, 100)], **NET))
    (on,), (off,) = np.flatnonzero(trace["marks"] & CLIMB_ON), np.flatnonzero(trace["marks"] & CLIMB_OFF)
    assert trace["state"][on] == CLIMB
    # As far down as up: 18 ticks each.
    assert off - on == 2 * 18 - 1
    assert trace["state"][off] == GROUND
    assert trace["vx"][95] == pytest.approx(7)


@pytest.mark.parametrize(("hold", "holds"), [("press", False), ("held", True)])
def test_holding_up_into_a_net_grabs_it_if_chosen(hold, holds):
    drill = make_drill(length=60, solids=NET["solids"], climb=((-3.0, 1.8, 3.0, 8.0),), up=[(0, 60)], jump=[(20, 40)])
    trace = run(make_tune(climb__hold=hold), drill)
    assert bool((trace["marks"] & CLIMB_ON).any()) is holds


def test_a_jump_off_a_net_spends_the_grace():
    """At the foot of the net: off it, and a second press within the coyote time launches nothing."""
    drill = make_drill(length=40, up=[(2, 40)], jump=[(5, 7), (8, 12)], **NET)
    trace = run(make_tune(jump__coyote=0.2, climb__climb_lock=5), drill)
    assert np.count_nonzero(trace["marks"] & LAUNCH) == 1


def test_a_body_within_the_probe_does_not_float():
    trace = run(make_tune(jump__coyote_float=True, contact__ground_probe=0.1), make_drill(length=30, start=(0, 0.05)))
    assert trace["y"][-1] == 0


def test_the_float_off_a_ledge_lasts_as_long_as_the_grace():
    ledge = make_drill(length=60, start=(-1, 0), solids=((-10.0, -1.0, 0.0, 0.0),), right=[(0, 60)])
    trace = run(make_tune(jump__coyote_float=True, jump__coyote=0.2, drive__law="instant", drive__top_speed=6), ledge)
    # Half a body beyond the edge after 14.0 ticks of 0.1 u; then 12 ticks of grace.
    left = int(np.flatnonzero(trace["state"] != GROUND)[0])
    assert np.all(trace["y"][: left + 12] == 0)
    assert trace["y"][left + 13] < 0


def test_steering_and_thrust_do_not_share_their_length():
    tune = make_tune("top", drive__law="steer", drive__turn_ease=0)
    both = run(tune, make_drill(view="top", length=30, up=[(0, 30)], right=[(0, 30)]))
    assert list(both["intent_x"][1:]) == list(both["intent_y"][1:]) == [1.0] * 30
