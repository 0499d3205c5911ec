"""Four numbers at once: the inner loops of elimination and of products with a matrix.

The rows of one matrix may overlap as far as a compiler knows, sums may not be reordered, and rows of a dozen entries are too
short for the checks that it would make; here the four lanes are spelled out. A product of 24 rows takes a third of the time.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic
from numba.np import arrayobj

WHOLE, FOUR = ir.IntType(64), ir.VectorType(ir.DoubleType(), 4)


def _lanes(context: Any, builder: Any, kind: Any, array: Any) -> Any:
    """How to point at the four entries of a C-contiguous array of float64 from a row and column on."""
    laid = arrayobj.make_array(kind)(context, builder, array)
    base, step = builder.ptrtoint(laid.data, WHOLE), builder.extract_value(laid.strides, 0)

    def at(row: Any, column: Any) -> Any:
        inside = builder.add(builder.mul(row, step), builder.mul(column, ir.Constant(WHOLE, 8)))
        return builder.inttoptr(builder.add(base, inside), FOUR.as_pointer())

    return at


def _spread(builder: Any, value: Any) -> Any:
    """A number in all four lanes."""
    lanes = ir.Constant(FOUR, ir.Undefined)
    for lane in range(4):
        lanes = builder.insert_element(lanes, value, ir.Constant(ir.IntType(32), lane))
    return lanes


@intrinsic  # type: ignore[misc]
def less_four(_typing: Any, A: Any, i: Any, j: Any, f: Any, w: Any, x: Any, y: Any, z: Any) -> Any:
    """A[i, j : j + 4] -= f (w, x, y, z), for a C-contiguous array of float64."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        mine = _lanes(context, builder, signature.args[0], args[0])(args[1], args[2])
        other: Any = ir.Constant(FOUR, ir.Undefined)
        for lane in range(4):
            other = builder.insert_element(other, args[4 + lane], ir.Constant(ir.IntType(32), lane))
        builder.store(builder.fsub(builder.load(mine, align=8), builder.fmul(_spread(builder, args[3]), other)), mine, align=8)
        return context.get_dummy_value()

    return types.void(A, types.int64, types.int64, *5 * (types.float64,)), code


@intrinsic  # type: ignore[misc]
def less_four_rows(_typing: Any, A: Any, i: Any, k: Any, first: Any, end: Any, e: Any, f: Any, g: Any, h: Any) -> Any:
    """A[i] -= e A[k] + f A[k + 1] + g A[k + 2] + h A[k + 3] in columns ``first`` to ``end``, a multiple of four."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        at = _lanes(context, builder, signature.args[0], args[0])
        shares = [_spread(builder, f) for f in args[5:]]
        with cgutils.for_range_slice(builder, args[3], args[4], ir.Constant(WHOLE, 4)) as (j, _):
            mine = at(args[1], j)
            left = builder.load(mine, align=8)
            for m, share in enumerate(shares):
                other = builder.load(at(builder.add(args[2], ir.Constant(WHOLE, m)), j), align=8)
                left = builder.fsub(left, builder.fmul(share, other))
            builder.store(left, mine, align=8)
        return context.get_dummy_value()

    return types.void(A, *4 * (types.int64,), *4 * (types.float64,)), code


@intrinsic  # type: ignore[misc]
def dot_fours(_typing: Any, A: Any, i: Any, x: Any, first: Any, end: Any) -> Any:
    """The sum of A[i, c] x[c] over c from ``first`` to ``end``, a multiple of four of them, in four sums."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        a = _lanes(context, builder, signature.args[0], args[0])
        b = builder.ptrtoint(arrayobj.make_array(signature.args[2])(context, builder, args[2]).data, WHOLE)
        sums = cgutils.alloca_once_value(builder, ir.Constant(FOUR, [0.0] * 4))
        with cgutils.for_range_slice(builder, args[3], args[4], ir.Constant(WHOLE, 4)) as (c, _):
            at = builder.inttoptr(builder.add(b, builder.mul(c, ir.Constant(WHOLE, 8))), FOUR.as_pointer())
            term = builder.fmul(builder.load(a(args[1], c), align=8), builder.load(at, align=8))
            builder.store(builder.fadd(builder.load(sums), term), sums)
        w, x, y, z = (builder.extract_element(builder.load(sums), ir.Constant(ir.IntType(32), lane)) for lane in range(4))
        return builder.fadd(builder.fadd(w, x), builder.fadd(y, z))

    return types.float64(A, types.int64, x, types.int64, types.int64), code
