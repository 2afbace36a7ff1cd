"""Whether a game's log follows a tune, in the game's own numbers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]


@dataclass(frozen=True)
class Off:
    """The first row in which a channel differs by more than the tolerance."""

    row: int
    channel: str
    logged: float
    expected: float

    @property
    def by(self) -> float:
        """The logged value minus the expected one."""
        return self.logged - self.expected


@dataclass(frozen=True)
class Verdict:
    """The result of a check: rows compared, largest gap of each channel, and the first row off, if any."""

    rows: int
    greatest: dict[str, float]
    off: Off | None


def check(expected: dict[str, Numbers], logged: dict[str, Numbers], tolerance: float) -> Verdict:
    """Compare columns of equal length, row by row. Raises ValueError if no channel is in both."""
    channels = [channel for channel in expected if channel in logged]
    if not channels:
        raise ValueError("the log has no column that the tune has")
    gaps = {channel: np.abs(logged[channel] - expected[channel]) for channel in channels}
    firsts = [
        (int(np.argmax(gap > tolerance)), channel) for channel, gap in gaps.items() if bool(np.any(gap > tolerance))
    ]
    off = None
    if firsts:
        row = min(first for first, _ in firsts)
        # Of the channels that diverge in the same row, the one with the largest difference.
        channel = max((each for first, each in firsts if first == row), key=lambda each: float(gaps[each][row]))
        off = Off(row, channel, float(logged[channel][row]), float(expected[channel][row]))
    return Verdict(len(gaps[channels[0]]), {channel: float(gap.max()) for channel, gap in gaps.items()}, off)
