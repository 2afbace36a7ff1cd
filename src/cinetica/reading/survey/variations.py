"""Many tunes that differ in some numbers, as records for the kernel, without a model object for each."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.motion.records import TUNE, Records, field_name, tune_records

# What the first fields of a record are computed from, besides the number itself (`records.TUNE`).
DERIVING = (
    "drive.law", "camera.follow", "camera.follow_height", "camera.window_width", "camera.window_height",
    "camera.look_ahead",
)  # fmt: skip
# Whether a tune uses rare rules. If one is varied, all tunes use them; they change nothing when off.
RARE = frozenset(parameter.id for parameter in PARAMETERS if parameter.rare)


def check_value(parameter: Parameter, value: Value, view: str) -> None:
    """Raise ValueError if the value is not allowed."""
    if parameter.kind == "curve":
        raise ValueError(f"{parameter.id} is a drawn curve; only numbers, switches and choices can be varied.")
    if parameter.kind == "switch":
        fits = isinstance(value, bool)
    elif parameter.kind == "choice":
        fits = value in {option.id for option in parameter.choices(view)}
    else:
        plain = not isinstance(value, str | bool | tuple) and math.isfinite(value)
        fits = plain and parameter.low <= as_number(value) <= parameter.high
        fits = fits and (parameter.kind == "number" or as_number(value).is_integer())
    if not fits:
        shown = f"{value:g}" if isinstance(value, float) else str(value)
        raise ValueError(f"{parameter.id} is {parameter.allowed}; {shown} is not.")


def varied(tune: Tune, columns: Mapping[str, Sequence[Value] | NDArray[Any]]) -> Records:
    """The tune with each id's values in turn, shape (n,) of dtype TUNE. All columns have the same length n.

    Raises ValueError for a value that is not allowed.
    """
    count = len(next(iter(columns.values()))) if columns else 1
    records = np.repeat(tune_records([tune]), count).view(np.recarray)
    kinds = {id: parameter_by_id(id) for id in columns}
    for id, column in columns.items():
        _check(kinds[id], column, tune.view)
        if kinds[id].kind == "choice":
            values = np.array([kinds[id].codes[str(value)] for value in column])
        else:
            values = np.asarray(column)
            values = np.radians(values) if kinds[id].unit.startswith("°") else values
        records[field_name(kinds[id])] = values
    if not RARE.isdisjoint(columns):
        records["has_more"] = True
    if deriving := [id for id in columns if id in DERIVING]:
        _derive(tune, deriving, columns, records)
    return records


def _check(parameter: Parameter, column: Sequence[Value] | NDArray[Any], view: str) -> None:
    if isinstance(column, np.ndarray) and parameter.kind in ("number", "whole") and column.dtype.kind in "if":
        # The extremes represent the rest; with a NaN, both are NaN.
        whole = parameter.kind == "number" or np.all(column == np.floor(column))
        bad = [] if whole else column[column != np.floor(column)][:1].tolist()
        for value in (*bad, column.min().item(), column.max().item()):
            check_value(parameter, value, view)
    else:
        for value in set(column.tolist() if isinstance(column, np.ndarray) else column):
            check_value(parameter, value, view)


def _derive(tune: Tune, ids: list[str], columns: Mapping[str, Any], records: Records) -> None:
    """Compute the derived fields of the records, for each combination of what they depend on."""
    names = [name for name in TUNE.names or () if name in ("has_heading", "has_controls", "on_body")]
    combinations = list(zip(*([_plain(value) for value in columns[id]] for id in ids), strict=True))
    for combination in set(combinations):
        changed = tune
        for id, value in zip(ids, combination, strict=True):
            changed = changed.put(id, value)
        one = tune_records([changed])[0]
        rows = np.array([each == combination for each in combinations])
        for name in names:
            records[name][rows] = one[name]


def _plain(value: Any) -> Value:
    return value.item() if isinstance(value, np.generic) else value
