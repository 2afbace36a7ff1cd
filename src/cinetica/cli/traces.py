"""`trace` and `measure`: what a tune does on a drill, as rows and as figures."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from cinetica.cli.common import DRILL, ONLY_DRILLS, OUT_OR_PRINT, STUDY, TUNE, UNITS, drill_of, fail, put, read, tune_of
from cinetica.files.reading import Refused
from cinetica.model.clock import CLOCK_PARAMETERS, Clock
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.model.words import unknown

if TYPE_CHECKING:
    from cinetica.reading.display_units import DisplayUnits
    from cinetica.reading.measures import Reading


@click.command(help="Write the trace of a tune on a drill as CSV.")
@STUDY
@TUNE
@DRILL
@click.option(
    "--set",
    "settings",
    multiple=True,
    metavar="ID=VALUE",
    help="Another value, such as clock.tick_rate=120 or drive.top_speed=8.",
)
@UNITS
@OUT_OR_PRINT
def trace(study: Path, tune: str, drill: str, settings: tuple[str, ...], units: str, out: Path | None) -> None:
    """Write the trace of a tune on a drill."""
    from cinetica.files.trace_csv import trace_text
    from cinetica.motion.simulate import simulate
    from cinetica.reading.display_units import display_units

    content = read(study, units)
    shown = display_units(content)
    chosen = tune_of(content, tune), drill_of(content, drill)
    changed, clock = _with_settings(chosen[0], content.clock, settings, shown)
    try:
        text = trace_text(simulate(changed, chosen[1], clock), shown)
    except ValueError as error:
        fail(str(error))
    put(text, out, newline=False)


@click.command(help="Print the measures of every tune on every drill of its view.")
@STUDY
@click.option("--tune", "tunes", multiple=True, help="Only this tune; may be repeated.")
@ONLY_DRILLS
@UNITS
@click.option("--json", "as_json", is_flag=True, help="As JSON.")
@click.option(
    "--reach",
    is_flag=True,
    help="Also the widest gap and the highest step of each tune, each with its spare; the same on every drill.",
)
def measure(
    study: Path, tunes: tuple[str, ...], drills: tuple[str, ...], units: str, as_json: bool, reach: bool
) -> None:
    """Print the measures."""
    content = read(study, units)
    wanted_tunes = [tune_of(content, name) for name in tunes] or list(content.tunes)
    wanted_drills = [drill_of(content, name) for name in drills] or list(content.drills)
    pairs = [(tune, drill) for drill in wanted_drills for tune in wanted_tunes if tune.view == drill.view]
    if not pairs:
        fail(f"{study}: no tune and drill of the same view to run together")
    try:
        text = (_measures_json if as_json else measures_text)(content, pairs, reach=reach)
    except ValueError as error:
        fail(str(error))
    put(text)


def _read(tune: Tune, drill: Drill, study: Study, *, reach: bool) -> dict[str, Reading]:
    """The figures of a tune on a drill, including those of its poses and, on request, those of its reach."""
    from cinetica.motion.simulate import simulate
    from cinetica.reading.measures import OF_POSES, REACHED
    from cinetica.reading.reading_off import read_off

    trace = simulate(tune, drill, study.clock)
    return read_off(trace) | read_off(trace, OF_POSES) | (read_off(trace, REACHED) if reach else {})


def _measures_json(study: Study, pairs: list[tuple[Tune, Drill]], *, reach: bool) -> str:
    from cinetica.reading.display_units import display_units
    from cinetica.reading.measures import MEASURES

    shown = display_units(study)
    scales = {measure.id: shown.scale(measure.unit) for measure in MEASURES}
    listed = []
    for tune, drill in pairs:
        readings = _read(tune, drill, study, reach=reach)
        measures = {
            id: (
                {"value": scales[id].shown(reading.value), "unit": scales[id].unit}
                | ({"ticks": reading.ticks} if reading.ticks is not None else {})
            )
            for id, reading in readings.items()
        }
        listed.append({"tune": tune.name, "drill": drill.name, "measures": measures})
    return json.dumps({"study": study.name, "readings": listed}, ensure_ascii=False, indent=1)


def measures_text(study: Study, pairs: list[tuple[Tune, Drill]], *, reach: bool = False) -> str:
    """The measures of each pair, as text."""
    from cinetica.reading.display_units import display_units
    from cinetica.reading.measures import MEASURES

    units = display_units(study)
    lines = []
    for tune, drill in pairs:
        lines.append(f"{tune.name} on {drill.name}")
        readings = _read(tune, drill, study, reach=reach)
        for measure in MEASURES:
            if (reading := readings.get(measure.id)) is not None:
                ticks = f"  ({reading.ticks} ticks)" if reading.ticks is not None and measure.unit == "s" else ""
                scale = units.scale(measure.unit)
                lines.append(f"  {measure.label:<24} {scale.shown(reading.value):10.4f} {scale.unit}{ticks}")
        lines.append("")
    return "\n".join(lines).rstrip()


def _with_settings(tune: Tune, clock: Clock, settings: tuple[str, ...], units: DisplayUnits) -> tuple[Tune, Clock]:
    """Tune and clock with `ID=VALUE` settings, in these units; Refused if one is not allowed."""
    own = tune.values()
    declared = {each.id: units.parameter(each, own).allowed for each in PARAMETERS}
    declared |= {each.id: each.allowed for each in CLOCK_PARAMETERS}
    known = declared | {"clock.hitches": "a list of [at, seconds], such as [[0.5, 0.2]]"}
    for setting in settings:
        id, equals, text = setting.partition("=")
        shown = setting if len(setting) <= 80 else f"{setting[:79]}…"
        if not equals:
            raise Refused([f"--set {shown}: not of the form ID=VALUE, such as clock.tick_rate=120"])
        if id not in known:
            raise Refused([f"--set {shown}: {unknown('number', id, known)}"])
        try:
            value = json.loads(text)
        except (ValueError, RecursionError):
            # A word, or an invalid value: refused below.
            value = text
        try:
            if id.startswith("clock."):
                clock = Clock.model_validate_json(
                    json.dumps(clock.model_dump(mode="json") | {id.removeprefix("clock."): value})
                )
            else:
                if isinstance(value, int | float) and not isinstance(value, bool):
                    value = _kept(id, value, tune, units)
                tune = tune.put(id, value)
        except (ValueError, RecursionError, OverflowError) as error:
            raise Refused([f"--set {shown}: {id} must be {known[id]}"]) from error
    return tune, clock


def _kept(id: str, value: float, tune: Tune, units: DisplayUnits) -> float:
    """A number in our units; whole numbers are the same in all units."""
    parameter = parameter_by_id(id)
    if units.game is None or parameter.kind != "number":
        return value
    return units.kept(parameter, float(value), tune.values())
