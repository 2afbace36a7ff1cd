"""Which numbers of a tune change a figure most, and which have no effect on it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from cinetica.model.clock import Clock
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.model.world_size import sized
from cinetica.motion.records import field_name, tune_records
from cinetica.motion.simulate import simulate
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES, Measure
from cinetica.reading.reading_off import figures_of, read_off
from cinetica.reading.targets import Verdict, judge

# A number is moved by this share of itself to both sides, or of its comfortable range where it is near 0.
PART = 0.01
# A change below this share of the figure is rounding.
NOTHING = 1e-9
# A target is near its edge where a change of 1% of some number, or of one tick, goes past it; and where so little of
# the figure is left.
NEAR = 0.02


@dataclass(frozen=True)
class Sensitivity:
    """How a number changes a figure, per 1% of the number.

    For a number near 0 it is per 1% of its comfortable range, for a whole number per 1. `change` is in the figure's
    unit, signed; `share` is a share of the figure; both are None if the figure appears or disappears. `ticks`: the
    change of a time in ticks of the clock.
    """

    parameter: Parameter
    step: float
    change: float | None
    share: float | None
    ticks: float | None

    @property
    def matters(self) -> bool:
        """Whether the number has an effect."""
        return self.share is None or abs(self.share) > NOTHING


@dataclass(frozen=True)
class SensitivityReport:
    """For one figure of one tune on one drill.

    `value` is None if the figure is absent. `order`: the numbers that matter, the largest effect first; `idle`: those
    without effect; `off`: those at 0, which a step would switch on.
    """

    tune: Tune
    measure: Measure
    value: float | None
    order: tuple[Sensitivity, ...]
    idle: tuple[Parameter, ...]
    off: tuple[Sensitivity, ...] = ()


def sensitivities(tune: Tune, drill: Drill, clock: Clock, id: str) -> SensitivityReport:
    """Try every number that has any effect for the tune; KeyError for an unknown measure."""
    measure = {each.id: each for each in MEASURES}[id]
    reading = read_off(simulate(tune, drill, clock), [id]).get(id)
    values = tune.values()
    numbers = [each for each in PARAMETERS if each.kind in ("number", "whole") and each.matters(tune.view, values)]
    if reading is None:
        return SensitivityReport(tune, measure, None, (), tuple(numbers))
    records = np.repeat(tune_records([tune]), 2 * len(numbers)).view(np.recarray)
    steps = []
    for place, each in enumerate(numbers):
        low, high, step = _sides(sized(each, tune), as_number(values[each.id]))
        steps.append((step, (high - low) / step))
        scale = np.pi / 180.0 if each.unit.startswith("°") else 1.0
        records[field_name(each)][2 * place : 2 * place + 2] = low * scale, high * scale
    at = MEASURES.index(measure)
    found = figures_of(records, drill, clock, [id])[:, at]
    tick = 1.0 / clock.tick_rate
    listed = []
    for place, each in enumerate(numbers):
        (low, high), (step, sides) = found[2 * place : 2 * place + 2], steps[place]
        if not (low["shows"] and high["shows"]):
            listed.append(Sensitivity(each, step, None, None, None))
            continue
        change = float(high["value"] - low["value"]) / sides if sides else 0.0
        share = change / abs(reading.value) if reading.value else (float(np.sign(change)) if change else 0.0)
        listed.append(Sensitivity(each, step, change, share, change / tick if measure.unit == "s" else None))
    matter = sorted((each for each in listed if each.matters), key=lambda each: -_size(each))
    idle = tuple(each.parameter for each in listed if not each.matters)
    # A step away from 0 switches a rule on, which is not a change by 1%.
    off = tuple(each for each in matter if values[each.parameter.id] == 0 and each.parameter.low >= 0)
    order = tuple(each for each in matter if each not in off)
    return SensitivityReport(tune, measure, reading.value, order, idle, off)


def _size(sensitivity: Sensitivity) -> float:
    return float("inf") if sensitivity.share is None else abs(sensitivity.share)


def _sides(parameter: Parameter, value: float) -> tuple[float, float, float]:
    """A little less, a little more, and how much that is."""
    if parameter.kind == "whole":
        step = 1.0
    else:
        span = parameter.comfort[1] - parameter.comfort[0]
        step = PART * (abs(value) if abs(value) > PART * span else span)
    return max(parameter.low, value - step), min(parameter.high, value + step), step


def near_their_edge(study: Study, tune: Tune, units: DisplayUnits = OURS) -> list[tuple[Verdict, float]]:
    """The targets of a tune that are barely met: by less than 2% of the figure, or of the range.

    Each with its distance to the limit, in the figure's unit.
    """
    found = []
    for drill in study.drills:
        if drill.view != tune.view or not any(target.concerns(tune.name) for target in drill.targets):
            continue
        for verdict in judge(drill, tune, read_off(simulate(tune, drill, study.clock)), units):
            if verdict.met and verdict.value is not None:
                left = _left(verdict, verdict.value)
                if left < NEAR * abs(verdict.value):
                    found.append((verdict, left))
    return found


def _left(verdict: Verdict, value: float) -> float:
    edges: Iterable[float | None] = (verdict.target.low, verdict.target.high)
    return min((abs(value - edge) for edge in edges if edge is not None), default=float("inf"))
