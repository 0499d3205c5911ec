"""Contact points of the soft-contact and the fixed-step regimes: found pair by pair, and kept by their features."""

from yapa.engine.kernels.flight import spin_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    BALL,
    CAPSULE,
    G_BELT,
    G_RADIUS,
    I_KIND,
    INERTIA,
    INV_MASS,
    LOCK,
    MANIFOLD,
    MOTION,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    Q_LAW,
    Q_SIDE,
    ROLLING,
    SC_GF,
    SC_GI,
    SC_LAW,
    SC_Q,
    SLOTS,
    SPHERE,
    SPINNING,
    WS_M,
    WS_WV,
)
from yapa.engine.kernels.material import rolling_radius, tangents
from yapa.engine.kernels.polytopes import BY_DEPTH, manifold_of
from yapa.engine.kernels.shapes import far_apart, frame, turned, watch_side
from yapa.engine.kernels.views import reals, wholes

# columns of a point
(R_N, R_T, R_S, R_LA, R_LB, R_GAP, R_MASS, R_MASST, R_LN, R_LT, R_LS, R_LR, R_APPROACH, R_MOST, R_STICK, R_REFF, R_BELT,
 R_RA, R_RB, R_ID, R_TOTAL, R_MASSR, R_SEP, R_SLIP) = (
    0, 3, 6, 9, 12, 15, 16, 17, 18, 19, 20, 21, 24, 25, 26, 27, 28, 31, 34, 37, 38, 39, 40, 41)
R_JA, R_JB, R_IA, R_IB, R_RUB, R_ROUND = 42, 51, 60, 69, 78, 79
"""r × u of both bodies and I⁻¹ (r × u) of both, for the three axes u; the belt's speed along each stands in
R_BELT, the whole friction impulse in R_RUB; from R_ROUND on, how far from what turns with a and with b
the point stands along the normal."""


@far(WHOLE, WHOLE, REALS2, REALS2, REALS2)
def world_inverse(b, S, P, IW):
    """World inverse inertia of a body, six numbers: xx, yy, zz, xy, yz, xz."""
    if P[b, INV_MASS] == 0.0:
        for c in range(6):
            IW[b, c] = 0.0
        return 0
    lock = int(P[b, LOCK])
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    if lock < 8 and i1 == i2 and i2 == i3:
        IW[b, 0], IW[b, 1], IW[b, 2], IW[b, 3], IW[b, 4], IW[b, 5] = 1.0 / i1, 1.0 / i1, 1.0 / i1, 0.0, 0.0, 0.0
        return 0
    w, x, y, z = S[b, 3], S[b, 4], S[b, 5], S[b, 6]
    xx, yx, zx = spin_of(lock, w, x, y, z, 1.0, 0.0, 0.0, i1, i2, i3)
    xy, yy, zy = spin_of(lock, w, x, y, z, 0.0, 1.0, 0.0, i1, i2, i3)
    xz, yz, zz = spin_of(lock, w, x, y, z, 0.0, 0.0, 1.0, i1, i2, i3)
    IW[b, 0], IW[b, 1], IW[b, 2], IW[b, 3], IW[b, 4], IW[b, 5] = xx, yy, zz, xy, yz, xz
    return 0


@kernel
def _local(b, S, x, y, z, ball):
    if ball:
        return x, y, z
    w, i, j, k = S[b, 3], -S[b, 4], -S[b, 5], -S[b, 6]
    tx, ty, tz = 2.0 * (j * z - k * y), 2.0 * (k * x - i * z), 2.0 * (i * y - j * x)
    return x + w * tx + j * tz - k * ty, y + w * ty + k * tx - i * tz, z + w * tz + i * ty - j * tx


@kernel
def _roundness(s, geo):
    """How far a shape reaches around its centre or its line, which turn with its body while that does not."""
    kind = wholes(geo, SC_GI)[s, I_KIND]
    return reals(geo, SC_GF)[s, G_RADIUS] if kind == SPHERE or kind == CAPSULE else 0.0


