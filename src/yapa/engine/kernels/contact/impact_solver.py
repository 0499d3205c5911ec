"""Impact solver, impacts at one instant: pair by pair, fastest approach first, simultaneous within one pair.

Restitution e falls smoothly to 0 between twice the cut-off speed and the cut-off speed (cubic
smoothstep), so a bounce series ends after finitely many contacts and outcomes stay smooth; above a
reference speed it may fall as a power. Newton's restitution with Coulomb friction can make energy
in an eccentric hit; there the result is blended towards the one with e = 0 until it makes none
(Stronge, Impact Mechanics). An impact without restitution is shared at once by everything that
touches in the island, so that a lever or a row of bodies takes it as one.
"""

from yapa.engine.kernels.contact.contact_rows import slipping, touching
from yapa.engine.kernels.contact.contact_system import solve_contacts
from yapa.engine.kernels.contact.hit_log import log_body
from yapa.engine.kernels.contact.pair_law import effective_restitution, lossless
from yapa.engine.kernels.dynamics.energy import body_energy
from yapa.engine.kernels.dynamics.work import surface_velocity_work
from yapa.engine.kernels.geometry.manifold import NEAREST, apart
from yapa.engine.kernels.geometry.narrow_phase import far_apart, gap_and_rate
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.handles import (
    RUN,
    bodies_of,
    cancel_of,
    config_of,
    contact_log_of,
    scene_of,
    states_of,
    status_of,
    workspace_of,
)
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import (
    config,
    contact,
    contact_int,
    contact_log,
    limits,
    material,
    pair,
    run_code,
    run_status,
    scale,
    scene_table,
    slip_state,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import ZERO, ahead, dot, length, over, plus, put, vector

TOGETHER = 1e-7
"""m: points of one manifold closer than this hit at once."""
IN_A_ROW = 60
"""So many at one instant bounce; those after them do not, if one took energy."""
MAX_IMPACTS = 1_000_000
"""Impacts in an outer step at which a run that keeps its energy is stopped."""
KEPT, SWARMS, LOST = 0, 1, 2
ALIKE = 1e-9
"""Approaches that differ by less than this share are alike."""
UNSOLVED, WILD = 1e-6, 1e9
"""An error of the law, and a speed, that no impact may leave behind."""


@kernel
def slip_of(i, CI, CF, X):
    """Normal and tangential speed of row ``i``."""
    un, u = slipping(i, CI, CF, X)
    return un, length(u)


@kernel
def log_pair(t, p, m, X, U, CI, CF, clog, status):
    """One row of the contact log for the rows of pair ``p``; ``U`` holds the states before."""
    row = status[run_status.CONTACTS]
    if row >= clog.shape[0]:
        status[run_status.CODE] = run_code.LOG_FULL
        return
    a, b = 0, 0
    jn, jt, middle, weight = 0.0, ZERO, ZERO, 0.0
    approach, rebound, slip0, slip1 = 0.0, 0.0, 0.0, 0.0
    for i in range(m):
        if CI[i, contact_int.PAIR] != p:
            continue
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        n, impulse = vector(CF, i, contact.NORMAL), vector(CF, i, contact.J)
        j = dot(impulse, n)
        jn, jt = jn + j, ahead(plus(jt, impulse), -j, n)
        w = j + 1e-300
        middle, weight = ahead(middle, w, plus(vector(X, a, state.POSITION), vector(CF, i, contact.ARM_A))), weight + w
        un, u = slip_of(i, CI, CF, X)
        rebound, slip1 = max(rebound, un), max(slip1, u)
        approach, slip0 = max(approach, -CF[i, contact.RATE]), max(slip0, CF[i, contact.SLIP0])
        put(clog, row, contact_log.NORMAL, n)
    clog[row, contact_log.TIME], clog[row, contact_log.PAIR], clog[row, contact_log.BODY_A] = t, p, a
    clog[row, contact_log.BODY_B] = b
    put(clog, row, contact_log.POINT, over(middle, weight))
    clog[row, contact_log.APPROACH], clog[row, contact_log.REBOUND] = approach, rebound
    clog[row, contact_log.SLIP_BEFORE], clog[row, contact_log.SLIP_AFTER] = slip0, slip1
    clog[row, contact_log.IMPULSE_N], clog[row, contact_log.IMPULSE_T] = jn, length(jt)
    for side in range(2):
        log_body(row, contact_log.STATE_A if side == 0 else contact_log.STATE_B, a if side == 0 else b, U, X, clog)
    status[run_status.CONTACTS] = row + 1
    status[run_status.IMPACTS] += 1


@kernel
def _work_of_surfaces(m, CI, CF, X, P):
    """What the impulses of the rows give by surfaces that move on their own."""
    total = 0.0
    for i in range(m):
        total += surface_velocity_work(i, (vector(CF, i, contact.ARM_A), vector(CF, i, contact.ARM_B)), CI, CF, X, P)
    return total


@kernel
def _make_no_energy(m, a, b, S, P, scene, ws):
    """Blend the result in ``S`` towards the one with e = 0 until the two bodies have no more energy than before, beyond the work
    that belts and driven bodies do."""
    CF, U, W = reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.BEFORE), reals(ws, workspace_table.MATRIX)
    CI = wholes(ws, workspace_table.CONTACTS_INT)
    n = U.shape[0] // 2
    before = body_energy(a, U, P) + body_energy(b, U, P)
    bouncing_work = _work_of_surfaces(m, CI, CF, S, P)
    if body_energy(a, S, P) + body_energy(b, S, P) <= before * (1.0 + 1e-12) + bouncing_work + 1e-12 * abs(bouncing_work):
        return
    bouncing = reals(ws, workspace_table.POLYGONS)  # scratch: the impulses with restitution
    for i in range(m):
        for c in range(3):
            bouncing[2 * i, c], bouncing[2 * i + 1, c] = CF[i, contact.J + c], CF[i, contact.K + c]
            CF[i, contact.J + c], CF[i, contact.K + c] = 0.0, 0.0
        CF[i, contact.TARGET] = 0.0
    for side in range(2):
        q = a if side == 0 else b
        for c in range(state.VELOCITY, state.ROTATION):
            U[n + q, c] = S[q, c]
            S[q, c] = U[q, c]
    solve_contacts(m, S, P, scene, ws)
    dull_work = _work_of_surfaces(m, CI, CF, S, P)
    for side in range(2):  # from here: S the dull result, U[n + q] the bouncing one
        q = a if side == 0 else b
        for c in range(state.VELOCITY):
            W[side, c] = 0.0
        for c in range(state.VELOCITY, state.ROTATION):
            W[side, c - state.VELOCITY] = S[q, c]
    lo, hi = 0.0, 1.0
    for _ in range(60):
        s = 0.5 * (lo + hi)
        for side in range(2):
            q = a if side == 0 else b
            for c in range(state.VELOCITY, state.ROTATION):
                S[q, c] = W[side, c - state.VELOCITY] + s * (U[n + q, c] - W[side, c - state.VELOCITY])
        if body_energy(a, S, P) + body_energy(b, S, P) > before + dull_work + s * (bouncing_work - dull_work):
            hi = s
        else:
            lo = s
    for side in range(2):
        q = a if side == 0 else b
        for c in range(state.VELOCITY, state.ROTATION):
            S[q, c] = W[side, c - state.VELOCITY] + lo * (U[n + q, c] - W[side, c - state.VELOCITY])
    for i in range(m):
        for c in range(3):
            CF[i, contact.J + c] += lo * (bouncing[2 * i, c] - CF[i, contact.J + c])
            CF[i, contact.K + c] += lo * (bouncing[2 * i + 1, c] - CF[i, contact.K + c])


