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
from yapa.engine.kernels.dynamics.flight import following_velocity, momentum_of, same_all_round, spin_of
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.handles import RUN, contact_log_of, states_of, status_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    contact_log,
    inverse_inertia,
    material,
    point,
    point_int,
    run_code,
    run_status,
    state,
)
from yapa.engine.kernels.math.vectors import (
    ZERO,
    add,
    ahead,
    cross,
    dot,
    each,
    further,
    length,
    minus,
    negative,
    over,
    plus,
    put,
    put_quaternion,
    quaternion,
    quaternion_of,
    quaternion_rate,
    rotate_back,
    times,
    unit_quaternion,
    vector,
)

SMALL_TURN, FINE_TURN, MOST_TURNS = 0.01, 0.05, 50
"""rad: turns in a substep that two evaluations are enough for, and parts of greater ones; so many at most."""
ROUND_SHARE = 1e-9
"""Moments of inertia that differ by less than this share are equal."""
SLIPPING = 5e-3
"""m/s: a point slips at its limit and above this speed."""
RELEASE_SPEED = 1e-3
"""m/s: a point that grips slips at the limit of its static friction and above this speed, where its dynamic one is lower."""


@kernel
def _place_arm(i, b, arm, local, round_part, RC, S):
    """The arm of a point on body ``b``: what turns with it, and the part about which it is round."""
    put(RC, i, arm, plus(turned(b, S, vector(RC, i, local)), vector(RC, i, round_part)))


@part
def _inverse_times(b, a, IW):
    """World I⁻¹ of a body applied to a vector."""
    xy, yz, xz = IW[b, inverse_inertia.XY], IW[b, inverse_inertia.YZ], IW[b, inverse_inertia.XZ]
    return (dot((IW[b, inverse_inertia.XX], xy, xz), a), dot((xy, IW[b, inverse_inertia.YY], yz), a),
            dot((xz, yz, IW[b, inverse_inertia.ZZ]), a))


@part
def _angular_terms(i, b, arm, axis, at, turns, RC, IW):
    """r × u and I⁻¹ (r × u) of a body along an axis of a point; their product."""
    crossed = cross(vector(RC, i, arm), axis)
    turn = _inverse_times(b, crossed, IW)
    put(RC, i, at, crossed)
    put(RC, i, turns, turn)
    return dot(crossed, turn)


@far(WHOLE, WHOLE, REALS2, WHOLES2, REALS2, REALS2, REALS2)
def prepare_points(n, RC, RB, S, P, IW):
    """Arms of the points as their bodies have turned, and what follows from them along every axis."""
    for i in range(n):
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        if not (P[a, body.BALL] != 0.0 and P[a, body.MOTION] == 1.0) and P[a, body.MOTION] != 0.0:
            _place_arm(i, a, point.ARM_A, point.LOCAL_A, point.ROUND_A, RC, S)
        if not (P[b, body.BALL] != 0.0 and P[b, body.MOTION] == 1.0) and P[b, body.MOTION] != 0.0:
            _place_arm(i, b, point.ARM_B, point.LOCAL_B, point.ROUND_B, RC, S)
        most = 0.0
        for k in range(3):
            axis = vector(RC, i, point.N + 3 * k)
            total = _angular_terms(i, a, point.ARM_A, axis, point.CROSS_A + 3 * k, point.TURN_A + 3 * k, RC, IW)
            total += _angular_terms(i, b, point.ARM_B, axis, point.CROSS_B + 3 * k, point.TURN_B + 3 * k, RC, IW)
            total += dot(each(plus(vector(P, a, body.IM), vector(P, b, body.IM)), axis), axis)
            if k == 0:
                RC[i, point.MASS] = 1.0 / max(total, 1e-300)
            else:
                most = max(most, total)
        RC[i, point.MASS_T] = 1.0 / max(most, 1e-300)
    return 0


@kernel
def speed_along(i, k, a, b, RC, S):
    """Relative speed of a point along its axis ``k`` (normal, two tangents)."""
    apart = minus(vector(S, a, state.VELOCITY), vector(S, b, state.VELOCITY))
    by_a = each(vector(RC, i, point.CROSS_A + 3 * k), vector(S, a, state.OMEGA))
    by_b = each(vector(RC, i, point.CROSS_B + 3 * k), vector(S, b, state.OMEGA))
    return (dot(vector(RC, i, point.N + 3 * k), apart) + by_a[0] + by_a[1] + by_a[2] - by_b[0] - by_b[1] - by_b[2]
            + RC[i, point.BELT + k])


@part
def _give(b, push, turn, S, P):
    """Velocity by an impulse, and this angular velocity."""
    add(S, b, state.VELOCITY, each(vector(P, b, body.IM), push))
    add(S, b, state.OMEGA, turn)


@kernel
def kick_along(i, k, j, a, b, RC, S, P):
    """An impulse along an axis of a point."""
    push = times(j, vector(RC, i, point.N + 3 * k))
    _give(a, push, times(j, vector(RC, i, point.TURN_A + 3 * k)), S, P)
    if P[b, body.INV_MASS] != 0.0:
        _give(b, negative(push), negative(times(j, vector(RC, i, point.TURN_B + 3 * k))), S, P)


