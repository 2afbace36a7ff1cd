"""Scripting: the examples of the docs, an API that needs no screen, clear errors."""

import json
import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

import cinetica
from cinetica.motion.records import TRACE
from cinetica.reading.measures import MEASURES

ROOT = Path(__file__).parents[1]
EXAMPLES = re.findall(r"```python\n(.*?)```", (ROOT / "docs/scripting.md").read_text(), re.DOTALL)


def test_there_are_nine_examples():
    assert len(EXAMPLES) == 9


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_every_example_runs(number, capsys, tmp_path, monkeypatch):
    # Some write a file.
    monkeypatch.chdir(tmp_path)
    exec(compile(EXAMPLES[number], f"example {number + 1}", "exec"), {})
    output = capsys.readouterr().out.strip()
    assert output
    # The comment after a print says what is printed.
    promised = re.findall(r"^print\(\w+\) +# (<.*>)$", EXAMPLES[number], re.MULTILINE)
    assert all(line in output.splitlines() for line in promised)


def test_the_notebook_runs_from_its_first_cell_to_its_last(capsys):
    cells = json.loads((ROOT / "examples/slipway.ipynb").read_text())["cells"]
    names: dict = {}
    for cell in cells:
        if cell["cell_type"] == "code":
            assert not cell["outputs"]
            exec(compile("".join(cell["source"]), cell["id"], "exec"), names)
    # The best run of the sweep, run alone, jumps as far as the sweep says, within its limit.
    run = cinetica.read_off(cinetica.simulate(names["best"], names["drill"], names["clock"]))
    assert run["jump_distance"].value == pytest.approx(names["distance"][names["at"]])
    assert run["jump_height"].value <= 2.5
    assert "u/s under" in capsys.readouterr().out


def test_a_trace_is_a_table_with_words_for_states_and_marks():
    study = cinetica.shipped_study("harbour")
    trace = cinetica.simulate(study.tune("Wren"), study.drill("Rooftop hop"), study.clock)
    table = trace.table()
    assert list(table) == list(TRACE.names)
    assert {len(column) for column in table.values()} == {len(trace)}
    assert set(table["state"]) == {"ground", "rise", "fall"}
    assert "launch" in "+".join(table["marks"])
    assert list(trace.table("time", "vy")) == ["time", "vy"]
    np.testing.assert_array_equal(trace.table("vy")["vy"], trace["vy"])
    with pytest.raises(KeyError, match="did you mean speed"):
        trace.table("spede")


def test_choices_are_names_and_wrong_ones_list_the_options():
    assert cinetica.Clock(mode="fixed").mode is cinetica.Mode.FIXED
    with pytest.raises(ValueError, match="'locked', 'variable' or 'fixed'"):
        cinetica.Clock(mode="fixd")


def test_the_public_api_is_complete_and_lazy():
    assert all(getattr(cinetica, name) is not None for name in cinetica.__all__)
    loads = (
        "import sys, cinetica; print(any(name in sys.modules for name in ('numpy', 'pydantic', 'PySide6', 'numba')))"
    )
    assert (
        subprocess.run([sys.executable, "-c", loads], capture_output=True, text=True, check=True).stdout.strip()
        == "False"
    )
    with pytest.raises(AttributeError, match="there are: Clock"):
        _ = cinetica.nothing


def test_scripts_never_load_the_window():
    program = (
        EXAMPLES[1]
        + "\nimport sys; assert not [name for name in sys.modules if name.startswith(('PySide6', 'pyqtgraph',"
        " 'cinetica.desk'))]"
    )
    subprocess.run([sys.executable, "-c", program], check=True, capture_output=True)


def test_every_column_of_a_trace_is_described_with_its_unit():
    described = re.findall(r"^ *- `(\w+(?:`, `\w+)*)`", cinetica.Trace.__doc__, re.MULTILINE)
    names = [name for line in described for name in line.split("`, `")]
    assert names == list(TRACE.names)


def test_the_public_api_gives_all_channels_of_a_trace():
    program = (
        "import cinetica; study = cinetica.shipped_study('harbour'); "
        "print(cinetica.simulate(study.tunes[0], study.drills[0], study.clock)['screen_x'][0])"
    )
    assert subprocess.run([sys.executable, "-c", program], check=True, capture_output=True).stdout.strip()


def test_misspelt_names_are_answered_with_similar_ones():
    study = cinetica.shipped_study("harbour")
    wren, drill = study.tune("Wren"), study.drill("Quay sprint")
    with pytest.raises(KeyError, match=r"did you mean drive\.top_speed"):
        wren.get("drive.topspeed")
    with pytest.raises(KeyError, match=r"did you mean drive\.top_speed"):
        wren.put("top_speed", 8)
    with pytest.raises(KeyError, match="did you mean speed"):
        _ = cinetica.simulate(wren, drill, study.clock)["spede"]
    with pytest.raises(KeyError, match="did you mean jump_height"):
        cinetica.sweep(wren, drill, study.clock, {}, ["jump_hight"])


def test_a_sweep_equals_the_figures_of_each_run():
    study = cinetica.shipped_study("harbour")
    wren, drill = study.tune("Wren"), study.drill("Rooftop hop")
    swept = cinetica.sweep(
        wren, drill, study.clock, {"gravity.gravity": [30, 40], "drive.law": ["ramp", "instant", "ease"]}
    )
    assert set(swept.figures) <= {measure.id for measure in MEASURES}
    for i, gravity in enumerate((30, 40)):
        for j, law in enumerate(("ramp", "instant", "ease")):
            tune = wren.put("gravity.gravity", gravity).put("drive.law", law)
            read = cinetica.read_off(cinetica.simulate(tune, drill, study.clock))
            for id, figures in swept.figures.items():
                assert figures[i, j] == read[id].value if id in read else np.isnan(figures[i, j]), id
