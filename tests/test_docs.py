"""The tables of docs/model.md agree with the declarations (`make figures`)."""

import re
from pathlib import Path

import figures
import numpy as np
import pytest
from rule_figures import RULE_FIGURES

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize("table", ["table", "rules", "measures"])
def test_the_page_contains_the_declared_table(table):
    made = getattr(figures, table)()
    assert made in (ROOT / "docs/model.md").read_text(), "run `make figures`"
    assert made.count("\n") > 10


def test_every_figure_is_on_the_page_and_exists():
    shown = set(re.findall(r"figures/([\w.]+)\.svg", (ROOT / "docs/model.md").read_text()))
    assert shown == {path.stem for path in (ROOT / "docs/figures").glob("*.svg")}
    assert set(RULE_FIGURES) < shown


@pytest.mark.parametrize("name", RULE_FIGURES)
def test_the_panels_of_a_rule_differ(name):
    figure = RULE_FIGURES[name]
    (_, first), *others = (figure.curve(panel) for panel in figure.panels)
    assert others
    for _, other in others:
        assert not np.array_equal(first, other)
