"""The facing, and the camera."""

from __future__ import annotations

import math
from collections.abc import Iterator

from cinetica.reading.phrases import figure, from_to
from cinetica.reading.rules.register import Line, explains, line
from cinetica.reading.ticks import Call, Tick


@explains("face_and_look")
def _face(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.facing != tick.began.facing and not tick.calls_of("steer"):
        before, after = math.degrees(tick.began.facing), math.degrees(call.after.facing)
        yield line("face_and_look", f"facing {figure(before)}° → {figure(after)}°: {tick.trace.tune.facing.facing}")


@explains("follow")
def _follow(tick: Tick, call: Call) -> Iterator[Line]:
    before, after, p = call.before, call.after, tick.trace.tune.camera
    moved = [
        from_to(f"camera {axis}", before[f"camera_{axis}"], after[f"camera_{axis}"])
        for axis in "xy"
        if before[f"camera_{axis}"] != after[f"camera_{axis}"]
    ]
    if moved:
        lead = f", to {figure(after.lead_x)} u ahead" if p.look_ahead else ""
        yield line("follow", f"{', '.join(moved)}: follows, {p.follow}{lead}")
