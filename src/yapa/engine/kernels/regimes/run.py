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
from yapa.engine.kernels.geometry.pairs.traits import of_balls
from yapa.engine.kernels.geometry.time_of_impact import fastest
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    Island,
    bodies_of,
    calm_of,
    cancel_of,
    config_of,
    phase_log_of,
    phases_of,
    points_of,
    samples_of,
    scene_of,
    states_of,
    status_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, REAL, WHOLE, WHOLES1, far, kernel, part
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
    run_code,
    run_status,
    run_table,
    scene_table,
    soft_table,
    state,
    sweep,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.regimes.event_driven import CROWDED, exact_island
from yapa.engine.kernels.regimes.fixed_step import stepped_island
from yapa.engine.kernels.regimes.islands import find_islands, part_at_start
from yapa.engine.kernels.regimes.soft_contact import SPECULATIVE, crowd_piece

CROWD_STEP = 1.0 / 240.0
NO_LIMIT = 1 << 60
MAX_PIECES = 400
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
def _pieces(dt, left, island, run):
    """In how many pieces, of those left, a crowd is carried so that nothing passes half of what is thinnest in one; the travel."""
    S, P, scene, cfg = states_of(run), bodies_of(run), scene_of(run), config_of(run)
    PL = island.PL
    count = PL.shape[0]
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
def _sleeps(island, P, CROWD):
    """Whether an island has come to a fixed point and nothing has joined or left it since: another step would change nothing."""
    BL, PL = island.BL, island.PL
    bodies, count = BL.shape[0], PL.shape[0]
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
        if CROWD[calm.ISLAND, b] != mark:
            CROWD[calm.ISLAND, b], CROWD[calm.REST_STEPS, b] = mark, 0
        still = still and CROWD[calm.REST_STEPS, b] >= QUIET_STEPS
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
        CROWD[calm.REST_STEPS, b] = CROWD[calm.REST_STEPS, b] + 1 if still else 0


@kernel
def _heat_of(bodies, BL, P, CROWD):
    """The work that an island's bodies have not yet forgotten."""
    heat = 0
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
            heat = max(heat, CROWD[calm.WORK, BL[k]])
    return heat


@kernel
def _all_round(count, PL, Q):
    """Whether an island's pairs are of balls, and of balls and planes, only."""
    for k in range(count):
        if not of_balls(Q[PL[k], pair.KIND]):
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


@part
def _is_soft(island, run):
    """Whether an island is carried by soft contact for now."""
    cfg, P, CROWD = config_of(run), bodies_of(run), calm_of(run)
    if cfg[config.ALL_SOFT] != 0.0:
        return True
    for k in range(island.BL.shape[0]):
        b = island.BL[k]
        if P[b, body.INV_MASS] > 0.0 and CROWD[calm.SOFT_STEPS, b] > 0:
            return True
    return False


@part
def _limits(dt, heat, dynamic, island, run):
    """How many impacts and substeps in an outer step, and how much work, an island may take to be carried event by event."""
    scene = scene_of(run)
    count = island.PL.shape[0]
    budget, substeps, bearable = 6000, 1000000, NO_LIMIT
    if dynamic > 2:
        bearable = WORK // dynamic - heat
        budget, substeps = max(64, 8 * count), 24 + 4000 // (dynamic * dynamic)
    if dynamic > 4:  # many: handed over soon, unless what is fast here could pass what is thin in a crowd
        pieces, _ = _pieces(min(dt, CROWD_STEP), MAX_PIECES, island, run)
        if pieces < MAX_PIECES:
            budget, substeps = 4 + dynamic, 24
    if dynamic > 2 and _all_round(count, island.PL, wholes(scene, scene_table.PAIRS)):
        # balls: impacts cost next to nothing, and a break is a swarm
        budget, substeps, bearable = ROUND * budget, ROUND * substeps, ROUND * WORK // dynamic - heat
    return budget, substeps, bearable


@part
def _hand_over(t, island, run):
    """An island goes on by soft contact."""
    status, cfg, CROWD = status_of(run), config_of(run), calm_of(run)
    status[run_status.HANDOVERS] += 1
    if cfg[config.SOFT_AT] < 0.0:
        cfg[config.SOFT_AT] = t
    for k in range(island.BL.shape[0]):
        CROWD[calm.SOFT_STEPS, island.BL[k]] = STAYS
        CROWD[calm.HANDED_OVER, island.BL[k]] = 1


