"""Functions of readings, one at a time, against numbers worked out by hand."""

import math
from types import SimpleNamespace

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.conventions import Angle, Conventions, Per, Times
from cinetica.model.course import Slope
from cinetica.model.targets import Target
from cinetica.model.tune import Integrator, parameter_by_id
from cinetica.motion.records import (
    AIR_LAUNCH,
    APEX,
    BUFFERED_LAUNCH,
    CLIMB_OFF,
    CLIMB_ON,
    COYOTE_LAUNCH,
    LAND,
    LAUNCH,
    LOST_PRESS,
    PRESS,
    tune_records,
)
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.goal_seek import _closed_form
from cinetica.reading.match.footage import _between, _cut
from cinetica.reading.match.search import _apart, open_choices
from cinetica.reading.match.wanted import FEWEST, LEAP, Wanted, leap_of
from cinetica.reading.phrases import Phrases, figure, seconds
from cinetica.reading.poses import _above, _held, cycles_of
from cinetica.reading.press_outcomes import (
    BUFFERED,
    COYOTE,
    FROM_GROUND,
    IN_AIR,
    LOST,
    OFF_NET,
    follow,
    has_no_effect,
    last_chance,
)
from cinetica.reading.rate_comparison import _spread, _worst
from cinetica.reading.run_reader import presses_in
from cinetica.reading.spans import state_runs
from cinetica.reading.survey.ground_reach import RUNNING, STANDING, spread
from cinetica.reading.survey.parameter_map import _allowed, levels
from cinetica.reading.survey.press_shifts import _rows_of
from cinetica.reading.survey.press_windows import NOWHERE, TRIES, _places, _scattered, clocks_of, place_words
from cinetica.reading.survey.reach import MARGIN, Way, _needed, _with_margin, reach
from cinetica.reading.survey.sensitivity import _sides, near_their_edge
from cinetica.reading.survey.variations import varied
from cinetica.reading.sweeps import combined, sweep
from tests.builders import make_drill, make_tune, run

HARBOUR = shipped_study("harbour")
H = 1 / 60


# Spans and poses


def test_states_begin_with_that_of_the_first_tick():
    """A body 0.1 u above the floor falls 0.0111, 0.0333, 0.0667 u, and lands in the fourth tick."""
    trace = run(make_tune(), make_drill(start=(0.0, 0.1), length=8))
    (_, start, end), (_, down, last) = state_runs(trace)
    assert (start, end) == (0.0, pytest.approx(3 * H))
    assert (down, last) == (end, pytest.approx(8 * H))
    assert state_runs(run(make_tune(), make_drill(length=1))) == [(0, 0.0, pytest.approx(H))]


@pytest.mark.parametrize(
    ("speeds", "above"),
    [
        # Entered above 2 and held down to 1.5; in the air and on landing only the upper threshold counts.
        ([0, 1.9, 2.0, 2.1, 1.6, 1.5, 1.4, 1.6], "00011100"),
        ([2.1, 1.6, 1.6, 2.0, 2.01], "11111"),
    ],
)
def test_a_gait_ends_below_its_threshold(speeds, above):
    ground = np.ones(len(speeds), dtype=bool)
    assert _above(np.array(speeds), 2.0, 0.25, ground).tolist() == [letter == "1" for letter in above]


def test_no_gait_is_held_in_the_air():
    found = _above(np.array([3.0, 1.8, 1.8, 1.8]), 2.0, 0.25, np.array([True, True, False, True]))
    assert found.tolist() == [True, True, False, False]


@pytest.mark.parametrize(
    ("wanted", "hold", "shown"),
    [
        ([1, 2, 3, 3, 1], 0.0, [1, 2, 3, 3, 1]),
        ([1, 2, 3, 3, 1], 2.0, [1, 1, 3, 3, 1]),
        ([1, 2, 1, 3, 3], 2.0, [1, 1, 1, 3, 3]),
        ([1, 1, 2, 1, 1], 1.0, [1, 1, 2, 1, 1]),
        ([1, 2, 2, 2, 2], 9.0, [1, 1, 1, 1, 1]),
    ],
)
def test_a_pose_is_held_before_another_may_follow(wanted, hold, shown):
    assert _held(np.array(wanted), np.arange(5.0), hold).tolist() == shown


