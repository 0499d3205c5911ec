"""Sequential impulses at contact points, warm-started: what the soft-contact and the fixed-step regimes share.

A point has a normal n (b to a) and two tangents. Along each axis u the relative speed is linear in the
velocities and an impulse along it changes them,

    v_u = u·(v_a - v_b) + (r_a × u)·ω_a - (r_b × u)·ω_b,
    v_a += j u / m_a,  ω_a += j I_a⁻¹ (r_a × u),  and the opposite on b,

so r × u and I⁻¹ (r × u) are laid down once a substep and a visit to a point is a few sums of products
(sequential impulses: projected Gauss-Seidel on the velocity constraints; Jean, Comput. Methods Appl.
Mech. Engrg. 177, 1999). Friction is a disc: both tangents together with one scalar mass, clipped to μ
times the normal impulse. Rolling and spinning resistance are clipped angular impulses.
"""

from math import cos, sin, sqrt

from yapa.engine.kernels.flight import FOLLOW, momentum_of, rotate, spin_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    BALL,
    DYNAMIC,
    IM,
    INERTIA,
    INV_MASS,
    KEY0,
    LOCK,
    LOG_A,
    LOG_APPROACH,
    LOG_B,
    LOG_FULL,
    LOG_JN,
    LOG_JT,
    LOG_NORMAL,
    LOG_PAIR,
    LOG_POINT,
    LOG_REBOUND,
    LOG_SLIP0,
    LOG_SLIP1,
    LOG_STATE,
    LOG_TIME,
    MOTION,
    PUSH,
    ROLLING,
    SPINNING,
    ST_CODE,
    ST_CONTACTS,
    ST_IMPACTS,
    STATIC,
)
from yapa.engine.kernels.points import (
    R_BELT,
    R_IA,
    R_IB,
    R_JA,
    R_JB,
    R_LA,
    R_LB,
    R_LN,
    R_LR,
    R_LS,
    R_LT,
    R_MASS,
    R_MASSR,
    R_MASST,
    R_RA,
    R_RB,
    R_REFF,
    R_ROUND,
    R_RUB,
    R_SLIP,
    R_STICK,
    R_TOTAL,
)
from yapa.engine.kernels.shapes import turned

SMALL_TURN, FINE_TURN, MOST_TURNS = 0.01, 0.05, 50
"""rad: turns in a substep that two evaluations are enough for, and parts of greater ones; so many at most."""
ROUND_SHARE = 1e-9
"""Moments of inertia that differ by less than this share are equal."""
SLIPPING = 5e-3
"""m/s: a point slips at its limit and above this speed."""


@kernel
def _place_arm(i, b, arm, local, away, RC, S):
    """The arm of a point on body ``b``: what turns with it, and as far ``away`` along the normal as it is round."""
    x, y, z = turned(b, S, RC[i, local], RC[i, local + 1], RC[i, local + 2])
    RC[i, arm], RC[i, arm + 1], RC[i, arm + 2] = x + away * RC[i, 0], y + away * RC[i, 1], z + away * RC[i, 2]


