"""A sphere, or either end of a capsule, over a plane."""

from yapa.engine.kernels.geometry.pairs.of_plane import frame_over_plane
from yapa.engine.kernels.geometry.placing import FAR, acting_plane, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import ZERO, vector


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    n, level, acts = acting_plane(p, X, geo, Q)
    if acts == 0:
        return FAR, n, ZERO, ZERO
    GF = reals(geo, scene_table.SHAPES)
    sa, a = Q[p, pair.SHAPE_A], Q[p, pair.BODY_A]
    end = turned(a, X, vector(GF, sa, shape.A if f == 0 else shape.B))
    return frame_over_plane(p, n, level, end, GF[sa, shape.RADIUS], X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the round shape: the other is flat."""
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