@far((REAL, WHOLE), REAL, REAL, ISLAND, WHOLE, RUN)
def _soft_step(t, t1, island, first, run):
    """An island over a step of soft contact, in pieces short enough for what is fast in it. Returns the time and the sample."""
    ws, CROWD = workspace_of(run), calm_of(run)
    S, P, cfg, status, BL = states_of(run), bodies_of(run), config_of(run), status_of(run), island.BL
    bodies, E = BL.shape[0], reals(ws, workspace_table.END)
    end = t1 if t1 - t < 1.000001 * CROWD_STEP else t + CROWD_STEP  # never a sliver of a step
    pressed, left = 0, MAX_PIECES
    before, kinetic = island_energy(bodies, BL, S, P, cfg)
    if not _only_settles(kinetic, bodies, BL, P, cfg):
        cfg[config.SOFT_ENERGY] = max(cfg[config.SOFT_ENERGY], kinetic)
    while left > 0:  # looked at anew after every piece: what is squeezed out may leave far faster than it was
        pieces, way = _pieces(end - t, left, island, run)
        done, margin = MAX_PIECES - left, SPECULATIVE + min(1.2 * way / pieces, 0.02)
        parts = int(cfg[config.SUBSTEPS]) if done + pieces == 1 else max(2, int(cfg[config.SUBSTEPS]) // (done + pieces))
        soft = CROWD_STEP / parts if done + pieces == 1 else 0.0
        first, touch = crowd_piece(t, (end - t) / pieces, parts, soft, margin, island, run, first)
        pressed = max(pressed, touch)
        if status[run_status.CODE] != run_code.OK:
            return t, first
        t = end if pieces == 1 else t + (end - t) / pieces
        left = 0 if pieces == 1 else left - 1
    status[run_status.SOFT_STEPS] += 1
    after, _ = island_energy(bodies, BL, S, P, cfg)
    cfg[config.SOFT_CHANGE] += after - before
    for k in range(bodies):
        CROWD[calm.SOFT_STEPS, BL[k]] = STAYS if pressed > 0 else CROWD[calm.SOFT_STEPS, BL[k]] - 1
        for c in range(state.ROTATION):
            E[BL[k], c] = S[BL[k], c]
    return t, first


@far((REAL, WHOLE), REAL, REAL, ISLAND, WHOLE, RUN)
def _carry_island(t, t1, island, first, run):
    """One island over an outer step, in the regime of its profile. Returns the time and the sample reached."""
    cfg, CROWD, cancel = config_of(run), calm_of(run), cancel_of(run)
    P, BL, status = bodies_of(run), island.BL, status_of(run)
    if cfg[config.STEPPED] != 0.0:
        return t1, stepped_island(t, t1 - t, island, first, run)
    dynamic = 0
    for k in range(BL.shape[0]):
        if P[BL[k], body.INV_MASS] > 0.0:
            dynamic += 1
    heat = _heat_of(BL.shape[0], BL, P, CROWD) if dynamic > 2 else 0
    budget, substeps, bearable = _limits(t1 - t, heat, dynamic, island, run)
    spent = 0
    while t < t1:
        if _is_soft(island, run):
            if cancel[0] != 0:
                status[run_status.CODE] = run_code.CANCELLED
                return t, first
            t, first = _soft_step(t, t1, island, first, run)
        else:
            what, t, first, work = exact_island(t, t1, island, budget, substeps, bearable - spent, first, run)
            spent += work
            if what == CROWDED and status[run_status.CODE] == run_code.OK:
                _hand_over(t, island, run)
        if status[run_status.CODE] != run_code.OK:
            return t, first
    for k in range(BL.shape[0]):
        CROWD[calm.WORK, BL[k]] = heat - heat // COOLS + spent
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


@part
def _begin(run, bw):
    """Clear what an earlier run left. Returns how many bodies forces move, and whether any follows its path."""
    CROWD, scene = calm_of(run), scene_of(run)
    S, P, ws, cfg = states_of(run), bodies_of(run), workspace_of(run), config_of(run)
    D, BI = reals(ws, workspace_table.DENSE), wholes(bw, run_table.SWEEP)
    for c in range(config.SOFT_AT, config.COUNT):
        cfg[c] = 0.0
    cfg[config.SOFT_AT] = -1.0
    movers, driven = 0, False
    for b in range(S.shape[0]):
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            driven = True
            lead(b, 0.0, S, P, reals(scene, scene_table.KEYS))
        if P[b, body.INV_MASS] > 0.0:
            movers += 1
        for k in range(calm.COUNT):
            CROWD[k, b] = 0
        for c in range(dense.COUNT):
            D[b, c] = 0.0
    for s in range(wholes(scene, scene_table.SHAPES_INT).shape[0]):
        BI[sweep.ORDER, s] = s
    return movers, driven


@part
def _find(h, surfaces, run, bw):
    """The pairs that may meet within ``h``. Returns how many; -1 where there is no room, which is reported."""
    S, P, scene, cfg, status = states_of(run), bodies_of(run), scene_of(run), config_of(run), status_of(run)
    n = find_pairs(h, surfaces, S, P, scene, cfg, wholes(scene, scene_table.PAIRS),
                   wholes(bw, run_table.NEW_DUOS), reals(bw, run_table.BOXES), wholes(bw, run_table.SWEEP),
                   wholes(bw, run_table.FOUND_DUOS))
    if n < 0:
        status[run_status.CODE] = run_code.PAIRS_FULL
    return n


@part
def _first_pairs(h, surfaces, run, bw):
    """The pairs at the start: nothing is remembered of them, and no two bodies overlap. Returns how many."""
    cw, scene, cfg, P, ws = points_of(run), scene_of(run), config_of(run), bodies_of(run), workspace_of(run)
    S, PS, CK = states_of(run), phases_of(run), wholes(cw, soft_table.PAIR_CACHES)
    n = _find(h, surfaces, run, bw)
    for p in range(n):
        PS[p, open_phase.MODE], PS[p, open_phase.ROW], CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR] = 0, 0, 0, 0
        watch_side(p, S, scene, wholes(scene, scene_table.PAIRS))
    if n >= 0 and cfg[config.STEPPED] == 0.0:
        cfg[config.OVERLAP] = part_at_start(n, S, P, scene, ws)
    return n


