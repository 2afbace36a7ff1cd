"""The style of the code: linters, length, content, and reproducibility."""

import json
import os
import re
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest

from cinetica.codegen.languages import LANGUAGES, code_text, proof_files, stem_of
from cinetica.codegen.make import cut_program
from cinetica.codegen.remarks import EQUATIONS, FIELD_WORDS, FUNCTION_WORDS
from cinetica.codegen.vocabulary import FROM_GAME, FROM_GAME_AFTER, HIT, input_columns, state_columns
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Conventions
from cinetica.model.tune import PARAMETERS, Tune
from tests.builders import make_drill, make_tune
from tests.codegen.tools import all_alike, kernel_functions, loaded, output_of_test, program_for, ran, write, written

HARBOUR = shipped_study("harbour")
SIDE = [drill for drill in HARBOUR.drills if drill.view == "side"]
WREN = HARBOUR.tune("Wren")
# Needed only for the trace, or to save the kernel time.
NEVER_WRITTEN = {
    "write", "go_on", "run", "run_one", "is_as_before", "is_new_length", "mouse_moves", "mouse_counts",
}  # fmt: skip
# Always inlined, and described by the remark of its caller.
IN_PLACE = {
    "before_move", "after_move", "place", "set_out", "tick_length", "coyote_left", "buffer_left", "half_probe",
    "has_lines", "waits_for_move", "knows_walls", "pushes_at_wall", "sample",
}  # fmt: skip


@pytest.fixture(scope="module")
def wren():
    """The step of Wren without the move, in Python."""
    return code_text(program_for(WREN, SIDE, whole=False), "python")


def function(code, name):
    found = re.search(rf"^def {name}\(.*?(?=^def |^class |\Z)", code, re.M | re.S)
    return found.group().strip().splitlines()


def test_the_step_of_a_simple_tune_is_short(wren):
    assert len(function(wren, "before_move")) <= 60


def test_the_code_contains_only_what_the_tune_uses(wren):
    record = wren[wren.index("class Numbers") : wren.index("class State")]
    numbers = set(re.findall(r"^    (\w+): (?:float|int) = \S+  #", record, re.M))
    values = WREN.values()
    assert numbers <= {each.name for each in PARAMETERS if each.matters("side", values)}
    for other in ("dash", "wall_jump", "air_jump", "throttle", "zone_", "stunned", "turn_rate", "sustain", "heavy"):
        assert other not in wren, other
    used = set(re.findall(r"numbers\.(\w+)", wren))
    assert used == numbers


def test_jump_buffer_and_coyote_time_are_found_at_a_glance(wren):
    lines = function(wren, "before_move")
    buffer = next(place for place, line in enumerate(lines) if line.strip().startswith("# Jump buffer:"))
    coyote = next(place for place, line in enumerate(lines) if line.strip().startswith("# Coyote time:"))
    assert any("numbers.buffer" in line for line in lines[buffer : buffer + 6])
    assert any("numbers.coyote" in line for line in lines[coyote : coyote + 5])


def test_an_option_that_is_off_leaves_no_code():
    plain = code_text(cut_program(make_tune(), [make_drill()], Conventions()), "python")
    assert "cut_factor" in plain
    without = code_text(cut_program(make_tune(jump__short_hop="none"), [make_drill()], Conventions()), "python")
    assert "cut_factor" not in without
    assert "Short hop" not in without


def test_game_names_are_used_and_ours_follow_the_language_style():
    named = Conventions(names={"drive.top_speed": "Run_SPEED"})
    program = cut_program(WREN, SIDE, named)
    assert "state.intentX" in code_text(program, "javascript")
    for language in LANGUAGES:
        code = code_text(program, language)
        assert "Run_SPEED" in code
        assert not re.search(r"\btop_?[sS]peed\b", code), language
    assert "numbers.JumpSpeed" in code_text(program, "csharp")


@pytest.mark.thorough
@pytest.mark.parametrize("tune", [tune.name for tune in HARBOUR.tunes])
def test_linters_find_nothing(tune, tmp_path):
    chosen = HARBOUR.tune(tune)
    drills = [drill for drill in HARBOUR.drills if drill.view == chosen.view]
    for kind in ("whole", "cut"):
        program = program_for(chosen, drills, whole=kind == "whole")
        for language in ("python", "lua", "javascript"):
            (tmp_path / f"{kind}{LANGUAGES[language].suffix}").write_text(code_text(program, language))
    ran(sys.executable, "-m", "ruff", "check", "--isolated", "whole.py", "cut.py", cwd=tmp_path)
    ran("luacheck", "--no-color", "whole.lua", "cut.lua", cwd=tmp_path)
    strict = [option for kind in ("correctness", "suspicious", "perf") for option in ("-D", kind)]
    ran(Path(sys.executable).parent / "oxlint", *strict, "--deny-warnings", "whole.mjs", "cut.mjs", cwd=tmp_path)


