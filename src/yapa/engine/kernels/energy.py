"""Energy of bodies: kinetic, and potential in the uniform field; and taking from an island what a step has gained.

What is taken of an island that touches nothing fixed must leave its momentum and its angular momentum as they are. Its motion is
that of one rigid body, v_c + Ω × r with Ω = I⁻¹ L about the mass centre, and a rest that has neither; both are orthogonal in the
kinetic energy, so the rest alone is scaled (Goldstein, Classical Mechanics, ch. 1 and 5).
"""

from math import sqrt

from yapa.engine.kernels.flight import momentum_of, rotate
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import CFG_GX, GRAVITY, IM, INERTIA, INV_MASS, LOCK


@kernel
def body_energy(q, X, P):
    """Kinetic energy of one body at the velocities in ``X``."""
    im = P[q, INV_MASS]
    if im == 0.0:
        return 0.0
    total = (X[q, 7] ** 2 + X[q, 8] ** 2 + X[q, 9] ** 2) / im
    i1, i2, i3 = P[q, INERTIA], P[q, INERTIA + 1], P[q, INERTIA + 2]
    if i1 == i2 and i2 == i3:
        return 0.5 * (total + i1 * (X[q, 10] ** 2 + X[q, 11] ** 2 + X[q, 12] ** 2))
    bx, by, bz = rotate(X[q, 3], -X[q, 4], -X[q, 5], -X[q, 6], X[q, 10], X[q, 11], X[q, 12])
    return 0.5 * (total + i1 * bx * bx + i2 * by * by + i3 * bz * bz)


@kernel
def island_energy(bodies, BL, S, P, cfg):
    """Kinetic and potential energy of an island, and the kinetic part."""
    kinetic, potential = 0.0, 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] > 0.0:
            kinetic += body_energy(b, S, P)
            g = P[b, GRAVITY] / P[b, INV_MASS]
            potential -= g * (cfg[CFG_GX] * S[b, 0] + cfg[CFG_GX + 1] * S[b, 1] + cfg[CFG_GX + 2] * S[b, 2])
    return kinetic + potential, kinetic


@kernel
def unlocked(bodies, BL, P):
    """Whether every body of an island that forces move is free along and about all axes."""
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] > 0.0 and (P[b, LOCK] != 0.0 or P[b, IM] == 0.0 or P[b, IM + 1] == 0.0 or P[b, IM + 2] == 0.0):
            return False
    return True


@kernel
def _scale_all(share, bodies, BL, X, P):
    for k in range(bodies):
        if P[BL[k], INV_MASS] > 0.0:
            for c in range(7, 13):
                X[BL[k], c] *= share


@kernel
def _turn_of(xx, yy, zz, xy, yz, xz, lx, ly, lz):
    """Ω with I Ω = L, by the adjugate of a symmetric matrix."""
    a, b, c = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
    det = xx * a + xy * b + xz * c
    if not det > 0.0:
        return 0.0, 0.0, 0.0
    d, e, f = xx * zz - xz * xz, xz * xy - xx * yz, xx * yy - xy * xy
    return (a * lx + b * ly + c * lz) / det, (b * lx + d * ly + e * lz) / det, (c * lx + e * ly + f * lz) / det


@far(REAL, REAL, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2)
def take_inside(gain, least, kinetic, bodies, BL, X, P):
    """Take this energy from how the bodies of an island move against each other. Returns what was taken.

    An island that has less than ``least`` of that is left alone; one that has less than the gain gives all."""
    mass, cx, cy, cz, ux, uy, uz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] > 0.0:
            m = 1.0 / P[b, INV_MASS]
            mass += m
            cx, cy, cz = cx + m * X[b, 0], cy + m * X[b, 1], cz + m * X[b, 2]
            ux, uy, uz = ux + m * X[b, 7], uy + m * X[b, 8], uz + m * X[b, 9]
    cx, cy, cz, ux, uy, uz = cx / mass, cy / mass, cz / mass, ux / mass, uy / mass, uz / mass
    xx, yy, zz, xy, yz, xz, lx, ly, lz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] > 0.0:
            m, w, i, j, n = 1.0 / P[b, INV_MASS], X[b, 3], X[b, 4], X[b, 5], X[b, 6]
            i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
            rx, ry, rz = X[b, 0] - cx, X[b, 1] - cy, X[b, 2] - cz
            vx, vy, vz = X[b, 7] - ux, X[b, 8] - uy, X[b, 9] - uz
            px, py, pz = momentum_of(w, i, j, n, X[b, 10], X[b, 11], X[b, 12], i1, i2, i3)
            lx, ly, lz = lx + px + m * (ry * vz - rz * vy), ly + py + m * (rz * vx - rx * vz), lz + pz + m * (rx * vy - ry * vx)
            ax, ay, az = momentum_of(w, i, j, n, 1.0, 0.0, 0.0, i1, i2, i3)
            _, by, bz = momentum_of(w, i, j, n, 0.0, 1.0, 0.0, i1, i2, i3)
            _, _, dz = momentum_of(w, i, j, n, 0.0, 0.0, 1.0, i1, i2, i3)
            xx, yy, zz = xx + ax + m * (ry * ry + rz * rz), yy + by + m * (rx * rx + rz * rz), zz + dz + m * (rx * rx + ry * ry)
            xy, yz, xz = xy + ay - m * rx * ry, yz + bz - m * ry * rz, xz + az - m * rx * rz
    tx, ty, tz = _turn_of(xx, yy, zz, xy, yz, xz, lx, ly, lz)
    rest = 0.0
    for step in range(2):
        share = 0.0
        if step == 1:
            if rest <= least or rest <= 1e-15 * kinetic:
                return 0.0
            share = sqrt(max(0.0, rest - gain) / rest)
        for k in range(bodies):
            b = BL[k]
            if P[b, INV_MASS] == 0.0:
                continue
            rx, ry, rz = X[b, 0] - cx, X[b, 1] - cy, X[b, 2] - cz
            vx, vy, vz = ux + ty * rz - tz * ry, uy + tz * rx - tx * rz, uz + tx * ry - ty * rx
            if step == 0:
                dx, dy, dz = X[b, 7] - vx, X[b, 8] - vy, X[b, 9] - vz
                ox, oy, oz = X[b, 10] - tx, X[b, 11] - ty, X[b, 12] - tz
                px, py, pz = momentum_of(X[b, 3], X[b, 4], X[b, 5], X[b, 6], ox, oy, oz, P[b, INERTIA], P[b, INERTIA + 1],
                                         P[b, INERTIA + 2])
                rest += 0.5 * ((dx * dx + dy * dy + dz * dz) / P[b, INV_MASS] + ox * px + oy * py + oz * pz)
                continue
            X[b, 7], X[b, 8], X[b, 9] = vx + share * (X[b, 7] - vx), vy + share * (X[b, 8] - vy), vz + share * (X[b, 9] - vz)
            X[b, 10], X[b, 11], X[b, 12] = tx + share * (X[b, 10] - tx), ty + share * (X[b, 11] - ty), tz + share * (X[b, 12] - tz)
    return min(gain, rest)


@kernel
def take_energy(gain, least, kinetic, free, bodies, BL, X, P):
    """Take this energy from an island (or give it, if it is below zero) whose kinetic energy is above ``least``; what was taken.

    ``free``: it touches nothing fixed, and so keeps its momentum."""
    if free:
        return take_inside(gain, least, kinetic, bodies, BL, X, P)
    if kinetic <= least:
        return 0.0
    left = max(0.0, kinetic - gain)
    _scale_all(sqrt(left / kinetic), bodies, BL, X, P)
    return kinetic - left
