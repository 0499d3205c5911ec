"""Contact points of the soft-contact and the fixed-step regimes: found pair by pair, and kept by their features."""

from yapa.engine.kernels.contact.pair_law import tangents
from yapa.engine.kernels.dynamics.flight import spin_of
from yapa.engine.kernels.geometry.manifold import BY_DEPTH, manifold_of
from yapa.engine.kernels.geometry.narrow_phase import far_apart, watch_side
from yapa.engine.kernels.geometry.pairs.dispatch import frame, rolling_radius
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.geometry.shape_traits import is_round_shape
from yapa.engine.kernels.handles import ISLAND, RUN, bodies_of, scene_of, states_of, workspace_of
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
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
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes

# columns of a point


@far(WHOLE, WHOLE, REALS2, REALS2, REALS2)
def world_inverse(b, S, P, IW):
    """World inverse inertia of a body, six numbers: xx, yy, zz, xy, yz, xz."""
    if P[b, body.INV_MASS] == 0.0:
        for c in range(6):
            IW[b, c] = 0.0
        return 0
    lock = int(P[b, body.LOCK])
    i1, i2, i3 = P[b, body.INERTIA], P[b, body.INERTIA + 1], P[b, body.INERTIA + 2]
    if lock < 8 and i1 == i2 and i2 == i3:
        IW[b, inverse_inertia.XX], IW[b, inverse_inertia.YY], IW[b, inverse_inertia.ZZ] = 1.0 / i1, 1.0 / i1, 1.0 / i1
        IW[b, inverse_inertia.XY], IW[b, inverse_inertia.YZ], IW[b, inverse_inertia.XZ] = 0.0, 0.0, 0.0
        return 0
    w, x, y, z = S[b, state.QW], S[b, state.QX], S[b, state.QY], S[b, state.QZ]
    xx, yx, zx = spin_of(lock, w, x, y, z, 1.0, 0.0, 0.0, i1, i2, i3)
    xy, yy, zy = spin_of(lock, w, x, y, z, 0.0, 1.0, 0.0, i1, i2, i3)
    xz, yz, zz = spin_of(lock, w, x, y, z, 0.0, 0.0, 1.0, i1, i2, i3)
    IW[b, inverse_inertia.XX], IW[b, inverse_inertia.YY], IW[b, inverse_inertia.ZZ], IW[b, inverse_inertia.XY] = xx, yy, zz, xy
    IW[b, inverse_inertia.YZ], IW[b, inverse_inertia.XZ] = yz, xz
    return 0


@kernel
def _local(b, S, x, y, z, ball):
    if ball:
        return x, y, z
    w, i, j, k = S[b, state.QW], -S[b, state.QX], -S[b, state.QY], -S[b, state.QZ]
    tx, ty, tz = 2.0 * (j * z - k * y), 2.0 * (k * x - i * z), 2.0 * (i * y - j * x)
    return x + w * tx + j * tz - k * ty, y + w * ty + k * tx - i * tz, z + w * tz + i * ty - j * tx


@kernel
def _roundness(s, geo):
    """How far a shape reaches around its centre or its line, which turn with its body while that does not."""
    kind = wholes(geo, scene_table.SHAPES_INT)[s, shape_int.KIND]
    return reals(geo, scene_table.SHAPES)[s, shape.RADIUS] if is_round_shape(kind) else 0.0


