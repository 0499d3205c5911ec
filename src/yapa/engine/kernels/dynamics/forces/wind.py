"""The air moves with one velocity everywhere; forces of the air go by the velocity of a body through it, u = v - wind."""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import config, state


@kernel
def through_air(b, S, cfg):
    """Velocity of a body through the air."""
    return S[b, state.VX] - cfg[config.WIND_X], S[b, state.VY] - cfg[config.WIND_Y], S[b, state.VZ] - cfg[config.WIND_Z]
