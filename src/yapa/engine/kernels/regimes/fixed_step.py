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

from yapa.engine.kernels.contact.contact_points import find_points, remember, world_inverse
from yapa.engine.kernels.contact.point_solver import (
    drive,
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
    integrator,
    motion_kind,
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
from yapa.engine.kernels.math.vectors import dot, length, minus, plus, times, vector
from yapa.engine.kernels.regimes.fixed_contacts import repair, solve_points
from yapa.engine.kernels.regimes.samples import sample_between

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
        solve_points(now + h - left, h, n, True, island, run)
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
        solve_points(now, h, n, True, island, run)
    _velocity_to_move_by(BL, S, X, E, cfg)
    left, n = _move_to_contacts(now, h, n, island, run)
    _move_all(left, bodies, BL, S, P, ws)
    for i in range(n):
        RC[i, point.SEPARATION] += left * speed_along(i, 0, RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC, E)
    if verlet:
        _kick(now + half, half, False, island, run, IW, KT)
        if not late and n > 0:
            solve_points(now + h, h, n, False, island, run)
    for k in range(bodies):
        if P[BL[k], body.MOTION] == motion_kind.KINEMATIC:
            lead(BL[k], now + h, S, P, KT)
    if late:
        n = find_points(island, touch, h, run)
        solve_points(now + h, h, n, True, island, run)
    remember(n, h, RC, RB, CK, CC, count, PL)
    if cfg[config.REPAIR] > 0.0 and n > 0:
        repair(n, h, island, run)


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
