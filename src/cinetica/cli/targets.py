"""`targets`: check whether every target is met."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from cinetica.cli.common import ONLY_DRILLS, STUDY, UNITS, drill_of, fail, put, read, tune_of

if TYPE_CHECKING:
    from cinetica.reading.targets import Verdict


@click.command(help="Check the targets of a study: a line for each; exit status 1 if any is missed, else 0.")
@STUDY
@click.option("--tune", "tunes", multiple=True, help="Only this tune; may be repeated.")
@ONLY_DRILLS
@UNITS
@click.option("--strict", is_flag=True, help="A figure that its drill does not show misses its target.")
@click.option("--json", "as_json", is_flag=True, help="As JSON.")
@click.option(
    "--junit", type=click.Path(path_type=Path), help="Also write them as JUnit XML, as a game's own CI shows tests."
)
def targets(
    study: Path, tunes: tuple[str, ...], drills: tuple[str, ...], units: str, strict: bool, as_json: bool,
    junit: Path | None,
) -> None:  # fmt: skip
    """Check the targets of a study."""
    from cinetica.reading.display_units import display_units
    from cinetica.reading.targets import summary, verdicts

    content = read(study, units)
    names = [tune_of(content, name).name for name in tunes], [drill_of(content, name).name for name in drills]
    try:
        found = verdicts(content, tunes=names[0], drills=names[1], units=display_units(content))
    except ValueError as error:
        fail(str(error))
    if junit is not None:
        from cinetica.files.junit import junit_text

        put(junit_text(content.name, found, strict=strict), junit)
    if as_json:
        listed = [_as_json(each) for each in found]
        put(json.dumps({"study": content.name, "targets": listed}, ensure_ascii=False, indent=1))
    else:
        put("\n".join([*(each.words for each in found), summary(found)]))
    if any(each.missed or (strict and not each.met) for each in found):
        sys.exit(1)


def _as_json(verdict: Verdict) -> dict[str, object]:
    scale = verdict.units.scale(verdict.measure.unit if verdict.measure else "")

    def shown(value: float | None) -> float | None:
        return None if value is None else scale.shown(value)

    return {
        "drill": verdict.drill, "tune": verdict.tune, "measure": verdict.target.measure,
        "low": shown(verdict.target.low), "high": shown(verdict.target.high), "value": shown(verdict.value),
        "unit": scale.unit, "met": verdict.met, "missing": shown(verdict.missing),
    }  # fmt: skip
