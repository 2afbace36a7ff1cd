"""How a parameter is declared: once, with everything that the rest of the program derives from it.

A group of parameters is a model whose fields are made by `number`, `whole`, `switch` or `choice`. The sheet, the file
schema, the command line, the kernel's record and the table in the docs all read the resulting `Parameter` objects, so a
new parameter is one new field.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any, Literal

from pydantic import Field

from cinetica.model.base import FrozenModel
from cinetica.model.curves import FEWEST_POINTS, MOST_POINTS, Point

Value = float | int | bool | str | tuple[Point, ...]
Kind = Literal["number", "whole", "switch", "choice", "curve"]
VIEWS = ("side", "top")
# The groups that have keys of other groups.
SHARING = ("wall", "dash", "pose")
SECTIONS = (
    "Hands", "Ground", "Air", "Jump", "Edges", "Climb", "Walls", "Dash", "Contact", "Slopes", "Facing", "Camera",
    "Poses", "Stepping", "Clock",
)  # fmt: skip


def as_number(value: Value) -> float:
    """The value of a number; TypeError for a curve, which is not a number."""
    if isinstance(value, tuple):
        raise TypeError("a curve is not a number")
    return float(value)


@dataclass(frozen=True)
class When:
    """The condition that another parameter has one of these values, or is greater than `over`."""

    id: str
    values: tuple[str | bool, ...] = ()
    over: float | None = None

    def holds(self, value: Value) -> bool:
        """Whether the other parameter's value satisfies the condition."""
        if self.over is not None:
            return as_number(value) > self.over
        return value in self.values


@dataclass(frozen=True)
class Option:
    """One value of a choice, and what it means."""

    id: str
    meaning: str
    views: tuple[str, ...] = VIEWS


@dataclass(frozen=True)
class Declaration:
    """What is declared of a parameter besides its place and its default.

    `low` and `high` are the limits; `comfort` is the range that a drag covers.
    """

    kind: Kind
    label: str
    unit: str
    meaning: str
    section: str
    low: float = 0.0
    high: float = 0.0
    comfort: tuple[float, float] = (0.0, 0.0)
    options: tuple[Option, ...] = ()
    views: tuple[str, ...] = VIEWS
    when: tuple[When, ...] = ()
    # A speed that points up: negative in a game whose y points down.
    upward: bool = False
    # A rate that closes a share of a gap: "exact", or the id of the choice that says in which form.
    share: str = ""
    # Few tunes use it: the sheet shows it only when it differs from its default or is searched for.
    rare: bool = False
    # The greatest x of a curve; `high` is its greatest y, and `comfort` what a picture of it spans up.
    reach: float = 0.0
    # The size of the world that `comfort` is for, relative to the usual one.
    size: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Parameter(Declaration):
    """Everything known about one parameter: its declaration and its place."""

    group: str
    key: str
    default: Value

    @cached_property
    def id(self) -> str:
        """The id, `group.key`."""
        return f"{self.group}.{self.key}"

    @cached_property
    def name(self) -> str:
        """A name that no other parameter has: the key, with the group before it where other groups have the same."""
        return f"{self.group}_{self.key}" if self.group in SHARING else self.key

    @cached_property
    def codes(self) -> dict[str, int]:
        """The kernel's code of each option."""
        return {option.id: place for place, option in enumerate(self.options)}

    @property
    def allowed(self) -> str:
        """Describe the values that may be entered."""
        if self.kind == "choice":
            return "one of " + ", ".join(option.id for option in self.options)
        if self.kind == "switch":
            return "true or false"
        if self.kind == "curve":
            return (
                f"{FEWEST_POINTS} to {MOST_POINTS} points such as 0 1, 0.5 0.8, 1 0.5, with x rising up to"
                f" {self.reach:g} and y from {self.low:g} to {self.high:g}"
            )
        noun = "a whole number" if self.kind == "whole" else "a number"
        unit = f" {self.unit}" if self.unit else ""
        return f"{noun} from {self.low:.10g} to {self.high:.10g}{unit}"

    def matters(self, view: str, values: Mapping[str, Value]) -> bool:
        """Whether this parameter has any effect, given the view and the other values by id."""
        return view in self.views and all(when.holds(values[when.id]) for when in self.when)

    def choices(self, view: str) -> tuple[Option, ...]:
        """The options available in a view."""
        return tuple(option for option in self.options if view in option.views)


