"""Contact rows of the event-driven regime: what touches, its frame, and the impulses that meet the law.

A row keeps the normal (b to a), the arms where impulses act, the arms where the law is asked for
(the same in an impact, those of the end in a substep), the impulse J and the angular impulse K.
One round contact has a closed form: with no coupling but through the two centres,

    Δu = k_t J - k_x (n × K)        Δρ = -k_x J + k_r (n × K),   ρ = (ω_a - ω_b) × n
    k_t = 1/m_a + 1/m_b + r_a²/I_a + r_b²/I_b,  k_r = 1/I_a + 1/I_b,  k_x = r_a/I_a - r_b/I_b

whose four modes (stick or slip, roll held or not) are tried in turn; spinning about the normal is
apart from both (Johnson, Contact Mechanics, ch. 8). Everything else goes to ``law``.
"""

from math import sqrt

from yapa.engine.kernels.flight import inverse_inertia, rotate
from yapa.engine.kernels.jit import FLAG, REAL, REALS1, REALS2, WHOLE, WHOLES1, WHOLES2, far, kernel
from yapa.engine.kernels.law import (
    BOUNDED_ROW,
    FRICTION_ROW,
    MORE_ROW,
    NORMAL_ROW,
    ROLLING_ROW,
    SPINNING_ROW,
    block_mode,
    solve_law,
)
from yapa.engine.kernels.layout import (
    ARM_A,
    ARM_B,
    BALL,
    BASE_A,
    BASE_B,
    BASE_N,
    BELT,
    C_A,
    C_B,
    C_FEATURE,
    C_MODE,
    C_PAIR,
    C_ROLLING,
    C_ROW,
    C_SLIPPING,
    C_SOME,
    DYNAMIC,
    END_A,
    END_B,
    FREE,
    G_BELT,
    GAP,
    HITS,
    IM,
    INERTIA,
    INV_MASS,
    KEEPS,
    LOCK,
    MANIFOLD,
    MIDDLE,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    MOTOR,
    NORMAL,
    Q_A,
    Q_B,
    Q_BA,
    Q_BB,
    Q_KIND,
    Q_LAW,
    RATE,
    REFF,
    RIM_PLANE,
    ROLL_DIR,
    ROLLING,
    ROUND_PLANE,
    ROUND_ROUND,
    SC_GF,
    SC_LAW,
    SC_Q,
    SLIP_DIR,
    SLIPS,
    SPINNING,
    STATIC,
    TARGET,
    WS_A,
    WS_CF,
    WS_CI,
    WS_G,
    WS_JR,
    WS_M,
    WS_MV,
    WS_RF,
    WS_RI,
    WS_V,
    WS_W,
    WS_WV,
    J,
    K,
)
from yapa.engine.kernels.material import rolling_radius, tangents
from yapa.engine.kernels.polytopes import manifold_of
from yapa.engine.kernels.shapes import frame, turned
from yapa.engine.kernels.views import reals, wholes


@kernel
def relative(i, CI, CF, X):
    """Velocity of a's surface at the contact relative to b's, at the arms where the law is asked for."""
    a, b = CI[i, C_A], CI[i, C_B]
    ax, ay, az = CF[i, END_A], CF[i, END_A + 1], CF[i, END_A + 2]
    bx, by, bz = CF[i, END_B], CF[i, END_B + 1], CF[i, END_B + 2]
    if CI[i, C_PAIR] == MOTOR:
        return X[a, 7] - CF[i, BELT], X[a, 8] - CF[i, BELT + 1], X[a, 9] - CF[i, BELT + 2]
    return (
        X[a, 7] - X[b, 7] + X[a, 11] * az - X[a, 12] * ay - X[b, 11] * bz + X[b, 12] * by + CF[i, BELT],
        X[a, 8] - X[b, 8] + X[a, 12] * ax - X[a, 10] * az - X[b, 12] * bx + X[b, 10] * bz + CF[i, BELT + 1],
        X[a, 9] - X[b, 9] + X[a, 10] * ay - X[a, 11] * ax - X[b, 10] * by + X[b, 11] * bx + CF[i, BELT + 2],
    )


