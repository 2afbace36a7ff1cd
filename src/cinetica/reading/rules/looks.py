"""The facing, and the camera."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.reading.rules.register import Line, explains, line
from cinetica.reading.ticks import Call, Tick


@explains("face_and_look")
def _face(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.facing != tick.began.facing and not tick.calls_of("steer"):
        turned = tick.say.turned("facing", tick.began.facing, call.after.facing)
        yield line("face_and_look", f"{turned}: {tick.trace.tune.facing.facing}")


@explains("follow")
def _follow(tick: Tick, call: Call) -> Iterator[Line]:
    before, after, p = call.before, call.after, tick.trace.tune.camera
    moved = [
        tick.say.change(f"camera_{axis}", before[f"camera_{axis}"], after[f"camera_{axis}"], f"camera {axis}")
        for axis in "xy"
        if before[f"camera_{axis}"] != after[f"camera_{axis}"]
    ]
    if moved:
        lead = f", to {tick.say.computed(after.lead_x, 'u')} ahead" if p.look_ahead else ""
        yield line("follow", f"{', '.join(moved)}: follows, {p.follow}{lead}")