def test_a_stride_counts_distance_in_the_plane():
    """Along a slope of 45° the distance is √2 times that across."""
    tune = make_tune(drive__law="instant", drive__top_speed=6.0, pose__stride_run=2.0, pose__run_above=1.0)
    trace = run(tune, make_drill(slopes=[(-9, -9, 9, 9)], start=(0.0, 0.0), right=[(0, 60)], length=60))
    way = float(np.hypot(np.diff(trace["x"]), np.diff(trace["y"])).sum())
    assert way == pytest.approx(6.0, rel=0.02)
    assert cycles_of(trace.rows, tune)[-1] == pytest.approx(way / 2.0)


# Presses


@pytest.mark.parametrize(
    ("start", "until", "row"),
    [
        # A clock that reads every second frame: a press of frame 1 alone is not read, one of 2 in the second row.
        (1, 2, 0), (2, 3, 1), (3, 5, 2), (4, 5, 2), (5, 9, 0), (0, 1, 0),
    ],
)  # fmt: skip
def test_a_press_is_read_in_the_first_row_of_its_frames(start, until, row):
    read, pressed = np.array([0, 2, 4], np.int32), np.ones((1, 3), dtype=bool)
    found = _rows_of(pressed, np.array([start], np.int32), np.array([until], np.int32), np.array([True]), read)
    assert found.tolist() == [row]
    none = _rows_of(pressed, np.array([start], np.int32), np.array([until], np.int32), np.array([False]), read)
    assert none.tolist() == [0]


def test_presses_that_touch_are_one():
    assert presses_in(make_drill(length=40, jump=[(0, 3), (4, 6), (6, 9), (20, 21)]).take) == 3


def test_the_compared_machines_include_a_hitch_within_the_take():
    assert clocks_of(HARBOUR.clock, 2.0)["hitch"].hitches == ((0.8, 0.08),)


@pytest.mark.parametrize(("h", "words"), [(1 / 60, "1/60 s"), (0.3, "0.3 s"), (2.0, "2 s"), (1.0, "1 s"), (0.0, "0 s")])
def test_a_tick_is_written_as_a_fraction_where_it_is_one(h, words):
    assert seconds(h) == words


def test_small_numbers_have_three_digits_and_others_two_decimals():
    values = (0.0, 0.0123456, 0.1, -12.345, math.inf)
    assert [figure(value) for value in values] == ["0", "0.0123", "0.10", "−12.35", "∞"]


def test_a_tick_is_a_frame_of_the_game():
    frames, times = (Phrases(DisplayUnits(Conventions(times=each))) for each in (Times.FRAME, Times.MILLISECOND))
    assert [frames.duration(h) for h in (1 / 60, 1 / 30)] == ["1 frame", "2 frames"]
    assert times.duration(0.001) == "1 ms"


def test_a_body_lands_on_a_flat_top_by_its_edge_and_on_a_slope_by_its_middle():
    course = make_drill(solids=[(0, -1, 8, 0)], slopes=[(8, 0, 12, 2)]).course
    x = np.array([-0.4, -0.6, 4.0, 8.4, 10.0, 12.4, 4.0, 10.0])
    y = np.array([0.0, 0.0, 0.0, 0.0, 1.0, 2.0, 0.5, 1.0])
    outcomes = np.rec.fromarrays([np.array([5] * 7 + [0]), x, y], names="landing,x,y")
    found = _places(course, outcomes, 1.0)
    assert found.tolist() == [0, NOWHERE, 0, 0, 1, NOWHERE, NOWHERE, NOWHERE]
    assert place_words(course, 0) == "the top at 0 u, x from 0 to 8"
    assert place_words(course, 1) == "the top at 0 to 2 u, x from 8 to 12"
    down = course.model_copy(update={"slopes": (Slope(8, 3, 12, -1),)})
    assert place_words(down, 1) == "the top at −1 to 3 u, x from 8 to 12"


def test_a_scattered_hand_is_normally_distributed_around_the_middle_of_its_frame():
    assert _scattered(0.0, 60.0) == ((0,), (TRIES,))
    shifts, counts = (np.array(each) for each in _scattered(100.0, 60.0))
    assert counts.sum() == TRIES
    # 100 ms are 6 frames.
    assert abs(shifts @ counts / TRIES) < 3 * 6 / math.sqrt(TRIES)
    assert math.sqrt(shifts**2 @ counts / TRIES) == pytest.approx(6.0, rel=0.06)


