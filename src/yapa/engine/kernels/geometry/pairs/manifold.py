"""Two polytopes: they touch in a contact manifold (``geometry.manifold``), not by features."""

from yapa.engine.kernels.geometry.placing import FAR
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.math.vectors import UP, ZERO


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    return FAR, UP, ZERO, ZERO


@part
def rolling_radius(p, f, geo, Q):
    """None: both are flat."""
    return 0.0
