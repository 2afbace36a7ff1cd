"""Poses row by row, for figures and for Play: the rules of `poses.py` as functions that compile.

`s` is of dtype POSE, or has its fields; `p` is a tune's record.
"""

import numpy as np

from cinetica.motion.compiling import apart
from cinetica.motion.records import AT_WALL, CLIMB, GROUND, IN_DASH, LAND, RISE, SLACK

POSES = ("idle", "walk", "run", "rise", "fall", "land", "climb", "slide", "wall", "dash")
IDLE, WALK, RUN, RISING, FALLING, LANDING, CLIMBING, SLIDING, ON_WALL, DASHING = range(10)
# What the next row's pose depends on: the times, in s, of the last landing and of the last change of pose; whether the
# walk and the run go on and the body stood; and the pose, -1 before the first row.
POSE_FIELDS = (("landed", "f8"), ("posed", "f8"), ("pose", "i8"), ("walks", "?"), ("runs", "?"), ("stood", "?"))
POSE = np.dtype([*POSE_FIELDS], align=True)


@apart
def begin_poses(s):
    """Forget everything: the next row is the first."""
    s.landed, s.posed, s.pose = -np.inf, 0.0, -1
    s.walks = s.runs = s.stood = False


@apart
def next_pose(s, p, row):
    """Update the pose by one more row of a trace; `p` is the tune's record."""
    grounded = row.state == GROUND
    anew = not s.stood
    s.walks = _goes_on(s.walks, anew, row.speed, p.pose_walk_above, p.pose_hysteresis)
    s.runs = _goes_on(s.runs, anew, row.speed, p.pose_run_above, p.pose_hysteresis)
    s.stood = grounded
    if row.marks & LAND:
        s.landed = row.time
    wanted = _of_state(row)
    if grounded:
        if row.time - s.landed < p.pose_land_time - SLACK:
            wanted = LANDING
        else:
            wanted = RUN if s.runs else WALK if s.walks else IDLE
    if s.pose < 0 or (wanted != s.pose and row.time >= s.posed + p.pose_hold - SLACK):
        s.pose, s.posed = wanted, row.time


@apart
def _goes_on(gait, anew, speed, threshold, hysteresis):
    """Whether a gait whose speed has to be above a threshold begins or goes on."""
    if speed > threshold:
        return True
    return gait and not anew and speed >= threshold * (1.0 - hysteresis)


@apart
def _of_state(row):
    """The pose off the ground."""
    if row.state == RISE:
        return RISING
    if row.state == CLIMB:
        return CLIMBING
    if row.state == AT_WALL:
        return ON_WALL
    if row.state == IN_DASH:
        return DASHING
    return SLIDING if row.ground_angle != 0.0 else FALLING
