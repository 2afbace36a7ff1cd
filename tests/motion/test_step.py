import os
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.motion.clock import schedule
from cinetica.motion.records import STATE, TRACE, empty_records, ground, tune_records
from cinetica.motion.simulate import simulate
from cinetica.motion.step import begin, tick, write
from tests.builders import make_drill, make_tune, marks_at, rows_of, run, takes

# Runs every demo drill and a few that use the whole model, and prints a digest of all traces.
DIGEST = """
import hashlib, random
from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.motion.simulate import simulate
from tests.builders import make_drill
from tests.motion.test_step import random_tune
digest = hashlib.sha256()
for study in map(shipped_study, ("harbour", "pitfalls")):
    for drill in study.drills:
        for tune in study.tunes_for(drill)[:1]:
            digest.update(simulate(tune, drill, study.clock).rows.tobytes())
chance = random.Random(4)
hands = dict(length=40, right=[(2, 18)], left=[(15, 30)], up=[(9, 25)], jump=[(3, 9), (12, 20)], modifier=[(6, 12)],
             stick=[(26, 0.7, -0.4), (33, 0, 0)], aim=[(5, 0.6, 0.7)], climb=[(1, 0, 4, 3)], oneway=[(-1, 0.5, 1, 0.7)])
for number in range(24):
    view = ("side", "top")[number % 2]
    trace = simulate(random_tune(view, chance), make_drill(view=view, **hands), Clock(tick_rate=50))
    digest.update(trace.rows.tobytes())
print(digest.hexdigest())
"""


def random_curve(chance, low, high):
    """Two to five points."""
    places = sorted(chance.sample(range(11), chance.randint(2, 5)))
    return tuple((place / 10, round(chance.uniform(low, high), 3)) for place in places)


def random_tune(view, chance) -> Tune:
    """A tune with every parameter drawn from its comfortable range."""
    tune = Tune(name="Wren", view=view)
    for parameter in PARAMETERS:
        if parameter.kind == "number":
            tune = tune.put(parameter.id, chance.uniform(*parameter.comfort))
        elif parameter.kind == "whole":
            tune = tune.put(parameter.id, chance.randint(*parameter.comfort))
        elif parameter.kind == "switch":
            tune = tune.put(parameter.id, chance.random() < 0.5)
        elif parameter.kind == "curve":
            tune = tune.put(parameter.id, random_curve(chance, *parameter.comfort))
        else:
            tune = tune.put(parameter.id, chance.choice(parameter.choices(view)).id)
    return tune


@pytest.mark.thorough
def test_the_same_bits_compiled_and_uncompiled():
    def digest(**environment):
        out = subprocess.run(
            [sys.executable, "-c", DIGEST], env=os.environ | environment, capture_output=True, text=True, check=True
        )
        return out.stdout

    assert digest() == digest(NUMBA_DISABLE_JIT="1")


@pytest.mark.thorough
@given(take=takes(), seed=st.randoms(use_true_random=False), view=st.sampled_from(["side", "top"]))
def test_the_same_bits_on_every_run_and_all_finite(take, seed, view):
    tune, drill = random_tune(view, seed), make_drill(view=view).model_copy(update={"take": take})
    one, other = run(tune, drill), run(tune, drill)
    assert one.rows.tobytes() == other.rows.tobytes()
    for column in TRACE.names:
        if not column.startswith("since_"):
            assert np.isfinite(one[column]).all(), column
    assert (np.abs(one["facing"]) <= 180 + 1e-9).all()
    assert (np.abs(one["look_pitch"]) <= 90 + 1e-9).all()


@pytest.mark.thorough
@settings(max_examples=30)
@given(take=takes(), seed=st.randoms(use_true_random=False), view=st.sampled_from(["side", "top"]))
def test_the_shortcut_for_resting_ticks_equals_the_full_tick(take, seed, view):
    # Late contact is written by the loop, not by a tick.
    tune = random_tune(view, seed).put("contact.late", False)
    drill = make_drill(view=view, climb=[(1, 0, 4, 3)]).model_copy(update={"take": take})
    trace = run(tune, drill)
    hands, dts, *_ = schedule(take, Clock())
    s, p, course = empty_records(STATE, 1)[0], tune_records([tune])[0], ground(drill.course)
    again = empty_records(TRACE, len(dts))
    begin(s, p, course, *drill.start)
    write(s, again[0], 0.0, 0.0, 0.0, 0.0)
    for k in range(1, len(dts)):
        s.followed = False
        vx, vy = float(s.vx), float(s.vy)
        with np.errstate(over="ignore"):
            tick(s, p, hands[max(0, k - p.latency)], course, dts[k])
        assert not s.rests
        write(s, again[k], trace["time"][k], dts[k], vx, vy)
    for column in TRACE.names:
        np.testing.assert_array_equal(again[column], trace[column], column)


def test_row_zero_is_the_start():
    trace = run(make_tune(), make_drill(start=(2, 0)))
    first = trace.rows[0]
    assert (first.tick, first.time, first.dt, first.x, first.y, first.marks) == (0, 0, 0, 2, 0, 0)
    assert first.since_ground == 0
    assert np.isinf(first.since_press)


def test_columns_fit_together():
    trace = run(make_tune(), make_drill(length=90, right=[(3, 40)], jump=[(10, 30)]), 50)
    assert trace["tick"].tolist() == list(range(76))
    assert trace["time"] == pytest.approx(np.arange(76) / 50)
    assert np.diff(trace["vx"]) == pytest.approx(trace["ax"][1:] * trace["dt"][1:])
    assert np.diff(trace["x"]) == pytest.approx(trace["vx"][1:] * trace["dt"][1:])
    assert trace["speed"] == pytest.approx(np.hypot(trace["vx"], trace["vy"]))


def test_marks_and_states_of_a_hop():
    trace = run(make_tune(), make_drill(length=90, jump=[(10, 30)]))
    assert marks_at(trace, 11) == ["press", "launch", "leave"]
    landed, apex = rows_of(trace, "land")[0], rows_of(trace, "apex")[0]
    assert trace["state"][[10, 11, apex - 1, apex, landed - 1, landed]].tolist() == [0, 1, 1, 2, 2, 0]
    assert trace["since_press"][11] == pytest.approx(1 / 60)
    assert trace["since_ground"][landed] == 0


@pytest.mark.parametrize("integrator", ["velocity_first", "position_first", "midpoint"])
def test_a_standing_body_stands(integrator):
    trace = run(make_tune(stepping__integrator=integrator), make_drill(length=30))
    assert not trace["y"].any()
    assert not trace["vy"].any()
    assert not trace["state"].any()


@pytest.mark.parametrize(("integrator", "velocity"), [("velocity_first", 1), ("position_first", 0), ("midpoint", 0.5)])
def test_integrators_use_the_new_the_old_and_the_mean_velocity(integrator, velocity):
    trace = run(
        make_tune(stepping__integrator=integrator, drive__acceleration=60), make_drill(length=10, right=[(0, 10)])
    )
    assert trace["x"][1] == pytest.approx(velocity / 60)
    assert trace["x"][2] == pytest.approx((2 * velocity + (1 - velocity)) / 60 + velocity / 60)


def test_the_two_views_must_be_the_same():
    with pytest.raises(ValueError, match="view"):
        run(make_tune("top"), make_drill(view="side"))


def test_every_demo_pair_runs():
    for name in ("harbour", "pitfalls"):
        study = shipped_study(name)
        for drill in study.drills:
            for tune in study.tunes_for(drill):
                assert len(simulate(tune, drill, study.clock)) > 30
