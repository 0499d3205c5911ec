"""The vertices of a box or a polytope over a plane."""

from yapa.engine.kernels.geometry.pairs.of_plane import frame_over_plane
from yapa.engine.kernels.geometry.placing import FAR, acting_plane, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape_int, vertex
from yapa.engine.kernels.layout.views import reals, wholes


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    nx, ny, nz, level, acts = acting_plane(p, X, geo, Q)
    if acts == 0:
        return FAR, nx, ny, nz, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    VT, a = reals(geo, scene_table.VERTICES), Q[p, pair.BODY_A]
    v = wholes(geo, scene_table.SHAPES_INT)[Q[p, pair.SHAPE_A], shape_int.V0] + f
    corner = turned(a, X, VT[v, vertex.X], VT[v, vertex.Y], VT[v, vertex.Z])
    return frame_over_plane(p, (nx, ny, nz, level), corner, 0.0, X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """None: both are flat."""
    return 0.0
