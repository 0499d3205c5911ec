"""Spheres and capsules: two segments (points, of spheres) with a radius each."""

from math import sqrt

from yapa.engine.kernels.geometry.nearest_points import segments
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape, state
from yapa.engine.kernels.layout.views import reals


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    dx, dy, dz = X[a, state.X] - X[b, state.X], X[a, state.Y] - X[b, state.Y], X[a, state.Z] - X[b, state.Z]
    ax, ay, az = turned(a, X, GF[sa, shape.A], GF[sa, shape.A + 1], GF[sa, shape.A + 2])
    r, r2 = GF[sa, shape.RADIUS], GF[sb, shape.RADIUS]
    bx, by, bz = turned(a, X, GF[sa, shape.B], GF[sa, shape.B + 1], GF[sa, shape.B + 2])
    cx, cy, cz = turned(b, X, GF[sb, shape.A], GF[sb, shape.A + 1], GF[sb, shape.A + 2])
    ex, ey, ez = turned(b, X, GF[sb, shape.B], GF[sb, shape.B + 1], GF[sb, shape.B + 2])
    s, t = segments(dx + ax, dy + ay, dz + az, dx + bx, dy + by, dz + bz, cx, cy, cz, ex, ey, ez)
    px, py, pz = ax + s * (bx - ax), ay + s * (by - ay), az + s * (bz - az)
    qx, qy, qz = cx + t * (ex - cx), cy + t * (ey - cy), cz + t * (ez - cz)
    nx, ny, nz = dx + px - qx, dy + py - qy, dz + pz - qz
    d = sqrt(nx * nx + ny * ny + nz * nz)
    nx, ny, nz = (nx / d, ny / d, nz / d) if d > 1e-12 else (0.0, 0.0, 1.0)
    return (d - r - r2 - clear, nx, ny, nz, px - r * nx, py - r * ny, pz - r * nz, qx + r2 * nx, qy + r2 * ny,
            qz + r2 * nz)


@part
def rolling_radius(p, f, geo, Q):
    """That of both together."""
    GF = reals(geo, scene_table.SHAPES)
    r, other = GF[Q[p, pair.SHAPE_A], shape.RADIUS], GF[Q[p, pair.SHAPE_B], shape.RADIUS]
    return r * other / (r + other)
