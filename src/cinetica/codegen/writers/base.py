"""What all writers share: expressions with their operators, statements, and line breaks."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from cinetica.codegen.expressions import (
    BARE,
    FUNCTIONS,
    Binary,
    Call,
    Choose,
    Compare,
    Constant,
    Count,
    Expression,
    Item,
    Local,
    Logic,
    Member,
    Negative,
    Not,
    Rows,
    Unit,
)
from cinetica.codegen.program import Field, Number, Program, Scales
from cinetica.codegen.remarks import EQUATIONS, FIELD_WORDS, FUNCTION_WORDS, ROW_WORDS
from cinetica.codegen.reserved import plain_text
from cinetica.codegen.statements import (
    Assign,
    AssignAll,
    Block,
    Do,
    For,
    Forever,
    Function,
    If,
    Remark,
    Return,
    Statement,
    assigned,
    local_names,
    read,
)
from cinetica.codegen.vocabulary import COURSE, RENAMED
from cinetica.codegen.writers.declarations import Declarations
from cinetica.codegen.writers.lines import WIDTH, broken, pascal, wrapped
from cinetica.model.conventions import Conventions, Per
from cinetica.model.game_units import game_name, game_unit, to_game, unit_words, words
from cinetica.model.parameters import as_number
from cinetica.model.tune import PARAMETERS
from cinetica.motion.records import MARKS, STATES

# The precedence of operators; an operand with lower precedence is put in brackets.
OR, AND, NOT, COMPARE, SUM, PRODUCT, SIGN, POWER, ATOM = range(1, 10)
_TIGHT = {"+": SUM, "-": SUM, "*": PRODUCT, "/": PRODUCT, "//": PRODUCT, "%": PRODUCT, "**": POWER}
# The precedence of bit operators differs between languages: they are always in brackets.
_BITS = ("&", "|", "<<")


# The kernel's constants for marks and states, by the names they have in the code: GROUND is MOTION_GROUND there. Where
# a mark and a state would share a key, the state's wins: the kernel calls that mark by another name.
_MOTIONS = dict(zip(("GROUND", "RISE", "FALL", "CLIMB", "AT_WALL", "IN_DASH"), STATES, strict=True))
NAMES = {name.upper(): f"MARK_{name.upper()}" for name in MARKS} | {
    symbol: f"MOTION_{name.upper()}" for symbol, name in _MOTIONS.items()
}


@dataclass(frozen=True)
class Text:
    """The text of an expression, and its precedence."""

    text: str
    binds: int = ATOM

    def inside(self, least: int) -> str:
        """The text, in brackets if its precedence is lower than this."""
        return self.text if self.binds >= least else f"({self.text})"


class Writer(ABC):
    """Writes a program. A subclass for each language defines its words, names and functions."""

    suffix = ""
    indent = "    "
    # The operators for `and`, `or` and `not`, and for comparisons that differ.
    words: ClassVar[Mapping[str, str]] = {"and": "&&", "or": "||", "not": "!"}
    comparisons: ClassVar[Mapping[str, str]] = {}
    functions: ClassVar[Mapping[str, str]] = {}
    reserved: frozenset[str] = frozenset()
    remark = "//"
    # The terms of a condition that is too long are aligned below each other.
    true, false = "true", "false"

    def __init__(self, program: Program, name: str) -> None:
        self.program, self.tune_name = program, name
        self.scales = Scales(program.conventions)
        self.numbers: dict[str, str] = {}
        for each in program.numbers:
            self.numbers[each.name] = self._free_name(each)
        self.function = program.functions[0]
        self._names: dict[str, str] = {}
        # The local variables declared so far, and those that the current statement declares.
        self.declared_names: set[str] = set()
        self.new_names: frozenset[str] = frozenset()
        self.writes: Counter[str] = Counter()

    # Names.

    def _free_name(self, number: Number) -> str:
        """A unique name for a number: two names may become the same in this language."""
        given = self.program.conventions.names.get(number.parameter.id)
        name = self.allowed(given if given is not None else self.cased(number.parameter.name))
        while name in self.numbers.values():
            name += "_"
        return name

    def cased(self, name: str) -> str:
        """One of our names in the naming style of the language."""
        return name

    def allowed(self, name: str) -> str:
        """The name, with a trailing _ if it is a reserved word of the language."""
        while name in self.reserved:
            name += "_"
        return name

    def number_name(self, number: Number) -> str:
        """The name of a number: that of the game unchanged, or ours in the style of the language."""
        return self.numbers[number.name]

    def field_name(self, record: str, name: str) -> str:
        """The name of a field."""
        if record == "numbers":
            return self.numbers[name]
        return self.allowed(self.cased(RENAMED.get((record, name), name)))

    def function_name(self, name: str) -> str:
        """The name of a function."""
        return self.allowed(self.cased(name))

    def local_name(self, name: str) -> str:
        """The name of a local variable; the kernel's h is the length of a tick."""
        return self._names.get(name) or self.allowed(self.cased(name))

    def constant_name(self, symbol: str) -> str:
        """The name of a constant."""
        return symbol

    def record_name(self, record: str) -> str:
        """The name under which a record is passed."""
        return record

    # Expressions.

    def text(self, expression: Expression, least: int = 0) -> str:
        """The text of an expression, in brackets if it binds less than `least`."""
        return self.expression(expression).inside(least)

    def expression(self, expression: Expression) -> Text:
        """The text of an expression."""
        match expression:
            case Constant():
                return self.constant(expression)
            case Local(name=name):
                return Text(self.local_name(name))
            case Member(record=record, name=name):
                return Text(self.member(record, name))
            case Rows():
                return Text(self.rows(expression))
            case Item(rows=rows, index=index, column=column):
                return Text(self.item(rows, index, column))
            case Count(rows=rows):
                return Text(self.count(rows))
            case Negative(of=of):
                return Text(f"-{self.text(of, SIGN)}", SIGN)
            case Not(of=of):
                return self.no(of)
            case Binary(left, operator, right):
                return self.binary(left, operator, right)
            case Compare(left, operator, right):
                sign = self.comparisons.get(operator, operator)
                return Text(f"{self.text(left, SUM)} {sign} {self.text(right, SUM)}", COMPARE)
            case Logic(operator, terms):
                return self.logic(operator, terms)
            case Choose(test, yes, no):
                return self.choose(test, yes, no)
            case Call(function, arguments):
                return self.call(function, arguments)
        raise TypeError(f"no text for {expression}")

    def constant(self, constant: Constant) -> Text:
        """A literal, or the name of a constant."""
        if constant.kind == "flag":
            return Text(self.true if constant.value else self.false)
        if constant.symbol:
            name = self.constant_name(self.symbol(constant))
            return Text(f"-{name}", SIGN) if constant.value < 0 else Text(name)
        if constant.kind == "whole":
            return Text(str(int(constant.value)), SIGN if constant.value < 0 else ATOM)
        if abs(constant.value) == math.pi:
            return Text("-" + self.pi, SIGN) if constant.value < 0 else Text(self.pi)
        return Text(self.literal(constant.value), SIGN if constant.value < 0 else ATOM)

    pi = "PI"

    def symbol(self, constant: Constant) -> str:
        """The name of a constant; the slack has one for each unit if they differ."""
        if constant.symbol == "SLACK":
            return slack_name(self.scales, constant.unit)
        return NAMES.get(constant.symbol, constant.symbol)

    def literal(self, value: float) -> str:
        """A number."""
        return repr(float(value))

    def member(self, record: str, name: str) -> str:
        """A field of a record."""
        return f"{self.record_name(record)}.{self.field_name(record, name)}"

    def rows(self, rows: Rows) -> str:
        """A list."""
        return self.member(rows.record, rows.name) if rows.record else self.local_name(rows.name)

    def item(self, rows: Rows, index: Expression, column: str) -> str:
        """An element of a list, or a column of it."""
        found = f"{self.rows(rows)}[{self.text(index)}]"
        return f"{found}.{self.allowed(self.cased(column))}" if column else found

    @abstractmethod
    def count(self, rows: Rows) -> str:
        """The number of elements of a list."""

    def no(self, of: Expression) -> Text:
        """Not a."""
        word = self.words["not"]
        return Text(f"{word}{self.text(of, SIGN)}", SIGN)

    def binary(self, left: Expression, operator: str, right: Expression) -> Text:
        """Two values joined. The right one keeps its brackets, since sums are made in the kernel's order."""
        if operator in _BITS:
            return Text(f"{self.text(left, SIGN)} {operator} {self.text(right, SIGN)}", COMPARE)
        if operator == "**":
            return self.power(left, right)
        binds = _TIGHT[operator]
        return Text(f"{self.text(left, binds)} {operator} {self.text(right, binds + 1)}", binds)

    def power(self, left: Expression, right: Expression) -> Text:
        """a to the power of b."""
        return Text(f"{self.text(left, ATOM)} ** {self.text(right, ATOM)}", POWER)

    def logic(self, operator: str, terms: Iterable[Expression]) -> Text:
        """Conditions joined."""
        binds = AND if operator == "and" else OR
        # Brackets around mixed conditions, which many compilers ask for.
        parts = [f"({self.text(each)})" if isinstance(each, Logic) else self.text(each, NOT) for each in terms]
        return Text(f" {self.words[operator]} ".join(parts), binds)

    def choose(self, test: Expression, yes: Expression, no: Expression) -> Text:
        """One of two values."""
        return Text(f"{self.text(test, OR)} ? {self.text(yes, OR)} : {self.text(no, OR)}", 0)

    def call(self, function: str, arguments: tuple[Expression, ...]) -> Text:
        """A call."""
        if function in FUNCTIONS:
            return Text(f"{self.functions[function]}({', '.join(self.text(each) for each in arguments)})")
        called = self.program.function(function)
        passed = [self.passed(each) for each in called.records] + [self.text(each) for each in arguments]
        return Text(f"{self.function_name(function)}({', '.join(passed)})")

    def passed(self, record: str) -> str:
        """A record as an argument."""
        return self.record_name(record)

    # Statements.

    def block(self, block: Block, depth: int) -> Iterator[str]:
        """The lines of a block, with its local variables declared in it."""
        outside = set(self.declared_names)
        plan = Declarations(block, self.declared_names)
        first = True
        for place, statement in enumerate(block):
            if isinstance(statement, Remark):
                words = EQUATIONS.get(statement.name)
                # One comment for each part: of two in a row the second is more specific.
                if words and not isinstance(block[place + 1], Remark):
                    if not first:
                        yield ""
                    yield from self.remarks(words, depth)
                    first = True
                continue
            for local in plan.before.get(place, ()):
                self.declared_names.add(local.name)
                yield from self.declaration(local, depth)
            self.new_names = plan.inline.get(place, frozenset())
            yield from self.statement(statement, depth)
            first = False
        self.declared_names = outside

    def remarks(self, words: str, depth: int) -> Iterator[str]:
        """A comment, wrapped if it is too long."""
        pad = self.indent * depth
        for line in wrapped(words, WIDTH - len(pad) - len(self.remark) - 1):
            yield f"{pad}{self.remark} {line}"

    def statement(self, statement: Statement, depth: int) -> Iterator[str]:
        """The lines of a statement."""
        pad = self.indent * depth
        match statement:
            case Assign(target, value):
                yield from self.assign(target, value, depth)
            case AssignAll(found, value):
                yield from self.assign_all(found, value, depth)
            case Do(value):
                yield from self.fitted(pad, self.text(value), self.stop)
            case If(test, yes, no):
                yield from self.condition(test, yes, no, depth)
            case For(name, first, end, body):
                outside = set(self.declared_names)
                self.declared_names.add(name)
                yield from self.loop(name, first, end, body, depth)
                self.declared_names = outside
            case Forever(body):
                yield from self.forever(body, depth)
            case Return(values):
                yield from self.returned(values, depth)

    stop = ";"

    def assign(self, target: Expression, value: Expression, depth: int) -> Iterator[str]:
        """An assignment, by += and the like if the value begins with its target."""
        pad, name = self.indent * depth, self.text(target)
        if (
            self.updates
            and isinstance(value, Binary)
            and value.left == target
            and value.operator in ("+", "-", "*", "|")
        ):
            yield from self.fitted(f"{pad}{name} {value.operator}= ", self.text(value.right), self.stop)
        else:
            begins = self.declared(target)
            yield from self.fitted(f"{pad}{begins}{name} = ", self.text(value), self.stop)

    updates = True

    def declared(self, target: Expression | None) -> str:
        """What precedes a local variable at its first assignment."""
        if isinstance(target, Local) and target.name in self.new_names:
            self.declared_names.add(target.name)
            return self.declaring(target)
        return ""

    def declaring(self, local: Local) -> str:
        """What precedes a local variable in its declaration."""
        return ""

    def declaration(self, local: Local, depth: int) -> Iterator[str]:
        """The declaration of a local variable that is assigned later."""
        return iter(())

    def is_set_once(self, local: Local) -> bool:
        """Whether a local variable never changes."""
        return self.writes[local.name] == 1

    def fitted(self, before: str, text: str, after: str) -> Iterator[str]:
        """A line, broken before an operator or after a comma if it is too long."""
        yield from broken(before, text, after, self.indent, self.words)

    @abstractmethod
    def assign_all(self, found: tuple[Expression | None, ...], value: Call, depth: int) -> Iterator[str]:
        """Assign each result of a call."""

    @abstractmethod
    def condition(self, test: Expression, yes: Block, no: Block, depth: int, word: str = "if") -> Iterator[str]:
        """Statements under a condition."""

    @abstractmethod
    def loop(self, name: str, first: Expression, end: Expression, body: Block, depth: int) -> Iterator[str]:
        """A loop over whole numbers."""

    @abstractmethod
    def forever(self, body: Block, depth: int) -> Iterator[str]:
        """A loop that a return ends."""

    def returned(self, values: tuple[Expression, ...], depth: int) -> Iterator[str]:
        """A return."""
        yield from (
            self.fitted(f"{self.indent * depth}return ", self.text(values[0]), self.stop)
            if values
            else [f"{self.indent * depth}return{self.stop}"]
        )

    # Functions.

    def enter(self, function: Function) -> None:
        """Set the names of a function's locals."""
        self.function = function
        self.writes = Counter(each.name for each in assigned(function.body) if isinstance(each, Local))
        self.declared_names = {each.name for each in function.parameters}
        self.new_names = frozenset()
        names = local_names(function.body) | {each.name for each in function.parameters}
        self._names = {}
        for ours, better in (("h", "dt"), ("wx", "intent_x"), ("wy", "intent_y"), ("s", "sine"), ("c", "cosine")):
            if ours in names and better not in names:
                self._names[ours] = self.allowed(self.cased(better))

    def unused(self, function: Function) -> list[str]:
        """Parameters that a function does not use: the game calls it in the same way, whatever the tune needs."""
        used = {
            part.record or part.name
            if isinstance(part, Rows)
            else part.record
            if isinstance(part, Member)
            else part.name
            for each in [*read(function.body), *assigned(function.body)]
            for part in each.everything
            if isinstance(part, Rows | Member | Local)
        }
        for name in function.calls:
            used |= set(self.program.function(name).records)
        return [self.record_name(each) for each in function.records if each not in used] + [
            self.local_name(each.name) for each in function.parameters if each.name not in used
        ]

    def words_of(self, function: Function) -> str:
        """The description of a function."""
        return FUNCTION_WORDS.get(function.origin) or EQUATIONS[function.origin]

    # The text around the code.

    def head(self) -> str:
        """The header comment of the file, with the conventions of its numbers."""
        program = self.program
        lines = [
            f"How {plain_text(program.tune.name)} moves, as code.",
            f"{sentence(words(program.conventions))}; angles in the code in radians, from the x axis to the y axis.",
        ]
        if program.whole:
            lines.append("Call begin() once, then step() in every tick.")
        else:
            lines.append(
                "Call begin() once; in every tick before_move(), then the game’s own move, which sets x and y, and"
                " after_move() with what it hit."
            )
            if about_move := self.numbers_of_the_move():
                lines.append(f"The game’s move itself has to know: {', '.join(about_move)}.")
        if late := program.tune.input.latency:
            lines.append(f"Input is {late} ticks late: give each tick what the hands did {late} ticks before.")
        lines.append(
            "Numbers may be changed, but what is 0, or a factor of 1, is not in the code: a number must not become"
            " that, or change its sign."
        )
        return "\n".join(lines)

    def numbers_of_the_move(self) -> list[str]:
        """The numbers of the tune for contact, which is left to the game, in the game's units."""
        tune, conventions = self.program.tune, self.program.conventions
        values, inside = tune.values(), {each.parameter.id for each in self.program.numbers}
        found = []
        for parameter in PARAMETERS:
            left = parameter.group in ("body", "contact", "slope") and parameter.id not in inside
            if left and parameter.kind == "number" and parameter.matters(tune.view, values):
                value = to_game(parameter, values[parameter.id], conventions, values)
                if value and not (parameter.unit == "×" and value == 1):
                    name = game_name(parameter, conventions)
                    found.append(f"{name} {as_number(value):.10g} {game_unit(parameter, conventions)}".rstrip())
        return found

    def number_comment(self, number: Number) -> str:
        """The unit of a number in the code, its value in the game if it differs, and its meaning."""
        parameter, conventions = number.parameter, self.program.conventions
        unit = code_unit(number, conventions)
        # A factor explains itself.
        unit = "" if unit == "factor" else unit
        kept = to_game(parameter, self.program.tune.get(parameter.id), conventions, self.program.tune.values())
        other = ""
        if not isinstance(kept, str | tuple) and parameter.kind == "number" and float(kept) != number.value:
            other = f" ({float(kept):.10g} {game_unit(parameter, conventions)})"
        return plain_text(f"{unit}{other}: {parameter.meaning}" if unit or other else parameter.meaning)

    def field_words(self, record: str, field: Field) -> str:
        """The description of a field that the game must know."""
        return FIELD_WORDS.get((record, field.column.name), "")

    def row_of(self, course: str) -> str:
        """The type of the rows of a list of the course."""
        return COURSE[course]

    def type_of_row(self, row: str) -> str:
        """The name of a type of row."""
        return pascal(row)

    def words_of_row(self, row: str) -> str:
        """The description of a row."""
        return ROW_WORDS[row]

    # The features that the program uses.

    def used_symbols(self) -> dict[str, Constant]:
        """The named constants that the functions use, by their names."""
        found: dict[str, Constant] = {}
        for function in self.program.functions:
            for each in read(function.body):
                if isinstance(each, Constant) and each.symbol:
                    value = abs(each.value) if each.kind == "number" else each.value
                    found[self.symbol(each)] = Constant(value, each.symbol, kind=each.kind, unit=each.unit)
        return dict(sorted(found.items(), key=lambda item: (item[1].kind, item[1].value, item[0])))

    def used_functions(self) -> set[str]:
        """The mathematical functions that are used."""
        return {
            each.function
            for function in self.program.functions
            for each in read(function.body)
            if isinstance(each, Call) and each.function in FUNCTIONS
        }

    def uses_pi(self) -> bool:
        """Whether π is used."""
        return any(
            isinstance(each, Constant) and each.kind == "number" and not each.symbol and abs(each.value) == math.pi
            for function in self.program.functions
            for each in read(function.body)
        )

    @abstractmethod
    def lines(self) -> Iterator[str]:
        """All lines of the code."""

    def written(self) -> str:
        """The code."""
        return "\n".join(line.rstrip() for line in self.lines()) + "\n"


def sentence(text: str) -> str:
    """The text with a capital first letter."""
    return text[:1].upper() + text[1:]


def code_unit(number: Number, conventions: Conventions) -> str:
    """The unit of a number in the code, in words: angles in radians."""
    unit = unit_words(number.parameter.unit, conventions)
    if number.parameter.unit == "s":
        return "frames" if conventions.per is Per.FRAME else "s"
    return unit.replace("°", "rad")


def slack_name(scales: Scales, unit: Unit) -> str:
    """The name of the slack of a unit: one for all if the game uses our units."""
    if scales.length == scales.time == 1 or (unit or BARE) == BARE:
        return "SLACK"
    names = {(1, 0): "LENGTH", (1, -1): "SPEED", (0, 1): "TIME", (0, -1): "RATE", (2, -2): "SQUARE"}
    length, time = unit or BARE
    return f"SLACK_{names.get((length, time), f'{length}_{time}'.replace('-', 'minus_'))}"
