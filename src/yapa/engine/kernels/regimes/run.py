"""The run: pairs and islands for every outer step, each island carried exactly or as a crowd.

A scene in which only one body moves is one island from start to end. Otherwise the outer step is
short, islands are those bodies that may touch within it, and each is carried through it on its own.
A crowded island goes on in small robust steps until nothing presses on it any more.
"""

from yapa.engine.kernels.contact.phase_log import close_phase
from yapa.engine.kernels.dynamics.energy import island_energy
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.dynamics.forces import gravity, more
from yapa.engine.kernels.geometry.broad_phase import carry_over, find_pairs
from yapa.engine.kernels.geometry.narrow_phase import far_apart, watch_side
from yapa.engine.kernels.geometry.time_of_impact import fastest
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    body,
    call_table,
    calm,
    config,
    dense,
    island_end,
    limits,
    motion_kind,
    open_phase,
    pair,
    pair_cache,
    pair_kind,
    run_code,
    run_status,
    run_table,
    scene_table,
    soft_table,
    state,
    sweep,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, states, wholes
from yapa.engine.kernels.regimes.event_driven import CROWDED, exact_island
from yapa.engine.kernels.regimes.fixed_step import stepped_island
from yapa.engine.kernels.regimes.islands import find_islands, part_at_start
from yapa.engine.kernels.regimes.soft_contact import SPECULATIVE, crowd_piece

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
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    most, way = 1.0, 0.0
    for k in range(count):
        p = PL[k]
        a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
        pull = 2.0 * abs(cfg[config.GZ])
        if more.ANY:
            pull += 2.0 * (more.bound(a, S, P, cfg) + more.bound(b, S, P, cfg))
        travel = fastest(p, dt, S, P, pull, Q) * dt
        if far_apart(p, travel, S, geo, Q):
            continue
        thin = P[a, body.THIN] if P[b, body.THIN] <= 0.0 else min(P[a, body.THIN], P[b, body.THIN])
        most = max(most, travel / (0.5 * thin))
        way = max(way, travel)
    return min(int(most + 0.999), left), way


@kernel
def _sleeps(bodies, BL, count, PL, P, CROWD):
    """Whether an island has come to a fixed point and nothing has joined or left it since: another step would change nothing."""
    if more.ANY:
        return False
    mark = bodies
    for k in range(count):
        mark = 31 * mark + PL[k]
    still = True
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] >= motion_kind.KINEMATIC:
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
        for c in range(state.VELOCITY):
            still = still and abs(S[b, c] - U[b, c]) <= limits.NO_CREEP
        for c in range(state.VELOCITY, state.ROTATION):
            still = still and abs(S[b, c]) <= limits.NO_SPEED
        CROWD[1, b] = CROWD[1, b] + 1 if still else 0


@kernel
def _heat_of(bodies, BL, P, CROWD):
    """The work that an island's bodies have not yet forgotten."""
    heat = 0
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
            heat = max(heat, CROWD[3, BL[k]])
    return heat


@kernel
def _all_round(count, PL, Q):
    """Whether an island's pairs are of balls, and of balls and planes, only."""
    for k in range(count):
        if Q[PL[k], pair.KIND] != pair_kind.ROUND_PLANE and Q[PL[k], pair.KIND] != pair_kind.ROUND_ROUND:
            return False
    return True


@kernel
def _only_settles(kinetic, bodies, BL, P, cfg):
    """Whether an island moves with next to nothing of what would lift it by its own size."""
    weight = 0.0
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            weight += gravity.lift(b, P, cfg)
    return kinetic <= SETTLES * weight


