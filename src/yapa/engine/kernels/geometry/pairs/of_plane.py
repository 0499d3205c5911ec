"""The contact frame of a point of a shape over a plane."""

from yapa.engine.kernels.geometry.placing import between
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import ahead, dot, plus, vector


@part
def frame_over_plane(p, n, level, point, r, X, geo, Q):
    """The frame of a ``point`` from a's centre of mass that is round by ``r``, over a plane: its normal and its height along it."""
    GF = reals(geo, scene_table.SHAPES)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear = GF[Q[p, pair.SHAPE_A], shape.CLEAR] + GF[Q[p, pair.SHAPE_B], shape.CLEAR]
    gap = dot(n, plus(vector(X, a, state.POSITION), point)) - level - r
    arm = ahead(point, -r, n)
    return gap - clear, n, arm, plus(between(a, b, X), arm)
