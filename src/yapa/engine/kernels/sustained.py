"""Persistent contact over a substep: constant forces that meet the contact law at its end.

The unknowns are the impulses of the substep, applied as constant forces at the arms of its
middle; the law is asked for at the arms of its end. For a sphere on a plane both coincide with
the start and one pass is exact. Otherwise passes repeat until the held normal speeds vanish
(second order in the substep).

A contact that slips at the start slips over the whole substep, along the mean of its directions: with slip that changes evenly
from u0 to u1, the mean t of u/|u| at the two Gauss points. The friction -μ N t then takes energy whatever u1 is, since
t (u0 + u1) is the sum over both points of |u| times 1 + the cosine between them; and a slip that ends at zero has a mean. The same
goes for rolling. Where either comes to zero inside or turns too far, the substep is cut there, so the next one may grip or hold.
A body that is pushed along a path has a row of its own: the force that keeps it on its path, up to its limit.
"""

from math import sqrt

from yapa.engine.kernels.contacts import moved_frame, slipping, solve_contacts, touching, turning
from yapa.engine.kernels.flight import FOLLOW, advance_place, decay_factors, place_at, spin_at, turn_at
from yapa.engine.kernels.impacts import margin_of
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    ARM_A,
    ARM_B,
    BALL,
    BELT,
    C_A,
    C_B,
    C_FEATURE,
    C_MODE,
    C_PAIR,
    C_ROLLING,
    C_SLIPPING,
    C_SOME,
    CFG_LEAN,
    CW_CC,
    CW_CK,
    END_A,
    END_B,
    FEW_CORNERS,
    FORCE,
    FREE,
    INV_MASS,
    KEY0,
    LIN_DAMP,
    MANIFOLD,
    MIDDLE,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    MOST_CONTACTS,
    MOST_CORNERS,
    MOTION,
    MOTOR,
    NO_SLIP,
    NORMAL,
    PUSH,
    PUSHED_BODY,
    Q_FEATURES,
    Q_KIND,
    Q_LAW,
    REFF,
    ROLL0,
    ROLL1,
    ROLL_ASIDE,
    ROLL_DIR,
    ROLL_FROM,
    ROLL_WAS,
    ROLLING,
    SC_KEYS,
    SC_LAW,
    SC_Q,
    SLIP0,
    SLIP1,
    SLIP_ASIDE,
    SLIP_DIR,
    SLIP_FROM,
    SLIP_WAS,
    SLIPS,
    SLOTS,
    STILL,
    TARGET,
    TORQUE,
    TOUCH,
    WS_CF,
    WS_CI,
    WS_D,
    WS_E,
    WS_G,
    WS_X,
    J,
    K,
)
from yapa.engine.kernels.polytopes import gap_of_pair
from yapa.engine.kernels.shapes import far_apart, shift
from yapa.engine.kernels.views import reals, wholes

STRAIGHT, NEARLY, GAUSS, LONGEST = 1e-10, 1e-8, 0.5 - 0.5 / sqrt(3.0), 2.0
"""Changes of direction that need no further pass (the second of points that wander); the first of two Gauss points; the longest
step to a mean direction."""
WANDERS, HELD = 8, 1e-10
"""So many passes at most where points wander over their bodies; m/s: what is held or grips has no more than this left."""
NO_ROLL = 1e-7
"""rad/s: rolling below this counts as none."""
WHOLE_FOR = 16
"""Substeps in which all corners of a face are held, once a few did not carry it."""
ASIDE = 0.5
"""A substep is cut where a slip or a rolling would turn by more: its share along the old direction over that across it."""


@kernel
def _point(i, size, x, y, z, mean, before, was, CF):
    """A direction at the start of a substep, which is its first mean as well."""
    x, y, z = x / size, y / size, z / size
    CF[i, mean], CF[i, mean + 1], CF[i, mean + 2] = x, y, z
    CF[i, before], CF[i, before + 1], CF[i, before + 2] = x, y, z
    CF[i, was], CF[i, was + 1], CF[i, was + 2] = x, y, z


