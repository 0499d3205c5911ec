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

from math import sqrt

from yapa.engine.kernels.dynamics.flight import rotate
from yapa.engine.kernels.geometry.nearest_points import point_hull, segments
from yapa.engine.kernels.geometry.pairs.dispatch import frame
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.geometry.placing import turned
from yapa.engine.kernels.geometry.shape_traits import is_round_shape
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
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

PREFER = 2e-4
BY_DEPTH, NEAREST = 0, -1
"""In place of a number of points: four, as a crowd needs them; only the nearest."""
W_A, W_B, W_CLIP, W_NEXT = 0, 64, 128, 192
"""Rows of the scratch array: vertices of a, of b, and two polygons."""


@kernel
def _place_vertices(s, b, X, geo, W, row):
    GI, VT = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES)
    v0 = GI[s, shape_int.V0]
    for k in range(GI[s, shape_int.NV]):
        x, y, z = rotate(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], VT[v0 + k, vertex.X], VT[v0 + k, vertex.Y],
                         VT[v0 + k, vertex.Z])
        W[row + k, polygon.X], W[row + k, polygon.Y] = X[b, state.X] + x, X[b, state.Y] + y
        W[row + k, polygon.Z] = X[b, state.Z] + z


@kernel
def _lowest(W, row, n, x, y, z):
    best, at = 1e300, 0
    for k in range(n):
        d = W[row + k, polygon.X] * x + W[row + k, polygon.Y] * y + W[row + k, polygon.Z] * z
        if d < best:
            best, at = d, k
    return best, at


@far((REAL, REAL, REAL, REAL, WHOLE, WHOLE, WHOLE), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL)
def sat(p, X, geo, Q, W, share):
    """Best separating axis: separation, normal from b to a, 0/1/2 (face of a, of b, edges), two indices.

    ``share`` of the thinnest half is what an axis must win by (0: the greatest separation, whatever gives it).
    For edges the indices are the supporting vertices; the directions are kept in the last scratch rows.
    """
    GF, GI, FC = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES)
    FI, LP, DR = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES), reals(geo, scene_table.DIRECTIONS)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    na, nb = GI[sa, shape_int.NV], GI[sb, shape_int.NV]
    _place_vertices(sa, a, X, geo, W, W_A)
    _place_vertices(sb, b, X, geo, W, W_B)
    face, kind, index, other = -1e300, 0, 0, 0
    fx, fy, fz = 0.0, 0.0, 1.0
    prefer = share * min(GF[sa, shape.THIN], GF[sb, shape.THIN])
    for side in range(2):
        s, body, own, theirs, count = (sa, a, W_A, W_B, nb) if side == 0 else (sb, b, W_B, W_A, na)
        best, at, low = -1e300, 0, 0
        bx, by, bz = 0.0, 0.0, 1.0
        for f in range(GI[s, shape_int.F0], GI[s, shape_int.F0] + GI[s, shape_int.NF]):
            x, y, z = rotate(X[body, state.QW], X[body, state.QX], X[body, state.QY], X[body, state.QZ], FC[f, face_plane.X],
                             FC[f, face_plane.Y], FC[f, face_plane.Z])
            v = own + LP[0, FI[f, loop.START]]
            level = W[v, polygon.X] * x + W[v, polygon.Y] * y + W[v, polygon.Z] * z
            d, k = _lowest(W, theirs, count, x, y, z)
            if d - level > best:
                best, at, low, bx, by, bz = d - level, f, k, x, y, z
        if side == 0:
            face, kind, index, other, fx, fy, fz = best, 0, at, low, -bx, -by, -bz
        elif best > face + prefer:
            face, kind, index, other, fx, fy, fz = best, 1, at, low, bx, by, bz
    if face > 0.05 * (GF[sa, shape.THIN] + GF[sb, shape.THIN]) + prefer:
        return face, fx, fy, fz, kind, index, other  # clearly apart: edges could only say more
    edge, ex, ey, ez, ia, ib = -1e300, 0.0, 0.0, 1.0, 0, 0
    for i in range(GI[sa, shape_int.ND]):
        k = GI[sa, shape_int.D0] + i
        ax, ay, az = rotate(X[a, state.QW], X[a, state.QX], X[a, state.QY], X[a, state.QZ], DR[k, direction.X], DR[k, direction.Y],
                            DR[k, direction.Z])
        for j in range(GI[sb, shape_int.ND]):
            m = GI[sb, shape_int.D0] + j
            bx, by, bz = rotate(X[b, state.QW], X[b, state.QX], X[b, state.QY], X[b, state.QZ], DR[m, direction.X],
                                DR[m, direction.Y], DR[m, direction.Z])
            cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            n = sqrt(cx * cx + cy * cy + cz * cz)
            if n < 1e-3:
                continue
            cx, cy, cz = cx / n, cy / n, cz / n
            if cx * (X[a, state.X] - X[b, state.X]) + cy * (X[a, state.Y] - X[b, state.Y]) + cz * (X[a, state.Z]
                                                                                                   - X[b, state.Z]) < 0.0:
                cx, cy, cz = -cx, -cy, -cz
            low, ka = _lowest(W, W_A, na, cx, cy, cz)
            high, kb = _lowest(W, W_B, nb, -cx, -cy, -cz)
            d = low + high
            if d > edge:
                edge, ex, ey, ez, ia, ib = d, cx, cy, cz, ka, kb
                W[W.shape[0] - 2, polygon.X], W[W.shape[0] - 2, polygon.Y], W[W.shape[0] - 2, polygon.Z] = ax, ay, az
                W[W.shape[0] - 1, polygon.X], W[W.shape[0] - 1, polygon.Y], W[W.shape[0] - 1, polygon.Z] = bx, by, bz
    if edge > face + prefer:
        return edge, ex, ey, ez, 2, ia, ib
    return face, fx, fy, fz, kind, index, other


