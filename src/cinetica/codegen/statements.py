"""Statements and functions of the generated code."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

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
    within,
)

Target = Local | Member | Item


@dataclass(frozen=True)
class Assign:
    """One value for one variable or field."""

    target: Target
    value: Expression


@dataclass(frozen=True)
class AssignAll:
    """The results of a call, each for a variable or field; None where a result is not used."""

    targets: tuple[Target | None, ...]
    value: Call


@dataclass(frozen=True)
class Do:
    """A call for what it does alone."""

    value: Call


@dataclass(frozen=True)
class If:
    """Statements under a condition."""

    test: Expression
    yes: tuple[Statement, ...]
    no: tuple[Statement, ...] = ()


@dataclass(frozen=True)
class For:
    """A loop over whole numbers, from `first` up to `end`."""

    name: str
    first: Expression
    end: Expression
    body: tuple[Statement, ...]


@dataclass(frozen=True)
class Forever:
    """A loop that only a return ends."""

    body: tuple[Statement, ...]


@dataclass(frozen=True)
class Return:
    """The results of a function."""

    values: tuple[Expression, ...] = ()


@dataclass(frozen=True)
class Remark:
    """What the statements after it do, in words; `name` is the function of the kernel that they come from."""

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
    # The type of the rows, where it is a list of them.
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
    return tuple(_fact(statement) for statement in block if not isinstance(statement, Remark))


def _fact(statement: Statement) -> Fact:
    own = [part for expression in own_expressions(statement) for part in within(expression)]
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
    """A function; `origin` is its name in the kernel, `name` the one that it has in the code."""

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
    def facts(self) -> tuple[Fact, ...]:
        """What its statements read, set and call."""
        return _facts(self.body)


def blocks(statement: Statement) -> tuple[Block, ...]:
    """The blocks in a statement."""
    match statement:
        case If(_, yes, no):
            return yes, no
        case For() | Forever():
            return (statement.body,)
    return ()


def every(block: Block) -> Iterator[Statement]:
    """All statements of a block, and those in them."""
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
    """All expressions in a block that are read, with their parts."""
    for statement in every(block):
        for expression in own_expressions(statement):
            yield from within(expression)


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
    """The statement with `change` applied to its expressions, targets too, and `inner` to its blocks."""

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
            return Assign(target(to), change(value))
        case AssignAll(found, value):
            return AssignAll(tuple(each and target(each) for each in found), call(value))
        case Do(value):
            return Do(call(value))
        case If(test, yes, no):
            return If(change(test), inner(yes), inner(no))
        case For(name, first, end, body):
            return For(name, change(first), change(end), inner(body))
        case Forever(body):
            return Forever(inner(body))
        case Return(values):
            return Return(tuple(change(each) for each in values))
    return statement


def renamed(block: Block, names: dict[str, Expression]) -> Block:
    """The block with expressions in place of local variables; those assigned to must become other local variables."""

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Local) and expression.name in names:
            return names[expression.name]
        return rebuilt(expression, change)

    def name_of(name: str) -> str:
        found = names.get(name)
        return found.name if isinstance(found, Local) else name

    def each(inner: Block) -> Block:
        made = (mapped(statement, change, each) for statement in inner)
        return tuple(replace(one, name=name_of(one.name)) if isinstance(one, For) else one for one in made)

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
