"""The tables of docs/model.md are those of the declarations (`make figures`)."""

import importlib.util
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
_spec = importlib.util.spec_from_file_location("figures_of_the_docs", ROOT / "tools/figures.py")
figures = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(figures)


@pytest.mark.parametrize("table", ["table", "rules", "measures"])
def test_the_page_holds_the_table_as_it_is_declared(table):
    made = getattr(figures, table)()
    assert made in (ROOT / "docs/model.md").read_text(), "run `make figures`"
    assert made.count("\n") > 10
