"""The event-driven regime, one island from one time to another: hold what is held, fly the rest, stop at the first
meeting, resolve it.

A substep ends at the longest step allowed, at the end asked for, where a slip or a rolling stops,
or where two shapes meet; the next one starts there, so no grid of times shapes the motion. Samples
are read off the dense output. An island that makes no headway (too many meetings, contacts that do
not solve, a held pair that sinks in) says so and is finished by ``soft_contact``.
"""


from yapa.engine.kernels.contact.impact_solver import LOST, MAX_IMPACTS, SWARMS, resolve_impacts
from yapa.engine.kernels.contact.phase_log import follow_modes
from yapa.engine.kernels.contact.point_solver import sample_as_they_are
from yapa.engine.kernels.dynamics.energy import island_energy, take_energy, unlocked
from yapa.engine.kernels.dynamics.flight import lead, place_at, spin_at, step_limit, turn_at
from yapa.engine.kernels.dynamics.forces import gravity, more
from yapa.engine.kernels.geometry.manifold import gap_of_pair
from yapa.engine.kernels.geometry.narrow_phase import far_apart, watch_side
from yapa.engine.kernels.geometry.pairs.traits import has_manifold, on_rim, round_on_plane
from yapa.engine.kernels.geometry.time_of_impact import fastest, first_meeting
from yapa.engine.kernels.handles import (
    ISLAND,
    RUN,
    bodies_of,
    cancel_of,
    config_of,
    points_of,
    samples_of,
    scene_of,
    states_of,
    status_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import REAL, WHOLE, far, kernel, part
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
from yapa.engine.kernels.math.vectors import ZERO, vector
from yapa.engine.kernels.regimes.persistent_contact import (
    WANDERS,
    advance_all,
    bends,
    crossing,
    gather,
    hold,
    keep_forces,
    needs_full_manifold,
    parting,
    rescale,
    settle,
)

FINISHED, CROWDED, GO, AGAIN = 0, 1, -1, -2
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


@part
def sample(t, h, BL, S, P, D, times, out, first, lean):
    """Write the samples of moving bodies that fall into (t, t + h]; those that rest were laid out by the host."""
    bodies, end = BL.shape[0], t + h
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


@part
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
        if not round_on_plane(Q[p, pair.KIND]) or P[a, body.BALL] == 0.0 or P[Q[p, pair.BODY_B], body.MOTION] != 0.0:
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


@part
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
        n = vector(CF, i, contact.NORMAL)
        if gravity.along(a, n, P, cfg) - gravity.along(b, n, P, cfg) < -NO_PULL:
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
        if (p != limits.MOTOR and p != last and on_rim(Q[p, pair.KIND])
            and CI[i, contact_int.MODE] != contact_mode.NONE):
            last = p
            deep = max(deep, -gap_of_pair(p, X, scene, ws))
    return deep


@kernel
def _runs(m, CI, CF):
    """Whether a surface that runs gives the island energy."""
    for i in range(m):
        if CI[i, contact_int.PAIR] != limits.MOTOR and vector(CF, i, contact.BELT) != ZERO:
            return True
    return False


@kernel
def _sank(m, S, P, scene, ws):
    """Whether a held pair without features is deeper than it should be: a point that was not held came down."""
    from_pair = -2
    CI, Q = wholes(ws, workspace_table.CONTACTS_INT), wholes(scene, scene_table.PAIRS)
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if (p == limits.MOTOR or p == from_pair or not has_manifold(Q[p, pair.KIND])
            or CI[i, contact_int.MODE] == contact_mode.NONE):
            continue
        from_pair = p
        if gap_of_pair(p, S, scene, ws) < SUNK:
            return True
    return False


@part
def _outlook(island, run):
    """What holds for an island all the time: a bound on what accelerates it, how heavy it is, the energy of lifting it by its own
    size, whether it meets what follows its path and whether something drives it, and whether it can meet standing planes only."""
    scene = scene_of(run)
    S, P, cfg, Q = states_of(run), bodies_of(run), config_of(run), wholes(scene, scene_table.PAIRS)
    pull, weight, heavy, moving_keys, driven = 0.0, 0.0, 0.0, False, False
    for k in range(island.BL.shape[0]):
        b = island.BL[k]
        pull = max(pull, 2.0 * more.whole_bound(b, S, P, cfg))
        if P[b, body.MOTION] == motion_kind.KINEMATIC:
            moving_keys = True
        if P[b, body.MOTION] >= motion_kind.KINEMATIC:
            driven = True
        if P[b, body.INV_MASS] > 0.0:
            heavy += gravity.bound(b, P, cfg) / P[b, body.INV_MASS]
            weight += gravity.lift(b, P, cfg)
    open_air = not moving_keys and not more.ANY
    for k in range(island.PL.shape[0]):
        p = island.PL[k]
        open_air = open_air and round_on_plane(Q[p, pair.KIND]) and P[Q[p, pair.BODY_B], body.MOTION] == 0.0
    return pull, weight, heavy, moving_keys, driven, open_air


@part
def _begin_substep(t, t1, moving_keys, island, S, P, scene, cfg):
    """Lay paths and sides of planes out for a substep. Returns when it must end at the latest: where a path has its next key."""
    Q, until = wholes(scene, scene_table.PAIRS), t1
    if more.ANY:
        cfg[config.NOW] = t
    if moving_keys:
        for k in range(island.BL.shape[0]):
            if P[island.BL[k], body.MOTION] == motion_kind.KINEMATIC:
                until = min(until, lead(island.BL[k], t, S, P, reals(scene, scene_table.KEYS)))
    for k in range(island.PL.shape[0]):
        if Q[island.PL[k], pair.SIDE] != 0:
            watch_side(island.PL[k], S, scene, Q)
    return until


@part
def _choose_step(m, h, bent, spacing, passes, BL, S, P, cfg):
    """The length of a substep of at most ``h``: what curves, turns or is resisted asks for short ones; after many impacts none
    reaches far."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.INV_MASS] > 0.0:
            h = step_limit(b, S, P, cfg, h, m == 0)
            if P[b, body.BALL] == 0.0 and (P[b, body.LOCK] < 56.0):
                h = min(h, cfg[config.CURVED_STEP])
    if spacing > 0.0:
        h = min(h, SPACE * spacing)
    if passes == WANDERS or (bent and m > 0):
        h = min(h, cfg[config.CURVED_STEP])
    return h


@part
def _hold_contacts(m, h, passes, island, run):
    """Solve what is held over a substep, cut where a slip or a rolling stops or turns, or a contact parts.

    Returns the length it was cut to, how far the law is missed, and the work: contacts squared, each time they were solved."""
    S, P, scene, ws, cw = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run)
    cfg, Q = config_of(run), wholes(scene, scene_table.PAIRS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    rescale(m, h, CF)
    error, taken = hold(m, island.BL, h, passes, False, S, P, scene, ws, cfg)
    work = taken * m * m
    for _ in range(60):
        cut = min(crossing(m, h, CI, CF), parting(m, h, CI, CF, CK, CC, Q))
        if h > cfg[config.CURVED_STEP] and bends(m, BENT, CI, CF):
            cut = min(cut, cfg[config.CURVED_STEP])
        if cut >= h:
            break
        rescale(m, cut / h, CF)
        h = cut
        error, taken = hold(m, island.BL, h, passes, True, S, P, scene, ws, cfg)
        work += taken * m * m
    return h, error, work


@part
def _shorten(m, h, passes, error, before, weight, heavy, island, run):
    """A contact that wanders over its bodies: halve the substep as long as it would make energy, or a rim sinks in.

    Returns its length, how far the law is missed, and the work."""
    scene, ws = scene_of(run), workspace_of(run)
    S, P, cfg, E = states_of(run), bodies_of(run), config_of(run), reals(ws, workspace_table.END)
    CF, work = reals(ws, workspace_table.CONTACTS), 0
    sunk = _sunk_rim(m, S, scene, ws)  # what a crowd left sunk is not this substep's
    for _ in range(7):
        after, kinetic = island_energy(island.BL.shape[0], island.BL, E, P, cfg)
        sinks = _sunk_rim(m, E, scene, ws) - sunk
        if after - before <= NO_ENERGY * (kinetic + weight) and sinks * heavy <= NO_LIFT * weight:
            break
        rescale(m, 0.5, CF)
        h *= 0.5
        error, taken = hold(m, island.BL, h, passes, True, S, P, scene, ws, cfg)
        work += taken * m * m
    return h, error, work


@part
def _fly(h, BL, D, S, P, ws, cfg):
    """A substep in which nothing is held."""
    for k in range(BL.shape[0]):
        for c in range(6):
            D[BL[k], dense.FORCE + c] = 0.0
    advance_all(BL.shape[0], BL, h, S, P, ws, cfg)


@part
def _is_wild(BL, E, P):
    """Whether a body has left all bounds."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if (P[b, body.INV_MASS] > 0.0 and not abs(E[b, state.X]) + abs(E[b, state.Y]) + abs(E[b, state.Z])
                + abs(E[b, state.WX]) + abs(E[b, state.WY]) < 1e15):
            return True
    return False


