"""The run: pairs and islands for every outer step, each island carried exactly or as a crowd.

A scene in which only one body moves is one island from start to end. Otherwise the outer step is
short, islands are those bodies that may touch within it, and each is carried through it on its own.
A crowded island goes on in small robust steps until nothing presses on it any more.
"""

from yapa.engine.kernels.broad import B_BSTART, B_ISLAND, B_MARK, B_PARENT, B_PSTART, carry_over, find_pairs, root_of, travel_of
from yapa.engine.kernels.crowd import SPECULATIVE, crowd_piece
from yapa.engine.kernels.exact import CROWDED, exact_island
from yapa.engine.kernels.flight import lead
from yapa.engine.kernels.jit import REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    BW_BEFORE,
    BW_BI,
    BW_BX,
    BW_CD,
    BW_CL,
    BW_CROWD,
    BW_IB,
    BW_IE,
    BW_NEAR,
    BW_PB,
    BW_PL,
    BW_PS,
    BW_QL,
    BW_QO,
    BW_TI,
    CANCELLED,
    CFG_ALLCROWD,
    CFG_END,
    CFG_GX,
    CFG_OUTER,
    CFG_OVERLAP,
    CFG_STEPPED,
    CFG_SUBSTEPS,
    CW_CC,
    CW_CK,
    INV_MASS,
    KINEMATIC_BODY,
    MANIFOLD,
    MOTION,
    NO_CREEP,
    NO_SPEED,
    NOT_FINITE,
    OK,
    PAIRS_FULL,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    Q_SIDE,
    SC_GI,
    SC_KEYS,
    SC_Q,
    SLOTS,
    ST_BODY,
    ST_CODE,
    ST_CROWDED,
    ST_HANDOVERS,
    ST_PAIRS,
    ST_SAMPLES,
    THIN,
    TOUCH,
    WS_D,
    WS_E,
    WS_M,
    WS_U,
    WS_WV,
    WS_X,
)
from yapa.engine.kernels.phases import close_phase
from yapa.engine.kernels.polytopes import manifold_of
from yapa.engine.kernels.shapes import far_apart, frame, watch_side
from yapa.engine.kernels.stepped import stepped_island
from yapa.engine.kernels.sustained import shift
from yapa.engine.kernels.timing import fastest
from yapa.engine.kernels.views import reals, wholes

CROWD_STEP = 1.0 / 240.0
MOST_PIECES = 400
HIT_SPEED = 2.2
"""A body may leave an impact with this times the greatest speed around it."""
STAYS = 3
"""Crowd steps without a pressed point before an island is exact again."""
QUIET_STEPS = 8


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
                m, gap = manifold_of(p, S, geo, Q, reals(ws, WS_WV), M, 0.0)
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


@kernel
def _pieces(dt, bodies, BL, count, PL, S, P, scene, cfg):
    """In how many pieces a crowd must be carried so that nothing passes half of what is thinnest in one; and the travel."""
    geo, Q = scene, wholes(scene, SC_Q)
    most, way = 1.0, 0.0
    for k in range(count):
        p = PL[k]
        a, b = Q[p, Q_BA], Q[p, Q_BB]
        travel = fastest(p, dt, S, P, 2.0 * abs(cfg[CFG_GX + 2]), Q) * dt
        if far_apart(p, travel, S, geo, Q):
            continue
        thin = P[a, THIN] if P[b, THIN] <= 0.0 else min(P[a, THIN], P[b, THIN])
        most = max(most, travel / (0.5 * thin))
        way = max(way, travel)
    return min(int(most + 0.999), MOST_PIECES), way


@kernel
def _sleeps(bodies, BL, count, PL, P, CROWD):
    """Whether an island has come to a fixed point and nothing has joined or left it since: another step would change nothing."""
    mark = bodies
    for k in range(count):
        mark = 31 * mark + PL[k]
    still = True
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] >= KINEMATIC_BODY:
            return False
        if CROWD[2, b] != mark:
            CROWD[2, b], CROWD[1, b] = mark, 0
        still = still and CROWD[1, b] >= QUIET_STEPS
    return still


