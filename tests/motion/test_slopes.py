"""Walking on slopes, worked out by hand, and invariants of all of them."""

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cinetica.model.course import Course, Rectangle, Slope
from cinetica.model.tune import Tune
from tests.builders import make_drill, make_tune, marks_at, rows_of, run
from tests.motion.test_against_reference import random_drill, random_slopes
from tests.motion.test_step import random_tune

# 3 along, 4 across: sin 0.6, cos 0.8, and 36.87°.
RAMP = (2.0, 0.0, 42.0, 30.0)
DOWN = (-40.0, 0.0, 0.0, -30.0)
RIGHT = {"right": [(0, 400)]}


def at_once(**numbers):
    """A tune with instant full speed: 6 u/s."""
    return make_tune(**{"drive__law": "instant", "drive__top_speed": 6, "gravity__gravity": 30, **numbers})


def upon(line=RAMP, at=12.0, **more):
    """A drill that begins on a line."""
    x0, y0, x1, y1 = line
    y = y0 + (at - x0) * (y1 - y0) / (x1 - x0)
    return make_drill(solids=(), slopes=[line], start=(at, y), length=60, **more)


def height(lines, x):
    """The highest of these lines at x, if there is one."""
    return max((s.y0 + (x - s.x0) * (s.y1 - s.y0) / (s.x1 - s.x0) for s in lines if s.x0 <= x <= s.x1), default=-np.inf)


# Pace


@pytest.mark.parametrize(("pace", "across"), [("along", 0.8), ("level", 1.0)])
def test_the_pace_counts_along_the_slope_or_across(pace, across):
    trace = run(at_once(slope__slope_pace=pace), upon(**RIGHT))
    assert trace["x"][10] == pytest.approx(12 + 10 / 60 * 6 * across)
    assert trace["y"] == pytest.approx((trace["x"] - 2) * 0.75)
    # The trace shows the rates of both.
    assert (trace["vx"][10], trace["vy"][10]) == pytest.approx((6 * across, 6 * across * 0.75))
    assert trace["speed"][10] == pytest.approx(6 if pace == "along" else 7.5)
    assert trace["ground_angle"][1:] == pytest.approx(math.degrees(math.atan(0.75)))
    assert set(trace["state"]) == {0}


@given(st.floats(-60, 60), st.sampled_from([20.0, 60.0, 144.0]))
def test_the_speed_along_a_slope_is_that_of_the_drive(angle, rate):
    line = (-100.0, 0.0, 100.0, 200 * math.tan(math.radians(angle)))
    tune = make_tune(slope__max_slope=61, slope__ground_snap=100, drive__acceleration=20)
    slanted, level = run(tune, upon(line, 0.0, **RIGHT), rate), run(tune, make_drill(length=60, **RIGHT), rate)
    assert slanted["speed"][2:] == pytest.approx(level["speed"][2:], abs=1e-9)


@pytest.mark.parametrize(("line", "factor"), [(RAMP, 0.5), (DOWN, 2.0)])
def test_uphill_and_downhill_have_separate_top_speeds(line, factor):
    tune = at_once(slope__uphill_factor=0.5, slope__downhill_factor=2.0)
    trace = run(tune, upon(line, line[0] + 10, **RIGHT))
    assert trace["speed"][5] == pytest.approx(6 * factor)


# Ends of a slope, and its surroundings


def test_from_the_floor_up_the_ramp_and_on_to_the_roof():
    drill = make_drill(solids=[(-9, -1, 6, 0), (6, -1, 40, 2)], slopes=[(2, 0, 6, 2)], length=160, **RIGHT)
    trace = run(make_tune(), drill)
    assert set(trace["state"]) == {0}
    assert not rows_of(trace, "wall") + rows_of(trace, "leave")
    assert trace["y"][-1] == 2
    assert trace["overlap"].max() == 0


def test_a_walk_down_stays_on_the_ground_and_without_a_snap_hops():
    drill = make_drill(
        solids=[(-9, 3, 2, 4), (2, -1, 40, 0)], slopes=[(2, 4, 10, 0)], start=(0, 4), length=150, **RIGHT
    )
    set_down, hops = run(make_tune(), drill), run(make_tune(slope__ground_snap=0), drill)
    assert not rows_of(set_down, "leave")
    assert len(rows_of(hops, "land")) >= 3
    # Both are above the slope or on it.
    for trace in (set_down, hops):
        assert all(y >= height(drill.course.slopes, x) - 1e-9 for x, y in zip(trace["x"], trace["y"], strict=True))


