import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cinetica.model.course import Course, Rectangle
from tests.builders import FLOOR, make_drill, make_tune, marks_at, rows_of, run, takes

WALL = (3.0, -1.0, 3.2, 9.0)
BEAM = (-3.0, 2.0, 3.0, 2.2)


@pytest.mark.parametrize("speed", [5.0, 100.0, 1e4])
def test_swept_stops_at_a_thin_wall_at_any_speed(speed):
    tune = make_tune(drive__law="instant", drive__top_speed=speed)
    trace = run(tune, make_drill(length=60, solids=(FLOOR, WALL), right=[(0, 60)]))
    assert trace["x"][-1] == pytest.approx(3 - 0.4, abs=1e-12)
    assert trace["vx"][-1] == 0
    assert "wall" in marks_at(trace, 60)


def test_stepped_tunnels_when_fast_and_backs_out_when_slow():
    def end(speed):
        tune = make_tune(drive__law="instant", drive__top_speed=speed, contact__sweep="stepped")
        return run(tune, make_drill(length=60, solids=(FLOOR, WALL), right=[(0, 60)]))["x"][-1]

    assert end(5.0) == pytest.approx(2.6)
    assert end(200.0) > 3.2


def test_contact_none_records_the_overlap():
    tune = make_tune(drive__law="instant", drive__top_speed=6, contact__sweep="none", gravity__gravity=0)
    trace = run(tune, make_drill(length=40, solids=(WALL,), start=(0, 2), right=[(0, 40)]))
    # 0.1 u per tick: the right side is at 0.4 + 0.1·k, the wall begins at 3 and is 0.2 wide.
    assert trace["overlap"][[26, 27, 28, 30]] == pytest.approx([0, 0.1, 0.2, 0.2], abs=1e-9)


def test_wall_stop_holds_a_falling_body():
    hands = make_drill(length=60, solids=(WALL,), start=(2.0, 5), right=[(0, 60)])
    slide, stop = run(make_tune(), hands), run(make_tune(contact__wall="stop"), hands)
    assert slide["y"][-1] < 0
    stuck = rows_of(stop, "wall")[0]
    assert np.ptp(stop["y"][stuck:]) == 0


def test_head_bump():
    hands = make_drill(length=60, solids=(FLOOR, BEAM), jump=[(0, 60)])
    stop, keep = run(make_tune(), hands), run(make_tune(contact__head_bump="keep"), hands)
    bump = rows_of(stop, "bump")
    assert len(bump) == 1
    assert stop["y"][bump[0]] == pytest.approx(2 - 1.6)
    assert stop["vy"][bump[0]] == 0
    hanging = keep["y"] == keep["y"].max()
    assert np.count_nonzero(hanging) > 10
    assert rows_of(keep, "land")[0] > rows_of(stop, "land")[0]


@pytest.mark.parametrize(("reach", "passes"), [(0.25, True), (0.15, False)])
def test_corner_slip(reach, passes):
    # The head is 0.2 below the end of the beam at x = 0.2.
    beam = (-5.0, 2.0, -0.2, 3.0)
    tune = make_tune(contact__corner_slip=reach, jump__jump_speed=20)
    trace = run(tune, make_drill(length=40, solids=(FLOOR, beam), jump=[(0, 40)]))
    assert bool(trace["y"].max() > 1) is passes
    assert bool(rows_of(trace, "bump")) is not passes
    if passes:
        assert trace["x"].max() == pytest.approx(0.2)


def test_one_way_solids_hold_only_what_falls_on_them():
    plank = (-2.0, 1.0, 2.0, 1.2)
    trace = run(make_tune(), make_drill(length=80, oneway=[plank], jump=[(0, 40)]))
    assert rows_of(trace, "bump") == []
    assert trace["y"][-1] == pytest.approx(1.2)
    beside = run(make_tune(), make_drill(length=60, oneway=[(1.0, 0.2, 2.0, 1.2)], right=[(0, 60)]))
    assert rows_of(beside, "wall") == []


