"""What the law of a pair reads off a contact: its tangents, its rolling radius, and restitution at a speed."""

from math import sqrt

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import material, pair, pair_kind, scene_table, shape, shape_int, shape_kind
from yapa.engine.kernels.layout.views import reals, wholes


@kernel
def tangents(nx, ny, nz):
    """Two unit vectors that make a right-handed frame with the normal."""
    if abs(nx) < 0.6:
        tx, ty, tz = 1.0 - nx * nx, -nx * ny, -nx * nz
    else:
        tx, ty, tz = -ny * nx, 1.0 - ny * ny, -ny * nz
    n = 1.0 / sqrt(tx * tx + ty * ty + tz * tz)
    tx, ty, tz = tx * n, ty * n, tz * n
    return tx, ty, tz, ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx


@kernel
def rolling_radius(p, f, ax, ay, az, nx, ny, nz, geo, Q):
    """1/R = 1/R_a + 1/R_b of the curved sides; 0 where two flat faces meet."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    kind, sa, sb = Q[p, pair.KIND], Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    if kind == pair_kind.VERTEX_PLANE:
        return 0.0
    r = GF[sa, shape.RADIUS]
    if kind == pair_kind.ROUND_ROUND:
        return r * GF[sb, shape.RADIUS] / (r + GF[sb, shape.RADIUS])
    if GI[sa, shape_int.KIND] == shape_kind.CYLINDER and (f & 3) != 0:
        return 0.0
    return r


@kernel
def effective_restitution(law, approach, cutoff):
    """e with its smooth end between twice the cut-off speed and the cut-off speed, and its falloff with speed."""
    e = law[material.RESTITUTION]
    if law[material.FALLOFF] > 0.0 and approach > law[material.REFERENCE]:
        e *= (approach / law[material.REFERENCE]) ** (-law[material.FALLOFF])
    if approach >= 2.0 * cutoff:
        return e
    if approach <= cutoff:
        return 0.0
    s = approach / cutoff - 1.0
    return e * s * s * (3.0 - 2.0 * s)


@kernel
def lossless(law, ratio):
    """Whether an impact with this restitution takes no energy."""
    return (ratio == 1.0 and law[material.STATIC] == 0.0 and law[material.DYNAMIC] == 0.0 and law[material.ROLLING] == 0.0
            and law[material.SPINNING] == 0.0)