@kernel
def slipping(i, CI, CF, X):
    """Normal speed of row ``i``, and its velocity along the contact."""
    ux, uy, uz = relative(i, CI, CF, X)
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    un = ux * nx + uy * ny + uz * nz
    return un, ux - un * nx, uy - un * ny, uz - un * nz


@kernel
def write_row(i, p, f, gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws):
    """Fill contact row ``i``; no slip or rolling forced, no impulse yet."""
    geo, Q = scene, wholes(scene, SC_Q)
    CI, CF = wholes(ws, WS_CI), reals(ws, WS_CF)
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    CI[i, C_PAIR], CI[i, C_FEATURE], CI[i, C_A], CI[i, C_B] = p, f, a, b
    CI[i, C_SLIPPING], CI[i, C_ROLLING], CI[i, C_MODE], CI[i, C_SOME] = FREE, 0, MODE_NONE, 0
    CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2] = nx, ny, nz
    CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2] = ax, ay, az
    CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2] = bx, by, bz
    for c in range(3):
        CF[i, MIDDLE + c] = CF[i, NORMAL + c]
        CF[i, END_A + c] = CF[i, ARM_A + c]
        CF[i, END_B + c] = CF[i, ARM_B + c]
        CF[i, J + c] = 0.0
        CF[i, K + c] = 0.0
        CF[i, BELT + c] = 0.0
    GF = reals(geo, SC_GF)
    sa, sb = Q[p, Q_A], Q[p, Q_B]
    for side in range(2):
        s, q, sign = (sa, a, 1.0) if side == 0 else (sb, b, -1.0)
        tx, ty, tz = GF[s, G_BELT], GF[s, G_BELT + 1], GF[s, G_BELT + 2]
        if tx != 0.0 or ty != 0.0 or tz != 0.0:  # a surface that runs: only its part along the contact
            tx, ty, tz = turned(q, X, tx, ty, tz)
            d = tx * nx + ty * ny + tz * nz
            CF[i, BELT] += sign * (tx - d * nx)
            CF[i, BELT + 1] += sign * (ty - d * ny)
            CF[i, BELT + 2] += sign * (tz - d * nz)
    CF[i, GAP] = gap
    CF[i, REFF] = rolling_radius(p, f, ax, ay, az, nx, ny, nz, geo, Q)
    ux, uy, uz = relative(i, CI, CF, X)
    CF[i, RATE] = nx * ux + ny * uy + nz * uz
    CF[i, TARGET] = 0.0


@far(WHOLE, WHOLE, WHOLE, WHOLE, REAL, WHOLE, REAL, REAL, REALS2, WHOLES1, WHOLES1)
def touching(m, p, features, margin, most, fastest, still, X, scene, ws):
    """Write rows of pair ``p`` with gap up to ``margin`` and rate below ``fastest`` (above ``-still``), ``most`` of a manifold.

    Returns the count.
    """
    geo, Q = scene, wholes(scene, SC_Q)
    CI, CF = wholes(ws, WS_CI), reals(ws, WS_CF)
    room = CI.shape[0] - 1
    if Q[p, Q_KIND] != MANIFOLD:
        for f in range(features):
            gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, geo, Q)
            if gap > margin or m >= room:
                continue
            write_row(m, p, f, gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws)
            if CF[m, RATE] < fastest and CF[m, RATE] > -still:
                m += 1
        return m
    M, a, b = reals(ws, WS_M), Q[p, Q_BA], Q[p, Q_BB]
    count, least = manifold_of(p, X, geo, Q, reals(ws, WS_WV), M, margin, most)
    for k in range(count):
        if m >= room:
            break
        gap, nx, ny, nz = M[k, 0], M[k, 1], M[k, 2], M[k, 3]
        bx, by, bz = M[k, 4] - X[b, 0], M[k, 5] - X[b, 1], M[k, 6] - X[b, 2]
        ax, ay, az = M[k, 4] + gap * nx - X[a, 0], M[k, 5] + gap * ny - X[a, 1], M[k, 6] + gap * nz - X[a, 2]
        write_row(m, p, int(M[k, 7]), gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws)
        CF[m, BASE_A], CF[m, BASE_A + 1], CF[m, BASE_A + 2] = ax, ay, az
        CF[m, BASE_B], CF[m, BASE_B + 1], CF[m, BASE_B + 2] = bx, by, bz
        CF[m, BASE_N], CF[m, BASE_N + 1], CF[m, BASE_N + 2] = nx, ny, nz
        # the body whose face (or edge) gives the normal keeps it
        CF[m, KEEPS] = 0.0 if M[k, 7] < 5e8 and M[k, 7] >= 1e6 else 1.0
        CI[m, C_SOME] = int(M[k, 8])
        if CF[m, RATE] < fastest and CF[m, RATE] > -still:
            m += 1
    return m


