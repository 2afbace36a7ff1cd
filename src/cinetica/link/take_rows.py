"""A take as rows of hands: what is held from a frame on, until the next row."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from cinetica.model.take import KEYS, Take

BITS = {key: 1 << place for place, key in enumerate(KEYS)}


class HandsRow(NamedTuple):
    """What is held from a frame on: keys as a sum, and both sticks."""

    frame: int
    keys: int = 0
    x: float = 0.0
    y: float = 0.0
    aim_x: float = 0.0
    aim_y: float = 0.0


def take_rows(take: Take) -> list[HandsRow]:
    """The rows of a take; the first is of frame 0. Moves of a mouse and shoves have none."""
    held = np.zeros(take.length, dtype=np.int64)
    for key, bit in BITS.items():
        for press in getattr(take.keys, key):
            held[press.start : press.end] |= bit
    sticks = {push.frame: (push.x, push.y) for push in take.stick}
    aims = {push.frame: (push.x, push.y) for push in take.aim}
    turns = {0, *(np.flatnonzero(np.diff(held)) + 1).tolist(), *sticks, *aims}
    rows: list[HandsRow] = []
    stick = aim = (0.0, 0.0)
    for frame in sorted(turn for turn in turns if turn < take.length):
        stick, aim = sticks.get(frame, stick), aims.get(frame, aim)
        rows.append(HandsRow(frame, int(held[frame]), *stick, *aim))
    return rows


def rows_of(take: Take, tick_rate: float) -> int:
    """How many ticks a game of this rate plays a take for: up to the end of its last frame."""
    return math.ceil(take.length / take.rate * tick_rate - 1e-9)


def keys_of(bits: int) -> frozenset[str]:
    """The keys in a sum."""
    return frozenset(key for key, bit in BITS.items() if bits & bit)
