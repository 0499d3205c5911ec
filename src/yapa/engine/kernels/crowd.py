"""One island over a piece of time, robustly: soft contacts, small substeps, bounded work, never a hang.

A piece finds the contact points once (persistent by their feature numbers, warm-started), then in
every substep: forces; a biased pass (friction, then normal); places; a relaxing pass without bias,
so that pushing out leaves no speed behind. A point apart by s > 0 may close no faster than s/h; one
that overlaps is a damped spring of frequency f and damping ratio ζ taken implicitly,

    ω = 2πf,  c = hω(2ζ + hω):  impulse scale 1/(1+c), mass scale c/(1+c), bias rate ω/(2ζ + hω)

(Catto's soft constraints, from Baraff's and Lacoursière's regularised ones; sequential impulses are
projected Gauss-Seidel). Restitution follows once at the end for points that came to be pressed, with
the approach speed noted before. Energy is guarded per island: where kinetic and potential energy
together have grown, speeds are scaled back (not where something driven touches the island).

Friction is a disc: both tangents together with one scalar mass, clipped to μ times the normal
impulse. Rolling and spinning resistance are clipped angular impulses.
"""

from math import pi, sqrt

from yapa.engine.kernels.contacts import rolling_radius, tangents
from yapa.engine.kernels.flight import decay_factors, lead, momentum_of, spin_of
from yapa.engine.kernels.impacts import effective_restitution, island_energy
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    BALL,
    CFG_CUTOFF,
    CFG_GX,
    CFG_WX,
    CW_CC,
    CW_CK,
    CW_IW,
    CW_RB,
    CW_RC,
    CW_X,
    DRAG,
    DYNAMIC,
    G_BELT,
    GRAVITY,
    IM,
    INERTIA,
    INV_MASS,
    KEY0,
    KINEMATIC_BODY,
    LIN_DAMP,
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
    MANIFOLD,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    MOTION,
    PUSH,
    PUSHED_BODY,
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
    SC_KEYS,
    SC_LAW,
    SC_Q,
    SPINNING,
    ST_CODE,
    ST_CONTACTS,
    ST_IMPACTS,
    STATIC,
    WS_M,
    WS_U,
    WS_WV,
    WS_X,
)
from yapa.engine.kernels.phases import change_mode
from yapa.engine.kernels.polytopes import manifold_of
from yapa.engine.kernels.shapes import frame, turned, watch_side
from yapa.engine.kernels.sustained import FOLLOW
from yapa.engine.kernels.timing import far_apart
from yapa.engine.kernels.views import reals, wholes

# columns of a point
(R_N, R_T, R_S, R_LA, R_LB, R_GAP, R_MASS, R_MASST, R_LN, R_LT, R_LS, R_LR, R_APPROACH, R_MOST, R_STICK, R_REFF, R_BELT,
 R_RA, R_RB, R_ID, R_TOTAL, R_MASSR) = 0, 3, 6, 9, 12, 15, 16, 17, 18, 19, 20, 21, 24, 25, 26, 27, 28, 31, 34, 37, 38, 39
R_COLUMNS = 40
SLOTS = 8
"""Points kept of a pair between pieces: feature number, normal, two tangent (world), rolling impulses."""
DAMPING_RATIO = 10.0
PUSH_OUT = 3.0
"""m/s: overlap is pushed out no faster."""
SLIPPING = 5e-3
"""m/s: a point slips at its limit and above this speed."""
HEARD = 0.01
"""m/s: an approach above this is logged as a contact."""
ROUNDING = 1e-14
"""Share of an island's energy that is rounding, not gain."""
QUIET = 1e-6
"""An island whose motion is less than this share of what its overlaps hold only settles; it is left alone."""
SPECULATIVE = 1e-3
"""m: points this near are held from closing in."""


