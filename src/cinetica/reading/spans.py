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


@dataclass(frozen=True)
class Grace(Span):
    """A window of grace, from its start to its end or to the launch that used it; `full_end` is where it would have ended."""

    full_end: float
    used: bool

    @property
    def left(self) -> float:
        """How much of the window was left when it was used, in s; 0 where it ran out."""
        return self.full_end - self.end


def grace_spans(trace: Trace) -> list[Grace]:
    """Windows of coyote time (from leaving the ground without a launch) and of the jump buffer (from a press that
    did not launch), each up to its end or to the launch that used it."""
    marks, time = trace["marks"], trace["time"]
    if trace.drill.view != "side":
        return []
    launches = np.flatnonzero(marks & (LAUNCH | AIR_LAUNCH))
    coyote_launches = np.flatnonzero(marks & COYOTE_LAUNCH)
    left = np.flatnonzero((marks & LEAVE).astype(bool) & ((marks & (LAUNCH | CLIMB_ON)) == 0))
    pressed = np.flatnonzero((marks & PRESS).astype(bool) & ((marks & (LAUNCH | AIR_LAUNCH)) == 0))
    spans = []
    for word, rows, using, length in (
        ("coyote", left, coyote_launches, trace.tune.jump.coyote), ("buffer", pressed, launches, trace.tune.jump.buffer),
    ):  # fmt: skip
        for row in rows:
            start = float(time[row - 1])
            after = int(np.searchsorted(using, row, side="right"))
            used = float(time[using[after] - 1]) if after < len(using) else np.inf
            full_end = start + length
            end = min(full_end, used, float(time[-1]))
            if end > start or used <= full_end:
                spans.append(Grace(word, start, end, full_end if used <= full_end else end, bool(used <= full_end)))
    return spans
