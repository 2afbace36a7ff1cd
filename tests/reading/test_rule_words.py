"""What Explain says of each rule besides the drive: in the rows in which the rule acts, and in no others."""

import pytest

from cinetica.model.course import Zone
from cinetica.model.take import Shove
from cinetica.reading.explain import explain
from tests.builders import FLOOR, make_drill, make_tune, rows_of, run


def words_by_row(rule, drill, view="side", **values):
    """The words of a rule, by the row in which they are said."""
    trace = run(make_tune(view, **values), drill)
    lines = ((row, line) for row in range(1, len(trace)) for line in explain(trace, row))
    return {row: line.words for row, line in lines if line.rule == rule}


def with_course(drill, **changes):
    return drill.model_copy(update={"course": drill.course.model_copy(update=changes)})


# From the hands to the intent


def test_the_intent_is_described_where_it_changes():
    """Frame k is read by the tick that ends in row k + 1."""
    drill = make_drill(right=[(10, 30)], length=50)
    assert words_by_row("intend", drill) == {11: "intent 0 → 1.00: hands 1.00", 31: "intent 1.00 → 0: hands 0"}
    late = words_by_row("intend", drill, input__latency=3)
    assert late == {14: "intent 0 → 1.00: hands 1.00, 3 ticks late", 34: "intent 1.00 → 0: hands 0, 3 ticks late"}


def test_from_above_and_where_it_goes_up_the_intent_has_two_numbers():
    drill = make_drill(view="top", up=[(10, 30)], length=40)
    assert words_by_row("intend", drill, "top") == {
        11: "intent (0, 0) → (0, 1.00): hands (0, 1.00)", 31: "intent (0, 1.00) → (0, 0): hands (0, 0)",
    }  # fmt: skip


# Presses and launches


def test_a_press_is_described_once_and_once_more_where_it_is_lost():
    falling = make_drill(start=(0.0, 400.0), jump=[(10, 12)], length=40)
    assert words_by_row("arm", falling, jump__buffer=0.1) == {
        11: "jump pressed: remembered for 0.1 s", 18: "press lost: 0.12 s old, the buffer is 0.1 s",
    }  # fmt: skip


def test_a_launch_says_what_it_took():
    drill = make_drill(right=[(0, 60)], jump=[(40, 45)], length=60)
    speed = run(make_tune(drive__top_speed=6.0), drill)["vx"][40]
    assert speed == 6.0
    (words,) = words_by_row("launch", drill, jump__jump_speed=12.0, drive__top_speed=6.0).values()
    assert words == "vy 0 → 12.00: launch, jump speed 12 u/s"
    (words,) = words_by_row("launch", drill, jump__jump_speed=12.0, drive__top_speed=6.0, jump__run_boost=0.5).values()
    assert words == "vy 0 → 15.00: launch, jump speed 12 + run boost 0.5 × 6.00 u/s"


def test_a_launch_in_coyote_time_says_how_long_after_the_ground():
    """Off a ledge at 0.5 u with 6 u/s; the press comes while coyote time runs."""
    ledge = make_drill(solids=[(-20, -1, 0.5, 0)], right=[(0, 40)], jump=[(20, 30)], length=40)
    values = {"drive__law": "instant", "drive__top_speed": 6.0, "jump__coyote": 0.3, "body__width": 0.6}
    trace = run(make_tune(**values), ledge)
    left, launched = rows_of(trace, "leave")[0], rows_of(trace, "launch")[0]
    assert left < launched == 21
    # It has left in the tick that ends in row 8, and launches 13 ticks later.
    assert left == 8
    assert words_by_row("launch", ledge, **values)[21].endswith("in coyote time 0.22 s after the ground")


def test_a_buffered_launch_says_how_old_its_press_is():
    falling = make_drill(start=(0.0, 1.0), jump=[(8, 30)], length=60)
    values = {"jump__buffer": 0.5, "gravity__gravity": 40.0}
    trace = run(make_tune(**values), falling)
    launched = rows_of(trace, "launch")[0]
    ((row, words),) = words_by_row("launch", falling, **values).items()
    assert row == launched
    assert ", from a press " in words
    assert "coyote" not in words


def test_air_jumps_are_counted_down():
    drill = make_drill(jump=[(5, 8), (20, 23), (30, 33), (40, 43)], length=50)
    found = words_by_row("jump_in_air", drill, jump__air_jumps=2, jump__air_jump_speed=10.0)
    assert [words.partition(": ")[2] for words in found.values()] == [
        "air jump, 10 u/s, 1 left", "air jump, 10 u/s, 0 left",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"jump__short_hop": "cut", "jump__cut_factor": 0.5}, "short hop cut × 0.5"),
        ({"jump__short_hop": "cap", "jump__cap_speed": 2.0}, "short hop capped at 2 u/s"),
    ],
)
def test_a_shortened_hop_is_described_once(values, words):
    drill = make_drill(jump=[(5, 10)], length=60)
    found = words_by_row("shorten", drill, **values)
    assert list(found) == [11]
    assert found[11].endswith(words)
    assert words_by_row("shorten", make_drill(jump=[(5, 60)], length=60), **values) == {}


