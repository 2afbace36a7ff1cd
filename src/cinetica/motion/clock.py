"""How a clock divides a take into ticks (docs/model.md, section 14).

The result is the same for all tunes and computed once per take and clock.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock, HandsRead, Mode, Read
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.take import KEYS, Push, Take
from cinetica.motion.records import (
    HAND,
    JUMP,
    JUMP_HELD,
    MOUSE_ROW,
    NO_MOUSE,
    NO_SHOVES,
    SLACK,
    STICK_OUT,
    Ground,
    Records,
    held_bit,
)

MOST_TICKS = 1_000_000


class Schedule(NamedTuple):
    """Arrays with one entry per row of the trace; entry 0 is the start: no input and dt 0.

    `hands` is of dtype HAND, `dts` in seconds; `frames` is the frame of the take that was read (-1 at the start).
    """

    hands: Records
    dts: NDArray[np.float64]
    frames: NDArray[np.int64]
    # As in `records.Ground`.
    mouse: NDArray[np.float64] = NO_MOUSE
    shoves: NDArray[np.float64] = NO_SHOVES

    def on(self, course: Ground) -> Ground:
        """A course with the shoves and mouse moves of a take, which act in single ticks."""
        rare = len(self.mouse) or len(self.shoves)
        return course._replace(mouse=self.mouse, shoves=self.shoves) if rare else course


@cached_by_identity(64)
def schedule(take: Take, clock: Clock) -> Schedule:
    """The ticks of a take under a clock; ValueError if there are more than MOST_TICKS."""
    lengths, read = _frames_of(take.rate, take.length, clock)
    inputs = _a_frame_later(_hands(take, read), 0, clock)
    used = _a_frame_later(read, -1, clock)
    if clock.mode is Mode.FIXED:
        made = _fixed_ticks(inputs, _ran(lengths, clock), used, clock)
    else:
        made = Schedule(_with_start(inputs), np.concatenate([[0.0], lengths]), np.concatenate([[-1], used]))
    ran = _ran(lengths, clock) if clock.mode is Mode.FIXED else np.arange(len(read))
    return made._replace(mouse=_mouse_rows(take, made), shoves=_shove_rows(take, read[ran]))


def _a_frame_later(of_frames: NDArray[Any], first: int, clock: Clock) -> NDArray[Any]:
    """What the ticks of each frame use: the previous frame's input if input is read after the ticks."""
    if clock.hands is HandsRead.BEFORE:
        return of_frames
    later = np.roll(of_frames, 1, axis=-1)
    later[..., 0] = first
    return later


class Hands(NamedTuple):
    """The input of many takes that differ only in when jump is held.

    `plain`: the input without jump, one row per row of the trace, of dtype HAND. `jumps`: what jump does in each row of
    each take, of dtype JUMP, shape (takes, rows). `frames`: as in `Schedule`.
    """

    plain: Records
    jumps: NDArray[Any]
    frames: NDArray[np.int64]

    def every(self) -> Records:
        """The input of all takes, one after the other."""
        takes, rows = self.jumps.shape
        every = np.empty((takes, rows), HAND)
        every[:] = self.plain
        for name in JUMP.names or ():
            every[name] = self.jumps[name]
        every["held"] += every["jump"] * JUMP_HELD
        return every.reshape(-1).view(np.recarray)


def jumps_with(rate: float, clock: Clock, held: NDArray[np.bool_]) -> NDArray[Any]:
    """What jump does in each row of many takes that differ only in when it is held.

    `held` has shape (takes, frames of the take). Returns dtype JUMP, shape (takes, rows); ticks are as long as in
    `schedule(take, clock)`.
    """
    lengths, read = _frames_of(rate, held.shape[1], clock)
    # As adjacent flags, since records are written field by field. The first row has none.
    kinds = len(JUMP.names or ())
    flags = np.zeros((len(held), len(read) + 1, kinds), dtype=np.bool_)
    jump = flags[:, 1:, 0]
    jump[:] = _a_frame_later(held[:, read], 0, clock)
    np.greater(jump, flags[:, :-1, 0], out=flags[:, 1:, 1])
    np.less(jump, flags[:, :-1, 0], out=flags[:, 1:, 2])
    if clock.mode is Mode.FIXED:
        ran, frames = _ran(lengths, clock), flags[:, 1:]
        flags = np.zeros((len(held), len(ran) + 1, kinds), dtype=np.bool_)
        flags[:, 1:] = frames[:, ran]
        for place in (1, 2) if clock.read is Read.FRAME else ():
            flags[:, 1:, place] = _latched(frames[:, :, place], ran)
    jumps: NDArray[Any] = flags.view(JUMP)[:, :, 0]
    return jumps


