"""The content of the sheet's cells: typed text as values, drags as steps."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import replace

from cinetica.model.conventions import Conventions
from cinetica.model.curves import curve_from_text
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.quantity import BARE, KINDS, POWERS, Quantity, Units, examples, quantity
from cinetica.model.rate_shares import is_exact, rate_from_share
from cinetica.model.study import Study
from cinetica.model.targets import HOW
from cinetica.model.tune import Tune
from cinetica.model.value_text import COUNTED, NO, YES
from cinetica.model.world_size import sized
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import Measure

_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?")
# Numbers for which “bodies” means body heights; for others it means body widths.
UPRIGHT = ("gravity.gravity", "gravity.terminal_speed", "climb.climb_speed", "body.height", "camera.window_height")
FINE, COARSE = 0.1, 10.0


def value_from_text(
    parameter: Parameter,
    text: str,
    units: Units | None = None,
    values: Mapping[str, Value] | None = None,
    shown: DisplayUnits = OURS,
) -> Value:
    """Convert typed text to a value; ValueError if that fails. The range is checked by the model.

    A number may be typed with a unit and with simple arithmetic (`model/quantity.py`); a rate that closes a gap as the
    share that it closes in a tick, as `20%`, in the form that the tune's `values` select. A bare number is in the
    units that are `shown`.
    """
    text = text.strip()
    if parameter.kind == "switch":
        if text.lower() in (YES, NO, "true", "false", "1", "0", "on", "off"):
            return text.lower() in (YES, "true", "1", "on")
    elif parameter.kind == "curve":
        try:
            return curve_from_text(text)
        except ValueError as error:
            raise ValueError(f"{error} {parameter.label} was not changed.") from error
    elif parameter.kind == "choice":
        wanted = text.lower().replace(" ", "_")
        if wanted in {option.id for option in parameter.options}:
            return wanted
    else:
        return _number_from_text(parameter, text, units or Units(), values or {}, shown)
    raise ValueError(f"“{text}” is not allowed here: {parameter.label} is {parameter.allowed}. It was not changed.")


def _number_from_text(
    parameter: Parameter, text: str, units: Units, values: Mapping[str, Value], shown: DisplayUnits
) -> float | int:
    allowed = shown.parameter(parameter, values).allowed
    upright = parameter.upward or parameter.id in UPRIGHT
    try:
        found = quantity(text, replace(units, upright=upright))
    except ValueError as error:
        raise ValueError(
            f"“{text}” is not allowed here: {parameter.label} is {allowed}. {error} It was not changed."
        ) from error
    if found.percent and found.powers == BARE and parameter.share:
        return round(rate_from_share(found.value, units.tick, is_exact(parameter, values)), 9)
    if found.powers == BARE and not found.percent and parameter.kind == "number" and shown.game is not None:
        return shown.kept(parameter, found.value, values)
    number = _in_unit(found, parameter.unit, parameter.label, text, units)
    if parameter.kind == "whole":
        if abs(number - round(number)) > 1e-9:
            raise ValueError(f"“{text}” is not allowed here: {parameter.label} is {allowed}. It was not changed.")
        return round(number)
    if shown.turns(parameter) < 0 and parameter.low >= 0:
        # Upward is negative in the game; either sign is understood.
        number = abs(number)
    return number if _NUMBER.fullmatch(text) else round(number, 9)


def _in_unit(found: Quantity, unit: str, label: str, text: str, units: Units) -> float:
    """A quantity as a number of this unit; a bare number is one already. ValueError if it is of another."""
    powers = POWERS.get(unit, BARE)
    if found.powers == BARE and (not found.percent or unit in ("", "×")):
        return found.value
    if unit in COUNTED and found.powers == POWERS["s"]:
        return found.value / (units.tick if unit == "ticks" else units.frame)
    if found.powers == powers and not (found.percent and powers == BARE):
        return found.value
    wanted = KINDS[powers][0]
    raise ValueError(f"“{text}” is {found.kind}, but {label} is {wanted}: type {examples(unit)}. It was not changed.")


def figure_from_text(measure: Measure, text: str, unit: str, units: Units | None = None, counted: float = 1.0) -> float:
    """The wanted value of a figure, in its own unit; ValueError if it is not a number.

    A bare number is in `unit`, in which the figure is shown: `counted` of the figure's own.
    """
    known = replace(units or Units(), upright=measure.is_height)
    try:
        found = quantity(text, known)
    except ValueError as error:
        raise ValueError(
            f"“{text}” is not a number: type what {measure.label.lower()} should be, in {unit}; for a target, {HOW}."
        ) from error
    bare = found.powers == BARE and not found.percent
    return found.value * counted if bare else _in_unit(found, measure.unit, measure.label, text, known)


def factor_of(measure: Measure, unit: str, units: Units, counted: float = 1.0) -> float | None:
    """Convert a typed unit to the unit in which a figure is shown, which is `counted` of its own.

    Returns the factor; None if the unit is of another kind.
    """
    try:
        found = quantity(f"1 {unit}", replace(units, upright=measure.is_height))
    except ValueError:
        return None
    return found.value / counted if found.powers == POWERS.get(measure.unit) else None


def units_of(study: Study, tune: Tune) -> Units:
    """The units that may be typed for a tune: pixels and frames are the game's, ticks the clock's."""
    conventions, tick = study.conventions, 1.0 / study.clock.tick_rate
    frame = tick if conventions == Conventions() else 1.0 / conventions.rate
    return Units(1.0 / conventions.pixels_per_unit, frame, tick, tune.body.width, tune.body.height)


def drag_step(parameter: Parameter) -> float:
    """The change per pixel or wheel step: about a two-hundredth of the comfortable range, rounded."""
    if parameter.kind == "whole":
        return 1.0
    low, high = parameter.comfort
    rough = (high - low) / parameter.size / 200
    power = 10.0 ** math.floor(math.log10(rough))
    usual = power * (1 if rough / power < 3 else 5)
    return usual if parameter.size == 1.0 else _nearest_round(usual * parameter.size)


def _nearest_round(value: float) -> float:
    """The nearest of 1, 2 and 5 × 10ⁿ."""
    power = 10.0 ** math.floor(math.log10(value))
    return min((power * nice for nice in (1, 2, 5, 10)), key=lambda each: abs(math.log(each / value)))


def dragged(parameter: Parameter, start: float, steps: float) -> Value:
    """The value after a drag by this many steps, on the grid of the finest step and within the limits."""
    step = drag_step(parameter)
    value = start + steps * step
    grid = step if parameter.kind == "whole" else step * FINE
    value = round(value / grid) * grid
    value = min(max(value, parameter.low), parameter.high)
    return round(value) if parameter.kind == "whole" else round(value, 9)


def dragged_in(units: DisplayUnits, parameter: Parameter, tune: Tune, start: float, steps: float) -> Value:
    """As `dragged`, on the grid of the units that are shown; to the right the kept value grows."""
    own = sized(parameter, tune)
    if units.game is None or parameter.kind != "number":
        return dragged(own, start, steps)
    values = tune.values()
    turned = units.turns(parameter)
    number = turned * as_number(units.value(parameter, start, values))
    shown = as_number(dragged(units.parameter(own, values, signed=False), number, steps))
    kept = units.kept(parameter, turned * shown, values)
    return min(max(kept, parameter.low), parameter.high)


def share_of_comfort(parameter: Parameter, value: float) -> float:
    """The position of a value in its comfortable range, from 0 to 1."""
    low, high = parameter.comfort
    return min(1.0, max(0.0, (value - low) / (high - low)))
