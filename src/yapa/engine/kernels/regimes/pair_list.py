"""The pairs of a run, found anew for every outer step: what is known of a pair, its phase and its contact points, goes with it."""

from yapa.engine.kernels.contact.phase_log import close_phase
from yapa.engine.kernels.geometry.broad_phase import find_pairs
from yapa.engine.kernels.geometry.narrow_phase import watch_side
from yapa.engine.kernels.handles import (
    bodies_of,
    config_of,
    phase_log_of,
    phases_of,
    points_of,
    scene_of,
    states_of,
    status_of,
    workspace_of,
)
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    config,
    limits,
    open_phase,
    pair,
    pair_cache,
    point_cache,
    run_code,
    run_status,
    run_table,
    scene_table,
    soft_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.regimes.islands import part_at_start


@part
def _find(h, surfaces, run, bw):
    """The pairs that may meet within ``h``. Returns how many; -1 where there is no room, which is reported."""
    n = find_pairs(h, surfaces, run, bw)
    if n < 0:
        status_of(run)[run_status.CODE] = run_code.PAIRS_FULL
    return n


@part
def first_pairs(h, surfaces, run, bw):
    """The pairs at the start: nothing is remembered of them, and no two bodies overlap. Returns how many."""
    cw, scene, cfg, P, ws = points_of(run), scene_of(run), config_of(run), bodies_of(run), workspace_of(run)
    S, PS, CK = states_of(run), phases_of(run), wholes(cw, soft_table.PAIR_CACHES)
    n = _find(h, surfaces, run, bw)
    for p in range(n):
        PS[p, open_phase.MODE], PS[p, open_phase.ROW], CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR] = 0, 0, 0, 0
        watch_side(p, S, scene, wholes(scene, scene_table.PAIRS))
    if n >= 0 and cfg[config.STEPPED] == 0.0:
        cfg[config.OVERLAP] = part_at_start(n, S, P, scene, ws)
    return n


@part
def _set_aside(old, run, bw):
    """Copy what is known of the pairs."""
    Q, QL = wholes(scene_of(run), scene_table.PAIRS), wholes(bw, run_table.OLD_PAIRS)
    PS, PL = phases_of(run), wholes(bw, run_table.OLD_PHASES)
    CK, CL = wholes(points_of(run), soft_table.PAIR_CACHES), wholes(bw, run_table.OLD_PAIR_CACHES)
    CC, CD = reals(points_of(run), soft_table.POINT_CACHES), reals(bw, run_table.OLD_POINT_CACHES)
    for p in range(old):
        for c in range(pair.COUNT):
            QL[p, c] = Q[p, c]
        PL[p, open_phase.MODE], PL[p, open_phase.ROW] = PS[p, open_phase.MODE], PS[p, open_phase.ROW]
        CL[p, pair_cache.POINTS], CL[p, pair_cache.WHOLE_FOR] = CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR]
        for i in range(CK[p, pair_cache.POINTS]):
            for c in range(point_cache.COUNT):
                CD[limits.SLOTS * p + i, c] = CC[limits.SLOTS * p + i, c]


@kernel
def _before(p, q, QA, QB):
    """-1, 0 or 1: the order of two pairs by the numbers of their shapes."""
    a0, a1 = min(QA[p, pair.SHAPE_A], QA[p, pair.SHAPE_B]), max(QA[p, pair.SHAPE_A], QA[p, pair.SHAPE_B])
    b0, b1 = min(QB[q, pair.SHAPE_A], QB[q, pair.SHAPE_B]), max(QB[q, pair.SHAPE_A], QB[q, pair.SHAPE_B])
    if a0 != b0:
        return -1 if a0 < b0 else 1
    if a1 != b1:
        return -1 if a1 < b1 else 1
    return 0


@part
def _carry_pair(p, k, run, bw):
    """What was known of pair ``k`` of the list before, for pair ``p`` of the new one."""
    Q, QL = wholes(scene_of(run), scene_table.PAIRS), wholes(bw, run_table.OLD_PAIRS)
    PS, PL = phases_of(run), wholes(bw, run_table.OLD_PHASES)
    CK, CL = wholes(points_of(run), soft_table.PAIR_CACHES), wholes(bw, run_table.OLD_PAIR_CACHES)
    CC, CD = reals(points_of(run), soft_table.POINT_CACHES), reals(bw, run_table.OLD_POINT_CACHES)
    PS[p, open_phase.MODE], PS[p, open_phase.ROW] = PL[k, open_phase.MODE], PL[k, open_phase.ROW]
    CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR] = CL[k, pair_cache.POINTS], CL[k, pair_cache.WHOLE_FOR]
    Q[p, pair.SIDE] = QL[k, pair.SIDE]
    for i in range(CL[k, pair_cache.POINTS]):
        for c in range(point_cache.COUNT):
            CC[limits.SLOTS * p + i, c] = CD[limits.SLOTS * k + i, c]


@part
def _close_old(t, k, run, bw):
    """End the phase of a pair that is no longer listed."""
    QL = wholes(bw, run_table.OLD_PAIRS)
    close_phase(t, k, QL[k, pair.BODY_A], QL[k, pair.BODY_B], states_of(run), wholes(bw, run_table.OLD_PHASES), phase_log_of(run))


@part
def _carry_over(t, n, old, run, bw):
    """What was known of pairs in the list before, for those of the new one; the phases of the others end."""
    Q, QL = wholes(scene_of(run), scene_table.PAIRS), wholes(bw, run_table.OLD_PAIRS)
    PS, CK, k = phases_of(run), wholes(points_of(run), soft_table.PAIR_CACHES), 0
    for p in range(n):
        PS[p, open_phase.MODE], PS[p, open_phase.ROW], CK[p, pair_cache.POINTS], CK[p, pair_cache.WHOLE_FOR] = 0, 0, 0, 0
        while k < old and _before(k, p, QL, Q) < 0:
            _close_old(t, k, run, bw)
            k += 1
        if k < old and _before(k, p, QL, Q) == 0:
            _carry_pair(p, k, run, bw)
            k += 1
    while k < old:
        _close_old(t, k, run, bw)
        k += 1


@part
def pairs_again(t, h, old, surfaces, run, bw):
    """The pairs for the next outer step; what was known of the ``old`` ones goes over. Returns how many."""
    S, scene = states_of(run), scene_of(run)
    Q = wholes(scene, scene_table.PAIRS)
    _set_aside(old, run, bw)
    n = _find(h, surfaces, run, bw)
    if n < 0:
        return n
    for p in range(n):
        Q[p, pair.SIDE] = 0
    _carry_over(t, n, old, run, bw)
    for p in range(n):
        watch_side(p, S, scene, Q)
    return n
