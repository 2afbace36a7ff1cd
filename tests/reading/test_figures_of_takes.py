"""Figures of takes as people make them, in closed form under every integrator."""

import gc
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cinetica.model.clock import Clock, Mode, Read
from cinetica.motion.simulate import mark_names, simulate
from cinetica.reading.logs import trace_of
from cinetica.reading.measures import MEASURES
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune, run
from tests.reading.test_logs import log_of

INTEGRATORS = ("velocity_first", "position_first", "midpoint")
FLOOR = ((-1e6, -1.0, 1e6, 0.0),)


def figures(tune, drill, clock=None):
    return read_off(simulate(tune, drill, clock or Clock()))


# Runs


def test_a_tap_before_the_run_is_ignored():
    """7 u/s at 50 u/s² and back at 60 u/s²: 0.99·7/50 and 0.99·7/60."""
    read = figures(make_tune(), make_drill(length=150, right=[(6, 8), (66, 120)]))
    assert read["time_to_top_speed"].value == pytest.approx(6.93 / 50, abs=1e-6)
    assert read["time_to_top_speed"].rows == (66, 75)
    assert read["stopping_time"].value == pytest.approx(6.93 / 60, abs=1e-6)
    assert read["stopping_time"].rows[0] == 120


def test_stopping_is_timed_from_the_key_release():
    """Axis and velocity fall from 1 to 0 in 1 s: 1% after 0.99 s, over the sum of 7·(1 - n/60)/60."""
    read = figures(make_tune(input__key_release=1.0), make_drill(length=190, right=[(6, 96)], solids=FLOOR))
    assert read["stopping_time"].value == pytest.approx(0.99, abs=1e-5)
    assert read["stopping_distance"].value == pytest.approx(
        sum(7 * (1 - n / 60) / 60 for n in range(1, 60)) + 0.0, rel=1e-3
    )


def test_turning_is_timed_from_the_key():
    """The axis goes from 1 to -1 at 1/0.3 s, the velocity with it: 99% the other way after 0.3·1.99 s."""
    read = figures(
        make_tune(input__key_attack=0.3), make_drill(length=260, right=[(10, 130)], left=[(130, 250)], solids=FLOOR)
    )
    assert read["turn_time"].value == pytest.approx(0.3 * 1.99, abs=1e-5)


def test_a_short_tap_back_is_not_joined_with_a_later_run():
    drill = make_drill(length=300, right=[(5, 80)], left=[(80, 83), (200, 260)], solids=FLOOR)
    assert "turn_time" not in figures(make_tune(), drill)
    whole = make_drill(length=400, right=[(5, 80), (150, 230)], left=[(80, 83), (230, 300)], solids=FLOOR)
    # From 7 to -6.93 at 50 u/s²: the second turn is the first to be completed.
    assert figures(make_tune(), whole)["turn_time"].value == pytest.approx(13.93 / 50, abs=1e-6)


@pytest.mark.parametrize("gap", [-5, -2, -1, 1, 2, 5])
def test_a_turn_out_of_a_slower_run_is_not_the_turn_at_top_speed(gap):
    """Between the keys, or with both held, friction takes 1 u/s per tick: the opposing push comes late."""
    read = figures(make_tune(), make_drill(length=200, right=[(5, 80)], left=[(80 + gap, 150)], solids=FLOOR))
    assert "turn_time" not in read
    assert "turn_overshoot" not in read


def test_the_turn_at_top_speed_is_found_anywhere_in_the_take():
    """From 7 to -6.93 at 50 u/s², and on to a stop: ticks of 7 - n·50/60, beginning with n = 1."""
    drill = make_drill(length=400, right=[(5, 80), (170, 240)], left=[(83, 150), (240, 320)], solids=FLOOR)
    read = figures(make_tune(), drill)
    assert read["turn_time"].value == pytest.approx(13.93 / 50, abs=1e-6)
    assert read["turn_time"].rows[0] == 240
    assert read["turn_overshoot"].value == pytest.approx(sum(7 - n * 50 / 60 for n in range(1, 9)) / 60, abs=1e-3)


