"""Nearest points of two segments, and of a point and a solid, in closed form (Ericson, Real-Time Collision Detection, ch. 5)."""

from math import sqrt

from yapa.engine.kernels.jit import REAL, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import face_plane, loop, scene_table, shape, shape_int, vertex
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    UP,
    VECTOR,
    ahead,
    cross,
    dot,
    length,
    minus,
    over,
    times,
    vector,
)


@kernel
def segments(a, end_a, b, end_b):
    """Nearest points of two segments (Ericson, 5.1.9): shares along each."""
    d, e, r = minus(end_a, a), minus(end_b, b), minus(a, b)
    dd, ee, f = dot(d, d), dot(e, e), dot(e, r)
    if dd < 1e-24 and ee < 1e-24:
        return 0.0, 0.0
    if dd < 1e-24:
        return 0.0, min(max(f / ee, 0.0), 1.0)
    c = dot(d, r)
    if ee < 1e-24:
        return min(max(-c / dd, 0.0), 1.0), 0.0
    de = dot(d, e)
    det = dd * ee - de * de
    s = min(max((de * f - c * ee) / det, 0.0), 1.0) if det > 1e-14 * dd * ee else 0.5
    t = (de * s + f) / ee
    if t < 0.0:
        t = 0.0
        s = min(max(-c / dd, 0.0), 1.0)
    elif t > 1.0:
        t = 1.0
        s = min(max((de - c) / dd, 0.0), 1.0)
    return s, t


@kernel
def point_box(half, at):
    """Signed distance of a point from a box with these half edges, and the outward direction."""
    ex, ey, ez = half
    lx, ly, lz = at
    inside = min(max(lx, -ex), ex), min(max(ly, -ey), ey), min(max(lz, -ez), ez)
    out = minus(at, inside)
    d = length(out)
    if d > 1e-12:
        return d, over(out, d)
    fx, fy, fz = ex - abs(lx), ey - abs(ly), ez - abs(lz)
    if fx <= fy and fx <= fz:
        return -fx, ((1.0 if lx >= 0.0 else -1.0), 0.0, 0.0)
    if fy <= fz:
        return -fy, (0.0, (1.0 if ly >= 0.0 else -1.0), 0.0)
    return -fz, (0.0, 0.0, (1.0 if lz >= 0.0 else -1.0))


@far((REAL, VECTOR), WHOLE, VECTOR, WHOLES1)
def point_hull(s, at, geo):
    """Signed distance of a point from a convex polytope in its body's frame, and the outward direction."""
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    best, out = -1e300, UP
    f0, nf = GI[s, shape_int.F0], GI[s, shape_int.NF]
    for f in range(f0, f0 + nf):
        d = dot(vector(FC, f, face_plane.NORMAL), at) - FC[f, face_plane.OFFSET]
        if d > best:
            best, out = d, vector(FC, f, face_plane.NORMAL)
    if best <= 0.0:
        return best, out
    v0 = GI[s, shape_int.V0]
    near = 1e300
    for f in range(f0, f0 + nf):
        n = vector(FC, f, face_plane.NORMAL)
        d = dot(n, at) - FC[f, face_plane.OFFSET]
        if d <= 0.0:
            continue
        below = ahead(at, -d, n)  # the point on the face's plane
        inside = True
        start, count = FI[f, loop.START], FI[f, loop.COUNT_OF]
        for k in range(count):
            i, j = v0 + LP[0, start + k], v0 + LP[0, start + (k + 1) % count]
            corner = vector(VT, i, vertex.POSITION)
            edge = minus(vector(VT, j, vertex.POSITION), corner)
            if dot(n, cross(edge, minus(below, corner))) < 0.0:
                inside = False
                r = minus(at, corner)
                t = min(max(dot(r, edge) / dot(edge, edge), 0.0), 1.0)
                away = ahead(r, -t, edge)
                dist = length(away)
                if dist < near and dist > 0.0:
                    near, out = dist, over(away, dist)
        if inside and d < near:
            near, out = d, n
    return near, out


@kernel
def point_cylinder(s, at, geo):
    """Signed distance of a point from a cylinder in its body's frame, and the outward direction."""
    GF = reals(geo, scene_table.SHAPES)
    axis = minus(vector(GF, s, shape.B), vector(GF, s, shape.A))
    size = length(axis)
    axis = over(axis, size)
    m = minus(at, vector(GF, s, shape.CENTRE))
    t = dot(m, axis)
    away = ahead(m, -t, axis)
    rho = length(away)
    if rho > 1e-12:
        away = over(away, rho)
    sign = 1.0 if t >= 0.0 else -1.0
    beyond, out = abs(t) - 0.5 * size, rho - GF[s, shape.RADIUS]
    if beyond <= 0.0 and out <= 0.0:
        if out > beyond:
            return out, away
        return beyond, times(sign, axis)
    if out <= 0.0:
        return beyond, times(sign, axis)
    if beyond <= 0.0:
        return out, away
    d = sqrt(beyond * beyond + out * out)
    beyond, out = beyond / d, out / d
    return d, ahead(times(out, away), sign * beyond, axis)
