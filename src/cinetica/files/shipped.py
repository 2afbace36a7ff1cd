"""The studies that ship with the program."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from cinetica.files.study_json import read_study
from cinetica.model.study import Study

DEMOS = ("harbour", "pitfalls")
# The drill at which the demo opens: a run, a jump and a landing.
OPENS_AT = {"harbour": "Rooftop hop"}


@cache
def shipped_study(name: str) -> Study:
    """One of `DEMOS`, or the yard."""
    return read_study(Path(__file__).parents[1] / "data" / f"{name}.json")
