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
together have grown by more than the work that is given to the island (of wind, belts, driven bodies, further forces and e > 1),
speeds are scaled back, about the island's own rigid motion where it touches nothing fixed. Of a kick the work is the kinetic energy
that it adds, m (v' - v) · (v + v')/2; of an impulse of something driven, J · v_s (see ``dynamics.work``).

The arms of a point are those of the start of its substep in both passes.
"""

from math import pi, sqrt

from yapa.engine.kernels.contact.contact_points import find_points, remember, world_inverse
from yapa.engine.kernels.contact.pair_law import effective_restitution
from yapa.engine.kernels.contact.phase_log import change_mode
from yapa.engine.kernels.contact.point_solver import (
    RELEASE_SPEED,
    drive,
    give_again,
    log_point,
    note_slip,
    pair_holds,
    prepare_points,
    press,
    resist,
    rub,
    slip_speed,
    speed_along,
    tumble,
)
from yapa.engine.kernels.dynamics.energy import body_energy, island_energy, take_energy, unlocked
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.dynamics.forces import drag, gravity, more
from yapa.engine.kernels.dynamics.forces.damping import decay_factors
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    bodies_of,
    config_of,
    points_of,
    samples_of,
    scene_of,
    states_of,
    status_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    config,
    contact_mode,
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
from yapa.engine.kernels.math.vectors import ahead, carried, dot, times, vector
from yapa.engine.kernels.regimes.samples import sample_as_they_are, sample_between

DAMPING_RATIO = 10.0
PUSH_OUT = 3.0
"""m/s: overlap is pushed out no faster."""
ROUNDING = 1e-14
"""Share of an island's energy that is rounding, not gain."""
QUIET = 1e-6
"""An island whose motion is less than this share of what its overlaps hold only settles; it is left alone."""
DEEP, DEEP_SHARE = 1e-3, 0.01
"""m, and a share of the smaller body's least dimension: overlaps of more than both are told."""
FAST_SLIP = 0.05
"""m/s: what slips faster is let go in the midst of a piece."""
SPECULATIVE = 1e-3
"""m: points this near are held from closing in."""


@far(REAL, REAL, REAL, ISLAND, RUN, REALS2, REALS2)
def _forces(h, t, island, run, KT, IW):
    """Kicks by all forces over a substep. Returns the work that those without a potential give."""
    S, P, cfg = states_of(run), bodies_of(run), config_of(run)
    BL = island.BL
    bodies, given = BL.shape[0], 0.0
    windy = drag.is_windy(cfg)
    for k in range(bodies):
        b = BL[k]
        if P[b, body.INV_MASS] == 0.0:
            continue
        world_inverse(b, S, P, IW)
        decay, first, _ = decay_factors(P[b, body.LIN_DAMP], h)
        lost = drag.rate(b, S, P, cfg)
        slow = 1.0 / (1.0 + h * lost)
        if more.ANY:
            cfg[config.NOW] = t
            extra = more.acceleration(b, S, P, cfg)
            for c in range(3):
                if P[b, body.IM + c] > 0.0:
                    kick = h * extra[c]
                    given += kick * (S[b, state.VELOCITY + c] + 0.5 * kick) / P[b, body.INV_MASS]
                    S[b, state.VELOCITY + c] += kick
        blown = 0.0
        for c in range(3):
            if P[b, body.IM + c] > 0.0:
                wind = cfg[config.WIND + c]
                v = S[b, state.VELOCITY + c] * decay + gravity.kick(b, c, first, P, cfg)
                S[b, state.VELOCITY + c] = wind + (v - wind) * slow if lost > 0.0 else v
                blown += 0.5 * (S[b, state.VELOCITY + c] ** 2 - v * v)
        if windy:
            given += max(blown, 0.0) / P[b, body.INV_MASS]
        if P[b, body.ANG_DAMP] > 0.0:
            turn, _, _ = decay_factors(P[b, body.ANG_DAMP], h)
            for c in range(state.OMEGA, state.ROTATION):
                S[b, c] *= turn
        if P[b, body.MOTION] == motion_kind.PUSHED:
            was = body_energy(b, S, P)
            drive(b, h, t, S, P, KT)
            given += body_energy(b, S, P) - was
    return given


