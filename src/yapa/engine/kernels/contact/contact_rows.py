"""Contact rows of the event-driven regime: what touches, its frame, and how its impulses act.

A row keeps the normal (b to a), the arms where impulses act, the arms where the law is asked for
(the same in an impact, those of the end in a substep), the impulse J and the angular impulse K. One round contact has a closed
form (``round_contact``), everything else is a system of rows (``contact_system``) that ``contact_solver`` solves.
"""

from yapa.engine.kernels.dynamics.flight import inverse_inertia
from yapa.engine.kernels.geometry.manifold import manifold_of
from yapa.engine.kernels.geometry.narrow_phase import point_velocity
from yapa.engine.kernels.geometry.pairs.dispatch import frame, rolling_radius
from yapa.engine.kernels.geometry.pairs.traits import has_manifold, on_rim
from yapa.engine.kernels.geometry.placing import between, turned
from yapa.engine.kernels.geometry.round_frames import round_frame
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.layout import (
    body,
    contact,
    contact_int,
    contact_mode,
    frame_kind,
    limits,
    manifold,
    pair,
    scale,
    scene_table,
    shape,
    slip_state,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    VECTOR,
    ZERO,
    add,
    ahead,
    aside,
    cross,
    dot,
    each,
    minus,
    plus,
    put,
    quaternion,
    rotate,
    rotate_back,
    times,
    vector,
)


@kernel
def relative(i, CI, CF, X):
    """Velocity of a's surface at the contact relative to b's, at the arms where the law is asked for."""
    a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if CI[i, contact_int.PAIR] == limits.MOTOR:
        return minus(vector(X, a, state.VELOCITY), vector(CF, i, contact.BELT))
    return plus(point_velocity(a, b, vector(CF, i, contact.END_A), vector(CF, i, contact.END_B), X), vector(CF, i, contact.BELT))


@kernel
def slipping(i, CI, CF, X):
    """Normal speed of row ``i``, and its velocity along the contact."""
    u, n = relative(i, CI, CF, X), vector(CF, i, contact.NORMAL)
    un = dot(u, n)
    return un, ahead(u, -un, n)


