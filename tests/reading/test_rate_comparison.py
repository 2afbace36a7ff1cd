"""Whether a tune is the same at other rates, and the advice if it is not."""

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.reading.rate_comparison import NOTICED, at_rates, clocks
from tests.builders import make_drill, make_tune

RUN = make_drill(length=240, right=[(20, 120)])
HOP = make_drill(length=240, right=[(5, 200)], jump=[(60, 100)])


def advised(found):
    return [(advice.parameter.id, advice.value) for advice in found.advice]


def test_exact_ease_with_midpoint_is_the_same_at_every_rate():
    """1 - exp(-k h) composes over ticks, so only the ends of ticks differ."""
    found = at_rates(make_tune(drive__law="ease", drive__form="exact", stepping__integrator="midpoint"), RUN)
    assert found.same
    assert found.advice == ()


@pytest.mark.parametrize(
    ("changes", "first"),
    [
        (
            {"drive__law": "ease", "drive__form": "linear", "stepping__integrator": "midpoint", "drive__rate": 12.0},
            ("drive.form", "exact"),
        ),
        ({"stepping__time_base": "frames"}, ("stepping.time_base", "seconds")),
        ({"stepping__integrator": "velocity_first"}, ("stepping.integrator", "midpoint")),
    ],
)
def test_the_setting_that_depends_on_the_rate_is_found(changes, first):
    found = at_rates(make_tune(**changes), RUN)
    assert not found.same
    assert advised(found)[0] == first
    for advice in found.advice:
        assert advice.after < advice.before


def test_the_height_of_a_jump_by_hand():
    """Velocity first loses v·h/2 of height: at 30 ticks 0.23 u less than in the limit, for 14 u/s."""
    found = at_rates(
        make_tune(jump__jump_speed=14.0, gravity__gravity=40.0, stepping__integrator="velocity_first"), HOP
    )
    low, high = found.values["jump_height"][0], found.values["jump_height"][2]
    assert high - low == pytest.approx(14 / 2 * (1 / 30 - 1 / 144), abs=0.02)
    assert found.spread("jump_height") > NOTICED


def test_pitfalls_are_explained_by_their_own_setting():
    study = shipped_study("pitfalls")
    for name, id in (
        ("Blend by the tick", "drive.form"),
        ("Forgot delta time", "stepping.time_base"),
        ("Half forgot delta time", "stepping.time_base"),
    ):
        assert advised(at_rates(study.tune(name), study.drill(name)))[0][0] == id


def test_the_machines_that_are_compared():
    machines = clocks(RUN)
    assert list(machines) == ["30", "60", "144", "60, hitch of 80 ms"]
    assert [machine.tick_rate for machine in machines.values()][:3] == [30, 60, 144]
    (hitch,) = machines["60, hitch of 80 ms"].hitches
    assert hitch.seconds == 0.08
    assert 0 < hitch.at < RUN.take.seconds
