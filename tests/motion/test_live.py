"""The live run, compared bit by bit with a run of the take that it recorded."""

import math
import random

import numpy as np
import pytest

from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle
from cinetica.model.study import Drill
from cinetica.motion.live import FIRST_ROOM, NOTHING_HELD, Held, LiveRun
from cinetica.motion.records import TRACE
from cinetica.motion.simulate import simulate
from tests.builders import make_tune
from tests.motion.test_step import random_tune

COURSE = Course(solids=(Rectangle(-9, -1, 30, 0), Rectangle(4, 0, 5, 1)))


def same_bits(one, other):
    """Field by field, since the padding between fields is undefined."""
    return one.dtype == other.dtype and all(one[name].tobytes() == other[name].tobytes() for name in one.dtype.names)


def played(tunes, ticks, chance, rate=60.0):
    live = LiveRun(tunes, COURSE, (0.0, 0.0), rate)
    held = NOTHING_HELD
    for _ in range(ticks):
        if chance.random() < 0.1:
            keys = frozenset(
                key for key in ("left", "right", "up", "down", "jump", "modifier") if chance.random() < 0.4
            )
            held = Held(keys, (chance.uniform(-1, 1), chance.uniform(-1, 1)) if chance.random() < 0.3 else (0.0, 0.0))
        live.tick(held)
    return live


def drill_of(live, first, last, view="side"):
    return Drill(name="Recorded", view=view, start=live.start, course=COURSE, take=live.take(first, last))


@pytest.mark.parametrize("seed", range(30))
def test_a_recorded_take_reproduces_the_same_bits(seed):
    chance = random.Random(seed)
    view, rate = ("side", "top")[seed % 2], chance.choice([30.0, 60.0, 144.0])
    tunes = [random_tune(view, chance) for _ in range(3)]
    live = played(tunes, 200, chance, rate)
    for place, tune in enumerate(tunes):
        trace = simulate(tune, drill_of(live, 0, 200, view), Clock(tick_rate=rate))
        assert same_bits(np.asarray(trace.rows.view(TRACE, np.ndarray)), live.trace(place))


@pytest.mark.parametrize(
    ("values", "intent"),
    [
        ({"input__axis_ratio": 0.5}, (1.0, 0.5)),
        ({"input__view_yaw": 90}, (-1.0, 1.0)),
        ({"input__diagonal": "normalized"}, (0.5**0.5, 0.5**0.5)),
    ],
)
def test_held_keys_act_under_the_new_numbers(values, intent):
    live = LiveRun([make_tune(view="top", input__diagonal="free")], COURSE, (0.0, 0.0), 60)
    for _ in range(5):
        live.tick(Held(frozenset({"up", "right"})))
    live.change([make_tune(view="top", **{"input__diagonal": "free"} | values)])
    live.tick(Held(frozenset({"up", "right"})))
    rows = live.trace(0)
    assert (rows["intent_x"][5], rows["intent_y"][5]) == (1.0, 1.0)
    assert (rows["intent_x"][6], rows["intent_y"][6]) == pytest.approx(intent)


def test_the_camera_uses_new_numbers_from_the_next_tick():
    """It closes 1 - e^(-rate/60) of the gap to the body per tick."""
    camera = {"camera__follow": "ease", "camera__follow_form": "exact"}
    live = LiveRun([make_tune(camera__follow_rate=3, **camera)], COURSE, (0.0, 0.0), 60)
    right = Held(frozenset({"right"}))
    for _ in range(20):
        live.tick(right)
    live.change([make_tune(camera__follow_rate=30, **camera)])
    live.tick(right)
    x, at = live.trace(0)["x"], live.trace(0)["camera_x"]
    for row, rate in ((20, 3), (21, 30)):
        assert at[row] - at[row - 1] == pytest.approx((x[row] - at[row - 1]) * (1 - math.exp(-rate / 60)))
    assert x[20] > 1


def test_a_long_run_grows_its_buffers():
    live = played([make_tune()], FIRST_ROOM + 50, random.Random(1))
    trace = simulate(make_tune(), drill_of(live, 0, FIRST_ROOM + 50), Clock())
    assert same_bits(np.asarray(trace.rows.view(TRACE, np.ndarray)), live.trace(0))


def test_idle_ticks_at_the_start_can_be_trimmed():
    live = LiveRun([make_tune()], COURSE, (0.0, 0.0), 60)
    for held in [NOTHING_HELD] * 40 + [Held(frozenset({"right"}))] * 20 + [NOTHING_HELD] * 30:
        live.tick(held)
    assert live.beginning(0) == live.beginning(40) == 40
    assert live.beginning(41) == 40
    assert live.beginning(90) == 90
    trace = simulate(make_tune(), drill_of(live, 40, 90), Clock())
    for column in ("x", "y", "vx", "vy", "state", "marks"):
        assert np.array_equal(trace[column], live.trace(0)[column][40:])


@pytest.mark.parametrize("seed", range(20))
def test_a_take_cut_from_the_middle_reproduces_the_same_bits(seed):
    chance = random.Random(seed)
    live = LiveRun([make_tune()], COURSE, (0.0, 0.0), 60)
    for _ in range(6):
        keys = frozenset(key for key in ("right", "jump") if chance.random() < 0.7)
        for held in [Held(keys)] * chance.randint(5, 30) + [NOTHING_HELD] * chance.randint(40, 90):
            live.tick(held)
    begin = live.beginning(live.rows // 2)
    assert begin > 0
    drill = drill_of(live, begin, live.rows - 1).model_copy(update=live.start_at(begin))
    trace = simulate(make_tune(), drill, Clock())
    for column in ("x", "y", "vx", "vy", "ax", "ay", "state", "marks", "facing"):
        # In its row 0 nothing has happened yet, while the play came to rest there.
        assert trace[column][1:].tobytes() == np.ascontiguousarray(live.trace(0)[column][begin + 1 :]).tobytes(), column


def test_new_numbers_apply_from_the_next_tick():
    live = LiveRun([make_tune(drive__law="instant", drive__top_speed=5)], COURSE, (0.0, 0.0), 60)
    live.tick(Held(frozenset({"right"})))
    live.change([make_tune(drive__law="instant", drive__top_speed=8)])
    live.tick(Held(frozenset({"right"})))
    assert live.trace(0)["vx"].tolist() == [0, 5, 8]


def test_a_take_recorded_in_motion_starts_in_motion():
    tune = make_tune()
    live = LiveRun([tune], COURSE, (0.0, 0.0, 3.0, 5.0, math.radians(37.0)), 60.0)
    for _ in range(40):
        live.tick(Held(frozenset({"right"})))
    start = live.start_at(0)
    assert start == {"start": (0.0, 0.0), "start_velocity": (3.0, 5.0), "start_heading": 37.0}
    again = simulate(tune, drill_of(live, 0, live.rows - 1).model_copy(update=start), Clock())
    assert again["x"].tobytes() == live.trace(0)["x"].tobytes()
    # Later it can only begin at rest.
    assert live.start_at(20)["start_velocity"] == (0.0, 0.0)
