"""`link` and `stand-in`: talk to a running game, or start a small game to try it with."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from cinetica.cli.common import fail, put, read, tune_of
from cinetica.link.messages import PORT
from cinetica.model.conventions import Per, Times

HOST = "127.0.0.1"
PORT_OPTION = click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=PORT,
    show_default=True,
    help="UDP port on which the game says hello.",
)
HOST_OPTION = click.option(
    "--host", default=HOST, show_default=True, help="Address to listen on; the default is this machine alone."
)
WAIT = click.option(
    "--wait", type=click.FloatRange(0, 3600), default=10.0, show_default=True, help="Seconds to wait for the game."
)


@click.group(help="Talk to a running game: send it a tune, or record what it does.")
def link() -> None:
    """Talk to a running game."""


@link.command(help="Send a tune to the game; it fails if the game does not confirm every number.")
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--tune", required=True, help="Name of the tune.")
@PORT_OPTION
@HOST_OPTION
@WAIT
def send(study: Path, tune: str, port: int, host: str, wait: float) -> None:
    """Send a tune."""
    from cinetica.link.connection import listen

    content = read(study)
    tune_of(content, tune)
    try:
        with listen(content, port, host) as connection:
            game = connection.wait(wait)
            unknown = connection.send(tune)
            put(f"{game} has {len(connection.link.numbers.values) - len(unknown)} numbers of {tune}.")
            if unknown:
                put(f"It does not know {', '.join(unknown)}.")
    except (TimeoutError, OSError) as error:
        fail(_words(error, port))


@link.command(help="Record the game as CSV, or with --drill let it play a take and record that.")
@click.argument("study", type=click.Path(path_type=Path))
@click.option("-o", "--out", type=click.Path(path_type=Path), help="File to write; standard output if none is named.")
@click.option("--seconds", type=click.FloatRange(0.1, 3600), default=10.0, show_default=True, help="How long.")
@click.option("--drill", help="Let the game play the take of this drill, from its start.")
@click.option("--tune", help="Send this tune first.")
@PORT_OPTION
@HOST_OPTION
@WAIT
def record(
    study: Path,
    out: Path | None,
    seconds: float,
    drill: str | None,
    tune: str | None,
    port: int,
    host: str,
    wait: float,
) -> None:
    """Record the game."""
    from cinetica.cli.common import drill_of
    from cinetica.link.connection import listen
    from cinetica.link.conventions import csv_of

    content = read(study)
    if tune is not None:
        tune_of(content, tune)
    if drill is not None:
        drill_of(content, drill)
    try:
        with listen(content, port, host) as connection:
            connection.wait(wait)
            if tune is not None:
                connection.send(tune)
            if drill is not None:
                connection.play(drill)
                frames = connection.link.frames.run()
            else:
                frames = connection.record(seconds)
            if not frames:
                fail("the game has sent no frame")
            lost = len(connection.link.frames.gaps(frames[0].number, frames[-1].number))
            put(csv_of(frames), out, newline=False)
            click.echo(f"{len(frames)} frames, {lost} lost", err=True)
    except (TimeoutError, OSError) as error:
        fail(_words(error, port))


@click.command("stand-in", help="Run a small game that can be linked: copy its side of the link into your own.")
@click.option("--headless", is_flag=True, help="Without a window.")
@PORT_OPTION
@click.option("--host", default=HOST, show_default=True, help="Where the desk is.")
@click.option("--tick-rate", type=click.FloatRange(10, 1000), default=60.0, show_default=True, help="Ticks a second.")
@click.option(
    "--pixels-per-unit", type=click.FloatRange(1e-6, 1e6), default=1.0, show_default=True, help="Lengths are in pixels."
)
@click.option("--y-down", is_flag=True, help="y points down.")
@click.option(
    "--per",
    type=click.Choice([each.value for each in Per]),
    default="second",
    show_default=True,
    help="Speeds count per this.",
)
@click.option(
    "--times",
    type=click.Choice([each.value for each in Times][1:]),
    default="second",
    show_default=True,
    help="Times count in this.",
)
@click.option("--frame-rate", type=click.FloatRange(1, 10000), default=60.0, show_default=True, help="Frames a second.")
@click.option("--seconds", type=click.FloatRange(0.1, 86400), help="End after so long; only without a window.")
def stand_in(
    headless: bool, port: int, host: str, tick_rate: float, pixels_per_unit: float, y_down: bool, per: str,
    times: str, frame_rate: float, seconds: float | None,
) -> None:  # fmt: skip
    """Run the stand-in game."""
    from cinetica.stand_in.game import StandIn, run_headless
    from cinetica.stand_in.units import Units

    lasts = {"second": 1.0, "millisecond": 0.001, "frame": 1.0 / frame_rate}
    try:
        game = StandIn(host, port, tick_rate, Units(pixels_per_unit, y_down, lasts[per], lasts[times]))
    except OSError as error:
        fail(str(error))
    if headless:
        run_headless(game, seconds)
        return
    from cinetica.libraries import has_display

    if not has_display():
        fail("no display to open a window on; `--headless` needs none")
    from cinetica.desk.stand_in_window import run

    sys.exit(run(game))


def _words(error: OSError, port: int) -> str:
    if isinstance(error, TimeoutError):
        return str(error)
    return f"port {port}: {error.strerror or error}"