# Reach


@pytest.mark.parametrize(
    ("marks", "frames"),
    [
        ({2: LAUNCH, 6: APEX}, 5), ({2: LAUNCH | APEX}, 1), ({2: LAUNCH}, 8), ({1: APEX, 2: LAUNCH, 4: APEX}, 3),
        ({2: LAUNCH, 4: APEX, 7: APEX}, 3),
    ],
)  # fmt: skip
def test_a_full_jump_is_held_from_the_launch_to_the_top(marks, frames):
    """Ten rows at 60/s; the press is in the row before the launch."""
    rows = np.rec.fromarrays(
        [np.arange(10) * H, np.array([marks.get(row, 0) for row in range(10)])], names="time,marks"
    )
    assert _needed(rows, 60.0) == frames
    assert _needed(rows, 120.0) == 2 * frames


def test_a_jump_with_a_margin_is_pressed_earlier_and_held_for_less():
    assert _with_margin(Way(RUNNING, 20, "kept", 0), 12) == Way(RUNNING, 12 - MARGIN, "kept", MARGIN)
    assert _with_margin(Way(STANDING, 8, "kept", 0), 12) == Way(STANDING, 8 - MARGIN, "kept", 0)
    assert _with_margin(Way(STANDING, 1, "kept", 0), 12).held == 1


@pytest.mark.parametrize("name", ["Wren", "Bramble"])
def test_a_gap_is_never_safer_than_it_is_wide(name):
    tune = HARBOUR.tune(name)
    found = reach(tune, HARBOUR.clock, RUNNING)
    crossed = [gap for gap in found.gaps if gap.widest is not None]
    assert all(gap.safe is None or 0.0 < gap.safe <= gap.widest for gap in crossed)
    assert [gap.widest for gap in crossed] == sorted((gap.widest for gap in crossed), reverse=True)
    # Just below the highest step a jump that is held shorter is not high enough.
    (top,) = reach(tune, HARBOUR.clock, RUNNING, (0.5 * (found.step + found.easy_step),)).gaps
    assert found.easy_step < found.step
    assert top.widest > 0.0
    assert top.safe is None


def test_standing_and_running_starts_in_top_view_differ_in_speed():
    """With instant top speed every point is equally far, whatever came before."""
    tune = make_tune("top", drive__law="instant", drive__top_speed=6.0)
    for start in (STANDING, RUNNING):
        found = spread(tune, HARBOUR.clock, start)
        for x, y in found.places:
            assert np.ptp(np.hypot(x, y)) < 1e-9


# Targets and sweeps


def test_targets_are_collected_from_drills_of_the_same_view():
    target = Target(measure="top_speed_reached", low=0.0, high=1e6)
    drills = tuple(
        drill.model_copy(update={"targets": (target,) if drill.view == "top" else ()}) for drill in HARBOUR.drills
    )
    study = HARBOUR.model_copy(update={"drills": drills})
    assert any(drill.targets for drill in study.drills)
    assert near_their_edge(study, HARBOUR.tune("Wren")) == []


def test_a_sweep_without_chosen_figures_has_those_of_any_run():
    drill = make_drill(right=[(2, 60)], length=60)
    every = sweep(make_tune(), drill, HARBOUR.clock, {"drive.top_speed": [4.0, 5.0]})
    assert "time_to_top_speed" in every.figures
    assert "jump_height" not in every.figures
    assert all(not np.isnan(values).all() for values in every.figures.values())
    some = sweep(make_tune(), drill, HARBOUR.clock, {"drive.top_speed": [4.0, 5.0]}, ["jump_height"])
    assert list(some.figures) == ["jump_height"]
    assert np.isnan(some.figures["jump_height"]).all()
    with pytest.raises(KeyError, match="no figure 'hight'"):
        sweep(make_tune(), drill, HARBOUR.clock, {"drive.top_speed": [4.0]}, ["hight"])


@pytest.mark.parametrize(
    ("least", "greatest", "found"),
    [
        (0.0, 10.0, [2, 4, 6, 8]), (0.0, 9.0, [1, 2, 3, 4, 5, 6, 7, 8]),
        (-4.0, 41.0, [0, 5, 10, 15, 20, 25, 30, 35, 40]),
        (0.0, 0.9, [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8]), (3.0, 3.0, []), (-4.0, 6.0, [-2, 0, 2, 4]),
    ],
)  # fmt: skip
def test_levels_are_round_and_lie_between_the_least_and_the_greatest(least, greatest, found):
    assert levels(np.array([[least, greatest], [np.nan, least]])) == pytest.approx(found)