@lru_cache(16)
def read_in_rows(rate: float, length: int, clock: Clock) -> NDArray[np.int32]:
    """The frame that each row reads of a take of `length` frames, -1 at the start; a shared, read-only array."""
    lengths, read = _frames_of(rate, length, clock)
    read = _a_frame_later(read, -1, clock)
    rows = read[_ran(lengths, clock)] if clock.mode is Mode.FIXED else read
    return np.concatenate([[-1], rows]).astype(np.int32)


def hands_without_jump(take: Take, clock: Clock) -> Records:
    """The input of the schedule, without jump."""
    plain = schedule(take, clock).hands.view(HAND, np.ndarray).copy()
    plain["held"] &= ~JUMP_HELD
    for name in JUMP.names or ():
        plain[name] = False
    return plain.view(np.recarray)


@lru_cache(16)
def _frames_of(rate: float, length: int, clock: Clock) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """For a take of `length` frames: how long every frame of the game lasts, and which frame of the take it reads.

    Both are shared, read-only arrays.
    """
    starts, lengths = _frames(length / rate, clock)
    return lengths, np.minimum(np.floor(starts * rate + 1e-6).astype(np.int64), length - 1)


def _frames(seconds: float, clock: Clock) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """For every frame that begins before the take ends: its start in real time, and its length in the game, in s."""
    rate = clock.tick_rate if clock.mode is Mode.LOCKED else clock.frame_rate
    count = max(1, math.ceil((seconds - SLACK) * rate))
    if count > MOST_TICKS or (clock.mode is Mode.FIXED and seconds * clock.tick_rate > MOST_TICKS):
        raise ValueError(
            f"{seconds:g} s under this clock are more than {MOST_TICKS} ticks; shorten the take or lower the rate"
        )
    if clock.mode is Mode.LOCKED:
        return np.arange(count) / rate, np.full(count, 1.0 / rate)
    if clock.jitter == 0 and not clock.hitches:
        starts, lengths = np.arange(count) / rate, np.full(count, 1.0 / rate)
    else:
        starts, lengths = _uneven_frames(seconds, clock)
    return starts, np.minimum(lengths, clock.max_dt)


