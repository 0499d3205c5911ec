"""Contact manifold of two convex polytopes, or a round shape and a polytope: separation and contact points.

A face contact is clipped (``clipping``), an edge contact is one point, and an overlapping pair always yields at least one.
Capsules and cylinders against polytopes are round (``capsule_polytope``, ``cylinder_polytope``); with a cylinder as the polytope,
it is a prism.

A manifold row: gap, normal (b to a), point on b's side in world axes, feature number, 1 if there are more than are told, and how it
moves with both bodies.
"""

from yapa.engine.kernels.geometry.capsule_polytope import capsule_rows
from yapa.engine.kernels.geometry.clipping import clip, put_point
from yapa.engine.kernels.geometry.cylinder_polytope import cylinder_rows
from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.separating_axis import (
    A_CORNER,
    AN_EDGE,
    EDGES,
    FACE_OF_A,
    FACE_OF_B,
    W_A,
    W_B,
    edge_point,
    sat,
)
from yapa.engine.kernels.geometry.shape_traits import has_flat_ends, is_round_shape
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
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
    ahead,
    carried,
    cross,
    dot,
    minus,
    vector,
)

PREFER = 2e-4
"""Share of the thinnest half that an axis must win by."""
NEAREST = -1
"""In place of a number of points: only the nearest."""


@kernel
def _is_cylinder_on_polytope(sa, sb, GI):
    return has_flat_ends(GI[sa, shape_int.KIND]) and not has_flat_ends(GI[sb, shape_int.KIND])


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL, WHOLE)
def manifold_of(p, X, geo, Q, W, M, margin, most):
    """Rows of the contact manifold of a pair without features, ``most`` of a face or ``BY_DEPTH``: count, and least gap.

    With ``NEAREST`` it is the one point that :func:`apart` tells of."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    if is_round_shape(GI[sa, shape_int.KIND]):
        return capsule_rows(p, X, geo, Q, M, margin, 1 if most == NEAREST else 0)
    if _is_cylinder_on_polytope(sa, sb, GI):
        return cylinder_rows(p, X, geo, Q, M, margin, 1 if most == NEAREST else 0)
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
    if is_round_shape(GI[sa, shape_int.KIND]) or _is_cylinder_on_polytope(sa, sb, GI):
        if is_round_shape(GI[sa, shape_int.KIND]):
            _, gap = capsule_rows(p, X, geo, Q, M, 0.0, 1)
        else:
            _, gap = cylinder_rows(p, X, geo, Q, M, 0.0, 1)
        n, point = vector(M, 0, manifold.NORMAL), vector(M, 0, manifold.POINT)
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