@far(WHOLE, WHOLE, REALS2, REALS2, REALS2)
def _inverse(b, S, P, IW):
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
def _kick(b, sign, jx, jy, jz, rx, ry, rz, S, P, IW):
    """Impulse at an arm."""
    S[b, 7] += sign * P[b, IM] * jx
    S[b, 8] += sign * P[b, IM + 1] * jy
    S[b, 9] += sign * P[b, IM + 2] * jz
    tx, ty, tz = ry * jz - rz * jy, rz * jx - rx * jz, rx * jy - ry * jx
    S[b, 10] += sign * (IW[b, 0] * tx + IW[b, 3] * ty + IW[b, 5] * tz)
    S[b, 11] += sign * (IW[b, 3] * tx + IW[b, 1] * ty + IW[b, 4] * tz)
    S[b, 12] += sign * (IW[b, 5] * tx + IW[b, 4] * ty + IW[b, 2] * tz)


@kernel
def _twist(b, sign, tx, ty, tz, S, IW):
    """Angular impulse."""
    S[b, 10] += sign * (IW[b, 0] * tx + IW[b, 3] * ty + IW[b, 5] * tz)
    S[b, 11] += sign * (IW[b, 3] * tx + IW[b, 1] * ty + IW[b, 4] * tz)
    S[b, 12] += sign * (IW[b, 5] * tx + IW[b, 4] * ty + IW[b, 2] * tz)


@kernel
def _give(i, RC, RB, S, P, IW, share):
    """Apply ``share`` of the impulses a point holds."""
    a, b = RB[i, 0], RB[i, 1]
    n, t, s = share * RC[i, R_LN], share * RC[i, R_LT], share * RC[i, R_LS]
    jx = n * RC[i, 0] + t * RC[i, 3] + s * RC[i, 6]
    jy = n * RC[i, 1] + t * RC[i, 4] + s * RC[i, 7]
    jz = n * RC[i, 2] + t * RC[i, 5] + s * RC[i, 8]
    _kick(a, 1.0, jx, jy, jz, RC[i, R_RA], RC[i, R_RA + 1], RC[i, R_RA + 2], S, P, IW)
    _kick(b, -1.0, jx, jy, jz, RC[i, R_RB], RC[i, R_RB + 1], RC[i, R_RB + 2], S, P, IW)
    if RC[i, R_REFF] > 0.0:
        _twist(a, share, RC[i, R_LR], RC[i, R_LR + 1], RC[i, R_LR + 2], S, IW)
        _twist(b, -share, RC[i, R_LR], RC[i, R_LR + 1], RC[i, R_LR + 2], S, IW)


@kernel
def _speed(i, axis, RC, RB, S):
    """Relative velocity at a point along one of its three axes."""
    a, b = RB[i, 0], RB[i, 1]
    x, y, z = RC[i, axis], RC[i, axis + 1], RC[i, axis + 2]
    ax, ay, az, bx, by, bz = RC[i, R_RA], RC[i, R_RA + 1], RC[i, R_RA + 2], RC[i, R_RB], RC[i, R_RB + 1], RC[i, R_RB + 2]
    ux = S[a, 7] - S[b, 7] + S[a, 11] * az - S[a, 12] * ay - S[b, 11] * bz + S[b, 12] * by + RC[i, R_BELT]
    uy = S[a, 8] - S[b, 8] + S[a, 12] * ax - S[a, 10] * az - S[b, 12] * bx + S[b, 10] * bz + RC[i, R_BELT + 1]
    uz = S[a, 9] - S[b, 9] + S[a, 10] * ay - S[a, 11] * ax - S[b, 10] * by + S[b, 11] * bx + RC[i, R_BELT + 2]
    return x * ux + y * uy + z * uz


