"""Uniform gravity.

    a = m_g g        U = -m m_g g · x        ½ m v² + U is kept

with m_g the body's own multiplier. Closed form: x = x₀ + v₀ t + ½ a t², a parabola.
"""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import body, config, state


@kernel
def acceleration(b, P, cfg):
    """Along the three axes."""
    m = P[b, body.GRAVITY]
    return cfg[config.GX] * m, cfg[config.GY] * m, cfg[config.GZ] * m


@kernel
def kick(b, axis, h, P, cfg):
    """Velocity gained along an axis over ``h``."""
    return h * P[b, body.GRAVITY] * cfg[config.GRAVITY + axis]


@kernel
def along(b, nx, ny, nz, P, cfg):
    """Along a direction; 0 for what no force moves."""
    if P[b, body.INV_MASS] == 0.0:
        return 0.0
    return P[b, body.GRAVITY] * (nx * cfg[config.GX] + ny * cfg[config.GY] + nz * cfg[config.GZ])


@kernel
def potential(b, S, P, cfg):
    """Potential energy, 0 at the origin."""
    weight = P[b, body.GRAVITY] / P[b, body.INV_MASS]
    return -(weight * (cfg[config.GX] * S[b, state.X] + cfg[config.GY] * S[b, state.Y] + cfg[config.GZ] * S[b, state.Z]))


@kernel
def bound(b, P, cfg):
    """The greatest acceleration by it."""
    return abs(P[b, body.GRAVITY] * cfg[config.GZ])


@kernel
def lift(b, P, cfg):
    """The energy of lifting a body by its own size."""
    return abs(P[b, body.GRAVITY] * cfg[config.GZ]) * P[b, body.REACH] / P[b, body.INV_MASS]
