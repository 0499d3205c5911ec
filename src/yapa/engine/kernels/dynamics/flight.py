"""Flight over one substep, and its dense output.

Equations
---------
m dv/dt = m g + F - m c v - k |u| u,  u = v - wind,  k = ½ ρ C_d A
dL/dt = T - c_a L,  ω = R I⁻¹ Rᵀ L  (world axes; torque-free motion needs no gyroscopic term)

F and T are contact force and torque, constant over the substep. Without drag both have closed
forms, used as they are. With drag, the classical Runge-Kutta method of order 4. The place inside
the substep is the quintic that meets place, velocity and acceleration at both ends: exact for a
parabola, error h⁶/46080 times the sixth derivative otherwise. Roots, samples and cuts all use
this quintic, so an outcome is a smooth function of everything that goes in.

A quaternion of a sphere turns by the exponential of its turn (exact for a fixed axis); a box by
Runge-Kutta 4 on dq/dt = ½ ω q with ω from the exact L. (Hairer, Nørsett, Wanner, Solving
Ordinary Differential Equations I, ch. II; Goldstein, Classical Mechanics, ch. 5.)
"""

from yapa.engine.kernels.dynamics.forces import damping, drag, gravity, wind
from yapa.engine.kernels.dynamics.forces.damping import decay_factors
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, far, kernel
from yapa.engine.kernels.layout import body, dense, key, state
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    each,
    further,
    length,
    minus,
    over,
    plus,
    put,
    put_quaternion,
    quaternion,
    quaternion_of,
    quaternion_rate,
    rotate,
    rotate_back,
    times,
    turned_on,
    unit_quaternion,
    vector,
)

SHORT_TURN = 1e-6
"""s: turning asks for no shorter substeps than this, as long as they stay below a quarter of a radian."""
FOLLOW = 0.05
"""s: a pushed body that lags catches up over this time."""


@kernel
def _locked_inverse(lock, q, momentum, inertia):
    """ω = F (Fᵀ I F)⁻¹ Fᵀ L, F the free world axes: what a body turns at when some axes are locked."""
    i1, i2, i3 = inertia
    lx, ly, lz = momentum
    a1, a2, a3 = rotate(q, (1.0, 0.0, 0.0))
    b1, b2, b3 = rotate(q, (0.0, 1.0, 0.0))
    c1, c2, c3 = rotate(q, (0.0, 0.0, 1.0))
    xx = i1 * a1 * a1 + i2 * b1 * b1 + i3 * c1 * c1
    yy = i1 * a2 * a2 + i2 * b2 * b2 + i3 * c2 * c2
    zz = i1 * a3 * a3 + i2 * b3 * b3 + i3 * c3 * c3
    xy = i1 * a1 * a2 + i2 * b1 * b2 + i3 * c1 * c2
    yz = i1 * a2 * a3 + i2 * b2 * b3 + i3 * c2 * c3
    xz = i1 * a1 * a3 + i2 * b1 * b3 + i3 * c1 * c3
    fx, fy, fz = lock & 8 == 0, lock & 16 == 0, lock & 32 == 0
    if fx and fy and not fz:
        det = xx * yy - xy * xy
        return (yy * lx - xy * ly) / det, (xx * ly - xy * lx) / det, 0.0
    if fx and fz and not fy:
        det = xx * zz - xz * xz
        return (zz * lx - xz * lz) / det, 0.0, (xx * lz - xz * lx) / det
    if fy and fz and not fx:
        det = yy * zz - yz * yz
        return 0.0, (zz * ly - yz * lz) / det, (yy * lz - yz * ly) / det
    return lx / xx if fx else 0.0, ly / yy if fy else 0.0, lz / zz if fz else 0.0


@kernel
def spin_of(lock, q, momentum, inertia):
    """Angular velocity from the angular momentum, both in world axes; locked axes do not turn."""
    if lock >= 8:
        return _locked_inverse(lock, q, momentum, inertia)
    x, y, z = rotate_back(q, momentum)
    i1, i2, i3 = inertia
    return rotate(q, (x / i1, y / i2, z / i3))


@kernel
def momentum_of(q, spin, inertia):
    """Angular momentum from the angular velocity, both in world axes."""
    x, y, z = rotate_back(q, spin)
    i1, i2, i3 = inertia
    return rotate(q, (x * i1, y * i2, z * i3))


@kernel
def same_all_round(inertia):
    """Whether any axis is a principal axis."""
    return inertia[0] == inertia[1] and inertia[1] == inertia[2]


@kernel
def inverse_inertia(b, X, P, momentum):
    """World I⁻¹ applied to a vector, at the orientation in ``X``; zero for what does not move freely."""
    if P[b, body.INV_MASS] == 0.0:
        return ZERO
    inertia, lock = vector(P, b, body.INERTIA), int(P[b, body.LOCK])
    if lock < 8 and same_all_round(inertia):
        return over(momentum, inertia[0])
    return spin_of(lock, quaternion(X, b, state.ORIENTATION), momentum, inertia)


