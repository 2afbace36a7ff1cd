"""Poses, row by row, against their thresholds and times."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as some

from cinetica.motion.live import Held, LiveRun
from cinetica.motion.records import CLIMB, FALL, GROUND, LAND, LAUNCH, PRESS, RISE, TRACE, empty_records
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.measures import OF_POSES
from cinetica.reading.pose_steps import POSES
from cinetica.reading.poses import PoseFollower, pose_runs, poses_of
from cinetica.reading.reading_off import read_off
from tests.builders import FLOOR, make_drill, make_tune, run

H = 1 / 60


def rows_of(speeds, states=None, landings=(), angle=0.0):
    count = len(speeds)
    marks = np.zeros(count, dtype=np.int64)
    marks[list(landings)] = LAND
    return {
        "time": np.arange(count) * H, "speed": np.array(speeds, dtype=float), "marks": marks,
        "state": np.array([GROUND] * count if states is None else states), "ground_angle": np.full(count, angle),
    }  # fmt: skip


def named(rows, **numbers):
    tune = make_tune(**{f"pose__{key}": value for key, value in numbers.items()})
    return [POSES[code] for code in poses_of(rows, tune)]


def test_gaits_hold_until_the_speed_is_well_under_their_threshold():
    speeds = [0, 0.2, 0.21, 3, 4.1, 3.7, 3.59, 0.19, 0.17]
    poses = ["idle", "idle", "walk", "walk", "run", "run", "walk", "walk", "idle"]
    assert named(rows_of(speeds), hysteresis=0.1) == poses


def test_the_gait_restarts_after_the_air():
    # 3.7 u/s continues a run that is on; after the air it is a walk.
    states = [GROUND, GROUND, RISE, GROUND, GROUND]
    assert named(rows_of([4.5, 3.7, 3.7, 3.7, 3.7], states)) == ["run", "run", "rise", "walk", "walk"]


def test_a_landing_is_shown_for_its_time_and_only_on_the_ground():
    states = [FALL, GROUND, GROUND, GROUND, GROUND]
    rows = rows_of([5, 5, 5, 5, 5], states, landings=[1])
    assert named(rows, land_time=2 * H) == ["fall", "land", "land", "run", "run"]
    states = [FALL, GROUND, RISE, RISE, RISE]
    assert named(rows_of([5] * 5, states, [1]), land_time=1.0) == ["fall", "land", "rise", "rise", "rise"]


def test_on_a_slope_too_steep_the_pose_is_slide():
    assert named(rows_of([1, 1], [FALL, FALL], angle=60.0)) == ["slide", "slide"]


def test_a_pose_is_shown_for_as_long_as_it_is_held():
    states = [GROUND, RISE, FALL, FALL, FALL, GROUND]
    shown = named(rows_of([0] * 6, states), hold=3 * H, land_time=0.0)
    assert shown == ["idle", "idle", "idle", "fall", "fall", "fall"]


def test_the_pose_is_a_channel_of_every_trace():
    trace = run(make_tune(jump__jump_speed=10.0), make_drill(length=80, right=[(0, 80)], jump=[(40, 60)]))
    assert BY_COLUMN["pose"].short_label == "Pose"
    poses = [POSES[int(code)] for code in trace["pose"]]
    assert poses[0] == "idle"
    assert [pose for pose, before in zip(poses[1:], poses, strict=False) if pose != before] == [
        "walk", "run", "rise", "fall", "land", "run",
    ]  # fmt: skip
    assert trace.value("pose", 41) == POSES.index("rise")


@pytest.mark.parametrize("view", ["side", "top"])
def test_pose_thresholds_do_not_move_the_body(view):
    drill = make_drill(view=view, length=60, right=[(0, 40)])
    plain, other = run(make_tune(view), drill), run(make_tune(view, pose__run_above=1.0, pose__hold=0.3), drill)
    assert plain["x"].tobytes() == other["x"].tobytes()


# Row by row, as figures and Play follow them


@given(
    some.lists(
        some.tuples(
            some.sampled_from([GROUND, GROUND, GROUND, RISE, FALL, CLIMB]), some.floats(0, 6), some.booleans()
        ),
        min_size=1, max_size=60,
    ),
    some.sampled_from([0.0, 0.05, 0.2]), some.sampled_from([0.0, 0.1, 0.5]),
)  # fmt: skip
def test_poses_row_by_row_equal_poses_all_at_once(rows, hold, hysteresis):
    tune = make_tune(pose__hold=hold, pose__hysteresis=hysteresis)
    trace = empty_records(TRACE, len(rows))
    trace["time"] = np.arange(len(rows)) * H
    trace["state"], trace["speed"] = [row[0] for row in rows], [row[1] for row in rows]
    trace["marks"] = [LAND if lands and state == GROUND else 0 for state, _, lands in rows]
    follower, found = PoseFollower(), []
    for count in range(1, len(rows) + 1):
        follower.follow(trace[:count], tune)
        found.append(follower.pose)
    assert found == poses_of(trace, tune).tolist()


def test_a_stride_depends_on_distance():
    """At 4.8 u/s a run with strides of 1.6 u has three cycles per second; standing and in the air there are none."""
    tune = make_tune(drive__law="instant", drive__top_speed=4.8, pose__stride_run=1.6)
    drill = make_drill(length=150, right=[(0, 60)], jump=[(100, 110)])
    trace = run(tune, drill)
    assert trace["stride"][60] == pytest.approx(3.0)
    assert trace["stride"][-1] == trace["stride"][60]
    live, follower = LiveRun([tune], drill.course, drill.start, 60.0), PoseFollower()
    for _ in range(60):
        live.tick(Held(frozenset({"right"})))
        follower.follow(live.trace(0), tune)
    assert follower.cycles == pytest.approx(3.0)


# Figures


def figures(tune, drill):
    return {id: reading.value for id, reading in read_off(run(tune, drill), OF_POSES).items()}


def test_changes_are_counted_and_the_shortest_pose_is_found():
    """Instantly 5 u/s for 30 ticks: idle, run, idle. Then 3 ticks of 2 u/s: walk, idle."""
    tune = make_tune(drive__law="instant", drive__top_speed=5.0, drive__modifier_speed=0.4)
    drill = make_drill(length=80, right=[(10, 40), (50, 53)], modifier=[(50, 53)])
    found = figures(tune, drill)
    assert found["pose_changes"] == 4
    assert found["shortest_pose"] == pytest.approx(3 * H)
    runs = pose_runs(run(tune, drill))
    assert [(POSES[each.pose], each.short) for each in runs] == [
        ("idle", False), ("run", False), ("idle", False), ("walk", True), ("idle", False),
    ]  # fmt: skip
    assert [each.start for each in runs] == pytest.approx([0, 10 * H, 40 * H, 50 * H, 53 * H])
    assert [each.end for each in runs] == pytest.approx([10 * H, 40 * H, 50 * H, 53 * H, 80 * H])
    # Idle is held for 12 ticks, and so is the rest of the walk.
    held = make_tune(drive__law="instant", drive__top_speed=5.0, drive__modifier_speed=0.4, pose__hold=0.2)
    assert figures(held, drill)["shortest_pose"] == pytest.approx(12 * H)


def test_a_held_pose_shows_the_rise_late():
    drill = make_drill(length=90, right=[(0, 90)], jump=[(40, 60)])
    tune = make_tune(jump__jump_speed=10.0, drive__law="instant")
    assert figures(tune, drill)["rise_delay"] == 0
    # The pose of row 0 is shown for 0.75 s, up to row 45; the press comes in row 41.
    assert figures(make_tune(jump__jump_speed=10.0, drive__law="instant", pose__hold=0.75), drill)["rise_delay"] == 4
    assert "rise_delay" not in figures(make_tune(), make_drill(length=60, right=[(0, 60)]))


def test_a_buffered_press_counts_from_the_press():
    """It falls from 1 u; the press comes 3 ticks before the landing, and launches in the tick after it."""
    tune = make_tune(jump__buffer=0.2, gravity__gravity=72.0)
    drill = make_drill(length=60, start=(0.0, 1.0), solids=[FLOOR], jump=[(7, 9)])
    trace = run(tune, drill)
    (press,), (launch,) = trace.rows_with(PRESS), trace.rows_with(LAUNCH)
    assert figures(tune, drill)["rise_delay"] == launch - press > 0


def test_strides_a_second_are_those_at_the_greatest_speed():
    drill = make_drill(length=60, right=[(0, 50)])
    tune = make_tune(drive__law="instant", drive__top_speed=6.0, pose__stride_run=1.5)
    assert figures(tune, drill)["stride_rate"] == pytest.approx(4.0)
    walks = make_tune(drive__law="instant", drive__top_speed=3.0, pose__stride_walk=0.6)
    assert figures(walks, drill)["stride_rate"] == pytest.approx(5.0)
    assert not figures(tune, make_drill(length=30))


def test_pose_figures_are_read_on_request():
    drill = make_drill(length=60, right=[(0, 50)])
    assert not set(OF_POSES) & read_off(run(make_tune(), drill)).keys()
