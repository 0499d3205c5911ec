"""Spheres and capsules: two segments (points, of spheres) with a radius each."""

from yapa.engine.kernels.geometry.nearest_points import segments
from yapa.engine.kernels.geometry.placing import between, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import UP, ahead, length, minus, over, plus, vector


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    apart = between(a, b, X)
    low_a, top_a = turned(a, X, vector(GF, sa, shape.A)), turned(a, X, vector(GF, sa, shape.B))
    low_b, top_b = turned(b, X, vector(GF, sb, shape.A)), turned(b, X, vector(GF, sb, shape.B))
    s, t = segments(plus(apart, low_a), plus(apart, top_a), low_b, top_b)
    at_a, at_b = ahead(low_a, s, minus(top_a, low_a)), ahead(low_b, t, minus(top_b, low_b))
    n = minus(plus(apart, at_a), at_b)
    d = length(n)
    n = over(n, d) if d > 1e-12 else UP
    ra, rb = GF[sa, shape.RADIUS], GF[sb, shape.RADIUS]
    return d - ra - rb - clear, n, ahead(at_a, -ra, n), ahead(at_b, rb, n)


@part
def rolling_radius(p, f, geo, Q):
    """That of both together."""
    GF = reals(geo, scene_table.SHAPES)
    r, other = GF[Q[p, pair.SHAPE_A], shape.RADIUS], GF[Q[p, pair.SHAPE_B], shape.RADIUS]
    return r * other / (r + other)
