"""The loop over substeps: hold what is held, fly the rest, stop at the first meeting, resolve it.

A substep ends at the longest step allowed, at the end of the run, where a slip or a rolling
stops, or where two shapes meet; the next one starts there, so no grid of times shapes the
motion. Samples are read off the dense output at the times asked for.
"""

from yapa.engine.kernels.flight import place_at, spin_at, step_limit, turn_at
from yapa.engine.kernels.impacts import resolve_impacts
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    BOX,
    C_FEATURE,
    C_MODE,
    C_PAIR,
    CANCELLED,
    CFG_CURVED_STEP,
    CFG_END,
    CFG_LEAN,
    CFG_OVERLAP,
    CFG_STEP,
    DRAG,
    FORCE,
    INV_MASS,
    KIND,
    LIN_DAMP,
    LOG_FULL,
    MODE_NONE,
    MODE_SLIP,
    OK,
    PH_MODE,
    PH_PAIR,
    PH_STATE,
    PH_T0,
    PH_T1,
    SPHERE_PLANE,
    ST_CODE,
    ST_PHASES,
    ST_SAMPLES,
    ST_STEPS,
    STUCK,
    TOO_LONG,
    J,
)
from yapa.engine.kernels.sustained import advance_all, crossing, gather, hold, part_at_start, rescale, settle
from yapa.engine.kernels.timing import first_meeting, stays_above


@kernel
def _write_state(row, offset, q, S, log):
    for c in range(3):
        log[row, offset + c] = S[q, c]
        log[row, offset + 3 + c] = S[q, 13 + c]
        log[row, offset + 6 + c] = S[q, 7 + c]
        log[row, offset + 9 + c] = S[q, 10 + c]


@kernel
def _follow_modes(t, m, S, pi, CI, now, opened, plog, status):
    """Open and close rows of the phase log where the mode of a pair changes."""
    for p in range(pi.shape[0]):
        mode = MODE_NONE
        for i in range(m):
            if CI[i, C_PAIR] == p and CI[i, C_MODE] != MODE_NONE and (CI[i, C_MODE] == MODE_SLIP or mode == MODE_NONE):
                mode = CI[i, C_MODE]
        if mode == now[p]:
            continue
        if now[p] != MODE_NONE:
            row = opened[p]
            plog[row, PH_T1] = t
            _write_state(row, PH_STATE + 24, pi[p, 0], S, plog)
            _write_state(row, PH_STATE + 36, pi[p, 1], S, plog)
        now[p] = mode
        if mode != MODE_NONE:
            row = status[ST_PHASES]
            if row >= plog.shape[0]:
                status[ST_CODE] = LOG_FULL
                return
            opened[p] = row
            status[ST_PHASES] = row + 1
            plog[row, PH_T0], plog[row, PH_PAIR], plog[row, PH_MODE] = t, p, mode
            _write_state(row, PH_STATE, pi[p, 0], S, plog)
            _write_state(row, PH_STATE + 12, pi[p, 1], S, plog)


@kernel
def _sample(t, h, n, lean, S, P, D, X, times, out, status):
    """Write the samples of moving bodies that fall into (t, t + h]; those that rest were laid out by the host."""
    k = status[ST_SAMPLES]
    end = t + h
    while k < times.shape[0] and times[k] <= end:
        s = times[k] - t
        for b in range(n):
            if P[b, INV_MASS] > 0.0:
                place_at(b, s, D, X)
                if lean and P[b, KIND] != BOX:
                    spin_at(b, s, S, P, D, X)
                else:
                    turn_at(b, s, S, P, D, X)
                for c in range(16):
                    out[k, b, c] = X[b, c]
        k += 1
    status[ST_SAMPLES] = k


@kernel
def _passes_needed(m, pi, P, CI):
    """At most: one pass is exact for undamped spheres on planes, drag or damping needs two or three."""
    passes = 1
    for i in range(m):
        p = CI[i, C_PAIR]
        if pi[p, 2] != SPHERE_PLANE:
            return 8
        a = pi[p, 0]
        if P[a, DRAG] > 0.0 or P[a, LIN_DAMP] > 0.0 or P[a, ANG_DAMP] > 0.0:
            passes = 3
    return passes