@far(WHOLE, WHOLE, REALS2, WHOLES2, REALS2, REALS2, REALS2)
def lay_rows(n, RC, RB, S, P, IW):
    """Arms of the points as their bodies have turned, and what follows from them along every axis."""
    for i in range(n):
        a, b = RB[i, 0], RB[i, 1]
        if not (P[a, BALL] != 0.0 and P[a, MOTION] == 1.0) and P[a, MOTION] != 0.0:
            _place_arm(i, a, R_RA, R_LA, RC[i, R_ROUND], RC, S)
        if not (P[b, BALL] != 0.0 and P[b, MOTION] == 1.0) and P[b, MOTION] != 0.0:
            _place_arm(i, b, R_RB, R_LB, RC[i, R_ROUND + 1], RC, S)
        most = 0.0
        for k in range(3):
            x, y, z = RC[i, 3 * k], RC[i, 3 * k + 1], RC[i, 3 * k + 2]
            rx, ry, rz = RC[i, R_RA], RC[i, R_RA + 1], RC[i, R_RA + 2]
            tx, ty, tz = ry * z - rz * y, rz * x - rx * z, rx * y - ry * x
            ox = IW[a, 0] * tx + IW[a, 3] * ty + IW[a, 5] * tz
            oy = IW[a, 3] * tx + IW[a, 1] * ty + IW[a, 4] * tz
            oz = IW[a, 5] * tx + IW[a, 4] * ty + IW[a, 2] * tz
            j, m = R_JA + 3 * k, R_IA + 3 * k
            RC[i, j], RC[i, j + 1], RC[i, j + 2], RC[i, m], RC[i, m + 1], RC[i, m + 2] = tx, ty, tz, ox, oy, oz
            total = tx * ox + ty * oy + tz * oz
            rx, ry, rz = RC[i, R_RB], RC[i, R_RB + 1], RC[i, R_RB + 2]
            tx, ty, tz = ry * z - rz * y, rz * x - rx * z, rx * y - ry * x
            ox = IW[b, 0] * tx + IW[b, 3] * ty + IW[b, 5] * tz
            oy = IW[b, 3] * tx + IW[b, 1] * ty + IW[b, 4] * tz
            oz = IW[b, 5] * tx + IW[b, 4] * ty + IW[b, 2] * tz
            j, m = R_JB + 3 * k, R_IB + 3 * k
            RC[i, j], RC[i, j + 1], RC[i, j + 2], RC[i, m], RC[i, m + 1], RC[i, m + 2] = tx, ty, tz, ox, oy, oz
            total += tx * ox + ty * oy + tz * oz
            total += (P[a, IM] + P[b, IM]) * x * x + (P[a, IM + 1] + P[b, IM + 1]) * y * y + (P[a, IM + 2] + P[b, IM + 2]) * z * z
            if k == 0:
                RC[i, R_MASS] = 1.0 / max(total, 1e-300)
            else:
                most = max(most, total)
        RC[i, R_MASST] = 1.0 / max(most, 1e-300)
    return 0


@kernel
def speed_along(i, k, a, b, RC, S):
    """Relative speed of a point along its axis ``k`` (normal, two tangents)."""
    R, A, B = RC[i], S[a], S[b]
    u, ja, jb = 3 * k, R_JA + 3 * k, R_JB + 3 * k
    return (R[u] * (A[7] - B[7]) + R[u + 1] * (A[8] - B[8]) + R[u + 2] * (A[9] - B[9])
            + R[ja] * A[10] + R[ja + 1] * A[11] + R[ja + 2] * A[12]
            - R[jb] * B[10] - R[jb + 1] * B[11] - R[jb + 2] * B[12] + R[R_BELT + k])


@kernel
def kick_along(i, k, j, a, b, RC, S, P):
    """An impulse along an axis of a point."""
    R, A, PA = RC[i], S[a], P[a]
    u, ia, ib = 3 * k, R_IA + 3 * k, R_IB + 3 * k
    x, y, z = j * R[u], j * R[u + 1], j * R[u + 2]
    p, q, r = j * R[ia], j * R[ia + 1], j * R[ia + 2]
    e, f, g = j * R[ib], j * R[ib + 1], j * R[ib + 2]
    A[7] += PA[IM] * x
    A[8] += PA[IM + 1] * y
    A[9] += PA[IM + 2] * z
    A[10] += p
    A[11] += q
    A[12] += r
    B, PB = S[b], P[b]
    if PB[INV_MASS] != 0.0:
        B[7] -= PB[IM] * x
        B[8] -= PB[IM + 1] * y
        B[9] -= PB[IM + 2] * z
        B[10] -= e
        B[11] -= f
        B[12] -= g


@kernel
def _twist(b, sign, tx, ty, tz, S, IW):
    """Angular impulse."""
    S[b, 10] += sign * (IW[b, 0] * tx + IW[b, 3] * ty + IW[b, 5] * tz)
    S[b, 11] += sign * (IW[b, 3] * tx + IW[b, 1] * ty + IW[b, 4] * tz)
    S[b, 12] += sign * (IW[b, 5] * tx + IW[b, 4] * ty + IW[b, 2] * tz)


@far(WHOLE, WHOLE, REALS2, WHOLES2, REALS2, REALS2, REALS2)
def give_again(n, RC, RB, S, P, IW):
    """Apply the impulses that the points hold from before (a warm start)."""
    for i in range(n):
        if RC[i, R_LN] == 0.0:
            continue
        a, b = RB[i, 0], RB[i, 1]
        for k in range(3):
            kick_along(i, k, RC[i, R_LN + k], a, b, RC, S, P)
        if RC[i, R_REFF] > 0.0:
            _twist(a, 1.0, RC[i, R_LR], RC[i, R_LR + 1], RC[i, R_LR + 2], S, IW)
            _twist(b, -1.0, RC[i, R_LR], RC[i, R_LR + 1], RC[i, R_LR + 2], S, IW)
    return 0


