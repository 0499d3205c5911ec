"""The event-driven regime, one island from one time to another: hold what is held, fly the rest, stop at the first
meeting, resolve it.

A substep (``substep``) ends where something happens, and the next one starts there, so no grid of times shapes the motion. An
island that makes no headway (too many meetings, contacts that do not solve, a held pair that sinks in) says so and is finished by
``soft_contact``.
"""

from yapa.engine.kernels.contact.impact_solver import LOST, MAX_IMPACTS, SWARMS, resolve_impacts
from yapa.engine.kernels.contact.phase_log import follow_modes
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.dynamics.forces import gravity, more
from yapa.engine.kernels.geometry.narrow_phase import watch_side
from yapa.engine.kernels.geometry.pairs.traits import round_on_plane
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
from yapa.engine.kernels.jit import REAL, WHOLE, far, part
from yapa.engine.kernels.layout import (
    body,
    config,
    contact,
    contact_int,
    limits,
    motion_kind,
    pair,
    progress,
    run_code,
    run_status,
    scene_table,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import vector
from yapa.engine.kernels.regimes.persistent_contact import WANDERS, gather, settle
from yapa.engine.kernels.regimes.samples import sample, sample_as_they_are
from yapa.engine.kernels.regimes.substep import (
    AGAIN,
    CROWDED,
    FINISHED,
    GO,
    Outlook,
    accept,
    cut_at_meeting,
    fly,
    give_back,
    hold_substep,
    is_wild,
    keep_contacts,
    passes_needed,
    sank,
    step_to,
)

NO_PULL = 1e-12
"""m/s²: what is pulled together by less is not pressed."""
CREEPING, SLOWEST = 500, 6e-6
"""So many substeps with contacts may not bring less time than this each [s]."""
MOST_IDLE, LONG_QUIET = 40, 8
"""Substeps that bring no time before an island makes no headway, and in which nothing moves before it is at rest."""


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


@part
def _outlook(island, run):
    """What holds for an island all the time."""
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
    return Outlook(pull, weight, heavy, moving_keys, driven, open_air)


@part
def _begin_island(t, substeps, run):
    """Nothing is noted of the island yet; anything in it may touch."""
    PR, cfg, status = reals(workspace_of(run), workspace_table.PROGRESS), config_of(run), status_of(run)
    for c in range(progress.COUNT):
        PR[0, c] = 0.0
    PR[0, progress.SINCE], PR[0, progress.WINDOW] = t, t + cfg[config.OUTER]
    PR[0, progress.LAST_STEP] = status[run_status.STEPS] + substeps
    PR[0, progress.NEAR], PR[0, progress.FRESH] = 1.0, 1.0


@part
def _count_substep(t, m, substeps, run):
    """Count a substep, anew in every outer step: a lone body's run is one call. Returns GO or how the island ends."""
    PR, cfg, status = reals(workspace_of(run), workspace_table.PROGRESS), config_of(run), status_of(run)
    if t >= PR[0, progress.WINDOW]:
        PR[0, progress.EVENTS], PR[0, progress.LOSSY], PR[0, progress.WINDOW] = 0.0, 1.0 if m > 0 else 0.0, t + cfg[config.OUTER]
        PR[0, progress.LAST_STEP] = status[run_status.STEPS] + substeps
    if cancel_of(run)[0] != 0:
        status[run_status.CODE] = run_code.CANCELLED
        return FINISHED
    status[run_status.STEPS] += 1
    # every event of one body stops all: too many of them for so many bodies
    return CROWDED if PR[0, progress.LOSSY] != 0.0 and status[run_status.STEPS] > PR[0, progress.LAST_STEP] else GO


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
def _impacts_now(t, budget, island, run):
    """All impacts at this instant. Returns GO or how the island ends."""
    S, P, scene, ws, cfg, status = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run), status_of(run)
    PR, hits = reals(ws, workspace_table.PROGRESS), status[run_status.IMPACTS]
    what = resolve_impacts(t, island.PL, S, P, scene, ws, status, cfg, run)
    if what == SWARMS:
        return CROWDED
    if status[run_status.CODE] != run_code.OK:
        return FINISHED
    if what == LOST:
        PR[0, progress.LOSSY] = 1.0
    PR[0, progress.EVENTS] += status[run_status.IMPACTS] - hits
    if PR[0, progress.EVENTS] > budget and PR[0, progress.LOSSY] != 0.0:
        return CROWDED
    if PR[0, progress.EVENTS] > MAX_IMPACTS:
        status[run_status.CODE] = run_code.NO_END
        return FINISHED
    return GO


@part
def _contacts_now(t, island, run):
    """Rows of what touches and stays; none of what lies at ease."""
    S, P, scene, ws, cw, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), points_of(run), config_of(run)
    m = gather(t, island, S, P, scene, ws, cw)
    if m > 0 and _at_ease(m, wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), P, cfg):
        return 0
    return m


@part
def _meet(t, budget, island, run):
    """The impacts of this instant, and the contacts that stay. Returns GO or how the island ends, and how many contacts."""
    PR = reals(workspace_of(run), workspace_table.PROGRESS)
    if PR[0, progress.NEAR] == 0.0:
        return GO, 0
    what = _impacts_now(t, budget, island, run)
    if what != GO:
        return what, 0
    m = _contacts_now(t, island, run)
    if m > limits.MAX_CONTACTS:
        return CROWDED, m
    if m > 0:
        PR[0, progress.LOSSY] = 1.0  # what presses
        PR[0, progress.HELD] += 1.0
        if PR[0, progress.HELD] == CREEPING:  # chatter: hardly any time goes by
            if t - PR[0, progress.SINCE] < CREEPING * SLOWEST:
                return CROWDED, m
            PR[0, progress.HELD], PR[0, progress.SINCE] = 0.0, t
    return GO, m