@part
def _pairs_again(t, h, old, surfaces, run, bw):
    """The pairs for the next outer step; what was known of the ``old`` ones goes over. Returns how many."""
    S, plog, scene, cw = states_of(run), phase_log_of(run), scene_of(run), points_of(run)
    Q, QL = wholes(scene, scene_table.PAIRS), wholes(bw, run_table.OLD_PAIRS)
    PS, PL = phases_of(run), wholes(bw, run_table.OLD_PHASES)
    CK, CL = wholes(cw, soft_table.PAIR_CACHES), wholes(bw, run_table.OLD_PAIR_CACHES)
    CC, CD = reals(cw, soft_table.POINT_CACHES), reals(bw, run_table.OLD_POINT_CACHES)
    for p in range(old):
        for c in range(pair.COUNT):
            QL[p, c] = Q[p, c]
        PL[p, open_phase.MODE], PL[p, open_phase.ROW] = PS[p, open_phase.MODE], PS[p, open_phase.ROW]
        CL[p, pair_cache.POINTS], CL[p, pair_cache.WHOLE_FOR] = CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR]
        for i in range(CK[p, pair_cache.POINTS]):
            for c in range(CC.shape[1]):
                CD[limits.SLOTS * p + i, c] = CC[limits.SLOTS * p + i, c]
    n = _find(h, surfaces, run, bw)
    if n < 0:
        return n
    for p in range(n):
        Q[p, pair.SIDE] = 0
    carry_over(t, n, old, S, Q, QL, PS, PL, CK, CL, CC, CD, plog)
    for p in range(n):
        watch_side(p, S, scene, Q)
    return n


@part
def _one_island(n, run, bw):
    """All that moves as one island."""
    P, BI = bodies_of(run), wholes(bw, run_table.SWEEP)
    IB, IE, PB = wholes(bw, run_table.ISLAND_BODIES), wholes(bw, run_table.ISLAND_ENDS), wholes(bw, run_table.ISLAND_PAIRS)
    IE[0, island_end.BODIES], IE[0, island_end.PAIRS] = 0, n
    for b in range(P.shape[0]):
        if P[b, body.INV_MASS] > 0.0 or P[b, body.MOTION] == motion_kind.KINEMATIC:
            IB[0, IE[0, island_end.BODIES]] = b
            IE[0, island_end.BODIES] += 1
    for p in range(n):
        PB[0, p] = p
    BI[sweep.BODY_START, 0], BI[sweep.PAIR_START, 0] = 0, 0


@part
def _write(first, last, BL, run):
    """Bodies as they stand into samples ``first`` to ``last`` - 1."""
    S, out = states_of(run), samples_of(run)
    for m in range(first, last):
        for j in range(BL.shape[0]):
            for c in range(state.COUNT):
                out[m, BL[j], c] = S[BL[j], c]