# Dashes and shoves


@pytest.mark.parametrize(
    ("exit_", "left"), [("keep", "its velocity is kept"), ("top", "at most top speed is left"), ("stop", "it stops")]
)
def test_a_dash_is_described_from_its_start_to_its_end(exit_, left):
    drill = make_drill(right=[(0, 60)], dash=[(20, 22)], length=60)
    found = words_by_row("dash", drill, dash__speed=20.0, dash__time=0.1, dash__exit=exit_)
    rows = sorted(found)
    assert rows[0] == 21
    assert rows == list(range(21, rows[-1] + 1))
    # 0.1 s are six ticks.
    assert rows[-1] - rows[0] == 6
    assert found[rows[0]].endswith("dash at 20 u/s for 0.1 s")
    assert {found[row] for row in rows[1:-1]} == {"dashes at 20 u/s"}
    assert found[rows[-1]].endswith(f"the dash is over, {left}")


def test_a_shove_is_described_and_whether_it_ends_a_dash():
    drill = make_drill(right=[(0, 60)], dash=[(20, 22)], length=60)
    for frame, ended in ((10, False), (23, True)):
        take = drill.take.model_copy(update={"shoves": (Shove(frame, 3.0, 0.0),)})
        found = words_by_row("shove", drill.model_copy(update={"take": take}), dash__speed=20.0, dash__time=0.2)
        assert list(found) == [frame + 1]
        assert ("which ends the dash" in found[frame + 1]) is ended


# Zones, slopes, nets and walls


def test_a_zone_is_described_while_the_body_is_in_it():
    zone = Zone(box=(2, 0, 4, 3), speed=0.5, drag=2.0, push=(0.0, 3.0))
    drill = with_course(make_drill(right=[(0, 120)], length=120), zones=(zone,))
    trace = run(make_tune(body__width=0.6), drill)
    found = words_by_row("feel_zones", drill, body__width=0.6)
    assert set(found.values()) == {"in a zone: speed × 0.5, drag 2 /s, push 0, 3.00"}
    # Felt by a body that overlaps it when a tick begins, at the row before.
    inside = [row + 1 for row in range(len(trace) - 1) if 1.7 < trace["x"][row] < 4.3 and trace["y"][row] < 3.0]
    assert sorted(found) == inside


@pytest.mark.parametrize(("keys", "where", "factor"), [("right", "uphill", 0.5), ("left", "downhill", 2.0)])
def test_uphill_and_downhill_top_speed_is_described(keys, where, factor):
    drill = make_drill(slopes=[(-20, -10, 20, 10)], start=(0.0, 0.0), solids=[(-30, -12, 30, -11)], length=30,
                       **{keys: [(0, 30)]})  # fmt: skip
    values = {"slope__uphill_factor": 0.5, "slope__downhill_factor": 2.0, "drive__top_speed": 6.0}
    found = words_by_row("on_slope", drill, **values)
    assert set(found.values()) == {f"{where}: top speed 6.00 × {factor:g} u/s"}
    flat = make_drill(length=30, **{keys: [(0, 30)]})
    assert words_by_row("on_slope", flat, **values) == {}


def test_a_net_is_grabbed_climbed_and_let_go():
    drill = make_drill(climb=[(-2, 0, 2, 3)], up=[(5, 80)], length=80)
    found = words_by_row("climb", drill, climb__climb_speed=4.0)
    words = list(found.values())
    assert min(found) == 6
    assert "grabs the net, 4 u/s × intent (0, 1.00)" in words[0]
    assert "climbs, 4 u/s × intent (0, 1.00)" in words[1]
    assert words.count("lets go: past the end of the climb zone") == 1
    jumping = make_drill(climb=[(-2, 0, 2, 3)], up=[(5, 80)], jump=[(20, 25)], length=40)
    off = words_by_row("climb", jumping, climb__climb_speed=4.0, climb__climb_jump_speed=9.0)[21]
    assert off.endswith("jump off, 9 u/s")


def test_a_fall_at_terminal_speed_is_described_as_long_as_it_holds_back():
    drill = make_drill(start=(0.0, 400.0), length=60)
    values = {"gravity__gravity": 60.0, "gravity__terminal_speed": 10.0}
    found = words_by_row("fall", drill, **values)
    # 60 u/s² make 10 u/s in ten ticks; from the next on it is held back.
    assert sorted(found) == list(range(11, 61))
    assert set(found.values()) == {"vy −11.00 → −10.00: terminal speed 10 u/s"}


def test_dropping_through_a_plank_is_described_once():
    board = make_drill(solids=[FLOOR], oneway=[(-3, 0.8, 3, 1.0)], start=(0.0, 1.0), down=[(8, 50)], length=40)
    found = words_by_row("drop", board, contact__drop_through="down")
    assert len(found) == 1
    assert "what is one-way lets the body down" in next(iter(found.values()))
    assert words_by_row("drop", board, contact__drop_through="none") == {}
