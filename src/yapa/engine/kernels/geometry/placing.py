"""Where the shapes of a body are in the world: vectors of a body turned, and the plane of a pair on the side that acts."""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import pair, plane_side, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals
from yapa.engine.kernels.math.vectors import dot, minus, negative, plus, quaternion, rotate, rotate_back, vector

FAR = 1e9
"""m: the gap of what does not act"""


@kernel
def upright(b, X):
    """Whether a body stands in its own axes. Its w alone does not tell: that is 1 up to 2e-8 rad, which is nanometres."""
    return X[b, state.QX] == 0.0 and X[b, state.QY] == 0.0 and X[b, state.QZ] == 0.0


@kernel
def turned(b, X, own):
    """A vector of body ``b`` in world axes."""
    if upright(b, X):
        return own
    return rotate(quaternion(X, b, state.ORIENTATION), own)


@kernel
def turned_back(b, X, world):
    """A vector of the world in the axes of body ``b``."""
    return rotate_back(quaternion(X, b, state.ORIENTATION), world)


@kernel
def between(a, b, X):
    """The vector from b's centre of mass to a's."""
    return minus(vector(X, a, state.POSITION), vector(X, b, state.POSITION))


@kernel
def acting_plane(p, X, geo, Q):
    """World normal of the plane of a pair, on the side that acts; its height along it; 0 if it does not act."""
    GF = reals(geo, scene_table.SHAPES)
    sb, b = Q[p, pair.SHAPE_B], Q[p, pair.BODY_B]
    n, through = turned(b, X, vector(GF, sb, shape.B)), turned(b, X, vector(GF, sb, shape.A))
    level = dot(n, plus(vector(X, b, state.POSITION), through))
    side = Q[p, pair.SIDE]
    if side == plane_side.LOWER:
        return negative(n), -level, 1
    return n, level, 0 if side == plane_side.NONE else 1
