"""Verdicts on targets, the command that checks them, and its JUnit report, read by an independent parser."""

import json

import pytest
from click.testing import CliRunner
from junitparser import JUnitXml

from cinetica.cli import main
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text
from cinetica.model import editing
from cinetica.model.rescaling import Scope
from cinetica.model.targets import Target
from cinetica.motion.simulate import simulate
from cinetica.reading.figure_changes import farthest, moved
from cinetica.reading.reading_off import read_off
from cinetica.reading.targets import judge, rescaled_with_targets, summary, verdicts, with_target_on_every_drill
from tests.builders import make_drill, make_tune, run

HOP = "Rooftop hop"


def agreed(*targets, drill=HOP):
    study = shipped_study("harbour")
    for target in targets:
        study = editing.with_target(study, drill, target)
    return study


def test_met_and_missed_by_how_much():
    """A held jump of 14 u/s under 40 u/s² rises 14²/80 - 14/120 u: 2.333."""
    drill = make_drill(length=90, jump=[(5, 60)])
    height = 14**2 / 80 - 14 / 120
    for low, high, missing, short in (
        (2.3, 2.4, 0.0, "2.3…2.4 u"),
        (2.5, None, height - 2.5, "2.33 u, 0.17 too low"),
        (None, 2.0, height - 2.0, "2.33 u, 0.33 too high"),
    ):
        aimed = drill.model_copy(update={"targets": (Target(measure="jump_height", low=low, high=high),)})
        trace = run(make_tune(), aimed)
        (verdict,) = judge(aimed, trace.tune, read_off(trace))
        assert verdict.missing == pytest.approx(missing, abs=1e-9)
        assert verdict.met == (missing == 0)
        assert ("too" in verdict.why) == (missing != 0)
        assert verdict.short == f"Jump height {short}"


def test_an_unknown_figure_misses_and_an_absent_one_does_not():
    study = agreed(Target(measure="turn_time", low=0.1), Target(measure="no_such", low=1.0))
    found = verdicts(study)
    assert [verdict.met for verdict in found] == [False] * 4
    assert "does not show it" in found[0].why
    assert found[0].short == "Turn-round time not shown"
    assert "no figure no_such" in found[1].why
    assert [verdict.word for verdict in found] == ["not shown", "missed"] * 2
    assert summary(found) == "2 of 4 missed, 2 not shown"
    assert summary(found[:1]) == "1 not shown"
    assert summary([]) == "no targets"
    top = Target(measure="top_speed_reached", low=0.0)
    assert summary(verdicts(agreed(top))) == "all 2 met"
    assert summary(verdicts(agreed(top))[:1]) == "1 target met"


@pytest.fixture
def file(tmp_path):
    study = agreed(
        Target(measure="jump_height", low=2.3, high=2.5), Target(measure="air_time", low=0.5, tunes=("Wren",))
    )
    path = tmp_path / "harbour.json"
    path.write_text(study_text(study))
    return path


def command(*arguments):
    return CliRunner().invoke(main, ["targets", *map(str, arguments)])


def test_the_command_lists_targets_and_its_status_sums_up(file):
    done = command(file)
    assert done.exit_code == 1
    lines = done.output.splitlines()
    assert len(lines) == 4
    assert sum("missed" in line for line in lines[:3]) == 1
    assert "Bramble: Jump height should be 2.3…2.5 u; 1.953 u, 0.347 u too low" in done.output
    assert lines[-1] == "1 of 3 missed"
    assert command(file, "--tune", "Wren").exit_code == 0
    assert command(file, "--drill", "Quay sprint").output == "no targets\n"
    assert command(file, "--tune", "Nobody").exit_code == 1


def test_as_json_and_as_junit(file, tmp_path):
    report = tmp_path / "targets.xml"
    done = command(file, "--json", "--junit", report)
    listed = json.loads(done.output)["targets"]
    assert {(each["tune"], each["measure"], each["met"]) for each in listed} == {
        ("Wren", "jump_height", True), ("Bramble", "jump_height", False), ("Wren", "air_time", True),
    }  # fmt: skip
    assert next(each for each in listed if not each["met"])["missing"] == pytest.approx(-0.347, abs=1e-3)
    suites = JUnitXml.fromfile(str(report))
    suites.update_statistics()
    assert (suites.tests, suites.failures) == (3, 1)
    (suite,) = suites
    assert suite.name == HOP
    assert [case.classname for case in suite if case.result] == [f"{HOP}.Bramble"]


