"""Broad phase, which shapes may meet soon: pairs by sweep and prune, and islands of bodies that may touch.

Every shape has a box around it, grown by what it may travel. Along the axis on which the boxes
spread most, they are kept sorted (insertion sort: nearly sorted from step to step) and swept. Pairs
are laid out by the numbers of their shapes, so nothing depends on the order of the sweep, and what
is known of a pair (its phase, its contact points) follows it from list to list (``regimes.pair_list``).
"""

from yapa.engine.kernels.dynamics.forces import more
from yapa.engine.kernels.geometry.pairs.meetings import FEATURES, NEVER, NUMBER, ORDER, SHAPES, SWAPPED, WHAT_MOVES_FIRST
from yapa.engine.kernels.geometry.pairs.registry import VERTICES
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.geometry.shape_traits import has_corners, is_endless
from yapa.engine.kernels.handles import RUN, bodies_of, config_of, scene_of, states_of
from yapa.engine.kernels.jit import REAL, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    box,
    config,
    duo,
    motion_kind,
    pair,
    run_table,
    scene_table,
    shape,
    shape_int,
    state,
    sweep,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import length, plus, vector

NEAR = 2e-3
"""m: how much nearer than its travel a pair is looked for, at the least."""


@kernel
def describe_pair(row, i, j, surfaces, geo, P, Q):
    """Fill a row of the pair list for two shapes; 0 if they never meet."""
    GI = wholes(geo, scene_table.SHAPES_INT)
    ki, kj = GI[i, shape_int.KIND], GI[j, shape_int.KIND]
    bi, bj = GI[i, shape_int.BODY], GI[j, shape_int.BODY]
    if (bi == bj or (P[bi, body.INV_MASS] == 0.0 and P[bj, body.INV_MASS] == 0.0)
        or ORDER[ki * SHAPES + kj] == NEVER):
        return 0
    if not (int(P[bi, body.MEETS]) >> int(P[bj, body.GROUP])) & 1:  # their groups pass through each other
        return 0
    order = ORDER[ki * SHAPES + kj]
    a, b = (j, i) if order == SWAPPED or (order == WHAT_MOVES_FIRST and P[bi, body.INV_MASS] == 0.0) else (i, j)
    met = GI[a, shape_int.KIND] * SHAPES + GI[b, shape_int.KIND]
    features = FEATURES[met] if FEATURES[met] != VERTICES else GI[a, shape_int.NV]
    Q[row, pair.SHAPE_A], Q[row, pair.SHAPE_B], Q[row, pair.KIND], Q[row, pair.FEATURES] = a, b, NUMBER[met], features
    Q[row, pair.MATERIAL] = GI[a, shape_int.SURFACE] * surfaces + GI[b, shape_int.SURFACE]
    Q[row, pair.BODY_A], Q[row, pair.BODY_B], Q[row, pair.SIDE] = GI[a, shape_int.BODY], GI[b, shape_int.BODY], 0
    return 1


@kernel
def _box_around(s, grow, S, geo, BX):
    GF, GI, VT = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    b, kind = GI[s, shape_int.BODY], GI[s, shape_int.KIND]
    for c in range(3):
        BX[s, c], BX[s, box.HIGH + c] = 1e300, -1e300
    if is_endless(kind):
        for c in range(3):
            BX[s, c], BX[s, box.HIGH + c] = -1e300, 1e300
        return
    corners = has_corners(kind)
    count = GI[s, shape_int.NV] if corners else 2
    r = (0.0 if corners else GF[s, shape.RADIUS]) + GF[s, shape.CLEAR] + grow
    for k in range(count):
        if corners:
            own = vector(VT, GI[s, shape_int.V0] + k, vertex.POSITION)
        else:
            own = vector(GF, s, shape.A if k == 0 else shape.B)
        x, y, z = plus(vector(S, b, state.POSITION), turned(b, S, own))
        BX[s, box.LOW_X], BX[s, box.HIGH_X] = min(BX[s, box.LOW_X], x - r), max(BX[s, box.HIGH_X], x + r)
        BX[s, box.LOW_Y], BX[s, box.HIGH_Y] = min(BX[s, box.LOW_Y], y - r), max(BX[s, box.HIGH_Y], y + r)
        BX[s, box.LOW_Z], BX[s, box.HIGH_Z] = min(BX[s, box.LOW_Z], z - r), max(BX[s, box.HIGH_Z], z + r)


@kernel
def travel_of(b, h, S, P, cfg):
    """How far any point of a body may go in h."""
    if P[b, body.MOTION] == 0.0:
        return 0.0
    v, w = length(vector(S, b, state.VELOCITY)), length(vector(S, b, state.OMEGA))
    if P[b, body.MOTION] == motion_kind.KINEMATIC:  # its next key may lie within h
        v, w = P[b, body.PATH_SPEED], P[b, body.PATH_SPIN]
    return h * (v + w * P[b, body.REACH] + h * more.whole_bound(b, S, P, cfg))


