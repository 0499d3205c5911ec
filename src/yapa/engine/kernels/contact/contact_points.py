"""Contact points of the soft-contact and the fixed-step regimes: found pair by pair, and kept by their features."""

from yapa.engine.kernels.contact.pair_law import tangents
from yapa.engine.kernels.dynamics.flight import same_all_round, spin_of
from yapa.engine.kernels.geometry.clipping import BY_DEPTH
from yapa.engine.kernels.geometry.manifold import manifold_of
from yapa.engine.kernels.geometry.narrow_phase import far_apart, watch_side
from yapa.engine.kernels.geometry.pairs.dispatch import frame, rolling_radius
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.placing import turned, turned_back
from yapa.engine.kernels.geometry.shape_traits import has_flat_ends, is_round_shape
from yapa.engine.kernels.handles import ISLAND, RUN, bodies_of, points_of, scene_of, states_of, workspace_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    inverse_inertia,
    limits,
    manifold,
    material,
    pair,
    pair_cache,
    point,
    point_cache,
    point_int,
    scene_table,
    shape,
    shape_int,
    soft_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    VECTOR,
    ZERO,
    ahead,
    aside,
    dot,
    minus,
    over,
    plus,
    put,
    quaternion,
    times,
    unit,
    vector,
)


@far(WHOLE, WHOLE, REALS2, REALS2, REALS2)
def world_inverse(b, S, P, IW):
    """World inverse inertia of a body, six numbers: xx, yy, zz, xy, yz, xz."""
    if P[b, body.INV_MASS] == 0.0:
        for c in range(6):
            IW[b, c] = 0.0
        return 0
    lock = int(P[b, body.LOCK])
    inertia = vector(P, b, body.INERTIA)
    if lock < 8 and same_all_round(inertia):
        same = 1.0 / inertia[0]
        IW[b, inverse_inertia.XX], IW[b, inverse_inertia.YY], IW[b, inverse_inertia.ZZ] = same, same, same
        IW[b, inverse_inertia.XY], IW[b, inverse_inertia.YZ], IW[b, inverse_inertia.XZ] = 0.0, 0.0, 0.0
        return 0
    q = quaternion(S, b, state.ORIENTATION)
    x, y, z = (spin_of(lock, q, (1.0, 0.0, 0.0), inertia), spin_of(lock, q, (0.0, 1.0, 0.0), inertia),
               spin_of(lock, q, (0.0, 0.0, 1.0), inertia))
    IW[b, inverse_inertia.XX], IW[b, inverse_inertia.YY], IW[b, inverse_inertia.ZZ] = x[0], y[1], z[2]
    IW[b, inverse_inertia.XY], IW[b, inverse_inertia.YZ], IW[b, inverse_inertia.XZ] = y[0], z[1], z[0]
    return 0


@kernel
def _round_part(s, q, arm, normal, sign, S, geo):
    """The part of an arm that does not turn with its body: from the centre or the line that a shape is round about to the point.

    ``sign`` times the normal points into the shape. Of a cylinder it is across the axis, but where something lies on its end."""
    GF, kind = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)[s, shape_int.KIND]
    if is_round_shape(kind):
        return times(-sign * GF[s, shape.RADIUS], normal)
    if has_flat_ends(kind):
        low = turned(q, S, vector(GF, s, shape.A))
        axis = unit(minus(turned(q, S, vector(GF, s, shape.B)), low))
        if sign < 0.0 and abs(dot(axis, normal)) > 0.7:
            return ZERO
        return aside(minus(arm, low), axis)
    return ZERO


