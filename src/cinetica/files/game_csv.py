"""A game's log as CSV: its layout is guessed, shown, corrected by the user, and then read."""

from __future__ import annotations

import csv
import io
import math
import re
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cinetica.files.reading import Refused, read_bytes
from cinetica.model.conventions import Conventions, Per
from cinetica.model.editing import MOST_LOGGED
from cinetica.model.milestone import Logged

Numbers = NDArray[np.float64]
LARGEST = 64 * 2**20
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "space"}
# So many pixels in a unit at least: with fewer, what a log says would be farther away than any number.
FEWEST_PIXELS = 1e-6
ROLES = ("frame", "time", "x", "y", "vx", "vy")
SAMPLE = 60
LONGEST_LINE, MOST_CELLS = 20_000, 3_000_000
# Pixels to a unit that games have, and by how much a run may be longer or shorter than ours to be taken for one in that
# scale.
USUAL_SCALES = (1, 8, 10, 16, 20, 24, 32, 48, 50, 64, 100, 128, 256)
LIKE = 1.25
# What games call the columns, without case, spaces and signs.
_NAMES = {
    "frame": ("frame", "frames", "tick", "ticks", "step", "n", "i", "index", "framecount"),
    "time": ("time", "t", "seconds", "sec", "s", "timestamp", "elapsed", "times"),
    "x": ("x", "posx", "positionx", "px", "xpos", "xposition", "positionhorizontal"),
    "y": ("y", "posy", "positiony", "py", "ypos", "yposition", "height"),
    "vx": ("vx", "velx", "velocityx", "xvel", "xvelocity", "speedx", "hsp", "dx"),
    "vy": ("vy", "vely", "velocityy", "yvel", "yvelocity", "speedy", "vsp", "dy"),
}


@dataclass(frozen=True)
class Layout:
    """How a log is read.

    `columns` maps each of `ROLES` that is present to its column, from 0. `offset` (in the file's unit) is subtracted
    from positions, which are then divided by `pixels_per_unit`. Velocities are per frame of 1/`rate` s, or per second.
    """

    delimiter: str = ","
    decimal_comma: bool = False
    header: bool = True
    columns: dict[str, int] = field(default_factory=dict)
    pixels_per_unit: float = 1.0
    y_down: bool = False
    per_frame: bool = False
    rate: float = 60.0
    offset: tuple[float, float] = (0.0, 0.0)

    def with_column(self, role: str, place: int | None) -> Layout:
        """The layout with a role at another column, or without it."""
        columns = {other: at for other, at in self.columns.items() if other != role and at != place}
        return replace(self, columns=columns if place is None else columns | {role: place})


def read_text(path: Path) -> str:
    """The text of a log; Refused if it cannot be read."""
    raw = read_bytes(path, LARGEST, "log fewer frames")
    if b"\0" in raw[:4096]:
        raise Refused([f"{path}: not a text; a log is CSV, in UTF-8"])
    return raw.decode("utf-8-sig", errors="replace")


def rows_of(text: str, delimiter: str, most: int | None = None) -> list[list[str]]:
    """The rows as cells, without empty ones and comments, at most `most`; Refused if there are too many."""
    rows: list[list[str]] = []
    lines = (_short_enough(line) for line in io.StringIO(text) if line.strip() and not line.lstrip().startswith("#"))
    count = 0
    try:
        for cells in csv.reader(lines, delimiter=delimiter, skipinitialspace=True):
            count += len(cells)
            rows.append([cell.strip() for cell in (cells if delimiter != " " else [cell for cell in cells if cell])])
            if most is not None and len(rows) == most:
                break
            if len(rows) > MOST_LOGGED + 1 or count > MOST_CELLS:
                raise Refused(
                    [f"more than {MOST_LOGGED} rows, or {MOST_CELLS} cells; log fewer frames, or fewer columns"]
                )
    except csv.Error as error:
        raise Refused([f"row {len(rows) + 1}: {error}"]) from error
    return rows


def _short_enough(line: str) -> str:
    if len(line) > LONGEST_LINE:
        raise Refused([f"a line of more than {LONGEST_LINE} characters; a log has a line for each frame"])
    return line


def _is_number(cell: str, decimal_comma: bool) -> bool:
    try:
        float(cell.replace(",", ".") if decimal_comma else cell)
    except ValueError:
        return False
    return True


