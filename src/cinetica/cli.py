"""The command line: window, trace, measure, demo. Exit status 0 done, 1 could not be done, 2 wrong usage."""

from __future__ import annotations

import gc
import json
import os
import sys
from pathlib import Path
from typing import NoReturn

import click
from pydantic import ValidationError

from cinetica import __version__
from cinetica.files.reading import Refused
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import read_study
from cinetica.model.clock import CLOCK_PARAMETERS, Clock
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune

DEMOS = ("harbour", "pitfalls")


class _OpenByDefault(click.Group):
    """`cinetica STUDY` is `cinetica open STUDY`."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if not args or (args[0] not in self.commands and args[0] not in ("--help", "--version")):
            args = ["open", *args]
        return super().parse_args(ctx, args)


@click.group(cls=_OpenByDefault)
@click.version_option(__version__, prog_name="cinetica")
@click.pass_context
def main(context: click.Context) -> None:
    """Tune how a game character moves and compare the curves frame by frame.

    `cinetica [STUDY]` opens the window.
    """
    if context.invoked_subcommand not in ("open", "demo"):
        # The window does it itself, once all is loaded.
        gc.enable()


@main.command("open", hidden=True)
@click.argument("study", required=False, type=click.Path(path_type=Path))
def open_study(study: Path | None) -> None:
    """Open the window, on a study if one is named."""
    _open_window(_read(study) if study else None, study)


@main.command()
@click.argument("name", type=click.Choice(DEMOS), default=DEMOS[0])
@click.option("-o", "--out", type=click.Path(path_type=Path), default=Path("demo-out"), help="Where traces and picture go without a display.")
def demo(name: str, out: Path) -> None:
    """Open the window on a demo study; without a display, run the whole example into files."""
    from cinetica.libraries import has_display

    study = demo_study(name)
    if has_display():
        _open_window(study, None)
    else:
        _demo_without_display(study, out)


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--tune", required=True, help="Name of the tune.")
@click.option("--drill", required=True, help="Name of the drill.")
@click.option("--set", "settings", multiple=True, metavar="ID=VALUE", help="Another value, such as clock.tick_rate=120 or drive.top_speed=8.")
@click.option("-o", "--out", type=click.Path(path_type=Path), help="File to write; standard output if none is named.")
def trace(study: Path, tune: str, drill: str, settings: tuple[str, ...], out: Path | None) -> None:
    """Write the trace of a tune on a drill as CSV."""
    from cinetica.files.trace_csv import trace_text
    from cinetica.files.writing import write_atomically
    from cinetica.motion.simulate import simulate

    content = _read(study)
    chosen = _tune(content, tune), _drill(content, drill)
    try:
        changed, clock = _with_settings(chosen[0], content.clock, settings)
        text = trace_text(simulate(changed, chosen[1], clock))
        if out is None:
            click.echo(text, nl=False)
        else:
            write_atomically(out, text.encode())
    except (ValueError, Refused) as error:
        _fail(str(error))
    except OSError as error:
        _fail(f"{out}: {error.strerror or error}")


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--tune", "tunes", multiple=True, help="Only this tune; may be repeated.")
@click.option("--drill", "drills", multiple=True, help="Only this drill; may be repeated.")
@click.option("--json", "as_json", is_flag=True, help="As JSON.")
def measure(study: Path, tunes: tuple[str, ...], drills: tuple[str, ...], as_json: bool) -> None:
    """Print the measures of every tune on every drill of its view."""
    content = _read(study)
    wanted_tunes = [_tune(content, name) for name in tunes] or list(content.tunes)
    wanted_drills = [_drill(content, name) for name in drills] or list(content.drills)
    pairs = [(tune, drill) for drill in wanted_drills for tune in wanted_tunes if tune.view == drill.view]
    if not pairs:
        _fail(f"{study}: no tune and drill of the same view to run together")
    try:
        click.echo(_measures_json(content, pairs) if as_json else _measures_text(content, pairs))
    except ValueError as error:
        _fail(str(error))


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--tune", required=True, help="Name of the tune.")
@click.option("-o", "--out", required=True, type=click.Path(path_type=Path), help="Folder to write into; it is made if it is not there.")
def proof(study: Path, tune: str, out: Path) -> None:
    """Write what a programmer needs: numbers, hands, expected traces, and a page with the order of a tick and the equations."""
    from cinetica.files.proof import write_proof

    content = _read(study)
    try:
        written = write_proof(content, _tune(content, tune), out)
    except (ValueError, Refused) as error:
        _fail(str(error))
    except OSError as error:
        _fail(f"{error.filename or out}: {error.strerror or error}")
    click.echo(f"{len(written)} files in {out}; begin with {written[0]}")


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.argument("log", metavar="GAME.csv", type=click.Path(path_type=Path))
@click.option("--tune", required=True, help="Name of the tune.")
@click.option("--drill", required=True, help="Name of the drill.")
@click.option("--tolerance", type=click.FloatRange(min=0), default=0.5, show_default=True, help="Greatest gap allowed, in the log's own units.")
def check(study: Path, log: Path, tune: str, drill: str, tolerance: float) -> None:
    """Say whether a trace that the game has logged follows a tune; exit status 0 if it does, 1 if not."""
    from cinetica.files.game_csv import from_start, guess, read_text
    from cinetica.files.proof import check_log

    content = _read(study)
    chosen = _tune(content, tune), _drill(content, drill)
    try:
        text = read_text(log)
        layout = from_start(text, guess(text, content.conventions), chosen[1].start)
        checked = check_log(content, *chosen, text, layout, tolerance)
    except Refused as refused:
        _fail(*(fault if fault.startswith(str(log)) else f"{log}: {fault}" for fault in refused.faults))
    except ValueError as error:
        _fail(str(error))
    for line in checked.lines:
        click.echo(line)
    sys.exit(0 if checked.follows else 1)


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--drill", "drills", multiple=True, help="Only this drill; may be repeated.")
@click.option("-o", "--out", required=True, type=click.Path(path_type=Path), help="File to write: HTML, or PDF by the suffix .pdf.")
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Size of a PDF's pages.")
def report(study: Path, drills: tuple[str, ...], out: Path, paper: str) -> None:
    """Write the sheet to show: tunes side by side, curves, measures and notes, in one file."""
    content = _read(study)
    chosen = [_drill(content, name) for name in drills] or list(content.drills)
    from cinetica.files.report import write_report

    try:
        write_report(content, chosen, out, paper=paper)
    except Refused as refused:
        _fail(*refused.faults)
    except OSError as error:
        _fail(f"{out}: {error.strerror or error}")


@main.command()
@click.argument("study", type=click.Path(path_type=Path))
@click.option("--tune", required=True, help="Name of the tune.")
@click.option("--format", "kind", type=click.Choice(("toml", "json", "csv", "c", "csharp", "lua", "python", "table")), default="toml", show_default=True)
@click.option("-o", "--out", type=click.Path(path_type=Path), help="File to write; standard output if none is named.")
def numbers(study: Path, tune: str, kind: str, out: Path | None) -> None:
    """Write a tune's numbers in the conventions of the study's game."""
    from cinetica.files.handover import numbers_text
    from cinetica.files.writing import write_atomically

    content = _read(study)
    text = numbers_text(_tune(content, tune), content.conventions, kind)
    if out is None:
        click.echo(text, nl=False)
        return
    try:
        write_atomically(out, text.encode())
    except OSError as error:
        _fail(f"{out}: {error.strerror or error}")


def demo_study(name: str) -> Study:
    """A study that is shipped with the program."""
    return shipped_study(name)


def _measures_json(study: Study, pairs: list[tuple[Tune, Drill]]) -> str:
    from cinetica.motion.simulate import simulate
    from cinetica.reading.measures import MEASURES, read_off

    units = {measure.id: measure.unit for measure in MEASURES}
    listed = []
    for tune, drill in pairs:
        readings = read_off(simulate(tune, drill, study.clock))
        measures = {
            id: {"value": reading.value, "unit": units[id]} | ({"ticks": reading.ticks} if reading.ticks is not None else {})
            for id, reading in readings.items()
        }
        listed.append({"tune": tune.name, "drill": drill.name, "measures": measures})
    return json.dumps({"study": study.name, "readings": listed}, ensure_ascii=False, indent=1)


def _measures_text(study: Study, pairs: list[tuple[Tune, Drill]]) -> str:
    from cinetica.motion.simulate import simulate
    from cinetica.reading.measures import MEASURES, read_off

    lines = []
    for tune, drill in pairs:
        lines.append(f"{tune.name} on {drill.name}")
        readings = read_off(simulate(tune, drill, study.clock))
        for measure in MEASURES:
            if (reading := readings.get(measure.id)) is not None:
                ticks = f"  ({reading.ticks} ticks)" if reading.ticks is not None and measure.unit == "s" else ""
                lines.append(f"  {measure.label:<24} {reading.value:10.4f} {measure.unit}{ticks}")
        lines.append("")
    return "\n".join(lines).rstrip()


def _with_settings(tune: Tune, clock: Clock, settings: tuple[str, ...]) -> tuple[Tune, Clock]:
    """Tune and clock with `ID=VALUE` settings; Refused in words if one is not allowed."""
    declared = {parameter.id: parameter.allowed for parameter in (*PARAMETERS, *CLOCK_PARAMETERS)}
    known = declared | {"clock.hitches": "a list of [at, seconds], such as [[0.5, 0.2]]"}
    for setting in settings:
        id, equals, text = setting.partition("=")
        if not equals or id not in known:
            raise Refused([f"--set {setting}: not of the form ID=VALUE with a known id, such as clock.tick_rate=120"])
        try:
            value = json.loads(text)
        except ValueError:
            value = text
        try:
            if id.startswith("clock."):
                clock = Clock.model_validate_json(json.dumps(clock.model_dump(mode="json") | {id.removeprefix("clock."): value}))
            else:
                tune = tune.put(id, value)
        except ValidationError as error:
            raise Refused([f"--set {setting}: {id} must be {known[id]}"]) from error
    return tune, clock


def _demo_without_display(study: Study, out: Path) -> None:
    from cinetica.files.trace_csv import trace_text
    from cinetica.motion.simulate import simulate

    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    pairs = [(tune, drill) for drill in study.drills for tune in study.tunes_for(drill)]
    click.echo(_measures_text(study, pairs))
    out.mkdir(parents=True, exist_ok=True)
    for tune, drill in pairs:
        text = trace_text(simulate(tune, drill, study.clock))
        (out / f"{_file_name(drill.name)}-{_file_name(tune.name)}.csv").write_text(text, newline="")
    _need_libraries(display=False)
    from cinetica.desk.application import picture_of

    picture_of(study, out / "window.png")
    click.echo(f"\nNo display here: {len(pairs)} traces and window.png are in {out.resolve()}")


def _file_name(name: str) -> str:
    return "".join(letter if letter.isalnum() else "-" for letter in name.lower())


def _open_window(study: Study | None, path: Path | None) -> None:
    from cinetica.libraries import has_display

    if not has_display():
        _fail("no display to open a window on (DISPLAY and WAYLAND_DISPLAY are not set); `cinetica measure` and `cinetica trace` work without one")
    _need_libraries(display=True)
    from cinetica.desk.application import run

    sys.exit(run(study, path))


def _need_libraries(*, display: bool) -> None:
    from cinetica.libraries import install_line, missing_packages

    missing = missing_packages(display=display and not os.environ.get("WAYLAND_DISPLAY"))
    if missing:
        _fail(install_line(missing))


def _read(path: Path) -> Study:
    try:
        return read_study(path)
    except Refused as refused:
        _fail(*refused.faults)


def _tune(study: Study, name: str) -> Tune:
    try:
        return study.tune(name)
    except KeyError as error:
        _fail(error.args[0])


def _drill(study: Study, name: str) -> Drill:
    try:
        return study.drill(name)
    except KeyError as error:
        _fail(error.args[0])


def _fail(*lines: str) -> NoReturn:
    for line in lines:
        click.echo(line, err=True)
    sys.exit(1)
