"""The hands of every row in one call of machine code: NumPy would make a call of its own for each key and each flag."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import COUNT, POINTER, MachineCode, address
from cinetica.model.take import KEYS, Take
from cinetica.model.takes import STICKS
from cinetica.motion.records import HAND, JUMP_HELD, STICK_OUT

JUMP_AT, PRESSED_AT, RELEASED_AT = (list(HAND.names or ()).index(name) for name in ("jump", "pressed", "released"))
# Of a row: bytes, words, the word of `held`, and the first of those of the sticks.
SIZE, WORDS, HELD_AT, STICKS_AT = HAND.itemsize, HAND.itemsize // 8, 1, 2


def write_hands(read, count, length, presses, press_count, pushes, push_count, keys, ways, flags, words, numbers):
    """`read`: the frame of the take, which is `length` frames long, that each of `count` rows behind the start reads.
    `presses`: key, start and end of each; `pushes`: stick, frame, x and y of each, stick by stick and in the order of
    their frames.

    `keys` and `ways` are room for a number and for four of each frame, all 0. The rows are written as HAND, into memory
    that is 0: `flags`, `words` and `numbers` are the same memory, as bytes, i8 and f8; the first `count` + 1 are the
    hands, as many behind them the same without jump.
    """
    for press in range(press_count):
        bit = 1 << presses[3 * press]
        for frame in range(presses[3 * press + 1], min(length, presses[3 * press + 2])):
            keys[frame] |= bit
    for push in range(push_count):
        at, end, following = 2 * int(pushes[4 * push]), length, 4 * (push + 1)
        if push + 1 < push_count and pushes[following] == pushes[4 * push]:
            end = min(length, int(pushes[following + 1]))
        for frame in range(int(pushes[4 * push + 1]), end):
            ways[4 * frame + at] = pushes[4 * push + 2]
            ways[4 * frame + at + 1] = pushes[4 * push + 3]
    before = 0
    for row in range(1, count + 1):
        frame, plain = read[row - 1], row + count + 1
        held = keys[frame]
        for way in range(4):
            value = ways[4 * frame + way]
            numbers[row * WORDS + STICKS_AT + way] = numbers[plain * WORDS + STICKS_AT + way] = value
            if value != 0.0:
                held |= STICK_OUT
        words[row * WORDS + HELD_AT] = held
        words[plain * WORDS + HELD_AT] = held & ~JUMP_HELD
        for key in range(JUMP_AT + 2):
            on = (held >> key) & 1
            flags[row * SIZE + key] = on
            flags[plain * SIZE + key] = on if key != JUMP_AT else 0
        jump = (held >> JUMP_AT) & 1
        flags[row * SIZE + PRESSED_AT] = jump & ~before
        flags[row * SIZE + RELEASED_AT] = before & ~jump
        before = jump


def _compiled() -> Any:
    import numba
    from numba import types

    byte, whole, number, count = (
        types.CPointer(types.uint8), types.CPointer(types.int64), types.CPointer(types.float64), types.int64
    )  # fmt: skip
    signature = types.void(whole, count, count, whole, count, number, count, whole, number, byte, whole, number)
    return numba.cfunc(signature, nopython=True)(write_hands)  # type: ignore[call-arg]


HERE = Path(__file__).parent
WRITING = MachineCode(
    "hands",
    "write_hands",
    (Path(__file__), HERE / "records.py", *sorted(HERE.parent.glob("machine/*.py"))),
    [POINTER, COUNT, COUNT, POINTER, COUNT, POINTER, COUNT, *5 * (POINTER,)],
    _compiled,
)


def hands_read(take: Take, read: NDArray[np.int64]) -> NDArray[Any]:
    """The hands of a row of the start, in which nothing is held, and of rows that read these frames of a take; and the
    same without jump: of dtype HAND, shape (2, rows)."""
    presses = [(key, *press) for key, name in enumerate(KEYS) for press in getattr(take.keys, name)]
    pushes = [
        (float(at), float(push.frame), push.x, push.y) for at, stick in enumerate(STICKS)
        for push in sorted(getattr(take, stick), key=lambda push: push.frame)
    ]  # fmt: skip
    # Of an empty array there is no address.
    given, pushed = np.array(presses or [(0, 0, 0)], np.int64), np.array(pushes or [(0.0, 0.0, 0.0, 0.0)], np.float64)
    room, rows = np.zeros(5 * take.length), np.zeros((2, len(read) + 1), HAND)
    keys, ways, into = address(room), address(room) + 8 * take.length, address(rows)
    WRITING.function(
        address(read), len(read), take.length, address(given), len(presses), address(pushed), len(pushes), keys, ways,
        into, into, into,
    )  # fmt: skip
    return rows
