"""Sweeps: figures over every combination of some numbers."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.parameters import Value
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.model.words import unknown
from cinetica.motion.records import Records
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import figures_of
from cinetica.reading.survey.variations import varied

PLACES = {measure.id: place for place, measure in enumerate(MEASURES)}


@dataclass(frozen=True, eq=False)
class Sweep:
    """`varied` has the values of each number by id, `figures` an array for each figure by id, in the figure's unit.

    The arrays have one axis for each number, in the order of `varied`; NaN where the drill does not show the figure.
    """

    varied: dict[str, tuple[Value, ...]]
    figures: dict[str, NDArray[np.float64]]

    def __repr__(self) -> str:
        numbers = " × ".join(f"{len(values)} of {id}" for id, values in self.varied.items())
        return f"<Sweep over {numbers}: {', '.join(self.figures)}>"


def check_measures(measures: Sequence[str]) -> None:
    """Raise KeyError, with similar ids, for an unknown measure."""
    for id in measures:
        if id not in PLACES:
            raise KeyError(unknown("figure", id, list(PLACES)))


def sweep(
    tune: Tune, drill: Drill, clock: Clock, vary: Mapping[str, Sequence[Value]], measures: Sequence[str] | None = None
) -> Sweep:
    """Run `tune` on `drill` with every combination of the values in `vary`, on all cores, and read the figures.

    `vary` is by id, such as "jump.jump_speed". `measures` are ids of figures; without them all that any run shows.
    Raises KeyError for an unknown id and ValueError for a value that is not allowed.
    """
    check_measures(measures or ())
    values = {id: tuple(each) for id, each in vary.items()}
    shape = tuple(len(each) for each in values.values())
    read = run_and_read(tune, drill, clock, combined(values, 0, math.prod(shape)), measures)
    wanted = measures if measures is not None else [id for id, each in read.items() if not np.isnan(each).all()]
    return Sweep(values, {id: read[id].reshape(shape) for id in wanted})


def combined(values: Mapping[str, Sequence[Value] | NDArray[Any]], first: int, end: int) -> dict[str, NDArray[Any]]:
    """The combinations from number `first` up to `end`, a column for each id; the last id changes fastest."""
    shape = tuple(len(each) for each in values.values())
    places = np.unravel_index(np.arange(first, end), shape) if shape else ()
    return {id: as_array(each)[place] for (id, each), place in zip(values.items(), places, strict=True)}


def as_array(values: Sequence[Value] | NDArray[Any]) -> NDArray[Any]:
    """Values as an array; words stay words."""
    return (
        values if isinstance(values, np.ndarray) else np.array(values, object if isinstance(values[0], str) else None)
    )


def run_and_read(
    tune: Tune,
    drill: Drill,
    clock: Clock,
    columns: Mapping[str, Sequence[Value] | NDArray[Any]],
    measures: Sequence[str] | None = None,
    *,
    threads: int = 0,
) -> dict[str, NDArray[np.float64]]:
    """The figures of the tune with each row of the columns; NaN where the drill does not show them."""
    return read_records(varied(tune, columns), drill, clock, measures, threads=threads)


def run_each_and_read(
    tunes: Sequence[Tune],
    drill: Drill,
    clock: Clock,
    columns: Mapping[str, Sequence[Value] | NDArray[Any]],
    measures: Sequence[str],
) -> list[dict[str, NDArray[np.float64]]]:
    """`run_and_read` for each of several tunes, in parallel."""
    records = np.concatenate([varied(tune, columns) for tune in tunes]).view(np.recarray)
    found = read_records(records, drill, clock, measures)
    parts = {id: np.split(values, len(tunes)) for id, values in found.items()}
    return [{id: parts[id][place] for id in parts} for place in range(len(tunes))]


def read_records(
    records: Records, drill: Drill, clock: Clock, measures: Sequence[str] | None = None, *, threads: int = 0
) -> dict[str, NDArray[np.float64]]:
    """As `run_and_read`, for tunes given as records."""
    ids = [each.id for each in MEASURES if not each.on_request] if measures is None else list(measures)
    found = figures_of(records, drill, clock, ids, threads)
    return {id: np.where(found["shows"][:, PLACES[id]], found["value"][:, PLACES[id]], np.nan) for id in ids}
