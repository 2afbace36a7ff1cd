"""Results of many runs, compared with single runs, counts by hand and closed forms."""

import math
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock, Hitch, Mode, Read
from cinetica.model.study import Drill
from cinetica.model.take import Keys, Press
from cinetica.model.takes import moved, presses_of, with_presses
from cinetica.motion.clock import Hands, hands_without_jump, jumps_with, read_in_rows, schedule
from cinetica.motion.records import MARKS, tune_records
from cinetica.motion.simulate import mark_names, simulate
from cinetica.reading.display_units import OURS
from cinetica.reading.measures import MEASURES
from cinetica.reading.press_outcomes import OUTCOMES
from cinetica.reading.reading_off import figures_of, read_off
from cinetica.reading.survey.parameter_map import COARSE, ROWS_AT_A_TIME, level_lines, levels, map_of
from cinetica.reading.survey.press_shifts import AS_LONG, FARTHEST, SHIFTS, first_press_shifted, presses_at, shifted
from cinetica.reading.survey.press_windows import (
    NOWHERE,
    clocks_of,
    held_grid,
    jump_presses,
    lane,
    lanes,
    place_words,
    spread,
    tops_of,
)
from cinetica.reading.survey.reach import (
    MARGIN,
    RUNNING,
    STANDING,
    Way,
    course_of,
    levels_for,
    outline,
    outlined,
    reach,
    steps_table,
    table,
    take_of,
)
from cinetica.reading.survey.sensitivity import near_their_edge, sensitivities
from cinetica.reading.survey.variations import varied
from cinetica.reading.sweeps import run_and_read, sweep
from tests.builders import make_drill, make_tune

HARBOUR = shipped_study("harbour")
WREN, BRAMBLE = HARBOUR.tune("Wren"), HARBOUR.tune("Bramble")
HOP, EDGE = HARBOUR.drill("Rooftop hop"), HARBOUR.drill("Gutter's edge")
FLOOR = ((-1000.0, -1.0, 1000.0, 0.0),)
CLOCKS = (
    Clock(), Clock(tick_rate=30), Clock(tick_rate=144), Clock(mode=Mode.FIXED, tick_rate=50, frame_rate=60),
    Clock(mode=Mode.FIXED, tick_rate=50, frame_rate=75, read=Read.TICK, jitter=0.3),
    Clock(mode=Mode.VARIABLE, frame_rate=60, hitches=(Hitch(0.5, 0.08),)),
)  # fmt: skip


# Many tunes as records


@pytest.mark.parametrize("view", ["side", "top"])
def test_varied_records_equal_tunes_built_one_by_one(view):
    chance = random.Random(view)
    tune = make_tune(view)
    columns = {
        "drive.top_speed": [chance.uniform(1, 12) for _ in range(20)],
        "drive.law": [chance.choice(["ramp", "ease", "push", "instant"]) for _ in range(20)],
        "input.view_yaw": [chance.uniform(-90, 90) for _ in range(20)],
        "input.latency": [chance.randrange(5) for _ in range(20)],
        "camera.window_width": [chance.choice([0.0, 2.0]) for _ in range(20)],
        "input.key_reverse_reset": [chance.random() < 0.5 for _ in range(20)],
    }
    made = varied(tune, columns)
    for row in range(20):
        one = tune
        for id, values in columns.items():
            one = one.put(id, values[row])
        expected = tune_records([one])[0]
        assert all(np.array_equal(made[row][name], expected[name]) for name in expected.dtype.names)


@pytest.mark.parametrize(
    ("id", "value"),
    [
        ("drive.top_speed", -1.0), ("drive.top_speed", math.nan), ("input.latency", 1.5), ("drive.law", "sideways"),
        ("input.key_reverse_reset", 3.0), ("drive.top_speed", "fast"),
    ],
)  # fmt: skip
def test_an_invalid_value_is_refused_with_a_reason(id, value):
    with pytest.raises(ValueError, match=rf"{id} is .*; .* is not"):
        varied(WREN, {id: [value]})
    if isinstance(value, float):
        with pytest.raises(ValueError, match=id):
            varied(WREN, {id: np.array([1.0, value, 3.0])})