@far(REAL, WHOLE, REALS2, WHOLES2, REALS2, REALS2)
def _work_of_surfaces(n, RC, RB, S, P):
    """Work of a substep's impulses that belts and driven bodies give."""
    given = 0.0
    for i in range(n):
        a, b = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B]
        normal, along, across = RC[i, point.IMPULSE_N], RC[i, point.IMPULSE_T], RC[i, point.IMPULSE_S]
        given -= along * RC[i, point.BELT + 1] + across * RC[i, point.BELT + 2]
        if P[a, body.MOTION] != motion_kind.KINEMATIC and P[b, body.MOTION] != motion_kind.KINEMATIC:
            continue
        j = ahead(times(normal, vector(RC, i, point.N)), along, vector(RC, i, point.T))
        j, k = ahead(j, across, vector(RC, i, point.S)), vector(RC, i, point.IMPULSE_R)
        for side in range(2):
            q, arm, sign = (a, point.ARM_A, -1.0) if side == 0 else (b, point.ARM_B, 1.0)
            if P[q, body.MOTION] == motion_kind.KINEMATIC:
                spin = vector(S, q, state.OMEGA)
                given += sign * (dot(j, carried(vector(S, q, state.VELOCITY), spin, vector(RC, i, arm))) + dot(k, spin))
    return given


@far(WHOLE, WHOLE, REAL, REAL, REALS2, WHOLES2, RUN, REALS2)
def _substep(n, h, soft, RC, RB, run, IW):
    """The biased pass of a substep, from forces that have acted to velocities that places move with.

    Contacts are as stiff as suits substeps of length ``soft``: a shorter one that were stiffer would lift what has sagged."""
    S, P, scene = states_of(run), bodies_of(run), scene_of(run)
    LW, Q = reals(scene, scene_table.MATERIALS), wholes(scene, scene_table.PAIRS)
    omega = 2.0 * pi * 0.125 / soft
    c = h * omega * (2.0 * DAMPING_RATIO + h * omega)
    rate = omega / (2.0 * DAMPING_RATIO + h * omega)
    for i in range(n):
        law = LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]]
        if RC[i, point.REFF] > 0.0:
            resist(i, law, RC, RB, S, IW)
        rub(i, law, RC, RB, S, P)
    for i in range(n):
        s = RC[i, point.SEPARATION]
        if s > 0.0:
            press(i, s / h, 1.0, 0.0, RC, RB, S, P)
        else:
            press(i, max(rate * s, -PUSH_OUT), c / (1.0 + c), 1.0 / (1.0 + c), RC, RB, S, P)
    for i in range(n):
        RC[i, point.SEPARATION] += h * speed_along(i, 0, RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC, S)
    return 0


@far(WHOLE, WHOLE, REAL, FLAG, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS2)
def _relax(n, h, last, RC, RB, S, P, scene, IW):
    """The pass without bias, friction last; and what the points did.

    What grips is let go late in a piece, or where it slips fast: at its start normal forces still grow."""
    LW, Q = reals(scene, scene_table.MATERIALS), wholes(scene, scene_table.PAIRS)
    for i in range(n):
        press(i, max(RC[i, point.SEPARATION], 0.0) / h, 1.0, 0.0, RC, RB, S, P)
    for i in range(n):
        law = LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]]
        if RC[i, point.REFF] > 0.0:
            resist(i, law, RC, RB, S, IW)
        rub(i, law, RC, RB, S, P)
    holds = False
    for i in range(n):
        if i == 0 or RB[i, point_int.PAIR] != RB[i - 1, point_int.PAIR]:
            holds = pair_holds(i, n, LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]], RC, RB)
        if RC[i, point.IMPULSE_N] > 0.0:
            RC[i, point.PEAK_IMPULSE] = max(RC[i, point.PEAK_IMPULSE], RC[i, point.IMPULSE_N])
            RC[i, point.TOTAL] += RC[i, point.IMPULSE_N]
            RC[i, point.RUB] += sqrt(RC[i, point.IMPULSE_T] ** 2 + RC[i, point.IMPULSE_S] ** 2)
        law = LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]]
        note_slip(i, law, holds, RELEASE_SPEED if last else FAST_SLIP, RC, RB, S)
    return 0


