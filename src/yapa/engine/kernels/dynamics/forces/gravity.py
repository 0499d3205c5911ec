"""Uniform gravity.

    a = m_g g        U = -m m_g g · x        ½ m v² + U is kept

with m_g the body's own multiplier. Closed form: x = x₀ + v₀ t + ½ a t², a parabola.
"""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import body, config, state
from yapa.engine.kernels.math.vectors import dot, times, vector


@kernel
def field(cfg):
    """What a body falls at whose multiplier is 1."""
    return cfg[config.GX], cfg[config.GY], cfg[config.GZ]


@kernel
def acceleration(b, P, cfg):
    """Along the three axes."""
    return times(P[b, body.GRAVITY], field(cfg))


@kernel
def kick(b, axis, h, P, cfg):
    """Velocity gained along an axis over ``h``."""
    return h * P[b, body.GRAVITY] * cfg[config.GRAVITY + axis]


@kernel
def along(b, n, P, cfg):
    """Along a direction; 0 for what no force moves."""
    if P[b, body.INV_MASS] == 0.0:
        return 0.0
    return P[b, body.GRAVITY] * dot(n, field(cfg))


@kernel
def potential(b, S, P, cfg):
    """Potential energy, 0 at the origin."""
    weight = P[b, body.GRAVITY] / P[b, body.INV_MASS]
    return -(weight * dot(field(cfg), vector(S, b, state.POSITION)))


@kernel
def bound(b, P, cfg):
    """The greatest acceleration by it."""
    return abs(P[b, body.GRAVITY] * cfg[config.GZ])


@kernel
def lift(b, P, cfg):
    """The energy of lifting a body by its own size."""
    return abs(P[b, body.GRAVITY] * cfg[config.GZ]) * P[b, body.REACH] / P[b, body.INV_MASS]
