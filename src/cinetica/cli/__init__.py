"""The command line. Exit status 0: success; 1: failure, with one plain line per reason; 2: wrong usage."""

from __future__ import annotations

from cinetica.cli.group import main
from cinetica.cli.handing_over import check, code, numbers, proof
from cinetica.cli.link import link, stand_in
from cinetica.cli.matching import match
from cinetica.cli.report import report
from cinetica.cli.sweeping import sweep
from cinetica.cli.targets import targets
from cinetica.cli.traces import measure, trace
from cinetica.cli.window import demo, open_study

__all__ = ["main"]

for command in (
    open_study, demo, trace, measure, proof, check, targets, report, numbers, code, sweep, match, link, stand_in,
):  # fmt: skip
    main.add_command(command)
