"""The proof for a programmer, and comparing a game's log with a tune."""

import csv
import json
import re

import pytest
from click.testing import CliRunner

from cinetica.cli import main as command
from cinetica.files.proof import expected_columns, expected_text, hands_text, write_proof
from cinetica.files.recipe import recipe
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import write_study
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions, Per
from cinetica.model.game_units import factor
from cinetica.model.take import Moved, Shove
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from tests.builders import make_drill

GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME)
STUDY = shipped_study("harbour").model_copy(update={"conventions": GAME})
# Everything a course can have, so that no rule is left out.
DRILLS = [make_drill(oneway=[(2, 1, 4, 1.2)], climb=[(5, 0, 6, 3)], slopes=[(8, 0, 12, 1)])]


@pytest.fixture
def path(tmp_path):
    write_study(STUDY, tmp_path / "study.json")
    return tmp_path / "study.json"


def run(*arguments):
    return CliRunner().invoke(command, [str(argument) for argument in arguments])


def log_of(tune, drill="Rooftop hop", **changes):
    tune = STUDY.tune(tune)
    for id, value in changes.items():
        tune = tune.put(id.replace("__", "."), value)
    return expected_text(simulate(tune, STUDY.drill(drill), STUDY.clock), GAME)


def test_the_proof_is_complete(path, tmp_path):
    out = tmp_path / "proof"
    result = run("proof", path, "--tune", "Wren", "-o", out)
    assert result.exit_code == 0
    page = (out / "index.html").read_text()
    assert "If pressed: since_press = 0, and a jump is armed." in page
    assert "32 pixels per unit, y down, per frame" in page
    assert "v.x moves toward 0 by at most" in page
    drills = [drill for drill in STUDY.drills if drill.view == "side"]
    for folder in ("hands", "expected", "trace"):
        assert len(list((out / folder).iterdir())) == len(drills)
    assert json.loads((out / "numbers.json").read_text())["values"]["top_speed"] == pytest.approx(4.0)
    hands = list(csv.DictReader((out / "hands/rooftop-hop.csv").open()))
    presses = [int(row["tick"]) for row in hands if row["jump"] == "1"]
    # Row k is tick k, which reads frame k - 1 of the take.
    assert presses[0] == STUDY.drill("Rooftop hop").take.keys.jump[0].start + 1


def test_the_input_contains_shoves_in_game_velocities():
    drill = make_drill(length=20)
    drill = drill.model_copy(update={"take": drill.take.model_copy(update={"shoves": (Shove(4, 3.0, 2.0),)})})
    rows = list(csv.DictReader(hands_text(drill, STUDY).splitlines()))
    assert [float(rows[5][name]) for name in ("shove_vx", "shove_vy")] == pytest.approx([3 * 32 / 60, -2 * 32 / 60])
    assert float(rows[4]["shove_vx"]) == 0.0
    assert "shove_vx" not in hands_text(make_drill(length=20), STUDY)


def test_the_input_contains_mouse_moves_in_counts():
    drill = make_drill(length=20)
    drill = drill.model_copy(update={"take": drill.take.model_copy(update={"mouse": (Moved(4, 10.0, -3.0),)})})
    rows = list(csv.DictReader(hands_text(drill, STUDY).splitlines()))
    moved = [(float(row["mouse_x"]), float(row["mouse_y"])) for row in rows]
    assert moved == [(10.0, -3.0) if row == 5 else (0.0, 0.0) for row in range(21)]
    assert "mouse_x" not in hands_text(make_drill(length=20), STUDY)


def test_the_expected_trace_is_in_game_units():
    trace = simulate(STUDY.tune("Wren"), STUDY.drill("Rooftop hop"), STUDY.clock)
    columns = expected_columns(trace, GAME)
    assert columns["y"] == pytest.approx(-32 * trace["y"])
    assert columns["vx"] == pytest.approx(trace["vx"] * 32 / 60)


def test_in_top_view_the_facing_is_expected_in_game_angles():
    from_above = make_drill(view="top", length=40, up=[(0, 20)])
    trace = simulate(STUDY.tune("Otter"), from_above, STUDY.clock)
    rows = list(csv.DictReader(expected_text(trace, GAME).splitlines()))
    # With y down the game counts angles the other way round.
    assert [float(row["facing"]) for row in rows] == pytest.approx((-trace["facing"]).tolist())
    assert "facing" not in log_of("Wren").splitlines()[0]