@kernel
def _twist(a, b, twist, S, IW):
    """Angular impulse on a, and its opposite on b."""
    add(S, a, state.OMEGA, _inverse_times(a, twist, IW))
    add(S, b, state.OMEGA, negative(_inverse_times(b, twist, IW)))


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
            _twist(a, b, vector(RC, i, point.IMPULSE_R), S, IW)
    return 0


@kernel
def resist(i, law, RC, RB, S, IW):
    """Rolling and spinning resistance of a point."""
    a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
    had, normal = vector(RC, i, point.IMPULSE_R), RC[i, point.IMPULSE_N]
    if normal == 0.0 and had == ZERO:
        return
    n = vector(RC, i, point.N)
    wanted = ahead(had, -RC[i, point.MASS_R], minus(vector(S, a, state.OMEGA), vector(S, b, state.OMEGA)))
    spin = dot(wanted, n)
    roll = ahead(wanted, -spin, n)
    most = law[material.ROLLING] * normal * RC[i, point.REFF]
    size = length(roll)
    share = 1.0 if size <= most else (most / size)
    most = law[material.SPINNING] * normal * RC[i, point.REFF]
    new = ahead(times(share, roll), min(max(spin, -most), most), n)
    put(RC, i, point.IMPULSE_R, new)
    _twist(a, b, minus(new, had), S, IW)


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
    push = ahead(times(t, vector(RC, i, point.T)), s, vector(RC, i, point.S))
    _give(a, push, ahead(times(t, vector(RC, i, point.TURN_A + 3)), s, vector(RC, i, point.TURN_A + 6)), S, P)
    if P[b, body.INV_MASS] != 0.0:
        turn = ahead(times(t, vector(RC, i, point.TURN_B + 3)), s, vector(RC, i, point.TURN_B + 6))
        _give(b, negative(push), negative(turn), S, P)


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
def pair_holds(i, n, law, RC, RB):
    """Whether, of the points of a pair from ``i`` on, one that grips is pressed and below its static limit.

    How friction is shared among them is not determined: while one has more to give none lets go."""
    if law[material.STATIC] <= law[material.DYNAMIC]:
        return False
    p = RB[i, point_int.PAIR]
    while i < n and RB[i, point_int.PAIR] == p:
        had = sqrt(RC[i, point.IMPULSE_T] ** 2 + RC[i, point.IMPULSE_S] ** 2)
        most = 0.999 * law[material.STATIC] * RC[i, point.IMPULSE_N]
        if RC[i, point.STICK] != 0.0 and RC[i, point.IMPULSE_N] > 0.0 and had < most:
            return True
        i += 1
    return False


@kernel
def note_slip(i, law, holds, start, RC, RB, S):
    """Whether a point slips now: it is at the limit of friction and moves along the contact. ``holds``: of its pair;
    ``start``: the speed above which what grips is let go."""
    had, gripped = sqrt(RC[i, point.IMPULSE_T] ** 2 + RC[i, point.IMPULSE_S] ** 2), RC[i, point.STICK] != 0.0
    if gripped and law[material.STATIC] > law[material.DYNAMIC]:  # it lets go as soon as its static limit does not hold it
        if not holds and RC[i, point.IMPULSE_N] > 0.0 and had >= 0.999 * law[material.STATIC] * RC[i, point.IMPULSE_N]:
            RC[i, point.STICK] = 0.0 if slip_speed(i, RC, RB, S) > start else 1.0
        return
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
    put(clog, row, contact_log.POINT, plus(vector(S, b, state.POSITION), vector(RC, i, point.ARM_B)))
    put(clog, row, contact_log.NORMAL, vector(RC, i, point.N))
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
    spin = vector(E, b, state.OMEGA)
    add(S, b, state.POSITION, times(h, vector(E, b, state.VELOCITY)))
    add(S, b, state.ROTATION, times(h, spin))
    if spin == ZERO:
        return 0
    q, inertia = quaternion(S, b, state.ORIENTATION), vector(P, b, body.INERTIA)
    ball = same_all_round(inertia) or P[b, body.INV_MASS] == 0.0
    momentum = ZERO
    if not ball:
        momentum = momentum_of(q, vector(S, b, state.OMEGA), inertia)
    w, x, y, z = q
    ox, oy, oz = spin
    f = 0.5 * h  # ½ h ω q: as ``quaternion_rate``, rounded in another order
    q = unit_quaternion((w - f * (ox * x + oy * y + oz * z), x + f * (ox * w + oy * z - oz * y),
                         y + f * (oy * w + oz * x - ox * z), z + f * (oz * w + ox * y - oy * x)))
    put_quaternion(S, b, state.ORIENTATION, q)
    if not ball:
        put(S, b, state.OMEGA, spin_of(int(P[b, body.LOCK]), q, momentum, inertia))
    return 0


