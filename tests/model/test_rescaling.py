"""Rescaling: what grows, what stays, and that curves keep their shape."""

import random

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.milestone import Logged, Milestone
from cinetica.model.rescaling import SCALED_UNITS, Scope, rescaled_drill, rescaled_tune, resized
from cinetica.model.tune import PARAMETERS
from cinetica.motion.records import TRACE
from cinetica.motion.simulate import simulate
from cinetica.reading.channels import BY_COLUMN
from tests.builders import run
from tests.motion.test_against_reference import random_drill
from tests.motion.test_step import random_tune

STUDY = shipped_study("harbour")
WREN = STUDY.tune("Wren")
BIG = 32.0


def scales(tune, drill, clock, factor):
    """Every column of a trace is multiplied by the factor, or stays, to the last digits of its largest value."""
    one = simulate(tune, drill, clock)
    other = simulate(rescaled_tune(tune, factor), rescaled_drill(drill, factor), clock)
    for column in TRACE.names:
        times = factor if BY_COLUMN[column].unit in SCALED_UNITS else 1.0
        wanted = times * one[column]
        far = np.abs(wanted[np.isfinite(wanted)]).max(initial=0.0)
        assert other[column] == pytest.approx(wanted, rel=0, abs=1e-12 * far), (tune.name, drill.name, column)


@pytest.mark.thorough
@pytest.mark.parametrize("drill", [drill.name for drill in STUDY.drills])
def test_traces_scale_as_the_study_does(drill):
    drill = STUDY.drill(drill)
    for tune in STUDY.tunes_for(drill):
        for factor in (BIG, 0.37):
            scales(tune, drill, STUDY.clock, factor)


@pytest.mark.parametrize("seed", range(40))
def test_random_tunes_scale_by_powers_of_two(seed):
    """Powers of two cause no rounding, so that no tie is decided differently."""
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    drill = random_drill(chance, view)
    scales(random_tune(view, chance), drill, run().clock, 4.0)


def test_only_lengths_speeds_and_accelerations_scale():
    big = rescaled_tune(WREN, BIG)
    for parameter in PARAMETERS:
        times = BIG if parameter.unit in ("u", "u/s", "u/s²") else None
        was = WREN.get(parameter.id)
        assert big.get(parameter.id) == (was * times if times else was), parameter.id
    assert big.body.height == pytest.approx(51.2)


def test_each_scope_rescales_its_own_part():
    kept = Milestone(name="First", at="now", tunes=(WREN,))
    log = Logged(name="game", drill="Rooftop hop", time=(0, 1), x=(0, 2), y=(0, 1), vx=(0, 2), vy=(0, 1))
    snapshot = WREN.model_copy(update={"name": "Wren before", "snapshot_of": "Wren"})
    study = STUDY.model_copy(update={"milestones": (kept,), "logs": (log,), "tunes": (*STUDY.tunes, snapshot)})
    one = resized(study, 2.0, Scope.TUNE, "Wren")
    assert one.tune("Wren").body.height == 3.2
    assert (one.tunes[1:], one.drills, one.milestones) == (study.tunes[1:], study.drills, study.milestones)
    tunes = resized(study, 2.0, Scope.TUNES)
    assert tunes.tune("Bramble").drive.top_speed == 12
    assert tunes.tune("Wren before") == snapshot
    assert tunes.drills == study.drills
    whole = resized(study, 2.0, Scope.STUDY)
    assert whole.drill("Fish steps").course.slopes[0] == (6, 0, 14, 4)
    assert whole.drill("Net loft").start == (0, 4.8)
    assert whole.milestone("First").tune("Wren") == whole.tune("Wren")
    assert whole.tune("Wren before").body.height == 3.2
    assert (whole.logs[0].x, whole.logs[0].time) == ((0, 4), (0, 1))
    assert (whole.clock, whole.conventions) == (study.clock, study.conventions)
    world = resized(study, 2.0, Scope.WORLD)
    assert world.tune("Wren").body.height == 3.2
    assert world.tune("Wren").drive == WREN.drive
    assert world.drills == whole.drills


def test_impossible_rescaling_is_refused_with_a_reason():
    for factor, scope, messages in (
        (1e5, Scope.TUNE, "Body width of Wren would be 80000 u"), (0.0, Scope.STUDY, "more than 0"),
        (float("nan"), Scope.STUDY, "more than 0"),
    ):  # fmt: skip
        with pytest.raises(ValueError, match=messages):
            resized(STUDY, factor, scope, "Wren")
    snapshot = STUDY.with_tune(WREN.model_copy(update={"snapshot_of": "Bramble"}), instead_of="Wren")
    with pytest.raises(ValueError, match="snapshot"):
        resized(snapshot, 2.0, Scope.TUNE, "Wren")
