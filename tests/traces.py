"""Traces read back from the CSV that `trace_text` wrote."""

from __future__ import annotations

import csv
import io

from cinetica.files.trace_csv import COLUMNS
from cinetica.motion.records import MARKS, STATES, TRACE, Records, empty_records


def trace_rows(text: str) -> Records:
    """The rows, bit for bit, of dtype TRACE."""
    head, *lines = csv.reader(io.StringIO(text))
    assert tuple(head) == COLUMNS
    rows = empty_records(TRACE, len(lines))
    for number, line in enumerate(lines):
        rows[number] = tuple(_value(column, cell) for column, cell in zip(COLUMNS, line, strict=True))
    return rows


def _value(column: str, cell: str) -> float | int | bool:
    if column == "state":
        return STATES.index(cell)
    if column == "marks":
        return sum(1 << MARKS.index(name) for name in cell.split("+") if name)
    kind = TRACE[column].kind
    return bool(int(cell)) if kind == "b" else int(cell) if kind == "i" else float(cell)
