"""Islands: bodies that may touch within a step, with the pairs among them; and parting what overlaps at the start."""

from yapa.engine.kernels.geometry.broad_phase import NEAR, root_of, travel_of
from yapa.engine.kernels.geometry.clipping import BY_DEPTH
from yapa.engine.kernels.geometry.manifold import apart, manifold_of
from yapa.engine.kernels.geometry.narrow_phase import far_apart, shift
from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.handles import RUN, bodies_of, config_of, scene_of, states_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, part
from yapa.engine.kernels.layout import (
    body,
    config,
    island_end,
    limits,
    manifold,
    motion_kind,
    pair,
    scene_table,
    state,
    sweep,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import vector

HIT_SPEED = 2.2
"""A body may leave an impact with this times the greatest speed around it."""


@part
def _join_near(n, near, S, P, scene, CLOSE, U, parent):
    """One tree of bodies for every island: what moves by force and may come near each other within its reach ``U`` is joined."""
    Q = wholes(scene, scene_table.PAIRS)
    for b in range(P.shape[0]):
        parent[b] = b
        U[b, state.Z] = 0.0
    for p in range(n):
        a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
        CLOSE[0, p] = 0 if far_apart(p, 1.1 * (U[a, state.Y] + U[b, state.Y]) + near, S, scene, Q) else 1
        if CLOSE[0, p] == 1 and P[a, body.INV_MASS] > 0.0 and P[b, body.INV_MASS] > 0.0:
            ra, rb = root_of(a, parent), root_of(b, parent)
            if ra != rb:
                parent[max(ra, rb)] = min(ra, rb)


@part
def _widen(n, P, Q, CLOSE, U, parent):
    """Let every body reach as far as what it may be hit by; whether any reaches further than before."""
    for p in range(n):  # the fastest that an island holds or meets
        if CLOSE[0, p] == 1:
            a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
            r = root_of(a if P[a, body.INV_MASS] > 0.0 else b, parent)
            if P[a, body.INV_MASS] == 0.0 or P[b, body.INV_MASS] == 0.0:
                U[r, state.Z] = max(U[r, state.Z], U[a, state.X] if P[a, body.INV_MASS] == 0.0 else U[b, state.X])
            else:
                U[r, state.Z] = max(U[r, state.Z], U[a, state.X], U[b, state.X])
    wider = False
    for b in range(P.shape[0]):  # a light body hit by a heavy one leaves with up to twice its speed
        if P[b, body.INV_MASS] > 0.0:
            want = HIT_SPEED * U[root_of(b, parent), state.Z]
            if want > 1.01 * U[b, state.Y]:
                U[b, state.Y] = want
                wider = True
    return wider


@part
def _number(P, parent, island):
    """A number for every island, in the order of its first body; how many there are."""
    count = 0
    for b in range(P.shape[0]):
        island[b] = -1
    for b in range(P.shape[0]):
        if P[b, body.INV_MASS] > 0.0:
            r = root_of(b, parent)
            if island[r] < 0:
                island[r] = count
                count += 1
            island[b] = island[r]
    return count


@part
def _island_of(p, P, Q, island):
    """The island of a pair: that of its first body that forces move."""
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    return island[a if P[a, body.INV_MASS] > 0.0 else b]


@part
def _make_room(n, count, P, Q, CLOSE, BI):
    """Where the bodies and the pairs of every island begin."""
    island, bstart, pstart = BI[sweep.ISLAND], BI[sweep.BODY_START], BI[sweep.PAIR_START]
    for k in range(count + 1):
        bstart[k], pstart[k] = 0, 0
    for b in range(P.shape[0]):
        if P[b, body.INV_MASS] > 0.0:
            bstart[island[b] + 1] += 1
    for p in range(n):
        if CLOSE[0, p] == 1:
            k = _island_of(p, P, Q, island)
            pstart[k + 1] += 1
            if (P[Q[p, pair.BODY_A], body.MOTION] == motion_kind.KINEMATIC
                or P[Q[p, pair.BODY_B], body.MOTION] == motion_kind.KINEMATIC):
                bstart[k + 1] += 1  # room for it, perhaps more than once
    for k in range(count):
        bstart[k + 1] += bstart[k]
        pstart[k + 1] += pstart[k]


@part
def _fill_islands(n, count, P, Q, CLOSE, BI, IB, IE, PB):
    """Lay bodies and pairs out; behind the bodies of every island the driven ones that it meets."""
    island, bstart, pstart, mark = BI[sweep.ISLAND], BI[sweep.BODY_START], BI[sweep.PAIR_START], BI[sweep.MARK]
    for b in range(P.shape[0]):
        mark[b] = -1
    for k in range(count):
        IE[k, island_end.BODIES], IE[k, island_end.PAIRS] = bstart[k], pstart[k]
    for b in range(P.shape[0]):
        if P[b, body.INV_MASS] > 0.0:
            k = island[b]
            IB[0, IE[k, island_end.BODIES]] = b
            IE[k, island_end.BODIES] += 1
    for p in range(n):
        if CLOSE[0, p] == 1:
            k = _island_of(p, P, Q, island)
            PB[0, IE[k, island_end.PAIRS]] = p
            IE[k, island_end.PAIRS] += 1
    for k in range(count):
        for m in range(pstart[k], IE[k, island_end.PAIRS]):
            p = PB[0, m]
            for side in range(2):
                b = Q[p, pair.BODY_A] if side == 0 else Q[p, pair.BODY_B]
                if P[b, body.MOTION] == motion_kind.KINEMATIC and mark[b] != k:
                    mark[b] = k
                    IB[0, IE[k, island_end.BODIES]] = b
                    IE[k, island_end.BODIES] += 1


@far(WHOLE, REAL, WHOLE, RUN, WHOLES2, WHOLES2, WHOLES2, WHOLES2, WHOLES2, REALS2)
def find_islands(h, n, run, BI, IB, IE, PB, CLOSE, U):
    """Bodies and pairs of every island, laid out one after the other. Returns the number of islands."""
    S, P, scene, cfg = states_of(run), bodies_of(run), scene_of(run), config_of(run)
    Q, near, parent = wholes(scene, scene_table.PAIRS), max(NEAR, cfg[config.TOUCH]), BI[sweep.PARENT]
    for b in range(P.shape[0]):
        U[b, state.X] = travel_of(b, h, S, P, cfg)
        U[b, state.Y] = U[b, state.X]
    for _ in range(8):
        _join_near(n, near, S, P, scene, CLOSE, U, parent)
        if not _widen(n, P, Q, CLOSE, U, parent):
            break
    count = _number(P, parent, BI[sweep.ISLAND])
    _make_room(n, count, P, Q, CLOSE, BI)
    _fill_islands(n, count, P, Q, CLOSE, BI, IB, IE, PB)
    return count


@far(REAL, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def part_at_start(n, S, P, scene, ws):
    """Move bodies that overlap at the start apart along the normal. Returns the deepest overlap."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    deepest = 0.0
    for _ in range(4):
        for p in range(n):
            a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
            if far_apart(p, 0.0, S, geo, Q):
                continue
            if has_manifold(Q[p, pair.KIND]):
                M = reals(ws, workspace_table.MANIFOLD)
                m, gap = manifold_of(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), M, 0.0, BY_DEPTH)
                if m > 0 and gap < -limits.TOUCH:
                    deepest = max(deepest, -gap)
                    shift(a, b, gap, vector(M, 0, manifold.NORMAL), S, P)
                continue
            for f in range(Q[p, pair.FEATURES]):
                gap, normal, _, _ = frame(p, f, S, geo, Q)
                if gap < -limits.TOUCH:
                    deepest = max(deepest, -gap)
                    shift(a, b, gap, normal, S, P)
    return deepest


@far(WHOLE, WHOLE, REALS2, WHOLES1, WHOLES1, REALS2)
def measure_gaps(n, S, scene, ws, out):
    """The least gap of every pair, into column 0."""
    Q = wholes(scene, scene_table.PAIRS)
    for p in range(n):
        if has_manifold(Q[p, pair.KIND]):
            out[p, 0], _ = apart(p, S, scene, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
            continue
        low = 1e300
        for f in range(Q[p, pair.FEATURES]):
            gap, _, _, _ = frame(p, f, S, scene, Q)
            low = min(low, gap)
        out[p, 0] = low
    return 0
