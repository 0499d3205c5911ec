"""Where the shapes of a body are in the world: vectors of a body turned, and the plane of a pair on the side that acts."""

from yapa.engine.kernels.dynamics.flight import rotate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import pair, plane_side, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals

FAR = 1e9
"""m: the gap of what does not act"""


@kernel
def upright(b, X):
    """Whether a body stands in its own axes. Its w alone does not tell: that is 1 up to 2e-8 rad, which is nanometres."""
    return X[b, state.QX] == 0.0 and X[b, state.QY] == 0.0 and X[b, state.QZ] == 0.0


@kernel
def turned(b, X, lx, ly, lz):
    """A vector of body ``b`` in world axes."""
    if upright(b, X):
        return lx, ly, lz
    return rotate(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], lx, ly, lz)


@kernel
def acting_plane(p, X, geo, Q):
    """World normal of the plane of a pair, on the side that acts; its height along it; 0 if it does not act."""
    GF = reals(geo, scene_table.SHAPES)
    sb, b = Q[p, pair.SHAPE_B], Q[p, pair.BODY_B]
    nx, ny, nz = turned(b, X, GF[sb, shape.B], GF[sb, shape.B + 1], GF[sb, shape.B + 2])
    px, py, pz = turned(b, X, GF[sb, shape.A], GF[sb, shape.A + 1], GF[sb, shape.A + 2])
    level = nx * (X[b, state.X] + px) + ny * (X[b, state.Y] + py) + nz * (X[b, state.Z] + pz)
    side = Q[p, pair.SIDE]
    if side == plane_side.LOWER:
        return -nx, -ny, -nz, -level, 1
    return nx, ny, nz, level, 0 if side == plane_side.NONE else 1
