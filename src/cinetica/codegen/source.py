"""The kernel's functions as syntax trees, and the meaning of the names in them."""

from __future__ import annotations

import ast
import importlib
import inspect
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from types import ModuleType
from typing import Any


@dataclass(frozen=True)
class Source:
    """A function of the kernel: its tree, and the module whose names it uses."""

    tree: ast.FunctionDef
    module: ModuleType

    @property
    def name(self) -> str:
        """Its name."""
        return self.tree.name

    @property
    def parameters(self) -> tuple[str, ...]:
        """The names of its parameters."""
        return tuple(each.arg for each in self.tree.args.args)

    @property
    def body(self) -> list[ast.stmt]:
        """Its statements, without the docstring."""
        return self.tree.body[1:] if ast.get_docstring(self.tree) is not None else self.tree.body

    def meaning(self, name: str) -> Any:
        """What a name of the module stands for; NameError if it is undefined."""
        if hasattr(self.module, name):
            return getattr(self.module, name)
        raise NameError(f"{self.module.__name__} knows no {name!r}")


@cache
def _trees(module: ModuleType) -> dict[str, ast.FunctionDef]:
    tree = ast.parse(inspect.getsource(module))
    return {node.name: node for node in tree.body if isinstance(node, ast.FunctionDef)}


@cache
def source_of(function: Callable[..., Any]) -> Source:
    """The source of a function of the kernel."""
    plain = inspect.unwrap(function)
    module = importlib.import_module(plain.__module__)
    return Source(_trees(module)[plain.__name__], module)
