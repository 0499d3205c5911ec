"""Time of impact: when two shapes first meet inside a substep.

The gap is a smooth function of the time s in the substep. With its rate at both ends, the first
crossing is bracketed: below zero at the end; or above zero at both ends with a minimum between
that dips below; or touching at the start and leaving, where the bracket is halved until the gap
is positive. The bracket is closed by Newton steps kept inside it, to |gap| < 1e-14 m. Pairs that
move fast against their thinness are looked at in pieces no longer than half of it.
"""

from yapa.engine.kernels.dynamics.flight import place_at, turn_at
from yapa.engine.kernels.geometry.manifold import apart
from yapa.engine.kernels.geometry.narrow_phase import far_apart, gap_and_rate
from yapa.engine.kernels.geometry.pairs.traits import against_plane, has_manifold, round_on_plane
from yapa.engine.kernels.geometry.placing import upright
from yapa.engine.kernels.jit import FLAG, REAL, REALS2, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import body, limits, pair, scene_table, shape, shape_int, state, workspace_table
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import ZERO, dot, length, minus, plus, vector

PIECES = 512
NO_DIP = 2e-11
"""m: what is let go and dips less before it parts is let go."""
CROSSING, RISING, FALLING = 0, 1, 2
"""Which root is closed in on: of the gap, or of its rate as that rises or falls."""


@kernel
def _round_gap(a, b, X, S, sa, sb, GF):
    """A sphere about its centre of mass over a solid plane that does not move: gap and rate, without a frame."""
    n = vector(GF, sb, shape.B)
    level = dot(n, plus(vector(S, b, state.POSITION), vector(GF, sb, shape.A)))
    gap = dot(n, vector(X, a, state.POSITION)) - level - GF[sa, shape.RADIUS]
    return gap, dot(n, vector(X, a, state.VELOCITY))


@kernel
def _is_plain(p, S, P, geo, Q):
    """Whether the short form above holds for a pair."""
    GF = reals(geo, scene_table.SHAPES)
    sa, sb, b = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], Q[p, pair.BODY_B]
    if (not round_on_plane(Q[p, pair.KIND]) or P[b, body.MOTION] != 0.0 or not upright(b, S)
        or wholes(geo, scene_table.SHAPES_INT)[sb, shape_int.SIDES] != 0):
        return False
    return (GF[sa, shape.BOUND] == GF[sa, shape.RADIUS] and vector(GF, sa, shape.A) == ZERO
            and GF[sa, shape.CLEAR] == 0.0 and GF[sb, shape.CLEAR] == 0.0)


