"""Change single operators, constants and statements at random, and count the changes that no test notices.

`python tools/mutants.py --count 200 --seed 1` works on copies of the tree. First the tests of each room are run once to
find out which of them run which line (with coverage.py). Each mutant is then run against the tests that run its line,
the shortest first, and is caught by the first test that fails. One that runs into the time limit is not.

Compiled code is run as plain Python, since compiling each mutant would take minutes. Its tests are those in the room's
own folder, in this order: those that name the function, those that name a function that calls it, those of its module,
and those against an independent implementation. When figures are read in plain Python, the kernel stays compiled
(`plain_figures.py`), and comparisons come last since they take many runs.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from copy import deepcopy
from itertools import islice
from pathlib import Path
from queue import Queue
from typing import NamedTuple

from coverage import CoverageData
from junitparser import JUnitXml

ROOT = Path(__file__).parent.parent
# The rooms that are mutated, with the tests that concern them.
ROOMS = {
    "motion": ("tests/motion", "tests/reading/test_rate_comparison.py"),
    "reading": (
        "tests/reading",
        "tests/test_cli_sweep.py",
        "tests/test_cli_match.py",
        "tests/files/test_game_csv.py",
        "tests/files/test_recipe.py",
        "tests/files/test_report.py",
        "tests/desk/test_compare.py",
        "tests/desk/test_comparing.py",
        "tests/desk/test_exchange.py",
        "tests/desk/test_game_units.py",
        "tests/desk/test_match.py",
        "tests/desk/test_overview.py",
        "tests/desk/test_survey.py",
    ),
    "model": (
        "tests/model",
        "tests/files",
        "tests/desk/test_session.py",
        "tests/desk/test_sheet.py",
        "tests/desk/test_cells.py",
        "tests/desk/test_curve_editor.py",
        "tests/desk/test_compare.py",
        "tests/desk/test_zones_shoves_mouse.py",
        "tests/test_cli.py",
        "tests/test_cli_units.py",
    ),
    "link": ("tests/link",),
    "codegen": ("tests/codegen",),
    "files": (
        "tests/files",
        "tests/test_cli.py",
        "tests/test_cli_sweep.py",
        "tests/test_cli_units.py",
        "tests/test_cli_unbroken.py",
        "tests/test_cli_match.py",
        "tests/reading/test_targets.py",
        "tests/desk/test_documents.py",
        "tests/desk/test_exchange.py",
        "tests/desk/test_guide.py",
    ),
    "desk/state": ("tests/desk",),
}
COMPARISONS: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
TURNED: dict[type[ast.cmpop], type[ast.cmpop]] = {ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt}
ARITHMETIC: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Div, ast.Mod: ast.Mult,
}  # fmt: skip


# Bounds that measured numbers seldom hit exactly.
TOLERANCES = {
    "SLACK", "NOTHING", "ON_TOP", "ON_LEDGE", "FLAT", "ROUNDED", "NEAR", "NEARLY", "STILL", "STEADY", "ALMOST", "HAIR",
    "AT_BOUND", "SNAP", "SAME", "LIKE", "UNLIKE", "BETTER", "ALIKE",
}  # fmt: skip
# Decorators of what is compiled.
COMPILED = ("@compiled", "@apart", "@_measure(")
MACHINE_CODE = """
from cinetica.motion.native import RUN
from cinetica.reading.reader import READER
print(RUN.folder, READER.folder)
"""
CAUGHT, SURVIVED, TOO_SLOW = "caught", "SURVIVED", "TOO SLOW"


class Mutant(NamedTuple):
    """One change: where, what was there, and the text of the whole file after it."""

    room: str
    path: Path
    function: str
    line: int
    end: int
    before: str
    after: str
    text: str

    @property
    def is_compiled(self) -> bool:
        """Whether its module is compiled."""
        return any(each in self.text for each in COMPILED)

    @property
    def keeps_kernel(self) -> bool:
        """Whether the kernel can stay machine code."""
        return self.room == "reading" or not self.is_compiled


def _changed(node: ast.AST) -> ast.AST | None:
    """A small change of a node, or None if this kind of node is left alone."""
    made = deepcopy(node)
    if isinstance(made, ast.Compare) and type(made.ops[0]) in TURNED and _has_tolerance(made):
        # It makes no difference whether the bound itself counts.
        made.ops[0] = TURNED[type(made.ops[0])]()
    elif isinstance(made, ast.Compare) and type(made.ops[0]) in COMPARISONS:
        made.ops[0] = COMPARISONS[type(made.ops[0])]()
    elif isinstance(made, ast.BinOp) and type(made.op) in ARITHMETIC and not _is_text(made):
        made.op = ARITHMETIC[type(made.op)]()
    elif isinstance(made, ast.BoolOp):
        made.op = ast.Or() if isinstance(made.op, ast.And) else ast.And()
    elif isinstance(made, ast.UnaryOp) and isinstance(made.op, (ast.Not, ast.USub)):
        return made.operand
    elif isinstance(made, ast.Constant) and type(made.value) in (int, float):
        # A large number is a limit, and one more is no other limit.
        made.value = made.value * 2 if made.value >= 1000 else made.value + 1
    elif isinstance(made, ast.Constant) and isinstance(made.value, bool):
        made.value = not made.value
    elif isinstance(made, ast.Expr) and isinstance(made.value, ast.Call):
        return ast.Pass()
    else:
        return None
    return made


def _has_tolerance(node: ast.AST) -> bool:
    """Whether a comparison has a tolerance: a named one, such as SLACK, or a very small number."""
    return any(
        (isinstance(each, ast.Name) and each.id in TOLERANCES)
        or (isinstance(each, ast.Constant) and isinstance(each.value, float) and 0 < each.value < 1e-3)
        for each in ast.walk(node)
    )


def _is_text(node: ast.AST) -> bool:
    """Whether an operation works on text or types rather than numbers."""
    return any(
        isinstance(each, ast.JoinedStr) or (isinstance(each, ast.Constant) and isinstance(each.value, str))
        for each in ast.walk(node)
    )


def _candidates(node: ast.AST) -> Iterator[ast.AST]:
    """The nodes inside functions, without annotations, decorators, defaults and docstrings."""
    for child in ast.iter_child_nodes(node):
        if isinstance(child, (ast.FunctionDef, ast.AsyncFunctionDef)):
            for statement in child.body:
                yield statement
                yield from _inside(statement)
        elif isinstance(child, (ast.ClassDef, ast.If)):
            yield from _candidates(child)


def _inside(node: ast.AST) -> Iterator[ast.AST]:
    if isinstance(node, ast.keyword) and node.arg == "strict":
        # It guards against mistakes of ours, and has no effect otherwise.
        return
    for name, value in ast.iter_fields(node):
        if name in ("annotation", "returns", "decorator_list"):
            continue
        for child in value if isinstance(value, list) else [value]:
            if isinstance(child, ast.AST):
                yield child
                yield from _inside(child)


def mutants(room: str, root: Path, chance: random.Random, names: Sequence[str] = ()) -> Iterator[Mutant]:
    """All mutants of a room in a tree, in random order; of files of these names only, if there are any."""
    found = sorted((root / "src/cinetica" / room).rglob("*.py"))
    sources = {path: path.read_text() for path in found if not names or path.name in names}
    everything = [
        (path, node) for path, source in sources.items() for node in _candidates(ast.parse(source))
        if hasattr(node, "lineno") and _changed(node)
    ]  # fmt: skip
    for path, node in chance.sample(everything, len(everything)):
        source, changed = sources[path], _changed(node)
        assert changed is not None
        before, after = ast.get_source_segment(source, node) or "", ast.unparse(changed)
        after = f"({after})" if isinstance(changed, ast.expr) else after
        lines = source.splitlines(keepends=True)
        start = sum(len(line.encode()) for line in lines[: node.lineno - 1]) + node.col_offset
        content = source.encode()
        text = (content[:start] + after.encode() + content[start + len(before.encode()) :]).decode()
        name = _function_at(ast.parse(source), node.lineno)
        yield Mutant(
            room, path.relative_to(root), name, node.lineno, node.end_lineno or node.lineno, before, after, text
        )


def _function_at(tree: ast.AST, line: int) -> str:
    """The name of the innermost function that has this line."""
    found = [
        node for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef) and node.lineno <= line <= (node.end_lineno or line)
    ]  # fmt: skip
    return max(found, key=lambda each: each.lineno).name if found else ""


def _callers(source: str, function: str) -> set[str]:
    """The functions of a module that call a function, directly or through others."""
    functions = {node.name: node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.FunctionDef)}
    calls = {
        name: {each.id for each in ast.walk(node) if isinstance(each, ast.Name)} for name, node in functions.items()
    }
    found, before = {function}, set[str]()
    while found != before:
        before = set(found)
        found |= {name for name, called in calls.items() if called & found}
    return found - {function}


class Copy:
    """A copy of the tree to work on, with a cache of its own for the machine code."""

    def __init__(self, root: Path) -> None:
        self.root = root
        shutil.copytree(ROOT, root, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", "dist"))
        self._environment = os.environ | {"PYTHONPATH": f"{root / 'src'}:{root}", "QT_QPA_PLATFORM": "offscreen"}
        there = self._folders()
        self._environment["XDG_CACHE_HOME"] = str(root / "cache")
        self._code = self._folders()
        for folder, own in zip(there, self._code, strict=True):
            shutil.copytree(folder, own)

    def _folders(self) -> list[Path]:
        """The folders of the machine code of the sources as they are."""
        done = subprocess.run(
            [sys.executable, "-c", MACHINE_CODE], cwd=self.root, env=self._environment, capture_output=True, text=True
        )
        return [Path(each) for each in done.stdout.split()]

    def keep_machine_code(self) -> None:
        """Take over the machine code for sources that have changed where nothing is compiled."""
        for folder, own in zip(self._code, self._folders(), strict=False):
            if not own.exists():
                own.symlink_to(folder)

    def run(self, *arguments: str, compiled: bool = True, seconds: float | None = None) -> int:
        """Run pytest; returns its exit code."""
        environment = self._environment if compiled else self._environment | {"NUMBA_DISABLE_JIT": "1"}
        command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *arguments]
        return subprocess.run(command, cwd=self.root, env=environment, capture_output=True, timeout=seconds).returncode


class Coverage:
    """Which tests of a room run which of its lines, and how long each takes."""

    def __init__(self, room: str, copy: Copy, compiled: bool) -> None:
        """Run all tests of the room once; those in its own folder are enough if all mutants are `compiled`."""
        self._room, self._root = room, copy.root
        name = room.replace("/", "-")
        settings, data, report = (copy.root / f"{name}.{kind}" for kind in ("coveragerc", "coverage", "xml"))
        settings.write_text(f"[run]\ndata_file = {data}\nsource = {copy.root / 'src/cinetica' / room}\n")
        options = [f"--cov-config={settings}", "--cov", "--cov-context=test", "--cov-report=", f"--junitxml={report}"]
        copy.run(*options, *ROOMS[room][: 1 if compiled else None])
        self._data = CoverageData(str(data))
        self._data.read()
        # Seconds of each test, by its name with points.
        self._seconds = {
            f"{case.classname}.{case.name}": case.time for suite in JUnitXml.fromfile(str(report)) for case in suite
        }

    def tests_of(self, mutant: Mutant) -> list[str]:
        """The tests that run the line, the shortest first; of what is compiled all of the room, its module's first."""
        if mutant.is_compiled:
            named = self._own_tests_that_name(mutant.function.strip("_"))
            nearby = {
                test for each in _callers(mutant.text, mutant.function)
                for test in self._own_tests_that_name(each.strip("_"))
            }  # fmt: skip

            def order(test: str) -> tuple[bool, bool, bool, bool, float]:
                file = test.partition("::")[0]
                # In plain Python the many runs of a comparison take longer than all other tests.
                last = ("_against_" in file) == mutant.keeps_kernel
                return test not in named, test not in nearby, mutant.path.stem not in file, last, self._took(test)

            return sorted(self._own_tests, key=order)
        by_line = self._data.contexts_by_lineno(str(self._root / mutant.path))
        contexts = {each for line in range(mutant.line, mutant.end + 1) for each in by_line.get(line, [])}
        found = {each.rpartition("|")[0] for each in contexts} - {""}
        # A line that ran only while modules were imported may matter to any test.
        return sorted(found or (self._tests if "" in contexts else ()), key=self._took)

    @property
    def _tests(self) -> set[str]:
        return {context.rpartition("|")[0] for context in self._data.measured_contexts()} - {""}

    @property
    def _own_tests(self) -> set[str]:
        return {test for test in self._tests if test.startswith(ROOMS[self._room][0])}

    def _own_tests_that_name(self, function: str) -> set[str]:
        """The tests in the room's own folder with this word in their name or in their text."""
        word = re.compile(rf"(?<![^\W_]){re.escape(function)}(?![^\W_])")
        found = set()
        for file in {test.partition("::")[0] for test in self._own_tests}:
            source = (self._root / file).read_text()
            nodes = [node for node in ast.parse(source).body if isinstance(node, ast.FunctionDef)]
            names = {node.name for node in nodes if word.search(ast.get_source_segment(source, node) or "")}
            found |= {
                test for test in self._own_tests if re.split(r"::|\[", test)[:2] in [[file, name] for name in names]
            }
        return found

    def _took(self, test: str) -> float:
        path, _, name = test.partition("::")
        dotted = path.removesuffix(".py").replace("/", ".")
        return self._seconds.get(f"{dotted}.{name.replace('::', '.')}", 0.0)