@kernel
def _mobility(i, axis, RC, RB, P, IW):
    """1/m + n·(I⁻¹ (r × n)) × r summed over both bodies."""
    x, y, z = RC[i, axis], RC[i, axis + 1], RC[i, axis + 2]
    total = 0.0
    for side in range(2):
        q, o = (RB[i, 0], R_RA) if side == 0 else (RB[i, 1], R_RB)
        if P[q, INV_MASS] == 0.0:
            continue
        rx, ry, rz = RC[i, o], RC[i, o + 1], RC[i, o + 2]
        tx, ty, tz = ry * z - rz * y, rz * x - rx * z, rx * y - ry * x
        total += P[q, IM] * x * x + P[q, IM + 1] * y * y + P[q, IM + 2] * z * z
        total += tx * (IW[q, 0] * tx + IW[q, 3] * ty + IW[q, 5] * tz) + ty * (IW[q, 3] * tx + IW[q, 1] * ty + IW[q, 4] * tz)
        total += tz * (IW[q, 5] * tx + IW[q, 4] * ty + IW[q, 2] * tz)
    return total


@kernel
def _local(b, S, x, y, z, ball):
    if ball:
        return x, y, z
    w, i, j, k = S[b, 3], -S[b, 4], -S[b, 5], -S[b, 6]
    tx, ty, tz = 2.0 * (j * z - k * y), 2.0 * (k * x - i * z), 2.0 * (i * y - j * x)
    return x + w * tx + j * tz - k * ty, y + w * ty + k * tx - i * tz, z + w * tz + i * ty - j * tx


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
    # a ball's point stays where it is in the world, any other turns with its body
    RC[n, R_LA], RC[n, R_LA + 1], RC[n, R_LA + 2] = _local(a, S, ax, ay, az, P[a, BALL] != 0.0 and P[a, MOTION] == 1.0)
    RC[n, R_LB], RC[n, R_LB + 1], RC[n, R_LB + 2] = _local(b, S, bx, by, bz, P[b, BALL] != 0.0 and P[b, MOTION] == 1.0)
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
            d = x * nx + y * ny + z * nz
            RC[n, R_BELT] += sign * (x - d * nx)
            RC[n, R_BELT + 1] += sign * (y - d * ny)
            RC[n, R_BELT + 2] += sign * (z - d * nz)
    RC[n, R_MASS] = 1.0 / max(_mobility(n, R_N, RC, RB, P, IW), 1e-300)
    RC[n, R_MASST] = 1.0 / max(_mobility(n, R_T, RC, RB, P, IW), _mobility(n, R_S, RC, RB, P, IW), 1e-300)
    turn = 0.0
    for side in range(2):
        q = a if side == 0 else b
        turn += max(IW[q, 0], IW[q, 1], IW[q, 2])
    RC[n, R_MASSR] = 1.0 / turn if turn > 0.0 else 0.0
    RC[n, R_LN], RC[n, R_LT], RC[n, R_LS] = 0.0, 0.0, 0.0
    RC[n, R_APPROACH], RC[n, R_MOST], RC[n, R_TOTAL] = 0.0, 0.0, 0.0
    RC[n, R_STICK] = 1.0
    found, near = -1, 1e300
    for k in range(CK[p, 0]):
        if CC[SLOTS * p + k, 0] == feature:
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
            m, _ = manifold_of(p, S, geo, Q, reals(ws, WS_WV), M, margin)
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
def _remember(n, h, RC, RB, CK, CC, count, PL):
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


@far(WHOLE, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2, REALS2, REALS1, REALS2)
def _forces(h, t, bodies, BL, S, P, KT, cfg, IW):
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] == 0.0:
            continue
        _inverse(b, S, P, IW)
        g = P[b, GRAVITY]
        decay, first, _ = decay_factors(P[b, LIN_DAMP], h)
        ux, uy, uz = S[b, 7] - cfg[CFG_WX], S[b, 8] - cfg[CFG_WX + 1], S[b, 9] - cfg[CFG_WX + 2]
        drag = P[b, DRAG] * P[b, INV_MASS] * sqrt(ux * ux + uy * uy + uz * uz)
        slow = 1.0 / (1.0 + h * drag)
        for c in range(3):
            if P[b, IM + c] > 0.0:
                wind = cfg[CFG_WX + c]
                v = S[b, 7 + c] * decay + first * g * cfg[CFG_GX + c]
                S[b, 7 + c] = wind + (v - wind) * slow if drag > 0.0 else v
        if P[b, ANG_DAMP] > 0.0:
            turn, _, _ = decay_factors(P[b, ANG_DAMP], h)
            for c in range(10, 13):
                S[b, c] *= turn
        if P[b, MOTION] == PUSHED_BODY:
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