@kernel
def _along_and_aside(i, before, x, y, z, CF):
    """The share of a vector along the direction of a substep's start, and the size of the rest."""
    fx, fy, fz = CF[i, before], CF[i, before + 1], CF[i, before + 2]
    along = x * fx + y * fy + z * fz
    x, y, z = x - along * fx, y - along * fy, z - along * fz
    return along, sqrt(x * x + y * y + z * z)


@kernel
def _guess(i, CI, CF, CK, CC):
    """The force of the last substep in the same contact, as a first guess (an impulse for one second)."""
    p = CI[i, C_PAIR]
    for k in range(SLOTS * p, SLOTS * p + CK[p, 0]):
        if CC[k, 0] == CI[i, C_FEATURE]:
            for c in range(3):
                CF[i, J + c] = CC[k, 1] * CF[i, NORMAL + c] + CC[k, 2 + c]
                CF[i, K + c] = CC[k, 5 + c]
            return


@kernel
def keep_forces(m, span, count, PL, CI, CF, CK, CC):
    """Remember the impulses of a substep as forces, pair by pair: a guess for the next, in either regime.

    That all corners of a face are held is forgotten little by little.
    """
    for n in range(count):
        CK[PL[n], 0] = 0
        CK[PL[n], 1] = max(CK[PL[n], 1] - 1, 0)
    for i in range(m):
        p = CI[i, C_PAIR]
        if p == MOTOR or CK[p, 0] >= SLOTS or CI[i, C_MODE] == MODE_NONE:
            continue
        k = SLOTS * p + CK[p, 0]
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        jn = CF[i, J] * nx + CF[i, J + 1] * ny + CF[i, J + 2] * nz
        CC[k, 0], CC[k, 1] = CI[i, C_FEATURE], jn / span
        CC[k, 2], CC[k, 3], CC[k, 4] = (CF[i, J] - jn * nx) / span, (CF[i, J + 1] - jn * ny) / span, (CF[i, J + 2] - jn * nz) / span
        for c in range(3):
            CC[k, 5 + c] = CF[i, K + c] / span
            CC[k, 8 + c] = 1e9  # found by its feature only
        CC[k, 9] = span
        CC[k, 11] = 0.0 if CI[i, C_MODE] == MODE_SLIP else 1.0
        CK[p, 0] += 1


@kernel
def leans(m, CI, CK):
    """Whether, of a face of which a few corners are held, fewer than three press: it may dip at those that are not.

    It is held at all its corners for some substeps from now on.
    """
    found = False
    for i in range(m):
        p = CI[i, C_PAIR]
        if CI[i, C_SOME] == 1 and CK[p, 1] == 0:
            pressing = 0
            for k in range(m):
                if CI[k, C_PAIR] == p and CI[k, C_MODE] != MODE_NONE:
                    pressing += 1
            if pressing < 3:
                CK[p, 1] = WHOLE_FOR
                found = True
    return found


