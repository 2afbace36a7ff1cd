"""What JavaScript and Lua have in common: records are tables that functions make, and have no types."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator

from cinetica.codegen.program import Field, Number
from cinetica.codegen.writers.base import Writer
from cinetica.codegen.writers.lines import WIDTH, wrapped


class MakingWriter(Writer):
    """Writes a function for each record, which makes it."""

    @abstractmethod
    def documented(self, text: str) -> Iterator[str]:
        """A comment for documentation."""

    @abstractmethod
    def maker(self, record: str, entries: list[str], before: list[str]) -> Iterator[str]:
        """A function that makes a record of these entries; `before` comes first in it."""

    @abstractmethod
    def entry(self, name: str, value: str) -> str:
        """An entry of a table."""

    @abstractmethod
    def number_value(self, number: Number) -> str:
        """The value of a number as it was handed over."""

    @abstractmethod
    def zero(self, record: str, field: Field) -> str:
        """What a field is at first."""

    def prepared(self, record: str, field: Field) -> list[str]:
        """Lines that come before the table for a field that is a list."""
        return []

    empty_list = "[]"

    def records(self) -> Iterator[str]:
        """The rows in words, and a function for each record."""
        program = self.program
        for row, columns in program.rows.items():
            names = ", ".join(self.allowed(self.cased(each.name)) for each in columns)
            yield from self.documented(f"{self.words_of_row(row)}\nA {row} has: {names}.")
            yield ""
        numbers: list[str] = []
        for each in program.numbers:
            numbers += self._commented(self.number_comment(each))
            numbers.append(self.entry(self.number_name(each), self.number_value(each)))
        yield from self._made("numbers", "The numbers of the tune, free to be changed.", numbers)
        yield from self._fields("state", "All that lasts from one tick to the next.", program.state)
        yield from self._fields("input", "What the hands do in one tick.", program.input)
        if not program.whole:
            yield from self._fields("hit", "What the game’s move has hit.", program.hit)
        if program.course:
            lists = [self.entry(self.field_name("course", name), self.empty_list) for name in program.course]
            yield from self._made("course", "What the body moves in: lists of rows.", lists)

    def _commented(self, text: str) -> list[str]:
        return [f"{self.remark} {line}" for line in wrapped(text, WIDTH - 7)]

    def _fields(self, record: str, words: str, fields: tuple[Field, ...]) -> Iterator[str]:
        entries, before = [], []
        for each in fields:
            if text := self.field_words(record, each):
                entries.append(f"{self.remark} {text}")
            before += self.prepared(record, each)
            entries.append(self.entry(self.field_name(record, each.column.name), self.zero(record, each)))
        yield from self._made(record, words, entries, before)

    def _made(self, record: str, words: str, entries: list[str], before: list[str] | None = None) -> Iterator[str]:
        yield from self.documented(words)
        yield from self.maker(record, entries, before or [])
        yield ""
