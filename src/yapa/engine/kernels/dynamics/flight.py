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

from math import cos, sin, sqrt

from yapa.engine.kernels.dynamics.forces import damping, drag, gravity
from yapa.engine.kernels.dynamics.forces.damping import decay_factors
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, far, kernel
from yapa.engine.kernels.layout import body, config, dense, key, state

SHORT_TURN = 1e-6
"""s: turning asks for no shorter substeps than this, as long as they stay below a quarter of a radian."""
FOLLOW = 0.05
"""s: a pushed body that lags catches up over this time."""


@kernel
def rotate(w, x, y, z, ax, ay, az):
    """Turn a vector by a unit quaternion."""
    tx = 2.0 * (y * az - z * ay)
    ty = 2.0 * (z * ax - x * az)
    tz = 2.0 * (x * ay - y * ax)
    return ax + w * tx + y * tz - z * ty, ay + w * ty + z * tx - x * tz, az + w * tz + x * ty - y * tx


@kernel
def _locked_inverse(lock, w, x, y, z, lx, ly, lz, i1, i2, i3):
    """ω = F (Fᵀ I F)⁻¹ Fᵀ L, F the free world axes: what a body turns at when some axes are locked."""
    a1, a2, a3 = rotate(w, x, y, z, 1.0, 0.0, 0.0)
    b1, b2, b3 = rotate(w, x, y, z, 0.0, 1.0, 0.0)
    c1, c2, c3 = rotate(w, x, y, z, 0.0, 0.0, 1.0)
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
def spin_of(lock, w, x, y, z, lx, ly, lz, i1, i2, i3):
    """Angular velocity from the angular momentum, both in world axes; locked axes do not turn."""
    if lock >= 8:
        return _locked_inverse(lock, w, x, y, z, lx, ly, lz, i1, i2, i3)
    bx, by, bz = rotate(w, -x, -y, -z, lx, ly, lz)
    return rotate(w, x, y, z, bx / i1, by / i2, bz / i3)


@kernel
def momentum_of(w, x, y, z, ox, oy, oz, i1, i2, i3):
    """Angular momentum from the angular velocity, both in world axes."""
    bx, by, bz = rotate(w, -x, -y, -z, ox, oy, oz)
    return rotate(w, x, y, z, bx * i1, by * i2, bz * i3)


@kernel
def inverse_inertia(b, X, P, lx, ly, lz):
    """World I⁻¹ applied to a vector, at the orientation in ``X``; zero for what does not move freely."""
    if P[b, body.INV_MASS] == 0.0:
        return 0.0, 0.0, 0.0
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    lock = int(P[b, body.LOCK])
    if lock < 8 and i1 == i2 and i2 == i3:
        return lx / i1, ly / i1, lz / i1
    return spin_of(lock, X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], lx, ly, lz, i1, i2, i3)


@far(REAL, WHOLE, REAL, REALS2, REALS2, REALS2)
def lead(b, t, S, P, KT):
    """Put a kinematic body where its keys say it is at time t. Returns the time of its next key."""
    first, count = int(P[b, body.KEY0]), int(P[b, body.KEYS])
    k = first
    while k + 1 < first + count and KT[k + 1, key.TIME] <= t + 1e-12:
        k += 1
    s = t - KT[k, key.TIME]
    if k == first and s < 0.0:
        s = 0.0
    for c in range(3):
        S[b, state.VELOCITY + c], S[b, state.OMEGA + c] = KT[k, key.VELOCITY + c], KT[k, key.OMEGA + c]
        S[b, c] = KT[k, key.POSITION + c] + s * KT[k, key.VELOCITY + c]
    angle = s * sqrt(KT[k, key.WX] ** 2 + KT[k, key.WY] ** 2 + KT[k, key.WZ] ** 2)
    f, cw = (0.5 * s, 1.0) if angle < 1e-12 else (s * sin(0.5 * angle) / angle, cos(0.5 * angle))
    px, py, pz = f * KT[k, key.WX], f * KT[k, key.WY], f * KT[k, key.WZ]
    w, x, y, z = KT[k, key.QW], KT[k, key.QX], KT[k, key.QY], KT[k, key.QZ]
    S[b, state.QW] = cw * w - px * x - py * y - pz * z
    S[b, state.QX] = cw * x + px * w + py * z - pz * y
    S[b, state.QY] = cw * y + py * w + pz * x - px * z
    S[b, state.QZ] = cw * z + pz * w + px * y - py * x
    return KT[k + 1, key.TIME] if k + 1 < first + count else 1e300


@kernel
def _pull(vx, vy, vz, c, k, gx, gy, gz, wx, wy, wz):
    """Acceleration by what is constant, damping and drag."""
    x, y, z = drag.retardation(vx - wx, vy - wy, vz - wz, k)
    return gx - c * vx - x, gy - c * vy - y, gz - c * vz - z


