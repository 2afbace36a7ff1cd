import csv
import io
import math

from cinetica.files.trace_csv import trace_text
from cinetica.motion.records import STATES, TRACE
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


def test_the_columns_are_the_contract():
    assert TRACE.names == tuple(
        [
            "tick",
            "time",
            "dt",
            "input_x",
            "input_y",
            "intent_x",
            "intent_y",
            "jump_held",
            "modifier_held",
            "x",
            "y",
            "vx",
            "vy",
            "ax",
            "ay",
            "speed",
            "facing",
            "bank",
            "look_yaw",
            "look_pitch",
            "state",
            "since_ground",
            "since_press",
            "overlap",
            "marks",
            "ground_angle",
            "camera_x",
            "camera_y",
        ]
    )


def test_lines_end_as_the_standard_says_and_timers_may_be_infinite():
    text = trace_text(run(make_tune(), make_drill(length=2)))
    assert text.count("\r\n") == 4
    assert math.isinf(float(text.splitlines()[1].split(",")[22]))