@kernel
def _carried(q, S, X, vx, vy, vz):
    """A vector that turns with body ``q`` from its state in ``S`` to that in ``X``."""
    x, y, z = rotate(S[q, 3], -S[q, 4], -S[q, 5], -S[q, 6], vx, vy, vz)
    return rotate(X[q, 3], X[q, 4], X[q, 5], X[q, 6], x, y, z)


@kernel
def _same_side(p, f, S, X, scene, Q):
    """The point of a rim at ``X`` on the side where point ``f`` is at ``S``: as a cylinder falls flat, its lowest point changes
    sides at once, and a contact that went with it would push on the wrong one."""
    _, _, _, _, ax, ay, az, _, _, _ = frame(p, f, S, scene, Q)
    _, _, _, _, cx, cy, cz, _, _, _ = frame(p, f, X, scene, Q)
    _, _, _, _, dx, dy, dz, _, _, _ = frame(p, f ^ 2, X, scene, Q)
    here = (cx - ax) ** 2 + (cy - ay) ** 2 + (cz - az) ** 2
    across = (dx - ax) ** 2 + (dy - ay) ** 2 + (dz - az) ** 2
    return f if here <= across else f ^ 2


@far((REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL, REAL), WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def moved_frame(i, S, X, scene, ws):
    """Normal and arms of contact row ``i`` (made at ``S``) at the states ``X``."""
    CI, CF = wholes(ws, WS_CI), reals(ws, WS_CF)
    p, a, b = CI[i, C_PAIR], CI[i, C_A], CI[i, C_B]
    if p == MOTOR:
        return 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if wholes(scene, SC_Q)[p, Q_KIND] != MANIFOLD:
        f, Q = CI[i, C_FEATURE], wholes(scene, SC_Q)
        if Q[p, Q_KIND] == RIM_PLANE:
            f = _same_side(p, f, S, X, scene, Q)
        _, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, scene, Q)
        return nx, ny, nz, ax, ay, az, bx, by, bz
    keeper = a if CF[i, KEEPS] == 0.0 else b
    nx, ny, nz = _carried(keeper, S, X, CF[i, BASE_N], CF[i, BASE_N + 1], CF[i, BASE_N + 2])
    dx, dy, dz = X[a, 0] - X[b, 0], X[a, 1] - X[b, 1], X[a, 2] - X[b, 2]
    if keeper == b:  # the point belongs to a
        ax, ay, az = _carried(a, S, X, CF[i, BASE_A], CF[i, BASE_A + 1], CF[i, BASE_A + 2])
        return nx, ny, nz, ax, ay, az, dx + ax, dy + ay, dz + az
    bx, by, bz = _carried(b, S, X, CF[i, BASE_B], CF[i, BASE_B + 1], CF[i, BASE_B + 2])
    return nx, ny, nz, bx - dx, by - dy, bz - dz, bx, by, bz


@kernel
def turning(i, CI, CF, X):
    """Relative angular velocity along the contact: without its part about the normal."""
    a, b = CI[i, C_A], CI[i, C_B]
    ox, oy, oz = X[a, 10] - X[b, 10], X[a, 11] - X[b, 11], X[a, 12] - X[b, 12]
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    d = ox * nx + oy * ny + oz * nz
    return ox - d * nx, oy - d * ny, oz - d * nz