@far(
    (REAL, WHOLE), REAL, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS1,
    REALS3, REALS2, REALS2, WHOLES2, WHOLES2, REALS1, WHOLES1, WHOLES1,
)
def _carry_island(t0, t1, bodies, BL, count, PL, first, S, P, scene, ws, cw, times, out, clog, plog, PS, CROWD, cfg, status,
                  cancel):
    """One island over an outer step."""
    if cfg[config.STEPPED] != 0.0:
        first = stepped_island(t0, t1 - t0, bodies, BL, count, PL, first, S, P, scene, ws, cw, times, out, clog, plog, PS, CROWD,
                               cfg, status)
        return t1, first
    t = t0
    dynamic = 0
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
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
    if dynamic > 2 and _all_round(count, PL,
                                  wholes(scene, scene_table.PAIRS)):  # balls: impacts cost next to nothing, and a break is a swarm
        budget, substeps, bearable = ROUND * budget, ROUND * substeps, ROUND * WORK // dynamic - heat
    while t < t1:
        crowded = cfg[config.ALL_SOFT] != 0.0
        for k in range(bodies):
            if P[BL[k], body.INV_MASS] > 0.0 and CROWD[0, BL[k]] > 0:
                crowded = True
        if not crowded:
            what, t, first, work = exact_island(t, t1, bodies, BL, count, PL, budget, substeps, bearable - spent, first, S, P,
                                                scene, ws, cw, times, out, clog, plog, PS, cfg, status, cancel)
            spent += work
            if status[run_status.CODE] != run_code.OK:
                return t, first
            if what == CROWDED:
                status[run_status.HANDOVERS] += 1
                if cfg[config.SOFT_AT] < 0.0:
                    cfg[config.SOFT_AT] = t
                for k in range(bodies):
                    CROWD[0, BL[k]] = STAYS
                    CROWD[4, BL[k]] = 1
            continue
        if cancel[0] != 0:
            status[run_status.CODE] = run_code.CANCELLED
            return t, first
        end = t1 if t1 - t < 1.000001 * CROWD_STEP else t + CROWD_STEP  # never a sliver of a step
        pressed, left = 0, MOST_PIECES
        before, kinetic = island_energy(bodies, BL, S, P, cfg)
        if not _only_settles(kinetic, bodies, BL, P, cfg):
            cfg[config.SOFT_ENERGY] = max(cfg[config.SOFT_ENERGY], kinetic)
        while left > 0:  # looked at anew after every piece: what is squeezed out may leave far faster than it was
            pieces, way = _pieces(end - t, left, bodies, BL, count, PL, S, P, scene, cfg)
            done, margin = MOST_PIECES - left, SPECULATIVE + min(1.2 * way / pieces, 0.02)
            parts = int(cfg[config.SUBSTEPS]) if done + pieces == 1 else max(2, int(cfg[config.SUBSTEPS]) // (done + pieces))
            soft = CROWD_STEP / parts if done + pieces == 1 else 0.0
            first, touch = crowd_piece(t, (end - t) / pieces, parts, soft, margin, bodies, BL, count, PL, S, P, scene, ws, cw,
                                       times, first, out, clog, plog, PS, cfg, status)
            pressed = max(pressed, touch)
            if status[run_status.CODE] != run_code.OK:
                return t, first
            t = end if pieces == 1 else t + (end - t) / pieces
            left = 0 if pieces == 1 else left - 1
        status[run_status.SOFT_STEPS] += 1
        after, _ = island_energy(bodies, BL, S, P, cfg)
        cfg[config.SOFT_CHANGE] += after - before
        for k in range(bodies):
            CROWD[0, BL[k]] = STAYS if pressed > 0 else CROWD[0, BL[k]] - 1
            for c in range(state.ROTATION):
                reals(ws, workspace_table.END)[BL[k], c] = S[BL[k], c]
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
        x += 0.0 * (row[state.X] + row[state.VX] + row[state.WX] + row[state.RX])
        y += 0.0 * (row[state.Y] + row[state.VY] + row[state.WY] + row[state.RY])
        z += 0.0 * (row[state.Z] + row[state.VZ] + row[state.WZ] + row[state.RZ])
    return x + y + z == 0.0


@kernel
def _run(S, P, scene, surfaces, sweeping, ws, cw, bw, times, out, clog, plog, cfg, status, cancel):
    """Run the whole motion.

    ``S`` states (changed), ``P`` properties, ``scene`` the table of shapes, pairs, laws and keys, ``times`` rising sample
    times, ``out[T, n, 16]`` samples, ``clog``/``plog`` logs, ``cfg`` settings, ``status`` codes and counts, ``cancel[0]``
    polled in every step; the rest is workspace from the host.
    """
    QO, QL, PS, PL, CL, CD = (
        wholes(bw, run_table.NEW_DUOS), wholes(bw, run_table.OLD_PAIRS), wholes(bw, run_table.PHASES),
        wholes(bw, run_table.OLD_PHASES), wholes(bw, run_table.OLD_PAIR_CACHES), reals(bw, run_table.OLD_POINT_CACHES))
    BX, BI, TI, IB, IE, PB, NEAR, CROWD = (
        reals(bw, run_table.BOXES), wholes(bw, run_table.SWEEP), wholes(bw, run_table.FOUND_DUOS),
        wholes(bw, run_table.ISLAND_BODIES), wholes(bw, run_table.ISLAND_ENDS), wholes(bw, run_table.ISLAND_PAIRS),
        wholes(bw, run_table.NEAR), wholes(bw, run_table.CALM))
    CK, CC, BEFORE = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES), reals(bw, run_table.BEFORE)
    geo, Q, KT = scene, wholes(scene, scene_table.PAIRS), reals(scene, scene_table.KEYS)
    nb = S.shape[0]
    t, end = 0.0, cfg[config.END]
    for c in range(config.SOFT_AT, config.COUNT):
        cfg[c] = 0.0
    cfg[config.SOFT_AT] = -1.0
    movers, driven = 0, False
    for b in range(nb):
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            driven = True
            lead(b, 0.0, S, P, KT)
        if P[b, body.INV_MASS] > 0.0:
            movers += 1
        for k in range(calm.COUNT):
            CROWD[k, b] = 0
        for c in range(dense.COUNT):
            reals(ws, workspace_table.DENSE)[b, c] = 0.0
    for s in range(wholes(geo, scene_table.SHAPES_INT).shape[0]):
        BI[0, s] = s
    n = find_pairs(1e6 if not sweeping else min(cfg[config.OUTER], end), surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI)
    if n < 0:
        status[run_status.CODE] = run_code.PAIRS_FULL
        return
    for p in range(n):
        PS[p, open_phase.MODE], PS[p, open_phase.ROW], CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR] = 0, 0, 0, 0
        watch_side(p, S, scene, Q)
    if cfg[config.STEPPED] == 0.0:
        cfg[config.OVERLAP] = part_at_start(n, S, P, scene, ws)
    for b in range(nb):
        for c in range(state.COUNT):
            reals(ws, workspace_table.MIDDLE)[b, c], reals(ws, workspace_table.END)[b, c] = S[b, c], S[b, c]
    k = 0
    while k < times.shape[0] and times[k] <= 0.0:
        for b in range(nb):
            for c in range(state.COUNT):
                out[k, b, c] = S[b, c]
        k += 1
    status[run_status.SAMPLES] = k
    alone = movers == 1 and not sweeping and cfg[config.STEPPED] == 0.0
    while t < end:
        if cancel[0] != 0:
            status[run_status.CODE] = run_code.CANCELLED
            return
        h = end - t if alone else min(cfg[config.OUTER], end - t)
        if end - t - h < 1e-9 * end:
            h = end - t
        until = end if h == end - t else t + h
        if sweeping and t > 0.0:
            for p in range(n):
                for c in range(pair.COUNT):
                    QL[p, c] = Q[p, c]
                PL[p, open_phase.MODE], PL[p, open_phase.ROW] = PS[p, open_phase.MODE], PS[p, open_phase.ROW]
                CL[p, pair_cache.POINTS], CL[p, pair_cache.WHOLE_FOR] = CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR]
                for i in range(CK[p, pair_cache.POINTS]):
                    for c in range(CC.shape[1]):
                        CD[limits.SLOTS * p + i, c] = CC[limits.SLOTS * p + i, c]
            old = n
            n = find_pairs(h, surfaces, S, P, geo, cfg, Q, QO, BX, BI, TI)
            if n < 0:
                status[run_status.CODE] = run_code.PAIRS_FULL
                return
            for p in range(n):
                Q[p, pair.SIDE] = 0
            carry_over(t, n, old, S, Q, QL, PS, PL, CK, CL, CC, CD, plog)
            for p in range(n):
                watch_side(p, S, scene, Q)
        first = status[run_status.SAMPLES]
        if alone:
            count = 1
            IE[0, island_end.BODIES], IE[0, island_end.PAIRS] = 0, n
            for b in range(nb):
                if P[b, body.INV_MASS] > 0.0 or P[b, body.MOTION] == motion_kind.KINEMATIC:
                    IB[0, IE[0, island_end.BODIES]] = b
                    IE[0, island_end.BODIES] += 1
            for p in range(n):
                PB[0, p] = p
            BI[sweep.BODY_START, 0], BI[sweep.PAIR_START, 0] = 0, 0
        else:
            count = find_islands(h, n, S, P, scene, cfg, BI, IB, IE, PB, NEAR, reals(ws, workspace_table.BEFORE))
        last = first
        while last < times.shape[0] and times[last] <= until:
            last += 1
        for k in range(count):
            b0, p0 = BI[sweep.BODY_START, k], BI[sweep.PAIR_START, k]
            bodies, pairs = IE[k, island_end.BODIES] - b0, IE[k, island_end.PAIRS] - p0
            sleeping = (cfg[config.STEPPED] == 0.0
                        and _sleeps(bodies, IB[0, b0 : b0 + bodies], pairs, PB[0, p0 : p0 + pairs], P, CROWD))
            if sleeping:
                for m in range(first, last):
                    for j in range(bodies):
                        for c in range(state.COUNT):
                            out[m, IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
                continue
            for j in range(bodies):
                for c in range(state.ROTATION):
                    BEFORE[IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
            reached, at = _carry_island(t, until, bodies, IB[0, b0 : b0 + bodies], pairs, PB[0, p0 : p0 + pairs], first, S, P,
                                        scene, ws, cw, times, out, clog, plog, PS, CROWD, cfg, status, cancel)
            if status[run_status.CODE] != run_code.OK:
                status[run_status.BODY] = IB[0, b0]
                if count == 1:
                    status[run_status.SAMPLES] = at
                return
            for m in range(at, last):
                for j in range(bodies):
                    for c in range(state.COUNT):
                        out[m, IB[0, b0 + j], c] = S[IB[0, b0 + j], c]
            _watch_rest(bodies, IB[0, b0 : b0 + bodies], S, BEFORE, CROWD)
            for j in range(bodies):
                b = IB[0, b0 + j]
                if not (abs(S[b, state.X]) < 1e15 and abs(S[b, state.Y]) < 1e15 and abs(S[b, state.Z]) < 1e15):
                    status[run_status.CODE] = run_code.NOT_FINITE
                    status[run_status.BODY] = b
                    return
        if driven:
            for b in range(nb):
                if P[b, body.MOTION] == motion_kind.KINEMATIC:
                    for m in range(first, last):
                        lead(b, times[m], S, P, KT)
                        for c in range(state.COUNT):
                            out[m, b, c] = S[b, c]
                    lead(b, until, S, P, KT)
        status[run_status.SAMPLES] = last
        t = until
    status[run_status.PAIRS] = n
    for p in range(n):
        close_phase(end, p, Q[p, pair.BODY_A], Q[p, pair.BODY_B], S, PS, plog)
    k = status[run_status.SAMPLES]
    while k < times.shape[0]:
        for b in range(nb):
            for c in range(state.COUNT):
                out[k, b, c] = S[b, c]
        k += 1
    status[run_status.SAMPLES] = k
    for b in range(nb):
        if P[b, body.INV_MASS] > 0.0 and not _is_finite(b, k, out):
            status[run_status.CODE], status[run_status.BODY] = run_code.NOT_FINITE, b
            return


@far(WHOLE, WHOLES1, WHOLE, FLAG)
def run(call, surfaces, sweeping):
    """Run what the table of a call points at: handing over a dozen arrays one by one takes as long as a short run."""
    _run(reals(call, call_table.STATES), reals(call, call_table.BODIES), wholes(call, call_table.SCENE)[0], surfaces, sweeping,
         wholes(call, call_table.WORKSPACE)[0], wholes(call, call_table.SOFT)[0], wholes(call, call_table.WHOLE_RUN)[0],
         reals(call, call_table.TIMES)[0],
         states(call, call_table.OUT), reals(call, call_table.CONTACT_LOG), reals(call, call_table.PHASE_LOG),
         reals(call, call_table.CONFIG)[0],
         wholes(call, call_table.STATUS)[0], wholes(call, call_table.CANCEL)[0])
    return 0
