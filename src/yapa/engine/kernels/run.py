"""The run: pairs and islands for every outer step, each island carried exactly or as a crowd.

A scene in which only one body moves is one island from start to end. Otherwise the outer step is
short, islands are those bodies that may touch within it, and each is carried through it on its own.
A crowded island goes on in small robust steps until nothing presses on it any more.
"""

from yapa.engine.kernels.broad import B_BSTART, B_PSTART, carry_over, find_pairs
from yapa.engine.kernels.crowd import SPECULATIVE, crowd_piece
from yapa.engine.kernels.energy import island_energy
from yapa.engine.kernels.exact import CROWDED, exact_island
from yapa.engine.kernels.flight import lead
from yapa.engine.kernels.islands import find_islands, part_at_start
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
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
    CALL_BW,
    CALL_CANCEL,
    CALL_CFG,
    CALL_CLOG,
    CALL_CW,
    CALL_OUT,
    CALL_PLOG,
    CALL_PROPS,
    CALL_SCENE,
    CALL_STATE,
    CALL_STATUS,
    CALL_TIMES,
    CALL_WS,
    CANCELLED,
    CFG_ALLCROWD,
    CFG_COLUMNS,
    CFG_CROWD_AT,
    CFG_CROWD_CHANGE,
    CFG_CROWD_ENERGY,
    CFG_END,
    CFG_GX,
    CFG_OUTER,
    CFG_OVERLAP,
    CFG_STEPPED,
    CFG_SUBSTEPS,
    CROWD_ROWS,
    CW_CC,
    CW_CK,
    GRAVITY,
    INV_MASS,
    KINEMATIC_BODY,
    MOTION,
    NO_CREEP,
    NO_SPEED,
    NOT_FINITE,
    OK,
    PAIRS_FULL,
    Q_BA,
    Q_BB,
    Q_KIND,
    Q_SIDE,
    REACH,
    ROUND_PLANE,
    ROUND_ROUND,
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
    WS_D,
    WS_E,
    WS_U,
    WS_X,
)
from yapa.engine.kernels.phases import close_phase
from yapa.engine.kernels.shapes import far_apart, watch_side
from yapa.engine.kernels.stepped import stepped_island
from yapa.engine.kernels.timing import fastest
from yapa.engine.kernels.views import reals, states, wholes

CROWD_STEP = 1.0 / 240.0
NO_LIMIT = 1 << 60
MOST_PIECES = 400
STAYS = 3
"""Crowd steps without a pressed point before an island is exact again."""
QUIET_STEPS = 8
ROUND = 16
"""What a group of balls may take more than one of other bodies."""
SETTLES = 1e-3
"""Share of lifting an island by its own size: what moves with less only settles."""
WORK, COOLS = 24000, 8
"""What a group of more than two may take to be carried exactly, times the bodies in it: contacts squared, each time they are
solved; and the share of it that every outer step forgets."""


@kernel
def _pieces(dt, left, bodies, BL, count, PL, S, P, scene, cfg):
    """In how many pieces, of those left, a crowd is carried so that nothing passes half of what is thinnest in one; the travel."""
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
    return min(int(most + 0.999), left), way


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


@kernel
def _heat_of(bodies, BL, P, CROWD):
    """The work that an island's bodies have not yet forgotten."""
    heat = 0
    for k in range(bodies):
        if P[BL[k], INV_MASS] > 0.0:
            heat = max(heat, CROWD[3, BL[k]])
    return heat


@kernel
def _all_round(count, PL, Q):
    """Whether an island's pairs are of balls, and of balls and planes, only."""
    for k in range(count):
        if Q[PL[k], Q_KIND] != ROUND_PLANE and Q[PL[k], Q_KIND] != ROUND_ROUND:
            return False
    return True


