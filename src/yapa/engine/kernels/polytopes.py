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

from yapa.engine.kernels.flight import rotate
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    CAPSULE,
    G_A,
    G_B,
    G_CLEAR,
    G_RADIUS,
    G_THIN,
    I_D0,
    I_F0,
    I_KIND,
    I_ND,
    I_NF,
    I_NV,
    I_V0,
    MANIFOLD,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_FEATURES,
    Q_KIND,
    SC_DR,
    SC_FC,
    SC_FI,
    SC_GF,
    SC_GI,
    SC_LP,
    SC_Q,
    SC_VT,
    TOUCH,
    WS_M,
    WS_WV,
)
from yapa.engine.kernels.shapes import frame, point_hull, segments, turned
from yapa.engine.kernels.views import reals, wholes

PREFER = 2e-4
BY_DEPTH, NEAREST = 0, -1
"""In place of a number of points: four, as a crowd needs them; only the nearest."""
W_A, W_B, W_CLIP, W_NEXT = 0, 64, 128, 192
"""Rows of the scratch array: vertices of a, of b, and two polygons."""
SCRATCH_ROWS = 256


@kernel
def _place_vertices(s, b, X, geo, W, row):
    GI, VT = wholes(geo, SC_GI), reals(geo, SC_VT)
    v0 = GI[s, I_V0]
    for k in range(GI[s, I_NV]):
        x, y, z = rotate(X[b, 3], X[b, 4], X[b, 5], X[b, 6], VT[v0 + k, 0], VT[v0 + k, 1], VT[v0 + k, 2])
        W[row + k, 0], W[row + k, 1], W[row + k, 2] = X[b, 0] + x, X[b, 1] + y, X[b, 2] + z


@kernel
def _lowest(W, row, n, x, y, z):
    best, at = 1e300, 0
    for k in range(n):
        d = W[row + k, 0] * x + W[row + k, 1] * y + W[row + k, 2] * z
        if d < best:
            best, at = d, k
    return best, at


@far((REAL, REAL, REAL, REAL, WHOLE, WHOLE, WHOLE), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL)
def sat(p, X, geo, Q, W, share):
    """Best separating axis: separation, normal from b to a, 0/1/2 (face of a, of b, edges), two indices.

    ``share`` of the thinnest half is what an axis must win by (0: the greatest separation, whatever gives it).
    For edges the indices are the supporting vertices; the directions are kept in the last scratch rows.
    """
    GF, GI, FC, FI, LP, DR = (
        reals(geo, SC_GF), wholes(geo, SC_GI), reals(geo, SC_FC), wholes(geo, SC_FI), wholes(geo, SC_LP), reals(geo, SC_DR))
    sa, sb, a, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    na, nb = GI[sa, I_NV], GI[sb, I_NV]
    _place_vertices(sa, a, X, geo, W, W_A)
    _place_vertices(sb, b, X, geo, W, W_B)
    face, kind, index, other = -1e300, 0, 0, 0
    fx, fy, fz = 0.0, 0.0, 1.0
    prefer = share * min(GF[sa, G_THIN], GF[sb, G_THIN])
    for side in range(2):
        s, body, own, theirs, count = (sa, a, W_A, W_B, nb) if side == 0 else (sb, b, W_B, W_A, na)
        best, at, low = -1e300, 0, 0
        bx, by, bz = 0.0, 0.0, 1.0
        for f in range(GI[s, I_F0], GI[s, I_F0] + GI[s, I_NF]):
            x, y, z = rotate(X[body, 3], X[body, 4], X[body, 5], X[body, 6], FC[f, 0], FC[f, 1], FC[f, 2])
            v = own + LP[0, FI[f, 0]]
            level = W[v, 0] * x + W[v, 1] * y + W[v, 2] * z
            d, k = _lowest(W, theirs, count, x, y, z)
            if d - level > best:
                best, at, low, bx, by, bz = d - level, f, k, x, y, z
        if side == 0:
            face, kind, index, other, fx, fy, fz = best, 0, at, low, -bx, -by, -bz
        elif best > face + prefer:
            face, kind, index, other, fx, fy, fz = best, 1, at, low, bx, by, bz
    if face > 0.05 * (GF[sa, G_THIN] + GF[sb, G_THIN]) + prefer:
        return face, fx, fy, fz, kind, index, other  # clearly apart: edges could only say more
    edge, ex, ey, ez, ia, ib = -1e300, 0.0, 0.0, 1.0, 0, 0
    for i in range(GI[sa, I_ND]):
        k = GI[sa, I_D0] + i
        ax, ay, az = rotate(X[a, 3], X[a, 4], X[a, 5], X[a, 6], DR[k, 0], DR[k, 1], DR[k, 2])
        for j in range(GI[sb, I_ND]):
            m = GI[sb, I_D0] + j
            bx, by, bz = rotate(X[b, 3], X[b, 4], X[b, 5], X[b, 6], DR[m, 0], DR[m, 1], DR[m, 2])
            cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            n = sqrt(cx * cx + cy * cy + cz * cz)
            if n < 1e-3:
                continue
            cx, cy, cz = cx / n, cy / n, cz / n
            if cx * (X[a, 0] - X[b, 0]) + cy * (X[a, 1] - X[b, 1]) + cz * (X[a, 2] - X[b, 2]) < 0.0:
                cx, cy, cz = -cx, -cy, -cz
            low, ka = _lowest(W, W_A, na, cx, cy, cz)
            high, kb = _lowest(W, W_B, nb, -cx, -cy, -cz)
            d = low + high
            if d > edge:
                edge, ex, ey, ez, ia, ib = d, cx, cy, cz, ka, kb
                W[W.shape[0] - 2, 0], W[W.shape[0] - 2, 1], W[W.shape[0] - 2, 2] = ax, ay, az
                W[W.shape[0] - 1, 0], W[W.shape[0] - 1, 1], W[W.shape[0] - 1, 2] = bx, by, bz
    if edge > face + prefer:
        return edge, ex, ey, ez, 2, ia, ib
    return face, fx, fy, fz, kind, index, other