@far(WHOLE, REAL, WHOLE, WHOLES1, WHOLE, WHOLES1, REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1)
def gather(t, count, PL, bodies, BL, S, P, scene, ws, cw):
    """Rows of all pairs that touch and neither part nor strike, and of the bodies that are pushed."""
    Q, LW, KT = wholes(scene, SC_Q), reals(scene, SC_LAW), reals(scene, SC_KEYS)
    CI, CF, CK, CC = wholes(ws, WS_CI), reals(ws, WS_CF), wholes(cw, CW_CK), reals(cw, CW_CC)
    m = 0
    for most in MOST_CORNERS:
        m, spare = 0, False  # whether there may be fewer
        for n in range(count):
            p = PL[n]
            if Q[p, Q_KIND] != MANIFOLD:
                m = touching(m, p, Q[p, Q_FEATURES], TOUCH, most, STILL, STILL, S, scene, ws)
            elif not far_apart(p, 1e-6, S, scene, Q):
                whole = CK[p, 1] > 0
                spare = spare or whole
                m = touching(m, p, 0, margin_of(p, scene), most if whole else FEW_CORNERS, STILL, STILL, S, scene, ws)
        if m <= MOST_CONTACTS or not spare:
            break
    for i in range(m):
        _guess(i, CI, CF, CK, CC)
        _, ux, uy, uz = slipping(i, CI, CF, S)
        u = sqrt(ux * ux + uy * uy + uz * uz)
        CF[i, SLIP0] = u
        if u > NO_SLIP:
            CI[i, C_SLIPPING] = SLIPS
            _point(i, u, ux, uy, uz, SLIP_DIR, SLIP_FROM, SLIP_WAS, CF)
        CF[i, ROLL0] = 0.0
        if LW[Q[CI[i, C_PAIR], Q_LAW], ROLLING] > 0.0 and CF[i, REFF] > 0.0:
            rx, ry, rz = turning(i, CI, CF, S)
            r = sqrt(rx * rx + ry * ry + rz * rz)
            CF[i, ROLL0] = r
            if r > NO_ROLL:
                CI[i, C_ROLLING] = 1
                _point(i, r, rx, ry, rz, ROLL_DIR, ROLL_FROM, ROLL_WAS, CF)
    for n in range(bodies):
        b = BL[n]
        if P[b, MOTION] == PUSHED_BODY and m < CI.shape[0] - 1:
            k = int(P[b, KEY0])
            while KT[k + 1, 0] <= t + 1e-12 and KT[k + 1, 0] > KT[k, 0]:
                k += 1
            CI[m, C_PAIR], CI[m, C_FEATURE], CI[m, C_A], CI[m, C_B] = MOTOR, 0, b, b
            CI[m, C_SLIPPING], CI[m, C_ROLLING], CI[m, C_MODE], CI[m, C_SOME] = FREE, 0, MODE_NONE, 0
            for c in range(CF.shape[1]):
                CF[m, c] = 0.0
            for c in range(3):
                there = KT[k, 1 + c] + (t - KT[k, 0]) * KT[k, 8 + c]
                CF[m, BELT + c] = KT[k, 8 + c] + (there - S[b, c]) / FOLLOW
            m += 1
    return m


@kernel
def _load_forces(m, bodies, BL, h, P, ws):
    """Contact impulses as constant forces and torques over the substep."""
    CI, CF, D = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_D)
    for k in range(bodies):
        for c in range(6):
            D[BL[k], FORCE + c] = 0.0
    for i in range(m):
        jx, jy, jz = CF[i, J] / h, CF[i, J + 1] / h, CF[i, J + 2] / h
        kx, ky, kz = CF[i, J + 3] / h, CF[i, J + 4] / h, CF[i, J + 5] / h
        for side in range(2):
            q = CI[i, C_A] if side == 0 else CI[i, C_B]
            if P[q, INV_MASS] == 0.0 or (side == 1 and CI[i, C_PAIR] == MOTOR):
                continue
            o = ARM_A if side == 0 else ARM_B
            sign = 1.0 if side == 0 else -1.0
            rx, ry, rz = CF[i, o], CF[i, o + 1], CF[i, o + 2]
            D[q, FORCE] += sign * jx
            D[q, FORCE + 1] += sign * jy
            D[q, FORCE + 2] += sign * jz
            D[q, TORQUE] += sign * (ry * jz - rz * jy + kx)
            D[q, TORQUE + 1] += sign * (rz * jx - rx * jz + ky)
            D[q, TORQUE + 2] += sign * (rx * jy - ry * jx + kz)