@far(WHOLE, WHOLE, REAL, REALS2, REALS2)
def _turn_body(b, h, S, P):
    """Place and orientation after h at the present velocities; angular momentum kept."""
    for c in range(3):
        S[b, c] += h * S[b, 7 + c]
        S[b, 13 + c] += h * S[b, 10 + c]
    ox, oy, oz = S[b, 10], S[b, 11], S[b, 12]
    if ox == 0.0 and oy == 0.0 and oz == 0.0:
        return 0
    w, x, y, z = S[b, 3], S[b, 4], S[b, 5], S[b, 6]
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    ball = (i1 == i2 and i2 == i3) or P[b, INV_MASS] == 0.0
    lx, ly, lz = 0.0, 0.0, 0.0
    if not ball:
        lx, ly, lz = momentum_of(w, x, y, z, ox, oy, oz, i1, i2, i3)
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
def _refresh(n, S, P, RC, RB):
    """Arms of the points as their bodies have turned."""
    for i in range(n):
        for side in range(2):
            q = RB[i, 0] if side == 0 else RB[i, 1]
            if (P[q, BALL] != 0.0 and P[q, MOTION] == 1.0) or P[q, MOTION] == 0.0:
                continue
            la, ra = (R_LA, R_RA) if side == 0 else (R_LB, R_RB)
            RC[i, ra], RC[i, ra + 1], RC[i, ra + 2] = turned(q, S, RC[i, la], RC[i, la + 1], RC[i, la + 2])


@kernel
def _separation(i, RC, RB, S, X):
    """Gap of a point now: that at the start of the piece and what both sides have moved since (``X`` at the start)."""
    a, b = RB[i, 0], RB[i, 1]
    total = RC[i, R_GAP]
    for c in range(3):
        now = S[a, c] + RC[i, R_RA + c] - S[b, c] - RC[i, R_RB + c]
        then = X[i, c]
        total += RC[i, c] * (now - then)
    return total


@kernel
def _resist(i, law, RC, RB, S, IW):
    """Rolling and spinning resistance of a point."""
    a, b = RB[i, 0], RB[i, 1]
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
def _friction(i, law, RC, RB, S, P, IW):
    mu = law[STATIC] if RC[i, R_STICK] != 0.0 else law[DYNAMIC]
    m = RC[i, R_MASST]
    t, s = RC[i, R_LT] - m * _speed(i, R_T, RC, RB, S), RC[i, R_LS] - m * _speed(i, R_S, RC, RB, S)
    size, most = sqrt(t * t + s * s), mu * RC[i, R_LN]
    if size > most:
        t, s = t * most / size, s * most / size
    dt, ds = t - RC[i, R_LT], s - RC[i, R_LS]
    RC[i, R_LT], RC[i, R_LS] = t, s
    jx = dt * RC[i, 3] + ds * RC[i, 6]
    jy = dt * RC[i, 4] + ds * RC[i, 7]
    jz = dt * RC[i, 5] + ds * RC[i, 8]
    _kick(RB[i, 0], 1.0, jx, jy, jz, RC[i, R_RA], RC[i, R_RA + 1], RC[i, R_RA + 2], S, P, IW)
    _kick(RB[i, 1], -1.0, jx, jy, jz, RC[i, R_RB], RC[i, R_RB + 1], RC[i, R_RB + 2], S, P, IW)