def verdict_on(mutant: Mutant, tests: list[str], copy: Copy, seconds: float) -> tuple[str, float]:
    """CAUGHT if one of these tests fails on the mutant within the time limit, and how long that took, in s."""
    target, began = copy.root / mutant.path, time.monotonic()
    before = target.read_text()
    target.write_text(mutant.text)
    try:
        if mutant.keeps_kernel:
            copy.keep_machine_code()
        plugin = ("-p", "tools.plain_figures") if mutant.keeps_kernel and mutant.is_compiled else ()
        arguments = ("-x", *plugin, *tests)
        caught = bool(tests) and copy.run(*arguments, compiled=mutant.keeps_kernel, seconds=seconds) != 0
        verdict = CAUGHT if caught else SURVIVED
    except subprocess.TimeoutExpired:
        verdict = TOO_SLOW
    finally:
        target.write_text(before)
    return verdict, time.monotonic() - began


def main() -> None:
    """Run mutants and print the survivors."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=240, help="how long the tests of one mutant may take")
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--room", choices=ROOMS, action="append", help="only this room")
    parser.add_argument("--file", action="append", default=[], help="only files of this name, such as game_csv.py")
    asked = parser.parse_args()
    chance = random.Random(asked.seed)
    rooms = asked.room or list(ROOMS)
    sources = {room: mutants(room, ROOT, chance, asked.file) for room in rooms}
    chosen = list(islice((mutant for some in zip(*sources.values(), strict=False) for mutant in some), asked.count))
    # What is not compiled yet would be compiled for every copy.
    subprocess.run([sys.executable, "-m", "cinetica.desk.warm"], cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Copy] = Queue()
        for number in range(asked.jobs):
            copies.put(Copy(Path(folder) / f"copy-{number}"))

        def coverage_of(room: str) -> Coverage:
            copy = copies.get()
            try:
                return Coverage(room, copy, all(each.is_compiled for each in chosen if each.room == room))
            finally:
                copies.put(copy)

        def judged(mutant: Mutant) -> bool:
            copy, tests = copies.get(), coverage[mutant.room].tests_of(mutant)
            try:
                verdict, took = verdict_on(mutant, tests, copy, asked.seconds)
            finally:
                copies.put(copy)
            where = f"{mutant.path}:{mutant.line}: {mutant.before!r} -> {mutant.after!r}"
            print(f"{verdict:8} {took:5.0f} s of {len(tests):3} tests {where}", flush=True)
            return verdict == CAUGHT

        with ThreadPoolExecutor(asked.jobs) as pool:
            coverage = dict(zip(rooms, pool.map(coverage_of, rooms), strict=True))
            caught = sum(pool.map(judged, chosen))
    print(f"{caught} of {len(chosen)} caught ({100 * caught / len(chosen):.0f}%)")


if __name__ == "__main__":
    main()
