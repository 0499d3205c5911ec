"""The run: pairs and islands for every outer step, each island carried on its own (``carry``).

A scene in which only one body moves is one island from start to end. Otherwise the outer step is
short, and islands are those bodies that may touch within it.
"""

from yapa.engine.kernels.contact.phase_log import close_phase
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.handles import (
    Island,
    bodies_of,
    calm_of,
    cancel_of,
    config_of,
    phase_log_of,
    phases_of,
    samples_of,
    scene_of,
    states_of,
    status_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    call_table,
    calm,
    config,
    dense,
    island_end,
    motion_kind,
    pair,
    run_code,
    run_status,
    run_table,
    scene_table,
    state,
    sweep,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.regimes.carry import carry_island, sleeps, watch_rest
from yapa.engine.kernels.regimes.islands import find_islands
from yapa.engine.kernels.regimes.pair_list import first_pairs, pairs_again

TOO_FAST = 1e9
"""m/s: three times as fast as light; a run in which restitution above 1 drives something there has no end"""


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
    CALM, scene = calm_of(run), scene_of(run)
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
            CALM[k, b] = 0
        for c in range(dense.COUNT):
            D[b, c] = 0.0
    for s in range(wholes(scene, scene_table.SHAPES_INT).shape[0]):
        BI[sweep.ORDER, s] = s
    return movers, driven


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
    S, P, cfg, status, CALM = states_of(run), bodies_of(run), config_of(run), status_of(run), calm_of(run)
    BI, BEFORE = wholes(bw, run_table.SWEEP), reals(bw, run_table.BEFORE)
    IB, IE, PB = wholes(bw, run_table.ISLAND_BODIES), wholes(bw, run_table.ISLAND_ENDS), wholes(bw, run_table.ISLAND_PAIRS)
    for k in range(count):
        BL = IB[0, BI[sweep.BODY_START, k] : IE[k, island_end.BODIES]]
        island = Island(BL, PB[0, BI[sweep.PAIR_START, k] : IE[k, island_end.PAIRS]])
        if cfg[config.STEPPED] == 0.0 and sleeps(island, P, CALM):
            _write(first, last, BL, run)
            continue
        for j in range(BL.shape[0]):
            for c in range(state.ROTATION):
                BEFORE[BL[j], c] = S[BL[j], c]
        _, at = carry_island(t, until, island, first, run)
        if status[run_status.CODE] != run_code.OK:
            status[run_status.BODY] = BL[0]
            if count == 1:
                status[run_status.SAMPLES] = at
            return False
        _write(at, last, BL, run)
        watch_rest(BL.shape[0], BL, S, BEFORE, CALM)
        for j in range(BL.shape[0]):
            b = BL[j]
            fast = max(abs(S[b, state.VX]), abs(S[b, state.VY]), abs(S[b, state.VZ]))
            if not (abs(S[b, state.X]) < 1e15 and abs(S[b, state.Y]) < 1e15 and abs(S[b, state.Z]) < 1e15 and fast < TOO_FAST):
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
    n = first_pairs(1e6 if not sweeping else min(cfg[config.OUTER], end), surfaces, run, bw)
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
            n = pairs_again(t, h, n, surfaces, run, bw)
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
