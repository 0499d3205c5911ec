"""Persistent contact over a substep: constant forces that meet the contact law at its end.

The unknowns are the impulses of the substep, applied as constant forces at the arms of its
middle; the law is asked for at the arms of its end. For a sphere on a plane both coincide with
the start and one pass is exact. Otherwise passes repeat until the held normal speeds vanish
(second order in the substep).

A contact that slips or rolls at the start does so over the whole substep, along the mean of its directions (``directions``).
A body that is pushed along a path has a row of its own: the force that keeps it on its path, up to its limit.
"""

from yapa.engine.kernels.contact.contact_rows import moved_frame, touching
from yapa.engine.kernels.contact.contact_system import solve_contacts
from yapa.engine.kernels.contact.impact_solver import margin_of
from yapa.engine.kernels.dynamics.flight import advance_place, following_velocity, place_at, spin_at, turn_at
from yapa.engine.kernels.dynamics.forces import more
from yapa.engine.kernels.dynamics.forces.damping import decay_factors
from yapa.engine.kernels.geometry.manifold import gap_of_pair
from yapa.engine.kernels.geometry.narrow_phase import far_apart, point_velocity, shift
from yapa.engine.kernels.geometry.pairs.traits import has_manifold
from yapa.engine.kernels.handles import ISLAND
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import (
    body,
    config,
    contact,
    contact_int,
    contact_mode,
    dense,
    frame_kind,
    limits,
    motion_kind,
    pair,
    pair_cache,
    point_cache,
    scale,
    scene_table,
    slip_state,
    soft_table,
    state,
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import (
    add,
    ahead,
    cross,
    dot,
    length,
    over,
    plus,
    put,
    times,
    vector,
)
from yapa.engine.kernels.regimes.directions import end_directions, start_directions, turn_directions

STRAIGHT, NEARLY = 1e-10, 1e-8
"""Changes of direction that need no further pass; the second of points that wander."""
WANDERS, HELD = 8, 1e-10
"""So many passes at most where points wander over their bodies; m/s: what is held or grips has no more than this left."""
WHOLE_FOR = 16
"""Substeps in which all corners of a face are held, once a few did not carry it."""


@kernel
def _guess(i, CI, CF, CK, CC):
    """The force of the last substep in the same contact, as a first guess (an impulse for one second)."""
    p = CI[i, contact_int.PAIR]
    for k in range(limits.SLOTS * p, limits.SLOTS * p + CK[p, pair_cache.POINTS]):
        if CC[k, point_cache.FEATURE] == CI[i, contact_int.FEATURE]:
            normal = times(CC[k, point_cache.NORMAL_FORCE], vector(CF, i, contact.NORMAL))
            put(CF, i, contact.J, plus(normal, vector(CC, k, point_cache.TANGENT)))
            put(CF, i, contact.K, vector(CC, k, point_cache.TORQUE))
            return


@kernel
def keep_forces(m, span, count, PL, CI, CF, CK, CC):
    """Remember the impulses of a substep as forces, pair by pair: a guess for the next, in either regime.

    That all corners of a face are held is forgotten little by little.
    """
    for n in range(count):
        CK[PL[n], pair_cache.POINTS] = 0
        CK[PL[n], pair_cache.WHOLE_FOR] = max(CK[PL[n], pair_cache.WHOLE_FOR] - 1, 0)
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if p == limits.MOTOR or CK[p, pair_cache.POINTS] >= limits.SLOTS or CI[i, contact_int.MODE] == contact_mode.NONE:
            continue
        k = limits.SLOTS * p + CK[p, pair_cache.POINTS]
        n, j = vector(CF, i, contact.NORMAL), vector(CF, i, contact.J)
        jn = dot(j, n)
        CC[k, point_cache.FEATURE], CC[k, point_cache.NORMAL_FORCE] = CI[i, contact_int.FEATURE], jn / span
        put(CC, k, point_cache.TANGENT, over(ahead(j, -jn, n), span))
        put(CC, k, point_cache.TORQUE, over(vector(CF, i, contact.K), span))
        CC[k, point_cache.SPAN], CC[k, point_cache.BY_FEATURE] = span, 1.0
        CC[k, point_cache.STICKS] = 0.0 if CI[i, contact_int.MODE] == contact_mode.SLIP else 1.0
        CK[p, pair_cache.POINTS] += 1


@kernel
def needs_full_manifold(m, CI, CK):
    """Whether, of a face of which a few corners are held, fewer than three press: it may dip at those that are not.

    It is held at all its corners for some substeps from now on.
    """
    found = False
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if CI[i, contact_int.SOME] == 1 and CK[p, pair_cache.WHOLE_FOR] == 0:
            pressing = 0
            for k in range(m):
                if CI[k, contact_int.PAIR] == p and CI[k, contact_int.MODE] != contact_mode.NONE:
                    pressing += 1
            if pressing < 3:
                CK[p, pair_cache.WHOLE_FOR] = WHOLE_FOR
                found = True
    return found


@far(WHOLE, REAL, ISLAND, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1)
def gather(t, island, S, P, scene, ws, cw):
    """Rows of all pairs that touch and neither part nor strike, and of the bodies that are pushed."""
    BL, PL = island.BL, island.PL
    bodies, count = BL.shape[0], PL.shape[0]
    Q, LW, KT = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS), reals(scene, scene_table.KEYS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    CK, CC = wholes(cw, soft_table.PAIR_CACHES), reals(cw, soft_table.POINT_CACHES)
    m = 0
    for most in limits.MAX_CORNERS:
        m, spare = 0, False  # whether there may be fewer
        for n in range(count):
            p = PL[n]
            if not has_manifold(Q[p, pair.KIND]):
                m = touching(m, p, Q[p, pair.FEATURES], limits.TOUCH, most, limits.STILL, limits.STILL, S, scene, ws)
            elif not far_apart(p, 1e-6, S, scene, Q):
                whole = CK[p, pair_cache.WHOLE_FOR] > 0
                spare = spare or whole
                m = touching(m, p, 0, margin_of(p, scene), most if whole else limits.FEW_CORNERS, limits.STILL, limits.STILL, S,
                             scene, ws)
        if m <= limits.MAX_CONTACTS or not spare:
            break
    for i in range(m):
        _guess(i, CI, CF, CK, CC)
        start_directions(i, LW[Q[CI[i, contact_int.PAIR], pair.MATERIAL]], S, CI, CF)
    for n in range(bodies):
        b = BL[n]
        if P[b, body.MOTION] == motion_kind.PUSHED and m < CI.shape[0] - 1:
            CI[m, contact_int.PAIR], CI[m, contact_int.FEATURE], CI[m, contact_int.BODY_A] = limits.MOTOR, 0, b
            CI[m, contact_int.BODY_B] = b
            CI[m, contact_int.SLIPPING], CI[m, contact_int.ROLLING] = slip_state.FREE, 0
            CI[m, contact_int.MODE], CI[m, contact_int.SOME] = contact_mode.NONE, 0
            for c in range(CF.shape[1]):
                CF[m, c] = 0.0
            put(CF, m, contact.BELT, following_velocity(b, t, S, P, KT))
            m += 1
    return m


@kernel
def _load_forces(m, bodies, BL, h, P, ws):
    """Contact impulses as constant forces and torques over the substep."""
    CI, CF, D = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.DENSE)
    for k in range(bodies):
        for c in range(6):
            D[BL[k], dense.FORCE + c] = 0.0
    for i in range(m):
        force, torque = over(vector(CF, i, contact.J), h), over(vector(CF, i, contact.K), h)
        for side in range(2):
            q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
            if P[q, body.INV_MASS] == 0.0 or (side == 1 and CI[i, contact_int.PAIR] == limits.MOTOR):
                continue
            arm, sign = vector(CF, i, contact.ARM_A if side == 0 else contact.ARM_B), 1.0 if side == 0 else -1.0
            add(D, q, dense.FORCE, times(sign, force))
            add(D, q, dense.TORQUE, times(sign, plus(cross(arm, force), torque)))


