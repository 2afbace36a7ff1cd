"""A tune's numbers in the game's conventions, as text in several formats; `game_numbers.py` reads them back."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from cinetica.codegen.reserved import C_WORDS, CSHARP_WORDS, LUA_WORDS, PYTHON_WORDS, allowed, identifier, plain_text
from cinetica.model.conventions import Conventions, Per
from cinetica.model.game_units import game_name, game_unit, to_game, unit_words, words
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.study import Study
from cinetica.model.tune import PARAMETERS, TimeBase, Tune


class Which(StrEnum):
    """Which of the numbers that matter are handed over."""

    ALL = "all"
    DIFFERENT = "different"
    CHANGED = "changed"
    NAMED = "named"


WHICH_WORDS = {
    Which.ALL: "all that matter", Which.DIFFERENT: "what differs from the default",
    Which.CHANGED: "what changed since the milestone", Which.NAMED: "what has a name of the game’s",
}  # fmt: skip


@dataclass(frozen=True)
class Figure:
    """One number as the game has it: its name there, the value, and the unit (may be empty)."""

    parameter: Parameter
    name: str
    value: Value
    unit: str
    # The change of velocity in each frame, for code without delta time.
    per_frame: str = ""

    @property
    def comment(self) -> str:
        """The unit, the meaning and which sign points up."""
        unit = f"{self.unit}: " if self.unit else ""
        up = " Negative is up." if self.parameter.upward and isinstance(self.value, float) and self.value < 0 else ""
        return f"{unit}{self.parameter.meaning}{up}{self.per_frame}"


def figures(tune: Tune, conventions: Conventions, which: Which = Which.ALL, before: Tune | None = None) -> list[Figure]:
    """The numbers that matter with the tune's choices, in the order of the declarations.

    Curves that are not drawn, and poses as they are by default, are left out.
    `before` is the tune at the milestone; without one everything has changed since.
    """
    values = tune.values()

    def is_wanted(parameter: Parameter) -> bool:
        match which:
            case Which.DIFFERENT:
                return values[parameter.id] != parameter.default
            case Which.CHANGED:
                return before is None or before.get(parameter.id) != values[parameter.id]
            case Which.NAMED:
                return parameter.id in conventions.names
        return True

    return [
        Figure(p, game_name(p, conventions), to_game(p, values[p.id], conventions, values),
               game_unit(p, conventions), _per_frame(p, tune, conventions))
        for p in PARAMETERS
        if p.matters(tune.view, values) and is_wanted(p) and _is_in_use(p, values)
    ]  # fmt: skip


def _is_in_use(parameter: Parameter, values: Mapping[str, Value]) -> bool:
    """Whether a curve is drawn, or any pose number differs from its default; everything else counts as used."""
    if parameter.kind == "curve":
        return values[parameter.id] != parameter.default
    return parameter.group != "pose" or any(
        values[each.id] != each.default for each in PARAMETERS if each.group == "pose"
    )


def at_milestone(study: Study, tune: Tune, name: str = "") -> Tune | None:
    """The tune at the milestone of this name, or at the last one; None if it is not in it. KeyError if none has it."""
    named = [each for each in study.milestones if not name or each.name == name]
    if not named:
        raise KeyError(f"no milestone called {name!r}" if name else "the study has no milestone yet")
    return next((each for each in named[-1].tunes if each.name == tune.name), None)


def _per_frame(parameter: Parameter, tune: Tune, conventions: Conventions) -> str:
    """Under `mixed`, what such code adds to the velocity each frame, in words."""
    if parameter.unit != "u/s²" or tune.stepping.time_base is not TimeBase.MIXED:
        return ""
    frames = conventions.rate if conventions.per is Per.FRAME else 1.0
    added = as_number(to_game(parameter, tune.get(parameter.id), conventions)) * frames / tune.stepping.reference_rate
    unit = unit_words("u/s", conventions)
    return f" Such code adds {added:.6g} {unit} in a frame, whatever its length."


def _number(value: Value) -> str:
    """Format with 15 digits, which hides the rounding error of a conversion."""
    if isinstance(value, float):
        # A conversion may leave -0.
        text = f"{value + 0.0:.15g}"
        return text if any(mark in text for mark in ".en") else f"{text}.0"
    return json.dumps(value, ensure_ascii=False)


def _head(tune: Tune, conventions: Conventions) -> str:
    return f"{plain_text(tune.name)}: {words(conventions)}"


def _toml(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    lines = [f"{figure.name} = {_number(figure.value)}  # {figure.comment}" for figure in listed]
    return "\n".join([f"# {_head(tune, conventions)}", *lines, ""])


def _json(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    content = {
        "tune": tune.name, "conventions": words(conventions),
        "values": {figure.name: json.loads(_number(figure.value)) for figure in listed},
        "units": {figure.name: figure.unit for figure in listed if figure.unit},
    }  # fmt: skip
    return json.dumps(content, ensure_ascii=False, indent=1) + "\n"


def _csv(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("name", "value", "unit", "id", "meaning"))
    for figure in listed:
        value = figure.value if isinstance(figure.value, str) else _number(figure.value)
        writer.writerow((figure.name, value, figure.unit, figure.parameter.id, figure.parameter.meaning))
    return out.getvalue()


def _c(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    kinds = {float: "double", int: "int", bool: "bool"}
    lines = [
        (
            f"static const {kinds[type(f.value)]} {allowed(f.name, C_WORDS)} = {_number(f.value)}; /* {f.comment} */"
            if not isinstance(f.value, str)
            else f"static const char *const {allowed(f.name, C_WORDS)} = {_number(f.value)}; /* {f.comment} */"
        )
        for f in listed
    ]
    return "\n".join([f"/* {_head(tune, conventions)} */", "#include <stdbool.h>", "", *lines, ""])


def _csharp(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    kinds = {float: "double", int: "int", bool: "bool", str: "string"}
    # A member cannot have the name of its class.
    members = [allowed(f.name, CSHARP_WORDS) for f in listed]
    lines = [
        f"    public const {kinds[type(f.value)]} {name} = {_number(f.value)}; // {f.comment}"
        for name, f in zip(members, listed, strict=True)
    ]
    around = identifier(tune.name, CSHARP_WORDS | set(members))
    return "\n".join([f"// {_head(tune, conventions)}", f"public static class {around}", "{", *lines, "}", ""])


def _lua(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    lines = [
        f'  {f.name if f.name not in LUA_WORDS else f"""["{f.name}"]"""} = {_number(f.value)}, -- {f.comment}'
        for f in listed
    ]
    return "\n".join([f"-- {_head(tune, conventions)}", "return {", *lines, "}", ""])


def _python(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    lines = [
        f"{allowed(f.name, PYTHON_WORDS)} = {f.value if isinstance(f.value, bool) else _number(f.value)}  # {f.comment}"
        for f in listed
    ]
    # The first line declares the encoding, so that no name in a later line can declare another.
    return "\n".join(["# -*- coding: utf-8 -*-", f"# {_head(tune, conventions)}", *lines, ""])


def _table(tune: Tune, listed: Sequence[Figure], conventions: Conventions) -> str:
    rows = [
        (f.name, f.value if isinstance(f.value, str) else _number(f.value), f.unit, f.parameter.label) for f in listed
    ]
    widths = [max((len(row[column]) for row in rows), default=0) for column in range(3)]
    lines = [
        f"{name:<{widths[0]}}  {value:>{widths[1]}}  {unit:<{widths[2]}}  {label}".rstrip()
        for name, value, unit, label in rows
    ]
    return "\n".join([f"# {_head(tune, conventions)}", "", *lines, ""])


@dataclass(frozen=True)
class Format:
    """An output format."""

    name: str
    suffix: str
    write: Callable[[Tune, Sequence[Figure], Conventions], str]


FORMATS = {
    "toml": Format("TOML", ".toml", _toml), "json": Format("JSON", ".json", _json), "csv": Format("CSV", ".csv", _csv),
    "c": Format("C constants", ".h", _c), "csharp": Format("C# constants", ".cs", _csharp), "lua": Format("Lua table",
    ".lua", _lua),
    "python": Format("Python constants", ".py", _python), "table": Format("Plain table", ".txt", _table),
}  # fmt: skip


def numbers_text(
    tune: Tune, conventions: Conventions, format: str, which: Which = Which.ALL, before: Tune | None = None
) -> str:
    """The numbers that matter, or some of them, in one of `FORMATS`; `before` is the tune at the milestone."""
    return FORMATS[format].write(tune, figures(tune, conventions, which, before), conventions)
