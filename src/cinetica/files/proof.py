"""What a programmer needs to build a tune into a game, and to prove that it moves as it should."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from cinetica.codegen.languages import LANGUAGES, code_files, program_of, proof_files, stem_of
from cinetica.files.atomic_write import write_atomically
from cinetica.files.file_names import file_names
from cinetica.files.game_csv import Layout, Log, Numbers, read_columns
from cinetica.files.handover import figures, numbers_text
from cinetica.files.reading import Refused
from cinetica.files.recipe import recipe
from cinetica.files.templates import template
from cinetica.files.trace_csv import trace_text
from cinetica.model.conventions import Conventions, Per
from cinetica.model.game_units import unit_words, words
from cinetica.model.study import Drill, Study
from cinetica.model.take import KEYS
from cinetica.model.tune import Tune
from cinetica.motion.clock import schedule
from cinetica.motion.records import MOUSE_ROW, STATES
from cinetica.motion.simulate import Trace, mark_names, simulate
from cinetica.palette import DAY, NIGHT
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.display_units import column_to_game
from cinetica.reading.log_check import Verdict, check
from cinetica.reading.reading_off import read_off
from cinetica.reading.targets import judge

# The columns that a game is expected to log, and those that are compared.
COMPARED = ("x", "y", "vx", "vy")
# A row of the log within this many ticks of a row of the trace counts as that row.
ROUNDED = 0.1
NUMBERS = (("toml", "numbers.toml"), ("json", "numbers.json"), ("csv", "numbers.csv"))


def _table(header: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows(rows)
    return out.getvalue()


def hands_text(drill: Drill, study: Study) -> str:
    """The input of each tick as CSV: a game that replays these rows gets the same input.

    Shoves are velocities in the game's numbers.
    """
    planned = schedule(drill.take, study.clock)
    hands, dts, *_ = planned
    time = np.cumsum(dts)
    columns = [hands[key].astype(int).tolist() for key in KEYS] + [
        hands[axis].tolist() for axis in ("stick_x", "stick_y", "aim_x", "aim_y")
    ]
    header: tuple[str, ...] = ("tick", "time", "dt", *KEYS, "stick_x", "stick_y", "aim_x", "aim_y")
    if len(planned.mouse):
        counts = np.vstack([np.zeros(2), planned.mouse])[np.asarray(hands["held"]) // MOUSE_ROW]
        columns += [counts[:, 0].tolist(), counts[:, 1].tolist()]
        header += ("mouse_x", "mouse_y")
    if len(planned.shoves):
        shoves = np.zeros((len(dts), 2))
        shoves[planned.shoves[:, 0].astype(int)] = planned.shoves[:, 1:]
        columns += [
            column_to_game(name, shoves[:, place], study.conventions).tolist()
            for place, name in enumerate(("vx", "vy"))
        ]
        header += ("shove_vx", "shove_vy")
    return _table(header, zip(range(len(dts)), time.tolist(), dts.tolist(), *columns, strict=True))


def expected_columns(trace: Trace, conventions: Conventions) -> dict[str, Numbers]:
    """The compared columns of a trace in the game's numbers."""
    return {column: column_to_game(column, trace[column], conventions) for column in COMPARED}


def expected_text(trace: Trace, conventions: Conventions) -> str:
    """The trace in the game's numbers, as CSV: what the game's log should contain; from above with the facing."""
    found = expected_columns(trace, conventions)
    if trace.tune.view == "top":
        found["facing"] = column_to_game("facing", trace["facing"], conventions)
    columns = {column: [f"{value:.12g}" for value in (values + 0.0).tolist()] for column, values in found.items()}
    states = [STATES[code] for code in trace["state"].tolist()]
    marks = ["+".join(mark_names(code)) for code in trace["marks"].tolist()]
    header = ("frame", "time", *columns, "state", "marks")
    return _table(header, zip(range(len(trace)), trace["time"].tolist(), *columns.values(), states, marks, strict=True))


def proof_page(study: Study, tune: Tune, drills: list[Drill]) -> str:
    """A short page for the programmer, as self-contained HTML."""
    conventions = study.conventions
    units = ", ".join(f"{column} in {unit_words(BY_COLUMN[column].unit, conventions)}" for column in COMPARED)
    agreed = [
        verdict
        for drill in drills
        if drill.targets
        for verdict in judge(drill, tune, read_off(simulate(tune, drill, study.clock)))
    ]
    return template("proof.html.j2").render(
        targets=agreed,
        tune=tune, conventions=words(conventions), steps=recipe(tune, drills, study.clock, conventions),
        figures=figures(tune, conventions),
        drills=list(zip(drills, file_names([drill.name for drill in drills]), strict=True)), units=units, day=DAY,
        night=NIGHT, stem=stem_of(tune),
        code=[f"{stem_of(tune)}{language.suffix}" for language in LANGUAGES.values()],
    )  # fmt: skip