@kernel
def _normal(i, bias, mass_scale, impulse_scale, RC, RB, S, P, IW):
    m = RC[i, R_MASS]
    change = -m * mass_scale * (_speed(i, R_N, RC, RB, S) + bias) - impulse_scale * RC[i, R_LN]
    new = max(RC[i, R_LN] + change, 0.0)
    change = new - RC[i, R_LN]
    RC[i, R_LN] = new
    jx, jy, jz = change * RC[i, 0], change * RC[i, 1], change * RC[i, 2]
    _kick(RB[i, 0], 1.0, jx, jy, jz, RC[i, R_RA], RC[i, R_RA + 1], RC[i, R_RA + 2], S, P, IW)
    _kick(RB[i, 1], -1.0, jx, jy, jz, RC[i, R_RB], RC[i, R_RB + 1], RC[i, R_RB + 2], S, P, IW)
    return change


@far(WHOLE, WHOLE, FLAG, REAL, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS2, REALS2)
def _solve_pass(n, biased, h, RC, RB, S, P, scene, IW, X):
    """One pass over all points: with bias friction comes first, without it last."""
    LW, Q = reals(scene, SC_LAW), wholes(scene, SC_Q)
    omega = 2.0 * pi * 0.125 / h
    c = h * omega * (2.0 * DAMPING_RATIO + h * omega)
    rate = omega / (2.0 * DAMPING_RATIO + h * omega)
    for half in range(2):
        if (half == 0) == biased:
            for i in range(n):
                law = LW[Q[RB[i, 2], Q_LAW]]
                if RC[i, R_REFF] > 0.0:
                    _resist(i, law, RC, RB, S, IW)
                _friction(i, law, RC, RB, S, P, IW)
        else:
            for i in range(n):
                bias, mass_scale, impulse_scale = 0.0, 1.0, 0.0
                if biased:
                    s = _separation(i, RC, RB, S, X)
                    if s > 0.0:
                        bias = s / h
                    else:
                        bias, mass_scale, impulse_scale = max(rate * s, -PUSH_OUT), c / (1.0 + c), 1.0 / (1.0 + c)
                _normal(i, bias, mass_scale, impulse_scale, RC, RB, S, P, IW)
    return 0


@far(FLAG, WHOLE, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS2, REALS1)
def _bounce(n, RC, RB, S, P, scene, IW, cfg):
    """Restitution for the points that came to be pressed."""
    LW, Q = reals(scene, SC_LAW), wholes(scene, SC_Q)
    any_bounce = False
    for _ in range(4):
        for i in range(n):
            if RC[i, R_MOST] == 0.0 or RC[i, R_APPROACH] >= -cfg[CFG_CUTOFF]:
                continue
            e = effective_restitution(LW[Q[RB[i, 2], Q_LAW]], -RC[i, R_APPROACH], cfg[CFG_CUTOFF])
            if e == 0.0:
                continue
            any_bounce = True
            _normal(i, e * RC[i, R_APPROACH], 1.0, 0.0, RC, RB, S, P, IW)
    return any_bounce


