"""The fixed-step regime, one island over a step of a stepped profile: the motion a runtime with these conventions would make.

A step of length H is cut into substeps h. In each, with a the acceleration by gravity and drag and d the
damping's factor:

    explicit        v' = v + h a(v)                 places move with v
    semi-implicit   v' = v + h a(v)                 places move with v'
    midpoint        v' = v + h a(v + h/2 a(v))      places move with (v + v')/2
    Verlet          v½ = v + h/2 a(v), v' = v½ + h/2 a(v½)   places move with v½

(Hairer, Lubich, Wanner, Geometric Numerical Integration, ch. I). d multiplies v before or after a acts: exp(-ch),
max(0, 1 - ch), (1 - c)^h, 1/(1 + ch), or 1 - c once a step. Contacts are found where bodies are before the move,
or after it, and solved there by a fixed number of sweeps (``impulses``), with Newton's restitution on the approach
speed after the forces. Timed impacts cut the move where a gap closes. What overlaps afterwards is moved apart:
a share of what is beyond the allowed overlap, at a limited speed, leaving no velocity behind. An island that is
slow for long enough is put to rest until something joins it.
"""

from math import exp, sqrt

from yapa.engine.kernels.flight import lead
from yapa.engine.kernels.impulses import (
    drive,
    give_again,
    kick_along,
    lay_rows,
    log_point,
    note_slip,
    press,
    resist,
    rub,
    sample_between,
    slip_speed,
    speed_along,
    turn_body,
)
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    CFG_ABRUPT,
    CFG_ALLOWED,
    CFG_CUTOFF,
    CFG_DAMP_LATE,
    CFG_DAMPING,
    CFG_FIND_LATE,
    CFG_GX,
    CFG_INTEGRATOR,
    CFG_ITERATIONS,
    CFG_MIN_IMPACT,
    CFG_REPAIR,
    CFG_REPAIR_SPEED,
    CFG_REST_SPEED,
    CFG_REST_SPIN,
    CFG_REST_STEPS,
    CFG_SUBSTEPS,
    CFG_TIMED,
    CFG_TOUCH,
    CFG_WARM,
    CFG_WX,
    CW_CC,
    CW_CK,
    CW_IW,
    CW_RB,
    CW_RC,
    DRAG,
    EXPLICIT,
    EXPONENTIAL,
    GRAVITY,
    IM,
    INV_MASS,
    KINEMATIC_BODY,
    LIN_DAMP,
    LINEAR,
    LOG_FULL,
    MIDPOINT,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    MOTION,
    OK,
    POWER,
    PUSHED_BODY,
    Q_BA,
    Q_BB,
    Q_LAW,
    REACH,
    RECIPROCAL,
    SC_KEYS,
    SC_LAW,
    SC_Q,
    ST_CODE,
    ST_STEPS,
    THIN,
    VERLET,
    WS_D,
    WS_E,
    WS_U,
    WS_X,
)
from yapa.engine.kernels.material import effective_restitution
from yapa.engine.kernels.phases import change_mode
from yapa.engine.kernels.points import (
    R_APPROACH,
    R_LN,
    R_LR,
    R_LS,
    R_LT,
    R_MASS,
    R_MOST,
    R_REFF,
    R_RUB,
    R_SEP,
    R_SLIP,
    R_STICK,
    R_TOTAL,
    find_points,
    remember,
    world_inverse,
)
from yapa.engine.kernels.polytopes import gap_of_pair
from yapa.engine.kernels.shapes import far_apart
from yapa.engine.kernels.views import reals, wholes

CLOSED = 1e-10
"""m: a timed impact is found to this."""
MOST_PROBES = 64