@kernel
def _segment(first, count, t, KT):
    """The last key at or before t, -1 before the first; and the time of the one after it."""
    if t < KT[first, key.TIME] - 1e-12:
        return -1, KT[first, key.TIME]
    k = first
    while k + 1 < first + count and KT[k + 1, key.TIME] <= t + 1e-12:
        k += 1
    return k, KT[k + 1, key.TIME] if k + 1 < first + count else 1e300


@far(REAL, WHOLE, REAL, REALS2, REALS2, REALS2)
def lead(b, t, S, P, KT):
    """Put a kinematic body where its keys say it is at time t; before the first it stands there.

    Returns the time of its next key."""
    first, count = int(P[b, body.KEY0]), int(P[b, body.KEYS])
    k, following = _segment(first, count, t, KT)
    s, velocity, spin = 0.0, ZERO, ZERO
    if k >= 0:
        s, velocity, spin = t - KT[k, key.TIME], vector(KT, k, key.VELOCITY), vector(KT, k, key.OMEGA)
    k = max(k, first)
    put(S, b, state.VELOCITY, velocity)
    put(S, b, state.OMEGA, spin)
    put(S, b, state.POSITION, ahead(vector(KT, k, key.POSITION), s, velocity))
    put_quaternion(S, b, state.ORIENTATION, turned_on(quaternion_of(spin, s), quaternion(KT, k, key.ORIENTATION)))
    return following


@kernel
def following_velocity(b, t, S, P, KT):
    """The velocity that takes a pushed body along its path, and to where it should be on it; held there before its first key."""
    first = int(P[b, body.KEY0])
    k, _ = _segment(first, int(P[b, body.KEYS]), t, KT)
    velocity = vector(KT, k, key.VELOCITY) if k >= 0 else ZERO
    k = max(k, first)
    there = ahead(vector(KT, k, key.POSITION), max(t - KT[k, key.TIME], 0.0), velocity)
    return plus(velocity, over(minus(there, vector(S, b, state.POSITION)), FOLLOW))


@kernel
def _pull(v, constant, air, c, k):
    """Acceleration by what is constant, damping and drag."""
    return minus(minus(constant, times(c, v)), drag.retardation(minus(v, air), k))


@kernel
def _free_part(b, a, P):
    """The part of a vector along the axes that a body may move along."""
    if P[b, body.LOCK] == 0.0:
        return a
    return each(a, (free_axis(b, 0, P), free_axis(b, 1, P), free_axis(b, 2, P)))


@kernel
def free_axis(b, axis, P):
    """1 where a body may move along a world axis, 0 where that is locked; 0 for bodies without gravity or forces."""
    return 1.0 if P[b, body.IM + axis] > 0.0 else 0.0


@kernel
def _quintic(D, b, axis, h, start, end):
    """The place along an axis over a substep, from place, velocity and acceleration at its start and at its end."""
    o, (x0, v0, a0), (x1, v1, a1) = dense.QUINTIC + 6 * axis, start, end
    D[b, o] = x0
    D[b, o + 1] = v0
    D[b, o + 2] = 0.5 * a0
    p = x1 - x0 - h * (v0 + 0.5 * h * a0)
    q = (v1 - v0 - h * a0) * h
    r = (a1 - a0) * h * h
    per = 1.0 / h
    per3 = per * per * per
    D[b, o + 3] = (10.0 * p - 4.0 * q + 0.5 * r) * per3
    D[b, o + 4] = (-15.0 * p + 7.0 * q - r) * (per3 * per)
    D[b, o + 5] = (6.0 * p - 3.0 * q + 0.5 * r) * (per3 * per * per)


@kernel
def advance_place(b, h, S, P, D, E, cfg):
    """Fill the quintics of body ``b`` over a substep ``h`` and its end place and velocity."""
    im = P[b, body.INV_MASS]
    g = _free_part(b, ahead(gravity.acceleration(b, P, cfg), im, vector(D, b, dense.FORCE)), P)
    c, k = P[b, body.LIN_DAMP], drag.strength(b, P)
    x, v = vector(S, b, state.POSITION), vector(S, b, state.VELOCITY)
    if k == 0.0 and c == 0.0:
        for axis in range(3):
            a = g[0] if axis == 0 else (g[1] if axis == 1 else g[2])
            u = S[b, state.VELOCITY + axis]
            o = dense.QUINTIC + 6 * axis
            D[b, o] = S[b, axis]
            D[b, o + 1] = u
            D[b, o + 2] = 0.5 * a
            D[b, o + 3] = 0.0
            D[b, o + 4] = 0.0
            D[b, o + 5] = 0.0
            E[b, axis] = S[b, axis] + h * (u + 0.5 * h * a)
            E[b, state.VELOCITY + axis] = u + h * a
        return
    air = _free_part(b, wind.velocity(cfg), P)  # it cannot move a body along a locked axis
    a1 = _pull(v, g, air, c, k)
    if k == 0.0:
        decay, first, second = decay_factors(c, h)
        end_v = ahead(times(decay, v), first, g)
        end_x = ahead(ahead(x, first, v), second, g)
    else:
        d = 0.5 * h
        a2 = _pull(ahead(v, d, a1), g, air, c, k)
        a3 = _pull(ahead(v, d, a2), g, air, c, k)
        a4 = _pull(ahead(v, h, a3), g, air, c, k)
        end_x = ahead(x, h, ahead(v, h / 6.0, plus(plus(a1, a2), a3)))
        end_v = ahead(v, h / 6.0, plus(ahead(a1, 2.0, plus(a2, a3)), a4))
    a_end = _pull(end_v, g, air, c, k)
    _quintic(D, b, 0, h, (x[0], v[0], a1[0]), (end_x[0], end_v[0], a_end[0]))
    _quintic(D, b, 1, h, (x[1], v[1], a1[1]), (end_x[1], end_v[1], a_end[1]))
    _quintic(D, b, 2, h, (x[2], v[2], a1[2]), (end_x[2], end_v[2], a_end[2]))
    put(E, b, state.POSITION, end_x)
    put(E, b, state.VELOCITY, end_v)


