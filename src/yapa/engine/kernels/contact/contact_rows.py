"""Contact rows of the event-driven regime: what touches, its frame, and the impulses that meet the law.

A row keeps the normal (b to a), the arms where impulses act, the arms where the law is asked for
(the same in an impact, those of the end in a substep), the impulse J and the angular impulse K.
One round contact has a closed form: with no coupling but through the two centres,

    Δu = k_t J - k_x (n × K)        Δρ = -k_x J + k_r (n × K),   ρ = (ω_a - ω_b) × n
    k_t = 1/m_a + 1/m_b + r_a²/I_a + r_b²/I_b,  k_r = 1/I_a + 1/I_b,  k_x = r_a/I_a - r_b/I_b

whose four modes (stick or slip, roll held or not) are tried in turn; spinning about the normal is
apart from both (Johnson, Contact Mechanics, ch. 8). Everything else goes to ``contact_solver``.
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_law import Law, block_mode
from yapa.engine.kernels.contact.contact_solver import solve_law
from yapa.engine.kernels.contact.pair_law import tangents
from yapa.engine.kernels.dynamics.flight import inverse_inertia
from yapa.engine.kernels.geometry.manifold import manifold_of
from yapa.engine.kernels.geometry.narrow_phase import point_velocity
from yapa.engine.kernels.geometry.pairs.dispatch import frame, rolling_radius
from yapa.engine.kernels.geometry.pairs.traits import has_manifold, is_round, on_rim
from yapa.engine.kernels.geometry.placing import between, turned
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    contact,
    contact_int,
    contact_mode,
    limits,
    manifold,
    material,
    pair,
    row,
    row_int,
    row_kind,
    scale,
    scene_table,
    shape,
    slip_state,
    state,
    unknowns,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    UP,
    VECTOR,
    ZERO,
    add,
    ahead,
    aside,
    cross,
    dot,
    each,
    length,
    minus,
    negative,
    over,
    plus,
    put,
    quaternion,
    rotate,
    rotate_back,
    times,
    unit,
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
def write_row(i, p, f, gap, n, arms, X, scene, ws):
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
    CF[i, contact.GAP] = gap
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
            write_row(m, p, f, gap, n, (arm_a, arm_b), X, scene, ws)
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
        write_row(m, p, int(M[k, manifold.FEATURE]), gap, n, (arm_a, arm_b), X, scene, ws)
        put(CF, m, contact.BASE_A, arm_a)
        put(CF, m, contact.BASE_B, arm_b)
        put(CF, m, contact.BASE_N, n)
        # the body whose face (or edge) gives the normal keeps it
        CF[m, contact.KEEPS] = 0.0 if M[k, manifold.FEATURE] < 5e8 and M[k, manifold.FEATURE] >= 1e6 else 1.0
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
    keeper = a if CF[i, contact.KEEPS] == 0.0 else b
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


@part
def _roll_is_free(u, r, k, limit, bound, given, free_slip):
    """J and n × K where rolling resistance is at its bound, against where it would roll if nothing resisted."""
    (kt, _, kx), (slips, slip, rolls, roll) = k, given
    if rolls:
        along = roll
    else:
        friction = times(limit, unit(u)) if free_slip else over(negative(u), kt)
        along = unit(ahead(r, -kx, friction))
    resisted = times(-bound, along)
    left = ahead(u, -kx, resisted)
    if free_slip:
        return times(limit, slip if slips else unit(left)), resisted
    return over(negative(left), kt), resisted


@part
def _roll_is_held(u, r, k, limit, given, free_slip):
    """J and n × K where rolling is held. Whether there is an answer, and it."""
    (kt, kr, kx), (slips, slip, _, _) = k, given
    if free_slip:
        friction = times(limit, slip if slips else unit(u))
        return True, friction, over(negative(ahead(r, -kx, friction)), kr)
    det = kt * kr - kx * kx
    if det <= 1e-14 * kt * kr:
        return False, ZERO, ZERO
    return (True, over(negative(ahead(times(kr, u), kx, r)), det), over(negative(ahead(times(kx, u), kt, r)), det))


@part
def _mobility_of(i, CI, CF, P, G):
    """What a unit impulse changes: k_n, and (k_t, k_r, k_x)."""
    a, b, n = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B], vector(CF, i, contact.NORMAL)
    ima, imb = P[a, body.INV_MASS], P[b, body.INV_MASS]
    ra = -dot(vector(CF, i, contact.ARM_A), n)
    rb = dot(vector(CF, i, contact.ARM_B), n) if imb > 0.0 else 0.0
    ia = G[a, scale.ANGULAR] / P[a, body.INERTIA] if ima > 0.0 else 0.0
    ib = G[b, scale.ANGULAR] / P[b, body.INERTIA] if imb > 0.0 else 0.0
    kn = G[a, scale.LINEAR] * ima + G[b, scale.LINEAR] * imb
    return kn, (kn + ra * ra * ia + rb * rb * ib, ia + ib, ra * ia - rb * ib)


@far((VECTOR, VECTOR), WHOLE, WHOLES2, REALS2, REALS2, REALS2, REALS1, REALS2)
def _round_contact(i, CI, CF, X, P, law, G):
    """Impulse and angular impulse of one round contact, in closed form."""
    n = vector(CF, i, contact.NORMAL)
    kn, k = _mobility_of(i, CI, CF, P, G)
    un, u = slipping(i, CI, CF, X)
    jn = (CF[i, contact.TARGET] - un) / kn
    if jn <= 0.0:
        CI[i, contact_int.MODE] = contact_mode.NONE
        return ZERO, ZERO
    r = cross(turning(i, CI, CF, X), n)
    grip = law[material.DYNAMIC] if CI[i, contact_int.SLIPPING] == slip_state.HITS else law[material.STATIC]
    limit, bound = -law[material.DYNAMIC] * jn, law[material.ROLLING] * jn * CF[i, contact.REFF]
    slips, rolls = CI[i, contact_int.SLIPPING] == slip_state.SLIPS, CI[i, contact_int.ROLLING] == 1
    # the direction of rolling is kept as a rate; here as n × that
    given = slips, vector(CF, i, contact.SLIP_DIR), rolls, cross(vector(CF, i, contact.ROLL_DIR), n)
    j, q, mode = ZERO, ZERO, contact_mode.GRIP
    for attempt in range(4):
        free_slip = slips or attempt >= 2
        if rolls or attempt == 1 or attempt == 3 or bound == 0.0:
            j, q = _roll_is_free(u, r, k, limit, bound, given, free_slip)
            held = False
        else:
            held, one, other = _roll_is_held(u, r, k, limit, given, free_slip)
            if not held:
                continue
            j, q = one, other
        mode = contact_mode.SLIP if free_slip else contact_mode.GRIP
        if ((free_slip or length(j) <= grip * jn * (1.0 + 1e-13)) and (not held or length(q) <= bound * (1.0 + 1e-13))):
            break
    CI[i, contact_int.MODE] = mode
    turn = cross(n, q)
    if law[material.SPINNING] > 0.0:
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        most = law[material.SPINNING] * jn * CF[i, contact.REFF]
        spin = dot(minus(vector(X, a, state.OMEGA), vector(X, b, state.OMEGA)), n) / k[1]
        turn = ahead(turn, -min(max(spin, -most), most), n)
    return ahead(j, jn, n), turn


@kernel
def _is_round(i, CI, CF, P, Q):
    """Whether the closed form of one round contact holds."""
    p, a, b = CI[i, contact_int.PAIR], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if p == limits.MOTOR:
        return False
    if not is_round(Q[p, pair.KIND]):
        return False
    n = vector(CF, i, contact.NORMAL)
    if vector(CF, i, contact.MIDDLE) != n:
        return False
    for side in range(2):
        q, o = (a, contact.ARM_A) if side == 0 else (b, contact.ARM_B)
        if P[q, body.INV_MASS] == 0.0:
            continue
        if P[q, body.BALL] == 0.0 or P[q, body.LOCK] != 0.0:
            return False
        arm = vector(CF, i, o)
        d = dot(arm, n)
        off = ahead(arm, -d, n)
        if dot(off, off) > 1e-18 * d * d:
            return False
    return True


@far(WHOLE, WHOLE, WHOLE, FLAG, VECTOR, VECTOR, REALS2, REALS2, WHOLES1)
def _row(r, i, angular, u, m, X, P, ws):
    """Jacobian of row ``r`` along ``u`` at the end arms, and what a unit impulse along ``m`` does to both bodies."""
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    JR, MV = reals(ws, workspace_table.ARMS), reals(ws, workspace_table.MOBILITY)
    for side in range(2):
        q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
        end, arm, sign = (contact.END_A, contact.ARM_A, 1.0) if side == 0 else (contact.END_B, contact.ARM_B, -1.0)
        line, turn = (6 * side, 6 * side + 3)
        if angular:
            put(JR, r, line, ZERO)
            put(JR, r, turn, times(sign, u))
            twist, force = m, ZERO
        else:
            put(JR, r, line, times(sign, u))
            put(JR, r, turn, times(sign, cross(vector(CF, i, end), u)))
            twist, force = cross(vector(CF, i, arm), m), times(sign, m)
        if P[q, body.INV_MASS] == 0.0 or (side == 1 and CI[i, contact_int.PAIR] == limits.MOTOR):
            put(MV, r, line, ZERO)
            put(MV, r, turn, ZERO)
            continue
        spin = inverse_inertia(q, X, P, times(sign, twist))
        put(MV, r, line, each(times(G[q, scale.LINEAR], vector(P, q, body.IM)), force))
        put(MV, r, turn, times(G[q, scale.ANGULAR], spin))
    return 0


@part
def _lay_row(r, i, angular, u, m, rate, impulse, X, P, ws):
    """A row along ``u``, its speed of now, and its share of the impulse along ``m`` so far."""
    V = reals(ws, workspace_table.VECTORS)
    _row(r, i, angular, u, m, X, P, ws)
    V[unknowns.FREE, r], V[unknowns.NOW, r] = dot(rate, u), dot(impulse, m)


@part
def _name_block(r, kind, normal_row, size, slips, ws):
    """What a block of rows is: its kind, the normal it hangs on, its size, and whether it slips."""
    RI = wholes(ws, workspace_table.ROWS_INT)
    RI[r, row_int.KIND], RI[r, row_int.NORMAL_ROW], RI[r, row_int.SIZE] = kind, normal_row, size
    RI[r, row_int.SLIPPING] = slips
    for k in range(r + 1, r + size):
        RI[k, row_int.KIND] = row_kind.MORE


@part
def _motor_rows(i, r, X, P, ws):
    """The three rows of a drive, along the axes, bounded together; the row after them."""
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    u, j = relative(i, CI, CF, X), vector(CF, i, contact.J)
    for e in range(3):
        axis = (1.0, 0.0, 0.0) if e == 0 else ((0.0, 1.0, 0.0) if e == 1 else UP)
        _lay_row(r + e, i, False, axis, axis, u, j, X, P, ws)
    _name_block(r, row_kind.BOUNDED, r, 3, slip_state.FREE, ws)
    reals(ws, workspace_table.ROWS)[r, row.DYNAMIC] = CF[i, contact.TARGET]
    return r + 3


@part
def _push_rows(i, r, law, X, P, ws):
    """The rows of a contact's normal and friction; the row after them."""
    CI, CF, RF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.ROWS)
    u, j = relative(i, CI, CF, X), vector(CF, i, contact.J)
    n, m = vector(CF, i, contact.NORMAL), vector(CF, i, contact.MIDDLE)
    (t, s), (mt, ms) = tangents(n), tangents(m)
    for e in range(3):
        along, acting = (n, m) if e == 0 else ((t, mt) if e == 1 else (s, ms))
        _lay_row(r + e, i, False, along, acting, u, j, X, P, ws)
    reals(ws, workspace_table.VECTORS)[unknowns.FREE, r] -= CF[i, contact.TARGET]
    _name_block(r, row_kind.NORMAL, r, 1, slip_state.FREE, ws)
    _name_block(r + 1, row_kind.FRICTION, r, 2, CI[i, contact_int.SLIPPING], ws)
    RF[r + 1, row.DYNAMIC], RF[r + 1, row.STATIC] = law[material.DYNAMIC], law[material.STATIC]
    if CI[i, contact_int.SLIPPING] == slip_state.SLIPS:
        slip = vector(CF, i, contact.SLIP_DIR)
        et, es = dot(slip, t), dot(slip, s)
        size = sqrt(et * et + es * es)
        RF[r + 1, row.GIVEN], RF[r + 1, row.GIVEN + 1] = et / size, es / size
    return r + 3