@kernel
def free_axis(b, axis, P):
    """1 where a body may move along a world axis, 0 where that is locked; 0 for bodies without gravity or forces."""
    return 1.0 if P[b, body.IM + axis] > 0.0 else 0.0


@kernel
def _quintic(D, b, axis, h, x0, v0, a0, x1, v1, a1):
    o = 6 * axis
    D[b, o] = x0
    D[b, o + 1] = v0
    D[b, o + 2] = 0.5 * a0
    p = x1 - x0 - h * (v0 + 0.5 * h * a0)
    q = (v1 - v0 - h * a0) * h
    r = (a1 - a0) * h * h
    over = 1.0 / h
    over3 = over * over * over
    D[b, o + 3] = (10.0 * p - 4.0 * q + 0.5 * r) * over3
    D[b, o + 4] = (-15.0 * p + 7.0 * q - r) * (over3 * over)
    D[b, o + 5] = (6.0 * p - 3.0 * q + 0.5 * r) * (over3 * over * over)


@kernel
def advance_place(b, h, S, P, D, E, cfg):
    """Fill the quintics of body ``b`` over a substep ``h`` and its end place and velocity."""
    im = P[b, body.INV_MASS]
    gx, gy, gz = gravity.acceleration(b, P, cfg)
    gx, gy, gz = gx + D[b, dense.FORCE] * im, gy + D[b, dense.FORCE + 1] * im, gz + D[b, dense.FORCE + 2] * im
    if P[b, body.LOCK] != 0.0:
        gx, gy, gz = gx * free_axis(b, 0, P), gy * free_axis(b, 1, P), gz * free_axis(b, 2, P)
    c = P[b, body.LIN_DAMP]
    k = drag.strength(b, P)
    vx, vy, vz = S[b, state.VX], S[b, state.VY], S[b, state.VZ]
    if k == 0.0 and c == 0.0:
        for axis in range(3):
            g = gx if axis == 0 else (gy if axis == 1 else gz)
            v = S[b, state.VELOCITY + axis]
            o = 6 * axis
            D[b, o] = S[b, axis]
            D[b, o + 1] = v
            D[b, o + 2] = 0.5 * g
            D[b, o + 3] = 0.0
            D[b, o + 4] = 0.0
            D[b, o + 5] = 0.0
            E[b, axis] = S[b, axis] + h * (v + 0.5 * h * g)
            E[b, state.VELOCITY + axis] = v + h * g
        return
    wx, wy, wz = cfg[config.WIND], cfg[config.WIND + 1], cfg[config.WIND + 2]
    if P[b, body.LOCK] != 0.0:  # the medium cannot move a body along a locked axis
        wx, wy, wz = wx * free_axis(b, 0, P), wy * free_axis(b, 1, P), wz * free_axis(b, 2, P)
    a1x, a1y, a1z = _pull(vx, vy, vz, c, k, gx, gy, gz, wx, wy, wz)
    if k == 0.0:
        decay, first, second = decay_factors(c, h)
        ex = vx * decay + gx * first
        ey = vy * decay + gy * first
        ez = vz * decay + gz * first
        px = S[b, state.X] + vx * first + gx * second
        py = S[b, state.Y] + vy * first + gy * second
        pz = S[b, state.Z] + vz * first + gz * second
    else:
        d = 0.5 * h
        a2x, a2y, a2z = _pull(vx + d * a1x, vy + d * a1y, vz + d * a1z, c, k, gx, gy, gz, wx, wy, wz)
        a3x, a3y, a3z = _pull(vx + d * a2x, vy + d * a2y, vz + d * a2z, c, k, gx, gy, gz, wx, wy, wz)
        a4x, a4y, a4z = _pull(vx + h * a3x, vy + h * a3y, vz + h * a3z, c, k, gx, gy, gz, wx, wy, wz)
        px = S[b, state.X] + h * (vx + h / 6.0 * (a1x + a2x + a3x))
        py = S[b, state.Y] + h * (vy + h / 6.0 * (a1y + a2y + a3y))
        pz = S[b, state.Z] + h * (vz + h / 6.0 * (a1z + a2z + a3z))
        ex = vx + h / 6.0 * (a1x + 2.0 * (a2x + a3x) + a4x)
        ey = vy + h / 6.0 * (a1y + 2.0 * (a2y + a3y) + a4y)
        ez = vz + h / 6.0 * (a1z + 2.0 * (a2z + a3z) + a4z)
    fx, fy, fz = _pull(ex, ey, ez, c, k, gx, gy, gz, wx, wy, wz)
    _quintic(D, b, 0, h, S[b, state.X], vx, a1x, px, ex, fx)
    _quintic(D, b, 1, h, S[b, state.Y], vy, a1y, py, ey, fy)
    _quintic(D, b, 2, h, S[b, state.Z], vz, a1z, pz, ez, fz)
    E[b, state.X], E[b, state.Y], E[b, state.Z] = px, py, pz
    E[b, state.VX], E[b, state.VY], E[b, state.VZ] = ex, ey, ez


