"""Time of impact: when two shapes first meet inside a substep.

The gap is a smooth function of the time s in the substep. With its rate at both ends, the first
crossing is bracketed: below zero at the end; or above zero at both ends with a minimum between
that dips below; or touching at the start and leaving, where the bracket is halved until the gap
is positive. The bracket is closed by Newton steps kept inside it, to |gap| < 1e-14 m. Pairs that
move fast against their thinness are looked at in pieces no longer than half of it.
"""

from math import sqrt

from yapa.engine.kernels.flight import place_at, turn_at
from yapa.engine.kernels.jit import FLAG, REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import (
    BALL,
    G_A,
    G_B,
    G_BOUND,
    G_CLEAR,
    G_RADIUS,
    G_THIN,
    I_SIDES,
    INV_MASS,
    MANIFOLD,
    MOTION,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_KIND,
    REACH,
    RIM_PLANE,
    ROUND_PLANE,
    SC_GF,
    SC_GI,
    SC_Q,
    STILL,
    TOUCH,
    WS_D,
    WS_E,
    WS_M,
    WS_WV,
    WS_X,
)
from yapa.engine.kernels.polytopes import apart
from yapa.engine.kernels.shapes import far_apart, gap_and_rate, upright
from yapa.engine.kernels.views import reals, wholes

PIECES = 512
NO_DIP = 2e-11
"""m: what is let go and dips less before it parts is let go."""


@kernel
def _round_gap(a, b, X, S, sa, sb, GF):
    """A sphere about its centre of mass over a solid plane that does not move: gap and rate, without a frame."""
    nx, ny, nz = GF[sb, G_B], GF[sb, G_B + 1], GF[sb, G_B + 2]
    level = nx * (S[b, 0] + GF[sb, G_A]) + ny * (S[b, 1] + GF[sb, G_A + 1]) + nz * (S[b, 2] + GF[sb, G_A + 2])
    gap = nx * X[a, 0] + ny * X[a, 1] + nz * X[a, 2] - level - GF[sa, G_RADIUS]
    return gap, nx * X[a, 7] + ny * X[a, 8] + nz * X[a, 9]


@kernel
def _is_plain(p, S, P, geo, Q):
    """Whether the short form above holds for a pair."""
    GF = reals(geo, SC_GF)
    sa, sb, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BB]
    if Q[p, Q_KIND] != ROUND_PLANE or P[b, MOTION] != 0.0 or not upright(b, S) or wholes(geo, SC_GI)[sb, I_SIDES] != 0:
        return False
    return GF[sa, G_BOUND] == GF[sa, G_RADIUS] and (
        GF[sa, G_A] == 0.0 and GF[sa, G_A + 1] == 0.0 and GF[sa, G_A + 2] == 0.0
        and GF[sa, G_CLEAR] == 0.0 and GF[sb, G_CLEAR] == 0.0)


@far((REAL, REAL), WHOLE, WHOLE, FLAG, REAL, REALS2, REALS2, WHOLES1, WHOLES1)
def gap_at(p, f, plain, s, S, P, scene, ws):
    """Gap and rate at time s of the substep; the states there are left in the scratch states."""
    geo, Q = scene, wholes(scene, SC_Q)
    D, X = reals(ws, WS_D), reals(ws, WS_X)
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    if plain:
        place_at(a, s, D, X)
        return _round_gap(a, b, X, S, Q[p, Q_A], Q[p, Q_B], reals(geo, SC_GF))
    for side in range(2):
        q = a if side == 0 else b
        if P[q, MOTION] != 0.0:
            place_at(q, s, D, X)
            if P[q, BALL] == 0.0 or P[q, INV_MASS] == 0.0 or Q[p, Q_KIND] == MANIFOLD or Q[p, Q_KIND] <= RIM_PLANE:
                turn_at(q, s, S, P, D, X)
        else:
            for c in range(13):
                X[q, c] = S[q, c]
    if Q[p, Q_KIND] == MANIFOLD:
        return apart(p, X, geo, Q, reals(ws, WS_WV), reals(ws, WS_M))
    return gap_and_rate(p, f, X, geo, Q)


@kernel
def stays_above(p, S, E, geo, Q):
    """Whether a plain sphere that is above its plane at both ends of a substep, and not turning upwards in it, never meets it."""
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    g0, r0 = _round_gap(a, b, S, S, Q[p, Q_A], Q[p, Q_B], reals(geo, SC_GF))
    g1, r1 = _round_gap(a, b, E, S, Q[p, Q_A], Q[p, Q_B], reals(geo, SC_GF))
    return g0 > TOUCH and g1 > 0.0 and (r0 >= 0.0 or r1 <= 0.0)


@kernel
def _close_in(p, f, plain, lo, hi, on_rate, S, P, scene, ws):
    """The root of the gap (positive at lo, negative at hi); with ``on_rate`` 1 or 2 that of its rate, rising or falling."""
    sign = -1.0 if on_rate == 1 else 1.0
    s = 0.5 * (lo + hi)
    flo, fhi = 0.0, 0.0
    side = 0
    for _ in range(200):
        gap, rate = gap_at(p, f, plain, s, S, P, scene, ws)
        v = sign * (rate if on_rate > 0 else gap)
        if abs(v) < (1e-15 if on_rate == 0 else 1e-13) or hi - lo < 1e-16 * (1.0 + hi):
            break
        if v > 0.0:
            lo, flo = s, v
            if side == 1:
                fhi *= 0.5
            side = 1
        else:
            hi, fhi = s, v
            if side == -1:
                flo *= 0.5
            side = -1
        guess = -1.0
        if on_rate == 0 and rate != 0.0:
            guess = s - gap / rate
        if not (lo < guess < hi):
            guess = (lo * fhi - hi * flo) / (fhi - flo) if fhi != 0.0 and flo != 0.0 else 0.5 * (lo + hi)
            if not (lo < guess < hi):
                guess = 0.5 * (lo + hi)
        if abs(guess - s) < 1e-17 + 2e-16 * s:
            s = guess
            break
        s = guess
    return s


