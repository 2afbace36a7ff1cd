"""Poses: which animation a game would show, read off a run by thresholds and times (docs/model.md, section 15)."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.model.tune import Tune
from cinetica.motion.records import AT_WALL, CLIMB, FALL, GROUND, IN_DASH, LAND, RISE, SLACK, tune_record
from cinetica.motion.simulate import Columns
from cinetica.reading.pose_steps import (
    CLIMBING,
    DASHING,
    FALLING,
    IDLE,
    LANDING,
    ON_WALL,
    POSE,
    RISING,
    RUN,
    SLIDING,
    WALK,
    begin_poses,
    next_pose,
)

_OF_STATE = {RISE: RISING, FALL: FALLING, CLIMB: CLIMBING, AT_WALL: ON_WALL, IN_DASH: DASHING}


# A pose shorter than this, in s, is a flicker.
SHORTEST = 0.1


def poses_of(rows: Columns, tune: Tune) -> NDArray[Any]:
    """The pose of each row, as a place in `POSES`; shape (rows,)."""
    state, pose = rows["state"], tune.pose
    grounded = state == GROUND
    found = np.full(len(state), IDLE)
    for code, shown in _OF_STATE.items():
        found[state == code] = shown
    # A sliding body counts as in the air, on a line.
    found[(state == FALL) & (rows["ground_angle"] != 0.0)] = SLIDING
    walks = _above(rows["speed"], pose.walk_above, pose.hysteresis, grounded)
    runs = _above(rows["speed"], pose.run_above, pose.hysteresis, grounded)
    found[grounded & walks] = WALK
    found[grounded & runs] = RUN
    found[grounded & (_since(rows["time"], rows["marks"] & LAND != 0) < pose.land_time - SLACK)] = LANDING
    return _held(found, rows["time"], pose.hold)


def _since(time: NDArray[np.float64], happened: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The time since something last happened, infinite before the first time, in s."""
    last = np.maximum.accumulate(np.where(happened, np.arange(len(time)), -1))
    return np.where(last >= 0, time - time[last], np.inf)


def _above(
    speed: NDArray[np.float64], threshold: float, hysteresis: float, grounded: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Whether the speed has passed a threshold and not fallen below it by the share since; reset off the ground."""
    up, down = speed > threshold, speed < threshold * (1.0 - hysteresis)
    # Between the two thresholds the last decision holds; on landing, the upper one alone decides.
    begins = grounded & ~np.concatenate([[False], grounded[:-1]])
    decided = up | down | begins | ~grounded
    last = np.maximum.accumulate(np.where(decided, np.arange(len(speed)), 0))
    held: NDArray[np.bool_] = up[last]
    return held


def _held(wanted: NDArray[Any], time: NDArray[np.float64], hold: float) -> NDArray[Any]:
    """The poses, each shown for at least `hold` s before another may follow."""
    if hold <= 0.0 or not len(wanted):
        return wanted
    shown, begin, count = wanted.copy(), 0, len(wanted)
    while begin < count:
        earliest = max(begin + 1, int(np.searchsorted(time, time[begin] + hold - SLACK)))
        others = np.flatnonzero(wanted[earliest:] != wanted[begin])
        end = earliest + int(others[0]) if len(others) else count
        shown[begin:end] = wanted[begin]
        begin = end
    return shown


def cycles_of(rows: Columns, tune: Tune) -> NDArray[np.float64]:
    """How many cycles of its stride the body has gone through up to each row, walking or running; shape (rows,)."""
    pose = poses_of(rows, tune)
    across, up = (np.diff(rows[column], prepend=rows[column][:1]) for column in ("x", "y"))
    way = np.hypot(across, up)
    strides = np.where(pose == RUN, tune.pose.stride_run, tune.pose.stride_walk)
    gone: NDArray[np.float64] = np.cumsum(np.where((pose == WALK) | (pose == RUN), way / strides, 0.0))
    return gone


class PoseRun(NamedTuple):
    """A stretch of one pose: its place in `POSES`, from and to in s, and whether it is too short to be seen as one."""

    pose: int
    start: float
    end: float
    short: bool


def pose_runs(rows: Columns) -> list[PoseRun]:
    """The stretches of a run's poses; `rows` have the column `pose`, too. Row k covers the tick that ends at its time.

    Only one between two changes can be short: it is shown from one row's time to another's.
    """
    pose, time = rows["pose"], rows["time"]
    if len(pose) < 2:
        return []
    turns = (np.flatnonzero(pose[2:] != pose[1:-1]) + 2).tolist()
    found = []
    for start, end in pairwise([1, *turns, len(pose)]):
        changes = pose[start] != pose[start - 1] and end < len(pose)
        short = changes and time[end] - time[start] < SHORTEST - SLACK
        found.append(PoseRun(int(pose[start]), float(time[start - 1]), float(time[end - 1]), bool(short)))
    return found


class PoseFollower:
    """The pose of a run that goes on, and how many cycles of its stride it has gone through."""

    def __init__(self) -> None:
        self._state = np.zeros(1, dtype=POSE).view(np.recarray)[0]
        self._rows = 0
        self.cycles = 0.0
        begin_poses(self._state)

    @property
    def pose(self) -> int:
        """The pose, as a place in `POSES`."""
        return max(IDLE, int(self._state.pose))

    def follow(self, trace: NDArray[Any], tune: Tune) -> None:
        """Take the rows in that are new; `trace` has all rows so far, of dtype TRACE."""
        rows, numbers = trace.view(np.recarray), tune_record(tune)[0]
        for at in range(self._rows, len(rows)):
            row = rows[at]
            next_pose(self._state, numbers, row)
            if at and self.pose in (WALK, RUN):
                stride = tune.pose.stride_run if self.pose == RUN else tune.pose.stride_walk
                self.cycles += math.hypot(row.x - rows[at - 1].x, row.y - rows[at - 1].y) / stride
        self._rows = len(rows)