@kernel
def _product(p, q):
    """The product of two quaternions; its sums are in another order than those of ``math.vectors``, which would change results."""
    return (p[0] * q[0] - p[1] * q[1] - p[2] * q[2] - p[3] * q[3], p[0] * q[1] + p[1] * q[0] + p[2] * q[3] - p[3] * q[2],
            p[0] * q[2] - p[1] * q[3] + p[2] * q[0] + p[3] * q[1], p[0] * q[3] + p[1] * q[2] - p[2] * q[1] + p[3] * q[0])


@kernel
def _axis_of(inertia):
    """The principal axis that a body is symmetric about, or -1."""
    i1, i2, i3 = inertia
    if abs(i1 - i2) <= ROUND_SHARE * i1:
        return 2
    if abs(i2 - i3) <= ROUND_SHARE * i2:
        return 0
    return 1 if abs(i1 - i3) <= ROUND_SHARE * i1 else -1


@kernel
def _spin_top(b, h, axis, S, P):
    """The exact turn of a symmetric body: ω = L/I⊥ + (1 - I/I⊥) ω_a a, L fixed in space and the axis a in the body."""
    q, spin, inertia = quaternion(S, b, state.ORIENTATION), vector(S, b, state.OMEGA), vector(P, b, body.INERTIA)
    momentum, own = momentum_of(q, spin, inertia), rotate_back(q, spin)
    along, across = (inertia[2], inertia[0]) if axis == 2 else ((inertia[0], inertia[1]) if axis == 0 else (inertia[1], inertia[0]))
    share = h * (1.0 - along / across)
    half = 0.5 * share * (own[2] if axis == 2 else (own[0] if axis == 0 else own[1]))
    c, s = cos(half), sin(half)
    about = (c, 0.0, 0.0, s) if axis == 2 else ((c, s, 0.0, 0.0) if axis == 0 else (c, 0.0, s, 0.0))
    q = unit_quaternion(_product(_product(quaternion_of(times(h / across, momentum), 1.0), q), about))
    after = spin_of(0, q, momentum, inertia)
    add(S, b, state.ROTATION, times(0.5 * h, plus(spin, after)))
    put(S, b, state.OMEGA, after)
    put_quaternion(S, b, state.ORIENTATION, q)


@far(WHOLE, WHOLE, REAL, REALS2, REALS2)
def tumble(b, h, S, P):
    """Place and orientation after h: angular momentum kept, and kinetic energy to the order of the turn.

    dq/dt = ½ ω q, ω = R I⁻¹ Rᵀ L, by the midpoint method where the turn is small; else exactly for what is symmetric, and by
    Runge-Kutta 4 in parts of FINE_TURN for what is not.
    """
    spin, inertia = vector(S, b, state.OMEGA), vector(P, b, body.INERTIA)
    angle = h * length(spin)
    if angle == 0.0 or same_all_round(inertia) or P[b, body.INV_MASS] == 0.0 or P[b, body.LOCK] >= 8.0:
        turn_body(b, h, S, S, P)
        return 0
    add(S, b, state.POSITION, times(h, vector(S, b, state.VELOCITY)))
    q = quaternion(S, b, state.ORIENTATION)
    momentum, small = momentum_of(q, spin, inertia), angle < SMALL_TURN
    axis = -1 if small else _axis_of(inertia)
    if axis >= 0:
        _spin_top(b, h, axis, S, P)
        return 0
    parts = 1 if small else 1 + min(int(angle / FINE_TURN), MOST_TURNS)
    s = h / parts
    for _ in range(parts):
        r1 = quaternion_rate(spin, q)
        at = unit_quaternion(further(q, 0.5 * s, r1))
        second = spin_of(0, at, momentum, inertia)
        r2 = quaternion_rate(second, at)
        turn = second
        if small:
            q = unit_quaternion(further(q, s, r2))
        else:
            at = unit_quaternion(further(q, 0.5 * s, r2))
            third = spin_of(0, at, momentum, inertia)
            r3 = quaternion_rate(third, at)
            at = unit_quaternion(further(q, s, r3))
            fourth = spin_of(0, at, momentum, inertia)
            r4 = quaternion_rate(fourth, at)
            turn = over(plus(ahead(spin, 2.0, plus(second, third)), fourth), 6.0)
            q = unit_quaternion(further(q, s / 6.0, further(further(r1, 2.0, further(r2, 1.0, r3)), 1.0, r4)))
        add(S, b, state.ROTATION, times(s, turn))
        spin = spin_of(0, q, momentum, inertia)
    put_quaternion(S, b, state.ORIENTATION, q)
    put(S, b, state.OMEGA, spin)
    return 0


@far(WHOLE, WHOLE, REAL, REAL, REALS2, REALS2, REALS2)
def drive(b, h, t, S, P, KT):
    """Drive a pushed body towards its path over ``h``, with no more than the force it may exert."""
    want = minus(following_velocity(b, t, S, P, KT), vector(S, b, state.VELOCITY))
    size = length(want)
    most = P[b, body.PUSH] * h * P[b, body.INV_MASS]
    add(S, b, state.VELOCITY, times(min(1.0, most / size) if size > 0.0 else 0.0, want))
    return 0