@part
def _time_of_impact(m, h, pull, PL, CI, S, P, scene, ws):
    """When the first of the pairs that are not held meets in a substep; its end where none does."""
    Q, hit = wholes(scene, scene_table.PAIRS), h
    for k in range(PL.shape[0]):
        p = PL[k]
        if has_manifold(Q[p, pair.KIND]):
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
    return hit


@part
def _end_at(hit, BL, S, P, D, E, cfg):
    """The states at a time inside the substep, as those of its end."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            place_at(b, hit, D, E)
            if cfg[config.LEAN] != 0.0 and P[b, body.BALL] != 0.0 and not more.ANY:
                spin_at(b, hit, S, P, D, E)
            else:
                turn_at(b, hit, S, P, D, E)


@part
def _accept(still, BL, S, E, P):
    """Take the end of a substep as the state. Returns whether nothing in it moved, where that was possible."""
    for k in range(BL.shape[0]):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            for c in range(state.COUNT):
                if c < state.VELOCITY:
                    still = still and abs(E[b, c] - S[b, c]) <= limits.NO_CREEP
                elif c < state.ROTATION:
                    still = still and abs(E[b, c]) <= limits.NO_SPEED
                S[b, c] = E[b, c]
    return still


@part
def _give_back(m, t, hit, before, weight, unread, first, island, run):
    """Take what a wobbling rim still gained from its motion; between the ends motion is read with the energy between theirs."""
    out, ws, times = samples_of(run), workspace_of(run), times_of(run)
    S, P, cfg, BL = states_of(run), bodies_of(run), config_of(run), island.BL
    after, kinetic = island_energy(BL.shape[0], BL, S, P, cfg)
    free = not _on_fixed(m, wholes(ws, workspace_table.CONTACTS_INT), P) and unlocked(BL.shape[0], BL, P)
    if after - before > NO_GAIN * (kinetic + weight) and kinetic > 0.0:
        _carry_energy(before, 0.0, free, BL.shape[0], BL, S, P, cfg)
        after = before
    for k in range(unread, first):
        share = before + (after - before) * (times[k] - t) / hit
        _carry_energy(share, 1e-6 * weight, free, BL.shape[0], BL, out[k], P, cfg)


@part
def _impacts_now(t, budget, events, lossy, island, run):
    """All impacts at this instant. Returns GO or how the island ends, the impacts so far, and whether one of them took energy."""
    S, P, scene, ws, cfg, status = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run), status_of(run)
    hits = status[run_status.IMPACTS]
    what = resolve_impacts(t, island.PL, S, P, scene, ws, status, cfg, run)
    if what == SWARMS:
        return CROWDED, events, lossy
    if status[run_status.CODE] != run_code.OK:
        return FINISHED, events, lossy
    lossy = lossy or what == LOST
    events += status[run_status.IMPACTS] - hits
    if events > budget and lossy:
        return CROWDED, events, lossy
    if events > MAX_IMPACTS:
        status[run_status.CODE] = run_code.NO_END
        return FINISHED, events, lossy
    return GO, events, lossy


@part
def _contacts_now(t, island, run):
    """Rows of what touches and stays; none of what lies at ease."""
    S, P, scene, ws, cw, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), config_of(run)
    m = gather(t, island, S, P, scene, ws, cw)
    if m > 0 and _at_ease(m, wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), P, cfg):
        return 0
    return m


@part
def _step_to(t, t1, until, m, open_air, bent, spacing, passes, island, run):
    """The length of the substep: what contacts or flight allow, or all that is left where that is hardly more."""
    S, P, cfg = states_of(run), bodies_of(run), config_of(run)
    h = min(cfg[config.STEP] if m > 0 or not open_air else FLIGHT * cfg[config.STEP], until - t)
    h = _choose_step(m, h, bent, spacing, passes, island.BL, S, P, cfg)
    return until - t if until - t - h < 1e-9 * t1 else h


@part
def _hold_substep(m, h, passes, weight, heavy, driven, island, run):
    """Carry held contacts over a substep.

    Returns GO, AGAIN (once more) or CROWDED; its length; whether forces turn in it; the energy before it; whether that is
    given any; the work."""
    S, P, ws, cw, cfg = states_of(run), bodies_of(run), workspace_of(run), points_of(run), config_of(run)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    h, error, work = _hold_contacts(m, h, passes, island, run)
    bent = bends(m, STRAIGHTER, CI, CF)
    before, _ = island_energy(island.BL.shape[0], island.BL, S, P, cfg)
    given = driven or more.ANY or _runs(m, CI, CF)
    if passes == WANDERS and not given:
        h, error, taken = _shorten(m, h, passes, error, before, weight, heavy, island, run)
        work += taken
    what = GO if error <= 1e-7 else CROWDED
    if needs_full_manifold(m, CI, wholes(cw, soft_table.PAIR_CACHES)):
        what = AGAIN
    return what, h, bent, before, given, work


@part
def _cut_at_meeting(m, h, pull, passes, island, run):
    """End a substep where two bodies first meet in it. Returns when that is, the span that forces act over, and the work."""
    S, P, scene, ws, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    hit, span, work = _time_of_impact(m, h, pull, island.PL, CI, S, P, scene, ws), h, 0
    if hit < h:
        if m > 0 and hit > 0.0 and passes > 1:
            rescale(m, hit / h, CF)
            span = hit
            _, taken = hold(m, island.BL, hit, passes, True, S, P, scene, ws, cfg)
            work = taken * m * m
        _end_at(hit, island.BL, S, P, reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END), cfg)
    return hit, span, work


@part
def _keep_contacts(m, span, island, run):
    """Keep what contacts did for the next substep."""
    ws, cw = workspace_of(run), points_of(run)
    keep_forces(m, span, island.PL.shape[0], island.PL, wholes(ws, workspace_table.CONTACTS_INT),
                reals(ws, workspace_table.CONTACTS), wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES))


@far((WHOLE, REAL, WHOLE, WHOLE), REAL, REAL, ISLAND, WHOLE, WHOLE, WHOLE, WHOLE, RUN)
def exact_island(t, t1, island, budget, substeps, bearable, first, run):
    """Carry an island from t to t1, within so many impacts and substeps an outer step and so much work: contacts squared, for
    each time that they are solved. Nothing bounds what neither presses nor loses energy, but a million impacts in an outer step.
    Returns FINISHED or CROWDED, the time, the sample and the work done."""
    cancel, times, out = cancel_of(run), times_of(run), samples_of(run)
    S, P, scene, ws, cfg, status = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run), status_of(run)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    D, E, BL = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END), island.BL
    pull, weight, heavy, moving_keys, driven, open_air = _outlook(island, run)
    near, fresh = True, True  # whether anything may touch: not after a substep of free flight that met nothing
    m, idle, quiet, events, held, since, work = 0, 0, 0, 0, 0, t, 0
    bent, spacing, before, given = False, 0.0, 0.0, False
    most, lossy, window = status[run_status.STEPS] + substeps, False, t + cfg[config.OUTER]
    while t < t1:
        if t >= window:  # a lone body's run is one call: what counts is an outer step
            events, lossy, window, most = 0, m > 0, t + cfg[config.OUTER], status[run_status.STEPS] + substeps
        if cancel[0] != 0:
            status[run_status.CODE] = run_code.CANCELLED
            return FINISHED, t, first, work
        status[run_status.STEPS] += 1
        if lossy and status[run_status.STEPS] > most:  # every event of one stops all: too many of them for so many bodies
            return CROWDED, t, first, work
        until = _begin_substep(t, t1, moving_keys, island, S, P, scene, cfg)
        hits, held_before = status[run_status.IMPACTS], m > 0 or fresh
        fresh, m = False, 0
        if near:
            what, events, lossy = _impacts_now(t, budget, events, lossy, island, run)
            if what != GO:
                return what, t, first, work
            m = _contacts_now(t, island, run)
        if m > limits.MAX_CONTACTS:
            return CROWDED, t, first, work
        if m > 0:
            lossy = True  # what presses
            held += 1
            if held == CREEPING:  # chatter: hardly any time goes by
                if t - since < CREEPING * SLOWEST:
                    return CROWDED, t, first, work
                held, since = 0, t

        # the substep: held contacts and the rest in flight, then the first meeting in it
        passes = _passes_needed(m, P, scene, CI)
        h = _step_to(t, t1, until, m, open_air, bent, spacing if events > CLUSTER else 0.0, passes, island, run)
        if m > 0:
            what, h, bent, before, given, taken = _hold_substep(m, h, passes, weight, heavy, driven, island, run)
            work += taken
            if what == AGAIN:
                continue
            if what == CROWDED:
                return CROWDED, t, first, work
        else:
            _fly(h, BL, D, S, P, ws, cfg)
        if _is_wild(BL, E, P):
            return CROWDED, t, first, work
        hit, span, taken = _cut_at_meeting(m, h, pull, passes, island, run)
        work += taken

        # accept it
        if m > 0 or held_before:
            follow_modes(t, span, m, island, run, CI, CF)
            if status[run_status.CODE] != run_code.OK:
                return FINISHED, t, first, work
        unread = first
        first = sample(t, hit, BL, S, P, D, times, out, first, cfg[config.LEAN] != 0.0)
        if m > 0 or held_before:
            _keep_contacts(m, span, island, run)
        quiet = quiet + 1 if _accept(m > 0 and not driven, BL, S, E, P) else 0
        near = m > 0 or hit < h or moving_keys
        if m > 0:
            settle(m, S, P, scene, ws)
            if passes == WANDERS and not given:
                _give_back(m, t, hit, before, weight, unread, first, island, run)
        spacing = hit if hit < h or spacing > 0.0 else 0.0
        idle = idle + 1 if hit < 1e-10 and (lossy or status[run_status.IMPACTS] == hits) else 0
        t = until if hit == h and until - t - h <= 0.0 else t + hit
        if quiet > 8:  # at rest: another step would change nothing
            return FINISHED, t1, sample_as_they_are(t1, first, BL, S, P, times, out), work
        if idle > 40 or work > bearable or (m > 0 and _sank(m, S, P, scene, ws)):
            return CROWDED, t, first, work
    return FINISHED, t1, first, work
