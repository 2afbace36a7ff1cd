"""A press of jump that comes earlier or later, or is held longer: the hands of each case."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.memo import by_identity
from cinetica.model.take import Press, Take
from cinetica.model.takes import with_presses
from cinetica.motion.clock import Hands, schedules_with

# Frames that a press is shifted by at most.
FARTHEST = 30
SHIFTS = tuple(range(-FARTHEST, FARTHEST + 1))
AS_LONG: tuple[int, ...] = ()


def jump_presses(take: Take) -> tuple[Press, ...]:
    """As the game tells them apart: those that touch are one."""
    return with_presses(take, "jump", take.keys.jump).keys.jump


@dataclass(frozen=True, eq=False)
class Shifted:
    """The hands of every shifted press under one clock; the row of each, 0 where no tick sees it; and whether it lies
    within the take."""

    hands: Hands
    rows: NDArray[np.int64]
    fits: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Presses:
    press: Press
    starts: NDArray[np.int32]
    ends: NDArray[np.int32]


@by_identity(16)
def presses_at(press: Press, shifts: tuple[int, ...], held: tuple[int, ...]) -> Presses:
    # Short whole numbers: all frames of a take are compared with each of them.
    length = np.array(held, np.int32) if held else np.full(len(shifts), press.end - press.start, np.int32)
    starts = np.array(shifts, np.int32) + np.int32(press.start)
    return Presses(press, starts, starts + length)


@by_identity(32)
def shifted(take: Take, clock: Clock, presses: Presses) -> Shifted:
    others = [press for press in jump_presses(take) if press != presses.press]
    starts, ends = presses.starts, presses.ends
    fits = (starts >= 0) & (starts < take.length)
    held = np.zeros((len(starts), take.length), dtype=bool)
    frames = np.arange(take.length, dtype=np.int32)
    for start, end in others:
        held[:, start:end] = True
    held |= (frames >= starts[:, None]) & (frames < ends[:, None])
    hands = schedules_with(take, clock, held)
    pressed, read = hands.jumps["pressed"], hands.frames.astype(np.int32)
    # The press is the first that is seen from its frame on, up to the next one's.
    later = [start for start, _ in others if start > presses.press.start]
    until = np.maximum(ends, min(later, default=take.length))
    own = pressed & (read >= starts[:, None]) & (read < np.maximum(until, starts + 1)[:, None])
    rows = np.where(own.any(axis=1) & fits, own.argmax(axis=1), 0)
    return Shifted(hands, rows, fits)


@by_identity(32)
def first_press_shifted(take: Take, clock: Clock) -> Shifted | None:
    """The first press of jump, shifted by each of SHIFTS; None where jump is not pressed."""
    presses = jump_presses(take)
    return shifted(take, clock, presses_at(presses[0], SHIFTS, AS_LONG)) if presses else None