def test_inputs_with_shifted_jumps_equal_those_of_shifted_takes():
    for clock in CLOCKS:
        for drill in (HOP, EDGE, HARBOUR.drill("Stick sweep")):
            held = np.zeros((3, drill.take.length), dtype=bool)
            takes = []
            for row, press in enumerate((Press(10, 14), Press(11, 60), Press(0, 1))):
                held[row, press.start : press.end] = True
                takes.append(with_presses(drill.take, "jump", [press]))
            read = schedule(drill.take, clock).frames
            plain, jumps = hands_without_jump(drill.take, clock), jumps_with(drill.take.rate, clock, held)
            every = Hands(plain, jumps, read).every()
            for row, take in enumerate(takes):
                hands, dts, frames, *_ = schedule(take, clock)
                assert np.array_equal(every[row * len(dts) : (row + 1) * len(dts)], hands)
                assert np.array_equal(read, frames)
                assert np.array_equal(read_in_rows(take.rate, take.length, clock), frames)


def test_shifts_of_a_dragged_press_equal_those_of_a_placed_one():
    """They are derived from those of the frame before, in blocks."""
    take = HOP.take
    first, *others = jump_presses(take)
    for clock in CLOCKS[:4]:
        for start in range(max(0, first.start - 20), others[0].start - 14):
            dragged = with_presses(take, "jump", [Press(start, start + 12), *others])
            quick = first_press_shifted(dragged, clock)
            plain = shifted(dragged, clock, presses_at(Press(start, start + 12), SHIFTS, AS_LONG))
            assert np.array_equal(quick.hands.every(), plain.hands.every())
            assert np.array_equal(quick.rows, plain.rows)
            assert np.array_equal(quick.fits, plain.fits)


def test_a_shifted_press_equals_one_placed_there():
    take = HOP.take
    (start, end), *others = jump_presses(take)
    for clock in CLOCKS:
        found = first_press_shifted(take, clock)
        for place, shift in enumerate(SHIFTS):
            assert found.fits[place] == (0 <= start + shift < take.length)
            if not found.fits[place]:
                assert found.rows[place] == 0
                continue
            there = with_presses(take, "jump", [Press(start + shift, end + shift), *others])
            hands, _, frames, *_ = schedule(there, clock)
            jumps = found.hands.jumps[place]
            assert all(np.array_equal(jumps[name], hands[name]) for name in ("jump", "pressed", "released"))
            last = max(end + shift, others[0].start)
            rows = np.flatnonzero(hands["pressed"] & (frames >= start + shift) & (frames < last))
            assert found.rows[place] == (rows[0] if len(rows) else 0)


# Sweeps and maps


def test_figures_of_a_sweep_equal_single_runs():
    chance = random.Random(7)
    for drill in (HOP, EDGE, HARBOUR.drill("Quay sprint"), HARBOUR.drill("Market diagonals")):
        for clock in CLOCKS[:4]:
            tune = HARBOUR.tunes_for(drill)[0]
            values = [chance.uniform(2, 12) for _ in range(6)]
            found = run_and_read(tune, drill, clock, {"drive.top_speed": values})
            for row, value in enumerate(values):
                alone = read_off(simulate(tune.put("drive.top_speed", value), drill, clock))
                shown = {id: each[row] for id, each in found.items() if not np.isnan(each[row])}
                assert shown == {id: reading.value for id, reading in alone.items()}


@pytest.mark.thorough
def test_several_threads_read_the_same_as_one():
    tunes = varied(WREN, {"gravity.gravity": np.linspace(10, 80, 300)})
    ids = [measure.id for measure in MEASURES]
    one, three = (figures_of(tunes, HOP, Clock(), ids, threads) for threads in (1, 3))
    assert one.tobytes() == three.tobytes()


def test_contour_lines_of_the_jump_height_follow_the_closed_form():
    """Under midpoint a held jump rises by v²/2g."""
    tune = make_tune("side", stepping__integrator="midpoint", jump__short_hop="none", gravity__fall_factor=1)
    drill = make_drill(length=200, solids=FLOOR, jump=[(4, 200)])
    known = {parameter.id: parameter for parameter in _numbers()}
    gravity, speed = known["gravity.gravity"], known["jump.jump_speed"]
    *_, (share, found) = map_of(tune, drill, Clock(), (gravity, 20, 80), (speed, 5, 20), ["jump_height"], 50)
    assert share == 1.0
    height = found.figures["jump_height"]
    assert height == pytest.approx(found.up[:, None] ** 2 / (2 * found.across[None, :]), rel=1e-9)
    listed = levels(height)
    assert 4 <= len(listed) <= 9
    for level in listed:
        for line in level_lines(found.across, found.up, height, level):
            # Between two points of the map the line is straight.
            assert line[:, 1] == pytest.approx(np.sqrt(2 * level * line[:, 0]), abs=0.03)


