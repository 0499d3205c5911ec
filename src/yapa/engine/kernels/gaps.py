"""Distance between two shapes and its rate, and the contact frame where they touch.

The normal points from ``b`` to ``a``. A box meets a plane with its eight corners, each a feature
of its own; every other pair has one feature. ``X`` holds the states of all bodies at one instant.
"""

from math import sqrt

from yapa.engine.kernels.flight import rotate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import BOX_PLANE, EXTENT, SPHERE_PLANE, SPHERE_SPHERE


@kernel
def corner(feature, X, P, a):
    """World vector from a box's centre to one of its corners."""
    sx = 1.0 if feature & 1 else -1.0
    sy = 1.0 if feature & 2 else -1.0
    sz = 1.0 if feature & 4 else -1.0
    return rotate(X[a, 3], X[a, 4], X[a, 5], X[a, 6],
                  sx * P[a, EXTENT], sy * P[a, EXTENT + 1], sz * P[a, EXTENT + 2])


@kernel
def frame(kind, a, b, feature, X, P):
    """gap, normal (3), arm on a (3), arm on b (3): all in world axes."""
    dx, dy, dz = X[a, 0] - X[b, 0], X[a, 1] - X[b, 1], X[a, 2] - X[b, 2]
    if kind == SPHERE_PLANE:
        nx, ny, nz = P[b, EXTENT], P[b, EXTENT + 1], P[b, EXTENT + 2]
        r = P[a, EXTENT]
        gap = nx * dx + ny * dy + nz * dz - r
        return gap, nx, ny, nz, -r * nx, -r * ny, -r * nz, dx - r * nx, dy - r * ny, dz - r * nz
    if kind == BOX_PLANE:
        nx, ny, nz = P[b, EXTENT], P[b, EXTENT + 1], P[b, EXTENT + 2]
        cx, cy, cz = corner(feature, X, P, a)
        gap = nx * (dx + cx) + ny * (dy + cy) + nz * (dz + cz)
        return gap, nx, ny, nz, cx, cy, cz, dx + cx, dy + cy, dz + cz
    if kind == SPHERE_SPHERE:
        ra, rb = P[a, EXTENT], P[b, EXTENT]
        d = sqrt(dx * dx + dy * dy + dz * dz)
        nx, ny, nz = (dx / d, dy / d, dz / d) if d > 0.0 else (0.0, 0.0, 1.0)
        return d - ra - rb, nx, ny, nz, -ra * nx, -ra * ny, -ra * nz, rb * nx, rb * ny, rb * nz
    # a sphere and a box: the box's point nearest to the centre
    r = P[a, EXTENT]
    lx, ly, lz = rotate(X[b, 3], -X[b, 4], -X[b, 5], -X[b, 6], dx, dy, dz)
    ex, ey, ez = P[b, EXTENT], P[b, EXTENT + 1], P[b, EXTENT + 2]
    px, py, pz = min(max(lx, -ex), ex), min(max(ly, -ey), ey), min(max(lz, -ez), ez)
    ox, oy, oz = lx - px, ly - py, lz - pz
    d = sqrt(ox * ox + oy * oy + oz * oz)
    if d > 1e-12:
        ox, oy, oz = ox / d, oy / d, oz / d
    else:
        fx, fy, fz = ex - abs(lx), ey - abs(ly), ez - abs(lz)
        if fx <= fy and fx <= fz:
            ox, oy, oz, d = (1.0 if lx >= 0.0 else -1.0), 0.0, 0.0, -fx
        elif fy <= fz:
            ox, oy, oz, d = 0.0, (1.0 if ly >= 0.0 else -1.0), 0.0, -fy
        else:
            ox, oy, oz, d = 0.0, 0.0, (1.0 if lz >= 0.0 else -1.0), -fz
    nx, ny, nz = rotate(X[b, 3], X[b, 4], X[b, 5], X[b, 6], ox, oy, oz)
    return d - r, nx, ny, nz, -r * nx, -r * ny, -r * nz, dx - r * nx, dy - r * ny, dz - r * nz


@kernel
def point_velocity(X, b, rx, ry, rz):
    """Velocity of the point at arm r of body b."""
    return (
        X[b, 7] + X[b, 11] * rz - X[b, 12] * ry,
        X[b, 8] + X[b, 12] * rx - X[b, 10] * rz,
        X[b, 9] + X[b, 10] * ry - X[b, 11] * rx,
    )


@kernel
def gap_and_rate(kind, a, b, feature, X, P):
    """Distance and how fast it grows."""
    gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(kind, a, b, feature, X, P)
    ux, uy, uz = point_velocity(X, a, ax, ay, az)
    wx, wy, wz = point_velocity(X, b, bx, by, bz)
    return gap, nx * (ux - wx) + ny * (uy - wy) + nz * (uz - wz)
