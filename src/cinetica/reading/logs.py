"""A game's log as a trace, so that it can be drawn, aligned, measured and subtracted like one."""

from __future__ import annotations

import numpy as np

from cinetica.model.clock import Clock
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.motion.clock import schedule
from cinetica.motion.records import APEX, FALL, GROUND, LAND, LAUNCH, LEAVE, RISE, SLACK, TRACE, empty_records
from cinetica.motion.simulate import Trace

# A change of height below this share of the greatest one, over successive rows, counts as standing.
STILL = 1e-3


def trace_of(log: Logged, drill: Drill, clock: Clock) -> Trace:
    """The log at the times of the clock's rows, interpolated linearly, from its first row to its last.

    Whatever was not logged is as at rest: no input, no facing. States and marks are found from the heights: a rise from
    standing is a launch, its top the apex, and the row in which the fall ends the landing.
    """
    hands, dts, frames, *_ = schedule(drill.take, clock)
    ticks = np.cumsum(dts)
    own = np.array(log.time) - log.time[0]
    count = max(2, int(np.searchsorted(ticks, own[-1] + SLACK, side="right")))
    times = ticks[:count]
    rows = empty_records(TRACE, len(times))
    rows["tick"], rows["time"], rows["dt"] = np.arange(len(times)), times, dts[: len(times)]
    for column in ("x", "y", "vx", "vy"):
        rows[column] = np.interp(times, own, getattr(log, column))
    rows["camera_x"], rows["camera_y"] = rows["x"][0], rows["y"][0]
    rows["speed"] = np.hypot(rows["vx"], rows["vy"])
    for axis in "xy":
        change = np.diff(rows[f"v{axis}"], prepend=rows[f"v{axis}"][0])
        rows[f"a{axis}"] = np.divide(change, rows["dt"], out=np.zeros(len(times)), where=rows["dt"] > 0)
    if drill.view == "side":
        _find_jumps(rows, has_velocity="vy" not in log.derived)
    rows["since_ground"] = rows["since_press"] = np.inf
    tune = Tune(name=log.name, view=drill.view, note=log.note)
    return Trace(tune, drill, clock, rows, frames[: len(times)], logged=True)


def _find_jumps(rows: np.recarray, *, has_velocity: bool) -> None:
    climbed = np.diff(rows["y"], prepend=rows["y"][0])
    still = STILL * max(float(np.abs(climbed).max()), SLACK)
    rising, falling = climbed > still, climbed < -still
    rows["state"] = np.where(rising, RISE, np.where(falling, FALL, GROUND))
    # The top of a jump can last a row: nobody stands between a rise and a fall.
    for row in np.flatnonzero(rows["state"] == GROUND):
        if 0 < row < len(rows) - 1 and rows["state"][row - 1] == RISE and falling[row + 1]:
            rows["state"][row] = FALL
    # A fall ends in the row in which the feet reach the ground. If the next jump follows at once no row is still, but a
    # logged velocity shows that it stopped there, as it does not before a jump in the air.
    stopped = has_velocity & (np.abs(rows["vy"]) <= STILL * np.abs(rows["vy"]).max())
    falls, after = rows["state"][:-1] == FALL, rows["state"][1:]
    rows["state"][:-1][falls & ((after == GROUND) | (after == RISE) & stopped[:-1])] = GROUND
    before = np.concatenate([rows["state"][:1], rows["state"][:-1]])
    now = rows["state"]
    rows["marks"] |= np.where((before == GROUND) & (now == RISE), LAUNCH, 0)
    rows["marks"] |= np.where((before == GROUND) & (now != GROUND), LEAVE, 0)
    rows["marks"] |= np.where((before == RISE) & (now != RISE), APEX, 0)
    rows["marks"] |= np.where((before != GROUND) & (now == GROUND), LAND, 0)