@kernel
def push(b, sign, jx, jy, jz, rx, ry, rz, kx, ky, kz, X, P, G):
    """Give body ``b`` an impulse at an arm and an angular impulse; ``G`` scales for damping over a substep."""
    if P[b, INV_MASS] == 0.0:
        return
    fl, fa = sign * G[b, 0], sign * G[b, 1]
    X[b, 7] += fl * P[b, IM] * jx
    X[b, 8] += fl * P[b, IM + 1] * jy
    X[b, 9] += fl * P[b, IM + 2] * jz
    ox, oy, oz = inverse_inertia(b, X, P, ry * jz - rz * jy + kx, rz * jx - rx * jz + ky, rx * jy - ry * jx + kz)
    X[b, 10] += fa * ox
    X[b, 11] += fa * oy
    X[b, 12] += fa * oz


@far(WHOLE, WHOLE, REAL, WHOLES2, REALS2, REALS2, REALS2, REALS2)
def apply_contact(i, sign, CI, CF, X, P, G):
    """Add (or with sign -1 take back) the impulses of row ``i`` to the velocities in ``X``."""
    jx, jy, jz = CF[i, J], CF[i, J + 1], CF[i, J + 2]
    kx, ky, kz = CF[i, K], CF[i, K + 1], CF[i, K + 2]
    push(CI[i, C_A], sign, jx, jy, jz, CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2], kx, ky, kz, X, P, G)
    if CI[i, C_PAIR] != MOTOR:
        push(CI[i, C_B], -sign, jx, jy, jz, CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2], kx, ky, kz, X, P, G)
    return 0


@kernel
def _unit(x, y, z):
    n = sqrt(x * x + y * y + z * z)
    if n < 1e-300:
        return 0.0, 0.0, 0.0
    return x / n, y / n, z / n


