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

from yapa.engine.kernels.contact.hit_log import log_body
from yapa.engine.kernels.dynamics.flight import FOLLOW, momentum_of, rotate, spin_of
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.handles import RUN, contact_log_of, states_of, status_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    contact_log,
    inverse_inertia,
    key,
    material,
    point,
    point_int,
    run_code,
    run_status,
    state,
)

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
    RC[i, arm], RC[i, arm + 1], RC[i, arm + 2] = x + away * RC[i, point.NX], y + away * RC[i, point.NY], z + away * RC[i, point.NZ]


@far(WHOLE, WHOLE, REALS2, WHOLES2, REALS2, REALS2, REALS2)
def prepare_points(n, RC, RB, S, P, IW):
    """Arms of the points as their bodies have turned, and what follows from them along every axis."""
    for i in range(n):
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        if not (P[a, body.BALL] != 0.0 and P[a, body.MOTION] == 1.0) and P[a, body.MOTION] != 0.0:
            _place_arm(i, a, point.ARM_A, point.LOCAL_A, RC[i, point.ROUND], RC, S)
        if not (P[b, body.BALL] != 0.0 and P[b, body.MOTION] == 1.0) and P[b, body.MOTION] != 0.0:
            _place_arm(i, b, point.ARM_B, point.LOCAL_B, RC[i, point.ROUND + 1], RC, S)
        most = 0.0
        for k in range(3):
            x, y, z = RC[i, point.N + 3 * k], RC[i, point.N + 3 * k + 1], RC[i, point.N + 3 * k + 2]
            rx, ry, rz = RC[i, point.ARM_A], RC[i, point.ARM_A + 1], RC[i, point.ARM_A + 2]
            tx, ty, tz = ry * z - rz * y, rz * x - rx * z, rx * y - ry * x
            ox = IW[a, inverse_inertia.XX] * tx + IW[a, inverse_inertia.XY] * ty + IW[a, inverse_inertia.XZ] * tz
            oy = IW[a, inverse_inertia.XY] * tx + IW[a, inverse_inertia.YY] * ty + IW[a, inverse_inertia.YZ] * tz
            oz = IW[a, inverse_inertia.XZ] * tx + IW[a, inverse_inertia.YZ] * ty + IW[a, inverse_inertia.ZZ] * tz
            j, m = point.CROSS_A + 3 * k, point.TURN_A + 3 * k
            RC[i, j], RC[i, j + 1], RC[i, j + 2], RC[i, m], RC[i, m + 1], RC[i, m + 2] = tx, ty, tz, ox, oy, oz
            total = tx * ox + ty * oy + tz * oz
            rx, ry, rz = RC[i, point.ARM_B], RC[i, point.ARM_B + 1], RC[i, point.ARM_B + 2]
            tx, ty, tz = ry * z - rz * y, rz * x - rx * z, rx * y - ry * x
            ox = IW[b, inverse_inertia.XX] * tx + IW[b, inverse_inertia.XY] * ty + IW[b, inverse_inertia.XZ] * tz
            oy = IW[b, inverse_inertia.XY] * tx + IW[b, inverse_inertia.YY] * ty + IW[b, inverse_inertia.YZ] * tz
            oz = IW[b, inverse_inertia.XZ] * tx + IW[b, inverse_inertia.YZ] * ty + IW[b, inverse_inertia.ZZ] * tz
            j, m = point.CROSS_B + 3 * k, point.TURN_B + 3 * k
            RC[i, j], RC[i, j + 1], RC[i, j + 2], RC[i, m], RC[i, m + 1], RC[i, m + 2] = tx, ty, tz, ox, oy, oz
            total += tx * ox + ty * oy + tz * oz
            total += ((P[a, body.IM] + P[b, body.IM]) * x * x + (P[a, body.IM + 1] + P[b, body.IM + 1]) * y * y
                      + (P[a, body.IM + 2] + P[b, body.IM + 2]) * z * z)
            if k == 0:
                RC[i, point.MASS] = 1.0 / max(total, 1e-300)
            else:
                most = max(most, total)
        RC[i, point.MASS_T] = 1.0 / max(most, 1e-300)
    return 0


