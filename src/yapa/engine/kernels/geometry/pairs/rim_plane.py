"""A cylinder over a plane: on each rim the lowest point and those a quarter and a half turn from it."""

from math import sqrt

from yapa.engine.kernels.geometry.pairs.of_plane import frame_over_plane
from yapa.engine.kernels.geometry.placing import FAR, acting_plane, turned
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals


@part
def _rim_point(sa, a, f, nx, ny, nz, X, geo):
    """World vector from the centre of mass to feature ``f`` of a cylinder over a plane."""
    GF = reals(geo, scene_table.SHAPES)
    o = shape.A if f < 4 else shape.B
    ax, ay, az = turned(a, X, GF[sa, shape.A], GF[sa, shape.A + 1], GF[sa, shape.A + 2])
    bx, by, bz = turned(a, X, GF[sa, shape.B], GF[sa, shape.B + 1], GF[sa, shape.B + 2])
    ux, uy, uz = bx - ax, by - ay, bz - az
    n = 1.0 / sqrt(ux * ux + uy * uy + uz * uz)
    ux, uy, uz = ux * n, uy * n, uz * n
    along = nx * ux + ny * uy + nz * uz
    dx, dy, dz = along * ux - nx, along * uy - ny, along * uz - nz
    size = sqrt(dx * dx + dy * dy + dz * dz)
    if size < 1e-9:  # upright: any direction is as low as any other
        if abs(ux) < 0.7:
            dx, dy, dz = 1.0 - ux * ux, -ux * uy, -ux * uz
        else:
            dx, dy, dz = -uy * ux, 1.0 - uy * uy, -uy * uz
        size = sqrt(dx * dx + dy * dy + dz * dz)
    dx, dy, dz = dx / size, dy / size, dz / size
    k = f & 3
    if k == 1 or k == 3:
        dx, dy, dz = uy * dz - uz * dy, uz * dx - ux * dz, ux * dy - uy * dx
    r = GF[sa, shape.RADIUS] if k < 2 else -GF[sa, shape.RADIUS]
    ex, ey, ez = (ax, ay, az) if o == shape.A else (bx, by, bz)
    return ex + r * dx, ey + r * dy, ez + r * dz


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    nx, ny, nz, level, acts = acting_plane(p, X, geo, Q)
    if acts == 0:
        return FAR, nx, ny, nz, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    point = _rim_point(Q[p, pair.SHAPE_A], Q[p, pair.BODY_A], f, nx, ny, nz, X, geo)
    return frame_over_plane(p, (nx, ny, nz, level), point, 0.0, X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the cylinder at its lowest points; the others carry, but do not roll."""
    if (f & 3) != 0:
        return 0.0
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
