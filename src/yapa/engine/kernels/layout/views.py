"""Many arrays behind one: a table of addresses, and views of them inside kernels.

Passing dozens of arrays from kernel to kernel costs the compiler far more than the work is worth.
The host packs addresses and shapes into one int64 table (``yapa.engine.jit.pointers``), keeps the arrays alive, and kernels look
at entry ``k`` as a 2-D float64 (``reals(table, k)``) or int64 (``wholes(table, k)``) array.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic
from numba.np import arrayobj


def _view_of(kind: Any, width: Any, deep: int = 0) -> Any:
    """An intrinsic: entry ``k`` of a table as a C-contiguous array of two dimensions, built in place.

    With ``deep`` it has a third dimension of that size.
    """

    @intrinsic  # type: ignore[misc]
    def view(_typing: Any, table: Any, _k: Any) -> Any:
        array = types.Array(kind, 3 if deep else 2, "C")

        def code(context: Any, builder: Any, _signature: Any, args: Any) -> Any:
            base = arrayobj.make_array(table)(context, builder, args[0]).data
            whole = ir.IntType(64)
            first = builder.mul(args[1], ir.Constant(whole, 3))
            address, rows, columns = (
                builder.load(builder.gep(base, [builder.add(first, ir.Constant(whole, c))])) for c in range(3))
            out = arrayobj.make_array(array)(context, builder)
            shape, one = [rows, columns], ir.Constant(whole, 8)
            strides = [builder.mul(columns, one), one]
            if deep:
                inner = ir.Constant(whole, 8 * deep)
                shape, strides = [rows, columns, ir.Constant(whole, deep)], [builder.mul(columns, inner), inner, one]
            arrayobj.populate_array(
                out, data=builder.inttoptr(address, width.as_pointer()), shape=cgutils.pack_array(builder, shape),
                strides=cgutils.pack_array(builder, strides), itemsize=one, meminfo=None)
            return out._getvalue()

        return array(table, types.int64), code

    return view


reals = _view_of(types.float64, ir.DoubleType())
wholes = _view_of(types.int64, ir.IntType(64))
states = _view_of(types.float64, ir.DoubleType(), 16)


@intrinsic  # type: ignore[misc]
def table_at(_typing: Any, address: Any, _count: Any) -> Any:
    """The table of that many whole numbers at an address."""
    array = types.Array(types.int64, 1, "C")

    def code(context: Any, builder: Any, _signature: Any, args: Any) -> Any:
        whole, out = ir.IntType(64), arrayobj.make_array(array)(context, builder)
        one = ir.Constant(whole, 8)
        arrayobj.populate_array(
            out, data=builder.inttoptr(args[0], whole.as_pointer()), shape=cgutils.pack_array(builder, [args[1]]),
            strides=cgutils.pack_array(builder, [one]), itemsize=one, meminfo=None)
        return out._getvalue()

    return array(types.int64, types.int64), code
