"""The axis that parts a cylinder and a polytope farthest.

The separation of convex bodies along n is how far the least of a is above the most of b; its greatest value over all n is positive
exactly when they are apart (separating axis theorem). For a cylinder of axis u, centre c, half length l and radius R,

    least of a along n = n · c - R √(1 - (n·u)²) - l |n·u|,

and the greatest lies at a face of b (n its normal), at an end of a (n = ±u), at a vertex of b (n radial from it to the axis), or at
an edge of b, with n on the arc between the normals of its two faces: where the slope along the arc falls through zero, at a kink
where n · u = 0 (the edge lies across the side) or smoothly (across a rim). All is worked out in the axes of b.
"""

from math import acos, cos, sin, sqrt

from yapa.engine.kernels.geometry.round_frames import edge_of, parting_angle, slope_of
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    edge,
    face_plane,
    pair,
    scene_table,
    shape,
    shape_int,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    UP,
    ahead,
    dot,
    length,
    minus,
    negative,
    over,
    plus,
    times,
    unit,
    vector,
)

FLAT = 1e-6
"""An edge whose normal is nearer to the axis than this lies under a flat end [rad]."""
FACE, END, ARC, KINK, CORNER = 0, 1, 2, 3, 4
"""What gives the axis of separation: a face of b, an end of a, an edge across a rim or the side, a vertex at the side."""


@kernel
def _highest_vertex(s, n, geo):
    """The greatest height of a polytope along n, and the vertex that has it."""
    GI, VT = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    best, at = -1e300, 0
    for k in range(GI[s, shape_int.NV]):
        d = dot(vector(VT, GI[s, shape_int.V0] + k, vertex.POSITION), n)
        if d > best:
            best, at = d, k
    return best, at


@kernel
def _lowest_of_cylinder(n, centre, axis, half, r):
    """The least height of a cylinder along n."""
    nu = dot(n, axis)
    return dot(n, centre) - r * sqrt(max(1.0 - nu * nu, 0.0)) - half * abs(nu)


@kernel
def _arc_slope(n, m, away, axis, half, r, side):
    """How the separation grows as n turns towards m; ``side``: of n · u, where that is zero."""
    nu = dot(n, axis)
    sign = 1.0 if nu > 0.0 or (nu == 0.0 and side > 0.0) else -1.0
    slope, _ = slope_of(n, m, ahead(away, -sign * half, axis), axis, r)
    return slope


@part
def _best_on_arc(k, s, centre, axis, half, r, geo):
    """Of the normals between the two faces of an edge the one that parts it from a cylinder farthest: what gives it (FACE where
    that is an end of the arc), the separation, n, and the end of the rim."""
    EI, FC = wholes(geo, scene_table.EDGES), reals(geo, scene_table.FACES)
    one, other = vector(FC, EI[k, edge.FACE_A], face_plane.NORMAL), vector(FC, EI[k, edge.FACE_B], face_plane.NORMAL)
    start, _ = edge_of(k, s, geo)
    away = minus(centre, start)
    across = ahead(other, -dot(one, other), one)
    size = length(across)
    if size < 1e-9:
        return FACE, -1e300, UP, 0.0
    m, whole = over(across, size), acos(min(max(dot(one, other), -1.0), 1.0))
    last = ahead(times(cos(whole), m), -sin(whole), one)
    nu, mu = dot(one, axis), dot(m, axis)
    if _arc_slope(one, m, away, axis, half, r, mu) <= 0.0 or _arc_slope(other, last, away, axis, half, r, -mu) >= 0.0:
        return FACE, -1e300, UP, 0.0
    low, high = 0.0, whole
    ends_nu = dot(other, axis)
    if nu * ends_nu < 0.0:  # n · u passes zero within
        at = acos(min(max(mu / sqrt(nu * nu + mu * mu), -1.0), 1.0))
        if nu > 0.0:
            at = acos(min(max(-mu / sqrt(nu * nu + mu * mu), -1.0), 1.0))
        n, t = ahead(times(cos(at), one), sin(at), m), ahead(times(cos(at), m), -sin(at), one)
        before, _ = slope_of(n, t, ahead(away, (-half if nu > 0.0 else half), axis), axis, r)
        after, _ = slope_of(n, t, ahead(away, (half if nu > 0.0 else -half), axis), axis, r)
        if before >= 0.0 and after <= 0.0:
            return KINK, dot(n, away) - r, n, 0.0
        if before < 0.0:
            high = at
        else:
            low = at
    middle = 0.5 * (low + high)
    sign = 1.0 if nu * cos(middle) + mu * sin(middle) > 0.0 else -1.0
    rim = ahead(away, -sign * half, axis)
    at = parting_angle(low, high, one, m, rim, axis, r)
    n = ahead(times(cos(at), one), sin(at), m)
    nu = dot(n, axis)
    if 1.0 - nu * nu < FLAT * FLAT:  # the edge lies under the end: its normal parts them as far
        return FACE, -1e300, UP, 0.0
    return ARC, dot(n, rim) - r * sqrt(max(1.0 - nu * nu, 0.0)), n, 0.0 if sign > 0.0 else 1.0


@part
def best_axis(p, low, high, r, share, geo, Q):
    """What parts a cylinder and a polytope farthest: the separation, n in the axes of b, what gives it, which, the end of the rim.

    ``share`` of the thinnest half is what any other axis must win by over a face."""
    GI, GF, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.SHAPES), reals(geo, scene_table.FACES)
    VT, sa, sb = reals(geo, scene_table.VERTICES), Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    centre, way = times(0.5, plus(low, high)), minus(high, low)
    half, axis = 0.5 * length(way), unit(way)
    best, out, kind, which, end = -1e300, UP, FACE, 0, 0.0
    for f in range(GI[sb, shape_int.F0], GI[sb, shape_int.F0] + GI[sb, shape_int.NF]):
        n = vector(FC, f, face_plane.NORMAL)
        d = _lowest_of_cylinder(n, centre, axis, half, r) - FC[f, face_plane.OFFSET]
        if d > best:
            best, out, which = d, n, f
    thin = min(GF[sa, shape.THIN], GF[sb, shape.THIN])
    if best > 0.1 * (GF[sa, shape.THIN] + GF[sb, shape.THIN]):
        return best, out, kind, which, end  # clearly apart
    best += share * thin
    face = best
    for e in range(2):
        n = axis if e == 0 else negative(axis)
        most, k = _highest_vertex(sb, n, geo)
        d = dot(n, centre) - half - most
        if d > best:
            best, out, kind, which, end = d, n, END, k, 1.0 * e
    for k in range(GI[sb, shape_int.E0], GI[sb, shape_int.E0] + GI[sb, shape_int.NE]):
        what, d, n, rim = _best_on_arc(k, sb, centre, axis, half, r, geo)
        if what != FACE and d > best:
            best, out, kind, which, end = d, n, what, k, rim
    for k in range(GI[sb, shape_int.NV]):
        v = vector(VT, GI[sb, shape_int.V0] + k, vertex.POSITION)
        t = dot(minus(v, centre), axis)
        away = ahead(minus(centre, v), t, axis)
        size = length(away)
        if abs(t) > half or size < 1e-9 or size - r <= best:
            continue
        n = over(away, size)
        most, _ = _highest_vertex(sb, n, geo)
        if dot(n, centre) - r - most > best:
            best, out, kind, which = dot(n, centre) - r - most, n, CORNER, k
    return best if best > face else best - share * thin, out, kind, which, end