@far(
    WHOLE, WHOLE, WHOLE, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REALS2, REALS2, WHOLES1, REALS2, WHOLES2, REALS2,
    WHOLES2, REALS2, REAL,
)
def _add_point(n, p, feature, gap, nx, ny, nz, px, py, pz, S, P, scene, RC, RB, IW, CK, CC, h):
    """Fill point ``n``: (px, py, pz) is on b's side; warm-started from the same feature or the nearest kept point."""
    geo, Q = scene, wholes(scene, SC_Q)
    GF = reals(geo, SC_GF)
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    RB[n, 0], RB[n, 1], RB[n, 2] = a, b, p
    tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
    RC[n, 0], RC[n, 1], RC[n, 2] = nx, ny, nz
    RC[n, 3], RC[n, 4], RC[n, 5] = tx, ty, tz
    RC[n, 6], RC[n, 7], RC[n, 8] = sx, sy, sz
    ax, ay, az = px + gap * nx - S[a, 0], py + gap * ny - S[a, 1], pz + gap * nz - S[a, 2]
    bx, by, bz = px - S[b, 0], py - S[b, 1], pz - S[b, 2]
    RC[n, R_RA], RC[n, R_RA + 1], RC[n, R_RA + 2] = ax, ay, az
    RC[n, R_RB], RC[n, R_RB + 1], RC[n, R_RB + 2] = bx, by, bz
    # a ball's point stays where it is in the world, any other turns with its body, or with the line it is round about
    for side in range(2):
        q, to, x, y, z = (a, R_LA, ax, ay, az) if side == 0 else (b, R_LB, bx, by, bz)
        ball = P[q, BALL] != 0.0 and P[q, MOTION] == 1.0
        r = 0.0 if ball else _roundness(Q[p, Q_A] if side == 0 else Q[p, Q_B], geo)
        away = r if side == 0 else -r
        RC[n, to], RC[n, to + 1], RC[n, to + 2] = _local(q, S, x + away * nx, y + away * ny, z + away * nz, ball)
        RC[n, R_ROUND + side] = -away
    RC[n, R_GAP] = gap
    RC[n, R_ID] = feature
    RC[n, R_REFF] = rolling_radius(p, int(feature) if Q[p, Q_KIND] != MANIFOLD else 0, ax, ay, az, nx, ny, nz, geo, Q)
    law = reals(scene, SC_LAW)[Q[p, Q_LAW]]
    if law[ROLLING] == 0.0 and law[SPINNING] == 0.0:
        RC[n, R_REFF] = 0.0
    for c in range(3):
        RC[n, R_BELT + c] = 0.0
        RC[n, R_LR + c] = 0.0
    for side in range(2):
        s, q, sign = (Q[p, Q_A], a, 1.0) if side == 0 else (Q[p, Q_B], b, -1.0)
        x, y, z = GF[s, G_BELT], GF[s, G_BELT + 1], GF[s, G_BELT + 2]
        if x != 0.0 or y != 0.0 or z != 0.0:
            x, y, z = turned(q, S, x, y, z)
            RC[n, R_BELT + 1] += sign * (x * tx + y * ty + z * tz)
            RC[n, R_BELT + 2] += sign * (x * sx + y * sy + z * sz)
    turn = 0.0
    for side in range(2):
        q = a if side == 0 else b
        turn += max(IW[q, 0], IW[q, 1], IW[q, 2])
    RC[n, R_MASSR] = 1.0 / turn if turn > 0.0 else 0.0
    RC[n, R_LN], RC[n, R_LT], RC[n, R_LS] = 0.0, 0.0, 0.0
    RC[n, R_APPROACH], RC[n, R_MOST], RC[n, R_TOTAL], RC[n, R_SEP], RC[n, R_SLIP], RC[n, R_RUB] = 0.0, 0.0, 0.0, gap, 0.0, 0.0
    RC[n, R_STICK] = 1.0
    found, near = -1, 1e300
    for k in range(CK[p, 0]):
        # what the exact regime left may be the force of a vanishing substep: no guess for this one
        if CC[SLOTS * p + k, 0] == feature and CC[SLOTS * p + k, 8] < 1e8:
            found = k
            break
    if found < 0:
        for k in range(CK[p, 0]):
            d = 0.0
            for c in range(3):
                d += (CC[SLOTS * p + k, 8 + c] - RC[n, R_LB + c]) ** 2
            if d < near:
                near, found = d, k
        if near > 4e-6:
            found = -1
    if found >= 0:
        RC[n, R_LN] = h * CC[SLOTS * p + found, 1]
        x, y, z = h * CC[SLOTS * p + found, 2], h * CC[SLOTS * p + found, 3], h * CC[SLOTS * p + found, 4]
        RC[n, R_LT], RC[n, R_LS] = x * tx + y * ty + z * tz, x * sx + y * sy + z * sz
        for c in range(3):
            RC[n, R_LR + c] = h * CC[SLOTS * p + found, 5 + c] if RC[n, R_REFF] > 0.0 else 0.0
        RC[n, R_STICK] = CC[SLOTS * p + found, 11]
    return 0