def test_figures_a_drill_cannot_show_fail_in_strict_mode(tmp_path):
    path, report = tmp_path / "s.json", tmp_path / "r.xml"
    path.write_text(study_text(agreed(Target(measure="turn_time", low=0.1))))
    assert command(path).exit_code == 0
    strict = command(path, "--strict", "--junit", report)
    assert strict.exit_code == 1
    assert "not shown" in strict.output
    (suite,) = JUnitXml.fromfile(str(report))
    assert suite.failures == 2
    command(path, "--junit", report)
    (suite,) = JUnitXml.fromfile(str(report))
    assert (suite.failures, suite.skipped) == (0, 2)


def test_a_target_is_set_on_every_drill_that_shows_its_figure():
    study, target = shipped_study("harbour"), Target(measure="jump_height", low=2.0)
    after = with_target_on_every_drill(study, "side", target)
    for drill, changed in zip(study.drills, after.drills, strict=True):
        shown = drill.view == "side" and any(
            "jump_height" in read_off(simulate(tune, drill, study.clock)) for tune in study.tunes_for(drill)
        )
        assert (target in changed.targets) == shown
    assert 2 <= sum(target in drill.targets for drill in after.drills) < len(study.drills)


def test_report_and_proof_contain_the_targets():
    from cinetica.files.proof import proof_page
    from cinetica.files.report import report_html

    study = agreed(Target(measure="jump_height", low=2.3, high=2.5))
    page = report_html(study, [study.drill(HOP)])
    assert "2.3…2.5 u" in page
    assert "✗ missed" in page
    assert "As agreed" in proof_page(study, study.tune("Wren"), [study.drill(HOP)])
    plain = shipped_study("harbour")
    assert "As agreed" not in proof_page(plain, plain.tune("Wren"), [plain.drill(HOP)])


def test_hostile_names_are_escaped_in_the_report(tmp_path):
    study = editing.renamed_tune(agreed(Target(measure="jump_height", low=9.0)), "Wren", 'a"<&]]>')
    path, report = tmp_path / "s.json", tmp_path / "r.xml"
    # Characters that XML cannot contain come only from files.
    text = study_text(study).replace(']]>"', ']]>\\u0007"').replace(f'"{study.name}"', '"Quay\\u001bside"')
    path.write_text(text)
    command(path, "--junit", report)
    read = JUnitXml.fromfile(str(report))
    assert read.name == "Quay␛side"
    (suite,) = read
    assert {case.classname for case in suite} == {f'{HOP}.a"<&]]>␇', f"{HOP}.Bramble"}


def test_changed_figures_are_listed_largest_first_with_both_values():
    before = read_off(run(make_tune(), make_drill(length=90, jump=[(5, 60)])))
    after = read_off(run(make_tune(gravity__gravity=20), make_drill(length=90, jump=[(5, 60)])))
    found = {each.measure.id: each for each in moved(0, "Wren", before, after)}
    assert found["jump_height"].before == before["jump_height"].value
    assert found["jump_height"].after == after["jump_height"].value
    assert not moved(0, "Wren", before, before)
    gone = moved(0, "Wren", before, {})
    assert all(each.after is None and each.share == 1 for each in gone)
    shares = [each.share for each in farthest(found.values(), 3)]
    assert shares == sorted(shares, reverse=True)


def test_length_targets_scale_only_with_the_whole_study():
    """A jump of twice the size meets a target of twice the height in the same time."""
    study = agreed(
        Target(measure="jump_height", low=2.0, high=2.5), Target(measure="air_time", high=1.0),
        Target(measure="landing_speed", low=3.0), Target(measure="unheard_of", low=1.0),
    )  # fmt: skip
    judged = [
        (each.measure, each.low, each.high)
        for each in rescaled_with_targets(study, 2.0, Scope.STUDY).drill(HOP).targets
    ]
    assert judged == [
        ("jump_height", 4.0, 5.0), ("air_time", None, 1.0), ("landing_speed", 6.0, None), ("unheard_of", 1.0, None),
    ]  # fmt: skip
    before, after = (verdicts(each) for each in (study, rescaled_with_targets(study, 2.0, Scope.STUDY)))
    assert [each.met for each in before] == [each.met for each in after]
    for scope in (Scope.TUNE, Scope.TUNES, Scope.WORLD):
        assert rescaled_with_targets(study, 2.0, scope, "Wren").drill(HOP).targets == study.drill(HOP).targets
