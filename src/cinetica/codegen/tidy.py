"""Make the code read as if written by hand: fewer names, plain conditions, direct returns of calls."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import replace

from cinetica.codegen.coalesce import coalesced
from cinetica.codegen.expressions import (
    FUNCTIONS,
    Algebra,
    Call,
    Choose,
    Compare,
    Constant,
    Expression,
    Local,
    Member,
    Not,
)
from cinetica.codegen.prune import Functions
from cinetica.codegen.remarks import EQUATIONS
from cinetica.codegen.statements import (
    Assign,
    AssignAll,
    Block,
    For,
    Function,
    If,
    Remark,
    Return,
    Statement,
    Target,
    assigned,
    every,
    mapped,
    read,
    renamed,
    targets,
)

RECORDS = frozenset(("state", "numbers", "input", "course", "hit"))


def tidy(functions: Functions, algebra: Algebra) -> Functions:
    """The functions, tidied."""
    return {name: _tidied(each, algebra) for name, each in functions.items()}


def _tidied(function: Function, algebra: Algebra) -> Function:
    function = coalesced(function)
    reads = Counter(each.name for each in read(function.body) if isinstance(each, Local))
    body = _Tidier(reads, algebra).block(function.body)
    return function.with_body(body)


class _Tidier:
    """Tidies the blocks of a function."""

    def __init__(self, reads: Counter[str], algebra: Algebra) -> None:
        self.reads, self.algebra = reads, algebra

    def block(self, block: Block) -> Block:
        """The block, tidied."""
        found: list[Statement] = []
        for statement in block:
            if isinstance(statement, Remark) and statement.name not in EQUATIONS:
                continue
            made = self._statement(mapped(statement, lambda expression: expression, self.block))
            if isinstance(made, If) and len(made.yes) == 2 and not made.no and isinstance(made.yes[0], Remark):
                inner = made.yes[1]
                if isinstance(inner, If) and not inner.no:
                    found.append(made.yes[0])
                    made = If(self.algebra.logic("and", [made.test, inner.test]), inner.yes)
            before = next((each for each in reversed(found) if not isinstance(each, Remark)), None)
            if before is not None and _is_overwritten(before, made):
                found.remove(before)
            if before is not None and (joined := self._joined(before, made)) is not None:
                place = len(found) - 1 - found[::-1].index(before)
                # The comment on the second goes before both.
                found[place:] = [*found[place + 1 :], joined]
                continue
            if before is not None and (passed := self._passed_on(before, made)) is not None:
                place = len(found) - 1 - found[::-1].index(before)
                found[place] = passed
                continue
            found.append(made)
        return self._returns(found)

    def _statement(self, statement: Statement) -> Statement:
        match statement:
            case Assign(target, Choose(test, yes, no)) if no == target:
                return If(test, (Assign(target, yes),))
            case Assign(target, Choose(test, yes, no)) if yes == target:
                return If(self.algebra.no(test), (Assign(target, no),))
            case If(Compare(left, sign, right), (Assign(target, value),), ()) if left == target and right == value:
                if sign in ("<", ">") and not _calls(left) and not _calls(right):
                    larger = "max" if sign == "<" else "min"
                    return Assign(target, self.algebra.call(larger, [left, right]))
            case If(test, yes, (Remark() as remark, If() as inner)):
                # The comment before it moves inside: `else if` reads better than a nested block.
                return If(test, yes, (If(inner.test, (remark, *inner.yes), inner.no),))
            case If(test, yes, no) if yes and not no and len(yes) == 1 and isinstance(yes[0], If) and not yes[0].no:
                return If(self.algebra.logic("and", [test, yes[0].test]), yes[0].yes)
        return statement

    def _joined(self, before: Statement, statement: Statement) -> Statement | None:
        """Two conditions merged: identical ones, or one decided by the other; None if they are not."""
        if not (isinstance(before, If) and isinstance(statement, If)):
            return None
        if before.test == statement.test and not before.no and not _calls_program(before.test):
            if not _may_change(before.yes, before.test):
                return If(before.test, (*before.yes, *statement.yes), statement.no)
        test = statement.test.of if isinstance(statement.test, Not) else statement.test
        if isinstance(test, Local) and self.reads[test.name] == 1:
            ways = [_decided(way, test.name) for way in (before.yes, before.no)]
            if all(each is not None for each in ways):
                then, other = statement.yes, statement.no
                if isinstance(statement.test, Not):
                    then, other = other, then
                yes, no = (
                    (*way[:-1], *(then if decided else other))
                    for way, decided in zip((before.yes, before.no), ways, strict=True)
                )
                return If(before.test, yes, no)
        return None

    def _passed_on(self, before: Statement, statement: Statement) -> Statement | None:
        """The statement before, with the final value that this one alone sets; None if that does not apply."""
        if not (isinstance(statement, Assign) and isinstance(statement.value, Local)):
            return None
        name, target = statement.value.name, statement.target
        if self.reads[name] != 1 or not isinstance(target, Local | Member) or not _sets_last(before, name, target):
            return None
        if isinstance(target, Local) and _uses(before, target):
            return None
        return _setting(before, name, target)

    def _returns(self, block: list[Statement]) -> Block:
        """The statements without a condition whose two branches return the same."""
        while len(block) >= 2:
            last, one = block[-1], block[-2]
            match one, last:
                case If(test, (Return() as yes,), ()), Return() if yes == last and not _calls(test):
                    del block[-2]
                    continue
                case AssignAll(found, call), Return(values) if values == found and all(
                    isinstance(each, Local) and self.reads[each.name] == 1 for each in found
                ):
                    block[-2:] = [Return((call,))]
                    continue
            break
        return tuple(block)


def _is_overwritten(before: Statement, statement: Statement) -> bool:
    """Whether a statement overwrites the same field without reading it."""
    if not (isinstance(before, Assign) and isinstance(statement, Assign) and isinstance(before.target, Member)):
        return False
    plain = not _calls_program(before.value) and not _calls_program(statement.value)
    return plain and before.target == statement.target and before.target not in statement.value.everything


def _decided(block: Block, name: str) -> bool | None:
    """The constant to which a block assigns the name last; None if it does not, or not a constant."""
    last = block[-1] if block else None
    if isinstance(last, Assign) and isinstance(last.target, Local) and last.target.name == name:
        return bool(last.value.value) if isinstance(last.value, Constant) else None
    return None


def _may_change(block: Block, value: Expression) -> bool:
    """Whether a block assigns what the value reads, or calls something that might."""
    names = {(type(each), each.name) for each in value.everything if isinstance(each, Local | Member)}
    return any((type(each), getattr(each, "name", "")) in names for each in assigned(block)) or any(
        _calls_program(each) for each in read(block)
    )


def _calls_program(value: Expression) -> bool:
    return any(isinstance(each, Call) and each.function not in FUNCTIONS for each in value.everything)


def _calls(value: Expression) -> bool:
    return any(isinstance(each, Call) for each in value.everything)


def _sets_last(statement: Statement, name: str, target: Target) -> bool:
    """Whether each path through a statement sets the name, and then does nothing that involves the target."""
    match statement:
        case Assign(Local(name=found), _):
            return found == name
        case AssignAll(found, _):
            return any(isinstance(each, Local) and each.name == name for each in found)
        case If(_, yes, no):
            return _ends_with(yes, name, target) and _ends_with(no, name, target)
    return False


def _ends_with(block: Block, name: str, target: Target) -> bool:
    for statement in reversed(block):
        if _sets_last(statement, name, target):
            return True
        plain = isinstance(statement, Assign) and not _calls_program(statement.value)
        if not plain or any(_is_same(each, target) for each in [*read((statement,)), *assigned((statement,))]):
            return False
    return False


def _is_same(value: Expression, target: Target) -> bool:
    if isinstance(target, Local):
        return isinstance(value, Local) and value.name == target.name
    return isinstance(value, Member) and isinstance(target, Member) and value.name == target.name


def _uses(statement: Statement, target: Local) -> bool:
    return any(isinstance(each, Local) and each.name == target.name for each in read((statement,))) or any(
        isinstance(each, Local) and each.name == target.name for each in assigned((statement,))
    )


def _setting(statement: Statement, name: str, target: Target) -> Statement:
    """The statement with `target` set in place of the name."""

    def each(inner: Block) -> Block:
        return tuple(_setting(one, name, target) for one in inner)

    match statement:
        case Assign(Local(name=found), value) if found == name:
            return Assign(target, value)
        case AssignAll(found, value):
            return AssignAll(
                tuple(target if isinstance(one, Local) and one.name == name else one for one in found), value
            )
        case If(test, yes, no):
            return If(test, each(yes), each(no))
    return statement


def short_names(functions: Functions) -> Functions:
    """The functions with each local variable under its own name, numbered only if another has it."""
    # In some languages a local variable would hide a function.
    plain = {re.sub(r"(_\d+)+$", "", name) for name in functions}
    return {name: _with_short_names(each, RECORDS | plain | functions.keys()) for name, each in functions.items()}


def _with_short_names(function: Function, others: frozenset[str] | set[str]) -> Function:
    taken = {each.name for each in function.parameters} | others
    names: dict[str, Expression] = {}
    for statement in every(function.body):
        found: list[Target | str] = [*targets(statement)]
        if isinstance(statement, For):
            found.append(statement.name)
        for each in found:
            name = each if isinstance(each, str) else each.name if isinstance(each, Local) else ""
            if not name or name in names or name in {one.name for one in function.parameters}:
                continue
            plain = re.sub(r"^new(_\d+)+$", "result", re.sub(r"(?<=[a-z])(_\d+)+$", "", name))
            plain = "result" if plain == "new" else plain
            free, count = plain, 2
            while free in taken:
                free, count = f"{plain}_{count}", count + 1
            taken.add(free)
            known = each if isinstance(each, Local) else Local(name=name, kind="whole")
            names[name] = replace(known, name=free)
    return function.with_body(renamed(function.body, names))