@kernel
def _approach_of(p, m, CI, CF):
    most = 0.0
    for i in range(m):
        if CI[i, contact_int.PAIR] == p:
            most = max(most, -CF[i, contact.RATE])
    return most


@part
def _note_before(m, S, U, CI, CF):
    """Keep the states before an impact, and what slips then; the fastest approach."""
    approach = 0.0
    for i in range(m):
        approach = max(approach, -CF[i, contact.RATE])
        _, CF[i, contact.SLIP0] = slip_of(i, CI, CF, S)
        CI[i, contact_int.SLIPPING] = slip_state.HITS
        for side in range(2):
            q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
            for c in range(state.COUNT):
                U[q, c] = S[q, c]
    return approach


@part
def _ran_wild(m, S, CI):
    """Whether a velocity after an impact is none."""
    for i in range(m):
        for side in range(2):
            q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
            for c in range(state.VELOCITY, state.ROTATION):
                if not abs(S[q, c]) < WILD:
                    return True
    return False


@part
def _put_back(m, S, U, CI):
    """Give the bodies their velocities of before."""
    for i in range(m):
        for side in range(2):
            q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
            for c in range(state.VELOCITY, state.ROTATION):
                S[q, c] = U[q, c]


@part
def _log_pairs(t, p, m, S, U, CI, CF, clog, status):
    """A row of the log for every pair that was hit."""
    for i in range(m):
        first = True
        for k in range(i):
            if CI[k, contact_int.PAIR] == CI[i, contact_int.PAIR]:
                first = False
        impulse = vector(CF, i, contact.J)
        if first and (p >= 0 or _approach_of(CI[i, contact_int.PAIR], m, CI, CF) > 10.0 * limits.STILL
                      or dot(impulse, impulse) > 0.0):
            log_pair(t, CI[i, contact_int.PAIR], m, S, U, CI, CF, clog, status)
            if status[run_status.CODE] == run_code.LOG_FULL:
                return


