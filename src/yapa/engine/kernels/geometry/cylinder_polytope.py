"""A cylinder against a polytope: contact points across their axis of separation (``cylinder_axis``).

It lies on a face or along an edge at both ends of the line that they share, and stands on a face with four points of its rim and
what of the face's outline is under its end. A row of the manifold says what it is made of; ``round_frames`` follows it.
"""

from math import sqrt

from yapa.engine.kernels.geometry.cylinder_axis import ARC, CORNER, END, FACE, KINK, best_axis
from yapa.engine.kernels.geometry.round_frames import edge_of, lowest_way, quarter_on
from yapa.engine.kernels.geometry.round_rows import ACROSS_RIM, ACROSS_SIDE, ON_STATION, UNDER, core_in_b, into_world, put_row
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    edge,
    face_plane,
    frame_kind,
    loop,
    manifold,
    pair,
    scene_table,
    shape_int,
    vertex,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    cross,
    dot,
    length,
    minus,
    negative,
    over,
    unit,
    vector,
)

STEEP = 0.5
"""|n · u| above which a cylinder stands on its rim or an end rather than lies on its side."""
LIES = 1e-3
"""An edge that makes less than this angle with an axis lies along it [rad]."""
PREFER = 1e-6
"""Share of the thinnest half that an axis must win by over a face, so that the choice does not flicker."""
OVERHANG = 1e-3
"""Share of its radius by which the lowest line of a cylinder may lie beside a face and still count as on it: half a millionth of
the radius higher than there. Its frame is that of the nearest point all the same."""
SAME = 1e-9
"""m: points that are no farther than the nearest by more than this are as near."""


@kernel
def _inside_face(f, s, at, slack, geo):
    """Whether the foot of a point on a face's plane lies within the face."""
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    FI, LP, n = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES), vector(FC, f, face_plane.NORMAL)
    v0, start, count = GI[s, shape_int.V0], FI[f, loop.START], FI[f, loop.COUNT_OF]
    for k in range(count):
        corner = vector(VT, v0 + LP[0, start + k], vertex.POSITION)
        side = minus(vector(VT, v0 + LP[0, start + (k + 1) % count], vertex.POSITION), corner)
        if dot(cross(n, side), minus(at, corner)) < -slack * length(side):
            return False
    return True


@kernel
def _clip_line(f, s, start, stop, slack, geo):
    """The shares between which a segment lies over a face, or beside it by no more than ``slack``; the first is above the second
    where it never does."""
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    FI, LP, n = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES), vector(FC, f, face_plane.NORMAL)
    v0, begin, count = GI[s, shape_int.V0], FI[f, loop.START], FI[f, loop.COUNT_OF]
    low, high = 0.0, 1.0
    for k in range(count):
        corner = vector(VT, v0 + LP[0, begin + k], vertex.POSITION)
        side = minus(vector(VT, v0 + LP[0, begin + (k + 1) % count], vertex.POSITION), corner)
        inward = unit(cross(n, side))
        d, e = dot(inward, minus(start, corner)) + slack, dot(inward, minus(stop, corner)) + slack
        if d < 0.0 and e < 0.0:
            return 1.0, 0.0
        if d < 0.0:
            low = max(low, d / (d - e))
        elif e < 0.0:
            high = min(high, d / (d - e))
    return low, high


@part
def _on_side(f, core, margin, sb, geo, M):
    """Rows of a cylinder that lies on a face: both ends of its lowest line that are over it."""
    low, high, r, clear = core
    FC = reals(geo, scene_table.FACES)
    n, level, axis = vector(FC, f, face_plane.NORMAL), FC[f, face_plane.OFFSET], unit(minus(high, low))
    way = lowest_way(axis, n)
    start, stop = ahead(low, r, way), ahead(high, r, way)
    first, last = _clip_line(f, sb, start, stop, OVERHANG * r, geo)
    m = 0
    if first > last:
        return 0
    for e in range(2):
        share = first if e == 0 else last
        at = ahead(start, share, minus(stop, start))
        gap = dot(n, at) - level - clear
        if gap < margin and (e == 0 or last - first > 1e-9):
            put_row(M, m, gap, n, ahead(at, -(gap + clear), n), ON_STATION + 4.0 * e, frame_kind.STATION, (share, 1.0, 0.0), ZERO)
            m += 1
    return m


