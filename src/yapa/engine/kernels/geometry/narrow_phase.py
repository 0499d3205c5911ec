"""Narrow phase, where the shapes of a pair are nearest: distance, its rate, and the contact frame, feature by feature.

The normal points from ``b`` to ``a``. Against a plane, a sphere has one feature, a capsule its two
ends, a polytope its vertices, and a cylinder eight: on each rim the lowest point and those a quarter
and a half turn from it. Round shapes are a segment (a point, for a sphere) with a radius; the nearest
points of two segments, of a point and a box, a cylinder or a polytope are closed forms (Ericson,
Real-Time Collision Detection, ch. 5). Pairs without such features are left to ``manifold``.

A two-sided plane acts on the side a shape's centre is on; a one-sided plane lets pass what is behind it.
"""

from math import sqrt

from yapa.engine.kernels.dynamics.flight import rotate
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    body,
    face_plane,
    loop,
    pair,
    pair_kind,
    plane_side,
    plane_sides,
    scene_table,
    shape,
    shape_int,
    state,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes

FAR = 1e9


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


@kernel
def watch_side(p, X, geo, Q):
    """Settle which side of a sheet acts in a pair: where the shape's centre is, and for one side only once it is clear of it."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb, a = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A]
    sides = GI[sb, shape_int.SIDES]
    if Q[p, pair.KIND] > pair_kind.RIM_PLANE or sides == plane_sides.SOLID_BELOW:
        return
    before = Q[p, pair.SIDE]
    if before == plane_side.UPPER or (before == plane_side.LOWER and sides == plane_sides.TWO_SIDED):
        return
    Q[p, pair.SIDE] = plane_side.UPPER
    nx, ny, nz, level, _ = acting_plane(p, X, geo, Q)
    cx, cy, cz = turned(a, X, GF[sa, shape.CENTRE], GF[sa, shape.CENTRE + 1], GF[sa, shape.CENTRE + 2])
    above = nx * (X[a, state.X] + cx) + ny * (X[a, state.Y] + cy) + nz * (X[a, state.Z] + cz) - level
    if before == plane_side.SOLID:  # at the start
        if above < 0.0:
            Q[p, pair.SIDE] = plane_side.NONE if sides == plane_sides.ONE_SIDED else plane_side.LOWER
    elif above < GF[sa, shape.BOUND]:
        Q[p, pair.SIDE] = plane_side.NONE


@kernel
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


@kernel
def segments(a1x, a1y, a1z, b1x, b1y, b1z, a2x, a2y, a2z, b2x, b2y, b2z):
    """Nearest points of two segments (Ericson, 5.1.9): shares along each."""
    dx, dy, dz = b1x - a1x, b1y - a1y, b1z - a1z
    ex, ey, ez = b2x - a2x, b2y - a2y, b2z - a2z
    rx, ry, rz = a1x - a2x, a1y - a2y, a1z - a2z
    a = dx * dx + dy * dy + dz * dz
    e = ex * ex + ey * ey + ez * ez
    f = ex * rx + ey * ry + ez * rz
    if a < 1e-24 and e < 1e-24:
        return 0.0, 0.0
    if a < 1e-24:
        return 0.0, min(max(f / e, 0.0), 1.0)
    c = dx * rx + dy * ry + dz * rz
    if e < 1e-24:
        return min(max(-c / a, 0.0), 1.0), 0.0
    b = dx * ex + dy * ey + dz * ez
    det = a * e - b * b
    s = min(max((b * f - c * e) / det, 0.0), 1.0) if det > 1e-14 * a * e else 0.5
    t = (b * s + f) / e
    if t < 0.0:
        t = 0.0
        s = min(max(-c / a, 0.0), 1.0)
    elif t > 1.0:
        t = 1.0
        s = min(max((b - c) / a, 0.0), 1.0)
    return s, t


@kernel
def point_box(ex, ey, ez, lx, ly, lz):
    """Signed distance of a point from a box with half edges e, and the outward direction."""
    px, py, pz = min(max(lx, -ex), ex), min(max(ly, -ey), ey), min(max(lz, -ez), ez)
    ox, oy, oz = lx - px, ly - py, lz - pz
    d = sqrt(ox * ox + oy * oy + oz * oz)
    if d > 1e-12:
        return d, ox / d, oy / d, oz / d
    fx, fy, fz = ex - abs(lx), ey - abs(ly), ez - abs(lz)
    if fx <= fy and fx <= fz:
        return -fx, (1.0 if lx >= 0.0 else -1.0), 0.0, 0.0
    if fy <= fz:
        return -fy, 0.0, (1.0 if ly >= 0.0 else -1.0), 0.0
    return -fz, 0.0, 0.0, (1.0 if lz >= 0.0 else -1.0)


@far((REAL, REAL, REAL, REAL), WHOLE, REAL, REAL, REAL, WHOLES1)
def point_hull(s, lx, ly, lz, geo):
    """Signed distance of a point from a convex polytope in its body's frame, and the outward direction."""
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    best, bx, by, bz = -1e300, 0.0, 0.0, 1.0
    f0, nf = GI[s, shape_int.F0], GI[s, shape_int.NF]
    for f in range(f0, f0 + nf):
        d = FC[f, face_plane.X] * lx + FC[f, face_plane.Y] * ly + FC[f, face_plane.Z] * lz - FC[f, face_plane.OFFSET]
        if d > best:
            best, bx, by, bz = d, FC[f, face_plane.X], FC[f, face_plane.Y], FC[f, face_plane.Z]
    if best <= 0.0:
        return best, bx, by, bz
    v0 = GI[s, shape_int.V0]
    near = 1e300
    for f in range(f0, f0 + nf):
        d = FC[f, face_plane.X] * lx + FC[f, face_plane.Y] * ly + FC[f, face_plane.Z] * lz - FC[f, face_plane.OFFSET]
        if d <= 0.0:
            continue
        nx, ny, nz = FC[f, face_plane.X], FC[f, face_plane.Y], FC[f, face_plane.Z]
        qx, qy, qz = lx - d * nx, ly - d * ny, lz - d * nz
        inside = True
        start, count = FI[f, loop.START], FI[f, loop.COUNT_OF]
        for k in range(count):
            i, j = v0 + LP[0, start + k], v0 + LP[0, start + (k + 1) % count]
            ex, ey, ez = VT[j, vertex.X] - VT[i, vertex.X], VT[j, vertex.Y] - VT[i, vertex.Y], VT[j, vertex.Z] - VT[i, vertex.Z]
            rx, ry, rz = qx - VT[i, vertex.X], qy - VT[i, vertex.Y], qz - VT[i, vertex.Z]
            side = nx * (ey * rz - ez * ry) + ny * (ez * rx - ex * rz) + nz * (ex * ry - ey * rx)
            if side < 0.0:
                inside = False
                rx, ry, rz = lx - VT[i, vertex.X], ly - VT[i, vertex.Y], lz - VT[i, vertex.Z]
                t = min(max((rx * ex + ry * ey + rz * ez) / (ex * ex + ey * ey + ez * ez), 0.0), 1.0)
                ox, oy, oz = rx - t * ex, ry - t * ey, rz - t * ez
                dist = sqrt(ox * ox + oy * oy + oz * oz)
                if dist < near and dist > 0.0:
                    near, bx, by, bz = dist, ox / dist, oy / dist, oz / dist
        if inside and d < near:
            near, bx, by, bz = d, nx, ny, nz
    return near, bx, by, bz


