"""Values as people read them: numbers of a tune, and figures measured on a curve."""

from __future__ import annotations

import math

from cinetica.model.curves import curve_text
from cinetica.model.parameters import Parameter, Value

YES, NO = "yes", "no"
COUNTED = ("ticks", "frames")
# Smaller numbers are written as 0.
LEAST = 5e-5
# Units of numbers that may be small in a small world, or per frame.
SMALL = ("u", "px", "rad", "°/frame", "1/frame")


def number_text(value: float, digits: int = 4) -> str:
    """At most `digits` decimals, more for small numbers so that four digits count, without trailing zeros."""
    if abs(value) >= 1e6:
        return f"{value:.4g}"
    if LEAST <= abs(value) < 0.1:
        digits = min(9, max(digits, 3 - math.floor(math.log10(abs(value)))))
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def reading_text(value: float, unit: str = "") -> str:
    """A figure with three significant digits, and at least two decimals below a hundred; counts have none.

    Times and shares have at most three decimals, others as many as small numbers need.
    """
    if unit in COUNTED and value == round(value):
        return f"{value:.0f}"
    if unit.startswith(SMALL) and 0 < abs(value) < 0.1:
        return f"{value:.{min(9, 2 - math.floor(math.log10(abs(value))))}f}"
    if abs(value) >= 100:
        return f"{value:.1f}"
    return f"{value:.2f}" if abs(value) >= 1 or value == 0 else f"{value:.3f}"


def value_text(parameter: Parameter, value: Value) -> str:
    """A value as text."""
    if parameter.kind == "switch":
        return YES if value else NO
    if isinstance(value, tuple):
        return curve_text(value)
    if parameter.kind == "choice":
        return str(value).replace("_", " ")
    return number_text(float(value))