@kernel
def resist(i, law, RC, RB, S, IW):
    """Rolling and spinning resistance of a point."""
    a, b = RB[i, 0], RB[i, 1]
    if RC[i, R_LN] == 0.0 and RC[i, R_LR] == 0.0 and RC[i, R_LR + 1] == 0.0 and RC[i, R_LR + 2] == 0.0:
        return
    nx, ny, nz = RC[i, 0], RC[i, 1], RC[i, 2]
    ox, oy, oz = S[a, 10] - S[b, 10], S[a, 11] - S[b, 11], S[a, 12] - S[b, 12]
    m = RC[i, R_MASSR]
    x, y, z = RC[i, R_LR] - m * ox, RC[i, R_LR + 1] - m * oy, RC[i, R_LR + 2] - m * oz
    d = x * nx + y * ny + z * nz
    rx, ry, rz = x - d * nx, y - d * ny, z - d * nz
    most = law[ROLLING] * RC[i, R_LN] * RC[i, R_REFF]
    size = sqrt(rx * rx + ry * ry + rz * rz)
    share = 1.0 if size <= most else (most / size)
    most = law[SPINNING] * RC[i, R_LN] * RC[i, R_REFF]
    d = min(max(d, -most), most)
    x, y, z = share * rx + d * nx, share * ry + d * ny, share * rz + d * nz
    dx, dy, dz = x - RC[i, R_LR], y - RC[i, R_LR + 1], z - RC[i, R_LR + 2]
    RC[i, R_LR], RC[i, R_LR + 1], RC[i, R_LR + 2] = x, y, z
    _twist(a, 1.0, dx, dy, dz, S, IW)
    _twist(b, -1.0, dx, dy, dz, S, IW)


@kernel
def rub(i, law, RC, RB, S, P):
    """Friction of a point: both tangents together, clipped to the disc."""
    R = RC[i]
    n, t0, s0 = R[R_LN], R[R_LT], R[R_LS]
    if n == 0.0 and t0 == 0.0 and s0 == 0.0:
        return
    a, b = RB[i, 0], RB[i, 1]
    mu = law[STATIC] if R[R_STICK] != 0.0 else law[DYNAMIC]
    m = R[R_MASST]
    t, s = t0 - m * speed_along(i, 1, a, b, RC, S), s0 - m * speed_along(i, 2, a, b, RC, S)
    size, most = t * t + s * s, mu * n
    if size > most * most:
        share = most / sqrt(size)
        t, s = t * share, s * share
    R[R_LT], R[R_LS] = t, s
    t, s = t - t0, s - s0
    A, B, PA, PB = S[a], S[b], P[a], P[b]
    x, y, z = t * R[3] + s * R[6], t * R[4] + s * R[7], t * R[5] + s * R[8]
    A[7] += PA[IM] * x
    A[8] += PA[IM + 1] * y
    A[9] += PA[IM + 2] * z
    A[10] += t * R[R_IA + 3] + s * R[R_IA + 6]
    A[11] += t * R[R_IA + 4] + s * R[R_IA + 7]
    A[12] += t * R[R_IA + 5] + s * R[R_IA + 8]
    if PB[INV_MASS] != 0.0:
        B[7] -= PB[IM] * x
        B[8] -= PB[IM + 1] * y
        B[9] -= PB[IM + 2] * z
        B[10] -= t * R[R_IB + 3] + s * R[R_IB + 6]
        B[11] -= t * R[R_IB + 4] + s * R[R_IB + 7]
        B[12] -= t * R[R_IB + 5] + s * R[R_IB + 8]


@kernel
def press(i, bias, mass_scale, impulse_scale, RC, RB, S, P):
    """Normal impulse of a point towards a speed of separation of ``-bias``."""
    a, b = RB[i, 0], RB[i, 1]
    had = RC[i, R_LN]
    new = had - RC[i, R_MASS] * mass_scale * (speed_along(i, 0, a, b, RC, S) + bias) - impulse_scale * had
    new = max(new, 0.0)
    if new != had:
        kick_along(i, 0, new - had, a, b, RC, S, P)
        RC[i, R_LN] = new


