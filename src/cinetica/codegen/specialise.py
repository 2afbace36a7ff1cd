"""Specialise the kernel's functions: insert known values, and drop what cannot happen (partial evaluation).

A function is processed once for every set of known arguments. What its tree computes from known values becomes a
constant, a branch known not to be taken is left out, and everything else becomes a statement of the code.
"""

from __future__ import annotations

import ast
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from cinetica.codegen.expressions import (
    FALSE,
    FUNCTIONS,
    TRUE,
    Algebra,
    Call,
    Constant,
    Count,
    Expression,
    Item,
    Kind,
    Local,
    Member,
    Rows,
    Unit,
    flag,
)
from cinetica.codegen.source import Source, source_of
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
    Parameter,
    Return,
    Statement,
    Target,
    mapped,
)


class CannotBeWritten(ValueError):
    """The kernel uses something that the generated code has no form for."""


@dataclass(frozen=True)
class Record:
    """A record that functions take whole: `state`, `numbers`, `input`, `course` or `hit`."""

    name: str


@dataclass(frozen=True)
class Column:
    """A column of a row, or a field of a record: its type, and whether its sign changes if y points down."""

    name: str
    kind: Kind = "number"
    unit: Unit = None
    odd: bool = False


# The results of a call that returns several.
Results = tuple[Any, ...]
Value = Expression | Record | Results
# Replaces a function of the kernel; takes its arguments, and returns None if the function itself is to be used.
Answer = Callable[[Sequence[Value]], Value | None]


@dataclass
class Setting:
    """What is known about everything outside the functions.

    `members`: the fields of each record, or their known values. `rows`: the columns of each type of row.
    `answers`: replacements for functions of the kernel.
    """

    algebra: Algebra
    y_down: bool
    members: Mapping[str, Mapping[str, Column | Expression]]
    rows: Mapping[str, tuple[Column, ...]]
    answers: Mapping[str, Answer] = field(default_factory=dict)
    # Parameters that stay free even if they are known, so that one function serves all.
    free: Mapping[str, frozenset[str]] = field(default_factory=dict)
    # Values that fields of the state are assumed to have in every tick.
    always: Mapping[str, Constant] = field(default_factory=dict)

    def turned(self, value: Expression) -> Expression:
        """The kernel's form of a value of the game: negated if y points down."""
        return self.algebra.negative(value) if self.y_down and value.odd else value


class Specialiser:
    """Makes functions, each once for every set of known arguments."""

    def __init__(self, setting: Setting) -> None:
        self.setting = setting
        # By name and known arguments: the function with all of its results, including known ones.
        self.functions: dict[str, Function] = {}
        self._made: dict[tuple[Any, ...], tuple[Function, Results]] = {}
        # Functions that assign a field, directly or through functions that they call.
        self._acting: set[str] = set()
        # What has been assigned to each field of the state: a constant, or None for anything else.
        self.stored: dict[str, set[Constant | None]] = {}

    def entry(self, function: Callable[..., Any], arguments: Sequence[Value]) -> Function:
        """The function that is called from outside with these arguments."""
        return self._specialised(source_of(function), arguments)[0]

    def call(self, source: Source, arguments: Sequence[Value]) -> tuple[Call | None, Results]:
        """The call of a function, and its results in the kernel's form.

        None in place of the call if it has no effect and all results are known.
        """
        function, results = self._specialised(source, arguments)
        passed = [
            value
            for name, value in zip(source.parameters, arguments, strict=True)
            if self.is_passed(source, name, value)
        ]
        given = [
            _as_parameter(value, parameter, self.setting)
            for value, parameter in zip(passed, function.parameters, strict=True)
            if isinstance(value, Expression)
        ]
        dynamic = [each for each in results if not isinstance(each, Constant)]
        made = Call(function.name, tuple(given), kind=dynamic[0].kind, unit=dynamic[0].unit, odd=dynamic[0].odd) if len(
            dynamic) == 1 else Call(function.name, tuple(given))  # fmt: skip
        return (made if function.body and (dynamic or function.name in self._acting) else None), results

    def is_passed(self, source: Source, name: str, value: Value) -> bool:
        """Whether an argument is passed when the code runs."""
        if isinstance(value, Rows):
            return not value.empty
        free = name in self.setting.free.get(source.name, ())
        return isinstance(value, Expression) and (free or not isinstance(value, Constant))

    def store(self, name: str, value: Expression) -> None:
        """Record what is assigned to a field of the state."""
        known = replace(value, symbol="", unit=None, odd=False) if isinstance(value, Constant) else None
        self.stored.setdefault(name, set()).add(known)

    def _specialised(self, source: Source, arguments: Sequence[Value]) -> tuple[Function, Results]:
        key = (
            source.name,
            *(
                "free" if isinstance(value, Constant) and self.is_passed(source, name, value) else _known(value)
                for name, value in zip(source.parameters, arguments, strict=False)
            ),
        )
        if key not in self._made:
            self._made[key] = _FunctionMaker(self, source, arguments).made(self._name(source, arguments))
            function = self._made[key][0]
            self.functions[function.name] = function
            if any(_sets_fields(each) for each in function.facts) or function.calls.keys() & self._acting:
                self._acting.add(function.name)
        return self._made[key]

    def _name(self, source: Source, arguments: Sequence[Value]) -> str:
        """A name for a function; if it is made for an axis, the axis is part of the name."""
        axis = dict(zip(source.parameters, arguments, strict=False)).get("axis")
        end = f"_{'xy'[int(axis.value)]}" if isinstance(axis, Constant) else ""
        return self._free_name(source.name + end)

    def _free_name(self, wanted: str) -> str:
        taken, count = {each.name for each, _ in self._made.values()}, 2
        if wanted not in taken:
            return wanted
        while f"{wanted}_{count}" in taken:
            count += 1
        return f"{wanted}_{count}"


