"""The widths of the sheet's columns: those of the longest words that can be in them."""

from __future__ import annotations

from functools import cache

from cinetica.desk import look
from cinetica.model.parameters import Parameter
from cinetica.model.tune import PARAMETERS
from cinetica.reading.measures import MEASURES, Measure

# What stands in a column at the most: a label, a unit, a value of a usual tune, and one of six tunes side by side.
LABEL_INDENT = 26
_ROWS: tuple[Parameter | Measure, ...] = (*PARAMETERS, *MEASURES)
_UNITS = {row.unit for row in _ROWS} | {measure.body_unit for measure in MEASURES}
USUAL_VALUE, NARROW_VALUE = "sustain", "−99.99"


def label_width() -> int:
    """The width of the labels."""
    return _widest(look.text_scale())[0] + look.px(LABEL_INDENT) + 4


def unit_width() -> int:
    """The width of the units."""
    return _widest(look.text_scale())[1] + 10


@cache
def _widest(_scale: float) -> tuple[int, int]:
    """The widest label, and the widest unit."""
    return max(look.width(row.label, 9) for row in _ROWS), max(look.width(unit, 8) for unit in _UNITS)


def tune_width(value: str) -> int:
    """The width of a column for this value, with its arrow and margins."""
    return look.width(value, 9) + look.px(22)
