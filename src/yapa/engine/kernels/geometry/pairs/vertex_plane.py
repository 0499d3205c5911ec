"""The vertices of a box or a polytope over a plane."""

from yapa.engine.kernels.geometry.pairs.of_plane import frame_over_plane
from yapa.engine.kernels.geometry.placing import FAR, acting_plane, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape_int, vertex
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import ZERO, vector


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    n, level, acts = acting_plane(p, X, geo, Q)
    if acts == 0:
        return FAR, n, ZERO, ZERO
    VT, a = reals(geo, scene_table.VERTICES), Q[p, pair.BODY_A]
    v = wholes(geo, scene_table.SHAPES_INT)[Q[p, pair.SHAPE_A], shape_int.V0] + f
    return frame_over_plane(p, n, level, turned(a, X, vector(VT, v, vertex.POSITION)), 0.0, X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """None: both are flat."""
    return 0.0
