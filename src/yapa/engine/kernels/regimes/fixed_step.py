"""The fixed-step regime, one island over a step of a stepped profile: the motion a runtime with these conventions would make.

A step of length H is cut into substeps h. In each, with a the acceleration by gravity and drag and d the
damping's factor:

    explicit        v' = v + h a(v)                 places move with v
    semi-implicit   v' = v + h a(v)                 places move with v'
    midpoint        v' = v + h a(v + h/2 a(v))      places move with (v + v')/2
    Verlet          v½ = v + h/2 a(v), v' = v½ + h/2 a(v½)   places move with v½

(Hairer, Lubich, Wanner, Geometric Numerical Integration, ch. I). d multiplies v before or after a acts: exp(-ch),
max(0, 1 - ch), (1 - c)^h, 1/(1 + ch), or 1 - c once a step. Contacts are found where bodies are before the move,
or after it, and solved there by a fixed number of sweeps (``point_solver``), with Newton's restitution on the approach
speed after the forces. Timed impacts cut the move where a gap closes. What overlaps afterwards is moved apart:
a share of what is beyond the allowed overlap, at a limited speed, leaving no velocity behind. An island that is
slow for long enough is put to rest until something joins it.
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_points import find_points, remember, world_inverse
from yapa.engine.kernels.contact.pair_law import effective_restitution
from yapa.engine.kernels.contact.phase_log import change_mode
from yapa.engine.kernels.contact.point_solver import (
    drive,
    give_again,
    kick_along,
    log_point,
    note_slip,
    prepare_points,
    press,
    resist,
    rub,
    sample_between,
    slip_speed,
    speed_along,
    turn_body,
)
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.dynamics.forces import drag, gravity, more
from yapa.engine.kernels.dynamics.forces.damping import factor_of_profile
from yapa.engine.kernels.dynamics.forces.wind import through_air
from yapa.engine.kernels.geometry.manifold import gap_of_pair
from yapa.engine.kernels.geometry.narrow_phase import far_apart
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    bodies_of,
    calm_of,
    config_of,
    phases_of,
    points_of,
    samples_of,
    scene_of,
    states_of,
    status_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, REAL, REALS2, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    calm,
    config,
    contact_mode,
    integrator,
    motion_kind,
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
from yapa.engine.kernels.math.vectors import ZERO, dot, length, minus, plus, times, vector

CLOSED = 1e-10
"""m: a timed impact is found to this."""
MAX_PROBES = 64


@kernel
def _accelerate(b, h, from_middle, S, P, cfg):
    """Gravity and drag over ``h``. Drag never turns a motion round."""
    if P[b, body.MOTION] == motion_kind.PUSHED:
        return
    k = drag.strength(b, P)
    u = through_air(b, S, cfg)
    if k > 0.0 and from_middle:
        slow, half = 0.5 * h * k * length(u), 0.5 * h
        fallen = gravity.kick(b, 0, half, P, cfg), gravity.kick(b, 1, half, P, cfg), gravity.kick(b, 2, half, P, cfg)
        u = plus(times(1.0 - slow, u), fallen)
    share = drag.clamped_share(u, k, h)
    for c in range(3):
        if P[b, body.IM + c] > 0.0:
            along = u[0] if c == 0 else (u[1] if c == 1 else u[2])
            S[b, state.VELOCITY + c] += gravity.kick(b, c, h, P, cfg) - share * along
    if more.ANY:
        extra = more.acceleration(b, S, P, cfg)
        for c in range(3):
            if P[b, body.IM + c] > 0.0:
                S[b, state.VELOCITY + c] += h * extra[c]


@far(WHOLE, REAL, REAL, FLAG, ISLAND, RUN, REALS2, REALS2)
def _kick(t, h, first, island, run, IW, KT):
    """Forces and damping over ``h`` on the velocities of an island."""
    S, P, cfg = states_of(run), bodies_of(run), config_of(run)
    BL = island.BL
    bodies = BL.shape[0]
    if more.ANY:
        cfg[config.NOW] = t
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] == 0.0:
            continue
        world_inverse(b, S, P, IW)
        line, turn = factor_of_profile(P[b, body.LIN_DAMP], h, first, cfg), factor_of_profile(P[b, body.ANG_DAMP], h, first, cfg)
        if cfg[config.DAMP_LATE] != 0.0:
            _accelerate(b, h, cfg[config.INTEGRATOR] == integrator.MIDPOINT, S, P, cfg)
        for c in range(3):
            S[b, state.VELOCITY + c] *= line
            S[b, state.OMEGA + c] *= turn
        if cfg[config.DAMP_LATE] == 0.0:
            _accelerate(b, h, cfg[config.INTEGRATOR] == integrator.MIDPOINT, S, P, cfg)
        if P[b, body.MOTION] == motion_kind.PUSHED:
            drive(b, h, t, S, P, KT)
    return 0


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
    while i < n and RB[i, point_int.PAIR] == p:
        RC[i, point.TOTAL] += RC[i, point.IMPULSE_N]
        RC[i, point.RUB] += sqrt(RC[i, point.IMPULSE_T] ** 2 + RC[i, point.IMPULSE_S] ** 2)
        note_slip(i, law, RC, RB, S)
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
def _solve(now, h, n, bouncing, island, run):
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


@kernel
def _probe(p, s, S, P, scene, ws):
    """Gap of a pair after a move of length ``s``."""
    D, E, Q = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END), wholes(scene, scene_table.PAIRS)
    for side in range(2):
        b = Q[p, pair.BODY_A] if side == 0 else Q[p, pair.BODY_B]
        for c in range(state.COUNT):
            D[b, c] = S[b, c]
        if P[b, body.MOTION] != 0.0:
            turn_body(b, s, D, E, P)
    return gap_of_pair(p, D, scene, ws)


@far(REAL, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1)
def _first_closing(h, touch, count, PL, S, P, scene, ws):
    """When the first gap that is open now closes within a move of ``h``; beyond ``h`` if none does."""
    E, Q = reals(ws, workspace_table.END), wholes(scene, scene_table.PAIRS)
    best = 2.0 * h
    for k in range(count):
        p = PL[k]
        a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
        spins = P[a, body.REACH] * length(vector(E, a, state.OMEGA))
        if P[b, body.MOTION] != 0.0:
            spins += P[b, body.REACH] * length(vector(E, b, state.OMEGA))
        way = h * (length(minus(vector(E, a, state.VELOCITY), vector(E, b, state.VELOCITY))) + spins)
        if way == 0.0 or far_apart(p, way, S, scene, Q) or _probe(p, 0.0, S, P, scene, ws) <= touch:
            continue
        thin = P[a, body.THIN] if P[b, body.THIN] <= 0.0 else min(P[a, body.THIN], P[b, body.THIN])
        probes = min(int(2.0 * way / thin) + 1, MAX_PROBES)
        lo = 0.0
        for j in range(probes):
            hi = h * (j + 1) / probes
            if lo >= best:
                break
            if _probe(p, hi, S, P, scene, ws) < 0.0:
                for _ in range(60):
                    middle = 0.5 * (lo + hi)
                    gap = _probe(p, middle, S, P, scene, ws)
                    if gap < 0.0:
                        hi = middle
                    else:
                        lo = middle
                        if gap < CLOSED:
                            break
                best = min(best, lo)
                break
            lo = hi
    return best


@far(WHOLE, REAL, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1)
def _move_all(h, bodies, BL, S, P, ws):
    for k in range(bodies):
        if P[BL[k], body.MOTION] != 0.0:
            turn_body(BL[k], h, S, reals(ws, workspace_table.END), P)
    return 0


@far(WHOLE, WHOLE, REAL, ISLAND, RUN)
def _repair(n, h, island, run):
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


@kernel
def _is_at_rest(bodies, BL, S, P, CALM, cfg):
    """Whether every body of an island has been slow for long enough and nothing drives it."""
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] >= motion_kind.KINEMATIC:
            for c in range(state.VELOCITY, state.ROTATION):
                if S[b, c] != 0.0:
                    return False
        if P[b, body.INV_MASS] > 0.0 and CALM[calm.SLOW_STEPS, b] < cfg[config.REST_STEPS]:
            return False
    return True


@part
def _begin_substep(now, BL, S, P, KT, X):
    """Put driven bodies where their paths are, and keep the states of before."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            lead(b, now, S, P, KT)
        for c in range(state.COUNT):
            X[b, c] = S[b, c]


