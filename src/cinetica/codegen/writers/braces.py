"""What C, C# and JavaScript share."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator

from typing_extensions import override

from cinetica.codegen.expressions import Call, Expression, Local
from cinetica.codegen.program import Program
from cinetica.codegen.statements import Block, Function, If, Parameter
from cinetica.codegen.writers.base import Writer

TYPES = {"number": "double", "whole": "int", "flag": "bool"}


class BracesWriter(Writer):
    """Writes blocks in braces."""

    # C# puts the opening brace of a block on a line of its own.
    own_line = False
    counter = "int"

    def opened(self, head: str, depth: int) -> Iterator[str]:
        """The head of a block, with its opening brace."""
        pad = self.indent * depth
        if self.own_line:
            yield f"{pad}{head}"
            yield f"{pad}{{"
        else:
            yield f"{pad}{head} {{"

    @override
    def condition(self, test: Expression, yes: Block, no: Block, depth: int, word: str = "if") -> Iterator[str]:
        pad = self.indent * depth
        start, end = f"{pad}{word} (", ")" if self.own_line else ") {"
        yield from self.fitted(start, self.text(test), end)
        if self.own_line:
            yield f"{pad}{{"
        yield from self.block(yes, depth + 1)
        joined = f"{pad}}}" if self.own_line else f"{pad}}} "
        if len(no) == 1 and isinstance(no[0], If):
            if self.own_line:
                yield joined
                yield from self.condition(no[0].test, no[0].yes, no[0].no, depth, "else if")
            else:
                first, *rest = self.condition(no[0].test, no[0].yes, no[0].no, depth, "else if")
                yield f"{joined}{first.strip()}"
                yield from rest
            return
        if no:
            if self.own_line:
                yield joined
                yield f"{pad}else"
                yield f"{pad}{{"
            else:
                yield f"{joined}else {{"
            yield from self.block(no, depth + 1)
        yield f"{pad}}}"

    @override
    def loop(self, name: str, first: Expression, end: Expression, body: Block, depth: int) -> Iterator[str]:
        name = self.local_name(name)
        head = f"for ({self.counter} {name} = {self.text(first)}; {name} < {self.text(end)}; {name}++)"
        yield from self.opened(head, depth)
        yield from self.block(body, depth + 1)
        yield f"{self.indent * depth}}}"

    @override
    def forever(self, body: Block, depth: int) -> Iterator[str]:
        yield from self.opened("for (;;)", depth)
        yield from self.block(body, depth + 1)
        yield f"{self.indent * depth}}}"


class TypedWriter(BracesWriter):
    """C and C#, whose variables have types."""

    def __init__(self, program: Program, name: str) -> None:
        super().__init__(program, name)
        self._held = 0

    @abstractmethod
    def type_of_results(self, results: tuple[Parameter, ...]) -> str:
        """The type of a variable that holds several results."""

    @abstractmethod
    def names_of_results(self, results: tuple[Parameter, ...]) -> list[str]:
        """The fields of several results."""

    @override
    def enter(self, function: Function) -> None:
        super().enter(function)
        self._held = 0

    @override
    def declaration(self, local: Local, depth: int) -> Iterator[str]:
        zero = {"number": "0.0", "whole": "0", "flag": "false"}[local.kind]
        yield f"{self.indent * depth}{TYPES[local.kind]} {self.local_name(local.name)} = {zero};"

    @override
    def assign_all(self, found: tuple[Expression | None, ...], value: Call, depth: int) -> Iterator[str]:
        pad, results = self.indent * depth, self.program.function(value.function).results
        self._held += 1
        name = self.local_name(f"result_of_{value.function}_{self._held}")
        yield from self.fitted(f"{pad}{self.type_of_results(results)} {name} = ", self.text(value), ";")
        for target, field in zip(found, self.names_of_results(results), strict=True):
            if target is not None:
                yield f"{pad}{self.declared(target)}{self.text(target)} = {name}.{field};"