@kernel
def place_at(b, s, D, E):
    """Place and velocity inside the substep, from the quintics."""
    for axis in range(3):
        o = 6 * axis
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
        dx, dy, dz = E[b, state.RX] - S[b, state.RX], E[b, state.RY] - S[b, state.RY], E[b, state.RZ] - S[b, state.RZ]
        angle = sqrt(dx * dx + dy * dy + dz * dz)
        w, x, y, z = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
        if angle < 1e-12:
            f, cw = 0.5, 1.0
        else:
            f, cw = sin(0.5 * angle) / angle, cos(0.5 * angle)
        px, py, pz = f * dx, f * dy, f * dz
        E[b, state.QW] = cw * w - px * x - py * y - pz * z
        E[b, state.QX] = cw * x + px * w + py * z - pz * y
        E[b, state.QY] = cw * y + py * w + pz * x - px * z
        E[b, state.QZ] = cw * z + pz * w + px * y - py * x
        return 0
    decay, first, second = decay_factors(P[b, body.ANG_DAMP], s)
    tx, ty, tz = D[b, dense.TORQUE], D[b, dense.TORQUE + 1], D[b, dense.TORQUE + 2]
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    lock = int(P[b, body.LOCK])
    q0, q1, q2, q3 = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
    l0x, l0y, l0z = momentum_of(q0, q1, q2, q3, S[b, state.WX], S[b, state.WY], S[b, state.WZ], i1, i2, i3)
    hd, hf, _ = decay_factors(P[b, body.ANG_DAMP], 0.5 * s)
    aq0, aq1, aq2, aq3 = q0, q1, q2, q3
    sum0, sum1, sum2, sum3 = 0.0, 0.0, 0.0, 0.0
    turn0, turn1, turn2 = 0.0, 0.0, 0.0
    for stage in range(4):
        if stage == 0:
            dd, ff, weight = 1.0, 0.0, 1.0 / 6.0
        elif stage == 3:
            dd, ff, weight = decay, first, 1.0 / 6.0
        else:
            dd, ff, weight = hd, hf, 1.0 / 3.0
        ox, oy, oz = spin_of(
            lock, aq0, aq1, aq2, aq3, l0x * dd + tx * ff, l0y * dd + ty * ff, l0z * dd + tz * ff, i1, i2, i3
        )
        d0 = 0.5 * (-ox * aq1 - oy * aq2 - oz * aq3)
        d1 = 0.5 * (ox * aq0 + oy * aq3 - oz * aq2)
        d2 = 0.5 * (oy * aq0 + oz * aq1 - ox * aq3)
        d3 = 0.5 * (oz * aq0 + ox * aq2 - oy * aq1)
        sum0, sum1, sum2, sum3 = sum0 + weight * d0, sum1 + weight * d1, sum2 + weight * d2, sum3 + weight * d3
        turn0, turn1, turn2 = turn0 + weight * ox, turn1 + weight * oy, turn2 + weight * oz
        ahead = s if stage == 2 else 0.5 * s
        if stage < 3:
            aq0, aq1, aq2, aq3 = q0 + ahead * d0, q1 + ahead * d1, q2 + ahead * d2, q3 + ahead * d3
            n = 1.0 / sqrt(aq0 * aq0 + aq1 * aq1 + aq2 * aq2 + aq3 * aq3)
            aq0, aq1, aq2, aq3 = aq0 * n, aq1 * n, aq2 * n, aq3 * n
    w, x, y, z = q0 + s * sum0, q1 + s * sum1, q2 + s * sum2, q3 + s * sum3
    n = 1.0 / sqrt(w * w + x * x + y * y + z * z)
    w, x, y, z = w * n, x * n, y * n, z * n
    E[b, state.QW], E[b, state.QX], E[b, state.QY], E[b, state.QZ] = w, x, y, z
    E[b, state.WX], E[b, state.WY], E[b, state.WZ] = spin_of(
        lock, w, x, y, z, l0x * decay + tx * first, l0y * decay + ty * first, l0z * decay + tz * first, i1, i2, i3
    )
    E[b, state.RX], E[b, state.RY] = S[b, state.RX] + s * turn0, S[b, state.RY] + s * turn1
    E[b, state.RZ] = S[b, state.RZ] + s * turn2
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
        turning = sqrt(S[b, state.WX] ** 2 + S[b, state.WY] ** 2 + S[b, state.WZ] ** 2)
        if turning > 0.0:
            h = min(h, max(0.02 / turning, min(0.25 / turning, SHORT_TURN)))
    return h


@kernel
def moves(b, P):
    """Whether a body moves at all."""
    return P[b, body.MOTION] != 0.0
