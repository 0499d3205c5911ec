"""The event-driven regime, one island from one time to another: hold what is held, fly the rest, stop at the first
meeting, resolve it.

A substep ends at the longest step allowed, at the end asked for, where a slip or a rolling stops,
or where two shapes meet; the next one starts there, so no grid of times shapes the motion. Samples
are read off the dense output. An island that makes no headway (too many meetings, contacts that do
not solve, a held pair that sinks in) says so and is finished by ``crowd``.
"""


from yapa.engine.kernels.contact.impact_solver import LOST, MOST_IMPACTS, SWARMS, resolve_impacts
from yapa.engine.kernels.contact.phase_log import follow_modes
from yapa.engine.kernels.dynamics.energy import island_energy, take_energy, unlocked
from yapa.engine.kernels.dynamics.flight import lead, place_at, spin_at, step_limit, turn_at
from yapa.engine.kernels.dynamics.forces import gravity, more
from yapa.engine.kernels.geometry.manifold import gap_of_pair
from yapa.engine.kernels.geometry.narrow_phase import far_apart, watch_side
from yapa.engine.kernels.geometry.time_of_impact import fastest, first_meeting
from yapa.engine.kernels.jit import REAL, REALS1, REALS2, REALS3, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    body,
    config,
    contact,
    contact_int,
    contact_mode,
    dense,
    limits,
    motion_kind,
    pair,
    pair_kind,
    run_code,
    run_status,
    scene_table,
    slip_state,
    soft_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.simd import sample_fours
from yapa.engine.kernels.regimes.persistent_contact import (
    WANDERS,
    advance_all,
    bends,
    crossing,
    gather,
    hold,
    keep_forces,
    leans,
    parting,
    rescale,
    settle,
)

FINISHED, CROWDED = 0, 1
NO_LIFT = 1e-7
"""What lifting a rim that a substep lets sink may take, as a share of lifting the island by its own size."""
FLIGHT = 4.0
"""Round bodies above planes that stand fly up to so many times the longest step at once: nothing else can be met."""
NO_ENERGY, NO_GAIN = 1e-8, 1e-10
"""What a substep may gain before it is cut, and before it is taken back: shares of the motion and of lifting by the own size."""
BENT, STRAIGHTER = 1e-3, 1e-4
"""A slip or a rolling that turns by more in a substep asks for short ones, and by less in a short one for long ones [rad]."""
NO_PULL = 1e-12
"""m/s²: what is pulled together by less is not pressed."""
CREEPING, SLOWEST = 500, 6e-6
"""So many substeps with contacts may not bring less time than this each [s]."""
CLUSTER, SPACE = 8, 8.0
"""After so many impacts in an outer step the next is looked for in at most so many times what the one before took."""
SUNK = -2e-7
"""m: a held pair of polytopes that gets deeper than this has more to it than its held points."""


@kernel
def sample(t, h, bodies, BL, S, P, ws, times, first, out, lean):
    """Write the samples of moving bodies that fall into (t, t + h]; those that rest were laid out by the host."""
    D = reals(ws, workspace_table.DENSE)
    end = t + h
    while first < times.shape[0] and times[first] <= t and t > 0.0:
        first += 1
    if first == times.shape[0] or times[first] > end:
        return first
    last = first
    for n in range(bodies):
        b = BL[n]
        if P[b, body.MOTION] == 0.0:
            continue
        ball = lean and P[b, body.BALL] != 0.0
        if ball and P[b, body.ANG_DAMP] == 0.0:
            last = sample_fours(D, S, b, 1.0 / P[b, body.INERTIA], t, end, first, times, out)
            continue
        last = first
        while last < times.shape[0] and times[last] <= end:
            place_at(b, times[last] - t, D, out[last])
            if ball:
                spin_at(b, times[last] - t, S, P, D, out[last])
            else:
                turn_at(b, times[last] - t, S, P, D, out[last])
            last += 1
    while last < times.shape[0] and times[last] <= end:  # where nothing moves
        last += 1
    return last


