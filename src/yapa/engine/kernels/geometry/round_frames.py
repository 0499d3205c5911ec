"""Contacts of a capsule or a cylinder with a polytope: how their frames move with both bodies.

The surface of a round shape turns under its contact: the point of contact stays where the polytope is nearest. So a row keeps what
it is made of (``layout.frame_kind``) and makes its frame anew at every state, with the axis u of the round shape from A to B, its
radius R, and n the normal from the polytope to it:

    STATION     the point P of the axis at a share s: n from the nearest point of the polytope to P. A capsule is touched at
                P - R n, a cylinder at P + R d, d = -n without its part along u. Where a vertex or an edge meets the side of a
                cylinder n is radial, -d
    RIM         as the lowest point of an end's rim over a face, or a quarter or half a turn on: the normal is the face's
    UNDER_END   a point of the polytope at a flat end: n is ±u
    EDGE_SIDE   an edge across the side: n = ±u × e, through the nearest points of both lines
    EDGE_RIM    an edge across a rim: the n that is normal to e and parts both farthest (``parting_angle``)

Numbers of a row: the share of the axis, and 1 where a face is met; the end, and quarters on; the end; an edge; an edge and the end.
b is the polytope. Arms end on the shapes' surfaces, contact margins included.
"""

from math import cos, sin, sqrt

from yapa.engine.kernels.geometry.nearest_points import point_hull
from yapa.engine.kernels.geometry.placing import between, turned, turned_back
from yapa.engine.kernels.geometry.shape_traits import is_round_shape
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import contact, edge, frame_kind, pair, scene_table, shape, shape_int, vertex
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    ahead,
    cross,
    dot,
    length,
    minus,
    negative,
    over,
    plus,
    times,
    unit,
    vector,
)

LEVEL = 1e-9
"""An axis that is nearer to a normal than this has no lowest point on its rims."""
CLOSE = 1e-15
"""rad: a parting angle is found to this."""


@kernel
def core_of(p, X, geo, Q):
    """Both ends of the axis of a round shape a, from a's centre of mass, and its radius with both margins."""
    GF, sa, sb, a = reals(geo, scene_table.SHAPES), Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_A]
    r = GF[sa, shape.RADIUS] + GF[sa, shape.CLEAR] + GF[sb, shape.CLEAR]
    return turned(a, X, vector(GF, sa, shape.A)), turned(a, X, vector(GF, sa, shape.B)), r


@kernel
def lowest_way(axis, n):
    """The direction from the axis to the point of a rim that is lowest along ``n``."""
    down = minus(times(dot(n, axis), axis), n)
    size = length(down)
    if size < LEVEL:  # upright: any direction is as low as any other
        ux, uy, uz = axis
        down = (1.0 - ux * ux, -ux * uy, -ux * uz) if abs(ux) < 0.7 else (-uy * ux, 1.0 - uy * uy, -uy * uz)
        return unit(down)
    return over(down, size)


@kernel
def quarter_on(way, axis, k):
    """A direction across the axis, ``k`` quarter turns on."""
    if k == 1:
        return cross(axis, way)
    if k == 2:
        return negative(way)
    return negative(cross(axis, way)) if k == 3 else way


@kernel
def slope_of(n, m, away, axis, r):
    """First and second derivative, as n turns towards m, of how far a rim is from an edge along n."""
    nu, mu = dot(n, axis), dot(m, axis)
    q = sqrt(max(1.0 - nu * nu, 1e-30))
    first = dot(m, away) + r * nu * mu / q
    second = -dot(n, away) + r * ((mu * mu - nu * nu) / q + nu * nu * mu * mu / (q * q * q))
    return first, second


@kernel
def parting_angle(low, high, n, m, away, axis, r):
    """The angle from n towards m, between two, at which a rim is farthest from an edge: its slope falls through zero there.

    ``away``: from the edge to the centre of the rim."""
    at = 0.5 * (low + high)
    for _ in range(60):
        c, s = cos(at), sin(at)
        first, second = slope_of(ahead(times(c, n), s, m), ahead(times(c, m), -s, n), away, axis, r)
        if first > 0.0:
            low = at
        else:
            high = at
        following = at - first / second if second < 0.0 else 0.5 * (low + high)
        if not (low < following < high):
            following = 0.5 * (low + high)
        if abs(following - at) < CLOSE:
            return following
        at = following
    return at