@far(
    WHOLE, REAL, WHOLE, FLAG, WHOLE, WHOLES1, REALS2, REALS2, REALS2, WHOLES1, REALS2, WHOLES2, REALS2, REALS2, WHOLES2,
    WHOLES1,
)
def _tell(now, n, bounced, count, PL, S, U, P, scene, RC, RB, clog, plog, PS, status):
    """Write the contact and phase logs of a piece. Returns the number of pressed points."""
    Q = wholes(scene, SC_Q)
    pressed = 0
    i = 0
    for k in range(count):
        p = PL[k]
        mode, at, best = MODE_NONE, 0, 0.0
        while i < n and RB[i, 2] == p:
            if RC[i, R_MOST] > 0.0:
                if RC[i, R_LN] > 0.0:
                    pressed += 1
                    if mode == MODE_NONE or RC[i, R_STICK] == 0.0:
                        mode, at = (MODE_SLIP if RC[i, R_STICK] == 0.0 else MODE_GRIP), i
                if RC[i, R_APPROACH] < best:
                    best, at = RC[i, R_APPROACH], i
            i += 1
        if best < -HEARD:
            row = status[ST_CONTACTS]
            if row >= clog.shape[0]:
                status[ST_CODE] = LOG_FULL
                return pressed
            a, b = Q[p, Q_BA], Q[p, Q_BB]
            clog[row, LOG_TIME], clog[row, LOG_PAIR], clog[row, LOG_A], clog[row, LOG_B] = now, p, a, b
            slip = sqrt(_speed(at, R_T, RC, RB, S) ** 2 + _speed(at, R_S, RC, RB, S) ** 2)
            for c in range(3):
                clog[row, LOG_POINT + c] = S[b, c] + RC[at, R_RB + c]
                clog[row, LOG_NORMAL + c] = RC[at, c]
            clog[row, LOG_APPROACH], clog[row, LOG_REBOUND] = -best, max(_speed(at, R_N, RC, RB, S), 0.0)
            clog[row, LOG_SLIP0], clog[row, LOG_SLIP1] = slip, slip
            clog[row, LOG_JN], clog[row, LOG_JT] = RC[at, R_TOTAL], sqrt(RC[at, R_LT] ** 2 + RC[at, R_LS] ** 2)
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
        change_mode(now, p, mode, RC[at, 0], RC[at, 1], RC[at, 2], S, Q, PS, plog, status)
        if status[ST_CODE] == LOG_FULL:
            return pressed
    return pressed


@kernel
def _elastic(n, h, RC, RB, S, X):
    """Energy held in the overlaps of pressed points, ½ force × overlap."""
    total = 0.0
    for i in range(n):
        if RC[i, R_LN] > 0.0:
            total -= 0.5 * RC[i, R_LN] / h * min(_separation(i, RC, RB, S, X), 0.0)
    return total


@kernel
def _tame(energy, elastic, bodies, BL, S, P, cfg):
    """Scale speeds back where an island has more energy than before. Returns what it has then."""
    after, kinetic = island_energy(bodies, BL, S, P, cfg)
    if after <= energy + ROUNDING * (abs(energy) + kinetic) or kinetic <= QUIET * elastic:
        return after
    left = max(0.0, kinetic - (after - energy))
    share = sqrt(left / kinetic)
    for k in range(bodies):
        if P[BL[k], INV_MASS] > 0.0:
            for c in range(7, 13):
                S[BL[k], c] *= share
    return after - kinetic + left


@kernel
def _sample_between(row, share, bodies, BL, S, P, before, out):
    """States between the start and the end of a substep."""
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] != 0.0:
            for c in range(16):
                out[row, b, c] = before[b, c] + share * (S[b, c] - before[b, c])
            n = 1.0 / sqrt(out[row, b, 3] ** 2 + out[row, b, 4] ** 2 + out[row, b, 5] ** 2 + out[row, b, 6] ** 2)
            for c in range(3, 7):
                out[row, b, c] *= n