@far(WHOLE, WHOLE, WHOLES1, REAL, REAL, REALS2, REALS2, WHOLES1, WHOLES1, REALS2, WHOLES2, REALS2, WHOLES2, REALS2)
def find_points(count, PL, margin, h, S, P, scene, ws, RC, RB, IW, CK, CC):
    """The points of all pairs of an island that are nearer than the margin. Returns their number."""
    geo, Q, M = scene, wholes(scene, SC_Q), reals(ws, WS_M)
    n = 0
    for k in range(count):
        p = PL[k]
        if Q[p, Q_SIDE] != 0:
            watch_side(p, S, geo, Q)
        if far_apart(p, margin, S, geo, Q):
            CK[p, 0] = 0
            continue
        first = n
        a = Q[p, Q_BA]
        if Q[p, Q_KIND] == MANIFOLD:
            m, _ = manifold_of(p, S, geo, Q, reals(ws, WS_WV), M, margin, BY_DEPTH)
            for j in range(m):
                if n < RC.shape[0]:
                    _add_point(n, p, M[j, 7], M[j, 0], M[j, 1], M[j, 2], M[j, 3], M[j, 4], M[j, 5], M[j, 6], S, P, scene, RC,
                               RB, IW, CK, CC, h)
                    n += 1
        else:
            for f in range(Q[p, Q_FEATURES]):
                gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, S, geo, Q)
                if gap < margin and n < RC.shape[0] and n - first < SLOTS:
                    px, py, pz = S[a, 0] + ax - gap * nx, S[a, 1] + ay - gap * ny, S[a, 2] + az - gap * nz
                    _add_point(n, p, float(f), gap, nx, ny, nz, px, py, pz, S, P, scene, RC, RB, IW, CK, CC, h)
                    n += 1
    return n


@kernel
def remember(n, h, RC, RB, CK, CC, count, PL):
    """Keep the points as forces, a guess for the next piece whatever its length."""
    for k in range(count):
        CK[PL[k], 0] = 0
    for i in range(n):
        p = RB[i, 2]
        k = CK[p, 0]
        if k >= SLOTS:
            continue
        CC[SLOTS * p + k, 0], CC[SLOTS * p + k, 1] = RC[i, R_ID], RC[i, R_LN] / h
        for c in range(3):
            CC[SLOTS * p + k, 2 + c] = (RC[i, R_LT] * RC[i, R_T + c] + RC[i, R_LS] * RC[i, R_S + c]) / h
            CC[SLOTS * p + k, 5 + c] = RC[i, R_LR + c] / h
            CC[SLOTS * p + k, 8 + c] = RC[i, R_LB + c]
        CC[SLOTS * p + k, 11] = RC[i, R_STICK]
        CK[p, 0] = k + 1
