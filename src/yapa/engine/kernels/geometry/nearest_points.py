"""Nearest points of two segments, and of a point and a solid, in closed form (Ericson, Real-Time Collision Detection, ch. 5)."""

from math import sqrt

from yapa.engine.kernels.jit import REAL, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import face_plane, loop, scene_table, shape, shape_int, vertex
from yapa.engine.kernels.layout.views import reals, wholes


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
