"""Merge local variables that are copies of each other and whose live ranges do not overlap."""

from __future__ import annotations

from dataclasses import replace

from cinetica.codegen.expressions import Expression, Local, Rows
from cinetica.codegen.statements import (
    Assign,
    Block,
    For,
    Forever,
    Function,
    If,
    Return,
    Statement,
    assigned,
    local_names,
    mapped,
    own_expressions,
    renamed,
    targets,
)


def coalesced(function: Function) -> Function:
    """The function with fewer names."""
    while True:
        lives = _Lives(function)
        lives.block(function.body, set())
        merge = next((each for each in lives.copies if each[1] not in lives.overlaps.get(each[0], set())), None)
        if merge is None:
            return function
        function = _merged(function, *merge)


def _merged(function: Function, one: str, other: str) -> Function:
    parameters = {each.name for each in function.parameters}
    first = one in parameters or (other not in parameters and not _reads_better(one, other))
    kept, gone = (one, other) if first else (other, one)
    known = next(each for each in assigned(function.body) if isinstance(each, Local) and each.name in (one, other))
    body = renamed(function.body, {gone: replace(known, name=kept)})
    return function.with_body(_without_copies(body))


def _reads_better(one: str, other: str) -> bool:
    """Whether the second name is more specific than the first."""
    return one.startswith("new_") and not other.startswith("new_")


def _without_copies(block: Block) -> Block:
    return tuple(
        mapped(each, lambda expression: expression, _without_copies)
        for each in block
        if not (isinstance(each, Assign) and each.target == each.value)
        and not (
            isinstance(each, Assign)
            and isinstance(each.target, Local)
            and isinstance(each.value, Local)
            and each.target.name == each.value.name
        )
    )


class _Lives:
    """Finds which local variables are live at the same time, going backward through a function."""

    def __init__(self, function: Function) -> None:
        self.kinds = {each.name: (each.kind, each.odd) for each in assigned(function.body) if isinstance(each, Local)}
        self.kinds |= {each.name: (each.kind, each.odd) for each in function.parameters if not each.rows}
        self.parameters = [each.name for each in function.parameters]
        self.overlaps: dict[str, set[str]] = {}
        self.copies: list[tuple[str, str]] = []
        # All parameters are set when the function begins.
        for each in self.parameters:
            self.overlaps[each] = set(self.parameters) - {each}

    def block(self, block: Block, after: set[str]) -> set[str]:
        """The variables that are live before the block."""
        needed = set(after)
        for statement in reversed(block):
            needed = self.statement(statement, needed)
        return needed

    def statement(self, statement: Statement, after: set[str]) -> set[str]:
        """The variables that are live before the statement."""
        match statement:
            case If(_, yes, no):
                return self.block(yes, after) | self.block(no, after) | _names(statement)
            case For(name, _, _, body):
                again = after | _names(statement)
                while (more := again | self.block(body, again)) != again:
                    again = more
                self._set(name, again, None)
                return again - {name} | _names(statement)
            case Forever(body):
                again = after | local_names(body)
                while (more := again | self.block(body, again)) != again:
                    again = more
                return self.block(body, again)
            case Return():
                return _names(statement)
        source = statement.value.name if isinstance(statement, Assign) and isinstance(statement.value, Local) else None
        set_ones = [each.name for each in targets(statement) if isinstance(each, Local)]
        for name in set_ones:
            self._set(name, after | set(set_ones), source)
            if source is not None and self.kinds.get(source) == self.kinds[name] and source != name:
                self.copies.append((name, source))
        return after - set(set_ones) | _names(statement)

    def _set(self, name: str, beside: set[str], source: str | None) -> None:
        for other in beside - {name, source}:
            assert other is not None
            self.overlaps.setdefault(name, set()).add(other)
            self.overlaps.setdefault(other, set()).add(name)


def _names(statement: Statement) -> set[str]:
    found: set[str] = set()
    for expression in own_expressions(statement):
        found |= _locals(expression)
    return found


def _locals(expression: Expression) -> set[str]:
    return {
        each.name
        for each in expression.everything
        if isinstance(each, Local) or (isinstance(each, Rows) and not each.record)
    }