def test_a_matching_log_passes(path, tmp_path):
    log = tmp_path / "game.csv"
    log.write_text(log_of("Wren"))
    result = run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop", "--tolerance", "1e-6")
    assert result.exit_code == 0, result.output
    assert "follows Wren" in result.output


def test_the_first_row_of_a_log_is_checked(path, tmp_path):
    """Also if its time is slightly before the start, as in a game that waits for its first frame."""
    rows = log_of("Wren").splitlines()
    for number, words in ((1, "at frame 0 "), (None, "follows Wren")):
        cells = [row.split(",") for row in rows]
        cells[1][1] = "-0.004"
        if number:
            cells[number][4] = str(float(cells[number][4]) + 9.0)
        log = tmp_path / "game.csv"
        log.write_text("\n".join(",".join(row) for row in cells))
        assert words in run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop").output


def test_a_deviating_log_is_reported_with_row_channel_and_amount(path, tmp_path):
    log = tmp_path / "game.csv"
    log.write_text(log_of("Wren", gravity__gravity=41.0))
    result = run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop")
    assert result.exit_code == 1
    # Worked out: gravity is off by a twentieth of a unit in sum, so heights diverge during the hop, and y
    # is the first.
    jumped = STUDY.drill("Rooftop hop").take.keys.jump[0].start
    frame = int(result.output.split("at frame ")[1].split()[0])
    assert jumped < frame < jumped + 40
    assert "y is" in result.output
    assert "expected" in result.output


def test_the_first_deviating_row_is_named(path, tmp_path):
    rows = log_of("Wren").splitlines()
    cells = rows[21].split(",")
    cells[2] = str(float(cells[2]) + 0.7)
    rows[21] = ",".join(cells)
    log = tmp_path / "game.csv"
    log.write_text("\n".join(rows))
    result = run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop")
    assert result.exit_code == 1
    assert "at frame 20 " in result.output
    assert "x is" in result.output
    assert "off by +0.7" in result.output
    assert run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop", "--tolerance", "0.8").exit_code == 0


def test_a_log_with_times_instead_of_frames_is_understood(path, tmp_path):
    trace = simulate(STUDY.tune("Wren"), STUDY.drill("Quay sprint"), STUDY.clock)
    log = tmp_path / "game.csv"
    log.write_text(
        "t;x\n"
        + "".join(f"{time:.4f};{32 * x:.6f}\n" for time, x in zip(trace["time"][1:], trace["x"][1:], strict=True))
    )
    assert run("check", path, log, "--tune", "Wren", "--drill", "Quay sprint", "--tolerance", "0.001").exit_code == 0
    # The last row of the take counts, too; what comes after the take does not.
    log.write_text(f"{log.read_text()}{trace['time'][-1] + 1.0:.4f};0\n")
    assert run("check", path, log, "--tune", "Wren", "--drill", "Quay sprint", "--tolerance", "0.001").exit_code == 0
    *rows, last, after = log.read_text().splitlines()
    log.write_text("\n".join([*rows, f"{last.partition(';')[0]};{32 * trace['x'][-1] + 5}", after]))
    result = run("check", path, log, "--tune", "Wren", "--drill", "Quay sprint", "--tolerance", "0.001")
    assert result.exit_code == 1
    assert f"at frame {len(trace) - 1} " in result.output


def shifted(text, frames, lag=0.0, scale=1.0):
    """A log whose frame numbers start later, as written by a game that had run for a while."""
    head, *rows = text.splitlines()
    made = []
    for row in rows:
        frame, _, x, y, vx, vy, *_ = row.split(",")
        made.append(f"{int(frame) + frames + lag:g},{100 + scale * float(x)},{scale * float(y)},{vx},{vy}")
    return "frame,x,y,vx,vy\n" + "\n".join(made) + "\n"


def test_a_log_may_begin_at_any_frame_number(path, tmp_path):
    log = tmp_path / "game.csv"
    log.write_text(shifted(log_of("Wren"), 1200))
    result = run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop", "--tolerance", "1e-6")
    assert result.exit_code == 0, result.output


