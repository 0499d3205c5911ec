"""A capsule against a polytope: as far away as its axis is from it, nearest at an end or at an edge.

All is worked out in the axes of b. A row of the manifold says what it is made of; ``round_frames`` follows it.
"""

from yapa.engine.kernels.geometry.nearest_points import point_hull, segments
from yapa.engine.kernels.geometry.round_rows import ACROSS_SIDE, ON_STATION, core_in_b, into_world, put_row
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, part
from yapa.engine.kernels.layout import (
    edge,
    frame_kind,
    pair,
    scene_table,
    shape_int,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    length,
    minus,
    over,
    vector,
)


@part
def _capsule_end(e, low, high, r, clear, sb, geo, M, m):
    """Write the row of an end of a capsule. Returns its gap."""
    end = low if e == 0 else high
    d, n = point_hull(sb, end, geo)
    put_row(M, m, d - r - clear, n, ahead(end, -d, n), ON_STATION + 4.0 * e, frame_kind.STATION, (1.0 * e, 1.0, 0.0), ZERO)
    return d - r - clear


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL, WHOLE)
def capsule_rows(p, X, geo, Q, M, margin, alone):
    """Rows of a capsule and a polytope with gap below ``margin``, in world axes: its ends, and edges across it; with ``alone`` = 1
    only the nearest point, whatever its gap. Count, and least gap."""
    low, high, r, clear = core_in_b(p, X, geo, Q)
    sb = Q[p, pair.SHAPE_B]
    EI, GI = wholes(geo, scene_table.EDGES), wholes(geo, scene_table.SHAPES_INT)
    VT, v0 = reals(geo, scene_table.VERTICES), GI[sb, shape_int.V0]
    m, least = 0, 1e300
    for e in range(2):
        gap = _capsule_end(e, low, high, r, clear, sb, geo, M, m)
        if alone == 1:  # the second is written over the first where it is nearer
            if e == 1 and gap >= least:
                _capsule_end(0, low, high, r, clear, sb, geo, M, 0)
        elif gap < margin:
            m += 1
        least = min(least, gap)
    for k in range(GI[sb, shape_int.E0], GI[sb, shape_int.E0] + GI[sb, shape_int.NE]):
        start, stop = vector(VT, v0 + EI[k, edge.FROM], vertex.POSITION), vector(VT, v0 + EI[k, edge.TO], vertex.POSITION)
        s, t = segments(low, high, start, stop)
        if s <= 1e-6 or s >= 1.0 - 1e-6:
            continue
        core, foot = ahead(low, s, minus(high, low)), ahead(start, t, minus(stop, start))
        d = length(minus(core, foot))
        gap = d - r - clear
        if d < 1e-12 or m >= M.shape[0] or (gap >= least - 1e-9 if alone == 1 else gap >= margin):
            continue
        nearest, _ = point_hull(sb, core, geo)
        if nearest < d - 1e-9 * (1.0 + r):  # inside, where the ends speak; or over a face
            continue
        least = min(least, gap)
        put_row(M, m, gap, over(minus(core, foot), d), foot, ACROSS_SIDE + 4.0 * (k - GI[sb, shape_int.E0]), frame_kind.EDGE_SIDE,
                 (1.0 * k, 0.0, 0.0), ZERO)
        m += 1 - alone
    if alone == 1:
        m = 1
    into_world(m, Q[p, pair.BODY_B], X, M)
    return m, least
