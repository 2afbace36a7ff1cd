"""The code against the kernel, tick by tick, compiled or run by the tools of each language."""

import random
import re

import pytest

from cinetica.codegen.languages import LANGUAGES, stem_of
from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Conventions, Per
from cinetica.model.tune import PARAMETERS, Tune
from tests.codegen.tools import STRICT_C, all_alike, output_of_test, ran, written
from tests.motion.test_against_reference import clock_of, random_drill
from tests.motion.test_step import random_tune
from tests.repetitions import TIMES

HARBOUR, PITFALLS = shipped_study("harbour"), shipped_study("pitfalls")
# Pixels, y down, per frame, and a name of the game's own.
GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=50, names={"drive.top_speed": "RunSpeed"})


def drills_of(study, tune):
    return [drill for drill in study.drills if drill.view == tune.view]


@pytest.fixture(scope="module", params=[tune.name for tune in HARBOUR.tunes])
def demo(request, tmp_path_factory):
    """A tune of the demo, written once for all languages: the folder, and the tune."""
    tune, folder = HARBOUR.tune(request.param), tmp_path_factory.mktemp("code")
    written(tune, drills_of(HARBOUR, tune), HARBOUR.clock, folder)
    return folder, tune


@pytest.mark.thorough
@pytest.mark.parametrize("language", LANGUAGES)
def test_the_demo_moves_in_every_language_as_in_the_kernel(demo, language):
    folder, tune = demo
    assert all_alike(output_of_test(language, folder, stem_of(tune)), drills_of(HARBOUR, tune))


def random_study(seed):
    """A tune, a drill and a clock; from seed 10,000 on a part of the tune has its defaults."""
    chance = random.Random(seed)
    view = ("side", "top")[seed % 2]
    tune = random_tune(view, chance)
    if seed >= 10_000:
        drawn, tune, share = tune, Tune(name="Wren", view=view), chance.random()
        for parameter, value in zip(PARAMETERS, drawn.values().values(), strict=True):
            if chance.random() < share:
                tune = tune.put(parameter.id, value)
    return tune, random_drill(chance, view), clock_of(seed)


# In `make attack` 300; the shuffled seeds cover all laws, hops and clocks from the first on.
SEEDS = [seed for number in range(3 * TIMES) for seed in (number, 10_000 + 7 * number)]


@pytest.mark.parametrize("seed", [SEEDS[0], *(pytest.param(seed, marks=pytest.mark.thorough) for seed in SEEDS[1:])])
def test_random_tunes_move_in_every_language_as_in_the_kernel(seed, tmp_path):
    tune, drill, clock = random_study(seed)
    written(tune, [drill], clock, tmp_path)
    for language in LANGUAGES:
        assert all_alike(output_of_test(language, tmp_path, "wren"), [drill]), language


@pytest.mark.thorough
@pytest.mark.parametrize("seed", [5, 10_002])
def test_game_units_and_axes_do_not_change_the_motion(seed, tmp_path):
    tune, drill, clock = random_study(seed)
    written(tune, [drill], clock, tmp_path, GAME)
    for language in LANGUAGES:
        assert all_alike(output_of_test(language, tmp_path, "wren"), [drill]), language


# Half of them in each run.
@pytest.mark.thorough
@pytest.mark.parametrize("name", [tune.name for tune in PITFALLS.tunes[:: 2 if TIMES == 1 else 1]])
def test_every_pitfall_moves_in_python_as_in_the_kernel(name, tmp_path):
    tune = PITFALLS.tune(name)
    there = drills_of(PITFALLS, tune)
    drills = [drill for drill in there if drill.name == name] or there[:3]
    written(tune, drills, PITFALLS.clock, tmp_path)
    assert all_alike(output_of_test("python", tmp_path, stem_of(tune)), drills)


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("language", "before", "after"),
    [
        ("c", r"\.gravity = 38\.0", ".gravity = 38.000000001"),
        ("csharp", r"Gravity = 38\.0", "Gravity = 38.000000001"),
        ("lua", r"gravity = 38\.0", "gravity = 38.000000001"),
        ("python", r"gravity: float = 38\.0", "gravity: float = 38.000000001"),
        ("javascript", r"gravity: 38,", "gravity: 38.000000001,"),
    ],
)
def test_a_test_program_says_which_tick_differs(tmp_path, language, before, after):
    tune = HARBOUR.tune("Bramble")
    drill = HARBOUR.drill("Rooftop hop")
    written(tune, [drill], HARBOUR.clock, tmp_path)
    path = tmp_path / f"bramble{LANGUAGES[language].suffix}"
    text, count = re.subn(before, after, path.read_text())
    assert count == 1
    path.write_text(text)
    with pytest.raises(AssertionError, match=r"rooftop-hop\.csv: tick \d+: (y|vy) is "):
        output_of_test(language, tmp_path, "bramble")


@pytest.mark.thorough
@pytest.mark.parametrize("view", ["side", "top"])
def test_a_cut_step_in_c_compiles_without_a_warning(view, tmp_path):
    from cinetica.codegen.languages import code_text, program_of

    for tune in [each for each in (*HARBOUR.tunes, *PITFALLS.tunes) if each.view == view][::4]:
        program = program_of(HARBOUR, tune, whole=False)
        (tmp_path / "step.h").write_text(code_text(program, "c"))
        (tmp_path / "main.c").write_text('#include "step.h"\nint main(void) { return 0; }\n')
        ran("gcc", *STRICT_C, "-fsyntax-only", "main.c", cwd=tmp_path)