@far(REAL, REAL, WHOLE, WHOLE, FLAG, RUN)
def _hit(t, p, m, dull, run):
    """Resolve rows 0 … m-1 on the states ``S`` (all of pair ``p``, or with p = -1 a whole island without restitution)."""
    S, P, scene, ws, clog = states_of(run), bodies_of(run), scene_of(run), workspace_of(run), contact_log_of(run)
    status, cfg = status_of(run), config_of(run)
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    CI, CF, U = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.BEFORE)
    approach = _note_before(m, S, U, CI, CF)
    ratio = 0.0
    if p >= 0 and not dull:
        ratio = effective_restitution(LW[Q[p, pair.MATERIAL]], approach, cfg[config.CUTOFF])
        for i in range(m):
            CF[i, contact.TARGET] = -ratio * min(CF[i, contact.RATE], 0.0)
    error = solve_contacts(m, S, P, scene, ws)
    if _ran_wild(m, S, CI) or not error < UNSOLVED:  # what does not solve is undone, and left to the crowd
        _put_back(m, S, U, CI)
        return 1e300
    if ratio > 0.0 and LW[Q[p, pair.MATERIAL], material.RESTITUTION] <= 1.0:
        _make_no_energy(m, Q[p, pair.BODY_A], Q[p, pair.BODY_B], S, P, scene, ws)
    _log_pairs(t, p, m, S, U, CI, CF, clog, status)
    return error


