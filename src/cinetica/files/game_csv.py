"""A game's log as CSV: its layout is guessed, shown, corrected by the user, and then read."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cinetica.files.reading import Refused, read_bytes
from cinetica.model.conventions import Conventions, Per
from cinetica.model.editing import MOST_LOGGED
from cinetica.model.milestone import Logged
from cinetica.reading.log_fit import BETTER, Fit, fit

Numbers = NDArray[np.float64]
LARGEST = 64 * 2**20
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "space"}
# The fewest pixels per unit: with fewer, positions in a log would overflow.
FEWEST_PIXELS = 1e-6
# Two moments closer than this, in s, are the same.
ALMOST = 1e-7
ROLES = ("frame", "time", "x", "y", "vx", "vy")
SAMPLE = 60
LONGEST_LINE, MOST_CELLS = 20_000, 3_000_000
# Names of columns in games, in lower case without spaces and signs. A unit may follow: `PosXpx`, `velY_per_s`.
_UNIT = r"(?P<unit>(in)?(px|pixels?|points?|units?|u|m|cm|metres?|meters?)?((per|p)?(sec|second|s|frame|f|tick)s?)?)"
_PLACE, _SPEED = r"(pos|position|p|loc|location|coord)", r"(vel|velocity|speed|spd|v)"
_WHO = r"(player|character|char|hero|body|actor)?"
_NAMES = {
    "frame": r"(frame|tick|step)s?(no|nr|num|number|count|index|id)?|n|i|index",
    "time": r"(game|sim|elapsed|time)?(time|t|stamp|elapsed)(in)?"
    r"(?P<unit>s|secs?|seconds?|ms|msecs?|millis|milliseconds?|us)?|(?P<only>s|secs?|seconds?|ms|millis|milliseconds?)",
    "x": rf"{_WHO}({_PLACE}?x|x{_PLACE}?|{_PLACE}horizontal){_UNIT}|px",
    "y": rf"{_WHO}({_PLACE}?y|y{_PLACE}?|{_PLACE}vertical|height){_UNIT}|py",
    "vx": rf"{_WHO}({_SPEED}x|x{_SPEED}|dx|hsp|{_SPEED}horizontal){_UNIT}",
    "vy": rf"{_WHO}({_SPEED}y|y{_SPEED}|dy|vsp|{_SPEED}vertical){_UNIT}",
}
# Seconds in one of a time column's unit.
TIME_UNITS = {"s": 1.0, "ms": 1e-3, "µs": 1e-6}


@dataclass(frozen=True)
class Layout:
    """How a log is read.

    `columns` maps each of `ROLES` that is present to its column, from 0. `offset` (in the file's unit) is subtracted
    from positions, which are then divided by `pixels_per_unit`. Velocities are per frame of 1/`rate` s, or per second.
    A time column counts in `time_unit`, one of `TIME_UNITS`. The drill starts at `start`, in frames or in that unit.
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
    time_unit: str = "s"
    start: float = 0.0

    @property
    def second(self) -> float:
        """The length in s of the file's unit of time: a frame, or the unit of its time column."""
        return TIME_UNITS[self.time_unit] if "time" in self.columns else 1.0 / self.rate

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
    # With any line ends, those of old files, too.
    source = io.StringIO(text, newline=None)
    lines = (_short_enough(line) for line in source if line.strip() and not line.lstrip().startswith("#"))
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
    names = [_letters(cell) for cell in rows[0]] if header else []
    numbers = rows[1 if header else 0 :]
    columns = _by_name(names) or _by_place(numbers, comma)
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
    if "time" in columns:
        layout = _timed(layout, names, [_float(row[columns["time"]], comma) for row in numbers])
    if names and (role := next((role for role in ("vx", "vy") if role in columns), None)):
        found = _is(role, names[columns[role]])
        if found and found["unit"]:
            layout = replace(layout, per_frame=bool(re.search(r"(f|frame|tick)s?$", found["unit"])))
    return replace(layout, start=_first_moment(layout, numbers))


def _letters(name: str) -> tuple[str, str]:
    """A column's name in lower case, with and without its part in brackets."""
    name = name.lower().replace("µ", "u")
    whole, bare = (re.sub(r"[^a-z]", "", each) for each in (name, re.sub(r"[(\[].*", "", name)))
    return whole, bare


def _is(role: str, name: tuple[str, str]) -> re.Match[str] | None:
    """The match of a column's name with what games call this role; None if there is none."""
    return re.fullmatch(_NAMES[role], name[0]) or re.fullmatch(_NAMES[role], name[1])


def _by_name(names: list[tuple[str, str]]) -> dict[str, int]:
    """The columns that are named as games name them; of two of one kind, the first."""
    columns: dict[str, int] = {}
    for role in _NAMES:
        for place, name in enumerate(names):
            if _is(role, name) and place not in columns.values() and role not in columns:
                columns[role] = place
    return columns


def _timed(layout: Layout, names: list[tuple[str, str]], times: list[float]) -> Layout:
    """The unit of a time column, by its name or its steps; one that counts by ones is the frame."""
    column = layout.columns["time"]
    found = _is("time", names[column]) if names else None
    unit = (found["unit"] or found["only"] or "") if found else ""
    step = float(np.median(np.diff(times))) if len(times) > 1 else 0.0
    if unit.startswith("us") or (not unit and step >= 1000):
        return replace(layout, time_unit="µs")
    if unit.startswith("m") or (not unit and step > 1):
        return replace(layout, time_unit="ms")
    if not unit and "frame" not in layout.columns and len(times) > 1 and set(np.diff(times).tolist()) == {1.0}:
        columns = {"frame" if role == "time" else role: place for role, place in layout.columns.items()}
        return replace(layout, columns=columns)
    return layout


def _first_moment(layout: Layout, numbers: list[list[str]]) -> float:
    """The first row's frame or time, at which the drill is taken to start; 0 for one that is a frame from 0 or less."""
    clock = layout.columns.get("time", layout.columns.get("frame"))
    if clock is None or not numbers:
        return 0.0
    first = _float(numbers[0][clock], layout.decimal_comma)
    return first if math.isfinite(first) and abs(first) * layout.second > 1.5 / layout.rate else 0.0


def fitted(text: str, layout: Layout, time: Numbers, x: Numbers, y: Numbers, rates: Iterable[float] = ()) -> Found:
    """Fit a log to a trace (`time` in s, `x` and `y` in u): its start, scale, offset, and the direction of y.

    For a log that counts in frames alone, `rates` are tried as well as the layout's. A log that cannot be read, or that
    resembles nothing in the trace, keeps its layout.
    """
    tried: list[tuple[float, Layout, Fit]] = []
    for rate in (layout.rate, *(() if "time" in layout.columns else rates)):
        at_rate = replace(layout, rate=rate, start=0.0)
        try:
            log = read_columns(text, at_rate)
        except Refused:
            return Found(layout, None)
        if found := fit(log.time, log.columns, time, {"x": x, "y": y}):
            tried.append((found.unexplained, at_rate, found))
    if not tried:
        return Found(layout, None)
    # A rate other than the known one must explain the log much better.
    best = tried[0]
    for each in tried[1:]:
        if each[0] < BETTER * best[0] - 1e-9:
            best = each
    _, at_rate, found = best
    made = replace(
        at_rate, pixels_per_unit=found.scale, start=float(f"{found.start / at_rate.second:.9g}"),
        y_down=layout.y_down if found.y_down is None else found.y_down, offset=found.offset,
    )  # fmt: skip
    return Found(replace(made, per_frame=_counts_frames(read_columns(text, made), made)), found)


def _counts_frames(log: Log, layout: Layout) -> bool:
    """Whether velocities are per frame: they are then about the difference of successive rows."""
    for axis in "xy":
        if axis in log.columns and f"v{axis}" in log.columns:
            way, speed = float(np.ptp(log.columns[axis])), float(np.abs(log.columns[f"v{axis}"]).max())
            fastest = float(np.abs(np.diff(log.columns[axis]) / np.diff(log.time)).max())
            if way > 0 and speed > 0:
                return abs(math.log(speed * layout.rate / fastest)) < abs(math.log(speed / fastest))
    return layout.per_frame


def from_start(text: str, layout: Layout, start: tuple[float, float]) -> Layout:
    """The layout with an offset that puts the drill's first row at its start (in u), since games have any origin.

    A log that cannot be read keeps its layout.
    """
    try:
        log = read_columns(text, layout)
    except Refused:
        return layout
    row = int(np.argmin(np.abs(log.time)))
    signs = {"x": 1.0, "y": -1.0 if layout.y_down else 1.0}
    first = [
        float(log.columns[axis][row]) - signs[axis] * at * layout.pixels_per_unit if axis in log.columns else 0.0
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
    if best[0] < 0.2:
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
    if len(steps) and float(np.ptp(steps)) < 0.5 * float(np.mean(steps)):
        roles.append("frame" if np.allclose(steps, np.round(steps)) else "time")
    roles += ["x", "y", "vx", "vy"]
    return {role: place for place, role in enumerate(roles[:width])}


def _float(cell: str, comma: bool) -> float:
    try:
        return float(cell.replace(",", ".") if comma else cell)
    except ValueError:
        return math.nan


@dataclass(frozen=True)
class Found:
    """A layout, and the fit that proposes it, if there is one."""

    layout: Layout
    fit: Fit | None


@dataclass(frozen=True)
class Log:
    """The columns as in the file, in the game's units; `time` is in s from the drill's start."""

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
            faults.append(f"row {bad + (2 if layout.header else 1)}: {role} is “{cell[:40]}”, which is not a number")
    if faults:
        raise Refused(faults[:20])
    clock = columns["time"] if "time" in columns else columns.get("frame", np.arange(len(rows), dtype=float))
    time = (clock - layout.start) * layout.second
    if np.any(np.diff(time) <= 0):
        at = int(np.flatnonzero(np.diff(time) <= 0)[0])
        raise Refused(
            [f"row {at + (3 if layout.header else 2)}: the {'time' if 'time' in columns else 'frame'} does not grow"]
        )
    return Log(time, columns)


def logged(text: str, layout: Layout, name: str, drill: str) -> Logged:
    """The curve in our units, y up, from the drill's start. Missing velocities are derived; a missing axis is 0.

    Rows before the start are cut off there. A log that begins later rests in its first row until then.
    """
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
    time, ours = _from_the_start(log.time, ours)
    # Adding 0 turns -0 into 0.
    return Logged(
        name=name, drill=drill, derived=tuple(derived), time=tuple((time + 0.0).tolist()),
        x=tuple((ours["x"] + 0.0).tolist()), y=tuple((ours["y"] + 0.0).tolist()),
        vx=tuple((ours["vx"] + 0.0).tolist()), vy=tuple((ours["vy"] + 0.0).tolist()),
    )  # fmt: skip


def _from_the_start(time: Numbers, columns: dict[str, Numbers]) -> tuple[Numbers, dict[str, Numbers]]:
    """Rows from time 0 on, with one at 0. Raises Refused if fewer than two are left."""
    if time[-1] <= 0:
        raise Refused(["the log ends before the drill starts: is the start right?"])
    kept = np.concatenate([[0.0], time[time > ALMOST]])
    return kept, {name: np.interp(kept, time, values) for name, values in columns.items()}
