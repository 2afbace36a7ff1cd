import numpy as np
import pytest

from cinetica.reading.alignment import ANCHORS, anchor_row, difference, shift
from cinetica.reading.divergence import first_divergence
from tests.builders import make_drill, make_tune, run

LEDGE = ((-10.0, -1.0, 0.0, 0.0), (-10.0, -9.0, 90.0, -8.0))


def test_traces_line_up_on_what_happens_in_each():
    drill = make_drill(length=120, jump=[(20, 110)])
    early, late = run(make_tune(), drill), run(make_tune(input__latency=5, gravity__gravity=20), drill)
    assert [anchor_row(early, anchor) for anchor in ANCHORS[:3]] == [0, 21, 21]
    assert shift(late, early, "launch") == 5
    times, gap = difference(late, early, "vx", 5)
    assert len(times) == len(early) - 5
    assert times[0] == 0
    assert np.all(gap == 0)
    # 14 u/s against 20 u/s² rises for 42 ticks, against 40 u/s² for 21.
    assert shift(late, early, "apex") == 5 + 21


def test_events_that_never_happen_line_nothing_up():
    still = run(make_tune(), make_drill())
    assert anchor_row(still, "launch") is None
    assert shift(still, still, "launch") == 0


def test_angles_differ_by_the_shorter_way():
    drill = make_drill(view="top", length=10, stick=[(0, -1, -0.01)])
    other = make_drill(view="top", length=10, stick=[(0, -1, 0.01)])
    tune = make_tune("top", facing__facing="direct")
    gap = difference(run(tune, drill), run(tune, other), "facing", 0)[1]
    assert abs(gap[-1]) == pytest.approx(2 * np.degrees(np.arctan(0.01)), abs=1e-6)


def test_equal_traces_never_diverge():
    assert first_divergence(run(), run(), 0.0) is None


def test_traces_diverge_where_the_amount_is_first_exceeded():
    drill = make_drill(right=[(0, 60)])
    slow, fast = run(make_tune(drive__acceleration=30), drill), run(make_tune(drive__acceleration=60), drill)
    # Velocities are 0.5 k and 1 k after k ticks.
    found = first_divergence(slow, fast, 1.75, columns=("vx",))
    assert (found.row, found.column) == (4, "vx")
    assert found.values == pytest.approx((2.0, 4.0))
    assert found.cause_row == 1
    assert "acceleration 30" in found.reason
    assert "acceleration 60" in found.reason


def test_an_expired_press_is_described_with_its_frames():
    drill = make_drill(length=90, start=(0, 1), jump=[(3, 20)])
    late, early = make_tune(jump__buffer=0.4), make_tune(jump__buffer=0.05)
    found = first_divergence(run(late, drill), run(early, drill), 0.05)
    # It falls 1 u in 13 ticks and could launch in the next; with 3 ticks of buffer the press is lost in frame 8.
    assert "A launches" in found.reason
    assert "its press at frame 4 expired after the buffer of 0.05 s" in found.reason
    assert found.reason.endswith("0.05 s, 6 ticks before it could launch (it lands at frame 13)")
    # With 9 ticks of buffer it is lost in the very tick in which the other launches.
    found = first_divergence(run(late, drill), run(make_tune(jump__buffer=0.15), drill), 0.05)
    assert found.reason.endswith("B: its press at frame 4 expired after the buffer of 0.15 s")


def test_a_press_that_has_launched_before_is_described():
    """At 14 u/s under 40 u/s² it lands after 41 ticks, in frame 44: holding launches again, a press does not."""
    drill = make_drill(length=90, jump=[(3, 80)])
    held, pressed = run(make_tune(jump__repeat="hold"), drill), run(make_tune(), drill)
    for one, other, names in ((held, pressed, "AB"), (pressed, held, "BA")):
        used = f"{names[1]}: its press at frame 4 was already used at frame 4"
        assert first_divergence(one, other, 0.05).reason == f"{names[0]} launches; {used}"