@far((REAL, REAL, REAL, REAL, REAL, REAL), WHOLE, WHOLES2, REALS2, REALS2, REALS2, REALS1, REALS2)
def _round_contact(i, CI, CF, X, P, law, G):
    """Impulse and angular impulse of one round contact, in closed form."""
    a, b = CI[i, C_A], CI[i, C_B]
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    ima, imb = P[a, INV_MASS], P[b, INV_MASS]
    ra = -(CF[i, ARM_A] * nx + CF[i, ARM_A + 1] * ny + CF[i, ARM_A + 2] * nz)
    rb = CF[i, ARM_B] * nx + CF[i, ARM_B + 1] * ny + CF[i, ARM_B + 2] * nz if imb > 0.0 else 0.0
    ia = G[a, 1] / P[a, INERTIA] if ima > 0.0 else 0.0
    ib = G[b, 1] / P[b, INERTIA] if imb > 0.0 else 0.0
    kn = G[a, 0] * ima + G[b, 0] * imb
    kt = kn + ra * ra * ia + rb * rb * ib
    kr = ia + ib
    kx = ra * ia - rb * ib
    ux, uy, uz = relative(i, CI, CF, X)
    un = ux * nx + uy * ny + uz * nz
    jn = (CF[i, TARGET] - un) / kn
    if jn <= 0.0:
        CI[i, C_MODE] = MODE_NONE
        return 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    ux, uy, uz = ux - un * nx, uy - un * ny, uz - un * nz
    tx, ty, tz = turning(i, CI, CF, X)
    rx, ry, rz = ty * nz - tz * ny, tz * nx - tx * nz, tx * ny - ty * nx
    mu = law[DYNAMIC]
    grip = mu if CI[i, C_SLIPPING] == HITS else law[STATIC]
    bound = law[ROLLING] * jn * CF[i, REFF]
    slips = CI[i, C_SLIPPING] == SLIPS
    rolls = CI[i, C_ROLLING] == 1
    jx, jy, jz, qx, qy, qz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    mode = MODE_GRIP
    for attempt in range(4):
        free_slip = slips or attempt >= 2
        free_roll = rolls or attempt == 1 or attempt == 3 or bound == 0.0
        if free_roll:
            if rolls:  # its direction is kept as a rolling rate; here as n × that
                ox, oy, oz = CF[i, ROLL_DIR], CF[i, ROLL_DIR + 1], CF[i, ROLL_DIR + 2]
                dx, dy, dz = oy * nz - oz * ny, oz * nx - ox * nz, ox * ny - oy * nx
            else:
                # where it would roll if nothing resisted, friction at its limit of this mode
                if free_slip:
                    ex, ey, ez = _unit(ux, uy, uz)
                    fx, fy, fz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
                else:
                    fx, fy, fz = -ux / kt, -uy / kt, -uz / kt
                dx, dy, dz = _unit(rx - kx * fx, ry - kx * fy, rz - kx * fz)
            qx, qy, qz = -bound * dx, -bound * dy, -bound * dz
            if free_slip:
                if slips:
                    ex, ey, ez = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
                else:
                    ex, ey, ez = _unit(ux - kx * qx, uy - kx * qy, uz - kx * qz)
                jx, jy, jz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
            else:
                jx, jy, jz = -(ux - kx * qx) / kt, -(uy - kx * qy) / kt, -(uz - kx * qz) / kt
        elif free_slip:
            if slips:
                ex, ey, ez = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
            else:
                ex, ey, ez = _unit(ux, uy, uz)
            jx, jy, jz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
            qx, qy, qz = -(rx - kx * jx) / kr, -(ry - kx * jy) / kr, -(rz - kx * jz) / kr
        else:
            det = kt * kr - kx * kx
            if det <= 1e-14 * kt * kr:
                continue
            jx, jy, jz = -(kr * ux + kx * rx) / det, -(kr * uy + kx * ry) / det, -(kr * uz + kx * rz) / det
            qx, qy, qz = -(kx * ux + kt * rx) / det, -(kx * uy + kt * ry) / det, -(kx * uz + kt * rz) / det
        mode = MODE_SLIP if free_slip else MODE_GRIP
        good = True
        if not free_slip:
            good = sqrt(jx * jx + jy * jy + jz * jz) <= grip * jn * (1.0 + 1e-13)
        if good and not free_roll:
            good = sqrt(qx * qx + qy * qy + qz * qz) <= bound * (1.0 + 1e-13)
        if good:
            break
    CI[i, C_MODE] = mode
    sx, sy, sz = ny * qz - nz * qy, nz * qx - nx * qz, nx * qy - ny * qx
    if law[SPINNING] > 0.0:
        spin = ((X[a, 10] - X[b, 10]) * nx + (X[a, 11] - X[b, 11]) * ny + (X[a, 12] - X[b, 12]) * nz) / kr
        most = law[SPINNING] * jn * CF[i, REFF]
        spin = min(max(spin, -most), most)
        sx, sy, sz = sx - spin * nx, sy - spin * ny, sz - spin * nz
    return jn * nx + jx, jn * ny + jy, jn * nz + jz, sx, sy, sz


@kernel
def _is_round(i, CI, CF, P, Q):
    """Whether the closed form of one round contact holds."""
    p, a, b = CI[i, C_PAIR], CI[i, C_A], CI[i, C_B]
    if p == MOTOR:
        return False
    kind = Q[p, Q_KIND]
    if kind != ROUND_PLANE and (kind < ROUND_ROUND or kind == MANIFOLD):
        return False
    if CF[i, MIDDLE] != CF[i, NORMAL] or CF[i, MIDDLE + 1] != CF[i, NORMAL + 1] or CF[i, MIDDLE + 2] != CF[i, NORMAL + 2]:
        return False
    for side in range(2):
        q, o = (a, ARM_A) if side == 0 else (b, ARM_B)
        if P[q, INV_MASS] == 0.0:
            continue
        if P[q, BALL] == 0.0 or P[q, LOCK] != 0.0:
            return False
        d = CF[i, o] * CF[i, NORMAL] + CF[i, o + 1] * CF[i, NORMAL + 1] + CF[i, o + 2] * CF[i, NORMAL + 2]
        cx, cy, cz = CF[i, o] - d * CF[i, NORMAL], CF[i, o + 1] - d * CF[i, NORMAL + 1], CF[i, o + 2] - d * CF[i, NORMAL + 2]
        if cx * cx + cy * cy + cz * cz > 1e-18 * d * d:
            return False
    return True


