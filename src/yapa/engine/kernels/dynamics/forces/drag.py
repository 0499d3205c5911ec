"""Quadratic drag of the air.

    m a = -½ ρ C_d A |u| u,   u = v - wind        power = m a · v

Flight carries it by Runge-Kutta 4 (there is no closed form in two dimensions), soft contact by an implicit step of the speed,
u' = u/(1 + h k |u|), a fixed step by an explicit one that never turns a motion round. k = ½ ρ C_d A/m.
"""

from math import sqrt

from yapa.engine.kernels.dynamics.forces.wind import through_air
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import body, config, state
from yapa.engine.kernels.math.vectors import dot, length, times, vector

TURNING, GROWING, SLOW = 4e-6, 5e-10, 0.02
"""m/s², what drag that turns, and drag that grows, may err by; m/s, speeds below are as good as this."""
STIFF = 1e-3
"""Share of a step: where drag asks for less, its errors are those of a way hardly seen."""


@kernel
def strength(b, P):
    """k of a body [1/m]."""
    return P[b, body.DRAG] * P[b, body.INV_MASS]


@kernel
def retardation(u, k):
    """What drag takes from the acceleration at a velocity through the air."""
    return times(k * length(u), u)


@kernel
def rate(b, S, P, cfg):
    """k |u| of a body: the share of its speed that drag takes each second."""
    return P[b, body.DRAG] * P[b, body.INV_MASS] * length(through_air(b, S, cfg))


@kernel
def is_windy(cfg):
    """Whether the air moves: only then drag can give energy."""
    return cfg[config.WIND_X] != 0.0 or cfg[config.WIND_Y] != 0.0 or cfg[config.WIND_Z] != 0.0


@kernel
def power(b, X, P, cfg):
    """m a · v of a body [W]."""
    u = through_air(b, X, cfg)
    return -P[b, body.DRAG] * length(u) * dot(u, vector(X, b, state.VELOCITY))


@kernel
def clamped_share(u, k, h):
    """The share of a speed that an explicit step takes: at most all of it."""
    share = h * k * length(u)
    return 1.0 if share > 1.0 else share


@kernel
def _slowest(u, g, h):
    """The least speed through the medium within a time, weighed down by ``g``, as if there were no drag."""
    ux, uy, uz = u
    across = ux * ux + uy * uy
    if 0.0 < uz * g < g * g * h:  # a top lies inside
        return sqrt(across)
    uz -= g * h
    return sqrt(across + uz * uz)


@kernel
def longest_step(b, h, flying, S, P, cfg):
    """The longest substep of at most ``h``: drag over a small share of its time scale.

    In flight the direction of drag turns with the motion, fastest where it is slowest: Runge-Kutta 4 errs there by about
    k h⁴ g⁴ / (120 v²) m/s each second, which is kept under TURNING; and where it grows, by k² h⁴ g³ / 120. What drag stops within
    a thousandth of a step is carried in a quarter of its time scale at most (error 1e-5 of the way on which it is stopped).
    """
    k = strength(b, P)
    u = through_air(b, S, cfg)
    g, speed = -cfg[config.GZ] * P[b, body.GRAVITY], length(u)
    if flying:
        h = min(h, 0.005 / (2.0 * k * speed + P[b, body.LIN_DAMP]))
        if g != 0.0:
            g2 = g * g
            h = min(h, sqrt(sqrt(120.0 * GROWING / (k * k * g2 * abs(g)))))
            turning = sqrt(sqrt(120.0 * TURNING / (k * g2 * g2)))
            h = min(h, turning * sqrt(max(speed, SLOW)))
            h = min(h, turning * sqrt(max(_slowest(u, g, h), SLOW)))
    else:
        h = min(h, 0.0025 / (2.0 * k * (speed + abs(g) * h) + P[b, body.LIN_DAMP]))
    if h < STIFF * cfg[config.STEP]:
        h = min(STIFF * cfg[config.STEP], max(h, 0.25 / (2.0 * (k * speed + sqrt(k * abs(g))) + P[b, body.LIN_DAMP])))
    return h