@kernel
def _first_in_piece(p, f, plain, lo, hi, g0, r0, g1, r1, S, P, scene, ws):
    """First crossing in [lo, hi], or -1."""
    if g0 <= TOUCH and lo == 0.0:
        if r0 < -STILL:
            return 0.0
        top = hi
        if r0 <= STILL and r1 > 0.0:  # let go too soon, as it presses first and parts only then: held up to where it would part
            for _ in range(40):
                top *= 0.5
                gm, rm = gap_at(p, f, plain, top, S, P, scene, ws)
                if rm < 0.0:  # a force that falls evenly to zero at s has the gap close in, if let go, up to 2 s
                    if g1 > -TOUCH and gm > g0 - NO_DIP:
                        return -1.0
                    return 0.5 * _close_in(p, f, plain, top, 2.0 * top, 1, S, P, scene, ws)
            top = hi
        if g1 > 0.0 or (g1 > -TOUCH and r1 > -STILL):  # what the law lets go may have closed in slower than an impact
            return -1.0
        for _ in range(80):
            mid = 0.5 * top
            gm, rm = gap_at(p, f, plain, mid, S, P, scene, ws)
            if gm > 0.0 and (gm > TOUCH or rm < 0.0):
                return _close_in(p, f, plain, mid, top, 0, S, P, scene, ws)
            top = mid
            if top < 1e-13:
                break
        if r0 > 0.0 and r1 < 0.0:  # it never parts: stop it where it turns back, to be held there
            return _close_in(p, f, plain, 0.0, hi, 2, S, P, scene, ws)
        return -1.0
    if g1 < 0.0:
        return _close_in(p, f, plain, lo, hi, 0, S, P, scene, ws)
    if r0 < 0.0 and r1 > 0.0:
        s = _close_in(p, f, plain, lo, hi, 1, S, P, scene, ws)
        gm, _ = gap_at(p, f, plain, s, S, P, scene, ws)
        if gm < 0.0:
            return _close_in(p, f, plain, lo, s, 0, S, P, scene, ws)
    return -1.0


@kernel
def fastest(p, h, S, P, cfg_pull, Q):
    """A bound on how fast the points of a pair may approach within a substep."""
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    vx, vy, vz = S[a, 7] - S[b, 7], S[a, 8] - S[b, 8], S[a, 9] - S[b, 9]
    total = sqrt(vx * vx + vy * vy + vz * vz) + cfg_pull * h
    for side in range(2):
        q = a if side == 0 else b
        if P[q, MOTION] != 0.0:
            total += P[q, REACH] * sqrt(S[q, 10] ** 2 + S[q, 11] ** 2 + S[q, 12] ** 2)
    return total


@far(REAL, WHOLE, WHOLE, REAL, REAL, REALS2, REALS2, WHOLES1, WHOLES1)
def first_meeting(p, f, h, pull, S, P, scene, ws):
    """Time of the first meeting of a feature (or of a whole MANIFOLD pair) in (0, h], or -1 if there is none."""
    geo, Q = scene, wholes(scene, SC_Q)
    plain = _is_plain(p, S, P, geo, Q)
    if plain and stays_above(p, S, reals(ws, WS_E), geo, Q):
        return -1.0
    pieces = 1
    if Q[p, Q_KIND] > RIM_PLANE:
        travel = 1.05 * fastest(p, h, S, P, pull, Q) * h + 1e-6
        if far_apart(p, travel, S, geo, Q):
            return -1.0
        thin = 0.5 * min(reals(geo, SC_GF)[Q[p, Q_A], G_THIN], reals(geo, SC_GF)[Q[p, Q_B], G_THIN])
        pieces = min(1 + int(travel / thin), PIECES)
    if plain:
        g0, r0 = _round_gap(Q[p, Q_BA], Q[p, Q_BB], S, S, Q[p, Q_A], Q[p, Q_B], reals(geo, SC_GF))
    elif Q[p, Q_KIND] == MANIFOLD:
        g0, r0 = apart(p, S, geo, Q, reals(ws, WS_WV), reals(ws, WS_M))
    else:
        g0, r0 = gap_and_rate(p, f, S, geo, Q)
        if Q[p, Q_KIND] <= RIM_PLANE and g0 > 1.05 * fastest(p, h, S, P, pull, Q) * h + 1e-6:
            return -1.0
    lo = 0.0
    for i in range(pieces):
        hi = h * (i + 1) / pieces
        g1, r1 = gap_at(p, f, plain, hi, S, P, scene, ws)
        if i == 0 and pieces > 1 and g0 <= TOUCH and abs(r0) <= STILL and g1 < 0.0 and r1 < 0.0:
            return hi  # let go for what comes later, as where a face ends: it presses as long as this
        s = _first_in_piece(p, f, plain, lo, hi, g0, r0, g1, r1, S, P, scene, ws)
        if s >= 0.0:
            return s
        lo, g0, r0 = hi, g1, r1
    return -1.0
