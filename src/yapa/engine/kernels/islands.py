"""Islands: bodies that may touch within a step, with the pairs among them; and parting what overlaps at the start."""

from yapa.engine.kernels.broad import B_BSTART, B_ISLAND, B_MARK, B_PARENT, B_PSTART, NEAR, root_of, travel_of
from yapa.engine.kernels.jit import REAL, REALS1, REALS2, WHOLE, WHOLES1, WHOLES2, far
from yapa.engine.kernels.layout import (
    CFG_TOUCH,
    INV_MASS,
    KINEMATIC_BODY,
    MANIFOLD,
    MOTION,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    SC_Q,
    TOUCH,
    WS_M,
    WS_WV,
)
from yapa.engine.kernels.polytopes import BY_DEPTH, apart, manifold_of
from yapa.engine.kernels.shapes import far_apart, frame, shift
from yapa.engine.kernels.views import reals, wholes

HIT_SPEED = 2.2
"""A body may leave an impact with this times the greatest speed around it."""


@far(WHOLE, REAL, WHOLE, REALS2, REALS2, WHOLES1, REALS1, WHOLES2, WHOLES2, WHOLES2, WHOLES2, WHOLES2, REALS2)
def find_islands(h, n, S, P, scene, cfg, BI, IB, IE, PB, CLOSE, U):
    """Bodies and pairs of every island, laid out one after the other. Returns the number of islands."""
    geo, Q = scene, wholes(scene, SC_Q)
    nb, near = P.shape[0], max(NEAR, cfg[CFG_TOUCH])
    parent, island, bstart, pstart, mark = BI[B_PARENT], BI[B_ISLAND], BI[B_BSTART], BI[B_PSTART], BI[B_MARK]
    for b in range(nb):
        U[b, 0] = travel_of(b, h, S, P, cfg)
        U[b, 1] = U[b, 0]
    for _ in range(8):
        for b in range(nb):
            parent[b] = b
            island[b] = -1
            U[b, 2] = 0.0
        for p in range(n):
            a, b = Q[p, Q_BA], Q[p, Q_BB]
            CLOSE[0, p] = 0 if far_apart(p, 1.1 * (U[a, 1] + U[b, 1]) + near, S, geo, Q) else 1
            if CLOSE[0, p] == 1 and P[a, INV_MASS] > 0.0 and P[b, INV_MASS] > 0.0:
                ra, rb = root_of(a, parent), root_of(b, parent)
                if ra != rb:
                    parent[max(ra, rb)] = min(ra, rb)
        for p in range(n):  # the fastest that an island holds or meets
            if CLOSE[0, p] == 1:
                a, b = Q[p, Q_BA], Q[p, Q_BB]
                r = root_of(a if P[a, INV_MASS] > 0.0 else b, parent)
                if P[a, INV_MASS] == 0.0 or P[b, INV_MASS] == 0.0:
                    U[r, 2] = max(U[r, 2], U[a, 0] if P[a, INV_MASS] == 0.0 else U[b, 0])
                else:
                    U[r, 2] = max(U[r, 2], U[a, 0], U[b, 0])
        more = False
        for b in range(nb):  # a light body hit by a heavy one leaves with up to twice its speed
            if P[b, INV_MASS] > 0.0:
                want = HIT_SPEED * U[root_of(b, parent), 2]
                if want > 1.01 * U[b, 1]:
                    U[b, 1] = want
                    more = True
        if not more:
            break
    count = 0
    for b in range(nb):
        if P[b, INV_MASS] > 0.0:
            r = root_of(b, parent)
            if island[r] < 0:
                island[r] = count
                count += 1
            island[b] = island[r]
    for k in range(count + 1):
        bstart[k], pstart[k] = 0, 0
    for b in range(nb):
        if P[b, INV_MASS] > 0.0:
            bstart[island[b] + 1] += 1
    for p in range(n):
        if CLOSE[0, p] == 1:
            a, b = Q[p, Q_BA], Q[p, Q_BB]
            pstart[island[a if P[a, INV_MASS] > 0.0 else b] + 1] += 1
            if P[a, MOTION] == KINEMATIC_BODY or P[b, MOTION] == KINEMATIC_BODY:
                bstart[island[a if P[a, INV_MASS] > 0.0 else b] + 1] += 1  # room for it, perhaps more than once
    for k in range(count):
        bstart[k + 1] += bstart[k]
        pstart[k + 1] += pstart[k]
    for b in range(nb):
        mark[b] = -1
    for k in range(count):
        IE[k, 0], IE[k, 1] = bstart[k], pstart[k]
    for b in range(nb):
        if P[b, INV_MASS] > 0.0:
            k = island[b]
            IB[0, IE[k, 0]] = b
            IE[k, 0] += 1
    for p in range(n):
        if CLOSE[0, p] == 1:
            a, b = Q[p, Q_BA], Q[p, Q_BB]
            k = island[a if P[a, INV_MASS] > 0.0 else b]
            PB[0, IE[k, 1]] = p
            IE[k, 1] += 1
    for k in range(count):  # the driven bodies each island meets
        for m in range(pstart[k], IE[k, 1]):
            p = PB[0, m]
            for side in range(2):
                b = Q[p, Q_BA] if side == 0 else Q[p, Q_BB]
                if P[b, MOTION] == KINEMATIC_BODY and mark[b] != k:
                    mark[b] = k
                    IB[0, IE[k, 0]] = b
                    IE[k, 0] += 1
    return count


@far(REAL, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def part_at_start(n, S, P, scene, ws):
    """Move bodies that overlap at the start apart along the normal. Returns the deepest overlap."""
    geo, Q = scene, wholes(scene, SC_Q)
    deepest = 0.0
    for _ in range(4):
        for p in range(n):
            a, b = Q[p, Q_BA], Q[p, Q_BB]
            if far_apart(p, 0.0, S, geo, Q):
                continue
            if Q[p, Q_KIND] == MANIFOLD:
                M = reals(ws, WS_M)
                m, gap = manifold_of(p, S, geo, Q, reals(ws, WS_WV), M, 0.0, BY_DEPTH)
                if m > 0 and gap < -TOUCH:
                    deepest = max(deepest, -gap)
                    shift(a, b, gap, M[0, 1], M[0, 2], M[0, 3], S, P)
                continue
            for f in range(Q[p, Q_FEATURES]):
                gap, nx, ny, nz, _, _, _, _, _, _ = frame(p, f, S, geo, Q)
                if gap < -TOUCH:
                    deepest = max(deepest, -gap)
                    shift(a, b, gap, nx, ny, nz, S, P)
    return deepest


@far(WHOLE, WHOLE, REALS2, WHOLES1, WHOLES1, REALS2)
def measure_gaps(n, S, scene, ws, out):
    """The least gap of every pair, into column 0."""
    Q = wholes(scene, SC_Q)
    for p in range(n):
        if Q[p, Q_KIND] == MANIFOLD:
            out[p, 0], _ = apart(p, S, scene, Q, reals(ws, WS_WV), reals(ws, WS_M))
            continue
        low = 1e300
        for f in range(Q[p, Q_FEATURES]):
            gap, _, _, _, _, _, _, _, _, _ = frame(p, f, S, scene, Q)
            low = min(low, gap)
        out[p, 0] = low
    return 0
