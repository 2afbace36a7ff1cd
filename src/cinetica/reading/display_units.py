"""The units in which numbers are shown and typed: ours, or those of the game.

What is kept is always in u, s and degrees. A view asks its `DisplayUnits` for a parameter, measure or channel as it is
shown, and for the `Scale` that converts its numbers.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from cinetica.model.conventions import Angle, Conventions
from cinetica.model.game_units import (
    TURNED,
    ZEROS,
    factor,
    from_game,
    game_unit,
    is_share,
    sign_in_game,
    to_game,
    unit_words,
)
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.study import Study, UnitSystem
from cinetica.model.targets import Target, range_words
from cinetica.model.value_text import reading_text, value_text
from cinetica.reading.channels import BY_COLUMN, Channel
from cinetica.reading.measures import Measure

Numbers = TypeVar("Numbers", float, NDArray[np.float64])
# What changes sign if y points down: heights, upward speeds, and angles from the horizontal.
UPWARD = ("y", "vy", "ay", "camera_y", "screen_y", "input_y", "intent_y", "bank", "look_pitch", "ground_angle")


@dataclass(frozen=True)
class Scale:
    """Shown is `factor * (kept - zero)`; angles from a zero are kept within half a `turn` of it."""

    unit: str = ""
    factor: float = 1.0
    zero: float = 0.0
    turn: float = 0.0

    def shown(self, value: Numbers) -> Numbers:
        """A kept number as it is shown."""
        return self.wrapped(self.on_axis(value))

    def on_axis(self, value: Numbers) -> Numbers:
        """As `shown`, but an angle grows on past the turn."""
        # A zero has no sign.
        return self.factor * (value - self.zero) + 0.0

    def wrapped(self, number: Numbers) -> Numbers:
        """An angle on an axis as it is shown."""
        return self.turn / 2 - (self.turn / 2 - number) % self.turn if self.turn else number

    def kept(self, number: Numbers) -> Numbers:
        """The inverse of `on_axis`."""
        return number / self.factor + self.zero

    def span(self, low: float, high: float) -> tuple[float, float]:
        """What a stretch of an axis shows, the lesser end first."""
        one, other = self.on_axis(low), self.on_axis(high)
        return min(one, other), max(one, other)

    def change(self, value: Numbers) -> Numbers:
        """A difference of two kept numbers as it is shown."""
        return self.factor * value + 0.0


class AxisScale(Protocol):
    """What an axis needs to know of the units of its numbers."""

    @property
    def unit(self) -> str:
        """The unit that is shown."""

    def on_axis(self, value: float) -> float:
        """A kept number as it is shown."""

    def wrapped(self, number: float) -> float:
        """A number on the axis as it is written."""

    def kept(self, number: float) -> float:
        """The inverse of `on_axis`."""

    def span(self, low: float, high: float) -> tuple[float, float]:
        """What a stretch of the axis shows, the lesser end first."""


@dataclass(frozen=True)
class DisplayUnits:
    """Ours, or those of a game with these conventions."""

    game: Conventions | None = None
    _scales: dict[str, Scale] = field(default_factory=dict, compare=False, repr=False)
    _columns: dict[str, Scale] = field(default_factory=dict, compare=False, repr=False)
    _parameters: dict[tuple[str, float, bool], Parameter] = field(default_factory=dict, compare=False, repr=False)
    _measures: dict[str, Measure] = field(default_factory=dict, compare=False, repr=False)

    # Numbers of a unit

    def unit(self, unit: str) -> str:
        """What is shown for one of our units."""
        if self.game is None or unit in ("", "×"):
            return unit
        return unit_words(unit, self.game)

    def scale(self, unit: str) -> Scale:
        """The scale of a number without a direction, such as a speed or a height over the ground."""
        found = self._scales.get(unit)
        if found is None:
            made = Scale(unit) if self.game is None else Scale(self.unit(unit), factor(unit, self.game))
            found = self._scales[unit] = made
        return found

    # Columns of a trace

    def column(self, column: str) -> Scale:
        """The scale of a column of a trace, with the game's directions."""
        found = self._columns.get(column)
        if found is None:
            found = self._columns[column] = self._column(column)
        return found

    def _column(self, column: str) -> Scale:
        unit = BY_COLUMN[column].unit if column in BY_COLUMN else ""
        game = self.game
        if game is None:
            return Scale(unit)
        turns = game.turns_clockwise if column in TURNED else game.y_down and column in UPWARD
        sized = (-1.0 if turns else 1.0) * factor(unit, game)
        if column != "facing":
            return Scale(self.unit(unit), sized)
        turn = 2 * math.pi if game.angle is Angle.RADIAN else 360.0
        return Scale(self.unit(unit), sized, ZEROS[game.zero], turn)

    def channel(self, channel: Channel) -> Channel:
        """A channel with the unit that is shown."""
        return channel if self.game is None else replace(channel, unit=self.unit(channel.unit))

    # Parameters

    def parameter(
        self, parameter: Parameter, values: Mapping[str, Value] | None = None, *, signed: bool = True
    ) -> Parameter:
        """A parameter with its unit, limits, range and default as they are shown.

        `values` are the tune's own, on which the form of a rate depends. Not `signed`: an upward speed is positive
        where y points down, too.
        """
        if self.game is None or parameter.kind != "number":
            return parameter
        key = (parameter.id, parameter.size, signed)
        if is_share(parameter, self.game):
            return self._shown(parameter, values, signed=signed)
        found = self._parameters.get(key)
        if found is None:
            found = self._parameters[key] = self._shown(parameter, values, signed=signed)
        return found

    def _shown(self, parameter: Parameter, values: Mapping[str, Value] | None, *, signed: bool) -> Parameter:
        def shown(value: float) -> float:
            number = as_number(self.value(parameter, value, values))
            return number if signed else abs(number) if value >= 0 else -abs(number)

        ends = [shown(end) for end in (parameter.low, parameter.high)]
        low, high = (shown(end) for end in parameter.comfort)
        size = parameter.size * abs(high - low) / (parameter.comfort[1] - parameter.comfort[0])
        return replace(
            parameter, unit=self.parameter_unit(parameter), low=min(ends), high=max(ends),
            comfort=(min(low, high), max(low, high)), default=shown(as_number(parameter.default)), size=size,
        )  # fmt: skip

    def parameter_unit(self, parameter: Parameter) -> str:
        """The unit in which a parameter is shown."""
        if self.game is None:
            return parameter.unit
        return game_unit(parameter, self.game) if parameter.unit not in ("", "×") else parameter.unit

    def value(self, parameter: Parameter, value: Value, values: Mapping[str, Value] | None = None) -> Value:
        """A kept value of a parameter as it is shown."""
        if self.game is None or parameter.kind == "curve":
            return value
        shown = to_game(parameter, value, self.game, values)
        return shown + 0.0 if isinstance(shown, float) else shown

    def kept(self, parameter: Parameter, number: float, values: Mapping[str, Value] | None = None) -> float:
        """The inverse of `value`; ValueError if there is none.

        An upward speed may be given with either sign.
        """
        if self.game is None:
            return number
        kept = as_number(from_game(parameter, number, self.game, values)) + 0.0
        return abs(kept) if parameter.upward and parameter.low >= 0 else kept

    def turns(self, parameter: Parameter) -> float:
        """-1 if a parameter points the other way where it is shown."""
        return 1.0 if self.game is None else sign_in_game(parameter, self.game)

    def text(self, parameter: Parameter, value: Value, values: Mapping[str, Value] | None = None) -> str:
        """A kept value as text, without its unit."""
        return value_text(parameter, self.value(parameter, value, values))

    def with_unit(self, parameter: Parameter, value: Value, values: Mapping[str, Value] | None = None) -> str:
        """A kept value as text, with its unit."""
        return f"{self.text(parameter, value, values)} {self.parameter_unit(parameter)}".rstrip()

    # Measures

    def measure(self, measure: Measure) -> Measure:
        """A measure with the unit that is shown."""
        if self.game is None:
            return measure
        found = self._measures.get(measure.id)
        if found is None:
            found = self._measures[measure.id] = replace(measure, unit=self.unit(measure.unit))
        return found

    def reading(self, measure: Measure, value: float) -> float:
        """The value of a figure as it is shown."""
        return self.scale(measure.unit).shown(value)

    def reading_text(self, measure: Measure, value: float) -> str:
        """The value of a figure as text, without its unit."""
        return self.measure(measure).text(self.reading(measure, value))

    def reading_words(self, measure: Measure, value: float) -> str:
        """The value of a figure as text, with its unit."""
        shown = self.measure(measure)
        return f"{shown.text(self.reading(measure, value))} {shown.unit}".rstrip()

    # Times, lengths and places in sentences

    def figure(self, value: float, unit: str) -> str:
        """A computed number of a unit as text, without the unit."""
        scale = self.scale(unit)
        return reading_text(scale.shown(value), scale.unit)

    def figure_words(self, value: float, unit: str) -> str:
        """A computed number of a unit as text, with the unit."""
        return f"{self.figure(value, unit)} {self.unit(unit)}"

    def time(self, seconds: float) -> str:
        """A time: seconds and frames to a thousandth and a hundredth, milliseconds whole."""
        scale = self.scale("s")
        number = scale.shown(seconds)
        if scale.unit == "s":
            return f"{number:.3f} s"
        return f"{number:.2f} frames" if scale.unit == "frames" else f"{number:.0f} ms"

    def slope(self, degrees: float) -> str:
        """The angle of a slope, with the game's direction: degrees to a tenth, radians to a thousandth."""
        scale = self.column("ground_angle")
        number = scale.shown(degrees)
        return (f"{number:.1f}°" if scale.unit == "°" else f"{number:.3f} {scale.unit}").replace("-", "−")

    def place(self, x: float, y: float) -> tuple[float, float]:
        """A point of the course as it is shown."""
        return self.column("x").shown(x), self.column("y").shown(y)

    def kept_place(self, x: float, y: float) -> tuple[float, float]:
        """The inverse of `place`."""
        return self.column("x").kept(x) + 0.0, self.column("y").kept(y) + 0.0

    def target_words(self, target: Target, measure: Measure | None) -> str:
        """The range of a target in words, with its unit; None for a measure that is not known."""
        if measure is None:
            return target.words
        scale = self.scale(measure.unit)
        low, high = (None if end is None else scale.shown(end) for end in (target.low, target.high))
        return f"{range_words(low, high)} {scale.unit}".rstrip()