@kernel
def _only_settles(kinetic, bodies, BL, P, cfg):
    """Whether an island moves with next to nothing of what would lift it by its own size."""
    weight = 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] > 0.0:
            weight += abs(P[b, GRAVITY] * cfg[CFG_GX + 2]) * P[b, REACH] / P[b, INV_MASS]
    return kinetic <= SETTLES * weight


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
    budget, substeps, bearable, spent, heat = 6000, 1000000, NO_LIMIT, 0, 0
    if dynamic > 2:
        heat = _heat_of(bodies, BL, P, CROWD)
        bearable = WORK // dynamic - heat
        budget, substeps = max(64, 8 * count), 24 + 4000 // (dynamic * dynamic)
    if dynamic > 4:  # many: handed over soon, unless what is fast here could pass what is thin in a crowd
        pieces, _ = _pieces(min(t1 - t0, CROWD_STEP), MOST_PIECES, bodies, BL, count, PL, S, P, scene, cfg)
        if pieces < MOST_PIECES:
            budget, substeps = 4 + dynamic, 24
    if dynamic > 2 and _all_round(count, PL, wholes(scene, SC_Q)):  # balls: impacts cost next to nothing, and a break is a swarm
        budget, substeps, bearable = ROUND * budget, ROUND * substeps, ROUND * WORK // dynamic - heat
    while t < t1:
        crowded = cfg[CFG_ALLCROWD] != 0.0
        for k in range(bodies):
            if P[BL[k], INV_MASS] > 0.0 and CROWD[0, BL[k]] > 0:
                crowded = True
        if not crowded:
            what, t, first, work = exact_island(t, t1, bodies, BL, count, PL, budget, substeps, bearable - spent, first, S, P,
                                                scene, ws, cw, times, out, clog, plog, PS, cfg, status, cancel)
            spent += work
            if status[ST_CODE] != OK:
                return t, first
            if what == CROWDED:
                status[ST_HANDOVERS] += 1
                if cfg[CFG_CROWD_AT] < 0.0:
                    cfg[CFG_CROWD_AT] = t
                for k in range(bodies):
                    CROWD[0, BL[k]] = STAYS
                    CROWD[4, BL[k]] = 1
            continue
        if cancel[0] != 0:
            status[ST_CODE] = CANCELLED
            return t, first
        end = t1 if t1 - t < 1.000001 * CROWD_STEP else t + CROWD_STEP  # never a sliver of a step
        pressed, left = 0, MOST_PIECES
        before, kinetic = island_energy(bodies, BL, S, P, cfg)
        if not _only_settles(kinetic, bodies, BL, P, cfg):
            cfg[CFG_CROWD_ENERGY] = max(cfg[CFG_CROWD_ENERGY], kinetic)
        while left > 0:  # looked at anew after every piece: what is squeezed out may leave far faster than it was
            pieces, way = _pieces(end - t, left, bodies, BL, count, PL, S, P, scene, cfg)
            done, margin = MOST_PIECES - left, SPECULATIVE + min(1.2 * way / pieces, 0.02)
            parts = int(cfg[CFG_SUBSTEPS]) if done + pieces == 1 else max(2, int(cfg[CFG_SUBSTEPS]) // (done + pieces))
            soft = CROWD_STEP / parts if done + pieces == 1 else 0.0
            first, touch = crowd_piece(t, (end - t) / pieces, parts, soft, margin, bodies, BL, count, PL, S, P, scene, ws, cw,
                                       times, first, out, clog, plog, PS, cfg, status)
            pressed = max(pressed, touch)
            if status[ST_CODE] != OK:
                return t, first
            t = end if pieces == 1 else t + (end - t) / pieces
            left = 0 if pieces == 1 else left - 1
        status[ST_CROWDED] += 1
        after, _ = island_energy(bodies, BL, S, P, cfg)
        cfg[CFG_CROWD_CHANGE] += after - before
        for k in range(bodies):
            CROWD[0, BL[k]] = STAYS if pressed > 0 else CROWD[0, BL[k]] - 1
            for c in range(13):
                reals(ws, WS_E)[BL[k], c] = S[BL[k], c]
    for k in range(bodies):
        CROWD[3, BL[k]] = heat - heat // COOLS + spent
    return t1, first


@kernel
def _is_finite(b, rows, out):
    """Whether all that is told of a body are numbers: zero times what is none, or has no end, is no zero.

    Orientations are left out; nobody writes those of spheres in a lean run, and velocities that are numbers come of no others."""
    x, y, z = 0.0, 0.0, 0.0
    for k in range(rows):
        row = out[k, b]
        x += 0.0 * (row[0] + row[7] + row[10] + row[13])
        y += 0.0 * (row[1] + row[8] + row[11] + row[14])
        z += 0.0 * (row[2] + row[9] + row[12] + row[15])
    return x + y + z == 0.0


@kernel
def _run(S, P, scene, surfaces, sweeping, ws, cw, bw, times, out, clog, plog, cfg, status, cancel):
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
    for c in range(CFG_CROWD_AT, CFG_COLUMNS):
        cfg[c] = 0.0
    cfg[CFG_CROWD_AT] = -1.0
    movers, driven = 0, False
    for b in range(nb):
        if P[b, MOTION] == KINEMATIC_BODY:
            driven = True
            lead(b, 0.0, S, P, KT)
        if P[b, INV_MASS] > 0.0:
            movers += 1
        for k in range(CROWD_ROWS):
            CROWD[k, b] = 0
        for c in range(24):
            reals(ws, WS_D)[b, c] = 0.0
    for s in range(wholes(geo, SC_GI).shape[0]):
        BI[0, s] = s
    n = find_pairs(1e6 if not sweeping else min(cfg[CFG_OUTER], end), surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI)
    if n < 0:
        status[ST_CODE] = PAIRS_FULL
        return
    for p in range(n):
        PS[p, 0], PS[p, 1], CK[p, 0], CK[p, 1] = 0, 0, 0, 0
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
                PL[p, 0], PL[p, 1], CL[p, 0], CL[p, 1] = PS[p, 0], PS[p, 1], CK[p, 0], CK[p, 1]
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
            count = find_islands(h, n, S, P, scene, cfg, BI, IB, IE, PB, NEAR, reals(ws, WS_U))
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
    for b in range(nb):
        if P[b, INV_MASS] > 0.0 and not _is_finite(b, k, out):
            status[ST_CODE], status[ST_BODY] = NOT_FINITE, b
            return


@far(WHOLE, WHOLES1, WHOLE, FLAG)
def run(call, surfaces, sweeping):
    """Run what the table of a call points at: handing over a dozen arrays one by one takes as long as a short run."""
    _run(reals(call, CALL_STATE), reals(call, CALL_PROPS), wholes(call, CALL_SCENE)[0], surfaces, sweeping,
         wholes(call, CALL_WS)[0], wholes(call, CALL_CW)[0], wholes(call, CALL_BW)[0], reals(call, CALL_TIMES)[0],
         states(call, CALL_OUT), reals(call, CALL_CLOG), reals(call, CALL_PLOG), reals(call, CALL_CFG)[0],
         wholes(call, CALL_STATUS)[0], wholes(call, CALL_CANCEL)[0])
    return 0