@kernel
def slip_speed(i, RC, RB, S):
    """Speed along both tangents."""
    a, b = RB[i, 0], RB[i, 1]
    t, s = speed_along(i, 1, a, b, RC, S), speed_along(i, 2, a, b, RC, S)
    return sqrt(t * t + s * s)


@kernel
def note_slip(i, law, RC, RB, S):
    """Whether a point slips now: it is at the limit of friction and moves along the contact."""
    RC[i, R_STICK] = 1.0
    if RC[i, R_LN] > 0.0 and RC[i, R_LT] ** 2 + RC[i, R_LS] ** 2 >= (0.999 * law[DYNAMIC] * RC[i, R_LN]) ** 2:
        if slip_speed(i, RC, RB, S) > SLIPPING:
            RC[i, R_STICK] = 0.0


@far(WHOLE, WHOLE, REAL, REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2, WHOLES1)
def log_point(i, now, approach, n, S, U, RC, RB, clog, status):
    """Write a contact: the point ``i``, its approach speed, and both bodies' states now and velocities before in ``U``."""
    row = status[ST_CONTACTS]
    if row >= clog.shape[0]:
        status[ST_CODE] = LOG_FULL
        return 0
    a, b, p = RB[i, 0], RB[i, 1], RB[i, 2]
    clog[row, LOG_TIME], clog[row, LOG_PAIR], clog[row, LOG_A], clog[row, LOG_B] = now, p, a, b
    for c in range(3):
        clog[row, LOG_POINT + c] = S[b, c] + RC[i, R_RB + c]
        clog[row, LOG_NORMAL + c] = RC[i, c]
    clog[row, LOG_APPROACH], clog[row, LOG_REBOUND] = approach, max(speed_along(i, 0, a, b, RC, S), 0.0)
    clog[row, LOG_SLIP0], clog[row, LOG_SLIP1] = RC[i, R_SLIP], slip_speed(i, RC, RB, S)
    normal, along = 0.0, 0.0
    for k in range(n):  # the pair's points together
        if RB[k, 2] == p:
            normal += RC[k, R_TOTAL]
            along += RC[k, R_RUB]
    clog[row, LOG_JN], clog[row, LOG_JT] = normal, along
    for side in range(2):
        q, o = (a, LOG_STATE) if side == 0 else (b, LOG_STATE + 18)
        for c in range(3):
            clog[row, o + c] = S[q, c]
            clog[row, o + 3 + c] = S[q, 13 + c]
            clog[row, o + 6 + c] = U[q, 7 + c]
            clog[row, o + 9 + c] = S[q, 7 + c]
            clog[row, o + 12 + c] = U[q, 10 + c]
            clog[row, o + 15 + c] = S[q, 10 + c]
    status[ST_CONTACTS] = row + 1
    status[ST_IMPACTS] += 1
    return 0


@far(WHOLE, WHOLE, REAL, REALS2, REALS2, REALS2)
def turn_body(b, h, S, E, P):
    """Place and orientation after h at the velocities in ``E``; angular momentum kept."""
    for c in range(3):
        S[b, c] += h * E[b, 7 + c]
        S[b, 13 + c] += h * E[b, 10 + c]
    ox, oy, oz = E[b, 10], E[b, 11], E[b, 12]
    if ox == 0.0 and oy == 0.0 and oz == 0.0:
        return 0
    w, x, y, z = S[b, 3], S[b, 4], S[b, 5], S[b, 6]
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    ball = (i1 == i2 and i2 == i3) or P[b, INV_MASS] == 0.0
    lx, ly, lz = 0.0, 0.0, 0.0
    if not ball:
        lx, ly, lz = momentum_of(w, x, y, z, S[b, 10], S[b, 11], S[b, 12], i1, i2, i3)
    f = 0.5 * h
    nw = w - f * (ox * x + oy * y + oz * z)
    nx = x + f * (ox * w + oy * z - oz * y)
    ny = y + f * (oy * w + oz * x - ox * z)
    nz = z + f * (oz * w + ox * y - oy * x)
    size = 1.0 / sqrt(nw * nw + nx * nx + ny * ny + nz * nz)
    S[b, 3], S[b, 4], S[b, 5], S[b, 6] = nw * size, nx * size, ny * size, nz * size
    if not ball:
        S[b, 10], S[b, 11], S[b, 12] = spin_of(int(P[b, LOCK]), S[b, 3], S[b, 4], S[b, 5], S[b, 6], lx, ly, lz, i1, i2, i3)
    return 0