@dataclass(frozen=True)
class ParameterScale:
    """The scale of a parameter's values, for a tune with these; the share that a rate closes does not grow evenly."""

    units: DisplayUnits
    parameter: Parameter
    values: Mapping[str, Value]

    @property
    def unit(self) -> str:
        """The unit that is shown."""
        return self.units.parameter_unit(self.parameter)

    def on_axis(self, value: float) -> float:
        """A kept number as it is shown."""
        return as_number(self.units.value(self.parameter, value, self.values))

    def wrapped(self, number: float) -> float:
        """The number itself."""
        return number

    def kept(self, number: float) -> float:
        """The inverse of `on_axis`."""
        return self.units.kept(self.parameter, number, self.values)

    def span(self, low: float, high: float) -> tuple[float, float]:
        """What a stretch of the axis shows, the lesser end first."""
        one, other = self.on_axis(low), self.on_axis(high)
        return min(one, other), max(one, other)


OURS = DisplayUnits()


@cached_by_identity(64)
def _of_game(conventions: Conventions) -> DisplayUnits:
    return DisplayUnits(conventions)


def game_units(study: Study) -> DisplayUnits:
    """The units of a study's game."""
    return _of_game(study.conventions)


def display_units(study: Study) -> DisplayUnits:
    """The units in which a study is shown."""
    return game_units(study) if study.units is UnitSystem.GAME else OURS


def column_to_game(column: str, values: Numbers, conventions: Conventions) -> Numbers:
    """A column of a trace as the game logs it. A facing is within half a turn of the game's zero."""
    return _of_game(conventions).column(column).shown(values)
