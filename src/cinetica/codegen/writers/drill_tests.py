"""A test program in each language, which runs the input of drills through the code and compares the results.

Each is a small program made from `data/code_test_….j2`; it reads the files of `codegen/drills.py` named on its
command line.
"""

from __future__ import annotations

from functools import cache, partial
from pathlib import Path
from typing import Any

import jinja2

from cinetica.codegen.drills import Compared, compared
from cinetica.codegen.program import Program, Scales
from cinetica.codegen.vocabulary import ROWS, SPEED
from cinetica.codegen.writers.base import Writer
from cinetica.model.conventions import Conventions, Per

# The languages whose arithmetic and functions agree with the kernel to the bit.
EXACT = ("c", "python")


def tolerance(conventions: Conventions, language: str) -> float:
    """The relative tolerance of the code: 0 if it is exact and uses our units."""
    if conventions.pixels_per_unit == 1 and conventions.per is Per.SECOND:
        return 0.0 if language in EXACT else 1e-12
    # Other units round differently.
    return 1e-9


def drill_test(writer: Writer, language: str, stem: str) -> str:
    """The test of a whole program; `stem` is the name of its file."""
    program = writer.program
    fields = {each.column.name for each in program.state}
    return _template(language).render(
        stem=stem, prefix=getattr(writer, "prefix", ""), tolerance=tolerance(program.conventions, language),
        **{"class": getattr(writer, "class_name", "")},
        compared=[
            {
                "name": each.trace, "angle": each.is_angle, "field": writer.member("state", each.column.name),
                "shown": writer.member("state", each.shown) if each.shown else "",
                "least": _least(program, each),
            }
            for each in compared(program)
        ],
        started=[
            {"place": place, "field": writer.member("state", name)}
            for place, name in enumerate(("x", "y", "vx", "vy", "facing"))
            if place > 1 and name in fields
        ],
        lists=_lists(writer),
        inputs=[
            {"place": place, "kind": each.column.kind, "field": writer.member("input", each.column.name)}
            for place, each in enumerate(program.input, 1)
        ],
        expected=len(program.input) + 1,
        begin=partial(_call, writer, "begin"), step=partial(_call, writer, "step"),
    )  # fmt: skip


def _least(program: Program, one: Compared) -> str:
    """The least reference of the tolerance: a unit, the top speed, or a radian in degrees."""
    if one.is_angle:
        return "57.3"
    if one.column.unit == SPEED:
        return f"{max(1.0, program.tune.drive.top_speed * Scales(program.conventions).factor(SPEED)):.6g}"
    return "1.0"


def _lists(writer: Writer) -> list[dict[str, Any]]:
    return [
        {
            "word": name,
            "field": writer.member("course", name),
            "type": writer.type_of_row(writer.row_of(name)),
            "columns": [
                {"name": writer.allowed(writer.cased(each.name)), "kind": each.kind}
                for each in ROWS[writer.row_of(name)]
            ],
        }
        for name in writer.program.course
    ]


def _call(writer: Writer, entry: str, *arguments: str) -> str:
    """The call of a function of the code."""
    passed = [writer.passed(each) for each in writer.program.function(entry).records]
    return f"{writer.function_name(entry)}({', '.join([*passed, *arguments])})"


@cache
def _template(language: str) -> jinja2.Template:
    """The template of a language; text, so nothing is escaped."""
    folder = Path(__file__).parents[2] / "data"
    environment = jinja2.Environment(
        loader=jinja2.FileSystemLoader(folder), trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True,
        autoescape=False, undefined=jinja2.StrictUndefined,
    )  # fmt: skip
    return environment.get_template(f"code_test_{language}.j2")
