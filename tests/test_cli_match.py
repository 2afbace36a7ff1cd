"""The command `match`."""

import json
from pathlib import Path

import pytest

from cinetica.files.study_json import read_study, write_study
from cinetica.files.trace_csv import trace_text
from cinetica.model.editing import with_log
from cinetica.model.milestone import Logged
from cinetica.model.study import Study
from cinetica.motion.simulate import simulate
from tests.builders import make_tune
from tests.test_cli import call as cinetica

ROOT = Path(__file__).parents[1]
HARBOUR = ROOT / "src/cinetica/data/harbour.json"
FREE = "jump.jump_speed,gravity.gravity,drive.top_speed"


@pytest.fixture
def logged(tmp_path):
    """A log of a Wren with three other numbers on the rooftops."""
    study = read_study(HARBOUR)
    tune = study.tune("Wren").put("jump.jump_speed", 13.0).put("gravity.gravity", 38.0).put("drive.top_speed", 6.5)
    trace = simulate(tune, study.drill("Rooftop hop"), study.clock)
    lines = trace_text(trace).splitlines()
    names = next(name for name in lines if name.startswith("tick")).split(",")
    rows = [line.split(",") for line in lines[lines.index(",".join(names)) + 1 :]]
    kept = [names.index(name) for name in ("tick", "x", "y", "vx", "vy")]
    path = tmp_path / "game.csv"
    path.write_text("\n".join(["frame,x,y,vx,vy", *(",".join(row[at] for at in kept) for row in rows)]) + "\n")
    return path


def test_found_numbers_are_written_as_a_new_tune(logged, tmp_path):
    out = tmp_path / "out.json"
    done = cinetica("match", HARBOUR, "--drill", "Rooftop hop", "--log", logged, "--free", FREE, "-o", out)
    assert done.exit_code == 0, done.stdout + done.stderr
    assert "→ 13" in done.stdout
    study = read_study(out)
    found = study.tune("Wren matched")
    assert found.jump.jump_speed == pytest.approx(13.0, abs=1e-3)
    assert found.gravity.gravity == pytest.approx(38.0, abs=1e-2)
    assert study.tune("Wren").jump.jump_speed == 14.5


def test_a_lagging_log_is_matched_with_an_open_start(logged, tmp_path):
    """The study has the log in the time of the game's clock: every row a frame late."""
    study = read_study(HARBOUR)
    rows = [line.split(",") for line in logged.read_text().splitlines()[1:]]
    late = [rows[0], *rows[:-1]]
    columns = {name: tuple(float(row[at]) for row in late) for at, name in enumerate(("x", "y", "vx", "vy"), start=1)}
    log = Logged(name="Late", drill="Rooftop hop", time=tuple(place / 60 for place in range(len(late))), **columns)
    path = tmp_path / "late.json"
    write_study(with_log(study, log), path)
    asked = ("match", path, "--drill", "Rooftop hop", "--log", "Late", "--free", FREE)
    assert cinetica(*asked, "--seconds", "3").exit_code == 1
    done = cinetica(*asked, "--open-start")
    assert done.exit_code == 0, done.stdout + done.stderr
    assert "the curve fits best 0.0167 s earlier" in done.stdout


def test_bounds_weights_and_a_range_are_used_and_a_bad_match_is_status_1(logged):
    done = cinetica("match", HARBOUR, "--drill", "Rooftop hop", "--log", logged, "--free", "drive.top_speed=7:9",
                    "--weights", "x=1", "--between", "0:0.8", "--seconds", "2")  # fmt: skip
    assert done.exit_code == 1
    assert "at its lower bound" in done.stdout
    assert "y: off by" in done.stdout


def test_unknown_presses_are_found(logged, tmp_path):
    """On a drill without its input."""
    study = json.loads(HARBOUR.read_text())
    drill = next(each for each in study["drills"] if each["name"] == "Rooftop hop")
    drill["take"]["keys"] = {}
    bare, out = tmp_path / "bare.json", tmp_path / "out.json"
    bare.write_text(json.dumps(study))
    without = cinetica("match", bare, "--drill", "Rooftop hop", "--log", logged, "--free", FREE, "--seconds", "2")
    assert without.exit_code == 1
    found = cinetica("match", bare, "--drill", "Rooftop hop", "--log", logged, "--free", FREE, "--find-hands",
                     "--tolerance", "0.05", "-o", out)  # fmt: skip
    assert found.exit_code == 0, found.stdout + found.stderr
    assert read_study(out).drill("Rooftop hop (derived)").take.keys.jump


def test_without_numbers_those_that_matter_are_chosen(logged):
    done = cinetica("match", HARBOUR, "--drill", "Rooftop hop", "--log", logged)
    assert done.exit_code == 0, done.stdout
    assert "free: " in done.stderr
    assert "jump.jump_speed" in done.stderr


@pytest.mark.parametrize(
    ("options", "why"),
    [
        (("--log", "nowhere.csv"), "is neither a file nor a log of the study"),
        (("--free", "drive.speed"), "drive.speed"),
        (("--free", "drive.law"), "is not a number"),
        (("--free", "drive.top_speed=9"), "ID=LOW:HIGH"),
        (("--free", "drive.top_speed=9:3"), "no room"),
        (("--weights", "z=1"), "--weights is for x, y, vx, vy"),
        (("--weights", "x"), "--weights is such as"),
        (("--between", "1"), "START:END"),
        (("--between", "1:1"), "fewer than 4 rows"),
        (("--open", "drive.top_speed"), "is not a choice"),
        (("--tune", "Gull"), "Gull"),
    ],
)
def test_an_impossible_match_is_one_plain_line(logged, options, why):
    usual = {"--drill": "Rooftop hop", "--log": str(logged), "--free": "drive.top_speed"}
    words = [word for pair in (usual | dict([options])).items() for word in pair]
    done = cinetica("match", HARBOUR, *words)
    assert done.exit_code == 1
    assert why in done.stderr
    assert "Traceback" not in done.stderr
    assert done.stderr.count("\n") <= 2


def test_from_a_script():
    import cinetica as face

    tune, study = make_tune(), face.shipped_study("harbour")
    drill = study.drill("Quay sprint")
    wanted = face.from_trace(face.simulate(tune.put("drive.top_speed", 6.0), drill, study.clock))
    found = face.match(tune, drill, study.clock, wanted, ["drive.top_speed"])
    assert found.tune.drive.top_speed == pytest.approx(6.0)
    assert isinstance(study, Study)