@part
def _turn_rows(i, r, law, X, P, ws):
    """The rows of what a contact does to rolling and to spinning, where it does anything; the row after them."""
    CI, CF, RF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.ROWS)
    n, m, k = vector(CF, i, contact.NORMAL), vector(CF, i, contact.MIDDLE), vector(CF, i, contact.K)
    normal_row, reach = CI[i, contact_int.ROW], CF[i, contact.REFF]
    if law[material.ROLLING] > 0.0 and reach > 0.0:
        (t, s), (mt, ms), rolling = tangents(n), tangents(m), turning(i, CI, CF, X)
        for e in range(2):
            along, acting = (t, mt) if e == 0 else (s, ms)
            _lay_row(r + e, i, True, along, acting, rolling, k, X, P, ws)
            RF[r, row.GIVEN + e] = dot(vector(CF, i, contact.ROLL_DIR), along)
        rolls = slip_state.SLIPS if CI[i, contact_int.ROLLING] == 1 else slip_state.FREE
        _name_block(r, row_kind.ROLLING, normal_row, 2, rolls, ws)
        RF[r, row.DYNAMIC] = RF[r, row.STATIC] = law[material.ROLLING] * reach
        r += 2
    if law[material.SPINNING] > 0.0 and reach > 0.0:
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        _lay_row(r, i, True, n, m, minus(vector(X, a, state.OMEGA), vector(X, b, state.OMEGA)), k, X, P, ws)
        _name_block(r, row_kind.SPINNING, normal_row, 1, slip_state.FREE, ws)
        RF[r, row.DYNAMIC] = RF[r, row.STATIC] = law[material.SPINNING] * reach
        r += 1
    return r