def code(member: StrEnum) -> int:
    """The kernel's code of a member of a choice: its position in the declaration."""
    return list(type(member)).index(member)


def number(
    default: float,
    label: str,
    unit: str,
    hard: tuple[float, float],
    comfort: tuple[float, float],
    meaning: str,
    *,
    section: str,
    views: tuple[str, ...] = VIEWS,
    when: tuple[When, ...] = (),
    upward: bool = False,
    share: str = "",
    rare: bool = False,
) -> Any:
    """Declare a number with its limits, `hard`, and its range for drags, `comfort`."""
    return _field("number", default, label, unit, meaning, section, views, when, hard, comfort, upward=upward,
                  share=share, rare=rare)  # fmt: skip


def whole(
    default: int,
    label: str,
    unit: str,
    hard: tuple[int, int],
    comfort: tuple[int, int],
    meaning: str,
    *,
    section: str,
    views: tuple[str, ...] = VIEWS,
    when: tuple[When, ...] = (),
) -> Any:
    """Declare a whole number; see `number`."""
    return _field("whole", default, label, unit, meaning, section, views, when, hard, comfort)


def switch(
    default: bool,
    label: str,
    meaning: str,
    *,
    section: str,
    views: tuple[str, ...] = VIEWS,
    when: tuple[When, ...] = (),
    rare: bool = False,
) -> Any:
    """Declare a switch that is on or off."""
    return _field("switch", default, label, "", meaning, section, views, when, rare=rare)


def choice(
    default: StrEnum,
    label: str,
    meaning: str,
    options: Mapping[Any, str],
    *,
    section: str,
    views: tuple[str, ...] = VIEWS,
    when: tuple[When, ...] = (),
    only: Mapping[Any, tuple[str, ...]] | None = None,
    rare: bool = False,
) -> Any:
    """Declare a choice.

    `options` says what each member does; `only` limits a member to some views.
    """
    listed = tuple(Option(member.value, options[member], (only or {}).get(member, VIEWS)) for member in type(default))
    return _field("choice", default, label, "", meaning, section, views, when, options=listed, rare=rare)


def drawn(
    default: tuple[Point, ...],
    label: str,
    meaning: str,
    most: tuple[float, float],
    comfort: tuple[float, float],
    *,
    section: str,
    views: tuple[str, ...] = VIEWS,
    when: tuple[When, ...] = (),
    rare: bool = False,
) -> Any:
    """Declare a drawn curve, with its greatest x and y, and the range of y that a picture of it spans."""
    return _field("curve", default, label, "", meaning, section, views, when, (0.0, most[1]), comfort, rare=rare,
                  reach=most[0])  # fmt: skip


def _field(
    kind: Kind,
    default: Any,
    label: str,
    unit: str,
    meaning: str,
    section: str,
    views: tuple[str, ...],
    when: tuple[When, ...],
    hard: tuple[float, float] | None = None,
    comfort: tuple[float, float] = (0.0, 0.0),
    options: tuple[Option, ...] = (),
    upward: bool = False,
    share: str = "",
    rare: bool = False,
    reach: float = 0.0,
) -> Any:
    if section not in SECTIONS:
        raise ValueError(f"{label}: no section called {section}")
    low, high = hard or (0.0, 0.0)
    field: Any = Field(
        default,
        ge=None if hard is None or kind == "curve" else low,
        le=None if hard is None or kind == "curve" else high,
        title=label,
        description=meaning,
        json_schema_extra={"unit": unit} if unit else None,
    )
    field.metadata.append(
        Declaration(
            kind, label, unit, meaning, section, low, high, comfort, options, views, when, upward, share, rare, reach
        )
    )
    return field


def declared_in(group: str, model: type[FrozenModel]) -> Iterator[Parameter]:
    """Yield the parameters declared as fields of `model`, in order; other fields are skipped."""
    for key, field in model.model_fields.items():
        for declaration in field.metadata:
            if isinstance(declaration, Declaration):
                default = field.default.value if isinstance(field.default, StrEnum) else field.default
                yield Parameter(group=group, key=key, default=default, **vars(declaration))
