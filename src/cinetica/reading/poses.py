"""Poses: which animation a game would show, read off a run by thresholds and times (docs/model.md, section 14)."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.tune import Tune
from cinetica.motion.records import AT_WALL, CLIMB, FALL, GROUND, IN_DASH, LAND, RISE, SLACK
from cinetica.motion.simulate import Columns

POSES = ("idle", "walk", "run", "rise", "fall", "land", "climb", "slide", "wall", "dash")
IDLE, WALK, RUN, RISING, FALLING, LANDING, CLIMBING, SLIDING, ON_WALL, DASHING = range(10)
_OF_STATE = {RISE: RISING, FALL: FALLING, CLIMB: CLIMBING, AT_WALL: ON_WALL, IN_DASH: DASHING}


def poses_of(rows: Columns, tune: Tune) -> NDArray[Any]:
    """The pose of each row, as a place in `POSES`; shape (rows,)."""
    state, pose = rows["state"], tune.pose
    grounded = state == GROUND
    found = np.full(len(state), IDLE)
    for code, shown in _OF_STATE.items():
        found[state == code] = shown
    # What slides is in the air, on a line.
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
    """Whether the speed has passed a threshold, and not fallen under it by the share since; anew off the ground."""
    up, down = speed > threshold, speed < threshold * (1.0 - hysteresis)
    # Between the two the last decision holds; where the ground is reached the threshold alone decides.
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
