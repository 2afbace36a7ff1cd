"""Expressions of the generated code, and the rules by which they are simplified.

Every rule is exact in floating point except for the sign of a zero, so the code computes the kernel's bits.
"""

from __future__ import annotations

import math
import operator
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal

Kind = Literal["number", "whole", "flag"]
# The powers of length and time of a value; None if any unit fits, as for a literal.
Unit = tuple[int, int] | None
BARE = (0, 0)
# The kernel's value for no limit.
FAR = 1e30


class UnitsDiffer(ValueError):
    """Two values of different units are added or compared."""


@dataclass(frozen=True, kw_only=True)
class Expression:
    """A value. `odd`: its sign changes if y points the other way."""

    kind: Kind = "number"
    unit: Unit = None
    odd: bool = False

    @cached_property
    def everything(self) -> tuple[Expression, ...]:
        """The expression and all of its subexpressions, from left to right."""
        return (self, *(inner for part in parts(self) for inner in part.everything))

    @cached_property
    def locals(self) -> frozenset[str]:
        """The local variables in it, including rows."""
        return frozenset(
            each.name
            for each in self.everything
            if isinstance(each, Local) or (isinstance(each, Rows) and not each.record)
        )


@dataclass(frozen=True)
class Constant(Expression):
    """A number, a whole number or a flag; `symbol` is its name in the kernel."""

    value: float = 0.0
    symbol: str = ""


@dataclass(frozen=True)
class Local(Expression):
    """A local variable or a parameter."""

    name: str = ""


@dataclass(frozen=True)
class Member(Expression):
    """A field of a record: `state`, `numbers`, `input`, `course` or `hit`."""

    record: str = ""
    name: str = ""


@dataclass(frozen=True)
class Rows(Expression):
    """A list of rows such as solids; `row` is the name of their type, empty for a list of numbers.

    `empty`: no drill has any. `given`: the game keeps the list; the kernel only asks whether it has elements.
    """

    row: str = ""
    record: str = ""
    name: str = ""
    empty: bool = False
    given: bool = False


@dataclass(frozen=True)
class Item(Expression):
    """A column of a row, or an element of a list of numbers."""

    rows: Rows
    index: Expression
    column: str = ""


@dataclass(frozen=True)
class Count(Expression):
    """The number of rows."""

    rows: Rows


@dataclass(frozen=True)
class Negative(Expression):
    """-a."""

    of: Expression


@dataclass(frozen=True)
class Not(Expression):
    """not a."""

    of: Expression


@dataclass(frozen=True)
class Binary(Expression):
    """Two values joined by + - * / // % ** & | or <<."""

    left: Expression
    operator: str
    right: Expression


@dataclass(frozen=True)
class Compare(Expression):
    """A comparison."""

    left: Expression
    operator: str
    right: Expression


@dataclass(frozen=True)
class Logic(Expression):
    """Conditions joined by `and` or `or`."""

    operator: str
    terms: tuple[Expression, ...]


@dataclass(frozen=True)
class Choose(Expression):
    """One of two values."""

    test: Expression
    yes: Expression
    no: Expression


@dataclass(frozen=True)
class Call(Expression):
    """A mathematical function, or a function of the program."""

    function: str
    arguments: tuple[Expression, ...]


TRUE, FALSE = Constant(True, kind="flag"), Constant(False, kind="flag")


def flag(value: bool) -> Constant:
    """A constant condition."""
    return TRUE if value else FALSE


def number(value: float, unit: Unit = None, symbol: str = "") -> Constant:
    """A constant number."""
    return Constant(float(value), symbol, unit=unit)


def whole(value: int, symbol: str = "") -> Constant:
    """A constant whole number."""
    return Constant(int(value), symbol, kind="whole")


# The fields of each kind of expression that hold one expression, and those that hold several.
_PARTS: dict[type[Expression], tuple[str, ...]] = {
    Item: ("rows", "index"), Count: ("rows",), Negative: ("of",), Not: ("of",), Binary: ("left", "right"),
    Compare: ("left", "right"), Choose: ("test", "yes", "no"),
}  # fmt: skip
_SEVERAL = {Logic: "terms", Call: "arguments"}


