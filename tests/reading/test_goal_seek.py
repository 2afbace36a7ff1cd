"""Goal seek: results are measured again, and refusals give a reason."""

import random

import pytest

from cinetica.model.clock import Clock
from cinetica.model.laws import Law
from cinetica.model.tune import Integrator
from cinetica.motion.simulate import simulate
from cinetica.reading.goal_seek import GoalOutOfReach, seek
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune
from tests.repetitions import TIMES

DRILL = make_drill(length=400, right=[(5, 200)], jump=[(300, 399)])
TOP = make_drill(view="top", length=400, right=[(5, 200)])
# Goals within reach of any law at any tick rate used here, in the unit of the measure.
WITHIN = {
    "jump_height": (0.8, 6), "time_to_apex": (0.2, 0.7), "time_to_top_speed": (0.12, 1.2), "stopping_time": (0.12, 1.2),
    "stopping_distance": (0.4, 3),
}  # fmt: skip


def measured(tune, drill, clock, id):
    return read_off(simulate(tune, drill, clock))[id].value


@pytest.mark.parametrize("seed", range(100 * TIMES))
def test_a_reachable_figure_is_measured_afterwards(seed):
    chance = random.Random(seed)
    id = list(WITHIN)[seed % len(WITHIN)]
    laws = [Law.RAMP, Law.EASE, Law.THROTTLE, Law.PUSH]
    view = "side" if id in ("jump_height", "time_to_apex") else chance.choice(["side", "top"])
    tune = make_tune(
        view, drive__law=chance.choice(laws), drive__top_speed=chance.uniform(4, 9), drive__form=chance.choice(["exact",
        "linear"]),
        stepping__integrator=chance.choice(list(Integrator)), gravity__gravity=chance.uniform(20, 60),
        jump__jump_speed=chance.uniform(9, 16),
        gravity__apex_speed=chance.choice([0, 2]), gravity__apex_factor=0.6, jump__launch_gravity=chance.random() < 0.5,
    )  # fmt: skip
    drill, clock = (DRILL if view == "side" else TOP), Clock(tick_rate=chance.choice([50, 60, 120]))
    wanted = chance.uniform(*WITHIN[id])
    granted = seek(tune, drill, clock, id, wanted)
    assert measured(granted.tune, drill, clock, id) == pytest.approx(wanted, rel=1e-3)
    assert granted.measured == measured(granted.tune, drill, clock, id)
    if id in ("jump_height", "time_to_apex"):
        other = {"jump_height": "time_to_apex", "time_to_apex": "jump_height"}[id]
        assert measured(granted.tune, drill, clock, other) == pytest.approx(
            measured(tune, drill, clock, other), rel=1e-3
        )
    changed = {parameter.id for parameter, _, _ in granted.moved}
    assert {id for id, value in granted.tune.values().items() if value != tune.values()[id]} <= changed


@pytest.mark.parametrize("seed", range(60))
def test_a_hop_of_the_wanted_height(seed):
    """Between the height of the launch tick and the full jump, one number gives any height of a tap."""
    chance = random.Random(seed)
    hop = ("cut", "cap", "heavy")[seed % 3]
    tune = make_tune(
        jump__short_hop=hop, jump__jump_speed=chance.uniform(12, 16), gravity__gravity=chance.uniform(30, 45)
    )
    drill, clock = make_drill(length=300, jump=[(5, 120), (150, 153)]), Clock(tick_rate=chance.choice([60, 120]))
    full = measured(tune, drill, clock, "highest_hop")
    wanted = full * chance.uniform(0.55, 0.9)
    granted = seek(tune, drill, clock, "lowest_hop", wanted)
    assert measured(granted.tune, drill, clock, "lowest_hop") == pytest.approx(wanted, rel=1e-3)
    assert measured(granted.tune, drill, clock, "highest_hop") == full
    ((parameter, _, _),) = granted.moved
    assert parameter.id == {"cut": "jump.cut_factor", "cap": "jump.cap_speed", "heavy": "jump.heavy_factor"}[hop]