@kernel
def _damping_factor(c, h, first, cfg):
    """What a velocity is multiplied with over ``h``; ``first`` where a step begins."""
    if c == 0.0:
        return 1.0
    form = cfg[CFG_DAMPING]
    if form == EXPONENTIAL:
        return exp(-c * h)
    if form == LINEAR:
        return max(0.0, 1.0 - c * h)
    if form == POWER:
        return (1.0 - min(c, 1.0)) ** h
    if form == RECIPROCAL:
        return 1.0 / (1.0 + c * h)
    return max(0.0, 1.0 - c) if first else 1.0


@kernel
def _accelerate(b, h, from_middle, S, P, cfg):
    """Gravity and drag over ``h``. Drag never turns a motion round."""
    if P[b, MOTION] == PUSHED_BODY:
        return
    g, k = P[b, GRAVITY], P[b, DRAG] * P[b, INV_MASS]
    ux, uy, uz = S[b, 7] - cfg[CFG_WX], S[b, 8] - cfg[CFG_WX + 1], S[b, 9] - cfg[CFG_WX + 2]
    if k > 0.0 and from_middle:
        slow = 0.5 * h * k * sqrt(ux * ux + uy * uy + uz * uz)
        ux, uy, uz = (ux * (1.0 - slow) + 0.5 * h * g * cfg[CFG_GX], uy * (1.0 - slow) + 0.5 * h * g * cfg[CFG_GX + 1],
                      uz * (1.0 - slow) + 0.5 * h * g * cfg[CFG_GX + 2])
    pull = h * k * sqrt(ux * ux + uy * uy + uz * uz)
    if pull > 1.0:
        pull = 1.0
    for c in range(3):
        if P[b, IM + c] > 0.0:
            u = ux if c == 0 else (uy if c == 1 else uz)
            S[b, 7 + c] += h * g * cfg[CFG_GX + c] - pull * u


@far(WHOLE, REAL, REAL, FLAG, WHOLE, WHOLES1, REALS2, REALS2, REALS2, REALS2, REALS1)
def _kick(t, h, first, bodies, BL, S, P, IW, KT, cfg):
    """Forces and damping over ``h`` on the velocities of an island."""
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] == 0.0:
            continue
        world_inverse(b, S, P, IW)
        line, turn = _damping_factor(P[b, LIN_DAMP], h, first, cfg), _damping_factor(P[b, ANG_DAMP], h, first, cfg)
        if cfg[CFG_DAMP_LATE] != 0.0:
            _accelerate(b, h, cfg[CFG_INTEGRATOR] == MIDPOINT, S, P, cfg)
        for c in range(3):
            S[b, 7 + c] *= line
            S[b, 10 + c] *= turn
        if cfg[CFG_DAMP_LATE] == 0.0:
            _accelerate(b, h, cfg[CFG_INTEGRATOR] == MIDPOINT, S, P, cfg)
        if P[b, MOTION] == PUSHED_BODY:
            drive(b, h, t, S, P, KT)
    return 0


@kernel
def _restitution(law, approach, cfg):
    if cfg[CFG_ABRUPT] != 0.0:
        return effective_restitution(law, approach, 1e-300) if approach > cfg[CFG_CUTOFF] else 0.0
    return effective_restitution(law, approach, cfg[CFG_CUTOFF])


