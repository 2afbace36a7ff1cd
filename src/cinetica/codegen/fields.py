"""Remove fields of the state that the code does not need."""

from __future__ import annotations

from collections.abc import Mapping

from cinetica.codegen.expressions import Binary, Call, Constant, Expression, Local, Member, rebuilt
from cinetica.codegen.prune import Functions
from cinetica.codegen.statements import (
    Assign,
    Block,
    For,
    Forever,
    Function,
    Statement,
    Target,
    assigned,
    blocks,
    every,
    local_names,
    mapped,
    own_expressions,
    read,
    targets,
)
from cinetica.codegen.vocabulary import RENAMED


def without_copies_of_input(
    functions: Functions, entries: Mapping[str, tuple[str, ...]], wanted: frozenset[str]
) -> Functions:
    """The functions without fields of the state that only repeat the tick's input from its beginning on.

    `entries` are the functions called by the game, with the records that each takes.
    """
    stores: dict[str, list[Expression | None]] = {}
    for function in functions.values():
        for statement in every(function.body):
            for to in targets(statement):
                if isinstance(to, Member) and to.record == "state":
                    stores.setdefault(to.name, []).append(statement.value if isinstance(statement, Assign) else None)
    names: dict[str, Expression] = {}
    for field, values in stores.items():
        first = values[0]
        alike = all(each == first for each in values)
        if alike and isinstance(first, Member) and first.record == "input" and field not in wanted:
            begins = any(_begins_with(functions, functions[entry].body, field) for entry in entries)
            blind = [entry for entry, records in entries.items() if "input" not in records]
            if begins and not any(_reads_field(functions, entry, field) for entry in blind):
                names[field] = first
    if not names:
        return functions

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Member) and expression.record == "state" and expression.name in names:
            return names[expression.name]
        return rebuilt(expression, change)

    def each(inner: Block) -> Block:
        return tuple(
            mapped(statement, change, each)
            for statement in inner
            if not (isinstance(statement, Assign) and _names_field(statement.target, names))
        )

    return {name: function.with_body(each(function.body)) for name, function in functions.items()}


def _names_field(target: Target, names: dict[str, Expression]) -> bool:
    return isinstance(target, Member) and target.record == "state" and target.name in names


def _begins_with(functions: Functions, block: Block, field: str) -> bool:
    """Whether a block assigns the field before anything in it, or in a function that it calls, reads it."""
    for statement in block:
        if isinstance(statement, Assign) and _is_field(statement.target, field):
            return True
        if _touches(statement, field) or any(
            _reads_field(functions, each.function, field) for each in read((statement,)) if isinstance(each, Call)
        ):
            return False
    return False


def _reads_field(functions: Functions, name: str, field: str) -> bool:
    function = functions.get(name)
    return function is not None and (
        any(_is_field(each, field) for each in read(function.body))
        or any(_reads_field(functions, other, field) for other in function.calls)
    )


def without_passing_fields(functions: Functions, wanted: frozenset[str]) -> Functions:
    """The functions with a local variable in place of each field that only passes a value on within one block."""
    where: dict[str, set[str]] = {}
    for name, function in functions.items():
        for each in [*read(function.body), *assigned(function.body)]:
            for part in each.everything:
                if isinstance(part, Member) and part.record == "state":
                    where.setdefault(part.name, set()).add(name)
    found = dict(functions)
    for field, users in where.items():
        if field in wanted or len(users) > 1:
            continue
        (name,) = users
        if _is_set_first(found[name].body, field):
            found[name] = _with_local(found[name], field)
    return found


def _is_set_first(block: Block, field: str) -> bool:
    """Whether one block contains all reads of the field, after a statement that assigns it."""
    for place, statement in enumerate(block):
        if not _touches(statement, field):
            continue
        if isinstance(statement, Assign) and _is_field(statement.target, field):
            return not any(_is_field(each, field) for each in statement.value.everything)
        others = any(_touches(each, field) for each in block[place + 1 :])
        inside = [inner for inner in blocks(statement) if any(_touches(each, field) for each in inner)]
        own = any(_is_field(each, field) for value in own_expressions(statement) for each in value.everything)
        plain = not others and not own and not isinstance(statement, For | Forever)
        return plain and len(inside) == 1 and _is_set_first(inside[0], field)
    return False


def _touches(statement: Statement, field: str) -> bool:
    return any(_is_field(each, field) for each in read((statement,))) or any(
        _is_field(each, field) for each in assigned((statement,))
    )


def _is_field(value: Expression, field: str) -> bool:
    return isinstance(value, Member) and value.record == "state" and value.name == field


def _with_local(function: Function, field: str) -> Function:
    taken = local_names(function.body) | {each.name for each in function.parameters}
    name = RENAMED.get(("state", field), field)
    while name in taken:
        name += "_now"

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Member) and _is_field(expression, field):
            return Local(name=name, kind=expression.kind, unit=expression.unit, odd=expression.odd)
        return rebuilt(expression, change)

    def each(inner: Block) -> Block:
        return tuple(mapped(statement, change, each) for statement in inner)

    return function.with_body(each(function.body))


def without_unread_marks(functions: Functions) -> Functions:
    """The functions without the marks that nothing tests, if some are only tested one by one."""
    asked = 0
    for function in functions.values():
        for statement in every(function.body):
            for expression in own_expressions(statement):
                bits = _asked(expression, statement)
                if bits is None:
                    return functions
                asked |= bits

    def each(inner: Block) -> Block:
        made: list[Statement] = []
        for statement in inner:
            if not (isinstance(statement, Assign) and _is_field(statement.target, "marks")):
                made.append(mapped(statement, lambda expression: expression, each))
            elif _bits(statement.value) & asked:
                made.append(statement)
            elif not any(_is_field(part, "marks") for part in statement.value.everything):
                made.append(Assign(statement.target, Constant(0, kind="whole")))
        return tuple(made)

    return {name: function.with_body(each(function.body)) for name, function in functions.items()}


def _asked(expression: Expression, statement: Statement) -> int | None:
    """The marks that an expression tests; None if it reads them in any way other than to add one."""
    if isinstance(statement, Assign) and _is_field(statement.target, "marks"):
        return 0
    found, reads = 0, sum(_is_field(part, "marks") for part in expression.everything)
    for part in expression.everything:
        if isinstance(part, Binary) and part.operator == "&" and _is_field(part.left, "marks"):
            if isinstance(part.right, Constant):
                found, reads = found | int(part.right.value), reads - 1
    return found if reads == 0 else None


def _bits(expression: Expression) -> int:
    """All marks that a value may contain, except those of the field itself."""
    found = 0
    for part in expression.everything:
        if isinstance(part, Constant) and part.kind == "whole":
            found |= int(part.value)
    return found
