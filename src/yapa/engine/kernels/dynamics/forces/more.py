"""The sum of the forces in ``registry``: their acceleration, and its bound over a step.

What uses it asks for ANY first, which is known when it is compiled: without further forces nothing of them is left in a kernel.
"""

from yapa.engine.kernels.dynamics.forces import gravity
from yapa.engine.kernels.dynamics.forces.registry import FORCES
from yapa.engine.kernels.jit import joined, kernel
from yapa.engine.kernels.layout import body
from yapa.engine.kernels.math.vectors import ZERO, length, plus

ANY = len(FORCES) > 0


@joined
def _no_acceleration(b, S, P, cfg):
    return ZERO


@joined
def _no_bound(b, S, P, cfg):
    return 0.0


def _with_acceleration(own, at, rest):
    @joined
    def acceleration(b, S, P, cfg):
        return plus(own(b, at, S, P, cfg), rest(b, S, P, cfg))

    return acceleration


def _with_bound(own, at, rest):
    @joined
    def bound(b, S, P, cfg):
        return own(b, at, S, P, cfg) + rest(b, S, P, cfg)

    return bound


def _twice(own):
    @joined
    def bound(b, at, S, P, cfg):
        return 2.0 * length(own(b, at, S, P, cfg))

    return bound


def _sums():
    total, most, at = _no_acceleration, _no_bound, body.COUNT
    for force in FORCES:
        own = joined(force.acceleration)
        total = _with_acceleration(own, at, total)
        most = _with_bound(joined(force.bound) if hasattr(force, "bound") else _twice(own), at, most)
        at += force.COLUMNS
    return total, most


acceleration, bound = _sums()


@kernel
def whole_bound(b, S, P, cfg):
    """The greatest acceleration of a body by gravity and all further forces over a step."""
    if ANY:
        return gravity.bound(b, P, cfg) + bound(b, S, P, cfg)
    return gravity.bound(b, P, cfg)