@pytest.mark.parametrize(("rule", "first"), [("latest", 80), ("first", 83)])
def test_overlapping_keys_that_turn_at_once_are_a_turn_at_top_speed(rule, first):
    """If one of two opposed keys wins, the turn begins while the other is held, or in the frame of its release."""
    tune = make_tune(input__opposed=rule)
    read = figures(tune, make_drill(length=200, right=[(5, 83)], left=[(80, 150)], solids=FLOOR))
    assert read["turn_time"].value == pytest.approx(13.93 / 50, abs=1e-6)
    assert read["turn_time"].rows[0] == first


# On slopes: with `slope_pace = along` all figures of running are those of level ground, along the line.


@pytest.mark.parametrize("angle", [30.0, -30.0, 44.0])
@pytest.mark.parametrize("pace", ["along", "level"])
def test_running_on_a_slope_is_read_along_it(angle, pace):
    """7 u/s at 50 u/s², a stop at 60 and a turn at 50, as on level ground."""
    rise = math.tan(math.radians(angle))
    drill = make_drill(
        length=330,
        right=[(6, 66), (150, 220)],
        left=[(220, 300)],
        solids=(),
        slopes=[(-500, -500 * rise, 500, 500 * rise)],
    )
    tune = make_tune(slope__slope_pace=pace, slope__ground_snap=5)
    read = figures(tune, drill)
    level = figures(tune, make_drill(length=330, right=[(6, 66), (150, 220)], left=[(220, 300)], solids=FLOOR))
    longer = 1.0 if pace == "along" else 1.0 / math.cos(math.radians(angle))
    assert read["top_speed_reached"].value == pytest.approx(7)
    assert read["time_to_top_speed"].value == pytest.approx(6.93 / 50, abs=1e-6)
    assert read["stopping_time"].value == pytest.approx(6.93 / 60, abs=1e-6)
    assert read["turn_time"].value == pytest.approx(13.93 / 50, abs=1e-6)
    assert read["peak_acceleration"].value == pytest.approx(level["peak_acceleration"].value, rel=1e-6)
    for id in ("stopping_distance", "turn_overshoot"):
        assert read[id].value == pytest.approx(level[id].value * longer, rel=1e-6), id


def test_stepping_onto_a_slope_changes_no_driven_speed():
    """Level ground, then 30°: vx falls from 7 to 6.06 in one tick, but the body runs at 7 u/s all the time."""
    drill = make_drill(length=120, right=[(0, 120)], slopes=[(3, 0, 30, 27 * math.tan(math.radians(30)))])
    read = figures(make_tune(), drill)
    assert read["peak_acceleration"].value == pytest.approx(50)
    assert read["top_speed_reached"].value == pytest.approx(7)


def test_a_jump_on_a_slope_does_not_affect_the_time_to_top_speed():
    rise = math.tan(math.radians(30))
    drill = make_drill(
        length=160, right=[(6, 150)], jump=[(60, 70)], solids=(), slopes=[(-100, -100 * rise, 300, 300 * rise)]
    )
    assert figures(make_tune(), drill)["time_to_top_speed"].value == pytest.approx(6.93 / 50, abs=1e-6)


@pytest.mark.parametrize("rate", [30, 50, 60, 144])
def test_under_midpoint_the_stopping_distance_is_the_same_at_every_rate(rate):
    """(S² - (S/100)²)/2f, with S = 7.5 u/s and f = 70 u/s²."""
    tune = make_tune(stepping__integrator="midpoint", drive__top_speed=7.5, drive__friction=70)
    read = figures(tune, make_drill(length=120, right=[(0, 60)]), Clock(tick_rate=rate))
    assert read["stopping_distance"].value == pytest.approx(7.5**2 * (1 - 1e-4) / 140, rel=1e-5)
    assert read["stopping_time"].value == pytest.approx(0.99 * 7.5 / 70, abs=1e-6)


def test_keys_without_effect_are_not_presses():
    read = figures(make_tune(input__latency=2), make_drill(length=90, up=[(3, 10)], right=[(40, 80)]))
    assert read["press_to_velocity"].value == 2


