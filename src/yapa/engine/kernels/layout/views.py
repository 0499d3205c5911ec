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

from yapa.engine.kernels.layout import limits, state

WHOLE, DOUBLE = ir.IntType(64), ir.DoubleType()


def _array_at(context: Any, builder: Any, array: Any, first: Any, width: Any) -> Any:
    """The array whose address, rows and columns stand at ``first``: of one dimension (its first row), two, or three."""
    address, rows, columns = (builder.load(builder.gep(first, [ir.Constant(WHOLE, c)])) for c in range(limits.ENTRY))
    out, one = arrayobj.make_array(array)(context, builder), ir.Constant(WHOLE, 8)
    shape, strides = [rows, columns], [builder.mul(columns, one), one]
    if array.ndim == 1:
        shape, strides = [columns], [one]
    elif array.ndim == 3:
        inner = ir.Constant(WHOLE, 8 * state.COUNT)
        shape, strides = [rows, columns, ir.Constant(WHOLE, state.COUNT)], [builder.mul(columns, inner), inner, one]
    arrayobj.populate_array(
        out, data=builder.inttoptr(address, width.as_pointer()), shape=cgutils.pack_array(builder, shape),
        strides=cgutils.pack_array(builder, strides), itemsize=one, meminfo=None)
    return out._getvalue()


def _view_of(kind: Any, width: Any, dimensions: int = 2) -> Any:
    """An intrinsic: entry ``k`` of a table as a C-contiguous array, built in place."""

    @intrinsic  # type: ignore[misc]
    def view(_typing: Any, table: Any, _k: Any) -> Any:
        array = types.Array(kind, dimensions, "C")

        def code(context: Any, builder: Any, _signature: Any, args: Any) -> Any:
            base = arrayobj.make_array(table)(context, builder, args[0]).data
            first = builder.gep(base, [builder.mul(args[1], ir.Constant(WHOLE, limits.ENTRY))])
            return _array_at(context, builder, array, first, width)

        return array(table, types.int64), code

    return view


def view_at(entry: int, kind: Any, dimensions: int = 2, through: int | None = None) -> Any:
    """An intrinsic: one entry of a table as an array; ``through`` the table that another entry leads to."""
    width = DOUBLE if kind == types.float64 else WHOLE

    @intrinsic  # type: ignore[misc]
    def view(_typing: Any, table: Any) -> Any:
        array = types.Array(kind, dimensions, "C")

        def code(context: Any, builder: Any, _signature: Any, args: Any) -> Any:
            base = arrayobj.make_array(table)(context, builder, args[0]).data
            if through is not None:
                address = builder.load(builder.gep(base, [ir.Constant(WHOLE, limits.ENTRY * through)]))
                base = builder.inttoptr(address, WHOLE.as_pointer())
            return _array_at(context, builder, array, builder.gep(base, [ir.Constant(WHOLE, limits.ENTRY * entry)]), width)

        return array(table), code

    return view


reals = _view_of(types.float64, DOUBLE)
wholes = _view_of(types.int64, WHOLE)
states = _view_of(types.float64, DOUBLE, 3)


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
