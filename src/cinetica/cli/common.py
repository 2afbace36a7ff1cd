"""What the commands share: reading, writing and failing."""

from __future__ import annotations

import errno
import os
import sys
from pathlib import Path
from typing import NoReturn

import click

from cinetica.files.atomic_write import write_atomically
from cinetica.files.study_json import read_study
from cinetica.model.study import Drill, Study, UnitSystem
from cinetica.model.text import visible
from cinetica.model.tune import Tune

STUDY = click.argument("study", type=click.Path(path_type=Path))
TUNE = click.option("--tune", required=True, help="Name of the tune.")
DRILL = click.option("--drill", required=True, help="Name of the drill.")
ONLY_DRILLS = click.option("--drill", "drills", multiple=True, help="Only this drill; may be repeated.")
UNITS = click.option(
    "--units",
    type=click.Choice([each.value for each in UnitSystem]),
    default=UnitSystem.OURS.value,
    show_default=True,
    help="Units of all numbers: u and s, or those of the study's game.",
)
OUT_OR_PRINT = click.option(
    "-o", "--out", type=click.Path(path_type=Path), help="File to write; standard output if none is named."
)


def read(path: Path, units: str | None = None) -> Study:
    """The study in a file, shown in these units if they are given; Refused if it is invalid."""
    study = read_study(path)
    return study if units is None else study.model_copy(update={"units": UnitSystem(units)})


def tune_of(study: Study, name: str) -> Tune:
    """The tune of this name; without one the command fails, listing the available names."""
    try:
        return study.tune(name)
    except KeyError as error:
        fail(error.args[0])


def drill_of(study: Study, name: str) -> Drill:
    """The drill of this name; without one the command fails, listing the available names."""
    try:
        return study.drill(name)
    except KeyError as error:
        fail(error.args[0])


def put(text: str, out: Path | None = None, *, newline: bool = True) -> None:
    """Write a text to a file or to standard output; OSError with the path."""
    if out is not None:
        write_atomically(out, text.encode())
    elif sys.stdout is None:
        raise OSError(errno.EBADF, os.strerror(errno.EBADF), "standard output")
    else:
        click.echo(text, nl=newline)


def fail(*lines: str) -> NoReturn:
    """Print what went wrong and exit with status 1."""
    for line in lines:
        # It may quote a file or typed text.
        click.echo(visible(line, lines=True), err=True)
    sys.exit(1)