@kernel
def speed_along(i, k, a, b, RC, S):
    """Relative speed of a point along its axis ``k`` (normal, two tangents)."""
    R, A, B = RC[i], S[a], S[b]
    u, ja, jb = point.N + 3 * k, point.CROSS_A + 3 * k, point.CROSS_B + 3 * k
    return (R[u] * (A[state.VX] - B[state.VX]) + R[u + 1] * (A[state.VY] - B[state.VY]) + R[u + 2] * (A[state.VZ] - B[state.VZ])
            + R[ja] * A[state.WX] + R[ja + 1] * A[state.WY] + R[ja + 2] * A[state.WZ]
            - R[jb] * B[state.WX] - R[jb + 1] * B[state.WY] - R[jb + 2] * B[state.WZ] + R[point.BELT + k])


@kernel
def kick_along(i, k, j, a, b, RC, S, P):
    """An impulse along an axis of a point."""
    R, A, PA = RC[i], S[a], P[a]
    u, ia, ib = point.N + 3 * k, point.TURN_A + 3 * k, point.TURN_B + 3 * k
    x, y, z = j * R[u], j * R[u + 1], j * R[u + 2]
    p, q, r = j * R[ia], j * R[ia + 1], j * R[ia + 2]
    e, f, g = j * R[ib], j * R[ib + 1], j * R[ib + 2]
    A[state.VX] += PA[body.IM] * x
    A[state.VY] += PA[body.IM + 1] * y
    A[state.VZ] += PA[body.IM + 2] * z
    A[state.WX] += p
    A[state.WY] += q
    A[state.WZ] += r
    B, PB = S[b], P[b]
    if PB[body.INV_MASS] != 0.0:
        B[state.VX] -= PB[body.IM] * x
        B[state.VY] -= PB[body.IM + 1] * y
        B[state.VZ] -= PB[body.IM + 2] * z
        B[state.WX] -= e
        B[state.WY] -= f
        B[state.WZ] -= g


@kernel
def _twist(b, sign, tx, ty, tz, S, IW):
    """Angular impulse."""
    S[b, state.WX] += sign * (IW[b, inverse_inertia.XX] * tx + IW[b, inverse_inertia.XY] * ty + IW[b, inverse_inertia.XZ] * tz)
    S[b, state.WY] += sign * (IW[b, inverse_inertia.XY] * tx + IW[b, inverse_inertia.YY] * ty + IW[b, inverse_inertia.YZ] * tz)
    S[b, state.WZ] += sign * (IW[b, inverse_inertia.XZ] * tx + IW[b, inverse_inertia.YZ] * ty + IW[b, inverse_inertia.ZZ] * tz)


@far(WHOLE, WHOLE, REALS2, WHOLES2, REALS2, REALS2, REALS2)
def give_again(n, RC, RB, S, P, IW):
    """Apply the impulses that the points hold from before (a warm start)."""
    for i in range(n):
        if RC[i, point.IMPULSE_N] == 0.0:
            continue
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        for k in range(3):
            kick_along(i, k, RC[i, point.IMPULSE_N + k], a, b, RC, S, P)
        if RC[i, point.REFF] > 0.0:
            _twist(a, 1.0, RC[i, point.IMPULSE_R], RC[i, point.IMPULSE_R + 1], RC[i, point.IMPULSE_R + 2], S, IW)
            _twist(b, -1.0, RC[i, point.IMPULSE_R], RC[i, point.IMPULSE_R + 1], RC[i, point.IMPULSE_R + 2], S, IW)
    return 0