@kernel
def place_at(b, s, D, E):
    """Place and velocity inside the substep, from the quintics."""
    for axis in range(3):
        o = dense.QUINTIC + 6 * axis
        c1, c2, c3, c4, c5 = D[b, o + 1], D[b, o + 2], D[b, o + 3], D[b, o + 4], D[b, o + 5]
        E[b, axis] = D[b, o] + s * (c1 + s * (c2 + s * (c3 + s * (c4 + s * c5))))
        E[b, state.VELOCITY + axis] = c1 + s * (2.0 * c2 + s * (3.0 * c3 + s * (4.0 * c4 + s * 5.0 * c5)))


@kernel
def spin_at(b, s, S, P, D, E):
    """Angular velocity and turn of a sphere inside the substep, without its orientation."""
    decay, first, second = decay_factors(P[b, body.ANG_DAMP], s)
    i1 = 1.0 / P[b, body.INERTIA]
    for c in range(3):
        torque = D[b, dense.TORQUE + c] * i1
        E[b, state.OMEGA + c] = S[b, state.OMEGA + c] * decay + torque * first
        E[b, state.ROTATION + c] = S[b, state.ROTATION + c] + S[b, state.OMEGA + c] * first + torque * second


@far(WHOLE, WHOLE, REAL, REALS2, REALS2, REALS2, REALS2)
def turn_at(b, s, S, P, D, E):
    """Orientation, angular velocity and turn inside the substep."""
    if P[b, body.BALL] != 0.0:
        spin_at(b, s, S, P, D, E)
        turn = minus(vector(E, b, state.ROTATION), vector(S, b, state.ROTATION))
        put_quaternion(E, b, state.ORIENTATION, turned_on(quaternion_of(turn, 1.0), quaternion(S, b, state.ORIENTATION)))
        return 0
    decay, first, second = decay_factors(P[b, body.ANG_DAMP], s)
    torque, inertia, lock = vector(D, b, dense.TORQUE), vector(P, b, body.INERTIA), int(P[b, body.LOCK])
    q = quaternion(S, b, state.ORIENTATION)
    before = momentum_of(q, vector(S, b, state.OMEGA), inertia)
    half_decay, half_first, _ = decay_factors(P[b, body.ANG_DAMP], 0.5 * s)
    at, total, turn = q, (0.0, 0.0, 0.0, 0.0), ZERO
    for stage in range(4):
        if stage == 0:
            kept, pushed, weight = 1.0, 0.0, 1.0 / 6.0
        elif stage == 3:
            kept, pushed, weight = decay, first, 1.0 / 6.0
        else:
            kept, pushed, weight = half_decay, half_first, 1.0 / 3.0
        spin = spin_of(lock, at, ahead(times(kept, before), pushed, torque), inertia)
        rate = quaternion_rate(spin, at)
        total, turn = further(total, weight, rate), ahead(turn, weight, spin)
        if stage < 3:
            at = unit_quaternion(further(q, s if stage == 2 else 0.5 * s, rate))
    at = unit_quaternion(further(q, s, total))
    put_quaternion(E, b, state.ORIENTATION, at)
    put(E, b, state.OMEGA, spin_of(lock, at, ahead(times(decay, before), first, torque), inertia))
    put(E, b, state.ROTATION, ahead(vector(S, b, state.ROTATION), s, turn))
    return 0


@kernel
def step_limit(b, S, P, cfg, h, flying):
    """The longest substep for body ``b``: what drag and damping ask for, a box over 0.02 rad (a needle that turns at more than
    20,000 rad/s over up to 0.25)."""
    if drag.strength(b, P) > 0.0:
        h = drag.longest_step(b, h, flying, S, P, cfg)
    else:
        h = damping.longest_step(b, h, P)
    if P[b, body.BALL] == 0.0:
        turning = length(vector(S, b, state.OMEGA))
        if turning > 0.0:
            h = min(h, max(0.02 / turning, min(0.25 / turning, SHORT_TURN)))
    return h


@kernel
def moves(b, P):
    """Whether a body moves at all."""
    return P[b, body.MOTION] != 0.0
