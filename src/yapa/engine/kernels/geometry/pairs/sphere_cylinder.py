"""A sphere and a cylinder."""

from yapa.engine.kernels.geometry.nearest_points import point_cylinder
from yapa.engine.kernels.geometry.pairs.of_solid import centre_in_solid, frame_on_solid
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    d, outward = point_cylinder(Q[p, pair.SHAPE_B], centre_in_solid(p, X, geo, Q), geo)
    return frame_on_solid(p, d, outward, X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the round shape: the other is flat."""
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