@kernel
def point_cylinder(s, lx, ly, lz, geo):
    """Signed distance of a point from a cylinder in its body's frame, and the outward direction."""
    GF = reals(geo, scene_table.SHAPES)
    ax, ay, az = GF[s, shape.A], GF[s, shape.A + 1], GF[s, shape.A + 2]
    ux, uy, uz = GF[s, shape.B] - ax, GF[s, shape.B + 1] - ay, GF[s, shape.B + 2] - az
    length = sqrt(ux * ux + uy * uy + uz * uz)
    ux, uy, uz = ux / length, uy / length, uz / length
    mx, my, mz = lx - GF[s, shape.CENTRE], ly - GF[s, shape.CENTRE + 1], lz - GF[s, shape.CENTRE + 2]
    t = mx * ux + my * uy + mz * uz
    rx, ry, rz = mx - t * ux, my - t * uy, mz - t * uz
    rho = sqrt(rx * rx + ry * ry + rz * rz)
    if rho > 1e-12:
        rx, ry, rz = rx / rho, ry / rho, rz / rho
    sign = 1.0 if t >= 0.0 else -1.0
    over, out = abs(t) - 0.5 * length, rho - GF[s, shape.RADIUS]
    if over <= 0.0 and out <= 0.0:
        if out > over:
            return out, rx, ry, rz
        return over, sign * ux, sign * uy, sign * uz
    if out <= 0.0:
        return over, sign * ux, sign * uy, sign * uz
    if over <= 0.0:
        return out, rx, ry, rz
    d = sqrt(over * over + out * out)
    over, out = over / d, out / d
    return d, out * rx + sign * over * ux, out * ry + sign * over * uy, out * rz + sign * over * uz


