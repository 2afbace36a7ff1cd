"""C#: a static class with the records and the functions in it."""

from __future__ import annotations

from collections.abc import Iterator

from typing_extensions import override

from cinetica.codegen.expressions import Expression, Local, Rows
from cinetica.codegen.program import Field, Number, Program
from cinetica.codegen.reserved import CSHARP_WORDS, identifier
from cinetica.codegen.specialise import Column
from cinetica.codegen.statements import Function, Parameter
from cinetica.codegen.writers.base import Text
from cinetica.codegen.writers.braces import TYPES, TypedWriter
from cinetica.codegen.writers.lines import WIDTH, camel, pascal, wrapped

MATH = {
    "abs": "Math.Abs", "min": "Math.Min", "max": "Math.Max", "copysign": "WithSign", "sqrt": "Math.Sqrt",
    "exp": "Math.Exp", "cos": "Math.Cos", "sin": "Math.Sin", "atan2": "Math.Atan2", "floor": "Math.Floor",
    "ceil": "Math.Ceiling",
}  # fmt: skip
OWN = frozenset(("State", "Numbers", "Input", "Hit", "Course", "Math", "List", "WithSign"))


class CSharpWriter(TypedWriter):
    """Writes C#."""

    suffix = ".cs"
    functions = MATH
    reserved = CSHARP_WORDS | OWN
    own_line = True
    pi = "Math.PI"

    def __init__(self, program: Program, name: str) -> None:
        super().__init__(program, name)
        members = {*self.numbers.values(), *OWN, *(self.function_name(each.name) for each in program.functions)}
        found = identifier(name, self.reserved | members)
        self.class_name = found[:1].upper() + found[1:]
        while self.class_name in self.reserved | members:
            self.class_name += "_"

    @override
    def cased(self, name: str) -> str:
        return pascal(name)

    @override
    def local_name(self, name: str) -> str:
        return self._names.get(name) or self.allowed(camel(name))

    @override
    def constant_name(self, symbol: str) -> str:
        return pascal(symbol.lower())

    @override
    def literal(self, value: float) -> str:
        return "double.PositiveInfinity" if value == float("inf") else repr(float(value))

    @override
    def count(self, rows: Rows) -> str:
        return f"{self.rows(rows)}.Count"

    @override
    def passed(self, record: str) -> str:
        return f"ref {record}" if record == "state" else record

    @override
    def power(self, left: Expression, right: Expression) -> Text:
        return Text(f"Math.Pow({self.text(left)}, {self.text(right)})")

    @override
    def declaring(self, local: Local) -> str:
        return f"{TYPES[local.kind]} "

    @override
    def type_of_results(self, results: tuple[Parameter, ...]) -> str:
        return "var"

    @override
    def names_of_results(self, results: tuple[Parameter, ...]) -> list[str]:
        return [f"Item{place}" for place in range(1, len(results) + 1)]

    @override
    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        if len(values) > 1:
            text = ", ".join(self.text(each) for each in values)
            yield from self.fitted(f"{self.indent * depth}return (", text, ");")
        else:
            yield from super().returned(values, depth)

    # The file.

    @override
    def lines(self) -> Iterator[str]:
        program = self.program
        yield "using System;"
        yield "using System.Collections.Generic;"
        yield ""
        yield from self.summary(self.head(), 0)
        yield f"public static class {self.class_name}"
        yield "{"
        for name, constant in self.used_symbols().items():
            value = str(int(constant.value)) if constant.kind == "whole" else self.literal(constant.value)
            yield f"    public const {TYPES[constant.kind]} {self.constant_name(name)} = {value};"
        for row, columns in program.rows.items():
            yield from self._row(row, columns)
        yield from self._numbers()
        yield from self._record("struct State", "All that lasts from one tick to the next.", "state", program.state)
        yield from self._record("struct Input", "What the hands do in one tick.", "input", program.input)
        if not program.whole:
            yield from self._record("struct Hit", "What the game’s move has hit.", "hit", program.hit)
        if program.course:
            yield from self._course()
        if "copysign" in self.used_functions():
            yield ""
            yield from self.summary("A size with the sign of another number.", 1)
            yield "    private static double WithSign(double size, double sign)"
            yield "    {"
            yield "        return sign < 0.0 ? -size : size;"
            yield "    }"
        for function in program.functions:
            yield from self._function(function)
        yield "}"

    def _row(self, row: str, columns: tuple[Column, ...]) -> Iterator[str]:
        yield ""
        yield from self.summary(self.words_of_row(row), 1)
        yield f"    public struct {self.type_of_row(row)}"
        yield "    {"
        for each in columns:
            yield f"        public {TYPES[each.kind]} {self.allowed(self.cased(each.name))};"
        yield "    }"

    def _course(self) -> Iterator[str]:
        yield ""
        yield from self.summary("What the body moves in.", 1)
        yield "    public sealed class Course"
        yield "    {"
        for name in self.program.course:
            type_ = f"List<{self.type_of_row(self.row_of(name))}>"
            yield f"        public {type_} {self.field_name('course', name)} = new {type_}();"
        yield "    }"

    def summary(self, text: str, depth: int) -> Iterator[str]:
        """A documentation comment."""
        pad = self.indent * depth
        lines = [line for each in text.split("\n") for line in wrapped(each, WIDTH - len(pad) - 4)]
        safe = [line.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;") for line in lines]
        yield f"{pad}/// <summary>"
        for line in safe:
            yield f"{pad}/// {line}"
        yield f"{pad}/// </summary>"

    def _numbers(self) -> Iterator[str]:
        yield ""
        yield from self.summary("The numbers of the tune, free to be changed.", 1)
        yield "    public sealed class Numbers"
        yield "    {"
        for each in self.program.numbers:
            for line in wrapped(self.number_comment(each), WIDTH - 11):
                yield f"        // {line}"
            yield f"        public {self._number(each)};"
        yield "    }"

    def _number(self, number: Number) -> str:
        name = self.number_name(number)
        if isinstance(number.value, tuple):
            row = self.type_of_row("point")
            points = ", ".join(f"new {row} {{ X = {x!r}, Y = {y!r} }}" for x, y in number.value)
            return f"List<{row}> {name} = new List<{row}> {{ {points} }}"
        return f"{TYPES[number.column.kind]} {name} = {number.value!r}"

    def _record(self, head: str, words: str, record: str, fields: tuple[Field, ...]) -> Iterator[str]:
        yield ""
        yield from self.summary(words, 1)
        yield f"    public {head}"
        yield "    {"
        for each in fields:
            if words_of_field := self.field_words(record, each):
                yield f"        // {words_of_field}"
            end = "[]" if each.count else ""
            yield f"        public {TYPES[each.column.kind]}{end} {self.field_name(record, each.column.name)};"
        yield "    }"

    def _function(self, function: Function) -> Iterator[str]:
        self.enter(function)
        taken = [f"ref State {each}" if each == "state" else f"{each.capitalize()} {each}" for each in function.records]
        for parameter in function.parameters:
            type_ = f"List<{self.type_of_row(parameter.rows)}>" if parameter.rows else TYPES[parameter.kind]
            taken.append(f"{type_} {self.local_name(parameter.name)}")
        kinds = [TYPES[each.kind] for each in function.results]
        if function.name == "before_move":
            kinds = [f"{kind} {name}" for kind, name in zip(kinds, ("dx", "dy"), strict=True)]
        gives = "void" if not kinds else kinds[0] if len(kinds) == 1 else f"({', '.join(kinds)})"
        public = "public" if function.name in self.program.entries else "private"
        yield ""
        yield from self.summary(self.words_of(function), 1)
        start = f"    {public} static {gives} {self.function_name(function.name)}("
        yield from self.fitted(start, ", ".join(taken), ")")
        yield "    {"
        if function.name == "begin":
            for field in self.program.state:
                if field.count:
                    yield f"        state.{self.field_name('state', field.column.name)} = new double[{field.count}];"
        yield from self.block(function.body, 2)
        yield "    }"
