"""Contact manifold of two convex polytopes, or a segment with a radius and a polytope: separation and contact points.

A face contact is clipped (``clipping``), an edge contact is one point, and an overlapping pair always yields at least one.
A capsule meets a polytope at up to three points: its two ends and the nearest pair of edges.

A manifold row: gap, normal (b to a), point on b's side in world axes, feature number, and 1 if there are more than are told.
"""

from yapa.engine.kernels.geometry.clipping import clip, put_point
from yapa.engine.kernels.geometry.nearest_points import point_hull, segments
from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.placing import turned, turned_back
from yapa.engine.kernels.geometry.separating_axis import (
    A_CORNER,
    AN_EDGE,
    EDGES,
    FACE_OF_A,
    FACE_OF_B,
    W_A,
    W_B,
    edge_point,
    place_vertices,
    sat,
)
from yapa.engine.kernels.geometry.shape_traits import is_round_shape
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    loop,
    manifold,
    pair,
    polygon,
    scene_table,
    shape,
    shape_int,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    carried,
    cross,
    dot,
    length,
    minus,
    over,
    plus,
    put,
    vector,
)

PREFER = 2e-4
"""Share of the thinnest half that an axis must win by."""
NEAREST = -1
"""In place of a number of points: only the nearest."""


@part
def _ends_on_solid(p, X, geo, Q, W, M, margin):
    """A row for each end of a capsule with gap below ``margin``; the ends go to the last scratch rows. Count, and least gap."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    r, clear = GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    m, least = 0, 1e300
    for e in range(2):
        end = plus(vector(X, a, state.POSITION), turned(a, X, vector(GF, sa, shape.A if e == 0 else shape.B)))
        put(W, W.shape[0] - 2 + e, polygon.POSITION, end)
        d, outward = point_hull(sb, turned_back(b, X, minus(end, vector(X, b, state.POSITION))), geo)
        n = turned(b, X, outward)
        least = min(least, d - r - clear)
        if d - r - clear < margin:
            put_point(M, m, d - r - clear, n, ahead(end, -d, n), 1.0 + e)
            m += 1
    return m, least


@part
def _nearest_edge(p, X, geo, Q, W):
    """Where an edge of a polytope is nearest to the inside of a capsule's axis: the distance, the point there and on the axis."""
    GI, FI, LP = wholes(geo, scene_table.SHAPES_INT), wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    sb = Q[p, pair.SHAPE_B]
    low, top = vector(W, W.shape[0] - 2, polygon.POSITION), vector(W, W.shape[0] - 1, polygon.POSITION)
    place_vertices(sb, Q[p, pair.BODY_B], X, geo, W, W_B)
    near, on_edge, on_axis = 1e300, ZERO, ZERO
    for f in range(GI[sb, shape_int.F0], GI[sb, shape_int.F0] + GI[sb, shape_int.NF]):
        for k in range(FI[f, loop.COUNT_OF]):
            i, j = W_B + LP[0, FI[f, loop.START] + k], W_B + LP[0, FI[f, loop.START] + (k + 1) % FI[f, loop.COUNT_OF]]
            if i > j:
                continue  # every edge once
            corner, following = vector(W, i, polygon.POSITION), vector(W, j, polygon.POSITION)
            s, t = segments(low, top, corner, following)
            if s <= 1e-6 or s >= 1.0 - 1e-6:
                continue
            a, b = ahead(low, s, minus(top, low)), ahead(corner, t, minus(following, corner))
            d = length(minus(a, b))
            if d < near:
                near, on_edge, on_axis = d, b, a
    return near, on_edge, on_axis


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL)
def _capsule_rows(p, X, geo, Q, W, M, margin):
    """Rows of a capsule ``a`` and a polytope ``b``: every candidate with gap below ``margin``; the least gap first."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    r, clear = GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    m, least = _ends_on_solid(p, X, geo, Q, W, M, margin)
    near, on_edge, on_axis = _nearest_edge(p, X, geo, Q, W)
    if near < 1e200 and near > 1e-12 and near - r - clear < least - 1e-9:
        # outside: the edge is nearer than both ends; inside (the core cuts the edge) the ends speak
        least = near - r - clear
        if least < margin:
            put_point(M, m, least, over(minus(on_axis, on_edge), near), on_edge, 3.0)
            m += 1
    return m, least


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL, WHOLE)
def manifold_of(p, X, geo, Q, W, M, margin, most):
    """Rows of the contact manifold of a pair without features, ``most`` of a face or ``BY_DEPTH``: count, and least gap.

    With ``NEAREST`` it is the one point that :func:`apart` tells of."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    if is_round_shape(GI[sa, shape_int.KIND]):
        return _capsule_rows(p, X, geo, Q, W, M, margin)
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    gap, n, kind, i, j = sat(p, X, geo, Q, W, 0.0 if most == NEAREST else PREFER)
    if gap - clear > margin:
        return 0, gap - clear
    m = 0
    if kind == EDGES:
        put_point(M, 0, gap - clear, n, edge_point(W, i, j), AN_EDGE + 100.0 * i + j)
        return 1, gap - clear
    if most != NEAREST:
        m = clip(p, X, geo, Q, W, M, (n, kind, i), margin, most)
    if m == 0:
        back = gap if kind == FACE_OF_B else 0.0
        corner = vector(W, (W_B if kind == FACE_OF_A else W_A) + j, polygon.POSITION)
        put_point(M, 0, gap - clear, n, ahead(corner, -back, n), A_CORNER + j)
        m = 1
    return m, gap - clear


@far((REAL, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2)
def apart(p, X, geo, Q, W, M):
    """Gap of a pair without features, and its rate where it is least."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    if is_round_shape(GI[sa, shape_int.KIND]):
        m, gap = _capsule_rows(p, X, geo, Q, W, M, 1e300)
        k = 0
        for q in range(1, m):
            if M[q, manifold.GAP] < M[k, manifold.GAP]:
                k = q
        n, point = vector(M, k, manifold.NORMAL), vector(M, k, manifold.POINT)
    else:
        gap, n, kind, i, j = sat(p, X, geo, Q, W, 0.0)
        gap -= GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
        if kind == EDGES:
            point = edge_point(W, i, j)
        else:
            point = vector(W, (W_B if kind == FACE_OF_A else W_A) + j, polygon.POSITION)
    arm_a, arm_b = minus(point, vector(X, a, state.POSITION)), minus(point, vector(X, b, state.POSITION))
    v = minus(vector(X, a, state.VELOCITY), vector(X, b, state.VELOCITY))
    # as ``point_velocity``, rounded in another order: that one's would change results
    rate = dot(n, minus(carried(v, vector(X, a, state.OMEGA), arm_a), cross(vector(X, b, state.OMEGA), arm_b)))
    return gap, rate


@kernel
def gap_of_pair(p, S, scene, ws):
    """The least gap of a pair, over all its features."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    if has_manifold(Q[p, pair.KIND]):
        gap, _ = apart(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
        return gap
    low = 1.0
    for f in range(Q[p, pair.FEATURES]):
        gap, _, _, _ = frame(p, f, S, geo, Q)
        low = min(low, gap)
    return low