@pytest.mark.parametrize(("rate", "form"), [(12, "exact"), (25, "exact"), (25, "linear")])
def test_an_ease_crosses_99_percent_where_its_curve_does(rate, form):
    read = figures(
        make_tune(drive__law="ease", drive__rate=rate, drive__form=form), make_drill(length=150, right=[(5, 120)])
    )
    if form == "exact":
        assert read["time_to_top_speed"].value == pytest.approx(math.log(100) / rate, abs=1e-6)
    else:
        # (1 - r)^n·(1 - r·s) = 0.01 with r = 25/60: n whole ticks and a linear share s of the next.
        left, r = 1.0, rate / 60
        whole = 0
        while left * (1 - r) > 0.01:
            left, whole = left * (1 - r), whole + 1
        assert read["time_to_top_speed"].value == pytest.approx((whole + (1 - 0.01 / left) / r) / 60, abs=1e-6)


# Top view


def test_a_key_released_a_frame_early_does_not_affect_the_ratio():
    free = make_tune("top", input__diagonal="free")
    for right_from, up_from, up_to in ((0, 60, 119), (0, 60, 118), (1, 61, 120)):
        read = figures(free, make_drill(view="top", length=180, right=[(right_from, 120)], up=[(up_from, up_to)]))
        assert read["straight_speed"].value == pytest.approx(7)
        assert read["diagonal_ratio"].value == pytest.approx(math.sqrt(2), rel=1e-9)


def test_three_frames_of_diagonal_are_not_steady():
    read = figures(
        make_tune("top", input__diagonal="free"), make_drill(view="top", length=120, right=[(0, 100)], up=[(60, 63)])
    )
    assert "diagonal_speed" not in read
    assert "diagonal_ratio" not in read


def test_drift_within_the_dead_zone_is_straight():
    drill = make_drill(view="top", length=90, stick=[(0, 1.0, 0.05)])
    read = figures(make_tune("top", input__dead_zone_shape="axial"), drill)
    assert read["straight_speed"].value == pytest.approx(7)
    assert "diagonal_speed" not in read


def test_half_pushes_and_the_modifier_give_no_straight_speed():
    half = make_drill(view="top", length=90, stick=[(0, 0.5, 0.0)])
    slow = make_drill(view="top", length=90, right=[(0, 90)], modifier=[(0, 90)])
    for drill in (half, slow):
        assert "straight_speed" not in figures(make_tune("top"), drill)
    # Full but for its response: 0.995³ is less than 99%.
    nearly = make_drill(view="top", length=90, stick=[(0, 0.995, 0.0)])
    assert "straight_speed" in figures(make_tune("top", input__curve=1.0, input__outer_zone=0.0), nearly)
    assert "straight_speed" not in figures(make_tune("top", input__curve=3.0, input__outer_zone=0.0), nearly)


# Jumps


@settings(max_examples=40)
@given(
    st.sampled_from(INTEGRATORS), st.sampled_from(["seconds", "frames"]), st.sampled_from([30, 50, 60, 144]),
    st.floats(6, 16), st.floats(20, 60), st.floats(1, 8),
)  # fmt: skip
def test_a_jump_in_closed_form(integrator, base, rate, v, g, run_speed):
    """With n = v/(g·h): n ticks up; height and landing of the path summed tick by tick."""
    h = 1 / 60 if base == "frames" else 1 / rate
    tune = make_tune(
        stepping__integrator=integrator, stepping__time_base=base, jump__jump_speed=v, gravity__gravity=g,
        drive__law="instant", drive__top_speed=run_speed,
    )  # fmt: skip
    drill = make_drill(length=300, rate=rate, right=[(0, 300)], jump=[(10, 300)], solids=FLOOR)
    read = figures(tune, drill, Clock(tick_rate=rate))

    def height(k):
        c = {"velocity_first": k * (k + 1) / 2, "position_first": k * (k - 1) / 2, "midpoint": k * k / 2}[integrator]
        return v * k * h - g * h * h * c

    # The highest row, or the vertex of the parabola between rows.
    highest = v * v / (2 * g) if integrator == "midpoint" else max(height(k) for k in range(400))
    assert read["jump_height"].value == pytest.approx(highest, rel=1e-6)
    assert read["time_to_apex"].value * rate == pytest.approx(v / (g * h), abs=1e-4)
    k = next(k for k in range(1, 1000) if height(k) <= 1e-9)
    before = height(k - 1)
    touch = 2 * v / (g * h) if integrator == "midpoint" else k - 1 + before / (before - height(k))
    assert read["air_time"].value * rate == pytest.approx(touch, abs=1e-4)
    assert read["jump_distance"].value == pytest.approx(run_speed * h * touch, rel=1e-3)
    assert read["landing_speed"].value == pytest.approx(g * h * touch - v, rel=1e-3)


