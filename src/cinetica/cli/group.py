"""The command `cinetica` itself: what all commands share, and how errors are reported."""

from __future__ import annotations

import os
import sys
from typing import Any

import click
from typing_extensions import override

from cinetica import __version__
from cinetica.cli.common import fail
from cinetica.files.reading import Refused


class _OpenByDefault(click.Group):
    """`cinetica STUDY` means `cinetica open STUDY`. Errors are reported in plain lines."""

    @override
    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if not args or (args[0] not in self.commands and args[0] not in ("--help", "--version")):
            args = ["open", *args]
        return super().parse_args(ctx, args)

    @override
    def main(self, *args: Any, **options: Any) -> Any:
        try:
            return super().main(*args, **options)
        except Refused as refused:
            fail(*refused.faults)
        except OSError as error:
            _drop_output()
            fail(": ".join(str(part) for part in (error.filename or "standard output", error.strerror or error)))


def _drop_output() -> None:
    """Discard what is still buffered for standard output.

    Otherwise the interpreter would try to write it again on exit, and complain.
    """
    try:
        if sys.stdout is not None:
            sys.stdout.flush()
    except OSError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


# The help of each command is an argument, not a docstring: `python -OO` removes docstrings.
@click.group(
    cls=_OpenByDefault,
    help=(
        "Tune how a game character moves and compare the curves frame by frame.\n\n`cinetica [STUDY]` opens the window."
    ),
)
@click.version_option(__version__, prog_name="cinetica")
def main() -> None:
    """The options that come before every command."""
