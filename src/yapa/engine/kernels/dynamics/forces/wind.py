"""The air moves with one velocity everywhere; forces of the air go by the velocity of a body through it, u = v - wind."""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import config, state
from yapa.engine.kernels.math.vectors import minus, vector


@kernel
def velocity(cfg):
    """That of the air."""
    return cfg[config.WIND_X], cfg[config.WIND_Y], cfg[config.WIND_Z]


@kernel
def through_air(b, S, cfg):
    """Velocity of a body through the air."""
    return minus(vector(S, b, state.VELOCITY), velocity(cfg))
