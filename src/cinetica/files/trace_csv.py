"""Traces as CSV (RFC 4180). Floats read back exactly."""

from __future__ import annotations

import csv
import io

from cinetica.motion.records import STATES, TRACE
from cinetica.motion.simulate import Trace, mark_names
from cinetica.reading.display_units import OURS, DisplayUnits

COLUMNS = TRACE.names or ()


def trace_text(trace: Trace, units: DisplayUnits = OURS) -> str:
    """A header line with the columns of the model, then one line per row, in these units.

    Flags are 0 and 1; marks are joined by +.
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    lists = [_cells(trace, column, units) for column in COLUMNS]
    writer.writerows(zip(*lists, strict=True))
    return out.getvalue()


def _cells(trace: Trace, column: str, units: DisplayUnits) -> list[object]:
    values = trace[column].tolist()
    if column == "state":
        return [STATES[code] for code in values]
    if column == "marks":
        return ["+".join(mark_names(code)) for code in values]
    if units.game is not None and trace[column].dtype == float:
        values = units.column(column).shown(trace[column]).tolist()
    if trace[column].dtype == bool:
        return [int(value) for value in values]
    return [repr(value) if isinstance(value, float) else value for value in values]