@kernel
def _edge_point(W, ia, ib):
    """Nearest points of the lines through two supporting vertices along the kept directions: that on b."""
    e, g = W.shape[0] - 2, W.shape[0] - 1
    rx, ry, rz = W[W_A + ia, 0] - W[W_B + ib, 0], W[W_A + ia, 1] - W[W_B + ib, 1], W[W_A + ia, 2] - W[W_B + ib, 2]
    b = W[e, 0] * W[g, 0] + W[e, 1] * W[g, 1] + W[e, 2] * W[g, 2]
    c = W[e, 0] * rx + W[e, 1] * ry + W[e, 2] * rz
    f = W[g, 0] * rx + W[g, 1] * ry + W[g, 2] * rz
    t = (f - b * c) / max(1.0 - b * b, 1e-12)
    return W[W_B + ib, 0] + t * W[g, 0], W[W_B + ib, 1] + t * W[g, 1], W[W_B + ib, 2] + t * W[g, 2]


@kernel
def _put(M, row, gap, nx, ny, nz, px, py, pz, feature):
    M[row, 0] = gap
    M[row, 1], M[row, 2], M[row, 3] = nx, ny, nz
    M[row, 4], M[row, 5], M[row, 6] = px, py, pz
    M[row, 7] = feature
    M[row, 8] = 0.0


