"""`numbers`, `code`, `proof` and `check`: export to the game, and whether the game moves as it should."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from cinetica.cli.common import DRILL, OUT_OR_PRINT, STUDY, TUNE, drill_of, fail, put, read, tune_of
from cinetica.files.handover import FORMATS, Which, at_milestone, numbers_text
from cinetica.files.reading import Refused


@click.command(
    help=(
        "Write what a programmer needs: numbers, hands, expected traces, and a page with the order of a tick and the"
        " equations."
    )
)
@STUDY
@TUNE
@click.option(
    "-o",
    "--out",
    required=True,
    type=click.Path(path_type=Path),
    help="Folder to write into; it is made if it is not there.",
)
def proof(study: Path, tune: str, out: Path) -> None:
    """Write the proof of a tune."""
    from cinetica.files.proof import write_proof

    content = read(study)
    try:
        written = write_proof(content, tune_of(content, tune), out)
    except ValueError as error:
        fail(str(error))
    put(f"{len(written)} files in {out}; begin with {written[0]}")


@click.command(help="Say whether a trace that the game has logged follows a tune; exit status 0 if it does, 1 if not.")
@STUDY
@click.argument("log", metavar="GAME.csv", type=click.Path(path_type=Path))
@TUNE
@DRILL
@click.option(
    "--tolerance",
    type=click.FloatRange(min=0),
    default=0.5,
    show_default=True,
    help="Greatest gap allowed, in the log's own units.",
)
@click.option(
    "--fit",
    "fits",
    is_flag=True,
    help="First find the log's start, lag, scale, offset and direction of y, by comparing it with the tune.",
)
def check(study: Path, log: Path, tune: str, drill: str, tolerance: float, fits: bool) -> None:
    """Check a game's log against a tune."""
    from cinetica.files.game_csv import fitted, from_start, guess, read_text
    from cinetica.files.proof import check_log
    from cinetica.motion.simulate import simulate

    content = read(study)
    chosen = tune_of(content, tune), drill_of(content, drill)
    try:
        text = read_text(log)
        layout = from_start(text, guess(text, content.conventions), chosen[1].start)
        if fits:
            trace = simulate(*chosen, content.clock)
            found = fitted(text, layout, trace["time"], trace["x"], trace["y"])
            if found.fit is None:
                raise Refused([f"the log moves like nothing that {tune} does on {drill}; --fit finds no start"])
            layout = found.layout
        checked = check_log(content, *chosen, text, layout, tolerance)
    except Refused as refused:
        fail(*(fault if fault.startswith(str(log)) else f"{log}: {fault}" for fault in refused.faults))
    except ValueError as error:
        fail(str(error))
    put("\n".join(checked.lines))
    sys.exit(0 if checked.follows else 1)


@click.command(help="Write a tune's numbers in the conventions of the study's game.")
@STUDY
@TUNE
@click.option("--format", "kind", type=click.Choice(tuple(FORMATS)), default="toml", show_default=True)
@click.option(
    "--which", type=click.Choice([each.value for each in Which]), default=Which.ALL.value, show_default=True,
    help="All that matter, what differs from the default, what changed since a milestone, or what has a name of the"
    " game's.",
)  # fmt: skip
@click.option("--since", default="", help="The milestone, with --which changed; the last one if it is left out.")
@OUT_OR_PRINT
def numbers(study: Path, tune: str, kind: str, which: str, since: str, out: Path | None) -> None:
    """Write a tune's numbers."""
    content = read(study)
    chosen, before = tune_of(content, tune), None
    if which == Which.CHANGED:
        try:
            before = at_milestone(content, chosen, since)
        except KeyError as error:
            raise click.ClickException(error.args[0]) from error
    put(numbers_text(chosen, content.conventions, kind, Which(which), before), out, newline=False)


@click.command(
    help=(
        "Write a tune as code: the step itself, in the language of the game and in the conventions of the study's game."
        "\n\nThe step is cut where the game moves the body and collides; with --whole it has Cinetica's own contact for"
        " boxes and slopes, and is what the tests of a proof run."
    )
)
@STUDY
@TUNE
@click.option("--language", required=True, type=click.Choice(("c", "csharp", "lua", "python", "javascript")))
@click.option("--whole", is_flag=True, help="The whole tick, with contact.")
@OUT_OR_PRINT
def code(study: Path, tune: str, language: str, whole: bool, out: Path | None) -> None:
    """Write a tune as code."""
    from cinetica.codegen.languages import code_text, program_of

    content = read(study)
    put(code_text(program_of(content, tune_of(content, tune), whole=whole), language), out, newline=False)