BREAKING = ["x */ int main(void) {} /*", "</summary>", "class"]
HOSTILE = [
    *BREAKING, 'a"""\nimport os\n"""', "]] os.exit(1) --[[", "'; process.exit(1); '", "import", "math", "État ☃",
    "9 lives", "..",
]  # fmt: skip


@pytest.mark.thorough
@pytest.mark.parametrize("name", HOSTILE)
def test_names_cannot_inject_code(name, tmp_path):
    tune, drill = Tune(name=name.replace("\n", " ")), make_drill(length=20, right=[(0, 9)], jump=[(3, 12)])
    # Except for its name it is the program of any other tune.
    program = replace(program_for(Tune(name="Wren"), [drill], whole=True), tune=tune)
    write(program, [drill], HARBOUR.clock, tmp_path)
    # Comments end alike in C, C# and JavaScript: two of the five languages suffice.
    for language in LANGUAGES if name in BREAKING else ("lua", "python"):
        assert all_alike(output_of_test(language, tmp_path, stem_of(tune)), [drill]), language


def test_the_games_names_may_be_words_of_a_language(tmp_path):
    names = {
        "drive.top_speed": "while", "drive.acceleration": "local", "drive.friction": "ref", "gravity.gravity": "lambda",
        "jump.jump_speed": "function", "jump.coyote": "State", "jump.buffer": "math", "jump.cut_factor": "INFINITY",
    }  # fmt: skip
    drill = make_drill(length=30, right=[(0, 9)], jump=[(3, 6)])
    written(make_tune(), [drill], HARBOUR.clock, tmp_path, Conventions(names=names))
    for language in LANGUAGES:
        assert all_alike(output_of_test(language, tmp_path, "wren"), [drill]), language


@pytest.mark.thorough
def test_the_same_tune_gives_the_same_bytes():
    script = (
        "import hashlib, json; from cinetica.codegen.languages import *;"
        "from cinetica.files.shipped import shipped_study; study = shipped_study('harbour');"
        "programs = [program_of(study, study.tune(name), whole=whole)"
        " for name, whole in (('Bramble', False), ('Punt', True))];"
        "print(json.dumps([hashlib.sha256(code_text(program, language).encode()).hexdigest()"
        " for program in programs for language in LANGUAGES]))"
    )

    def hashes(seed):
        environment = os.environ | {"PYTHONHASHSEED": seed}
        command = [sys.executable, "-c", script]
        return json.loads(subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout)

    outputs = hashes("1"), hashes("2")
    assert outputs[0] == outputs[1]
    assert len(set(outputs[0])) == len(outputs[0]) == 10


def test_every_kernel_function_has_a_remark():
    described = {*EQUATIONS, *FUNCTION_WORDS}
    assert kernel_functions() - described - NEVER_WRITTEN - IN_PLACE == set()
    assert described - kernel_functions() == set()


def test_every_value_from_the_game_has_a_remark():
    asked = {("hit", name) for name in (*HIT, *FROM_GAME_AFTER)} | {("input", name) for name in FROM_GAME}
    assert asked <= FIELD_WORDS.keys()
    known = {"state": state_columns(), "input": input_columns() | FROM_GAME, "hit": HIT | FROM_GAME_AFTER}
    assert all(name in known[record] for record, name in FIELD_WORDS)


def test_a_proof_has_one_test_and_one_file_for_each_language():
    program = program_for(make_tune(), [make_drill()], whole=True)
    files = proof_files(program, [(make_drill(), "run")], HARBOUR.clock)
    assert set(files) == {
        "drills/run.csv", "wren.h", "test_wren.c", "wren.cs", "test_wren.cs", "wren.lua", "test_wren.lua", "wren.py",
        "test_wren.py", "wren.mjs", "test_wren.mjs",
    }  # fmt: skip
    assert loaded(program).Numbers().gravity == make_tune().gravity.gravity


@pytest.mark.thorough
@pytest.mark.parametrize("tune", [tune.name for tune in HARBOUR.tunes])
def test_no_variable_only_renames_another_and_constants_keep_their_names(tune):
    chosen = HARBOUR.tune(tune)
    drills = [drill for drill in HARBOUR.drills if drill.view == chosen.view]
    for whole in (False, True):
        code = code_text(program_for(chosen, drills, whole=whole), "python")
        for body in code.split("\ndef ")[1:]:
            for name in re.findall(r"^ +(\w+) = numbers\.\w+$", body, re.M):
                # It is a variable that changes.
                assert len(re.findall(rf"^ +{name} [-+*/]?= ", body, re.M)) > 1, name
        assert not re.search(r"^ +dt = |\bnew_\d", code, re.M)
        # The slack appears by name, and not inside a number.
        assert not re.search(r"\d\.\d*0000000[019]", code.replace("SLACK = 1e-09", ""))


def test_the_slack_is_added_by_name(wren):
    assert "state.intent_y < -0.5 - SLACK" in wren