def parts(expression: Expression) -> tuple[Expression, ...]:
    """The direct subexpressions of an expression."""
    kind = type(expression)
    if kind in _PARTS:
        return tuple(getattr(expression, name) for name in _PARTS[kind])
    return getattr(expression, _SEVERAL[kind]) if kind in _SEVERAL else ()


def rebuilt(expression: Expression, change: Callable[[Expression], Expression]) -> Expression:
    """The expression with `change` applied to its parts, or the expression itself if they are unchanged."""
    before = parts(expression)
    if not before:
        return expression
    after = tuple(change(each) for each in before)
    if all(one is other for one, other in zip(before, after, strict=True)):
        return expression
    kind = type(expression)
    changes: dict[str, Any] = dict(zip(_PARTS[kind], after, strict=True)) if kind in _PARTS else {_SEVERAL[kind]: after}
    return replace(expression, **changes)


class Algebra:
    """Makes simplified expressions. `slack` has the kernel's slack in the game's unit for each of ours."""

    def __init__(self, slack: Callable[[Unit], float]) -> None:
        self._slack = slack

    # Units.

    def in_unit(self, value: Expression, unit: Unit) -> Expression:
        """The value in this unit: a literal fits any, and the slack is scaled to it."""
        if unit is None or value.unit is not None or isinstance(value, Rows):
            return value
        if isinstance(value, Constant):
            scaled = math.copysign(self._slack(unit), value.value) if value.symbol == "SLACK" else value.value
            return replace(value, value=scaled, unit=unit)
        return replace(
            rebuilt(value, lambda part: part if part.kind == "flag" else self.in_unit(part, unit)), unit=unit
        )

    def alike(self, left: Expression, right: Expression) -> tuple[Expression, Expression]:
        """Both values in one unit; UnitsDiffer if their units differ."""
        left, right = self.in_unit(left, right.unit), self.in_unit(right, left.unit)
        if left.unit != right.unit:
            raise UnitsDiffer(f"{left} and {right}")
        return left, right

    # Arithmetic.

    def negative(self, value: Expression) -> Expression:
        """-a."""
        if isinstance(value, Constant):
            return replace(value, value=-value.value if value.value else value.value)
        if isinstance(value, Negative):
            return value.of
        if isinstance(value, Binary) and value.operator == "-":
            return self.subtract(value.right, value.left)
        if isinstance(value, Binary) and value.operator == "*" and isinstance(value.left, Constant):
            return replace(value, left=self.negative(value.left))
        if isinstance(value, Choose) and any(isinstance(each, Constant | Negative) for each in (value.yes, value.no)):
            return replace(value, yes=self.negative(value.yes), no=self.negative(value.no))
        if isinstance(value, Call) and value.function in ("min", "max") and any(map(_is_negative, value.arguments)):
            other = "max" if value.function == "min" else "min"
            return replace(value, function=other, arguments=tuple(self.negative(each) for each in value.arguments))
        return Negative(value, kind=value.kind, unit=value.unit, odd=value.odd)

    def add(self, left: Expression, right: Expression) -> Expression:
        """a + b."""
        left, right = self.alike(left, right)
        if _is(left, 0):
            return right
        if _is(right, 0):
            return left
        if (folded := _folded("+", left, right)) is not None:
            return folded
        if isinstance(right, Negative):
            return self.subtract(left, right.of)
        if isinstance(left, Negative):
            return self.subtract(right, left.of)
        if _begins_negative(right):
            return self.subtract(left, self.negative(right))
        return _joined(left, "+", right)

    def subtract(self, left: Expression, right: Expression) -> Expression:
        """a - b."""
        left, right = self.alike(left, right)
        if _is(right, 0):
            return left
        if _is(left, 0):
            return self.negative(right)
        if (folded := _folded("-", left, right)) is not None:
            return folded
        if isinstance(right, Negative):
            return self.add(left, right.of)
        if isinstance(left, Negative):
            return self.negative(self.add(left.of, right))
        if isinstance(right, Constant) and right.value < 0:
            return self.add(left, self.negative(right))
        return _joined(left, "-", right)

    def multiply(self, left: Expression, right: Expression) -> Expression:
        """a · b."""
        unit = _product(left.unit, right.unit, 1)
        if any(_is(each, 0) and each.unit is None for each in (left, right)):
            # A literal 0 is 0 in any unit.
            return Constant(0.0)
        if (folded := _folded("*", left, right)) is not None:
            return replace(folded, unit=unit)
        for one, other in ((left, right), (right, left)):
            if _is(one, 1):
                return self.in_unit(other, unit)
            if _is(one, -1):
                return self.negative(self.in_unit(other, unit))
            if _is(one, 0):
                return Constant(0.0, unit=unit)
        if isinstance(left, Negative):
            return self.negative(self.multiply(left.of, right))
        if isinstance(right, Negative):
            return self.negative(self.multiply(left, right.of))
        return _joined(left, "*", right, unit)

    def divide(self, left: Expression, right: Expression) -> Expression:
        """a / b."""
        unit = _product(left.unit, right.unit, -1)
        if not _is(right, 0) and (folded := _folded("/", left, right)) is not None:
            return replace(folded, unit=unit)
        if _is(right, 1):
            return self.in_unit(left, unit)
        if _is(left, 0):
            return Constant(0.0, unit=unit)
        if isinstance(left, Negative):
            return self.negative(self.divide(left.of, right))
        if isinstance(right, Negative):
            return self.negative(self.divide(left, right.of))
        return _joined(left, "/", right, unit)

    def whole_numbers(self, sign: str, left: Expression, right: Expression) -> Expression:
        """Two whole numbers joined by //, %, &, | or <<."""
        named = isinstance(left, Constant) and isinstance(right, Constant) and left.symbol and right.symbol
        if isinstance(left, Constant) and isinstance(right, Constant) and not named:
            return Constant(_WHOLE[sign](int(left.value), int(right.value)), kind="whole")
        if sign == "|" and _is(left, 0):
            return right
        if sign == "|" and _is(right, 0):
            return left
        return Binary(left, sign, right, kind="whole")

    def power(self, left: Expression, right: Expression) -> Expression:
        """a to the power of b; both are bare numbers."""
        return left if _is(right, 1) else Binary(left, "**", right, unit=BARE)

    # Conditions.

    def compare(self, left: Expression, sign: str, right: Expression) -> Expression:
        """A comparison."""
        if left.kind == right.kind == "flag":
            return self._compare_flags(left, sign, right)
        left, right = self.alike(left, right)
        known = _value(left), _value(right)
        if known[0] is not None and known[1] is not None:
            return flag(_COMPARE[sign](known[0], known[1]))
        if isinstance(left, Negative) and (isinstance(right, Negative) or known[1] is not None):
            return self.compare(left.of, _TURNED[sign], self.negative(right))
        if isinstance(right, Negative) and isinstance(left, Constant):
            return self.compare(self.negative(left), _TURNED[sign], right.of)
        if isinstance(left, Constant):
            return self.compare(right, _TURNED[sign], left)
        # A comparison distinguishes a value from 0, and a timer is never negative.
        if is_timer(left) and isinstance(right, Constant) and right.value < 0:
            return flag(sign in (">", ">=", "!="))
        return Compare(left, sign, right, kind="flag")

    def _compare_flags(self, left: Expression, sign: str, right: Expression) -> Expression:
        same = sign == "=="
        for one, other in ((left, right), (right, left)):
            if isinstance(one, Constant):
                return other if bool(one.value) is same else self.no(other)
        return Compare(left, sign, right, kind="flag")

    def no(self, value: Expression) -> Expression:
        """not a."""
        if isinstance(value, Constant):
            return flag(not value.value)
        if isinstance(value, Not):
            return value.of
        if isinstance(value, Compare):
            # None of these numbers is NaN.
            return replace(value, operator=_OPPOSITE[value.operator])
        if isinstance(value, Logic):
            other = "or" if value.operator == "and" else "and"
            return Logic(other, tuple(self.no(each) for each in value.terms), kind="flag")
        return Not(value, kind="flag")

    def logic(self, sign: str, terms: list[Expression]) -> Expression:
        """Conditions joined by `and` or `or`."""
        ends = sign == "or"
        found: list[Expression] = []
        for term in terms:
            if isinstance(term, Constant):
                if bool(term.value) is ends:
                    # The statements before it have no effect of their own.
                    found.append(term)
                    break
                continue
            if term in found:
                continue
            found.extend(term.terms if isinstance(term, Logic) and term.operator == sign else (term,))
        if found and isinstance(found[-1], Constant) and not any(has_calls(each) for each in found):
            return flag(ends)
        if not found:
            return flag(not ends)
        return found[0] if len(found) == 1 else Logic(sign, tuple(found), kind="flag")

    def choose(self, test: Expression, yes: Expression, no: Expression) -> Expression:
        """One of two values."""
        if isinstance(test, Constant):
            return yes if test.value else no
        if yes.kind == "flag":
            if yes == TRUE or no == FALSE:
                return self.logic("or", [test, no]) if yes == TRUE else self.logic("and", [test, yes])
            if yes == FALSE:
                return self.logic("and", [self.no(test), no])
            if no == TRUE:
                return self.logic("or", [self.no(test), yes])
        yes, no = self.alike(yes, no)
        if yes == no:
            return yes
        if isinstance(test, Not):
            return self.choose(test.of, no, yes)
        if isinstance(yes, Negative) and isinstance(no, Negative | Constant):
            return self.negative(self.choose(test, yes.of, self.negative(no)))
        return Choose(test, yes, no, kind=yes.kind, unit=yes.unit, odd=yes.odd or no.odd)

    # Mathematical functions.

    def call(self, function: str, arguments: list[Expression]) -> Expression:
        """A mathematical function."""
        return _MATHEMATICS[function](self, *arguments)

    def _abs(self, value: Expression) -> Expression:
        if isinstance(value, Constant):
            return replace(value, value=abs(value.value))
        of = value.of if isinstance(value, Negative) else value
        return Call("abs", (of,), kind=of.kind, unit=of.unit)

    def _least(self, name: str, left: Expression, right: Expression) -> Expression:
        left, right = self.alike(left, right)
        other = "max" if name == "min" else "min"
        if isinstance(left, Constant) and isinstance(right, Constant):
            return left if _COMPARE["<"](left.value, right.value) is (name == "min") else right
        beyond = FAR if name == "min" else -FAR
        if _is(left, beyond) or _is(right, beyond):
            return right if _is(left, beyond) else left
        if isinstance(left, Negative) and isinstance(right, Negative):
            return self.negative(self._least(other, left.of, right.of))
        return Call(name, (left, right), kind=left.kind, unit=left.unit, odd=left.odd or right.odd)

    def _min(self, *values: Expression) -> Expression:
        return self._many("min", values)

    def _max(self, *values: Expression) -> Expression:
        return self._many("max", values)

    def _many(self, name: str, values: tuple[Expression, ...]) -> Expression:
        found = values[0]
        for value in values[1:]:
            found = self._least(name, found, value)
        return found

    def _copysign(self, size: Expression, sign: Expression) -> Expression:
        if isinstance(sign, Negative):
            return self.negative(self._copysign(size, sign.of))
        return Call("copysign", (size, sign), unit=size.unit, odd=sign.odd)

    def _sqrt(self, value: Expression) -> Expression:
        if isinstance(value, Constant):
            return replace(value, value=math.sqrt(value.value))
        unit = value.unit and (value.unit[0] // 2, value.unit[1] // 2)
        return Call("sqrt", (value,), unit=unit)

    def _exp(self, value: Expression) -> Expression:
        return Constant(math.exp(value.value)) if isinstance(value, Constant) else Call("exp", (value,), unit=BARE)

    def _cos(self, value: Expression) -> Expression:
        if isinstance(value, Constant):
            return Constant(math.cos(value.value), unit=BARE)
        return Call("cos", (value.of if isinstance(value, Negative) else value,), unit=BARE)

    def _sin(self, value: Expression) -> Expression:
        if isinstance(value, Constant):
            return Constant(math.sin(value.value), unit=BARE, odd=value.odd)
        if isinstance(value, Negative):
            return self.negative(self._sin(value.of))
        return Call("sin", (value,), unit=BARE, odd=value.odd)

    def _atan2(self, y: Expression, x: Expression) -> Expression:
        y, x = self.alike(y, x)
        if isinstance(y, Negative):
            return self.negative(self._atan2(y.of, x))
        return Call("atan2", (y, x), unit=BARE, odd=y.odd)

    def _floor(self, value: Expression) -> Expression:
        return self._rounded("floor", "ceil", value)

    def _ceil(self, value: Expression) -> Expression:
        return self._rounded("ceil", "floor", value)

    def _rounded(self, name: str, other: str, value: Expression) -> Expression:
        if isinstance(value, Negative):
            return self.negative(self._rounded(other, name, value.of))
        return Call(name, (value,), unit=value.unit, odd=value.odd)


_MATHEMATICS: dict[str, Callable[..., Expression]] = {
    "abs": Algebra._abs, "min": Algebra._min, "max": Algebra._max, "copysign": Algebra._copysign,
    "sqrt": Algebra._sqrt, "exp": Algebra._exp, "cos": Algebra._cos, "sin": Algebra._sin, "atan2": Algebra._atan2,
    "floor": Algebra._floor, "ceil": Algebra._ceil,
}  # fmt: skip
FUNCTIONS = tuple(_MATHEMATICS)
_COMPARE: dict[str, Callable[[Any, Any], bool]] = {
    "<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge, "==": operator.eq, "!=": operator.ne,
}  # fmt: skip
_TURNED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "==": "==", "!=": "!="}
_OPPOSITE = {"<": ">=", "<=": ">", ">": "<=", ">=": "<", "==": "!=", "!=": "=="}
_WHOLE: dict[str, Callable[[int, int], int]] = {
    "//": operator.floordiv, "%": operator.mod, "&": operator.and_, "|": operator.or_, "<<": operator.lshift,
}  # fmt: skip
_ARITHMETIC: dict[str, Callable[[float, float], float]] = {
    "+": operator.add, "-": operator.sub, "*": operator.mul, "/": operator.truediv,
}  # fmt: skip