@kernel
def _station(p, share, by_face, X, geo, Q):
    """The frame at a place along the axis."""
    low, high, r = core_of(p, X, geo, Q)
    a, b, sa = Q[p, pair.BODY_A], Q[p, pair.BODY_B], Q[p, pair.SHAPE_A]
    core = ahead(low, share, minus(high, low))
    _, outward = point_hull(Q[p, pair.SHAPE_B], turned_back(b, X, plus(between(a, b, X), core)), geo)
    n = turned(b, X, outward)
    if is_round_shape(wholes(geo, scene_table.SHAPES_INT)[sa, shape_int.KIND]):
        arm = ahead(core, -r, n)
    else:
        way = lowest_way(unit(minus(high, low)), n)
        if by_face == 0.0:
            n = negative(way)
        arm = ahead(core, r, way)
    return n, arm, plus(between(a, b, X), arm)


@kernel
def _rim(p, end, quarter, own_n, S, X, geo, Q):
    """The frame of a rim on a face. It keeps its side: as a cylinder falls flat, its lowest point changes sides at once."""
    low, high, r = core_of(p, X, geo, Q)
    was_low, was_high, _ = core_of(p, S, geo, Q)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    n, axis = turned(b, X, own_n), unit(minus(high, low))
    way = lowest_way(axis, n)
    before = lowest_way(unit(minus(was_high, was_low)), turned(b, S, own_n))
    if dot(way, before) < 0.0:
        way = negative(way)
    arm = ahead(low if end == 0.0 else high, r, quarter_on(way, axis, int(quarter)))
    return n, arm, plus(between(a, b, X), arm)


@kernel
def _under_end(p, end, own, X, geo, Q):
    """The frame of a point of b at a flat end."""
    low, high, _ = core_of(p, X, geo, Q)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    n = unit(minus(high, low) if end == 0.0 else minus(low, high))
    arm = turned(b, X, own)
    return n, minus(arm, between(a, b, X)), arm


@kernel
def edge_of(row, s, geo):
    """A point and the direction of an edge of a polytope, in its body's axes."""
    VT, EI = reals(geo, scene_table.VERTICES), wholes(geo, scene_table.EDGES)
    v0 = wholes(geo, scene_table.SHAPES_INT)[s, shape_int.V0]
    start = vector(VT, v0 + EI[row, edge.FROM], vertex.POSITION)
    return start, unit(minus(vector(VT, v0 + EI[row, edge.TO], vertex.POSITION), start))


@kernel
def _edge_side(p, row, X, geo, Q):
    """The frame where an edge lies across the side."""
    low, high, r = core_of(p, X, geo, Q)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    own, along = edge_of(row, Q[p, pair.SHAPE_B], geo)
    axis, way, on_b, apart = unit(minus(high, low)), turned(b, X, along), turned(b, X, own), between(a, b, X)
    away = minus(plus(apart, low), on_b)
    c, d, e = dot(axis, way), dot(axis, away), dot(way, away)
    det = max(1.0 - c * c, 1e-12)
    core, foot = ahead(low, (c * e - d) / det, axis), ahead(on_b, (e - c * d) / det, way)
    n = unit(minus(plus(apart, core), foot))
    arm = ahead(core, -r, n)
    return n, arm, plus(apart, arm)


@kernel
def _edge_rim(p, row, end, own_n, X, geo, Q):
    """The frame where an edge lies across a rim."""
    low, high, r = core_of(p, X, geo, Q)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    own, along = edge_of(row, Q[p, pair.SHAPE_B], geo)
    axis, apart = unit(minus(high, low)), between(a, b, X)
    centre = low if end == 0.0 else high
    n = turned(b, X, own_n)
    m = cross(turned(b, X, along), n)
    away = minus(plus(apart, centre), turned(b, X, own))
    at = parting_angle(-0.5, 0.5, n, m, away, axis, r)
    n = ahead(times(cos(at), n), sin(at), m)
    way = lowest_way(axis, n)
    arm = ahead(centre, r, way)
    return n, arm, plus(apart, arm)


@part
def round_frame(i, p, S, X, geo, Q, CF):
    """Normal and arms at ``X`` of contact row ``i``, made at ``S``, of a round shape and a polytope."""
    kind, own_a, own_n = CF[i, contact.KEEPS], vector(CF, i, contact.BASE_A), vector(CF, i, contact.BASE_N)
    if kind == frame_kind.STATION:
        return _station(p, own_a[0], own_a[1], X, geo, Q)
    if kind == frame_kind.RIM:
        return _rim(p, own_a[0], own_a[1], own_n, S, X, geo, Q)
    if kind == frame_kind.UNDER_END:
        return _under_end(p, own_a[0], vector(CF, i, contact.BASE_B), X, geo, Q)
    if kind == frame_kind.EDGE_SIDE:
        return _edge_side(p, int(own_a[0]), X, geo, Q)
    return _edge_rim(p, int(own_a[0]), own_a[1], own_n, X, geo, Q)
