"""The separating axis of two convex polytopes (Gottschalk, Lin, Manocha 1996).

Separation is that along the best of all face normals and all cross products of edge directions: positive exactly when the
shapes are apart, and continuous in their poses. An axis of edges, or of the other body's faces, may be asked to win by a share
of the thinnest half, so that the choice does not flicker.
"""

from yapa.engine.kernels.geometry.placing import between
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    direction,
    face_plane,
    limits,
    loop,
    pair,
    polygon,
    scene_table,
    shape,
    shape_int,
    state,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    UP,
    VECTOR,
    ahead,
    cross,
    dot,
    length,
    minus,
    negative,
    over,
    plus,
    put,
    quaternion,
    rotate,
    vector,
)

W_A, W_B, W_CLIP, W_NEXT = 0, limits.CORNERS, 2 * limits.CORNERS, 3 * limits.CORNERS
"""Rows of the scratch array: vertices of a, of b, and two polygons."""
FACE_OF_A, FACE_OF_B, EDGES = 0, 1, 2
"""What gives an axis of separation."""
A_FACE, B_FACE, A_CORNER, AN_EDGE = 1e6, 5e8, 8e8, 9e8
"""Numbers of the points of a manifold begin here: of a's faces (so much each), of b's, a corner, two edges."""


@kernel
def place_vertices(s, b, X, geo, W, row):
    GI, VT = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    v0 = GI[s, shape_int.V0]
    for k in range(GI[s, shape_int.NV]):
        own = vector(VT, v0 + k, vertex.POSITION)
        put(W, row + k, polygon.POSITION, plus(vector(X, b, state.POSITION), rotate(quaternion(X, b, state.ORIENTATION), own)))


@kernel
def _lowest(W, row, count, n):
    """The least height along ``n`` of so many corners, and which of them has it."""
    best, at = 1e300, 0
    for k in range(count):
        d = dot(vector(W, row + k, polygon.POSITION), n)
        if d < best:
            best, at = d, k
    return best, at


@part
def _best_face(p, side, X, geo, Q, W):
    """Of the faces of one shape that which the other is furthest out of: how far, which, the other's lowest vertex, its normal."""
    GI, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES)
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    s, other = (Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]) if side == 0 else (Q[p, pair.SHAPE_B], Q[p, pair.SHAPE_A])
    own, theirs = (W_A, W_B) if side == 0 else (W_B, W_A)
    turn = quaternion(X, Q[p, pair.BODY_A] if side == 0 else Q[p, pair.BODY_B], state.ORIENTATION)
    best, at, low, out = -1e300, 0, 0, UP
    for f in range(GI[s, shape_int.F0], GI[s, shape_int.F0] + GI[s, shape_int.NF]):
        n = rotate(turn, vector(FC, f, face_plane.NORMAL))
        level = dot(vector(W, own + LP[0, FI[f, loop.START]], polygon.POSITION), n)
        d, k = _lowest(W, theirs, GI[other, shape_int.NV], n)
        if d - level > best:
            best, at, low, out = d - level, f, k, n
    return best, at, low, out


@part
def _best_edges(p, X, geo, Q, W):
    """Of all pairs of edges the one across which the shapes are furthest apart: how far, the normal, the supporting vertices."""
    GI, DR = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.DIRECTIONS)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    best, out, ia, ib = -1e300, UP, 0, 0
    for i in range(GI[sa, shape_int.ND]):
        along_a = rotate(quaternion(X, a, state.ORIENTATION), vector(DR, GI[sa, shape_int.D0] + i, direction.ALONG))
        for j in range(GI[sb, shape_int.ND]):
            along_b = rotate(quaternion(X, b, state.ORIENTATION), vector(DR, GI[sb, shape_int.D0] + j, direction.ALONG))
            n = cross(along_a, along_b)
            size = length(n)
            if size < 1e-3:
                continue
            n = over(n, size)
            if dot(n, between(a, b, X)) < 0.0:
                n = negative(n)
            low, ka = _lowest(W, W_A, GI[sa, shape_int.NV], n)
            high, kb = _lowest(W, W_B, GI[sb, shape_int.NV], negative(n))
            if low + high > best:
                best, out, ia, ib = low + high, n, ka, kb
                put(W, W.shape[0] - 2, polygon.POSITION, along_a)
                put(W, W.shape[0] - 1, polygon.POSITION, along_b)
    return best, out, ia, ib


@far((REAL, VECTOR, WHOLE, WHOLE, WHOLE), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL)
def sat(p, X, geo, Q, W, share):
    """Best separating axis: separation, normal from b to a, what gives it, two indices.

    ``share`` of the thinnest half is what an axis must win by (0: the greatest separation, whatever gives it).
    For edges the indices are the supporting vertices; the directions are kept in the last scratch rows.
    """
    GF = reals(geo, scene_table.SHAPES)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    place_vertices(sa, Q[p, pair.BODY_A], X, geo, W, W_A)
    place_vertices(sb, Q[p, pair.BODY_B], X, geo, W, W_B)
    prefer = share * min(GF[sa, shape.THIN], GF[sb, shape.THIN])
    face, index, other, n = _best_face(p, 0, X, geo, Q, W)
    kind, n = FACE_OF_A, negative(n)
    best, at, low, out = _best_face(p, 1, X, geo, Q, W)
    if best > face + prefer:
        face, kind, index, other, n = best, FACE_OF_B, at, low, out
    if face > 0.05 * (GF[sa, shape.THIN] + GF[sb, shape.THIN]) + prefer:
        return face, n, kind, index, other  # clearly apart: edges could only say more
    edge, out, ia, ib = _best_edges(p, X, geo, Q, W)
    if edge > face + prefer:
        return edge, out, EDGES, ia, ib
    return face, n, kind, index, other


@kernel
def edge_point(W, ia, ib):
    """Nearest points of the lines through two supporting vertices along the kept directions: that on b."""
    e, g = vector(W, W.shape[0] - 2, polygon.POSITION), vector(W, W.shape[0] - 1, polygon.POSITION)
    on_b = vector(W, W_B + ib, polygon.POSITION)
    r = minus(vector(W, W_A + ia, polygon.POSITION), on_b)
    b, c, f = dot(e, g), dot(e, r), dot(g, r)
    return ahead(on_b, (f - b * c) / max(1.0 - b * b, 1e-12), g)