@kernel
def _clip(p, X, geo, Q, W, M, kind, face, nx, ny, nz, margin, clear, most):
    """Points of the incident face inside the reference face, with gap below ``margin``; ``most`` of them, or ``BY_DEPTH``."""
    GI, FC, FI, LP = (
        wholes(geo, SC_GI), reals(geo, SC_FC), wholes(geo, SC_FI), wholes(geo, SC_LP))
    sa, sb, a, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    # reference axis, outward from the reference body
    sr, si, br, bi, own, theirs = (sa, sb, a, b, W_A, W_B) if kind == 0 else (sb, sa, b, a, W_B, W_A)
    rx, ry, rz = (-nx, -ny, -nz) if kind == 0 else (nx, ny, nz)
    best, inc = 1e300, GI[si, I_F0]
    for f in range(GI[si, I_F0], GI[si, I_F0] + GI[si, I_NF]):
        x, y, z = rotate(X[bi, 3], X[bi, 4], X[bi, 5], X[bi, 6], FC[f, 0], FC[f, 1], FC[f, 2])
        d = x * rx + y * ry + z * rz
        if d < best - 1e-9:
            best, inc = d, f
    n = FI[inc, 1]
    src, dst = W_CLIP, W_NEXT
    for k in range(n):
        v = theirs + LP[0, FI[inc, 0] + k]
        for c in range(3):
            W[src + k, c] = W[v, c]
        W[src + k, 3] = LP[0, FI[inc, 0] + k] + 1.0
    count = FI[face, 1]
    for k in range(count):
        i, j = own + LP[0, FI[face, 0] + k], own + LP[0, FI[face, 0] + (k + 1) % count]
        ex, ey, ez = W[j, 0] - W[i, 0], W[j, 1] - W[i, 1], W[j, 2] - W[i, 2]
        sx, sy, sz = ey * rz - ez * ry, ez * rx - ex * rz, ex * ry - ey * rx  # outward side normal
        level = sx * W[i, 0] + sy * W[i, 1] + sz * W[i, 2]
        m = 0
        for q in range(n):
            u, w = src + q, src + (q + 1) % n
            du = sx * W[u, 0] + sy * W[u, 1] + sz * W[u, 2] - level
            dw = sx * W[w, 0] + sy * W[w, 1] + sz * W[w, 2] - level
            if du <= 0.0:
                for c in range(4):
                    W[dst + m, c] = W[u, c]
                m += 1
            if (du < 0.0 and dw > 0.0) or (du > 0.0 and dw < 0.0):
                t = du / (du - dw)
                for c in range(3):
                    W[dst + m, c] = W[u, c] + t * (W[w, c] - W[u, c])
                W[dst + m, 3] = 100.0 * (k + 1) + 10000.0 * (1.0 + max(W[u, 3], W[w, 3]) % 100.0) + (50.0 if du > 0.0 else 0.0)
                m += 1
            if m >= 60:
                break
        n = m
        src, dst = dst, src
    v = own + LP[0, FI[face, 0]]
    level = rx * W[v, 0] + ry * W[v, 1] + rz * W[v, 2]
    m = 0
    for q in range(n):
        gap = rx * W[src + q, 0] + ry * W[src + q, 1] + rz * W[src + q, 2] - level - clear
        if gap < margin:
            for c in range(4):
                W[dst + m, c] = W[src + q, c]
            W[dst + m, 4] = gap
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
        gap = W[dst + q, 4]
        # on the reference face if that is b's, else the incident point itself is on b
        back = gap + clear if kind == 1 else 0.0
        _put(M, q, gap, nx, ny, nz, W[dst + q, 0] - back * rx, W[dst + q, 1] - back * ry, W[dst + q, 2] - back * rz,
             label + W[dst + q, 3])
        M[q, 8] = 1.0 if m < every else 0.0
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
        ax, ay, az = W[v, 0] - W[u, 0], W[v, 1] - W[u, 1], W[v, 2] - W[u, 2]
        bx, by, bz = W[w, 0] - W[u, 0], W[w, 1] - W[u, 1], W[w, 2] - W[u, 2]
        d = (ay * bz - az * by) ** 2 + (az * bx - ax * bz) ** 2 + (ax * by - ay * bx) ** 2
        if d < least * (1.0 - 1e-9):
            least, wide, k = d, bx * bx + by * by + bz * bz, q
    if m <= most and least >= TOUCH * TOUCH * wide:
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
        if W[q, 4] < W[k, 4] - 1e-9:
            k = q
    _swap(W, o, k)
    best, k = -1.0, o + 1
    for q in range(o + 1, o + m):
        d = (W[q, 0] - W[o, 0]) ** 2 + (W[q, 1] - W[o, 1]) ** 2 + (W[q, 2] - W[o, 2]) ** 2
        if d > best * (1.0 + 1e-9) + 1e-18:
            best, k = d, q
    _swap(W, o + 1, k)
    ex, ey, ez = W[o + 1, 0] - W[o, 0], W[o + 1, 1] - W[o, 1], W[o + 1, 2] - W[o, 2]
    sx, sy, sz = ry * ez - rz * ey, rz * ex - rx * ez, rx * ey - ry * ex
    for sign in range(2):
        best, k = -1e300, o + 2 + sign
        for q in range(o + 2 + sign, o + m):
            d = sx * (W[q, 0] - W[o, 0]) + sy * (W[q, 1] - W[o, 1]) + sz * (W[q, 2] - W[o, 2])
            d = d if sign == 0 else -d
            if d > best + 1e-12:
                best, k = d, q
        _swap(W, o + 2 + sign, k)


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2, REAL)
def _capsule_rows(p, X, geo, Q, W, M, margin):
    """Rows of a capsule ``a`` and a polytope ``b``: every candidate with gap below ``margin``; the least gap first."""
    GF, GI, FI, LP = (
        reals(geo, SC_GF), wholes(geo, SC_GI), wholes(geo, SC_FI), wholes(geo, SC_LP))
    sa, sb, a, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    r, clear = GF[sa, G_RADIUS], GF[sa, G_CLEAR] + GF[sb, G_CLEAR]
    m = 0
    least = 1e300
    ends = W.shape[0] - 2
    for e in range(2):
        o = G_A if e == 0 else G_B
        x, y, z = turned(a, X, GF[sa, o], GF[sa, o + 1], GF[sa, o + 2])
        x, y, z = X[a, 0] + x, X[a, 1] + y, X[a, 2] + z
        W[ends + e, 0], W[ends + e, 1], W[ends + e, 2] = x, y, z
        lx, ly, lz = rotate(X[b, 3], -X[b, 4], -X[b, 5], -X[b, 6], x - X[b, 0], y - X[b, 1], z - X[b, 2])
        d, ox, oy, oz = point_hull(sb, lx, ly, lz, geo)
        nx, ny, nz = turned(b, X, ox, oy, oz)
        least = min(least, d - r - clear)
        if d - r - clear < margin:
            _put(M, m, d - r - clear, nx, ny, nz, x - d * nx, y - d * ny, z - d * nz, 1.0 + e)
            m += 1
    _place_vertices(sb, b, X, geo, W, W_B)
    near, qx, qy, qz, px, py, pz = 1e300, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for f in range(GI[sb, I_F0], GI[sb, I_F0] + GI[sb, I_NF]):
        for k in range(FI[f, 1]):
            i, j = W_B + LP[0, FI[f, 0] + k], W_B + LP[0, FI[f, 0] + (k + 1) % FI[f, 1]]
            if i > j:
                continue  # every edge once
            s, t = segments(W[ends, 0], W[ends, 1], W[ends, 2], W[ends + 1, 0], W[ends + 1, 1], W[ends + 1, 2],
                            W[i, 0], W[i, 1], W[i, 2], W[j, 0], W[j, 1], W[j, 2])
            if s <= 1e-6 or s >= 1.0 - 1e-6:
                continue
            ax = W[ends, 0] + s * (W[ends + 1, 0] - W[ends, 0])
            ay = W[ends, 1] + s * (W[ends + 1, 1] - W[ends, 1])
            az = W[ends, 2] + s * (W[ends + 1, 2] - W[ends, 2])
            bx, by, bz = W[i, 0] + t * (W[j, 0] - W[i, 0]), W[i, 1] + t * (W[j, 1] - W[i, 1]), W[i, 2] + t * (W[j, 2] - W[i, 2])
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
    GF, GI = reals(geo, SC_GF), wholes(geo, SC_GI)
    sa, sb = Q[p, Q_A], Q[p, Q_B]
    if GI[sa, I_KIND] == CAPSULE:
        return _capsule_rows(p, X, geo, Q, W, M, margin)
    clear = GF[sa, G_CLEAR] + GF[sb, G_CLEAR]
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
        _put(M, 0, gap - clear, nx, ny, nz, W[v, 0] - back * nx, W[v, 1] - back * ny, W[v, 2] - back * nz, 8e8 + j)
        m = 1
    return m, gap - clear


