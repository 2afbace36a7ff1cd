"""C99: one header, without allocation."""

from __future__ import annotations

from collections.abc import Iterator

from typing_extensions import override

from cinetica.codegen.expressions import Expression, Local, Rows
from cinetica.codegen.program import Field, Number, Program
from cinetica.codegen.reserved import C_WORDS, identifier
from cinetica.codegen.specialise import Column
from cinetica.codegen.statements import Function, Parameter
from cinetica.codegen.writers.base import Text
from cinetica.codegen.writers.braces import TYPES, TypedWriter
from cinetica.codegen.writers.lines import WIDTH, broken, wrapped

# Macros of the headers that the code or its test includes.
MACROS = frozenset(
    [
        "INFINITY",
        "NAN",
        "HUGE_VAL",
        "HUGE_VALF",
        "M_PI",
        "M_E",
        "EOF",
        "FILE",
        "BUFSIZ",
        "RAND_MAX",
        "EXIT_SUCCESS",
        "EXIT_FAILURE",
        "assert",
        "errno",
        "stdin",
        "stdout",
        "stderr",
        "signbit",
        "isnan",
        "isinf",
        "isfinite",
        "fpclassify",
        "unix",
        "linux",
        "I",
        "complex",
    ]
)
MATH = {
    "abs": "fabs", "min": "fmin", "max": "fmax", "copysign": "copysign", "sqrt": "sqrt", "exp": "exp", "cos": "cos",
    "sin": "sin", "atan2": "atan2", "floor": "floor", "ceil": "ceil",
}  # fmt: skip


