"""What compiled code makes of `facts.py`: records are found, and the kernel's machine code is called, by address."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from cinetica.reading.facts import ARRAYS, LOOKS, SHAPES, run_on, take_hands


@cache
def teach_calling() -> None:
    """Tell Numba of the functions of `facts.py` that are not compiled as they stand."""
    import numba
    from llvmlite import ir
    from numba.core import types
    from numba.extending import lower_builtin, type_callable

    whole, byte, number = ir.IntType(64), ir.IntType(8).as_pointer(), ir.DoubleType()

    def field(builder: Any, facts: Any, kind: Any, name: str) -> Any:
        """A field of the record of facts, a whole number or an f8."""
        offset = ir.Constant(whole, kind.offset(name))
        at = builder.gep(builder.bitcast(facts, byte), [offset])
        llvm = number if kind.typeof(name) == types.float64 else whole
        return builder.load(builder.bitcast(at, llvm.as_pointer()))

    def teach_look(function: Any, array: str) -> None:
        dtype = np.dtype((np.record, ARRAYS[array]))
        record = numba.from_dtype(dtype)
        size = ir.Constant(whole, dtype.itemsize)

        def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            begin = field(builder, arguments[0], signature.args[0], array)
            at = builder.add(begin, builder.mul(arguments[1], size))
            return builder.inttoptr(at, context.get_value_type(record))

        type_callable(function)(lambda context: lambda f, place: record)
        lower_builtin(function, types.Record, types.Integer)(
            lambda context, builder, signature, arguments: generate(
                context, builder, signature,
                [arguments[0], context.cast(builder, arguments[1], signature.args[1], types.int64)],
            )
        )  # fmt: skip

    def call_kernel(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        kind = signature.args[0]

        def fact(name: str) -> Any:
            return field(builder, arguments[0], kind, name)

        place, end, first = (context.cast(builder, arguments[at], signature.args[at], types.int64) for at in (1, 3, 4))
        has_course = builder.icmp_signed("==", place, ir.Constant(whole, 0))
        shapes = []
        for shape in SHAPES:
            shapes += [fact(shape), builder.select(has_course, fact(f"{shape}_count"), ir.Constant(whole, 0))]
        tune = builder.add(fact("tunes"), builder.mul(place, ir.Constant(whole, ARRAYS["tunes"].itemsize)))
        trace = builder.select(arguments[2], fact("rows"), fact("again"))
        passed = [
            fact("states"), tune, *shapes, fact("x"), fact("y"), fact("hands"), fact("lengths"), trace, end, first,
        ]  # fmt: skip
        function = ir.FunctionType(ir.VoidType(), [value.type for value in passed])
        builder.call(builder.inttoptr(fact("kernel"), function.as_pointer()), passed)
        return context.get_dummy_value()

    def change_hands(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        kind = signature.args[0]
        place = context.cast(builder, arguments[1], signature.args[1], types.int64)
        size = ir.Constant(whole, ARRAYS["hands"].itemsize)
        step = builder.mul(builder.mul(place, field(builder, arguments[0], kind, "count")), size)
        other = builder.add(field(builder, arguments[0], kind, "shifted"), step)
        own = field(builder, arguments[0], kind, "own_hands")
        chosen = builder.select(builder.icmp_signed("<", place, ir.Constant(whole, 0)), own, other)
        at = builder.gep(builder.bitcast(arguments[0], byte), [ir.Constant(whole, kind.offset("hands"))])
        builder.store(chosen, builder.bitcast(at, whole.as_pointer()))
        return context.get_dummy_value()

    type_callable(take_hands)(lambda context: lambda f, place: types.none)
    lower_builtin(take_hands, types.Record, types.Integer)(change_hands)
    for function, array in LOOKS.items():
        teach_look(function, array)
    type_callable(run_on)(lambda context: lambda f, place, into_rows, end, first: types.none)
    lower_builtin(run_on, types.Record, types.Integer, types.Boolean, types.Integer, types.Integer)(call_kernel)
