"""Impacts at one instant: pair by pair, fastest approach first, simultaneous within one pair.

Restitution e falls smoothly to 0 between twice the cut-off speed and the cut-off speed (cubic
smoothstep), so a bounce series ends after finitely many contacts and outcomes stay smooth.
Newton's restitution with Coulomb friction can make energy in an eccentric hit of a box; there
the result is blended towards the one with e = 0 until it makes none (Stronge, Impact Mechanics).
"""

from math import sqrt

from yapa.engine.kernels.corners import solve_contacts
from yapa.engine.kernels.gaps import frame, gap_and_rate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    ARM_A,
    ARM_B,
    C_A,
    C_B,
    C_FEATURE,
    C_PAIR,
    C_ROLLING,
    C_SLIPPING,
    CFG_CUTOFF,
    END_A,
    END_B,
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
    NORMAL,
    OK,
    RATE,
    RESTITUTION,
    ST_CODE,
    ST_CONTACTS,
    ST_IMPACTS,
    STILL,
    TARGET,
    TOUCH,
    J,
    K,
)
from yapa.engine.kernels.solve import kinetic_energy, relative


@kernel
def effective_restitution(e, approach, cutoff):
    """e with its smooth end between twice the cut-off speed and the cut-off speed."""
    if approach >= 2.0 * cutoff:
        return e
    if approach <= cutoff:
        return 0.0
    s = approach / cutoff - 1.0
    return e * s * s * (3.0 - 2.0 * s)


@kernel
def add_contact(i, p, f, pi, CI, CF, X, P):
    """Write contact row ``i`` for feature ``f`` of pair ``p``; no slip or rolling forced."""
    a, b = pi[p, 0], pi[p, 1]
    gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(pi[p, 2], a, b, f, X, P)
    CI[i, C_PAIR], CI[i, C_FEATURE], CI[i, C_A], CI[i, C_B] = p, f, a, b
    CI[i, C_SLIPPING], CI[i, C_ROLLING] = 0, 0
    CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2] = nx, ny, nz
    CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2] = ax, ay, az
    CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2] = bx, by, bz
    for c in range(3):
        CF[i, END_A + c] = CF[i, ARM_A + c]
        CF[i, END_B + c] = CF[i, ARM_B + c]
        CF[i, J + c] = 0.0
        CF[i, K + c] = 0.0
    ux, uy, uz = relative(i, CI, CF, X)
    CF[i, RATE] = nx * ux + ny * uy + nz * uz
    CF[i, TARGET] = 0.0
    return gap


@kernel
def _slip(i, CI, CF, X):
    ux, uy, uz = relative(i, CI, CF, X)
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    un = ux * nx + uy * ny + uz * nz
    return un, sqrt((ux - un * nx) ** 2 + (uy - un * ny) ** 2 + (uz - un * nz) ** 2)


