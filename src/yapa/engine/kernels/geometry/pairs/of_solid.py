"""The centre of a sphere in the frame of a solid's body, and the contact frame of both."""

from yapa.engine.kernels.dynamics.flight import rotate
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals


@part
def _centre(p, X, geo, Q):
    """The sphere's centre from its body's centre of mass, and the vector between both bodies, in world axes."""
    GF = reals(geo, scene_table.SHAPES)
    sa, a, b = Q[p, pair.SHAPE_A], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    ax, ay, az = turned(a, X, GF[sa, shape.A], GF[sa, shape.A + 1], GF[sa, shape.A + 2])
    return ax, ay, az, X[a, state.X] - X[b, state.X], X[a, state.Y] - X[b, state.Y], X[a, state.Z] - X[b, state.Z]


@part
def centre_in_solid(p, X, geo, Q):
    """The sphere's centre in the frame of b's body."""
    b = Q[p, pair.BODY_B]
    ax, ay, az, dx, dy, dz = _centre(p, X, geo, Q)
    return rotate(X[b, state.QW], -X[b, state.QX], -X[b, state.QY], -X[b, state.QZ], dx + ax, dy + ay, dz + az)


@part
def frame_on_solid(p, d, outward, X, geo, Q):
    """The contact frame of a sphere whose centre is ``d`` from a solid, along ``outward`` in the frame of b's body."""
    GF = reals(geo, scene_table.SHAPES)
    sa, b = Q[p, pair.SHAPE_A], Q[p, pair.BODY_B]
    clear, r = GF[sa, shape.CLEAR] + GF[Q[p, pair.SHAPE_B], shape.CLEAR], GF[sa, shape.RADIUS]
    ax, ay, az, dx, dy, dz = _centre(p, X, geo, Q)
    ox, oy, oz = outward
    nx, ny, nz = rotate(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], ox, oy, oz)
    px, py, pz = dx + ax - d * nx, dy + ay - d * ny, dz + az - d * nz
    return d - r - clear, nx, ny, nz, ax - r * nx, ay - r * ny, az - r * nz, px, py, pz