def test_a_slope_too_steep_is_a_wall_to_a_walk():
    drill = make_drill(slopes=[(4, 0, 5, 3)], length=100, **RIGHT)
    trace = run(make_tune(), drill)
    assert trace["x"][-1] == pytest.approx(4.0)
    assert trace["y"][-1] == 0
    assert "wall" in marks_at(trace, 90)
    assert trace["vx"][-1] == 0


def test_a_steep_slope_rising_from_a_ramp_stops_a_walk():
    """It crosses the ramp y = (x - 2)/2 where 3(x - 4) = (x - 2)/2: at x = 4.4, y = 1.2."""
    drill = make_drill(slopes=[(2, 0, 12, 5), (4, 0, 6, 6)], length=100, **RIGHT)
    trace = run(make_tune(), drill)
    assert (trace["x"][-1], trace["y"][-1]) == pytest.approx((4.4, 1.2))


def test_a_body_on_a_steep_slope_slides_and_is_driven_only_downhill():
    """45°: gravity along it is g/√2, and half of that in each axis."""
    tune = make_tune(slope__max_slope=30, gravity__gravity=20, drive__law="ramp")
    slope = (-200.0, 200.0, 0.0, 0.0)
    for keys in ({}, {"left": [(0, 60)]}):
        trace = run(tune, make_drill(solids=(), slopes=[slope], start=(-150, 150.001), length=60, **keys), 240)
        assert {2} == set(trace["state"])
        assert set(trace["ground_angle"][5:]) == {-45.0}
        assert trace["vx"][-1] == pytest.approx(10.0, rel=0.02)
        assert trace["vy"][-1] == pytest.approx(-trace["vx"][-1])
    pushed = run(tune, make_drill(solids=(), slopes=[slope], start=(-150, 150.001), length=60, **RIGHT), 240)
    assert pushed["vx"][30] > trace["vx"][30] + 1


def test_a_body_passes_a_slope_from_below_and_from_the_side():
    drill = make_drill(slopes=[(-5, 1, 5, 1.5)], jump=[(2, 40)], length=90)
    trace = run(make_tune(), drill)
    assert trace["y"].max() > 1.3
    # It rose through the slope, and stands on it now.
    assert trace["y"][-1] == pytest.approx(1.25)
    assert "land" in {mark for row in range(20, 90) for mark in marks_at(trace, row)}


def test_a_ceiling_over_a_ramp_stops_the_walk():
    drill = make_drill(solids=[(-9, -1, 40, 0), (4, 2.0, 20, 3)], slopes=[(2, 0, 10, 4)], length=100, **RIGHT)
    trace = run(make_tune(), drill)
    # Below the ceiling there are 0.4 u above the head on the floor: 0.8 u of the ramp.
    assert 2.0 < trace["x"][-1] <= 3.6 + 1e-9
    assert trace["overlap"].max() == 0
    assert rows_of(trace, "wall")


# Leaving


def test_a_jump_keeps_part_of_the_rise():
    tune = at_once(slope__slope_carry=0.5, jump__jump_speed=10, gravity__gravity=0)
    trace = run(tune, upon(**RIGHT, jump=[(20, 40)]))
    (row,) = rows_of(trace, "launch")
    # 6 u/s along the slope, 3.6 of it up.
    assert trace["vy"][row] == pytest.approx(10 + 0.5 * 3.6)


def test_walking_off_a_ramp_keeps_the_rise_and_a_late_jump_does_not():
    tune = at_once(slope__slope_carry=1.0, gravity__gravity=0, jump__jump_speed=5, slope__ground_snap=0)
    drill = make_drill(solids=(), slopes=[(0, 0, 4, 3)], start=(3, 2.25), length=60, **RIGHT)
    trace = run(tune, drill)
    (left,) = rows_of(trace, "leave")
    assert trace["vy"][left] == pytest.approx(3.6)
    late = make_drill(
        solids=(), slopes=[(0, 0, 4, 3)], start=(3, 2.25), length=60, jump=[(left + 2, left + 20)], **RIGHT
    )
    (launch,) = rows_of(run(tune, late), "coyote_launch")
    assert run(tune, late)["vy"][launch] == pytest.approx(5)


# Invariants


