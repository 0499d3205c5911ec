"""A cylinder, as the prism that stands for it, with another or with a capsule: they touch in a contact manifold."""

from yapa.engine.kernels.geometry.placing import FAR
from yapa.engine.kernels.geometry.shape_traits import has_flat_ends
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, shape_int
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import UP, ZERO


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    return FAR, UP, ZERO, ZERO


@part
def rolling_radius(p, f, geo, Q):
    """That of a, which is 0 where it is flat; of a cylinder, every fourth point of the manifold has it."""
    sa = Q[p, pair.SHAPE_A]
    if has_flat_ends(wholes(geo, scene_table.SHAPES_INT)[sa, shape_int.KIND]) and (f & 3) != 0:
        return 0.0
    return reals(geo, scene_table.SHAPES)[sa, shape.RADIUS]
