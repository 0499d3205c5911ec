"""Narrow phase, where the shapes of a pair are nearest: distance, its rate, and the contact frame, feature by feature.

The normal points from ``b`` to ``a``. Against a plane, a sphere has one feature, a capsule its two
ends, a polytope its vertices, and a cylinder eight: on each rim the lowest point and those a quarter
and a half turn from it. Round shapes are a segment (a point, for a sphere) with a radius; the nearest
points of two segments, of a point and a box, a cylinder or a polytope are closed forms (Ericson,
Real-Time Collision Detection, ch. 5). Pairs without such features are left to ``manifold``.

A two-sided plane acts on the side a shape's centre is on; a one-sided plane lets pass what is behind it.
"""

from math import sqrt

from yapa.engine.kernels.flight import rotate
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    G_A,
    G_B,
    G_BOUND,
    G_CENTRE,
    G_CLEAR,
    G_HALF,
    G_POSE,
    G_RADIUS,
    I_F0,
    I_NF,
    I_SIDES,
    I_V0,
    INV_MASS,
    LOCK,
    MOTION,
    ONE_SIDED,
    POINT_BOX,
    POINT_CYLINDER,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_KIND,
    Q_SIDE,
    RIM_PLANE,
    ROUND_PLANE,
    ROUND_ROUND,
    SC_FC,
    SC_FI,
    SC_GF,
    SC_GI,
    SC_LP,
    SC_VT,
    SIDE_LOWER,
    SIDE_NONE,
    SIDE_SOLID,
    SIDE_UPPER,
    SOLID_BELOW,
    TWO_SIDED,
    VERTEX_PLANE,
)
from yapa.engine.kernels.views import reals, wholes

FAR = 1e9


@kernel
def upright(b, X):
    """Whether a body stands in its own axes. Its w alone does not tell: that is 1 up to 2e-8 rad, which is nanometres."""
    return X[b, 4] == 0.0 and X[b, 5] == 0.0 and X[b, 6] == 0.0


@kernel
def turned(b, X, lx, ly, lz):
    """A vector of body ``b`` in world axes."""
    if upright(b, X):
        return lx, ly, lz
    return rotate(X[b, 3], X[b, 4], X[b, 5], X[b, 6], lx, ly, lz)


@kernel
def plane_side(p, X, geo, Q):
    """World normal of the plane of a pair, on the side that acts; its height along it; 0 if it does not act."""
    GF = reals(geo, SC_GF)
    sb, b = Q[p, Q_B], Q[p, Q_BB]
    nx, ny, nz = turned(b, X, GF[sb, G_B], GF[sb, G_B + 1], GF[sb, G_B + 2])
    px, py, pz = turned(b, X, GF[sb, G_A], GF[sb, G_A + 1], GF[sb, G_A + 2])
    level = nx * (X[b, 0] + px) + ny * (X[b, 1] + py) + nz * (X[b, 2] + pz)
    side = Q[p, Q_SIDE]
    if side == SIDE_LOWER:
        return -nx, -ny, -nz, -level, 1
    return nx, ny, nz, level, 0 if side == SIDE_NONE else 1


@kernel
def watch_side(p, X, geo, Q):
    """Settle which side of a sheet acts in a pair: where the shape's centre is, and for one side only once it is clear of it."""
    GF, GI = reals(geo, SC_GF), wholes(geo, SC_GI)
    sa, sb, a = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA]
    sides = GI[sb, I_SIDES]
    if Q[p, Q_KIND] > RIM_PLANE or sides == SOLID_BELOW:
        return
    before = Q[p, Q_SIDE]
    if before == SIDE_UPPER or (before == SIDE_LOWER and sides == TWO_SIDED):
        return
    Q[p, Q_SIDE] = SIDE_UPPER
    nx, ny, nz, level, _ = plane_side(p, X, geo, Q)
    cx, cy, cz = turned(a, X, GF[sa, G_CENTRE], GF[sa, G_CENTRE + 1], GF[sa, G_CENTRE + 2])
    above = nx * (X[a, 0] + cx) + ny * (X[a, 1] + cy) + nz * (X[a, 2] + cz) - level
    if before == SIDE_SOLID:  # at the start
        if above < 0.0:
            Q[p, Q_SIDE] = SIDE_NONE if sides == ONE_SIDED else SIDE_LOWER
    elif above < GF[sa, G_BOUND]:
        Q[p, Q_SIDE] = SIDE_NONE