def test_a_value_on_the_edge_of_its_target_meets_it():
    """Except for rounding; an absent figure misses it."""
    values = np.array([[2.0 - 2e-9, 2.0 - 1e-9, 3.0, 4.0 + 3e-9, 4.0 + 1e-8, np.nan]])
    target = Target(measure="jump_height", low=2.0, high=4.0)
    met = _allowed([target], {"jump_height": values})
    assert met.tolist() == [[True, True, True, True, False, False]]
    assert [target.misses_by(value) == 0.0 for value in values[0, :5]] == met[0, :5].tolist()
    assert _allowed([], {"jump_height": values}) is None
    below = _allowed([Target(measure="jump_height", high=3.0)], {"jump_height": values})
    assert below.tolist() == [[True, True, True, False, False, False]]


def test_a_variation_of_nothing_is_the_tune_itself():
    (record,) = varied(make_tune(jump__jump_speed=13.0), {})
    assert record.jump_speed == 13.0


def test_the_last_number_varies_fastest():
    values = {"a": [1.0, 2.0], "b": ["x", "y", "z"]}
    found = combined(values, 2, 5)
    assert found["a"].tolist() == [1.0, 2.0, 2.0]
    assert found["b"].tolist() == ["z", "x", "y"]


def test_sensitivity_tries_a_little_less_and_more_within_limits():
    whole = SimpleNamespace(kind="whole", low=0, high=5, comfort=(0, 5))
    assert _sides(whole, 2) == (1.0, 3.0, 1.0)
    assert _sides(whole, 0) == (0, 1.0, 1.0)
    number = SimpleNamespace(kind="number", low=0.0, high=100.0, comfort=(10.0, 60.0))
    low, high, step = _sides(number, 40.0)
    assert step / 40.0 == _sides(number, 20.0)[2] / 20.0
    assert (low, high) == (40.0 - step, 40.0 + step)
    # Close to 0 it is a share of the comfortable range.
    assert [_sides(number, value)[2] for value in (0.0, 0.4)] == pytest.approx([step / 40.0 * 50.0] * 2)


# Tick rates


def test_figures_spread_by_a_share_of_the_largest():
    assert _spread((2.0, 1.0, 1.5)) == 0.5
    assert _spread((-2.0, -1.0)) == 0.5
    assert _spread((0.0, 0.0)) == 0.0
    assert _worst({"a": (2.0, 1.9), "b": (4.0, 3.0)}, ()) == 0.25
    # A figure that only some rates show differs completely.
    assert _worst({"a": (2.0, 1.9)}, (object(),)) == 1.0
    assert _worst({}, ()) == 0.0


# Goals


@pytest.mark.parametrize(
    ("integrator", "gravity"),
    [
        # 3 u in half a second, 30 ticks: g = 2h/T², or h over the sum of the ticks.
        (Integrator.MIDPOINT, 24.0),
        (Integrator.VELOCITY_FIRST, 3.0 / (0.25 - 15.5 * 30 / 3600)),
        (Integrator.POSITION_FIRST, 3.0 / (31 * 0.5 / 60 - 31 * 15 / 3600)),
    ],
)
def test_gravity_and_jump_speed_of_a_jump_follow_from_its_height_and_time(integrator, gravity):
    tune = make_tune(stepping__integrator=integrator.value)
    trace = run(tune, make_drill(jump=[(0, 60)], length=60))
    task = SimpleNamespace(tune=tune, trace=lambda _: trace)
    v, g = _closed_form(task, 3.0, 0.5)
    assert g == pytest.approx(gravity)
    assert v == pytest.approx(gravity * 0.5)


# Matching


@pytest.mark.parametrize(("count", "leaps"), [(2 * FEWEST - 1, False), (2 * FEWEST, True)])
def test_jumps_are_detected_only_in_curves_that_are_long_enough(count, leaps):
    x = np.arange(count + 1) * 0.1
    x[5:] += 0.1 * LEAP * 10
    found = leap_of(Wanted(np.arange(count + 1) * H, {"x": x, "y": np.zeros(count + 1)}, {"x": 1.0}))
    assert found == ((pytest.approx(4 * H), pytest.approx(0.1 + LEAP)) if leaps else None)


