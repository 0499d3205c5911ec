"""Energy of bodies: kinetic, and potential in the uniform field; and taking from an island what a step has gained.

What is taken of an island that touches nothing fixed must leave its momentum and its angular momentum as they are. Its motion is
that of one rigid body, v_c + Ω × r with Ω = I⁻¹ L about the mass centre, and a rest that has neither; both are orthogonal in the
kinetic energy, so the rest alone is scaled (Goldstein, Classical Mechanics, ch. 1 and 5).
"""

from math import sqrt

from yapa.engine.kernels.dynamics.flight import momentum_of, same_all_round
from yapa.engine.kernels.dynamics.forces import gravity
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import body, state
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    carried,
    cross,
    dot,
    minus,
    over,
    plus,
    put,
    quaternion,
    rotate_back,
    vector,
)


@kernel
def body_energy(q, X, P):
    """Kinetic energy of one body at the velocities in ``X``."""
    im = P[q, body.INV_MASS]
    if im == 0.0:
        return 0.0
    velocity, spin, inertia = vector(X, q, state.VELOCITY), vector(X, q, state.OMEGA), vector(P, q, body.INERTIA)
    total = dot(velocity, velocity) / im
    if same_all_round(inertia):
        return 0.5 * (total + inertia[0] * dot(spin, spin))
    x, y, z = rotate_back(quaternion(X, q, state.ORIENTATION), spin)
    return 0.5 * (total + inertia[0] * x * x + inertia[1] * y * y + inertia[2] * z * z)


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


@part
def _common_motion(bodies, BL, X, P):
    """Where the mass centre of an island is, and its velocity."""
    mass, centre, velocity = 0.0, ZERO, ZERO
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            m = 1.0 / P[b, body.INV_MASS]
            mass += m
            centre = ahead(centre, m, vector(X, b, state.POSITION))
            velocity = ahead(velocity, m, vector(X, b, state.VELOCITY))
    return over(centre, mass), over(velocity, mass)


@part
def _common_spin(centre, velocity, bodies, BL, X, P):
    """Ω = I⁻¹ L of an island about its mass centre, by the adjugate of I; zero where I has no inverse."""
    xx, yy, zz, xy, yz, xz, momentum = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, ZERO
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            m, q, inertia = 1.0 / P[b, body.INV_MASS], quaternion(X, b, state.ORIENTATION), vector(P, b, body.INERTIA)
            r = minus(vector(X, b, state.POSITION), centre)
            own = momentum_of(q, vector(X, b, state.OMEGA), inertia)
            momentum = ahead(plus(momentum, own), m, cross(r, minus(vector(X, b, state.VELOCITY), velocity)))
            rx, ry, rz = r
            ax, ay, az = momentum_of(q, (1.0, 0.0, 0.0), inertia)
            _, by, bz = momentum_of(q, (0.0, 1.0, 0.0), inertia)
            _, _, dz = momentum_of(q, (0.0, 0.0, 1.0), inertia)
            xx, yy, zz = xx + ax + m * (ry * ry + rz * rz), yy + by + m * (rx * rx + rz * rz), zz + dz + m * (rx * rx + ry * ry)
            xy, yz, xz = xy + ay - m * rx * ry, yz + bz - m * ry * rz, xz + az - m * rx * rz
    a, b, c = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
    det = xx * a + xy * b + xz * c
    if not det > 0.0:
        return ZERO
    d, e, f = xx * zz - xz * xz, xz * xy - xx * yz, xx * yy - xy * xy
    return over((dot((a, b, c), momentum), dot((b, d, e), momentum), dot((c, e, f), momentum)), det)


@far(REAL, REAL, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2)
def take_inside(gain, least, kinetic, bodies, BL, X, P):
    """Take this energy from how the bodies of an island move against each other. Returns what was taken.

    An island that has less than ``least`` of that is left alone; one that has less than the gain gives all."""
    centre, velocity = _common_motion(bodies, BL, X, P)
    spin = _common_spin(centre, velocity, bodies, BL, X, P)
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
            common = carried(velocity, spin, minus(vector(X, b, state.POSITION), centre))
            own_v, own_w = minus(vector(X, b, state.VELOCITY), common), minus(vector(X, b, state.OMEGA), spin)
            if step == 0:
                own_l = momentum_of(quaternion(X, b, state.ORIENTATION), own_w, vector(P, b, body.INERTIA))
                twice = dot(own_v, own_v) / P[b, body.INV_MASS]
                rest += 0.5 * (twice + own_w[0] * own_l[0] + own_w[1] * own_l[1] + own_w[2] * own_l[2])
                continue
            put(X, b, state.VELOCITY, ahead(common, share, own_v))
            put(X, b, state.OMEGA, ahead(spin, share, own_w))
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
