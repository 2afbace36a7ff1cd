"""The reach figures of a tune: read on request, on any drill, in a batch, and as targets."""

import json

import numpy as np
import pytest
from click.testing import CliRunner

from cinetica.cli import main
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text
from cinetica.model.clock import Clock
from cinetica.model.editing import with_target
from cinetica.model.targets import Target
from cinetica.model.tune import parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading import target_search
from cinetica.reading.measures import REACHED
from cinetica.reading.reading_off import read_off
from cinetica.reading.survey.reach import RUNNING, STANDING, reach
from cinetica.reading.survey.sensitivity import sensitivities
from cinetica.reading.sweeps import run_and_read
from cinetica.reading.target_search import solve
from cinetica.reading.targets import judge
from tests.builders import make_drill, make_tune

pytestmark = pytest.mark.thorough

STUDY = shipped_study("harbour")
DRILL, WREN = STUDY.drill("Rooftop hop"), STUDY.tune("Wren")


def asked(tune, drill=DRILL, clock=STUDY.clock):
    return {id: reading.value for id, reading in read_off(simulate(tune, drill, clock), REACHED).items()}


def test_a_gap_by_hand():
    """6 u/s for the 0.5 s of a jump at 12 u/s under 48 u/s² is 3 u; half a body at both ends makes it 3.8 u."""
    tune = make_tune(
        drive__law="instant", drive__top_speed=6.0, gravity__gravity=48.0, gravity__fall_factor=1.0,
        jump__jump_speed=12.0, jump__short_hop="none", jump__coyote=0.0, body__width=0.8,
        stepping__integrator="midpoint", gravity__terminal_speed=0.0, drive__air_control=1.0,
    )  # fmt: skip
    found = asked(tune, make_drill(), Clock())
    # To within the distance of two ticks.
    assert found["widest_gap"] == pytest.approx(3.8, abs=0.21)
    # Three frames of the press are 0.3 u.
    assert found["widest_gap_safe"] == pytest.approx(found["widest_gap"] - 0.3, abs=0.11)
    assert found["highest_step"] == pytest.approx(12**2 / (2 * 48), rel=1e-6)
    assert found["highest_step_safe"] <= found["highest_step"]


def test_reach_figures_equal_reach_and_are_the_same_on_every_drill():
    for name in ("Wren", "Bramble"):
        tune = STUDY.tune(name)
        ran, stood = (reach(tune, STUDY.clock, start, (0.0,)) for start in (RUNNING, STANDING))
        expected = {
            "widest_gap": ran.gaps[0].widest, "widest_gap_safe": ran.gaps[0].safe,
            "highest_step": max(ran.step, stood.step), "highest_step_safe": max(ran.easy_step, stood.easy_step),
        }  # fmt: skip
        assert asked(tune) == asked(tune, STUDY.drill("Quay sprint")) == expected


def test_reach_figures_are_read_only_on_request_or_with_a_target():
    trace = simulate(WREN, DRILL, STUDY.clock)
    assert not set(REACHED) & set(read_off(trace))
    drill = with_target(STUDY, DRILL.name, Target(measure="widest_gap", low=6.0)).drill(DRILL.name)
    found = read_off(simulate(WREN, drill, STUDY.clock))
    assert "widest_gap" in found
    assert "highest_step" not in found
    (verdict,) = judge(drill, WREN, found)
    assert verdict.met
    slow = WREN.put("drive.top_speed", 5.0)
    (verdict,) = judge(drill, slow, read_off(simulate(slow, drill, STUDY.clock)))
    assert verdict.missed


def test_no_reach_figures_in_top_view_or_without_a_jump():
    assert asked(STUDY.tune("Otter"), STUDY.drill("Market diagonals")) == {}
    assert asked(WREN.put("jump.jump_speed", 0.0)) == {}


def test_in_a_batch_every_tune_has_its_own_reach_figures():
    speeds = [5.0, 10.0]
    found = run_and_read(WREN, DRILL, STUDY.clock, {"drive.top_speed": speeds}, ["widest_gap", "jump_height"])
    expected = [asked(WREN.put("drive.top_speed", speed))["widest_gap"] for speed in speeds]
    assert found["widest_gap"].tolist() == expected
    assert np.isfinite(found["jump_height"]).all()
    assert "widest_gap" not in run_and_read(WREN, DRILL, STUDY.clock, {"drive.top_speed": speeds})


def test_goal_seek_widens_a_gap(monkeypatch):
    # All 40 numbers would take a while, since each try runs the jumps again.
    ids = ("drive.top_speed", "jump.jump_speed", "gravity.gravity", "jump.coyote", "gravity.fall_factor")
    monkeypatch.setattr(target_search, "PARAMETERS", tuple(parameter_by_id(id) for id in ids))
    study = with_target(STUDY, DRILL.name, Target(measure="widest_gap", low=6.6, tunes=("Wren",)))
    drill = study.drill(DRILL.name)
    (missed,) = judge(drill, WREN, read_off(simulate(WREN, drill, study.clock)))
    assert missed.missed
    found = solve(study, missed)
    assert found
    for each in found:
        changed = WREN.put(each.parameter.id, each.after)
        assert asked(changed, drill)["widest_gap"] >= 6.6


def test_the_numbers_that_affect_a_gap():
    report = sensitivities(WREN, DRILL, STUDY.clock, "widest_gap")
    found = {each.parameter.id: each for each in report.order}
    assert found["drive.top_speed"].change > 0
    assert found["jump.jump_speed"].change > 0
    assert found["gravity.gravity"].change < 0
    assert "contact.corner_slip" in {each.id for each in report.idle}


def test_reach_figures_on_the_command_line(tmp_path):
    path = tmp_path / "study.json"
    path.write_text(study_text(STUDY))
    base = ["measure", str(path), "--tune", "Wren", "--drill", DRILL.name]
    assert "Widest gap" not in CliRunner().invoke(main, base).output
    assert "Widest gap to spare" in CliRunner().invoke(main, [*base, "--reach"]).output
    listed = json.loads(CliRunner().invoke(main, [*base, "--reach", "--json"]).output)["readings"][0]["measures"]
    assert listed["widest_gap"] == {"value": asked(WREN)["widest_gap"], "unit": "u"}
    out = tmp_path / "gaps.csv"
    done = CliRunner().invoke(
        main,
        ["sweep", str(path), "--tune", "Wren", "--drill", DRILL.name, "--vary", "drive.top_speed=5,7.5", "--measure",
         "widest_gap", "-o", str(out)],
    )  # fmt: skip
    assert done.exit_code == 0, done.output
    rows = [line.split(",") for line in out.read_text().splitlines()]
    at = next(place for place, name in enumerate(rows[0]) if "widest_gap" in name)
    assert float(rows[2][at]) == pytest.approx(asked(WREN)["widest_gap"])