@pytest.mark.parametrize(("leaps", "found"), [(1, True), (2, True), (3, False)])
def test_three_steps_of_a_size_are_no_jump(leaps, found):
    x = np.arange(40) * 0.1
    for place in range(leaps):
        x[8 * (place + 1) :] += 10.0
    wanted = Wanted(np.arange(40) * H, {"x": x, "y": np.zeros(40)}, {"x": 1.0})
    assert (leap_of(wanted) is not None) is found


@pytest.mark.parametrize(
    ("peak", "found"), [((1.3, 2.8), (1.3, 2.8)), ((0.0, 2.0), (0.0, 2.0)), ((4.0, 4.0), (4.0, 4.0))]
)
def test_subpixel_positions_are_the_vertex_of_a_parabola(peak, found):
    down, across = np.mgrid[0:5, 0:5]
    likeness = 1.0 - 0.1 * (down - peak[0]) ** 2 - 0.05 * (across - peak[1]) ** 2
    at = np.unravel_index(int(likeness.argmax()), likeness.shape)
    assert _between(likeness, at) == pytest.approx(found)
    assert _between(np.ones((5, 5)), (np.intp(2), np.intp(2))) == (2.0, 2.0)


def test_a_crop_is_limited_to_the_picture():
    picture = np.arange(30.0).reshape(5, 6)
    part, corner = _cut(picture, (2.7, 1.2), 1)
    assert (part.tolist(), corner) == (picture[0:3, 1:4].tolist(), (1, 0))
    part, corner = _cut(picture, (5.5, 4.0), 2)
    assert (part.tolist(), corner) == (picture[2:5, 3:6].tolist(), (3, 2))
    part, corner = _cut(picture, (0.0, 0.0), 1)
    assert (part.tolist(), corner) == (picture[0:2, 0:2].tolist(), (0, 0))
    assert _cut(picture, (20.0, 20.0), 1)[0].size == 0


def test_nearly_equal_candidates_are_merged():
    members = np.array([[0.0, 0.0], [0.01, 0.0], [0.0, 0.03], [0.5, 0.5]])
    assert [member.tolist() for member in _apart(members, 2)] == [[0.0, 0.0], [0.0, 0.03]]
    assert len(_apart(members, 9)) == 3


def test_open_choices_include_every_option():
    tune = make_tune()
    assert open_choices(tune, ["jump.spend_grace", "jump.repeat"]) == {
        "jump.spend_grace": (False, True), "jump.repeat": ("press", "hold"),
    }  # fmt: skip
    with pytest.raises(ValueError, match=r"drive\.top_speed is not a choice"):
        open_choices(tune, ["drive.top_speed"])


# Units


def test_only_an_upward_speed_may_be_given_with_either_sign():
    down = DisplayUnits(Conventions(y_down=True))
    assert (
        down.kept(parameter_by_id("jump.jump_speed"), -5.0) == down.kept(parameter_by_id("jump.jump_speed"), 5.0) == 5.0
    )
    assert down.kept(parameter_by_id("drive.top_speed"), -5.0) == -5.0


def test_angles_turn_within_a_turn_of_the_games_unit():
    degrees, radians = (DisplayUnits(Conventions(angle=angle)) for angle in (Angle.DEGREE, Angle.RADIAN))
    assert degrees.column("facing").shown(350.0) == pytest.approx(-10.0)
    assert radians.column("facing").shown(350.0) == pytest.approx(math.radians(-10.0))
    assert degrees.slope(-12.34) == "−12.3°"
    assert radians.slope(45.0) == "0.785 rad"


def test_times_and_places_are_written_in_the_games_units():
    ours, frames = DisplayUnits(), DisplayUnits(Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME, rate=60))
    assert ours.time(0.12345) == "0.123 s"
    assert frames.time(0.1) == "6.00 frames"
    assert frames.place(1.0, 2.0) == (32.0, -64.0)
    assert frames.kept_place(32.0, -64.0) == (1.0, 2.0)
    assert math.copysign(1.0, frames.kept_place(0.0, 0.0)[1]) == 1.0


# Outcomes of presses. Rows of 0.1 s; the buffer lasts 0.25 s.


