"""Contact manifold of two convex polytopes, or a segment with a radius and a polytope: separation and contact manifold.

Separation is that along the best of all face normals and all cross products of edge directions
(the separating axis theorem; Gottschalk, Lin, Manocha 1996): positive exactly when the shapes are
apart, and continuous in their poses. The manifold of a face contact is the incident face clipped by
the side planes of the reference face (Sutherland, Hodgman 1974). Where its points only touch, all that
the caller has room for are kept, and those that add least to the area they span are left out first;
in a crowd, where they overlap, four: the deepest, the one farthest from it, and those that span the
largest area on either side. An edge contact is one point. An axis of edges, or of the other body's
faces, must win by 2e-4 of the thinnest half, so that the choice does not flicker; an overlapping pair
always yields at least one point.

A capsule meets a polytope at up to three points: its two ends and the nearest pair of edges.

A manifold row: gap, normal (b to a), point on b's side in world axes, feature number, and 1 if there are more than are told.
"""

from yapa.engine.kernels.geometry.nearest_points import point_hull, segments
from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.placing import between, turned, turned_back
from yapa.engine.kernels.geometry.shape_traits import is_round_shape
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    direction,
    face_plane,
    limits,
    loop,
    manifold,
    pair,
    polygon,
    scene_table,
    shape,
    shape_int,
    state,
    vertex,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    UP,
    VECTOR,
    ZERO,
    ahead,
    carried,
    cross,
    dot,
    length,
    minus,
    negative,
    over,
    plus,
    put,
    quaternion,
    rotate,
    vector,
)

PREFER = 2e-4
BY_DEPTH, NEAREST = 0, -1
"""In place of a number of points: four, as a crowd needs them; only the nearest."""
W_A, W_B, W_CLIP, W_NEXT = 0, limits.CORNERS, 2 * limits.CORNERS, 3 * limits.CORNERS
"""Rows of the scratch array: vertices of a, of b, and two polygons."""
FACE_OF_A, FACE_OF_B, EDGES = 0, 1, 2
"""What gives an axis of separation."""


@kernel
def _place_vertices(s, b, X, geo, W, row):
    GI, VT = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    v0 = GI[s, shape_int.V0]
    for k in range(GI[s, shape_int.NV]):
        own = vector(VT, v0 + k, vertex.POSITION)
        put(W, row + k, polygon.POSITION, plus(vector(X, b, state.POSITION), rotate(quaternion(X, b, state.ORIENTATION), own)))


@kernel
def _lowest(W, row, count, n):
    """The least height along ``n`` of so many corners, and which of them has it."""
    best, at = 1e300, 0
    for k in range(count):
        d = dot(vector(W, row + k, polygon.POSITION), n)
        if d < best:
            best, at = d, k
    return best, at


@part
def _best_face(p, side, X, geo, Q, W):
    """Of the faces of one shape that which the other is furthest out of: how far, which, the other's lowest vertex, its normal."""
    GI, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES)
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    s, other = (Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]) if side == 0 else (Q[p, pair.SHAPE_B], Q[p, pair.SHAPE_A])
    own, theirs = (W_A, W_B) if side == 0 else (W_B, W_A)
    turn = quaternion(X, Q[p, pair.BODY_A] if side == 0 else Q[p, pair.BODY_B], state.ORIENTATION)
    best, at, low, out = -1e300, 0, 0, UP
    for f in range(GI[s, shape_int.F0], GI[s, shape_int.F0] + GI[s, shape_int.NF]):
        n = rotate(turn, vector(FC, f, face_plane.NORMAL))
        level = dot(vector(W, own + LP[0, FI[f, loop.START]], polygon.POSITION), n)
        d, k = _lowest(W, theirs, GI[other, shape_int.NV], n)
        if d - level > best:
            best, at, low, out = d - level, f, k, n
    return best, at, low, out


