"""One substep of the event-driven regime, in the order it is taken: its length, what is held in it, where it is cut, its end.

It ends at the longest step allowed, where a slip or a rolling stops or turns, where a contact parts, or where two shapes first
meet. What must outlast a substep is noted in the island's row of ``progress``.
"""

from collections import namedtuple

from yapa.engine.kernels.dynamics.energy import island_energy, take_energy, unlocked
from yapa.engine.kernels.dynamics.flight import place_at, spin_at, step_limit, turn_at
from yapa.engine.kernels.dynamics.forces import more
from yapa.engine.kernels.dynamics.work import work_given
from yapa.engine.kernels.geometry.manifold import gap_of_pair
from yapa.engine.kernels.geometry.narrow_phase import far_apart
from yapa.engine.kernels.geometry.pairs.traits import has_manifold, on_rim, round_on_plane
from yapa.engine.kernels.geometry.time_of_impact import fastest, first_meeting
from yapa.engine.kernels.handles import (
    bodies_of,
    config_of,
    points_of,
    samples_of,
    scene_of,
    states_of,
    times_of,
    workspace_of,
)
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    body,
    config,
    contact_int,
    contact_mode,
    dense,
    limits,
    pair,
    progress,
    scene_table,
    slip_state,
    soft_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.regimes.directions import bends, crossing
from yapa.engine.kernels.regimes.persistent_contact import (
    WANDERS,
    advance_all,
    hold,
    keep_forces,
    needs_full_manifold,
    parting,
    rescale,
)

Outlook = namedtuple("Outlook", "pull weight heavy moving_keys driven open_air")
"""What holds for an island all the time: a bound on what accelerates it; the energy of lifting it by its own size; how heavy it is;
whether it meets what follows its path; whether something drives it; whether it can meet standing planes only."""
FINISHED, CROWDED, GO, AGAIN = 0, 1, -1, -2
NO_LIFT = 1e-7
"""What lifting a rim that a substep lets sink may take, as a share of lifting the island by its own size."""
FLIGHT = 4.0
"""Round bodies above planes that stand fly up to so many times the longest step at once: nothing else can be met."""
NO_ENERGY, NO_GAIN = 1e-8, 1e-10
"""What a substep may gain before it is cut, and before it is taken back: shares of the motion and of lifting by the own size."""
NO_WORK = 1e-4
"""Share of the work given to an island in a substep that it may gain besides: that work is known to second order."""
BENT, STRAIGHTER = 1e-3, 1e-4
"""A slip or a rolling that turns by more in a substep asks for short ones, and by less in a short one for long ones [rad]."""
CLUSTER, SPACE = 8, 8.0
"""After so many impacts in an outer step the next is looked for in at most so many times what the one before took."""
SUNK = -2e-7
"""m: a held pair of polytopes that gets deeper than this has more to it than its held points."""


@part
def passes_needed(m, P, scene, CI):
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
def step_to(t, t1, until, m, passes, outlook, island, run):
    """The length of the substep: what contacts or flight allow, or all that is left where that is hardly more."""
    S, P, cfg, PR = states_of(run), bodies_of(run), config_of(run), reals(workspace_of(run), workspace_table.PROGRESS)
    spacing = PR[0, progress.SPACING] if PR[0, progress.EVENTS] > CLUSTER else 0.0
    h = min(cfg[config.STEP] if m > 0 or not outlook.open_air else FLIGHT * cfg[config.STEP], until - t)
    h = _choose_step(m, h, PR[0, progress.BENT] != 0.0, spacing, passes, island.BL, S, P, cfg)
    return until - t if until - t - h < 1e-9 * t1 else h


@part
def _count_work(taken, m, ws):
    """Note the work of solving: contacts squared, each time."""
    reals(ws, workspace_table.PROGRESS)[0, progress.WORK] += taken * m * m


@part
def _hold_contacts(m, h, passes, island, run):
    """Solve what is held over a substep, cut where a slip or a rolling stops or turns, or a contact parts.

    Returns the length it was cut to, and how far the law is missed."""
    S, P, scene, ws, cw = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run)
    cfg, Q = config_of(run), wholes(scene, scene_table.PAIRS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    rescale(m, h, CF)
    error, taken = hold(m, island.BL, h, passes, False, S, P, scene, ws, cfg)
    _count_work(taken, m, ws)
    for _ in range(60):
        cut = min(crossing(m, h, CI, CF), parting(m, h, CI, CF, CK, CC, Q))
        if h > cfg[config.CURVED_STEP] and bends(m, BENT, CI, CF):
            cut = min(cut, cfg[config.CURVED_STEP])
        if cut >= h:
            break
        rescale(m, cut / h, CF)
        h = cut
        error, taken = hold(m, island.BL, h, passes, True, S, P, scene, ws, cfg)
        _count_work(taken, m, ws)
    return h, error


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


@part
def _shorten(m, h, passes, error, outlook, island, run):
    """A contact that wanders over its bodies: halve the substep as long as it would make energy, or a rim sinks in.

    Returns its length, and how far the law is missed."""
    scene, ws = scene_of(run), workspace_of(run)
    S, P, cfg, E = states_of(run), bodies_of(run), config_of(run), reals(ws, workspace_table.END)
    CF, before = reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.PROGRESS)[0, progress.BEFORE]
    sunk = _sunk_rim(m, S, scene, ws)  # what a crowd left sunk is not this substep's
    for _ in range(7):
        after, kinetic = island_energy(island.BL.shape[0], island.BL, E, P, cfg)
        sinks = _sunk_rim(m, E, scene, ws) - sunk
        given = work_given(m, h, h, island, run)
        allowed = given + NO_WORK * abs(given) + NO_ENERGY * (kinetic + outlook.weight)
        if after - before <= allowed and sinks * outlook.heavy <= NO_LIFT * outlook.weight:
            break
        rescale(m, 0.5, CF)
        h *= 0.5
        error, taken = hold(m, island.BL, h, passes, True, S, P, scene, ws, cfg)
        _count_work(taken, m, ws)
    return h, error


