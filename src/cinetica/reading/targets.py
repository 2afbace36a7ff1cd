"""Targets compared with what the drills show: met or missed, and by how much."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from cinetica.model.clock import Clock
from cinetica.model.editing import with_target
from cinetica.model.rescaling import SCALED_UNITS, Scope, resized
from cinetica.model.study import Drill, Study
from cinetica.model.targets import Target
from cinetica.model.tune import Tune, View
from cinetica.motion.simulate import simulate
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES, Measure, Reading
from cinetica.reading.reading_off import read_off

_BY_ID = {measure.id: measure for measure in MEASURES}
MET, MISSED, NOT_SHOWN = "met", "missed", "not shown"
# Signs that mean the same as the words, without colour.
SIGNS = {MET: "✓", MISSED: "✗", NOT_SHOWN: "·"}


@dataclass(frozen=True)
class Verdict:
    """One target for one tune, worded in `units`. `value` is None if the drill does not show the figure."""

    drill: str
    tune: str
    target: Target
    value: float | None
    units: DisplayUnits = OURS

    @property
    def measure(self) -> Measure | None:
        """None if the target names an unknown measure."""
        return _BY_ID.get(self.target.measure)

    @property
    def missing(self) -> float | None:
        """The distance from the range, negative if too low; 0 if met, None if nothing is shown."""
        return None if self.value is None else self.target.misses_by(self.value)

    @property
    def met(self) -> bool:
        """Whether the value is in the range."""
        return self.missing == 0.0

    @property
    def missed(self) -> bool:
        """Whether the value is out of the range, or the target names an unknown measure."""
        return bool(self.missing) or self.measure is None

    @property
    def word(self) -> str:
        """“met”, “missed” or “not shown”."""
        return MET if self.met else MISSED if self.missed else NOT_SHOWN

    @property
    def label(self) -> str:
        """The measure's label."""
        return self.measure.label if self.measure else self.target.measure

    @property
    def wanted(self) -> str:
        """The range with its unit."""
        return self.units.target_words(self.target, self.measure)

    @property
    def why(self) -> str:
        """The value, and by how much it misses."""
        if self.measure is None:
            return f"there is no figure {self.target.measure}"
        if self.value is None or self.missing is None:
            return f"the drill does not show it: {self.measure.absent}"
        scale = self.units.scale(self.measure.unit)
        unit = f" {scale.unit}".rstrip()
        words = f"{scale.shown(self.value):.4g}{unit}"
        if self.missing:
            words += f", {scale.shown(abs(self.missing)):.3g}{unit} too {'high' if self.missing > 0 else 'low'}"
        return words.replace("-", "−")

    @property
    def short(self) -> str:
        """The figure with its value or, where it is met, with the range; for narrow places."""
        if self.met:
            return f"{self.label} {self.wanted}"
        if self.value is None or self.missing is None or self.measure is None:
            return f"{self.label} not shown"
        scale = self.units.scale(self.measure.unit)
        words = f"{scale.shown(self.value):.3g} {scale.unit}".rstrip()
        far = f"{scale.shown(abs(self.missing)):.2g} too {'high' if self.missing > 0 else 'low'}"
        return f"{self.label} {words}, {far}".replace("-", "−")

    @property
    def words(self) -> str:
        """One line: sign, word, place, value and range."""
        return (
            f"{SIGNS[self.word]} {self.word:<9} {self.drill}, {self.tune}: {self.label} should be {self.wanted};"
            f" {self.why}"
        )


def judge(drill: Drill, tune: Tune, readings: Mapping[str, Reading], units: DisplayUnits = OURS) -> list[Verdict]:
    """The verdicts on the targets of a drill that concern a tune, given its figures there, worded in these units."""
    values = {id: reading.value for id, reading in readings.items()}
    return [
        Verdict(drill.name, tune.name, target, values.get(target.measure), units)
        for target in drill.targets
        if target.concerns(tune.name)
    ]


def verdicts(
    study: Study,
    *,
    tunes: Sequence[str] = (),
    drills: Sequence[str] = (),
    clock: Clock | None = None,
    units: DisplayUnits = OURS,
) -> list[Verdict]:
    """Check every target of a study, or only those of these tunes and drills, on the simulation."""
    found = []
    for drill in study.drills:
        if drills and drill.name not in drills:
            continue
        for tune in study.tunes_for(drill):
            concerned = any(target.concerns(tune.name) for target in drill.targets)
            if concerned and (not tunes or tune.name in tunes):
                found += judge(drill, tune, read_off(simulate(tune, drill, clock or study.clock)), units)
    return found


def rescaled_with_targets(study: Study, factor: float, scope: Scope, tune: str = "") -> Study:
    """As `model.rescaling.resized`; targets for lengths and speeds are rescaled along with the whole study.

    If a tune alone is rescaled, its targets stay.
    """
    after = resized(study, factor, scope, tune)
    if scope is not Scope.STUDY:
        return after
    drills = tuple(
        drill.model_copy(update={"targets": tuple(_resized(target, factor) for target in drill.targets)})
        if drill.targets else drill
        for drill in after.drills
    )  # fmt: skip
    return after.model_copy(update={"drills": drills})


def _resized(target: Target, factor: float) -> Target:
    measure = _BY_ID.get(target.measure)
    if measure is None or measure.unit not in SCALED_UNITS:
        return target
    ends = {
        end: None if value is None else value * factor for end, value in (("low", target.low), ("high", target.high))
    }
    return target.model_copy(update=ends)


def summary(found: Iterable[Verdict]) -> str:
    """How many are missed, of how many, and how many are not shown."""
    listed = list(found)
    if not listed:
        return "no targets"
    missed, met = sum(verdict.missed for verdict in listed), sum(verdict.met for verdict in listed)
    hidden = len(listed) - missed - met
    if missed:
        words = f"{missed} of {len(listed)} missed"
    elif met == len(listed):
        words = f"all {met} met" if met > 1 else "1 target met"
    else:
        words = f"{met} of {len(listed)} met" if met else ""
    if hidden and not words:
        return f"{hidden} not shown"
    return f"{words}, {hidden} not shown" if hidden else words


def with_target_on_every_drill(study: Study, view: View, target: Target) -> Study:
    """The target on every drill of the view that shows its figure to a tune that it concerns."""
    for drill in study.drills:
        if drill.view == view and any(
            target.measure in read_off(simulate(tune, drill, study.clock), [target.measure])
            for tune in study.tunes_for(drill) if target.concerns(tune.name)
        ):  # fmt: skip
            study = with_target(study, drill.name, target)
    return study