@kernel
def hit_pair(t, p, n, e_scale, S, P, pi, pf, CI, CF, U, G, W, N, which, clog, status, cfg):
    """Resolve the impact of pair ``p`` on the states ``S``; log it. ``U`` and ``W`` are scratch."""
    a, b = pi[p, 0], pi[p, 1]
    m = 0
    approach = 0.0
    for f in range(pi[p, 3]):
        gap, rate = gap_and_rate(pi[p, 2], a, b, f, S, P)
        if gap <= 10.0 * TOUCH and rate < STILL:
            add_contact(m, p, f, pi, CI, CF, S, P)
            approach = max(approach, -rate)
            m += 1
    if m == 0:
        return
    row = status[ST_CONTACTS]
    if row >= clog.shape[0]:
        status[ST_CODE] = LOG_FULL
        return
    slip0 = 0.0
    for i in range(m):
        _, u = _slip(i, CI, CF, S)
        slip0 = max(slip0, u)
        CI[i, C_SLIPPING] = 2
    before = kinetic_energy(n, S, P)
    for k in range(2):
        q = a if k == 0 else b
        o = LOG_STATE + 18 * k
        for c in range(3):
            clog[row, o + c] = S[q, c]
            clog[row, o + 3 + c] = S[q, 13 + c]
            clog[row, o + 6 + c] = S[q, 7 + c]
            clog[row, o + 12 + c] = S[q, 10 + c]
    ratio = effective_restitution(pf[p, RESTITUTION], approach, cfg[CFG_CUTOFF]) * e_scale
    for k in range(2):
        q = a if k == 0 else b
        for c in range(16):
            U[q, c] = S[q, c]
    for i in range(m):
        CF[i, TARGET] = -ratio * min(CF[i, RATE], 0.0)
    solve_contacts(m, CI, CF, S, P, pi, pf, G, N, which)
    after = kinetic_energy(n, S, P)
    if after > before * (1.0 + 1e-12) and ratio > 0.0 and pf[p, RESTITUTION] <= 1.0:
        # blend towards e = 0: energy is quadratic in the share s of what e adds
        for i in range(m):
            for c in range(3):
                W[i, c], W[i, 3 + c] = CF[i, J + c], CF[i, K + c]
                CF[i, J + c], CF[i, K + c] = 0.0, 0.0
            CF[i, TARGET] = 0.0
        solve_contacts(m, CI, CF, U, P, pi, pf, G, N, which)
        lo, hi = 0.0, 1.0
        for k in range(2):
            q = a if k == 0 else b
            for c in range(7, 13):
                U[q + U.shape[0] // 2, c] = S[q, c]
        for _ in range(60):
            s = 0.5 * (lo + hi)
            for k in range(2):
                q = a if k == 0 else b
                for c in range(7, 13):
                    S[q, c] = U[q, c] + s * (U[q + U.shape[0] // 2, c] - U[q, c])
            if kinetic_energy(n, S, P) > before:
                hi = s
            else:
                lo = s
        for i in range(m):
            for c in range(3):
                CF[i, J + c] += lo * (W[i, c] - CF[i, J + c])
                CF[i, K + c] += lo * (W[i, 3 + c] - CF[i, K + c])
    jn, jt0, jt1, jt2 = 0.0, 0.0, 0.0, 0.0
    px, py, pz, weight = 0.0, 0.0, 0.0, 0.0
    rebound, slip1 = 0.0, 0.0
    for i in range(m):
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        j = CF[i, J] * nx + CF[i, J + 1] * ny + CF[i, J + 2] * nz
        jn += j
        jt0 += CF[i, J] - j * nx
        jt1 += CF[i, J + 1] - j * ny
        jt2 += CF[i, J + 2] - j * nz
        w = j + 1e-300
        px += w * (S[a, 0] + CF[i, ARM_A])
        py += w * (S[a, 1] + CF[i, ARM_A + 1])
        pz += w * (S[a, 2] + CF[i, ARM_A + 2])
        weight += w
        un, u = _slip(i, CI, CF, S)
        rebound = max(rebound, un)
        slip1 = max(slip1, u)
    clog[row, LOG_TIME], clog[row, LOG_PAIR], clog[row, LOG_A], clog[row, LOG_B] = t, p, a, b
    clog[row, LOG_POINT], clog[row, LOG_POINT + 1], clog[row, LOG_POINT + 2] = px / weight, py / weight, pz / weight
    for c in range(3):
        clog[row, LOG_NORMAL + c] = CF[0, NORMAL + c]
    clog[row, LOG_APPROACH], clog[row, LOG_REBOUND] = approach, rebound
    clog[row, LOG_SLIP0], clog[row, LOG_SLIP1] = slip0, slip1
    clog[row, LOG_JN], clog[row, LOG_JT] = jn, sqrt(jt0 * jt0 + jt1 * jt1 + jt2 * jt2)
    for k in range(2):
        q = a if k == 0 else b
        o = LOG_STATE + 18 * k
        for c in range(3):
            clog[row, o + 9 + c] = S[q, 7 + c]
            clog[row, o + 15 + c] = S[q, 10 + c]
    status[ST_CONTACTS] = row + 1
    status[ST_IMPACTS] += 1


@kernel
def resolve_impacts(t, n, S, P, pi, pf, CI, CF, U, G, W, N, which, clog, status, cfg):
    """All impacts at time t. After 200 in a row, restitution is taken as zero."""
    count = 0
    for q in range(n):
        G[q, 0], G[q, 1] = 1.0, 1.0
    for _ in range(1000):
        worst, pick = -STILL, -1
        for p in range(pi.shape[0]):
            for f in range(pi[p, 3]):
                gap, rate = gap_and_rate(pi[p, 2], pi[p, 0], pi[p, 1], f, S, P)
                if gap <= TOUCH and rate < worst:
                    worst, pick = rate, p
        if pick < 0:
            return count
        hit_pair(t, pick, n, 1.0 if count < 200 else 0.0, S, P, pi, pf, CI, CF, U, G, W, N, which, clog, status, cfg)
        if status[ST_CODE] != OK:
            return count
        count += 1
    return count