@far(
    (WHOLE, WHOLE), REAL, REAL, WHOLE, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1,
    REALS1, WHOLE, REALS3, REALS2, REALS2, WHOLES2, REALS1, WHOLES1,
)
def crowd_piece(t, dt, substeps, margin, bodies, BL, count, PL, S, P, scene, ws, cw, times, first, out, clog, plog, PS, cfg,
                status):
    """Carry an island over ``dt``. Returns the sample reached and the number of points that are pressed."""
    RC, RB, IW, CK, CC, X = (
        reals(cw, CW_RC), wholes(cw, CW_RB), reals(cw, CW_IW), wholes(cw, CW_CK), reals(cw, CW_CC), reals(cw, CW_X))
    Q, KT, LW, U = wholes(scene, SC_Q), reals(scene, SC_KEYS), reals(scene, SC_LAW), reals(ws, WS_U)
    h = dt / substeps
    driven = False
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] >= KINEMATIC_BODY:
            driven = True
            if P[b, MOTION] == KINEMATIC_BODY:
                lead(b, t, S, P, KT)
        _inverse(b, S, P, IW)
        for c in range(16):
            U[b, c] = S[b, c]
    n = find_points(count, PL, margin, h, S, P, scene, ws, RC, RB, IW, CK, CC)
    for i in range(n):
        a, b = RB[i, 0], RB[i, 1]
        if RC[i, R_BELT] != 0.0 or RC[i, R_BELT + 1] != 0.0 or RC[i, R_BELT + 2] != 0.0:
            driven = True
        _inverse(b, S, P, IW)
        for c in range(3):
            X[i, c] = S[a, c] + RC[i, R_RA + c] - S[b, c] - RC[i, R_RB + c]
    energy, _ = island_energy(bodies, BL, S, P, cfg)
    now = t
    for sub in range(substeps):
        for k in range(bodies):
            for c in range(16):
                reals(ws, WS_X)[BL[k], c] = S[BL[k], c]
        _forces(h, now, bodies, BL, S, P, KT, cfg, IW)
        _refresh(n, S, P, RC, RB)
        for i in range(n):
            if RC[i, R_MOST] == 0.0 and RC[i, R_LN] == 0.0:
                RC[i, R_APPROACH] = min(_speed(i, R_N, RC, RB, S), 0.0)
            _give(i, RC, RB, S, P, IW, 1.0)
        _solve_pass(n, True, h, RC, RB, S, P, scene, IW, X)
        for k in range(bodies):
            b = BL[k]
            if P[b, INV_MASS] > 0.0:
                _turn_body(b, h, S, P)
                _inverse(b, S, P, IW)
            elif P[b, MOTION] == KINEMATIC_BODY:
                lead(b, now + h, S, P, KT)
        now = t + (sub + 1) * h
        if n > 0:
            _refresh(n, S, P, RC, RB)
            _solve_pass(n, False, h, RC, RB, S, P, scene, IW, X)
        for i in range(n):
            RC[i, R_MOST] = max(RC[i, R_MOST], RC[i, R_LN])
            RC[i, R_TOTAL] += RC[i, R_LN]
            slip = sqrt(_speed(i, R_T, RC, RB, S) ** 2 + _speed(i, R_S, RC, RB, S) ** 2)
            law = LW[Q[RB[i, 2], Q_LAW]]
            at_limit = RC[i, R_LT] ** 2 + RC[i, R_LS] ** 2 >= (0.999 * law[DYNAMIC] * RC[i, R_LN]) ** 2
            RC[i, R_STICK] = 0.0 if (at_limit and slip > SLIPPING) else 1.0
        if not driven:
            energy = _tame(energy, _elastic(n, h, RC, RB, S, X), bodies, BL, S, P, cfg)
        until = now if sub + 1 < substeps else now - 1e-9 * dt  # the very end is read after what follows
        while first < times.shape[0] and times[first] <= until:
            _sample_between(first, 1.0 - (now - times[first]) / h, bodies, BL, S, P, reals(ws, WS_X), out)
            first += 1
    bounced = _bounce(n, RC, RB, S, P, scene, IW, cfg)
    if not driven:
        _tame(energy, _elastic(n, h, RC, RB, S, X), bodies, BL, S, P, cfg)
    while first < times.shape[0] and times[first] <= now:
        for k in range(bodies):
            if P[BL[k], MOTION] != 0.0:
                for c in range(16):
                    out[first, BL[k], c] = S[BL[k], c]
        first += 1
    _remember(n, h, RC, RB, CK, CC, count, PL)
    pressed = _tell(now, n, bounced, count, PL, S, U, P, scene, RC, RB, clog, plog, PS, status)
    return first, pressed
