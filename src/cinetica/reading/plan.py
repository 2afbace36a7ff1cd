"""The plan of a sweep: its combinations and measures, in chunks that any machine can run."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.parameters import Parameter, Value, as_number
from cinetica.model.study import Drill
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES
from cinetica.reading.survey.variations import check_value, varied
from cinetica.reading.sweeps import as_array, check_measures, combined, read_records

# Combinations in a batch: some tens of milliseconds, and a few hundred bytes of result for each.
CHUNK = 8192
MOST_VALUES = 10_000_000
_UNITS = {measure.id: measure.unit for measure in MEASURES}
FORMS = "ID=FROM:TO:COUNT, ID=FROM:TO:COUNT:log, or ID=VALUE,VALUE,…"


@dataclass(frozen=True)
class Plan:
    """`values`: of each number by id. `measures`: ids of figures, in the order of the columns.

    What is written of it is in `units`.
    """

    tune: Tune
    drill: Drill
    clock: Clock
    values: Mapping[str, tuple[Value, ...]]
    measures: tuple[str, ...]
    units: DisplayUnits = OURS

    @cached_property
    def count(self) -> int:
        """The number of combinations."""
        return math.prod(len(each) for each in self.values.values())

    @property
    def head(self) -> tuple[str, ...]:
        """The names of all columns."""
        return (*self.values, *self.measures)

    def columns(self, first: int, end: int) -> dict[str, NDArray[np.generic]]:
        """The values of the combinations `first` up to `end`; the last number changes fastest."""
        return combined(self._arrays, first, end)

    def written(self, first: int, end: int) -> dict[str, NDArray[np.generic]]:
        """`columns` in the units in which they are written."""
        found = self.columns(first, end)
        if self.units.game is None:
            return found
        own = self.tune.values()
        shown: dict[str, NDArray[np.generic]] = {}
        for id, column in found.items():
            parameter = parameter_by_id(id)
            rows = ({each: column[row] for each, column in found.items()} for row in range(len(column)))
            shown[id] = np.array([
                self.units.value(parameter, value, own | row) for value, row in zip(column.tolist(), rows, strict=True)
            ])  # fmt: skip
        return shown

    def written_figures(self, figures: NDArray[np.float64]) -> NDArray[np.float64]:
        """The result of `run` in the units in which it is written."""
        return figures * np.array([self.units.scale(_UNITS[id]).factor for id in self.measures])

    @cached_property
    def _arrays(self) -> dict[str, NDArray[np.generic]]:
        return {id: as_array(each) for id, each in self.values.items()}

    def run(self, first: int, end: int) -> NDArray[np.float64]:
        """Their figures, run on one core, shape (end - first, measures); NaN where the drill does not show one."""
        records = varied(self.tune, self.columns(first, end))
        found = read_records(records, self.drill, self.clock, self.measures, threads=1)
        return np.column_stack([found[id] for id in self.measures])

    def packed(self) -> bytes:
        """The plan as JSON, to be run elsewhere."""
        return json.dumps({
            "tune": json.loads(self.tune.model_dump_json()), "drill": json.loads(self.drill.model_dump_json()),
            "clock": json.loads(self.clock.model_dump_json()),
            "values": {id: list(each) for id, each in self.values.items()}, "measures": list(self.measures),
        }).encode()  # fmt: skip

    @cached_property
    def signature(self) -> str:
        """A digest of everything in the plan."""
        game = b"" if self.units.game is None else self.units.game.model_dump_json().encode()
        return hashlib.sha256(self.packed() + game).hexdigest()


@lru_cache(8)
def unpacked(content: bytes) -> Plan:
    """The plan packed by `Plan.packed`."""
    read = json.loads(content)
    return Plan(
        Tune.model_validate_json(json.dumps(read["tune"])), Drill.model_validate_json(json.dumps(read["drill"])),
        Clock.model_validate_json(json.dumps(read["clock"])),
        {id: tuple(each) for id, each in read["values"].items()}, tuple(read["measures"]),
    )  # fmt: skip


def run_elsewhere(content: bytes, first: int, end: int) -> NDArray[np.float64]:
    """`Plan.run` on another machine, from `Plan.packed`."""
    return unpacked(content).run(first, end)


def plan(
    tune: Tune,
    drill: Drill,
    clock: Clock,
    vary: Sequence[str],
    measures: Sequence[str],
    units: DisplayUnits = OURS,
) -> Plan:
    """Build a plan from texts such as “gravity.gravity=20:60:41”, whose numbers are in these units.

    Without measures it has all of the drill's view.

    Raises ValueError for anything that cannot be run: nothing to vary, an unknown or repeated number, values that are
    not allowed, an unknown measure, or views that differ.
    """
    if not vary:
        raise ValueError(f"Nothing is varied: say --vary {FORMS}.")
    values: dict[str, tuple[Value, ...]] = {}
    for text in vary:
        id, each = parsed(text, tune.view, units, tune.values())
        if id in values:
            raise ValueError(f"{id} is varied twice; once is enough.")
        values[id] = each
    if tune.view != drill.view:
        raise ValueError(f"“{tune.name}” is for the view {tune.view}, “{drill.name}” for {drill.view}.")
    try:
        check_measures(measures)
    except KeyError as error:
        raise ValueError(error.args[0]) from error
    all_of_view = tuple(each.id for each in MEASURES if drill.view in each.views and not each.on_request)
    return Plan(tune, drill, clock, values, tuple(measures) or all_of_view, units)


def parsed(
    text: str, view: str, units: DisplayUnits = OURS, own: Mapping[str, Value] | None = None
) -> tuple[str, tuple[Value, ...]]:
    """The id and the values of “ID=…”, for a tune with its `own` values; ValueError if it is malformed."""
    id, equals, listed = text.partition("=")
    if not equals or not listed:
        raise ValueError(f"“{text}” does not say what to vary: write {FORMS}.")
    try:
        parameter = parameter_by_id(id.strip())
    except KeyError as error:
        raise ValueError(str(error.args[0])) from error
    if parameter.kind == "curve":
        raise ValueError(f"{parameter.id} is a drawn curve; only numbers, switches and choices can be varied.")
    values = (
        _range(parameter, listed) if ":" in listed else tuple(_value(parameter, each) for each in listed.split(","))
    )
    if parameter.kind == "number":
        values = tuple(units.kept(parameter, as_number(value), own) for value in values)
    for value in values if parameter.kind in ("choice", "switch") else {min(values), max(values)}:
        check_value(parameter, value, view)
    return parameter.id, values


def _range(parameter: Parameter, listed: str) -> tuple[Value, ...]:
    parts = [part.strip() for part in listed.split(":")]
    wrong = ValueError(f"“{listed}” is not a range of {parameter.id}: write FROM:TO:COUNT, or FROM:TO:COUNT:log.")
    if len(parts) not in (3, 4) or (len(parts) == 4 and parts[3] != "log") or parameter.kind not in ("number", "whole"):
        raise wrong
    try:
        low, high, count = float(parts[0]), float(parts[1]), int(parts[2])
    except ValueError:
        raise wrong from None
    if not (math.isfinite(low) and math.isfinite(high)):
        raise wrong
    if not 1 <= count <= MOST_VALUES:
        raise ValueError(f"A range has from 1 to {MOST_VALUES:,} values; {count} is not possible.")
    if len(parts) == 4 and not (low > 0 and high > 0):
        raise ValueError(f"Both ends of a range with log must be above 0; those of {listed} are not.")
    if count == 1 and low != high:
        raise ValueError(f"One value cannot go from {low:g} to {high:g}: name at least two.")
    spaced = np.geomspace(low, high, count) if len(parts) == 4 else np.linspace(low, high, count)
    if parameter.kind == "whole":
        whole = np.unique(np.round(spaced)).astype(int)
        return tuple(whole.tolist())
    return tuple(spaced.tolist())


def _value(parameter: Parameter, text: str) -> Value:
    text = text.strip()
    if parameter.kind == "choice":
        return text
    if parameter.kind == "switch":
        if text not in ("true", "false"):
            raise ValueError(f"{parameter.id} is {parameter.allowed}; {text} is not.")
        return text == "true"
    try:
        return int(text) if parameter.kind == "whole" else float(text)
    except ValueError:
        raise ValueError(f"{parameter.id} is {parameter.allowed}; “{text}” is not.") from None