@part
def _best_edges(p, X, geo, Q, W):
    """Of all pairs of edges the one across which the shapes are furthest apart: how far, the normal, the supporting vertices."""
    GI, DR = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.DIRECTIONS)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    best, out, ia, ib = -1e300, UP, 0, 0
    for i in range(GI[sa, shape_int.ND]):
        along_a = rotate(quaternion(X, a, state.ORIENTATION), vector(DR, GI[sa, shape_int.D0] + i, direction.ALONG))
        for j in range(GI[sb, shape_int.ND]):
            along_b = rotate(quaternion(X, b, state.ORIENTATION), vector(DR, GI[sb, shape_int.D0] + j, direction.ALONG))
            n = cross(along_a, along_b)
            size = length(n)
            if size < 1e-3:
                continue
            n = over(n, size)
            if dot(n, between(a, b, X)) < 0.0:
                n = negative(n)
            low, ka = _lowest(W, W_A, GI[sa, shape_int.NV], n)
            high, kb = _lowest(W, W_B, GI[sb, shape_int.NV], negative(n))
            if low + high > best:
                best, out, ia, ib = low + high, n, ka, kb
                put(W, W.shape[0] - 2, polygon.POSITION, along_a)
                put(W, W.shape[0] - 1, polygon.POSITION, along_b)
    return best, out, ia, ib


@far((REAL, VECTOR, WHOLE, WHOLE, WHOLE), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL)
def sat(p, X, geo, Q, W, share):
    """Best separating axis: separation, normal from b to a, what gives it, two indices.

    ``share`` of the thinnest half is what an axis must win by (0: the greatest separation, whatever gives it).
    For edges the indices are the supporting vertices; the directions are kept in the last scratch rows.
    """
    GF = reals(geo, scene_table.SHAPES)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    _place_vertices(sa, Q[p, pair.BODY_A], X, geo, W, W_A)
    _place_vertices(sb, Q[p, pair.BODY_B], X, geo, W, W_B)
    prefer = share * min(GF[sa, shape.THIN], GF[sb, shape.THIN])
    face, index, other, n = _best_face(p, 0, X, geo, Q, W)
    kind, n = FACE_OF_A, negative(n)
    best, at, low, out = _best_face(p, 1, X, geo, Q, W)
    if best > face + prefer:
        face, kind, index, other, n = best, FACE_OF_B, at, low, out
    if face > 0.05 * (GF[sa, shape.THIN] + GF[sb, shape.THIN]) + prefer:
        return face, n, kind, index, other  # clearly apart: edges could only say more
    edge, out, ia, ib = _best_edges(p, X, geo, Q, W)
    if edge > face + prefer:
        return edge, out, EDGES, ia, ib
    return face, n, kind, index, other


@kernel
def _edge_point(W, ia, ib):
    """Nearest points of the lines through two supporting vertices along the kept directions: that on b."""
    e, g = vector(W, W.shape[0] - 2, polygon.POSITION), vector(W, W.shape[0] - 1, polygon.POSITION)
    on_b = vector(W, W_B + ib, polygon.POSITION)
    r = minus(vector(W, W_A + ia, polygon.POSITION), on_b)
    b, c, f = dot(e, g), dot(e, r), dot(g, r)
    return ahead(on_b, (f - b * c) / max(1.0 - b * b, 1e-12), g)


@kernel
def _put(M, row, gap, n, point, feature):
    """Write a point of the manifold, which stands on b."""
    M[row, manifold.GAP] = gap
    put(M, row, manifold.NORMAL, n)
    put(M, row, manifold.POINT, point)
    M[row, manifold.FEATURE] = feature
    M[row, manifold.SOME] = 0.0


@part
def _incident_face(s, b, out, X, geo):
    """The face of a shape that looks most against ``out``."""
    GI, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES)
    best, at = 1e300, GI[s, shape_int.F0]
    for f in range(GI[s, shape_int.F0], GI[s, shape_int.F0] + GI[s, shape_int.NF]):
        d = dot(rotate(quaternion(X, b, state.ORIENTATION), vector(FC, f, face_plane.NORMAL)), out)
        if d < best - 1e-9:
            best, at = d, f
    return at


@part
def _copy_face(f, first, geo, W):
    """The corners of a face, whose shape's vertices stand from row ``first`` on, as the polygon that is clipped; how many."""
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    for k in range(FI[f, loop.COUNT_OF]):
        v = LP[0, FI[f, loop.START] + k]
        put(W, W_CLIP + k, polygon.POSITION, vector(W, first + v, polygon.POSITION))
        W[W_CLIP + k, polygon.LABEL] = v + 1.0
    return FI[f, loop.COUNT_OF]


