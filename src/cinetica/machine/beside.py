"""Machine code that works beside Python: calls that are carried out one after another by a thread of their own.

The thread is one loop of machine code (`serving.py`). It waits in the system's `read`, calls, says so by `write`, and
never needs Python's lock: a thread of Python's would have to wait for it, up to 5 ms, each time that it is woken.
"""

from __future__ import annotations

import os
import threading
from collections import deque
from struct import pack_into

import numpy as np

from cinetica.machine.code import address, uncompiled
from cinetica.machine.serving import ARGUMENTS, SERVE

# So many calls can be under way.
SLOTS = 64
# Bytes of one.
JOB = 8 * (1 + ARGUMENTS)


class Beside:
    """The thread, and the calls that it has been asked for. Calls are known by their number, 1 and so on. It is asked,
    and waited for, by one thread of Python's alone."""

    def __init__(self, name: str) -> None:
        self._jobs, self._through = np.zeros((SLOTS, 1 + ARGUMENTS), np.int64), np.zeros(1, np.int64)
        self._ring = self._jobs.data
        self._words = np.array([0, 1], np.int64)
        self._asked = os.eventfd(0, os.EFD_CLOEXEC | os.EFD_SEMAPHORE)
        self._done = os.eventfd(0, os.EFD_CLOEXEC)
        self._last = 0
        # What the calls under way work on, with their numbers: it must not go before they are through.
        self._held = deque[tuple[int, object]]()
        places = address(self._jobs), SLOTS, self._asked, self._done, address(self._words), address(self._through)
        # It has nothing to put right when the program ends.
        threading.Thread(target=SERVE.function, args=places, name=name, daemon=True).start()

    def ask(self, function: int, arguments: tuple[int, ...], held: object) -> int:
        """Have the function at an address called; the number of the call. `held` is kept until it is through."""
        self.wait(self._last + 1 - SLOTS)
        while self._held and self._held[0][0] <= self._through[0]:
            self._held.popleft()
        pack_into(f"{1 + len(arguments)}q", self._ring, self._last % SLOTS * JOB, function, *arguments)
        self._last += 1
        self._held.append((self._last, held))
        os.eventfd_write(self._asked, 1)
        return self._last

    def wait(self, number: int) -> None:
        """Until the call of this number, and with it all before, is through."""
        while self._through[0] < number:
            # What it has counted of earlier ones, too: only then it waits.
            os.eventfd_read(self._done)


def beside(name: str) -> Beside | None:
    """The one of this name, begun when it is first wanted; None while its machine code is not there."""
    if name not in _begun and not uncompiled() and SERVE.is_ready():
        _begun[name] = Beside(name)
    return _begun.get(name)


_begun: dict[str, Beside] = {}