@far(WHOLE, WHOLE, WHOLES1, REAL, REALS2, REALS2, WHOLES1, REALS1)
def advance_all(bodies, BL, h, S, P, ws, cfg):
    """Every moving body over the substep, under the forces in the dense output."""
    D, E = reals(ws, WS_D), reals(ws, WS_E)
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] != 0.0:
            advance_place(b, h, S, P, D, E, cfg)
            if cfg[CFG_LEAN] != 0.0 and P[b, BALL] != 0.0:  # nobody asks for the orientation of a sphere
                spin_at(b, h, S, P, D, E)
            else:
                turn_at(b, h, S, P, D, E)
    return 0


@kernel
def _middle_and_end(m, bodies, BL, h, S, P, scene, ws):
    """Arms of the middle, arms and normals of the end, as the last pass predicts them."""
    CI, CF, D, E, X = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_D), reals(ws, WS_E), reals(ws, WS_X)
    for k in range(bodies):
        b = BL[k]
        if P[b, MOTION] != 0.0:
            place_at(b, 0.5 * h, D, X)
            turn_at(b, 0.5 * h, S, P, D, X)
    for i in range(m):
        if CI[i, C_PAIR] == MOTOR:
            continue
        nx, ny, nz, ax, ay, az, bx, by, bz = moved_frame(i, S, X, scene, ws)
        CF[i, MIDDLE], CF[i, MIDDLE + 1], CF[i, MIDDLE + 2] = nx, ny, nz
        CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2] = ax, ay, az
        CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2] = bx, by, bz
        nx, ny, nz, ax, ay, az, bx, by, bz = moved_frame(i, S, E, scene, ws)
        CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2] = nx, ny, nz
        CF[i, END_A], CF[i, END_A + 1], CF[i, END_A + 2] = ax, ay, az
        CF[i, END_B], CF[i, END_B + 1], CF[i, END_B + 2] = bx, by, bz


@kernel
def _speed_left(m, S, scene, ws):
    """Largest speed left at the end: along the normal of what is held or closes in, and along the contact where it grips."""
    CI, CF, E = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_E)
    worst = 0.0
    for i in range(m):
        if CI[i, C_PAIR] != MOTOR:
            nx, ny, nz, ax, ay, az, bx, by, bz = moved_frame(i, S, E, scene, ws)
            a, b = CI[i, C_A], CI[i, C_B]
            ux = E[a, 7] - E[b, 7] + E[a, 11] * az - E[a, 12] * ay - E[b, 11] * bz + E[b, 12] * by
            uy = E[a, 8] - E[b, 8] + E[a, 12] * ax - E[a, 10] * az - E[b, 12] * bx + E[b, 10] * bz
            uz = E[a, 9] - E[b, 9] + E[a, 10] * ay - E[a, 11] * ax - E[b, 10] * by + E[b, 11] * bx
            un = nx * ux + ny * uy + nz * uz
            worst = max(worst, -un if CI[i, C_MODE] == MODE_NONE else abs(un))
            if CI[i, C_MODE] == MODE_GRIP and CI[i, C_SLIPPING] == FREE:
                ux, uy, uz = ux - un * nx + CF[i, BELT], uy - un * ny + CF[i, BELT + 1], uz - un * nz + CF[i, BELT + 2]
                worst = max(worst, sqrt(ux * ux + uy * uy + uz * uz))
    return worst