@far(
    WHOLE, REAL, REAL, WHOLE, FLAG, WHOLE, WHOLES1, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS2, REALS2,
    WHOLES2, REALS1, WHOLES1,
)
def _solve(now, h, n, bouncing, bodies, BL, count, PL, S, P, scene, ws, cw, clog, plog, PS, cfg, status):
    """Solve the found points by sweeps, and log what came together."""
    RC, RB, IW = reals(cw, CW_RC), wholes(cw, CW_RB), reals(cw, CW_IW)
    Q, LW, U = wholes(scene, SC_Q), reals(scene, SC_LAW), reals(ws, WS_U)
    for k in range(bodies):
        for c in range(16):
            U[BL[k], c] = S[BL[k], c]
    for i in range(n):
        world_inverse(RB[i, 0], S, P, IW)
        world_inverse(RB[i, 1], S, P, IW)
    lay_rows(n, RC, RB, S, P, IW)
    for i in range(n):
        law = LW[Q[RB[i, 2], Q_LAW]]
        approach = -speed_along(i, 0, RB[i, 0], RB[i, 1], RC, S)
        RC[i, R_APPROACH], RC[i, R_SLIP] = approach, slip_speed(i, RC, RB, S)
        RC[i, R_MOST] = approach * _restitution(law, approach, cfg) if bouncing and approach > 0.0 else 0.0
        if cfg[CFG_WARM] == 0.0:
            for c in range(R_LN, R_LR + 3):
                RC[i, c] = 0.0
    give_again(n, RC, RB, S, P, IW)
    for _ in range(int(cfg[CFG_ITERATIONS])):
        for i in range(n):
            law = LW[Q[RB[i, 2], Q_LAW]]
            if RC[i, R_REFF] > 0.0:
                resist(i, law, RC, RB, S, IW)
            rub(i, law, RC, RB, S, P)
            press(i, -RC[i, R_MOST], 1.0, 0.0, RC, RB, S, P)
    i = 0
    for k in range(count):
        p = PL[k]
        first, at, mode, fast, bounced = i, i, MODE_NONE, 0.0, False
        while i < n and RB[i, 2] == p:
            law = LW[Q[p, Q_LAW]]
            RC[i, R_TOTAL] += RC[i, R_LN]
            RC[i, R_RUB] += sqrt(RC[i, R_LT] ** 2 + RC[i, R_LS] ** 2)
            note_slip(i, law, RC, RB, S)
            if RC[i, R_APPROACH] > fast and RC[i, R_LN] > 0.0:
                fast, at = RC[i, R_APPROACH], i
            if RC[i, R_LN] > 0.0 and RC[i, R_MOST] > 0.0:
                bounced = True
                for c in range(R_LN, R_LR + 3):  # what a bounce gave is no guess for what follows
                    RC[i, c] = 0.0
            elif RC[i, R_LN] > 0.0:
                if mode == MODE_NONE or RC[i, R_STICK] == 0.0:
                    mode = MODE_SLIP if RC[i, R_STICK] == 0.0 else MODE_GRIP
            i += 1
        if not bouncing:
            continue
        if i == first:
            change_mode(now, p, MODE_NONE, 0.0, 0.0, 0.0, S, Q, PS, plog, status)
            continue
        if fast > cfg[CFG_MIN_IMPACT] and (bounced or PS[p, 0] == MODE_NONE):
            log_point(at, now, fast, n, S, U, RC, RB, clog, status)
        change_mode(now, p, MODE_NONE if bounced else mode, RC[at, 0], RC[at, 1], RC[at, 2], S, Q, PS, plog, status)
        if status[ST_CODE] == LOG_FULL:
            return 0
    return 0


@kernel
def _probe(p, s, S, P, scene, ws):
    """Gap of a pair after a move of length ``s``."""
    D, E, Q = reals(ws, WS_D), reals(ws, WS_E), wholes(scene, SC_Q)
    for side in range(2):
        b = Q[p, Q_BA] if side == 0 else Q[p, Q_BB]
        for c in range(16):
            D[b, c] = S[b, c]
        if P[b, MOTION] != 0.0:
            turn_body(b, s, D, E, P)
    return gap_of_pair(p, D, scene, ws)


