"""Where local variables are declared, in languages that require declarations."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.codegen.expressions import Local
from cinetica.codegen.statements import (
    Block,
    For,
    Forever,
    If,
    Statement,
    assigned,
    every,
    own_expressions,
    read,
    targets,
)


class Declarations:
    """Where the local variables of a block are declared: before one of its statements, or by it."""

    def __init__(self, block: Block, declared: set[str]) -> None:
        self.before: dict[int, list[Local]] = {}
        self.inline: dict[int, frozenset[str]] = {}
        touched: dict[str, list[int]] = {}
        locals_: dict[str, Local] = {}
        for place, statement in enumerate(block):
            for local in _touched((statement,)):
                locals_.setdefault(local.name, local)
                places = touched.setdefault(local.name, [])
                if place not in places:
                    places.append(place)
        for name, places in touched.items():
            if name in declared or _is_counter(block, name):
                continue
            first = block[places[0]]
            if len(places) == 1 and isinstance(first, If | For | Forever) and name not in _own(first):
                # Each of its blocks has its own.
                continue
            if any(isinstance(each, Local) and each.name == name for each in targets(first)) and name not in _own(
                first
            ):
                self.inline[places[0]] = self.inline.get(places[0], frozenset()) | {name}
            else:
                self.before.setdefault(places[0], []).append(locals_[name])


def _touched(block: Block) -> Iterator[Local]:
    """The local variables that a block assigns or reads; assigned ones first, since their type is right."""
    for each in [*assigned(block), *read(block)]:
        if isinstance(each, Local):
            yield each


def _own(statement: Statement) -> set[str]:
    return {
        each.name
        for expression in own_expressions(statement)
        for each in expression.everything
        if isinstance(each, Local)
    }


def _is_counter(block: Block, name: str) -> bool:
    return any(isinstance(each, For) and each.name == name for each in every(block))