@kernel
def _add_forces(b, h, S, P, D, E, cfg):
    """Add further forces at the middle of the substep to what is constant over it; ``E`` holds the body in the middle meanwhile."""
    velocity = vector(S, b, state.VELOCITY)
    put(E, b, state.POSITION, ahead(vector(S, b, state.POSITION), 0.5 * h, velocity))
    put(E, b, state.VELOCITY, velocity)
    turn_at(b, 0.5 * h, S, P, D, E)
    put(D, b, dense.EXTRA, over(more.acceleration(b, E, P, cfg), P[b, body.INV_MASS]))
    add(D, b, dense.FORCE, vector(D, b, dense.EXTRA))


@far(WHOLE, WHOLE, WHOLES1, REAL, REALS2, REALS2, WHOLES1, REALS1)
def advance_all(bodies, BL, h, S, P, ws, cfg):
    """Every moving body over the substep, under the forces in the dense output."""
    D, E = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.END)
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            if more.ANY and P[b, body.INV_MASS] > 0.0:
                _add_forces(b, h, S, P, D, E, cfg)
            advance_place(b, h, S, P, D, E, cfg)
            if cfg[config.LEAN] != 0.0 and P[b, body.BALL] != 0.0 and not more.ANY:  # nobody asks for the orientation of a sphere
                spin_at(b, h, S, P, D, E)
            else:
                turn_at(b, h, S, P, D, E)
    return 0


@kernel
def _middle_and_end(m, bodies, BL, h, S, P, scene, ws):
    """Arms of the middle, arms and normals of the end, as the last pass predicts them."""
    CI, CF, D = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.DENSE)
    E, X = reals(ws, workspace_table.END), reals(ws, workspace_table.MIDDLE)
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            place_at(b, 0.5 * h, D, X)
            turn_at(b, 0.5 * h, S, P, D, X)
    for i in range(m):
        if CI[i, contact_int.PAIR] == limits.MOTOR:
            continue
        n, arm_a, arm_b = moved_frame(i, S, X, scene, ws)
        put(CF, i, contact.MIDDLE, n)
        put(CF, i, contact.ARM_A, arm_a)
        put(CF, i, contact.ARM_B, arm_b)
        n, arm_a, arm_b = moved_frame(i, S, E, scene, ws)
        put(CF, i, contact.NORMAL, n)
        put(CF, i, contact.END_A, arm_a)
        put(CF, i, contact.END_B, arm_b)


