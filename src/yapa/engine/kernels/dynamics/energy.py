"""Energy of bodies: kinetic, and potential in the uniform field; and taking from an island what a step has gained.

What is taken of an island that touches nothing fixed must leave its momentum and its angular momentum as they are. Its motion is
that of one rigid body, v_c + Ω × r with Ω = I⁻¹ L about the mass centre, and a rest that has neither; both are orthogonal in the
kinetic energy, so the rest alone is scaled (Goldstein, Classical Mechanics, ch. 1 and 5).
"""

from math import sqrt

from yapa.engine.kernels.dynamics.flight import momentum_of, rotate
from yapa.engine.kernels.dynamics.forces import gravity
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import body, state


@kernel
def body_energy(q, X, P):
    """Kinetic energy of one body at the velocities in ``X``."""
    im = P[q, body.INV_MASS]
    if im == 0.0:
        return 0.0
    total = (X[q, state.VX] ** 2 + X[q, state.VY] ** 2 + X[q, state.VZ] ** 2) / im
    i1, i2, i3 = P[q, body.INERTIA], P[q, body.INERTIA + 1], P[q, body.INERTIA + 2]
    if i1 == i2 and i2 == i3:
        return 0.5 * (total + i1 * (X[q, state.WX] ** 2 + X[q, state.WY] ** 2 + X[q, state.WZ] ** 2))
    bx, by, bz = rotate(X[q, state.QW], -X[q, state.QX], -X[q, state.QY], -X[q, state.QZ], X[q, state.WX], X[q, state.WY],
                        X[q, state.WZ])
    return 0.5 * (total + i1 * bx * bx + i2 * by * by + i3 * bz * bz)


@kernel
def island_energy(bodies, BL, S, P, cfg):
    """Kinetic and potential energy of an island, and the kinetic part."""
    kinetic, potential = 0.0, 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            kinetic += body_energy(b, S, P)
            potential += gravity.potential(b, S, P, cfg)
    return kinetic + potential, kinetic


@kernel
def unlocked(bodies, BL, P):
    """Whether every body of an island that forces move is free along and about all axes."""
    for k in range(bodies):
        b = BL[k]
        if (P[b, body.INV_MASS] > 0.0 and (P[b, body.LOCK] != 0.0 or P[b, body.IM] == 0.0 or P[b, body.IM + 1] == 0.0
                                           or P[b, body.IM + 2] == 0.0)):
            return False
    return True


@kernel
def _scale_all(share, bodies, BL, X, P):
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
            for c in range(state.VELOCITY, state.ROTATION):
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
        if P[b, body.INV_MASS] > 0.0:
            m = 1.0 / P[b, body.INV_MASS]
            mass += m
            cx, cy, cz = cx + m * X[b, state.X], cy + m * X[b, state.Y], cz + m * X[b, state.Z]
            ux, uy, uz = ux + m * X[b, state.VX], uy + m * X[b, state.VY], uz + m * X[b, state.VZ]
    cx, cy, cz, ux, uy, uz = cx / mass, cy / mass, cz / mass, ux / mass, uy / mass, uz / mass
    xx, yy, zz, xy, yz, xz, lx, ly, lz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            m, w, i, j, n = 1.0 / P[b, body.INV_MASS], X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ]
            i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
            rx, ry, rz = X[b, state.X] - cx, X[b, state.Y] - cy, X[b, state.Z] - cz
            vx, vy, vz = X[b, state.VX] - ux, X[b, state.VY] - uy, X[b, state.VZ] - uz
            px, py, pz = momentum_of(w, i, j, n, X[b, state.WX], X[b, state.WY], X[b, state.WZ], i1, i2, i3)
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
            if P[b, body.INV_MASS] == 0.0:
                continue
            rx, ry, rz = X[b, state.X] - cx, X[b, state.Y] - cy, X[b, state.Z] - cz
            vx, vy, vz = ux + ty * rz - tz * ry, uy + tz * rx - tx * rz, uz + tx * ry - ty * rx
            if step == 0:
                dx, dy, dz = X[b, state.VX] - vx, X[b, state.VY] - vy, X[b, state.VZ] - vz
                ox, oy, oz = X[b, state.WX] - tx, X[b, state.WY] - ty, X[b, state.WZ] - tz
                px, py, pz = momentum_of(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], ox, oy, oz,
                                         P[b, body.INERTIA], P[b, body.INERTIA + 1],
                                         P[b, body.INERTIA + 2])
                rest += 0.5 * ((dx * dx + dy * dy + dz * dz) / P[b, body.INV_MASS] + ox * px + oy * py + oz * pz)
                continue
            X[b, state.VX], X[b, state.VY], X[b, state.VZ] = (vx + share * (X[b, state.VX] - vx), vy + share
                                                              * (X[b, state.VY] - vy), vz + share * (X[b, state.VZ] - vz))
            X[b, state.WX], X[b, state.WY], X[b, state.WZ] = (tx + share * (X[b, state.WX] - tx), ty + share
                                                              * (X[b, state.WY] - ty), tz + share * (X[b, state.WZ] - tz))
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
