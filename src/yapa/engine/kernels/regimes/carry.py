"""One island over an outer step, in the regime of its profile.

A fixed-step profile carries it by ``fixed_step``. Otherwise it goes event by event for as long as it makes headway within its
limits; a crowd goes on in small robust steps of ``soft_contact`` until nothing presses on it any more.
"""

from yapa.engine.kernels.dynamics.energy import island_energy
from yapa.engine.kernels.dynamics.forces import gravity, more
from yapa.engine.kernels.geometry.narrow_phase import far_apart
from yapa.engine.kernels.geometry.pairs.traits import of_balls
from yapa.engine.kernels.geometry.time_of_impact import fastest
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    bodies_of,
    calm_of,
    cancel_of,
    config_of,
    scene_of,
    states_of,
    status_of,
    workspace_of,
)
from yapa.engine.kernels.jit import REAL, WHOLE, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    calm,
    config,
    limits,
    motion_kind,
    pair,
    run_code,
    run_status,
    scene_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.regimes.event_driven import event_driven_island
from yapa.engine.kernels.regimes.fixed_step import fixed_step_island
from yapa.engine.kernels.regimes.soft_contact import SPECULATIVE, soft_contact_piece
from yapa.engine.kernels.regimes.substep import CROWDED

SOFT_STEP = 1.0 / 240.0
NO_LIMIT = 1 << 60
MAX_PIECES = 400
STAYS = 3
"""Soft steps without a pressed point before an island is event-driven again."""
QUIET_STEPS = 8
ROUND = 16
"""What a group of balls may take more than one of other bodies."""
SETTLES = 1e-3
"""Share of lifting an island by its own size: what moves with less only settles."""
WORK, COOLS = 24000, 8
"""What a group of more than two may take to be carried event by event, times the bodies in it: contacts squared, each time they
are solved; and the share of it that every outer step forgets."""


@kernel
def _pieces(dt, left, island, run):
    """In how many pieces, of those left, a soft step is cut so that nothing passes half of what is thinnest in one; the travel."""
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
def sleeps(island, P, CALM):
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
        if CALM[calm.ISLAND, b] != mark:
            CALM[calm.ISLAND, b], CALM[calm.REST_STEPS, b] = mark, 0
        still = still and CALM[calm.REST_STEPS, b] >= QUIET_STEPS
    return still


@kernel
def watch_rest(bodies, BL, S, U, CALM):
    """Count the steps in which a body changed by no more than rounding (``U``: its state before)."""
    for k in range(bodies):
        b = BL[k]
        still = True
        for c in range(state.VELOCITY):
            still = still and abs(S[b, c] - U[b, c]) <= limits.NO_CREEP
        for c in range(state.VELOCITY, state.ROTATION):
            still = still and abs(S[b, c]) <= limits.NO_SPEED
        CALM[calm.REST_STEPS, b] = CALM[calm.REST_STEPS, b] + 1 if still else 0


@kernel
def _heat_of(bodies, BL, P, CALM):
    """The work that an island's bodies have not yet forgotten."""
    heat = 0
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
            heat = max(heat, CALM[calm.WORK, BL[k]])
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
    cfg, P, CALM = config_of(run), bodies_of(run), calm_of(run)
    if cfg[config.ALL_SOFT] != 0.0:
        return True
    for k in range(island.BL.shape[0]):
        b = island.BL[k]
        if P[b, body.INV_MASS] > 0.0 and CALM[calm.SOFT_STEPS, b] > 0:
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
        pieces, _ = _pieces(min(dt, SOFT_STEP), MAX_PIECES, island, run)
        if pieces < MAX_PIECES:
            budget, substeps = 4 + dynamic, 24
    if dynamic > 2 and _all_round(count, island.PL, wholes(scene, scene_table.PAIRS)):
        # balls: impacts cost next to nothing, and a break is a swarm
        budget, substeps, bearable = ROUND * budget, ROUND * substeps, ROUND * WORK // dynamic - heat
    return budget, substeps, bearable


