"""The system of rows of an island's contacts, as the contact law takes it: W, b and a guess, and the impulses read back.

A row is a direction at the arms where the law is asked for (its Jacobian) and what a unit impulse along the direction where it acts
does to both bodies; W is the product of both over all rows (Featherstone, Rigid Body Dynamics Algorithms, ch. 11).

Where static friction is above dynamic friction the law has more than one solution. What grips goes on gripping while it can: it is
solved with its static coefficient in both places, what slips then gets its dynamic one, and so on until nothing more lets go.
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_law import Law, block_mode, copy_vector
from yapa.engine.kernels.contact.contact_rows import apply_contact, relative, turning
from yapa.engine.kernels.contact.contact_solver import solve_law
from yapa.engine.kernels.contact.pair_law import tangents
from yapa.engine.kernels.contact.round_contact import has_closed_form, round_contact
from yapa.engine.kernels.dynamics.flight import inverse_inertia
from yapa.engine.kernels.jit import FLAG, REAL, REALS2, WHOLE, WHOLES1, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    contact,
    contact_int,
    contact_mode,
    jacobian,
    limits,
    material,
    pair,
    row,
    row_int,
    row_kind,
    scale,
    scene_table,
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
    cross,
    dot,
    each,
    minus,
    put,
    times,
    vector,
)

STARTS = 1e-10
"""m/s: what moves faster at the end of a substep is let go by static friction."""


@far(WHOLE, WHOLE, WHOLE, FLAG, VECTOR, VECTOR, REALS2, REALS2, WHOLES1)
def _row(r, i, angular, u, m, X, P, ws):
    """Jacobian of row ``r`` along ``u`` at the end arms, and what a unit impulse along ``m`` does to both bodies."""
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    JR, MV = reals(ws, workspace_table.ARMS), reals(ws, workspace_table.MOBILITY)
    for side in range(2):
        q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
        end, arm, sign = (contact.END_A, contact.ARM_A, 1.0) if side == 0 else (contact.END_B, contact.ARM_B, -1.0)
        line, turn = (jacobian.LINE_A, jacobian.TURN_A) if side == 0 else (jacobian.LINE_B, jacobian.TURN_B)
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
def _write_system_row(r, i, angular, u, m, rate, impulse, X, P, ws):
    """A row along ``u``, its speed of now, and its share of the impulse along ``m`` so far."""
    V = reals(ws, workspace_table.VECTORS)
    _row(r, i, angular, u, m, X, P, ws)
    V[unknowns.FREE, r], V[unknowns.NOW, r] = dot(rate, u), dot(impulse, m)


@part
def _set_block(r, kind, normal_row, size, slips, ws):
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
        _write_system_row(r + e, i, False, axis, axis, u, j, X, P, ws)
    _set_block(r, row_kind.BOUNDED, r, 3, slip_state.FREE, ws)
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
        _write_system_row(r + e, i, False, along, acting, u, j, X, P, ws)
    reals(ws, workspace_table.VECTORS)[unknowns.FREE, r] -= CF[i, contact.TARGET]
    _set_block(r, row_kind.NORMAL, r, 1, slip_state.FREE, ws)
    _set_block(r + 1, row_kind.FRICTION, r, 2, CI[i, contact_int.SLIPPING], ws)
    RF[r + 1, row.DYNAMIC], RF[r + 1, row.STATIC], RF[r + 1, row.LET_GO] = law[material.DYNAMIC], law[material.STATIC], 0.0
    if CI[i, contact_int.SLIPPING] == slip_state.FREE and law[material.STATIC] > law[material.DYNAMIC]:
        RF[r + 1, row.DYNAMIC], RF[r + 1, row.LET_GO] = law[material.STATIC], law[material.DYNAMIC]
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
            _write_system_row(r + e, i, True, along, acting, rolling, k, X, P, ws)
            RF[r, row.GIVEN + e] = dot(vector(CF, i, contact.ROLL_DIR), along)
        rolls = slip_state.SLIPS if CI[i, contact_int.ROLLING] == 1 else slip_state.FREE
        _set_block(r, row_kind.ROLLING, normal_row, 2, rolls, ws)
        RF[r, row.DYNAMIC] = RF[r, row.STATIC] = law[material.ROLLING] * reach
        r += 2
    if law[material.SPINNING] > 0.0 and reach > 0.0:
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        _write_system_row(r, i, True, n, m, minus(vector(X, a, state.OMEGA), vector(X, b, state.OMEGA)), k, X, P, ws)
        _set_block(r, row_kind.SPINNING, normal_row, 1, slip_state.FREE, ws)
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
                        o = jacobian.LINE_A if s == 0 else jacobian.LINE_B
                        q = jacobian.LINE_A if t == 0 else jacobian.LINE_B
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


@kernel
def _let_go(N, law):
    """Give what grips so far, but slips in the solution, its dynamic coefficient. Returns whether anything was let go.

    A point that is at its limit and does not move holds: how friction is shared among the points of a face is not determined."""
    V, RI, RF, found = law.V, law.RI, law.RF, False
    for r in range(N):
        if RI[r, row_int.KIND] == row_kind.FRICTION and RF[r, row.LET_GO] > 0.0:
            mode, _, _ = block_mode(r, unknowns.BEST, law)
            u, v = V[unknowns.SPEED, r], V[unknowns.SPEED, r + 1]
            if mode == contact_mode.SLIP and u * u + v * v > STARTS * STARTS:
                RF[r, row.DYNAMIC], RF[r, row.STATIC], RF[r, row.LET_GO] = RF[r, row.LET_GO], RF[r, row.LET_GO], 0.0
                found = True
    return found


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
    if m == 1 and has_closed_form(0, CI, CF, P, Q):
        apply_contact(0, -1.0, CI, CF, X, P, G)
        j, k = round_contact(0, CI, CF, X, P, LW[Q[CI[0, contact_int.PAIR], pair.MATERIAL]], G)
        put(CF, 0, contact.J, j)
        put(CF, 0, contact.K, k)
        apply_contact(0, 1.0, CI, CF, X, P, G)
        return 0.0
    W, A, V = reals(ws, workspace_table.MATRIX), reals(ws, workspace_table.FACTORS), reals(ws, workspace_table.VECTORS)
    RI, RF = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS)
    N = _assemble(m, X, P, scene, ws)
    _tame_dead_rows(N, W, V, RI)
    error, law = solve_law(N, V, W, A, RI, RF), Law(V, W, A, RI, RF)
    for _ in range(m):
        if not _let_go(N, law):
            break
        copy_vector(N, unknowns.BEST, unknowns.NOW, law)
        error = solve_law(N, V, W, A, RI, RF)
    for i in range(m):
        apply_contact(i, -1.0, CI, CF, X, P, G)
        _read_impulses(i, CI[i + 1, contact_int.ROW] if i + 1 < m else N, law, ws)
        apply_contact(i, 1.0, CI, CF, X, P, G)
    return error
