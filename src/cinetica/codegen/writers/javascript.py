"""JavaScript (ES2020): a module of functions and of objects that are made by functions."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import ClassVar

from typing_extensions import override

from cinetica.codegen.expressions import Call, Expression, Local, Rows
from cinetica.codegen.program import Field, Number
from cinetica.codegen.reserved import JAVASCRIPT_WORDS
from cinetica.codegen.statements import Function
from cinetica.codegen.writers.braces import BracesWriter
from cinetica.codegen.writers.lines import WIDTH, camel, wrapped
from cinetica.codegen.writers.makers import MakingWriter

MATH = {
    "abs": "Math.abs", "min": "Math.min", "max": "Math.max", "copysign": "withSign", "sqrt": "Math.sqrt",
    "exp": "Math.exp", "cos": "Math.cos", "sin": "Math.sin", "atan2": "Math.atan2", "floor": "Math.floor",
    "ceil": "Math.ceil",
}  # fmt: skip
ZEROS = {"number": "0", "whole": "0", "flag": "false"}
OWN = frozenset(("withSign", "makeNumbers", "makeState", "makeInput", "makeHit", "makeCourse"))


class JavaScriptWriter(MakingWriter, BracesWriter):
    """Writes JavaScript."""

    suffix = ".mjs"
    indent = "  "
    functions = MATH
    reserved = JAVASCRIPT_WORDS | OWN
    comparisons: ClassVar[Mapping[str, str]] = {"==": "===", "!=": "!=="}
    pi = "Math.PI"
    counter = "let"

    @override
    def cased(self, name: str) -> str:
        return camel(name)

    @override
    def literal(self, value: float) -> str:
        if value == float("inf"):
            return "Infinity"
        return str(int(value)) if value == int(value) and abs(value) < 1e15 else repr(float(value))

    @override
    def count(self, rows: Rows) -> str:
        return f"{self.rows(rows)}.length"

    @override
    def declaring(self, local: Local) -> str:
        return "const " if self.is_set_once(local) else "let "

    @override
    def declaration(self, local: Local, depth: int) -> Iterator[str]:
        yield f"{self.indent * depth}let {self.local_name(local.name)};"

    @override
    def assign_all(self, found: tuple[Expression | None, ...], value: Call, depth: int) -> Iterator[str]:
        pad = self.indent * depth
        locals_ = [each for each in found if isinstance(each, Local) and each.name in self.new_names]
        if len(locals_) == sum(each is not None for each in found):
            names = ["" if each is None else self.text(each) for each in found]
            const = all(self.is_set_once(each) for each in locals_)
            self.declared_names |= {each.name for each in locals_}
            before = f"{pad}{'const' if const else 'let'} [{', '.join(names).rstrip(', ')}] = "
            yield from self.fitted(before, self.text(value), ";")
            return
        for local in locals_:
            self.declared_names.add(local.name)
            yield f"{pad}let {self.text(local)};"
        names = ["" if each is None else self.text(each) for each in found]
        yield from self.fitted(f"{pad}[{', '.join(names).rstrip(', ')}] = ", self.text(value), ";")

    @override
    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        if len(values) > 1:
            text = ", ".join(self.text(each) for each in values)
            yield from self.fitted(f"{self.indent * depth}return [", text, "];")
        else:
            yield from super().returned(values, depth)

    # The file.

    @override
    def lines(self) -> Iterator[str]:
        program = self.program
        yield from self.documented(self.head())
        yield ""
        for name, constant in self.used_symbols().items():
            value = str(int(constant.value)) if constant.kind == "whole" else self.literal(constant.value)
            yield f"export const {self.constant_name(name)} = {value};"
        yield ""
        yield from self.records()
        if "copysign" in self.used_functions():
            yield from self.documented("A size with the sign of another number.")
            yield "function withSign(size, sign) {"
            yield "  return sign < 0 ? -size : size;"
            yield "}"
            yield ""
        for place, function in enumerate(program.functions):
            if place:
                yield ""
            yield from self._function(function)

    @override
    def documented(self, text: str) -> Iterator[str]:
        """A comment for documentation."""
        lines = [line for each in text.split("\n") for line in wrapped(each, WIDTH - 7)]
        if len(lines) == 1:
            yield f"/** {lines[0]} */"
            return
        yield "/**"
        for line in lines:
            yield f" * {line}"
        yield " */"

    @override
    def maker(self, record: str, entries: list[str], before: list[str]) -> Iterator[str]:
        yield f"export function make{record.capitalize()}() {{"
        yield "  return {"
        for each in entries:
            yield f"    {each}"
        yield "  };"
        yield "}"

    @override
    def entry(self, name: str, value: str) -> str:
        return f"{name}: {value},"

    @override
    def number_value(self, number: Number) -> str:
        if isinstance(number.value, tuple):
            return "[" + ", ".join(f"{{x: {self.literal(x)}, y: {self.literal(y)}}}" for x, y in number.value) + "]"
        return self.literal(number.value)

    @override
    def zero(self, record: str, field: Field) -> str:
        return f"new Array({field.count}).fill(0)" if field.count else ZEROS[field.column.kind]

    def _function(self, function: Function) -> Iterator[str]:
        self.enter(function)
        taken = [*function.records, *(self.local_name(each.name) for each in function.parameters)]
        public = "export " if function.name in self.program.entries else ""
        yield from self.documented(self.words_of(function))
        yield from self.fitted(f"{public}function {self.function_name(function.name)}(", ", ".join(taken), ") {")
        for name in self.unused(function):
            yield f"  void {name};"
        yield from self.block(function.body, 1)
        yield "}"
