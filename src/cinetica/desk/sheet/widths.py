"""The widths of the sheet's columns: those of the longest words that can be in them."""

from __future__ import annotations

from functools import cache

from cinetica.desk import look
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.parameters import Parameter
from cinetica.model.tune import PARAMETERS
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.measures import MEASURES, Measure

# What stands in a column at the most: a label, a unit, a value of a usual tune, and one of six tunes side by side.
LABEL_INDENT = 26
_ROWS: tuple[Parameter | Measure, ...] = (*PARAMETERS, *MEASURES)
USUAL_VALUE, NARROW_VALUE = "sustain", "−99.99"


def label_width() -> int:
    """The width of the labels."""
    return _widest_label(look.text_scale()) + look.px(LABEL_INDENT) + 4


def unit_width(units: DisplayUnits) -> int:
    """The width of the units."""
    return max(look.width(unit, 8) for unit in _units_of(units)) + 10


@cache
def _widest_label(_scale: float) -> int:
    return max(look.width(row.label, 9) for row in _ROWS)


@cached_by_identity(8)
def _units_of(units: DisplayUnits) -> set[str]:
    """Every unit that a row may have."""
    shown = {units.parameter_unit(each) if isinstance(each, Parameter) else units.unit(each.unit) for each in _ROWS}
    return shown | {measure.body_unit for measure in MEASURES if measure.unit == "u"}


def tune_width(value: str) -> int:
    """The width of a column for this value, with its arrow and margins."""
    return look.width(value, 9) + look.px(22)
