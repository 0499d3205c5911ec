"""Broad phase, which shapes may meet soon: pairs by sweep and prune, and islands of bodies that may touch.

Every shape has a box around it, grown by what it may travel. Along the axis on which the boxes
spread most, they are kept sorted (insertion sort: nearly sorted from step to step) and swept. Pairs
are laid out by the numbers of their shapes, so nothing depends on the order of the sweep, and what
is known of a pair (its phase, its contact points) follows it from list to list.
"""

from math import sqrt

from yapa.engine.kernels.jit import REAL, REALS1, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    BOX,
    CAPSULE,
    CFG_GX,
    CFG_TOUCH,
    CYLINDER,
    G_A,
    G_B,
    G_CLEAR,
    G_RADIUS,
    GRAVITY,
    GROUP,
    HULL,
    I_BODY,
    I_KIND,
    I_NV,
    I_SURFACE,
    I_V0,
    INV_MASS,
    MANIFOLD,
    MEETS,
    MOTION,
    PLANE,
    POINT_BOX,
    POINT_CYLINDER,
    POINT_HULL,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    Q_LAW,
    Q_SIDE,
    REACH,
    RIM_PLANE,
    ROUND_PLANE,
    ROUND_ROUND,
    SC_GF,
    SC_GI,
    SC_VT,
    SLOTS,
    SPHERE,
    VERTEX_PLANE,
)
from yapa.engine.kernels.phases import close_phase
from yapa.engine.kernels.shapes import turned
from yapa.engine.kernels.views import reals, wholes

NEAR = 2e-3
"""m: how much nearer than its travel a pair is looked for, at the least."""
# rows of the integer and float scratch of the sweep
B_ORDER, B_COUNT, B_AT, B_PARENT, B_ISLAND, B_BSTART, B_PSTART, B_MARK = 0, 1, 2, 3, 4, 5, 6, 7


@kernel
def describe_pair(row, i, j, surfaces, geo, P, Q):
    """Fill a row of the pair list for two shapes; 0 if they never meet."""
    GI = wholes(geo, SC_GI)
    ki, kj = GI[i, I_KIND], GI[j, I_KIND]
    bi, bj = GI[i, I_BODY], GI[j, I_BODY]
    if bi == bj or (P[bi, INV_MASS] == 0.0 and P[bj, INV_MASS] == 0.0) or (ki == PLANE and kj == PLANE):
        return 0
    if not (int(P[bi, MEETS]) >> int(P[bj, GROUP])) & 1:  # their groups pass through each other
        return 0
    swap = P[bi, INV_MASS] == 0.0
    if ki == PLANE or kj == PLANE:
        swap = ki == PLANE
    elif ki <= SPHERE or kj <= SPHERE:
        if not (ki == SPHERE and kj == SPHERE):
            swap = ki != SPHERE and kj == SPHERE
    elif ki == CAPSULE or kj == CAPSULE:
        if not (ki == CAPSULE and kj == CAPSULE):
            swap = ki != CAPSULE
    a, b = (j, i) if swap else (i, j)
    ka, kb = GI[a, I_KIND], GI[b, I_KIND]
    kind, features = MANIFOLD, 0
    if kb == PLANE:
        if ka == SPHERE or ka == CAPSULE:
            kind, features = ROUND_PLANE, 1 if ka == SPHERE else 2
        elif ka == CYLINDER:
            kind, features = RIM_PLANE, 8
        else:
            kind, features = VERTEX_PLANE, GI[a, I_NV]
    elif (ka == SPHERE or ka == CAPSULE) and (kb == SPHERE or kb == CAPSULE):
        kind, features = ROUND_ROUND, 1
    elif ka == SPHERE:
        features = 1
        kind = POINT_BOX if kb == BOX else (POINT_CYLINDER if kb == CYLINDER else POINT_HULL)
    Q[row, Q_A], Q[row, Q_B], Q[row, Q_KIND], Q[row, Q_FEATURES] = a, b, kind, features
    Q[row, Q_LAW] = GI[a, I_SURFACE] * surfaces + GI[b, I_SURFACE]
    Q[row, Q_BA], Q[row, Q_BB], Q[row, Q_SIDE] = GI[a, I_BODY], GI[b, I_BODY], 0
    return 1


@kernel
def _box_around(s, grow, S, geo, BX):
    GF, GI, VT = reals(geo, SC_GF), wholes(geo, SC_GI), reals(geo, SC_VT)
    b, kind = GI[s, I_BODY], GI[s, I_KIND]
    for c in range(3):
        BX[s, c], BX[s, 3 + c] = 1e300, -1e300
    if kind == PLANE:
        for c in range(3):
            BX[s, c], BX[s, 3 + c] = -1e300, 1e300
        return
    count = GI[s, I_NV] if kind == BOX or kind == HULL else 2
    r = (0.0 if kind == BOX or kind == HULL else GF[s, G_RADIUS]) + GF[s, G_CLEAR] + grow
    for k in range(count):
        if kind == BOX or kind == HULL:
            v = GI[s, I_V0] + k
            x, y, z = turned(b, S, VT[v, 0], VT[v, 1], VT[v, 2])
        else:
            o = G_A if k == 0 else G_B
            x, y, z = turned(b, S, GF[s, o], GF[s, o + 1], GF[s, o + 2])
        x, y, z = S[b, 0] + x, S[b, 1] + y, S[b, 2] + z
        BX[s, 0], BX[s, 3] = min(BX[s, 0], x - r), max(BX[s, 3], x + r)
        BX[s, 1], BX[s, 4] = min(BX[s, 1], y - r), max(BX[s, 4], y + r)
        BX[s, 2], BX[s, 5] = min(BX[s, 2], z - r), max(BX[s, 5], z + r)


