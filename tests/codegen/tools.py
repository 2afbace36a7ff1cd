"""The real tools of each language, run on code written into a folder."""

from __future__ import annotations

import ast
import shutil
import subprocess
import sys
from functools import cache
from pathlib import Path
from types import ModuleType
from typing import Any

from cinetica import motion
from cinetica.codegen.languages import code_text, proof_files
from cinetica.codegen.make import cut_program, whole_program
from cinetica.codegen.program import Program
from cinetica.files.file_names import file_names
from cinetica.model.clock import Clock
from cinetica.model.conventions import Conventions
from cinetica.model.study import Drill
from cinetica.model.tune import Tune

# A compiler that evaluates a function of a constant may round differently from the C library.
UNFOLDED = [f"-fno-builtin-{name}" for name in ("exp", "cos", "sin", "atan2", "pow")]
STRICT_C = ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Werror"]


def ran(*command: str | Path, cwd: Path) -> str:
    """The output of a command; AssertionError with it if the command fails or does not exist."""
    assert shutil.which(str(command[0])), f"{command[0]} is not installed; `make setup` installs it"
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False)
    assert done.returncode == 0, f"{command[0]}: {(done.stdout + done.stderr)[:2000]}"
    return done.stdout


def output_of_test(language: str, folder: Path, stem: str) -> str:
    """The output of a language's test program when it runs the drills of a folder."""
    drills = sorted(str(each.relative_to(folder)) for each in (folder / "drills").iterdir())
    match language:
        case "c":
            ran("gcc", *STRICT_C, "-O1", *UNFOLDED, "-o", "test", f"test_{stem}.c", "-lm", cwd=folder)
            return ran(folder / "test", *drills, cwd=folder)
        case "csharp":
            ran("mcs", "-warnaserror", "-out:test.exe", f"{stem}.cs", f"test_{stem}.cs", cwd=folder)
            return ran("mono", "test.exe", *drills, cwd=folder)
        case "lua":
            return ran("lua5.4", f"test_{stem}.lua", *drills, cwd=folder)
        case "python":
            return ran(sys.executable, f"test_{stem}.py", *drills, cwd=folder)
    return ran("node", f"test_{stem}.mjs", *drills, cwd=folder)


@cache
def _program(tune: Tune, drills: tuple[Drill, ...], whole: bool) -> Program:
    return (whole_program if whole else cut_program)(tune, drills, Conventions())


def program_for(tune: Tune, drills: list[Drill], *, whole: bool) -> Program:
    """The program of a tune in our units, made once for all tests."""
    return _program(tune, tuple(drills), whole)


def write(program: Program, drills: list[Drill], clock: Clock, folder: Path) -> None:
    """Write a whole program in all languages, its tests and its drills."""
    names = list(zip(drills, file_names([each.name for each in drills]), strict=True))
    for name, text in proof_files(program, names, clock).items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)


def written(
    tune: Tune, drills: list[Drill], clock: Clock, folder: Path, conventions: Conventions | None = None
) -> Program:
    """Write the whole program of a tune, for the conventions of a game."""
    program = whole_program(tune, drills, conventions) if conventions else program_for(tune, drills, whole=True)
    write(program, drills, clock, folder)
    return program


def loaded(program: Program, name: str = "generated") -> Any:
    """The program in Python, as a module."""
    module = ModuleType(name)
    sys.modules[name] = module
    exec(compile(code_text(program, "python"), name, "exec"), module.__dict__)
    return module


def all_alike(output: str, drills: list[Drill]) -> bool:
    """Whether a test program reports for each drill that all ticks agree."""
    lines = output.splitlines()
    return len(lines) == len(drills) and all(line.endswith("ticks alike") for line in lines)


def kernel_functions() -> set[str]:
    """The names of all functions of the kernel."""
    marks = {"compiled", "apart"}
    return {
        node.name
        for path in Path(motion.__path__[0]).glob("*.py")
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.FunctionDef) and marks & {ast.unparse(each) for each in node.decorator_list}
    }