@kernel
def _toward_mean(i, size, ux, uy, uz, mean, before, was, CF):
    """Turn a direction of row ``i`` to the mean of the directions on the straight way from its start to ``u``.

    The mean is that of the two Gauss points: a way that ends at zero has one too. What gives way to it within the
    substep is so never driven by it. Where the mean depends on the direction used, secants find it. What turns back
    keeps the direction of its start: the substep is cut there. Returns how far the direction was off.
    """
    fx, fy, fz = CF[i, before], CF[i, before + 1], CF[i, before + 2]
    tx, ty, tz = fx, fy, fz
    if ux * fx + uy * fy + uz * fz > 0.0:
        tx, ty, tz = 0.0, 0.0, 0.0
        for k in range(2):
            late = GAUSS if k == 0 else 1.0 - GAUSS
            early = (1.0 - late) * size
            vx, vy, vz = early * fx + late * ux, early * fy + late * uy, early * fz + late * uz
            v = sqrt(vx * vx + vy * vy + vz * vz)
            tx, ty, tz = tx + vx / v, ty + vy / v, tz + vz / v
        v = sqrt(tx * tx + ty * ty + tz * tz)
        tx, ty, tz = tx / v, ty / v, tz / v
    x, y, z = CF[i, mean], CF[i, mean + 1], CF[i, mean + 2]
    gx, gy, gz = tx - x, ty - y, tz - z
    far_off = sqrt(gx * gx + gy * gy + gz * gz)
    dx, dy, dz = x - CF[i, was], y - CF[i, was + 1], z - CF[i, was + 2]
    moved = dx * dx + dy * dy + dz * dz
    share = 1.0
    if moved > 0.0:
        change = (gx - CF[i, was + 3]) * dx + (gy - CF[i, was + 4]) * dy + (gz - CF[i, was + 5]) * dz
        share = min(max(-moved / change if change < 0.0 else LONGEST, 0.0), LONGEST)
    for c in range(3):
        CF[i, was + c] = CF[i, mean + c]
    CF[i, was + 3], CF[i, was + 4], CF[i, was + 5] = gx, gy, gz
    x, y, z = x + share * gx, y + share * gy, z + share * gz
    v = sqrt(x * x + y * y + z * z)
    if v > 0.0:
        CF[i, mean], CF[i, mean + 1], CF[i, mean + 2] = x / v, y / v, z / v
    return far_off


@kernel
def _turn_directions(m, E, CI, CF):
    """Directions of slip and of rolling as means over the substep, as the last pass predicts them. Returns the largest change."""
    most = 0.0
    for i in range(m):
        if CI[i, C_PAIR] == MOTOR or CI[i, C_MODE] == MODE_NONE:
            continue
        if CI[i, C_SLIPPING] == SLIPS:
            _, ux, uy, uz = slipping(i, CI, CF, E)
            most = max(most, _toward_mean(i, CF[i, SLIP0], ux, uy, uz, SLIP_DIR, SLIP_FROM, SLIP_WAS, CF))
        if CI[i, C_ROLLING] == 1:
            rx, ry, rz = turning(i, CI, CF, E)
            most = max(most, _toward_mean(i, CF[i, ROLL0], rx, ry, rz, ROLL_DIR, ROLL_FROM, ROLL_WAS, CF))
    return most


@far((REAL, WHOLE), WHOLE, WHOLE, WHOLES1, REAL, WHOLE, FLAG, REALS2, REALS2, WHOLES1, WHOLES1, REALS1)
def hold(m, bodies, BL, h, passes, again, S, P, scene, ws, cfg):
    """Solve the contacts over a substep ``h`` and advance to its end. Returns how far the law is missed, and the solutions taken.

    On entry the impulses in the rows are a guess; on return they are the solution, and the end
    states and the dense output are filled. ``again``: the rows were held over another span before, and stand as at its end.
    """
    CI, CF, E, G = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_E), reals(ws, WS_G)
    for k in range(bodies):
        b = BL[k]
        _, fl, _ = decay_factors(P[b, LIN_DAMP], h)
        _, fa, _ = decay_factors(P[b, ANG_DAMP], h)
        G[b, 0], G[b, 1] = fl / h, fa / h
    for i in range(m):
        if CI[i, C_PAIR] == MOTOR:
            CF[i, TARGET] = P[CI[i, C_A], PUSH] * h
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
        if _turn_directions(m, E, CI, CF) < straight and _speed_left(m, S, scene, ws) < HELD:
            break
    for i in range(m):
        _, ux, uy, uz = slipping(i, CI, CF, E)
        if CI[i, C_SLIPPING] == SLIPS:
            CF[i, SLIP1], CF[i, SLIP_ASIDE] = _along_and_aside(i, SLIP_FROM, ux, uy, uz, CF)
        else:
            CF[i, SLIP1] = sqrt(ux * ux + uy * uy + uz * uz)
        CF[i, ROLL1] = CF[i, ROLL0]
        if CI[i, C_ROLLING] == 1:
            rx, ry, rz = turning(i, CI, CF, E)
            CF[i, ROLL1], CF[i, ROLL_ASIDE] = _along_and_aside(i, ROLL_FROM, rx, ry, rz, CF)
    return error, taken