@kernel
def _edge_point(W, ia, ib):
    """Nearest points of the lines through two supporting vertices along the kept directions: that on b."""
    e, g = W.shape[0] - 2, W.shape[0] - 1
    rx, ry = W[W_A + ia, polygon.X] - W[W_B + ib, polygon.X], W[W_A + ia, polygon.Y] - W[W_B + ib, polygon.Y]
    rz = W[W_A + ia, polygon.Z] - W[W_B + ib, polygon.Z]
    b = W[e, polygon.X] * W[g, polygon.X] + W[e, polygon.Y] * W[g, polygon.Y] + W[e, polygon.Z] * W[g, polygon.Z]
    c = W[e, polygon.X] * rx + W[e, polygon.Y] * ry + W[e, polygon.Z] * rz
    f = W[g, polygon.X] * rx + W[g, polygon.Y] * ry + W[g, polygon.Z] * rz
    t = (f - b * c) / max(1.0 - b * b, 1e-12)
    return (W[W_B + ib, polygon.X] + t * W[g, polygon.X], W[W_B + ib, polygon.Y] + t * W[g, polygon.Y], W[W_B + ib, polygon.Z] + t
            * W[g, polygon.Z])


@kernel
def _put(M, row, gap, nx, ny, nz, px, py, pz, feature):
    M[row, manifold.GAP] = gap
    M[row, manifold.NX], M[row, manifold.NY], M[row, manifold.NZ] = nx, ny, nz
    M[row, manifold.X], M[row, manifold.Y], M[row, manifold.Z] = px, py, pz
    M[row, manifold.FEATURE] = feature
    M[row, manifold.SOME] = 0.0


