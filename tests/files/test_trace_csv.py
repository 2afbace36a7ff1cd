import csv
import io
import math

import pytest

from cinetica.files.trace_csv import trace_text
from cinetica.model.conventions import Conventions
from cinetica.motion.records import STATES, TRACE
from cinetica.reading.display_units import OURS, DisplayUnits
from tests.builders import make_drill, make_tune, marks_at, run


def test_a_trace_reads_back_to_the_same_bits():
    trace = run(make_tune(drive__law="ease"), make_drill(length=90, right=[(3, 40)], jump=[(10, 14)]), 144)
    lines = list(csv.reader(io.StringIO(trace_text(trace), newline="")))
    assert tuple(lines[0]) == TRACE.names
    assert len(lines) == len(trace) + 1
    for row, cells in enumerate(lines[1:]):
        for name, cell in zip(lines[0], cells, strict=True):
            if name == "state":
                assert cell == STATES[trace["state"][row]]
            elif name == "marks":
                assert cell.split("+") == (marks_at(trace, row) or [""])
            else:
                assert float(cell) == float(trace[name][row])


def test_in_the_units_of_the_game_lengths_change_and_counts_and_switches_stay():
    drill = make_drill(length=30, right=[(0, 20)], jump=[(4, 9)])
    trace, units = run(drill=drill), DisplayUnits(Conventions(pixels_per_unit=32, y_down=True))
    ours, games = (list(csv.DictReader(io.StringIO(trace_text(trace, each), newline=""))) for each in (OURS, units))
    assert float(ours[20]["x"]) > 0
    for one, other in zip(ours, games, strict=True):
        assert float(other["x"]) == pytest.approx(32 * float(one["x"]))
        assert float(other["vy"]) == pytest.approx(-32 * float(one["vy"]))
        for column in ("tick", "jump_held", "modifier_held", "state", "marks"):
            assert other[column] == one[column]
    assert [row["tick"] for row in games[:3]] == ["0", "1", "2"]
    assert {row["jump_held"] for row in games} == {"0", "1"}


def test_the_columns_follow_the_contract():
    names = (
        "tick time dt input_x input_y intent_x intent_y jump_held modifier_held x y vx vy ax ay speed facing bank"
        " look_yaw look_pitch state since_ground since_press overlap marks ground_angle camera_x camera_y"
    )
    assert TRACE.names == tuple(names.split())


def test_lines_end_with_crlf_and_timers_may_be_infinite():
    text = trace_text(run(make_tune(), make_drill(length=2)))
    assert text.count("\r\n") == 4
    assert math.isinf(float(text.splitlines()[1].split(",")[22]))