@kernel
def travel_of(b, h, S, P, cfg):
    """How far any point of a body may go in h."""
    if P[b, MOTION] == 0.0:
        return 0.0
    v = sqrt(S[b, 7] ** 2 + S[b, 8] ** 2 + S[b, 9] ** 2)
    w = sqrt(S[b, 10] ** 2 + S[b, 11] ** 2 + S[b, 12] ** 2)
    return h * (v + w * P[b, REACH] + h * abs(cfg[CFG_GX + 2] * P[b, GRAVITY]))


@far(WHOLE, REAL, WHOLE, REALS2, REALS2, WHOLES1, REALS1, WHOLES2, WHOLES2, REALS2, WHOLES2, WHOLES2)
def find_pairs(h, surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI):
    """All pairs whose boxes, grown by travel in h, overlap, in the order of their shapes. Returns the count, -1 if full."""
    GI = wholes(geo, SC_GI)
    ns = GI.shape[0]
    top, near = 0.0, max(NEAR, cfg[CFG_TOUCH])
    for b in range(P.shape[0]):
        top = max(top, travel_of(b, h, S, P, cfg))
    for s in range(ns):
        b = GI[s, I_BODY]
        # anything that moves may be hit by what is fastest
        _box_around(s, 2.5 * top + near if P[b, INV_MASS] > 0.0 else 1.3 * travel_of(b, h, S, P, cfg), S, geo, BX)
    order, count = BI[B_ORDER], BI[B_COUNT]
    axis, spread = 0, -1.0
    for c in range(3):
        total, square, n = 0.0, 0.0, 0
        for s in range(ns):
            if BX[s, 3 + c] < 1e200:
                m = BX[s, c] + BX[s, 3 + c]
                total, square, n = total + m, square + m * m, n + 1
        if n > 0 and square / n - (total / n) ** 2 > spread * 1.001:
            axis, spread = c, square / n - (total / n) ** 2
    for k in range(1, ns):
        s = order[k]
        key = BX[s, axis]
        j = k - 1
        while j >= 0 and (BX[order[j], axis] > key or (BX[order[j], axis] == key and order[j] > s)):
            order[j + 1] = order[j]
            j -= 1
        order[j + 1] = s
    for s in range(ns + 1):
        count[s] = 0
    found = 0
    for k in range(ns):
        i = order[k]
        top = BX[i, 3 + axis]
        bi = GI[i, I_BODY]
        for m in range(k + 1, ns):
            j = order[m]
            if BX[j, axis] > top:
                break
            bj = GI[j, I_BODY]
            if bi == bj or (P[bi, INV_MASS] == 0.0 and P[bj, INV_MASS] == 0.0):
                continue
            apart = False
            for c in range(3):
                if BX[i, c] > BX[j, 3 + c] or BX[j, c] > BX[i, 3 + c]:
                    apart = True
            if apart:
                continue
            if found >= TI.shape[0]:
                return -1
            TI[found, 0], TI[found, 1] = min(i, j), max(i, j)
            count[min(i, j) + 1] += 1
            found += 1
    for s in range(ns):
        count[s + 1] += count[s]
    at = BI[B_AT]
    for s in range(ns):
        at[s] = count[s]
    for k in range(found):  # by the first shape, then sorted by the second
        i, j = TI[k, 0], TI[k, 1]
        m = at[i]
        while m > count[i] and QO[m - 1, 1] > j:
            QO[m, 0], QO[m, 1] = QO[m - 1, 0], QO[m - 1, 1]
            m -= 1
        QO[m, 0], QO[m, 1] = i, j
        at[i] += 1
    n = 0
    for k in range(found):
        n += describe_pair(n, QO[k, 0], QO[k, 1], surfaces, geo, P, Q)
    return n


@kernel
def _before(p, q, QA, QB):
    """-1, 0 or 1: the order of two pairs by the numbers of their shapes."""
    a0, a1 = min(QA[p, Q_A], QA[p, Q_B]), max(QA[p, Q_A], QA[p, Q_B])
    b0, b1 = min(QB[q, Q_A], QB[q, Q_B]), max(QB[q, Q_A], QB[q, Q_B])
    if a0 != b0:
        return -1 if a0 < b0 else 1
    if a1 != b1:
        return -1 if a1 < b1 else 1
    return 0


@kernel
def carry_over(t, n, old, S, Q, QL, PS, PL, CK, CL, CC, CD, plog):
    """What was known of pairs in the list before (``QL, PL, CL, CD``) for those of the new one; the others are closed."""
    k = 0
    for p in range(n):
        PS[p, 0], PS[p, 1], CK[p, 0], CK[p, 1] = 0, 0, 0, 0
        while k < old and _before(k, p, QL, Q) < 0:
            close_phase(t, k, QL[k, Q_BA], QL[k, Q_BB], S, PL, plog)
            k += 1
        if k < old and _before(k, p, QL, Q) == 0:
            PS[p, 0], PS[p, 1], CK[p, 0], CK[p, 1], Q[p, Q_SIDE] = PL[k, 0], PL[k, 1], CL[k, 0], CL[k, 1], QL[k, Q_SIDE]
            for i in range(CL[k, 0]):
                for c in range(CC.shape[1]):
                    CC[SLOTS * p + i, c] = CD[SLOTS * k + i, c]
            k += 1
    while k < old:
        close_phase(t, k, QL[k, Q_BA], QL[k, Q_BB], S, PL, plog)
        k += 1


@kernel
def root_of(b, parent):
    """The representative of a body's island."""
    while parent[b] != b:
        parent[b] = parent[parent[b]]
        b = parent[b]
    return b