@kernel
def _turned_at(size, along, aside, little, least):
    """The share of a straight way at which a vector has turned by 45°, if at its end it turned too far or back, or 1.

    Without anything aside that is where it comes to zero."""
    if along < -little or (aside > least and along < ASIDE * aside):
        return size / (size - along + aside)
    return 1.0


@kernel
def crossing(m, h, CI, CF):
    """The earliest time in the substep at which slip or rolling of a contact comes to zero or turns too far, or h."""
    first = h
    for i in range(m):
        if CI[i, C_MODE] == MODE_NONE:
            continue
        if CI[i, C_SLIPPING] == SLIPS:
            first = min(first, h * _turned_at(CF[i, SLIP0], CF[i, SLIP1], CF[i, SLIP_ASIDE], 1e-13, NO_SLIP))
        if CI[i, C_ROLLING] == 1:
            first = min(first, h * _turned_at(CF[i, ROLL0], CF[i, ROLL1], CF[i, ROLL_ASIDE], 1e-12, NO_ROLL))
    return first


@kernel
def parting(m, h, CI, CF, CK, CC, Q):
    """The earliest time in the substep at which the force of a contact that is no face's comes to zero, if it changes evenly from
    the last substep to this; or h. There the contact ends: the mean of a substep would hold it to the end of that."""
    first = h
    for i in range(m):
        p = CI[i, C_PAIR]
        if p == MOTOR or CI[i, C_MODE] == MODE_NONE or Q[p, Q_KIND] == MANIFOLD:
            continue
        now = (CF[i, J] * CF[i, NORMAL] + CF[i, J + 1] * CF[i, NORMAL + 1] + CF[i, J + 2] * CF[i, NORMAL + 2]) / h
        for k in range(SLOTS * p, SLOTS * p + CK[p, 0]):
            if CC[k, 0] == CI[i, C_FEATURE] and CC[k, 8] > 1e8 and now < CC[k, 1]:
                at = 0.5 * h + 0.5 * now * (h + CC[k, 9]) / (CC[k, 1] - now)
                if 0.1 * h < at < 0.999 * h:
                    first = min(first, at)
    return first


@kernel
def bends(m, most, CI, CF):
    """Whether a slip or a rolling turns by more than this in the substep [rad]."""
    for i in range(m):
        if CI[i, C_MODE] != MODE_NONE:
            if CI[i, C_SLIPPING] == SLIPS and CF[i, SLIP_ASIDE] > most * CF[i, SLIP0]:
                return True
            if CI[i, C_ROLLING] == 1 and CF[i, ROLL_ASIDE] > most * CF[i, ROLL0]:
                return True
    return False


@kernel
def rescale(m, factor, CF):
    """Impulses of a guess for a substep of another length."""
    for i in range(m):
        for c in range(6):
            CF[i, J + c] *= factor


@kernel
def settle(m, S, P, scene, ws):
    """Take out the rounding and third-order drift of held gaps: shift along the normal, no energy made."""
    CI, CF = wholes(ws, WS_CI), reals(ws, WS_CF)
    last = -2
    for i in range(m):
        p = CI[i, C_PAIR]
        if CI[i, C_MODE] == MODE_NONE or p == MOTOR or p == last:
            continue
        last = p
        low = gap_of_pair(p, S, scene, ws)
        if abs(low) < 1e-5 and abs(low) > 1e-15:
            shift(CI[i, C_A], CI[i, C_B], low, CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2], S, P)
