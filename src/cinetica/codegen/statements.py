"""Statements and functions of the generated code."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from operator import is_
from typing import TypeVar

from cinetica.codegen.expressions import (
    FUNCTIONS,
    Call,
    Expression,
    Item,
    Kind,
    Local,
    Member,
    Rows,
    Unit,
    rebuilt,
)

Target = Local | Member | Item
T = TypeVar("T")
S = TypeVar("S", bound="_Statement")


class _Statement:
    """The base class of statements; facts about a statement are computed once and cached."""

    @cached_property
    def fact(self: Statement) -> Fact:  # type: ignore[misc]
        """What it reads by itself, sets and calls, and the facts of the statements in it."""
        return _fact(self)

    @cached_property
    def reads(self: Statement) -> tuple[Expression, ...]:  # type: ignore[misc]
        """All expressions that are read in it, with their subexpressions."""
        own = [part for expression in own_expressions(self) for part in expression.everything]
        return (*own, *(part for block in blocks(self) for inner in block for part in inner.reads))


@dataclass(frozen=True)
class Assign(_Statement):
    """Assigns one value to one variable or field."""

    target: Target
    value: Expression


@dataclass(frozen=True)
class AssignAll(_Statement):
    """The results of a call, each for a variable or field; None if a result is not used."""

    targets: tuple[Target | None, ...]
    value: Call


@dataclass(frozen=True)
class Do(_Statement):
    """A call for its side effects alone."""

    value: Call


@dataclass(frozen=True)
class If(_Statement):
    """Statements under a condition."""

    test: Expression
    yes: tuple[Statement, ...]
    no: tuple[Statement, ...] = ()


@dataclass(frozen=True)
class For(_Statement):
    """A loop over whole numbers, from `first` up to `end`."""

    name: str
    first: Expression
    end: Expression
    body: tuple[Statement, ...]

    def counted_by(self, name: str) -> For:
        """The loop with another name for its counter."""
        return self if name == self.name else replace(self, name=name)


@dataclass(frozen=True)
class Forever(_Statement):
    """A loop that only a return ends."""

    body: tuple[Statement, ...]


@dataclass(frozen=True)
class Return(_Statement):
    """The results of a function."""

    values: tuple[Expression, ...] = ()


@dataclass(frozen=True)
class Remark(_Statement):
    """A comment on the statements after it; `name` is the function of the kernel that they come from."""

    name: str


Statement = Assign | AssignAll | Do | If | For | Forever | Return | Remark
Block = tuple[Statement, ...]


@dataclass(frozen=True)
class Parameter:
    """A parameter or a result of a function."""

    name: str
    kind: Kind
    unit: Unit
    odd: bool
    # The type of the rows, if it is a list.
    rows: str | None = None


@dataclass(frozen=True, eq=False)
class Fact:
    """What a statement reads by itself, what it sets and calls, and the statements in it."""

    fields: frozenset[str]
    locals: frozenset[str]
    calls: frozenset[str]
    sets_fields: frozenset[str]
    sets_locals: frozenset[str]
    returns: bool
    inner: tuple[Fact, ...]


def _facts(block: Block) -> tuple[Fact, ...]:
    return tuple(statement.fact for statement in block if not isinstance(statement, Remark))


def _fact(statement: Statement) -> Fact:
    own = [part for expression in own_expressions(statement) for part in expression.everything]
    to = targets(statement)
    return Fact(
        frozenset(each.name for each in own if isinstance(each, Member | Rows) and each.record == "state"),
        frozenset(each.name for each in own if isinstance(each, Local)),
        frozenset(each.function for each in own if isinstance(each, Call) and each.function not in FUNCTIONS),
        frozenset(each.name for each in to if isinstance(each, Member) and each.record == "state")
        | frozenset(each.rows.name for each in to if isinstance(each, Item)),
        frozenset(each.name for each in to if isinstance(each, Local)),
        isinstance(statement, Return),
        tuple(each for inner in blocks(statement) for each in _facts(inner)),
    )


@dataclass(frozen=True)
class Function:
    """A function; `origin` is its name in the kernel, `name` the one in the code."""

    name: str
    origin: str
    parameters: tuple[Parameter, ...]
    results: tuple[Parameter, ...]
    body: Block
    records: tuple[str, ...] = field(default=())

    @cached_property
    def calls(self) -> Counter[str]:
        """The functions of the program that it calls, and how often."""
        return Counter(
            each.function for each in read(self.body) if isinstance(each, Call) and each.function not in FUNCTIONS
        )

    @cached_property
    def local_reads(self) -> frozenset[str]:
        """The local variables that it reads, including parameters and rows."""
        own = (expression for statement in every(self.body) for expression in own_expressions(statement))
        return frozenset().union(*(each.locals for each in own))

    @cached_property
    def facts(self) -> tuple[Fact, ...]:
        """What its statements read, set and call."""
        return _facts(self.body)

    @cached_property
    def form(self) -> tuple[object, ...]:
        """A key that is equal for two functions that do the same, whatever their units."""

        def plain(expression: Expression) -> Expression:
            expression = rebuilt(expression, plain)
            return expression if isinstance(expression, Rows) else replace(expression, unit=None, odd=False)

        def each(block: Block) -> Block:
            return tuple(mapped(statement, plain, each) for statement in block)

        return (
            tuple((each.name, each.kind, each.rows) for each in self.parameters),
            tuple(each.kind for each in self.results),
            each(self.body),
        )

    def with_body(self, body: Block) -> Function:
        """The function with another body, or the function itself if the statements are the same."""
        return self if kept(self.body, body) is self.body else replace(self, body=body)


def blocks(statement: Statement) -> tuple[Block, ...]:
    """The blocks of a statement."""
    match statement:
        case If(_, yes, no):
            return yes, no
        case For() | Forever():
            return (statement.body,)
    return ()


def every(block: Block) -> Iterator[Statement]:
    """All statements of a block, including nested ones."""
    for statement in block:
        yield statement
        for inner in blocks(statement):
            yield from every(inner)


def own_expressions(statement: Statement) -> tuple[Expression, ...]:
    """The expressions that a statement reads, without those of its blocks."""
    match statement:
        case Assign(target, value):
            return (value, target.index) if isinstance(target, Item) else (value,)
        case AssignAll(targets, value):
            return (value, *(each.index for each in targets if isinstance(each, Item)))
        case Do(value):
            return (value,)
        case If(test, _, _):
            return (test,)
        case For(_, first, end, _):
            return first, end
        case Return(values):
            return values
    return ()


def read(block: Block) -> Iterator[Expression]:
    """All expressions that a block reads, with their subexpressions."""
    for statement in block:
        yield from statement.reads


def kept(before: tuple[T, ...], after: tuple[T, ...]) -> tuple[T, ...]:
    """The original objects, if the new ones are identical."""
    return before if len(before) == len(after) and all(map(is_, before, after)) else after


def _with_fields(statement: S, *values: object) -> S:
    """The statement with these values of its fields, or itself if they are unchanged."""
    names = statement.__match_args__  # type: ignore[attr-defined]
    same = all(getattr(statement, name) is value for name, value in zip(names, values, strict=True))
    return statement if same else type(statement)(*values)


def targets(statement: Statement) -> tuple[Target, ...]:
    """What a statement assigns to."""
    match statement:
        case Assign(target, _):
            return (target,)
        case AssignAll(found, _):
            return tuple(each for each in found if each is not None)
    return ()


def assigned(block: Block) -> Iterator[Target]:
    """All that a block assigns to."""
    for statement in every(block):
        yield from targets(statement)


def local_names(block: Block) -> set[str]:
    """The names of the local variables that a block assigns to."""
    found = {each.name for each in assigned(block) if isinstance(each, Local)}
    return found | {each.name for each in every(block) if isinstance(each, For)}


def mapped(
    statement: Statement, change: Callable[[Expression], Expression], inner: Callable[[Block], Block]
) -> Statement:
    """The statement with `change` applied to its expressions, including targets, and `inner` to its blocks.

    It is the same object if nothing changes, so that cached facts about it still hold.
    """

    def target(of: Target) -> Target:
        found = change(of)
        assert isinstance(found, Local | Member | Item), f"{found} cannot be assigned to"
        return found

    def call(of: Call) -> Call:
        found = change(of)
        assert isinstance(found, Call)
        return found

    match statement:
        case Assign(to, value):
            return _with_fields(statement, target(to), change(value))
        case AssignAll(found, value):
            return _with_fields(statement, kept(found, tuple(each and target(each) for each in found)), call(value))
        case Do(value):
            return _with_fields(statement, call(value))
        case If(test, yes, no):
            return _with_fields(statement, change(test), kept(yes, inner(yes)), kept(no, inner(no)))
        case For(name, first, end, body):
            return _with_fields(statement, name, change(first), change(end), kept(body, inner(body)))
        case Forever(body):
            return _with_fields(statement, kept(body, inner(body)))
        case Return(values):
            return _with_fields(statement, kept(values, tuple(change(each) for each in values)))
    return statement


def renamed(block: Block, names: dict[str, Expression]) -> Block:
    """The block with expressions in place of local variables; assigned ones must become other local variables."""

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Local) and expression.name in names:
            return names[expression.name]
        return rebuilt(expression, change)

    def name_of(name: str) -> str:
        found = names.get(name)
        return found.name if isinstance(found, Local) else name

    def each(inner: Block) -> Block:
        made = (mapped(statement, change, each) for statement in inner)
        return tuple(one.counted_by(name_of(one.name)) if isinstance(one, For) else one for one in made)

    return each(block)


def ends(block: Sequence[Statement]) -> bool:
    """Whether nothing after the block is reached."""
    if not block:
        return False
    last = block[-1]
    match last:
        case Return() | Forever():
            return True
        case If(_, yes, no):
            return ends(yes) and ends(no)
    return False
