import math

import pytest

from tests.builders import make_drill, make_tune, run

AROUND = make_drill(view="top", length=40, right=[(0, 10)], up=[(10, 20)], left=[(20, 30)])


def facing(drill=AROUND, **values):
    return run(make_tune("top", **{f"facing__{key}": value for key, value in values.items()}), drill)["facing"]


def test_mirror_faces_right_or_left_and_keeps_or_resets():
    assert facing(facing="mirror")[[5, 15, 25, 35]] == pytest.approx([0, 0, 180, 180])
    assert facing(facing="mirror", keep_last=False)[[25, 35]] == pytest.approx([180, 0])


def test_direct_sectors_and_none():
    assert facing(facing="direct")[[5, 15, 25]] == pytest.approx([0, 90, 180])
    assert not facing(facing="none").any()
    push = make_drill(view="top", length=5, stick=[(0, math.cos(0.5), math.sin(0.5))])
    assert facing(push, facing="sectors", sectors=8)[3] == pytest.approx(45)
    assert facing(push, facing="sectors", sectors=4)[3] == pytest.approx(0)


def test_ease_and_constant_take_the_shorter_arc():
    turn = make_drill(view="top", length=60, stick=[(0, math.cos(math.radians(170)), math.sin(math.radians(170))),
                                                   (30, math.cos(math.radians(-170)),
                                                   math.sin(math.radians(-170)))])  # fmt: skip
    constant = facing(turn, facing="constant", facing_speed=600)
    assert constant[1:18] == pytest.approx([10 * n for n in range(1, 18)])
    assert constant[[31, 32]] == pytest.approx([180, -170])
    eased = facing(turn, facing="ease", facing_rate=12)
    assert eased[1:10] == pytest.approx([170 * (1 - math.exp(-12 * n / 60)) for n in range(1, 10)])
    assert (abs(eased[31:]) > 169).all()


def test_the_aim_stick_decides_while_it_is_pushed():
    drill = make_drill(view="top", length=40, right=[(0, 40)], aim=[(10, 0, -1), (20, 0, 0)])
    assert facing(drill, facing="direct", aim="aim_stick")[[5, 15, 25]] == pytest.approx([0, -90, 0])
    assert facing(drill, facing="direct")[15] == 0


def test_look_integrates_the_second_stick_and_pitch_is_limited():
    drill = make_drill(view="top", length=120, aim=[(0, 1, 0), (30, 0, 1)], modifier=[(0, 15)])
    trace = run(make_tune("top"), drill)
    assert trace["look_yaw"][15] == pytest.approx(180 * 0.4 * 0.25)
    assert trace["look_yaw"][30] == pytest.approx(180 * (0.4 + 1) * 0.25)
    assert trace["look_pitch"][60] == pytest.approx(60)
    assert trace["look_pitch"][-1] == pytest.approx(90)


def test_the_heading_of_steer_stays_within_half_a_turn_while_a_key_is_held():
    """90°/s to the left, 1.5° per tick: 178.5° after 119 ticks, 180° after 120, then on from -178.5°."""
    tune = make_tune(view="top", drive__law="steer", drive__turn_rate=90, drive__turn_ease=0)
    trace = run(tune, make_drill(view="top", length=240, left=[(0, 240)]))
    assert trace["facing"][[119, 120, 121, 240]] == pytest.approx([178.5, 180.0, -178.5, 0.0], abs=1e-9)
