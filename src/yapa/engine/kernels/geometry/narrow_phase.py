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
    nx, ny, nz, level, _ = acting_plane(p, X, geo, Q)
    cx, cy, cz = turned(a, X, GF[sa, shape.CENTRE], GF[sa, shape.CENTRE + 1], GF[sa, shape.CENTRE + 2])
    above = nx * (X[a, state.X] + cx) + ny * (X[a, state.Y] + cy) + nz * (X[a, state.Z] + cz) - level
    if before == plane_side.SOLID:  # at the start
        if above < 0.0:
            Q[p, pair.SIDE] = plane_side.NONE if sides == plane_sides.ONE_SIDED else plane_side.LOWER
    elif above < GF[sa, shape.BOUND]:
        Q[p, pair.SIDE] = plane_side.NONE


@kernel
def closing(a, b, X, nx, ny, nz, ax, ay, az, bx, by, bz):
    """Rate of the gap: normal velocity of a's point relative to b's."""
    ux = X[a, state.VX] - X[b, state.VX] + X[a, state.WY] * az - X[a, state.WZ] * ay - X[b, state.WY] * bz + X[b, state.WZ] * by
    uy = X[a, state.VY] - X[b, state.VY] + X[a, state.WZ] * ax - X[a, state.WX] * az - X[b, state.WZ] * bx + X[b, state.WX] * bz
    uz = X[a, state.VZ] - X[b, state.VZ] + X[a, state.WX] * ay - X[a, state.WY] * ax - X[b, state.WX] * by + X[b, state.WY] * bx
    return nx * ux + ny * uy + nz * uz


@kernel
def gap_and_rate(p, f, X, geo, Q):
    """Distance of a feature and how fast it grows."""
    gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, geo, Q)
    return gap, closing(Q[p, pair.BODY_A], Q[p, pair.BODY_B], X, nx, ny, nz, ax, ay, az, bx, by, bz)


@kernel
def far_apart(p, travel, X, geo, Q):
    """Whether the bounding spheres of a pair stay apart for longer than a relative travel."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    ax, ay, az = turned(a, X, GF[sa, shape.CENTRE], GF[sa, shape.CENTRE + 1], GF[sa, shape.CENTRE + 2])
    ax, ay, az = X[a, state.X] + ax, X[a, state.Y] + ay, X[a, state.Z] + az
    room = GF[sa, shape.BOUND] + GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR] + travel
    if against_plane(Q[p, pair.KIND]):
        nx, ny, nz = turned(b, X, GF[sb, shape.B], GF[sb, shape.B + 1], GF[sb, shape.B + 2])
        px, py, pz = turned(b, X, GF[sb, shape.A], GF[sb, shape.A + 1], GF[sb, shape.A + 2])
        d = nx * (ax - X[b, state.X] - px) + ny * (ay - X[b, state.Y] - py) + nz * (az - X[b, state.Z] - pz)
        return (abs(d) if wholes(geo, scene_table.SHAPES_INT)[sb, shape_int.SIDES] != 0 else d) > room
    bx, by, bz = turned(b, X, GF[sb, shape.CENTRE], GF[sb, shape.CENTRE + 1], GF[sb, shape.CENTRE + 2])
    dx, dy, dz = ax - X[b, state.X] - bx, ay - X[b, state.Y] - by, az - X[b, state.Z] - bz
    room += GF[sb, shape.BOUND]
    return dx * dx + dy * dy + dz * dz > room * room


@kernel
def shift(a, b, gap, nx, ny, nz, S, P):
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
        if P[q, body.MOTION] != 1.0 or P[q, body.LOCK] != 0.0:
            continue
        S[q, state.X] += d * nx
        S[q, state.Y] += d * ny
        S[q, state.Z] += d * nz