@far((REAL, REAL), WHOLE, WHOLE, FLAG, REAL, REALS2, REALS2, WHOLES1, WHOLES1)
def gap_at(p, f, plain, s, S, P, scene, ws):
    """Gap and rate at time s of the substep; the states there are left in the scratch states."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    D, X = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.MIDDLE)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    if plain:
        place_at(a, s, D, X)
        return _round_gap(a, b, X, S, Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], reals(geo, scene_table.SHAPES))
    for side in range(2):
        q = a if side == 0 else b
        if P[q, body.MOTION] != 0.0:
            place_at(q, s, D, X)
            if (P[q, body.BALL] == 0.0 or P[q, body.INV_MASS] == 0.0 or has_manifold(Q[p, pair.KIND])
                or against_plane(Q[p, pair.KIND])):
                turn_at(q, s, S, P, D, X)
        else:
            for c in range(state.ROTATION):
                X[q, c] = S[q, c]
    if has_manifold(Q[p, pair.KIND]):
        return apart(p, X, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
    return gap_and_rate(p, f, X, geo, Q)


@kernel
def stays_above(p, S, E, geo, Q):
    """Whether a plain sphere that is above its plane at both ends of a substep, and not turning upwards in it, never meets it."""
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    g0, r0 = _round_gap(a, b, S, S, Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], reals(geo, scene_table.SHAPES))
    g1, r1 = _round_gap(a, b, E, S, Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B], reals(geo, scene_table.SHAPES))
    return g0 > limits.TOUCH and g1 > 0.0 and (r0 >= 0.0 or r1 <= 0.0)


@kernel
def _close_in(feature, lo, hi, root, S, P, scene, ws):
    """The root of the gap (positive at lo, negative at hi); or, with ``root`` RISING or FALLING, of its rate."""
    p, f, plain = feature
    sign = -1.0 if root == RISING else 1.0
    s = 0.5 * (lo + hi)
    flo, fhi = 0.0, 0.0
    side = 0
    for _ in range(200):
        gap, rate = gap_at(p, f, plain, s, S, P, scene, ws)
        v = sign * (rate if root != CROSSING else gap)
        if abs(v) < (1e-15 if root == CROSSING else 1e-13) or hi - lo < 1e-16 * (1.0 + hi):
            break
        if v > 0.0:
            lo, flo = s, v
            if side == 1:
                fhi *= 0.5
            side = 1
        else:
            hi, fhi = s, v
            if side == -1:
                flo *= 0.5
            side = -1
        guess = -1.0
        if root == CROSSING and rate != 0.0:
            guess = s - gap / rate
        if not (lo < guess < hi):
            guess = (lo * fhi - hi * flo) / (fhi - flo) if fhi != 0.0 and flo != 0.0 else 0.5 * (lo + hi)
            if not (lo < guess < hi):
                guess = 0.5 * (lo + hi)
        if abs(guess - s) < 1e-17 + 2e-16 * s:
            s = guess
            break
        s = guess
    return s


@part
def _turns_back_early(feature, hi, start, end, S, P, scene, ws):
    """Of what touches and is let go too soon, as it presses first and parts only then: when it would part if it were held; 0 where
    that is not what it does, and -1 where it dips by next to nothing."""
    top, (g0, r0), (g1, r1) = hi, start, end
    p, f, plain = feature
    if not (r0 <= limits.STILL and r1 > 0.0):
        return 0.0
    for _ in range(40):
        top *= 0.5
        gm, rm = gap_at(p, f, plain, top, S, P, scene, ws)
        if rm < 0.0:  # a force that falls evenly to zero at s has the gap close in, if let go, up to 2 s
            if g1 > -limits.TOUCH and gm > g0 - NO_DIP:
                return -1.0
            return 0.5 * _close_in(feature, top, 2.0 * top, RISING, S, P, scene, ws)
    return 0.0


@part
def _after_touching(feature, hi, start, end, S, P, scene, ws):
    """First crossing up to ``hi`` of what touches at 0, or -1."""
    (_, r0), (g1, r1) = start, end
    p, f, plain = feature
    if r0 < -limits.STILL:
        return 0.0
    early = _turns_back_early(feature, hi, start, end, S, P, scene, ws)
    if early != 0.0:
        return early
    if g1 > 0.0 or (g1 > -limits.TOUCH and r1 > -limits.STILL):  # what the law lets go may have closed in slower than an impact
        return -1.0
    top = hi
    for _ in range(80):
        mid = 0.5 * top
        gm, rm = gap_at(p, f, plain, mid, S, P, scene, ws)
        if gm > 0.0 and (gm > limits.TOUCH or rm < 0.0):
            return _close_in(feature, mid, top, CROSSING, S, P, scene, ws)
        top = mid
        if top < 1e-13:
            break
    if r0 > 0.0 and r1 < 0.0:  # it never parts: stop it where it turns back, to be held there
        return _close_in(feature, 0.0, hi, FALLING, S, P, scene, ws)
    return -1.0


@part
def _first_in_piece(feature, lo, hi, start, end, S, P, scene, ws):
    """First crossing in [lo, hi], or -1. ``feature``: pair, feature, and whether it is plain; gap and rate at both ends."""
    (g0, r0), (g1, r1) = start, end
    p, f, plain = feature
    if g0 <= limits.TOUCH and lo == 0.0:
        return _after_touching(feature, hi, start, end, S, P, scene, ws)
    if g1 < 0.0:
        return _close_in(feature, lo, hi, CROSSING, S, P, scene, ws)
    if r0 < 0.0 and r1 > 0.0:
        s = _close_in(feature, lo, hi, RISING, S, P, scene, ws)
        gm, _ = gap_at(p, f, plain, s, S, P, scene, ws)
        if gm < 0.0:
            return _close_in(feature, lo, s, CROSSING, S, P, scene, ws)
    return -1.0


@kernel
def fastest(p, h, S, P, cfg_pull, Q):
    """A bound on how fast the points of a pair may approach within a substep."""
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    total = length(minus(vector(S, a, state.VELOCITY), vector(S, b, state.VELOCITY))) + cfg_pull * h
    for side in range(2):
        q = a if side == 0 else b
        if P[q, body.MOTION] != 0.0:
            total += P[q, body.REACH] * length(vector(S, q, state.OMEGA))
    return total


@far(REAL, WHOLE, WHOLE, REAL, REAL, REALS2, REALS2, WHOLES1, WHOLES1)
def first_meeting(p, f, h, pull, S, P, scene, ws):
    """Time of the first meeting of a feature (or of a whole MANIFOLD pair) in (0, h], or -1 if there is none."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    plain = _is_plain(p, S, P, geo, Q)
    if plain and stays_above(p, S, reals(ws, workspace_table.END), geo, Q):
        return -1.0
    pieces = 1
    if not against_plane(Q[p, pair.KIND]):
        travel = 1.05 * fastest(p, h, S, P, pull, Q) * h + 1e-6
        if far_apart(p, travel, S, geo, Q):
            return -1.0
        thin = 0.5 * min(reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.THIN],
                         reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_B], shape.THIN])
        pieces = min(1 + int(travel / thin), PIECES)
    if plain:
        g0, r0 = _round_gap(Q[p, pair.BODY_A], Q[p, pair.BODY_B], S, S, Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B],
                            reals(geo, scene_table.SHAPES))
    elif has_manifold(Q[p, pair.KIND]):
        g0, r0 = apart(p, S, geo, Q, reals(ws, workspace_table.POLYGONS), reals(ws, workspace_table.MANIFOLD))
    else:
        g0, r0 = gap_and_rate(p, f, S, geo, Q)
        if against_plane(Q[p, pair.KIND]) and g0 > 1.05 * fastest(p, h, S, P, pull, Q) * h + 1e-6:
            return -1.0
    lo = 0.0
    for i in range(pieces):
        hi = h * (i + 1) / pieces
        g1, r1 = gap_at(p, f, plain, hi, S, P, scene, ws)
        if i == 0 and pieces > 1 and g0 <= limits.TOUCH and abs(r0) <= limits.STILL and g1 < 0.0 and r1 < 0.0:
            return hi  # let go for what comes later, as where a face ends: it presses as long as this
        s = _first_in_piece((p, f, plain), lo, hi, (g0, r0), (g1, r1), S, P, scene, ws)
        if s >= 0.0:
            return s
        lo, g0, r0 = hi, g1, r1
    return -1.0