@kernel
def _rim_point(sa, a, f, nx, ny, nz, X, geo):
    """World vector from the centre of mass to feature ``f`` of a cylinder over a plane."""
    GF = reals(geo, SC_GF)
    o = G_A if f < 4 else G_B
    ax, ay, az = turned(a, X, GF[sa, G_A], GF[sa, G_A + 1], GF[sa, G_A + 2])
    bx, by, bz = turned(a, X, GF[sa, G_B], GF[sa, G_B + 1], GF[sa, G_B + 2])
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
    r = GF[sa, G_RADIUS] if k < 2 else -GF[sa, G_RADIUS]
    ex, ey, ez = (ax, ay, az) if o == G_A else (bx, by, bz)
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
    GI, VT, FC, FI, LP = wholes(geo, SC_GI), reals(geo, SC_VT), reals(geo, SC_FC), wholes(geo, SC_FI), wholes(geo, SC_LP)
    best, bx, by, bz = -1e300, 0.0, 0.0, 1.0
    f0, nf = GI[s, I_F0], GI[s, I_NF]
    for f in range(f0, f0 + nf):
        d = FC[f, 0] * lx + FC[f, 1] * ly + FC[f, 2] * lz - FC[f, 3]
        if d > best:
            best, bx, by, bz = d, FC[f, 0], FC[f, 1], FC[f, 2]
    if best <= 0.0:
        return best, bx, by, bz
    v0 = GI[s, I_V0]
    near = 1e300
    for f in range(f0, f0 + nf):
        d = FC[f, 0] * lx + FC[f, 1] * ly + FC[f, 2] * lz - FC[f, 3]
        if d <= 0.0:
            continue
        nx, ny, nz = FC[f, 0], FC[f, 1], FC[f, 2]
        qx, qy, qz = lx - d * nx, ly - d * ny, lz - d * nz
        inside = True
        start, count = FI[f, 0], FI[f, 1]
        for k in range(count):
            i, j = v0 + LP[0, start + k], v0 + LP[0, start + (k + 1) % count]
            ex, ey, ez = VT[j, 0] - VT[i, 0], VT[j, 1] - VT[i, 1], VT[j, 2] - VT[i, 2]
            rx, ry, rz = qx - VT[i, 0], qy - VT[i, 1], qz - VT[i, 2]
            side = nx * (ey * rz - ez * ry) + ny * (ez * rx - ex * rz) + nz * (ex * ry - ey * rx)
            if side < 0.0:
                inside = False
                rx, ry, rz = lx - VT[i, 0], ly - VT[i, 1], lz - VT[i, 2]
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
    GF = reals(geo, SC_GF)
    ax, ay, az = GF[s, G_A], GF[s, G_A + 1], GF[s, G_A + 2]
    ux, uy, uz = GF[s, G_B] - ax, GF[s, G_B + 1] - ay, GF[s, G_B + 2] - az
    length = sqrt(ux * ux + uy * uy + uz * uz)
    ux, uy, uz = ux / length, uy / length, uz / length
    mx, my, mz = lx - GF[s, G_CENTRE], ly - GF[s, G_CENTRE + 1], lz - GF[s, G_CENTRE + 2]
    t = mx * ux + my * uy + mz * uz
    rx, ry, rz = mx - t * ux, my - t * uy, mz - t * uz
    rho = sqrt(rx * rx + ry * ry + rz * rz)
    if rho > 1e-12:
        rx, ry, rz = rx / rho, ry / rho, rz / rho
    sign = 1.0 if t >= 0.0 else -1.0
    over, out = abs(t) - 0.5 * length, rho - GF[s, G_RADIUS]
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
    GF, GI, VT = reals(geo, SC_GF), wholes(geo, SC_GI), reals(geo, SC_VT)
    kind, sa, sb, a, b = Q[p, Q_KIND], Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    clear = GF[sa, G_CLEAR] + GF[sb, G_CLEAR]
    dx, dy, dz = X[a, 0] - X[b, 0], X[a, 1] - X[b, 1], X[a, 2] - X[b, 2]
    if kind <= RIM_PLANE:
        nx, ny, nz, level, acts = plane_side(p, X, geo, Q)
        if acts == 0:
            return FAR, nx, ny, nz, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        r = 0.0
        if kind == ROUND_PLANE:
            o = G_A if f == 0 else G_B
            cx, cy, cz = turned(a, X, GF[sa, o], GF[sa, o + 1], GF[sa, o + 2])
            r = GF[sa, G_RADIUS]
        elif kind == VERTEX_PLANE:
            v = GI[sa, I_V0] + f
            cx, cy, cz = turned(a, X, VT[v, 0], VT[v, 1], VT[v, 2])
        else:
            cx, cy, cz = _rim_point(sa, a, f, nx, ny, nz, X, geo)
        gap = nx * (X[a, 0] + cx) + ny * (X[a, 1] + cy) + nz * (X[a, 2] + cz) - level - r
        cx, cy, cz = cx - r * nx, cy - r * ny, cz - r * nz
        return gap - clear, nx, ny, nz, cx, cy, cz, dx + cx, dy + cy, dz + cz
    ax, ay, az = turned(a, X, GF[sa, G_A], GF[sa, G_A + 1], GF[sa, G_A + 2])
    r = GF[sa, G_RADIUS]
    if kind == ROUND_ROUND:
        r2 = GF[sb, G_RADIUS]
        bx, by, bz = turned(a, X, GF[sa, G_B], GF[sa, G_B + 1], GF[sa, G_B + 2])
        cx, cy, cz = turned(b, X, GF[sb, G_A], GF[sb, G_A + 1], GF[sb, G_A + 2])
        ex, ey, ez = turned(b, X, GF[sb, G_B], GF[sb, G_B + 1], GF[sb, G_B + 2])
        s, t = segments(dx + ax, dy + ay, dz + az, dx + bx, dy + by, dz + bz, cx, cy, cz, ex, ey, ez)
        px, py, pz = ax + s * (bx - ax), ay + s * (by - ay), az + s * (bz - az)
        qx, qy, qz = cx + t * (ex - cx), cy + t * (ey - cy), cz + t * (ez - cz)
        nx, ny, nz = dx + px - qx, dy + py - qy, dz + pz - qz
        d = sqrt(nx * nx + ny * ny + nz * nz)
        nx, ny, nz = (nx / d, ny / d, nz / d) if d > 1e-12 else (0.0, 0.0, 1.0)
        return (d - r - r2 - clear, nx, ny, nz, px - r * nx, py - r * ny, pz - r * nz, qx + r2 * nx, qy + r2 * ny,
                qz + r2 * nz)
    # a sphere's centre and a solid: in the frame of b's body
    lx, ly, lz = rotate(X[b, 3], -X[b, 4], -X[b, 5], -X[b, 6], dx + ax, dy + ay, dz + az)
    if kind == POINT_BOX:
        w, x, y, z = GF[sb, G_POSE], GF[sb, G_POSE + 1], GF[sb, G_POSE + 2], GF[sb, G_POSE + 3]
        lx, ly, lz = lx - GF[sb, G_CENTRE], ly - GF[sb, G_CENTRE + 1], lz - GF[sb, G_CENTRE + 2]
        lx, ly, lz = rotate(w, -x, -y, -z, lx, ly, lz)
        d, ox, oy, oz = point_box(GF[sb, G_HALF], GF[sb, G_HALF + 1], GF[sb, G_HALF + 2], lx, ly, lz)
        ox, oy, oz = rotate(w, x, y, z, ox, oy, oz)
    elif kind == POINT_CYLINDER:
        d, ox, oy, oz = point_cylinder(sb, lx, ly, lz, geo)
    else:
        d, ox, oy, oz = point_hull(sb, lx, ly, lz, geo)
    nx, ny, nz = rotate(X[b, 3], X[b, 4], X[b, 5], X[b, 6], ox, oy, oz)
    px, py, pz = dx + ax - d * nx, dy + ay - d * ny, dz + az - d * nz
    return d - r - clear, nx, ny, nz, ax - r * nx, ay - r * ny, az - r * nz, px, py, pz


