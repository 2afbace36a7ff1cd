"""A trace's columns, spans and single numbers, however they are taken out of its rows."""

import math

import numpy as np
import pytest

from cinetica.motion import simulate
from cinetica.motion.records import TRACE
from tests.builders import make_drill, make_tune, run

COLUMNS = (*(TRACE.names or ()), "screen_x", "screen_y")


@pytest.fixture(params=["short", "long"])
def trace(request, monkeypatch):
    """One and the same, taken apart at once and column by column."""
    if request.param == "long":
        monkeypatch.setattr(simulate, "SHORT", 0)
    made = run(make_tune(camera__follow_rate=5.0), make_drill(length=80, right=[(5, 60)], jump=[(20, 40)]))
    # Not yet read: the columns are found while the limit is set.
    assert made["time"][0] == 0
    return made


@pytest.mark.parametrize("column", COLUMNS)
def test_a_column_a_span_and_a_number_say_the_same(trace, column):
    rows = [simulate.column_of(trace.rows[row : row + 1], column)[0] for row in range(len(trace))]
    assert trace[column].flags.c_contiguous
    np.testing.assert_array_equal(trace[column], np.array(rows))
    assert trace[column].dtype == np.array(rows).dtype
    assert [trace.value(column, row) for row in (0, 33, len(trace) - 1)] == [
        float(rows[0]),
        float(rows[33]),
        float(rows[-1]),
    ]
    finite = [float(value) for value in rows if math.isfinite(value)]
    assert trace.span(column) == (min(finite), max(finite))


def test_a_number_comes_out_of_the_rows_alone(monkeypatch):
    """Of a long trace no column is taken out for it."""
    monkeypatch.setattr(simulate, "SHORT", 0)
    trace = run(make_tune(), make_drill(length=30, right=[(0, 30)]))
    assert trace.value("vx", 20) > 0
    assert "vx" not in trace._columns
    assert trace.value("vx", 20) == trace["vx"][20]
