"""Four numbers at once: the inner loops of elimination, of products with a matrix, and of samples.

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

from yapa.engine.kernels.layout import dense

WHOLE, ONE, FOUR = ir.IntType(64), ir.DoubleType(), ir.VectorType(ir.DoubleType(), 4)


def _lanes(context: Any, builder: Any, kind: Any, array: Any) -> Any:
    """How to point at the four entries of a C-contiguous array of float64 from a row and column on."""
    laid = arrayobj.make_array(kind)(context, builder, array)
    base, step = builder.ptrtoint(laid.data, WHOLE), builder.extract_value(laid.strides, 0)

    def at(row: Any, column: Any) -> Any:
        inside = builder.add(builder.mul(row, step), builder.mul(column, ir.Constant(WHOLE, 8)))
        return builder.inttoptr(builder.add(base, inside), FOUR.as_pointer())

    return at


def _four(builder: Any, *values: Any) -> Any:
    """Four numbers in lanes."""
    lanes: Any = ir.Constant(FOUR, ir.Undefined)
    for lane, value in enumerate(values):
        lanes = builder.insert_element(lanes, value, ir.Constant(ir.IntType(32), lane))
    return lanes


def _spread(builder: Any, value: Any) -> Any:
    """A number in all four lanes."""
    return _four(builder, value, value, value, value)


@intrinsic  # type: ignore[misc]
def less_four(_typing: Any, A: Any, i: Any, j: Any, f: Any, w: Any, x: Any, y: Any, z: Any) -> Any:
    """A[i, j : j + 4] -= f (w, x, y, z), for a C-contiguous array of float64."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        mine = _lanes(context, builder, signature.args[0], args[0])(args[1], args[2])
        other = _four(builder, *args[4:])
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


@intrinsic  # type: ignore[misc]
def sample_fours(_typing: Any, D: Any, S: Any, b: Any, inverse: Any, t: Any, end: Any, first: Any, times: Any, out: Any) -> Any:
    """Write place, velocity, spin and turn of undamped ball ``b`` into ``out[k, b]`` for all ``times[k] <= end`` from ``first`` on.

    Three lanes are the axes x, y, z. The fourth of a place falls on the orientation, which nobody asks for; that of a velocity and
    of a spin on what is written after it; and the lane before a turn on the spin about z, which it works out once more.
    Returns where it stopped.
    """

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        _, _, b, inverse, t, end, first, _, _ = args
        plane, state = (_lanes(context, builder, signature.args[n], args[n]) for n in (0, 1))
        clock, rows = (arrayobj.make_array(signature.args[n])(context, builder, args[n]) for n in (7, 8))
        number = lambda x: ir.Constant(ONE, float(x))  # noqa: E731
        whole = lambda n: ir.Constant(WHOLE, n)  # noqa: E731
        read = lambda at, column: builder.load(builder.bitcast(at(b, whole(column)), ONE.as_pointer()))  # noqa: E731
        plus, by = builder.fadd, builder.fmul
        no = number(0.0)
        c = [_four(builder, *(read(plane, dense.QUINTIC + 6 * axis + power) for axis in range(3)), no) for power in range(6)]
        rates = [c[1], *(by(_spread(builder, number(n)), c[n]) for n in (2, 3, 4))]
        spins, turns = ([read(state, column + axis) for axis in range(3)] for column in (10, 13))
        faster = [by(read(plane, dense.TORQUE + axis), inverse) for axis in range(3)]
        spin, gain = _four(builder, *spins, no), _four(builder, *faster, no)
        turn, turned = _four(builder, spins[2], *turns), _four(builder, faster[2], *spins)
        bend = _four(builder, no, *faster)
        before = builder.block
        head, look, body, after = (builder.append_basic_block(name) for name in ("head", "look", "body", "after"))
        builder.branch(head)
        builder.position_at_end(head)
        k = builder.phi(WHOLE)
        k.add_incoming(first, before)
        builder.cbranch(builder.icmp_signed("<", k, builder.extract_value(clock.shape, 0)), look, after)
        builder.position_at_end(look)
        at = builder.load(builder.gep(clock.data, [k]))
        builder.cbranch(builder.fcmp_ordered("<=", at, end), body, after)
        builder.position_at_end(body)
        past = builder.fsub(at, t)
        s, s5 = _spread(builder, past), _spread(builder, by(past, number(5.0)))
        half = _spread(builder, by(by(number(0.5), past), past))
        place = plus(c[4], by(s, c[5]))
        for power in (3, 2, 1, 0):
            place = plus(c[power], by(s, place))
        rate = plus(rates[3], by(s5, c[5]))
        for power in (2, 1, 0):
            rate = plus(rates[power], by(s, rate))
        row = builder.add(builder.add(builder.ptrtoint(rows.data, WHOLE), builder.mul(k, builder.extract_value(rows.strides, 0))),
                          builder.mul(b, builder.extract_value(rows.strides, 1)))
        for column, value in ((0, place), (7, rate), (10, plus(spin, by(gain, s))),
                              (12, plus(plus(turn, by(turned, s)), by(bend, half)))):
            builder.store(value, builder.inttoptr(builder.add(row, whole(8 * column)), FOUR.as_pointer()), align=8)
        k.add_incoming(builder.add(k, whole(1)), builder.block)
        builder.branch(head)
        builder.position_at_end(after)
        return k

    return types.int64(D, S, types.int64, types.float64, types.float64, types.float64, types.int64, times, out), code
