"""The centre of a sphere in the frame of a solid's body, and the contact frame of both."""

from yapa.engine.kernels.geometry.placing import between, turned, turned_back
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import ahead, plus, quaternion, rotate, vector


@part
def _centre(p, X, geo, Q):
    """The sphere's centre from its body's centre of mass, in world axes."""
    return turned(Q[p, pair.BODY_A], X, vector(reals(geo, scene_table.SHAPES), Q[p, pair.SHAPE_A], shape.A))


@part
def centre_in_solid(p, X, geo, Q):
    """The sphere's centre in the frame of b's body."""
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    return turned_back(b, X, plus(between(a, b, X), _centre(p, X, geo, Q)))


@part
def frame_on_solid(p, d, outward, X, geo, Q):
    """The contact frame of a sphere whose centre is ``d`` from a solid, along ``outward`` in the frame of b's body."""
    GF = reals(geo, scene_table.SHAPES)
    sa, a, b = Q[p, pair.SHAPE_A], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear, r = GF[sa, shape.CLEAR] + GF[Q[p, pair.SHAPE_B], shape.CLEAR], GF[sa, shape.RADIUS]
    centre = _centre(p, X, geo, Q)
    n = rotate(quaternion(X, b, state.ORIENTATION), outward)
    return d - r - clear, n, ahead(centre, -r, n), ahead(plus(between(a, b, X), centre), -d, n)