def _uneven_frames(seconds: float, clock: Clock) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Frames of 1/frame_rate·(1 + jitter·u), with u uniform in [-1, 1) from the seed.

    Each is longer by the hitches that begin in it.
    """
    random = np.random.default_rng(clock.seed)
    hitches = sorted(clock.hitches, reverse=True)
    starts: list[float] = []
    lengths: list[float] = []
    now = 0.0
    while now < seconds - SLACK:
        if len(starts) >= MOST_TICKS:
            raise ValueError(f"more than {MOST_TICKS} frames; shorten the take or lower the rate")
        length = (1.0 + clock.jitter * random.uniform(-1.0, 1.0)) / clock.frame_rate
        while hitches and hitches[-1].at < now + length - SLACK:
            length += hitches.pop().seconds
        starts.append(now)
        lengths.append(length)
        now += length
    return np.array(starts), np.array(lengths)


def _hands(take: Take, frames: NDArray[np.int64]) -> NDArray[Any]:
    """The input as read at these frames of the take. A press is a jump held now but not at the frame read before."""
    hands = np.zeros(len(frames), HAND)
    bits = hands["held"]
    for key in KEYS:
        presses = getattr(take.keys, key)
        if presses:
            held = np.zeros(take.length, dtype=bool)
            for start, end in presses:
                held[start:end] = True
            hands[key] = held[frames]
            bits += hands[key] * held_bit(key)
    out = np.zeros(len(frames), dtype=bool)
    for stick, pushes in (("stick", take.stick), ("aim", take.aim)):
        if pushes:
            x, y = (way[frames] for way in _held_positions(pushes, take.length))
            hands[f"{stick}_x"], hands[f"{stick}_y"] = x, y
            out |= (x != 0) | (y != 0)
    bits += out * STICK_OUT
    jump = hands["jump"]
    hands["pressed"][:1] = jump[:1]
    hands["pressed"][1:] = jump[1:] & ~jump[:-1]
    hands["released"][1:] = ~jump[1:] & jump[:-1]
    hands["dash_pressed"] = hands["dash"] & ~np.concatenate([[False], hands["dash"][:-1]])
    return hands


def _mouse_rows(take: Take, made: Schedule) -> NDArray[np.float64]:
    """The counts of the rows in which the mouse moves; `held` of these rows then has their numbers.

    A row has the sum over the take's frames since those that were read before.
    """
    if not take.mouse:
        return NO_MOUSE
    counts = np.zeros((take.length + 1, 2))
    for frame, dx, dy in take.mouse:
        if frame < take.length:
            counts[frame + 1] += dx, dy
    rows = np.diff(np.cumsum(counts, axis=0)[made.frames + 1], axis=0, prepend=0.0)
    moved = np.flatnonzero(rows.any(axis=1))
    made.hands["held"][moved] += (1 + np.arange(len(moved))) * MOUSE_ROW
    return np.ascontiguousarray(rows[moved])


def _shove_rows(take: Take, frames: NDArray[np.int64]) -> NDArray[np.float64]:
    """The shoves by tick: each in the first that begins at its frame or later. No hands, so nothing delays them.

    `frames` are those of the take in which the ticks begin.
    """
    if not take.shoves:
        return NO_SHOVES
    by_tick: dict[int, NDArray[np.float64]] = {}
    for frame, *velocity in sorted(take.shoves):
        tick = 1 + int(np.searchsorted(frames, frame))
        if tick <= len(frames) and frame < take.length:
            by_tick[tick] = by_tick.get(tick, np.zeros(2)) + velocity
    rows = [(tick, *velocity) for tick, velocity in sorted(by_tick.items())]
    return np.array(rows, dtype=np.float64).reshape(-1, 3)


def _held_positions(pushes: tuple[Push, ...], length: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    x, y = np.zeros(length), np.zeros(length)
    for push in sorted(pushes, key=lambda push: push.frame):
        x[push.frame :], y[push.frame :] = push.x, push.y
    return x, y


def _fixed_ticks(hands: NDArray[Any], frames: NDArray[np.int64], read: NDArray[np.int64], clock: Clock) -> Schedule:
    """Ticks of a fixed length from an accumulator: a frame runs none, one or several.

    A latched press goes to the first tick that follows.
    """
    h = 1.0 / clock.tick_rate
    ticks = hands[frames]
    if clock.read is Read.FRAME:
        for flag in ("pressed", "released", "dash_pressed"):
            ticks[flag] = _latched(hands[flag], frames)
    return Schedule(
        _with_start(ticks), np.concatenate([[0.0], np.full(len(frames), h)]), np.concatenate([[-1], read[frames]])
    )


def _ran(lengths: NDArray[np.float64], clock: Clock) -> NDArray[np.int64]:
    """The frame in which each tick of a fixed length runs."""
    h = 1.0 / clock.tick_rate
    ran: list[int] = []
    left = 0.0
    for frame, length in enumerate(lengths.tolist()):
        left += length
        while left >= h - SLACK:
            left -= h
            ran.append(frame)
    return np.array(ran, dtype=np.int64)


def _latched(flags: NDArray[np.bool_], frames: NDArray[np.int64]) -> NDArray[np.bool_]:
    """For each tick (last axis), whether the flag was raised in a frame after the previous tick's, up to its own."""
    raised = np.cumsum(flags, axis=-1)
    return np.diff(raised[..., frames], prepend=0, axis=-1) > 0


def _with_start(hands: NDArray[Any]) -> Records:
    rows = np.zeros(len(hands) + 1, HAND)
    # As bytes: records are copied field by field.
    rows.view(np.uint8)[HAND.itemsize :] = hands.view(np.uint8)
    return rows.view(np.recarray)