@part
def _clip_along(k, n, side, level, source, target, W):
    """Cut a polygon of ``n`` corners by side ``k`` of the reference face: its outward normal and height. Returns what is left."""
    m = 0
    for q in range(n):
        u, w = source + q, source + (q + 1) % n
        du = dot(side, vector(W, u, polygon.POSITION)) - level
        dw = dot(side, vector(W, w, polygon.POSITION)) - level
        if du <= 0.0:
            for c in range(polygon.GAP):
                W[target + m, c] = W[u, c]
            m += 1
        if (du < 0.0 and dw > 0.0) or (du > 0.0 and dw < 0.0):
            a, b = vector(W, u, polygon.POSITION), vector(W, w, polygon.POSITION)
            put(W, target + m, polygon.POSITION, ahead(a, du / (du - dw), minus(b, a)))
            later = max(W[u, polygon.LABEL], W[w, polygon.LABEL])
            W[target + m, polygon.LABEL] = 100.0 * (k + 1) + 10000.0 * (1.0 + later % 100.0) + (50.0 if du > 0.0 else 0.0)
            m += 1
        if m >= limits.CORNERS - 4:
            break
    return m


@part
def _clip_all(face, own, out, n, geo, W):
    """Cut the polygon by all sides of the reference face. Returns where it stands then, a free place, and its corners."""
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    source, target, count = W_CLIP, W_NEXT, FI[face, loop.COUNT_OF]
    for k in range(count):
        corner = vector(W, own + LP[0, FI[face, loop.START] + k], polygon.POSITION)
        following = vector(W, own + LP[0, FI[face, loop.START] + (k + 1) % count], polygon.POSITION)
        side = cross(minus(following, corner), out)
        n = _clip_along(k, n, side, dot(side, corner), source, target, W)
        source, target = target, source
    return source, target, n


@part
def _keep_near(n, source, target, out, level, clear, margin, W):
    """Of the corners those with gap below ``margin``; how many."""
    m = 0
    for q in range(n):
        gap = dot(out, vector(W, source + q, polygon.POSITION)) - level - clear
        if gap < margin:
            for c in range(polygon.GAP):
                W[target + m, c] = W[source + q, c]
            W[target + m, polygon.GAP] = gap
            m += 1
    return m


@kernel
def _clip(p, X, geo, Q, W, M, axis, margin, most):
    """Points of the incident face inside the reference face, with gap below ``margin``; ``most`` of them, or ``BY_DEPTH``.

    ``axis``: normal, FACE_OF_A or FACE_OF_B, and which face."""
    GF, FI, LP = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    normal, kind, face = axis
    sa, sb, of_b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], kind == FACE_OF_B
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    other, body, own, theirs = (sa, Q[p, pair.BODY_A], W_B, W_A) if of_b else (sb, Q[p, pair.BODY_B], W_A, W_B)
    out = normal if of_b else negative(normal)  # outward from the reference body
    n = _copy_face(_incident_face(other, body, out, X, geo), theirs, geo, W)
    source, target, n = _clip_all(face, own, out, n, geo, W)
    level = dot(out, vector(W, own + LP[0, FI[face, loop.START]], polygon.POSITION))
    m = _keep_near(n, source, target, out, level, clear, margin, W)
    every = m
    if most == BY_DEPTH:
        if m > 4:
            _reduce(W, target, m, out)
            m = 4
    else:
        every = _without_some(W, target, m, m)
        m = _without_some(W, target, every, most)
    label = 1e6 * (1.0 + face) + (5e8 if of_b else 0.0)
    for q in range(m):
        gap = W[target + q, polygon.GAP]
        # on the reference face if that is b's, else the incident point itself is on b
        back = gap + clear if of_b else 0.0
        _put(M, q, gap, normal, ahead(vector(W, target + q, polygon.POSITION), -back, out), label + W[target + q, polygon.LABEL])
        M[q, manifold.SOME] = 1.0 if m < every else 0.0
    return m


