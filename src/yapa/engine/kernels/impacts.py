"""Impact solver, impacts at one instant: pair by pair, fastest approach first, simultaneous within one pair.

Restitution e falls smoothly to 0 between twice the cut-off speed and the cut-off speed (cubic
smoothstep), so a bounce series ends after finitely many contacts and outcomes stay smooth; above a
reference speed it may fall as a power. Newton's restitution with Coulomb friction can make energy
in an eccentric hit; there the result is blended towards the one with e = 0 until it makes none
(Stronge, Impact Mechanics). An impact without restitution is shared at once by everything that
touches in the island, so that a lever or a row of bodies takes it as one.
"""

from math import sqrt

from yapa.engine.kernels.contacts import slipping, solve_contacts, touching
from yapa.engine.kernels.energy import body_energy
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import (
    ARM_A,
    BELT,
    C_A,
    C_B,
    C_PAIR,
    C_SLIPPING,
    CANCELLED,
    CFG_CUTOFF,
    HITS,
    KINEMATIC_BODY,
    LOG_A,
    LOG_APPROACH,
    LOG_B,
    LOG_FULL,
    LOG_JN,
    LOG_JT,
    LOG_NORMAL,
    LOG_PAIR,
    LOG_POINT,
    LOG_REBOUND,
    LOG_SLIP0,
    LOG_SLIP1,
    LOG_STATE,
    LOG_TIME,
    MANIFOLD,
    MOST_CONTACTS,
    MOST_CORNERS,
    MOTION,
    NO_END,
    NORMAL,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    Q_LAW,
    RATE,
    RESTITUTION,
    SC_LAW,
    SC_Q,
    SLIP0,
    ST_CODE,
    ST_CONTACTS,
    ST_IMPACTS,
    STILL,
    TARGET,
    TOUCH,
    WS_CF,
    WS_CI,
    WS_G,
    WS_M,
    WS_U,
    WS_W,
    WS_WV,
    J,
    K,
)
from yapa.engine.kernels.material import effective_restitution, lossless
from yapa.engine.kernels.polytopes import NEAREST, apart
from yapa.engine.kernels.shapes import far_apart, gap_and_rate
from yapa.engine.kernels.views import reals, wholes

TOGETHER = 1e-7
"""m: points of one manifold closer than this hit at once."""
IN_A_ROW = 60
"""So many at one instant bounce; those after them do not, if one took energy."""
MOST_IMPACTS = 1_000_000
"""Impacts in an outer step at which a run that keeps its energy is stopped."""
KEPT, SWARMS, LOST = 0, 1, 2
ALIKE = 1e-9
"""Approaches that differ by less than this share are alike."""
UNSOLVED, WILD = 1e-6, 1e9
"""An error of the law, and a speed, that no impact may leave behind."""


@kernel
def slip_of(i, CI, CF, X):
    """Normal and tangential speed of row ``i``."""
    un, ux, uy, uz = slipping(i, CI, CF, X)
    return un, sqrt(ux * ux + uy * uy + uz * uz)