@far((FLAG, REAL), WHOLE, REALS2, WHOLES2, REALS2, REALS2, WHOLES1, REALS1)
def _bounce(n, RC, RB, S, P, scene, cfg):
    """Restitution for the points that came to be pressed. Returns whether any did, and the energy that e > 1 gives."""
    LW, Q = reals(scene, scene_table.MATERIALS), wholes(scene, scene_table.PAIRS)
    any_bounce, given = False, 0.0
    for _ in range(4):
        for i in range(n):
            if RC[i, point.PEAK_IMPULSE] == 0.0 or RC[i, point.APPROACH] >= -cfg[config.CUTOFF]:
                continue
            e = effective_restitution(LW[Q[RB[i, point_int.PAIR], pair.MATERIAL]], -RC[i, point.APPROACH], cfg[config.CUTOFF])
            if e == 0.0:
                continue
            any_bounce = True
            a, b, had = RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC[i, point.IMPULSE_N]
            closing = speed_along(i, 0, a, b, RC, S)
            press(i, e * RC[i, point.APPROACH], 1.0, 0.0, RC, RB, S, P)
            if e > 1.0:
                pushed = RC[i, point.IMPULSE_N] - had
                given += max(0.5 * pushed * (closing + speed_along(i, 0, a, b, RC, S)), 0.0)
    return any_bounce, given


@far(
    WHOLE, REAL, WHOLE, ISLAND, RUN, REALS2, REALS2, WHOLES2,
)
def _write_logs(now, n, island, run, U, RC, RB):
    """Write the contact and phase logs of a piece. Returns the number of pressed points."""
    scene, cfg, status = scene_of(run), config_of(run), status_of(run)
    PL = island.PL
    count = PL.shape[0]
    Q = wholes(scene, scene_table.PAIRS)
    pressed = 0
    i = 0
    for k in range(count):
        p = PL[k]
        mode, at, best = contact_mode.NONE, 0, 0.0
        while i < n and RB[i, point_int.PAIR] == p:
            if RC[i, point.PEAK_IMPULSE] > 0.0:
                if RC[i, point.IMPULSE_N] > 0.0:
                    pressed += 1
                    if mode == contact_mode.NONE or RC[i, point.STICK] == 0.0:
                        mode, at = (contact_mode.SLIP if RC[i, point.STICK] == 0.0 else contact_mode.GRIP), i
                if RC[i, point.APPROACH] < best:
                    best, at = RC[i, point.APPROACH], i
            i += 1
        if best < -cfg[config.MIN_IMPACT]:
            log_point(at, now, -best, n, run, U, RC, RB)
            if status[run_status.CODE] == run_code.LOG_FULL:
                return pressed
        change_mode(now, p, mode, vector(RC, at, point.N), run, Q)
        if status[run_status.CODE] == run_code.LOG_FULL:
            return pressed
    return pressed


@kernel
def _sound(now, n, RC, RB, P, cfg):
    """Note the greatest overlap of the run, if it is more than contacts that are soft should have."""
    for i in range(n):
        depth = -RC[i, point.SEPARATION]
        if depth <= max(cfg[config.DEEP], DEEP):
            continue
        least = 1e300
        for side in range(2):
            thin = P[RB[i, side], body.THIN]
            least = min(least, 2.0 * thin) if thin > 0.0 else least
        if depth > DEEP_SHARE * least:
            cfg[config.DEEP], cfg[config.DEEP_AT], cfg[config.DEEP_A] = depth, now, RB[i, point_int.BODY_A]
            cfg[config.DEEP_B] = RB[i, point_int.BODY_B]


@kernel
def _elastic(n, h, RC):
    """Energy held in the overlaps of pressed points, ½ force × overlap."""
    total = 0.0
    for i in range(n):
        if RC[i, point.IMPULSE_N] > 0.0:
            total -= 0.5 * RC[i, point.IMPULSE_N] / h * min(RC[i, point.SEPARATION], 0.0)
    return total


@kernel
def _touches_fixed(n, RC, RB, P):
    """Whether a point of something without mass has been pressed in this piece."""
    for i in range(n):
        if (RC[i, point.PEAK_IMPULSE] > 0.0 and (P[RB[i, point_int.BODY_A], body.INV_MASS] == 0.0
                                         or P[RB[i, point_int.BODY_B], body.INV_MASS] == 0.0)):
            return True
    return False


@kernel
def _tame(energy, n, h, loose, island, RC, RB, run):
    """Take from an island what it has above ``energy``. Returns the energy it has then."""
    S, P, cfg = states_of(run), bodies_of(run), config_of(run)
    BL = island.BL
    bodies = BL.shape[0]
    after, kinetic = island_energy(bodies, BL, S, P, cfg)
    if after <= energy + ROUNDING * (abs(energy) + kinetic):
        return after
    free = loose and not _touches_fixed(n, RC, RB, P)
    return after - take_energy(after - energy, QUIET * _elastic(n, h, RC), kinetic, free, bodies, BL, S, P)


