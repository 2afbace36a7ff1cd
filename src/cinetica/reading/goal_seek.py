"""Goal seek: a wanted value of a measure, and the numbers of a tune that reach it on a drill.

A closed form gives the numbers where there is one, but the simulation decides: if its measure misses the goal, the
numbers are searched for on the simulation itself (SciPy's bracketing and root finding).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq, root

from cinetica.model.clock import Clock
from cinetica.model.laws import LAWS
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill
from cinetica.model.tune import Integrator, ShortHop, TimeBase, Tune, parameter_by_id
from cinetica.motion.simulate import Trace, simulate
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.evidence import NEARLY
from cinetica.reading.measures import MEASURES, Measure, Reading
from cinetica.reading.reading_off import read_off

# How close the simulation must come to the goal, as a share of it.
NEAR = 1e-4
NEVER = 1e12


class GoalOutOfReach(ValueError):
    """The goal cannot be reached; the message says why."""


@dataclass(frozen=True)
class Goal:
    """The tune that reaches the goal and, for each number changed, its old and new value."""

    tune: Tune
    moved: tuple[tuple[Parameter, float, float], ...]
    measure: Measure
    measured: float
    units: DisplayUnits = OURS

    @property
    def words(self) -> str:
        """What was reached and which numbers changed."""
        values = self.tune.values()
        moved = []
        for each, before, after in self.moved:
            was, now = (as_number(self.units.value(each, value, values)) for value in (before, after))
            moved.append(f"{each.label} {was:.4g} → {now:.4g} {self.units.parameter_unit(each)}")
        scale = self.units.scale(self.measure.unit)
        figure = f"{scale.shown(self.measured):.4g} {scale.unit}"
        return f"{self.measure.label} of {self.tune.name} is {figure}: {', '.join(moved)}".replace("-", "−")


_BY_ID = {measure.id: measure for measure in MEASURES}
_JUMP = ("jump_height", "time_to_apex")
# The number that sets the height of a tapped jump, by the kind of short hop.
_HOPPING = {
    ShortHop.CUT: "cut_factor",
    ShortHop.CAP: "cap_speed",
    ShortHop.HEAVY: "heavy_factor",
    ShortHop.SUSTAIN: "sustain_factor",
}


def seek(tune: Tune, drill: Drill, clock: Clock, id: str, wanted: float, units: DisplayUnits = OURS) -> Goal:
    """Change the numbers behind the measure `id` until it is `wanted` (in the measure's unit) on this drill.

    Jump height keeps the time to apex and vice versa: gravity and jump speed change together. Returns a new tune.
    Raises GoalOutOfReach if there is no solution.
    """
    task = _Task(tune, drill, clock, _BY_ID[id], wanted, units)
    if not (math.isfinite(wanted) and wanted > 0):
        raise GoalOutOfReach(f"{task.label} must be a number over 0; “{wanted:g}” is not.")
    if task.measured(tune) is None:
        raise GoalOutOfReach(
            f"{task.label} cannot be set here: the drill {drill.name} never shows it with {tune.name}."
        )
    return _jump(task) if id in _JUMP else _one_number(task)


@dataclass(frozen=True)
class _Task:
    tune: Tune
    drill: Drill
    clock: Clock
    measure: Measure
    wanted: float
    units: DisplayUnits = OURS

    def formatted(self, value: float, digits: int = 3, measure: Measure | None = None) -> str:
        """A figure in words."""
        scale = self.units.scale((measure or self.measure).unit)
        return f"{scale.shown(value):.{digits}g} {scale.unit}"

    @property
    def label(self) -> str:
        return self.measure.label

    @property
    def words(self) -> str:
        return f"{self.label.lower()} of {self.formatted(self.wanted, 6)}"

    def trace(self, tune: Tune) -> Trace:
        return simulate(tune, self.drill, self.clock)

    def read(self, tune: Tune, *ids: str) -> list[Reading | None]:
        """These figures of a tune."""
        found = read_off(self.trace(tune), ids)
        return [found.get(id) for id in ids]

    def measured(self, tune: Tune, id: str = "") -> float | None:
        reading = self.read(tune, id or self.measure.id)[0]
        return None if reading is None else reading.value

    def fulfils(self, tune: Tune) -> bool:
        measured = self.measured(tune)
        return measured is not None and abs(measured - self.wanted) <= NEAR * self.wanted

    def granted(self, tune: Tune, parameters: tuple[Parameter, ...]) -> Goal:
        moved = tuple((each, as_number(self.tune.get(each.id)), as_number(tune.get(each.id))) for each in parameters)
        measured = self.measured(tune)
        assert measured is not None
        return Goal(tune, moved, self.measure, measured, self.units)


# One number


def _one_number(task: _Task) -> Goal:
    parameter = parameter_by_id(_number_behind(task))
    for guess in _guesses(task):
        if parameter.low < guess <= parameter.high:
            tune = task.tune.put(parameter.id, guess)
            if task.fulfils(tune):
                return task.granted(tune, (parameter,))
    found = _search(task, parameter)
    if found is None:
        raise GoalOutOfReach(_out_of_reach(task, parameter))
    return task.granted(task.tune.put(parameter.id, found), (parameter,))


def _number_behind(task: _Task) -> str:
    """Id of the number that the measure depends on; GoalOutOfReach if there is none."""
    if task.measure.id == "lowest_hop":
        hop = task.tune.jump.short_hop
        if hop not in _HOPPING:
            raise GoalOutOfReach("Short hops are off: a tap jumps as high as a hold. Choose a kind of short hop first.")
        return f"jump.{_HOPPING[hop]}"
    if task.measure.id == "net_jump_height":
        return "climb.climb_jump_speed"
    law = task.tune.drive.law
    starting = task.measure.id == "time_to_top_speed"
    behind = LAWS[law].starting if starting else LAWS[law].stopping
    if not behind:
        raise GoalOutOfReach(
            f"Under the law {law} there is no number behind {task.label.lower()}: it is at once. Choose another law."
        )
    if not starting and task.tune.drive.release_stop and "release_stop" in LAWS[law].numbers:
        raise GoalOutOfReach(
            f"Stop on release is on, so {task.label.lower()} follows from no number. Turn it off first."
        )
    return f"drive.{behind}"


def _guesses(task: _Task) -> list[float]:
    """Closed forms for a ramp along one axis: time to 99% is 0.99·S/a, to 1% (v₀ - 0.01·S)/a. Else none."""
    drive = task.tune.drive
    if not LAWS[drive.law].even or task.measure.id not in ("time_to_top_speed", "stopping_time"):
        return []
    return [NEARLY * drive.top_speed / task.wanted]


def _search(task: _Task, parameter: Parameter) -> float | None:
    """The value nearest to the present one, on a log scale, that reaches the goal; None if there is none."""

    def gap(exponent: float) -> float:
        measured = task.measured(task.tune.put(parameter.id, min(max(10.0**exponent, parameter.low), parameter.high)))
        return NEVER if measured is None else measured - task.wanted

    now = as_number(task.tune.get(parameter.id))
    start = math.log10(now) if now > 0 else 1.0
    lowest, highest = math.log10(max(parameter.low, 1e-4)), math.log10(parameter.high)
    at_start = gap(start)
    for reach in np.arange(0.25, highest - lowest + 0.25, 0.25):
        for inner, outer in ((start - reach + 0.25, start - reach), (start + reach - 0.25, start + reach)):
            outer = min(max(outer, lowest), highest)
            inner = min(max(inner, lowest), highest)
            if inner == outer:
                continue
            one, other = (at_start if inner == start else gap(inner)), gap(outer)
            if one * other > 0:
                continue
            value = 10.0 ** float(brentq(gap, inner, outer, xtol=1e-13, rtol=1e-13, maxiter=200))
            if task.fulfils(task.tune.put(parameter.id, value)):
                return value
    return None


def _out_of_reach(task: _Task, parameter: Parameter) -> str:
    exponents = np.linspace(math.log10(max(parameter.low, 1e-3)), math.log10(parameter.high), 60)
    measured = [task.measured(task.tune.put(parameter.id, float(10.0**exponent))) for exponent in exponents]
    below = max((value for value in measured if value is not None and value <= task.wanted), default=None)
    above = min((value for value in measured if value is not None and value >= task.wanted), default=None)
    nearest = " and ".join(task.formatted(value) for value in (below, above) if value is not None)
    return (
        f"A {task.words} is out of reach. Whatever {parameter.label.lower()} is, the nearest on this drill is"
        f" {nearest}; nothing was changed."
    )


# Gravity and jump speed together


def _jump(task: _Task) -> Goal:
    speed, gravity = parameter_by_id("jump.jump_speed"), parameter_by_id("gravity.gravity")
    other = _JUMP[1 - _JUMP.index(task.measure.id)]
    kept = task.measured(task.tune, other)
    if kept is None or kept <= 0:
        raise GoalOutOfReach(f"{task.label} cannot be set here: the jump in {task.drill.name} has no apex.")
    wanted = {task.measure.id: task.wanted, other: kept}

    def tune_with(v: float, g: float) -> Tune:
        return task.tune.put(speed.id, min(max(v, speed.low), speed.high)).put(
            gravity.id, min(max(g, gravity.low), gravity.high)
        )

    def misses(logs: np.ndarray[tuple[int], np.dtype[np.float64]]) -> list[float]:
        tune = tune_with(*(float(value) for value in np.exp(np.clip(logs, -20, 20))))
        readings = task.read(tune, *_JUMP)
        return [
            NEVER if reading is None else reading.value / wanted[id] - 1
            for id, reading in zip(_JUMP, readings, strict=True)
        ]

    v, g = _closed_form(task, wanted["jump_height"], wanted["time_to_apex"])
    for start in ((v, g), *_other_starts(task, as_number(task.tune.get(speed.id)), v, g)):
        logs = np.log(np.maximum(start, 1e-6))
        if max(map(abs, misses(logs))) > NEAR:
            logs = root(misses, logs, method="hybr", options={"xtol": 1e-12}).x
        if max(map(abs, misses(logs))) <= NEAR:
            return task.granted(tune_with(*(float(value) for value in np.exp(logs))), (gravity, speed))
    stays = f"{_BY_ID[other].label.lower()} stays {task.formatted(kept, measure=_BY_ID[other])}"
    raise GoalOutOfReach(
        f"A {task.words} is out of reach while {stays}: "
        f"no gravity and {speed.label.lower()} give both on this drill; nothing was changed."
    )


def _other_starts(task: _Task, jump: float, v: float, g: float) -> list[tuple[float, float]]:
    """Other starting points of the search: the present numbers, scaled to the goal, and around the closed form."""
    gravity = task.tune.gravity.gravity
    ratio = task.wanted / (task.measured(task.tune) or task.wanted)
    scaled = (jump * ratio, gravity * ratio) if task.measure.id == "jump_height" else (jump / ratio, gravity / ratio**2)
    return [scaled, (v * 1.3, g * 1.3), (v * 0.8, g * 0.8), (v * 1.5, g * 2), (v * 2, g * 3)]


def _closed_form(task: _Task, height: float, time: float) -> tuple[float, float]:
    """Jump speed and gravity of a held jump: v = g·T, and g from the height that the integrator sums up tick by tick.

    After k ticks y = v·k·h - g·h²·c(k), with c = k(k+1)/2 (velocity_first), k(k-1)/2 (position_first); midpoint: g·T²/2
    between the rows.
    """
    trace = task.trace(task.tune)
    h = (
        1.0 / task.tune.stepping.reference_rate
        if task.tune.stepping.time_base is not TimeBase.SECONDS
        else float(np.median(trace["dt"][1:]))
    )
    integrator = task.tune.stepping.integrator
    sums: dict[Integrator, Callable[[int], float]] = {
        Integrator.VELOCITY_FIRST: lambda k: k * (k + 1) / 2,
        Integrator.POSITION_FIRST: lambda k: k * (k - 1) / 2,
    }
    if integrator is Integrator.MIDPOINT:
        g = 2 * height / time**2
        return g * time, g
    ticks = max(1, math.floor(time / h + 1e-9))
    best = max(time * k * h - h * h * sums[integrator](k) for k in (ticks, ticks + 1))
    g = height / best if best > 0 else 2 * height / time**2
    return g * time, g
