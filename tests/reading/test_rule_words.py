"""Explain describes each rule, other than the drive, in exactly the rows in which it acts."""

import pytest

from cinetica.model.course import Zone
from cinetica.model.take import Shove
from cinetica.reading.explain import explain
from tests.builders import FLOOR, make_drill, make_tune, rows_of, run
from tests.reading.test_explain import adds_up


def words_by_row(rule, drill, view="side", **values):
    """The words of a rule, by row."""
    trace = run(make_tune(view, **values), drill)
    lines = ((row, line) for row in range(1, len(trace)) for line in explain(trace, row))
    return {row: line.words for row, line in lines if line.rule == rule}


def with_course(drill, **changes):
    return drill.model_copy(update={"course": drill.course.model_copy(update=changes)})


# From input to intent


def test_the_intent_is_described_where_it_changes():
    """Frame k is read by the tick that ends in row k + 1."""
    drill = make_drill(right=[(10, 30)], length=50)
    assert words_by_row("intend", drill) == {11: "intent 0 → 1.00: hands 1.00", 31: "intent 1.00 → 0: hands 0"}
    late = words_by_row("intend", drill, input__latency=3)
    assert late == {14: "intent 0 → 1.00: hands 1.00, 3 ticks late", 34: "intent 1.00 → 0: hands 0, 3 ticks late"}


def test_the_intent_has_two_numbers_in_top_view_and_with_vertical_motion():
    drill = make_drill(view="top", up=[(10, 30)], length=40)
    assert words_by_row("intend", drill, "top") == {
        11: "intent (0, 0) → (0, 1.00): hands (0, 1.00)", 31: "intent (0, 1.00) → (0, 0): hands (0, 0)",
    }  # fmt: skip


def test_a_growing_intent_is_described_while_it_grows():
    """In 5 s, so by 0.00333 per tick; while it grows the input is unchanged."""
    found = words_by_row("intend", make_drill(right=[(5, 8)], length=12), input__key_attack=5.0)
    assert found == {
        6: "intent 0 → 0.00333: hands 1.00", 7: "intent 0.00333 → 0.00667: hands 1.00",
        8: "intent 0.00667 → 0.01: hands 1.00", 9: "intent 0.01 → 0: hands 0",
    }  # fmt: skip


# Presses and launches


def test_a_second_coyote_jump_says_why_the_grace_was_not_spent():
    drill = make_drill(jump=[(2, 4), (6, 20)], length=20)
    words = words_by_row("launch", drill, jump__coyote=0.3, jump__spend_grace=False)
    assert "coyote" not in words[3]
    assert words[7].endswith(
        ", in coyote time 0.0667 s after the ground; the jump 0.0667 s ago has not spent it, since jump spends grace is"
        " set to no"
    )
    assert list(words_by_row("launch", drill, jump__coyote=0.3)) == [3]


def test_every_release_cuts_under_that_rule():
    drill = make_drill(jump=[(2, 10), (14, 18)], length=30)
    values = {"jump__short_hop": "cut", "jump__cut_factor": 0.5, "gravity__gravity": 10.0}
    assert words_by_row("cut_again", drill, jump__cut_repeat="every", **values) == {
        11: "vy 12.67 → 6.33: short hop cut × 0.5, at every release",
        19: "vy 5.00 → 2.50: short hop cut × 0.5, at every release",
    }  # fmt: skip
    assert words_by_row("cut_again", drill, **values) == {}


def test_a_press_is_described_once_and_again_if_lost():
    falling = make_drill(start=(0.0, 400.0), jump=[(10, 12)], length=40)
    assert words_by_row("arm", falling, jump__buffer=0.1) == {
        11: "jump pressed: remembered for 0.1 s", 18: "press lost: 0.12 s old, the buffer is 0.1 s",
    }  # fmt: skip


def test_a_launch_names_what_it_used():
    drill = make_drill(right=[(0, 60)], jump=[(40, 45)], length=60)
    speed = run(make_tune(drive__top_speed=6.0), drill)["vx"][40]
    assert speed == 6.0
    (words,) = words_by_row("launch", drill, jump__jump_speed=12.0, drive__top_speed=6.0).values()
    assert words == "vy 0 → 12.00: launch, jump speed 12 u/s"
    (words,) = words_by_row("launch", drill, jump__jump_speed=12.0, drive__top_speed=6.0, jump__run_boost=0.5).values()
    assert words == "vy 0 → 15.00: launch, jump speed 12 + run boost 0.5 × 6.00 u/s"


def test_a_coyote_launch_says_how_long_after_leaving_the_ground():
    """Off a ledge at 0.5 u with 6 u/s; the press comes within the coyote time."""
    ledge = make_drill(solids=[(-20, -1, 0.5, 0)], right=[(0, 40)], jump=[(20, 30)], length=40)
    values = {"drive__law": "instant", "drive__top_speed": 6.0, "jump__coyote": 0.3, "body__width": 0.6}
    trace = run(make_tune(**values), ledge)
    left, launched = rows_of(trace, "leave")[0], rows_of(trace, "launch")[0]
    assert left < launched == 21
    # It leaves in the tick that ends in row 8, and launches 13 ticks later.
    assert left == 8
    assert words_by_row("launch", ledge, **values)[21].endswith("in coyote time 0.22 s after the ground")


