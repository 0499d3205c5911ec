"""Rows of the manifold of a round shape and a polytope, in the axes of b, and how the points are numbered."""

from yapa.engine.kernels.geometry.placing import between, turned, turned_back
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    manifold,
    pair,
    scene_table,
    shape,
    state,
)
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import (
    plus,
    put,
    vector,
)

ON_STATION, UNDER, ACROSS_SIDE, ACROSS_RIM = 10000.0, 100000.0, 200000.0, 300000.0
"""Numbers of points begin here, in fours: every fourth number rolls (``pairs.round_polytope``)."""


@kernel
def core_in_b(p, X, geo, Q):
    """Both ends of a's axis in the axes of b, its radius, and the margins of both."""
    GF, sa, sb = reals(geo, scene_table.SHAPES), Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    apart = between(a, b, X)
    low = turned_back(b, X, plus(apart, turned(a, X, vector(GF, sa, shape.A))))
    high = turned_back(b, X, plus(apart, turned(a, X, vector(GF, sa, shape.B))))
    return low, high, GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]


@kernel
def put_row(M, m, gap, n, on_b, feature, keeps, own_a, own_b):
    """Write a point in the axes of b; ``own_a``: the numbers of its kind."""
    M[m, manifold.GAP] = gap
    put(M, m, manifold.NORMAL, n)
    put(M, m, manifold.POINT, on_b)
    M[m, manifold.FEATURE], M[m, manifold.SOME], M[m, manifold.KEEPS] = feature, 0.0, keeps
    put(M, m, manifold.OWN_A, own_a)
    put(M, m, manifold.OWN_B, own_b)
    put(M, m, manifold.OWN_N, n)


@kernel
def into_world(m, b, X, M):
    """Turn the rows from the axes of b into the world."""
    for k in range(m):
        put(M, k, manifold.NORMAL, turned(b, X, vector(M, k, manifold.NORMAL)))
        put(M, k, manifold.POINT, plus(vector(X, b, state.POSITION), turned(b, X, vector(M, k, manifold.POINT))))
