"""The content of the sheet's cells: typed text as values, drags as steps."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping

from cinetica.model.parameters import Parameter, Value
from cinetica.model.rate_shares import is_exact, rate_from_share
from cinetica.model.targets import HOW
from cinetica.model.value_text import NO, YES
from cinetica.reading.measures import Measure

_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?")
_SHARE = re.compile(r"(\d+(?:[.,]\d*)?|[.,]\d+)\s*%")
_TICKS = re.compile(r"(\d+(?:[.,]\d*)?)\s*(?:t|ticks?|f|frames?)", re.IGNORECASE)
FINE, COARSE = 0.1, 10.0


def value_from_text(
    parameter: Parameter, text: str, tick_rate: float = 60.0, values: Mapping[str, Value] | None = None
) -> Value:
    """Convert typed text to a value; ValueError if that fails. The range is checked by the model.

    A time may be typed in ticks, as `6t`, `6 ticks` or `6 frames`; a rate that closes a gap as the share that it closes
    in a tick, as `20%`, in the form that the tune's `values` select.
    """
    text = text.strip()
    if parameter.share and (share := _SHARE.fullmatch(text)):
        rate = rate_from_share(
            float(share[1].replace(",", ".")) / 100.0, 1.0 / tick_rate, is_exact(parameter, values or {})
        )
        return round(rate, 9)
    if parameter.unit == "s" and (ticks := _TICKS.fullmatch(text)):
        return round(float(ticks[1].replace(",", ".")) / tick_rate, 9)
    if parameter.kind == "switch":
        if text.lower() in (YES, NO, "true", "false", "1", "0", "on", "off"):
            return text.lower() in (YES, "true", "1", "on")
    elif parameter.kind == "choice":
        wanted = text.lower().replace(" ", "_")
        if wanted in {option.id for option in parameter.options}:
            return wanted
    elif _NUMBER.fullmatch(text):
        number = float(text.replace(",", "."))
        if math.isfinite(number) and (parameter.kind == "number" or number.is_integer()):
            return number if parameter.kind == "number" else int(number)
    raise ValueError(f"“{text}” is not allowed here: {parameter.label} is {parameter.allowed}. It was not changed.")


def wish_from_text(measure: Measure, text: str, unit: str) -> float:
    """The wanted value of a figure, in the unit in which it is shown; ValueError if it is not a number."""
    if not _NUMBER.fullmatch(text.strip()):
        raise ValueError(
            f"“{text}” is not a number: type what {measure.label.lower()} should be, in {unit}; for a target, {HOW}."
        )
    return float(text.strip().replace(",", "."))


def drag_step(parameter: Parameter) -> float:
    """The change per pixel or wheel step: about a two-hundredth of the comfortable range, rounded."""
    if parameter.kind == "whole":
        return 1.0
    low, high = parameter.comfort
    rough = (high - low) / 200
    return float(10.0 ** math.floor(math.log10(rough)) * (1 if rough / 10 ** math.floor(math.log10(rough)) < 3 else 5))


def dragged(parameter: Parameter, start: float, steps: float) -> Value:
    """The value after a drag by this many steps, on the grid of the finest step and within the limits."""
    step = drag_step(parameter)
    value = start + steps * step
    grid = step if parameter.kind == "whole" else step * FINE
    value = round(value / grid) * grid
    value = min(max(value, parameter.low), parameter.high)
    return round(value) if parameter.kind == "whole" else round(value, 9)


def share_of_comfort(parameter: Parameter, value: float) -> float:
    """The position of a value in its comfortable range, from 0 to 1."""
    low, high = parameter.comfort
    return min(1.0, max(0.0, (value - low) / (high - low)))