@far(REAL, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1)
def _first_closing(h, touch, count, PL, S, P, scene, ws):
    """When the first gap that is open now closes within a move of ``h``; beyond ``h`` if none does."""
    E, Q = reals(ws, WS_E), wholes(scene, SC_Q)
    best = 2.0 * h
    for k in range(count):
        p = PL[k]
        a, b = Q[p, Q_BA], Q[p, Q_BB]
        way = 0.0
        for c in range(3):
            way += (E[a, 7 + c] - E[b, 7 + c]) ** 2
        spins = P[a, REACH] * sqrt(E[a, 10] ** 2 + E[a, 11] ** 2 + E[a, 12] ** 2)
        if P[b, MOTION] != 0.0:
            spins += P[b, REACH] * sqrt(E[b, 10] ** 2 + E[b, 11] ** 2 + E[b, 12] ** 2)
        way = h * (sqrt(way) + spins)
        if way == 0.0 or far_apart(p, way, S, scene, Q) or _probe(p, 0.0, S, P, scene, ws) <= touch:
            continue
        thin = P[a, THIN] if P[b, THIN] <= 0.0 else min(P[a, THIN], P[b, THIN])
        probes = min(int(2.0 * way / thin) + 1, MOST_PROBES)
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
        if P[BL[k], MOTION] != 0.0:
            turn_body(BL[k], h, S, reals(ws, WS_E), P)
    return 0


@far(WHOLE, WHOLE, REAL, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, REALS1)
def _repair(n, h, bodies, BL, S, P, ws, cw, cfg):
    """Move apart what overlaps by more than is allowed."""
    RC, RB, D = reals(cw, CW_RC), wholes(cw, CW_RB), reals(ws, WS_D)
    for k in range(bodies):
        for c in range(16):
            D[BL[k], c] = 0.0
    for i in range(n):
        a, b = RB[i, 0], RB[i, 1]
        for c in range(7, 13):  # a body that is not of the island does not move
            D[b, c] = 0.0 if P[b, INV_MASS] == 0.0 else D[b, c]
    for i in range(n):
        a, b = RB[i, 0], RB[i, 1]
        want = min(cfg[CFG_REPAIR] * (-RC[i, R_SEP] - cfg[CFG_ALLOWED]), cfg[CFG_REPAIR_SPEED] * h)
        missing = want - speed_along(i, 0, a, b, RC, D)
        if want > 0.0 and missing > 0.0:
            kick_along(i, 0, missing * RC[i, R_MASS], a, b, RC, D, P)
    for k in range(bodies):
        if P[BL[k], INV_MASS] > 0.0:
            turn_body(BL[k], 1.0, S, D, P)
    return 0


@kernel
def _is_at_rest(bodies, BL, S, P, CROWD, cfg):
    """Whether every body of an island has been slow for long enough and nothing drives it."""
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] >= KINEMATIC_BODY:
            for c in range(7, 13):
                if S[b, c] != 0.0:
                    return False
        if P[b, INV_MASS] > 0.0 and CROWD[0, b] < cfg[CFG_REST_STEPS]:
            return False
    return True