def test_a_jump_cut_off_by_the_end_is_not_counted():
    read = figures(make_tune(jump__jump_speed=12), make_drill(length=82, jump=[(10, 60), (80, 90)]))
    assert read["lowest_hop"].value == read["highest_hop"].value == read["jump_height"].value
    assert "jump_height" not in figures(make_tune(), make_drill(length=20, jump=[(10, 20)]))


def test_jumps_onto_a_net_and_climbing_are_not_jumps():
    drill = make_drill(
        length=120, jump=[(10, 20)], up=[(14, 90)], solids=((-9.0, -1.0, 9.0, 0.0),), climb=((-1.0, 0.5, 1.0, 6.0),)
    )
    read = figures(make_tune(jump__jump_speed=12), drill)
    assert not {"jump_height", "lowest_hop", "highest_hop", "air_time"} & set(read)


def test_air_jumps_and_jumps_off_a_net_have_separate_figures():
    double = figures(
        make_tune(jump__air_jumps=1, jump__air_jump_speed=12), make_drill(length=120, jump=[(5, 20), (25, 40)])
    )
    assert "jump_height" not in double
    assert double["air_jump_height"].value > 14**2 / 80
    net = make_drill(length=160, start=(0, 1), climb=((-1.0, 0.5, 1.0, 8.0),), up=[(2, 12)], jump=[(20, 60)])
    read = figures(make_tune(stepping__integrator="midpoint"), net)
    assert "jump_height" not in read
    # Off the net at 10 u/s against 40 u/s².
    assert read["net_jump_height"].value == pytest.approx(100 / 80, rel=1e-6)


def test_under_a_beam_the_apex_is_where_the_head_meets_it():
    """0.4 u from the head to the beam at 14 u/s, less 40/60 u/s per tick: 0.2222 + 0.2111·s."""
    beam = ((-1e3, -1.0, 1e3, 0.0), (-3.0, 2.0, 3.0, 2.4))
    for bump in ("stop", "keep"):
        read = figures(make_tune(contact__head_bump=bump), make_drill(length=120, jump=[(10, 60)], solids=beam))
        first, second = (14 - 2 / 3) / 60, (14 - 4 / 3) / 60
        assert read["time_to_apex"].value == pytest.approx((1 + (0.4 - first) / second) / 60, abs=1e-6)


@pytest.mark.parametrize(("read", "lost"), [(Read.TICK, 4), (Read.FRAME, 0)])
def test_presses_that_no_tick_sees_are_lost(read, lost):
    taps = make_drill(length=130, jump=[(10, 11), (40, 41), (70, 71), (100, 101)])
    clock = Clock(mode=Mode.FIXED, tick_rate=20, frame_rate=60, read=read)
    assert figures(make_tune(), taps, clock)["lost_presses"].value == lost


# All figures