@part
def _block(i, k, last, end, P, CI, W, JR, MV):
    """The part of W that tells what impulses of contact ``k`` (to row ``end``) do at contact ``i`` (to row ``last``)."""
    ia, ib = CI[i, contact_int.BODY_A], (CI[i, contact_int.BODY_B] if CI[i, contact_int.PAIR] != limits.MOTOR else -1)
    ka, kb = CI[k, contact_int.BODY_A], CI[k, contact_int.BODY_B]
    for x in range(CI[i, contact_int.ROW], last):
        for y in range(CI[k, contact_int.ROW], end):
            W[x, y] = 0.0
    for s in range(2):
        mine = ia if s == 0 else ib
        if mine < 0 or P[mine, body.INV_MASS] == 0.0:
            continue
        for t in range(2):
            if mine == (ka if t == 0 else kb):
                for x in range(CI[i, contact_int.ROW], last):
                    L = JR[x]
                    for y in range(CI[k, contact_int.ROW], end):
                        R = MV[y]
                        o, q = 6 * s, 6 * t
                        W[x, y] += (L[o] * R[q] + L[o + 1] * R[q + 1] + L[o + 2] * R[q + 2] + L[o + 3] * R[q + 3]
                                    + L[o + 4] * R[q + 4] + L[o + 5] * R[q + 5])


