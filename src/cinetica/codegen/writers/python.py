"""Python without dependencies: data classes and functions."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar

from typing_extensions import override

from cinetica.codegen.expressions import Call, Compare, Expression, Rows
from cinetica.codegen.program import Field, Number
from cinetica.codegen.reserved import PYTHON_WORDS
from cinetica.codegen.specialise import Column
from cinetica.codegen.statements import Block, Function, If
from cinetica.codegen.writers.base import NOT, SUM, Text, Writer
from cinetica.codegen.writers.lines import WIDTH, broken, wrapped


def _closes(text: str, place: int) -> int:
    """Where the bracket at this place is closed."""
    depth = 0
    for at in range(place, len(text)):
        depth += {"(": 1, ")": -1}.get(text[at], 0)
        if depth == 0:
            return at
    return -1


@dataclass(frozen=True, slots=True)
class _Written(Expression):
    """An expression that is written already."""

    text: str = ""


TYPES = {"number": "float", "whole": "int", "flag": "bool"}
BUILT_IN = {"abs", "min", "max"}
# Names that the code itself uses.
OWN = frozenset(("math", "dataclass", "field", "State", "Numbers", "Input", "Hit", "Course"))


class PythonWriter(Writer):
    """Writes Python."""

    suffix = ".py"
    words: ClassVar[Mapping[str, str]] = {"and": "and", "or": "or", "not": "not "}
    functions: ClassVar[Mapping[str, str]] = {name: name if name in BUILT_IN else f"math.{name}" for name in (
        "abs", "min", "max", "copysign", "sqrt", "exp", "cos", "sin", "atan2", "floor", "ceil")}  # fmt: skip
    reserved = PYTHON_WORDS | OWN
    remark = "#"
    true, false = "True", "False"
    pi = "math.pi"
    stop = ""

    @override
    def literal(self, value: float) -> str:
        return "math.inf" if value == float("inf") else repr(float(value))

    @override
    def count(self, rows: Rows) -> str:
        return f"len({self.rows(rows)})"

    @override
    def no(self, of: Expression) -> Text:
        return Text(f"not {self.text(of, NOT)}", NOT)

    @override
    def logic(self, operator: str, terms: Iterable[Expression]) -> Text:
        found = list(terms)
        if operator == "and":
            chained: list[Expression] = []
            for each in found:
                last = chained[-1] if chained else None
                if isinstance(each, Compare) and isinstance(last, Compare) and last.right == each.left:
                    # a <= b and b <= c.
                    end = f"{self.text(each.left, SUM)} {each.operator} {self.text(each.right, SUM)}"
                    chained[-1] = replace(last, right=_Written(text=end))
                else:
                    chained.append(each)
            found = chained
        if len(found) == 1:
            return self.expression(found[0])
        return super().logic(operator, found)

    @override
    def expression(self, expression: Expression) -> Text:
        return Text(expression.text) if isinstance(expression, _Written) else super().expression(expression)

    @override
    def choose(self, test: Expression, yes: Expression, no: Expression) -> Text:
        return Text(f"{self.text(yes, 1)} if {self.text(test, 1)} else {self.text(no, 1)}", 0)

    @override
    def fitted(self, before: str, text: str, after: str) -> Iterator[str]:
        if len(before) + len(text) + len(after) <= WIDTH:
            yield f"{before}{text}{after}"
            return
        pad = before[: len(before) - len(before.lstrip())]
        called = re.match(r"[\w.]+\(", text)
        if called and _closes(text, called.end() - 1) == len(text) - 1:
            yield f"{before}{called.group()}"
            yield from broken(pad + self.indent, text[called.end() : -1], "", "", self.words)
            yield f"{pad}){after}"
            return
        yield f"{before}("
        yield from broken(pad + self.indent, text, "", "", self.words)
        yield f"{pad}){after}"

    @override
    def assign_all(self, found: tuple[Expression | None, ...], value: Call, depth: int) -> Iterator[str]:
        names = ", ".join("_" if each is None else self.text(each) for each in found)
        yield from self.fitted(f"{self.indent * depth}{names} = ", self.text(value), "")

    @override
    def condition(self, test: Expression, yes: Block, no: Block, depth: int, word: str = "if") -> Iterator[str]:
        pad = self.indent * depth
        yield from self.fitted(f"{pad}{word} ", self.text(test), ":")
        yield from self.block(yes, depth + 1)
        if len(no) == 1 and isinstance(no[0], If):
            yield from self.condition(no[0].test, no[0].yes, no[0].no, depth, "elif")
        elif no:
            yield f"{pad}else:"
            yield from self.block(no, depth + 1)

    @override
    def loop(self, name: str, first: Expression, end: Expression, body: Block, depth: int) -> Iterator[str]:
        start = "" if self.text(first) == "0" else f"{self.text(first)}, "
        yield f"{self.indent * depth}for {self.local_name(name)} in range({start}{self.text(end)}):"
        yield from self.block(body, depth + 1)

    @override
    def forever(self, body: Block, depth: int) -> Iterator[str]:
        yield f"{self.indent * depth}while True:"
        yield from self.block(body, depth + 1)

    @override
    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        pad = self.indent * depth
        if not values:
            yield f"{pad}return"
            return
        yield from self.fitted(f"{pad}return ", ", ".join(self.text(each) for each in values), "")

    # The file.

    @override
    def lines(self) -> Iterator[str]:
        program = self.program
        yield from self._quoted(self.head(), 0)
        yield ""
        yield "from __future__ import annotations"
        yield ""
        if self.uses_mathematics():
            yield "import math"
        yield "from dataclasses import dataclass" + (", field" if self.uses_lists() else "")
        if program.rows:
            yield "from typing import NamedTuple"
        yield ""
        for name, constant in self.used_symbols().items():
            yield f"{name} = {int(constant.value) if constant.kind == 'whole' else self.literal(constant.value)}"
        for row, columns in program.rows.items():
            yield from self._row(row, columns)
        yield from self._class("Numbers", "The numbers of the tune, free to be changed.", [
            self._number(each) for each in program.numbers
        ])  # fmt: skip
        yield from self._class("State", "All that lasts from one tick to the next.", [
            self._field("state", each) for each in program.state
        ])  # fmt: skip
        yield from self._class("Input", "What the hands do in one tick.", [
            self._field("input", each) for each in program.input
        ])  # fmt: skip
        if not program.whole:
            yield from self._class(
                "Hit", "What the game’s move has hit.", [self._field("hit", each) for each in program.hit]
            )
        if program.course:
            yield from self._class("Course", "What the body moves in.", [
                f"{self.field_name('course', name)}: list[{self.row_name(name)}] = field(default_factory=list)"
                for name in program.course
            ])  # fmt: skip
        for function in program.functions:
            yield from self._function(function)

    def uses_mathematics(self) -> bool:
        """Whether anything of the module math is used."""
        text = "\n".join(line for function in self.program.functions for line in self._function(function))
        return "math." in text or any(constant.value == float("inf") for constant in self.used_symbols().values())

    def uses_lists(self) -> bool:
        """Whether a record has a list."""
        lists = any(isinstance(each.value, tuple) for each in self.program.numbers)
        return bool(self.program.course) or lists or any(each.count for each in self.program.state)

    def row_name(self, course: str) -> str:
        """The type of the rows of a list."""
        return self.type_of_row(self.row_of(course))

    def _row(self, row: str, columns: tuple[Column, ...]) -> Iterator[str]:
        yield ""
        yield ""
        yield f"class {self.type_of_row(row)}(NamedTuple):"
        yield f'    """{self.words_of_row(row)}"""'
        yield ""
        for each in columns:
            yield f"    {self.allowed(each.name)}: {TYPES[each.kind]}"

    def _class(self, name: str, words: str, fields: list[str]) -> Iterator[str]:
        yield ""
        yield ""
        yield "@dataclass"
        yield f"class {name}:"
        yield from self._quoted(words, 1)
        if fields:
            yield ""
        for each in fields:
            yield f"    {each}"

    def _number(self, number: Number) -> str:
        name = self.number_name(number)
        comment = f"  # {self.number_comment(number)}"
        if isinstance(number.value, tuple):
            points = ", ".join(f"Point({x!r}, {y!r})" for x, y in number.value)
            return f"{name}: list[Point] = field(default_factory=lambda: [{points}]){comment}"
        return f"{name}: {TYPES[number.column.kind]} = {number.value!r}{comment}"

    def _field(self, record: str, field: Field) -> str:
        name, column = self.field_name(record, field.column.name), field.column
        if field.count:
            return f"{name}: list[float] = field(default_factory=lambda: [0.0] * {field.count})"
        start = {"number": "0.0", "whole": "0", "flag": "False"}[column.kind]
        words = self.field_words(record, field)
        return f"{name}: {TYPES[column.kind]} = {start}" + (f"  # {words}" if words else "")

    def _function(self, function: Function) -> Iterator[str]:
        self.enter(function)
        taken = [f"{self.record_name(each)}: {each.capitalize()}" for each in function.records]
        for each in function.parameters:
            type_ = f"list[{self.type_of_row(each.rows)}]" if each.rows else TYPES[each.kind]
            taken.append(f"{self.local_name(each.name)}: {type_}")
        kinds = [TYPES[each.kind] for each in function.results]
        gives = "None" if not kinds else kinds[0] if len(kinds) == 1 else f"tuple[{', '.join(kinds)}]"
        yield ""
        yield ""
        head = f"def {self.function_name(function.name)}({', '.join(taken)}) -> {gives}:"
        if len(head) <= WIDTH:
            yield head
        else:
            yield f"def {self.function_name(function.name)}("
            yield from broken("    ", ", ".join(taken), "", "", self.words)
            yield f") -> {gives}:"
        yield from self._quoted(self.words_of(function), 1)
        yield from self.block(function.body, 1)
        if not function.body:
            yield "    return"

    def _quoted(self, text: str, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        # A name may have quotes in it.
        first, *rest = text.replace('"', "'").split("\n")
        lines = wrapped(first, WIDTH - len(pad) - 6)
        more = [line for each in rest for line in wrapped(each, WIDTH - len(pad))]
        if len(lines) + len(more) == 1:
            yield f'{pad}"""{lines[0]}"""'
            return
        yield f'{pad}"""{lines[0]}'
        for line in lines[1:]:
            yield f"{pad}{line}"
        if more:
            yield ""
        for line in more:
            yield f"{pad}{line}"
        yield f'{pad}"""'