@far(WHOLE, WHOLE, WHOLE, FLAG, REAL, REAL, REAL, REAL, REAL, REAL, REALS2, REALS2, WHOLES2, REALS2, REALS2, REALS2, REALS2)
def _row(r, i, angular, x, y, z, mx, my, mz, X, P, CI, CF, JR, MV, G):
    """Jacobian of row ``r`` along (x, y, z) at the end arms, and what a unit impulse along (mx, my, mz) does to both bodies."""
    for side in range(2):
        q = CI[i, C_A] if side == 0 else CI[i, C_B]
        end, arm, sign = (END_A, ARM_A, 1.0) if side == 0 else (END_B, ARM_B, -1.0)
        o = 6 * side
        if angular:
            jx, jy, jz = x, y, z
            tx, ty, tz = mx, my, mz
            JR[r, o], JR[r, o + 1], JR[r, o + 2] = 0.0, 0.0, 0.0
        else:
            ex, ey, ez = CF[i, end], CF[i, end + 1], CF[i, end + 2]
            jx, jy, jz = ey * z - ez * y, ez * x - ex * z, ex * y - ey * x
            rx, ry, rz = CF[i, arm], CF[i, arm + 1], CF[i, arm + 2]
            tx, ty, tz = ry * mz - rz * my, rz * mx - rx * mz, rx * my - ry * mx
            JR[r, o], JR[r, o + 1], JR[r, o + 2] = sign * x, sign * y, sign * z
        JR[r, o + 3], JR[r, o + 4], JR[r, o + 5] = sign * jx, sign * jy, sign * jz
        if P[q, INV_MASS] == 0.0 or (side == 1 and CI[i, C_PAIR] == MOTOR):
            for c in range(6):
                MV[r, o + c] = 0.0
            continue
        wx, wy, wz = inverse_inertia(q, X, P, sign * tx, sign * ty, sign * tz)
        fl, fa = G[q, 0], G[q, 1]
        push_x, push_y, push_z = (0.0, 0.0, 0.0) if angular else (sign * mx, sign * my, sign * mz)
        MV[r, o], MV[r, o + 1], MV[r, o + 2] = fl * P[q, IM] * push_x, fl * P[q, IM + 1] * push_y, fl * P[q, IM + 2] * push_z
        MV[r, o + 3], MV[r, o + 4], MV[r, o + 5] = fa * wx, fa * wy, fa * wz
    return 0


