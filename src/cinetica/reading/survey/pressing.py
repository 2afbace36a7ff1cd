"""A press of jump at many starts, in one call of machine code: NumPy would make two dozen."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import COUNT, POINTER, MachineCode, address
from cinetica.motion.records import JUMP


def press_at_many(read, rows, others, starts, ends, until, cases, jumps, found):
    """`read`: the frame of the take that each row reads, i4. `others`: whether another press holds jump in a frame, a
    byte each. `starts`, `ends`, `until`: frames of each case, i4.

    `jumps`: three bytes for each row of each case, whether jump is held, goes down, goes up, as of dtype JUMP; the
    first row, that of the start, has none. `found`: the first row of each case, i8, in which it goes down and that
    reads a frame from its start up to `until`; 0 where there is none.
    """
    for case in range(cases):
        start, end, last, at = starts[case], ends[case], until[case], 3 * case * rows
        jumps[at] = jumps[at + 1] = jumps[at + 2] = 0
        found[case] = before = 0
        for row in range(1, rows):
            frame = read[row]
            now = 1 if others[frame] != 0 or start <= frame < end else 0
            at += 3
            jumps[at] = now
            jumps[at + 1] = now & ~before
            jumps[at + 2] = before & ~now
            if now > before and found[case] == 0 and start <= frame < last:
                found[case] = row
            before = now


def _compiled() -> Any:
    import numba
    from numba import types

    short, byte, count = types.CPointer(types.int32), types.CPointer(types.uint8), types.int64
    signature = types.void(short, count, byte, short, short, short, count, byte, types.CPointer(types.int64))
    return numba.cfunc(signature, nopython=True)(press_at_many)  # type: ignore[call-arg]


HERE = Path(__file__).parent
PRESSING = MachineCode(
    "presses",
    "press_at_many",
    (Path(__file__), *sorted(HERE.parents[1].glob("machine/*.py"))),
    [POINTER, COUNT, *4 * (POINTER,), COUNT, POINTER, POINTER],
    _compiled,
)


def pressed_at_many(
    read: NDArray[np.int32],
    others: NDArray[np.bool_],
    starts: NDArray[np.int32],
    ends: NDArray[np.int32],
    until: NDArray[np.int32],
) -> tuple[NDArray[Any], NDArray[np.int64]]:
    """See `press_at_many`: what jump does, of dtype JUMP, shape (cases, rows), and the row of each press."""
    jumps, found = np.empty((len(starts), len(read)), JUMP), np.empty(len(starts), np.int64)
    PRESSING.function(
        address(read), len(read), address(others), address(starts), address(ends), address(until), len(starts),
        address(jumps), address(found),
    )  # fmt: skip
    return jumps, found