@kernel
def _swap(W, i, j):
    for c in range(5):
        W[i, c], W[j, c] = W[j, c], W[i, c]


@kernel
def _without_least(W, o, m, most):
    """Leave out, of the corners of a convex polygon in order, the one whose triangle with its neighbours is least.

    Only if it stands on the line between them (it carries nothing that they could not) or if there are more than ``most``.
    Returns the number left.
    """
    if m <= 2:
        return m
    least, wide, k = 1e300, 0.0, 0
    for q in range(m):
        u, v, w = o + (q + m - 1) % m, o + q, o + (q + 1) % m
        before = vector(W, u, polygon.POSITION)
        a, b = minus(vector(W, v, polygon.POSITION), before), minus(vector(W, w, polygon.POSITION), before)
        n = cross(a, b)
        if dot(n, n) < least * (1.0 - 1e-9):
            least, wide, k = dot(n, n), dot(b, b), q
    if m <= most and least >= limits.TOUCH * limits.TOUCH * wide:
        return m
    for q in range(k, m - 1):
        for c in range(5):
            W[o + q, c] = W[o + q + 1, c]
    return m - 1


@kernel
def _without_some(W, o, m, most):
    """Leave corners out one after the other, as long as one is to go. Returns the number left."""
    while True:
        rest = _without_least(W, o, m, most)
        if rest == m:
            return m
        m = rest


@kernel
def _reduce(W, o, m, out):
    """Keep four: the deepest, the farthest from it, then the widest to either side."""
    k = o
    for q in range(o + 1, o + m):
        if W[q, polygon.GAP] < W[k, polygon.GAP] - 1e-9:
            k = q
    _swap(W, o, k)
    best, k = -1.0, o + 1
    for q in range(o + 1, o + m):
        e = minus(vector(W, q, polygon.POSITION), vector(W, o, polygon.POSITION))
        if dot(e, e) > best * (1.0 + 1e-9) + 1e-18:
            best, k = dot(e, e), q
    _swap(W, o + 1, k)
    side = cross(out, minus(vector(W, o + 1, polygon.POSITION), vector(W, o, polygon.POSITION)))
    for sign in range(2):
        best, k = -1e300, o + 2 + sign
        for q in range(o + 2 + sign, o + m):
            d = dot(side, minus(vector(W, q, polygon.POSITION), vector(W, o, polygon.POSITION)))
            d = d if sign == 0 else -d
            if d > best + 1e-12:
                best, k = d, q
        _swap(W, o + 2 + sign, k)