@settings(max_examples=60)
@given(st.integers(0, 10**6))
def test_feet_never_sink_below_a_walkable_line(seed):
    """Lines that continue each other from the floor, as a course has them."""
    chance = random.Random(seed)
    heights = [0.0, *(max(0.0, chance.uniform(-1.0, 1.0)) for _ in range(4))]
    places = np.cumsum([1.0, *(chance.uniform(1.2, 3) for _ in range(4))])
    lines = tuple(
        Slope(float(a), b, float(c), d)
        for a, b, c, d in zip(places[:-1], heights[:-1], places[1:], heights[1:], strict=True)
    )
    tune = random_tune("side", chance).put("contact.sweep", "swept").put("slope.max_slope", 80.0)
    tune = tune.put("contact.late", False)
    drill = random_drill(chance, "side").model_copy(
        update={"start": (0.0, 0.0), "course": Course(solids=(Rectangle(-50, -1, 50, 0),), slopes=lines)}
    )
    trace = run(tune, drill, chance.choice([30.0, 60.0, 144.0]))
    x, y = trace["x"], trace["y"]
    for line in lines:
        level = np.interp(x, [line.x0, line.x1], [line.y0, line.y1])
        was_over = y[:-1] >= level[:-1] - 1e-9
        within = (line.x0 <= x[1:]) & (x[1:] <= line.x1)
        assert (y[1:] >= level[1:] - 1e-8)[was_over & within].all()


@settings(max_examples=60)
@given(
    st.floats(-80, 80), st.sampled_from([20.0, 30.0, 60.0, 144.0, 240.0, 1000.0]),
    st.sampled_from(["velocity_first", "position_first", "midpoint"]), st.sampled_from(["swept", "stepped"]),
)  # fmt: skip
def test_a_resting_body_does_not_slip(angle, rate, integrator, sweep):
    line = (-10.0, 3.0, 10.0, 3.0 + 20 * math.tan(math.radians(angle)))
    tune = make_tune(stepping__integrator=integrator, contact__sweep=sweep, slope__max_slope=81)
    trace = run(tune, upon(line, 1.0), rate)
    assert set(trace["state"]) == {0}
    # In the first tick the start may be put on the line, by less than the slack.
    assert trace["y"][1] == pytest.approx(trace["y"][0], abs=1e-9)
    assert set(trace["vy"][2:]) == {0.0}
    assert set(trace["y"][2:]) == {trace["y"][1]}


@settings(max_examples=60)
@given(st.integers(0, 10**6))
def test_a_mirrored_course_gives_a_mirrored_trace(seed):
    chance = random.Random(seed)
    drill = random_drill(chance, "side")
    course = drill.course.model_copy(update={"slopes": random_slopes(chance)})
    # Of two equally near sides of a solid the left one counts.
    tune = random_tune("side", chance).put("contact.corner_slip", 0.0).put("facing.facing", "none")
    tune = tune.put("input.view_yaw", 0.0).put("input.view", "fixed")
    # The same for two walls, and without input a dash goes to the right.
    tune = tune.put("wall.slide_speed", 0.0).put("wall.jump_speed", 0.0).put("dash.speed", 0.0)
    vx, vy = drill.start_velocity

    def turned(rectangle):
        return type(rectangle)(-rectangle[2], rectangle[1], -rectangle[0], rectangle[3])

    def slanted(slope):
        return Slope(-slope.x1, slope.y1, -slope.x0, slope.y0)

    other = Course(
        solids=tuple(map(turned, course.solids)), oneway=tuple(map(turned, course.oneway)),
        climb=tuple(map(turned, course.climb)), slopes=tuple(map(slanted, course.slopes)),
        zones=tuple(
            zone.model_copy(update={"box": turned(zone.box), "push": (-zone.push[0], zone.push[1])})
            for zone in course.zones
        ),
    )  # fmt: skip
    keys = drill.take.keys
    take = drill.take.model_copy(
        update={
            "keys": keys.model_copy(update={"left": keys.right, "right": keys.left}),
            "stick": tuple(push._replace(x=-push.x) for push in drill.take.stick),
            "aim": (),
            "shoves": tuple(shove._replace(vx=-shove.vx) for shove in drill.take.shoves),
        }
    )
    one = run(tune, drill.model_copy(update={"course": course}))
    mirrored = run(tune, drill.model_copy(update={"course": other, "take": take, "start_velocity": (-vx, vy)}))
    assert mirrored["y"] == pytest.approx(one["y"], abs=1e-7)
    assert mirrored["x"] == pytest.approx(-one["x"], abs=1e-7)
    assert mirrored["ground_angle"] == pytest.approx(-one["ground_angle"], abs=1e-7)
    assert mirrored["state"].tolist() == one["state"].tolist()


def test_without_a_sweep_slopes_have_no_effect():
    tune = Tune(name="Wren").put("contact.sweep", "none")
    course = make_drill(slopes=[(1, 0, 9, 4)], length=60, **RIGHT)
    plain = run(tune, make_drill(length=60, **RIGHT))
    assert run(tune, course)["y"].tobytes() == plain["y"].tobytes()