def test_a_body_that_starts_inside_a_wall_shows_it_and_can_leave():
    trace = run(make_tune("top"), make_drill(view="top", length=60, solids=((0.2, -3.0, 0.5, 3.0),), left=[(10, 60)]))
    assert trace["overlap"][0] == pytest.approx(0.2)
    assert trace["overlap"][5] == pytest.approx(0.2)
    assert trace["overlap"][-1] == 0


def test_ground_probe_counts_as_standing():
    drop = make_drill(length=20, start=(0, 0.3))
    assert run(make_tune(), drop)["state"][0] == 2
    assert run(make_tune(contact__ground_probe=0.3), drop)["state"][0] == 0


def test_top_view_slides_along_walls():
    walls = ((2.0, -9.0, 3.0, 9.0),)
    drill = make_drill(view="top", length=60, solids=walls, right=[(0, 60)], up=[(0, 60)])
    slide, stop = run(make_tune("top"), drill), run(make_tune("top", contact__wall="stop"), drill)
    assert slide["x"][-1] == pytest.approx(2 - 0.4)
    assert slide["vy"][-1] == pytest.approx(7 / np.sqrt(2))
    assert stop["speed"][-1] == 0
    assert {int(state) for state in slide["state"]} == {0}


@st.composite
def courses(draw):
    """A few boxes that leave the start at the origin free."""
    boxes = []
    for _ in range(draw(st.integers(0, 6))):
        left, bottom = draw(st.floats(-12, 12)), draw(st.floats(-12, 12))
        box = Rectangle(left, bottom, left + draw(st.floats(0.05, 6)), bottom + draw(st.floats(0.05, 6)))
        if box.right < -0.5 or box.left > 0.5 or box.top < -0.9 or box.bottom > 1.7:
            boxes.append(box)
    return tuple(boxes)


@settings(max_examples=300)
@given(
    boxes=courses(), take=takes(), speed=st.floats(0, 1e4), rate=st.floats(10, 240), view=st.sampled_from(["side",
    "top"]),
    law=st.sampled_from(["instant", "ramp", "ease", "throttle", "push", "steer"]), slip=st.sampled_from([0.0, 0.5]),
)  # fmt: skip
def test_bodies_never_end_inside_a_solid(boxes, take, speed, rate, view, law, slip):
    tune = make_tune(
        view, drive__law="ramp" if view == "side" and law == "steer" else law, drive__top_speed=speed,
        drive__acceleration=1e6, gravity__gravity=speed * 10,
        jump__jump_speed=speed, contact__corner_slip=slip,
    )  # fmt: skip
    drill = make_drill(view=view).model_copy(update={"take": take, "course": Course(solids=boxes)})
    trace = run(tune, drill, rate)
    assert trace["overlap"].max() == 0
    # Measured again from the positions: the kernel takes it for granted.
    below, above = (0.0, 1.6) if view == "side" else (0.8, 0.8)
    for box in boxes:
        wide = np.minimum(trace["x"] + 0.4, box.right) - np.maximum(trace["x"] - 0.4, box.left)
        high = np.minimum(trace["y"] + above, box.top) - np.maximum(trace["y"] - below, box.bottom)
        assert np.minimum(wide, high).max() <= 1e-9


@pytest.mark.parametrize("way", ["right", "left"])
@pytest.mark.parametrize("ticks", range(1, 60))
def test_a_body_that_exactly_reaches_a_wall_is_blocked_in_the_next_tick(way, ticks):
    """0.1 u per tick: however the sum is rounded, the wall is reached after `ticks` and blocks the next one."""
    sign = 1 if way == "right" else -1
    face = 0.1 * ticks + 0.4
    wall = (face, 0, face + 1, 3) if sign > 0 else (-face - 1, 0, -face, 3)
    tune = make_tune(drive__law="instant", drive__top_speed=6, body__width=0.8)
    trace = run(tune, make_drill(solids=[FLOOR, wall], length=ticks + 3, **{way: [(0, ticks + 3)]}))
    assert rows_of(trace, "wall")[0] == ticks + 1
    assert trace["x"][ticks:] == pytest.approx(sign * 0.1 * ticks, abs=1e-9)
