"""Energy of bodies: kinetic, and potential in the uniform field."""

from yapa.engine.kernels.flight import rotate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import CFG_GX, GRAVITY, INERTIA, INV_MASS


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
