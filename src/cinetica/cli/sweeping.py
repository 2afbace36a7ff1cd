"""`sweep`: the figures of every combination of some numbers, on all cores or on a cluster."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from cinetica.cli.common import DRILL, OUT_OR_PRINT, STUDY, TUNE, UNITS, drill_of, fail, put, read, tune_of

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from cinetica.cli.cluster import Cluster
    from cinetica.files.sweep_table import Table
    from cinetica.reading.plan import Plan

# A sweep that would take longer than this, in s, must be confirmed.
LONG = 600.0
# Chunks in progress for each core: one runs, one waits.
AHEAD = 2
TIMEOUT = 5.0


@click.command(help="Run every combination of some numbers, and write a row with the figures of each.")
@STUDY
@TUNE
@DRILL
@click.option(
    "--vary",
    multiple=True,
    metavar="ID=…",
    help="A number and its values: FROM:TO:COUNT, FROM:TO:COUNT:log, or VALUE,VALUE,…; may be repeated.",
)
@click.option("--measure", "measures", multiple=True, metavar="ID", help="Only this figure; may be repeated.")
@UNITS
@OUT_OR_PRINT
@click.option("--resume", is_flag=True, help="Go on where the same sweep into the same file was interrupted.")
@click.option("--scheduler", metavar="ADDRESS", help="Send the chunks to a Dask cluster, such as tcp://HOST:8786.")
@click.option("--yes", is_flag=True, help="Do not ask, however long it takes.")
def sweep(
    study: Path, tune: str, drill: str, vary: tuple[str, ...], measures: tuple[str, ...], units: str,
    out: Path | None, resume: bool, scheduler: str | None, yes: bool,
) -> None:  # fmt: skip
    """Run a sweep, or resume one."""
    from cinetica.cli.cluster import connected
    from cinetica.files.sweep_table import table_for
    from cinetica.reading.display_units import display_units
    from cinetica.reading.plan import plan

    content = read(study, units)
    try:
        planned = plan(
            tune_of(content, tune), drill_of(content, drill), content.clock, vary, measures, display_units(content)
        )
        takes = _seconds_for(planned)
    except ValueError as error:
        fail(str(error))
    if resume and out is None:
        fail("To go on, say into which file: -o FILE.")
    if takes > LONG and not yes:
        _ask(planned.count, takes)
    begun = time.perf_counter()
    # If the scheduler is missing, nothing has been written yet.
    with connected(scheduler) if scheduler else nullcontext() as cluster:
        table: Table = table_for(planned, out, resume=resume) if out else _Printed(planned)
        _fill(planned, table, out, cluster)
    if out is not None:
        click.echo(f"{planned.count:,} rows in {out}, {time.perf_counter() - begun:.1f} s.", err=True)


def _fill(planned: Plan, table: Table, out: Path | None, cluster: Cluster | None) -> None:
    """Run the whole plan; an interrupted sweep keeps what it has."""
    try:
        _run(planned, table, cluster)
    except KeyboardInterrupt:
        table.keep()
        more = f" They are in {out}; go on with --resume." if out else ""
        fail(f"Interrupted after {table.done:,} of {planned.count:,} rows.{more}")
    except BaseException:
        table.keep()
        raise
    table.finish()


class _Printed:
    """A table on standard output."""

    def __init__(self, planned: Plan) -> None:
        self._plan, self.done = planned, 0
        put(",".join(planned.head))

    def add(self, end: int, figures: NDArray[np.float64]) -> None:
        from cinetica.files.sweep_table import lines

        put(lines(self._plan, self.done, end, figures), newline=False)
        self.done = end

    def finish(self) -> None:
        """Do nothing: there is nothing to complete."""

    def keep(self) -> None:
        """Do nothing: there is nothing to keep."""


def _seconds_for(planned: Plan) -> float:
    """The time that the plan would take on this machine, estimated from a few of its runs."""
    from cinetica.reading.plan import CHUNK
    from cinetica.reading.run_reader import cores

    few = min(64, planned.count)
    # The first run loads the machine code.
    planned.run(0, 1)
    begun = time.perf_counter()
    planned.run(0, few)
    return (time.perf_counter() - begun) / few * planned.count / (cores() if planned.count > CHUNK else 1)


def _ask(count: int, seconds: float) -> None:
    words = f"{count:,} combinations would take about {_time(seconds)} here."
    if not sys.stdin.isatty():
        fail(f"{words} Say --yes to run them all the same.")
    if not click.confirm(f"{words} Run them?", err=True):
        fail("Called off; nothing was written.")


def _time(seconds: float) -> str:
    for long, noun in ((365.25 * 86400, "years"), (86400, "days"), (3600, "hours"), (60, "minutes")):
        if seconds >= 2 * long:
            return f"{seconds / long:,.0f} {noun}"
    return f"{seconds:.0f} s"


def _run(planned: Plan, table: Table, cluster: Cluster | None) -> None:
    """Run all chunks that are missing and write them in order."""
    from cinetica.reading.plan import CHUNK

    starts = range(table.done, planned.count, CHUNK)
    parts = ((start, min(start + CHUNK, planned.count)) for start in starts)
    found = _on_a_cluster(planned, parts, cluster) if cluster else _on_all_cores(planned, parts)
    seen = sys.stderr is not None and sys.stderr.isatty()
    bar: Any = click.progressbar(length=planned.count, file=sys.stderr, label="Runs", show_eta=True)
    with bar if seen else nullcontext() as shown:
        if shown is not None:
            shown.update(table.done)
        for (start, end), figures in found:
            table.add(end, figures)
            if shown is not None:
                shown.update(end - start)


Part = tuple[int, int]


def _on_all_cores(planned: Plan, parts: Iterator[Part]) -> Iterator[tuple[Part, NDArray[np.float64]]]:
    """Run chunks in threads, which share the cores since the machine code releases the GIL."""
    from cinetica.reading.run_reader import cores

    with ThreadPoolExecutor(cores()) as pool:
        waiting = [(part, pool.submit(planned.run, *part)) for part in islice(parts, AHEAD * cores())]
        try:
            while waiting:
                part, first = waiting.pop(0)
                figures = first.result()
                if (more := next(parts, None)) is not None:
                    waiting.append((more, pool.submit(planned.run, *more)))
                yield part, figures
        finally:
            for _, each in waiting:
                each.cancel()


def _on_a_cluster(planned: Plan, parts: Iterator[Part], cluster: Cluster) -> Iterator[tuple[Part, NDArray[np.float64]]]:
    """Run chunks on the workers of a Dask scheduler.

    If a worker is lost, only its chunks are run again, elsewhere.
    """
    waiting = [(part, cluster.submit(planned, part)) for part in islice(parts, AHEAD * cluster.cores)]
    while waiting:
        part, first = waiting.pop(0)
        figures = cluster.result(first)
        if (more := next(parts, None)) is not None:
            waiting.append((more, cluster.submit(planned, more)))
        yield part, figures