def _numbers():
    from cinetica.model.tune import PARAMETERS

    return PARAMETERS


def test_a_fine_map_comes_in_parts_and_agrees_with_the_coarse_one():
    known = {parameter.id: parameter for parameter in _numbers()}
    spans = (known["gravity.gravity"], 20, 80), (known["jump.jump_speed"], 8, 20)
    parts = list(map_of(WREN, HOP, Clock(), *spans, ["jump_height"], 99))
    rows = [min(first + ROWS_AT_A_TIME, 99) for first in range(0, 99, ROWS_AT_A_TIME)]
    assert [share for share, _ in parts] == pytest.approx([row / 99 for row in rows])
    assert [found for _, found in parts[:-1]] == [None] * (len(parts) - 1)
    fine, ((_, coarse),) = parts[-1][1], map_of(WREN, HOP, Clock(), *spans, ["jump_height"], COARSE)
    assert np.array_equal(fine.figures["jump_height"][::2, ::2], coarse.figures["jump_height"], equal_nan=True)


def test_the_area_of_all_targets_is_the_intersection():
    from cinetica.model.targets import Target

    targets = (Target(measure="jump_height", low=2.0, high=2.6), Target(measure="air_time", low=0.5))
    drill = HOP.model_copy(update={"targets": targets})
    known = {parameter.id: parameter for parameter in _numbers()}
    spans = (known["gravity.gravity"], 20, 80), (known["jump.jump_speed"], 8, 20)
    found = list(map_of(WREN, drill, Clock(), *spans, ["jump_height"], 12))[-1][1]
    assert found.allowed.any()
    assert not found.allowed.all()
    for row, speed in enumerate(found.up):
        for column, gravity in enumerate(found.across):
            tune = WREN.put("gravity.gravity", float(gravity)).put("jump.jump_speed", float(speed))
            read = read_off(simulate(tune, drill, Clock()))
            met = all(
                target.measure in read and target.misses_by(read[target.measure].value) == 0 for target in targets
            )
            assert found.allowed[row, column] == met
    assert list(map_of(WREN, HOP, Clock(), *spans, ["jump_height"], 3))[-1][1].allowed is None


@pytest.mark.parametrize("values", [np.full((3, 3), np.nan), np.full((3, 3), 2.0)])
def test_empty_and_constant_maps_have_no_levels(values):
    assert levels(values) == []


# Windows


def test_coyote_frames_counted_by_hand():
    """0.15 s are 9 frames at 60 per second, and 0.03 s are 1."""
    press = jump_presses(EDGE.take)[0]
    for tune, frames in ((WREN, 9), (BRAMBLE, 1)):
        found = lane(tune, EDGE, Clock(), press)
        assert [each.frames for each in found.stretches if each.outcome == "coyote"] == [frames]


@pytest.mark.parametrize("clock", CLOCKS)
def test_each_shift_equals_a_run_of_the_shifted_take(clock):
    chance = random.Random(3)
    for drill in (EDGE, HOP, HARBOUR.drill("Early knock"), HARBOUR.drill("Drying nets")):
        press = chance.choice(jump_presses(drill.take))
        tune = chance.choice(HARBOUR.tunes_for(drill))
        found = lane(tune, drill, clock, press)
        for shift in chance.sample(range(-30, 31), 6):
            at = list(found.shifts).index(shift)
            if not found.fits[at]:
                assert not 0 <= press.start + shift < drill.take.length
                continue
            others = [each for each in jump_presses(drill.take) if each != press]
            length = press.end - press.start
            take = with_presses(
                drill.take, "jump",
                [*others, Press(press.start + shift, min(press.start + shift + length, drill.take.length))],
            )  # fmt: skip
            trace = simulate(tune, drill.model_copy(update={"take": take}), clock)
            if np.isfinite(found.x[at]) and found.outcomes[at] != 0 and found.places[at] != NOWHERE:
                marks = [set(mark_names(int(each))) for each in trace["marks"]]
                lands = [row for row, names in enumerate(marks) if {"land", "climb_on"} & names]
                where = [(float(trace["x"][row]), float(trace["y"][row])) for row in lands]
                assert (found.x[at], found.y[at]) in where
            names = {name for marks in trace["marks"] for name in mark_names(int(marks))}
            expected = {"coyote": "coyote_launch", "buffered": "buffered_launch", "air": "air_launch"}
            outcome = OUTCOMES[found.outcomes[at]]
            if outcome in expected:
                assert expected[outcome] in names