@part
def _stand_still(BL, S, P):
    """Take the velocities of bodies at rest."""
    for k in range(BL.shape[0]):
        if P[BL[k], body.INV_MASS] > 0.0:
            for c in range(state.VELOCITY, state.ROTATION):
                S[BL[k], c] = 0.0


@part
def _velocity_to_move_by(BL, S, X, E, cfg):
    """That of the start, of the end, or their mean, as the integrator has it."""
    for k in range(BL.shape[0]):
        b = BL[k]
        for c in range(state.VELOCITY, state.ROTATION):
            if cfg[config.INTEGRATOR] == integrator.EXPLICIT:
                E[b, c] = X[b, c]
            elif cfg[config.INTEGRATOR] == integrator.MIDPOINT:
                E[b, c] = 0.5 * (X[b, c] + S[b, c])
            else:
                E[b, c] = S[b, c]


@part
def _move_to_contacts(now, h, n, island, run):
    """Move to every meeting within the substep and solve there, where the profile times its contacts.

    Returns what is left of the substep, and the points of the last meeting."""
    S, P, scene, ws, cw, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), config_of(run)
    RC, RB = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT)
    CK, CC, E = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES), reals(ws, workspace_table.END)
    BL, PL, status, touch = island.BL, island.PL, status_of(run), cfg[config.TOUCH]
    bodies, count = BL.shape[0], PL.shape[0]
    left, cuts = h, 4 * count + 4
    while cfg[config.TIMED] != 0.0 and cuts > 0 and status[run_status.CODE] == run_code.OK:
        cuts -= 1
        s = _first_closing(left, touch, count, PL, S, P, scene, ws)
        if s > left:
            break
        _move_all(s, bodies, BL, S, P, ws)
        left -= s
        remember(n, h, RC, RB, CK, CC, count, PL)
        n = find_points(island, touch, h, run)
        _solve(now + h - left, h, n, True, island, run)
        for k in range(bodies):
            b = BL[k]
            for c in range(state.VELOCITY, state.ROTATION):
                if S[b, c] != reals(ws, workspace_table.BEFORE)[b, c]:
                    E[b, c] = S[b, c]
    return left, n