@kernel
def fastest_approach(p, S, P, scene, ws):
    """The most negative rate of what touches in a pair, 0 if nothing approaches."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    if has_manifold(Q[p, pair.KIND]):
        if far_apart(p, 1e-6, S, geo, Q):
            return 0.0
        gap, rate = apart(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
        if gap > limits.TOUCH:
            return 0.0
        m = touching(0, p, 0, max(gap, 0.0) + TOGETHER, limits.MAX_CONTACTS, 0.0, 1e300, S, scene, ws)
        worst = min(rate, 0.0)
        for i in range(m):
            worst = min(worst, reals(ws, workspace_table.CONTACTS)[i, contact.RATE])
        return worst
    worst = 0.0
    for f in range(Q[p, pair.FEATURES]):
        gap, rate = gap_and_rate(p, f, S, geo, Q)
        if gap <= limits.TOUCH and rate < worst:
            worst = rate
    return worst


@kernel
def margin_of(p, scene):
    """How near the points of a pair must be to count as touching together."""
    return TOGETHER if has_manifold(wholes(scene, scene_table.PAIRS)[p, pair.KIND]) else 10.0 * limits.TOUCH


@kernel
def _before(p, q, S, Q):
    """Whether the middle of a pair of bodies comes before that of another, along a direction askew to every lattice."""
    total = 0.0
    for c, weight in ((0, 1.0), (1, 0.7548776662466927), (2, 0.5698402909980532)):
        total += weight * (S[Q[p, pair.BODY_A], c] + S[Q[p, pair.BODY_B], c] - S[Q[q, pair.BODY_A], c] - S[Q[q, pair.BODY_B], c])
    return total < 0.0


@part
def _pick_impact(PL, S, P, scene, ws, cfg):
    """The pair that closes in fastest (-1: none does), whether any gives back, and whether its impact takes energy."""
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    worst, pick, bouncy, takes = -limits.STILL, -1, False, False
    for k in range(PL.shape[0]):
        rate = fastest_approach(PL[k], S, P, scene, ws)
        ratio = effective_restitution(LW[Q[PL[k], pair.MATERIAL]], -rate, cfg[config.CUTOFF]) if rate < -limits.STILL else 0.0
        bouncy = bouncy or ratio > 0.0
        level = rate - worst  # of those that close in alike, not the first of the file but the first in space
        if level < -ALIKE * abs(worst) or (level <= ALIKE * abs(worst) and pick >= 0 and _before(PL[k], pick, S, Q)):
            worst, pick = rate, PL[k]
            takes = not lossless(LW[Q[pick, pair.MATERIAL]], ratio)
    return pick, bouncy, takes


@part
def _touch_together(PL, S, scene, ws):
    """Rows of all that touches in an island, with as many corners of a face as there is room for; how many."""
    Q, m = wholes(scene, scene_table.PAIRS), 0
    for most in limits.MAX_CORNERS:
        m = 0
        for k in range(PL.shape[0]):
            if not (has_manifold(Q[PL[k], pair.KIND]) and far_apart(PL[k], 1e-6, S, scene, Q)):
                m = touching(m, PL[k], Q[PL[k], pair.FEATURES], margin_of(PL[k], scene), most, 1e-3, 1e300, S, scene, ws)
        if m <= limits.MAX_CONTACTS:
            break
    return m


@part
def _touch_alone(p, S, scene, ws):
    """Rows of what approaches in one pair; how many."""
    Q, margin = wholes(scene, scene_table.PAIRS), margin_of(p, scene)
    m = touching(0, p, Q[p, pair.FEATURES], margin, limits.MAX_CONTACTS, limits.STILL, 1e300, S, scene, ws)
    if m == 0:  # no corner of the faces approaches, but an edge that crosses one does
        m = touching(0, p, 0, margin, NEAREST, limits.STILL, 1e300, S, scene, ws)
    return m


@far(WHOLE, REAL, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS1, RUN)
def resolve_impacts(t, PL, S, P, scene, ws, status, cfg, run):
    """All impacts at time t among the pairs ``PL[:count]``. Returns KEPT where none took energy, LOST where one did, or SWARMS
    where the island is too crowded for it. Impacts that take none go on for as long as they do."""
    count = PL.shape[0]
    Q, G = wholes(scene, scene_table.PAIRS), reals(ws, workspace_table.SCALES)
    for k in range(count):
        p = PL[k]
        G[Q[p, pair.BODY_A], scale.LINEAR], G[Q[p, pair.BODY_A], scale.ANGULAR] = 1.0, 1.0
        G[Q[p, pair.BODY_B], scale.LINEAR], G[Q[p, pair.BODY_B], scale.ANGULAR] = 1.0, 1.0
    what = KEPT
    for it in range(MAX_IMPACTS):
        pick, bouncy, takes = _pick_impact(PL, S, P, scene, ws, cfg)
        if pick < 0:
            return what
        what = LOST if takes else what
        if what == LOST and it >= 4 * IN_A_ROW:
            return SWARMS
        if cancel_of(run)[0] != 0:
            status[run_status.CODE] = run_code.CANCELLED
            return what
        tired = what == LOST and it >= IN_A_ROW
        if (not bouncy or tired) and count > 1:
            m = _touch_together(PL, S, scene, ws)
            if m > limits.MAX_CONTACTS or not _hit(t, -1, m, True, run) < UNSOLVED:
                return SWARMS
        else:
            m = _touch_alone(pick, S, scene, ws)
            if m == 0 or not _hit(t, pick, m, tired, run) < UNSOLVED:
                return SWARMS
        if status[run_status.CODE] == run_code.LOG_FULL:
            return what
    status[run_status.CODE] = run_code.NO_END
    return what