@far((REAL, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REALS2)
def apart(p, X, geo, Q, W, M):
    """Gap of a pair without features, and its rate where it is least."""
    GF, GI = reals(geo, SC_GF), wholes(geo, SC_GI)
    sa, sb, a, b = Q[p, Q_A], Q[p, Q_B], Q[p, Q_BA], Q[p, Q_BB]
    if GI[sa, I_KIND] == CAPSULE:
        m, gap = _capsule_rows(p, X, geo, Q, W, M, 1e300)
        k = 0
        for q in range(1, m):
            if M[q, 0] < M[k, 0]:
                k = q
        nx, ny, nz, px, py, pz = M[k, 1], M[k, 2], M[k, 3], M[k, 4], M[k, 5], M[k, 6]
    else:
        gap, nx, ny, nz, kind, i, j = sat(p, X, geo, Q, W, 0.0)
        gap -= GF[sa, G_CLEAR] + GF[sb, G_CLEAR]
        if kind == 2:
            px, py, pz = _edge_point(W, i, j)
        else:
            v = (W_B if kind == 0 else W_A) + j
            px, py, pz = W[v, 0], W[v, 1], W[v, 2]
    ux = X[a, 7] - X[b, 7] + X[a, 11] * (pz - X[a, 2]) - X[a, 12] * (py - X[a, 1])
    uy = X[a, 8] - X[b, 8] + X[a, 12] * (px - X[a, 0]) - X[a, 10] * (pz - X[a, 2])
    uz = X[a, 9] - X[b, 9] + X[a, 10] * (py - X[a, 1]) - X[a, 11] * (px - X[a, 0])
    ux -= X[b, 11] * (pz - X[b, 2]) - X[b, 12] * (py - X[b, 1])
    uy -= X[b, 12] * (px - X[b, 0]) - X[b, 10] * (pz - X[b, 2])
    uz -= X[b, 10] * (py - X[b, 1]) - X[b, 11] * (px - X[b, 0])
    return gap, nx * ux + ny * uy + nz * uz


@kernel
def gap_of_pair(p, S, scene, ws):
    """The least gap of a pair, over all its features."""
    geo, Q = scene, wholes(scene, SC_Q)
    if Q[p, Q_KIND] == MANIFOLD:
        gap, _ = apart(p, S, geo, Q, reals(ws, WS_WV), reals(ws, WS_M))
        return gap
    low = 1.0
    for f in range(Q[p, Q_FEATURES]):
        gap, _, _, _, _, _, _, _, _, _ = frame(p, f, S, geo, Q)
        low = min(low, gap)
    return low