@part
def _count_slow(BL, S, P, CALM, cfg):
    """For how many substeps every body has been slow."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            v, w = vector(S, b, state.VELOCITY), vector(S, b, state.OMEGA)
            slow = dot(v, v) <= cfg[config.REST_SPEED] ** 2 and dot(w, w) <= cfg[config.REST_SPIN] ** 2
            CALM[calm.SLOW_STEPS, b] = CALM[calm.SLOW_STEPS, b] + 1 if slow else 0


@part
def _substep(now, h, begins, island, run):
    """One substep in the order of the profile: kick, contacts (before the move, or after it), move."""
    S, P, scene, ws, cw, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), config_of(run)
    BL, PL = island.BL, island.PL
    bodies, count = BL.shape[0], PL.shape[0]
    RC, RB, IW = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT), reals(cw, soft_table.INVERSE_INERTIAS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    KT, X, E = reals(scene, scene_table.KEYS), reals(ws, workspace_table.MIDDLE), reals(ws, workspace_table.END)
    verlet, late, touch = cfg[config.INTEGRATOR] == integrator.VERLET, cfg[config.FIND_LATE] != 0.0, cfg[config.TOUCH]
    half = 0.5 * h if verlet else h
    n = 0
    if not late:
        n = find_points(island, touch, h, run)
    _kick(now, half, begins, island, run, IW, KT)
    if not late:
        _solve(now, h, n, True, island, run)
    _velocity_to_move_by(BL, S, X, E, cfg)
    left, n = _move_to_contacts(now, h, n, island, run)
    _move_all(left, bodies, BL, S, P, ws)
    for i in range(n):
        RC[i, point.SEPARATION] += left * speed_along(i, 0, RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC, E)
    if verlet:
        _kick(now + half, half, False, island, run, IW, KT)
        if not late and n > 0:
            _solve(now + h, h, n, False, island, run)
    for k in range(bodies):
        if P[BL[k], body.MOTION] == motion_kind.KINEMATIC:
            lead(BL[k], now + h, S, P, KT)
    if late:
        n = find_points(island, touch, h, run)
        _solve(now + h, h, n, True, island, run)
    remember(n, h, RC, RB, CK, CC, count, PL)
    if cfg[config.REPAIR] > 0.0 and n > 0:
        _repair(n, h, island, run)


@far(
    WHOLE, REAL, REAL, ISLAND, WHOLE, RUN,
)
def fixed_step_island(t0, dt, island, first, run):
    """Carry an island over a step. Returns the sample reached."""
    S, P, scene, ws, times = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), times_of(run)
    CALM, cfg, status, out, BL = calm_of(run), config_of(run), status_of(run), samples_of(run), island.BL
    KT, X, bodies = reals(scene, scene_table.KEYS), reals(ws, workspace_table.MIDDLE), BL.shape[0]
    substeps = int(cfg[config.SUBSTEPS])
    h = dt / substeps
    for sub in range(substeps):
        now = t0 + sub * h
        status[run_status.STEPS] += 1
        _begin_substep(now, BL, S, P, KT, X)
        if cfg[config.REST_STEPS] > 0.0 and not more.ANY and _is_at_rest(bodies, BL, S, P, CALM, cfg):
            _stand_still(BL, S, P)
        else:
            _substep(now, h, sub == 0, island, run)
            if status[run_status.CODE] != run_code.OK:
                return first
        _count_slow(BL, S, P, CALM, cfg)
        end = now + h
        while first < times.shape[0] and times[first] <= end + 1e-12:
            sample_between(first, 1.0 - (end - times[first]) / h, bodies, BL, S, P, X, out)
            first += 1
    return first
