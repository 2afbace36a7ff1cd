"""A drill as the tests of the code read it: its start, its course, and for each tick the input and the expected state.

A file is CSV whose rows begin with a word: `start`, a list of the course, or `tick`. All values have the units and
signs of the code, but angles to be compared are in degrees.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from cinetica.codegen.program import Program, Scales
from cinetica.codegen.specialise import Column
from cinetica.codegen.vocabulary import COURSE, ROWS
from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.motion.clock import Schedule, schedule
from cinetica.motion.records import MOUSE_ROW, ground, start_of
from cinetica.motion.simulate import simulate

# Fields of the state and the columns of a trace that they are compared with.
_COMPARED = {
    "x": "x", "y": "y", "row_vx": "vx", "row_vy": "vy", "vx": "vx", "vy": "vy", "motion": "state", "marks": "marks",
    "wx": "intent_x", "wy": "intent_y", "facing": "facing", "bank": "bank", "look_yaw": "look_yaw",
    "look_pitch": "look_pitch", "ground_angle": "ground_angle", "camera_x": "camera_x", "camera_y": "camera_y",
}  # fmt: skip
_ANGLES = ("facing", "bank", "look_yaw", "look_pitch", "ground_angle")


@dataclass(frozen=True)
class Compared:
    """A field that a test compares; `shown` is the one to compare if blocks show late."""

    column: Column
    trace: str
    shown: str = ""

    @property
    def is_angle(self) -> bool:
        """Whether it is an angle, in radians in the code."""
        return self.trace in _ANGLES


def compared(program: Program) -> list[Compared]:
    """The fields that a test of a whole program compares."""
    fields = {each.column.name: each.column for each in program.state}
    late = "is_late" in fields
    found = []
    for name, trace in _COMPARED.items():
        if name in fields and not (name in ("vx", "vy") and f"row_{name}" in fields):
            found.append(Compared(fields[name], trace, f"shown_{name}" if late and name in ("x", "y") else ""))
    return found


def drill_text(program: Program, drill: Drill, clock: Clock) -> str:
    """A drill as CSV."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(_rows(program, drill, clock))
    return out.getvalue()


def _rows(program: Program, drill: Drill, clock: Clock) -> Iterator[list[object]]:
    planned, scale = schedule(drill.take, clock), _Scale(program)
    start = start_of(drill)
    begins = {"x": start.x, "y": start.y, "vx": start.vx, "vy": start.vy, "facing": start.heading}
    units = {"x": (1, 0), "y": (1, 0), "vx": (1, -1), "vy": (1, -1), "facing": (0, 0)}
    yield ["start", *(
        scale.of(Column(name, "number", units[name], odd=name in ("y", "vy", "facing")), value)
        for name, value in begins.items()
    )]  # fmt: skip
    course = planned.on(ground(drill.course))
    for name in program.course:
        columns = ROWS[COURSE[name]]
        for row in getattr(course, name).tolist():
            yield [name, *(scale.of(column, value) for column, value in zip(columns, row, strict=True))]
    yield from _ticks(program, drill, clock, planned, scale)


def _ticks(program: Program, drill: Drill, clock: Clock, planned: Schedule, scale: _Scale) -> Iterator[list[object]]:
    trace, late = simulate(program.tune, drill, clock), program.tune.input.latency
    inputs = [(each.column, _input(each.column.name, planned)) for each in program.input]
    wanted = [(each, trace[each.trace].tolist()) for each in compared(program)]
    for row in range(1, len(planned.dts)):
        read = max(0, row - late)
        hands = [scale.of(column, values[read]) for column, values in inputs]
        after = [scale.of(each.column, values[row]) for each, values in wanted]
        yield ["tick", scale.of(Column("dt", "number", (0, 1)), float(planned.dts[row])), *hands, *after]


def _input(name: str, planned: Schedule) -> list[float]:
    """A column of the input, row by row."""
    if name in ("mouse_x", "mouse_y"):
        counts = np.vstack([np.zeros(2), planned.mouse])[np.asarray(planned.hands["held"]) // MOUSE_ROW]
        return [float(each) for each in counts[:, ("mouse_x", "mouse_y").index(name)]]
    return list(planned.hands[name].tolist())


class _Scale:
    """Converts our numbers to those of the code."""

    def __init__(self, program: Program) -> None:
        self.scales, self.down = Scales(program.conventions), program.conventions.y_down

    def of(self, column: Column, value: float) -> float | int:
        """The value of a column in the code's units."""
        if column.kind != "number":
            return int(value)
        scaled = float(value) * (self.scales.factor(column.unit) if column.unit else 1.0)
        assert not math.isnan(scaled)
        return (-scaled if column.odd and self.down else scaled) + 0.0