@kernel
def _speed_left(m, S, scene, ws):
    """Largest speed left at the end: along the normal of what is held or closes in, and along the contact where it grips."""
    CI, CF, E = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.END)
    worst = 0.0
    for i in range(m):
        if CI[i, contact_int.PAIR] != limits.MOTOR:
            n, arm_a, arm_b = moved_frame(i, S, E, scene, ws)
            u = point_velocity(CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B], arm_a, arm_b, E)
            un = dot(n, u)
            worst = max(worst, -un if CI[i, contact_int.MODE] == contact_mode.NONE else abs(un))
            if CI[i, contact_int.MODE] == contact_mode.GRIP and CI[i, contact_int.SLIPPING] == slip_state.FREE:
                worst = max(worst, length(plus(ahead(u, -un, n), vector(CF, i, contact.BELT))))
    return worst


@far((REAL, WHOLE), WHOLE, WHOLES1, REAL, WHOLE, FLAG, REALS2, REALS2, WHOLES1, WHOLES1, REALS1)
def hold(m, BL, h, passes, again, S, P, scene, ws, cfg):
    """Solve the contacts over a substep ``h`` and advance to its end. Returns how far the law is missed, and the solutions taken.

    On entry the impulses in the rows are a guess; on return they are the solution, and the end
    states and the dense output are filled. ``again``: the rows were held over another span before, and stand as at its end.
    """
    bodies = BL.shape[0]
    CI, CF, E = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.END)
    G = reals(ws, workspace_table.SCALES)
    for k in range(bodies):
        b = BL[k]
        _, fl, _ = decay_factors(P[b, body.LIN_DAMP], h)
        _, fa, _ = decay_factors(P[b, body.ANG_DAMP], h)
        G[b, scale.LINEAR], G[b, scale.ANGULAR] = fl / h, fa / h
    for i in range(m):
        if CI[i, contact_int.PAIR] == limits.MOTOR:
            CF[i, contact.TARGET] = P[CI[i, contact_int.BODY_A], body.PUSH] * h
    error, taken = 0.0, 0
    straight = NEARLY if passes == WANDERS else STRAIGHT
    if again:
        _load_forces(m, bodies, BL, h, P, ws)
        advance_all(bodies, BL, h, S, P, ws, cfg)
    for k in range(passes):
        if k > 0 or again:
            _middle_and_end(m, bodies, BL, h, S, P, scene, ws)
        _load_forces(m, bodies, BL, h, P, ws)
        advance_all(bodies, BL, h, S, P, ws, cfg)
        error = solve_contacts(m, E, P, scene, ws)
        _load_forces(m, bodies, BL, h, P, ws)
        advance_all(bodies, BL, h, S, P, ws, cfg)
        taken += 1
        if turn_directions(m, E, CI, CF) < straight and _speed_left(m, S, scene, ws) < HELD:
            break
    for i in range(m):
        end_directions(i, E, CI, CF)
    return error, taken


@kernel
def parting(m, h, CI, CF, CK, CC, Q):
    """The earliest time in the substep at which the force of a contact that is no face's comes to zero, if it changes evenly from
    the last substep to this; or h. There the contact ends: the mean of a substep would hold it to the end of that."""
    first = h
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        flat = has_manifold(Q[p, pair.KIND]) and CF[i, contact.KEEPS] <= frame_kind.B_FACE
        if p == limits.MOTOR or CI[i, contact_int.MODE] == contact_mode.NONE or flat:
            continue
        now = dot(vector(CF, i, contact.J), vector(CF, i, contact.NORMAL)) / h
        for k in range(limits.SLOTS * p, limits.SLOTS * p + CK[p, pair_cache.POINTS]):
            if (CC[k, point_cache.FEATURE] == CI[i, contact_int.FEATURE] and CC[k, point_cache.BY_FEATURE] != 0.0
                and now < CC[k, point_cache.NORMAL_FORCE]):
                at = 0.5 * h + 0.5 * now * (h + CC[k, point_cache.SPAN]) / (CC[k, point_cache.NORMAL_FORCE] - now)
                if 0.1 * h < at < 0.999 * h:
                    first = min(first, at)
    return first


@kernel
def rescale(m, factor, CF):
    """Impulses of a guess for a substep of another length."""
    for i in range(m):
        for c in range(6):
            CF[i, contact.J + c] *= factor


@kernel
def settle(m, S, P, scene, ws):
    """Take out the rounding and third-order drift of held gaps: shift along the normal, no energy made."""
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    last = -2
    for i in range(m):
        p = CI[i, contact_int.PAIR]
        if CI[i, contact_int.MODE] == contact_mode.NONE or p == limits.MOTOR or p == last:
            continue
        last = p
        low = gap_of_pair(p, S, scene, ws)
        if abs(low) < 1e-5 and abs(low) > 1e-15:
            shift(CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B], low, vector(CF, i, contact.NORMAL), S, P)
