"""The languages in which a tune is written as code."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from cinetica.codegen.drills import drill_text
from cinetica.codegen.make import cut_program, whole_program
from cinetica.codegen.program import Program
from cinetica.codegen.reserved import PYTHON_WORDS, identifier
from cinetica.codegen.writers.base import Writer
from cinetica.codegen.writers.c import CWriter
from cinetica.codegen.writers.csharp import CSharpWriter
from cinetica.codegen.writers.drill_tests import drill_test
from cinetica.codegen.writers.javascript import JavaScriptWriter
from cinetica.codegen.writers.lua import LuaWriter
from cinetica.codegen.writers.python import PythonWriter
from cinetica.model.clock import Clock
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune

LUA_MODULES = frozenset(("coroutine", "debug", "io", "math", "os", "package", "string", "table", "utf8"))


@dataclass(frozen=True)
class Language:
    """A language: its name, the file endings of code and test, and its writer."""

    id: str
    name: str
    suffix: str
    test_suffix: str
    writer: Callable[[Program, str], Writer]


LANGUAGES = {
    each.id: each
    for each in (
        Language("c", "C99", ".h", ".c", CWriter),
        Language("csharp", "C#", ".cs", ".cs", CSharpWriter),
        Language("lua", "Lua 5.4", ".lua", ".lua", LuaWriter),
        Language("python", "Python", ".py", ".py", PythonWriter),
        Language("javascript", "JavaScript", ".mjs", ".mjs", JavaScriptWriter),
    )
}


def program_of(study: Study, tune: Tune, *, whole: bool) -> Program:
    """The program of a tune, whole or cut where the game moves, for what the drills of its view contain."""
    drills = [drill for drill in study.drills if drill.view == tune.view]
    return (whole_program if whole else cut_program)(tune, drills, study.conventions)


def code_text(program: Program, language: str) -> str:
    """A program in one of LANGUAGES."""
    return LANGUAGES[language].writer(program, program.tune.name).written()


def code_files(study: Study, tune: Tune) -> dict[str, str]:
    """The cut step of a tune in all languages, by file name."""
    program = program_of(study, tune, whole=False)
    return {f"{stem_of(tune)}{language.suffix}": code_text(program, id) for id, language in LANGUAGES.items()}


def stem_of(tune: Tune) -> str:
    """The name of a tune's files. In Python and Lua it is that of a module, and must not hide a standard one."""
    stem = identifier(tune.name, frozenset()).lower()
    return f"{stem}_" if stem in sys.stdlib_module_names or stem in PYTHON_WORDS or stem in LUA_MODULES else stem


def proof_files(program: Program, names: Sequence[tuple[Drill, str]], clock: Clock) -> dict[str, str]:
    """A whole program in all languages, a test in each, and the drills that they run, by path."""
    stem = stem_of(program.tune)
    found = {f"drills/{name}.csv": drill_text(program, drill, clock) for drill, name in names}
    for id, language in LANGUAGES.items():
        writer = language.writer(program, program.tune.name)
        found[f"{stem}{language.suffix}"] = writer.written()
        found[f"test_{stem}{language.test_suffix}"] = drill_test(writer, id, stem)
    return found