def test_a_constant_lag_and_a_scale_are_found_on_request(path, tmp_path):
    log = tmp_path / "game.csv"
    log.write_text(shifted(log_of("Wren"), -3, lag=0.5, scale=2))
    asked = ("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop", "--tolerance", "0.1")
    assert run(*asked).exit_code == 1
    log.write_text(shifted(log_of("Wren"), 7, lag=0.5).replace(",vx,vy", ",a,b"))
    assert run(*asked, "--fit").exit_code == 0
    log.write_text("frame,x,y\n" + "".join(f"{n},{n % 3},{n % 5}\n" for n in range(90)))
    refused = run(*asked, "--fit")
    assert refused.exit_code == 1
    assert "moves like nothing" in refused.output


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("", "empty"),
        ("frame,x\n0,a\n", "fewer than two"),
        ("frame,x\n0,1\n1,b\n", "row 3: x"),
        ("frame,x\n-1.4,1\n-1,2\n", "ends before"),
    ],
)
def test_a_log_that_cannot_be_read_is_refused_by_name(path, tmp_path, text, reason):
    log = tmp_path / "game.csv"
    log.write_text(text)
    result = run("check", path, log, "--tune", "Wren", "--drill", "Rooftop hop")
    assert result.exit_code == 1
    assert reason in result.output
    assert "Traceback" not in result.output


def test_missing_files_are_reported(path, tmp_path):
    assert "no tune called" in run("proof", path, "--tune", "Heron", "-o", tmp_path / "x").output
    assert run("check", path, tmp_path / "none.csv", "--tune", "Wren", "--drill", "Quay sprint").exit_code == 1
    (tmp_path / "file").write_text("")
    result = run("proof", path, "--tune", "Wren", "-o", tmp_path / "file")
    assert result.exit_code == 1
    assert "Traceback" not in result.output


def test_numbers_on_the_command_line(path, tmp_path):
    assert "top_speed = 4.0" in run("numbers", path, "--tune", "Wren").output
    assert run("numbers", path, "--tune", "Wren", "--format", "c", "-o", tmp_path / "wren.h").exit_code == 0
    assert "static const double top_speed = 4.0;" in (tmp_path / "wren.h").read_text()
    assert run("numbers", path, "--tune", "Wren", "-o", tmp_path / "no" / "x").exit_code == 1


def number_in(page, before):
    """The number after these words in the recipe."""
    return float(re.search(re.escape(before) + r"\s*([0-9.]+)", page)[1])


def test_the_tick_can_be_written_from_the_recipe_alone():
    """Running and jumping on level ground, written from the words and numbers of the page alone."""
    study = shipped_study("harbour")
    wren, drill = study.tune("Wren"), study.drill("Early knock")
    page = "\n".join(rule for step in recipe(wren, [drill], study.clock, study.conventions) for rule in step.rules)
    h = 1 / number_in(page, "is 1/")
    top, jump, cut = number_in(page, "S = "), number_in(page, "Then v.up = "), number_in(page, "once: v.up = ")
    acceleration, friction = (
        number_in(page, f"{words} by at most") for words in ("moves toward S · w.x", "moves toward 0")
    )
    air, gravity, falling = (
        number_in(page, "accelerations are times"),
        number_in(page, "g = "),
        number_in(page, "Times"),
    )
    terminal, buffer = number_in(page, "falls no faster than"), number_in(page, "since_press ≤")
    trace = simulate(wren, drill, study.clock)
    x = y = vx = vy = 0.0
    grounded, armed, open_hop, held_before, since_press = True, False, False, False, 1e9
    for row in range(1, len(trace)):
        held, w = bool(trace["jump_held"][row]), trace["intent_x"][row]
        if held and not held_before:
            since_press, armed = 0.0, True
        launched = armed and since_press <= buffer + 1e-9 and grounded
        if launched:
            vy, armed, open_hop = jump, False, True
        if open_hop and not held and vy > 0:
            vy, open_hop = cut * vy, False
        airborne = launched or not grounded
        most = (acceleration * (air if airborne else 1.0) if w else friction) * h
        vx += max(-most, min(most, top * w - vx))
        vy = max(vy - gravity * (falling if vy < 0 else 1.0) * h, -terminal)
        open_hop = open_hop and vy > 0
        x, y = x + vx * h, y + vy * h
        grounded = y <= 0
        if grounded:
            y, vy, open_hop = 0.0, 0.0, False
        since_press, held_before = since_press + h, held
        assert (x, y, vx, vy) == pytest.approx(
            tuple(float(trace[name][row]) for name in ("x", "y", "vx", "vy")), abs=1e-9
        ), row