@kernel
def _quaternion_rate(ox, oy, oz, w, x, y, z):
    return (0.5 * (-ox * x - oy * y - oz * z), 0.5 * (ox * w + oy * z - oz * y), 0.5 * (oy * w + oz * x - ox * z),
            0.5 * (oz * w + ox * y - oy * x))


@kernel
def _ahead(w, x, y, z, h, rate):
    """A unit quaternion moved on along a rate."""
    w, x, y, z = w + h * rate[0], x + h * rate[1], y + h * rate[2], z + h * rate[3]
    n = 1.0 / sqrt(w * w + x * x + y * y + z * z)
    return w * n, x * n, y * n, z * n


@kernel
def _turn_by(x, y, z):
    """The unit quaternion of a rotation vector."""
    angle = sqrt(x * x + y * y + z * z)
    f = 0.5 if angle < 1e-9 else sin(0.5 * angle) / angle
    return cos(0.5 * angle), f * x, f * y, f * z


@kernel
def _product(p, q):
    return (p[0] * q[0] - p[1] * q[1] - p[2] * q[2] - p[3] * q[3], p[0] * q[1] + p[1] * q[0] + p[2] * q[3] - p[3] * q[2],
            p[0] * q[2] - p[1] * q[3] + p[2] * q[0] + p[3] * q[1], p[0] * q[3] + p[1] * q[2] - p[2] * q[1] + p[3] * q[0])


@kernel
def _axis_of(i1, i2, i3):
    """The principal axis that a body is symmetric about, or -1."""
    if abs(i1 - i2) <= ROUND_SHARE * i1:
        return 2
    if abs(i2 - i3) <= ROUND_SHARE * i2:
        return 0
    return 1 if abs(i1 - i3) <= ROUND_SHARE * i1 else -1


@kernel
def _spin_top(b, h, axis, S, P):
    """The exact turn of a symmetric body: ω = L/I⊥ + (1 - I/I⊥) ω_a a, L fixed in space and the axis a in the body."""
    w, x, y, z = S[b, 3], S[b, 4], S[b, 5], S[b, 6]
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    lx, ly, lz = momentum_of(w, x, y, z, S[b, 10], S[b, 11], S[b, 12], i1, i2, i3)
    ox, oy, oz = rotate(w, -x, -y, -z, S[b, 10], S[b, 11], S[b, 12])
    along, across = (i3, i1) if axis == 2 else ((i1, i2) if axis == 0 else (i2, i1))
    share = h * (1.0 - along / across)
    own = (cos(0.5 * share * ox), sin(0.5 * share * ox), 0.0, 0.0)
    if axis == 1:
        own = (cos(0.5 * share * oy), 0.0, sin(0.5 * share * oy), 0.0)
    elif axis == 2:
        own = (cos(0.5 * share * oz), 0.0, 0.0, sin(0.5 * share * oz))
    f = h / across
    w, x, y, z = _product(_product(_turn_by(f * lx, f * ly, f * lz), (w, x, y, z)), own)
    n = 1.0 / sqrt(w * w + x * x + y * y + z * z)
    w, x, y, z = w * n, x * n, y * n, z * n
    ox, oy, oz = spin_of(0, w, x, y, z, lx, ly, lz, i1, i2, i3)
    for c, o in ((0, ox), (1, oy), (2, oz)):
        S[b, 13 + c] += 0.5 * h * (S[b, 10 + c] + o)
        S[b, 10 + c] = o
    S[b, 3], S[b, 4], S[b, 5], S[b, 6] = w, x, y, z


