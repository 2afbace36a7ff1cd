"""How the kernel is compiled.

A function of the kernel is plain Python, marked by `@compiled`. Called from Python it runs uncompiled, which is how a
single tick is explained and debugged. `make_compilable` registers all of them with Numba, so that compiled code calls
their compiled forms; Numba is not even imported before that.
"""

from __future__ import annotations

import importlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache, wraps
from pathlib import Path
from typing import Any

import numpy as np

from cinetica.machine.cache import cache_folder

HERE = Path(__file__).parent
# Changing any of these changes the machine code.
SOURCES = tuple(sorted([*HERE.glob("*.py"), *HERE.parent.glob("model/*.py"), *HERE.parent.glob("machine/*.py")]))

Function = Callable[..., Any]
# Called in place of each function of the kernel, with the function and its arguments; returns what the function should.
Watcher = Callable[[Function, tuple[Any, ...]], Any]

# The kernel allocates nothing, so it needs no reference counts, which would cost more than the physics.
# All functions are inlined into the run, where the state then lives in registers (`on_stack`).
# No number of the model is a NaN ("nnan"), so no comparison needs to ask; no other rule of arithmetic is given up for
# speed.
OPTIONS = {"error_model": "numpy", "fastmath": {"nnan"}, "forceinline": True, "_nrt": False}

# Functions not yet registered with Numba.
_pending: list[tuple[Function, Function, dict[str, Any]]] = []
_watchers: list[Watcher] = []


def compiled(function: Function) -> Function:
    """Mark a function of the kernel: plain when called from Python, compiled when called from compiled code."""
    return _marked(function, OPTIONS)


def apart(function: Function) -> Function:
    """Mark a function around the kernel: it is called instead of inlined, which compiles much faster."""
    return _marked(function, {name: value for name, value in OPTIONS.items() if name != "forceinline"})


def _marked(function: Function, options: dict[str, Any]) -> Function:
    @wraps(function)
    def called(*arguments: Any) -> Any:
        return _watchers[-1](function, arguments) if _watchers else function(*arguments)

    _pending.append((called, function, options))
    return called


@contextmanager
def watched_by(watcher: Watcher) -> Iterator[None]:
    """Send every call of a kernel function from Python through the watcher inside this context."""
    _watchers.append(watcher)
    try:
        yield
    finally:
        _watchers.pop()


def copy_of(record: Any) -> Any:
    """A copy of a record: its bytes, which takes a thirtieth of the time of NumPy's `copy` of so many fields."""
    return np.frombuffer(bytearray(record.tobytes()), record.dtype)[0]


def on_stack(record: Any) -> Any:
    """A private copy of a record, so that compiled code need not store every field after every line."""
    return copy_of(record)


def copy_record(source: Any, target: Any) -> None:
    """Overwrite all fields of `target`."""
    for name in source.dtype.names:
        target[name] = source[name]


def make_compilable() -> None:
    """Register all functions of the kernel with Numba, and set where it keeps what it compiles."""
    _ready_numba()
    extending = importlib.import_module("numba.extending")
    while _pending:
        called, function, options = _pending.pop(0)
        extending.overload(called, jit_options=options, strict=False)(_always(function))


@cache
def _ready_numba() -> None:
    numba = importlib.import_module("numba")
    numba.config.CACHE_DIR = str(cache_folder("kernel", SOURCES))
    _teach_records()


def _always(function: Function) -> Function:
    return lambda *arguments: function


def _teach_records() -> None:
    """Compile `on_stack` and `copy_record`: storage in the caller's frame, and a plain memory copy."""
    from llvmlite import ir
    from numba.core import cgutils, types
    from numba.extending import lower_builtin, type_callable

    def copy(builder: Any, target: Any, source: Any, size: int) -> None:
        cgutils.raw_memcpy(builder, target, source, ir.Constant(ir.IntType(64), size), 1)

    def stack_code(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        size = signature.args[0].size
        slot = cgutils.alloca_once(builder, ir.ArrayType(ir.IntType(8), size))
        slot.align = 16
        place = builder.bitcast(slot, arguments[0].type)
        copy(builder, place, arguments[0], size)
        return place

    def copy_code(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        copy(builder, arguments[1], arguments[0], signature.args[0].size)
        return context.get_dummy_value()

    type_callable(on_stack)(lambda context: lambda record: record)
    lower_builtin(on_stack, types.Record)(stack_code)
    type_callable(copy_record)(lambda context: lambda source, target: types.none)
    lower_builtin(copy_record, types.Record, types.Record)(copy_code)