@kernel
def _clip(p, X, geo, Q, W, M, kind, face, nx, ny, nz, margin, clear, most):
    """Points of the incident face inside the reference face, with gap below ``margin``; ``most`` of them, or ``BY_DEPTH``."""
    GI, FC, FI = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES), wholes(geo, scene_table.LOOPS)
    LP = wholes(geo, scene_table.LOOP_VERTICES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    # reference axis, outward from the reference body
    sr, si, br, bi, own, theirs = (sa, sb, a, b, W_A, W_B) if kind == 0 else (sb, sa, b, a, W_B, W_A)
    rx, ry, rz = (-nx, -ny, -nz) if kind == 0 else (nx, ny, nz)
    best, inc = 1e300, GI[si, shape_int.F0]
    for f in range(GI[si, shape_int.F0], GI[si, shape_int.F0] + GI[si, shape_int.NF]):
        x, y, z = rotate(X[bi, state.QW], X[bi, state.QX], X[bi, state.QY], X[bi, state.QZ], FC[f, face_plane.X],
                         FC[f, face_plane.Y], FC[f, face_plane.Z])
        d = x * rx + y * ry + z * rz
        if d < best - 1e-9:
            best, inc = d, f
    n = FI[inc, loop.COUNT_OF]
    src, dst = W_CLIP, W_NEXT
    for k in range(n):
        v = theirs + LP[0, FI[inc, loop.START] + k]
        for c in range(3):
            W[src + k, c] = W[v, c]
        W[src + k, polygon.LABEL] = LP[0, FI[inc, loop.START] + k] + 1.0
    count = FI[face, loop.COUNT_OF]
    for k in range(count):
        i, j = own + LP[0, FI[face, loop.START] + k], own + LP[0, FI[face, loop.START] + (k + 1) % count]
        ex, ey, ez = W[j, polygon.X] - W[i, polygon.X], W[j, polygon.Y] - W[i, polygon.Y], W[j, polygon.Z] - W[i, polygon.Z]
        sx, sy, sz = ey * rz - ez * ry, ez * rx - ex * rz, ex * ry - ey * rx  # outward side normal
        level = sx * W[i, polygon.X] + sy * W[i, polygon.Y] + sz * W[i, polygon.Z]
        m = 0
        for q in range(n):
            u, w = src + q, src + (q + 1) % n
            du = sx * W[u, polygon.X] + sy * W[u, polygon.Y] + sz * W[u, polygon.Z] - level
            dw = sx * W[w, polygon.X] + sy * W[w, polygon.Y] + sz * W[w, polygon.Z] - level
            if du <= 0.0:
                for c in range(4):
                    W[dst + m, c] = W[u, c]
                m += 1
            if (du < 0.0 and dw > 0.0) or (du > 0.0 and dw < 0.0):
                t = du / (du - dw)
                for c in range(3):
                    W[dst + m, c] = W[u, c] + t * (W[w, c] - W[u, c])
                W[dst + m, polygon.LABEL] = (100.0 * (k + 1) + 10000.0
                                             * (1.0 + max(W[u, polygon.LABEL], W[w, polygon.LABEL]) % 100.0)
                                             + (50.0 if du > 0.0 else 0.0))
                m += 1
            if m >= 60:
                break
        n = m
        src, dst = dst, src
    v = own + LP[0, FI[face, loop.START]]
    level = rx * W[v, polygon.X] + ry * W[v, polygon.Y] + rz * W[v, polygon.Z]
    m = 0
    for q in range(n):
        gap = rx * W[src + q, polygon.X] + ry * W[src + q, polygon.Y] + rz * W[src + q, polygon.Z] - level - clear
        if gap < margin:
            for c in range(4):
                W[dst + m, c] = W[src + q, c]
            W[dst + m, polygon.GAP] = gap
            m += 1
    every = m
    if most == BY_DEPTH:
        if m > 4:
            _reduce(W, dst, m, rx, ry, rz)
            m = 4
    else:
        every = _without_some(W, dst, m, m)
        m = _without_some(W, dst, every, most)
    label = 1e6 * (1.0 + face) + (5e8 if kind == 1 else 0.0)
    for q in range(m):
        gap = W[dst + q, polygon.GAP]
        # on the reference face if that is b's, else the incident point itself is on b
        back = gap + clear if kind == 1 else 0.0
        _put(M, q, gap, nx, ny, nz, W[dst + q, polygon.X] - back * rx, W[dst + q, polygon.Y] - back * ry, W[dst + q, polygon.Z]
             - back * rz,
             label + W[dst + q, polygon.LABEL])
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
        ax, ay, az = W[v, polygon.X] - W[u, polygon.X], W[v, polygon.Y] - W[u, polygon.Y], W[v, polygon.Z] - W[u, polygon.Z]
        bx, by, bz = W[w, polygon.X] - W[u, polygon.X], W[w, polygon.Y] - W[u, polygon.Y], W[w, polygon.Z] - W[u, polygon.Z]
        d = (ay * bz - az * by) ** 2 + (az * bx - ax * bz) ** 2 + (ax * by - ay * bx) ** 2
        if d < least * (1.0 - 1e-9):
            least, wide, k = d, bx * bx + by * by + bz * bz, q
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
def _reduce(W, o, m, rx, ry, rz):
    """Keep four: the deepest, the farthest from it, then the widest to either side."""
    k = o
    for q in range(o + 1, o + m):
        if W[q, polygon.GAP] < W[k, polygon.GAP] - 1e-9:
            k = q
    _swap(W, o, k)
    best, k = -1.0, o + 1
    for q in range(o + 1, o + m):
        d = ((W[q, polygon.X] - W[o, polygon.X]) ** 2 + (W[q, polygon.Y] - W[o, polygon.Y]) ** 2
             + (W[q, polygon.Z] - W[o, polygon.Z]) ** 2)
        if d > best * (1.0 + 1e-9) + 1e-18:
            best, k = d, q
    _swap(W, o + 1, k)
    ex, ey, ez = W[o + 1, polygon.X] - W[o, polygon.X], W[o + 1, polygon.Y] - W[o, polygon.Y], W[o + 1, polygon.Z] - W[o, polygon.Z]
    sx, sy, sz = ry * ez - rz * ey, rz * ex - rx * ez, rx * ey - ry * ex
    for sign in range(2):
        best, k = -1e300, o + 2 + sign
        for q in range(o + 2 + sign, o + m):
            d = (sx * (W[q, polygon.X] - W[o, polygon.X]) + sy * (W[q, polygon.Y] - W[o, polygon.Y]) + sz
                 * (W[q, polygon.Z] - W[o, polygon.Z]))
            d = d if sign == 0 else -d
            if d > best + 1e-12:
                best, k = d, q
        _swap(W, o + 2 + sign, k)


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL)
def _capsule_rows(p, X, geo, Q, W, M, margin):
    """Rows of a capsule ``a`` and a polytope ``b``: every candidate with gap below ``margin``; the least gap first."""
    GF, GI, FI = reals(geo, scene_table.SHAPES), wholes(geo, scene_table.SHAPES_INT), wholes(geo, scene_table.LOOPS)
    LP = wholes(geo, scene_table.LOOP_VERTICES)
    sa, sb, a, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    r, clear = GF[sa, shape.RADIUS], GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    m = 0
    least = 1e300
    ends = W.shape[0] - 2
    for e in range(2):
        o = shape.A if e == 0 else shape.B
        x, y, z = turned(a, X, GF[sa, o], GF[sa, o + 1], GF[sa, o + 2])
        x, y, z = X[a, state.X] + x, X[a, state.Y] + y, X[a, state.Z] + z
        W[ends + e, polygon.X], W[ends + e, polygon.Y], W[ends + e, polygon.Z] = x, y, z
        lx, ly, lz = rotate(X[b, state.QW], -X[b, state.QX], -X[b, state.QY], -X[b, state.QZ], x - X[b, state.X], y - X[b, state.Y],
                            z - X[b, state.Z])
        d, ox, oy, oz = point_hull(sb, lx, ly, lz, geo)
        nx, ny, nz = turned(b, X, ox, oy, oz)
        least = min(least, d - r - clear)
        if d - r - clear < margin:
            _put(M, m, d - r - clear, nx, ny, nz, x - d * nx, y - d * ny, z - d * nz, 1.0 + e)
            m += 1
    _place_vertices(sb, b, X, geo, W, W_B)
    near, qx, qy, qz, px, py, pz = 1e300, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for f in range(GI[sb, shape_int.F0], GI[sb, shape_int.F0] + GI[sb, shape_int.NF]):
        for k in range(FI[f, loop.COUNT_OF]):
            i, j = W_B + LP[0, FI[f, loop.START] + k], W_B + LP[0, FI[f, loop.START] + (k + 1) % FI[f, loop.COUNT_OF]]
            if i > j:
                continue  # every edge once
            s, t = segments(W[ends, polygon.X], W[ends, polygon.Y], W[ends, polygon.Z], W[ends + 1, polygon.X],
                            W[ends + 1, polygon.Y], W[ends + 1, polygon.Z],
                            W[i, polygon.X], W[i, polygon.Y], W[i, polygon.Z], W[j, polygon.X], W[j, polygon.Y], W[j, polygon.Z])
            if s <= 1e-6 or s >= 1.0 - 1e-6:
                continue
            ax = W[ends, polygon.X] + s * (W[ends + 1, polygon.X] - W[ends, polygon.X])
            ay = W[ends, polygon.Y] + s * (W[ends + 1, polygon.Y] - W[ends, polygon.Y])
            az = W[ends, polygon.Z] + s * (W[ends + 1, polygon.Z] - W[ends, polygon.Z])
            bx = W[i, polygon.X] + t * (W[j, polygon.X] - W[i, polygon.X])
            by = W[i, polygon.Y] + t * (W[j, polygon.Y] - W[i, polygon.Y])
            bz = W[i, polygon.Z] + t * (W[j, polygon.Z] - W[i, polygon.Z])
            d = sqrt((ax - bx) ** 2 + (ay - by) ** 2 + (az - bz) ** 2)
            if d < near:
                near, px, py, pz, qx, qy, qz = d, ax, ay, az, bx, by, bz
    if near < 1e200 and near > 1e-12 and near - r - clear < least - 1e-9:
        # outside: the edge is nearer than both ends; inside (the core cuts the edge) the ends speak
        least = near - r - clear
        if least < margin:
            nx, ny, nz = (px - qx) / near, (py - qy) / near, (pz - qz) / near
            _put(M, m, least, nx, ny, nz, qx, qy, qz, 3.0)
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
    gap, nx, ny, nz, kind, i, j = sat(p, X, geo, Q, W, 0.0 if most == NEAREST else PREFER)
    if gap - clear > margin:
        return 0, gap - clear
    m = 0
    if kind == 2:
        px, py, pz = _edge_point(W, i, j)
        _put(M, 0, gap - clear, nx, ny, nz, px, py, pz, 9e8 + 100.0 * i + j)
        return 1, gap - clear
    if most != NEAREST:
        m = _clip(p, X, geo, Q, W, M, kind, i, nx, ny, nz, margin, clear, most)
    if m == 0:
        v = (W_B if kind == 0 else W_A) + j
        back = gap if kind == 1 else 0.0
        _put(M, 0, gap - clear, nx, ny, nz, W[v, polygon.X] - back * nx, W[v, polygon.Y] - back * ny, W[v, polygon.Z] - back * nz,
             8e8 + j)
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
        nx, ny, nz, px, py = M[k, manifold.NX], M[k, manifold.NY], M[k, manifold.NZ], M[k, manifold.X], M[k, manifold.Y]
        pz = M[k, manifold.Z]
    else:
        gap, nx, ny, nz, kind, i, j = sat(p, X, geo, Q, W, 0.0)
        gap -= GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
        if kind == 2:
            px, py, pz = _edge_point(W, i, j)
        else:
            v = (W_B if kind == 0 else W_A) + j
            px, py, pz = W[v, polygon.X], W[v, polygon.Y], W[v, polygon.Z]
    ux = X[a, state.VX] - X[b, state.VX] + X[a, state.WY] * (pz - X[a, state.Z]) - X[a, state.WZ] * (py - X[a, state.Y])
    uy = X[a, state.VY] - X[b, state.VY] + X[a, state.WZ] * (px - X[a, state.X]) - X[a, state.WX] * (pz - X[a, state.Z])
    uz = X[a, state.VZ] - X[b, state.VZ] + X[a, state.WX] * (py - X[a, state.Y]) - X[a, state.WY] * (px - X[a, state.X])
    ux -= X[b, state.WY] * (pz - X[b, state.Z]) - X[b, state.WZ] * (py - X[b, state.Y])
    uy -= X[b, state.WZ] * (px - X[b, state.X]) - X[b, state.WX] * (pz - X[b, state.Z])
    uz -= X[b, state.WX] * (py - X[b, state.Y]) - X[b, state.WY] * (px - X[b, state.X])
    return gap, nx * ux + ny * uy + nz * uz


@kernel
def gap_of_pair(p, S, scene, ws):
    """The least gap of a pair, over all its features."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    if has_manifold(Q[p, pair.KIND]):
        gap, _ = apart(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
        return gap
    low = 1.0
    for f in range(Q[p, pair.FEATURES]):
        gap, _, _, _, _, _, _, _, _, _ = frame(p, f, S, geo, Q)
        low = min(low, gap)
    return low
