"""Matching: finding known numbers again, and how well a curve determines them."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as some

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock
from cinetica.model.milestone import Logged
from cinetica.model.rescaling import Scope, resized
from cinetica.motion.records import AIR_LAUNCH, LAUNCH
from cinetica.motion.simulate import simulate
from cinetica.reading.match.hands import hands_of, launch_rows
from cinetica.reading.match.runs import Runs, free_number
from cinetica.reading.match.search import match, matching, numbers_that_matter, open_choices, open_start
from cinetica.reading.match.wanted import Wanted, check, from_log, from_path, from_points, from_trace
from tests.builders import make_drill, make_tune, run

CLOCK = Clock()
# A run with a turn, a held jump and a tap.
DRILL = make_drill(length=150, right=[(5, 60), (90, 140)], left=[(60, 80)], jump=[(20, 50), (100, 104)])
FIVE = ["drive.top_speed", "drive.acceleration", "drive.friction", "jump.jump_speed", "gravity.gravity"]


def logged(trace, **changed):
    columns = {name: tuple(np.array(trace[name]).tolist()) for name in ("x", "y", "vx", "vy")}
    return Logged(name="Log", drill="Drill", **({"time": tuple(trace["time"].tolist())} | columns | changed))


@pytest.mark.parametrize("law", ["ramp", "ease", "push", "throttle"])
@pytest.mark.parametrize("hop", ["cut", "heavy"])
def test_five_numbers_are_found_again(law, hop):
    true = make_tune(drive__law=law, jump__short_hop=hop, drive__top_speed=6.3, jump__jump_speed=13.1,
                     gravity__gravity=47.0)  # fmt: skip
    free = ["drive.top_speed", "jump.jump_speed", "gravity.gravity", "gravity.fall_factor"]
    free.append("drive.rate" if law == "ease" else "drive.acceleration")
    begun = make_tune(drive__law=law, jump__short_hop=hop, drive__top_speed=9.0, jump__jump_speed=9.0)
    found = match(begun, DRILL, CLOCK, from_trace(run(true, DRILL)), free)
    assert found.greatest < 1e-6
    assert found.tune.jump.jump_speed == pytest.approx(13.1, rel=1e-4)


def test_the_search_is_deterministic():
    wanted = from_trace(run(make_tune(drive__top_speed=6.3), DRILL))
    one, other = (match(make_tune(), DRILL, CLOCK, wanted, FIVE, seed=3) for _ in range(2))
    assert one.tune == other.tune
    assert one.runs == other.runs


@pytest.mark.parametrize(("lag", "ticks"), [(0.5, -0.5), (-1.0, 1.0)])
def test_an_open_start_is_found_with_the_numbers(lag, ticks):
    """A log that lags by half a frame shows where the body was half a frame earlier."""
    true = make_tune(drive__top_speed=6.3, jump__jump_speed=13.1)
    trace = run(true, DRILL)
    time = np.array(trace["time"])
    columns = {name: np.interp(time - lag / 60, time, trace[name]) for name in ("x", "y")}
    wanted = Wanted(time, columns, {"x": 1.0, "y": 1.0})
    free = ["drive.top_speed", "jump.jump_speed"]
    found = match(make_tune(), DRILL, CLOCK, wanted, free, moves=open_start(CLOCK))
    assert found.moved * 60 == pytest.approx(ticks)
    assert found.tune.jump.jump_speed == pytest.approx(13.1, rel=1e-3)
    assert found.tune.drive.top_speed == pytest.approx(6.3, rel=1e-3)
    assert match(make_tune(), DRILL, CLOCK, wanted, free).off > 3 * found.off


def test_open_choices_are_found():
    true = make_tune(drive__law="ease", drive__rate=9.0, jump__short_hop="cap", jump__cap_speed=5.0)
    choices = open_choices(make_tune(), ["drive.law", "jump.short_hop"])
    free = ["drive.rate", "drive.acceleration", "jump.cap_speed", "jump.cut_factor"]
    # Two taps, cut at other speeds: a single one cannot distinguish a cap from a factor.
    drill = make_drill(length=150, right=[(5, 60), (90, 140)], left=[(60, 80)], jump=[(20, 24), (100, 108)])
    found = match(make_tune(), drill, CLOCK, from_trace(run(true, drill)), free, choices, seconds=30)
    assert dict(found.choices) == {"drive.law": "ease", "jump.short_hop": "cap"}
    assert found.greatest < 1e-6


def test_a_whole_number_is_searched_in_whole_steps():
    true = make_tune(jump__air_jumps=1)
    drill = make_drill(length=120, jump=[(5, 10), (20, 25), (35, 40)])
    found = match(make_tune(jump__air_jumps=3), drill, CLOCK, from_trace(run(true, drill)), ["jump.air_jumps"])
    assert found.tune.jump.air_jumps == 1


def test_undetermined_numbers_are_reported_with_their_range():
    """Nobody falls fast enough for the terminal speed to count, and no press is late."""
    true = make_tune(gravity__terminal_speed=40.0)
    free = ["drive.top_speed", "gravity.terminal_speed", "jump.buffer"]
    found = match(make_tune(gravity__terminal_speed=30.0), DRILL, CLOCK, from_trace(run(true, DRILL)), free)
    estimates = {each.free.id: each for each in found.estimates}
    assert estimates["drive.top_speed"].determined
    assert not estimates["gravity.terminal_speed"].determined
    assert not estimates["jump.buffer"].determined
    terminal = estimates["gravity.terminal_speed"]
    fastest = -run(true, DRILL)["vy"].min()
    assert terminal.low <= fastest + 2
    assert terminal.high == terminal.free.high
    # The whole range fits, as reported.
    for value in (terminal.low + 1, terminal.high):
        trace = run(found.tune.put("gravity.terminal_speed", value), DRILL)
        assert np.abs(trace["y"] - run(true, DRILL)["y"]).max() < 0.05


def test_the_ranges_of_a_larger_world_are_larger():
    """What a curve determines does not depend on how large everything is."""
    study = shipped_study("harbour")
    ranges = []
    for size in (1.0, 8.0):
        world = resized(study, size, Scope.STUDY) if size != 1.0 else study
        wren, drill = world.tune("Wren"), world.drill("Rooftop hop")
        (found,) = match(wren, drill, CLOCK, from_trace(run(wren, drill)), ["jump.jump_speed"]).estimates
        ranges.append(((found.high - found.low) / size, found.determined))
    assert ranges[0] == (pytest.approx(ranges[1][0], rel=0.1), True)
    assert ranges[0][0] > 0


def test_two_numbers_that_compensate_are_undetermined():
    """Of the rise alone, with a factor that acts only in a fall: a valley along both numbers of the fall."""
    drill = make_drill(length=60, start=(0.0, 12.0), solids=[(-9.0, -1.0, 9.0, 0.0)])
    true = make_tune(gravity__gravity=30.0, gravity__fall_factor=1.5, gravity__terminal_speed=0.0)
    wanted = from_trace(run(true, drill)).between(0.1, 0.5)
    found = match(
        make_tune(gravity__terminal_speed=0.0), drill, CLOCK, wanted, ["gravity.gravity", "gravity.fall_factor"]
    )
    assert found.greatest < 1e-4
    assert not all(each.determined for each in found.estimates)


def test_a_number_at_its_bound_is_reported_to_be():
    wanted = from_trace(run(make_tune(drive__top_speed=9.0), DRILL))
    bounded = free_number(make_tune(), "drive.top_speed", 5.0, 7.0)
    (estimate,) = match(make_tune(), DRILL, CLOCK, wanted, [bounded]).estimates
    assert (estimate.value, estimate.bound) == (pytest.approx(7.0), "high")


def test_noise_changes_determined_numbers_little():
    true = make_tune(drive__top_speed=6.3, jump__jump_speed=13.1)
    clean = from_trace(run(true, DRILL))
    noise = np.random.default_rng(7)
    columns = {name: values + noise.normal(0, 0.02, len(values)) for name, values in clean.columns.items()}
    wanted = Wanted(clean.time, columns, {"x": 1.0, "y": 1.0})
    found = match(make_tune(), DRILL, CLOCK, wanted, ["drive.top_speed", "jump.jump_speed", "gravity.gravity"])
    assert found.off == pytest.approx(0.02, rel=0.2)
    for estimate in found.estimates:
        if estimate.determined:
            assert estimate.value == pytest.approx(float(true.get(estimate.free.id)), rel=0.02)
    assert any(estimate.determined for estimate in found.estimates)


def test_only_the_stretch_and_the_channels_that_count_are_matched():
    first, then = run(make_tune(drive__top_speed=6.0), DRILL), run(make_tune(drive__top_speed=9.0), DRILL)
    both = np.where(first["time"] < 1.0, first["vx"], then["vx"])
    wanted = Wanted(np.array(first["time"]), {"vx": both, "y": np.full(len(both), 50.0)}, {"vx": 1.0, "y": 0.0})
    found = match(make_tune(), DRILL, CLOCK, wanted.between(0.0, 0.9), ["drive.top_speed"])
    assert found.tune.drive.top_speed == pytest.approx(6.0)
    # Channels that do not count are estimated all the same.
    assert found.gaps["y"].greatest > 40


def test_a_search_can_be_stopped_and_keeps_the_best():
    true = run(make_tune(drive__law="ease", drive__rate=9.0), DRILL)
    steps = list(matching(make_tune(), DRILL, CLOCK, from_trace(true), [free_number(make_tune(), id) for id in FIVE],
                          stops=lambda: True))  # fmt: skip
    assert [share for share, _ in steps] == [1.0]
    assert steps[-1][1].estimates


def test_the_numbers_that_matter_are_chosen():
    wanted = from_trace(run(make_tune(drive__top_speed=6.0), DRILL))
    chosen = [each.id for each in numbers_that_matter(make_tune(), DRILL, CLOCK, wanted)]
    assert {"drive.top_speed", "jump.jump_speed", "gravity.gravity"} <= set(chosen)
    assert not any(id.startswith(("camera", "pose", "input")) for id in chosen)
    still = make_drill(length=40)
    assert numbers_that_matter(make_tune(), still, CLOCK, from_trace(run(make_tune(), still))) == []


# Unusable curves


@pytest.mark.parametrize(
    ("columns", "why"),
    [
        ({"time": [0, 0.1, 0.2], "x": [0, 1, 2]}, "3 rows"),
        ({"time": [0, 0.1, 0.2, 0.3], "x": [1, 1, 1, 1]}, "stays constant"),
        ({"time": [0, 0.1, 0.1, 0.3], "x": [0, 1, 2, 3]}, "do not grow"),
        ({"time": [0, 0.1, 3.0, 3.1], "x": [0, 1, 2, 3]}, "gap of 2.90 s"),
        ({"time": [0, 0.1, 0.2, 0.3], "x": [0, 1, np.nan, 3]}, "gaps in x"),
        ({"time": np.arange(20) / 10, "x": [0.1 * k + 9 * (k > 9) for k in range(20)]}, "leaps by 9.1 u"),
    ],
)
def test_a_curve_without_information_is_refused_with_a_reason(columns, why):
    time = np.array(columns["time"], dtype=float)
    with pytest.raises(ValueError, match=why):
        check(Wanted(time, {"x": np.array(columns["x"], dtype=float)}, {"x": 1.0}))


def test_other_unanswerable_questions_are_refused_with_a_reason():
    wanted = from_trace(run(make_tune(), DRILL))
    with pytest.raises(ValueError, match="No number may move"):
        match(make_tune(), DRILL, CLOCK, wanted, [])
    with pytest.raises(ValueError, match="has any effect"):
        match(make_tune(), DRILL, CLOCK, wanted, ["drive.rate"])
    with pytest.raises(ValueError, match="No channel"):
        check(wanted.weighted({"x": 0.0}))
    with pytest.raises(ValueError, match="fewer than 4 rows"):
        wanted.between(1.0, 1.01)
    with pytest.raises(ValueError, match="is not a number"):
        free_number(make_tune(), "drive.law")
    with pytest.raises(ValueError, match="no room"):
        free_number(make_tune(), "drive.top_speed", 9.0, 3.0)
    with pytest.raises(ValueError, match="is not a choice"):
        open_choices(make_tune(), ["drive.top_speed"])
    with pytest.raises(ValueError, match="two points"):
        from_points("y", [(0.0, 1.0)], np.arange(10) / 60)


# Logs of other controllers


def plain_loop(ticks, h=1 / 60):
    """A different kind of controller: it moves before it drives, and applies gravity after the move."""
    x = y = vx = vy = 0.0
    rows = [(0.0, 0.0, 0.0, 0.0)]
    for tick in range(ticks):
        x, y = x + vx * h, max(0.0, y + vy * h)
        if y == 0.0:
            vy = 0.0
        vx += max(-40 * h, min(40 * h, (8.0 if 5 <= tick < 60 else 0.0) - vx))
        if tick == 20:
            vy = 12.0
        elif y > 0.0 or vy > 0.0:
            vy -= 33.0 * h
        rows.append((x, y, vx, vy))
    return np.array(rows)


def test_a_log_with_another_order_is_fitted_and_the_rest_described():
    rows = plain_loop(110)
    columns = {name: tuple(rows[:, place].tolist()) for place, name in enumerate(("x", "y", "vx", "vy"))}
    log = Logged(name="Other", drill="Drill", time=tuple((np.arange(111) / 60).tolist()), **columns)
    drill = make_drill(length=110, right=[(5, 60)], jump=[(20, 60)])
    begun = make_tune(gravity__fall_factor=1.0, gravity__terminal_speed=0.0)
    found = match(begun, drill, CLOCK, from_log(log), FIVE)
    assert found.tune.gravity.gravity == pytest.approx(33.0, rel=0.06)
    assert found.tune.drive.top_speed == pytest.approx(8.0, rel=0.01)
    # It is not matched well, and that is not hidden.
    assert 1e-3 < found.greatest < 0.3
    trace = simulate(found.tune, drill, CLOCK)
    assert found.gaps["y"].greatest == pytest.approx(np.abs(trace["y"] - rows[:, 1]).max(), rel=1e-6)


def test_derived_columns_of_a_log_are_not_matched_by_default():
    trace = run(make_tune(), DRILL)
    assert from_log(logged(trace, derived=("vx", "vy"))).counted == ["x", "y"]


# Drawn curves


@given(some.lists(some.floats(-5, 5), min_size=2, max_size=7))
@example([0.0, 0.0, 2.2250738585e-313])
def test_a_drawn_curve_passes_its_points_without_overshoot(values):
    points = [(0.1 * place, value) for place, value in enumerate(values)]
    times = np.arange(61) / 60
    found = from_points("y", points, times)
    assert (found.time[0], found.time[-1]) == (0.0, pytest.approx(points[-1][0]))
    for time, value in points:
        at = np.flatnonzero(np.abs(found.time - time) < 1e-9)
        if len(at):
            assert found.columns["y"][at[0]] == pytest.approx(value, abs=1e-9)
    assert found.columns["y"].min() >= min(values) - 1e-9
    assert found.columns["y"].max() <= max(values) + 1e-9


def test_every_row_of_a_trace_counts():
    wanted = from_trace(run(make_tune(), DRILL))
    assert Runs(make_tune(), DRILL, CLOCK, wanted, [free_number(make_tune(), FIVE[0])]).samples == 4 * 151


def test_a_start_in_motion_belongs_to_the_run():
    drill = DRILL.model_copy(update={"start_velocity": (5.0, 0.0)})
    found = match(make_tune(), drill, CLOCK, from_trace(run(make_tune(), drill)), FIVE[:1])
    assert found.greatest < 1e-6


def test_a_drawn_path_is_found():
    true = run(make_tune(drive__top_speed=5.5, drive__law="instant"), DRILL)
    points = [(float(true["time"][row]), float(true["x"][row]), float(true["y"][row])) for row in range(0, 151, 6)]
    wanted = from_path(points, np.array(true["time"]))
    assert wanted.counted == ["x", "y"]
    found = match(make_tune(drive__law="instant"), DRILL, CLOCK, wanted, ["drive.top_speed"])
    assert found.tune.drive.top_speed == pytest.approx(5.5, rel=0.02)


# The input behind a log


@given(some.sampled_from(["ramp", "ease", "instant", "push"]), some.sampled_from(["none", "cut", "cap"]),
       some.floats(9, 18), some.floats(25, 70))  # fmt: skip
@example("ramp", "cap", 15.0, 25.0)
def test_launches_are_found_on_their_frames(law, hop, speed, gravity):
    tune = make_tune(drive__law=law, jump__short_hop=hop, jump__jump_speed=speed, gravity__gravity=gravity,
                     jump__air_jumps=1, jump__air_jump_speed=0.8 * speed)  # fmt: skip
    drill = make_drill(length=160, right=[(5, 150)], jump=[(20, 50), (60, 64), (110, 112)])
    trace = run(tune, drill)
    launches = np.flatnonzero(trace["marks"] & (LAUNCH | AIR_LAUNCH)).tolist()
    vx, vy = np.array(trace["vx"]), np.array(trace["vy"])
    # In a world of any size.
    assert launch_rows(vx, vy) == launch_rows(vx / 100, vy / 100) == launches


def test_found_input_reproduces_the_run():
    tune = make_tune(jump__short_hop="cut", drive__top_speed=6.0)
    drill = make_drill(length=150, right=[(5, 60)], left=[(70, 110)], jump=[(20, 30), (90, 120)])
    trace = run(tune, drill)
    take = hands_of(logged(trace), "side")
    assert (take.rate, take.length) == (60, 150)
    assert [press.start for press in take.keys.jump] == [20, 90]
    assert take.keys.jump[0] == (20, 30)
    again = run(tune, drill.model_copy(update={"take": take}))
    for column in ("x", "y"):
        assert again[column] == pytest.approx(np.array(trace[column]), abs=1e-9)


def test_a_turn_without_a_stop_begins_where_it_slows_down():
    drill = make_drill(length=100, right=[(5, 40)], left=[(40, 90)])
    take = hands_of(logged(run(make_tune(), drill)), "side")
    assert take.keys.right == ((5, 40),)
    assert take.keys.left[0].start == 40
    # So does one that slows down in a single tick.
    abrupt = make_tune(drive__acceleration=600.0, drive__friction=600.0, drive__top_speed=15.0)
    assert hands_of(logged(run(abrupt, drill)), "side").keys.left[0].start == 40


def test_in_top_view_all_four_directions_are_found():
    pressed = {"right": ((5, 30), (120, 135)), "up": ((35, 60),), "left": ((65, 90),), "down": ((95, 115),)}
    drill = make_drill(view="top", length=140, **pressed)
    take = hands_of(logged(run(make_tune("top", drive__law="instant"), drill)), "top")
    assert {side: getattr(take.keys, side) for side in pressed} == pressed


@pytest.mark.parametrize("speed", [7.0, 0.9])
def test_a_start_up_a_slope_is_not_a_launch(speed):
    stick = [(frame, 0.45 + frame / 100, 0.0) for frame in range(5, 55)]
    ramp = make_drill(length=60, stick=stick, solids=(), slopes=[(-5, -2.5, 30, 15)])
    log = logged(run(make_tune(drive__law="instant", drive__top_speed=speed), ramp))
    assert launch_rows(np.array(log.vx), np.array(log.vy)) == []


def test_a_rise_over_two_rows_is_one_launch():
    vy = np.array([0.0, 0.0, 6.0, 12.0, 11.0, 10.0, 9.0, 0.0, 12.0, 11.0])
    assert launch_rows(np.zeros(10), vy) == [2, 8]


def test_a_still_log_has_no_input():
    take = hands_of(logged(run(make_tune(), make_drill(length=30))), "side")
    assert not any(getattr(take.keys, key) for key in ("left", "right", "jump"))