@kernel
def _passes_needed(m, P, scene, CI):
    """At most: one is exact for undamped spheres that neither slip nor roll, on planes that stand; slip that may turn,
    rolling that is resisted, drag and damping need a few."""
    Q = wholes(scene, scene_table.PAIRS)
    passes = 1
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if p == limits.MOTOR:
            continue
        a = Q[p, pair.BODY_A]
        if Q[p, pair.KIND] != pair_kind.ROUND_PLANE or P[a, body.BALL] == 0.0 or P[Q[p, pair.BODY_B], body.MOTION] != 0.0:
            return WANDERS
        if (CI[i, contact_int.SLIPPING] == slip_state.SLIPS or CI[i, contact_int.ROLLING] == 1 or P[a, body.DRAG] > 0.0
            or P[a, body.LIN_DAMP] > 0.0 or P[a, body.ANG_DAMP] > 0.0):
            passes = 6
    return passes


@kernel
def _carry_energy(energy, least, free, bodies, BL, X, P, cfg):
    """Give an island this energy by its speeds, if it moves with more than ``least``."""
    now, kinetic = island_energy(bodies, BL, X, P, cfg)
    take_energy(now - energy, least, kinetic, free, bodies, BL, X, P)


@kernel
def _at_ease(m, CI, CF, P, cfg):
    """Whether nothing presses balls that touch: then no contact has a force, however many there are (a cradle in flight).

    The gap of two balls closes no faster than their centres come nearer along the normal, so it is enough to look at what pulls."""
    if more.ANY:
        return False
    for i in range(m):
        if CI[i, contact_int.PAIR] == limits.MOTOR:
            return False
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        for side in range(2):
            q = a if side == 0 else b
            if P[q, body.INV_MASS] > 0.0 and (P[q, body.BALL] == 0.0 or P[q, body.DRAG] > 0.0 or P[q, body.LIN_DAMP] > 0.0):
                return False
        nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
        if gravity.along(a, nx, ny, nz, P, cfg) - gravity.along(b, nx, ny, nz, P, cfg) < -NO_PULL:
            return False
    return True


@kernel
def _on_fixed(m, CI, P):
    """Whether a body without mass carries an island."""
    for i in range(m):
        if (CI[i, contact_int.MODE] != contact_mode.NONE
            and (P[CI[i, contact_int.BODY_A], body.INV_MASS] == 0.0 or P[CI[i, contact_int.BODY_B], body.INV_MASS] == 0.0)):
            return True
    return False


@kernel
def _held(p, f, m, CI):
    for i in range(m):
        if (CI[i, contact_int.PAIR] == p and CI[i, contact_int.MODE] != contact_mode.NONE
            and (f < 0 or CI[i, contact_int.FEATURE] == f)):
            return True
    return False


@kernel
def _sunk_rim(m, X, scene, ws):
    """How deep the rims of held cylinders are in their planes [m]."""
    CI, Q = wholes(ws, workspace_table.CONTACTS_INT), wholes(scene, scene_table.PAIRS)
    deep, last = 0.0, -2
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if (p != limits.MOTOR and p != last and Q[p, pair.KIND] == pair_kind.RIM_PLANE
            and CI[i, contact_int.MODE] != contact_mode.NONE):
            last = p
            deep = max(deep, -gap_of_pair(p, X, scene, ws))
    return deep


@kernel
def _runs(m, CI, CF):
    """Whether a surface that runs gives the island energy."""
    for i in range(m):
        if (CI[i, contact_int.PAIR] != limits.MOTOR
            and (CF[i, contact.BELT] != 0.0 or CF[i, contact.BELT + 1] != 0.0 or CF[i, contact.BELT + 2] != 0.0)):
            return True
    return False


