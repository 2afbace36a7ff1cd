"""Where two traces diverge: the first row that differs by more than an amount, and the rule responsible."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cinetica.motion.jump import coyote_left
from cinetica.motion.records import AIR_LAUNCH, CLIMB_ON, LAND, LAUNCH, LEAVE, LOST_PRESS, PRESS, SLACK
from cinetica.motion.simulate import Trace
from cinetica.reading.alignment import difference, overlap
from cinetica.reading.channels import CHANNELS
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.explain import Line, explain
from cinetica.reading.phrases import Phrases

# The clock's columns are the same for both, and marks are codes.
COMPARED = tuple(channel.column for channel in CHANNELS if channel.column not in ("tick", "time", "dt", "marks"))
# Columns that a game logs, or that are derived from them.
COMPARED_WITH_LOGS = ("vx", "vy", "y", "x")
_LAUNCHES = LAUNCH | AIR_LAUNCH


@dataclass(frozen=True)
class Divergence:
    """`row` of the reference where `column` first differs by more than the amount; `cause_row` is where it began."""

    row: int
    column: str
    values: tuple[float, float]
    cause_row: int
    reason: str


def first_divergence(
    reference: Trace,
    other: Trace,
    amount: float,
    *,
    names: tuple[str, str] = ("A", "B"),
    columns: Sequence[str] = COMPARED,
    rows_later: int = 0,
    units: DisplayUnits = OURS,
) -> Divergence | None:
    """The first row in which any column differs by more than `amount`; None if none ever does.

    `amount` is in the unit in which `units` show the column.

    `rows_later` is the shift by which the traces are aligned (`alignment.shift`). `names` are used in the reason.
    """
    from_game = reference.logged or other.logged
    if from_game:
        columns = [column for column in columns if column in COMPARED_WITH_LOGS]
    found = _first(reference, other, amount, columns, rows_later, units)
    if found is None:
        return None
    row, column = found
    began, _ = _first(reference, other, SLACK, columns, rows_later) or found
    if from_game:
        cause, reason = (
            row,
            (
                f"{names[1] if other.logged else names[0]} was logged by the game; which rules acted there is not known"
                " here"
            ),
        )
    else:
        cause, reason = _reason(reference, other, began, row, names, rows_later, units)
    values = float(reference[column][row]), float(other[column][row + rows_later])
    return Divergence(row, column, values, cause, reason)


def _first(
    reference: Trace, other: Trace, amount: float, columns: Sequence[str], rows_later: int, units: DisplayUnits = OURS
) -> tuple[int, str] | None:
    """The first row above the amount, and the first column that is."""
    firsts: list[tuple[int, str]] = []
    start = overlap(other, reference, rows_later)[1].start
    for column in columns:
        beyond = _gap(reference, other, column, rows_later) * abs(units.column(column).factor) > amount
        if beyond.any():
            firsts.append((start + int(np.argmax(beyond)), column))
    return min(firsts, key=lambda first: first[0], default=None)


def _gap(reference: Trace, other: Trace, column: str, rows_later: int) -> NDArray[np.float64]:
    """The absolute difference; timers that are infinite in both do not differ."""
    gap = np.abs(difference(other, reference, column, rows_later)[1])
    return np.where(np.isnan(gap), 0.0, gap)


def _reason(
    reference: Trace,
    other: Trace,
    began: int,
    row: int,
    names: tuple[str, str],
    rows_later: int,
    units: DisplayUnits,
) -> tuple[int, str]:
    """The row in which the rules first acted differently, and how."""
    for at in range(max(1, began), row + 1):
        mine, theirs = explain(reference, at, units), explain(other, at + rows_later, units)
        words = _launch_reason(reference, other, at, names, rows_later, units) or _rules_reason(mine, theirs, names)
        if words:
            return at, words
    if began == 0:
        return 0, f"{names[0]} and {names[1]} differ from the start on"
    return (
        began,
        (
            f"{names[0]} and {names[1]} are moved by the same rules with the same numbers; what differs is where they"
            " were before"
        ),
    )


def _launch_reason(
    reference: Trace, other: Trace, row: int, names: tuple[str, str], rows_later: int, units: DisplayUnits
) -> str:
    """Why one launched and the other did not; empty if both or neither did."""
    did = bool(reference["marks"][row] & _LAUNCHES), bool(other["marks"][row + rows_later] & _LAUNCHES)
    if did[0] == did[1]:
        return ""
    launched, trace, name, at = (
        (names[0], other, names[1], row + rows_later) if did[0] else (names[1], reference, names[0], row)
    )
    return f"{launched} launches; {name}: {why_no_launch(trace, at, units)}"


def why_no_launch(trace: Trace, row: int, units: DisplayUnits = OURS) -> str:
    """Why this row has no launch."""
    say = Phrases(units)
    jump, marks = trace.tune.jump, trace["marks"]
    pressed = trace.rows_with(PRESS)
    pressed = pressed[pressed <= row]
    if len(pressed) == 0:
        return "no press has reached it yet"
    press = int(pressed[-1])
    launched = trace.rows_with(_LAUNCHES)
    if (launched[(launched >= press) & (launched < row)]).size:
        return f"its press at frame {press} was already used at frame {int(launched[launched >= press][0])}"
    lost = trace.rows_with(LOST_PRESS)
    lost = lost[(lost > press) & (lost <= row)]
    if lost.size:
        lands = trace.rows_with(LAND)
        lands = lands[lands >= lost[0]]
        expired = f"its press at frame {press} expired after the buffer of {say.entered(jump.buffer, 's')}"
        return (
            f"{expired}, {_ticks(int(lands[0]) + 1 - int(lost[0]))} before it could launch (it lands at frame"
            f" {int(lands[0])})"
            if lands.size
            else expired
        )
    left = trace.rows_with(LEAVE)
    left = left[(left <= press) & ((marks[left] & (LAUNCH | CLIMB_ON)) == 0)]
    since = float(trace["since_ground"][max(0, press - 1)])
    if left.size and coyote_left(since, jump) < -SLACK:
        dt = float(trace["dt"][press]) or 1.0
        late = round(-coyote_left(since, jump) / dt)
        coyote = f"its coyote time of {say.entered(jump.coyote, 's')}, begun at frame {int(left[-1])}"
        return f"its press at frame {press} came {_ticks(late)} after {coyote}, was over"
    grace = float(trace["since_ground"][max(0, row - 1)])
    before = launched[launched < row]
    if before.size and trace.tune.jump.spend_grace and grace > 0 and coyote_left(grace, jump) >= -SLACK:
        return f"it is still in its coyote time, but the launch at frame {int(before[-1])} has spent it"
    return f"it is in the air, and its press at frame {press} waits in the buffer"


def _ticks(count: int) -> str:
    return f"{count} tick" if count == 1 else f"{count} ticks"


def _rules_reason(mine: Sequence[Line], theirs: Sequence[Line], names: tuple[str, str]) -> str:
    """The first rule that acted in one only, or with other numbers; rules that change something come first."""
    for moving in (True, False):
        here, there = ({_key(line): line for line in lines if any(line.change) is moving} for lines in (mine, theirs))
        for lines, others, name, other in ((here, there, *names), (there, here, *names[::-1])):
            for key, line in lines.items():
                if key not in others:
                    return f"{name}: {line.words}; no such thing in {other}"
        for key, line in here.items():
            if _numbers(line) != _numbers(there[key]):
                return f"{names[0]}: {line.words}; {names[1]}: {there[key].words}"
    return ""


def _key(line: Line) -> str:
    """The rule and, for contact, which part of it."""
    return f"{line.rule} {_numbers(line)}" if line.rule == "move" else line.rule


def _numbers(line: Line) -> str:
    """What the rule worked with, without the velocity it started from."""
    return line.words.partition(": ")[2]
