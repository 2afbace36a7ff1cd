"""From the input to the intent, and what is remembered of a press."""

from __future__ import annotations

from collections.abc import Iterator

from cinetica.motion.records import LOST_PRESS
from cinetica.reading.phrases import figure
from cinetica.reading.rules.register import Line, explains, line
from cinetica.reading.ticks import Call, Tick


@explains("intend")
def _intend(tick: Tick, call: Call) -> Iterator[Line]:
    s, before, say = call.after, call.before, tick.say
    if (s.wx, s.wy) == (before.wx, before.wy) and (s.input_x, s.input_y) == (before.input_x, before.input_y):
        return
    late = f", {tick.p.latency} ticks late" if tick.p.latency else ""
    if tick.top_view or s.wy != before.wy:
        words = f"intent {say.intent(before.wx, before.wy)} → {say.intent(s.wx, s.wy)}"
        yield line("intend", f"{words}: hands {say.intent(s.input_x, s.input_y)}{late}")
    else:
        yield line("intend", f"{say.change('intent_x', before.wx, s.wx, 'intent')}: hands {figure(s.input_x)}{late}")


@explains("arm_with_timers")
def _arm_with_timers(tick: Tick, call: Call) -> Iterator[Line]:
    old = tick.say.computed(call.before.since_press, "s")
    if call.after.marks & ~call.before.marks & LOST_PRESS:
        buffer = tick.say.entered(tick.p.buffer, "s")
        words = f"press lost at {old} old: the timer of an older press is over its buffer of {buffer}"
        yield line("arm_with_timers", words)
    else:
        yield from _arm(tick, call)


@explains("stun")
def _stun(tick: Tick, call: Call) -> Iterator[Line]:
    if call.after.stunned:
        since, stun = tick.say.computed(call.after.since_shove, "s"), tick.say.entered(tick.p.stun, "s")
        yield line("stun", f"stunned {since} after the shove: input has no effect for {stun}")


@explains("arm")
def _arm(tick: Tick, call: Call) -> Iterator[Line]:
    say, buffer = tick.say, tick.say.entered(tick.p.buffer, "s")
    if call.after.marks & ~call.before.marks & LOST_PRESS:
        yield line("arm", f"press lost: {say.computed(call.after.since_press, 's')} old, the buffer is {buffer}")
    elif tick.hand.pressed:
        yield line("arm", f"jump pressed: remembered for {buffer}")