@far((REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL), WHOLE, WHOLE, REALS2, WHOLES1, WHOLES2)
def frame(p, f, X, geo, Q):
    """gap, normal (3), arm on a (3), arm on b (3) of feature ``f`` of pair ``p``, in world axes."""
    GF, GI, VT = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    kind, sa, sb, a, b = Q[p, pair.KIND], Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    dx, dy, dz = X[a, state.X] - X[b, state.X], X[a, state.Y] - X[b, state.Y], X[a, state.Z] - X[b, state.Z]
    if kind <= pair_kind.RIM_PLANE:
        nx, ny, nz, level, acts = acting_plane(p, X, geo, Q)
        if acts == 0:
            return FAR, nx, ny, nz, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        r = 0.0
        if kind == pair_kind.ROUND_PLANE:
            o = shape.A if f == 0 else shape.B
            cx, cy, cz = turned(a, X, GF[sa, o], GF[sa, o + 1], GF[sa, o + 2])
            r = GF[sa, shape.RADIUS]
        elif kind == pair_kind.VERTEX_PLANE:
            v = GI[sa, shape_int.V0] + f
            cx, cy, cz = turned(a, X, VT[v, vertex.X], VT[v, vertex.Y], VT[v, vertex.Z])
        else:
            cx, cy, cz = _rim_point(sa, a, f, nx, ny, nz, X, geo)
        gap = nx * (X[a, state.X] + cx) + ny * (X[a, state.Y] + cy) + nz * (X[a, state.Z] + cz) - level - r
        cx, cy, cz = cx - r * nx, cy - r * ny, cz - r * nz
        return gap - clear, nx, ny, nz, cx, cy, cz, dx + cx, dy + cy, dz + cz
    ax, ay, az = turned(a, X, GF[sa, shape.A], GF[sa, shape.A + 1], GF[sa, shape.A + 2])
    r = GF[sa, shape.RADIUS]
    if kind == pair_kind.ROUND_ROUND:
        r2 = GF[sb, shape.RADIUS]
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
    # a sphere's centre and a solid: in the frame of b's body
    lx, ly, lz = rotate(X[b, state.QW], -X[b, state.QX], -X[b, state.QY], -X[b, state.QZ], dx + ax, dy + ay, dz + az)
    if kind == pair_kind.POINT_BOX:
        w, x, y, z = GF[sb, shape.POSE], GF[sb, shape.POSE + 1], GF[sb, shape.POSE + 2], GF[sb, shape.POSE + 3]
        lx, ly, lz = lx - GF[sb, shape.CENTRE], ly - GF[sb, shape.CENTRE + 1], lz - GF[sb, shape.CENTRE + 2]
        lx, ly, lz = rotate(w, -x, -y, -z, lx, ly, lz)
        d, ox, oy, oz = point_box(GF[sb, shape.HALF], GF[sb, shape.HALF + 1], GF[sb, shape.HALF + 2], lx, ly, lz)
        ox, oy, oz = rotate(w, x, y, z, ox, oy, oz)
    elif kind == pair_kind.POINT_CYLINDER:
        d, ox, oy, oz = point_cylinder(sb, lx, ly, lz, geo)
    else:
        d, ox, oy, oz = point_hull(sb, lx, ly, lz, geo)
    nx, ny, nz = rotate(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], ox, oy, oz)
    px, py, pz = dx + ax - d * nx, dy + ay - d * ny, dz + az - d * nz
    return d - r - clear, nx, ny, nz, ax - r * nx, ay - r * ny, az - r * nz, px, py, pz


