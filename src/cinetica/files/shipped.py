"""The studies that ship with the program."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from cinetica.files.study_json import read_study
from cinetica.model.study import Study

DEMOS = ("harbour", "pitfalls")


@cache
def shipped_study(name: str) -> Study:
    """One of `DEMOS`, or the yard."""
    return read_study(Path(__file__).parents[1] / "data" / f"{name}.json")