@far(WHOLE, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def _assemble(m, X, P, scene, ws):
    """Rows of all contacts: W, b without the impulses so far, the guess. Returns the number of rows."""
    Q, LW = wholes(scene, SC_Q), reals(scene, SC_LAW)
    CI, CF, G, W, V = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_G), reals(ws, WS_W), reals(ws, WS_V)
    RI, RF, JR, MV = wholes(ws, WS_RI), reals(ws, WS_RF), reals(ws, WS_JR), reals(ws, WS_MV)
    r = 0
    for i in range(m):
        CI[i, C_ROW] = r
        p = CI[i, C_PAIR]
        ux, uy, uz = relative(i, CI, CF, X)
        jx, jy, jz = CF[i, J], CF[i, J + 1], CF[i, J + 2]
        if p == MOTOR:
            for e in range(3):
                x, y, z = (1.0, 0.0, 0.0) if e == 0 else ((0.0, 1.0, 0.0) if e == 1 else (0.0, 0.0, 1.0))
                _row(r + e, i, False, x, y, z, x, y, z, X, P, CI, CF, JR, MV, G)
                RI[r + e, 0] = MORE_ROW
                V[0, r + e] = ux * x + uy * y + uz * z
                V[1, r + e] = jx * x + jy * y + jz * z
            RI[r, 0], RI[r, 1], RI[r, 2], RI[r, 3] = BOUNDED_ROW, r, 3, FREE
            RF[r, 0] = CF[i, TARGET]
            r += 3
            continue
        law = LW[Q[p, Q_LAW]]
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
        mx, my, mz = CF[i, MIDDLE], CF[i, MIDDLE + 1], CF[i, MIDDLE + 2]
        px, py, pz, qx, qy, qz = tangents(mx, my, mz)
        for e in range(3):
            x, y, z = (nx, ny, nz) if e == 0 else ((tx, ty, tz) if e == 1 else (sx, sy, sz))
            ox, oy, oz = (mx, my, mz) if e == 0 else ((px, py, pz) if e == 1 else (qx, qy, qz))
            _row(r + e, i, False, x, y, z, ox, oy, oz, X, P, CI, CF, JR, MV, G)
            V[0, r + e] = ux * x + uy * y + uz * z
            V[1, r + e] = jx * ox + jy * oy + jz * oz
        V[0, r] -= CF[i, TARGET]
        RI[r, 0], RI[r, 1], RI[r, 2], RI[r, 3] = NORMAL_ROW, r, 1, FREE
        RI[r + 1, 0], RI[r + 1, 1], RI[r + 1, 2], RI[r + 1, 3] = FRICTION_ROW, r, 2, CI[i, C_SLIPPING]
        RI[r + 2, 0] = MORE_ROW
        RF[r + 1, 0], RF[r + 1, 1] = law[DYNAMIC], law[STATIC]
        if CI[i, C_SLIPPING] == SLIPS:
            dx, dy, dz = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
            et, es = dx * tx + dy * ty + dz * tz, dx * sx + dy * sy + dz * sz
            size = sqrt(et * et + es * es)
            RF[r + 1, 2], RF[r + 1, 3] = et / size, es / size
        n = r
        r += 3
        kx, ky, kz = CF[i, K], CF[i, K + 1], CF[i, K + 2]
        ox, oy, oz = turning(i, CI, CF, X)
        if law[ROLLING] > 0.0 and CF[i, REFF] > 0.0:
            for e in range(2):
                x, y, z = (tx, ty, tz) if e == 0 else (sx, sy, sz)
                ax, ay, az = (px, py, pz) if e == 0 else (qx, qy, qz)
                _row(r + e, i, True, x, y, z, ax, ay, az, X, P, CI, CF, JR, MV, G)
                V[0, r + e] = ox * x + oy * y + oz * z
                V[1, r + e] = kx * ax + ky * ay + kz * az
                RF[r, 2 + e] = CF[i, ROLL_DIR] * x + CF[i, ROLL_DIR + 1] * y + CF[i, ROLL_DIR + 2] * z
            RI[r, 0], RI[r, 1], RI[r, 2], RI[r, 3] = ROLLING_ROW, n, 2, SLIPS if CI[i, C_ROLLING] == 1 else FREE
            RI[r + 1, 0] = MORE_ROW
            RF[r, 0], RF[r, 1] = law[ROLLING] * CF[i, REFF], law[ROLLING] * CF[i, REFF]
            r += 2
        if law[SPINNING] > 0.0 and CF[i, REFF] > 0.0:
            a, b = CI[i, C_A], CI[i, C_B]
            _row(r, i, True, nx, ny, nz, mx, my, mz, X, P, CI, CF, JR, MV, G)
            V[0, r] = (X[a, 10] - X[b, 10]) * nx + (X[a, 11] - X[b, 11]) * ny + (X[a, 12] - X[b, 12]) * nz
            V[1, r] = kx * mx + ky * my + kz * mz
            RI[r, 0], RI[r, 1], RI[r, 2], RI[r, 3] = SPINNING_ROW, n, 1, FREE
            RF[r, 0], RF[r, 1] = law[SPINNING] * CF[i, REFF], law[SPINNING] * CF[i, REFF]
            r += 1
    N = r
    for i in range(m):
        last = CI[i + 1, C_ROW] if i + 1 < m else N
        ia, ib = CI[i, C_A], (CI[i, C_B] if CI[i, C_PAIR] != MOTOR else -1)
        for k in range(m):
            end = CI[k + 1, C_ROW] if k + 1 < m else N
            ka, kb = CI[k, C_A], CI[k, C_B]
            for x in range(CI[i, C_ROW], last):
                for y in range(CI[k, C_ROW], end):
                    W[x, y] = 0.0
            for s in range(2):
                mine = ia if s == 0 else ib
                if mine < 0 or P[mine, INV_MASS] == 0.0:
                    continue
                for t in range(2):
                    if mine == (ka if t == 0 else kb):
                        for x in range(CI[i, C_ROW], last):
                            L = JR[x]
                            for y in range(CI[k, C_ROW], end):
                                R = MV[y]
                                o, q = 6 * s, 6 * t
                                W[x, y] += (L[o] * R[q] + L[o + 1] * R[q + 1] + L[o + 2] * R[q + 2] + L[o + 3] * R[q + 3]
                                            + L[o + 4] * R[q + 4] + L[o + 5] * R[q + 5])
    for x in range(N):
        if W[x, x] < 1e-300:  # nothing moves along this row (a locked axis): it asks for nothing
            W[x, x] = 1e-300
        for y in range(N):
            V[0, x] -= W[x, y] * V[1, y]
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
            V[0, x] = 0.0
            V[1, x] = 0.0