@part
def _begin(t, island, run, KT, U, IW):
    """Keep the states of before, and put driven bodies where their paths are."""
    S, P = states_of(run), bodies_of(run)
    for k in range(island.BL.shape[0]):
        b = island.BL[k]
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            lead(b, t, S, P, KT)
        world_inverse(b, S, P, IW)
        for c in range(state.COUNT):
            U[b, c] = S[b, c]


@part
def _note_approach(n, S, RC, RB, cfg):
    """How fast points come together that were not pressed before."""
    for i in range(n):
        if RC[i, point.PEAK_IMPULSE] == 0.0 and RC[i, point.IMPULSE_N] == 0.0:
            RC[i, point.APPROACH] = min(speed_along(i, 0, RB[i, point_int.BODY_A], RB[i, point_int.BODY_B], RC, S), 0.0)
            if RC[i, point.APPROACH] < -cfg[config.MIN_IMPACT]:
                RC[i, point.SLIP] = slip_speed(i, RC, RB, S)


@part
def _advance(now, h, BL, S, P, KT):
    """Move the bodies over a substep."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            tumble(b, h, S, P)
        elif P[b, body.MOTION] == motion_kind.KINEMATIC:
            lead(b, now + h, S, P, KT)


@far(
    (WHOLE, WHOLE), REAL, REAL, WHOLE, REAL, REAL, ISLAND, RUN, WHOLE,
)
def soft_contact_piece(t, dt, substeps, soft, margin, island, run, first):
    """Carry an island over ``dt``, contacts no stiffer than for substeps of length ``soft``.

    Returns the sample reached and the number of points that are pressed."""
    S, P, scene, ws, cw, times = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), times_of(run)
    out = samples_of(run)
    cfg = config_of(run)
    BL, PL = island.BL, island.PL
    bodies, count = BL.shape[0], PL.shape[0]
    RC, RB, IW = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT), reals(cw, soft_table.INVERSE_INERTIAS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    KT, U = reals(scene, scene_table.KEYS), reals(ws, workspace_table.BEFORE)
    h = dt / substeps
    _begin(t, island, run, KT, U, IW)
    n = find_points(island, margin, h, run)
    for i in range(n):
        world_inverse(RB[i, point_int.BODY_B], S, P, IW)
    energy, _ = island_energy(bodies, BL, S, P, cfg)
    work = 0.0
    loose = unlocked(bodies, BL, P)
    now = t
    for sub in range(substeps):
        for k in range(bodies):
            for c in range(state.COUNT):
                reals(ws, workspace_table.MIDDLE)[BL[k], c] = S[BL[k], c]
        given = _forces(h, now, island, run, KT, IW)
        prepare_points(n, RC, RB, S, P, IW)
        _note_approach(n, S, RC, RB, cfg)
        give_again(n, RC, RB, S, P, IW)
        _substep(n, h, max(h, soft), RC, RB, run, IW)
        _advance(now, h, BL, S, P, KT)
        now = t + (sub + 1) * h
        if n > 0:
            _relax(n, h, sub + 1 == substeps, RC, RB, S, P, scene, IW)
        given += _work_of_surfaces(n, RC, RB, S, P)
        work += given
        energy = _tame(energy + given, n, h, loose, island, RC, RB, run)
        until = now if sub + 1 < substeps else now - 1e-9 * dt  # the very end is read after what follows
        while first < times.shape[0] and times[first] <= until:
            sample_between(first, 1.0 - (now - times[first]) / h, bodies, BL, S, P, reals(ws, workspace_table.MIDDLE), out)
            first += 1
    bounced, given = _bounce(n, RC, RB, S, P, scene, cfg)
    if bounced:
        cfg[config.SOFT_BOUNCED] = 1.0
    _tame(energy + given, n, h, loose, island, RC, RB, run)
    first = sample_as_they_are(now, first, BL, S, P, times, out)
    cfg[config.SOFT_WORK] += work + given
    _sound(now, n, RC, RB, P, cfg)
    remember(n, h, RC, RB, CK, CC, count, PL)
    pressed = _write_logs(now, n, island, run, U, RC, RB)
    return first, pressed
