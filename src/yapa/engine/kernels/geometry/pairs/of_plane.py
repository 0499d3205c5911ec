"""The contact frame of a point of a shape over a plane."""

from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals


@part
def frame_over_plane(p, plane, point, r, X, geo, Q):
    """The frame of a point ``(cx, cy, cz)`` from a's centre of mass that is round by ``r``; ``plane``: its normal and level."""
    GF = reals(geo, scene_table.SHAPES)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear = GF[Q[p, pair.SHAPE_A], shape.CLEAR] + GF[Q[p, pair.SHAPE_B], shape.CLEAR]
    dx, dy, dz = X[a, state.X] - X[b, state.X], X[a, state.Y] - X[b, state.Y], X[a, state.Z] - X[b, state.Z]
    nx, ny, nz, level = plane
    cx, cy, cz = point
    gap = nx * (X[a, state.X] + cx) + ny * (X[a, state.Y] + cy) + nz * (X[a, state.Z] + cz) - level - r
    cx, cy, cz = cx - r * nx, cy - r * ny, cz - r * nz
    return gap - clear, nx, ny, nz, cx, cy, cz, dx + cx, dy + cy, dz + cz