@kernel
def resist(i, law, RC, RB, S, IW):
    """Rolling and spinning resistance of a point."""
    a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
    if (RC[i, point.IMPULSE_N] == 0.0 and RC[i, point.IMPULSE_R] == 0.0 and RC[i, point.IMPULSE_R + 1] == 0.0
        and RC[i, point.IMPULSE_R + 2] == 0.0):
        return
    nx, ny, nz = RC[i, point.NX], RC[i, point.NY], RC[i, point.NZ]
    ox, oy, oz = S[a, state.WX] - S[b, state.WX], S[a, state.WY] - S[b, state.WY], S[a, state.WZ] - S[b, state.WZ]
    m = RC[i, point.MASS_R]
    x, y, z = RC[i, point.IMPULSE_R] - m * ox, RC[i, point.IMPULSE_R + 1] - m * oy, RC[i, point.IMPULSE_R + 2] - m * oz
    d = x * nx + y * ny + z * nz
    rx, ry, rz = x - d * nx, y - d * ny, z - d * nz
    most = law[material.ROLLING] * RC[i, point.IMPULSE_N] * RC[i, point.REFF]
    size = sqrt(rx * rx + ry * ry + rz * rz)
    share = 1.0 if size <= most else (most / size)
    most = law[material.SPINNING] * RC[i, point.IMPULSE_N] * RC[i, point.REFF]
    d = min(max(d, -most), most)
    x, y, z = share * rx + d * nx, share * ry + d * ny, share * rz + d * nz
    dx, dy, dz = x - RC[i, point.IMPULSE_R], y - RC[i, point.IMPULSE_R + 1], z - RC[i, point.IMPULSE_R + 2]
    RC[i, point.IMPULSE_R], RC[i, point.IMPULSE_R + 1], RC[i, point.IMPULSE_R + 2] = x, y, z
    _twist(a, 1.0, dx, dy, dz, S, IW)
    _twist(b, -1.0, dx, dy, dz, S, IW)


@kernel
def rub(i, law, RC, RB, S, P):
    """Friction of a point: both tangents together, clipped to the disc."""
    R = RC[i]
    n, t0, s0 = R[point.IMPULSE_N], R[point.IMPULSE_T], R[point.IMPULSE_S]
    if n == 0.0 and t0 == 0.0 and s0 == 0.0:
        return
    a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
    mu = law[material.STATIC] if R[point.STICK] != 0.0 else law[material.DYNAMIC]
    m = R[point.MASS_T]
    t, s = t0 - m * speed_along(i, 1, a, b, RC, S), s0 - m * speed_along(i, 2, a, b, RC, S)
    size, most = t * t + s * s, mu * n
    if size > most * most:
        share = most / sqrt(size)
        t, s = t * share, s * share
    R[point.IMPULSE_T], R[point.IMPULSE_S] = t, s
    t, s = t - t0, s - s0
    A, B, PA, PB = S[a], S[b], P[a], P[b]
    x, y, z = t * R[point.TX] + s * R[point.SX], t * R[point.TY] + s * R[point.SY], t * R[point.TZ] + s * R[point.SZ]
    A[state.VX] += PA[body.IM] * x
    A[state.VY] += PA[body.IM + 1] * y
    A[state.VZ] += PA[body.IM + 2] * z
    A[state.WX] += t * R[point.TURN_A + 3] + s * R[point.TURN_A + 6]
    A[state.WY] += t * R[point.TURN_A + 4] + s * R[point.TURN_A + 7]
    A[state.WZ] += t * R[point.TURN_A + 5] + s * R[point.TURN_A + 8]
    if PB[body.INV_MASS] != 0.0:
        B[state.VX] -= PB[body.IM] * x
        B[state.VY] -= PB[body.IM + 1] * y
        B[state.VZ] -= PB[body.IM + 2] * z
        B[state.WX] -= t * R[point.TURN_B + 3] + s * R[point.TURN_B + 6]
        B[state.WY] -= t * R[point.TURN_B + 4] + s * R[point.TURN_B + 7]
        B[state.WZ] -= t * R[point.TURN_B + 5] + s * R[point.TURN_B + 8]


@kernel
def press(i, bias, mass_scale, impulse_scale, RC, RB, S, P):
    """Normal impulse of a point towards a speed of separation of ``-bias``."""
    a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
    had = RC[i, point.IMPULSE_N]
    new = had - RC[i, point.MASS] * mass_scale * (speed_along(i, 0, a, b, RC, S) + bias) - impulse_scale * had
    new = max(new, 0.0)
    if new != had:
        kick_along(i, 0, new - had, a, b, RC, S, P)
        RC[i, point.IMPULSE_N] = new


@kernel
def slip_speed(i, RC, RB, S):
    """Speed along both tangents."""
    a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
    t, s = speed_along(i, 1, a, b, RC, S), speed_along(i, 2, a, b, RC, S)
    return sqrt(t * t + s * s)


