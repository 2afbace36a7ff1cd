"""Numbers with units and simple arithmetic, as people type them: `600 px/s`, `10 px/f`, `30/60`, `6t`, `20%`.

Text is parsed as a Python expression; only numbers, units, signs, + - * / and powers are evaluated.
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

# Each of our units as powers of length, time and angle; other units are bare numbers.
POWERS = {
    "u": (1, 0, 0),
    "u/s": (1, -1, 0),
    "u/s²": (1, -2, 0),
    "s": (0, 1, 0),
    "/s": (0, -1, 0),
    "°": (0, 0, 1),
    "°/s": (0, -1, 1),
}
BARE = (0, 0, 0)
# The name of each, and how it may be typed.
KINDS = {
    BARE: ("a bare number", "0.5, 50% or 1/2"),
    (1, 0, 0): ("a length", "2.5, 80 px or 1.5 bodies"),
    (1, -1, 0): ("a speed", "7.5, 240 px/s or 4 px/f"),
    (1, -2, 0): ("an acceleration", "42, 1344 px/s² or 0.4 px/f²"),
    (0, 1, 0): ("a time", "0.1, 100 ms or 6t"),
    (0, -1, 0): ("a rate", "10 or 10/s"),
    (0, 0, 1): ("an angle", "90 or 1.57 rad"),
    (0, -1, 1): ("a turn rate", "180 or 3.14 rad/s"),
}
LONGEST, HIGHEST_POWER = 80, 9
_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)|(?P<unit>[A-Za-z°%×]+)|(?P<sign>\*\*|[-+*/()^²]))"
)


@dataclass(frozen=True)
class Quantity:
    """A value in u, s and degrees with the powers of its unit; `percent`: whether it was typed as a share."""

    value: float
    powers: tuple[int, int, int] = BARE
    percent: bool = False

    @property
    def kind(self) -> str:
        """What it is, in words."""
        if self.percent and self.powers == BARE:
            return "a share"
        return KINDS[self.powers][0] if self.powers in KINDS else "in no unit of motion"


@dataclass(frozen=True)
class Units:
    """How long a pixel (u), a frame and a tick (s) and a body (u) are."""

    pixel: float = 1.0
    frame: float = 1 / 60
    tick: float = 1 / 60
    width: float = 1.0
    height: float = 1.0
    # Whether “bodies” means body heights or widths.
    upright: bool = True

    def find(self, name: str) -> Quantity | None:
        """The unit of this name; None if there is none."""
        length, time, angle = (1, 0, 0), (0, 1, 0), (0, 0, 1)
        name = name if name in ("°", "%", "×") else name.lower()
        body = self.height if self.upright else self.width
        for names, found in (
            (("u", "unit", "units"), Quantity(1.0, length)),
            (("px", "pixel", "pixels"), Quantity(self.pixel, length)),
            (("body", "bodies"), Quantity(body, length)),
            (("height", "heights"), Quantity(self.height, length)),
            (("width", "widths"), Quantity(self.width, length)),
            (("s", "sec", "second", "seconds"), Quantity(1.0, time)),
            (("ms",), Quantity(0.001, time)),
            (("f", "frame", "frames"), Quantity(self.frame, time)),
            (("t", "tick", "ticks"), Quantity(self.tick, time)),
            (("°", "deg", "degree", "degrees"), Quantity(1.0, angle)),
            (("rad", "radian", "radians"), Quantity(180 / math.pi, angle)),
            (("%",), Quantity(0.01, percent=True)),
            (("×",), Quantity(1.0)),
        ):
            if name in names:
                return found
        return None


def quantity(text: str, units: Units) -> Quantity:
    """Evaluate a text; ValueError, worded for the user, if that is not possible."""
    source, named = _expression(text, units)
    try:
        result = _value(ast.parse(source, mode="eval").body, named)
    except (SyntaxError, RecursionError) as error:
        raise ValueError(f"“{text.strip()}” cannot be read as a number.") from error
    except (OverflowError, ZeroDivisionError) as error:
        raise ValueError(f"“{text.strip()}” divides by 0, or is too large.") from error
    if not math.isfinite(result.value):
        raise ValueError(f"“{text.strip()}” is too large.")
    return result


def evaluated(node: ast.expr, known: Mapping[str, Quantity]) -> Quantity:
    """Evaluate an expression of numbers and known names; ValueError, worded for the user, if it is more than that."""
    for each in ast.walk(node):
        if isinstance(each, ast.Name) and each.id not in known:
            raise ValueError(f"“{each.id}” is not a constant defined before")
    try:
        result = _value(node, known)
    except RecursionError as error:
        raise ValueError("too long for a number") from error
    except (OverflowError, ZeroDivisionError) as error:
        raise ValueError("it divides by 0, or is too large") from error
    if not math.isfinite(result.value):
        raise ValueError("too large")
    return result


def examples(unit: str) -> str:
    """How a number in one of our units may be typed."""
    return KINDS[POWERS.get(unit, BARE)][1]


def _expression(text: str, units: Units) -> tuple[str, dict[str, Quantity]]:
    """The text in Python's grammar, and its units by the names that they have there.

    A number and the unit behind it belong together: `10 px / 2 s` is a speed.
    """
    plain = text.strip().replace("−", "-").replace("·", "*").replace("\N{NO-BREAK SPACE}", " ")
    if len(plain) > LONGEST:
        raise ValueError(f"“{plain[:20]}…” is too long for a number.")
    parts: list[str] = []
    named: dict[str, Quantity] = {}
    at, after_number = 0, False
    while at < len(plain):
        found = _TOKEN.match(plain, at)
        if not found:
            raise ValueError(f"“{plain}” cannot be read as a number.")
        at = found.end()
        if found["number"]:
            number = float(found["number"].replace(",", "."))
            if not math.isfinite(number):
                raise ValueError(f"“{plain}” is too large.")
            parts.append(f"({number!r})")
        elif found["unit"]:
            unit = units.find(found["unit"])
            if unit is None:
                raise ValueError(f"“{found['unit']}” in “{plain}” is not a known unit.")
            name = f"unit{len(named)}"
            named[name] = unit
            squared = re.compile(r"\s*(?:²|(?:\^|\*\*)\s*([1-9]))").match(plain, at)
            power = f"**{squared[1] or 2}" if squared else ""
            at = squared.end() if squared else at
            if after_number:
                parts[-1] = f"({parts[-1]}*{name}{power})"
            else:
                parts.append(f"{name}{power}")
        else:
            if found["sign"] in ("+", "-") and parts and parts[-1] in ("+", "-"):
                raise ValueError(f"“{plain}” cannot be read as a number.")
            parts.append({"^": "**", "²": "**2"}.get(found["sign"], found["sign"]))
        after_number = bool(found["number"])
    return "".join(parts), named


_TERMS: dict[type[ast.operator], Callable[[float, float], float]] = {ast.Add: operator.add, ast.Sub: operator.sub}
_UNREADABLE = "Only numbers with units, + - * / and brackets can be typed."


def _value(node: ast.expr, named: Mapping[str, Quantity]) -> Quantity:
    match node:
        case ast.Constant(value=int() | float() as value) if not isinstance(value, bool):
            return Quantity(float(value))
        case ast.Name(id=name) if name in named:
            return named[name]
        case ast.UnaryOp(op=ast.USub(), operand=inner):
            found = _value(inner, named)
            return replace(found, value=-found.value)
        case ast.UnaryOp(op=ast.UAdd(), operand=inner):
            return _value(inner, named)
        case ast.BinOp(left=left, op=sign, right=right):
            return _combined(_value(left, named), sign, _value(right, named))
    raise ValueError(_UNREADABLE)


def _combined(left: Quantity, sign: ast.operator, right: Quantity) -> Quantity:
    percent = left.percent or right.percent
    if type(sign) in _TERMS:
        if left.powers != right.powers:
            raise ValueError(f"{left.kind.capitalize()} and {right.kind} cannot be added.")
        return Quantity(_TERMS[type(sign)](left.value, right.value), left.powers, percent)
    if isinstance(sign, ast.Mult):
        length, time, angle = (a + b for a, b in zip(left.powers, right.powers, strict=True))
        return Quantity(left.value * right.value, (length, time, angle), percent)
    if isinstance(sign, ast.Div):
        length, time, angle = (a - b for a, b in zip(left.powers, right.powers, strict=True))
        return Quantity(left.value / right.value, (length, time, angle), percent)
    if isinstance(sign, ast.Pow) and right.powers == BARE and right.value in range(HIGHEST_POWER + 1):
        power = int(right.value)
        length, time, angle = (a * power for a in left.powers)
        return Quantity(left.value**power, (length, time, angle), percent)
    raise ValueError(_UNREADABLE)