@far(
    WHOLE, REAL, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS1,
    REALS3, REALS2, REALS2, WHOLES2, WHOLES2, REALS1, WHOLES1,
)
def stepped_island(t0, dt, bodies, BL, count, PL, first, S, P, scene, ws, cw, times, out, clog, plog, PS, CROWD, cfg, status):
    """Carry an island over a step. Returns the sample reached."""
    RC, RB, IW, CK, CC = reals(cw, CW_RC), wholes(cw, CW_RB), reals(cw, CW_IW), wholes(cw, CW_CK), reals(cw, CW_CC)
    KT, X, E = reals(scene, SC_KEYS), reals(ws, WS_X), reals(ws, WS_E)
    substeps = int(cfg[CFG_SUBSTEPS])
    h = dt / substeps
    verlet = cfg[CFG_INTEGRATOR] == VERLET
    half = 0.5 * h if verlet else h
    late, touch = cfg[CFG_FIND_LATE] != 0.0, cfg[CFG_TOUCH]
    for sub in range(substeps):
        now = t0 + sub * h
        status[ST_STEPS] += 1
        for k in range(bodies):
            b = BL[k]
            if P[b, MOTION] == KINEMATIC_BODY:
                lead(b, now, S, P, KT)
            for c in range(16):
                X[b, c] = S[b, c]
        resting = cfg[CFG_REST_STEPS] > 0.0 and _is_at_rest(bodies, BL, S, P, CROWD, cfg)
        if resting:
            for k in range(bodies):
                if P[BL[k], INV_MASS] > 0.0:
                    for c in range(7, 13):
                        S[BL[k], c] = 0.0
        else:
            n = 0
            if not late:
                n = find_points(count, PL, touch, h, S, P, scene, ws, RC, RB, IW, CK, CC)
            _kick(now, half, sub == 0, bodies, BL, S, P, IW, KT, cfg)
            if not late:
                _solve(now, h, n, True, bodies, BL, count, PL, S, P, scene, ws, cw, clog, plog, PS, cfg, status)
            for k in range(bodies):
                b = BL[k]
                for c in range(7, 13):
                    if cfg[CFG_INTEGRATOR] == EXPLICIT:
                        E[b, c] = X[b, c]
                    elif cfg[CFG_INTEGRATOR] == MIDPOINT:
                        E[b, c] = 0.5 * (X[b, c] + S[b, c])
                    else:
                        E[b, c] = S[b, c]
            left, cuts = h, 4 * count + 4
            while cfg[CFG_TIMED] != 0.0 and cuts > 0 and status[ST_CODE] == OK:
                cuts -= 1
                s = _first_closing(left, touch, count, PL, S, P, scene, ws)
                if s > left:
                    break
                _move_all(s, bodies, BL, S, P, ws)
                left -= s
                remember(n, h, RC, RB, CK, CC, count, PL)
                n = find_points(count, PL, touch, h, S, P, scene, ws, RC, RB, IW, CK, CC)
                _solve(now + h - left, h, n, True, bodies, BL, count, PL, S, P, scene, ws, cw, clog, plog, PS, cfg, status)
                for k in range(bodies):
                    b = BL[k]
                    for c in range(7, 13):
                        if S[b, c] != reals(ws, WS_U)[b, c]:
                            E[b, c] = S[b, c]
            _move_all(left, bodies, BL, S, P, ws)
            for i in range(n):
                RC[i, R_SEP] += left * speed_along(i, 0, RB[i, 0], RB[i, 1], RC, E)
            if verlet:
                _kick(now + half, half, False, bodies, BL, S, P, IW, KT, cfg)
                if not late and n > 0:
                    _solve(now + h, h, n, False, bodies, BL, count, PL, S, P, scene, ws, cw, clog, plog, PS, cfg, status)
            for k in range(bodies):
                if P[BL[k], MOTION] == KINEMATIC_BODY:
                    lead(BL[k], now + h, S, P, KT)
            if late:
                n = find_points(count, PL, touch, h, S, P, scene, ws, RC, RB, IW, CK, CC)
                _solve(now + h, h, n, True, bodies, BL, count, PL, S, P, scene, ws, cw, clog, plog, PS, cfg, status)
            remember(n, h, RC, RB, CK, CC, count, PL)
            if cfg[CFG_REPAIR] > 0.0 and n > 0:
                _repair(n, h, bodies, BL, S, P, ws, cw, cfg)
            if status[ST_CODE] != OK:
                return first
        for k in range(bodies):
            b = BL[k]
            if P[b, INV_MASS] > 0.0:
                v, w = 0.0, 0.0
                for c in range(3):
                    v += S[b, 7 + c] ** 2
                    w += S[b, 10 + c] ** 2
                slow = v <= cfg[CFG_REST_SPEED] ** 2 and w <= cfg[CFG_REST_SPIN] ** 2
                CROWD[0, b] = CROWD[0, b] + 1 if slow else 0
        end = now + h
        while first < times.shape[0] and times[first] <= end + 1e-12:
            sample_between(first, 1.0 - (end - times[first]) / h, bodies, BL, S, P, X, out)
            first += 1
    return first