class CWriter(TypedWriter):
    """Writes C."""

    suffix = ".h"
    functions = MATH
    reserved = C_WORDS | MACROS

    def __init__(self, program: Program, name: str) -> None:
        self.prefix = identifier(name, self.reserved).lower()
        super().__init__(program, name)

    @override
    @property
    def pi(self) -> str:  # type: ignore[override]
        return f"{self.prefix.upper()}_PI"

    @override
    def function_name(self, name: str) -> str:
        return f"{self.prefix}_{name}"

    @override
    def constant_name(self, symbol: str) -> str:
        return f"{self.prefix.upper()}_{symbol}"

    @override
    def type_of_row(self, row: str) -> str:
        return f"{self.prefix}_{row}"

    def list_of(self, row: str) -> str:
        """The type of a list of rows."""
        return f"{self.prefix}_{row}s"

    @override
    def literal(self, value: float) -> str:
        return "INFINITY" if value == float("inf") else repr(float(value))

    @override
    def member(self, record: str, name: str) -> str:
        return f"{record}->{self.field_name(record, name)}"

    @override
    def item(self, rows: Rows, index: Expression, column: str) -> str:
        found = f"{self.rows(rows)}.at[{self.text(index)}]" if rows.row else f"{self.rows(rows)}[{self.text(index)}]"
        return f"{found}.{self.allowed(column)}" if column else found

    @override
    def count(self, rows: Rows) -> str:
        return f"{self.rows(rows)}.count"

    @override
    def power(self, left: Expression, right: Expression) -> Text:
        return Text(f"pow({self.text(left)}, {self.text(right)})")

    def results_of(self, results: tuple[Parameter, ...]) -> str:
        """The type of several results."""
        if results[0].name == "dx":
            return f"{self.prefix}_way"
        return f"{self.prefix}_{'_'.join(each.kind for each in results)}"

    @override
    def names_of_results(self, results: tuple[Parameter, ...]) -> list[str]:
        if results[0].name == "dx":
            return ["dx", "dy"]
        return [
            ("first", "second", "third", "fourth", "fifth", "sixth", "seventh")[place] for place in range(len(results))
        ]

    @override
    def declaring(self, local: Local) -> str:
        return f"{'const ' if self.is_set_once(local) else ''}{TYPES[local.kind]} "

    @override
    def type_of_results(self, results: tuple[Parameter, ...]) -> str:
        return f"const {self.results_of(results)}"

    @override
    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        results = self.function.results
        if len(values) > 1:
            text = ", ".join(self.text(each) for each in values)
            yield from self.fitted(f"{self.indent * depth}return ({self.results_of(results)}){{", text, "};")
        else:
            yield from super().returned(values, depth)

    # The file.

    @override
    def lines(self) -> Iterator[str]:
        program, guard = self.program, f"{self.prefix.upper()}_H"
        yield from self.commented(self.head())
        yield f"#ifndef {guard}"
        yield f"#define {guard}"
        yield ""
        yield "#include <math.h>"
        yield "#include <stdbool.h>"
        yield ""
        yield from self._constants()
        for row, columns in program.rows.items():
            yield from self._row(row, columns)
        yield from self._numbers()
        yield from self._struct("state", "All that lasts from one tick to the next; zeroed at first.", program.state)
        yield from self._struct("input", "What the hands do in one tick.", program.input)
        if not program.whole:
            yield from self._struct("hit", "What the game’s move has hit.", program.hit)
        if program.course:
            yield from self._course()
        yield from self._results_types()
        for function in program.functions:
            yield from self._function(function)
        yield "#endif"

    def _row(self, row: str, columns: tuple[Column, ...]) -> Iterator[str]:
        """The type of a row, and that of a list of them."""
        yield from self.commented(self.words_of_row(row))
        yield "typedef struct {"
        for each in columns:
            yield f"    {TYPES[each.kind]} {self.allowed(each.name)};"
        yield f"}} {self.type_of_row(row)};"
        yield ""
        yield "typedef struct {"
        yield f"    const {self.type_of_row(row)} *at;"
        yield "    int count;"
        yield f"}} {self.list_of(row)};"
        yield ""

    def _course(self) -> Iterator[str]:
        yield from self.commented("What the body moves in.")
        yield "typedef struct {"
        for name in self.program.course:
            yield f"    {self.list_of(self.row_of(name))} {self.field_name('course', name)};"
        yield f"}} {self.prefix}_course;"
        yield ""

    def _results_types(self) -> Iterator[str]:
        """A type for every combination of several results."""
        functions = self.program.functions
        several = {self.results_of(each.results): each.results for each in functions if len(each.results) > 1}
        for type_, results in several.items():
            yield "typedef struct {"
            for result, name in zip(results, self.names_of_results(results), strict=True):
                yield f"    {TYPES[result.kind]} {name};"
            yield f"}} {type_};"
            yield ""

    def commented(self, text: str) -> Iterator[str]:
        """A comment of several lines."""
        lines = [line for each in text.split("\n") for line in wrapped(each, WIDTH - 10)]
        if len(lines) == 1:
            yield f"/* {lines[0]} */"
            return
        yield f"/* {lines[0]}"
        for line in lines[1:-1]:
            yield f"   {line}"
        yield f"   {lines[-1]} */"

    @override
    def remarks(self, words: str, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        for line in self.commented(words):
            yield pad + line

    def _constants(self) -> Iterator[str]:
        found = self.used_symbols()
        if self.uses_pi():
            yield f"#define {self.pi} {3.141592653589793!r}"
        for name, constant in found.items():
            if constant.kind == "number":
                yield f"#define {self.constant_name(name)} {self.literal(constant.value)}"
        whole = {name: constant for name, constant in found.items() if constant.kind == "whole"}
        yield ""
        if whole:
            yield "enum {"
            yield from broken("    ", ", ".join(
                f"{self.constant_name(name)} = {int(constant.value)}" for name, constant in whole.items()
            ), "", "", self.words)  # fmt: skip
            yield "};"
            yield ""

    def _numbers(self) -> Iterator[str]:
        program = self.program
        lists = [each for each in program.numbers if isinstance(each.value, tuple)]
        yield from self.commented("The numbers of the tune, free to be changed.")
        yield "typedef struct {"
        for each in program.numbers:
            yield from self.commented_field(self.number_comment(each))
            type_ = self.list_of("point") if isinstance(each.value, tuple) else TYPES[each.column.kind]
            yield f"    {type_} {self.number_name(each)};"
        if not program.numbers:
            yield "    int none;"
        yield f"}} {self.prefix}_numbers;"
        yield ""
        for each in lists:
            assert isinstance(each.value, tuple)
            points = ", ".join(f"{{{x!r}, {y!r}}}" for x, y in each.value)
            yield f"static const {self.type_of_row('point')} {self.prefix}_{each.name}[] = {{{points}}};"
        yield from self.commented("The numbers as they were handed over.")
        yield f"static const {self.prefix}_numbers {self.prefix}_tuned = {{"
        for each in program.numbers:
            yield f"    .{self.number_name(each)} = {self._value(each)},"
        if not program.numbers:
            yield "    .none = 0,"
        yield "};"
        yield ""

    def _value(self, number: Number) -> str:
        if isinstance(number.value, tuple):
            return f"{{{self.prefix}_{number.name}, {len(number.value)}}}"
        return repr(number.value)

    def commented_field(self, text: str) -> Iterator[str]:
        """The comment on a field."""
        for line in self.commented(text):
            yield f"    {line}"

    def _struct(self, name: str, words: str, fields: tuple[Field, ...]) -> Iterator[str]:
        yield from self.commented(words)
        yield "typedef struct {"
        for each in fields:
            if words_of_field := self.field_words(name, each):
                yield from self.commented_field(words_of_field)
            end = f"[{each.count}]" if each.count else ""
            yield f"    {TYPES[each.column.kind]} {self.field_name(name, each.column.name)}{end};"
        if not fields:
            yield "    int none;"
        yield f"}} {self.prefix}_{name};"
        yield ""

    def _function(self, function: Function) -> Iterator[str]:
        self.enter(function)
        taken = []
        for each in function.records:
            const = "" if each == "state" else "const "
            taken.append(f"{const}{self.prefix}_{each} *{each}")
        for parameter in function.parameters:
            type_ = self.list_of(parameter.rows) if parameter.rows else TYPES[parameter.kind]
            taken.append(f"{type_} {self.local_name(parameter.name)}")
        results = function.results
        gives = "void" if not results else TYPES[results[0].kind] if len(results) == 1 else self.results_of(results)
        yield from self.commented(self.words_of(function))
        start = f"static inline {gives} {self.function_name(function.name)}("
        yield from self.fitted(start, ", ".join(taken) or "void", ") {")
        for name in self.unused(function):
            yield f"    (void){name};"
        yield from self.block(function.body, 1)
        yield "}"
        yield ""