def has_calls(expression: Expression) -> bool:
    """Whether it contains a call of a function of the program, which may have side effects."""
    return any(isinstance(each, Call) and each.function not in FUNCTIONS for each in expression.everything)


def is_timer(value: Expression) -> bool:
    """Whether the value is a timer, which counts up from 0."""
    return isinstance(value, Member) and value.name.startswith("since_")


def _is(value: Expression, wanted: float) -> bool:
    return isinstance(value, Constant) and value.kind != "flag" and value.value == wanted


def _is_negative(value: Expression) -> bool:
    return isinstance(value, Negative) or (isinstance(value, Constant) and value.value < 0)


def _begins_negative(value: Expression) -> bool:
    """Whether a value is a negative constant, or a product that begins with one."""
    if isinstance(value, Binary) and value.operator == "*":
        return _begins_negative(value.left)
    return isinstance(value, Constant) and value.value < 0


def _product(left: Unit, right: Unit, sign: int) -> Unit:
    if left is None and right is None:
        return None
    (a, b), (c, d) = left or BARE, right or BARE
    return a + sign * c, b + sign * d


def _folded(sign: str, left: Expression, right: Expression) -> Constant | None:
    if not (isinstance(left, Constant) and isinstance(right, Constant)):
        return None
    if sign in "+-" and (left.symbol or right.symbol):
        # Its name explains it.
        return None
    kind: Kind = "whole" if left.kind == right.kind == "whole" and sign != "/" else "number"
    return Constant(_ARITHMETIC[sign](left.value, right.value), kind=kind, unit=left.unit, odd=left.odd or right.odd)


def _value(value: Expression) -> float | None:
    """The value of a constant, or of a sum of two of which one has a name; None if it is unknown."""
    if isinstance(value, Constant):
        return value.value
    if isinstance(value, Binary) and value.operator in _ARITHMETIC:
        left, right = _value(value.left), _value(value.right)
        if left is not None and right is not None and not (value.operator == "/" and right == 0):
            return _ARITHMETIC[value.operator](left, right)
    return None


def _joined(left: Expression, sign: str, right: Expression, unit: Unit = None) -> Expression:
    kind: Kind = "whole" if left.kind == right.kind == "whole" and sign != "/" else "number"
    odd = left.odd != right.odd if sign in "*/" else left.odd or right.odd
    return Binary(left, sign, right, kind=kind, unit=unit if sign in "*/" else left.unit, odd=odd)