@kernel
def _sank(m, S, P, scene, ws):
    """Whether a held pair without features is deeper than it should be: a point that was not held came down."""
    from_pair = -2
    CI, Q = wholes(ws, workspace_table.CONTACTS_INT), wholes(scene, scene_table.PAIRS)
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if (p == limits.MOTOR or p == from_pair or Q[p, pair.KIND] != pair_kind.MANIFOLD
            or CI[i, contact_int.MODE] == contact_mode.NONE):
            continue
        from_pair = p
        if gap_of_pair(p, S, scene, ws) < SUNK:
            return True
    return False


@far(
    (WHOLE, REAL, WHOLE, WHOLE), REAL, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, WHOLE, WHOLE, WHOLE, WHOLE, REALS2, REALS2, WHOLES1,
    WHOLES1, WHOLES1, REALS1, REALS3, REALS2, REALS2, WHOLES2, REALS1, WHOLES1, WHOLES1,
)
def exact_island(t0, t1, bodies, BL, count, PL, budget, substeps, bearable, first, S, P, scene, ws, cw, times, out, clog, plog, PS,
                 cfg, status, cancel):
    """Carry an island from t0 to t1, within so many impacts and substeps an outer step and so much work: contacts squared, for
    each time that they are solved. Nothing bounds what neither presses nor loses energy, but a million impacts in an outer step.
    Returns FINISHED or CROWDED, the time, the sample and the work done."""
    Q, KT = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.KEYS)
    D, E = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END)
    CI, CF, CK, CC = (wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS),
                      wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES))
    t = t0
    lean = cfg[config.LEAN] != 0.0
    near = True  # whether anything may touch: not after a substep of free flight that met nothing
    m, idle, quiet, events, fresh = 0, 0, 0, 0, True
    held, since, work = 0, t0, 0
    pull = 0.0
    moving_keys, driven, bent, spacing = False, False, False, 0.0
    weight, heavy, before, given = 0.0, 0.0, 0.0, False
    for k in range(bodies):
        b = BL[k]
        pull = max(pull, 2.0 * gravity.bound(b, P, cfg))
        if more.ANY:
            pull = max(pull, 2.0 * (gravity.bound(b, P, cfg) + more.bound(b, S, P, cfg)))
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            moving_keys = True
        if P[b, body.MOTION] >= motion_kind.KINEMATIC:
            driven = True
        if P[b, body.INV_MASS] > 0.0:
            heavy += gravity.bound(b, P, cfg) / P[b, body.INV_MASS]
            weight += gravity.lift(b, P, cfg)
    open_air = not moving_keys and not more.ANY
    for k in range(count):
        open_air = open_air and Q[PL[k], pair.KIND] == pair_kind.ROUND_PLANE and P[Q[PL[k], pair.BODY_B], body.MOTION] == 0.0
    most, lossy, window = status[run_status.STEPS] + substeps, False, t0 + cfg[config.OUTER]
    while t < t1:
        if t >= window:  # a lone body's run is one call: what counts is an outer step
            events, lossy, window, most = 0, m > 0, t + cfg[config.OUTER], status[run_status.STEPS] + substeps
        if cancel[0] != 0:
            status[run_status.CODE] = run_code.CANCELLED
            return FINISHED, t, first, work
        status[run_status.STEPS] += 1
        if lossy and status[run_status.STEPS] > most:  # every event of one stops all: too many of them for so many bodies
            return CROWDED, t, first, work
        until = t1
        if more.ANY:
            cfg[config.NOW] = t
        if moving_keys:
            for k in range(bodies):
                if P[BL[k], body.MOTION] == motion_kind.KINEMATIC:
                    until = min(until, lead(BL[k], t, S, P, KT))
        for k in range(count):
            if Q[PL[k], pair.SIDE] != 0:
                watch_side(PL[k], S, scene, Q)
        hits = status[run_status.IMPACTS]
        if near:
            what = resolve_impacts(t, count, PL, S, P, scene, ws, clog, status, cfg, cancel)
            if what == SWARMS:
                return CROWDED, t, first, work
            if status[run_status.CODE] != run_code.OK:
                return FINISHED, t, first, work
            lossy = lossy or what == LOST
            events += status[run_status.IMPACTS] - hits
            if events > budget and lossy:
                return CROWDED, t, first, work
            if events > MOST_IMPACTS:
                status[run_status.CODE] = run_code.NO_END
                return FINISHED, t, first, work
        held_before = m > 0 or fresh
        fresh = False
        m = gather(t, count, PL, bodies, BL, S, P, scene, ws, cw) if near else 0
        if m > 0 and _at_ease(m, CI, CF, P, cfg):
            m = 0
        if m > limits.MAX_CONTACTS:
            return CROWDED, t, first, work
        if m > 0:
            lossy = True  # what presses
            held += 1
            if held == CREEPING:  # chatter: hardly any time goes by
                if t - since < CREEPING * SLOWEST:
                    return CROWDED, t, first, work
                held, since = 0, t
        h = min(cfg[config.STEP] if m > 0 or not open_air else FLIGHT * cfg[config.STEP], until - t)
        for k in range(bodies):
            b = BL[k]
            if P[b, body.INV_MASS] > 0.0:
                h = step_limit(b, S, P, cfg, h, m == 0)
                if P[b, body.BALL] == 0.0 and (P[b, body.LOCK] < 56.0):
                    h = min(h, cfg[config.CURVED_STEP])
        if events > CLUSTER and spacing > 0.0:
            h = min(h, SPACE * spacing)
        passes = _passes_needed(m, P, scene, CI)
        if passes == WANDERS or (bent and m > 0):
            h = min(h, cfg[config.CURVED_STEP])
        if until - t - h < 1e-9 * t1:
            h = until - t
        if m > 0:
            rescale(m, h, CF)
            error, taken = hold(m, bodies, BL, h, passes, False, S, P, scene, ws, cfg)
            work += taken * m * m
            for _ in range(60):
                cut = min(crossing(m, h, CI, CF), parting(m, h, CI, CF, CK, CC, Q))
                if h > cfg[config.CURVED_STEP] and bends(m, BENT, CI, CF):
                    cut = min(cut, cfg[config.CURVED_STEP])
                if cut >= h:
                    break
                rescale(m, cut / h, CF)
                h = cut
                error, taken = hold(m, bodies, BL, h, passes, True, S, P, scene, ws, cfg)
                work += taken * m * m
            bent = bends(m, STRAIGHTER, CI, CF)
            before, _ = island_energy(bodies, BL, S, P, cfg)
            given = driven or more.ANY or _runs(m, CI, CF)
            if passes == WANDERS and not given:  # a contact that wanders over its bodies: no substep may make energy
                sunk = _sunk_rim(m, S, scene, ws)  # what a crowd left sunk is not this substep's
                for _ in range(7):
                    after, kinetic = island_energy(bodies, BL, E, P, cfg)
                    sinks = _sunk_rim(m, E, scene, ws) - sunk
                    if after - before <= NO_ENERGY * (kinetic + weight) and sinks * heavy <= NO_LIFT * weight:
                        break
                    rescale(m, 0.5, CF)
                    h *= 0.5
                    error, taken = hold(m, bodies, BL, h, passes, True, S, P, scene, ws, cfg)
                    work += taken * m * m
            if leans(m, CI, CK):
                continue  # the substep once more
            if not error <= 1e-7:
                return CROWDED, t, first, work
        else:
            for k in range(bodies):
                for c in range(6):
                    D[BL[k], dense.FORCE + c] = 0.0
            advance_all(bodies, BL, h, S, P, ws, cfg)
        for k in range(bodies):
            b = BL[k]
            if (P[b, body.INV_MASS] > 0.0 and not abs(E[b, state.X]) + abs(E[b, state.Y]) + abs(E[b, state.Z])
                + abs(E[b, state.WX]) + abs(E[b, state.WY]) < 1e15):
                return CROWDED, t, first, work
        hit = h
        for k in range(count):
            p = PL[k]
            if Q[p, pair.KIND] == pair_kind.MANIFOLD:
                if m == 0 or not _held(p, -1, m, CI):
                    s = first_meeting(p, 0, hit, pull, S, P, scene, ws)
                    if s >= 0.0 and s < hit:
                        hit = s
                continue
            if Q[p, pair.FEATURES] > 1 and far_apart(p, 1.05 * fastest(p, hit, S, P, pull, Q) * hit + 1e-6, S, scene, Q):
                continue
            for f in range(Q[p, pair.FEATURES]):
                if m == 0 or not _held(p, f, m, CI):
                    s = first_meeting(p, f, hit, pull, S, P, scene, ws)
                    if s >= 0.0 and s < hit:
                        hit = s
        span = h
        if hit < h:
            if m > 0 and hit > 0.0 and passes > 1:
                rescale(m, hit / h, CF)
                span = hit
                _, taken = hold(m, bodies, BL, hit, passes, True, S, P, scene, ws, cfg)
                work += taken * m * m
            for k in range(bodies):
                b = BL[k]
                if P[b, body.MOTION] != 0.0:
                    place_at(b, hit, D, E)
                    if lean and P[b, body.BALL] != 0.0:
                        spin_at(b, hit, S, P, D, E)
                    else:
                        turn_at(b, hit, S, P, D, E)
        if m > 0 or held_before:
            follow_modes(t, span, m, count, PL, S, P, scene, CI, CF, PS, plog, status)
            if status[run_status.CODE] != run_code.OK:
                return FINISHED, t, first, work
        unread = first
        first = sample(t, hit, bodies, BL, S, P, ws, times, first, out, lean)
        if m > 0 or held_before:
            keep_forces(m, span, count, PL, CI, CF, CK, CC)
        still = m > 0 and not driven
        for k in range(bodies):
            b = BL[k]
            if P[b, body.MOTION] != 0.0:
                for c in range(state.COUNT):
                    if c < 7:
                        still = still and abs(E[b, c] - S[b, c]) <= limits.NO_CREEP
                    elif c < 13:
                        still = still and abs(E[b, c]) <= limits.NO_SPEED
                    S[b, c] = E[b, c]
        quiet = quiet + 1 if still else 0
        near = m > 0 or hit < h or moving_keys
        if m > 0:
            settle(m, S, P, scene, ws)
            if passes == WANDERS and not given:  # what a wobbling rim still gained is taken from its motion
                after, kinetic = island_energy(bodies, BL, S, P, cfg)
                free = not _on_fixed(m, CI, P) and unlocked(bodies, BL, P)
                if after - before > NO_GAIN * (kinetic + weight) and kinetic > 0.0:
                    _carry_energy(before, 0.0, free, bodies, BL, S, P, cfg)
                    after = before
                for k in range(unread, first):  # and between the ends motion is read with the energy that lies between theirs
                    _carry_energy(before + (after - before) * (times[k] - t) / hit, 1e-6 * weight, free, bodies, BL, out[k], P,
                                  cfg)
            for i in range(m):
                if (CI[i, contact_int.PAIR] != limits.MOTOR and Q[CI[i, contact_int.PAIR], pair.KIND] == pair_kind.MANIFOLD
                    and CI[i, contact_int.MODE] != contact_mode.NONE):
                    near = True
        spacing = hit if hit < h or spacing > 0.0 else 0.0
        idle = idle + 1 if hit < 1e-10 and (lossy or status[run_status.IMPACTS] == hits) else 0
        t = until if hit == h and until - t - h <= 0.0 else t + hit
        if quiet > 8:  # at rest: another step would change nothing
            while first < times.shape[0] and times[first] <= t1:
                for k in range(bodies):
                    if P[BL[k], body.MOTION] != 0.0:
                        for c in range(state.COUNT):
                            out[first, BL[k], c] = S[BL[k], c]
                first += 1
            return FINISHED, t1, first, work
        if idle > 40 or work > bearable or (m > 0 and _sank(m, S, P, scene, ws)):
            return CROWDED, t, first, work
    return FINISHED, t1, first, work
