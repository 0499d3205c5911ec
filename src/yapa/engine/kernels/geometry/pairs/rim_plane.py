"""A cylinder over a plane: on each rim the lowest point and those a quarter and a half turn from it."""

from yapa.engine.kernels.geometry.pairs.of_plane import frame_over_plane
from yapa.engine.kernels.geometry.placing import FAR, acting_plane, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import ZERO, ahead, cross, dot, length, minus, over, times, vector


@part
def _rim_point(sa, a, f, n, X, geo):
    """World vector from the centre of mass to feature ``f`` of a cylinder over a plane."""
    GF = reals(geo, scene_table.SHAPES)
    lower, upper = turned(a, X, vector(GF, sa, shape.A)), turned(a, X, vector(GF, sa, shape.B))
    axis = minus(upper, lower)
    axis = times(1.0 / length(axis), axis)
    down = minus(times(dot(n, axis), axis), n)
    size = length(down)
    if size < 1e-9:  # upright: any direction is as low as any other
        ux, uy, uz = axis
        down = (1.0 - ux * ux, -ux * uy, -ux * uz) if abs(ux) < 0.7 else (-uy * ux, 1.0 - uy * uy, -uy * uz)
        size = length(down)
    down = over(down, size)
    k = f & 3
    if k == 1 or k == 3:
        down = cross(axis, down)
    r = GF[sa, shape.RADIUS] if k < 2 else -GF[sa, shape.RADIUS]
    return ahead(lower if f < 4 else upper, r, down)


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    n, level, acts = acting_plane(p, X, geo, Q)
    if acts == 0:
        return FAR, n, ZERO, ZERO
    point = _rim_point(Q[p, pair.SHAPE_A], Q[p, pair.BODY_A], f, n, X, geo)
    return frame_over_plane(p, n, level, point, 0.0, X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the cylinder at its lowest points; the others carry, but do not roll."""
    if (f & 3) != 0:
        return 0.0
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
