"""Spans of a trace in time: stretches of one state, and the windows of grace around a jump."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cinetica.motion.records import AIR_LAUNCH, CLIMB_ON, COYOTE_LAUNCH, LAUNCH, LEAVE, PRESS, STATES
from cinetica.motion.simulate import Trace


@dataclass(frozen=True)
class Span:
    """`word` from `start` to `end`, in s."""

    word: str
    start: float
    end: float


def state_spans(trace: Trace) -> list[Span]:
    """Stretches of one state. Row k covers the tick that ends at its time."""
    states, time = trace["state"], trace["time"]
    if len(states) < 2:
        return []
    changes = np.flatnonzero(states[2:] != states[1:-1]) + 2
    starts = [1, *changes.tolist()]
    ends = [*changes.tolist(), len(states)]
    return [Span(STATES[states[start]], float(time[start - 1]), float(time[end - 1])) for start, end in zip(starts, ends, strict=True)]


def grace_spans(trace: Trace) -> list[Span]:
    """Windows of coyote time (from leaving the ground without a launch) and of the jump buffer (from a press that
    did not launch), each up to its end or to the launch that used it."""
    marks, time = trace["marks"], trace["time"]
    launches = np.flatnonzero(marks & (LAUNCH | AIR_LAUNCH))
    left = np.flatnonzero((marks & LEAVE).astype(bool) & ((marks & (LAUNCH | CLIMB_ON)) == 0))
    pressed = np.flatnonzero((marks & PRESS).astype(bool) & ((marks & (LAUNCH | AIR_LAUNCH)) == 0))
    if trace.drill.view != "side":
        return []
    spans = []
    for word, rows, length in (("coyote", left, trace.tune.jump.coyote), ("buffer", pressed, trace.tune.jump.buffer)):
        for row in rows:
            start = float(time[row - 1])
            used = launches[(launches > row) & ((marks[launches] & COYOTE_LAUNCH) != 0 if word == "coyote" else launches > 0)]
            end = min(start + length, float(time[used[0] - 1]) if len(used) else np.inf, float(time[-1]))
            if end > start:
                spans.append(Span(word, start, end))
    return spans