@far(WHOLE, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def _assemble(m, X, P, scene, ws):
    """Rows of all contacts: W, b without the impulses so far, the guess. Returns the number of rows."""
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    CI, W, V = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.MATRIX), reals(ws, workspace_table.VECTORS)
    JR, MV = reals(ws, workspace_table.ARMS), reals(ws, workspace_table.MOBILITY)
    N = 0
    for i in range(m):
        CI[i, contact_int.ROW] = N
        p = CI[i, contact_int.PAIR]
        if p == limits.MOTOR:
            N = _motor_rows(i, N, X, P, ws)
        else:
            law = LW[Q[p, pair.MATERIAL]]
            N = _turn_rows(i, _push_rows(i, N, law, X, P, ws), law, X, P, ws)
    for i in range(m):
        last = CI[i + 1, contact_int.ROW] if i + 1 < m else N
        for k in range(m):
            _block(i, k, last, CI[k + 1, contact_int.ROW] if k + 1 < m else N, P, CI, W, JR, MV)
    for x in range(N):
        if W[x, x] < 1e-300:  # nothing moves along this row (a locked axis): it asks for nothing
            W[x, x] = 1e-300
        for y in range(N):
            V[unknowns.FREE, x] -= W[x, y] * V[unknowns.NOW, y]
    return N


