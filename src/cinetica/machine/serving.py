"""The loop of machine code that carries out calls of other machine code, for `beside.py`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from cinetica.machine.code import COUNT, POINTER, MachineCode

# The arguments of a call: whole numbers or addresses. A function that takes fewer does not look at the rest.
ARGUMENTS = 11


def serve(jobs, slots, asked, done, words, through):
    """For ever: wait until there is one in `asked`, carry out the next call, and put one into `done`.

    `jobs`: a ring of calls, each the address of a function with its arguments. `asked`, `done`: files of counted events
    (eventfd(2)). `words`: the address of two words of memory, one to read into, and a 1. `through`: how many calls have
    been carried out.
    """
    while True:
        # A signal can end the waiting, too.
        if read(asked, words, 8) == 8:
            at = through[0] % slots * (1 + ARGUMENTS)
            call(
                jobs[at], jobs[at + 1], jobs[at + 2], jobs[at + 3], jobs[at + 4], jobs[at + 5], jobs[at + 6],
                jobs[at + 7], jobs[at + 8], jobs[at + 9], jobs[at + 10], jobs[at + 11],
            )  # fmt: skip
            # What the call has written is to be seen before this is.
            publish()
            through[0] += 1
            write(done, words + 8, 8)


def read(file, to, count):
    """The system's; only for the compiler, as are those below."""
    raise NotImplementedError


def write(file, what, count):
    raise NotImplementedError


def call(function, *arguments):
    """A function by its address."""
    raise NotImplementedError


def publish():
    raise NotImplementedError


def _compiled() -> Any:
    import numba
    from llvmlite import ir
    from numba import types
    from numba.extending import intrinsic

    whole = types.int64

    def calling(
        _typing: Any, function: Any, a: Any, b: Any, c: Any, d: Any, e: Any, f: Any, g: Any, h: Any, i: Any, j: Any,
        k: Any,
    ) -> Any:  # fmt: skip
        def generate(context: Any, builder: Any, _signature: Any, given: Any) -> Any:
            place, *arguments = given
            kind = ir.FunctionType(ir.VoidType(), [ir.IntType(64)] * len(arguments))
            builder.call(builder.inttoptr(place, kind.as_pointer()), arguments)
            return context.get_dummy_value()

        return types.void(*(1 + ARGUMENTS) * (whole,)), generate

    def publishing(_typing: Any) -> Any:
        def generate(context: Any, builder: Any, _signature: Any, _given: Any) -> Any:
            builder.fence("release")
            return context.get_dummy_value()

        return types.void(), generate

    inner = {
        "read": types.ExternalFunction("read", whole(types.int32, whole, whole)),
        "write": types.ExternalFunction("write", whole(types.int32, whole, whole)),
        "call": intrinsic(calling),
        "publish": intrinsic(publishing),
    }
    function: Any = serve
    known = type(function)(function.__code__, {**function.__globals__, **inner}, function.__name__)
    signature = types.void(types.CPointer(whole), whole, types.int32, types.int32, whole, types.CPointer(whole))
    return numba.cfunc(signature, nopython=True, error_model="numpy")(known)  # type: ignore[call-arg]


HERE = Path(__file__).parent
SERVE = MachineCode(
    "beside", "serve", sorted(HERE.glob("*.py")), [POINTER, COUNT, COUNT, COUNT, POINTER, POINTER], _compiled
)  # fmt: skip