@kernel
def note_slip(i, law, RC, RB, S):
    """Whether a point slips now: it is at the limit of friction and moves along the contact."""
    RC[i, point.STICK] = 1.0
    if (RC[i, point.IMPULSE_N] > 0.0 and RC[i, point.IMPULSE_T] ** 2
        + RC[i, point.IMPULSE_S] ** 2 >= (0.999 * law[material.DYNAMIC] * RC[i, point.IMPULSE_N]) ** 2):
        if slip_speed(i, RC, RB, S) > SLIPPING:
            RC[i, point.STICK] = 0.0


@far(WHOLE, WHOLE, REAL, REAL, WHOLE, RUN, REALS2, REALS2, WHOLES2)
def log_point(i, now, approach, n, run, U, RC, RB):
    """Write a contact: the point ``i``, its approach speed, and both bodies' states now and velocities before in ``U``."""
    S, clog, status = states_of(run), contact_log_of(run), status_of(run)
    row = status[run_status.CONTACTS]
    if row >= clog.shape[0]:
        status[run_status.CODE] = run_code.LOG_FULL
        return 0
    a, b, p = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RB[i, point_int.PAIR]
    clog[row, contact_log.TIME], clog[row, contact_log.PAIR], clog[row, contact_log.BODY_A] = now, p, a
    clog[row, contact_log.BODY_B] = b
    for c in range(3):
        clog[row, contact_log.POINT + c] = S[b, c] + RC[i, point.ARM_B + c]
        clog[row, contact_log.NORMAL + c] = RC[i, c]
    clog[row, contact_log.APPROACH], clog[row, contact_log.REBOUND] = approach, max(speed_along(i, 0, a, b, RC, S), 0.0)
    clog[row, contact_log.SLIP_BEFORE], clog[row, contact_log.SLIP_AFTER] = RC[i, point.SLIP], slip_speed(i, RC, RB, S)
    normal, along = 0.0, 0.0
    for k in range(n):  # the pair's points together
        if RB[k, point_int.PAIR] == p:
            normal += RC[k, point.TOTAL]
            along += RC[k, point.RUB]
    clog[row, contact_log.IMPULSE_N], clog[row, contact_log.IMPULSE_T] = normal, along
    for side in range(2):
        log_body(row, contact_log.STATE_A if side == 0 else contact_log.STATE_B, a if side == 0 else b, U, S, clog)
    status[run_status.CONTACTS] = row + 1
    status[run_status.IMPACTS] += 1
    return 0


@far(WHOLE, WHOLE, REAL, REALS2, REALS2, REALS2)
def turn_body(b, h, S, E, P):
    """Place and orientation after h at the velocities in ``E``; angular momentum kept."""
    for c in range(3):
        S[b, c] += h * E[b, state.VELOCITY + c]
        S[b, state.ROTATION + c] += h * E[b, state.OMEGA + c]
    ox, oy, oz = E[b, state.WX], E[b, state.WY], E[b, state.WZ]
    if ox == 0.0 and oy == 0.0 and oz == 0.0:
        return 0
    w, x, y, z = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    ball = (i1 == i2 and i2 == i3) or P[b, body.INV_MASS] == 0.0
    lx, ly, lz = 0.0, 0.0, 0.0
    if not ball:
        lx, ly, lz = momentum_of(w, x, y, z, S[b, state.WX], S[b, state.WY], S[b, state.WZ], i1, i2, i3)
    f = 0.5 * h
    nw = w - f * (ox * x + oy * y + oz * z)
    nx = x + f * (ox * w + oy * z - oz * y)
    ny = y + f * (oy * w + oz * x - ox * z)
    nz = z + f * (oz * w + ox * y - oy * x)
    size = 1.0 / sqrt(nw * nw + nx * nx + ny * ny + nz * nz)
    S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ] = nw * size, nx * size, ny * size, nz * size
    if not ball:
        S[b, state.WX], S[b, state.WY], S[b, state.WZ] = spin_of(int(P[b, body.LOCK]), S[b, state.QW], S[b, state.QX],
                                                                 S[b, state.QY], S[b, state.QZ], lx, ly, lz, i1, i2, i3)
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
    w, x, y, z = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    lx, ly, lz = momentum_of(w, x, y, z, S[b, state.WX], S[b, state.WY], S[b, state.WZ], i1, i2, i3)
    ox, oy, oz = rotate(w, -x, -y, -z, S[b, state.WX], S[b, state.WY], S[b, state.WZ])
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
        S[b, state.ROTATION + c] += 0.5 * h * (S[b, state.OMEGA + c] + o)
        S[b, state.OMEGA + c] = o
    S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ] = w, x, y, z