def test_the_figure_counts_the_same_frames_as_the_window():
    for drill in HARBOUR.drills:
        presses = jump_presses(drill.take)
        if drill.view != "side" or not presses:
            continue
        for tune in HARBOUR.tunes_for(drill):
            for clock in CLOCKS:
                window = lane(tune, drill, clock, presses[0]).window()
                reading = read_off(simulate(tune, drill, clock)).get("frames_that_work")
                assert (None if window is None else float(window[1] - window[0] + 1)) == (
                    None if reading is None else reading.value
                ), (drill.name, tune.name, clock)


@pytest.mark.parametrize("seed", range(6))
def test_uneven_frames_do_not_shorten_the_window(seed):
    """The buffer runs on over ticks that may be shorter than the one of the press: every shift equals its own run."""
    tune = make_tune(jump__buffer=0.2, jump__coyote=0)
    # A fall of 2.2 u: about 23 frames, the last 12 of which are within the buffer.
    drill = make_drill(length=90, solids=[(-9, -1, 9, 0)], start=(0, 2.2), jump=[(20, 26)])
    clock = Clock(mode=Mode.VARIABLE, frame_rate=60, jitter=0.5, seed=seed)
    works = {}
    for shift in range(-20, 31):
        take = with_presses(drill.take, "jump", [Press(20 + shift, 26 + shift)])
        trace = simulate(tune, drill.model_copy(update={"take": take}), clock)
        works[shift] = bool(len(trace.rows_with(1 << MARKS.index("launch"))))
    found = lane(tune, drill, clock, jump_presses(drill.take)[0])
    assert {shift: bool(found.works()[FARTHEST + shift]) for shift in works} == works
    assert works[0]
    assert not works[-20]
    assert read_off(simulate(tune, drill, clock))["frames_that_work"].value == sum(works.values())


def test_an_expired_press_that_jumps_by_holding_is_not_lost():
    """A fall of about 22 frames from 2 u; the press is in the air, and its buffer of 2 frames is long over."""
    drill = make_drill(length=120, solids=[(-9, -1, 9, 0)], start=(0, 2), jump=[(4, 60)])
    press = jump_presses(drill.take)[0]
    held = make_tune(jump__repeat="hold", jump__buffer=2 / 60)
    found = lane(held, drill, Clock(), press)
    assert OUTCOMES[found.outcomes[FARTHEST]] == "ground"
    read = read_off(simulate(held, drill, Clock()))
    assert read["frames_that_work"].value == 4 + 1 + FARTHEST
    assert read["lost_presses"].value == 0
    # Released before the landing, or with one launch per press, it is.
    for tune, jump in ((held, [(4, 8)]), (held.put("jump.repeat", "press"), [(4, 60)])):
        shorter = make_drill(length=120, solids=[(-9, -1, 9, 0)], start=(0, 2), jump=jump)
        found = lane(tune, shorter, Clock(), jump_presses(shorter.take)[0])
        assert OUTCOMES[found.outcomes[FARTHEST]] == "lost"
        assert read_off(simulate(tune, shorter, Clock()))["lost_presses"].value == 1


def test_a_shift_into_another_press_is_left_out():
    drill = make_drill(length=140, jump=[(20, 24), (40, 50)])
    found = lane(make_tune(), drill, Clock(), jump_presses(drill.take)[0])
    left_out = [int(shift) for shift, fits in zip(found.shifts, found.fits, strict=True) if not fits]
    assert left_out == [*range(-30, -20), *range(20, 31)]
    # One frame before it they merge into one press, which launches.
    assert found.works()[FARTHEST + 19]
    assert found.window()[1] == 19