@kernel
def _watch_rest(bodies, BL, S, U, CROWD):
    """Count the steps in which a body changed by no more than rounding (``U``: its state before)."""
    for k in range(bodies):
        b = BL[k]
        still = True
        for c in range(7):
            still = still and abs(S[b, c] - U[b, c]) <= NO_CREEP
        for c in range(7, 13):
            still = still and abs(S[b, c]) <= NO_SPEED
        CROWD[1, b] = CROWD[1, b] + 1 if still else 0


@far(
    (REAL, WHOLE), REAL, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS1,
    REALS3, REALS2, REALS2, WHOLES2, WHOLES2, REALS1, WHOLES1, WHOLES1,
)
def _carry_island(t0, t1, bodies, BL, count, PL, first, S, P, scene, ws, cw, times, out, clog, plog, PS, CROWD, cfg, status,
                  cancel):
    """One island over an outer step."""
    if cfg[CFG_STEPPED] != 0.0:
        first = stepped_island(t0, t1 - t0, bodies, BL, count, PL, first, S, P, scene, ws, cw, times, out, clog, plog, PS, CROWD,
                               cfg, status)
        return t1, first
    t = t0
    dynamic = 0
    for k in range(bodies):
        if P[BL[k], INV_MASS] > 0.0:
            dynamic += 1
    budget = 6000 if dynamic <= 2 else max(64, 8 * count)
    while t < t1:
        crowded = cfg[CFG_ALLCROWD] != 0.0
        for k in range(bodies):
            if P[BL[k], INV_MASS] > 0.0 and CROWD[0, BL[k]] > 0:
                crowded = True
        if not crowded:
            what, t, first = exact_island(t, t1, bodies, BL, count, PL, budget, first, S, P, scene, ws, cw, times, out, clog, plog,
                                          PS, cfg, status, cancel)
            if status[ST_CODE] != OK:
                return t, first
            if what == CROWDED:
                status[ST_HANDOVERS] += 1
                for k in range(bodies):
                    CROWD[0, BL[k]] = STAYS
            continue
        if cancel[0] != 0:
            status[ST_CODE] = CANCELLED
            return t, first
        dt = t1 - t if t1 - t < 1.000001 * CROWD_STEP else CROWD_STEP  # never a sliver of a step
        pieces, way = _pieces(dt, bodies, BL, count, PL, S, P, scene, cfg)
        substeps = int(cfg[CFG_SUBSTEPS]) if pieces == 1 else max(2, int(cfg[CFG_SUBSTEPS]) // pieces)
        pressed = 0
        begun = t
        for k in range(pieces):
            margin = SPECULATIVE + min(1.2 * way / pieces, 0.02)
            first, touch = crowd_piece(t, dt / pieces, substeps, margin, bodies, BL, count, PL, S, P, scene, ws, cw, times,
                                       first, out, clog, plog, PS, cfg, status)
            pressed = max(pressed, touch)
            if status[ST_CODE] != OK:
                return t, first
            t = begun + (k + 1) * (dt / pieces)
        t = t1 if dt == t1 - begun else begun + dt
        status[ST_CROWDED] += 1
        for k in range(bodies):
            CROWD[0, BL[k]] = STAYS if pressed > 0 else CROWD[0, BL[k]] - 1
            for c in range(13):
                reals(ws, WS_E)[BL[k], c] = S[BL[k], c]
    return t1, first


@far(WHOLE, REAL, WHOLE, REALS2, REALS2, WHOLES1, REALS1, WHOLES2, WHOLES2, WHOLES2, WHOLES2, WHOLES2, REALS2)
def _islands(h, n, S, P, scene, cfg, BI, IB, IE, PB, NEAR, U):
    """Bodies and pairs of every island, laid out one after the other. Returns the number of islands."""
    geo, Q = scene, wholes(scene, SC_Q)
    nb = P.shape[0]
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
            NEAR[0, p] = 0 if far_apart(p, 1.1 * (U[a, 1] + U[b, 1]) + 2e-3, S, geo, Q) else 1
            if NEAR[0, p] == 1 and P[a, INV_MASS] > 0.0 and P[b, INV_MASS] > 0.0:
                ra, rb = root_of(a, parent), root_of(b, parent)
                if ra != rb:
                    parent[max(ra, rb)] = min(ra, rb)
        for p in range(n):  # the fastest that an island holds or meets
            if NEAR[0, p] == 1:
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
        if NEAR[0, p] == 1:
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
        if NEAR[0, p] == 1:
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


@kernel
def run(S, P, scene, surfaces, sweeping, ws, cw, bw, times, out, clog, plog, cfg, status, cancel):
    """Run the whole motion.

    ``S`` states (changed), ``P`` properties, ``scene`` the table of shapes, pairs, laws and keys, ``times`` rising sample
    times, ``out[T, n, 16]`` samples, ``clog``/``plog`` logs, ``cfg`` settings, ``status`` codes and counts, ``cancel[0]``
    polled in every step; the rest is workspace from the host.
    """
    QO, QL, PS, PL, CL, CD = (
        wholes(bw, BW_QO), wholes(bw, BW_QL), wholes(bw, BW_PS), wholes(bw, BW_PL), wholes(bw, BW_CL), reals(bw, BW_CD))
    BX, BI, TI, IB, IE, PB, NEAR, CROWD = (
        reals(bw, BW_BX), wholes(bw, BW_BI), wholes(bw, BW_TI), wholes(bw, BW_IB), wholes(bw, BW_IE), wholes(bw, BW_PB),
        wholes(bw, BW_NEAR), wholes(bw, BW_CROWD))
    CK, CC, BEFORE = wholes(cw, CW_CK), reals(cw, CW_CC), reals(bw, BW_BEFORE)
    geo, Q, KT = scene, wholes(scene, SC_Q), reals(scene, SC_KEYS)
    nb = S.shape[0]
    t, end = 0.0, cfg[CFG_END]
    movers, driven = 0, False
    for b in range(nb):
        if P[b, MOTION] == KINEMATIC_BODY:
            driven = True
            lead(b, 0.0, S, P, KT)
        if P[b, INV_MASS] > 0.0:
            movers += 1
        CROWD[0, b], CROWD[1, b], CROWD[2, b] = 0, 0, 0
        for c in range(24):
            reals(ws, WS_D)[b, c] = 0.0
    for s in range(wholes(geo, SC_GI).shape[0]):
        BI[0, s] = s
    n = find_pairs(1e6 if not sweeping else min(cfg[CFG_OUTER], end), surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI)
    if n < 0:
        status[ST_CODE] = PAIRS_FULL
        return
    for p in range(n):
        PS[p, 0], PS[p, 1], CK[p, 0] = 0, 0, 0
        watch_side(p, S, scene, Q)
    if cfg[CFG_STEPPED] == 0.0:
        cfg[CFG_OVERLAP] = part_at_start(n, S, P, scene, ws)
    for b in range(nb):
        for c in range(16):
            reals(ws, WS_X)[b, c], reals(ws, WS_E)[b, c] = S[b, c], S[b, c]
    k = 0
    while k < times.shape[0] and times[k] <= 0.0:
        for b in range(nb):
            for c in range(16):
                out[k, b, c] = S[b, c]
        k += 1
    status[ST_SAMPLES] = k
    alone = movers == 1 and not sweeping and cfg[CFG_STEPPED] == 0.0
    while t < end:
        if cancel[0] != 0:
            status[ST_CODE] = CANCELLED
            return
        h = end - t if alone else min(cfg[CFG_OUTER], end - t)
        if end - t - h < 1e-9 * end:
            h = end - t
        until = end if h == end - t else t + h
        if sweeping and t > 0.0:
            for p in range(n):
                for c in range(8):
                    QL[p, c] = Q[p, c]
                PL[p, 0], PL[p, 1], CL[p, 0] = PS[p, 0], PS[p, 1], CK[p, 0]
                for i in range(CK[p, 0]):
                    for c in range(CC.shape[1]):
                        CD[SLOTS * p + i, c] = CC[SLOTS * p + i, c]
            old = n
            n = find_pairs(h, surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI)
            if n < 0:
                status[ST_CODE] = PAIRS_FULL
                return
            for p in range(n):
                Q[p, Q_SIDE] = 0
            carry_over(t, n, old, S, Q, QL, PS, PL, CK, CL, CC, CD, plog)
            for p in range(n):
                watch_side(p, S, scene, Q)
        first = status[ST_SAMPLES]
        if alone:
            count = 1
            IE[0, 0], IE[0, 1] = 0, n
            for b in range(nb):
                if P[b, INV_MASS] > 0.0 or P[b, MOTION] == KINEMATIC_BODY:
                    IB[0, IE[0, 0]] = b
                    IE[0, 0] += 1
            for p in range(n):
                PB[0, p] = p
            BI[B_BSTART, 0], BI[B_PSTART, 0] = 0, 0
        else:
            count = _islands(h, n, S, P, scene, cfg, BI, IB, IE, PB, NEAR, reals(ws, WS_U))
        last = first
        while last < times.shape[0] and times[last] <= until:
            last += 1
        for k in range(count):
            b0, p0 = BI[B_BSTART, k], BI[B_PSTART, k]
            bodies, pairs = IE[k, 0] - b0, IE[k, 1] - p0
            sleeping = cfg[CFG_STEPPED] == 0.0 and _sleeps(bodies, IB[0, b0 : b0 + bodies], pairs, PB[0, p0 : p0 + pairs], P, CROWD)
            if sleeping:
                for m in range(first, last):
                    for j in range(bodies):
                        for c in range(16):
                            out[m, IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
                continue
            for j in range(bodies):
                for c in range(13):
                    BEFORE[IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
            reached, at = _carry_island(t, until, bodies, IB[0, b0 : b0 + bodies], pairs, PB[0, p0 : p0 + pairs], first, S, P,
                                        scene, ws, cw, times, out, clog, plog, PS, CROWD, cfg, status, cancel)
            if status[ST_CODE] != OK:
                status[ST_BODY] = IB[0, b0]
                if count == 1:
                    status[ST_SAMPLES] = at
                return
            for m in range(at, last):
                for j in range(bodies):
                    for c in range(16):
                        out[m, IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
            _watch_rest(bodies, IB[0, b0 : b0 + bodies], S, BEFORE, CROWD)
            for j in range(bodies):
                b = IB[0, b0 + j]
                if not (abs(S[b, 0]) < 1e15 and abs(S[b, 1]) < 1e15 and abs(S[b, 2]) < 1e15):
                    status[ST_CODE] = NOT_FINITE
                    status[ST_BODY] = b
                    return
        if driven:
            for b in range(nb):
                if P[b, MOTION] == KINEMATIC_BODY:
                    for m in range(first, last):
                        lead(b, times[m], S, P, KT)
                        for c in range(16):
                            out[m, b, c] = S[b, c]
                    lead(b, until, S, P, KT)
        status[ST_SAMPLES] = last
        t = until
    status[ST_PAIRS] = n
    for p in range(n):
        close_phase(end, p, Q[p, Q_BA], Q[p, Q_BB], S, PS, plog)
    k = status[ST_SAMPLES]
    while k < times.shape[0]:
        for b in range(nb):
            for c in range(16):
                out[k, b, c] = S[b, c]
        k += 1
    status[ST_SAMPLES] = k