@part
def _carry_all(t, until, first, last, count, run, bw):
    """Every island over an outer step, and its samples. Returns whether all went well; what did not is reported."""
    S, P, cfg, status, CROWD = states_of(run), bodies_of(run), config_of(run), status_of(run), calm_of(run)
    BI, BEFORE = wholes(bw, run_table.SWEEP), reals(bw, run_table.BEFORE)
    IB, IE, PB = wholes(bw, run_table.ISLAND_BODIES), wholes(bw, run_table.ISLAND_ENDS), wholes(bw, run_table.ISLAND_PAIRS)
    for k in range(count):
        BL = IB[0, BI[sweep.BODY_START, k] : IE[k, island_end.BODIES]]
        island = Island(BL, PB[0, BI[sweep.PAIR_START, k] : IE[k, island_end.PAIRS]])
        if cfg[config.STEPPED] == 0.0 and _sleeps(island, P, CROWD):
            _write(first, last, BL, run)
            continue
        for j in range(BL.shape[0]):
            for c in range(state.ROTATION):
                BEFORE[BL[j], c] = S[BL[j], c]
        _, at = _carry_island(t, until, island, first, run)
        if status[run_status.CODE] != run_code.OK:
            status[run_status.BODY] = BL[0]
            if count == 1:
                status[run_status.SAMPLES] = at
            return False
        _write(at, last, BL, run)
        _watch_rest(BL.shape[0], BL, S, BEFORE, CROWD)
        for j in range(BL.shape[0]):
            b = BL[j]
            if not (abs(S[b, state.X]) < 1e15 and abs(S[b, state.Y]) < 1e15 and abs(S[b, state.Z]) < 1e15):
                status[run_status.CODE] = run_code.NOT_FINITE
                status[run_status.BODY] = b
                return False
    return True


@part
def _lead_all(until, first, last, run):
    """What follows its path, at the samples and to the end of an outer step."""
    scene, times, out = scene_of(run), times_of(run), samples_of(run)
    S, P, KT = states_of(run), bodies_of(run), reals(scene, scene_table.KEYS)
    for b in range(S.shape[0]):
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            for m in range(first, last):
                lead(b, times[m], S, P, KT)
                for c in range(state.COUNT):
                    out[m, b, c] = S[b, c]
            lead(b, until, S, P, KT)


@part
def _write_all(first, until, run):
    """All bodies as they stand into the samples from ``first`` on that come up to a time. Returns the next one."""
    times, out = times_of(run), samples_of(run)
    S, k = states_of(run), first
    while k < times.shape[0] and times[k] <= until:
        for b in range(S.shape[0]):
            for c in range(state.COUNT):
                out[k, b, c] = S[b, c]
        k += 1
    return k


@part
def _finish(n, end, run):
    """Close what is open, write what is left, and look whether all of it are numbers."""
    scene, PS, plog, out = scene_of(run), phases_of(run), phase_log_of(run), samples_of(run)
    S, P, Q, status = states_of(run), bodies_of(run), wholes(scene, scene_table.PAIRS), status_of(run)
    status[run_status.PAIRS] = n
    for p in range(n):
        close_phase(end, p, Q[p, pair.BODY_A], Q[p, pair.BODY_B], S, PS, plog)
    k = _write_all(status[run_status.SAMPLES], 1e300, run)
    status[run_status.SAMPLES] = k
    for b in range(S.shape[0]):
        if P[b, body.INV_MASS] > 0.0 and not _is_finite(b, k, out):
            status[run_status.CODE], status[run_status.BODY] = run_code.NOT_FINITE, b
            return


@part
def _run(run, bw, surfaces, sweeping):
    """Run the whole motion: outer steps of pairs and islands, or one for a lone body."""
    cancel, ws = cancel_of(run), workspace_of(run)
    S, cfg, status, times, BI = states_of(run), config_of(run), status_of(run), times_of(run), wholes(bw, run_table.SWEEP)
    t, end = 0.0, cfg[config.END]
    movers, driven = _begin(run, bw)
    n = _first_pairs(1e6 if not sweeping else min(cfg[config.OUTER], end), surfaces, run, bw)
    if n < 0:
        return
    for b in range(S.shape[0]):
        for c in range(state.COUNT):
            reals(ws, workspace_table.MIDDLE)[b, c], reals(ws, workspace_table.END)[b, c] = S[b, c], S[b, c]
    status[run_status.SAMPLES] = _write_all(0, 0.0, run)
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
            n = _pairs_again(t, h, n, surfaces, run, bw)
            if n < 0:
                return
        if alone:
            count = 1
            _one_island(n, run, bw)
        else:
            count = find_islands(h, n, run, BI, wholes(bw, run_table.ISLAND_BODIES), wholes(bw, run_table.ISLAND_ENDS),
                                 wholes(bw, run_table.ISLAND_PAIRS), wholes(bw, run_table.NEAR),
                                 reals(ws, workspace_table.BEFORE))
        first = status[run_status.SAMPLES]
        last = first
        while last < times.shape[0] and times[last] <= until:
            last += 1
        if not _carry_all(t, until, first, last, count, run, bw):
            return
        if driven:
            _lead_all(until, first, last, run)
        status[run_status.SAMPLES] = last
        t = until
    _finish(n, end, run)


@far(WHOLE, WHOLES1, WHOLE, FLAG)
def run(call, surfaces, sweeping):
    """Run what the table of a call points at: handing over a dozen arrays one by one takes as long as a short run."""
    _run(call, wholes(call, call_table.WHOLE_RUN)[0], surfaces, sweeping)
    return 0
