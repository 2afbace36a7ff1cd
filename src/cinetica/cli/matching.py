"""`match`: the numbers that come closest to a curve."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from cinetica.cli.common import DRILL, STUDY, drill_of, fail, put, read, tune_of
from cinetica.files.reading import Refused
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune
from cinetica.reading.log_fit import LIKE
from cinetica.reading.match.runs import Free
from cinetica.reading.match.search import Match
from cinetica.reading.match.wanted import Wanted

LIKE_THIS = "such as x=1,vy=0.5"


@click.command(help="Find the numbers that come closest to a curve; exit status 0 if it is met within the tolerance.")
@STUDY
@DRILL
@click.option("--log", required=True, help="The curve: a log of the study by its name, or a CSV file of the game.")
@click.option("--tune", help="The tune to begin with; the first of the drill's view if none is named.")
@click.option("--free", default="", help="Ids of the numbers that may move, with bounds if you like: ID[=LOW:HIGH],…")
@click.option("--open", "opened", default="", help="Ids of choices that are left open: each option is tried.")
@click.option("--open-start", is_flag=True, help="Also try the curve up to a tick earlier and later, in half ticks.")
@click.option("--weights", default="", help=f"How much each channel counts, {LIKE_THIS}.")
@click.option("--between", default="", help="Only this stretch, in s from the drill's start: START:END.")
@click.option("--find-hands", is_flag=True, help="Find the presses in the log, instead of using those of the drill.")
@click.option(
    "--seconds", type=click.FloatRange(0.1, 3600), default=10.0, show_default=True, help="How long to search, in s."
)
@click.option("--seed", type=click.IntRange(0), default=0, show_default=True, help="Seed of the search.")
@click.option(
    "--tolerance", type=click.FloatRange(0), default=0.01, show_default=True, help="The greatest gap that is met, in u."
)
@click.option("-o", "--out", type=click.Path(path_type=Path), help="Write the study with the new tune.")
def match(
    study: Path, drill: str, log: str, tune: str | None, free: str, opened: str, open_start: bool, weights: str,
    between: str, find_hands: bool, seconds: float, seed: int, tolerance: float, out: Path | None,
) -> None:  # fmt: skip
    """Match a curve."""
    from cinetica.reading.match import search
    from cinetica.reading.match.hands import hands_of
    from cinetica.reading.match.wanted import check, from_log

    content = read(study)
    chosen, tune_before = drill_of(content, drill), _start_tune(content, drill, tune)
    try:
        curve = _curve(content, log, tune_before, chosen)
        wanted = _limited(from_log(curve), weights, between)
        check(wanted)
        if find_hands:
            chosen = chosen.model_copy(update={"take": hands_of(curve, chosen.view)})
        choices = search.open_choices(tune_before, [id for id in opened.split(",") if id])
        numbers = _free_numbers(tune_before, free) if free else _chosen_numbers(tune_before, chosen, content, wanted)
        moves = search.open_start(content.clock) if open_start else (0.0,)
        *_, (_, found) = search.matching(
            tune_before, chosen, content.clock, wanted, numbers, choices, moves=moves, seed=seed, seconds=seconds
        )
    except (ValueError, KeyError) as error:
        fail(str(error.args[0] if isinstance(error, KeyError) else error))
    except Refused as refused:
        fail(*refused.faults)
    put(_words(found, tune_before))
    if out is not None:
        _write(content, found, chosen if find_hands else None, out)
    sys.exit(0 if found.greatest <= tolerance else 1)


def _start_tune(content: Study, drill: str, tune: str | None) -> Tune:
    if tune is not None:
        return tune_of(content, tune)
    tunes = content.tunes_for(drill_of(content, drill))
    if not tunes:
        fail(f"the study has no tune for the view of {drill!r}")
    return tunes[0]


def _curve(content: Study, log: str, tune: Tune, drill: Drill) -> Logged:
    """A log of the study or of a file, lined up with the tune where they are similar."""
    from cinetica.files.game_csv import fitted, from_start, guess, logged, read_text
    from cinetica.motion.simulate import simulate

    named = next((each for each in content.logs if each.name == log), None)
    if named is not None:
        return named
    if not Path(log).is_file():
        names = ", ".join(each.name for each in content.logs) or "none"
        raise ValueError(f"{log!r} is neither a file nor a log of the study, which has: {names}")
    text = read_text(Path(log))
    layout = from_start(text, guess(text, content.conventions), drill.start)
    trace = simulate(tune, drill, content.clock)
    found = fitted(text, layout, trace["time"], trace["x"], trace["y"])
    # Another tune's curve is a little longer or shorter; only a scale that is far off means another unit.
    ratio = found.layout.pixels_per_unit / layout.pixels_per_unit
    chosen = layout if found.fit is None or 1 / LIKE < ratio < LIKE else found.layout
    return logged(text, chosen, Path(log).stem[:100] or "Log", drill.name)


def _limited(wanted: Wanted, weights: str, between: str) -> Wanted:
    if weights:
        wanted = wanted.weighted(_weights(weights))
    if between:
        try:
            start, end = (float(part) for part in between.split(":"))
        except ValueError as error:
            raise ValueError(f"--between is START:END in s; {between!r} is not") from error
        wanted = wanted.between(start, end)
    return wanted


def _weights(text: str) -> dict[str, float]:
    from cinetica.reading.match.wanted import COLUMNS

    weights = {}
    for part in text.split(","):
        name, _, value = part.partition("=")
        try:
            weights[name.strip()] = float(value)
        except ValueError as error:
            raise ValueError(f"--weights is {LIKE_THIS}; {part!r} is not") from error
        if name.strip() not in COLUMNS or not 0 <= weights[name.strip()] <= 1e6:
            raise ValueError(f"--weights is for {', '.join(COLUMNS)}, each from 0 on; {part!r} is not")
    return dict.fromkeys(COLUMNS, 0.0) | weights


def _free_numbers(tune: Tune, text: str) -> list[Free]:
    from cinetica.reading.match.runs import free_number

    numbers = []
    for part in text.split(","):
        id, _, bounds = part.strip().partition("=")
        try:
            low, high = (float(each) for each in bounds.split(":")) if bounds else (None, None)
        except ValueError as error:
            raise ValueError(f"--free is ID or ID=LOW:HIGH; {part!r} is not") from error
        numbers.append(free_number(tune, id, low, high))
    return numbers


def _chosen_numbers(tune: Tune, drill: Drill, content: Study, wanted: Wanted) -> list[Free]:
    from cinetica.reading.match.search import numbers_that_matter

    numbers = numbers_that_matter(tune, drill, content.clock, wanted)
    click.echo(f"free: {', '.join(each.id for each in numbers)}", err=True)
    return numbers


def _words(found: Match, before: Tune) -> str:
    """The numbers, and the remaining difference."""
    lines = []
    for estimate in found.estimates:
        was = float(before.get(estimate.free.id))  # type: ignore[arg-type]
        words = f"  {estimate.free.id:<28} {was:10.6g} → {estimate.value:.6g}"
        if not estimate.determined:
            words += f"   not determined: {estimate.low:.4g} to {estimate.high:.4g} fits as well"
        if estimate.bound:
            words += f"   at its {'lower' if estimate.bound == 'low' else 'upper'} bound"
        lines.append(words)
    lines += [f"  {id:<28} {value}" for id, value in found.choices.items()]
    for name, gap in found.gaps.items():
        lines.append(f"{name}: off by {gap.greatest:.3g} at most, at {gap.time:.3f} s; {gap.mean:.3g} on average")
    if found.moved:
        lines.append(f"the curve fits best {abs(found.moved):.4f} s {'later' if found.moved > 0 else 'earlier'}")
    lines.append(f"{found.runs} runs in {found.seconds:.1f} s")
    return "\n".join(lines)


def _write(content: Study, found: Match, derived: Drill | None, out: Path) -> None:
    """The study with the new tune and, if presses were found, with a drill that contains them."""
    from cinetica.files.study_json import write_study
    from cinetica.model.editing import free_name

    name = free_name(f"{found.tune.name} matched"[:100], [tune.name for tune in content.tunes])
    changed = content.model_copy(update={"tunes": (*content.tunes, found.tune.model_copy(update={"name": name}))})
    if derived is not None:
        drill = free_name(f"{derived.name} (derived)"[:100], [each.name for each in content.drills])
        note = "Its presses were found from a log, not recorded."
        made = derived.model_copy(update={"name": drill, "note": note, "targets": ()})
        changed = changed.model_copy(update={"drills": (*changed.drills, made)})
    write_study(changed, out)
