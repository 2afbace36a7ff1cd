"""Lua 5.4: a module that returns a table of functions."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import ClassVar

from typing_extensions import override

from cinetica.codegen.expressions import Binary, Call, Constant, Expression, Local, Rows
from cinetica.codegen.program import Field, Number
from cinetica.codegen.reserved import LUA_WORDS
from cinetica.codegen.statements import Block, Function, If
from cinetica.codegen.writers.base import NOT, SIGN, Text
from cinetica.codegen.writers.lines import WIDTH, wrapped
from cinetica.codegen.writers.makers import MakingWriter

MATH = {
    "abs": "math.abs", "min": "math.min", "max": "math.max", "copysign": "with_sign", "sqrt": "math.sqrt",
    "exp": "math.exp", "cos": "math.cos", "sin": "math.sin", "atan2": "math.atan", "floor": "math.floor",
    "ceil": "math.ceil",
}  # fmt: skip
ZEROS = {"number": "0.0", "whole": "0", "flag": "false"}
OWN = frozenset(("math", "M", "with_sign", "self", "type", "string", "table", "next", "select", "error", "print"))


class LuaWriter(MakingWriter):
    """Writes Lua."""

    suffix = ".lua"
    indent = "  "
    words: ClassVar[Mapping[str, str]] = {"and": "and", "or": "or", "not": "not "}
    comparisons: ClassVar[Mapping[str, str]] = {"!=": "~="}
    functions = MATH
    reserved = LUA_WORDS | OWN
    remark = "--"
    pi = "math.pi"
    stop = ""
    updates = False

    @override
    def literal(self, value: float) -> str:
        return "math.huge" if value == float("inf") else repr(float(value))

    @override
    def function_name(self, name: str) -> str:
        found = super().function_name(name)
        return f"M.{found}" if name in self.program.entries else found

    @override
    def item(self, rows: Rows, index: Expression, column: str) -> str:
        # Lists begin at 1.
        if isinstance(index, Binary) and index.operator == "-" and index.right == Constant(1, kind="whole"):
            place = self.text(index.left)
        elif isinstance(index, Constant):
            place = str(int(index.value) + 1)
        else:
            place = f"{self.text(index)} + 1"
        found = f"{self.rows(rows)}[{place}]"
        return f"{found}.{self.allowed(column)}" if column else found

    @override
    def count(self, rows: Rows) -> str:
        return f"#{self.rows(rows)}"

    @override
    def no(self, of: Expression) -> Text:
        # Here it binds as a sign does.
        return Text(f"not {self.text(of, SIGN)}", SIGN)

    @override
    def choose(self, test: Expression, yes: Expression, no: Expression) -> Text:
        # A number is never false in Lua, so this is a conditional expression.
        if yes.kind == "flag":
            either = f"({self.text(test, NOT)} and {self.text(yes, NOT)})"
            return Text(f"{either} or (not ({self.text(test)}) and {self.text(no, NOT)})", 1)
        return Text(f"{self.text(test, 2)} and {self.text(yes, 2)} or {self.text(no, 2)}", 1)

    @override
    def power(self, left: Expression, right: Expression) -> Text:
        return Text(f"{self.text(left, 9)} ^ {self.text(right, 9)}", 8)

    @override
    def declaring(self, local: Local) -> str:
        return "local "

    @override
    def declaration(self, local: Local, depth: int) -> Iterator[str]:
        yield f"{self.indent * depth}local {self.local_name(local.name)}"

    @override
    def assign_all(self, found: tuple[Expression | None, ...], value: Call, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        new = [each for each in found if isinstance(each, Local) and each.name in self.new_names]
        self.declared_names |= {each.name for each in new}
        names = ["_" if each is None else self.text(each) for each in found]
        if len(new) == sum(each is not None for each in found):
            yield from self.fitted(f"{pad}local {', '.join(names)} = ", self.text(value), "")
            return
        other = [self.text(each) for each in new] + (["_"] if None in found else [])
        if other:
            yield f"{pad}local {', '.join(other)}"
        yield from self.fitted(f"{pad}{', '.join(names)} = ", self.text(value), "")

    @override
    def condition(self, test: Expression, yes: Block, no: Block, depth: int, word: str = "if") -> Iterator[str]:
        pad = self.indent * depth
        yield from self.fitted(f"{pad}{word} ", self.text(test), " then")
        yield from self.block(yes, depth + 1)
        if len(no) == 1 and isinstance(no[0], If):
            yield from self.condition(no[0].test, no[0].yes, no[0].no, depth, "elseif")
            return
        if no:
            yield f"{pad}else"
            yield from self.block(no, depth + 1)
        yield f"{pad}end"

    @override
    def loop(self, name: str, first: Expression, end: Expression, body: Block, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        yield f"{pad}for {self.local_name(name)} = {self.text(first)}, {self.text(end, 5)} - 1 do"
        yield from self.block(body, depth + 1)
        yield f"{pad}end"

    @override
    def forever(self, body: Block, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        yield f"{pad}while true do"
        yield from self.block(body, depth + 1)
        yield f"{pad}end"

    @override
    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        text = ", ".join(self.text(each) for each in values)
        yield from (
            self.fitted(f"{self.indent * depth}return ", text, "") if values else [f"{self.indent * depth}return"]
        )

    # The file.

    @override
    def lines(self) -> Iterator[str]:
        program = self.program
        yield from self.documented(self.head())
        yield ""
        yield "local M = {}"
        yield ""
        for name, constant in self.used_symbols().items():
            value = str(int(constant.value)) if constant.kind == "whole" else self.literal(constant.value)
            yield f"local {self.constant_name(name)} = {value}"
            if constant.kind == "whole":
                yield f"M.{self.constant_name(name)} = {self.constant_name(name)}"
        yield ""
        yield from self.records()
        if "copysign" in self.used_functions():
            yield from self.documented("A size with the sign of another number.")
            yield "local function with_sign(size, sign)"
            yield "  return sign < 0.0 and -size or size"
            yield "end"
            yield ""
        for function in program.functions:
            yield from self._function(function)
        yield "return M"

    @override
    def documented(self, text: str) -> Iterator[str]:
        """A comment for documentation."""
        for place, line in enumerate(line for each in text.split("\n") for line in wrapped(each, WIDTH - 5)):
            yield f"{'---' if place == 0 else '--'} {line}"

    empty_list = "{}"

    @override
    def maker(self, record: str, entries: list[str], before: list[str]) -> Iterator[str]:
        yield f"function M.make_{record}()"
        for each in before:
            yield f"  {each}"
        yield "  return {"
        for each in entries:
            yield f"    {each}"
        yield "  }"
        yield "end"

    @override
    def entry(self, name: str, value: str) -> str:
        return f"{name} = {value},"

    @override
    def number_value(self, number: Number) -> str:
        if isinstance(number.value, tuple):
            return "{" + ", ".join(f"{{x = {x!r}, y = {y!r}}}" for x, y in number.value) + "}"
        return repr(number.value)

    @override
    def zero(self, record: str, field: Field) -> str:
        return self.field_name(record, field.column.name) if field.count else ZEROS[field.column.kind]

    @override
    def prepared(self, record: str, field: Field) -> list[str]:
        own = self.field_name(record, field.column.name)
        return (
            [f"local {own} = {{}}", f"for i = 1, {field.count} do", f"  {own}[i] = 0.0", "end"] if field.count else []
        )

    def _function(self, function: Function) -> Iterator[str]:
        self.enter(function)
        taken = [*function.records, *(self.local_name(each.name) for each in function.parameters)]
        local = "" if function.name in self.program.entries else "local "
        yield from self.documented(self.words_of(function))
        yield from self.fitted(f"{local}function {self.function_name(function.name)}(", ", ".join(taken), ")")
        for name in self.unused(function):
            yield f"  local _ = {name}"
        yield from self.block(function.body, 1)
        yield "end"
        yield ""