@kernel
def closing(a, b, X, nx, ny, nz, ax, ay, az, bx, by, bz):
    """Rate of the gap: normal velocity of a's point relative to b's."""
    ux = X[a, 7] - X[b, 7] + X[a, 11] * az - X[a, 12] * ay - X[b, 11] * bz + X[b, 12] * by
    uy = X[a, 8] - X[b, 8] + X[a, 12] * ax - X[a, 10] * az - X[b, 12] * bx + X[b, 10] * bz
    uz = X[a, 9] - X[b, 9] + X[a, 10] * ay - X[a, 11] * ax - X[b, 10] * by + X[b, 11] * bx
    return nx * ux + ny * uy + nz * uz


@kernel
def gap_and_rate(p, f, X, geo, Q):
    """Distance of a feature and how fast it grows."""
    gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, geo, Q)
    return gap, closing(Q[p, Q_BA], Q[p, Q_BB], X, nx, ny, nz, ax, ay, az, bx, by, bz)


@kernel
def far_apart(p, travel, X, geo, Q):
    """Whether the bounding spheres of a pair stay apart for longer than a relative travel."""
    GF = reals(geo, SC_GF)
    sa, sb, a, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    ax, ay, az = turned(a, X, GF[sa, G_CENTRE], GF[sa, G_CENTRE + 1], GF[sa, G_CENTRE + 2])
    ax, ay, az = X[a, 0] + ax, X[a, 1] + ay, X[a, 2] + az
    room = GF[sa, G_BOUND] + GF[sa, G_CLEAR] + GF[sb, G_CLEAR] + travel
    if Q[p, Q_KIND] <= RIM_PLANE:
        nx, ny, nz = turned(b, X, GF[sb, G_B], GF[sb, G_B + 1], GF[sb, G_B + 2])
        px, py, pz = turned(b, X, GF[sb, G_A], GF[sb, G_A + 1], GF[sb, G_A + 2])
        d = nx * (ax - X[b, 0] - px) + ny * (ay - X[b, 1] - py) + nz * (az - X[b, 2] - pz)
        return (abs(d) if wholes(geo, SC_GI)[sb, I_SIDES] != 0 else d) > room
    bx, by, bz = turned(b, X, GF[sb, G_CENTRE], GF[sb, G_CENTRE + 1], GF[sb, G_CENTRE + 2])
    dx, dy, dz = ax - X[b, 0] - bx, ay - X[b, 1] - by, az - X[b, 2] - bz
    room += GF[sb, G_BOUND]
    return dx * dx + dy * dy + dz * dz > room * room


@kernel
def shift(a, b, gap, nx, ny, nz, S, P):
    """Move two bodies along a normal until their gap is closed, by their mobility; what is locked stays."""
    ma, mb = 0.0, 0.0
    if P[a, MOTION] == 1.0:
        ma = P[a, INV_MASS]
    if P[b, MOTION] == 1.0:
        mb = P[b, INV_MASS]
    if ma + mb == 0.0:
        return
    share = ma / (ma + mb)
    for side in range(2):
        q = a if side == 0 else b
        d = -share * gap if side == 0 else (1.0 - share) * gap
        if P[q, MOTION] != 1.0 or P[q, LOCK] != 0.0:
            continue
        S[q, 0] += d * nx
        S[q, 1] += d * ny
        S[q, 2] += d * nz