@kernel
def _tame_dead_rows(N, W, V, RI):
    """Rows along which nothing can move get a unit diagonal and no velocity, so that the law is solvable."""
    most = 0.0
    for x in range(N):
        most = max(most, W[x, x])
    for x in range(N):
        if W[x, x] <= 1e-14 * most:
            for y in range(N):
                W[x, y] = 0.0
                W[y, x] = 0.0
            W[x, x] = most if most > 0.0 else 1.0
            V[unknowns.FREE, x] = 0.0
            V[unknowns.NOW, x] = 0.0


@part
def _read_impulses(i, end, law, ws):
    """The impulses of a contact from its rows, which end before row ``end``, and what it does."""
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    V, RI = law.V, law.RI
    r = CI[i, contact_int.ROW]
    put(CF, i, contact.J, ZERO)
    put(CF, i, contact.K, ZERO)
    CI[i, contact_int.MODE] = contact_mode.NONE
    if CI[i, contact_int.PAIR] == limits.MOTOR:
        put(CF, i, contact.J, vector(V, unknowns.BEST, r))
        return
    mode, _, _ = block_mode(r + 1, unknowns.BEST, law)
    if mode == contact_mode.NONE:
        return
    CI[i, contact_int.MODE] = mode
    n = vector(CF, i, contact.MIDDLE)
    t, s = tangents(n)
    jn, jt, js = vector(V, unknowns.BEST, r)
    put(CF, i, contact.J, ahead(ahead(times(jn, n), jt, t), js, s))
    q = r + 3
    if q < end and RI[q, row_int.KIND] == row_kind.ROLLING:
        add(CF, i, contact.K, ahead(times(V[unknowns.BEST, q], t), V[unknowns.BEST, q + 1], s))
        q += 2
    if q < end:
        add(CF, i, contact.K, times(V[unknowns.BEST, q], n))


@far(REAL, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def solve_contacts(m, X, P, scene, ws):
    """Impulses of all rows that meet the law, into CF; ``X`` (which holds those so far) gets them.

    Returns how far the law is missed, as a share of the largest velocity.
    """
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    if m == 1 and _is_round(0, CI, CF, P, Q):
        apply_contact(0, -1.0, CI, CF, X, P, G)
        j, k = _round_contact(0, CI, CF, X, P, LW[Q[CI[0, contact_int.PAIR], pair.MATERIAL]], G)
        put(CF, 0, contact.J, j)
        put(CF, 0, contact.K, k)
        apply_contact(0, 1.0, CI, CF, X, P, G)
        return 0.0
    W, A, V = reals(ws, workspace_table.MATRIX), reals(ws, workspace_table.FACTORS), reals(ws, workspace_table.VECTORS)
    RI, RF = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS)
    N = _assemble(m, X, P, scene, ws)
    _tame_dead_rows(N, W, V, RI)
    error, law = solve_law(N, V, W, A, RI, RF), Law(V, W, A, RI, RF)
    for i in range(m):
        apply_contact(i, -1.0, CI, CF, X, P, G)
        _read_impulses(i, CI[i + 1, contact_int.ROW] if i + 1 < m else N, law, ws)
        apply_contact(i, 1.0, CI, CF, X, P, G)
    return error
