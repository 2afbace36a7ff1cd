"""Machine code that works beside Python: calls that are carried out one after another by a thread of their own.

The thread is one loop of machine code. It waits in the system's `read`, calls, says so by `write`, and never needs
Python's lock: a thread of Python's would have to wait for it, up to 5 ms, each time that it is woken.
"""

from __future__ import annotations

import os
import threading
from collections import deque
from pathlib import Path
from typing import Any

import numpy as np

from cinetica.machine.code import COUNT, POINTER, MachineCode, address, uncompiled

# The arguments of a call, all of them whole numbers or addresses.
ARGUMENTS = 9
# So many calls can be under way.
SLOTS = 64


def serve(jobs, slots, asked, done, words):
    """For ever: wait until there is one in `asked`, carry out the next call, and put one into `done`.

    `jobs`: a ring of calls, each the address of a function with its arguments. `asked`, `done`: files of counted events
    (eventfd(2)). `words`: the address of two words of memory, one to read into and a 1.
    """
    at = 0
    while True:
        # A signal can end the waiting, too.
        if read(asked, words, 8) == 8:
            call(
                jobs[at], jobs[at + 1], jobs[at + 2], jobs[at + 3], jobs[at + 4], jobs[at + 5], jobs[at + 6],
                jobs[at + 7], jobs[at + 8], jobs[at + 9],
            )  # fmt: skip
            at = (at + 1 + ARGUMENTS) % (slots * (1 + ARGUMENTS))
            write(done, words + 8, 8)


def read(file, to, count):
    """The system's; only for the compiler, as are those below."""
    raise NotImplementedError


def write(file, what, count):
    raise NotImplementedError


def call(function, a, b, c, d, e, f, g, h, i):
    """A function by its address."""
    raise NotImplementedError


def _compiled() -> Any:
    import numba
    from llvmlite import ir
    from numba import types
    from numba.extending import intrinsic

    whole = types.int64

    def calling(_typing: Any, function: Any, a: Any, b: Any, c: Any, d: Any, e: Any, f: Any, g: Any, h: Any, i: Any):  # type: ignore[no-untyped-def]
        def generate(context: Any, builder: Any, _signature: Any, given: Any) -> Any:
            place, *arguments = given
            kind = ir.FunctionType(ir.VoidType(), [ir.IntType(64)] * len(arguments))
            builder.call(builder.inttoptr(place, kind.as_pointer()), arguments)
            return context.get_dummy_value()

        return types.void(*(1 + ARGUMENTS) * (whole,)), generate

    inner = {
        "read": types.ExternalFunction("read", whole(types.int32, whole, whole)),
        "write": types.ExternalFunction("write", whole(types.int32, whole, whole)),
        "call": intrinsic(calling),
    }
    known = type(serve)(serve.__code__, {**serve.__globals__, **inner}, serve.__name__)
    signature = types.void(types.CPointer(whole), whole, types.int32, types.int32, whole)
    return numba.cfunc(signature, nopython=True, error_model="numpy")(known)  # type: ignore[call-arg]


HERE = Path(__file__).parent
SERVE = MachineCode(
    "beside", "serve", sorted(HERE.glob("*.py")), [POINTER, COUNT, COUNT, COUNT, POINTER], _compiled
)  # fmt: skip


class Beside:
    """The thread, and the calls that it has been asked for. Calls are known by their number, 1 and so on."""

    def __init__(self) -> None:
        self._jobs = np.zeros((SLOTS, 1 + ARGUMENTS), np.int64)
        self._words = np.array([0, 1], np.int64)
        self._asked = os.eventfd(0, os.EFD_CLOEXEC | os.EFD_SEMAPHORE)
        self._done = os.eventfd(0, os.EFD_CLOEXEC)
        self._last = self._through = 0
        # What the calls under way work on: it must not go before they have.
        self._held = deque[object]()
        serve = (address(self._jobs), SLOTS, self._asked, self._done, address(self._words))
        # It has nothing to put right when the program ends.
        threading.Thread(target=SERVE.function, args=serve, name="beside", daemon=True).start()

    def ask(self, function: int, arguments: tuple[int, ...], held: object) -> int:
        """Have a function called, by its address, with as many arguments as calls have here; the number of the call.
        `held` is kept until it is through."""
        if self._last - self._through == SLOTS:
            self.wait(self._through + 1)
        self._jobs[self._last % SLOTS] = (function, *arguments)
        self._held.append(held)
        self._last += 1
        os.eventfd_write(self._asked, 1)
        return self._last

    def wait(self, number: int) -> None:
        """Until the call of this number, and with it all before, is through."""
        while self._through < number:
            for _ in range(os.eventfd_read(self._done)):
                self._through += 1
                self._held.popleft()


def beside() -> Beside | None:
    """The one of this process, begun when it is first wanted; None while its machine code is not there."""
    if not _begun and not uncompiled() and SERVE.is_ready():
        _begun.append(Beside())
    return _begun[0] if _begun else None


_begun: list[Beside] = []
