"""How the functions of this package are compiled. `NUMBA_DISABLE_JIT=1` runs the same source as plain Python."""

from __future__ import annotations

from typing import Any

import numba
from llvmlite import ir
from numba.core import cgutils, types
from numba.extending import intrinsic

from cinetica.motion.cache import cache_folder

numba.config.CACHE_DIR = str(cache_folder())  # type: ignore[attr-defined]

# The kernel allocates nothing, so it needs no reference counts, which would cost more than the physics.
# All functions are inlined into the run, where the state then lives in registers (`on_stack`).
compiled = numba.njit(error_model="numpy", forceinline=True, _nrt=False)  # type: ignore[call-overload]
compiled_and_kept = numba.njit(cache=True, error_model="numpy")
compiled_parallel = numba.njit(cache=True, error_model="numpy", parallel=True)
each_in_parallel = numba.prange


def _copy(builder: Any, target: Any, source: Any, size: int) -> None:
    cgutils.raw_memcpy(builder, target, source, ir.Constant(ir.IntType(64), size), 1)  # type: ignore[no-untyped-call]


@intrinsic
def _on_stack(_typing: Any, record: Any) -> Any:
    def write_code(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        slot = cgutils.alloca_once(builder, ir.ArrayType(ir.IntType(8), record.size))  # type: ignore[no-untyped-call]
        slot.align = 16
        place = builder.bitcast(slot, arguments[0].type)
        _copy(builder, place, arguments[0], record.size)
        return place

    return record(record), write_code


@intrinsic
def _copy_record(_typing: Any, source: Any, target: Any) -> Any:
    def write_code(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        _copy(builder, arguments[1], arguments[0], source.size)
        return context.get_dummy_value()

    return types.void(source, target), write_code


def on_stack(record: Any) -> Any:
    """A copy of a record that nothing else can see, so that the compiler need not store every field after every line."""
    return record.copy()


def copy_record(source: Any, target: Any) -> None:
    """Overwrite all fields of `target`."""
    for name in source.dtype.names:
        target[name] = source[name]


if not numba.config.DISABLE_JIT:  # type: ignore[attr-defined]
    on_stack, copy_record = _on_stack, _copy_record  # type: ignore[assignment]
