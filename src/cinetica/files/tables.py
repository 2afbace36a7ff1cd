"""Text tables as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from cinetica.files.report import in_a_cell


def table_csv(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Rows below their headings. What a spreadsheet would run as a formula stays text; numbers stay numbers."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([in_a_cell(each) for each in head])
    writer.writerows([_cell(each) for each in row] for row in rows)
    return out.getvalue()


def _cell(text: str) -> str:
    try:
        float(text)
    except ValueError:
        return in_a_cell(text)
    return text