@kernel
def write_row(i, p, f, n, arms, X, scene, ws):
    """Fill contact row ``i``; no slip or rolling forced, no impulse yet. ``arms``: on a, and on b."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    CI[i, contact_int.PAIR], CI[i, contact_int.FEATURE], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B] = p, f, a, b
    CI[i, contact_int.SLIPPING], CI[i, contact_int.ROLLING], CI[i, contact_int.MODE] = slip_state.FREE, 0, contact_mode.NONE
    CI[i, contact_int.SOME] = 0
    put(CF, i, contact.NORMAL, n)
    put(CF, i, contact.MIDDLE, n)
    put(CF, i, contact.ARM_A, arms[0])
    put(CF, i, contact.END_A, arms[0])
    put(CF, i, contact.ARM_B, arms[1])
    put(CF, i, contact.END_B, arms[1])
    put(CF, i, contact.J, ZERO)
    put(CF, i, contact.K, ZERO)
    put(CF, i, contact.BELT, ZERO)
    GF = reals(geo, scene_table.SHAPES)
    for side in range(2):
        s, q, sign = (Q[p, pair.SHAPE_A], a, 1.0) if side == 0 else (Q[p, pair.SHAPE_B], b, -1.0)
        belt = vector(GF, s, shape.BELT)
        if belt != ZERO:  # a surface that runs: only its part along the contact
            add(CF, i, contact.BELT, times(sign, aside(turned(q, X, belt), n)))
    CF[i, contact.REFF] = rolling_radius(p, f, geo, Q)
    CF[i, contact.RATE] = dot(n, relative(i, CI, CF, X))
    CF[i, contact.TARGET] = 0.0


@far(WHOLE, WHOLE, WHOLE, WHOLE, REAL, WHOLE, REAL, REAL, REALS2, WHOLES1, WHOLES1)
def touching(m, p, features, margin, most, fastest, still, X, scene, ws):
    """Write rows of pair ``p`` with gap up to ``margin`` and rate below ``fastest`` (above ``-still``), ``most`` of a manifold.

    Returns the count.
    """
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    room = CI.shape[0] - 1
    if not has_manifold(Q[p, pair.KIND]):
        for f in range(features):
            gap, n, arm_a, arm_b = frame(p, f, X, geo, Q)
            if gap > margin or m >= room:
                continue
            write_row(m, p, f, n, (arm_a, arm_b), X, scene, ws)
            if CF[m, contact.RATE] < fastest and CF[m, contact.RATE] > -still:
                m += 1
        return m
    M, a, b = reals(ws, workspace_table.MANIFOLD), Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    count, least = manifold_of(p, X, geo, Q, reals(ws, workspace_table.POLYGONS), M, margin, most)
    for k in range(count):
        if m >= room:
            break
        gap, n, point = M[k, manifold.GAP], vector(M, k, manifold.NORMAL), vector(M, k, manifold.POINT)
        arm_a = minus(ahead(point, gap, n), vector(X, a, state.POSITION))
        arm_b = minus(point, vector(X, b, state.POSITION))
        write_row(m, p, int(M[k, manifold.FEATURE]), n, (arm_a, arm_b), X, scene, ws)
        CF[m, contact.KEEPS] = M[k, manifold.KEEPS]
        if CF[m, contact.KEEPS] <= frame_kind.B_FACE:
            put(CF, m, contact.BASE_A, arm_a)
            put(CF, m, contact.BASE_B, arm_b)
            put(CF, m, contact.BASE_N, n)
        else:
            put(CF, m, contact.BASE_A, vector(M, k, manifold.OWN_A))
            put(CF, m, contact.BASE_B, vector(M, k, manifold.OWN_B))
            put(CF, m, contact.BASE_N, vector(M, k, manifold.OWN_N))
        CI[m, contact_int.SOME] = int(M[k, manifold.SOME])
        if CF[m, contact.RATE] < fastest and CF[m, contact.RATE] > -still:
            m += 1
    return m


@kernel
def _turned_on(q, S, X, a):
    """A vector that turns with body ``q`` from its state in ``S`` to that in ``X``."""
    return rotate(quaternion(X, q, state.ORIENTATION), rotate_back(quaternion(S, q, state.ORIENTATION), a))


@kernel
def _same_side(p, f, S, X, scene, Q):
    """The point of a rim at ``X`` on the side where point ``f`` is at ``S``: as a cylinder falls flat, its lowest point changes
    sides at once, and a contact that went with it would push on the wrong one."""
    _, _, before, _ = frame(p, f, S, scene, Q)
    _, _, here, _ = frame(p, f, X, scene, Q)
    _, _, across, _ = frame(p, f ^ 2, X, scene, Q)
    here, across = minus(here, before), minus(across, before)
    return f if dot(here, here) <= dot(across, across) else f ^ 2


@far((VECTOR, VECTOR, VECTOR), WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def moved_frame(i, S, X, scene, ws):
    """Normal and arms of contact row ``i`` (made at ``S``) at the states ``X``."""
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    p, a, b = CI[i, contact_int.PAIR], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if p == limits.MOTOR:
        return (1.0, 0.0, 0.0), ZERO, ZERO
    if not has_manifold(wholes(scene, scene_table.PAIRS)[p, pair.KIND]):
        f, Q = CI[i, contact_int.FEATURE], wholes(scene, scene_table.PAIRS)
        if on_rim(Q[p, pair.KIND]):
            f = _same_side(p, f, S, X, scene, Q)
        _, n, arm_a, arm_b = frame(p, f, X, scene, Q)
        return n, arm_a, arm_b
    if CF[i, contact.KEEPS] > frame_kind.B_FACE:
        return round_frame(i, p, S, X, scene, wholes(scene, scene_table.PAIRS), CF)
    keeper = a if CF[i, contact.KEEPS] == frame_kind.A_FACE else b
    n, d = _turned_on(keeper, S, X, vector(CF, i, contact.BASE_N)), between(a, b, X)
    if keeper == b:  # the point belongs to a
        arm_a = _turned_on(a, S, X, vector(CF, i, contact.BASE_A))
        return n, arm_a, plus(d, arm_a)
    arm_b = _turned_on(b, S, X, vector(CF, i, contact.BASE_B))
    return n, minus(arm_b, d), arm_b


@kernel
def turning(i, CI, CF, X):
    """Relative angular velocity along the contact: without its part about the normal."""
    a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    return aside(minus(vector(X, a, state.OMEGA), vector(X, b, state.OMEGA)), vector(CF, i, contact.NORMAL))


@kernel
def push(b, sign, j, arm, k, X, P, G):
    """Give body ``b`` an impulse at an arm and an angular impulse; ``G`` scales for damping over a substep."""
    if P[b, body.INV_MASS] == 0.0:
        return
    fl, fa = sign * G[b, scale.LINEAR], sign * G[b, scale.ANGULAR]
    add(X, b, state.VELOCITY, each(times(fl, vector(P, b, body.IM)), j))
    add(X, b, state.OMEGA, times(fa, inverse_inertia(b, X, P, plus(cross(arm, j), k))))


@far(WHOLE, WHOLE, REAL, WHOLES2, REALS2, REALS2, REALS2, REALS2)
def apply_contact(i, sign, CI, CF, X, P, G):
    """Add (or with sign -1 take back) the impulses of row ``i`` to the velocities in ``X``."""
    j, k = vector(CF, i, contact.J), vector(CF, i, contact.K)
    push(CI[i, contact_int.BODY_A], sign, j, vector(CF, i, contact.ARM_A), k, X, P, G)
    if CI[i, contact_int.PAIR] != limits.MOTOR:
        push(CI[i, contact_int.BODY_B], -sign, j, vector(CF, i, contact.ARM_B), k, X, P, G)
    return 0
