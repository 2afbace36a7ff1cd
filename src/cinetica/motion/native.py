"""The compiled run as machine code that is loaded without the compiler.

To load Numba and to ready its compiler takes longer than all else at a start. So the run is compiled
once into an object file behind a plain C interface, and a start only hands that file to LLVM's linker.
"""

from __future__ import annotations

import ctypes
import hashlib
import os
import sys
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import llvmlite.binding as llvm
import numpy as np
from numpy.typing import NDArray

from cinetica.motion.cache import cache_folder, other_folder, remove_earlier
from cinetica.motion.compiling import make_compilable
from cinetica.motion.records import HAND, STATE, TRACE, TUNE, Ground, Records

# `step.run_one`; the last argument, the row to go on from, may be left out.
Run = Callable[..., None]

# What Numba's wrapper names for errors that the kernel cannot raise. Should one be called all the same, the
# process ends at once instead of running on with wrong numbers.
NEVER_CALLED = ("NRT_MemInfo_call_dtor", "numba_gil_ensure", "numba_gil_release", "numba_unpickle", "numba_do_raise")
POINTER, COUNT, NUMBER = ctypes.c_void_p, ctypes.c_int64, ctypes.c_double
SIGNATURE = (
    POINTER, POINTER, POINTER, COUNT, POINTER, COUNT, POINTER, COUNT, NUMBER, NUMBER, POINTER, POINTER, POINTER, COUNT, COUNT
)  # fmt: skip


def uncompiled() -> bool:
    return os.environ.get("NUMBA_DISABLE_JIT") == "1"


def object_files() -> list[Path]:
    """Where the machine code may be: in the cache, or where that cannot be written, in a folder of the person's own."""
    other = other_folder()
    return [cache_folder() / "run.o", *([other / "run.o"] if other else [])]


def _machine_code() -> bytes | None:
    """The machine code that is kept, if what is kept is whole: a damaged one would end the process when it is called."""
    for path in object_files():
        try:
            digest, _, content = path.read_bytes().partition(b"\n")
        except OSError:
            continue
        if digest == hashlib.sha256(content).hexdigest().encode():
            return content
    return None


def is_ready() -> bool:
    """Whether a run can start at once: its machine code is there and whole, or none is wanted."""
    return uncompiled() or _machine_code() is not None


@cache
def kernel() -> Run:
    """`step.run_one`: from the object file, which is compiled first where there is none that is whole (about 20 s)."""
    if uncompiled():
        from cinetica.motion.step import run_one

        return run_one
    return _loaded(_machine_code() or compile_object())


def bound(
    states: Records, tunes: Records, ground: Ground, x: float, y: float, hands: Records, dts: NDArray[np.float64], trace: Records
) -> Callable[[int, int], None]:
    """`kernel` on these arrays, to be called again and again with (rows, first): the run goes on from row `first` up to `rows`."""
    run = kernel()
    if hasattr(run, "bind"):
        go_on: Callable[[int, int], None] = run.bind(states, tunes, ground, x, y, hands, dts, trace)
        return go_on
    return lambda rows, first: run(states, tunes, ground, x, y, hands[:rows], dts[:rows], trace[:rows], first)


def compile_object() -> bytes:
    """Compile the run: a line with the name of its function, then the machine code. It is kept where that can be written."""
    import numba
    from numba import carray, types  # type: ignore[attr-defined]

    from cinetica.motion.step import run

    make_compilable()

    def entry(states, tunes, solids, n_solids, oneway, n_oneway, climb, n_climb, x, y, hands, dts, trace, rows, first):  # type: ignore[no-untyped-def]
        ground = Ground(carray(solids, (n_solids, 4)), carray(oneway, (n_oneway, 4)), carray(climb, (n_climb, 4)))
        s, p = carray(states, (1,))[0], carray(tunes, (1,))[0]
        run(s, p, ground, x, y, carray(hands, (rows,)), carray(dts, (rows,)), carray(trace, (rows,)), first)

    def to(dtype: np.dtype[Any]) -> Any:
        return types.CPointer(numba.from_dtype(np.dtype((np.record, dtype))))

    numbers, count = types.CPointer(types.float64), types.int64
    signature = types.void(
        to(STATE), to(TUNE), numbers, count, numbers, count, numbers, count, types.float64, types.float64,
        to(HAND), numbers, to(TRACE), count, count,
    )  # fmt: skip
    made = numba.cfunc(signature, nopython=True, error_model="numpy")(entry)  # type: ignore[call-arg]
    code: bytes = made._library._get_compiled_object()  # type: ignore[attr-defined]
    name: str = made._wrapper_name  # type: ignore[attr-defined]
    return keep(name.encode() + b"\n" + code)


def keep(content: bytes) -> bytes:
    """Keep machine code for the next start, in the first place that can be written; where there is none, say so."""
    reason = "no place to write"
    for path in object_files():
        try:
            _write(path, hashlib.sha256(content).hexdigest().encode() + b"\n" + content)
        except OSError as error:
            reason = f"{path.parent}: {error.strerror or error}"
        else:
            remove_earlier()
            return content
    print(f"cinetica: the compiled kernel cannot be kept ({reason}); it is compiled anew at every start", file=sys.stderr)
    return content


def _write(path: Path, content: bytes) -> None:
    """Two programs that compile at once must not see half of each other's file, and a crash must not leave half of one."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=path.parent, delete=False) as file:
        try:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
            Path(file.name).replace(path)
        except BaseException:
            Path(file.name).unlink(missing_ok=True)
            raise


def _loaded(content: bytes) -> Run:
    name, _, code = content.partition(b"\n")
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    abort = ctypes.cast(ctypes.CDLL(None).abort, ctypes.c_void_p).value
    for symbol in NEVER_CALLED:
        # Symbols are the whole process's: where Numba is loaded too, its own stay.
        if llvm.address_of_symbol(symbol) is None:
            llvm.add_symbol(symbol, abort)
    machine = llvm.Target.from_default_triple().create_target_machine(jit=True)
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), machine)
    engine.add_object_file(llvm.ObjectFileRef.from_data(code))
    engine.finalize_object()
    function = ctypes.CFUNCTYPE(None, *SIGNATURE)(engine.get_function_address(name.decode()))

    def bind(
        states: Records, tunes: Records, ground: Ground, x: float, y: float, hands: Records, dts: NDArray[np.float64], trace: Records
    ) -> Callable[[int, int], None]:
        arrays = (states, tunes, *ground, hands, dts, trace)
        at = [POINTER(array.ctypes.data) for array in arrays]
        solids, oneway, climb = (COUNT(len(rectangles)) for rectangles in ground)
        before = (at[0], at[1], at[2], solids, at[3], oneway, at[4], climb, NUMBER(x), NUMBER(y), at[5], at[6], at[7])

        def go_on(rows: int, first: int) -> None:
            function(*before, rows, first)

        go_on.arrays = arrays  # type: ignore[attr-defined]  # They must live as long as their addresses.
        return go_on

    def run(
        states: Records, tunes: Records, ground: Ground, x: float, y: float, hands: Records, dts: NDArray[np.float64], trace: Records, first: int = 0
    ) -> None:
        places = [array.ctypes.data for array in (states, tunes, *ground, hands, dts, trace)]
        function(
            places[0], places[1], places[2], len(ground.solids), places[3], len(ground.oneway), places[4], len(ground.climb),
            x, y, places[5], places[6], places[7], len(trace), first,
        )  # fmt: skip

    run.engine = engine  # type: ignore[attr-defined]  # It owns the machine code: it must live as long as the function.
    run.bind = bind  # type: ignore[attr-defined]
    return run
