"""Spans of a trace in time: stretches of one state, and coyote and buffer windows around a jump."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from cinetica.model.tune import Tune
from cinetica.motion import jump
from cinetica.motion.records import AIR_LAUNCH, CLIMB_ON, COYOTE_LAUNCH, LAUNCH, LEAVE, PRESS, STATES
from cinetica.motion.simulate import Trace

GRACE_WORDS = {"coyote": "coyote time", "buffer": "jump buffer"}


@dataclass(frozen=True)
class Span:
    """`word` from `start` to `end`, in s."""

    word: str
    start: float
    end: float


@dataclass(frozen=True)
class Grace(Span):
    """A coyote or buffer window, up to its end or to the launch that used it; `full_end` is its end if unused."""

    full_end: float
    used: bool

    @property
    def left(self) -> float:
        """How much of the window was left when it was used, in s; 0 if it ran out."""
        return self.full_end - self.end


def grace_left(tune: Tune, row: Any) -> Iterator[tuple[str, float]]:
    """The coyote and buffer windows open in a row (of dtype TRACE), each with its remaining time in s."""
    if tune.view != "side":
        return
    coyote, buffer = jump.coyote_left(row["since_ground"], tune.jump), jump.buffer_left(row["since_press"], tune.jump)
    if row["since_ground"] > 0 and coyote >= 0 and row["vy"] <= 0:
        yield "coyote", float(coyote)
    if STATES[int(row["state"])] != "ground" and row["since_press"] > 0 and buffer >= 0:
        yield "buffer", float(buffer)


def state_runs(trace: Trace) -> list[tuple[int, float, float]]:
    """Stretches of one state: its code in `records.STATES`, and start and end in s.

    Row k covers the tick that ends at its time.
    """
    if len(trace) < 2:
        return []
    time, _, _, turns = trace.events
    code, start, runs = int(trace["state"][1]), 0, []
    for row, turned in turns:
        runs.append((code, float(time[start]), float(time[row - 1])))
        code, start = turned, row - 1
    runs.append((code, float(time[start]), float(time[-1])))
    return runs


def state_spans(trace: Trace) -> list[Span]:
    """Stretches of one state, in words."""
    return [Span(STATES[code], start, end) for code, start, end in state_runs(trace)]


def grace_spans(trace: Trace, *, least: float = 0.0, view: tuple[float, float] = (-math.inf, math.inf)) -> list[Grace]:
    """Coyote windows, from leaving the ground without a launch, and buffer windows, from a press that did not launch.

    Each lasts until its end or the launch that used it. Only those of at least `least` s within `view`.
    """
    if trace.drill.view != "side":
        return []
    time, happened, _, _ = trace.events
    last = float(time[-1])
    spans = []
    for word, begins, unless, uses, length in (
        ("coyote", LEAVE, LAUNCH | CLIMB_ON, COYOTE_LAUNCH, jump.coyote_left(0.0, trace.tune.jump)),
        ("buffer", PRESS, LAUNCH | AIR_LAUNCH, LAUNCH | AIR_LAUNCH, jump.buffer_left(0.0, trace.tune.jump)),
    ):
        rows = [row for row, marks in happened if marks & (begins | unless) == begins]
        using = [row for row, marks in happened if marks & uses] if rows else []
        for row in rows:
            start, use = float(time[row - 1]), bisect_right(using, row)
            used_at = float(time[using[use] - 1]) if use < len(using) else math.inf
            used, end = used_at <= start + length, min(start + length, used_at, last)
            full = start + length if used else end
            if full - start >= least and (end > start or used) and full > view[0] and start < view[1]:
                spans.append(Grace(word, start, end, full, used))
    return spans