def guess(text: str, conventions: Conventions) -> Layout:
    """The likely layout of a log; units and axes are those of the study's conventions.

    Raises Refused if the text is not a table of numbers.
    """
    delimiter, rows = _best_delimiter(text)
    comma = delimiter != "," and any(re.fullmatch(r"-?\d+,\d+", cell) for row in rows for cell in row)
    header = not all(_is_number(cell, comma) for cell in rows[0] if cell)
    names = [re.sub(r"[^a-z]", "", re.sub(r"[(\[].*", "", cell.lower())) for cell in rows[0]] if header else []
    columns = {role: place for role in ROLES for place, name in enumerate(names) if name in _NAMES[role]}
    layout = Layout(
        delimiter,
        comma,
        header,
        columns,
        conventions.pixels_per_unit,
        conventions.y_down,
        conventions.per is Per.FRAME,
        conventions.rate,
    )
    return layout if columns else replace(layout, columns=_by_place(rows[1 if header else 0 :], comma))


def with_likely_units(text: str, layout: Layout, x: Numbers, y: Numbers) -> Layout:
    """The units and direction of y with which the log is about the size of a trace with these positions (in u).

    A log that cannot be read, or that fits at no usual scale, keeps its layout.
    """
    try:
        log = read_columns(text, layout)
    except Refused:
        return layout
    spans = {
        axis: (float(np.ptp(log.columns[axis])), float(np.ptp(ours)))
        for axis, ours in (("x", x), ("y", y))
        if axis in log.columns
    }
    theirs, ours = max(spans.values(), key=lambda span: span[1], default=(0.0, 0.0))
    if ours < 0.1 or theirs <= 0:
        return layout
    scale = min(USUAL_SCALES, key=lambda each: abs(math.log(theirs / ours / each)))
    if abs(math.log(theirs / ours / scale)) > math.log(LIKE):
        return layout
    return replace(
        layout, pixels_per_unit=scale, y_down=_points_down(log, y), per_frame=_counts_frames(log, layout.rate)
    )


def _points_down(log: Log, y: Numbers) -> bool:
    """Whether the log goes down where the trace goes up."""
    if "y" not in log.columns or np.ptp(y) < 0.1:
        return False
    theirs, ours = log.columns["y"] - log.columns["y"][0], y - y[0]
    return bool((theirs.max() > -theirs.min()) != (ours.max() > -ours.min()))


def _counts_frames(log: Log, rate: float) -> bool:
    """Whether velocities are per frame: they are then about the difference of successive rows."""
    for axis in "xy":
        if axis in log.columns and f"v{axis}" in log.columns:
            way, speed = float(np.ptp(log.columns[axis])), float(np.abs(log.columns[f"v{axis}"]).max())
            fastest = float(np.abs(np.diff(log.columns[axis]) / np.diff(log.time)).max())
            if way > 0 and speed > 0:
                return abs(math.log(speed * rate / fastest)) < abs(math.log(speed / fastest))
    return False


def from_start(text: str, layout: Layout, start: tuple[float, float]) -> Layout:
    """The layout with an offset that puts the first row at the drill's start (in u), since games have any origin.

    A log that does not begin at frame or time 0, and one that cannot be read, keeps its layout.
    """
    try:
        log = read_columns(text, layout)
    except Refused:
        return layout
    if abs(log.time[0]) > 0.5 / layout.rate:
        return layout
    signs = {"x": 1.0, "y": -1.0 if layout.y_down else 1.0}
    first = [
        float(log.columns[axis][0]) - signs[axis] * at * layout.pixels_per_unit if axis in log.columns else 0.0
        for axis, at in zip("xy", start, strict=True)
    ]
    return replace(layout, offset=(first[0], first[1]))


def _best_delimiter(text: str) -> tuple[str, list[list[str]]]:
    """The delimiter that splits most rows into the same number of at least two cells."""
    best, sample = (0.0, 0), ("", [[""]])
    for delimiter in DELIMITERS:
        rows = rows_of(text[: 200 * SAMPLE * 10], delimiter, SAMPLE)
        if not rows:
            raise Refused(["empty: there is no row in it"])
        widths = [len(row) for row in rows]
        width = max(set(widths), key=widths.count)
        numbers = sum(_is_number(cell, delimiter != ",") for row in rows[1:] or rows for cell in row)
        score = (numbers / max(1, sum(widths)), width)
        if width >= 2 and widths.count(width) * 2 > len(rows) and score > best:
            best, sample = score, (delimiter, [row for row in rows if len(row) == width])
    if not sample[0] or best[0] < 0.2:
        raise Refused(["not a table of numbers: a log has a row for each frame, and at least a position in columns"])
    return sample