@part
def _ends_on_solid(p, X, geo, Q, W, M, margin):
    """A row for each end of a capsule with gap below ``margin``; the ends go to the last scratch rows. Count, and least gap."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    r, clear = GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    m, least = 0, 1e300
    for e in range(2):
        end = plus(vector(X, a, state.POSITION), turned(a, X, vector(GF, sa, shape.A if e == 0 else shape.B)))
        put(W, W.shape[0] - 2 + e, polygon.POSITION, end)
        d, outward = point_hull(sb, turned_back(b, X, minus(end, vector(X, b, state.POSITION))), geo)
        n = turned(b, X, outward)
        least = min(least, d - r - clear)
        if d - r - clear < margin:
            _put(M, m, d - r - clear, n, ahead(end, -d, n), 1.0 + e)
            m += 1
    return m, least


@part
def _nearest_edge(p, X, geo, Q, W):
    """Where an edge of a polytope is nearest to the inside of a capsule's axis: the distance, the point there and on the axis."""
    GI, FI, LP = wholes(geo, scene_table.SHAPES_INT), wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    sb = Q[p, pair.SHAPE_B]
    low, top = vector(W, W.shape[0] - 2, polygon.POSITION), vector(W, W.shape[0] - 1, polygon.POSITION)
    _place_vertices(sb, Q[p, pair.BODY_B], X, geo, W, W_B)
    near, on_edge, on_axis = 1e300, ZERO, ZERO
    for f in range(GI[sb, shape_int.F0], GI[sb, shape_int.F0] + GI[sb, shape_int.NF]):
        for k in range(FI[f, loop.COUNT_OF]):
            i, j = W_B + LP[0, FI[f, loop.START] + k], W_B + LP[0, FI[f, loop.START] + (k + 1) % FI[f, loop.COUNT_OF]]
            if i > j:
                continue  # every edge once
            corner, following = vector(W, i, polygon.POSITION), vector(W, j, polygon.POSITION)
            s, t = segments(low, top, corner, following)
            if s <= 1e-6 or s >= 1.0 - 1e-6:
                continue
            a, b = ahead(low, s, minus(top, low)), ahead(corner, t, minus(following, corner))
            d = length(minus(a, b))
            if d < near:
                near, on_edge, on_axis = d, b, a
    return near, on_edge, on_axis


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL)
def _capsule_rows(p, X, geo, Q, W, M, margin):
    """Rows of a capsule ``a`` and a polytope ``b``: every candidate with gap below ``margin``; the least gap first."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    r, clear = GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    m, least = _ends_on_solid(p, X, geo, Q, W, M, margin)
    near, on_edge, on_axis = _nearest_edge(p, X, geo, Q, W)
    if near < 1e200 and near > 1e-12 and near - r - clear < least - 1e-9:
        # outside: the edge is nearer than both ends; inside (the core cuts the edge) the ends speak
        least = near - r - clear
        if least < margin:
            _put(M, m, least, over(minus(on_axis, on_edge), near), on_edge, 3.0)
            m += 1
    return m, least


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL, WHOLE)
def manifold_of(p, X, geo, Q, W, M, margin, most):
    """Rows of the contact manifold of a pair without features, ``most`` of a face or ``BY_DEPTH``: count, and least gap.

    With ``NEAREST`` it is the one point that :func:`apart` tells of."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    if is_round_shape(GI[sa, shape_int.KIND]):
        return _capsule_rows(p, X, geo, Q, W, M, margin)
    clear = GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    gap, n, kind, i, j = sat(p, X, geo, Q, W, 0.0 if most == NEAREST else PREFER)
    if gap - clear > margin:
        return 0, gap - clear
    m = 0
    if kind == EDGES:
        _put(M, 0, gap - clear, n, _edge_point(W, i, j), 9e8 + 100.0 * i + j)
        return 1, gap - clear
    if most != NEAREST:
        m = _clip(p, X, geo, Q, W, M, (n, kind, i), margin, most)
    if m == 0:
        back = gap if kind == FACE_OF_B else 0.0
        corner = vector(W, (W_B if kind == FACE_OF_A else W_A) + j, polygon.POSITION)
        _put(M, 0, gap - clear, n, ahead(corner, -back, n), 8e8 + j)
        m = 1
    return m, gap - clear


@far((REAL, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2)
def apart(p, X, geo, Q, W, M):
    """Gap of a pair without features, and its rate where it is least."""
    GF, GI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    if is_round_shape(GI[sa, shape_int.KIND]):
        m, gap = _capsule_rows(p, X, geo, Q, W, M, 1e300)
        k = 0
        for q in range(1, m):
            if M[q, manifold.GAP] < M[k, manifold.GAP]:
                k = q
        n, point = vector(M, k, manifold.NORMAL), vector(M, k, manifold.POINT)
    else:
        gap, n, kind, i, j = sat(p, X, geo, Q, W, 0.0)
        gap -= GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
        if kind == EDGES:
            point = _edge_point(W, i, j)
        else:
            point = vector(W, (W_B if kind == FACE_OF_A else W_A) + j, polygon.POSITION)
    arm_a, arm_b = minus(point, vector(X, a, state.POSITION)), minus(point, vector(X, b, state.POSITION))
    v = minus(vector(X, a, state.VELOCITY), vector(X, b, state.VELOCITY))
    rate = dot(n, minus(carried(v, vector(X, a, state.OMEGA), arm_a), cross(vector(X, b, state.OMEGA), arm_b)))
    return gap, rate


@kernel
def gap_of_pair(p, S, scene, ws):
    """The least gap of a pair, over all its features."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    if has_manifold(Q[p, pair.KIND]):
        gap, _ = apart(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
        return gap
    low = 1.0
    for f in range(Q[p, pair.FEATURES]):
        gap, _, _, _ = frame(p, f, S, geo, Q)
        low = min(low, gap)
    return low