@pytest.mark.parametrize("conventions", [Conventions(), GAME], ids=["per second", "per frame"])
@pytest.mark.parametrize("base", ["seconds", "frames", "mixed"])
def test_gravity_times_h_of_the_recipe_is_the_fall_of_a_tick(base, conventions):
    """In all units and time bases the trace loses what the page says to subtract."""
    tune = Tune(name="A").put("stepping.time_base", base).put("gravity.gravity", 30.0).put("gravity.fall_factor", 1.0)
    clock = Clock(tick_rate=30)
    drill = make_drill(solids=[], start=(0, 5), length=20)
    steps = {step.title: " ".join(step.rules) for step in recipe(tune, [drill], clock, conventions)}
    before = steps["Once, before the first tick"]
    figure = re.search(r"gravity h is ([\d./]+)", before) or re.search(r"length of a tick, is ([\d./]+)", before)
    above, _, below = figure[1].partition("/")
    h = float(above) / float(below or 1)
    gravity = float(re.search(r"g = (-?[\d.e+-]+)", steps["Gravity"])[1])
    trace = simulate(tune, drill, clock)
    lost = float(trace["vy"][4] - trace["vy"][5]) * factor("u/s", conventions)
    assert gravity * h == pytest.approx(lost, rel=1e-6)


# What else must differ from the default for a parameter to be shown.
NEEDS = {
    "input.axis_ratio_order": ("input.axis_ratio", 2.0), "input.view_flatten": ("input.view_pitch", 30.0),
    "gravity.apex_speed": ("gravity.apex_factor", 0.5), "drive.lean_ease": ("drive.bank_angle", 20.0),
    "drive.lean_settle": ("drive.bank_angle", 20.0), "drive.turn_form": ("drive.turn_ease", 5.0),
    "wall.probe": ("wall.slide_speed", 3.0),
}  # fmt: skip


def that_matters(parameter, view):
    """A tune in which a parameter has an effect, since everything that it depends on is switched on."""
    tune = Tune(name="A", view=view)
    if parameter.id in NEEDS:
        tune = tune.put(*NEEDS[parameter.id])
    for _ in range(3):
        for each in (parameter, *(needed for needed in PARAMETERS if needed.id in {w.id for w in parameter.when})):
            for when in each.when:
                if not when.holds(tune.get(when.id)):
                    tune = tune.put(when.id, when.values[0] if when.over is None else other_value(when.id, when.over))
    return tune


def other_value(id, than):
    """A value of a number that is greater than this one and not its default."""
    parameter = parameter_by_id(id)
    quarter = 1 if parameter.kind == "whole" else (parameter.comfort[1] - parameter.comfort[0]) / 4
    greater = max(than, parameter.default) + quarter
    return greater if greater <= parameter.high else parameter.default - quarter


def other_values(parameter, view):
    if parameter.kind == "choice":
        return [option.id for option in parameter.choices(view)]
    if parameter.kind == "switch":
        return [True, False]
    if parameter.kind == "curve":
        return [parameter.default, ((0.0, 0.5), (1.0, 0.25))]
    return [parameter.default, (int if parameter.kind == "whole" else float)(other_value(parameter.id, parameter.low))]


@pytest.mark.parametrize("parameter", PARAMETERS, ids=lambda parameter: parameter.id)
def test_the_recipe_names_every_number_switch_and_choice(parameter):
    """Wherever a parameter has an effect, another value changes the page."""
    take = DRILLS[0].take.model_copy(update={"mouse": (Moved(3, 10.0, 0.0),)})
    with_mouse = [*DRILLS, DRILLS[0].model_copy(update={"take": take})]
    for view in parameter.views:
        tune = that_matters(parameter, view)
        assert parameter.matters(view, tune.values())
        pages = [str(recipe(tune.put(parameter.id, value), with_mouse, STUDY.clock, Conventions()))
                for value in other_values(parameter, view)]  # fmt: skip
        assert len(set(pages)) == len(pages), (view, pages)


def test_drills_with_similar_names_get_separate_files(tmp_path):
    drill = STUDY.drill("Rooftop hop")
    names = ["Hop A", "hop-a!", "HOP A", "!!!", "???"]
    study = STUDY.model_copy(update={"drills": tuple(drill.model_copy(update={"name": name}) for name in names)})
    written = write_proof(study, study.tune("Wren"), tmp_path)
    assert len({path.name.lower() for path in written if path.parent.name == "hands"}) == len(names)


def test_a_proof_without_a_drill_is_refused(tmp_path):
    from cinetica.files.reading import Refused

    with pytest.raises(Refused, match="no drill"):
        write_proof(STUDY.model_copy(update={"drills": ()}), STUDY.tune("Wren"), tmp_path)