@kernel
def log_pair(t, p, m, X, U, CI, CF, clog, status):
    """One row of the contact log for the rows of pair ``p``; ``U`` holds the states before."""
    row = status[ST_CONTACTS]
    if row >= clog.shape[0]:
        status[ST_CODE] = LOG_FULL
        return
    a, b = 0, 0
    jn, jt0, jt1, jt2 = 0.0, 0.0, 0.0, 0.0
    px, py, pz, weight = 0.0, 0.0, 0.0, 0.0
    approach, rebound, slip0, slip1 = 0.0, 0.0, 0.0, 0.0
    for i in range(m):
        if CI[i, C_PAIR] != p:
            continue
        a, b = CI[i, C_A], CI[i, C_B]
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        j = CF[i, J] * nx + CF[i, J + 1] * ny + CF[i, J + 2] * nz
        jn += j
        jt0, jt1, jt2 = jt0 + CF[i, J] - j * nx, jt1 + CF[i, J + 1] - j * ny, jt2 + CF[i, J + 2] - j * nz
        w = j + 1e-300
        px, py, pz = px + w * (X[a, 0] + CF[i, ARM_A]), py + w * (X[a, 1] + CF[i, ARM_A + 1]), pz + w * (X[a, 2] + CF[i, ARM_A + 2])
        weight += w
        un, u = slip_of(i, CI, CF, X)
        rebound, slip1 = max(rebound, un), max(slip1, u)
        approach, slip0 = max(approach, -CF[i, RATE]), max(slip0, CF[i, SLIP0])
        for c in range(3):
            clog[row, LOG_NORMAL + c] = CF[i, NORMAL + c]
    clog[row, LOG_TIME], clog[row, LOG_PAIR], clog[row, LOG_A], clog[row, LOG_B] = t, p, a, b
    clog[row, LOG_POINT], clog[row, LOG_POINT + 1], clog[row, LOG_POINT + 2] = px / weight, py / weight, pz / weight
    clog[row, LOG_APPROACH], clog[row, LOG_REBOUND] = approach, rebound
    clog[row, LOG_SLIP0], clog[row, LOG_SLIP1] = slip0, slip1
    clog[row, LOG_JN], clog[row, LOG_JT] = jn, sqrt(jt0 * jt0 + jt1 * jt1 + jt2 * jt2)
    for side in range(2):
        q, o = (a, LOG_STATE) if side == 0 else (b, LOG_STATE + 18)
        for c in range(3):
            clog[row, o + c] = X[q, c]
            clog[row, o + 3 + c] = X[q, 13 + c]
            clog[row, o + 6 + c] = U[q, 7 + c]
            clog[row, o + 9 + c] = X[q, 7 + c]
            clog[row, o + 12 + c] = U[q, 10 + c]
            clog[row, o + 15 + c] = X[q, 10 + c]
    status[ST_CONTACTS] = row + 1
    status[ST_IMPACTS] += 1


@kernel
def _make_no_energy(m, a, b, S, P, scene, ws):
    """Blend the result in ``S`` towards the one with e = 0 until the two bodies have no more energy than before."""
    CF, U, W = reals(ws, WS_CF), reals(ws, WS_U), reals(ws, WS_W)
    n = U.shape[0] // 2
    before = body_energy(a, U, P) + body_energy(b, U, P)
    if body_energy(a, S, P) + body_energy(b, S, P) <= before * (1.0 + 1e-12):
        return
    bouncing = reals(ws, WS_WV)  # scratch: the impulses with restitution
    for i in range(m):
        for c in range(3):
            bouncing[2 * i, c], bouncing[2 * i + 1, c] = CF[i, J + c], CF[i, K + c]
            CF[i, J + c], CF[i, K + c] = 0.0, 0.0
        CF[i, TARGET] = 0.0
    for side in range(2):
        q = a if side == 0 else b
        for c in range(7, 13):
            U[n + q, c] = S[q, c]
            S[q, c] = U[q, c]
    solve_contacts(m, S, P, scene, ws)
    for side in range(2):  # from here: S the dull result, U[n + q] the bouncing one
        q = a if side == 0 else b
        for c in range(7):
            W[side, c] = 0.0
        for c in range(7, 13):
            W[side, c - 7] = S[q, c]
    lo, hi = 0.0, 1.0
    for _ in range(60):
        s = 0.5 * (lo + hi)
        for side in range(2):
            q = a if side == 0 else b
            for c in range(7, 13):
                S[q, c] = W[side, c - 7] + s * (U[n + q, c] - W[side, c - 7])
        if body_energy(a, S, P) + body_energy(b, S, P) > before:
            hi = s
        else:
            lo = s
    for side in range(2):
        q = a if side == 0 else b
        for c in range(7, 13):
            S[q, c] = W[side, c - 7] + lo * (U[n + q, c] - W[side, c - 7])
    for i in range(m):
        for c in range(3):
            CF[i, J + c] += lo * (bouncing[2 * i, c] - CF[i, J + c])
            CF[i, K + c] += lo * (bouncing[2 * i + 1, c] - CF[i, K + c])