@kernel
def run(S, P, pi, pf, times, out, clog, plog, cfg, status, cancel, D, E, X, U, G, W, H, CI, CF, now, opened, act, N,
        which):
    """Run the whole motion.

    ``S`` states (changed), ``P`` properties, ``pi``/``pf`` pairs, ``times`` rising sample times,
    ``out[T, n, 16]`` samples, ``clog``/``plog`` logs, ``cfg`` settings, ``status`` codes and counts,
    ``cancel[0]`` polled every substep; the rest is workspace from the host.
    """
    n, np_ = S.shape[0], pi.shape[0]
    t, end = 0.0, cfg[CFG_END]
    cfg[CFG_OVERLAP] = part_at_start(S, P, pi)
    idle, m = 0, 0
    lean = cfg[CFG_LEAN] != 0.0  # orientations of spheres are left as they started
    near = True  # whether anything may touch: not after a substep of free flight that met nothing
    for b in range(n):
        for c in range(16):
            X[b, c] = S[b, c]
            E[b, c] = S[b, c]
    while status[ST_SAMPLES] < times.shape[0] and times[status[ST_SAMPLES]] <= 0.0:
        k = status[ST_SAMPLES]
        for b in range(n):
            for c in range(16):
                out[k, b, c] = S[b, c]
        status[ST_SAMPLES] = k + 1
    while t < end:
        if cancel[0] != 0:
            status[ST_CODE] = CANCELLED
            return
        status[ST_STEPS] += 1
        if status[ST_STEPS] > 20000000:
            status[ST_CODE] = TOO_LONG
            return
        if near:
            resolve_impacts(t, n, S, P, pi, pf, CI, CF, U, G, W, N, which, clog, status, cfg)
            if status[ST_CODE] != OK:
                return
        h = min(cfg[CFG_STEP], end - t)
        for b in range(n):
            if P[b, INV_MASS] > 0.0:
                h = step_limit(b, S, P, cfg, h)
                if P[b, KIND] == BOX:
                    h = min(h, cfg[CFG_CURVED_STEP])
        held_before = m > 0
        m = gather(S, P, pi, pf, CI, CF, H) if near else 0
        for i in range(m):
            if pi[CI[i, C_PAIR], 2] != SPHERE_PLANE:
                h = min(h, cfg[CFG_CURVED_STEP])
        if end - t - h < 1e-9 * end:
            h = end - t
        if m > 0 or held_before:
            for p in range(np_):
                for f in range(pi[p, 3]):
                    act[8 * p + f] = 0
        passes = _passes_needed(m, pi, P, CI)
        if m > 0:
            rescale(m, h, CI, CF)
            hold(m, n, h, passes, S, P, pi, pf, CI, CF, D, E, X, G, N, which, cfg)
            for _ in range(60):
                cut = crossing(m, h, CI, CF)
                if cut >= h:
                    break
                rescale(m, cut / h, CI, CF)
                h = cut
                hold(m, n, h, passes, S, P, pi, pf, CI, CF, D, E, X, G, N, which, cfg)
            for i in range(m):
                if CI[i, C_MODE] != MODE_NONE:
                    act[8 * CI[i, C_PAIR] + CI[i, C_FEATURE]] = 1
        else:
            for b in range(n):
                for c in range(6):
                    D[b, FORCE + c] = 0.0
            advance_all(n, h, S, P, D, E, cfg)
        hit, span = h, h
        for p in range(np_):
            for f in range(pi[p, 3]):
                if act[8 * p + f] == 0:
                    if pi[p, 2] == SPHERE_PLANE and hit == h and stays_above(pi[p, 0], pi[p, 1], S, E, P):
                        continue
                    s = first_meeting(pi[p, 2], pi[p, 0], pi[p, 1], f, hit, S, P, D, X)
                    if s >= 0.0 and s < hit:
                        hit = s
        if hit < h:
            if m > 0 and hit > 0.0 and passes > 1:
                rescale(m, hit / h, CI, CF)
                span = hit
                hold(m, n, hit, passes, S, P, pi, pf, CI, CF, D, E, X, G, N, which, cfg)
            for b in range(n):
                if P[b, INV_MASS] > 0.0:
                    place_at(b, hit, D, E)
                    turn_at(b, hit, S, P, D, E)
        if m > 0 or held_before:
            _follow_modes(t, m, S, pi, CI, now, opened, plog, status)
            if status[ST_CODE] != OK:
                return
        _sample(t, hit, n, lean, S, P, D, X, times, out, status)
        if held_before or m > 0:
            for p in range(np_):
                for f in range(pi[p, 3]):
                    for c in range(6):
                        H[8 * p + f, c] = 0.0
        for i in range(m):
            for c in range(6):
                H[8 * CI[i, C_PAIR] + CI[i, C_FEATURE], c] = CF[i, J + c] / span
        for b in range(n):
            if P[b, INV_MASS] > 0.0:
                for c in range(16):
                    S[b, c] = E[b, c]
        near = m > 0 or hit < h
        if m > 0:
            settle(m, S, P, pi, CI, CF)
        idle = idle + 1 if hit < 1e-10 else 0
        if idle > 2000:
            status[ST_CODE] = STUCK
            return
        t = end if hit == h and end - t - h <= 0.0 else t + hit
    _follow_modes(end, 0, S, pi, CI, now, opened, plog, status)
    k = status[ST_SAMPLES]
    while k < times.shape[0]:
        for b in range(n):
            for c in range(16):
                out[k, b, c] = S[b, c]
        k += 1
    status[ST_SAMPLES] = k
