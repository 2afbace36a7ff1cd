"""Sweeps: figures over every combination of some numbers."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.parameters import Value
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.model.words import unknown
from cinetica.motion.simulate import simulate
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off


@dataclass(frozen=True, eq=False)
class Sweep:
    """What came out: `varied` has the values of each number by id, `figures` an array for each figure by id, in the
    figure's unit.

    The arrays have one axis for each number, in the order of `varied`; NaN where the drill does not show the figure.
    """

    varied: dict[str, tuple[Value, ...]]
    figures: dict[str, NDArray[np.float64]]

    def __repr__(self) -> str:
        numbers = " × ".join(f"{len(values)} of {id}" for id, values in self.varied.items())
        return f"<Sweep over {numbers}: {', '.join(self.figures)}>"


def sweep(
    tune: Tune, drill: Drill, clock: Clock, vary: Mapping[str, Sequence[Value]], measures: Sequence[str] | None = None
) -> Sweep:
    """Run `tune` on `drill` with every combination of the values in `vary` (by id, such as "jump.jump_speed"), and read
    the figures off.

    `measures` are ids of figures; without them all that any of the runs shows. KeyError, in words, for an id that there
    is none of;
    pydantic's ValidationError for a value that is not allowed.
    """
    known = [measure.id for measure in MEASURES]
    for id in measures or ():
        if id not in known:
            raise KeyError(unknown("figure", id, known))
    varied = {id: tuple(values) for id, values in vary.items()}
    read = []
    for values in itertools.product(*varied.values()):
        changed = tune
        for id, value in zip(varied, values, strict=True):
            changed = changed.put(id, value)
        read.append(read_off(simulate(changed, drill, clock)))
    wanted = measures if measures is not None else [id for id in known if any(id in readings for readings in read)]
    shape = tuple(len(values) for values in varied.values())
    figures = {
        id: np.array([readings[id].value if id in readings else np.nan for readings in read]).reshape(shape)
        for id in wanted
    }
    return Sweep(varied, figures)
