"""Running tunes tick by tick on live input, with the same kernel and the same numbers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.course import Course
from cinetica.model.take import KEYS, Keys, Moved, Press, Push, Take
from cinetica.model.tune import Tune
from cinetica.motion.native import bound
from cinetica.motion.records import (
    DASH,
    DASH_END,
    GROUND,
    HAND,
    MOUSE_ROW,
    SLACK,
    STATE,
    TRACE,
    Records,
    Start,
    empty_records,
    ground,
    held_bits,
    tune_records,
)

FIRST_ROOM = 4096


@dataclass(frozen=True)
class Held:
    """The input of one tick: the names of the keys held, and the stick positions (-1 to 1 on each axis)."""

    keys: frozenset[str] = frozenset()
    stick: tuple[float, float] = (0.0, 0.0)
    aim: tuple[float, float] = (0.0, 0.0)
    # How far the mouse has moved since the tick before, in counts.
    mouse: tuple[float, float] = (0.0, 0.0)


NOTHING_HELD = Held()


class LiveRun:
    """Several tunes moved by the same input from the same start. Row 0 is the start, row k the state after tick k."""

    def __init__(self, tunes: Sequence[Tune], course: Course, start: Sequence[float], tick_rate: float) -> None:
        self.tunes = list(tunes)
        self._begins, self.tick_rate = Start(*start), tick_rate
        self.start = (self._begins.x, self._begins.y)
        self._ground = ground(course)._replace(mouse=np.zeros((FIRST_ROOM, 2)))
        # The number of ticks in which the mouse has moved.
        self._moves = 0
        self.rows = 1
        self._jumping = self._dashing = False
        self._hands = empty_records(HAND, FIRST_ROOM)
        self._dts: NDArray[np.float64] = np.zeros(FIRST_ROOM)
        self._states = [empty_records(STATE, 1) for _ in self.tunes]
        for state in self._states:
            self._begins.put_into(state)
        self._records = [tune_records([tune]) for tune in self.tunes]
        self._traces = [empty_records(TRACE, FIRST_ROOM) for _ in self.tunes]
        self._bind()
        for run in self._runs:
            run(1, 0)

    def _bind(self) -> None:
        """Bind the kernel to the arrays, so that a tick is a single call per tune."""
        self._plain_hands = self._hands.view(HAND, np.ndarray)
        self._plain_traces = [trace.view(TRACE, np.ndarray) for trace in self._traces]
        self._runs = [
            bound(state, record, self._ground, *self.start, self._hands, self._dts, trace)
            for state, record, trace in zip(self._states, self._records, self._traces, strict=True)
        ]

    def change(self, tunes: Sequence[Tune]) -> None:
        """Use other numbers for the same tunes from the next tick on."""
        for place, tune in enumerate(tunes):
            if tune is not self.tunes[place]:
                self.tunes[place], self._records[place] = tune, tune_records([tune])
                # The cached intent and the camera's shares were computed with the old numbers.
                self._states[place]["followed"] = False
                self._states[place]["share_h"] = 0.0
        self._bind()

    def tick(self, held: Held) -> None:
        """Run one tick of 1/tick_rate s for every tune."""
        if self.rows == len(self._dts):
            self._make_room()
        k = self.rows
        keys = [key in held.keys for key in KEYS]
        jump, before = "jump" in held.keys, self._jumping
        bits = held_bits(keys, any(held.stick + held.aim))
        if any(held.mouse):
            self._ground.mouse[self._moves] = held.mouse
            self._moves += 1
            bits += self._moves * MOUSE_ROW
        self._plain_hands[k] = (
            *keys,
            jump and not before,
            before and not jump,
            "dash" in held.keys and not self._dashing,
            bits,
            *held.stick,
            *held.aim,
        )
        self._jumping, self._dashing = jump, "dash" in held.keys
        self._dts[k] = 1.0 / self.tick_rate
        self.rows = k + 1
        for run in self._runs:
            run(k + 1, k)

    def _make_room(self) -> None:
        """Double the capacity."""

        def doubled(records: Records) -> Any:
            return np.concatenate([records, np.zeros_like(records)]).view(np.recarray)

        self._hands, self._traces = doubled(self._hands), [doubled(trace) for trace in self._traces]
        self._dts = np.concatenate([self._dts, np.zeros_like(self._dts)])
        mouse = self._ground.mouse
        self._ground = self._ground._replace(mouse=np.concatenate([mouse, np.zeros_like(mouse)]))
        self._bind()

    def trace(self, place: int) -> NDArray[Any]:
        """All rows of one tune so far.

        It is a plain array of dtype TRACE, whose fields are read faster than those of a record array.
        """
        return self._plain_traces[place][: self.rows]

    # What was recorded

    def rests(self) -> NDArray[np.bool_]:
        """For each row, whether the first tune rests as at a start: a run that begins there moves identically.

        It stands undisturbed, faces and looks as at the start, and has no earlier press in memory. Row 0 always counts.
        The camera is ignored, since it is reset at the start of a run.
        """
        trace, hands = self.trace(0), self._hands[: self.rows]
        resting = (trace["state"] == GROUND) & (trace["since_press"] > self.tunes[0].jump.buffer + SLACK)
        for column in ("vx", "vy", "intent_x", "intent_y", "bank"):
            resting &= trace[column] == 0
        for column in ("facing", "look_yaw", "look_pitch"):
            resting &= trace[column] == trace[column][0]
        for name in HAND.names or ():
            resting &= hands[name] == 0
        resting &= ~self._remembers()
        resting[0] = True
        return resting

    def _remembers(self) -> NDArray[np.bool_]:
        """For each row, whether the first tune may still know of an earlier dash, or of a tap that could be one."""
        rows, dash = self.trace(0), self.tunes[0].dash
        if dash.speed == 0:
            return np.zeros(len(rows), dtype=np.bool_)
        hands = self._hands[: self.rows]
        acted = (rows["marks"] & (DASH | DASH_END) != 0) | (hands["held"] != 0)
        last = np.maximum.accumulate(np.where(acted, np.arange(len(rows)), -(10**9)))
        ticks = math.ceil(max(dash.cooldown, dash.buffer, dash.double_tap) * self.tick_rate) + 1
        return np.arange(len(rows)) - last <= ticks

    def beginning(self, row: int) -> int:
        """The row at which a take of what happened from `row` on can begin.

        It is the end of the last rest that begins at or before `row`.
        """
        rests = self.rests()
        begin = int(np.flatnonzero(rests[: row + 1])[-1])
        moving = np.flatnonzero(~rests[begin:])
        return begin + int(moving[0]) - 1 if len(moving) else begin

    def ending(self, afterwards: int) -> int:
        """The last row of a take: `afterwards` rows after the last row that is not at rest."""
        moving = np.flatnonzero(~self.rests())
        last = int(moving[-1]) if len(moving) else 0
        return max(1, min(self.rows - 1, last + afterwards))

    def start_at(self, row: int) -> dict[str, Any]:
        """The start of a drill that begins at a row of the first tune, by the names of a drill's fields.

        But for row 0 it begins at rest; it always faces as at the start of this run, since else it does not rest.
        """
        at = self._traces[0][row]
        velocity = (self._begins.vx, self._begins.vy) if row == 0 else (0.0, 0.0)
        return {
            "start": (float(at["x"]), float(at["y"])),
            "start_velocity": velocity,
            # As typed: converting degrees to radians and back may lose the last bit.
            "start_heading": round(math.degrees(self._begins.heading), 9),
        }

    def take(self, first: int, last: int) -> Take:
        """The input of the ticks after row `first` up to row `last`, as a take at the tick rate."""
        hands = self._hands[first + 1 : last + 1]
        keys = {key: _presses(hands[key]) for key in KEYS}
        stick, aim = (_pushes(hands[f"{name}_x"], hands[f"{name}_y"]) for name in ("stick", "aim"))
        numbers = np.asarray(hands["held"]) // MOUSE_ROW
        mouse = tuple(
            Moved(int(frame), *self._ground.mouse[numbers[frame] - 1].tolist()) for frame in np.flatnonzero(numbers)
        )
        return Take(
            rate=float(self.tick_rate),
            length=max(1, last - first),
            keys=Keys(**keys),
            stick=stick,
            aim=aim,
            mouse=mouse,
        )


def _presses(held: NDArray[np.bool_]) -> tuple[Press, ...]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], held, [False]]).astype(np.int8)))
    return tuple(Press(int(start), int(end)) for start, end in zip(edges[::2], edges[1::2], strict=True))


def _pushes(x: NDArray[np.float64], y: NDArray[np.float64]) -> tuple[Push, ...]:
    """A push wherever the stick differs from the frame before; it starts at the centre."""
    moved = (np.diff(x, prepend=0.0) != 0) | (np.diff(y, prepend=0.0) != 0)
    return tuple(Push(int(frame), float(x[frame]), float(y[frame])) for frame in np.flatnonzero(moved))