@part
def _move_on(m, h, passes, outlook, island, run):
    """The substep itself: held contacts and the rest in flight, up to the first meeting.

    Returns GO, AGAIN (once more) or CROWDED, the length it was cut to, when it ends, and the span that forces act over."""
    if m > 0:
        what, h = hold_substep(m, h, passes, outlook, island, run)
        if what != GO:
            return what, h, h, h
    else:
        fly(h, island, run)
    if is_wild(island, run):
        return CROWDED, h, h, h
    hit, span = cut_at_meeting(m, h, outlook.pull, passes, island, run)
    return GO, h, hit, span


@part
def _end_substep(t, m, h, hit, span, passes, outlook, first, island, run):
    """Samples of a substep, and its end as the state. Returns the next sample."""
    S, P, scene, ws, cfg = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run)
    PR, BL, unread = reals(ws, workspace_table.PROGRESS), island.BL, first
    D, times, out = reals(ws, workspace_table.DENSE), times_of(run), samples_of(run)
    first = sample(t, hit, BL, S, P, D, times, out, first, cfg[config.LEAN] != 0.0)
    PR[0, progress.QUIET] = PR[0, progress.QUIET] + 1.0 if accept(m > 0 and not outlook.driven, island, run) else 0.0
    PR[0, progress.NEAR] = 1.0 if m > 0 or hit < h or outlook.moving_keys else 0.0
    if m > 0:
        settle(m, S, P, scene, ws)
        if passes == WANDERS:
            give_back(m, t, hit, span, outlook.weight, unread, first, island, run)
    PR[0, progress.SPACING] = hit if hit < h or PR[0, progress.SPACING] > 0.0 else 0.0
    return first


@part
def _makes_no_headway(m, bearable, run):
    """Whether too many substeps brought no time, too much work was done, or what is held sinks in."""
    ws = workspace_of(run)
    PR = reals(ws, workspace_table.PROGRESS)
    return (PR[0, progress.IDLE] > MOST_IDLE or PR[0, progress.WORK] > bearable
            or (m > 0 and sank(m, states_of(run), bodies_of(run), scene_of(run), ws)))


@part
def _work_done(run):
    return int(reals(workspace_of(run), workspace_table.PROGRESS)[0, progress.WORK])


@far((WHOLE, REAL, WHOLE, WHOLE), REAL, REAL, ISLAND, WHOLE, WHOLE, WHOLE, WHOLE, RUN)
def event_driven_island(t, t1, island, budget, substeps, bearable, first, run):
    """Carry an island from t to t1, within so many impacts and substeps an outer step and so much work: contacts squared, for
    each time that they are solved. Nothing bounds what neither presses nor loses energy, but a million impacts in an outer step.
    Returns FINISHED or CROWDED, the time, the sample and the work done."""
    S, P, scene, ws, cfg, status = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), config_of(run), status_of(run)
    PR, outlook = reals(ws, workspace_table.PROGRESS), _outlook(island, run)
    _begin_island(t, substeps, run)
    m = 0
    while t < t1:
        # choose the step
        what = _count_substep(t, m, substeps, run)
        if what != GO:
            return what, t, first, _work_done(run)
        until = _begin_substep(t, t1, outlook.moving_keys, island, S, P, scene, cfg)
        hits, held_before = status[run_status.IMPACTS], m > 0 or PR[0, progress.FRESH] != 0.0
        PR[0, progress.FRESH] = 0.0
        what, m = _meet(t, budget, island, run)
        if what != GO:
            return what, t, first, _work_done(run)
        passes = passes_needed(m, P, scene, wholes(ws, workspace_table.CONTACTS_INT))
        h = step_to(t, t1, until, m, passes, outlook, island, run)

        # hold contacts, cut at events, first impact
        what, h, hit, span = _move_on(m, h, passes, outlook, island, run)
        if what == AGAIN:
            continue
        if what == CROWDED:
            return CROWDED, t, first, _work_done(run)

        # accept it
        if m > 0 or held_before:
            follow_modes(t, span, m, island, run, wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS))
            if status[run_status.CODE] != run_code.OK:
                return FINISHED, t, first, _work_done(run)
            keep_contacts(m, span, island, run)
        first = _end_substep(t, m, h, hit, span, passes, outlook, first, island, run)
        stands = hit < 1e-10 and (PR[0, progress.LOSSY] != 0.0 or status[run_status.IMPACTS] == hits)
        PR[0, progress.IDLE] = PR[0, progress.IDLE] + 1.0 if stands else 0.0
        t = until if hit == h and until - t - h <= 0.0 else t + hit
        if PR[0, progress.QUIET] > LONG_QUIET:  # at rest: another step would change nothing
            return FINISHED, t1, sample_as_they_are(t1, first, island.BL, S, P, times_of(run), samples_of(run)), _work_done(run)
        if _makes_no_headway(m, bearable, run):
            return CROWDED, t, first, _work_done(run)
    return FINISHED, t1, first, _work_done(run)