def test_a_buffered_launch_says_the_age_of_its_press():
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
    # A zone acts on a body that overlaps it when a tick begins, in the row before.
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


def test_terminal_speed_is_described_while_it_limits_the_fall():
    drill = make_drill(start=(0.0, 400.0), length=60)
    values = {"gravity__gravity": 60.0, "gravity__terminal_speed": 10.0}
    found = words_by_row("fall", drill, **values)
    # 60 u/s² give 10 u/s in ten ticks; from the next one on it is limited.
    assert sorted(found) == list(range(11, 61))
    assert set(found.values()) == {"vy −11.00 → −10.00: terminal speed 10 u/s"}


def test_dropping_through_a_plank_is_described_once():
    board = make_drill(solids=[FLOOR], oneway=[(-3, 0.8, 3, 1.0)], start=(0.0, 1.0), down=[(8, 50)], length=40)
    found = words_by_row("drop", board, contact__drop_through="down")
    assert len(found) == 1
    assert "what is one-way lets the body down" in next(iter(found.values()))
    assert words_by_row("drop", board, contact__drop_through="none") == {}


def test_a_turned_facing_is_described_unless_a_heading_turns_it():
    turns = {"right": [(0, 10)], "left": [(10, 20)], "length": 30}
    mirrored = words_by_row("face_and_look", make_drill(**turns), facing__facing="mirror")
    assert mirrored == {11: "facing 0° → 180.00°: mirror"}
    assert not words_by_row("face_and_look", make_drill(view="top", **turns), "top", drive__law="steer")


# Contact. A body of 1 × 1 u runs at 6 u/s, 0.1 u per tick; gravity of 40 u/s² takes 0.67 u/s and 0.0111 u in one.

BOX = {"body__width": 1.0, "body__height": 1.0, "drive__law": "instant", "drive__top_speed": 6.0}
RIGHT = {"right": [(0, 60)], "length": 26}
GROUND = "vy −0.67 → 0, y −0.0111 → 0: the ground"


def all_words(drill, row, view="side", **values):
    """The words of contact and slopes in a row, by rule; several of one rule are joined."""
    found = {}
    for each in explain(run(make_tune(view, **(BOX | values)), drill), row):
        if each.rule in {"move", "slip", "climb_to", "feel_lines", "snap", "seen", "show_late"}:
            found[each.rule] = f"{found[each.rule]} | {each.words}" if each.rule in found else each.words
    return found


def test_walls_and_ground_stop_the_velocity_into_them():
    drill = make_drill(solids=[FLOOR, (2, 0, 3, 9)], **RIGHT)
    assert all_words(drill, 15) == {"move": GROUND}
    assert all_words(drill, 16) == {"move": f"vx 6.00 → 0, x 1.60 → 1.50: a wall | {GROUND}"}
    above = make_drill(view="top", solids=[(2, -3, 3, 3)], up=[(0, 60)], right=[(0, 60)], length=30)
    assert all_words(above, 24, "top")["move"].endswith("→ 1.50: a wall")
    beside = make_drill(view="top", solids=[(-3, 2, 3, 3)], up=[(0, 60)], length=30)
    assert all_words(beside, 16, "top") == {"move": "vy 6.00 → 0, y 1.60 → 1.50: a wall"}


def test_a_wall_that_stops_all_motion_stops_a_rise_too():
    drill = make_drill(solids=[FLOOR, (2, 0, 3, 9)], right=[(10, 60)], jump=[(4, 60)], length=26)
    values = {"gravity__gravity": 6.0, "jump__jump_speed": 14.0}
    stopped = all_words(drill, 26, contact__wall="stop", **values)["move"]
    assert stopped.startswith("vx 6.00 → 0, x 1.60 → 1.50: a wall | vy 11.80 → 0, ")
    assert stopped.endswith(": a wall that stops all motion")
    assert all_words(drill, 26, **values) == {"move": "vx 6.00 → 0, x 1.60 → 1.50: a wall"}


def test_a_ceiling_a_corner_and_a_step_are_named():
    jump = {"jump": [(0, 60)], "length": 8}
    floats = {"gravity__gravity": 0.0, "jump__jump_speed": 12.0}
    beam = make_drill(solids=[FLOOR, (-2, 2, 3, 9)], **jump)
    assert all_words(beam, 6, **floats) == {"move": "vy 12.00 → 0, y 1.20 → 1.00: a ceiling"}
    corner = make_drill(solids=[FLOOR, (0.4, 2, 3, 9)], **jump)
    assert all_words(corner, 6, contact__corner_slip=0.2, **floats) == {"slip": "x 0 → −0.1: past a corner overhead"}
    # A wall in the same tick, and no corner to slip past.
    both = make_drill(solids=[FLOOR, (-2, 2, 9, 9), (1.05, 0, 9, 9)], right=[(0, 60)], **jump)
    found = "vx 6.00 → 0, x 0.60 → 0.55: a wall | vy 12.00 → 0, y 1.20 → 1.00: a ceiling"
    assert all_words(both, 6, contact__corner_slip=0.2, **floats) == {"move": found}
    kerb = make_drill(solids=[FLOOR, (1, 0, 3, 0.3)], **RIGHT)
    up = all_words(kerb, 6, contact__step_height=0.5, gravity__gravity=0.0)
    assert up == {"move": "y 0 → 0.30: up a step: step height 0.5 u"}


