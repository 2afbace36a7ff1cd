"""Convert numbers, starts and runs between a study and the game's conventions, both ways."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

import numpy as np

from cinetica.files.assignments import Assigned
from cinetica.files.game_numbers import converted, known_names, with_numbers
from cinetica.files.handover import figures
from cinetica.files.reading import Refused
from cinetica.link.desk_link import Changed
from cinetica.link.frames import Frame
from cinetica.link.messages import Value
from cinetica.link.take_rows import keys_of
from cinetica.model.conventions import Conventions
from cinetica.model.milestone import Logged
from cinetica.model.parameters import Parameter
from cinetica.model.study import Drill, Study
from cinetica.model.tune import Tune
from cinetica.reading.display_units import game_units

COLUMNS = ("frame", "time", "x", "y", "vx", "vy", "grounded", "keys")


def values_of(tune: Tune, conventions: Conventions) -> dict[str, Value]:
    """The numbers of a tune that matter, by the game's names. A drawn curve is the text of its points."""
    return {figure.name: figure.value for figure in figures(tune, conventions) if not isinstance(figure.value, tuple)}


def start_of(study: Study, drill: Drill) -> tuple[float, ...]:
    """The start of a drill: x, y, vx, vy, and the heading."""
    units = game_units(study)
    (vx, vy) = drill.start_velocity
    return (
        *units.place(*drill.start), units.column("vx").shown(vx), units.column("vy").shown(vy),
        units.column("facing").shown(drill.start_heading),
    )  # fmt: skip


def solids_of(study: Study, drill: Drill) -> list[tuple[float, ...]]:
    """The solids of a drill: left, bottom, right and top."""
    units = game_units(study)
    return [(*units.place(each.left, each.bottom), *units.place(each.right, each.top)) for each in drill.course.solids]


def number_from(change: Changed, tune: Tune, conventions: Conventions) -> tuple[Parameter, Tune]:
    """The parameter that was changed in the game, and the tune with its value; ValueError with a reason if it fails."""
    parameter = known_names(conventions).get(change.name)
    if parameter is None:
        raise ValueError(f"{change.who} changed “{change.name}”, which is not a number of a tune")
    found = converted(Assigned(change.name, change.value), parameter, conventions, sure=True)
    if found.value is None:
        raise ValueError(f"{change.who} set {change.name}: {found.fault}")
    try:
        return parameter, with_numbers(tune, {parameter.id: found.value})
    except Refused as refused:
        raise ValueError(f"{change.who} set {change.name}: {'; '.join(refused.faults)}") from refused


def logged_run(frames: Sequence[Frame], study: Study, drill: Drill, name: str) -> Logged:
    """A run of the game, from its start on, as a log of a drill; ValueError if it has fewer than two frames."""
    units = game_units(study)
    rows = np.array([(each.row, each.x, each.y, each.vx, each.vy) for each in frames], dtype=float)
    if len(rows) < 2:
        raise ValueError("the run has fewer than two frames yet")
    time = _times(frames)
    x, y, vx, vy = (
        tuple((np.asarray(units.column(column).kept(rows[:, at])) + 0.0).tolist())
        for at, column in enumerate(("x", "y", "vx", "vy"), 1)
    )
    return Logged(name=name, drill=drill.name, time=tuple(time.tolist()), x=x, y=y, vx=vx, vy=vy)


def _times(frames: Sequence[Frame]) -> np.ndarray:
    """The times since the first frame, in s; where they do not grow, by the length of the ticks."""
    time = np.array([each.time for each in frames]) - frames[0].time
    if np.all(np.diff(time) > 0):
        return time
    steps = np.array([max(each.dt, 1e-6) for each in frames])
    steps[0] = 0.0
    grown: np.ndarray = np.cumsum(steps)
    return grown


def csv_of(frames: Sequence[Frame]) -> str:
    """A run as CSV, in the game's conventions, as it is imported as a log; `frame` counts the ticks since the start."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(COLUMNS)
    begins = frames[0].time if frames else 0.0
    for each in frames:
        place = [repr(value) for value in (each.time - begins, each.x, each.y, each.vx, each.vy)]
        writer.writerow([each.row, *place, each.grounded, " ".join(sorted(keys_of(each.keys)))])
    return text.getvalue()
