"""A press of jump that comes earlier or later, or is held longer: the input of each case."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.take import Press, Take
from cinetica.model.takes import with_presses
from cinetica.motion.clock import Hands, hands_without_jump, jumps_with, read_in_rows, schedule

# The most frames by which a press is shifted.
FARTHEST = 30
SHIFTS = tuple(range(-FARTHEST, FARTHEST + 1))
AS_LONG: tuple[int, ...] = ()
# Starts of the first press that are computed in one batch.
WIDER = 16


def jump_presses(take: Take) -> tuple[Press, ...]:
    """The presses of jump as the game sees them: those that touch are one."""
    return with_presses(take, "jump", take.keys.jump).keys.jump


@dataclass(frozen=True, eq=False)
class Shifted:
    """The input of every shifted press under one clock.

    `rows`: the row of each press, 0 if no tick sees it. `fits`: whether it is a separate press, that is, within the
    take and not begun while another is held.
    """

    hands: Hands
    rows: NDArray[np.int64]
    fits: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Presses:
    """The start and end of a press in each case."""

    press: Press
    starts: NDArray[np.int32]
    ends: NDArray[np.int32]


@cached_by_identity(16)
def presses_at(press: Press, shifts: tuple[int, ...], held: tuple[int, ...]) -> Presses:
    """A press shifted by each of `shifts` frames and, if given, held for each of `held` frames."""
    # Short whole numbers: all frames of a take are compared with each of them.
    length = np.array(held, np.int32) if held else np.full(len(shifts), press.end - press.start, np.int32)
    starts = np.array(shifts, np.int32) + np.int32(press.start)
    return Presses(press, starts, starts + length)


@cached_by_identity(32)
def shifted(take: Take, clock: Clock, presses: Presses) -> Shifted:
    """The input of each case."""
    others = tuple(press for press in jump_presses(take) if press != presses.press)
    # The press is the first that is seen from its frame on, up to the next one's.
    next_one = min((start for start, _ in others if start > presses.press.start), default=take.length)
    jumps, rows, fits = _jumps(take.rate, take.length, clock, others, presses.starts, presses.ends, next_one)
    return Shifted(Hands(hands_without_jump(take, clock), jumps, schedule(take, clock).frames), rows, fits)


def _jumps(
    rate: float,
    length: int,
    clock: Clock,
    others: tuple[Press, ...],
    starts: NDArray[np.int32],
    ends: NDArray[np.int32],
    next_one: int,
) -> tuple[NDArray[Any], NDArray[np.int64], NDArray[np.bool_]]:
    """What jump does in each case, the row of each press, and whether it is a separate press.

    A press that begins while another is held, or just as it ends, is part of that one.
    """
    fits = (starts >= 0) & (starts < length)
    for start, end in others:
        fits &= (starts < start) | (starts > end)
    read = read_in_rows(rate, length, clock)
    until = np.maximum(ends, next_one)
    taken = np.zeros(length, dtype=bool)
    for start, end in others:
        taken[start:end] = True
    frames = np.arange(length, dtype=np.int32)
    jumps = jumps_with(rate, clock, taken | (frames >= starts[:, None]) & (frames < ends[:, None]))
    return jumps, _rows_of(jumps["pressed"], starts, until, fits, read), fits


def _rows_of(
    pressed: NDArray[np.bool_],
    starts: NDArray[np.int32],
    until: NDArray[np.int32],
    fits: NDArray[np.bool_],
    read: NDArray[np.int32],
) -> NDArray[np.int64]:
    """The first row of each case that is pressed and reads a frame from `starts` up to `until`; 0 if none does."""
    # It can only be the first row that reads one of them: what is held there is not pressed again before `until`.
    first = np.minimum(read.searchsorted(starts), len(read) - 1)
    there = read[first]
    return np.where(fits & pressed[np.arange(len(first)), first] & (there >= starts) & (there < until), first, 0)


@cached_by_identity(32)
def first_press_shifted(take: Take, clock: Clock) -> Shifted | None:
    """The first press of jump, shifted by each of SHIFTS; None if jump is never pressed."""
    presses = jump_presses(take)
    if not presses:
        return None
    (start, end), others = presses[0], presses[1:]
    # During a drag most of its shifts equal those of the frame before.
    base = start - start % WIDER
    jumps, rows, fits = _first_from(take.rate, take.length, clock, others, base, end - start)
    part = slice(start - base, start - base + len(SHIFTS))
    hands = Hands(hands_without_jump(take, clock), jumps[part], schedule(take, clock).frames)
    return Shifted(hands, rows[part], fits[part])


@lru_cache(4)
def _first_from(
    rate: float, length: int, clock: Clock, others: tuple[Press, ...], base: int, held: int
) -> tuple[NDArray[Any], NDArray[np.int64], NDArray[np.bool_]]:
    """`_jumps` of a first press that begins at `base` or up to WIDER frames later, with all shifts of each."""
    starts = np.arange(base - FARTHEST, base + WIDER + FARTHEST, dtype=np.int32)
    next_one = min((start for start, _ in others), default=length)
    return _jumps(rate, length, clock, others, starts, starts + np.int32(held), next_one)
