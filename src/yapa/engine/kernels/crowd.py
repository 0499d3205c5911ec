"""The soft-contact regime, one island over a piece of time: overlap correction by implicit springs, small substeps, bounded work,
never a hang.

A piece finds the contact points once (persistent by their feature numbers, warm-started), then in
every substep: forces; a biased pass (friction, then normal); places; a relaxing pass without bias,
so that pushing out leaves no speed behind. A point apart by s > 0 may close no faster than s/h; one
that overlaps is a damped spring of frequency f and damping ratio ζ taken implicitly,

    ω = 2πf,  c = hω(2ζ + hω):  impulse scale 1/(1+c), mass scale c/(1+c), bias rate ω/(2ζ + hω)

(Catto's soft constraints, from Baraff's and Lacoursière's regularised ones; sequential impulses are
projected Gauss-Seidel). Restitution follows once at the end for points that came to be pressed, with
the approach speed noted before. Energy is guarded per island: where kinetic and potential energy
together have grown, speeds are scaled back (not where something driven touches the island), about the island's own
rigid motion where it touches nothing fixed.

The arms of a point are those of the start of its substep in both passes.
"""

from math import pi, sqrt

from yapa.engine.kernels.energy import island_energy, take_energy, unlocked
from yapa.engine.kernels.flight import decay_factors, lead
from yapa.engine.kernels.impulses import (
    drive,
    give_again,
    lay_rows,
    log_point,
    note_slip,
    press,
    resist,
    rub,
    sample_between,
    slip_speed,
    speed_along,
    tumble,
)
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    CFG_CROWD_BOUNCED,
    CFG_CROWD_GIVEN,
    CFG_CUTOFF,
    CFG_DEEP,
    CFG_DEEP_A,
    CFG_DEEP_AT,
    CFG_DEEP_B,
    CFG_GX,
    CFG_MIN_IMPACT,
    CFG_WX,
    CW_CC,
    CW_CK,
    CW_IW,
    CW_RB,
    CW_RC,
    DRAG,
    GRAVITY,
    IM,
    INV_MASS,
    KINEMATIC_BODY,
    LIN_DAMP,
    LOG_FULL,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    MOTION,
    PUSHED_BODY,
    Q_LAW,
    SC_KEYS,
    SC_LAW,
    SC_Q,
    ST_CODE,
    THIN,
    WS_U,
    WS_X,
)
from yapa.engine.kernels.material import effective_restitution
from yapa.engine.kernels.phases import change_mode
from yapa.engine.kernels.points import (
    R_APPROACH,
    R_BELT,
    R_LN,
    R_LS,
    R_LT,
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
from yapa.engine.kernels.views import reals, wholes

DAMPING_RATIO = 10.0
PUSH_OUT = 3.0
"""m/s: overlap is pushed out no faster."""
ROUNDING = 1e-14
"""Share of an island's energy that is rounding, not gain."""
QUIET = 1e-6
"""An island whose motion is less than this share of what its overlaps hold only settles; it is left alone."""
DEEP, DEEP_SHARE = 1e-3, 0.01
"""m, and a share of the smaller body's least dimension: overlaps of more than both are told."""
SPECULATIVE = 1e-3
"""m: points this near are held from closing in."""


@far(WHOLE, REAL, REAL, WHOLE, WHOLES1, REALS2, REALS2, REALS2, REALS1, REALS2)
def _forces(h, t, bodies, BL, S, P, KT, cfg, IW):
    for k in range(bodies):
        b = BL[k]
        if P[b, INV_MASS] == 0.0:
            continue
        world_inverse(b, S, P, IW)
        g = P[b, GRAVITY]
        decay, first, _ = decay_factors(P[b, LIN_DAMP], h)
        ux, uy, uz = S[b, 7] - cfg[CFG_WX], S[b, 8] - cfg[CFG_WX + 1], S[b, 9] - cfg[CFG_WX + 2]
        drag = P[b, DRAG] * P[b, INV_MASS] * sqrt(ux * ux + uy * uy + uz * uz)
        slow = 1.0 / (1.0 + h * drag)
        for c in range(3):
            if P[b, IM + c] > 0.0:
                wind = cfg[CFG_WX + c]
                v = S[b, 7 + c] * decay + first * g * cfg[CFG_GX + c]
                S[b, 7 + c] = wind + (v - wind) * slow if drag > 0.0 else v
        if P[b, ANG_DAMP] > 0.0:
            turn, _, _ = decay_factors(P[b, ANG_DAMP], h)
            for c in range(10, 13):
                S[b, c] *= turn
        if P[b, MOTION] == PUSHED_BODY:
            drive(b, h, t, S, P, KT)
    return 0


@far(WHOLE, WHOLE, REAL, REAL, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS2, REALS1)
def _substep(n, h, soft, RC, RB, S, P, scene, IW, cfg):
    """The biased pass of a substep, from forces that have acted to velocities that places move with.

    Contacts are as stiff as suits substeps of length ``soft``: a shorter one that were stiffer would lift what has sagged."""
    LW, Q = reals(scene, SC_LAW), wholes(scene, SC_Q)
    omega = 2.0 * pi * 0.125 / soft
    c = h * omega * (2.0 * DAMPING_RATIO + h * omega)
    rate = omega / (2.0 * DAMPING_RATIO + h * omega)
    for i in range(n):
        law = LW[Q[RB[i, 2], Q_LAW]]
        if RC[i, R_REFF] > 0.0:
            resist(i, law, RC, RB, S, IW)
        rub(i, law, RC, RB, S, P)
    for i in range(n):
        s = RC[i, R_SEP]
        if s > 0.0:
            press(i, s / h, 1.0, 0.0, RC, RB, S, P)
        else:
            press(i, max(rate * s, -PUSH_OUT), c / (1.0 + c), 1.0 / (1.0 + c), RC, RB, S, P)
    for i in range(n):
        RC[i, R_SEP] += h * speed_along(i, 0, RB[i, 0], RB[i, 1], RC, S)
    return 0


@far(WHOLE, WHOLE, REAL, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS2)
def _relax(n, h, RC, RB, S, P, scene, IW):
    """The pass without bias, friction last; and what the points' state is then."""
    LW, Q = reals(scene, SC_LAW), wholes(scene, SC_Q)
    for i in range(n):
        press(i, max(RC[i, R_SEP], 0.0) / h, 1.0, 0.0, RC, RB, S, P)
    for i in range(n):
        law = LW[Q[RB[i, 2], Q_LAW]]
        if RC[i, R_REFF] > 0.0:
            resist(i, law, RC, RB, S, IW)
        rub(i, law, RC, RB, S, P)
    for i in range(n):
        if RC[i, R_LN] > 0.0:
            RC[i, R_MOST] = max(RC[i, R_MOST], RC[i, R_LN])
            RC[i, R_TOTAL] += RC[i, R_LN]
            RC[i, R_RUB] += sqrt(RC[i, R_LT] ** 2 + RC[i, R_LS] ** 2)
        note_slip(i, LW[Q[RB[i, 2], Q_LAW]], RC, RB, S)
    return 0


@far(FLAG, WHOLE, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS1)
def _bounce(n, RC, RB, S, P, scene, cfg):
    """Restitution for the points that came to be pressed."""
    LW, Q = reals(scene, SC_LAW), wholes(scene, SC_Q)
    any_bounce = False
    for _ in range(4):
        for i in range(n):
            if RC[i, R_MOST] == 0.0 or RC[i, R_APPROACH] >= -cfg[CFG_CUTOFF]:
                continue
            e = effective_restitution(LW[Q[RB[i, 2], Q_LAW]], -RC[i, R_APPROACH], cfg[CFG_CUTOFF])
            if e == 0.0:
                continue
            any_bounce = True
            press(i, e * RC[i, R_APPROACH], 1.0, 0.0, RC, RB, S, P)
    return any_bounce


@far(
    WHOLE, REAL, WHOLE, WHOLE, WHOLES1, REALS2, REALS2, REALS2, WHOLES1, REALS2, WHOLES2, REALS2, REALS2, WHOLES2,
    REALS1, WHOLES1,
)
def _tell(now, n, count, PL, S, U, P, scene, RC, RB, clog, plog, PS, cfg, status):
    """Write the contact and phase logs of a piece. Returns the number of pressed points."""
    Q = wholes(scene, SC_Q)
    pressed = 0
    i = 0
    for k in range(count):
        p = PL[k]
        mode, at, best = MODE_NONE, 0, 0.0
        while i < n and RB[i, 2] == p:
            if RC[i, R_MOST] > 0.0:
                if RC[i, R_LN] > 0.0:
                    pressed += 1
                    if mode == MODE_NONE or RC[i, R_STICK] == 0.0:
                        mode, at = (MODE_SLIP if RC[i, R_STICK] == 0.0 else MODE_GRIP), i
                if RC[i, R_APPROACH] < best:
                    best, at = RC[i, R_APPROACH], i
            i += 1
        if best < -cfg[CFG_MIN_IMPACT]:
            log_point(at, now, -best, n, S, U, RC, RB, clog, status)
            if status[ST_CODE] == LOG_FULL:
                return pressed
        change_mode(now, p, mode, RC[at, 0], RC[at, 1], RC[at, 2], S, Q, PS, plog, status)
        if status[ST_CODE] == LOG_FULL:
            return pressed
    return pressed


@kernel
def _sound(now, n, RC, RB, P, cfg):
    """Note the greatest overlap of the run, if it is more than contacts that are soft should have."""
    for i in range(n):
        depth = -RC[i, R_SEP]
        if depth <= max(cfg[CFG_DEEP], DEEP):
            continue
        least = 1e300
        for side in range(2):
            thin = P[RB[i, side], THIN]
            least = min(least, 2.0 * thin) if thin > 0.0 else least
        if depth > DEEP_SHARE * least:
            cfg[CFG_DEEP], cfg[CFG_DEEP_AT], cfg[CFG_DEEP_A], cfg[CFG_DEEP_B] = depth, now, RB[i, 0], RB[i, 1]


@kernel
def _elastic(n, h, RC):
    """Energy held in the overlaps of pressed points, ½ force × overlap."""
    total = 0.0
    for i in range(n):
        if RC[i, R_LN] > 0.0:
            total -= 0.5 * RC[i, R_LN] / h * min(RC[i, R_SEP], 0.0)
    return total


@kernel
def _touches_fixed(n, RC, RB, P):
    """Whether a point of something without mass has been pressed in this piece."""
    for i in range(n):
        if RC[i, R_MOST] > 0.0 and (P[RB[i, 0], INV_MASS] == 0.0 or P[RB[i, 1], INV_MASS] == 0.0):
            return True
    return False


@kernel
def _tame(energy, n, h, loose, bodies, BL, RC, RB, S, P, cfg):
    """Take from an island what it has gained. Returns the energy it has then."""
    after, kinetic = island_energy(bodies, BL, S, P, cfg)
    if after <= energy + ROUNDING * (abs(energy) + kinetic):
        return after
    free = loose and not _touches_fixed(n, RC, RB, P)
    return after - take_energy(after - energy, QUIET * _elastic(n, h, RC), kinetic, free, bodies, BL, S, P)


@far(
    (WHOLE, WHOLE), REAL, REAL, WHOLE, REAL, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1,
    REALS1, WHOLE, REALS3, REALS2, REALS2, WHOLES2, REALS1, WHOLES1,
)
def crowd_piece(t, dt, substeps, soft, margin, bodies, BL, count, PL, S, P, scene, ws, cw, times, first, out, clog, plog, PS, cfg,
                status):
    """Carry an island over ``dt``, contacts no stiffer than for substeps of length ``soft``.

    Returns the sample reached and the number of points that are pressed."""
    RC, RB, IW, CK, CC = reals(cw, CW_RC), wholes(cw, CW_RB), reals(cw, CW_IW), wholes(cw, CW_CK), reals(cw, CW_CC)
    KT, U = reals(scene, SC_KEYS), reals(ws, WS_U)
    h = dt / substeps
    driven = False
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] >= KINEMATIC_BODY:
            driven = True
            if P[b, MOTION] == KINEMATIC_BODY:
                lead(b, t, S, P, KT)
        world_inverse(b, S, P, IW)
        for c in range(16):
            U[b, c] = S[b, c]
    n = find_points(count, PL, margin, h, S, P, scene, ws, RC, RB, IW, CK, CC)
    for i in range(n):
        b = RB[i, 1]
        if RC[i, R_BELT + 1] != 0.0 or RC[i, R_BELT + 2] != 0.0:
            driven = True
        world_inverse(b, S, P, IW)
    energy, _ = island_energy(bodies, BL, S, P, cfg)
    loose = unlocked(bodies, BL, P)
    now = t
    for sub in range(substeps):
        for k in range(bodies):
            for c in range(16):
                reals(ws, WS_X)[BL[k], c] = S[BL[k], c]
        _forces(h, now, bodies, BL, S, P, KT, cfg, IW)
        lay_rows(n, RC, RB, S, P, IW)
        for i in range(n):
            if RC[i, R_MOST] == 0.0 and RC[i, R_LN] == 0.0:
                RC[i, R_APPROACH] = min(speed_along(i, 0, RB[i, 0], RB[i, 1], RC, S), 0.0)
                if RC[i, R_APPROACH] < -cfg[CFG_MIN_IMPACT]:
                    RC[i, R_SLIP] = slip_speed(i, RC, RB, S)
        give_again(n, RC, RB, S, P, IW)
        _substep(n, h, max(h, soft), RC, RB, S, P, scene, IW, cfg)
        for k in range(bodies):
            b = BL[k]
            if P[b, INV_MASS] > 0.0:
                tumble(b, h, S, P)
            elif P[b, MOTION] == KINEMATIC_BODY:
                lead(b, now + h, S, P, KT)
        now = t + (sub + 1) * h
        if n > 0:
            _relax(n, h, RC, RB, S, P, scene, IW)
        if not driven:
            energy = _tame(energy, n, h, loose, bodies, BL, RC, RB, S, P, cfg)
        until = now if sub + 1 < substeps else now - 1e-9 * dt  # the very end is read after what follows
        while first < times.shape[0] and times[first] <= until:
            sample_between(first, 1.0 - (now - times[first]) / h, bodies, BL, S, P, reals(ws, WS_X), out)
            first += 1
    if _bounce(n, RC, RB, S, P, scene, cfg):
        cfg[CFG_CROWD_BOUNCED] = 1.0
    if not driven:
        _tame(energy, n, h, loose, bodies, BL, RC, RB, S, P, cfg)
    while first < times.shape[0] and times[first] <= now:
        for k in range(bodies):
            if P[BL[k], MOTION] != 0.0:
                for c in range(16):
                    out[first, BL[k], c] = S[BL[k], c]
        first += 1
    if driven:
        cfg[CFG_CROWD_GIVEN] = 1.0
    _sound(now, n, RC, RB, P, cfg)
    remember(n, h, RC, RB, CK, CC, count, PL)
    pressed = _tell(now, n, count, PL, S, U, P, scene, RC, RB, clog, plog, PS, cfg, status)
    return first, pressed