@part
def _on_end(f, n, core, margin, sb, geo, M):
    """Rows of a cylinder that stands on a face, or on its rim there: points of its rim, and of the face under its end."""
    low, high, r, clear = core
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    FI, LP = wholes(geo, scene_table.LOOPS), wholes(geo, scene_table.LOOP_VERTICES)
    out, level = vector(FC, f, face_plane.NORMAL), FC[f, face_plane.OFFSET]
    axis, m = unit(minus(high, low)), 0
    end = 0.0 if dot(n, axis) > 0.0 else 1.0
    up, centre = (axis, low) if end == 0.0 else (negative(axis), high)
    way = lowest_way(axis, out)
    for k in range(4):
        at = ahead(centre, r, quarter_on(way, axis, k))
        gap = dot(out, at) - level - clear
        if gap < margin and _inside_face(f, sb, at, 1e-12, geo):
            put_row(M, m, gap, out, ahead(at, -(gap + clear), out), 4.0 * end + k, frame_kind.RIM, (end, 1.0 * k, 0.0), ZERO)
            m += 1
    v0, start, count = GI[sb, shape_int.V0], FI[f, loop.START], FI[f, loop.COUNT_OF]
    for k in range(count):
        corner = vector(VT, v0 + LP[0, start + k], vertex.POSITION)
        side = minus(vector(VT, v0 + LP[0, start + (k + 1) % count], vertex.POSITION), corner)
        # where the side of the face meets the round of the end, and its corner
        off, flat = minus(corner, centre), ahead(side, -dot(side, axis), axis)
        away = ahead(off, -dot(off, axis), axis)
        a, b, c = dot(flat, flat), dot(flat, away), dot(away, away) - r * r
        root = b * b - a * c
        for j in range(3):
            share = 0.0
            if j == 0:
                if c > 0.0:
                    continue
            else:
                if root <= 0.0 or a < 1e-18:
                    continue
                share = (-b - sqrt(root)) / a if j == 1 else (-b + sqrt(root)) / a
                if share <= 0.0 or share >= 1.0:
                    continue
            at = ahead(corner, share, side)
            gap = dot(up, minus(centre, at)) - clear
            if gap < margin and m < M.shape[0]:
                put_row(M, m, gap, up, at, UNDER + 4.0 * (3 * k + j) + 1.0, frame_kind.UNDER_END, (end, 0.0, 0.0), at)
                m += 1
    return m


@part
def _along_edge(k, core, margin, sb, geo, M):
    """Rows of a cylinder that an edge lies along: both ends of what they share."""
    low, high, r, clear = core
    GI, VT, EI = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), wholes(geo, scene_table.EDGES)
    v0, m = GI[sb, shape_int.V0], 0
    start, stop = vector(VT, v0 + EI[k, edge.FROM], vertex.POSITION), vector(VT, v0 + EI[k, edge.TO], vertex.POSITION)
    way = minus(high, low)
    size = dot(way, way)
    s, t = dot(minus(start, low), way) / size, dot(minus(stop, low), way) / size
    if s > t:
        s, t, start, stop = t, s, stop, start
    first, last = max(s, 0.0), min(t, 1.0)
    if first > last:
        return 0
    for e in range(2):
        share = first if e == 0 else last
        core = ahead(low, share, way)
        on_b = ahead(start, (share - s) / (t - s) if t > s else 0.0, minus(stop, start))
        away = minus(core, on_b)
        d = length(away)
        if d - r - clear < margin and d > 1e-12 and (e == 0 or last - first > 1e-9):
            put_row(M, m, d - r - clear, over(away, d), on_b, ON_STATION + 4.0 * e, frame_kind.STATION, (share, 0.0, 0.0), ZERO)
            m += 1
    return m