def _by_place(rows: list[list[str]], comma: bool) -> dict[str, int]:
    """The columns of a file without headings.

    A first column that grows evenly is the frame (by 1) or the time; then come x, y, vx, vy.
    """
    first = [_float(row[0], comma) for row in rows]
    steps = np.diff(first)
    width = len(rows[0]) if rows else 0
    roles: list[str] = []
    if len(steps) and np.all(steps > 0) and float(np.ptp(steps)) < 0.5 * float(np.mean(steps)):
        roles.append("frame" if np.allclose(steps, np.round(steps)) else "time")
    roles += ["x", "y", "vx", "vy"]
    return {role: place for place, role in enumerate(roles[:width])}


def _float(cell: str, comma: bool) -> float:
    try:
        return float(cell.replace(",", ".") if comma else cell)
    except ValueError:
        return math.nan


@dataclass(frozen=True)
class Log:
    """The columns as in the file: frames or times, and positions and velocities in the game's units."""

    time: Numbers
    columns: dict[str, Numbers]


def read_columns(text: str, layout: Layout) -> Log:
    """The columns that the layout names; Refused, listing every faulty row, if one is not numeric."""
    if "x" not in layout.columns and "y" not in layout.columns:
        raise Refused(["no column is named as x or y; a log needs a position"])
    rows = rows_of(text, layout.delimiter)[1 if layout.header else 0 :]
    if len(rows) < 2:
        raise Refused(["fewer than two rows of numbers"])
    faults: list[str] = []
    columns = {}
    for role, place in layout.columns.items():
        columns[role] = values = np.array(
            [_float(row[place], layout.decimal_comma) if place < len(row) else math.nan for row in rows]
        )
        for bad in np.flatnonzero(~np.isfinite(values) | (np.abs(values) > 1e12))[:5]:
            cell = rows[bad][place] if place < len(rows[bad]) else ""
            faults.append(f"row {bad + (2 if layout.header else 1)}: {role} is “{cell[:40]}”, which is no number")
    if faults:
        raise Refused(faults[:20])
    time = (
        columns["time"] if "time" in columns else columns.get("frame", np.arange(len(rows), dtype=float)) / layout.rate
    )
    if np.any(np.diff(time) <= 0):
        at = int(np.flatnonzero(np.diff(time) <= 0)[0])
        raise Refused(
            [f"row {at + (3 if layout.header else 2)}: the {'time' if 'time' in columns else 'frame'} does not grow"]
        )
    return Log(time, columns)


def logged(text: str, layout: Layout, name: str, drill: str) -> Logged:
    """The curve in our units, y up. Missing velocities are derived from positions; a missing axis is 0."""
    if not layout.pixels_per_unit >= FEWEST_PIXELS:
        raise Refused([f"the number of pixels in a unit must be more than 0, at least {FEWEST_PIXELS:g}"])
    log = read_columns(text, layout)
    derived = []
    per_second = layout.rate if layout.per_frame else 1.0
    ours: dict[str, Numbers] = {}
    for axis, offset in (("x", layout.offset[0]), ("y", layout.offset[1])):
        sign = -1.0 if axis == "y" and layout.y_down else 1.0
        if axis in log.columns:
            ours[axis] = sign * (log.columns[axis] - offset) / layout.pixels_per_unit
        else:
            ours[axis] = np.zeros(len(log.time))
            derived.append(axis)
        if f"v{axis}" in log.columns:
            ours[f"v{axis}"] = sign * log.columns[f"v{axis}"] * per_second / layout.pixels_per_unit
        else:
            # The velocity that brought the body here: what the row of a trace holds.
            steps = np.diff(ours[axis]) / np.diff(log.time)
            ours[f"v{axis}"] = np.concatenate([[0.0], steps])
            derived.append(f"v{axis}")
    if not max(float(np.abs(values).max()) for values in ours.values()) <= 1e9:
        raise Refused(["positions of more than 10⁹ u: is the number of pixels per unit right?"])
    # Adding 0 turns -0 into 0.
    return Logged(
        name=name, drill=drill, derived=tuple(derived), time=tuple((log.time + 0.0).tolist()),
        x=tuple((ours["x"] + 0.0).tolist()), y=tuple((ours["y"] + 0.0).tolist()),
        vx=tuple((ours["vx"] + 0.0).tolist()), vy=tuple((ours["vy"] + 0.0).tolist()),
    )  # fmt: skip