@kernel
def _approach_of(p, m, CI, CF):
    most = 0.0
    for i in range(m):
        if CI[i, C_PAIR] == p:
            most = max(most, -CF[i, RATE])
    return most


@far(REAL, REAL, WHOLE, WHOLE, FLAG, REALS2, REALS2, WHOLES1, WHOLES1, REALS2, WHOLES1, REALS1)
def _hit(t, p, m, dull, S, P, scene, ws, clog, status, cfg):
    """Resolve rows 0 … m-1 on the states ``S`` (all of pair ``p``, or with p = -1 a whole island without restitution)."""
    Q, LW = wholes(scene, SC_Q), reals(scene, SC_LAW)
    CI, CF, U = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_U)
    approach = 0.0
    for i in range(m):
        approach = max(approach, -CF[i, RATE])
        _, CF[i, SLIP0] = slip_of(i, CI, CF, S)
        CI[i, C_SLIPPING] = HITS
        for side in range(2):
            q = CI[i, C_A] if side == 0 else CI[i, C_B]
            for c in range(16):
                U[q, c] = S[q, c]
    ratio = 0.0
    if p >= 0 and not dull:
        ratio = effective_restitution(LW[Q[p, Q_LAW]], approach, cfg[CFG_CUTOFF])
        for i in range(m):
            CF[i, TARGET] = -ratio * min(CF[i, RATE], 0.0)
    error = solve_contacts(m, S, P, scene, ws)
    for i in range(m):  # what does not solve is undone, and left to the crowd
        for side in range(2):
            q = CI[i, C_A] if side == 0 else CI[i, C_B]
            for c in range(7, 13):
                if not abs(S[q, c]) < WILD:
                    error = 1e300
    if not error < UNSOLVED:
        for i in range(m):
            for side in range(2):
                q = CI[i, C_A] if side == 0 else CI[i, C_B]
                for c in range(7, 13):
                    S[q, c] = U[q, c]
        return 1e300
    if ratio > 0.0 and LW[Q[p, Q_LAW], RESTITUTION] <= 1.0:
        a, b = Q[p, Q_BA], Q[p, Q_BB]
        driven = P[a, MOTION] == KINEMATIC_BODY or P[b, MOTION] == KINEMATIC_BODY
        if not driven and CF[0, BELT] == 0.0 and CF[0, BELT + 1] == 0.0 and CF[0, BELT + 2] == 0.0:
            _make_no_energy(m, a, b, S, P, scene, ws)
    for i in range(m):
        first = True
        for k in range(i):
            if CI[k, C_PAIR] == CI[i, C_PAIR]:
                first = False
        if first and (p >= 0 or _approach_of(CI[i, C_PAIR], m, CI, CF) > 10.0 * STILL or CF[i, J] ** 2 + CF[i, J + 1] ** 2
                      + CF[i, J + 2] ** 2 > 0.0):
            log_pair(t, CI[i, C_PAIR], m, S, U, CI, CF, clog, status)
            if status[ST_CODE] == LOG_FULL:
                return error
    return error


@kernel
def fastest_approach(p, S, P, scene, ws):
    """The most negative rate of what touches in a pair, 0 if nothing approaches."""
    geo, Q = scene, wholes(scene, SC_Q)
    if Q[p, Q_KIND] == MANIFOLD:
        if far_apart(p, 1e-6, S, geo, Q):
            return 0.0
        gap, rate = apart(p, S, geo, Q, reals(ws, WS_WV), reals(ws, WS_M))
        if gap > TOUCH:
            return 0.0
        m = touching(0, p, 0, max(gap, 0.0) + TOGETHER, MOST_CONTACTS, 0.0, 1e300, S, scene, ws)
        worst = min(rate, 0.0)
        for i in range(m):
            worst = min(worst, reals(ws, WS_CF)[i, RATE])
        return worst
    worst = 0.0
    for f in range(Q[p, Q_FEATURES]):
        gap, rate = gap_and_rate(p, f, S, geo, Q)
        if gap <= TOUCH and rate < worst:
            worst = rate
    return worst