@part
def hold_substep(m, h, passes, outlook, island, run):
    """Carry held contacts over a substep. Returns GO, AGAIN (once more) or CROWDED, and its length.

    Whether forces turn in it, and the energy before it, are noted."""
    S, P, ws, cw, cfg = states_of(run), bodies_of(run), workspace_of(run), points_of(run), config_of(run)
    CI, CF, PR = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.PROGRESS)
    h, error = _hold_contacts(m, h, passes, island, run)
    PR[0, progress.BENT] = 1.0 if bends(m, STRAIGHTER, CI, CF) else 0.0
    PR[0, progress.BEFORE], _ = island_energy(island.BL.shape[0], island.BL, S, P, cfg)
    if passes == WANDERS:
        h, error = _shorten(m, h, passes, error, outlook, island, run)
    if needs_full_manifold(m, CI, wholes(cw, soft_table.PAIR_CACHES)):
        return AGAIN, h
    return GO if error <= 1e-7 else CROWDED, h


@part
def fly(h, island, run):
    """A substep in which nothing is held."""
    S, P, ws, cfg, BL = states_of(run), bodies_of(run), workspace_of(run), config_of(run), island.BL
    D = reals(ws, workspace_table.DENSE)
    for k in range(BL.shape[0]):
        for c in range(6):
            D[BL[k], dense.FORCE + c] = 0.0
    advance_all(BL.shape[0], BL, h, S, P, ws, cfg)


@part
def is_wild(island, run):
    """Whether a body has left all bounds."""
    P, E, BL = bodies_of(run), reals(workspace_of(run), workspace_table.END), island.BL
    for k in range(BL.shape[0]):
        b = BL[k]
        if (P[b, body.INV_MASS] > 0.0 and not abs(E[b, state.X]) + abs(E[b, state.Y]) + abs(E[b, state.Z])
                + abs(E[b, state.WX]) + abs(E[b, state.WY]) < 1e15):
            return True
    return False


@kernel
def _held(p, f, m, CI):
    for i in range(m):
        if (CI[i, contact_int.PAIR] == p and CI[i, contact_int.MODE] != contact_mode.NONE
            and (f < 0 or CI[i, contact_int.FEATURE] == f)):
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
def cut_at_meeting(m, h, pull, passes, island, run):
    """End a substep where two bodies first meet in it. Returns when that is, and the span that forces act over."""
    S, P, scene, ws, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    hit, span = _time_of_impact(m, h, pull, island.PL, CI, S, P, scene, ws), h
    if hit < h:
        if m > 0 and hit > 0.0 and passes > 1:
            rescale(m, hit / h, CF)
            span = hit
            _, taken = hold(m, island.BL, hit, passes, True, S, P, scene, ws, cfg)
            _count_work(taken, m, ws)
        _end_at(hit, island.BL, S, P, reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END), cfg)
    return hit, span


@part
def accept(still, island, run):
    """Take the end of a substep as the state. Returns whether nothing in it moved, where that was possible."""
    S, P, E, BL = states_of(run), bodies_of(run), reals(workspace_of(run), workspace_table.END), island.BL
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
def keep_contacts(m, span, island, run):
    """Keep what contacts did for the next substep."""
    ws, cw = workspace_of(run), points_of(run)
    keep_forces(m, span, island.PL.shape[0], island.PL, wholes(ws, workspace_table.CONTACTS_INT),
                reals(ws, workspace_table.CONTACTS), wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES))


@kernel
def _on_fixed(m, CI, P):
    """Whether a body without mass carries an island."""
    for i in range(m):
        if (CI[i, contact_int.MODE] != contact_mode.NONE
            and (P[CI[i, contact_int.BODY_A], body.INV_MASS] == 0.0 or P[CI[i, contact_int.BODY_B], body.INV_MASS] == 0.0)):
            return True
    return False


@kernel
def _carry_energy(energy, least, free, bodies, BL, X, P, cfg):
    """Give an island this energy by its speeds, if it moves with more than ``least``."""
    now, kinetic = island_energy(bodies, BL, X, P, cfg)
    take_energy(now - energy, least, kinetic, free, bodies, BL, X, P)


@part
def give_back(m, t, hit, span, weight, unread, first, island, run):
    """Take what a wobbling rim still gained from its motion, beyond the work that was given to it; where none was, motion between
    the ends is read with the energy between theirs (that of what is driven is not linear in time)."""
    out, ws, times = samples_of(run), workspace_of(run), times_of(run)
    S, P, cfg, BL = states_of(run), bodies_of(run), config_of(run), island.BL
    before = reals(ws, workspace_table.PROGRESS)[0, progress.BEFORE]
    after, kinetic = island_energy(BL.shape[0], BL, S, P, cfg)
    free = not _on_fixed(m, wholes(ws, workspace_table.CONTACTS_INT), P) and unlocked(BL.shape[0], BL, P)
    given = work_given(m, hit, span, island, run)
    if after - before > given + NO_WORK * abs(given) + NO_GAIN * (kinetic + weight) and kinetic > 0.0:
        _carry_energy(before + given, 0.0, free, BL.shape[0], BL, S, P, cfg)
        after = before + given
    if given != 0.0:
        return
    for k in range(unread, first):
        share = before + (after - before) * (times[k] - t) / hit
        _carry_energy(share, 1e-6 * weight, free, BL.shape[0], BL, out[k], P, cfg)


@kernel
def sank(m, S, P, scene, ws):
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