@kernel
def closing(a, b, X, nx, ny, nz, ax, ay, az, bx, by, bz):
    """Rate of the gap: normal velocity of a's point relative to b's."""
    ux = X[a, state.VX] - X[b, state.VX] + X[a, state.WY] * az - X[a, state.WZ] * ay - X[b, state.WY] * bz + X[b, state.WZ] * by
    uy = X[a, state.VY] - X[b, state.VY] + X[a, state.WZ] * ax - X[a, state.WX] * az - X[b, state.WZ] * bx + X[b, state.WX] * bz
    uz = X[a, state.VZ] - X[b, state.VZ] + X[a, state.WX] * ay - X[a, state.WY] * ax - X[b, state.WX] * by + X[b, state.WY] * bx
    return nx * ux + ny * uy + nz * uz


@kernel
def gap_and_rate(p, f, X, geo, Q):
    """Distance of a feature and how fast it grows."""
    gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, geo, Q)
    return gap, closing(Q[p, pair.BODY_A], Q[p, pair.BODY_B], X, nx, ny, nz, ax, ay, az, bx, by, bz)


@kernel
def far_apart(p, travel, X, geo, Q):
    """Whether the bounding spheres of a pair stay apart for longer than a relative travel."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    ax, ay, az = turned(a, X, GF[sa, shape.CENTRE], GF[sa, shape.CENTRE + 1], GF[sa, shape.CENTRE + 2])
    ax, ay, az = X[a, state.X] + ax, X[a, state.Y] + ay, X[a, state.Z] + az
    room = GF[sa, shape.BOUND] + GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR] + travel
    if Q[p, pair.KIND] <= pair_kind.RIM_PLANE:
        nx, ny, nz = turned(b, X, GF[sb, shape.B], GF[sb, shape.B + 1], GF[sb, shape.B + 2])
        px, py, pz = turned(b, X, GF[sb, shape.A], GF[sb, shape.A + 1], GF[sb, shape.A + 2])
        d = nx * (ax - X[b, state.X] - px) + ny * (ay - X[b, state.Y] - py) + nz * (az - X[b, state.Z] - pz)
        return (abs(d) if wholes(geo, scene_table.SHAPES_INT)[sb, shape_int.SIDES] != 0 else d) > room
    bx, by, bz = turned(b, X, GF[sb, shape.CENTRE], GF[sb, shape.CENTRE + 1], GF[sb, shape.CENTRE + 2])
    dx, dy, dz = ax - X[b, state.X] - bx, ay - X[b, state.Y] - by, az - X[b, state.Z] - bz
    room += GF[sb, shape.BOUND]
    return dx * dx + dy * dy + dz * dz > room * room


@kernel
def shift(a, b, gap, nx, ny, nz, S, P):
    """Move two bodies along a normal until their gap is closed, by their mobility; what is locked stays."""
    ma, mb = 0.0, 0.0
    if P[a, body.MOTION] == 1.0:
        ma = P[a, body.INV_MASS]
    if P[b, body.MOTION] == 1.0:
        mb = P[b, body.INV_MASS]
    if ma + mb == 0.0:
        return
    share = ma / (ma + mb)
    for side in range(2):
        q = a if side == 0 else b
        d = -share * gap if side == 0 else (1.0 - share) * gap
        if P[q, body.MOTION] != 1.0 or P[q, body.LOCK] != 0.0:
            continue
        S[q, state.X] += d * nx
        S[q, state.Y] += d * ny
        S[q, state.Z] += d * nz
