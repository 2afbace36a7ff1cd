"""From the input to the intent, and what is remembered of a press."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.motion.records import LOST_PRESS
from cinetica.reading.phrases import figure, from_to, plain
from cinetica.reading.rules.register import Line, explains, line
from cinetica.reading.ticks import Call, Tick


@explains("intend")
def _intend(tick: Tick, call: Call) -> Iterator[Line]:
    s, before = call.after, call.before
    if (s.wx, s.wy) == (before.wx, before.wy) and (s.input_x, s.input_y) == (before.input_x, before.input_y):
        return
    late = f", {tick.p.latency} ticks late" if tick.p.latency else ""
    if tick.top_view or s.wy != before.wy:
        words = f"intent ({figure(before.wx)}, {figure(before.wy)}) → ({figure(s.wx)}, {figure(s.wy)})"
        yield line("intend", f"{words}: hands ({figure(s.input_x)}, {figure(s.input_y)}){late}")
    else:
        yield line("intend", f"{from_to('intent', before.wx, s.wx)}: hands {figure(s.input_x)}{late}")


@explains("arm")
def _arm(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.marks & ~call.before.marks & LOST_PRESS:
        yield line("arm", f"press lost: {figure(call.after.since_press)} s old, the buffer is {plain(tick.p.buffer)} s")
    elif tick.hand.pressed:
        yield line("arm", f"jump pressed: remembered for {plain(tick.p.buffer)} s")