def test_a_hop_cannot_be_sought_without_one():
    drill = make_drill(length=300, jump=[(5, 120), (150, 153)])
    with pytest.raises(GoalOutOfReach, match="Short hops are off"):
        seek(make_tune(jump__short_hop="none"), drill, Clock(), "lowest_hop", 1.0)
    with pytest.raises(GoalOutOfReach, match="out of reach"):
        seek(make_tune(jump__short_hop="cut"), DRILL, Clock(), "lowest_hop", 1.0)


def test_every_goal_is_tested():
    assert {measure.id for measure in MEASURES if measure.seekable} == {*WITHIN, "lowest_hop", "net_jump_height"}


def test_the_numbers_of_a_plain_jump_are_those_of_the_textbook():
    tune = make_tune(stepping__integrator="midpoint")
    kept = measured(tune, DRILL, Clock(), "time_to_apex")
    granted = seek(tune, DRILL, Clock(), "jump_height", 4.0)
    # v = 2H/T and g = 2H/T², up to the tick that contains the apex.
    assert granted.tune.jump.jump_speed == pytest.approx(8 / kept, rel=0.01)
    assert granted.tune.gravity.gravity == pytest.approx(8 / kept**2, rel=0.01)
    assert "Gravity" in granted.words
    assert "Jump speed" in granted.words


def test_a_ramp_reaches_top_speed_by_its_closed_form():
    granted = seek(make_tune(drive__top_speed=8), DRILL, Clock(), "time_to_top_speed", 0.25)
    assert granted.tune.drive.acceleration == 0.99 * 8 / 0.25


def test_a_jump_off_a_net_moves_its_own_speed():
    drill = make_drill(length=120, start=(0, 1), climb=((-1.0, 0.5, 1.0, 8.0),), up=[(2, 12)], jump=[(20, 60)])
    granted = seek(make_tune(), drill, Clock(), "net_jump_height", 2.0)
    assert [parameter.id for parameter, _, _ in granted.moved] == ["climb.climb_jump_speed"]
    assert measured(granted.tune, drill, Clock(), "net_jump_height") == pytest.approx(2.0, rel=1e-3)
    with pytest.raises(GoalOutOfReach, match="never shows it"):
        seek(make_tune(), drill, Clock(), "jump_height", 2.0)


LOW = make_drill(length=120, jump=[(5, 60)], solids=((-1000.0, -1.0, 1000.0, 0.0), (-9.0, 2.0, 9.0, 3.0)))


@pytest.mark.parametrize(
    ("tune", "drill", "id", "wanted", "message"),
    [
        (make_tune(), LOW, "jump_height", 3.0, "out of reach"),
        (make_tune(), DRILL, "time_to_top_speed", 60.0, "out of reach"),
        (make_tune(), DRILL, "stopping_time", 1e-8, "out of reach"),
        (make_tune(), DRILL, "stopping_distance", 500.0, "out of reach"),
        (make_tune(), make_drill(), "jump_height", 2.0, "never shows it"),
        (make_tune(drive__law="instant"), DRILL, "time_to_top_speed", 0.5, "no number behind"),
        (make_tune(drive__law="push", drive__release_stop=True), DRILL, "stopping_time", 0.5, "Stop on release"),
        (make_tune(), DRILL, "jump_height", -1.0, "over 0"),
        (make_tune(), DRILL, "jump_height", float("nan"), "over 0"),
    ],
)
def test_unreachable_figures_are_refused_with_a_reason(tune, drill, id, wanted, message):
    with pytest.raises(GoalOutOfReach, match=message):
        seek(tune, drill, Clock(), id, wanted)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(24 * TIMES))
def test_random_unreachable_figures_are_refused(seed):
    chance = random.Random(seed)
    id = chance.choice(["time_to_top_speed", "stopping_time", "stopping_distance"])
    tune = make_tune(
        drive__law=chance.choice(["ramp", "ease", "throttle", "push"]), drive__top_speed=chance.uniform(4, 9)
    )
    # Longer than the take, or shorter than the largest acceleration and rate (10⁷ u/s², 10⁵ /s) allow.
    wanted = (
        chance.choice([chance.uniform(50, 900), chance.uniform(1e-9, 1e-7)])
        if id != "stopping_distance"
        else chance.uniform(100, 1e4)
    )
    with pytest.raises(GoalOutOfReach):
        seek(tune, DRILL, Clock(), id, wanted)
