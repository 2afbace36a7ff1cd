"""Dead code elimination: remove unread values, unneeded fields of the state, functions and parameters."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from cinetica.codegen.expressions import (
    Algebra,
    Call,
    Choose,
    Expression,
    Item,
    Local,
    Logic,
    Member,
    Negative,
    Not,
    rebuilt,
)
from cinetica.codegen.statements import (
    Assign,
    AssignAll,
    Block,
    Do,
    Fact,
    For,
    Forever,
    Function,
    If,
    Remark,
    Return,
    Statement,
    every,
    kept,
    local_names,
    mapped,
    own_expressions,
)

Functions = dict[str, Function]


def pruned(
    functions: Mapping[str, Function], entries: Iterable[str], wanted: Iterable[str], algebra: Algebra
) -> Functions:
    """The functions without what does not affect the `wanted` fields of the state."""
    found, entries, wanted = dict(functions), tuple(entries), frozenset(wanted)
    while True:
        before = found
        found = _reachable(found, entries)
        live = _live_fields(found, wanted)
        acting = _acting(found, live)
        found = {name: each.with_body(_Pruner(live, acting, algebra).body(each)) for name, each in found.items()}
        found = _without_unused_parameters(found, entries)
        found = _without_unused_results(found, entries)
        if found == before:
            return found


def _reachable(functions: Functions, entries: tuple[str, ...]) -> Functions:
    found: set[str] = set()
    open_ones = list(entries)
    while open_ones:
        name = open_ones.pop()
        if name not in found:
            found.add(name)
            open_ones += functions[name].calls
    return {name: each for name, each in functions.items() if name in found}


def _live_fields(functions: Functions, wanted: frozenset[str]) -> frozenset[str]:
    """The fields of the state that are wanted, or read for anything but a field that nobody reads."""
    live = wanted
    while True:
        acting = _acting(functions, live)
        more = live.union(*(_read_fields(each.facts, live, acting) for each in functions.values()))
        if more == live:
            return live
        live = more


def _read_fields(facts: tuple[Fact, ...], live: frozenset[str], acting: frozenset[str]) -> set[str]:
    """The fields of the state that statements with an effect on live fields read, also through local variables."""
    names: set[str] = set()
    while True:
        fields: set[str] = set()
        reads = set(names)
        for fact in facts:
            _matters(fact, live, acting, names, fields, reads)
        if reads == names:
            return fields
        names = reads


def _matters(
    fact: Fact, live: frozenset[str], acting: frozenset[str], names: set[str], fields: set[str], reads: set[str]
) -> bool:
    """Whether a statement affects live fields or these local variables, or returns; adds what it reads."""
    matters = (
        fact.returns
        or not fact.sets_fields.isdisjoint(live)
        or not fact.sets_locals.isdisjoint(names)
        or not fact.calls.isdisjoint(acting)
    )
    for inner in fact.inner:
        matters = _matters(inner, live, acting, names, fields, reads) or matters
    if matters:
        fields |= fact.fields
        reads |= fact.locals
    return matters


def _acting(functions: Functions, live: frozenset[str]) -> frozenset[str]:
    """The functions that change a live field."""
    found = frozenset(name for name, function in functions.items() if any(_sets(each, live) for each in function.facts))
    while True:
        more = found | {name for name, function in functions.items() if function.calls.keys() & found}
        if more == found:
            return found
        found = more


def _sets(fact: Fact, live: frozenset[str]) -> bool:
    return not fact.sets_fields.isdisjoint(live) or any(_sets(each, live) for each in fact.inner)


class _Pruner:
    """Goes backward through a function, keeping track of the live local variables."""

    def __init__(self, live: frozenset[str], acting: frozenset[str], algebra: Algebra) -> None:
        self.live, self.acting, self.algebra = live, acting, algebra

    def body(self, function: Function) -> Block:
        """The body without dead code."""
        made, _ = self.block(function.body, set())
        while made and made[-1] == Return():
            made = made[:-1]
        return made

    def block(self, block: Block, after: set[str]) -> tuple[Block, set[str]]:
        """The block, and the local variables that it reads before it assigns them."""
        made: list[Statement] = []
        needed = set(after)
        for statement in reversed(block):
            left, needed = self.statement(statement, needed)
            made[:0] = left
        return kept(block, tuple(made)), needed

    def statement(self, statement: Statement, after: set[str]) -> tuple[list[Statement], set[str]]:
        """What remains of a statement, and the local variables that are live before it."""
        match statement:
            case Assign(target, value):
                return self._assign(statement, target, value, after)
            case AssignAll(targets, value):
                used = tuple(each if self._is_needed(each, after) else None for each in targets)
                if not any(used) and value.function not in self.acting:
                    return [], after
                needed = after - {each.name for each in used if isinstance(each, Local)}
                if not any(used):
                    return [Do(value)], needed | _locals(value)
                items = [each for each in used if isinstance(each, Item)]
                made = statement if kept(targets, used) is targets else AssignAll(used, value)
                return [made], needed | _locals(value, *items)
            case Do(value):
                return ([statement], after | _locals(value)) if value.function in self.acting else ([], after)
            case If():
                return self._if(statement, after)
            case For():
                return self._for(statement, after)
            case Forever(body):
                again = after | local_names(body)
                _, needed = self.block(body, again)
                left, needed = self.block(body, needed)
                return [statement if left is body else Forever(left)], needed
            case Return(values):
                return [statement], _locals(*values)
        return [statement], after

    def _is_needed(self, target: Local | Member | Item | None, after: set[str]) -> bool:
        match target:
            case None:
                return False
            case Local(name=name):
                return name in after
            case Member(record="state", name=name):
                return name in self.live
            case Item(rows=rows):
                return rows.name in self.live
        return True

    def _assign(
        self, statement: Assign, target: Local | Member | Item, value: Expression, after: set[str]
    ) -> tuple[list[Statement], set[str]]:
        if target == value or not self._is_needed(target, after):
            return self._effects(value), after | _locals(value)
        needed = after - {target.name} if isinstance(target, Local) else after
        return [statement], needed | _locals(value, *([target.index] if isinstance(target, Item) else []))

    def _effects(self, value: Expression) -> list[Statement]:
        """What remains of an unread value: the calls in it with side effects, under their conditions."""
        if not any(isinstance(each, Call) and each.function in self.acting for each in value.everything):
            return []
        match value:
            case Call(function) if function in self.acting:
                return [Do(value)]
            case Logic(operator, (first, *rest)) if not self._effects(first):
                asked = first if operator == "and" else self.algebra.no(first)
                return [If(asked, tuple(self._effects(self.algebra.logic(operator, list(rest)))))]
            case Choose(test, yes, no) if not self._effects(test):
                return [If(test, tuple(self._effects(yes)), tuple(self._effects(no)))]
            case Not() | Negative():
                return self._effects(value.of)
        raise ValueError(f"what {value} does has no form of its own")

    def _if(self, statement: If, after: set[str]) -> tuple[list[Statement], set[str]]:
        test = statement.test
        yes, after_yes = self.block(statement.yes, after)
        no, after_no = self.block(statement.no, after)
        yes, no = (() if all(isinstance(each, Remark) for each in one) else one for one in (yes, no))
        if (not yes and not no) or yes == no:
            effects = self._effects(test)
            return [*effects, *yes], after_yes | _locals(test) if effects else after_yes
        if not yes or (isinstance(test, Not) and no):
            test, yes, no = self.algebra.no(test), no, yes
        if len(yes) == 1 and isinstance(yes[0], If) and not no and not yes[0].no:
            test, yes = self.algebra.logic("and", [test, yes[0].test]), yes[0].yes
        same = test is statement.test and yes is statement.yes and no is statement.no
        return [statement if same else If(test, yes, no)], after_yes | after_no | _locals(test)

    def _for(self, loop: For, after: set[str]) -> tuple[list[Statement], set[str]]:
        again = after
        while True:
            made, needed = self.block(loop.body, again)
            if needed | again == again:
                break
            again = again | needed
        if not made:
            return [], after
        left = loop if made is loop.body else replace(loop, body=made)
        return [left], (again | _locals(loop.first, loop.end)) - {loop.name}


def _locals(*expressions: Expression) -> set[str]:
    """The local variables, including rows, that expressions read."""
    return set().union(*(each.locals for each in expressions))


def _without_unused_parameters(functions: Functions, entries: tuple[str, ...]) -> Functions:
    unused = {
        name: [place for place, each in enumerate(function.parameters) if each.name not in function.local_reads]
        for name, function in functions.items()
        if name not in entries
    }

    def change(expression: Expression) -> Expression:
        expression = rebuilt(expression, change)
        if isinstance(expression, Call) and unused.get(expression.function):
            kept = tuple(
                each for place, each in enumerate(expression.arguments) if place not in unused[expression.function]
            )
            return replace(expression, arguments=kept)
        return expression

    if not any(unused.values()):
        return functions
    return {
        name: replace(
            function,
            body=_changed(function.body, change),
            parameters=tuple(
                each for place, each in enumerate(function.parameters) if place not in unused.get(name, ())
            ),
        )
        for name, function in functions.items()
    }


def _changed(block: Block, change: object) -> Block:
    return tuple(mapped(each, change, lambda inner: _changed(inner, change)) for each in block)  # type: ignore[arg-type]


def _without_unused_results(functions: Functions, entries: tuple[str, ...]) -> Functions:
    """Functions return fewer results if some are never used."""
    used: dict[str, set[int]] = {}
    for function in functions.values():
        for statement in every(function.body):
            if isinstance(statement, AssignAll):
                places = {place for place, each in enumerate(statement.targets) if each is not None}
                used.setdefault(statement.value.function, set()).update(places)
            for expression in own_expressions(statement):
                for each in expression.everything:
                    if isinstance(each, Call) and isinstance(statement, Do) and each is statement.value:
                        used.setdefault(each.function, set())
                    elif isinstance(each, Call) and not (isinstance(statement, AssignAll) and each is statement.value):
                        # All of them, if a function passes them on.
                        every_one = functions[each.function].results if each.function in functions else ()
                        used.setdefault(each.function, set()).update(range(len(every_one)))
    found = dict(functions)
    for name, places in used.items():
        if name not in functions or name in entries or len(places) == len(functions[name].results):
            continue
        if any(
            isinstance(each, Return) and len(each.values) != len(functions[name].results)
            for each in every(functions[name].body)
        ):
            # It passes all results of another on.
            continue
        found = _with_results(found, name, sorted(places))
    return found


def _with_results(functions: Functions, name: str, places: list[int]) -> Functions:
    function = functions[name]
    results = tuple(function.results[place] for place in places)

    def cut(block: Block) -> Block:
        return tuple(
            Return(tuple(each.values[place] for place in places))
            if isinstance(each, Return) and each.values
            else mapped(each, lambda expression: expression, cut)
            for each in block
        )

    def calls(block: Block) -> Block:
        made: list[Statement] = []
        for each in block:
            if isinstance(each, AssignAll) and each.value.function == name:
                targets = tuple(each.targets[place] for place in places)
                if len(targets) == 1 and targets[0] is not None:
                    value = replace(each.value, kind=results[0].kind, unit=results[0].unit, odd=results[0].odd)
                    made.append(Assign(targets[0], value))
                else:
                    made.append(AssignAll(targets, each.value) if targets else Do(each.value))
            else:
                made.append(mapped(each, lambda expression: expression, calls))
        return tuple(made)

    found = functions | {name: replace(function, body=cut(function.body), results=results)}
    return {one: each.with_body(calls(each.body)) for one, each in found.items()}
