"""`--units game`: numbers in and out of the command line and of scripts in game units."""

import csv
import io
import json

import numpy as np
import pytest
from click.testing import CliRunner

import cinetica
from cinetica.cli.group import main
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study, study_text, write_study
from cinetica.model.conventions import Conventions, Per
from cinetica.model.editing import with_target
from cinetica.model.study import UnitSystem
from cinetica.model.targets import Target

GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50)
ON = ("--tune", "Wren", "--drill", "Rooftop hop")


@pytest.fixture
def study(tmp_path):
    path = tmp_path / "harbour.json"
    kept = shipped_study("harbour").model_copy(update={"conventions": GAME})
    write_study(with_target(kept, "Rooftop hop", Target(measure="jump_height", low=1.0, high=2.0)), path)
    return path


def run(*arguments, status=0):
    result = CliRunner().invoke(main, [str(each) for each in arguments], catch_exceptions=False)
    assert result.exit_code == status, result.output
    return result.stdout


def table(text):
    rows = list(csv.DictReader(io.StringIO(text)))
    return {name: [row[name] for row in rows] for name in rows[0]}


def test_a_trace_in_game_units_has_the_same_columns(study):
    ours, game = table(run("trace", study, *ON)), table(run("trace", study, *ON, "--units", "game"))
    assert list(ours) == list(game)
    for column, factor in (("x", 32), ("y", -32), ("vx", 0.64), ("vy", -0.64), ("ay", -32 / 2500), ("time", 50)):
        shown = np.array(ours[column], dtype=float) * factor
        assert np.array(game[column], dtype=float) == pytest.approx(shown, rel=1e-12, abs=1e-12)
    assert ours["marks"] == game["marks"]
    assert ours["jump_held"] == game["jump_held"]


def test_settings_are_in_the_chosen_units(study):
    text = run("trace", study, *ON, "--units", "game", "--set", "jump.jump_speed=-9.6", "--set", "jump.coyote=6")
    ours = run("trace", study, *ON, "--set", "jump.jump_speed=15", "--set", "jump.coyote=0.12")
    assert min(map(float, table(text)["vy"])) == pytest.approx(-0.64 * max(map(float, table(ours)["vy"])), rel=1e-9)
    result = CliRunner().invoke(main, ["trace", str(study), *ON, "--units", "game", "--set", "drive.top_speed=fast"])
    assert result.exit_code == 1
    assert "px/frame" in result.stderr


def test_measures_and_targets_are_in_game_units(study):
    ours, game = (
        json.loads(run("measure", study, *ON, "--json", *more))["readings"][0]["measures"]
        for more in ((), ("--units", "game"))
    )
    assert game["jump_height"]["unit"] == "px"
    assert game["jump_height"]["value"] == pytest.approx(32 * ours["jump_height"]["value"])
    assert game["time_to_apex"]["ticks"] == ours["time_to_apex"]["ticks"]
    assert "px/frame" in run("measure", study, *ON, "--units", "game")
    output = run("targets", study, "--units", "game", status=1)
    assert "should be 32…64 px" in output
    listed = json.loads(run("targets", study, "--units", "game", "--json", status=1))["targets"]
    assert {(each["low"], each["high"], each["unit"]) for each in listed} == {(32.0, 64.0, "px")}
    assert "should be 1…2 u" in run("targets", study, status=1)


@pytest.mark.parametrize("suffix", ["csv", "parquet"])
def test_a_sweep_varies_and_writes_game_units(study, tmp_path, suffix):
    ours, game = tmp_path / f"ours.{suffix}", tmp_path / f"game.{suffix}"
    figures = ("--measure", "jump_height", "--measure", "time_to_apex")
    run("sweep", study, *ON, *figures, "--vary", "jump.jump_speed=10:20:5", "-o", ours)
    arguments = ("sweep", study, *ON, *figures, "--vary", "jump.jump_speed=-6.4:-12.8:5", "--units", "game", "-o", game)
    run(*arguments)
    if suffix == "csv":
        one, other = (
            {name: np.array(column, dtype=float) for name, column in table(path.read_text()).items()}
            for path in (ours, game)
        )
    else:
        from pyarrow import parquet  # It takes a while to load.

        one, other = (
            {name: column.to_numpy() for name, column in zip(read.column_names, read.columns, strict=True)}
            for read in map(parquet.read_table, (ours, game))
        )
    for name, factor in (("jump.jump_speed", -0.64), ("jump_height", 32), ("time_to_apex", 50)):
        assert other[name] == pytest.approx(one[name] * factor, rel=1e-9)
    # Resumed in other units it would be another table.
    refused = CliRunner().invoke(main, [str(each) for each in (*arguments[:-4], "-o", game, "--resume")])
    assert refused.exit_code == 1


def test_a_report_in_game_units_has_none_of_ours(study, tmp_path):
    page = tmp_path / "report.html"
    run("report", study, "--drill", "Rooftop hop", "--units", "game", "-o", page)
    text = page.read_text()
    assert "px/frame²" in text
    assert "32…64 px" in text
    assert ">u/s<" not in text
    assert ">x and y in px<" in text
    run("report", study, "--drill", "Rooftop hop", "-o", page)
    assert "px/frame" not in page.read_text()
    assert "x and y in u" in page.read_text()


def test_the_unit_choice_is_saved_only_if_not_the_default(tmp_path):
    kept = shipped_study("harbour").model_copy(update={"conventions": GAME})
    assert '"units"' not in study_text(kept)
    path = tmp_path / "study.json"
    write_study(kept.model_copy(update={"units": UnitSystem.GAME}), path)
    assert read_study(path).units is UnitSystem.GAME
    # The command line follows only its own option.
    assert "u/s" in run("measure", path, *ON)


def test_scripts_can_read_everything_in_game_units(study):
    found = cinetica.read_study(study)
    units = cinetica.game_units(found)
    trace = cinetica.simulate(found.tune("Wren"), found.drill("Rooftop hop"), found.clock)
    shown = trace.table("time", "vy", "state", units=units)
    assert shown["vy"] == pytest.approx(-0.64 * trace["vy"])
    assert shown["time"] == pytest.approx(50 * trace["time"])
    assert set(shown["state"]) == set(trace.table("state")["state"])
    ours, game = cinetica.read_off(trace), cinetica.read_off(trace, units=units)
    assert game["jump_height"].value == pytest.approx(32 * ours["jump_height"].value)
    assert game["jump_height"].rows == ours["jump_height"].rows
    row = int(np.argmax(trace["vy"]))
    assert any("px/frame" in line.words for line in cinetica.explain(trace, row, units))
