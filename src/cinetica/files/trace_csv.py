"""Traces as CSV (RFC 4180). Floats are written so that they read back to the same bits."""

from __future__ import annotations

import csv
import io

from cinetica.files.reading import Refused
from cinetica.motion.records import MARKS, STATES, TRACE, Records, empty_records
from cinetica.motion.simulate import Trace, mark_names

COLUMNS = TRACE.names or ()


def trace_text(trace: Trace) -> str:
    """One header line with the columns of the model, then one line per row; flags are 0 and 1, marks joined by +."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    lists = [_cells(trace, column) for column in COLUMNS]
    writer.writerows(zip(*lists, strict=True))
    return out.getvalue()


def _cells(trace: Trace, column: str) -> list[object]:
    values = trace[column].tolist()
    if column == "state":
        return [STATES[code] for code in values]
    if column == "marks":
        return ["+".join(mark_names(code)) for code in values]
    if trace[column].dtype == bool:
        return [int(value) for value in values]
    return [repr(value) if isinstance(value, float) else value for value in values]


def trace_rows(text: str) -> Records:
    """The rows of a trace that `trace_text` wrote, bit for bit, of dtype TRACE; Refused, with the line, if it is
    none."""
    lines = list(csv.reader(io.StringIO(text)))
    if not lines or tuple(lines[0]) != COLUMNS:
        raise Refused([f"not a trace: the first line must be {','.join(COLUMNS)}"])
    rows = empty_records(TRACE, len(lines) - 1)
    for number, line in enumerate(lines[1:]):
        try:
            cells = zip(COLUMNS, line, strict=True)
            rows[number] = tuple(_value(column, cell) for column, cell in cells)
        except ValueError as error:
            raise Refused([f"line {number + 2}: {error}"]) from error
    return rows


def _value(column: str, cell: str) -> float | int | bool:
    if column == "state":
        return STATES.index(cell)
    if column == "marks":
        return sum(1 << MARKS.index(name) for name in cell.split("+") if name)
    kind = TRACE[column].kind
    return bool(int(cell)) if kind == "b" else int(cell) if kind == "i" else float(cell)