def test_lanes_of_several_tunes_equal_single_ones_with_hold_as_second_axis():
    press = jump_presses(EDGE.take)[0]
    clocks = list(clocks_of(Clock(), EDGE.take.seconds).values())
    found = lanes([WREN, BRAMBLE], EDGE, clocks, press)
    for number, each in enumerate(found):
        alone = lane((WREN, BRAMBLE)[number // len(clocks)], EDGE, clocks[number % len(clocks)], press)
        assert np.array_equal(each.outcomes, alone.outcomes)
        assert np.array_equal(each.places, alone.places)
    grid = held_grid(WREN, EDGE, Clock(), press)
    assert len(grid) == 40
    same = grid[press.end - press.start - 1]
    assert np.array_equal(same.outcomes, lane(WREN, EDGE, Clock(), press).outcomes)


def test_the_shown_clocks_begin_with_that_of_the_study():
    assert list(clocks_of(Clock(tick_rate=90), 2.0)) == ["study", "60", "30", "144", "50 in 60", "hitch"]
    assert "study" not in clocks_of(Clock(), 2.0)


def test_a_body_lands_on_the_tops_of_solids_and_planks_and_on_slopes():
    course = make_drill(solids=[(0, -1, 8, 0)], oneway=[(2, 1, 4, 1.5)], slopes=[(8, 0, 12, 2)]).course
    assert tops_of(course) == [(0, 0, 8, 0), (2, 1.5, 4, 1.5), (8, 0, 12, 2)]


def test_a_place_is_the_surface_under_the_feet():
    press = jump_presses(EDGE.take)[0]
    found = lane(WREN, EDGE, Clock(), press)
    tops = tops_of(EDGE.course)
    for place, x, y in zip(found.places, found.x, found.y, strict=True):
        if place == NOWHERE:
            assert place_words(EDGE.course, place) == "not down in the take"
            continue
        x0, y0, x1, _ = tops[place]
        assert y == pytest.approx(y0)
        assert x0 - WREN.body.width / 2 < x < x1 + WREN.body.width / 2
        assert f"{y0:g} u" in place_words(EDGE.course, place).replace("−", "-")


def test_scattered_presses_follow_the_normal_distribution():
    press = jump_presses(EDGE.take)[0]
    assert spread(WREN, EDGE, Clock(), press, 0.0) == 1.0
    assert spread(BRAMBLE, EDGE, Clock(), press, 0.0) == 0.0
    # Wren's press works up to its own frame (shift 0): that is, until the end of that frame, half a frame later.
    first, last = lane(WREN, EDGE, Clock(), press).window()
    assert last == 0
    expected = 0.5 * (1 + math.erf((last + 0.5) / 60 / 0.04 / math.sqrt(2)))
    late = sum(spread(WREN, EDGE, Clock(), press, ms) for ms in (39.0, 40.0, 41.0)) / 3
    # A press so late that it is buffered works, too.
    assert expected - 0.03 < late < expected + 0.2
    assert spread(WREN, EDGE, Clock(), press, 40.0) == spread(WREN, EDGE, Clock(), press, 40.0)
    for ms in (-1.0, 501.0, math.nan):
        with pytest.raises(ValueError, match="from 0 to 500"):
            spread(WREN, EDGE, Clock(), press, ms)


def test_a_missing_press_is_refused():
    with pytest.raises(ValueError, match="no press of jump from frame 3 to 4"):
        lane(WREN, EDGE, Clock(), Press(3, 4))


@given(st.integers(-30, 30))
def test_a_shift_moves_the_press_alone(shift):
    press = jump_presses(HOP.take)[1]
    take = moved(HOP.take, press, shift)
    assert take.end - take.start == press.end - press.start
    assert presses_of(HOP.take, "jump")[1] == press


# Reach


def drill_for(way, course):
    return Drill(name="Jump", view="side", course=course, take=take_of(way))


@pytest.mark.parametrize("start", [STANDING, RUNNING])
@pytest.mark.parametrize("tune", [WREN, BRAMBLE], ids=lambda tune: tune.name)
def test_the_jump_distance_equals_a_study_with_that_ledge(tune, start):
    found = reach(tune, Clock(), start)
    levels = [gap.level for gap in found.gaps]
    assert levels == list(levels_for(max(reach(tune, Clock(), each).step for each in (STANDING, RUNNING))))
    flat = simulate(tune, drill_for(Way(start, 150), course_of(None, 0.0)), Clock())
    edge = float(flat["x"][int(flat.rows_with(4)[0]) - 1])
    for gap in found.gaps:
        if gap.distance is None:
            assert gap.level > found.step - 1e-9
            continue
        alone = read_off(simulate(tune, drill_for(gap.way, course_of(edge, gap.level)), Clock()))
        assert alone["jump_distance"].value == gap.distance
        assert alone["air_time"].value == gap.air_time
    assert found.step == max(
        read_off(simulate(tune, drill_for(Way(start, held), course_of(None, 0.0)), Clock()))["jump_height"].value
        for held in (2, 24, 40, 150)
    )
    assert found.easy_step <= found.step


def crosses(tune, gap, level, press, edge=0.0, held=150):
    """Whether a run with a press in this frame ends standing on a solid this far beyond the floor's edge."""
    drill = make_drill(
        solids=[(-40, -1, edge, 0), (edge + gap, -40, edge + gap + 60, level)], start=(-10, 0), length=220,
        right=[(0, 220)], jump=[(press, press + held)],
    )  # fmt: skip
    trace = simulate(tune, drill, Clock())
    stands = (trace["state"] == 0) & (trace["x"] + tune.body.width / 2 > edge + gap)
    return bool(stands.any())


@pytest.mark.parametrize("level", [-2.0, 0.0, 1.0])
@pytest.mark.parametrize("coyote", [0.0, 0.1])
def test_no_press_crosses_more_than_the_widest_gap(level, coyote):
    """Presses in every frame around the edge, floors that end at every tenth of a tick's distance."""
    tune = make_tune(jump__coyote=coyote)
    gap = next(gap for gap in reach(tune, Clock(), RUNNING, (level,)).gaps)
    # 7 u/s: 0.117 u per tick. From -10 the edge is reached at about 1.5 s.
    tries = [(press, part * 7 / 600) for press in range(82, 102) for part in range(10)]
    assert not any(crosses(tune, gap.widest + 1e-4, level, press, edge) for press, edge in tries)
    assert any(crosses(tune, gap.widest - 0.03, level, press, edge) for press, edge in tries)
    # Coyote time and half the body at both ends: a good deal more than the distance of the feet.
    assert gap.widest > gap.distance + tune.body.width - 0.2
    # The safe gap leaves a window of more than three frames.
    window = [press for press in range(82, 102) if crosses(tune, gap.safe, level, press)]
    assert len(window) > MARGIN


def test_a_gap_depends_on_the_reference_rate_only_where_time_counts_in_frames():
    tunes = [make_tune(jump__coyote=0.1, stepping__reference_rate=rate) for rate in (30.0, 60.0)]
    one, other = (reach(tune, Clock(), RUNNING, (0.0,)).gaps[0].widest for tune in tunes)
    assert one == other


def test_without_run_up_and_coyote_time_a_gap_is_distance_plus_width():
    """From a standing start with instant full speed: 6 u/s for so many ticks, plus half a body at both ends."""
    tune = make_tune(
        drive__law="instant", drive__top_speed=6, jump__short_hop="none", jump__run_boost=0, jump__coyote=0
    )
    found = reach(tune, Clock(), RUNNING)
    for gap in found.gaps:
        if gap.distance is not None:
            # Feet that end a tick exactly at the height of the ledge still get onto it with the next tick.
            ticks = math.floor(gap.air_time * 60 + 1e-9) + 1
            assert gap.widest == pytest.approx(6 * ticks / 60 + tune.body.width, abs=1e-5)
            # A press three frames before the edge loses the distance of three frames, where holding has no effect.
            assert gap.safe == pytest.approx(gap.widest - MARGIN * 6 / 60, abs=1e-5)


def test_reach_is_the_parabola_of_a_midpoint_jump():
    """A jump with v up and u along, under gravity g, comes down h higher after (v + √(v² - 2gh)) / g seconds."""
    tune = make_tune(
        "side", stepping__integrator="midpoint", drive__law="instant", drive__top_speed=5, drive__air_control=1,
        jump__short_hop="none", jump__jump_speed=12, jump__run_boost=0, gravity__gravity=40, gravity__fall_factor=1,
        gravity__apex_speed=0, gravity__terminal_speed=100,
    )  # fmt: skip
    found = reach(tune, Clock(), RUNNING)
    assert found.step == pytest.approx(12**2 / 80)
    # Off the edge it falls for √(2h/g), from the last row on the floor to the row that is down.
    deepest = math.sqrt(2 * -found.gaps[0].level / 40)
    assert found.fall == (pytest.approx(deepest + 1 / 60, abs=1.01 / 60), pytest.approx(5 * found.fall[0]))
    for gap in found.gaps:
        root = 144 - 80 * gap.level
        if gap.level < found.step:
            assert gap.air_time == pytest.approx((12 + math.sqrt(root)) / 40, abs=1e-6)
            assert gap.distance == pytest.approx(5 * gap.air_time, abs=1e-6)
        else:
            assert gap.distance is gap.widest is None


def test_the_outline_contains_the_gaps():
    found, paths = reach(WREN, Clock(), RUNNING), outline(WREN, Clock(), RUNNING)
    for gap in found.gaps:
        if gap.distance is not None:
            assert paths.farthest(gap.level) == pytest.approx(gap.distance, abs=0.06)
        else:
            assert paths.farthest(gap.level) is None
    assert max(y for _, y in paths.hull) == pytest.approx(found.step, abs=1e-3)


def test_the_table_has_a_row_for_each_level_and_start():
    found = [reach(WREN, Clock(), start) for start in (STANDING, RUNNING)]
    rows = table(found)
    assert len(rows) == sum(len(each.gaps) for each in found)
    assert all(len(row) == 8 and row[0] == "Wren" for row in rows)
    assert [row[1] for row in steps_table(found)] == [STANDING, RUNNING]
    seconds, way = found[1].fall
    assert [row[4:] for row in steps_table(found)] == [("", ""), (OURS.figure(seconds, "s"), OURS.figure(way, "u"))]
    assert rows[0][3:6] == ("", "", "")


@pytest.mark.parametrize(
    ("peak", "step", "top"),
    [(2.4, 0.5, 2.5), (0.835, 0.2, 1.0), (1.4, 0.25, 1.5), (6.0, 1.0, 7.0), (78.0, 20.0, 80.0), (0.03, 0.005, 0.035)],
)
def test_levels_are_round_up_to_the_first_unreachable_one(peak, step, top):
    levels = levels_for(peak)
    assert np.diff(levels) == pytest.approx(np.full(len(levels) - 1, step))
    assert levels[-1] == pytest.approx(top)
    assert levels[-2] <= peak < levels[-1]
    assert levels[0] == pytest.approx(-12 * step)
    assert 0.0 in levels


@pytest.mark.parametrize("rate", [10, 15, 20])
@pytest.mark.parametrize("start", [STANDING, RUNNING])
def test_longer_presses_count_if_a_slow_clock_misses_the_shortest(rate, start):
    """A frame is as long as six of the take: a jump held for two of them falls between frames."""
    slow = reach(WREN, Clock(tick_rate=rate), start)
    # A tick is at most a tenth of a second: the jump of 14.5 u/s is lower by half of one tick's fall.
    assert slow.step == pytest.approx(reach(WREN, Clock(), start).step, abs=0.5 * 14.5 / rate)
    assert any(gap.widest for gap in slow.gaps)
    paths = outline(WREN, Clock(tick_rate=rate), start).paths
    assert len(paths) == len(outlined(start))
    assert max(float(y.max()) for _, y in paths) == pytest.approx(slow.step, abs=1e-9)


def test_top_view_and_tunes_without_a_jump_have_no_reach():
    with pytest.raises(ValueError, match="no height to reach"):
        reach(HARBOUR.tune("Otter"), Clock(), STANDING)
    lame = make_tune("side", jump__jump_speed=0)
    assert all(gap.widest is None for gap in reach(lame, Clock(), STANDING).gaps if gap.level > 0)


# Sensitivity


def test_sensitivities_equal_single_runs_and_the_closed_form():
    """v²/2g: 2% for 1% of the jump speed, -1% for 1% of gravity."""
    tune = make_tune(
        "side", stepping__integrator="midpoint", jump__short_hop="none", jump__run_boost=0, gravity__terminal_speed=90
    )
    drill = make_drill(length=200, solids=FLOOR, jump=[(4, 200)])
    found = sensitivities(tune, drill, Clock(), "jump_height")
    assert [each.parameter.id for each in found.order] == ["jump.jump_speed", "gravity.gravity"]
    assert found.order[0].share == pytest.approx(0.02, rel=1e-3)
    assert found.order[1].share == pytest.approx(-0.01, rel=1e-3)
    assert "drive.top_speed" in [each.id for each in found.idle]
    for each in found.order:
        now = float(tune.get(each.parameter.id))
        low, high = (
            read_off(simulate(tune.put(each.parameter.id, now * (1 + sign * 0.01)), drill, Clock()))[
                "jump_height"
            ].value
            for sign in (-1, 1)
        )
        assert each.change == pytest.approx((high - low) / 2, rel=1e-12)


def test_sensitivities_of_times_in_ticks_and_of_vanishing_figures():
    found = sensitivities(WREN, HARBOUR.drill("Turn on the jetty"), Clock(), "turn_time")
    by_id = {each.parameter.id: each for each in found.order}
    assert by_id["drive.top_speed"].ticks == pytest.approx(by_id["drive.top_speed"].change * 60)
    # Turn acceleration is 0, like the others: its step would switch it on.
    assert "drive.turn_acceleration" in {each.parameter.id for each in found.off}
    assert all(WREN.get(each.parameter.id) == 0 for each in found.off)
    assert all(WREN.get(each.parameter.id) != 0 for each in found.order)
    shares = [math.inf if each.share is None else abs(each.share) for each in found.order]
    assert shares == sorted(shares, reverse=True)
    nothing = sensitivities(WREN, HARBOUR.drill("Quay sprint"), Clock(), "jump_height")
    assert (nothing.value, nothing.order) == (None, ())
    with pytest.raises(KeyError):
        sensitivities(WREN, HOP, Clock(), "nothing")


def test_targets_near_their_edge_are_found():
    from cinetica.model.targets import Target

    height = read_off(simulate(WREN, HOP, Clock()))["jump_height"].value

    def with_low(low):
        drill = HOP.model_copy(update={"targets": (Target(measure="jump_height", low=low),)})
        drills = tuple(drill if each is HOP else each for each in HARBOUR.drills)
        return HARBOUR.model_copy(update={"drills": drills})

    assert [left for _, left in near_their_edge(with_low(height - 0.01), WREN)] == [pytest.approx(0.01)]
    assert near_their_edge(with_low(height - 0.5), WREN) == []
    assert near_their_edge(with_low(height + 0.01), WREN) == []


def test_a_sweep_has_an_axis_for_each_number():
    found = sweep(WREN, HOP, Clock(), {"gravity.gravity": [30, 40], "jump.short_hop": ["none", "cut"]}, ["lowest_hop"])
    assert found.figures["lowest_hop"].shape == (2, 2)
    tune = WREN.put("gravity.gravity", 40).put("jump.short_hop", "none")
    assert found.figures["lowest_hop"][1, 0] == read_off(simulate(tune, HOP, Clock()))["lowest_hop"].value


def test_a_take_without_jump_has_no_press():
    assert jump_presses(EDGE.take.model_copy(update={"keys": Keys()})) == ()


def test_a_figure_present_on_one_side_only_has_no_sensitivity():
    """A ramp that just reaches 99% within the push: with a little less acceleration the time is absent."""
    short = make_drill(length=90, solids=FLOOR, right=[(5, 14)])
    just = sensitivities(make_tune(drive__acceleration=7 * 0.99 * 60 / 9 * 1.001), short, Clock(), "time_to_top_speed")
    comes_and_goes = {each.parameter.id for each in just.order if each.share is None}
    assert "drive.acceleration" in comes_and_goes
    assert just.order[0].share is None


def test_an_outline_has_each_direction_once_and_all_steerings():
    for start in (STANDING, RUNNING):
        ways = outlined(start)
        assert len(set(ways)) == len(ways)
        assert {way.steering for way in ways} == {"kept", "let go", "reversed"}
        # Stored outlines are finer: one for each frame of holding up to 30.
        assert [way.held for way in ways if way.steering == "kept"][:30] == list(range(1, 31))
