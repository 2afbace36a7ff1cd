"""What a script gets: the examples of the docs, a face that needs no screen, errors in words."""

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


def test_there_are_five_examples():
    assert len(EXAMPLES) == 5


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_an_example_does_what_it_says(number, capsys):
    exec(compile(EXAMPLES[number], f"example {number + 1}", "exec"), {})
    said = capsys.readouterr().out.strip()
    assert said
    # What a comment behind a print says is what is printed.
    promised = re.findall(r"^print\(\w+\) +# (<.*>)$", EXAMPLES[number], re.MULTILINE)
    assert all(line in said.splitlines() for line in promised)


def test_the_face_is_whole_and_loads_nothing_before_it_is_asked():
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


def test_a_trace_can_be_asked_for_all_channels_from_the_public_face_alone():
    program = (
        "import cinetica; study = cinetica.shipped_study('harbour'); "
        "print(cinetica.simulate(study.tunes[0], study.drills[0], study.clock)['screen_x'][0])"
    )
    assert subprocess.run([sys.executable, "-c", program], check=True, capture_output=True).stdout.strip()


def test_what_is_misspelt_is_answered_with_what_was_meant():
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


def test_a_sweep_is_the_figures_of_each_run():
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