def _known(value: Value) -> Any:
    """What a function is specialised to."""
    match value:
        case Record():
            return value
        case Rows():
            return "rows", value.row, value.empty
        case Constant():
            return "constant", value.value, value.symbol, value.unit, value.kind, value.odd
        case Expression():
            return value.kind, value.unit, value.odd
    raise CannotBeWritten("results of a call cannot be arguments")


def _as_parameter(value: Expression, parameter: Parameter, setting: Setting) -> Expression:
    """A value of the kernel in the form that the parameter takes."""
    return setting.algebra.negative(value) if setting.y_down and parameter.odd and parameter.rows is None else value


def _sets_fields(fact: Fact) -> bool:
    return bool(fact.sets_fields) or any(_sets_fields(each) for each in fact.inner)


class _FunctionMaker:
    """Specialises the tree of one function to some known arguments."""

    def __init__(self, specialiser: Specialiser, source: Source, arguments: Sequence[Value]) -> None:
        self.specialiser, self.setting, self.algebra = specialiser, specialiser.setting, specialiser.setting.algebra
        self.source, self.arguments = source, arguments
        # The type of each local variable, inferred along the way; the first pass may need it before it is inferred.
        self.types: dict[str, Column] = {}
        self.env: dict[str, Value] = {}
        self.out: list[Statement] = []
        self.returned: list[Results] = []
        self.temporaries = 0

    def made(self, name: str) -> tuple[Function, Results]:
        """The function, and what it returns in the kernel's form."""
        if len(self.arguments) != len(self.source.parameters):
            raise CannotBeWritten(f"{self.source.name} is called with {len(self.arguments)} arguments")
        parameters = self._parameters()
        while True:
            before = dict(self.types)
            self.env, self.out, self.returned, self.temporaries = {}, [], [], 0
            self._bind()
            ended = self._block(self.source.body)
            if before == self.types:
                break
        if not ended and self.returned and self.returned[0]:
            raise CannotBeWritten(f"{self.source.name} may end without a result")
        results = self._results()
        forms = tuple(
            Parameter(f"result_{place}", each.kind, each.unit, each.odd)
            for place, each in enumerate(results)
            if not isinstance(each, Constant)
        )
        body = self._with_returns(tuple(self.out), results)
        return Function(name, self.source.name, parameters, forms, body), results

    def _parameters(self) -> tuple[Parameter, ...]:
        found = []
        for name, value in zip(self.source.parameters, self.arguments, strict=True):
            if not self.specialiser.is_passed(self.source, name, value):
                continue
            if isinstance(value, Rows):
                found.append(Parameter(name, "number", None, False, value.row))
            elif isinstance(value, Expression):
                found.append(Parameter(name, value.kind, value.unit, value.odd))
        return tuple(found)

    def _bind(self) -> None:
        for name, value in zip(self.source.parameters, self.arguments, strict=True):
            match value:
                case Rows():
                    self.env[name] = value if value.empty else Rows(row=value.row, name=name)
                case Constant() if not self.specialiser.is_passed(self.source, name, value):
                    self._assign_local(name, value)
                case Expression():
                    self.types[name] = Column(name, value.kind, value.unit, value.odd)
                    self.env[name] = self._local(name)
                case _:
                    self.env[name] = value

    def _results(self) -> Results:
        if not self.returned:
            return ()
        found: list[Expression] = []
        for values in zip(*self.returned, strict=True):
            units = [each.unit for each in values if each.unit is not None]
            first, *others = values
            if isinstance(first, Constant) and all(
                isinstance(each, Constant) and each.value == first.value for each in others
            ):
                found.append(first)
            else:
                kinds = [each.kind for each in values]
                kind: Kind = "number" if "number" in kinds else kinds[0]
                odd = any(each.odd for each in values)
                found.append(Local(name="", kind=kind, unit=units[0] if units else None, odd=odd))
        return tuple(found)

    def _with_returns(self, body: Block, results: Results) -> Block:
        """The body, whose returns contain only unknown results, in the form of the results."""

        def each(block: Block) -> Block:
            made: list[Statement] = []
            for statement in block:
                if isinstance(statement, Return):
                    values = tuple(
                        self._as_stored(self.algebra.in_unit(value, result.unit), result.odd)
                        for value, result in zip(statement.values, results, strict=True)
                        if not isinstance(result, Constant)
                    )
                    made.append(Return(values))
                else:
                    made.append(mapped(statement, lambda expression: expression, each))
            return tuple(made)

        return each(body)

    # Names.

    def _as_stored(self, value: Expression, odd: bool) -> Expression:
        """The value in the form in which something odd is stored."""
        return self.algebra.negative(value) if self.setting.y_down and odd else value

    def _local(self, name: str) -> Expression:
        known = self.types[name]
        return self.setting.turned(Local(name=name, kind=known.kind, unit=known.unit, odd=known.odd))

    def _assign_local(self, name: str, value: Value) -> None:
        if isinstance(value, Record | Rows):
            self.env[name] = value
            return
        assert isinstance(value, Expression)
        known = self.types.get(name)
        if known is None:
            known = Column(name, value.kind, value.unit, value.odd)
        else:
            kind = "number" if "number" in (known.kind, value.kind) else known.kind
            known = Column(name, kind, known.unit or value.unit, known.odd or value.odd)
        self.types[name] = known
        value = self.algebra.in_unit(value, known.unit)
        if isinstance(value, Constant) and known.kind == "number" and value.kind == "whole":
            value = replace(value, value=float(value.value), kind="number")
        target = Local(name=name, kind=known.kind, unit=known.unit, odd=known.odd)
        self.out.append(Assign(target, self._as_stored(value, known.odd)))
        self.env[name] = value if isinstance(value, Constant) else self._local(name)

    def _temporary(self, value: Expression) -> Expression:
        self.temporaries += 1
        name = f"new_{self.temporaries}"
        self._assign_local(name, value)
        found = self.env[name]
        assert isinstance(found, Expression)
        return found

    # Statements.

    def _block(self, statements: Sequence[ast.stmt]) -> bool:
        """Process statements; returns whether nothing after them is reached."""
        return any(self._statement(each) for each in statements)

    def _statement(self, node: ast.stmt) -> bool:
        match node:
            case ast.Assign(targets=found, value=value):
                given = self._value(value)
                for target in found:
                    self._assign(target, given)
            case ast.AugAssign(target=target, op=op, value=value):
                now = self._expression(_loaded(target))
                self._assign(target, self._operation(op, now, self._expression(value)))
            case ast.If(test=test, body=body, orelse=orelse):
                return self._if(self._expression(test), body, orelse)
            case ast.For(target=ast.Name(id=name), iter=ast.Call(func=ast.Name(id="range"), args=limits), body=body):
                self._for(name, [self._expression(each) for each in limits], body)
            case ast.While(test=ast.Constant(value=True), body=body):
                inner, _ = self._branch(body, self._with_loop_locals(body))
                self.out.append(Forever(inner))
                return True
            case ast.Return(value=None):
                self.returned.append(())
                self.out.append(Return())
                return True
            case ast.Return(value=ast.expr() as value):
                self._return(self._value(value))
                return True
            case ast.Expr(value=ast.Call() as value):
                self._value(value, wanted=False)
            case _:
                raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)}")
        return False

    def _return(self, value: Value) -> None:
        values = value if isinstance(value, tuple) else (value,)
        self.returned.append(values)
        self.out.append(Return(values))

    def _branch(self, statements: Sequence[ast.stmt], env: dict[str, Value]) -> tuple[Block, dict[str, Value] | None]:
        """The statements of a branch, and the names after it; None if nothing after it is reached."""
        out, before = self.out, self.env
        self.out, self.env = [], dict(env)
        ended = self._block(statements)
        made, after = tuple(self.out), self.env
        self.out, self.env = out, before
        return made, None if ended else after

    def _if(self, test: Expression, body: list[ast.stmt], orelse: list[ast.stmt]) -> bool:
        if isinstance(test, Constant):
            return self._block(body if test.value else orelse)
        yes, after_yes = self._branch(body, self.env)
        no, after_no = self._branch(orelse, self.env)
        if yes or no:
            self.out.append(If(test, yes, no))
        if after_yes is None and after_no is None:
            return True
        self.env = self._merged(after_yes, after_no)
        return False

    def _merged(self, one: dict[str, Value] | None, other: dict[str, Value] | None) -> dict[str, Value]:
        if one is None or other is None:
            found = other if one is None else one
            assert found is not None
            return found
        return {
            name: one[name]
            if name in one and name in other and one[name] == other[name]
            else self._local(name)
            if name in self.types
            else (one.get(name) or other[name])
            for name in one | other
        }

    def _with_loop_locals(self, body: Sequence[ast.stmt]) -> dict[str, Value]:
        """The names as they are in a loop: what it assigns to is not known in it."""
        stored = {
            node.id
            for each in body
            for node in ast.walk(each)
            if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store)
        }
        return {
            name: self._local(name) if name in stored and name in self.types else value
            for name, value in self.env.items()
        }

    def _for(self, name: str, limits: list[Expression], body: list[ast.stmt]) -> None:
        first, end = limits if len(limits) == 2 else (Constant(0, kind="whole"), limits[0])
        if isinstance(first, Constant) and isinstance(end, Constant) and end.value <= first.value:
            return
        self.types[name] = Column(name, "whole")
        env = self._with_loop_locals(body) | {name: self._local(name)}
        inner, after = self._branch(body, env)
        self.out.append(For(name, first, end, inner))
        self.env = self._merged(env, after)

    def _assign(self, target: ast.expr, value: Value) -> None:
        if isinstance(target, ast.Tuple):
            assert isinstance(value, tuple), f"{self.source.name}: several names for one value"
            self._assign_all(target.elts, value)
        elif isinstance(target, ast.Name):
            if target.id != "_":
                self._assign_local(target.id, value)
        elif isinstance(target, ast.Attribute) and isinstance(value, Expression):
            self._assign_member(target, value)
        elif isinstance(target, ast.Subscript) and isinstance(value, Expression):
            to = self._expression(_loaded(target))
            assert isinstance(to, Item)
            self.out.append(Assign(to, value))
        else:
            raise CannotBeWritten(f"{self.source.name}, line {target.lineno}: {ast.unparse(target)} = …")

    def _assign_member(self, target: ast.Attribute, value: Expression) -> None:
        record = self._value(target.value)
        assert isinstance(record, Record), f"{ast.unparse(target)} is not a field of a record"
        known = self.setting.members[record.name][target.attr]
        if isinstance(known, Expression):
            # A cache, which the code does without.
            return
        value = self.algebra.in_unit(value, known.unit)
        self.specialiser.store(target.attr, value)
        if target.attr in self.setting.always:
            return
        if isinstance(value, Constant) and known.kind == "number" and value.kind != "number":
            value = replace(value, value=float(value.value), kind="number")
        to = Member(record=record.name, name=target.attr, kind=known.kind, unit=known.unit, odd=known.odd)
        self.out.append(Assign(to, self._as_stored(value, known.odd)))

    def _assign_all(self, targets: list[ast.expr], values: tuple[Value, ...]) -> None:
        """Assign all at once: no value may read what was assigned before it."""
        held = list(values)
        for place, target in enumerate(targets[:-1]):
            for later in range(place + 1, len(held)):
                value = held[later]
                if isinstance(value, Expression) and self._reads(value, target):
                    held[later] = self._temporary(value)
        for target, value in zip(targets, held, strict=True):
            self._assign(target, value)

    def _reads(self, value: Expression, target: ast.expr) -> bool:
        name = target.id if isinstance(target, ast.Name) else target.attr if isinstance(target, ast.Attribute) else ""
        kind = Local if isinstance(target, ast.Name) else Member
        return any(isinstance(each, kind) and each.name == name for each in value.everything)

    # Values.

    def _expression(self, node: ast.expr) -> Expression:
        found = self._value(node)
        if not isinstance(found, Expression):
            raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)} is not a number")
        return found

    def _value(self, node: ast.expr, *, wanted: bool = True) -> Value:
        match node:
            case ast.Constant(value=value):
                return self._constant(value, "")
            case ast.Name(id=name):
                return self.env[name] if name in self.env else self._constant(self.source.meaning(name), name)
            case ast.Attribute():
                return self._attribute(node)
            case ast.Subscript():
                return self._subscript(node)
            case ast.Tuple(elts=elements):
                return tuple(self._expression(each) for each in elements)
            case ast.BinOp(left=left, op=op, right=right):
                return self._operation(op, self._expression(left), self._expression(right))
            case ast.UnaryOp(op=ast.USub(), operand=operand):
                return self.algebra.negative(self._expression(operand))
            case ast.UnaryOp(op=ast.Not(), operand=operand):
                return self.algebra.no(self._expression(operand))
            case ast.BoolOp(op=op, values=values):
                return self._logic("and" if isinstance(op, ast.And) else "or", values)
            case ast.Compare():
                return self._compare(node)
            case ast.IfExp(test=test, body=body, orelse=orelse):
                return self._choice(self._expression(test), body, orelse)
            case ast.Call(func=function, args=arguments, keywords=[]):
                return self._call(function, [self._value(each) for each in arguments], wanted=wanted)
        raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)}")

    def _constant(self, value: Any, symbol: str) -> Expression:
        match value:
            case bool():
                return flag(value)
            case int():
                return Constant(value, symbol, kind="whole")
            case float():
                return Constant(value, symbol)
        raise CannotBeWritten(f"{self.source.name}: {symbol or value!r} is not a number")

    def _attribute(self, node: ast.Attribute) -> Value:
        if isinstance(node.value, ast.Name) and node.value.id == "math":
            return Constant(getattr(math, node.attr))
        record = self._value(node.value)
        if not isinstance(record, Record):
            raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)}")
        if record.name == "state" and node.attr in self.setting.always:
            return self.setting.always[node.attr]
        known = self.setting.members[record.name].get(node.attr)
        if known is None:
            raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {record.name} has no {node.attr}")
        if isinstance(known, Expression):
            return known
        made = Member(record=record.name, name=node.attr, kind=known.kind, unit=known.unit, odd=known.odd)
        return self.setting.turned(made)

    def _subscript(self, node: ast.Subscript) -> Expression:
        if isinstance(node.value, ast.Attribute) and node.value.attr == "shape":
            rows = self._value(node.value.value)
            assert isinstance(rows, Rows)
            if rows.empty or rows.given:
                return Constant(int(rows.given), kind="whole")
            return Count(rows, kind="whole")
        rows = self._value(node.value)
        if not isinstance(rows, Rows):
            raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)}")
        if not isinstance(node.slice, ast.Tuple):
            return Item(rows, self._expression(node.slice), unit=rows.unit)
        index, place = (self._expression(each) for each in node.slice.elts)
        if not isinstance(place, Constant):
            raise CannotBeWritten(
                f"{self.source.name}, line {node.lineno}: the column in {ast.unparse(node)} is not known"
            )
        column = self.setting.rows[rows.row][int(place.value)]
        return self.setting.turned(Item(rows, index, column.name, kind=column.kind, unit=column.unit, odd=column.odd))

    def _operation(self, op: ast.operator, left: Expression, right: Expression) -> Expression:
        match op:
            case ast.Add():
                return self.algebra.add(left, right)
            case ast.Sub():
                return self.algebra.subtract(left, right)
            case ast.Mult():
                return self.algebra.multiply(left, right)
            case ast.Div():
                return self.algebra.divide(left, right)
            case ast.Pow():
                return self.algebra.power(left, right)
        signs: dict[type[ast.operator], str] = {
            ast.FloorDiv: "//",
            ast.Mod: "%",
            ast.BitAnd: "&",
            ast.BitOr: "|",
            ast.LShift: "<<",
        }
        if type(op) not in signs:
            raise CannotBeWritten(f"{self.source.name}: the operator {type(op).__name__}")
        return self.algebra.whole_numbers(signs[type(op)], left, right)

    def _logic(self, sign: str, values: list[ast.expr]) -> Expression:
        terms: list[Expression] = []
        for node in values:
            # A condition that is known to hold is dropped.
            depends = any(not isinstance(each, Constant) for each in terms)
            terms.append(self._condition(node) if depends else self._expression(node))
            if terms[-1] == (FALSE if sign == "and" else TRUE):
                # The conditions after it are never evaluated.
                break
        return self.algebra.logic(sign, terms)

    def _condition(self, node: ast.expr) -> Expression:
        """A condition that is evaluated only if those before it hold."""
        before = len(self.out)
        found = self._expression(node)
        self._check_nothing_done(before, node)
        return found

    def _check_nothing_done(self, before: int, node: ast.expr) -> None:
        if len(self.out) > before:
            raise CannotBeWritten(
                f"{self.source.name}, line {node.lineno}: a statement under a condition within {ast.unparse(node)}"
            )

    def _compare(self, node: ast.Compare) -> Expression:
        values = [self._expression(each) for each in (node.left, *node.comparators)]
        signs: dict[type[ast.cmpop], str] = {
            ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=",
        }  # fmt: skip
        pairs = zip(values, node.ops, values[1:], strict=False)
        return self.algebra.logic(
            "and", [self.algebra.compare(one, signs[type(op)], other) for one, op, other in pairs]
        )

    def _choice(self, test: Expression, body: ast.expr, orelse: ast.expr) -> Value:
        if isinstance(test, Constant):
            return self._value(body if test.value else orelse)
        before = len(self.out)
        yes, no = self._value(body), self._value(orelse)
        self._check_nothing_done(before, body)
        if isinstance(yes, tuple) and isinstance(no, tuple):
            return tuple(self.algebra.choose(test, one, other) for one, other in zip(yes, no, strict=True))
        if not isinstance(yes, Expression) or not isinstance(no, Expression):
            raise CannotBeWritten(f"{self.source.name}, line {body.lineno}: a choice of records")
        return self.algebra.choose(test, yes, no)

    def _call(self, node: ast.expr, arguments: list[Value], *, wanted: bool) -> Value:
        if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name) and node.value.id == "math":
            return self._mathematics(node.attr, arguments)
        if not isinstance(node, ast.Name):
            raise CannotBeWritten(f"{self.source.name}, line {node.lineno}: {ast.unparse(node)}(…)")
        answer = self.setting.answers[node.id](arguments) if node.id in self.setting.answers else None
        if answer is not None:
            return answer
        if node.id in ("min", "max", "abs"):
            return self._mathematics(node.id, arguments)
        call, results = self.specialiser.call(source_of(self.source.meaning(node.id)), arguments)
        return self._called(call, results, wanted=wanted)

    def _mathematics(self, name: str, arguments: list[Value]) -> Expression:
        if name not in FUNCTIONS:
            raise CannotBeWritten(f"{self.source.name}: the function {name}")
        values = [each for each in arguments if isinstance(each, Expression)]
        return self.algebra.call(name, values)

    def _called(self, call: Call | None, results: Results, *, wanted: bool) -> Value:
        """The results of a call as values; the statement is made here if it has several results, or only known ones."""
        unknown = [each for each in results if not isinstance(each, Constant)]
        if call is None:
            return results[0] if len(results) == 1 else results
        if not unknown or not wanted:
            self.out.append(Do(call))
            return results[0] if len(results) == 1 else results
        if len(results) == 1:
            return self.setting.turned(call)
        targets: list[Target | None] = []
        values: list[Expression] = []
        for each in results:
            if isinstance(each, Constant):
                values.append(each)
                continue
            self.temporaries += 1
            name = f"new_{self.temporaries}"
            self.types[name] = Column(name, each.kind, each.unit, each.odd)
            local = Local(name=name, kind=each.kind, unit=each.unit, odd=each.odd)
            targets.append(local)
            values.append(self.setting.turned(local))
        if len(targets) == 1:
            assert targets[0] is not None
            self.out.append(Assign(targets[0], call))
        else:
            self.out.append(AssignAll(tuple(targets), call))
        return tuple(values)


def _loaded(target: ast.expr) -> ast.expr:
    """A target as a value."""
    if isinstance(target, ast.Name):
        return ast.Name(id=target.id, ctx=ast.Load(), lineno=target.lineno, col_offset=target.col_offset)
    return target
