"""Residuals of many tunes against a wanted curve, run as batches on all cores."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.parameters import Parameter
from cinetica.model.study import Drill
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.model.world_size import sized, world_size
from cinetica.motion.clock import schedule
from cinetica.motion.native import run_all
from cinetica.motion.records import STATE, TRACE, Records, ground, start_of
from cinetica.reading.match.wanted import Numbers, Wanted
from cinetica.reading.run_reader import cores, on_all_cores
from cinetica.reading.survey.variations import varied

# A velocity that is off by 1 u/s counts like a position that is off by 1 u/s times this many seconds.
SPEED_SECONDS = 0.1
# The fewest runs for a thread.
SMALLEST = 16


@dataclass(frozen=True)
class Free:
    """A number that may move, and its bounds, in our units."""

    id: str
    low: float
    high: float

    @property
    def parameter(self) -> Parameter:
        """The parameter that is free."""
        return parameter_by_id(self.id)


def free_number(tune: Tune, id: str, low: float | None = None, high: float | None = None) -> Free:
    """Free a number of a tune. Default bounds: its comfortable range, extended to half of its value around it.

    KeyError for an unknown id; ValueError for what is not a number, or has no room between its bounds.
    """
    parameter = sized(parameter_by_id(id), tune)
    if parameter.kind not in ("number", "whole"):
        raise ValueError(f"{id} is not a number: choices are left open by themselves.")
    now = float(tune.get(id))  # type: ignore[arg-type]
    comfort = parameter.comfort
    around = 0.5 * abs(now)
    lower = min(comfort[0], now - around) if low is None else low
    upper = max(comfort[1], now + around) if high is None else high
    lower, upper = max(lower, parameter.low), min(upper, parameter.high)
    if not lower < upper:
        raise ValueError(f"{id} has no room between {lower:g} and {upper:g}.")
    return Free(id, lower, upper)


class Runs:
    """Runs of a tune on a drill with some numbers free. A share from 0 to 1 places each between its bounds."""

    def __init__(self, tune: Tune, drill: Drill, clock: Clock, wanted: Wanted, free: Sequence[Free]) -> None:
        self.tune, self.drill, self.clock, self.wanted, self.free = tune, drill, clock, wanted, list(free)
        planned = schedule(drill.take, clock)
        self._hands, self._dts, *_ = planned
        self._course, self._start = planned.on(ground(drill.course)), start_of(drill)
        self.low = np.array([each.low for each in free])
        self.width = np.array([each.high - each.low for each in free])
        self.whole = np.array([each.parameter.kind == "whole" for each in free], dtype=bool)
        self.count = 0
        self._place_in_time()
        self._weigh()

    def _place_in_time(self) -> None:
        """For each wanted time, the row before it and the fraction of the way to the next."""
        times = np.concatenate([[0.0], np.cumsum(self._dts[1:])])
        inside = self.wanted.time <= times[-1] + 1e-9
        at = self.wanted.time[inside]
        before = np.clip(np.searchsorted(times, at + 1e-9, side="right") - 1, 0, len(times) - 2)
        share = np.clip((at - times[before]) / (times[before + 1] - times[before]), 0.0, 1.0)
        # At a row's own time nothing is interpolated.
        share[np.abs(share) < 1e-9], share[np.abs(share - 1.0) < 1e-9] = 0.0, 1.0
        self._inside, self._before, self._share = inside, before, share
        self._needed = int(before.max()) + 2 if len(before) else 2

    def _weigh(self) -> None:
        """The factor that brings each column to u, with its weight."""
        self.columns = self.wanted.counted
        weights = np.array([self.wanted.weights[name] for name in self.columns])
        seconds = np.array([SPEED_SECONDS if name.startswith("v") else 1.0 for name in self.columns])
        self._factors = np.sqrt(weights / weights.max()) * seconds
        self.size = world_size(self.tune)

    @property
    def samples(self) -> int:
        """How many residuals a run has."""
        return len(self.columns) * len(self._before)

    def values(self, shares: Numbers) -> Numbers:
        """The values for shares, both of shape (runs, free); whole numbers are rounded."""
        values: Numbers = self.low + np.clip(shares, 0.0, 1.0) * self.width
        values[:, self.whole] = np.round(values[:, self.whole])
        return values

    def tune_at(self, shares: Numbers) -> Tune:
        """The tune with these numbers."""
        tune = self.tune
        for each, value in zip(self.free, self.values(shares[np.newaxis])[0].tolist(), strict=True):
            tune = tune.put(each.id, int(value) if each.parameter.kind == "whole" else value)
        return tune

    def residuals(self, shares: Numbers) -> Numbers:
        """The residuals in u, shape (runs, samples); `shares` has shape (runs, free)."""
        self.count += len(shares)
        values = self.values(shares)
        records = varied(self.tune, {each.id: values[:, place] for place, each in enumerate(self.free)})
        each = max(SMALLEST, -(-len(shares) // cores()))
        parts = [(at, min(at + each, len(shares))) for at in range(0, len(shares), each)]
        if len(parts) == 1:
            return self._off(records)
        return np.concatenate(on_all_cores(lambda part: self._off(records[part[0] : part[1]].view(np.recarray)), parts))

    def _off(self, records: Records) -> Numbers:
        rows = np.empty((len(records), self._needed), TRACE)
        states = np.zeros(len(records), STATE)
        self._start.put_into(states)
        run_all(
            states, np.ascontiguousarray(records).view(np.recarray), self._course, self._start.x, self._start.y,
            self._hands[: self._needed].view(np.recarray), self._dts[: self._needed], rows,
        )  # fmt: skip
        off = [
            self._factors[place]
            * (
                rows[name][:, self._before] * (1.0 - self._share)
                + rows[name][:, self._before + 1] * self._share
                - self.wanted.columns[name][self._inside]
            )
            for place, name in enumerate(self.columns)
        ]
        found: NDArray[np.float64] = np.concatenate(off, axis=1)
        return found

    def costs(self, shares: Numbers) -> Numbers:
        """The RMS of the residuals of each run, in u."""
        off = self.residuals(shares)
        costs: Numbers = np.sqrt(np.mean(off * off, axis=1))
        return np.where(np.isfinite(costs), costs, 1e9)