@part
def _place_point(n, p, gap, normal, on_b, run, RC, RB):
    """Frame and arms of point ``n``; what of them turns with each body: a ball's stays where it is in the world, any other's turns
    with its body, or with the line that it is round about."""
    S, P, scene = states_of(run), bodies_of(run), scene_of(run)
    Q = wholes(scene, scene_table.PAIRS)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    RB[n, point_int.BODY_A], RB[n, point_int.BODY_B], RB[n, point_int.PAIR] = a, b, p
    t, s = tangents(normal)
    put(RC, n, point.N, normal)
    put(RC, n, point.T, t)
    put(RC, n, point.S, s)
    arm_a = minus(ahead(on_b, gap, normal), vector(S, a, state.POSITION))
    arm_b = minus(on_b, vector(S, b, state.POSITION))
    put(RC, n, point.ARM_A, arm_a)
    put(RC, n, point.ARM_B, arm_b)
    for side in range(2):
        q, to, arm = (a, point.LOCAL_A, arm_a) if side == 0 else (b, point.LOCAL_B, arm_b)
        ball = P[q, body.BALL] != 0.0 and P[q, body.MOTION] == 1.0
        s, sign = (Q[p, pair.SHAPE_A], 1.0) if side == 0 else (Q[p, pair.SHAPE_B], -1.0)
        round_part = ZERO if ball else _round_part(s, q, arm, normal, sign, S, scene)
        core = minus(arm, round_part)
        put(RC, n, to, core if ball else turned_back(q, S, core))
        put(RC, n, point.ROUND_A if side == 0 else point.ROUND_B, round_part)


@part
def _surfaces_of(n, p, feature, run, RC, IW):
    """What the surfaces at point ``n`` do: how they run along its tangents, how they roll, and what resists turning."""
    S, scene = states_of(run), scene_of(run)
    Q, GF = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.SHAPES)
    law = reals(scene, scene_table.MATERIALS)[Q[p, pair.MATERIAL]]
    RC[n, point.REFF] = rolling_radius(p, int(feature), scene, Q)
    if law[material.ROLLING] == 0.0 and law[material.SPINNING] == 0.0:
        RC[n, point.REFF] = 0.0
    put(RC, n, point.BELT, ZERO)
    turn = 0.0
    for side in range(2):
        s, q, sign = (Q[p, pair.SHAPE_A], Q[p, pair.BODY_A], 1.0) if side == 0 else (Q[p, pair.SHAPE_B], Q[p, pair.BODY_B], -1.0)
        belt = vector(GF, s, shape.BELT)
        if belt != ZERO:
            runs = turned(q, S, belt)
            RC[n, point.BELT + 1] += sign * dot(runs, vector(RC, n, point.T))
            RC[n, point.BELT + 2] += sign * dot(runs, vector(RC, n, point.S))
        turn += max(IW[q, inverse_inertia.XX], IW[q, inverse_inertia.YY], IW[q, inverse_inertia.ZZ])
    RC[n, point.MASS_R] = 1.0 / turn if turn > 0.0 else 0.0


@part
def _same_point(p, feature, at, CK, CC):
    """The kept point of a pair with this feature, or else the one nearest to ``at`` on b; -1 where none is near."""
    found, near = -1, 1e300
    for k in range(limits.SLOTS * p, limits.SLOTS * p + CK[p, pair_cache.POINTS]):
        if CC[k, point_cache.BY_FEATURE] != 0.0:  # of the event-driven regime: it may be the force of a vanishing substep
            continue
        if CC[k, point_cache.FEATURE] == feature:
            return k
        apart = minus(vector(CC, k, point_cache.ANCHOR), at)
        if dot(apart, apart) < near:
            near, found = dot(apart, apart), k
    return found if near <= 4e-6 else -1


@part
def _start_warm(n, k, h, RC, CC):
    """Give point ``n`` the impulses over ``h`` of what is kept in row ``k``."""
    RC[n, point.IMPULSE_N] = h * CC[k, point_cache.NORMAL_FORCE]
    along = times(h, vector(CC, k, point_cache.TANGENT))
    RC[n, point.IMPULSE_T], RC[n, point.IMPULSE_S] = dot(along, vector(RC, n, point.T)), dot(along, vector(RC, n, point.S))
    put(RC, n, point.IMPULSE_R, times(h, vector(CC, k, point_cache.TORQUE)) if RC[n, point.REFF] > 0.0 else ZERO)
    RC[n, point.STICK] = CC[k, point_cache.STICKS]


