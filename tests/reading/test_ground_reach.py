"""Reach in top view, compared with motion worked out by hand."""

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.reading.survey.ground_reach import DIRECTIONS, MOMENTS, TURNS, head, spread, table, turns
from cinetica.reading.survey.reach import RUNNING, STANDING
from tests.builders import make_tune

CLOCK = Clock()


def by_angle(tune):
    return {each.angle: each for each in turns(tune, CLOCK)}


def test_with_instant_speed_every_reached_point_is_on_a_circle():
    tune = make_tune("top", drive__law="instant", drive__top_speed=6.0)
    for start in (STANDING, RUNNING):
        for moment, (x, y) in zip(MOMENTS, spread(tune, CLOCK, start).places, strict=True):
            # The stick is read in the following tick.
            assert np.hypot(x, y) == pytest.approx(6 * moment, abs=0.11)
            assert len(x) == len(DIRECTIONS)
    found = by_angle(tune)
    for each in found.values():
        assert (each.stands, each.runs) == pytest.approx((6, 6), abs=0.11)
        assert each.time == pytest.approx(1 / 60, abs=1 / 60)
    back = found[180]
    assert (back.ahead, back.aside) == (pytest.approx(0, abs=0.11), 0)


def test_turning_back_takes_the_space_of_braking_and_starting():
    """With 60 u/s² for turning and starting: 6 u/s are lost within 0.1 s and 0.3 u, and regained 0.1 s later."""
    tune = make_tune(
        "top", drive__law="ramp", drive__top_speed=6.0, drive__acceleration=60.0, drive__turn_acceleration=0.0
    )
    turn = by_angle(tune)[180]
    assert turn.ahead == pytest.approx(6**2 / (2 * 60), abs=0.06)
    # It is over at 95% of the speed.
    assert turn.time == pytest.approx(0.1 + 0.095, abs=2 / 60)
    assert turn.stands == pytest.approx(6 * 1 - 6**2 / (2 * 60), abs=0.11)
    assert turn.runs == pytest.approx(6 * (1 - 0.2), abs=0.11)
    assert by_angle(tune)[0].time == 0


def test_a_steered_body_turns_in_a_circle():
    """Thrust and lock share the stick, so both are 1/√2: v = 6/√2 u/s, w = 180/√2 °/s, and the radius v/w is 6/π u.

    A half turn is r ahead and 2r across.
    """
    tune = make_tune(
        "top", drive__law="steer", drive__top_speed=6.0, drive__acceleration=60.0, drive__turn_rate=180.0,
        drive__turn_ease=0.0, drive__grip=60.0,
    )  # fmt: skip
    turn, radius = by_angle(tune)[180], 6 / np.pi
    assert turn.ahead == pytest.approx(radius, rel=0.08)
    assert turn.aside == pytest.approx(2 * radius, rel=0.08)
    assert turn.time == pytest.approx(np.sqrt(2), abs=0.06)
    left, right = (spread(tune, CLOCK, RUNNING).places[-1][1][DIRECTIONS.index(each)] for each in (45, 315))
    assert left == pytest.approx(-right, abs=1e-9)
    assert left > 0.5


def test_the_demo_has_a_row_for_each_turn_only_in_top_view():
    study = shipped_study("harbour")
    for name in ("Otter", "Punt"):
        rows = table(study.tune(name), turns(study.tune(name), study.clock))
        assert [row[1] for row in rows] == [str(angle) for angle in TURNS]
        assert {len(row) for row in rows} == {len(head())}
    for asked in (lambda tune: turns(tune, CLOCK), lambda tune: spread(tune, CLOCK, STANDING)):
        with pytest.raises(ValueError, match="seen from the side"):
            asked(study.tune("Wren"))


def test_a_turn_that_never_ends_is_reported():
    tune = make_tune("top", drive__law="steer", drive__top_speed=6.0, drive__turn_rate=5.0, drive__grip=60.0)
    assert by_angle(tune)[180].time is None
    assert table(tune, turns(tune, CLOCK))[-1][4] == ""
