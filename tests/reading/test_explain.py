"""The lines of an explanation, which add up to the change in the trace."""

import random
import re

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.laws import Law
from cinetica.motion.simulate import simulate
from cinetica.reading.explain import COVERED, RULES, equation, explain
from cinetica.reading.ticks import Tick
from tests.builders import make_drill, make_tune, run, tunes_of_interest
from tests.motion.test_against_reference import random_drill
from tests.motion.test_step import random_tune
from tests.repetitions import TIMES


def adds_up(trace, rows):
    for row in rows:
        total = sum((np.array(line.change) for line in explain(trace, row)), np.zeros(4))
        shown = [trace[name][row] - trace[name][row - 1] for name in ("vx", "vy", "x", "y")]
        assert total == pytest.approx(shown, abs=1e-9), (row, [line.words for line in explain(trace, row)])


@pytest.mark.thorough
@pytest.mark.parametrize("name", ["harbour", "pitfalls"])
def test_ticks_of_every_demo_drill_add_up(name):
    study = shipped_study(name)
    for drill in study.drills:
        for place, tune in enumerate(tunes_of_interest(study, drill)):
            trace = simulate(tune, drill, study.clock)
            # Rows in which something happens for the first time or changes, and every ninth of the rest.
            kinds = list(zip(trace["state"].tolist(), trace["marks"].tolist(), strict=True))
            changes = [row for row in range(1, len(trace)) if kinds[row] != kinds[row - 1]]
            adds_up(trace, sorted({*changes, *range(1 + place % 9, len(trace), 9)}))


@pytest.mark.parametrize("seed", range(100 * TIMES))
def test_random_tunes_add_up(seed):
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    trace = run(random_tune(view, chance), random_drill(chance, view), tick_rate=chance.choice([30, 60, 144]))
    # The rows with most events, and some others.
    rare = [
        row for row in range(1, len(trace)) if trace["marks"][row] or trace["state"][row] != trace["state"][row - 1]
    ]
    adds_up(trace, {*chance.sample(rare, min(8, len(rare))), *chance.sample(range(1, len(trace)), 4)})


@pytest.mark.parametrize("seed", range(20))
def test_rules_are_listed_in_the_order_in_which_a_tick_calls_them(seed):
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    trace = run(random_tune(view, chance), random_drill(chance, view))
    order = list(RULES)
    for row in chance.sample(range(1, len(trace)), 8):
        called = [order.index(call.rule) for call in Tick(trace, row).calls if call.rule not in set(Law)]
        assert called == sorted(called), [order[place] for place in called]


@pytest.mark.parametrize("base", ["seconds", "frames", "mixed"])
def test_the_displacement_of_a_tick_is_velocity_times_the_shown_time(base):
    tune = make_tune(stepping__time_base=base)
    trace = simulate(tune, make_drill(length=40, right=[(2, 30)]), Clock(tick_rate=30))
    words = next(line.words for line in explain(trace, 9) if line.rule == "travel")
    below = float(re.search(r"velocity × 1/([\d.]+) s", words)[1])
    # The velocity of the curve: under `frames` it is per frame of the reference rate.
    assert trace["vx"][9] / below == pytest.approx(trace["x"][9] - trace["x"][8], abs=1e-9)


def test_every_rule_is_described_alone_or_with_another():
    assert set(RULES) == COVERED


def words_of(trace, row):
    return {line.rule: line.words for line in explain(trace, row)}


def test_a_ramp_names_its_acceleration_and_tick_length():
    trace = run(make_tune(drive__acceleration=48), make_drill(right=[(0, 30)]))
    assert words_of(trace, 4)["ramp"].startswith("vx 2.40 → 3.20: ramp, acceleration 48 u/s² × 1/60 s")


def test_a_cut_jump_names_its_factor():
    tune = make_tune(jump__cut_factor=0.5, gravity__gravity=0)
    trace = run(tune, make_drill(jump=[(2, 10)]))
    assert words_of(trace, 11)["shorten"] == "vy 14.00 → 7.00: short hop cut × 0.5"


def test_factors_are_named_only_where_they_act():
    tune = make_tune(gravity__fall_factor=2, gravity__apex_speed=3, gravity__apex_factor=0.5)
    trace = run(tune, make_drill(jump=[(0, 60)]))
    rising = words_of(trace, 3)["weight"]
    near_the_top = next(words_of(trace, row)["weight"] for row in range(1, 60) if 0 < trace["vy"][row - 1] < 3)
    falling = next(words_of(trace, row)["weight"] for row in range(1, 60) if trace["vy"][row - 1] < -4)
    assert "factor" not in rising
    assert "apex factor 0.5" in near_the_top
    assert "fall factor" not in near_the_top
    assert "fall factor 2" in falling


def test_walls_ceilings_and_ground_are_distinguished():
    beam = ((-10.0, -1.0, 10.0, 0.0), (-1.0, 2.0, 1.0, 3.0), (5.0, 0.0, 6.0, 9.0))
    trace = run(make_tune(), make_drill(length=200, solids=beam, jump=[(2, 20)], right=[(40, 200)]))
    messages = [
        line.words.rpartition(": ")[2] for row in range(1, 200) for line in explain(trace, row) if line.rule == "move"
    ]
    assert {"a ceiling", "the ground", "a wall"} <= set(messages)


def test_the_start_and_rows_outside_have_nothing_to_explain():
    trace = run()
    assert explain(trace, 0) == explain(trace, len(trace)) == explain(trace, -1) == []


def test_every_rule_has_its_equation():
    for rule in RULES:
        assert equation(rule), rule
