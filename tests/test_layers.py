"""Layers: imports go one way, without circles, and only the desk imports Qt."""

import ast
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src/cinetica"
# Each layer may import itself and those before it.
LAYERS = (
    "palette", "libraries", "machine", "model", "motion", "reading", "codegen", "files", "link", "stand_in", "desk",
    "cli",
)  # fmt: skip
QT = ("PySide6", "pyqtgraph", "shiboken6")


@cache
def parsed(path: Path) -> ast.Module:
    return ast.parse(path.read_text())


def imported(path: Path, *, for_types: bool = True) -> set[str]:
    """Full names of all that a file imports, at any level; without `for_types` not what only type checkers read."""
    found = set()
    for node in parsed(path).body:
        if not for_types and isinstance(node, ast.If) and "TYPE_CHECKING" in ast.dump(node.test):
            continue
        for each in ast.walk(node):
            if isinstance(each, ast.Import):
                found |= {alias.name for alias in each.names}
            elif isinstance(each, ast.ImportFrom) and each.module:
                found |= {each.module, *(f"{each.module}.{alias.name}" for alias in each.names)}
    return found


def layer_of(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


FILES = [path for path in sorted(SOURCE.rglob("*.py")) if layer_of(path) in LAYERS]


def test_every_file_belongs_to_a_layer():
    assert {layer_of(path) for path in SOURCE.rglob("*.py")} == {*LAYERS, "__init__", "__main__"}


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_imports_follow_the_layers(path):
    mine = LAYERS.index(layer_of(path))
    for name in imported(path):
        parts = name.split(".")
        if parts[0] == "cinetica" and len(parts) > 1 and parts[1] in LAYERS:
            assert LAYERS.index(parts[1]) <= mine, f"{path.name} imports {name}"
        assert parts[0] not in QT or layer_of(path) == "desk", f"{path.name} knows Qt: {name}"


def test_no_module_imports_itself_through_others():
    """Not within functions either; packages that only gather names are left out."""
    modules = {".".join(path.relative_to(SOURCE.parent).with_suffix("").parts): path for path in FILES}
    graph = {name: imported(path, for_types=False) & modules.keys() for name, path in modules.items()}
    assert len(list(TopologicalSorter(graph).static_order())) == len(modules)


@pytest.mark.parametrize("path", sorted((SOURCE / "desk/state").glob("*.py")), ids=lambda path: path.name)
def test_the_state_imports_no_widgets(path):
    assert not [name for name in imported(path) if name.startswith(("PySide6.QtWidgets", "pyqtgraph"))]
