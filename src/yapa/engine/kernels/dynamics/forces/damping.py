"""Linear and angular damping.

    dv/dt = -c v        dL/dt = -c_a L        power = -c m v²

Closed form under a constant acceleration a, used as it is in flight and in soft contact:

    v = v₀ e^{-cs} + a (1 - e^{-cs})/c        x = x₀ + v₀ (1 - e^{-cs})/c + a ∫(1 - e^{-cs})/c

A stepped profile multiplies velocities once a substep instead, by the factor of its convention.
"""

from math import exp, expm1

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import body, config, damping_form


@kernel
def decay_factors(c, s):
    """exp(-c s), (1 - exp(-c s))/c, and the integral of the latter."""
    if c == 0.0:
        return 1.0, s, 0.5 * s * s
    a = c * s
    one = -expm1(-a)
    if a < 1e-4:
        first = s * (1.0 - a * (0.5 - a * (1.0 / 6.0 - a / 24.0)))
        second = s * s * (0.5 - a * (1.0 / 6.0 - a * (1.0 / 24.0 - a / 120.0)))
        return 1.0 - one, first, second
    return exp(-a), one / c, (s - one / c) / c


@kernel
def factor_of_profile(c, h, first, cfg):
    """What a velocity is multiplied with over ``h`` of a stepped profile; ``first`` where a step begins."""
    if c == 0.0:
        return 1.0
    form = cfg[config.DAMPING]
    if form == damping_form.EXPONENTIAL:
        return exp(-c * h)
    if form == damping_form.LINEAR:
        return max(0.0, 1.0 - c * h)
    if form == damping_form.POWER:
        return (1.0 - min(c, 1.0)) ** h
    if form == damping_form.RECIPROCAL:
        return 1.0 / (1.0 + c * h)
    return max(0.0, 1.0 - c) if first else 1.0


@kernel
def longest_step(b, h, P):
    """The longest substep of at most ``h``, by linear damping alone."""
    return min(h, 0.04 / P[b, body.LIN_DAMP]) if P[b, body.LIN_DAMP] > 0.0 else h
