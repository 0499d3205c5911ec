"""Narrow phase: how far a pair is apart, how fast that changes, and which side of a sheet acts.

Where the shapes of a pair are nearest, and the contact frame there, each pair of kinds says for itself (``geometry.pairs``),
feature by feature; the normal points from ``b`` to ``a``. Pairs without features are left to ``manifold``.

A two-sided plane acts on the side a shape's centre is on; a one-sided plane lets pass what is behind it.
"""

from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import against_plane
from yapa.engine.kernels.geometry.placing import acting_plane, turned
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    body,
    pair,
    plane_side,
    plane_sides,
    scene_table,
    shape,
    shape_int,
    state,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import add, carried, dot, minus, negative, plus, times, vector


@kernel
def watch_side(p, X, geo, Q):
    """Settle which side of a sheet acts in a pair: where the shape's centre is, and for one side only once it is clear of it."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb, a = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A]
    sides = GI[sb, shape_int.SIDES]
    if not against_plane(Q[p, pair.KIND]) or sides == plane_sides.SOLID_BELOW:
        return
    before = Q[p, pair.SIDE]
    if before == plane_side.UPPER or (before == plane_side.LOWER and sides == plane_sides.TWO_SIDED):
        return
    Q[p, pair.SIDE] = plane_side.UPPER
    n, level, _ = acting_plane(p, X, geo, Q)
    above = dot(n, plus(vector(X, a, state.POSITION), turned(a, X, vector(GF, sa, shape.CENTRE)))) - level
    if before == plane_side.SOLID:  # at the start
        if above < 0.0:
            Q[p, pair.SIDE] = plane_side.NONE if sides == plane_sides.ONE_SIDED else plane_side.LOWER
    elif above < GF[sa, shape.BOUND]:
        Q[p, pair.SIDE] = plane_side.NONE


@kernel
def point_velocity(a, b, arm_a, arm_b, X):
    """Velocity of a's point relative to b's."""
    v = minus(vector(X, a, state.VELOCITY), vector(X, b, state.VELOCITY))
    return carried(carried(v, vector(X, a, state.OMEGA), arm_a), negative(vector(X, b, state.OMEGA)), arm_b)


@kernel
def gap_and_rate(p, f, X, geo, Q):
    """Distance of a feature and how fast it grows."""
    gap, n, arm_a, arm_b = frame(p, f, X, geo, Q)
    return gap, dot(n, point_velocity(Q[p, pair.BODY_A], Q[p, pair.BODY_B], arm_a, arm_b, X))


@kernel
def far_apart(p, travel, X, geo, Q):
    """Whether the bounding spheres of a pair stay apart for longer than a relative travel."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    middle = plus(vector(X, a, state.POSITION), turned(a, X, vector(GF, sa, shape.CENTRE)))
    room = GF[sa, shape.BOUND] + GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR] + travel
    if against_plane(Q[p, pair.KIND]):
        n, through = turned(b, X, vector(GF, sb, shape.B)), turned(b, X, vector(GF, sb, shape.A))
        d = dot(n, minus(minus(middle, vector(X, b, state.POSITION)), through))
        return (abs(d) if wholes(geo, scene_table.SHAPES_INT)[sb, shape_int.SIDES] != 0 else d) > room
    d = minus(minus(middle, vector(X, b, state.POSITION)), turned(b, X, vector(GF, sb, shape.CENTRE)))
    room += GF[sb, shape.BOUND]
    return dot(d, d) > room * room


@kernel
def _may_move_along(n, lock):
    """Whether no locked axis of translation has a part of a direction."""
    x, y, z = n
    return not ((lock & 1 != 0 and x != 0.0) or (lock & 2 != 0 and y != 0.0) or (lock & 4 != 0 and z != 0.0))


@kernel
def shift(a, b, gap, n, S, P):
    """Move two bodies along a normal until their gap is closed, by their mobility; what is locked stays."""
    ma, mb = 0.0, 0.0
    if P[a, body.MOTION] == 1.0:
        ma = P[a, body.INV_MASS]
    if P[b, body.MOTION] == 1.0:
        mb = P[b, body.INV_MASS]
    if ma + mb == 0.0:
        return
    share = ma / (ma + mb)
    for side in range(2):
        q = a if side == 0 else b
        d = -share * gap if side == 0 else (1.0 - share) * gap
        if P[q, body.MOTION] != 1.0 or not _may_move_along(n, int(P[q, body.LOCK])):
            continue
        add(S, q, state.POSITION, times(d, n))