@far(
    WHOLE, WHOLE, WHOLE, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REALS2, REALS2, WHOLES1, REALS2, WHOLES2, REALS2,
    WHOLES2, REALS2, REAL,
)
def _add_point(n, p, feature, gap, nx, ny, nz, px, py, pz, S, P, scene, RC, RB, IW, CK, CC, h):
    """Fill point ``n``: (px, py, pz) is on b's side; warm-started from the same feature or the nearest kept point."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    GF = reals(geo, scene_table.SHAPES)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    RB[n, point_int.BODY_A], RB[n, point_int.BODY_B], RB[n, point_int.PAIR] = a, b, p
    tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
    RC[n, point.NX], RC[n, point.NY], RC[n, point.NZ] = nx, ny, nz
    RC[n, point.TX], RC[n, point.TY], RC[n, point.TZ] = tx, ty, tz
    RC[n, point.SX], RC[n, point.SY], RC[n, point.SZ] = sx, sy, sz
    ax, ay, az = px + gap * nx - S[a, state.X], py + gap * ny - S[a, state.Y], pz + gap * nz - S[a, state.Z]
    bx, by, bz = px - S[b, state.X], py - S[b, state.Y], pz - S[b, state.Z]
    RC[n, point.ARM_A], RC[n, point.ARM_A + 1], RC[n, point.ARM_A + 2] = ax, ay, az
    RC[n, point.ARM_B], RC[n, point.ARM_B + 1], RC[n, point.ARM_B + 2] = bx, by, bz
    # a ball's point stays where it is in the world, any other turns with its body, or with the line it is round about
    for side in range(2):
        q, to, x, y, z = (a, point.LOCAL_A, ax, ay, az) if side == 0 else (b, point.LOCAL_B, bx, by, bz)
        ball = P[q, body.BALL] != 0.0 and P[q, body.MOTION] == 1.0
        r = 0.0 if ball else _roundness(Q[p, pair.SHAPE_A] if side == 0 else Q[p, pair.SHAPE_B], geo)
        away = r if side == 0 else -r
        RC[n, to], RC[n, to + 1], RC[n, to + 2] = _local(q, S, x + away * nx, y + away * ny, z + away * nz, ball)
        RC[n, point.ROUND + side] = -away
    RC[n, point.GAP] = gap
    RC[n, point.FEATURE] = feature
    RC[n, point.REFF] = rolling_radius(p, 0 if has_manifold(Q[p, pair.KIND]) else int(feature), geo, Q)
    law = reals(scene, scene_table.MATERIALS)[Q[p, pair.MATERIAL]]
    if law[material.ROLLING] == 0.0 and law[material.SPINNING] == 0.0:
        RC[n, point.REFF] = 0.0
    for c in range(3):
        RC[n, point.BELT + c] = 0.0
        RC[n, point.IMPULSE_R + c] = 0.0
    for side in range(2):
        s, q, sign = (Q[p, pair.SHAPE_A], a, 1.0) if side == 0 else (Q[p, pair.SHAPE_B], b, -1.0)
        x, y, z = GF[s, shape.BELT], GF[s, shape.BELT + 1], GF[s, shape.BELT + 2]
        if x != 0.0 or y != 0.0 or z != 0.0:
            x, y, z = turned(q, S, x, y, z)
            RC[n, point.BELT + 1] += sign * (x * tx + y * ty + z * tz)
            RC[n, point.BELT + 2] += sign * (x * sx + y * sy + z * sz)
    turn = 0.0
    for side in range(2):
        q = a if side == 0 else b
        turn += max(IW[q, inverse_inertia.XX], IW[q, inverse_inertia.YY], IW[q, inverse_inertia.ZZ])
    RC[n, point.MASS_R] = 1.0 / turn if turn > 0.0 else 0.0
    RC[n, point.IMPULSE_N], RC[n, point.IMPULSE_T], RC[n, point.IMPULSE_S] = 0.0, 0.0, 0.0
    RC[n, point.APPROACH], RC[n, point.MOST], RC[n, point.TOTAL], RC[n, point.SEPARATION] = 0.0, 0.0, 0.0, gap
    RC[n, point.SLIP], RC[n, point.RUB] = 0.0, 0.0
    RC[n, point.STICK] = 1.0
    found, near = -1, 1e300
    for k in range(CK[p, pair_cache.POINTS]):
        # what the exact regime left may be the force of a vanishing substep: no guess for this one
        if CC[limits.SLOTS * p + k, point_cache.FEATURE] == feature and CC[limits.SLOTS * p + k, point_cache.FAR_AWAY] < 1e8:
            found = k
            break
    if found < 0:
        for k in range(CK[p, pair_cache.POINTS]):
            d = 0.0
            for c in range(3):
                d += (CC[limits.SLOTS * p + k, point_cache.ANCHOR + c] - RC[n, point.LOCAL_B + c]) ** 2
            if d < near:
                near, found = d, k
        if near > 4e-6:
            found = -1
    if found >= 0:
        RC[n, point.IMPULSE_N] = h * CC[limits.SLOTS * p + found, point_cache.NORMAL_FORCE]
        x, y = h * CC[limits.SLOTS * p + found, point_cache.TX], h * CC[limits.SLOTS * p + found, point_cache.TY]
        z = h * CC[limits.SLOTS * p + found, point_cache.TZ]
        RC[n, point.IMPULSE_T], RC[n, point.IMPULSE_S] = x * tx + y * ty + z * tz, x * sx + y * sy + z * sz
        for c in range(3):
            RC[n, point.IMPULSE_R + c] = (h * CC[limits.SLOTS * p + found, point_cache.TORQUE + c] if RC[n, point.REFF] > 0.0
                                          else 0.0)
        RC[n, point.STICK] = CC[limits.SLOTS * p + found, point_cache.STICKS]
    return 0


@far(WHOLE, ISLAND, REAL, REAL, RUN, REALS2, WHOLES2, REALS2, WHOLES2, REALS2)
def find_points(island, margin, h, run, RC, RB, IW, CK, CC):
    """The points of all pairs of an island that are nearer than the margin. Returns their number."""
    S, P, scene, ws = states_of(run), bodies_of(run), scene_of(run), workspace_of(run)
    PL = island.PL
    count = PL.shape[0]
    geo, Q, M = scene, wholes(scene, scene_table.PAIRS), reals(ws, workspace_table.MANIFOLD)
    n = 0
    for k in range(count):
        p = PL[k]
        if Q[p, pair.SIDE] != 0:
            watch_side(p, S, geo, Q)
        if far_apart(p, margin, S, geo, Q):
            CK[p, pair_cache.POINTS] = 0
            continue
        first = n
        a = Q[p, pair.BODY_A]
        if has_manifold(Q[p, pair.KIND]):
            m, _ = manifold_of(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), M, margin, BY_DEPTH)
            for j in range(m):
                if n < RC.shape[0]:
                    _add_point(n, p, M[j, manifold.FEATURE], M[j, manifold.GAP], M[j, manifold.NX], M[j, manifold.NY],
                               M[j, manifold.NZ], M[j, manifold.X], M[j, manifold.Y], M[j, manifold.Z], S, P, scene, RC,
                               RB, IW, CK, CC, h)
                    n += 1
        else:
            for f in range(Q[p, pair.FEATURES]):
                gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, S, geo, Q)
                if gap < margin and n < RC.shape[0] and n - first < limits.SLOTS:
                    px, py, pz = S[a, state.X] + ax - gap * nx, S[a, state.Y] + ay - gap * ny, S[a, state.Z] + az - gap * nz
                    _add_point(n, p, float(f), gap, nx, ny, nz, px, py, pz, S, P, scene, RC, RB, IW, CK, CC, h)
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
        CC[limits.SLOTS * p + k, point_cache.FEATURE] = RC[i, point.FEATURE]
        CC[limits.SLOTS * p + k, point_cache.NORMAL_FORCE] = RC[i, point.IMPULSE_N] / h
        for c in range(3):
            CC[limits.SLOTS * p + k, point_cache.TANGENT + c] = (RC[i, point.IMPULSE_T] * RC[i, point.T + c]
                                                                 + RC[i, point.IMPULSE_S] * RC[i, point.S + c]) / h
            CC[limits.SLOTS * p + k, point_cache.TORQUE + c] = RC[i, point.IMPULSE_R + c] / h
            CC[limits.SLOTS * p + k, point_cache.ANCHOR + c] = RC[i, point.LOCAL_B + c]
        CC[limits.SLOTS * p + k, point_cache.STICKS] = RC[i, point.STICK]
        CK[p, pair_cache.POINTS] = k + 1