@part
def _grow_boxes(h, S, P, geo, cfg, BX):
    """A box around every shape, grown by what it may travel in h; anything that moves may be hit by what is fastest."""
    GI = wholes(geo, scene_table.SHAPES_INT)
    top, near = 0.0, max(NEAR, cfg[config.TOUCH])
    for b in range(P.shape[0]):
        top = max(top, travel_of(b, h, S, P, cfg))
    for s in range(GI.shape[0]):
        b = GI[s, shape_int.BODY]
        _box_around(s, 2.5 * top + near if P[b, body.INV_MASS] > 0.0 else 1.3 * travel_of(b, h, S, P, cfg), S, geo, BX)


@part
def _widest_axis(shapes, BX):
    """The axis along which the middles of the boxes spread most; endless ones do not count."""
    axis, spread = 0, -1.0
    for c in range(3):
        total, square, n = 0.0, 0.0, 0
        for s in range(shapes):
            if BX[s, box.HIGH + c] < 1e200:
                m = BX[s, c] + BX[s, box.HIGH + c]
                total, square, n = total + m, square + m * m, n + 1
        if n > 0 and square / n - (total / n) ** 2 > spread * 1.001:
            axis, spread = c, square / n - (total / n) ** 2
    return axis


@part
def _sort_along(axis, shapes, order, BX):
    """Shapes by where their boxes begin: insertion sort."""
    for k in range(1, shapes):
        s = order[k]
        key = BX[s, axis]
        j = k - 1
        while j >= 0 and (BX[order[j], axis] > key or (BX[order[j], axis] == key and order[j] > s)):
            order[j + 1] = order[j]
            j -= 1
        order[j + 1] = s


@part
def _overlap(i, j, BX):
    """Whether two boxes overlap."""
    apart = False
    for c in range(3):
        if BX[i, c] > BX[j, box.HIGH + c] or BX[j, c] > BX[i, box.HIGH + c]:
            apart = True
    return not apart


@part
def _sweep_along(axis, P, GI, BX, BI, TI):
    """Pairs of shapes whose boxes overlap, and how many each shape is the first of; -1 if there is no room."""
    order, count, shapes, found = BI[sweep.ORDER], BI[sweep.TALLY], GI.shape[0], 0
    for s in range(shapes + 1):
        count[s] = 0
    for k in range(shapes):
        i = order[k]
        top = BX[i, box.HIGH + axis]
        bi = GI[i, shape_int.BODY]
        for m in range(k + 1, shapes):
            j = order[m]
            if BX[j, axis] > top:
                break
            bj = GI[j, shape_int.BODY]
            if bi == bj or (P[bi, body.INV_MASS] == 0.0 and P[bj, body.INV_MASS] == 0.0) or not _overlap(i, j, BX):
                continue
            if found >= TI.shape[0]:
                return -1
            TI[found, duo.FIRST], TI[found, duo.SECOND] = min(i, j), max(i, j)
            count[min(i, j) + 1] += 1
            found += 1
    return found


@part
def _in_order(found, shapes, BI, TI, QO):
    """The pairs by their first shape, then by their second."""
    count, at = BI[sweep.TALLY], BI[sweep.AT]
    for s in range(shapes):
        count[s + 1] += count[s]
    for s in range(shapes):
        at[s] = count[s]
    for k in range(found):
        i, j = TI[k, duo.FIRST], TI[k, duo.SECOND]
        m = at[i]
        while m > count[i] and QO[m - 1, duo.SECOND] > j:
            QO[m, duo.FIRST], QO[m, duo.SECOND] = QO[m - 1, duo.FIRST], QO[m - 1, duo.SECOND]
            m -= 1
        QO[m, duo.FIRST], QO[m, duo.SECOND] = i, j
        at[i] += 1


@far(WHOLE, REAL, WHOLE, RUN, WHOLES1)
def find_pairs(h, surfaces, run, bw):
    """All pairs whose boxes, grown by travel in h, overlap, in the order of their shapes. Returns the count, -1 if full."""
    S, P, geo, cfg, Q = states_of(run), bodies_of(run), scene_of(run), config_of(run), wholes(scene_of(run), scene_table.PAIRS)
    QO, TI = wholes(bw, run_table.NEW_DUOS), wholes(bw, run_table.FOUND_DUOS)
    BX, BI = reals(bw, run_table.BOXES), wholes(bw, run_table.SWEEP)
    GI = wholes(geo, scene_table.SHAPES_INT)
    shapes = GI.shape[0]
    _grow_boxes(h, S, P, geo, cfg, BX)
    axis = _widest_axis(shapes, BX)
    _sort_along(axis, shapes, BI[sweep.ORDER], BX)
    found = _sweep_along(axis, P, GI, BX, BI, TI)
    if found < 0:
        return -1
    _in_order(found, shapes, BI, TI, QO)
    n = 0
    for k in range(found):
        n += describe_pair(n, QO[k, duo.FIRST], QO[k, duo.SECOND], surfaces, geo, P, Q)
    return n


@kernel
def root_of(b, parent):
    """The representative of a body's island."""
    while parent[b] != b:
        parent[b] = parent[parent[b]]
        b = parent[b]
    return b