@part
def _one_row(gap, axis_of_separation, core, sb, geo, M):
    """The one point where a cylinder is nearest, as its axis of separation has it: normal, what gives it, which, and an end."""
    n, kind, which, end = axis_of_separation
    low, high, r, _ = core
    GI, VT, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.VERTICES), reals(geo, scene_table.FACES)
    way, axis = minus(high, low), unit(minus(high, low))
    if kind == END:
        v = vector(VT, GI[sb, shape_int.V0] + which, vertex.POSITION)
        put_row(M, 0, gap, n, v, UNDER + 1.0, frame_kind.UNDER_END, (end, 0.0, 0.0), v)
        return
    if kind == CORNER:
        v = vector(VT, GI[sb, shape_int.V0] + which, vertex.POSITION)
        share = dot(minus(v, low), way) / dot(way, way)
        put_row(M, 0, gap, n, v, ON_STATION + 8.0, frame_kind.STATION, (share, 0.0, 0.0), ZERO)
        return
    if kind == FACE:
        nu = dot(n, axis)
        lower = lowest_way(axis, n)
        at_low = nu > 0.0
        at = ahead(low if at_low else high, r, lower)
        on_b = ahead(at, FC[which, face_plane.OFFSET] - dot(n, at), n)
        if abs(nu) > STEEP:
            put_row(M, 0, gap, n, on_b, 0.0 if at_low else 4.0, frame_kind.RIM, (0.0 if at_low else 1.0, 0.0, 0.0), ZERO)
        else:
            put_row(M, 0, gap, n, on_b, ON_STATION, frame_kind.STATION, (0.0 if at_low else 1.0, 1.0, 0.0), ZERO)
        return
    start, along = edge_of(which, sb, geo)
    if kind == KINK:
        away = minus(low, start)
        c, d, e = dot(axis, along), dot(axis, away), dot(along, away)
        foot = ahead(start, (e - c * d) / max(1.0 - c * c, 1e-12), along)
        put_row(M, 0, gap, n, foot, ACROSS_SIDE + 4.0 * (which - GI[sb, shape_int.E0]), frame_kind.EDGE_SIDE,
                (1.0 * which, 0.0, 0.0), ZERO)
        return
    lower = lowest_way(axis, n)
    at = ahead(low if end == 0.0 else high, r, lower)
    foot = ahead(start, dot(minus(at, start), along), along)
    put_row(M, 0, gap, n, foot, ACROSS_RIM + 4.0 * (2 * (which - GI[sb, shape_int.E0]) + int(end)), frame_kind.EDGE_RIM,
             (1.0 * which, end, 0.0), ZERO)


@part
def _face_against(n, sb, geo):
    """The face of a polytope that looks most along n."""
    GI, FC = wholes(geo, scene_table.SHAPES_INT), reals(geo, scene_table.FACES)
    best, at = -1e300, 0
    for f in range(GI[sb, shape_int.F0], GI[sb, shape_int.F0] + GI[sb, shape_int.NF]):
        d = dot(n, vector(FC, f, face_plane.NORMAL))
        if d > best:
            best, at = d, f
    return at


@part
def _rows_of(axis_of_separation, margin, core, sb, geo, M):
    """Rows of what meets across an axis of separation with gap below ``margin``, in the axes of b; how many."""
    n, kind, which, end = axis_of_separation
    low, high, _, _ = core
    axis = unit(minus(high, low))
    if kind == FACE and abs(dot(n, axis)) <= STEEP:
        return _on_side(which, core, margin, sb, geo, M)
    if kind == FACE or kind == END:
        return _on_end(which if kind == FACE else _face_against(n, sb, geo), n, core, margin, sb, geo, M)
    if kind == KINK or kind == ARC:
        _, along = edge_of(which, sb, geo)
        if length(cross(along, axis)) < LIES:
            return _along_edge(which, core, margin, sb, geo, M)
    return 0


@kernel
def _copy_row(source, target, M):
    for c in range(manifold.COUNT):
        M[target, c] = M[source, c]


@far((WHOLE, REAL), WHOLE, REALS2, WHOLES1, WHOLES2, REALS2, REAL, WHOLE)
def cylinder_rows(p, X, geo, Q, M, margin, alone):
    """Rows of a cylinder and a polytope with gap below ``margin``, in world axes; with ``alone`` = 1 only the nearest point,
    whatever its gap. Count, and least gap."""
    core = core_in_b(p, X, geo, Q)
    low, high, r, clear = core
    sb = Q[p, pair.SHAPE_B]
    gap, n, kind, which, end = best_axis(p, low, high, r, 0.0 if alone == 1 else PREFER, geo, Q)
    gap -= clear
    if alone == 0 and gap > margin:
        return 0, gap
    m = _rows_of((n, kind, which, end), gap + SAME if alone == 1 else margin, core, sb, geo, M)
    if m == 0:
        _one_row(gap, (n, kind, which, end), core, sb, geo, M)
        m = 1
    if alone == 1:
        for k in range(1, m):
            if M[k, manifold.GAP] < M[0, manifold.GAP]:
                _copy_row(k, 0, M)
        m = 1
    into_world(m, Q[p, pair.BODY_B], X, M)
    return m, gap
