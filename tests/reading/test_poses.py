"""Poses, row by row, against what their thresholds and times say."""

import numpy as np
import pytest

from cinetica.motion.records import FALL, GROUND, LAND, RISE
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.poses import POSES, poses_of
from tests.builders import make_drill, make_tune, run

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


def test_in_the_air_the_gait_begins_anew():
    # 3.7 u/s holds a run that was on; after the air it is a walk.
    states = [GROUND, GROUND, RISE, GROUND, GROUND]
    assert named(rows_of([4.5, 3.7, 3.7, 3.7, 3.7], states)) == ["run", "run", "rise", "walk", "walk"]


def test_a_landing_is_shown_for_its_time_and_only_on_the_ground():
    states = [FALL, GROUND, GROUND, GROUND, GROUND]
    rows = rows_of([5, 5, 5, 5, 5], states, landings=[1])
    assert named(rows, land_time=2 * H) == ["fall", "land", "land", "run", "run"]
    states = [FALL, GROUND, RISE, RISE, RISE]
    assert named(rows_of([5] * 5, states, [1]), land_time=1.0) == ["fall", "land", "rise", "rise", "rise"]


def test_on_a_line_too_steep_it_slides():
    assert named(rows_of([1, 1], [FALL, FALL], angle=60.0)) == ["slide", "slide"]


def test_a_pose_is_shown_for_as_long_as_it_is_held():
    states = [GROUND, RISE, FALL, FALL, FALL, GROUND]
    shown = named(rows_of([0] * 6, states), hold=3 * H, land_time=0.0)
    assert shown == ["idle", "idle", "idle", "fall", "fall", "fall"]


def test_it_is_a_channel_of_every_trace():
    trace = run(make_tune(jump__jump_speed=10.0), make_drill(length=80, right=[(0, 80)], jump=[(40, 60)]))
    assert BY_COLUMN["pose"].short_label == "Pose"
    poses = [POSES[int(code)] for code in trace["pose"]]
    assert poses[0] == "idle"
    assert [pose for pose, before in zip(poses[1:], poses, strict=False) if pose != before] == [
        "walk", "run", "rise", "fall", "land", "run",
    ]  # fmt: skip
    assert trace.value("pose", 41) == POSES.index("rise")


@pytest.mark.parametrize("view", ["side", "top"])
def test_thresholds_do_not_move_the_body(view):
    drill = make_drill(view=view, length=60, right=[(0, 40)])
    plain, other = run(make_tune(view), drill), run(make_tune(view, pose__run_above=1.0, pose__hold=0.3), drill)
    assert plain["x"].tobytes() == other["x"].tobytes()
