"""The program of one tune: its functions, in the order in which they call each other, and its records."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cinetica.codegen.expressions import BARE, Constant, Unit
from cinetica.codegen.specialise import Column
from cinetica.codegen.statements import Function
from cinetica.model.conventions import Conventions, Per
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune


@dataclass(frozen=True)
class Number:
    """A number that stays free: its field in the kernel, and its value in the unit and sign of the code."""

    name: str
    parameter: Parameter
    value: float | int | tuple[tuple[float, float], ...]
    column: Column


@dataclass(frozen=True)
class Field:
    """A field of a record of the code, and its initial value."""

    column: Column
    # Its length, if it is a list.
    count: int = 0


@dataclass(frozen=True)
class Program:
    """A program. `whole`: with our contact for boxes; else cut where the game moves.

    `entries` are the functions that the game calls; `course` has the lists of a course that are used, and `rows` the
    columns of each type of row. `always` contains values of the trace that never change for this tune.
    """

    tune: Tune
    conventions: Conventions
    whole: bool
    functions: tuple[Function, ...]
    entries: tuple[str, ...]
    numbers: tuple[Number, ...]
    state: tuple[Field, ...]
    input: tuple[Field, ...]
    hit: tuple[Field, ...]
    course: tuple[str, ...]
    rows: Mapping[str, tuple[Column, ...]]
    always: Mapping[str, Constant]

    def function(self, name: str) -> Function:
        """The function of this name."""
        return next(each for each in self.functions if each.name == name)


class Scales:
    """The factors from our units to those of the code: the game's lengths, and the time that its speeds refer to."""

    def __init__(self, conventions: Conventions) -> None:
        self.length = conventions.pixels_per_unit
        self.time = conventions.rate if conventions.per is Per.FRAME else 1.0

    def factor(self, unit: Unit) -> float:
        """The factor for a unit."""
        length, time = unit or BARE
        # Powers of 0 and 1 stay exact, as with `**`.
        return self.length**length * self.time**time
