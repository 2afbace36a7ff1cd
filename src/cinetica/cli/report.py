"""`report`: tunes side by side, curves, figures and notes in one file."""

from __future__ import annotations

from pathlib import Path

import click

from cinetica.cli.common import ONLY_DRILLS, STUDY, UNITS, drill_of, read


@click.command(help="Write the report: tunes side by side, curves, measures and notes, in one file.")
@STUDY
@ONLY_DRILLS
@UNITS
@click.option(
    "-o",
    "--out",
    required=True,
    type=click.Path(path_type=Path),
    help="File to write: HTML, or PDF by the suffix .pdf.",
)
@click.option(
    "--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Size of a PDF's pages."
)
def report(study: Path, drills: tuple[str, ...], units: str, out: Path, paper: str) -> None:
    """Write the report."""
    content = read(study, units)
    chosen = [drill_of(content, name) for name in drills] or list(content.drills)
    from cinetica.files.report import write_report

    write_report(content, chosen, out, paper=paper)