def test_a_press_after_the_coyote_time_is_described():
    drill = make_drill(length=60, start=(-0.5, 0), solids=LEDGE, right=[(0, 60)], jump=[(25, 40)])
    found = first_divergence(
        run(make_tune(jump__coyote=0.4, jump__buffer=0), drill),
        run(make_tune(jump__coyote=0.02, jump__buffer=0), drill),
        0.05,
    )
    # It leaves the ground in frame 12. By the press 14 ticks have passed, and 0.02 s are 1.2 of them.
    late = "its press at frame 26 came 13 ticks after its coyote time of 0.02 s, begun at frame 12, was over"
    assert found.reason == f"A launches; B: {late}"


def test_a_press_in_the_air_says_what_it_waits_for():
    again = make_drill(length=60, jump=[(5, 7), (12, 14)])
    kept, spent = (make_tune(jump__coyote=0.3, jump__spend_grace=each) for each in (False, True))
    reason = first_divergence(run(kept, again), run(spent, again), 0.05).reason
    assert reason == "A launches; B: it is still in its coyote time, but the launch at frame 6 has spent it"
    late = make_drill(length=60, jump=[(5, 7), (16, 18)])
    two, one = (make_tune(jump__air_jumps=each, jump__buffer=0.2) for each in (1, 0))
    reason = first_divergence(run(two, late), run(one, late), 0.05).reason
    assert reason == "A launches; B: it is in the air, and its press at frame 17 waits in the buffer"


def test_a_rule_that_acts_in_only_one_is_named():
    drill = make_drill(jump=[(2, 8)])
    found = first_divergence(
        run(make_tune(jump__short_hop="none"), drill), run(make_tune(jump__cut_factor=0.5), drill), 0.1
    )
    assert found.reason.startswith("B: vy ")
    assert found.reason.endswith(": short hop cut × 0.5; no such thing in A")
    assert found.row == found.cause_row == 9


def test_a_rule_with_other_numbers_is_named_with_both():
    fall = make_drill(length=40, start=(0.0, 30.0), solids=())
    slow, fast = (run(make_tune(gravity__gravity=gravity), fall) for gravity in (20, 40))
    reason = first_divergence(slow, fast, 0.05).reason
    assert reason == "A: vy 0 → −0.33: gravity 20 u/s² × 1/60 s; B: vy 0 → −0.67: gravity 40 u/s² × 1/60 s"


def test_runs_that_begin_in_other_places_differ_from_the_start():
    here, there = (run(make_tune(), make_drill(length=10, start=(x, 0.0))) for x in (0.0, 1.0))
    found = first_divergence(here, there, 0.5)
    assert (found.row, found.cause_row, found.reason) == (0, 0, "A and B differ from the start on")


def test_faster_from_the_start_without_another_rule():
    """At 1 and 2 u/s without friction the gap in x grows by 1/60 u per tick: over 0.055 u in the fourth."""
    drill = make_drill(length=20)
    slow, fast = (drill.model_copy(update={"start_velocity": (speed, 0.0)}) for speed in (1.0, 2.0))
    tune = make_tune(drive__friction=0.0)
    found = first_divergence(run(tune, slow), run(tune, fast), 0.055, columns=("x",))
    assert found.row == 4
    assert found.reason.startswith("A and B are moved by the same rules with the same numbers; what differs is where")


def test_the_column_that_differs_first_is_named():
    run_later = make_drill(length=40, start=(0.0, 30.0), solids=(), right=[(20, 40)])
    slow, fast = (run(make_tune(gravity__gravity=each, drive__top_speed=each), run_later) for each in (20, 40))
    assert first_divergence(slow, fast, 0.05, columns=("x", "y")).column == "y"


def test_a_launch_is_looked_up_in_the_aligned_row():
    """The second input comes five frames later; lined up on the press, both launch, and neither missed the other's."""
    early, late = make_drill(length=60, jump=[(10, 40)]), make_drill(length=60, jump=[(15, 45)])
    one, other = run(make_tune(jump__jump_speed=12), early), run(make_tune(jump__jump_speed=13), late)
    found = first_divergence(one, other, 0.5, rows_later=5)
    assert found.row == 11
    assert found.values[0] < found.values[1]
    assert "launches;" not in found.reason
    assert "12" in found.reason
    assert "13" in found.reason
