"""Aligning traces at an event, and their differences row by row."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from cinetica.motion.records import AIR_LAUNCH, APEX, LAND, LAUNCH, PRESS
from cinetica.motion.simulate import Trace

ANCHORS = ("start", "press", "launch", "apex", "landing")
_LAUNCHES = LAUNCH | AIR_LAUNCH
_MARKS = {"press": PRESS, "launch": _LAUNCHES, "apex": APEX, "landing": LAND}


def anchor_row(trace: Trace, anchor: str) -> int | None:
    """The first row of an event; None if it never happens.

    Apex and landing are those after the first launch, if there is one.
    """
    if anchor == "start":
        return 0
    rows = trace.rows_with(_MARKS[anchor])
    launches = trace.rows_with(_LAUNCHES)
    if anchor in ("apex", "landing") and len(launches):
        rows = rows[rows >= launches[0]]
    return int(rows[0]) if len(rows) else None


def shift(trace: Trace, reference: Trace, anchor: str) -> int:
    """How many rows later the anchor comes in `trace` than in the reference; 0 if either has none."""
    mine, other = anchor_row(trace, anchor), anchor_row(reference, anchor)
    return 0 if mine is None or other is None else mine - other


def overlap(trace: Trace, reference: Trace, rows_later: int) -> tuple[slice, slice]:
    """The rows of `trace` and of the reference that coincide after the shift."""
    first = max(0, -rows_later)
    last = min(len(reference), len(trace) - rows_later)
    return slice(first + rows_later, max(first, last) + rows_later), slice(first, max(first, last))


def difference(
    trace: Trace, reference: Trace, column: str, rows_later: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """`trace` minus the reference in the column's unit, and the reference's times in s, where the two overlap."""
    mine, other = overlap(trace, reference, rows_later)
    with np.errstate(invalid="ignore"):
        gap = trace[column][mine].astype(float) - reference[column][other].astype(float)
    if column in ("facing", "look_yaw"):
        gap = 180.0 - (180.0 - gap) % 360.0
    return np.ascontiguousarray(reference["time"][other]), gap
