"""What compiled code makes of `facts.py`: records are found, and the kernel's machine code is called, by address.

Loading this module loads the compiler.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import numba
import numpy as np
from llvmlite import ir
from numba.core import types
from numba.extending import lower_builtin, type_callable

from cinetica.reading.facts import ARRAYS, LOOKS, SHAPES, run_on, take_hands

WHOLE, BYTE, NUMBER = ir.IntType(64), ir.IntType(8).as_pointer(), ir.DoubleType()


class _Call:
    """A call that code is made for: its first argument is the record of facts."""

    def __init__(self, context: Any, builder: Any, signature: Any, arguments: Any) -> None:
        self.context, self.builder, self._signature, self._arguments = context, builder, signature, arguments

    def argument(self, at: int) -> Any:
        """An argument that is a whole number, or a truth."""
        kind = self._signature.args[at]
        if isinstance(kind, types.Boolean):
            return self._arguments[at]
        return self.context.cast(self.builder, self._arguments[at], kind, types.int64)

    def place_of(self, name: str) -> Any:
        """Where a field of the record is."""
        kind = self._signature.args[0]
        llvm = NUMBER if kind.typeof(name) == types.float64 else WHOLE
        offset = ir.Constant(WHOLE, kind.offset(name))
        at = self.builder.gep(self.builder.bitcast(self._arguments[0], BYTE), [offset])
        return self.builder.bitcast(at, llvm.as_pointer())

    def fact(self, name: str) -> Any:
        """A field of the record, a whole number or an f8."""
        return self.builder.load(self.place_of(name))

    def address_in(self, array: str, place: Any) -> Any:
        """Where the entry `place` of an array is."""
        size = ir.Constant(WHOLE, ARRAYS[array].itemsize)
        return self.builder.add(self.fact(array), self.builder.mul(place, size))


def _look(array: str, record: Any) -> Callable[..., Any]:
    """The code of a function of LOOKS."""

    def generate(*given: Any) -> Any:
        call = _Call(*given)
        return call.builder.inttoptr(call.address_in(array, call.argument(1)), call.context.get_value_type(record))

    return generate


def _call_kernel(*given: Any) -> Any:
    """The code of `run_on`."""
    call = _Call(*given)
    builder, fact = call.builder, call.fact
    place, into_rows, end, first = (call.argument(at) for at in (1, 2, 3, 4))
    has_course = builder.icmp_signed("==", place, ir.Constant(WHOLE, 0))
    shapes = []
    for shape in SHAPES:
        shapes += [fact(shape), builder.select(has_course, fact(f"{shape}_count"), ir.Constant(WHOLE, 0))]
    trace = builder.select(into_rows, fact("rows"), fact("again"))
    passed = [
        fact("states"), call.address_in("tunes", place), *shapes, fact("x"), fact("y"), fact("hands"), fact("lengths"),
        trace, end, first,
    ]  # fmt: skip
    function = ir.FunctionType(ir.VoidType(), [value.type for value in passed])
    builder.call(builder.inttoptr(fact("kernel"), function.as_pointer()), passed)
    return call.context.get_dummy_value()


def _change_hands(*given: Any) -> Any:
    """The code of `take_hands`."""
    call = _Call(*given)
    taken = call.builder.select(call.argument(1), call.fact("moved"), call.fact("own_hands"))
    call.builder.store(taken, call.place_of("hands"))
    return call.context.get_dummy_value()


def _gives(record: Any) -> Callable[..., Any]:
    """A function of LOOKS gives such a record, whatever it is asked of."""

    def typed(context: Any) -> Callable[..., Any]:
        return lambda f, place: record

    return typed


@cache
def teach_calling() -> None:
    """Tell Numba of the functions of `facts.py` that are not compiled as they stand."""
    for function, array in LOOKS.items():
        record = numba.from_dtype(np.dtype((np.record, ARRAYS[array])))
        type_callable(function)(_gives(record))
        lower_builtin(function, types.Record, types.Integer)(_look(array, record))
    type_callable(take_hands)(lambda context: lambda f, moved: types.none)
    lower_builtin(take_hands, types.Record, types.Boolean)(_change_hands)
    type_callable(run_on)(lambda context: lambda f, place, into_rows, end, first: types.none)
    lower_builtin(run_on, types.Record, types.Integer, types.Boolean, types.Integer, types.Integer)(_call_kernel)