@far(WHOLE, WHOLE, REAL, REALS2, REALS2)
def tumble(b, h, S, P):
    """Place and orientation after h: angular momentum kept, and kinetic energy to the order of the turn.

    dq/dt = ½ ω q, ω = R I⁻¹ Rᵀ L, by the midpoint method where the turn is small; else exactly for what is symmetric, and by
    Runge-Kutta 4 in parts of FINE_TURN for what is not.
    """
    ox, oy, oz = S[b, state.WX], S[b, state.WY], S[b, state.WZ]
    angle = h * sqrt(ox * ox + oy * oy + oz * oz)
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    if angle == 0.0 or (i1 == i2 and i2 == i3) or P[b, body.INV_MASS] == 0.0 or P[b, body.LOCK] >= 8.0:
        turn_body(b, h, S, S, P)
        return 0
    for c in range(3):
        S[b, c] += h * S[b, state.VELOCITY + c]
    w, x, y, z = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
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
        S[b, state.RX], S[b, state.RY], S[b, state.RZ] = S[b, state.RX] + s * tx, S[b, state.RY] + s * ty, S[b, state.RZ] + s * tz
        ox, oy, oz = spin_of(0, w, x, y, z, lx, ly, lz, i1, i2, i3)
    S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ] = w, x, y, z
    S[b, state.WX], S[b, state.WY], S[b, state.WZ] = ox, oy, oz
    return 0


@part
def sample_as_they_are(end, first, BL, S, P, times, out):
    """Write bodies as they are into the samples up to a time. Returns the next one."""
    while first < times.shape[0] and times[first] <= end:
        for k in range(BL.shape[0]):
            if P[BL[k], body.MOTION] != 0.0:
                for c in range(state.COUNT):
                    out[first, BL[k], c] = S[BL[k], c]
        first += 1
    return first


@kernel
def sample_between(row, share, bodies, BL, S, P, before, out):
    """States between the start and the end of a substep."""
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            for c in range(state.COUNT):
                out[row, b, c] = before[b, c] + share * (S[b, c] - before[b, c])
            n = 1.0 / sqrt(out[row, b, state.QW] ** 2 + out[row, b, state.QX] ** 2 + out[row, b, state.QY] ** 2
                           + out[row, b, state.QZ] ** 2)
            for c in range(state.ORIENTATION, state.VELOCITY):
                out[row, b, c] *= n


@far(WHOLE, WHOLE, REAL, REAL, REALS2, REALS2, REALS2)
def drive(b, h, t, S, P, KT):
    """Drive a pushed body towards its path over ``h``, with no more than the force it may exert."""
    j = int(P[b, body.KEY0])
    while KT[j + 1, key.TIME] <= t + 1e-12 and KT[j + 1, key.TIME] > KT[j, key.TIME]:
        j += 1
    fx, fy, fz = 0.0, 0.0, 0.0
    for c in range(3):
        there = KT[j, key.POSITION + c] + (t - KT[j, key.TIME]) * KT[j, key.VELOCITY + c]
        want = KT[j, key.VELOCITY + c] + (there - S[b, c]) / FOLLOW - S[b, state.VELOCITY + c]
        if c == 0:
            fx = want
        elif c == 1:
            fy = want
        else:
            fz = want
    size = sqrt(fx * fx + fy * fy + fz * fz)
    most = P[b, body.PUSH] * h * P[b, body.INV_MASS]
    share = min(1.0, most / size) if size > 0.0 else 0.0
    S[b, state.VX], S[b, state.VY], S[b, state.VZ] = (S[b, state.VX] + share * fx, S[b, state.VY] + share * fy, S[b, state.VZ]
                                                      + share * fz)
    return 0