@kernel
def margin_of(p, scene):
    """How near the points of a pair must be to count as touching together."""
    return TOGETHER if wholes(scene, SC_Q)[p, Q_KIND] == MANIFOLD else 10.0 * TOUCH


@kernel
def _before(p, q, S, Q):
    """Whether the middle of a pair of bodies comes before that of another, along a direction askew to every lattice."""
    total = 0.0
    for c, weight in ((0, 1.0), (1, 0.7548776662466927), (2, 0.5698402909980532)):
        total += weight * (S[Q[p, Q_BA], c] + S[Q[p, Q_BB], c] - S[Q[q, Q_BA], c] - S[Q[q, Q_BB], c])
    return total < 0.0


@far(WHOLE, REAL, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, REALS2, WHOLES1, REALS1, WHOLES1)
def resolve_impacts(t, count, PL, S, P, scene, ws, clog, status, cfg, cancel):
    """All impacts at time t among the pairs ``PL[:count]``. Returns KEPT where none took energy, LOST where one did, or SWARMS
    where the island is too crowded for it. Impacts that take none go on for as long as they do."""
    Q, LW = wholes(scene, SC_Q), reals(scene, SC_LAW)
    G = reals(ws, WS_G)
    for k in range(count):
        p = PL[k]
        G[Q[p, Q_BA], 0], G[Q[p, Q_BA], 1], G[Q[p, Q_BB], 0], G[Q[p, Q_BB], 1] = 1.0, 1.0, 1.0, 1.0
    what = KEPT
    for it in range(MOST_IMPACTS):
        worst, pick, bouncy, takes = -STILL, -1, False, False
        for k in range(count):
            rate = fastest_approach(PL[k], S, P, scene, ws)
            ratio = effective_restitution(LW[Q[PL[k], Q_LAW]], -rate, cfg[CFG_CUTOFF]) if rate < -STILL else 0.0
            bouncy = bouncy or ratio > 0.0
            level = rate - worst  # of those that close in alike, not the first of the file but the first in space
            if level < -ALIKE * abs(worst) or (level <= ALIKE * abs(worst) and pick >= 0 and _before(PL[k], pick, S, Q)):
                worst, pick = rate, PL[k]
                takes = not lossless(LW[Q[pick, Q_LAW]], ratio)
        if pick < 0:
            return what
        what = LOST if takes else what
        if what == LOST and it >= 4 * IN_A_ROW:
            return SWARMS
        if cancel[0] != 0:
            status[ST_CODE] = CANCELLED
            return what
        tired = what == LOST and it >= IN_A_ROW
        if (not bouncy or tired) and count > 1:
            m = 0
            for most in MOST_CORNERS:
                m = 0
                for k in range(count):
                    if not (Q[PL[k], Q_KIND] == MANIFOLD and far_apart(PL[k], 1e-6, S, scene, Q)):
                        m = touching(m, PL[k], Q[PL[k], Q_FEATURES], margin_of(PL[k], scene), most, 1e-3, 1e300, S, scene, ws)
                if m <= MOST_CONTACTS:
                    break
            if m > MOST_CONTACTS:
                return SWARMS
            if not _hit(t, -1, m, True, S, P, scene, ws, clog, status, cfg) < UNSOLVED:
                return SWARMS
        else:
            m = touching(0, pick, Q[pick, Q_FEATURES], margin_of(pick, scene), MOST_CONTACTS, STILL, 1e300, S, scene, ws)
            if m == 0:  # no corner of the faces approaches, but an edge that crosses one does
                m = touching(0, pick, 0, margin_of(pick, scene), NEAREST, STILL, 1e300, S, scene, ws)
            if m == 0:
                return SWARMS
            if not _hit(t, pick, m, tired, S, P, scene, ws, clog, status, cfg) < UNSOLVED:
                return SWARMS
        if status[ST_CODE] == LOG_FULL:
            return what
    status[ST_CODE] = NO_END
    return what
