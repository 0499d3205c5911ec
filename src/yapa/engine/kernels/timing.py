"""When two shapes first meet inside a substep.

The gap is a smooth function of the time s in the substep. With its rate at both ends, the first
crossing is bracketed: below zero at the end; or above zero at both ends with a minimum between
that dips below; or touching at the start and leaving, where the bracket is halved until the gap
is positive. The bracket is closed by Newton steps kept inside it, to |gap| < 1e-14 m.
"""

from math import sqrt

from yapa.engine.kernels.flight import place_at, turn_at
from yapa.engine.kernels.gaps import gap_and_rate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import BOX_PLANE, EXTENT, INV_MASS, REACH, SPHERE_PLANE, STILL, TOUCH


@kernel
def gap_at(kind, a, b, feature, s, S, P, D, X):
    """Gap and rate at time s of the substep; ``X`` is scratch."""
    place_at(a, s, D, X)
    if kind == BOX_PLANE:
        turn_at(a, s, S, P, D, X)
    elif kind == SPHERE_PLANE:
        nx, ny, nz = P[b, EXTENT], P[b, EXTENT + 1], P[b, EXTENT + 2]
        gap = nx * (X[a, 0] - S[b, 0]) + ny * (X[a, 1] - S[b, 1]) + nz * (X[a, 2] - S[b, 2]) - P[a, EXTENT]
        return gap, nx * X[a, 7] + ny * X[a, 8] + nz * X[a, 9]
    if P[b, INV_MASS] > 0.0:
        place_at(b, s, D, X)
    return gap_and_rate(kind, a, b, feature, X, P)


@kernel
def stays_above(a, b, S, E, P):
    """Whether a sphere that is above a plane at both ends of a substep, and not turning upwards in it, never meets it."""
    nx, ny, nz = P[b, EXTENT], P[b, EXTENT + 1], P[b, EXTENT + 2]
    r = P[a, EXTENT] + nx * S[b, 0] + ny * S[b, 1] + nz * S[b, 2]
    if nx * S[a, 0] + ny * S[a, 1] + nz * S[a, 2] - r <= TOUCH or nx * E[a, 0] + ny * E[a, 1] + nz * E[a, 2] <= r:
        return False
    rises0 = nx * S[a, 7] + ny * S[a, 8] + nz * S[a, 9] >= 0.0
    return rises0 or nx * E[a, 7] + ny * E[a, 8] + nz * E[a, 9] <= 0.0


@kernel
def _close_in(kind, a, b, feature, lo, hi, on_rate, S, P, D, X):
    """The root of the gap (positive at lo, negative at hi); with ``on_rate`` 1 or 2 that of its rate, rising or falling."""
    sign = -1.0 if on_rate == 1 else 1.0
    s = 0.5 * (lo + hi)
    flo, fhi = 0.0, 0.0
    side = 0
    for _ in range(200):
        gap, rate = gap_at(kind, a, b, feature, s, S, P, D, X)
        f = sign * (rate if on_rate > 0 else gap)
        if abs(f) < (1e-15 if on_rate == 0 else 1e-13) or hi - lo < 1e-16 * (1.0 + hi):
            break
        if f > 0.0:
            lo, flo = s, f
            if side == 1:
                fhi *= 0.5
            side = 1
        else:
            hi, fhi = s, f
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
def _first_in_piece(kind, a, b, feature, lo, hi, g0, r0, g1, r1, S, P, D, X):
    """First crossing in [lo, hi], or -1."""
    if g0 <= TOUCH and lo == 0.0:
        if r0 < -STILL:
            return 0.0
        if g1 > 0.0:
            return -1.0
        top = hi
        for _ in range(80):
            mid = 0.5 * top
            gm, rm = gap_at(kind, a, b, feature, mid, S, P, D, X)
            if gm > 0.0 and (gm > TOUCH or rm < 0.0):
                return _close_in(kind, a, b, feature, mid, top, 0, S, P, D, X)
            top = mid
            if top < 1e-13:
                break
        if r0 > 0.0 and r1 < 0.0:  # it never parts: stop it where it turns back, to be held there
            return _close_in(kind, a, b, feature, 0.0, hi, 2, S, P, D, X)
        return -1.0
    if g1 < 0.0:
        return _close_in(kind, a, b, feature, lo, hi, 0, S, P, D, X)
    if r0 < 0.0 and r1 > 0.0:
        s = _close_in(kind, a, b, feature, lo, hi, 1, S, P, D, X)
        gm, _ = gap_at(kind, a, b, feature, s, S, P, D, X)
        if gm < 0.0:
            return _close_in(kind, a, b, feature, lo, s, 0, S, P, D, X)
    return -1.0


@kernel
def first_meeting(kind, a, b, feature, h, S, P, D, X):
    """Time of the first meeting in (0, h], or -1 if there is none."""
    g0, r0 = gap_at(kind, a, b, feature, 0.0, S, P, D, X)
    pieces = 1
    if kind != SPHERE_PLANE and kind != BOX_PLANE:
        vx, vy, vz = S[a, 7] - S[b, 7], S[a, 8] - S[b, 8], S[a, 9] - S[b, 9]
        travel = sqrt(vx * vx + vy * vy + vz * vz) * h + 20.0 * h * h
        if g0 > 2.0 * travel:
            return -1.0
        thin = min(P[a, REACH], P[b, EXTENT])
        pieces = min(1 + int(2.0 * travel / thin), 256)
    lo = 0.0
    for i in range(pieces):
        hi = h * (i + 1) / pieces
        g1, r1 = gap_at(kind, a, b, feature, hi, S, P, D, X)
        s = _first_in_piece(kind, a, b, feature, lo, hi, g0, r0, g1, r1, S, P, D, X)
        if s >= 0.0:
            return s
        lo, g0, r0 = hi, g1, r1
    return -1.0
