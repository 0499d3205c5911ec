"""A capsule or a cylinder, which are round, and a polytope: they touch in a contact manifold, not by features."""

from yapa.engine.kernels.geometry.placing import FAR
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import UP, ZERO


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    return FAR, UP, ZERO, ZERO


@part
def rolling_radius(p, f, geo, Q):
    """That of the round shape where it rolls: the numbers of those points are fours. Others carry, but do not roll."""
    if (f & 3) != 0:
        return 0.0
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
