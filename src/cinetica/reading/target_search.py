"""A missed target: the smallest change of one number that meets it without missing another target.

Every number that matters is tried on the simulation, up and down in growing steps; where a step meets the target, the
limit is found by bisection. Changes that would miss another target that was met are left out.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.model.world_size import sized
from cinetica.motion.simulate import simulate
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.figure_changes import FigureChange, farthest, moved
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from cinetica.reading.targets import Verdict, judge

# Steps as shares of the number or, if it is near 0, of half its comfortable range.
FIRST, GROWTH, STEPS, HALVINGS = 0.01, 1.6, 14, 18
# Proposals at the most; what else moves, at the most.
MOST, MOST_MOVED = 5, 4
# Significant digits of a proposed number; more where these would not meet the target.
DIGITS = 3
_BY_ID = {measure.id: measure for measure in MEASURES}


@dataclass(frozen=True)
class Proposal:
    """Changing a number of a tune meets the target; `size` is the change as a share of the number."""

    tune: Tune
    parameter: Parameter
    before: float
    after: float
    size: float
    value: float
    also: tuple[tuple[str, FigureChange], ...]

    def words(self, units: DisplayUnits = OURS) -> str:
        """“label before → after”."""
        values = self.tune.values()
        was, now = (as_number(units.value(self.parameter, value, values)) for value in (self.before, self.after))
        unit = units.parameter_unit(self.parameter)
        return f"{self.parameter.label} {was:.6g} → {now:.6g} {unit}".rstrip().replace("-", "−")


def solve(study: Study, verdict: Verdict) -> list[Proposal]:
    """The smallest changes of one number each that meet a missed target, the smallest first; empty if there are none.

    Raises ValueError if the drill cannot show the figure at all, or nothing is missed.
    """
    if verdict.met:
        raise ValueError("This target is met: nothing needs to change.")
    if verdict.measure is None:
        raise ValueError(f"There is no figure called {verdict.target.measure}.")
    task = _Task(study, study.tune(verdict.tune), study.drill(verdict.drill), verdict)
    if task.tune.snapshot_of:
        raise ValueError(f"“{task.tune.name}” is a snapshot: it cannot be changed.")
    found = sorted(task.candidates(), key=lambda each: each[2])
    proposals: list[Proposal] = []
    for parameter, after, size in found:
        if len(proposals) == MOST:
            break
        changed = task.tune.put(parameter.id, after)
        if task.misses_none_but(changed):
            value = task.measured(changed)
            assert value is not None
            proposals.append(
                Proposal(
                    task.tune, parameter, as_number(task.tune.get(parameter.id)), after, size, value,
                    task.what_else_moves(changed),
                )
            )  # fmt: skip
    return proposals


class _Task:
    def __init__(self, study: Study, tune: Tune, drill: Drill, verdict: Verdict) -> None:
        self.study, self.tune, self.drill, self.verdict = study, tune, drill, verdict
        self.target = verdict.target
        self.drills = [each for each in study.drills if each.view == tune.view]
        self.met = {
            (each.drill, each.target) for other in self.drills for each in self._judged(tune, other) if each.met
        }

    def _judged(self, tune: Tune, drill: Drill) -> list[Verdict]:
        if not any(target.concerns(tune.name) for target in drill.targets):
            return []
        return judge(drill, tune, read_off(simulate(tune, drill, self.study.clock)))

    def measured(self, tune: Tune) -> float | None:
        id = self.target.measure
        reading = read_off(simulate(tune, self.drill, self.study.clock), [id]).get(id)
        return None if reading is None else reading.value

    def meets(self, tune: Tune) -> bool:
        value = self.measured(tune)
        return value is not None and self.target.misses_by(value) == 0.0

    def misses_none_but(self, tune: Tune) -> bool:
        """Whether every target of the tune that was met still is."""
        now = {(each.drill, each.target) for drill in self.drills for each in self._judged(tune, drill) if each.met}
        return self.met <= now

    def what_else_moves(self, tune: Tune) -> tuple[tuple[str, FigureChange], ...]:
        """The other figures that change most, on all drills of the view."""
        changes = []
        for drill in self.drills:
            then, now = (read_off(simulate(each, drill, self.study.clock)) for each in (self.tune, tune))
            for each in moved(0, tune.name, then, now):
                if (drill.name, each.measure.id) != (self.drill.name, self.target.measure):
                    changes.append((drill.name, each))
        kept = farthest((each for _, each in changes), MOST_MOVED)
        return tuple(next(pair for pair in changes if pair[1] is each) for each in kept)

    def candidates(self) -> Iterator[tuple[Parameter, float, float]]:
        """Yield a number, the nearest value that meets the target, and how far away that is."""
        values = self.tune.values()
        for parameter in PARAMETERS:
            if parameter.kind == "number" and parameter.matters(self.tune.view, values):
                found = [each for sign in (1.0, -1.0) if (each := self._nearest(parameter, sign)) is not None]
                if found:
                    yield (parameter, *min(found, key=lambda each: each[1]))

    def _nearest(self, parameter: Parameter, sign: float) -> tuple[float, float] | None:
        now = as_number(self.tune.get(parameter.id))
        low, high = sized(parameter, self.tune).comfort
        span = max(abs(now), 0.5 * (high - low) * FIRST * 10)
        missed, step = 0.0, FIRST
        for _ in range(STEPS):
            value = now + sign * step * span
            if not parameter.low <= value <= parameter.high:
                return None
            if self.meets(self.tune.put(parameter.id, value)):
                size = self._edge(parameter, now, sign * span, missed, step)
                return self._rounded(parameter, now, sign * span, size)
            missed, step = step, step * GROWTH
        return None

    def _edge(self, parameter: Parameter, now: float, span: float, missed: float, met: float) -> float:
        """The smallest step that meets the target, between one that misses and one that meets."""
        for _ in range(HALVINGS):
            middle = 0.5 * (missed + met)
            if self.meets(self.tune.put(parameter.id, now + middle * span)):
                met = middle
            else:
                missed = middle
        return met

    def _rounded(self, parameter: Parameter, now: float, span: float, size: float) -> tuple[float, float]:
        """A rounded value: as few digits as meet the target, slightly beyond the limit."""
        exact = now + size * span
        away = math.ceil if span > 0 else math.floor
        for digits in range(DIGITS, 9):
            step = 10.0 ** (math.floor(math.log10(abs(exact))) - digits + 1) if exact else 10.0**-digits
            value = round(away(exact / step) * step, 12)
            if parameter.low <= value <= parameter.high and value != now:
                if self.meets(self.tune.put(parameter.id, value)):
                    return value, abs(value - now) / abs(span)
        return exact, size
