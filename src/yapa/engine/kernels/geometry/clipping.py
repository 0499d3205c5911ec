"""The manifold of a face contact: the incident face clipped by the side planes of the reference face (Sutherland, Hodgman 1974).

Where its points only touch, all that the caller has room for are kept, and those that add least to the area they span are left out
first; in a crowd, where they overlap, four: the deepest, the one farthest from it, and those that span the largest area on either
side.
"""

from yapa.engine.kernels.geometry.separating_axis import A_FACE, B_FACE, FACE_OF_B, W_A, W_B, W_CLIP, W_NEXT
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    face_plane,
    frame_kind,
    limits,
    loop,
    manifold,
    pair,
    polygon,
    scene_table,
    shape,
    shape_int,
    state,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    ahead,
    cross,
    dot,
    minus,
    negative,
    put,
    quaternion,
    rotate,
    vector,
)

BY_DEPTH = 0
"""In place of a number of points: four, as a crowd needs them."""


@kernel
def put_point(M, row, gap, n, point, feature):
    """Write a point of the manifold, which stands on b."""
    M[row, manifold.GAP] = gap
    put(M, row, manifold.NORMAL, n)
    put(M, row, manifold.POINT, point)
    M[row, manifold.FEATURE] = feature
    M[row, manifold.SOME] = 0.0
    # the body whose face (or edge) gives the normal keeps it
    M[row, manifold.KEEPS] = frame_kind.A_FACE if A_FACE <= feature < B_FACE else frame_kind.B_FACE


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
def clip(p, X, geo, Q, W, M, axis, margin, most):
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
        every = _simplify_polygon(W, target, m, m)
        m = _simplify_polygon(W, target, every, most)
    label = A_FACE * (1.0 + face) + (B_FACE if of_b else 0.0)
    for q in range(m):
        gap = W[target + q, polygon.GAP]
        # on the reference face if that is b's, else the incident point itself is on b
        back = gap + clear if of_b else 0.0
        point = ahead(vector(W, target + q, polygon.POSITION), -back, out)
        put_point(M, q, gap, normal, point, label + W[target + q, polygon.LABEL])
        M[q, manifold.SOME] = 1.0 if m < every else 0.0
    return m


@kernel
def _swap(W, i, j):
    for c in range(5):
        W[i, c], W[j, c] = W[j, c], W[i, c]


@kernel
def _remove_least_vertex(W, o, m, most):
    """Remove, of the vertices of a convex polygon in order, the one whose triangle with its neighbours has the least area.

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
def _simplify_polygon(W, o, m, most):
    """Remove vertices of a polygon one after the other, as long as one is to go. Returns the number left."""
    while True:
        rest = _remove_least_vertex(W, o, m, most)
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
