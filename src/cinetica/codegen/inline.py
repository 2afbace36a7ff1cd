"""Inline functions that are called once, or that are a single expression."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from cinetica.codegen.expressions import (
    FUNCTIONS,
    Algebra,
    Binary,
    Call,
    Choose,
    Constant,
    Expression,
    Local,
    Logic,
    Member,
    Negative,
    Not,
    Rows,
    rebuilt,
)
from cinetica.codegen.prune import Functions
from cinetica.codegen.statements import (
    Assign,
    AssignAll,
    Block,
    Do,
    For,
    Forever,
    Function,
    If,
    Remark,
    Return,
    Statement,
    Target,
    assigned,
    ends,
    every,
    local_names,
    mapped,
    own_expressions,
    read,
)

# An expression of up to this many parts is as readable inline as under a name.
SHORT = 8
# Functions that read better on their own, even if called once.
KEPT = ("toward", "opposed", "swept", "key_axis", "shape_stick", "intend", "climb")


def merged_alike(functions: Functions, entries: Iterable[str]) -> Functions:
    """The functions without duplicates: those made for other units or arguments may be identical."""
    found = dict(functions)
    while True:
        first: dict[object, str] = {}
        same: dict[str, str] = {}
        for name in sorted(found, key=lambda each: (each not in entries, len(each), each)):
            form = found[name].form
            if form in first:
                same[name] = first[form]
            else:
                first[form] = name
        if not same:
            return found

        found = {name: with_calls(each, same) for name, each in found.items() if name not in same}


def with_calls(function: Function, names: Mapping[str, str]) -> Function:
    """The function with calls redirected to other functions."""

    def change(expression: Expression) -> Expression:
        expression = rebuilt(expression, change)
        if isinstance(expression, Call) and expression.function in names:
            return replace(expression, function=names[expression.function])
        return expression

    return _changed(function, change)


def _changed(function: Function, change: object) -> Function:
    def each(inner: Block) -> Block:
        return tuple(mapped(statement, change, each) for statement in inner)  # type: ignore[arg-type]

    return function.with_body(each(function.body))


def inlined(functions: Functions, entries: Iterable[str], algebra: Algebra) -> Functions:
    """The functions with short ones, and those that are called once, inlined."""
    found, entries = dict(functions), frozenset(entries)
    # Leaves first, so that inlined code moves along with its function.
    for name in _callees_first(found):
        function = found[name]
        callers = [one for one, each in found.items() if name in each.calls]
        calls = sum(found[one].calls[name] for one in callers)
        if name in entries:
            continue
        few = len(function.body) <= 2 and all(isinstance(each, Assign) for each in function.body)
        if _expression_of(function) is not None and (calls == 1 or _size(function) <= SHORT):
            found |= {one: _Expressions(function, algebra).into(found[one]) for one in callers}
        elif function.origin not in KEPT and (few or (calls == 1 and _returns_in_order(function.body))):
            found |= {one: _Statements(function, algebra).into(found[one]) for one in callers}
        if not any(name in found[one].calls for one in callers):
            del found[name]
    return found


def _callees_first(functions: Functions) -> list[str]:
    order: dict[str, None] = {}

    def add(name: str) -> None:
        for other in sorted(functions[name].calls.keys() - order.keys()):
            add(other)
        order[name] = None

    for name in functions:
        if name not in order:
            add(name)
    return list(order)


def _expression_of(function: Function) -> Expression | None:
    """The expression, if it is the whole body of the function."""
    if len(function.body) == 1 and isinstance(function.body[0], Return) and len(function.body[0].values) == 1:
        return function.body[0].values[0]
    return None


def _size(function: Function) -> int:
    value = _expression_of(function)
    return sum(1 for _ in value.everything) if value is not None else 0


def is_simple(value: Expression) -> bool:
    """Whether a value is as short as its name."""
    value = value.of if isinstance(value, Negative | Not) else value
    return isinstance(value, Local | Constant | Member | Rows)


class _Expressions:
    """Replaces calls of a function by its expression."""

    def __init__(self, function: Function, algebra: Algebra) -> None:
        value = _expression_of(function)
        assert value is not None
        self.function, self.value, self.algebra = function, value, algebra
        self.uses = Counter(each.name for each in value.everything if isinstance(each, Local | Rows))

    def into(self, function: Function) -> Function:
        """The function with its calls replaced by the expression."""
        return _changed(function, self._change)

    def _change(self, expression: Expression) -> Expression:
        expression = tidied(rebuilt(expression, self._change), self.algebra)
        if not (isinstance(expression, Call) and expression.function == self.function.name):
            return expression
        values = dict(zip((each.name for each in self.function.parameters), expression.arguments, strict=True))
        if any(self.uses[name] > 1 and not is_simple(value) for name, value in values.items()):
            return expression
        return _with(self.value, values, self.algebra)


def _with(expression: Expression, values: dict[str, Expression], algebra: Algebra) -> Expression:
    if isinstance(expression, Local | Rows) and expression.name in values and not getattr(expression, "record", ""):
        return values[expression.name]
    return tidied(rebuilt(expression, lambda part: _with(part, values, algebra)), algebra)


def tidied(expression: Expression, algebra: Algebra) -> Expression:
    """The expression, simplified again."""
    if isinstance(expression, Not):
        return algebra.no(expression.of)
    if isinstance(expression, Negative):
        return algebra.negative(expression.of)
    if isinstance(expression, Logic):
        return algebra.logic(expression.operator, list(expression.terms))
    if isinstance(expression, Binary) and expression.operator == "+":
        return algebra.add(expression.left, expression.right)
    if isinstance(expression, Binary) and expression.operator == "-":
        return algebra.subtract(expression.left, expression.right)
    return expression


def _returns_in_order(block: Block) -> bool:
    """Whether each return ends the function by its position alone: none is in a loop, none has to be duplicated."""
    for place, statement in enumerate(block):
        if isinstance(statement, For | Forever):
            if any(isinstance(each, Return) for each in every(statement.body)):
                return False
        elif isinstance(statement, If) and any(isinstance(each, Return) for each in every((statement,))):
            if not (_returns_in_order(statement.yes) and _returns_in_order(statement.no)):
                return False
            if place < len(block) - 1 and not ends(statement.yes) and not ends(statement.no):
                return False
    return True


class _Statements:
    """Replaces the call of a function that is called once by its statements."""

    def __init__(self, function: Function, algebra: Algebra) -> None:
        self.function, self.algebra = function, algebra

    def into(self, function: Function) -> Function:
        """The function with the call replaced by the statements."""
        self.taken = local_names(function.body) | {each.name for each in function.parameters}
        return function.with_body(self._block(function.body))

    def _block(self, block: Block) -> Block:
        made: list[Statement] = []
        for statement in block:
            made += self._statement(statement)
        return tuple(made)

    def _statement(self, statement: Statement) -> list[Statement]:
        match statement:
            case Do(value) if value.function == self.function.name:
                return self._in_place(value, ())
            case Assign(target, Call() as value) if value.function == self.function.name:
                return self._in_place(value, (target,))
            case AssignAll(found, value) if value.function == self.function.name:
                return self._in_place(value, found)
            case Return((Call() as value,)) if value.function == self.function.name and len(self.function.results) == 1:
                return list(self._body(value))
            case If(test, yes, no):
                return self._under(test, yes, no, statement)
        return [mapped(statement, lambda expression: expression, self._block)]

    def _under(self, test: Expression, yes: Block, no: Block, statement: Statement) -> list[Statement]:
        """A condition that is the call, alone or first: its result gets a name."""
        first = test.terms[0] if hasattr(test, "terms") else test
        call = first.of if isinstance(first, Not) else first
        if not (isinstance(call, Call) and call.function == self.function.name):
            return [mapped(statement, lambda expression: expression, self._block)]
        name = self._free(self.function.origin if self.function.origin not in self.taken else "found")
        local = Local(name=name, kind="flag")
        asked: Expression = Not(local, kind="flag") if isinstance(first, Not) else local
        if hasattr(test, "terms"):
            asked = replace(test, terms=(asked, *test.terms[1:]))  # type: ignore[call-arg]
        return [*self._in_place(call, (local,)), If(asked, yes, no)]

    def _in_place(self, call: Call, targets: tuple[Target | None, ...]) -> list[Statement]:
        body = self._body(call)
        short = all(isinstance(each, Assign | Return) for each in self.function.body) and len(self.function.body) <= 2
        remark = [] if short else [Remark(self.function.origin)]
        return [*remark, *_with_results(body, targets)]

    def _body(self, call: Call) -> Block:
        """The statements with the arguments bound to names that the caller does not use."""
        body, function = self.function.body, self.function
        changed = {each.name for each in assigned(body) if isinstance(each, Local)}
        members = {each.name for each in assigned(body) if isinstance(each, Member)}
        names: dict[str, Expression] = {}
        bound: list[Statement] = []
        for parameter, value in zip(function.parameters, call.arguments, strict=True):
            if parameter.name not in changed and self._stays(value, members):
                names[parameter.name] = value
            else:
                local = Local(
                    name=self._free(parameter.name), kind=parameter.kind, unit=parameter.unit, odd=parameter.odd
                )
                names[parameter.name] = local
                bound.append(Assign(local, value))
        typed = {each.name: each for each in assigned(body) if isinstance(each, Local)}
        for name in sorted(local_names(body) - names.keys()):
            known = typed.get(name)
            local = (
                Local(name=self._free(name), kind="whole") if known is None else replace(known, name=self._free(name))
            )
            names[name] = local
        return (*bound, *_renamed(body, names, self.algebra))

    def _stays(self, value: Expression, members: set[str]) -> bool:
        """Whether the value is short and does not change during the statements."""
        if not is_simple(value):
            return False
        return not any(isinstance(each, Member) and each.name in members for each in value.everything)

    def _free(self, wanted: str) -> str:
        name, count = wanted, 2
        while name in self.taken:
            name, count = f"{wanted}_{count}", count + 1
        self.taken.add(name)
        return name


def _renamed(block: Block, names: dict[str, Expression], algebra: Algebra) -> Block:
    """The block with locals and lists renamed, or replaced by values."""

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Local) or (isinstance(expression, Rows) and not expression.record):
            return names.get(expression.name, expression)
        return tidied(rebuilt(expression, change), algebra)

    def each(inner: Block) -> Block:
        made = (mapped(statement, change, each) for statement in inner)
        return tuple(one.counted_by(_counter(one, names)) if isinstance(one, For) else one for one in made)

    return each(block)


def _counter(loop: For, names: dict[str, Expression]) -> str:
    found = names.get(loop.name)
    return found.name if isinstance(found, Local) else loop.name


def _with_results(block: Block, targets: tuple[Target | None, ...]) -> Block:
    """The block with its results assigned to the targets instead of returned."""
    made: list[Statement] = []
    for place, statement in enumerate(block):
        if isinstance(statement, Return):
            return (*made, *_assignments(statement.values, targets))
        if isinstance(statement, If) and any(isinstance(each, Return) for each in every((statement,))):
            rest = block[place + 1 :]
            yes = statement.yes if ends(statement.yes) else (*statement.yes, *rest)
            no = statement.no if ends(statement.no) else (*statement.no, *rest)
            made.append(If(statement.test, _with_results(yes, targets), _with_results(no, targets)))
            return tuple(made)
        made.append(statement)
    return tuple(made)


def _assignments(values: tuple[Expression, ...], targets: tuple[Target | None, ...]) -> list[Statement]:
    if len(targets) > 1 and len(values) == 1 and isinstance(values[0], Call):
        return [AssignAll(targets, values[0])]
    pairs = [(to, value) for to, value in zip(targets, values, strict=False) if to is not None and to != value]
    held: list[Statement] = []
    made: list[Statement] = []
    for place, (to, value) in enumerate(pairs):
        if any(_same_place(each, before) for before, _ in pairs[:place] for each in value.everything):
            # The value reads what an earlier assignment of the group sets.
            local = Local(name=f"held_{place}_{len(values)}", kind=value.kind, unit=value.unit, odd=value.odd)
            held.append(Assign(local, value))
            value = local
        made.append(Assign(to, value))
    return [*held, *made]


def _same_place(value: Expression, target: Target) -> bool:
    if isinstance(target, Local):
        return isinstance(value, Local) and value.name == target.name
    if isinstance(target, Member):
        return isinstance(value, Member) and (value.record, value.name) == (target.record, target.name)
    return False


def joined(functions: Functions, algebra: Algebra) -> Functions:
    """The functions without locals that only pass a value on."""
    found = {name: _copied(each, algebra) for name, each in functions.items()}
    pure = _all_through(found, lambda each: all(isinstance(to, Local) for to in assigned(each.body)))
    blind = _all_through(found, lambda each: not any(isinstance(part, Member | Rows) for part in read(each.body)))
    return {
        name: each.with_body(_Joiner(each, algebra, pure, pure & blind).block(each.body))
        for name, each in found.items()
    }


def _all_through(functions: Functions, holds: Callable[[Function], bool]) -> frozenset[str]:
    """The functions that fulfil a condition, together with all functions that they call."""
    found = frozenset(name for name, each in functions.items() if holds(each))
    while True:
        fewer = frozenset(name for name in found if functions[name].calls.keys() <= found)
        if fewer == found:
            return found
        found = fewer


def _copied(function: Function, algebra: Algebra) -> Function:
    """The function without second names for values that have a name and do not change."""
    writes = Counter(each.name for each in assigned(function.body) if isinstance(each, Local))
    fixed = {each.name for each in function.parameters if not writes[each.name]}
    names: dict[str, Expression] = {}
    for statement in every(function.body):
        if not (isinstance(statement, Assign) and isinstance(statement.target, Local)):
            continue
        name, value = statement.target.name, statement.value
        inner = value.of if isinstance(value, Negative) else value
        lasts = (isinstance(inner, Local) and inner.name in fixed) or (
            isinstance(inner, Member) and inner.record in ("numbers", "input", "hit")
        )
        if lasts and writes[name] == 1 and name not in {each.name for each in function.parameters}:
            names[name] = value
    if not names:
        return function

    def change(expression: Expression) -> Expression:
        if isinstance(expression, Local) and expression.name in names:
            return names[expression.name]
        return tidied(rebuilt(expression, change), algebra)

    def block(inner: Block) -> Block:
        return tuple(
            mapped(each, change, block)
            for each in inner
            if not (isinstance(each, Assign) and isinstance(each.target, Local) and each.target.name in names)
        )

    return function.with_body(block(function.body))


class _Joiner:
    """Replaces names that the next statement uses once by their values."""

    def __init__(self, function: Function, algebra: Algebra, pure: frozenset[str], blind: frozenset[str]) -> None:
        # Functions without side effects, and those among them that depend only on their arguments.
        self.algebra, self.pure, self.blind = algebra, pure, blind
        self.reads = Counter(each.name for each in read(function.body) if isinstance(each, Local))
        self.writes = Counter(each.name for each in assigned(function.body) if isinstance(each, Local))
        self.parameters = {each.name for each in function.parameters}

    def block(self, block: Block) -> Block:
        """The block with such names replaced."""
        found = list(block)
        place = 0
        while place < len(found):
            statement = found[place]
            inner = mapped(statement, lambda expression: expression, self.block)
            found[place] = inner
            following = self._following(found, place)
            if following is not None and self._passes_on(found, place, following):
                place = max(0, place - 1)
                continue
            place += 1
        return tuple(found)

    def _following(self, found: list[Statement], place: int) -> int | None:
        for after in range(place + 1, len(found)):
            if not isinstance(found[after], Remark):
                return after
        return None

    def _passes_on(self, found: list[Statement], place: int, after: int) -> bool:
        statement, following = found[place], found[after]
        match statement:
            case AssignAll(targets, call) if isinstance(following, Assign) and isinstance(following.value, Local):
                passed = following.value
                if (
                    self._is_once(passed.name)
                    and any(each == passed for each in targets)
                    and following.target not in targets
                ):
                    found[place] = AssignAll(
                        tuple(following.target if each == passed else each for each in targets), call
                    )
                    del found[after]
                    return True
            case Assign(Local() as target, value) if self._is_once(target.name):
                user = self._user(found, place, target.name, value)
                if user is None or (isinstance(value, Choose) and not _takes_over(found[user], target.name)):
                    # A conditional expression inside another reads worse than its name.
                    return False
                found[user] = _put(found[user], target.name, value, self.algebra)
                del found[place]
                return True
        return False

    def _user(self, found: list[Statement], place: int, name: str, value: Expression) -> int | None:
        """The statement that reads a name, if its value is still the same there; else None."""
        reads = {(type(each), each.name) for each in value.everything if isinstance(each, Local | Member)}
        acts, calls = self._calls(value, self.pure), self._calls(value, self.blind)
        for after in range(place + 1, len(found)):
            statement = found[after]
            if isinstance(statement, Remark):
                continue
            if isinstance(statement, For | Forever):
                return None
            if self._is_read_first(statement, name):
                return after
            plain = isinstance(statement, Assign) and not self._calls(statement.value, self.pure) and not acts
            if calls and isinstance(statement, Assign) and isinstance(statement.target, Member):
                # A called function may read it.
                return None
            if not plain or any((type(each), getattr(each, "name", "")) in reads for each in assigned((statement,))):
                return None
        return None

    def _is_once(self, name: str) -> bool:
        return self.reads[name] == 1 and self.writes[name] == 1 and name not in self.parameters

    def _is_read_first(self, statement: Statement, name: str) -> bool:
        """Whether the statement's own expressions read the name, and nothing with a side effect comes before."""
        own = [each for each in own_expressions(statement) for each in each.everything]
        reads = any(isinstance(each, Local) and each.name == name for each in own)
        return reads and not any(self._calls(each, self.pure) for each in own)

    def _calls(self, value: Expression, harmless: frozenset[str]) -> bool:
        """Whether a value contains a call of a function that may have side effects."""
        return any(
            isinstance(each, Call) and each.function not in FUNCTIONS and each.function not in harmless
            for each in value.everything
        )


def _takes_over(statement: Statement, name: str) -> bool:
    """Whether a statement uses a name as the whole of a value, and not as a part."""
    return any(isinstance(each, Local) and each.name == name for each in own_expressions(statement))


def _put(statement: Statement, name: str, value: Expression, algebra: Algebra) -> Statement:
    def change(expression: Expression) -> Expression:
        if isinstance(expression, Local) and expression.name == name:
            return value
        return tidied(rebuilt(expression, change), algebra)

    return mapped(statement, change, lambda inner: inner)
