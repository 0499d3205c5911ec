"""Contacts of a fixed step: solved by a fixed number of sweeps, and moved apart where they still overlap.

Sequential impulses (``point_solver``) with Newton's restitution on the approach speed after the forces. What overlaps is moved
apart by a share of what is beyond the allowed overlap, at a limited speed, leaving no velocity behind.
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_points import world_inverse
from yapa.engine.kernels.contact.pair_law import effective_restitution
from yapa.engine.kernels.contact.phase_log import change_mode
from yapa.engine.kernels.contact.point_solver import (
    RELEASE_SPEED,
    give_again,
    kick_along,
    log_point,
    note_slip,
    pair_holds,
    prepare_points,
    press,
    resist,
    rub,
    slip_speed,
    speed_along,
    turn_body,
)
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    bodies_of,
    config_of,
    phases_of,
    points_of,
    scene_of,
    states_of,
    status_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, REAL, WHOLE, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    config,
    contact_mode,
    open_phase,
    pair,
    point,
    point_int,
    run_code,
    run_status,
    scene_table,
    soft_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import ZERO, vector


@kernel
def _restitution(law, approach, cfg):
    if cfg[config.ABRUPT] != 0.0:
        return effective_restitution(law, approach, 1e-300) if approach > cfg[config.CUTOFF] else 0.0
    return effective_restitution(law, approach, cfg[config.CUTOFF])


@part
def _set_up(n, bouncing, S, P, scene, RC, RB, IW, cfg):
    """What every point is to reach, its approach and slip of before, and the impulses it begins with."""
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    for i in range(n):
        world_inverse(RB[i, point_int.BODY_A], S, P, IW)
        world_inverse(RB[i, point_int.BODY_B], S, P, IW)
    prepare_points(n, RC, RB, S, P, IW)
    for i in range(n):
        law = LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]]
        approach = -speed_along(i, 0, RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC, S)
        RC[i, point.APPROACH], RC[i, point.SLIP] = approach, slip_speed(i, RC, RB, S)
        RC[i, point.LEAVE] = approach * _restitution(law, approach, cfg) if bouncing and approach > 0.0 else 0.0
        if cfg[config.WARM] == 0.0:
            for c in range(point.IMPULSE_N, point.IMPULSE_R + 3):
                RC[i, c] = 0.0
    give_again(n, RC, RB, S, P, IW)


@part
def _sweeps(n, S, P, scene, RC, RB, IW, cfg):
    """Sequential impulses: every point in turn, its friction first, as often as the profile says."""
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    for _ in range(int(cfg[config.ITERATIONS])):
        for i in range(n):
            law = LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]]
            if RC[i, point.REFF] > 0.0:
                resist(i, law, RC, RB, S, IW)
            rub(i, law, RC, RB, S, P)
            press(i, -RC[i, point.LEAVE], 1.0, 0.0, RC, RB, S, P)


@part
def _sum_up(i, n, p, law, S, RC, RB):
    """What the points of a pair, from ``i`` on, did.

    Returns the first point after them, the one that came fastest, how fast, what the pair does now, and whether it bounced."""
    at, mode, fast, bounced = i, contact_mode.NONE, 0.0, False
    holds = pair_holds(i, n, law, RC, RB)
    while i < n and RB[i, point_int.PAIR] == p:
        RC[i, point.TOTAL] += RC[i, point.IMPULSE_N]
        RC[i, point.RUB] += sqrt(RC[i, point.IMPULSE_T] ** 2 + RC[i, point.IMPULSE_S] ** 2)
        note_slip(i, law, holds, RELEASE_SPEED, RC, RB, S)
        if RC[i, point.APPROACH] > fast and RC[i, point.IMPULSE_N] > 0.0:
            fast, at = RC[i, point.APPROACH], i
        if RC[i, point.IMPULSE_N] > 0.0 and RC[i, point.LEAVE] > 0.0:
            bounced = True
            for c in range(point.IMPULSE_N, point.IMPULSE_R + 3):  # what a bounce gave is no guess for what follows
                RC[i, c] = 0.0
        elif RC[i, point.IMPULSE_N] > 0.0:
            if mode == contact_mode.NONE or RC[i, point.STICK] == 0.0:
                mode = contact_mode.SLIP if RC[i, point.STICK] == 0.0 else contact_mode.GRIP
        i += 1
    return i, at, fast, mode, bounced


@far(
    WHOLE, REAL, REAL, WHOLE, FLAG, ISLAND, RUN,
)
def solve_points(now, h, n, bouncing, island, run):
    """Solve the found points by sweeps, and log what came together."""
    S, P, scene, ws, cw, PS = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), phases_of(run)
    cfg = config_of(run)
    status = status_of(run)
    BL, PL = island.BL, island.PL
    bodies, count = BL.shape[0], PL.shape[0]
    RC, RB, IW = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT), reals(cw, soft_table.INVERSE_INERTIAS)
    Q, LW, U = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS), reals(ws, workspace_table.BEFORE)
    for k in range(bodies):
        for c in range(state.COUNT):
            U[BL[k], c] = S[BL[k], c]
    _set_up(n, bouncing, S, P, scene, RC, RB, IW, cfg)
    _sweeps(n, S, P, scene, RC, RB, IW, cfg)
    i = 0
    for k in range(count):
        p, first = PL[k], i
        i, at, fast, mode, bounced = _sum_up(i, n, p, LW[Q[p, pair.MATERIAL]], S, RC, RB)
        if not bouncing:
            continue
        if i == first:
            change_mode(now, p, contact_mode.NONE, ZERO, run, Q)
            continue
        if fast > cfg[config.MIN_IMPACT] and (bounced or PS[p, open_phase.MODE] == contact_mode.NONE):
            log_point(at, now, fast, n, run, U, RC, RB)
        change_mode(now, p, contact_mode.NONE if bounced else mode, vector(RC, at, point.N), run, Q)
        if status[run_status.CODE] == run_code.LOG_FULL:
            return 0
    return 0


@far(WHOLE, WHOLE, REAL, ISLAND, RUN)
def repair(n, h, island, run):
    """Move apart what overlaps by more than is allowed."""
    S, P, ws, cw, cfg = states_of(run), bodies_of(run), workspace_of(run), points_of(run), config_of(run)
    BL = island.BL
    bodies = BL.shape[0]
    RC, RB, D = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT), reals(ws, workspace_table.DENSE)
    for k in range(bodies):
        for c in range(state.COUNT):
            D[BL[k], c] = 0.0
    for i in range(n):
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        for c in range(state.VELOCITY, state.ROTATION):  # a body that is not of the island does not move
            D[b, c] = 0.0 if P[b, body.INV_MASS] == 0.0 else D[b, c]
    for i in range(n):
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        want = min(cfg[config.REPAIR] * (-RC[i, point.SEPARATION] - cfg[config.ALLOWED]), cfg[config.REPAIR_SPEED] * h)
        missing = want - speed_along(i, 0, a, b, RC, D)
        if want > 0.0 and missing > 0.0:
            kick_along(i, 0, missing * RC[i, point.MASS], a, b, RC, D, P)
    for k in range(bodies):
        if P[BL[k], body.INV_MASS] > 0.0:
            turn_body(BL[k], 1.0, S, D, P)
    return 0
