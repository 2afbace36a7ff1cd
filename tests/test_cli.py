import csv
import json
import os
import subprocess
import sys

import pytest
from click.testing import CliRunner

from cinetica.cli import main
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text, write_study
from cinetica.libraries import install_line
from cinetica.model import editing


@pytest.fixture
def study(tmp_path):
    path = tmp_path / "harbour.json"
    write_study(shipped_study("harbour"), path)
    return path


def call(*arguments):
    return CliRunner().invoke(main, [str(argument) for argument in arguments])


def test_a_trace_to_standard_output_and_into_a_file(study, tmp_path):
    printed = call("trace", study, "--tune", "Wren", "--drill", "Quay sprint")
    assert printed.exit_code == 0
    out = tmp_path / "trace.csv"
    assert call("trace", study, "--tune", "Wren", "--drill", "Quay sprint", "-o", out).exit_code == 0
    with out.open(newline="") as file:
        rows = list(csv.DictReader(file))
    assert len(rows) == 121
    assert [float(row["vx"]) for row in rows] == [
        float(row["vx"]) for row in csv.DictReader(printed.output.splitlines())
    ]


def test_settings_change_clock_and_tune(study):
    arguments = ("--set", "clock.tick_rate=120", "--set", "drive.top_speed=3")
    rows = list(
        csv.DictReader(call("trace", study, "--tune", "Wren", "--drill", "Quay sprint", *arguments).output.splitlines())
    )
    assert len(rows) == 241
    assert max(float(row["vx"]) for row in rows) == pytest.approx(3)


def test_hitches_can_be_set_too(study):
    arguments = ("--set", "clock.mode=variable", "--set", "clock.hitches=[[0.5, 0.05]]")
    rows = list(
        csv.DictReader(call("trace", study, "--tune", "Wren", "--drill", "Quay sprint", *arguments).output.splitlines())
    )
    assert max(float(row["dt"]) for row in rows) == pytest.approx(1 / 60 + 0.05)
    result = call("trace", study, "--tune", "Wren", "--drill", "Quay sprint", "--set", "clock.hitches=soon")
    assert result.exit_code == 1
    assert "a list of [at, seconds]" in result.output


def test_measures_as_text_and_as_json(study):
    assert "Time to top speed" in call("measure", study, "--tune", "Wren").output
    content = json.loads(call("measure", study, "--drill", "Rooftop hop", "--json").output)
    assert [reading["tune"] for reading in content["readings"]] == ["Wren", "Bramble"]
    height = content["readings"][0]["measures"]["jump_height"]
    assert height["unit"] == "u"
    assert 1 < height["value"] < 4
    assert "turn_time" not in content["readings"][0]["measures"]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--tune", "Otter!", "--drill", "Quay sprint"), "no tune called 'Otter!'; there are: Wren, Bramble"),
        (("--tune", "Wren", "--drill", "x"), "no drill called 'x'; there are: Quay sprint"),
        (
            ("--tune", "Wren", "--drill", "Quay sprint", "--set", "clock.tick_rate=0"),
            "must be a number from 1 to 10000 /s",
        ),
        (("--tune", "Wren", "--drill", "Quay sprint", "--set", "drive.law=glide"), "must be one of instant, ramp"),
        (("--tune", "Wren", "--drill", "Quay sprint", "--set", "nonsense"), "ID=VALUE"),
        (("--tune", "Wren", "--drill", "Quay sprint", "-o", "/nowhere/x.csv"), "/nowhere/x.csv"),
    ],
)
def test_errors_are_one_plain_line(study, arguments, words):
    result = call("trace", study, *arguments)
    assert result.exit_code == 1
    assert words in result.output
    assert len(result.output.strip().splitlines()) == 1


def test_bad_files_and_wrong_usage(tmp_path):
    assert call("measure", tmp_path / "none.json").exit_code == 1
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "cinetica-study", "version": 1, "name": "x", "tuens": []}')
    result = call("measure", bad)
    assert result.exit_code == 1
    assert "did you mean tunes" in result.output
    assert call("trace", bad).exit_code == 2
    assert call("measure", bad, "--nonsense").exit_code == 2


def test_without_a_display_a_study_does_not_open_but_the_demo_runs_into_files(study, tmp_path):
    result = call(study)
    assert result.exit_code == 1
    assert "no display" in result.output
    out = tmp_path / "demo-out"
    result = call("demo", "-o", out)
    assert result.exit_code == 0, result.output
    assert "Wren on Gutter's edge" in result.output
    assert str(out) in result.output
    names = {path.name for path in out.iterdir()}
    assert {"window.png", "quay-sprint-wren.csv", "early-knock-bramble.csv"} <= names
    assert (out / "window.png").read_bytes().startswith(b"\x89PNG")


def test_a_missing_library_is_one_line_naming_the_package(study, monkeypatch):
    monkeypatch.setenv("DISPLAY", ":99")
    monkeypatch.delenv("QT_QPA_PLATFORM")
    monkeypatch.setattr("cinetica.libraries.missing_packages", lambda **_: ["libegl1", "libxcb-cursor0"])
    result = call(study)
    assert result.exit_code == 1
    assert result.output.strip() == install_line(["libegl1", "libxcb-cursor0"])
    assert "apt-get install -y libegl1 libxcb-cursor0" in result.output


def test_a_report_without_a_display_prints_nothing_extra(tmp_path):
    usual = {
        name: value
        for name, value in os.environ.items()
        if name not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    write_study(shipped_study("harbour"), tmp_path / "study.json")
    arguments = ["report", str(tmp_path / "study.json"), "--drill", "Quay sprint", "-o", str(tmp_path / "sheet.html")]
    done = subprocess.run(
        [sys.executable, "-m", "cinetica", *arguments], env=usual, capture_output=True, text=True, check=True
    )
    assert done.stderr == ""


@pytest.mark.parametrize(
    ("setting", "message"),
    [
        ("gravity.gravty=3", "did you mean gravity.gravity"), ("clock.tickrate=3", "did you mean clock.tick_rate"),
        ("zzz=3", "there are: body.width"), ("gravity.gravity", "not of the form ID=VALUE"),
    ],
)  # fmt: skip
def test_a_wrong_id_is_answered_with_similar_ones(study, setting, message):
    found = call("trace", study, "--tune", "Wren", "--drill", "Quay sprint", "--set", setting)
    assert found.exit_code == 1
    assert message in found.stderr
    assert len(found.stderr.splitlines()) == 1
    assert len(found.stderr) < 1000


def test_only_some_numbers_are_written_on_request(tmp_path):
    study = editing.with_milestone(shipped_study("harbour"), "first", "2026-11-01")
    study = study.with_tune(study.tune("Wren").put("gravity.gravity", 30.0), instead_of="Wren")
    path = tmp_path / "study.json"
    path.write_text(study_text(study))
    ask = ["numbers", str(path), "--tune", "Wren", "--format", "json", "--which"]
    changed = CliRunner().invoke(main, [*ask, "changed"])
    assert json.loads(changed.output)["values"] == {"gravity": 30.0}
    assert json.loads(CliRunner().invoke(main, [*ask, "named"]).output)["values"] == {}
    refused = CliRunner().invoke(main, [*ask, "changed", "--since", "second"])
    assert refused.exit_code != 0
    assert "no milestone called 'second'" in refused.output