@far(REAL, WHOLE, REALS2, REALS2, WHOLES1, WHOLES1)
def solve_contacts(m, X, P, scene, ws):
    """Impulses of all rows that meet the law, into CF; ``X`` (which holds those so far) gets them.

    Returns how far the law is missed, as a share of the largest velocity.
    """
    Q, LW = wholes(scene, SC_Q), reals(scene, SC_LAW)
    CI, CF, G = wholes(ws, WS_CI), reals(ws, WS_CF), reals(ws, WS_G)
    if m == 1 and _is_round(0, CI, CF, P, Q):
        apply_contact(0, -1.0, CI, CF, X, P, G)
        jx, jy, jz, kx, ky, kz = _round_contact(0, CI, CF, X, P, LW[Q[CI[0, C_PAIR], Q_LAW]], G)
        CF[0, J], CF[0, J + 1], CF[0, J + 2] = jx, jy, jz
        CF[0, K], CF[0, K + 1], CF[0, K + 2] = kx, ky, kz
        apply_contact(0, 1.0, CI, CF, X, P, G)
        return 0.0
    W, A, V, RI, RF = reals(ws, WS_W), reals(ws, WS_A), reals(ws, WS_V), wholes(ws, WS_RI), reals(ws, WS_RF)
    N = _assemble(m, X, P, scene, ws)
    _tame_dead_rows(N, W, V, RI)
    error = solve_law(N, V, W, A, RI, RF)
    for i in range(m):
        apply_contact(i, -1.0, CI, CF, X, P, G)
        r = CI[i, C_ROW]
        end = CI[i + 1, C_ROW] if i + 1 < m else N
        for c in range(6):
            CF[i, J + c] = 0.0
        if CI[i, C_PAIR] == MOTOR:
            CF[i, J], CF[i, J + 1], CF[i, J + 2] = V[5, r], V[5, r + 1], V[5, r + 2]
            CI[i, C_MODE] = MODE_NONE
        else:
            nx, ny, nz = CF[i, MIDDLE], CF[i, MIDDLE + 1], CF[i, MIDDLE + 2]
            tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
            ln, lt, ls = V[5, r], V[5, r + 1], V[5, r + 2]
            mode, _, _ = block_mode(r + 1, 5, V, RI, RF)
            CI[i, C_MODE] = mode
            if mode != MODE_NONE:
                CF[i, J] = ln * nx + lt * tx + ls * sx
                CF[i, J + 1] = ln * ny + lt * ty + ls * sy
                CF[i, J + 2] = ln * nz + lt * tz + ls * sz
                q = r + 3
                if q < end and RI[q, 0] == ROLLING_ROW:
                    CF[i, K] += V[5, q] * tx + V[5, q + 1] * sx
                    CF[i, K + 1] += V[5, q] * ty + V[5, q + 1] * sy
                    CF[i, K + 2] += V[5, q] * tz + V[5, q + 1] * sz
                    q += 2
                if q < end:
                    CF[i, K] += V[5, q] * nx
                    CF[i, K + 1] += V[5, q] * ny
                    CF[i, K + 2] += V[5, q] * nz
        apply_contact(i, 1.0, CI, CF, X, P, G)
    return error
