"""`open` and `demo`: the commands that need the window."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import click

from cinetica.cli.common import fail, put, read
from cinetica.cli.traces import measures_text
from cinetica.files.shipped import DEMOS, OPENS_AT, shipped_study
from cinetica.model.study import Study


@click.command("open", hidden=True, help="Open the window, on a study if one is named.")
@click.argument("study", required=False, type=click.Path(path_type=Path))
def open_study(study: Path | None) -> None:
    """Open the window."""
    _open_window(read(study) if study else None, study)


@click.command(help="Open the window on a demo study; without a display, run the whole example into files.")
@click.argument("name", type=click.Choice(DEMOS), default=DEMOS[0])
@click.option(
    "-o",
    "--out",
    type=click.Path(path_type=Path),
    default=Path("demo-out"),
    help="Where traces and picture go without a display.",
)
def demo(name: str, out: Path) -> None:
    """Open the window on a demo study or, without a display, run the example."""
    from cinetica.libraries import has_display

    study = shipped_study(name)
    if has_display():
        _open_window(study, None, OPENS_AT.get(name, ""))
    else:
        _demo_without_display(study, out)


def _demo_without_display(study: Study, out: Path) -> None:
    from cinetica.files.file_names import file_names
    from cinetica.files.trace_csv import trace_text
    from cinetica.motion.simulate import simulate

    # An offscreen platform that was requested, with its screens, stays.
    if not os.environ.get("QT_QPA_PLATFORM", "").startswith("offscreen"):
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    out.mkdir(parents=True, exist_ok=True)
    pairs = [(tune, drill) for drill in study.drills for tune in study.tunes_for(drill)]
    put(measures_text(study, pairs))
    for (tune, drill), name in zip(
        pairs, file_names([f"{drill.name} {tune.name}" for tune, drill in pairs]), strict=True
    ):
        put(trace_text(simulate(tune, drill, study.clock)), out / f"{name}.csv")
    _need_libraries(display=False)
    from cinetica.desk.application import picture_of

    picture_of(study, out / "window.png")
    put(f"\nNo display here: {len(pairs)} traces and window.png are in {out.absolute()}")


def _open_window(study: Study | None, path: Path | None, drill: str = "") -> None:
    from cinetica.libraries import has_display

    if not has_display():
        fail(
            "no display to open a window on (DISPLAY and WAYLAND_DISPLAY are not set); `cinetica measure` and `cinetica"
            " trace` work without one"
        )
    _need_libraries(display=True)
    from cinetica.desk.application import run

    sys.exit(run(study, path, drill))


def _need_libraries(*, display: bool) -> None:
    from cinetica.libraries import install_line, missing_packages

    missing = missing_packages(display=display and not os.environ.get("WAYLAND_DISPLAY"))
    if missing:
        fail(install_line(missing))