@far(WHOLE, WHOLE, WHOLE, REAL, REAL, VECTOR, VECTOR, RUN, REAL)
def _add_point(n, p, feature, gap, normal, on_b, run, h):
    """Fill point ``n``, which is ``on_b``; warm-started from the same feature or the nearest kept point."""
    cw = points_of(run)
    RC, RB, IW = reals(cw, soft_table.POINTS), wholes(cw, soft_table.POINTS_INT), reals(cw, soft_table.INVERSE_INERTIAS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    RC[n, point.FEATURE] = feature
    _place_point(n, p, gap, normal, on_b, run, RC, RB)
    _surfaces_of(n, p, feature, run, RC, IW)
    RC[n, point.IMPULSE_N], RC[n, point.IMPULSE_T], RC[n, point.IMPULSE_S] = 0.0, 0.0, 0.0
    put(RC, n, point.IMPULSE_R, ZERO)
    RC[n, point.APPROACH], RC[n, point.PEAK_IMPULSE], RC[n, point.TOTAL], RC[n, point.SEPARATION] = 0.0, 0.0, 0.0, gap
    RC[n, point.SLIP], RC[n, point.RUB], RC[n, point.STICK] = 0.0, 0.0, 1.0
    known = _same_point(p, feature, vector(RC, n, point.LOCAL_B), CK, CC)
    if known >= 0:
        _start_warm(n, known, h, RC, CC)
    return 0


@far(WHOLE, ISLAND, REAL, REAL, RUN)
def find_points(island, margin, h, run):
    """The points of all pairs of an island that are nearer than the margin. Returns their number."""
    S, scene, ws, cw, PL = states_of(run), scene_of(run), workspace_of(run), points_of(run), island.PL
    Q, M = wholes(scene, scene_table.PAIRS), reals(ws, workspace_table.MANIFOLD)
    RC, CK = reals(cw, soft_table.POINTS), wholes(cw, soft_table.PAIR_CACHES)
    n = 0
    for k in range(PL.shape[0]):
        p = PL[k]
        if Q[p, pair.SIDE] != 0:
            watch_side(p, S, scene, Q)
        if far_apart(p, margin, S, scene, Q):
            CK[p, pair_cache.POINTS] = 0
            continue
        first = n
        if has_manifold(Q[p, pair.KIND]):
            m, _ = manifold_of(p, S, scene, Q, reals(ws, workspace_table.POLYGONS), M, margin, BY_DEPTH)
            for j in range(m):
                if n < RC.shape[0]:
                    _add_point(n, p, M[j, manifold.FEATURE], M[j, manifold.GAP], vector(M, j, manifold.NORMAL),
                               vector(M, j, manifold.POINT), run, h)
                    n += 1
        else:
            for f in range(Q[p, pair.FEATURES]):
                gap, normal, arm_a, _ = frame(p, f, S, scene, Q)
                if gap < margin and n < RC.shape[0] and n - first < limits.SLOTS:
                    on_b = ahead(plus(vector(S, Q[p, pair.BODY_A], state.POSITION), arm_a), -gap, normal)
                    _add_point(n, p, float(f), gap, normal, on_b, run, h)
                    n += 1
    return n


@kernel
def remember(n, h, RC, RB, CK, CC, count, PL):
    """Keep the points as forces, a guess for the next piece whatever its length."""
    for k in range(count):
        CK[PL[k], pair_cache.POINTS] = 0
    for i in range(n):
        p = RB[i, point_int.PAIR]
        k = CK[p, pair_cache.POINTS]
        if k >= limits.SLOTS:
            continue
        at = limits.SLOTS * p + k
        CC[at, point_cache.FEATURE], CC[at, point_cache.NORMAL_FORCE] = RC[i, point.FEATURE], RC[i, point.IMPULSE_N] / h
        along = ahead(times(RC[i, point.IMPULSE_T], vector(RC, i, point.T)), RC[i, point.IMPULSE_S], vector(RC, i, point.S))
        put(CC, at, point_cache.TANGENT, over(along, h))
        put(CC, at, point_cache.TORQUE, over(vector(RC, i, point.IMPULSE_R), h))
        put(CC, at, point_cache.ANCHOR, vector(RC, i, point.LOCAL_B))
        CC[at, point_cache.STICKS], CC[at, point_cache.BY_FEATURE] = RC[i, point.STICK], 0.0
        CK[p, pair_cache.POINTS] = k + 1
