"""Columns, spans and single values of a trace, however they are read from its rows."""

import math

import numpy as np
import pytest

from cinetica.motion import simulate
from cinetica.motion.columns import NUMBERS
from cinetica.motion.polyline import SAMPLE, Points
from cinetica.motion.records import TRACE
from cinetica.reading import channels
from tests.builders import make_drill, make_tune, run

COLUMNS = (*(TRACE.names or ()), *(each.column for each in channels.CHANNELS if each.reckon))


@pytest.fixture(params=["short", "long"])
def trace(request, monkeypatch):
    """The same trace, split into columns at once and one by one."""
    if request.param == "long":
        monkeypatch.setattr(simulate, "SHORT", 0)
    made = run(make_tune(camera__follow_rate=5.0), make_drill(length=80, right=[(5, 60)], jump=[(20, 40)]))
    # Lazy: the columns are read while the limit is set.
    assert made["time"][0] == 0
    return made


def test_numbers_of_a_row_are_those_of_its_columns(trace):
    columns = tuple(column for column in COLUMNS if column in NUMBERS)
    assert {"x", "vy", "facing", "camera_x"} <= set(columns)
    assert trace.numbers(columns, 41) == tuple(trace.value(column, 41) for column in columns)


def test_negative_rows_count_from_the_end(trace):
    for column in ("x", "state", "screen_x"):
        assert trace.value(column, -1) == float(trace[column][80])
        assert trace.value(column, -81) == float(trace[column][0])


def test_a_line_has_the_points_of_its_columns(trace):
    """Columns of rows, and columns that are counted or computed from others."""
    for x, y in (("time", "vy"), ("vx", "vy"), ("time", "state"), ("screen_x", "y")):
        line = trace.points(x, y)
        assert line is trace.points(x, y)
        assert (line.count, line.x.tolist(), line.y.tolist()) == (len(trace), trace[x].tolist(), trace[y].tolist())
        part = line.part(7, 20)
        assert part.y.tolist() == trace[y][7:27].tolist()


def test_equal_lines_have_equal_points(trace):
    other = run(trace.tune, trace.drill)
    higher = run(trace.tune.put("jump.jump_speed", 20.0), trace.drill)
    assert trace.points("time", "y").equals(other.points("time", "y"))
    assert not trace.points("time", "y").equals(higher.points("time", "y"))
    assert not trace.points("time", "y").equals(trace.points("time", "x"))
    assert not trace.points("time", "y").equals(trace.points("vx", "y"))
    assert not trace.points("time", "y").equals(trace.points("time", "y").part(0, 9))
    hole, filled = (Points(np.arange(3.0), np.array([5.0, at, 7.0])) for at in (math.nan, 6.0))
    assert hole.equals(Points(np.arange(3.0), np.array([5.0, math.nan, 7.0])))
    assert not hole.equals(filled)
    long = Points(np.arange(2.0 * SAMPLE), np.zeros(2 * SAMPLE))
    one_off = Points(long.x, np.eye(1, 2 * SAMPLE, 7)[0])
    assert long.equals(Points(long.x, np.zeros(2 * SAMPLE)))
    assert not long.equals(one_off)


@pytest.mark.parametrize("column", COLUMNS)
def test_column_span_and_value_agree(trace, column):
    rows = list(simulate.column_of(trace.rows, column, trace.tune))
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


@pytest.mark.parametrize("part", [1, 7, 80, 2048])
@pytest.mark.parametrize("slopes", [(), ((3, 0, 6, 1.5),)], ids=["flat", "slope"])
def test_a_long_run_in_parts_equals_the_whole(monkeypatch, part, slopes):
    """Columns without rows, to the last bit, whatever crosses the end of a part: latency, timers, time."""
    tune = make_tune(input__latency=3, camera__follow_rate=5.0, jump__coyote=0.1)
    drill = make_drill(length=80, right=[(5, 60)], jump=[(20, 40), (50, 52)], slopes=slopes)
    whole = run(tune, drill)
    monkeypatch.setattr(simulate, "SHORT", 0)
    monkeypatch.setattr(simulate, "PART", part)
    monkeypatch.setattr(simulate, "asked", dict.fromkeys(("time", "x", "vy", "marks", "state", "since_ground")))
    long = run(tune, drill)
    for column in simulate.asked:
        assert long[column].tobytes() == whole[column].tobytes()
        assert long[column].dtype == whole[column].dtype
    assert "rows" not in vars(long)
    assert len(long) == len(whole)
    # A column that nobody has asked for is read from the rows, which are made then, and comes with the next run.
    assert long["speed"].tobytes() == whole["speed"].tobytes()
    assert long.rows.tobytes() == whole.rows.tobytes()
    following = run(tune, drill)
    assert following["speed"].tobytes() == whole["speed"].tobytes()
    assert following["screen_x"].tobytes() == whole["screen_x"].tobytes()
    assert following.is_as(whole)
    assert not following.is_as(run(tune.put("drive.top_speed", 3.0), drill))


def test_values_of_a_logged_trace_come_from_its_rows_only(monkeypatch):
    """No column is split off for a single value of a long trace."""
    monkeypatch.setattr(simulate, "SHORT", 0)
    found = run(make_tune(), make_drill(length=30, right=[(0, 30)]))
    trace = simulate.Trace(found.tune, found.drill, found.clock, found.rows, found.frames, logged=True)
    assert trace.value("vx", 20) > 0
    assert "vx" not in trace._columns
    assert trace.value("vx", 20) == trace["vx"][20]