def test_late_contact_is_resolved_in_the_next_tick():
    drill = make_drill(solids=[FLOOR, (2, 0, 3, 9)], **RIGHT)
    shown, put_back = "late contact: shown inside of what blocks it", "late contact: put back to the near side of what"
    # On the ground from the first tick, and in the wall from the sixteenth.
    assert all_words(drill, 1, contact__late=True)["show_late"] == shown
    assert all_words(drill, 16, contact__late=True)["show_late"] == f"{put_back} blocked it | {shown}"
    assert "show_late" not in all_words(drill, 16)
    trace = run(make_tune(**BOX, contact__late=True), drill)
    assert (trace["x"][16], trace["vx"][16]) == (pytest.approx(1.6), 6.0)
    adds_up(trace, range(1, len(trace)))
    # In a wall halfway up a ramp only the displacement is put back; the velocity on a line is explained by itself.
    on_ramp = make_drill(solids=[FLOOR, (4, 0, 5, 9)], slopes=[(2, 0, 8, 3)], right=[(0, 60)], length=50)
    trace = run(make_tune(**BOX, contact__late=True), on_ramp)
    assert trace["x"][36] < 3.5 < trace["x"][37]
    adds_up(trace, range(1, len(trace)))


# Slopes


def test_a_walk_up_a_ramp_follows_the_slope_pace():
    """At 45° the feet rise and advance 6/√2 u/s, 0.0707 u a tick; they reach the ramp in the eleventh."""
    drill = make_drill(slopes=[(1, 0, 4, 3)], **RIGHT)
    travel = words_by_row("travel", drill, **BOX)
    assert [each in travel[row] for each, row in ((" × cos 45.00°, along the slope", 12), ("cos", 10))] == [True, False]
    assert all_words(drill, 10) == {"move": GROUND}
    assert all_words(drill, 11) == {
        "climb_to": "y 0 → 0.0707: carried up a slope of 45.00°",
        "feel_lines": "y 0.0596 → 0.0707: on the slope",
        "seen": "shown vx 4.24, vy 4.24: the rate at which the feet rose",
    }
    assert set(all_words(drill, 12)) == {"climb_to", "feel_lines"}


def test_a_steep_slope_is_a_wall_uphill_and_a_slide_downhill():
    drill = make_drill(slopes=[(1, 0, 2, 4)], **RIGHT)
    assert all_words(drill, 11)["feel_lines"] == "vx 6.00 → 0: uphill it is steeper than 50°, a wall"
    falling = make_drill(slopes=[(1, 0, 2, 4)], start=(1.5, 4.0), length=26)
    words = next(found for row in range(1, 26) if (found := all_words(falling, row)))
    # A fall at 12.67 u/s onto a line that rises by 4: what is left is v · (1, 4)/√17, down the line.
    assert words["feel_lines"] == (
        "vx 0 → −2.98, vy −12.67 → −11.92: too steep, it slides; the velocity along the line is left"
    )


def test_over_a_crest_the_body_snaps_down_or_leaves_the_ground():
    """Down a slope of 1 in 2 at 12 u/s a tick lowers the ground by 0.0894 u, and gravity the body by 0.0111 u."""
    drill = make_drill(slopes=[(-4, 0, 0, 1), (0, 1, 4, -1)], start=(-1.0, 0.75), **RIGHT)
    assert all_words(drill, 8, drive__top_speed=12.0) == {"snap": "set down by 0.0783 u: ground snap 0.25 u"}
    off = all_words(drill, 6, drive__top_speed=12.0, slope__ground_snap=0.0)
    assert off["snap"] == "leaves the slope, which is 0.071 u under it: ground snap is 0 u"
    assert off["seen"] == "shown vx 11.64, vy −0.67: off the slope"


def test_running_off_a_ramp_keeps_its_share_of_the_rise():
    drill = make_drill(slopes=[(1, 0, 2, 1)], **RIGHT)
    words = all_words(drill, 25, slope__slope_carry=0.5)["seen"]
    assert words == "vy −0.67 → 1.45: slope carry 0.5 × 4.24 u/s | shown vx 4.24, vy 1.45: off the slope"
    still = make_drill(slopes=[(-4, -4, 4, 4)], start=(1.0, 1.0), length=4)
    assert all_words(still, 2) == {"feel_lines": "y 0.99 → 1.00: on the slope"}