@settings(max_examples=40)
@given(st.data())
def test_a_figure_lies_in_the_rows_that_it_names(data):
    """For any input: rows in order and within the trace, times between those of their rows, finite values."""
    view = data.draw(st.sampled_from(["side", "top"]))
    length = 140
    edges = st.lists(st.integers(0, length), max_size=6, unique=True).map(sorted)
    lane = edges.map(lambda edges: list(zip(edges[::2], edges[1::2], strict=False)))
    keys = {key: data.draw(lane) for key in ("left", "right", "up", "down", "jump", "modifier")}
    tune = make_tune(
        view,
        drive__law=data.draw(st.sampled_from(["instant", "ramp", "ease", "throttle", "push"])),
        input__key_attack=data.draw(st.sampled_from([0, 0.1, 0.3])), input__key_release=data.draw(st.sampled_from([0,
        0.2])),
        stepping__integrator=data.draw(st.sampled_from(INTEGRATORS)),
        stepping__time_base=data.draw(st.sampled_from(["seconds", "frames"])),
    )  # fmt: skip
    drill = make_drill(view=view, length=length, climb=((2.0, 0.0, 4.0, 5.0),) if view == "side" else (), **keys)
    clock = data.draw(
        st.sampled_from(
            [Clock(), Clock(tick_rate=30), Clock(mode=Mode.VARIABLE, jitter=0.3), Clock(mode=Mode.FIXED, tick_rate=40)]
        )
    )
    trace = simulate(tune, drill, clock)
    units = {measure.id: measure.unit for measure in MEASURES}
    for id, reading in read_off(trace).items():
        first, last = reading.rows
        assert math.isfinite(reading.value), id
        assert 0 <= first <= last < len(trace), id
        if units[id] == "s" and reading.ticks is not None:
            time = trace["time"]
            assert time[last - 1] - time[first] - 1e-9 <= reading.value <= time[last] - time[first] + 1e-9, id
            assert reading.ticks == last - first, id


def test_every_figure_says_when_it_is_absent():
    for measure in MEASURES:
        assert measure.meaning.endswith("."), measure.id
        assert measure.absent, measure.id
        assert not measure.absent.endswith("."), measure.id


def test_figures_of_a_log_need_no_ticks():
    """Only the rows of a log are known."""
    drill = make_drill(length=90, jump=[(10, 60)])
    trace = run(make_tune(jump__jump_speed=12), drill)
    read = read_off(trace_of(log_of(trace), drill, Clock()))
    assert "time_to_top_speed" not in read
    assert read["jump_height"].value == pytest.approx(1.7, abs=0.01)


def test_figures_do_not_depend_on_what_was_read_before():
    """Notes on a take do not outlive it, and its arrays are not read afterwards."""
    drills = [make_drill(length=70, right=[(0, 60)], jump=[(20 + each, 30 + each)]) for each in range(3)]
    traces = [run(make_tune(jump__coyote=0.1 * number), drill) for number, drill in enumerate(drills)]
    first = [read_off(trace) for trace in traces]
    for number in range(80):
        read_off(run(make_tune(), make_drill(length=70, jump=[(number % 60, 65)])))
    gc.collect()
    for order in (traces, traces[::-1]):
        for trace in order:
            assert read_off(trace) == first[traces.index(trace)]


@given(st.integers(2, 50), st.integers(1, 12), st.sampled_from([0, 1, 4]), st.sampled_from([0.0, 0.05, 0.15]))
@settings(max_examples=25)
def test_frames_that_work_equal_takes_with_a_moved_press(start, held, latency, buffer):
    """One run for all shifts, compared with a run for each: the press launches, without another press before it."""
    tune = make_tune(input__latency=latency, jump__buffer=buffer, jump__coyote=0.1)
    solids = ((-5.0, -1.0, 3.0, 0.0),)

    def launches(shift: int) -> bool:
        if start + shift < 0:
            return False
        moved = make_drill(length=90, right=[(0, 90)], jump=[(start + shift, start + shift + held)], solids=solids)
        trace = run(tune, moved)
        names = {name for row in trace["marks"].tolist() for name in mark_names(row)}
        return "launch" in names and "lost_press" not in names

    take = make_drill(length=90, right=[(0, 90)], jump=[(start, start + held)], solids=solids)
    reading = read_off(run(tune, take)).get("frames_that_work")
    if not launches(0):
        assert reading is None
    else:
        early = next((shift for shift in range(30) if not launches(-shift - 1)), 30)
        late = next((shift for shift in range(30) if not launches(shift + 1)), 30)
        assert reading is not None
        assert reading.value == early + late + 1
