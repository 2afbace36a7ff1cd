"""Whether a tune moves the same on other machines: its measures at several tick rates and through a hitch.

It also proposes what to set so that they agree.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from cinetica.model.clock import Clock, Hitch, Mode
from cinetica.model.laws import LAWS
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Drill
from cinetica.model.tune import Form, Integrator, Sweep, TimeBase, Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading.measures import MEASURES, Measure
from cinetica.reading.reading_off import read_off

HITCH = 0.08
# Measures of counts, and of a single tick, say nothing about rates: a tick is another time at each of them. How far a
# camera lags behind a body that goes from tick to tick is one of them, and moves nothing.
OF_A_TICK = (
    "peak_acceleration", "deepest_overlap", "coyote_spare", "buffer_spare", "camera_distance", "camera_rest",
)  # fmt: skip
COMPARED = tuple(
    measure for measure in MEASURES if measure.unit not in ("ticks", "frames", "") and measure.id not in OF_A_TICK
)
# A spread below this share is not mentioned; a change must reduce it by this share to be advised.
NOTICED, WORTH_IT = 0.02, 0.3
# Settings that can make a tune depend on the rate, with the value that does not.
REMEDIES: tuple[tuple[str, Value, Callable[[Tune], bool]], ...] = (
    ("stepping.time_base", TimeBase.SECONDS.value, lambda tune: True),
    ("drive.form", Form.EXACT.value, lambda tune: "form" in LAWS[tune.drive.law].numbers),
    ("stepping.integrator", Integrator.MIDPOINT.value, lambda tune: True),
    ("contact.sweep", Sweep.SWEPT.value, lambda tune: True),
)


@dataclass(frozen=True)
class Advice:
    """Setting a parameter to a value reduces the largest spread from one share to another."""

    parameter: Parameter
    value: Value
    before: float
    after: float


@dataclass(frozen=True)
class AtRates:
    """`values`: each measure shown at every rate, with its value at each of `names`.

    `lost`: the measures shown only at some rates.
    """

    names: tuple[str, ...]
    values: dict[str, tuple[float, ...]]
    lost: tuple[Measure, ...]
    advice: tuple[Advice, ...]

    def spread(self, id: str) -> float:
        """The largest difference between two rates, as a share of the largest value."""
        return _spread(self.values[id])

    @property
    def same(self) -> bool:
        """Whether all measures agree."""
        return not self.lost and all(self.spread(id) < NOTICED for id in self.values)


def clocks(drill: Drill) -> dict[str, Clock]:
    """The machines compared: three rates, and one with a hitch in the middle of the take."""
    hitch = Hitch(round(0.4 * drill.take.seconds, 3), HITCH)
    return {
        "30": Clock(tick_rate=30), "60": Clock(tick_rate=60), "144": Clock(tick_rate=144),
        f"60, hitch of {1000 * HITCH:.0f} ms": Clock(mode=Mode.VARIABLE, frame_rate=60, hitches=(hitch,)),
    }  # fmt: skip


def at_rates(tune: Tune, drill: Drill) -> AtRates:
    """Run a tune on a drill on each machine, and find what to set if the measures disagree."""
    names, values, lost = tuple(clocks(drill)), *_measured(tune, drill)
    advice: list[Advice] = []
    worst, best = _worst(values, lost), tune
    remedies = [(id, value) for id, value, applies in REMEDIES if applies(tune) and tune.get(id) != value]
    while worst >= NOTICED and remedies:
        tried = {id: _worst(*_measured(best.put(id, value), drill)) for id, value in remedies}
        id = min(tried, key=lambda each: tried[each])
        if tried[id] > (1.0 - WORTH_IT) * worst:
            break
        value = dict(remedies)[id]
        advice.append(Advice(parameter_by_id(id), value, worst, tried[id]))
        best, worst = best.put(id, value), tried[id]
        remedies = [remedy for remedy in remedies if remedy[0] != id]
    return AtRates(names, values, lost, tuple(advice))


def _spread(values: tuple[float, ...]) -> float:
    greatest = max(abs(value) for value in values)
    return (max(values) - min(values)) / greatest if greatest > 1e-9 else 0.0


def _worst(values: dict[str, tuple[float, ...]], lost: tuple[Measure, ...]) -> float:
    """The largest spread; a measure shown only at some rates counts as entirely different."""
    return max([_spread(each) for each in values.values()] + [1.0 for _ in lost], default=0.0)


def _measured(tune: Tune, drill: Drill) -> tuple[dict[str, tuple[float, ...]], tuple[Measure, ...]]:
    read = [read_off(simulate(tune, drill, clock)) for clock in clocks(drill).values()]
    values = {
        measure.id: tuple(each[measure.id].value for each in read)
        for measure in COMPARED
        if all(measure.id in each for each in read)
    }
    lost = tuple(
        measure for measure in COMPARED if measure.id not in values and any(measure.id in each for each in read)
    )
    return values, lost