def facts_of(marks, *, repeat="press", base="seconds", latency=0, held=()):
    """Facts of a run with these marks by row, in which jump is held in some rows."""
    tune = make_tune(jump__buffer=0.25, jump__repeat=repeat, stepping__time_base=base, stepping__reference_rate=5,
                     input__latency=latency)  # fmt: skip
    rows = [
        SimpleNamespace(marks=marks.get(row, 0), dt=0.1, x=float(row), y=-float(row), jump_held=row in held)
        for row in range(10)
    ]
    return SimpleNamespace(n=SimpleNamespace(count=10), rows=rows, tunes=tune_records([tune]))


@pytest.mark.parametrize(
    ("options", "pressed", "end"),
    [
        # Rows 2, 3 and 4 make 0.3 s; the press may still be lost in the row after them.
        ({}, 2, 6), ({}, 8, 10), ({"repeat": "hold"}, 2, 10),
        # Under `frames` a row counts as a fifth of a second, whatever the clock says.
        ({"base": "frames"}, 2, 5),
    ],
)  # fmt: skip
def test_a_press_has_its_last_chance_at_the_end_of_its_buffer(options, pressed, end):
    assert last_chance(facts_of({}, **options), pressed) == end


@pytest.mark.parametrize(
    ("marks", "options", "outcome"),
    [
        ({}, {}, (LOST, 0, 0, 9.0)),
        ({2: LAUNCH, 6: LAND}, {}, (FROM_GROUND, 2, 6, 6.0)),
        ({2: LAUNCH | LAND, 6: LAND}, {}, (FROM_GROUND, 2, 2, 2.0)),
        ({3: LAUNCH | BUFFERED_LAUNCH, 5: CLIMB_ON}, {}, (BUFFERED, 3, 5, 5.0)),
        ({3: LAUNCH | COYOTE_LAUNCH}, {}, (COYOTE, 3, 0, 9.0)),
        ({3: AIR_LAUNCH, 4: LAND}, {}, (IN_AIR, 3, 4, 4.0)),
        ({2: LAUNCH | CLIMB_OFF}, {}, (OFF_NET, 2, 0, 9.0)),
        # The next press comes first, or this one is over; while jump is held it may still count.
        ({3: PRESS, 4: LAUNCH}, {}, (LOST, 0, 0, 9.0)),
        ({2: PRESS | LAUNCH}, {}, (FROM_GROUND, 2, 0, 9.0)),
        ({3: LOST_PRESS, 4: LAUNCH}, {}, (LOST, 0, 0, 9.0)),
        ({3: LOST_PRESS, 5: LAUNCH}, {"repeat": "hold", "held": range(10)}, (FROM_GROUND, 5, 0, 9.0)),
        ({3: LOST_PRESS, 5: LAUNCH}, {"repeat": "hold", "held": range(5)}, (LOST, 0, 0, 9.0)),
        # Two ticks late it is pressed in the fourth row.
        ({2: LAUNCH, 4: LAUNCH}, {"latency": 2}, (FROM_GROUND, 4, 0, 9.0)),
    ],
)  # fmt: skip
def test_a_press_is_followed_from_its_row_to_the_landing(marks, options, outcome):
    result = SimpleNamespace(row=2)
    follow(facts_of(marks, **options), result)
    assert (result.outcome, result.launch, result.landing, result.x, -result.y) == (*outcome, outcome[-1])
    unseen = SimpleNamespace(row=0)
    follow(facts_of(marks, **options), unseen)
    assert (unseen.outcome, unseen.launch) == (LOST, 0)


@pytest.mark.parametrize(
    ("marks", "options", "lost"),
    [
        ({5: LAUNCH}, {}, True),
        ({5: LAUNCH}, {"repeat": "hold", "held": range(10)}, False),
        ({4: PRESS, 5: LAUNCH}, {"repeat": "hold", "held": range(10)}, True),
        ({3: PRESS, 5: LAUNCH}, {"repeat": "hold", "held": range(10)}, False),
        ({5: LAUNCH}, {"repeat": "hold", "held": range(5)}, True),
        ({}, {"repeat": "hold", "held": range(10)}, True),
    ],
)
def test_a_press_that_expires_has_an_effect_only_by_holding(marks, options, lost):
    assert has_no_effect(facts_of(marks, **options), 3) is lost