@part
def _hand_over(t, island, run):
    """An island goes on by soft contact."""
    status, cfg, CALM = status_of(run), config_of(run), calm_of(run)
    status[run_status.HANDOVERS] += 1
    if cfg[config.SOFT_AT] < 0.0:
        cfg[config.SOFT_AT] = t
    for k in range(island.BL.shape[0]):
        CALM[calm.SOFT_STEPS, island.BL[k]] = STAYS
        CALM[calm.HANDED_OVER, island.BL[k]] = 1


@far((REAL, WHOLE), REAL, REAL, ISLAND, WHOLE, RUN)
def _soft_step(t, t1, island, first, run):
    """An island over a step of soft contact, in pieces short enough for what is fast in it. Returns the time and the sample."""
    ws, CALM = workspace_of(run), calm_of(run)
    S, P, cfg, status, BL = states_of(run), bodies_of(run), config_of(run), status_of(run), island.BL
    bodies, E = BL.shape[0], reals(ws, workspace_table.END)
    end = t1 if t1 - t < 1.000001 * SOFT_STEP else t + SOFT_STEP  # never a sliver of a step
    pressed, left = 0, MAX_PIECES
    before, kinetic = island_energy(bodies, BL, S, P, cfg)
    if not _only_settles(kinetic, bodies, BL, P, cfg):
        cfg[config.SOFT_ENERGY] = max(cfg[config.SOFT_ENERGY], kinetic)
    while left > 0:  # looked at anew after every piece: what is squeezed out may leave far faster than it was
        pieces, way = _pieces(end - t, left, island, run)
        done, margin = MAX_PIECES - left, SPECULATIVE + min(1.2 * way / pieces, 0.02)
        parts = int(cfg[config.SUBSTEPS]) if done + pieces == 1 else max(2, int(cfg[config.SUBSTEPS]) // (done + pieces))
        soft = SOFT_STEP / parts if done + pieces == 1 else 0.0
        first, touch = soft_contact_piece(t, (end - t) / pieces, parts, soft, margin, island, run, first)
        pressed = max(pressed, touch)
        if status[run_status.CODE] != run_code.OK:
            return t, first
        t = end if pieces == 1 else t + (end - t) / pieces
        left = 0 if pieces == 1 else left - 1
    status[run_status.SOFT_STEPS] += 1
    after, _ = island_energy(bodies, BL, S, P, cfg)
    cfg[config.SOFT_CHANGE] += after - before
    for k in range(bodies):
        CALM[calm.SOFT_STEPS, BL[k]] = STAYS if pressed > 0 else CALM[calm.SOFT_STEPS, BL[k]] - 1
        for c in range(state.ROTATION):
            E[BL[k], c] = S[BL[k], c]
    return t, first


@far((REAL, WHOLE), REAL, REAL, ISLAND, WHOLE, RUN)
def carry_island(t, t1, island, first, run):
    """One island over an outer step, in the regime of its profile. Returns the time and the sample reached."""
    cfg, CALM, cancel = config_of(run), calm_of(run), cancel_of(run)
    P, BL, status = bodies_of(run), island.BL, status_of(run)
    if cfg[config.STEPPED] != 0.0:
        return t1, fixed_step_island(t, t1 - t, island, first, run)
    dynamic = 0
    for k in range(BL.shape[0]):
        if P[BL[k], body.INV_MASS] > 0.0:
            dynamic += 1
    heat = _heat_of(BL.shape[0], BL, P, CALM) if dynamic > 2 else 0
    budget, substeps, bearable = _limits(t1 - t, heat, dynamic, island, run)
    spent = 0
    while t < t1:
        if _is_soft(island, run):
            if cancel[0] != 0:
                status[run_status.CODE] = run_code.CANCELLED
                return t, first
            t, first = _soft_step(t, t1, island, first, run)
        else:
            what, t, first, work = event_driven_island(t, t1, island, budget, substeps, bearable - spent, first, run)
            spent += work
            if what == CROWDED and status[run_status.CODE] == run_code.OK:
                _hand_over(t, island, run)
        if status[run_status.CODE] != run_code.OK:
            return t, first
    for k in range(BL.shape[0]):
        CALM[calm.WORK, BL[k]] = heat - heat // COOLS + spent
    return t1, first
