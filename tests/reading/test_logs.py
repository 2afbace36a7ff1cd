"""Import a game log as a trace, and check whether it follows one."""

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.milestone import Logged
from cinetica.motion.records import APEX, FALL, GROUND, LAND, LAUNCH, LEAVE, RISE
from cinetica.motion.simulate import simulate
from cinetica.reading.alignment import ANCHORS, anchor_row
from cinetica.reading.divergence import first_divergence
from cinetica.reading.explain import explain
from cinetica.reading.log_check import check
from cinetica.reading.logs import trace_of
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune, rows_of, run

STUDY = shipped_study("harbour")
DRILL = STUDY.drill("Rooftop hop")


def log_of(trace, **columns):
    """The log of a game that moves like the trace."""
    content = {column: tuple(trace[column].tolist()) for column in ("time", "x", "y", "vx", "vy")}
    return Logged(name="Log", drill=DRILL.name, **(content | columns))


def test_a_log_of_a_trace_is_that_trace():
    trace = simulate(STUDY.tune("Wren"), DRILL, STUDY.clock)
    back = trace_of(log_of(trace), DRILL, STUDY.clock)
    for column in ("x", "y", "vx", "vy", "speed", "time"):
        assert back[column] == pytest.approx(trace[column], abs=1e-12)
    assert back["ay"][1:] == pytest.approx(trace["ay"][1:], abs=1e-6)


@pytest.mark.parametrize("anchor", [anchor for anchor in ANCHORS if anchor != "press"])
def test_a_log_can_be_lined_up_on_events_in_its_heights(anchor):
    trace = simulate(STUDY.tune("Wren"), DRILL, STUDY.clock)
    row = anchor_row(trace_of(log_of(trace), DRILL, STUDY.clock), anchor)
    assert row is not None
    assert row == anchor_row(trace, anchor)


@pytest.mark.parametrize("name", ["Rooftop hop", "Early knock", "Low beam", "Chimney gap"])
def test_the_jumps_of_a_log_are_those_of_the_tune_that_it_follows(name):
    """Also of one that follows at once, of which no row stands still (Early knock)."""
    drill = STUDY.drill(name)
    trace = simulate(STUDY.tune("Wren"), drill, STUDY.clock)
    log = trace_of(log_of(trace), drill, STUDY.clock)
    for mark in ("launch", "land", "leave", "apex"):
        assert rows_of(log, mark) == rows_of(trace, mark), mark
    ours, theirs = read_off(trace), read_off(log)
    assert {"jump_height", "time_to_apex", "air_time", "jump_distance", "landing_speed"} <= set(theirs)
    for id, read in theirs.items():
        assert (read.value, read.rows) == (pytest.approx(ours[id].value), ours[id].rows), id


@pytest.mark.parametrize("rate", [25, 30, 50, 120, 144])
def test_a_log_at_another_rate_lands_within_a_frame_at_the_speed_of_its_fall(rate):
    trace = simulate(STUDY.tune("Wren"), DRILL, Clock(tick_rate=rate))
    ours, theirs = read_off(trace), read_off(trace_of(log_of(trace), DRILL, STUDY.clock))
    assert theirs["air_time"].value == pytest.approx(ours["air_time"].value, abs=1 / 60)
    assert theirs["landing_speed"].value == pytest.approx(ours["landing_speed"].value, rel=0.01)


def test_a_jump_in_the_air_is_not_a_landing():
    drill = make_drill(length=120, jump=[(5, 20), (40, 60)])
    trace = run(make_tune(jump__air_jumps=1), drill)
    assert len(rows_of(trace, "air_launch")) == 1
    log = trace_of(log_of(trace), drill, Clock())
    assert [rows_of(log, mark) for mark in ("launch", "land")] == [rows_of(trace, mark) for mark in ("launch", "land")]


def test_between_its_rows_a_log_is_a_straight_line():
    """Logged at 10 per second and read at 60: y = 2t, by hand."""
    times = np.arange(11) / 10
    log = Logged(
        name="Log",
        drill=DRILL.name,
        time=tuple(times),
        x=(0.0,) * 11,
        y=tuple(2 * times),
        vx=(0.0,) * 11,
        vy=(2.0,) * 11,
    )
    trace = trace_of(log, DRILL, Clock())
    assert len(trace) == 61
    assert trace["y"] == pytest.approx(2 * trace["time"], abs=1e-12)


@pytest.mark.parametrize(
    ("y", "states", "marks"),
    [
        # It begins with a fall and ends with a rise; the top of a jump lasts a row, just before the end.
        ((2, 1, 0, 0, 1), [FALL, GROUND, GROUND, RISE], [LEAVE, LAND, 0, LAUNCH | LEAVE]),
        ((0, 0, 1, 1, 0), [GROUND, RISE, FALL, FALL], [0, LAUNCH | LEAVE, APEX, 0]),
    ],
)
def test_states_and_marks_of_a_log_follow_its_height(y, states, marks):
    log = Logged(
        name="Log", drill=DRILL.name, time=tuple(np.arange(5) / 60), x=(3, 4, 5, 6, 7), y=y, vx=(0,) * 5, vy=(0,) * 5
    )
    trace = trace_of(log, DRILL, Clock())
    assert set(zip(trace["camera_x"], trace["camera_y"], strict=True)) == {(3.0, float(y[0]))}
    assert trace["state"].tolist() == [GROUND, *states]
    assert trace["marks"].tolist() == [0, *marks]


def test_no_rule_is_blamed_for_a_difference_in_a_log():
    trace = simulate(STUDY.tune("Wren"), DRILL, STUDY.clock)
    other = trace_of(log_of(trace, y=tuple((trace["y"] + (trace["time"] > 1.0)).tolist())), DRILL, STUDY.clock)
    assert explain(other, 20) == []
    parting = first_divergence(trace, other, 0.5)
    assert parting is not None
    assert (parting.row, parting.column) == (int(np.argmax(trace["time"] > 1.0)), "y")
    assert "logged by the game" in parting.reason


def test_the_verdict_names_the_worst_channel_first():
    expected = {"x": np.zeros(5), "y": np.zeros(5)}
    verdict = check(expected, {"x": np.array([0, 0.1, 0.6, 3, 0]), "y": np.array([0, 0, -0.9, 0, 0.0])}, 0.5)
    assert verdict.off is not None
    assert (verdict.off.row, verdict.off.channel, verdict.off.by) == (2, "y", pytest.approx(-0.9))
    assert verdict.greatest == {"x": 3.0, "y": 0.9}
    assert check(expected, {"x": np.full(5, 0.5)}, 0.5).off is None
    with pytest.raises(ValueError, match="no column"):
        check(expected, {}, 0.5)


@pytest.mark.parametrize(
    ("columns", "reason"),
    [
        ({"time": (0.0, 0.0)}, "grow"),
        ({"time": (0.0,)}, "two rows"),
        ({"x": (1.0,)}, "one length"),
        ({"time": (1.0, 0.5)}, "grow"),
    ],
)
def test_bad_logs_are_refused(columns, reason):
    good = dict.fromkeys(("time", "x", "y", "vx", "vy"), (0.0, 1.0))
    with pytest.raises(ValueError, match=reason):
        Logged(name="Log", drill="d", **(good | columns))