@far(WHOLE, WHOLE, REAL, REALS2, REALS2)
def tumble(b, h, S, P):
    """Place and orientation after h: angular momentum kept, and kinetic energy to the order of the turn.

    dq/dt = ½ ω q, ω = R I⁻¹ Rᵀ L, by the midpoint method where the turn is small; else exactly for what is symmetric, and by
    Runge-Kutta 4 in parts of FINE_TURN for what is not.
    """
    ox, oy, oz = S[b, 10], S[b, 11], S[b, 12]
    angle = h * sqrt(ox * ox + oy * oy + oz * oz)
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    if angle == 0.0 or (i1 == i2 and i2 == i3) or P[b, INV_MASS] == 0.0 or P[b, LOCK] >= 8.0:
        turn_body(b, h, S, S, P)
        return 0
    for c in range(3):
        S[b, c] += h * S[b, 7 + c]
    w, x, y, z = S[b, 3], S[b, 4], S[b, 5], S[b, 6]
    lx, ly, lz = momentum_of(w, x, y, z, ox, oy, oz, i1, i2, i3)
    small = angle < SMALL_TURN
    axis = -1 if small else _axis_of(i1, i2, i3)
    if axis >= 0:
        _spin_top(b, h, axis, S, P)
        return 0
    parts = 1 if small else 1 + min(int(angle / FINE_TURN), MOST_TURNS)
    s = h / parts
    for _ in range(parts):
        r1 = _quaternion_rate(ox, oy, oz, w, x, y, z)
        qw, qx, qy, qz = _ahead(w, x, y, z, 0.5 * s, r1)
        mx, my, mz = spin_of(0, qw, qx, qy, qz, lx, ly, lz, i1, i2, i3)
        r2 = _quaternion_rate(mx, my, mz, qw, qx, qy, qz)
        tx, ty, tz = mx, my, mz
        if small:
            w, x, y, z = _ahead(w, x, y, z, s, r2)
        else:
            qw, qx, qy, qz = _ahead(w, x, y, z, 0.5 * s, r2)
            nx, ny, nz = spin_of(0, qw, qx, qy, qz, lx, ly, lz, i1, i2, i3)
            r3 = _quaternion_rate(nx, ny, nz, qw, qx, qy, qz)
            qw, qx, qy, qz = _ahead(w, x, y, z, s, r3)
            px, py, pz = spin_of(0, qw, qx, qy, qz, lx, ly, lz, i1, i2, i3)
            r4 = _quaternion_rate(px, py, pz, qw, qx, qy, qz)
            tx, ty, tz = (ox + 2.0 * (mx + nx) + px) / 6.0, (oy + 2.0 * (my + ny) + py) / 6.0, (oz + 2.0 * (mz + nz) + pz) / 6.0
            w, x, y, z = _ahead(w, x, y, z, s / 6.0, (
                r1[0] + 2.0 * (r2[0] + r3[0]) + r4[0], r1[1] + 2.0 * (r2[1] + r3[1]) + r4[1],
                r1[2] + 2.0 * (r2[2] + r3[2]) + r4[2], r1[3] + 2.0 * (r2[3] + r3[3]) + r4[3]))
        S[b, 13], S[b, 14], S[b, 15] = S[b, 13] + s * tx, S[b, 14] + s * ty, S[b, 15] + s * tz
        ox, oy, oz = spin_of(0, w, x, y, z, lx, ly, lz, i1, i2, i3)
    S[b, 3], S[b, 4], S[b, 5], S[b, 6] = w, x, y, z
    S[b, 10], S[b, 11], S[b, 12] = ox, oy, oz
    return 0


@kernel
def sample_between(row, share, bodies, BL, S, P, before, out):
    """States between the start and the end of a substep."""
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] != 0.0:
            for c in range(16):
                out[row, b, c] = before[b, c] + share * (S[b, c] - before[b, c])
            n = 1.0 / sqrt(out[row, b, 3] ** 2 + out[row, b, 4] ** 2 + out[row, b, 5] ** 2 + out[row, b, 6] ** 2)
            for c in range(3, 7):
                out[row, b, c] *= n


@far(WHOLE, WHOLE, REAL, REAL, REALS2, REALS2, REALS2)
def drive(b, h, t, S, P, KT):
    """Drive a pushed body towards its path over ``h``, with no more than the force it may exert."""
    j = int(P[b, KEY0])
    while KT[j + 1, 0] <= t + 1e-12 and KT[j + 1, 0] > KT[j, 0]:
        j += 1
    fx, fy, fz = 0.0, 0.0, 0.0
    for c in range(3):
        there = KT[j, 1 + c] + (t - KT[j, 0]) * KT[j, 8 + c]
        want = KT[j, 8 + c] + (there - S[b, c]) / FOLLOW - S[b, 7 + c]
        if c == 0:
            fx = want
        elif c == 1:
            fy = want
        else:
            fz = want
    size = sqrt(fx * fx + fy * fy + fz * fz)
    most = P[b, PUSH] * h * P[b, INV_MASS]
    share = min(1.0, most / size) if size > 0.0 else 0.0
    S[b, 7], S[b, 8], S[b, 9] = S[b, 7] + share * fx, S[b, 8] + share * fy, S[b, 9] + share * fz
    return 0
