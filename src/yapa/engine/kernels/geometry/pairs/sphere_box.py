"""A sphere and a box, which has a pose of its own in its body."""

from yapa.engine.kernels.geometry.nearest_points import point_box
from yapa.engine.kernels.geometry.pairs.of_solid import centre_in_solid, frame_on_solid
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import minus, quaternion, rotate, rotate_back, vector


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    GF, sb = reals(geo, scene_table.SHAPES), Q[p, pair.SHAPE_B]
    pose = quaternion(GF, sb, shape.POSE)
    at = rotate_back(pose, minus(centre_in_solid(p, X, geo, Q), vector(GF, sb, shape.CENTRE)))
    d, outward = point_box(vector(GF, sb, shape.HALF), at)
    return frame_on_solid(p, d, rotate(pose, outward), X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the round shape: the other is flat."""
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