def write_proof(study: Study, tune: Tune, folder: Path) -> list[Path]:
    """Write numbers, input, expected traces and the page; returns the files in order.

    Raises OSError if one cannot be written, Refused if there is no drill.
    """
    drills = [drill for drill in study.drills if drill.view == tune.view]
    if not drills:
        raise Refused([f"there is no drill of the view of {tune.name!r} to prove it on"])
    # If the folder cannot be created, fail now rather than after seconds of work.
    folder.mkdir(parents=True, exist_ok=True)
    files: dict[str, str] = {"index.html": proof_page(study, tune, drills)}
    files |= {name: numbers_text(tune, study.conventions, kind) for kind, name in NUMBERS}
    for drill, name in zip(drills, file_names([drill.name for drill in drills]), strict=True):
        trace = simulate(tune, drill, study.clock)
        files |= {
            f"hands/{name}.csv": hands_text(drill, study),
            f"expected/{name}.csv": expected_text(trace, study.conventions),
        }
        files[f"trace/{name}.csv"] = trace_text(trace)
    names = list(zip(drills, file_names([drill.name for drill in drills]), strict=True))
    files |= {f"code/{name}": text for name, text in code_files(study, tune).items()}
    program = program_of(study, tune, whole=True)
    files |= {f"code/whole/{name}": text for name, text in proof_files(program, names, study.clock).items()}
    for name, text in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, text.encode())
    return [folder / name for name in files]


def in_conventions_of(study: Study, layout: Layout) -> Study:
    """The study with the conventions found in a log: pixels, frames per second, direction of y, velocities."""
    conventions = study.conventions.model_copy(update={
        "pixels_per_unit": layout.pixels_per_unit, "y_down": layout.y_down, "rate": layout.rate,
        "per": Per.FRAME if layout.per_frame else Per.SECOND,
    })  # fmt: skip
    return study.model_copy(update={"conventions": conventions})


@dataclass(frozen=True)
class Checked:
    """A verdict and its wording."""

    verdict: Verdict
    lines: tuple[str, ...]

    @property
    def follows(self) -> bool:
        """Whether the log follows the tune."""
        return self.verdict.off is None


def check_log(study: Study, tune: Tune, drill: Drill, text: str, layout: Layout, tolerance: float) -> Checked:
    """Compare a game's log with a tune, in the log's own numbers: pixels, rate and the direction of y are its layout's.

    A frame of the log is a tick of the study's clock, unless the log runs at another rate than the study's game.

    Raises Refused if the log cannot be read or is longer than the drill.
    """
    log = read_columns(text, layout)
    trace = simulate(tune, drill, study.clock)
    after = log.time > -(trace["time"][1] - trace["time"][0]) / 2
    if not after.any():
        raise Refused([f"the log ends before {drill.name!r} starts"])
    rows = _rows(log, layout, trace, ticks="time" not in layout.columns and layout.rate == study.conventions.rate)[
        after
    ]
    inside = rows <= len(trace) - 1
    if not inside.any():
        raise Refused([f"the log begins after {drill.name!r} has ended"])
    rows = rows[inside]
    conventions = in_conventions_of(study, layout).conventions
    own = np.arange(len(trace))
    expected = {column: np.interp(rows, own, values) for column, values in expected_columns(trace, conventions).items()}
    offsets = {"x": layout.offset[0], "y": layout.offset[1]}
    found = {
        column: log.columns[column][after][inside] - offsets.get(column, 0.0)
        for column in COMPARED
        if column in log.columns
    }
    verdict = check(expected, found, tolerance)
    return Checked(verdict, tuple(_said(verdict, rows, trace, tune, conventions, tolerance)))


def _rows(log: Log, layout: Layout, trace: Trace, *, ticks: bool) -> Numbers:
    """The row of the trace for each row of the log, by its frame or its time; a fraction between two rows."""
    own = trace["time"]
    if ticks and "frame" in log.columns:
        rows = log.columns["frame"] - layout.start
    else:
        rows = np.interp(log.time, own, np.arange(len(own)))
        rows = np.where(log.time > own[-1] + ROUNDED * (own[-1] - own[-2]), len(own), rows)
    # Times are logged to about a millisecond: one that is a small part of a tick from a row means that row.
    whole = np.round(rows)
    return np.maximum(np.where(np.abs(rows - whole) < ROUNDED, whole, rows), 0.0)


def _signed(value: float, form: str) -> str:
    """A number with the minus sign that all numbers in words have."""
    return format(value, form).replace("-", "−")


def _said(
    verdict: Verdict, rows: Numbers, trace: Trace, tune: Tune, conventions: Conventions, tolerance: float
) -> Iterable[str]:
    def unit(column: str) -> str:
        return unit_words(BY_COLUMN[column].unit, conventions)

    greatest = ", ".join(f"{column} {gap:.4g} {unit(column)}" for column, gap in verdict.greatest.items())
    if verdict.off is None:
        yield (
            f"The log follows {tune.name} on {trace.drill.name}: {verdict.rows} of {len(trace)} frames compared,"
            f" tolerance {tolerance:g}."
        )
    else:
        off = verdict.off
        frame = round(float(rows[off.row]))
        yield (
            f"The log leaves {tune.name} on {trace.drill.name} at frame {frame} ({trace['time'][frame]:.4f} s):"
            f" {off.channel} is {_signed(off.logged, '.6g')} {unit(off.channel)},"
            f" expected {_signed(off.expected, '.6g')}, off by {_signed(off.by, '+.4g')} (tolerance {tolerance:g})."
        )
    yield f"Greatest gaps: {greatest}."
