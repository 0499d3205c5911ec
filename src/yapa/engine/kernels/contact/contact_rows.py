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

from yapa.engine.kernels.contact.contact_solver import block_mode, solve_law
from yapa.engine.kernels.contact.pair_law import tangents
from yapa.engine.kernels.dynamics.flight import inverse_inertia, rotate
from yapa.engine.kernels.geometry.manifold import manifold_of
from yapa.engine.kernels.geometry.pairs.dispatch import frame, rolling_radius
from yapa.engine.kernels.geometry.pairs.traits import has_manifold, is_round, on_rim
from yapa.engine.kernels.geometry.placing import turned
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
    workspace_table,
)
from yapa.engine.kernels.layout.views import reals, wholes


@kernel
def relative(i, CI, CF, X):
    """Velocity of a's surface at the contact relative to b's, at the arms where the law is asked for."""
    a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    ax, ay, az = CF[i, contact.END_A], CF[i, contact.END_A + 1], CF[i, contact.END_A + 2]
    bx, by, bz = CF[i, contact.END_B], CF[i, contact.END_B + 1], CF[i, contact.END_B + 2]
    if CI[i, contact_int.PAIR] == limits.MOTOR:
        return (X[a, state.VX] - CF[i, contact.BELT], X[a, state.VY] - CF[i, contact.BELT + 1],
                X[a, state.VZ] - CF[i, contact.BELT + 2])
    return (
        X[a, state.VX] - X[b, state.VX] + X[a, state.WY] * az - X[a, state.WZ] * ay - X[b, state.WY] * bz + X[b, state.WZ] * by
        + CF[i, contact.BELT],
        X[a, state.VY] - X[b, state.VY] + X[a, state.WZ] * ax - X[a, state.WX] * az - X[b, state.WZ] * bx + X[b, state.WX] * bz
        + CF[i, contact.BELT + 1],
        X[a, state.VZ] - X[b, state.VZ] + X[a, state.WX] * ay - X[a, state.WY] * ax - X[b, state.WX] * by + X[b, state.WY] * bx
        + CF[i, contact.BELT + 2],
    )


@kernel
def slipping(i, CI, CF, X):
    """Normal speed of row ``i``, and its velocity along the contact."""
    ux, uy, uz = relative(i, CI, CF, X)
    nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
    un = ux * nx + uy * ny + uz * nz
    return un, ux - un * nx, uy - un * ny, uz - un * nz


@kernel
def write_row(i, p, f, gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws):
    """Fill contact row ``i``; no slip or rolling forced, no impulse yet."""
    geo, Q = scene, wholes(scene, scene_table.PAIRS)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    CI[i, contact_int.PAIR], CI[i, contact_int.FEATURE], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B] = p, f, a, b
    CI[i, contact_int.SLIPPING], CI[i, contact_int.ROLLING], CI[i, contact_int.MODE] = slip_state.FREE, 0, contact_mode.NONE
    CI[i, contact_int.SOME] = 0
    CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2] = nx, ny, nz
    CF[i, contact.ARM_A], CF[i, contact.ARM_A + 1], CF[i, contact.ARM_A + 2] = ax, ay, az
    CF[i, contact.ARM_B], CF[i, contact.ARM_B + 1], CF[i, contact.ARM_B + 2] = bx, by, bz
    for c in range(3):
        CF[i, contact.MIDDLE + c] = CF[i, contact.NORMAL + c]
        CF[i, contact.END_A + c] = CF[i, contact.ARM_A + c]
        CF[i, contact.END_B + c] = CF[i, contact.ARM_B + c]
        CF[i, contact.J + c] = 0.0
        CF[i, contact.K + c] = 0.0
        CF[i, contact.BELT + c] = 0.0
    GF = reals(geo, scene_table.SHAPES)
    sa, sb = Q[p, pair.SHAPE_A], Q[p, pair.SHAPE_B]
    for side in range(2):
        s, q, sign = (sa, a, 1.0) if side == 0 else (sb, b, -1.0)
        tx, ty, tz = GF[s, shape.BELT], GF[s, shape.BELT + 1], GF[s, shape.BELT + 2]
        if tx != 0.0 or ty != 0.0 or tz != 0.0:  # a surface that runs: only its part along the contact
            tx, ty, tz = turned(q, X, tx, ty, tz)
            d = tx * nx + ty * ny + tz * nz
            CF[i, contact.BELT] += sign * (tx - d * nx)
            CF[i, contact.BELT + 1] += sign * (ty - d * ny)
            CF[i, contact.BELT + 2] += sign * (tz - d * nz)
    CF[i, contact.GAP] = gap
    CF[i, contact.REFF] = rolling_radius(p, f, geo, Q)
    ux, uy, uz = relative(i, CI, CF, X)
    CF[i, contact.RATE] = nx * ux + ny * uy + nz * uz
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
            gap, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, geo, Q)
            if gap > margin or m >= room:
                continue
            write_row(m, p, f, gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws)
            if CF[m, contact.RATE] < fastest and CF[m, contact.RATE] > -still:
                m += 1
        return m
    M, a, b = reals(ws, workspace_table.MANIFOLD), Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    count, least = manifold_of(p, X, geo, Q, reals(ws, workspace_table.POLYGONS), M, margin, most)
    for k in range(count):
        if m >= room:
            break
        gap, nx, ny, nz = M[k, manifold.GAP], M[k, manifold.NX], M[k, manifold.NY], M[k, manifold.NZ]
        bx, by, bz = M[k, manifold.X] - X[b, state.X], M[k, manifold.Y] - X[b, state.Y], M[k, manifold.Z] - X[b, state.Z]
        ax, ay = M[k, manifold.X] + gap * nx - X[a, state.X], M[k, manifold.Y] + gap * ny - X[a, state.Y]
        az = M[k, manifold.Z] + gap * nz - X[a, state.Z]
        write_row(m, p, int(M[k, manifold.FEATURE]), gap, nx, ny, nz, ax, ay, az, bx, by, bz, X, scene, ws)
        CF[m, contact.BASE_A], CF[m, contact.BASE_A + 1], CF[m, contact.BASE_A + 2] = ax, ay, az
        CF[m, contact.BASE_B], CF[m, contact.BASE_B + 1], CF[m, contact.BASE_B + 2] = bx, by, bz
        CF[m, contact.BASE_N], CF[m, contact.BASE_N + 1], CF[m, contact.BASE_N + 2] = nx, ny, nz
        # the body whose face (or edge) gives the normal keeps it
        CF[m, contact.KEEPS] = 0.0 if M[k, manifold.FEATURE] < 5e8 and M[k, manifold.FEATURE] >= 1e6 else 1.0
        CI[m, contact_int.SOME] = int(M[k, manifold.SOME])
        if CF[m, contact.RATE] < fastest and CF[m, contact.RATE] > -still:
            m += 1
    return m


@kernel
def _carried(q, S, X, vx, vy, vz):
    """A vector that turns with body ``q`` from its state in ``S`` to that in ``X``."""
    x, y, z = rotate(S[q, state.QW], -S[q, state.QX], -S[q, state.QY], -S[q, state.QZ], vx, vy, vz)
    return rotate(X[q, state.QW], X[q, state.QX], X[q, state.QY], X[q, state.QZ], x, y, z)


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
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    p, a, b = CI[i, contact_int.PAIR], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if p == limits.MOTOR:
        return 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if not has_manifold(wholes(scene, scene_table.PAIRS)[p, pair.KIND]):
        f, Q = CI[i, contact_int.FEATURE], wholes(scene, scene_table.PAIRS)
        if on_rim(Q[p, pair.KIND]):
            f = _same_side(p, f, S, X, scene, Q)
        _, nx, ny, nz, ax, ay, az, bx, by, bz = frame(p, f, X, scene, Q)
        return nx, ny, nz, ax, ay, az, bx, by, bz
    keeper = a if CF[i, contact.KEEPS] == 0.0 else b
    nx, ny, nz = _carried(keeper, S, X, CF[i, contact.BASE_N], CF[i, contact.BASE_N + 1], CF[i, contact.BASE_N + 2])
    dx, dy, dz = X[a, state.X] - X[b, state.X], X[a, state.Y] - X[b, state.Y], X[a, state.Z] - X[b, state.Z]
    if keeper == b:  # the point belongs to a
        ax, ay, az = _carried(a, S, X, CF[i, contact.BASE_A], CF[i, contact.BASE_A + 1], CF[i, contact.BASE_A + 2])
        return nx, ny, nz, ax, ay, az, dx + ax, dy + ay, dz + az
    bx, by, bz = _carried(b, S, X, CF[i, contact.BASE_B], CF[i, contact.BASE_B + 1], CF[i, contact.BASE_B + 2])
    return nx, ny, nz, bx - dx, by - dy, bz - dz, bx, by, bz


@kernel
def turning(i, CI, CF, X):
    """Relative angular velocity along the contact: without its part about the normal."""
    a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    ox, oy, oz = X[a, state.WX] - X[b, state.WX], X[a, state.WY] - X[b, state.WY], X[a, state.WZ] - X[b, state.WZ]
    nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
    d = ox * nx + oy * ny + oz * nz
    return ox - d * nx, oy - d * ny, oz - d * nz


@kernel
def push(b, sign, jx, jy, jz, rx, ry, rz, kx, ky, kz, X, P, G):
    """Give body ``b`` an impulse at an arm and an angular impulse; ``G`` scales for damping over a substep."""
    if P[b, body.INV_MASS] == 0.0:
        return
    fl, fa = sign * G[b, scale.LINEAR], sign * G[b, scale.ANGULAR]
    X[b, state.VX] += fl * P[b, body.IM] * jx
    X[b, state.VY] += fl * P[b, body.IM + 1] * jy
    X[b, state.VZ] += fl * P[b, body.IM + 2] * jz
    ox, oy, oz = inverse_inertia(b, X, P, ry * jz - rz * jy + kx, rz * jx - rx * jz + ky, rx * jy - ry * jx + kz)
    X[b, state.WX] += fa * ox
    X[b, state.WY] += fa * oy
    X[b, state.WZ] += fa * oz


@far(WHOLE, WHOLE, REAL, WHOLES2, REALS2, REALS2, REALS2, REALS2)
def apply_contact(i, sign, CI, CF, X, P, G):
    """Add (or with sign -1 take back) the impulses of row ``i`` to the velocities in ``X``."""
    jx, jy, jz = CF[i, contact.J], CF[i, contact.J + 1], CF[i, contact.J + 2]
    kx, ky, kz = CF[i, contact.K], CF[i, contact.K + 1], CF[i, contact.K + 2]
    push(CI[i, contact_int.BODY_A], sign, jx, jy, jz, CF[i, contact.ARM_A], CF[i, contact.ARM_A + 1], CF[i, contact.ARM_A + 2], kx,
         ky, kz, X, P, G)
    if CI[i, contact_int.PAIR] != limits.MOTOR:
        push(CI[i, contact_int.BODY_B], -sign, jx, jy, jz, CF[i, contact.ARM_B], CF[i, contact.ARM_B + 1], CF[i, contact.ARM_B + 2],
             kx, ky, kz, X, P, G)
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
    a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
    ima, imb = P[a, body.INV_MASS], P[b, body.INV_MASS]
    ra = -(CF[i, contact.ARM_A] * nx + CF[i, contact.ARM_A + 1] * ny + CF[i, contact.ARM_A + 2] * nz)
    rb = CF[i, contact.ARM_B] * nx + CF[i, contact.ARM_B + 1] * ny + CF[i, contact.ARM_B + 2] * nz if imb > 0.0 else 0.0
    ia = G[a, scale.ANGULAR] / P[a, body.INERTIA] if ima > 0.0 else 0.0
    ib = G[b, scale.ANGULAR] / P[b, body.INERTIA] if imb > 0.0 else 0.0
    kn = G[a, scale.LINEAR] * ima + G[b, scale.LINEAR] * imb
    kt = kn + ra * ra * ia + rb * rb * ib
    kr = ia + ib
    kx = ra * ia - rb * ib
    ux, uy, uz = relative(i, CI, CF, X)
    un = ux * nx + uy * ny + uz * nz
    jn = (CF[i, contact.TARGET] - un) / kn
    if jn <= 0.0:
        CI[i, contact_int.MODE] = contact_mode.NONE
        return 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    ux, uy, uz = ux - un * nx, uy - un * ny, uz - un * nz
    tx, ty, tz = turning(i, CI, CF, X)
    rx, ry, rz = ty * nz - tz * ny, tz * nx - tx * nz, tx * ny - ty * nx
    mu = law[material.DYNAMIC]
    grip = mu if CI[i, contact_int.SLIPPING] == slip_state.HITS else law[material.STATIC]
    bound = law[material.ROLLING] * jn * CF[i, contact.REFF]
    slips = CI[i, contact_int.SLIPPING] == slip_state.SLIPS
    rolls = CI[i, contact_int.ROLLING] == 1
    jx, jy, jz, qx, qy, qz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    mode = contact_mode.GRIP
    for attempt in range(4):
        free_slip = slips or attempt >= 2
        free_roll = rolls or attempt == 1 or attempt == 3 or bound == 0.0
        if free_roll:
            if rolls:  # its direction is kept as a rolling rate; here as n × that
                ox, oy, oz = CF[i, contact.ROLL_DIR], CF[i, contact.ROLL_DIR + 1], CF[i, contact.ROLL_DIR + 2]
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
                    ex, ey, ez = CF[i, contact.SLIP_DIR], CF[i, contact.SLIP_DIR + 1], CF[i, contact.SLIP_DIR + 2]
                else:
                    ex, ey, ez = _unit(ux - kx * qx, uy - kx * qy, uz - kx * qz)
                jx, jy, jz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
            else:
                jx, jy, jz = -(ux - kx * qx) / kt, -(uy - kx * qy) / kt, -(uz - kx * qz) / kt
        elif free_slip:
            if slips:
                ex, ey, ez = CF[i, contact.SLIP_DIR], CF[i, contact.SLIP_DIR + 1], CF[i, contact.SLIP_DIR + 2]
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
        mode = contact_mode.SLIP if free_slip else contact_mode.GRIP
        good = True
        if not free_slip:
            good = sqrt(jx * jx + jy * jy + jz * jz) <= grip * jn * (1.0 + 1e-13)
        if good and not free_roll:
            good = sqrt(qx * qx + qy * qy + qz * qz) <= bound * (1.0 + 1e-13)
        if good:
            break
    CI[i, contact_int.MODE] = mode
    sx, sy, sz = ny * qz - nz * qy, nz * qx - nx * qz, nx * qy - ny * qx
    if law[material.SPINNING] > 0.0:
        spin = ((X[a, state.WX] - X[b, state.WX]) * nx + (X[a, state.WY] - X[b, state.WY]) * ny + (X[a, state.WZ] - X[b, state.WZ])
                * nz) / kr
        most = law[material.SPINNING] * jn * CF[i, contact.REFF]
        spin = min(max(spin, -most), most)
        sx, sy, sz = sx - spin * nx, sy - spin * ny, sz - spin * nz
    return jn * nx + jx, jn * ny + jy, jn * nz + jz, sx, sy, sz


@kernel
def _is_round(i, CI, CF, P, Q):
    """Whether the closed form of one round contact holds."""
    p, a, b = CI[i, contact_int.PAIR], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if p == limits.MOTOR:
        return False
    if not is_round(Q[p, pair.KIND]):
        return False
    if (CF[i, contact.MIDDLE] != CF[i, contact.NORMAL] or CF[i, contact.MIDDLE + 1] != CF[i, contact.NORMAL + 1]
        or CF[i, contact.MIDDLE + 2] != CF[i, contact.NORMAL + 2]):
        return False
    for side in range(2):
        q, o = (a, contact.ARM_A) if side == 0 else (b, contact.ARM_B)
        if P[q, body.INV_MASS] == 0.0:
            continue
        if P[q, body.BALL] == 0.0 or P[q, body.LOCK] != 0.0:
            return False
        d = CF[i, o] * CF[i, contact.NORMAL] + CF[i, o + 1] * CF[i, contact.NORMAL + 1] + CF[i, o + 2] * CF[i, contact.NORMAL + 2]
        cx, cy = CF[i, o] - d * CF[i, contact.NORMAL], CF[i, o + 1] - d * CF[i, contact.NORMAL + 1]
        cz = CF[i, o + 2] - d * CF[i, contact.NORMAL + 2]
        if cx * cx + cy * cy + cz * cz > 1e-18 * d * d:
            return False
    return True


@far(WHOLE, WHOLE, WHOLE, FLAG, REAL, REAL, REAL, REAL, REAL, REAL, REALS2, REALS2, WHOLES2, REALS2, REALS2, REALS2, REALS2)
def _row(r, i, angular, x, y, z, mx, my, mz, X, P, CI, CF, JR, MV, G):
    """Jacobian of row ``r`` along (x, y, z) at the end arms, and what a unit impulse along (mx, my, mz) does to both bodies."""
    for side in range(2):
        q = CI[i, contact_int.BODY_A] if side == 0 else CI[i, contact_int.BODY_B]
        end, arm, sign = (contact.END_A, contact.ARM_A, 1.0) if side == 0 else (contact.END_B, contact.ARM_B, -1.0)
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
        if P[q, body.INV_MASS] == 0.0 or (side == 1 and CI[i, contact_int.PAIR] == limits.MOTOR):
            for c in range(6):
                MV[r, o + c] = 0.0
            continue
        wx, wy, wz = inverse_inertia(q, X, P, sign * tx, sign * ty, sign * tz)
        fl, fa = G[q, scale.LINEAR], G[q, scale.ANGULAR]
        push_x, push_y, push_z = (0.0, 0.0, 0.0) if angular else (sign * mx, sign * my, sign * mz)
        MV[r, o], MV[r, o + 1] = fl * P[q, body.IM] * push_x, fl * P[q, body.IM + 1] * push_y
        MV[r, o + 2] = fl * P[q, body.IM + 2] * push_z
        MV[r, o + 3], MV[r, o + 4], MV[r, o + 5] = fa * wx, fa * wy, fa * wz
    return 0


@part
def _motor_rows(i, r, X, P, ws):
    """The three rows of a drive, along the axes, bounded together; the row after them."""
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    RI, RF, JR = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS), reals(ws, workspace_table.ARMS)
    V, MV = reals(ws, workspace_table.VECTORS), reals(ws, workspace_table.MOBILITY)
    ux, uy, uz = relative(i, CI, CF, X)
    jx, jy, jz = CF[i, contact.J], CF[i, contact.J + 1], CF[i, contact.J + 2]
    for e in range(3):
        x, y, z = (1.0, 0.0, 0.0) if e == 0 else ((0.0, 1.0, 0.0) if e == 1 else (0.0, 0.0, 1.0))
        _row(r + e, i, False, x, y, z, x, y, z, X, P, CI, CF, JR, MV, G)
        RI[r + e, row_int.KIND] = row_kind.MORE
        V[0, r + e] = ux * x + uy * y + uz * z
        V[1, r + e] = jx * x + jy * y + jz * z
    RI[r, row_int.KIND], RI[r, row_int.NORMAL_ROW], RI[r, row_int.SIZE] = row_kind.BOUNDED, r, 3
    RI[r, row_int.SLIPPING] = slip_state.FREE
    RF[r, row.DYNAMIC] = CF[i, contact.TARGET]
    return r + 3


@part
def _push_rows(i, r, law, X, P, ws):
    """The rows of a contact's normal and friction; the row after them."""
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    RI, RF, JR = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS), reals(ws, workspace_table.ARMS)
    V, MV = reals(ws, workspace_table.VECTORS), reals(ws, workspace_table.MOBILITY)
    ux, uy, uz = relative(i, CI, CF, X)
    jx, jy, jz = CF[i, contact.J], CF[i, contact.J + 1], CF[i, contact.J + 2]
    nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
    tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
    mx, my, mz = CF[i, contact.MIDDLE], CF[i, contact.MIDDLE + 1], CF[i, contact.MIDDLE + 2]
    px, py, pz, qx, qy, qz = tangents(mx, my, mz)
    for e in range(3):
        x, y, z = (nx, ny, nz) if e == 0 else ((tx, ty, tz) if e == 1 else (sx, sy, sz))
        ox, oy, oz = (mx, my, mz) if e == 0 else ((px, py, pz) if e == 1 else (qx, qy, qz))
        _row(r + e, i, False, x, y, z, ox, oy, oz, X, P, CI, CF, JR, MV, G)
        V[0, r + e] = ux * x + uy * y + uz * z
        V[1, r + e] = jx * ox + jy * oy + jz * oz
    V[0, r] -= CF[i, contact.TARGET]
    RI[r, row_int.KIND], RI[r, row_int.NORMAL_ROW], RI[r, row_int.SIZE] = row_kind.NORMAL, r, 1
    RI[r, row_int.SLIPPING] = slip_state.FREE
    RI[r + 1, row_int.KIND], RI[r + 1, row_int.NORMAL_ROW], RI[r + 1, row_int.SIZE] = row_kind.FRICTION, r, 2
    RI[r + 1, row_int.SLIPPING] = CI[i, contact_int.SLIPPING]
    RI[r + 2, row_int.KIND] = row_kind.MORE
    RF[r + 1, row.DYNAMIC], RF[r + 1, row.STATIC] = law[material.DYNAMIC], law[material.STATIC]
    if CI[i, contact_int.SLIPPING] == slip_state.SLIPS:
        dx, dy, dz = CF[i, contact.SLIP_DIR], CF[i, contact.SLIP_DIR + 1], CF[i, contact.SLIP_DIR + 2]
        et, es = dx * tx + dy * ty + dz * tz, dx * sx + dy * sy + dz * sz
        size = sqrt(et * et + es * es)
        RF[r + 1, row.GIVEN_X], RF[r + 1, row.GIVEN_Y] = et / size, es / size
    return r + 3


@part
def _turn_rows(i, r, law, X, P, ws):
    """The rows of what a contact does to rolling and to spinning, where it does anything; the row after them."""
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    RI, RF, JR = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS), reals(ws, workspace_table.ARMS)
    V, MV, n = reals(ws, workspace_table.VECTORS), reals(ws, workspace_table.MOBILITY), CI[i, contact_int.ROW]
    nx, ny, nz = CF[i, contact.NORMAL], CF[i, contact.NORMAL + 1], CF[i, contact.NORMAL + 2]
    tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
    mx, my, mz = CF[i, contact.MIDDLE], CF[i, contact.MIDDLE + 1], CF[i, contact.MIDDLE + 2]
    px, py, pz, qx, qy, qz = tangents(mx, my, mz)
    kx, ky, kz = CF[i, contact.K], CF[i, contact.K + 1], CF[i, contact.K + 2]
    ox, oy, oz = turning(i, CI, CF, X)
    if law[material.ROLLING] > 0.0 and CF[i, contact.REFF] > 0.0:
        for e in range(2):
            x, y, z = (tx, ty, tz) if e == 0 else (sx, sy, sz)
            ax, ay, az = (px, py, pz) if e == 0 else (qx, qy, qz)
            _row(r + e, i, True, x, y, z, ax, ay, az, X, P, CI, CF, JR, MV, G)
            V[0, r + e] = ox * x + oy * y + oz * z
            V[1, r + e] = kx * ax + ky * ay + kz * az
            RF[r, row.GIVEN + e] = (CF[i, contact.ROLL_DIR] * x + CF[i, contact.ROLL_DIR + 1] * y + CF[i, contact.ROLL_DIR + 2]
                                    * z)
        RI[r, row_int.KIND], RI[r, row_int.NORMAL_ROW], RI[r, row_int.SIZE] = row_kind.ROLLING, n, 2
        RI[r, row_int.SLIPPING] = slip_state.SLIPS if CI[i, contact_int.ROLLING] == 1 else slip_state.FREE
        RI[r + 1, row_int.KIND] = row_kind.MORE
        RF[r, row.DYNAMIC] = law[material.ROLLING] * CF[i, contact.REFF]
        RF[r, row.STATIC] = law[material.ROLLING] * CF[i, contact.REFF]
        r += 2
    if law[material.SPINNING] > 0.0 and CF[i, contact.REFF] > 0.0:
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        _row(r, i, True, nx, ny, nz, mx, my, mz, X, P, CI, CF, JR, MV, G)
        V[0, r] = ((X[a, state.WX] - X[b, state.WX]) * nx + (X[a, state.WY] - X[b, state.WY]) * ny
                   + (X[a, state.WZ] - X[b, state.WZ]) * nz)
        V[1, r] = kx * mx + ky * my + kz * mz
        RI[r, row_int.KIND], RI[r, row_int.NORMAL_ROW], RI[r, row_int.SIZE] = row_kind.SPINNING, n, 1
        RI[r, row_int.SLIPPING] = slip_state.FREE
        RF[r, row.DYNAMIC] = law[material.SPINNING] * CF[i, contact.REFF]
        RF[r, row.STATIC] = law[material.SPINNING] * CF[i, contact.REFF]
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
    Q, LW = wholes(scene, scene_table.PAIRS), reals(scene, scene_table.MATERIALS)
    CI, CF, G = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS), reals(ws, workspace_table.SCALES)
    if m == 1 and _is_round(0, CI, CF, P, Q):
        apply_contact(0, -1.0, CI, CF, X, P, G)
        jx, jy, jz, kx, ky, kz = _round_contact(0, CI, CF, X, P, LW[Q[CI[0, contact_int.PAIR], pair.MATERIAL]], G)
        CF[0, contact.J], CF[0, contact.J + 1], CF[0, contact.J + 2] = jx, jy, jz
        CF[0, contact.K], CF[0, contact.K + 1], CF[0, contact.K + 2] = kx, ky, kz
        apply_contact(0, 1.0, CI, CF, X, P, G)
        return 0.0
    W, A, V = reals(ws, workspace_table.MATRIX), reals(ws, workspace_table.FACTORS), reals(ws, workspace_table.VECTORS)
    RI, RF = wholes(ws, workspace_table.ROWS_INT), reals(ws, workspace_table.ROWS)
    N = _assemble(m, X, P, scene, ws)
    _tame_dead_rows(N, W, V, RI)
    error = solve_law(N, V, W, A, RI, RF)
    for i in range(m):
        apply_contact(i, -1.0, CI, CF, X, P, G)
        r = CI[i, contact_int.ROW]
        end = CI[i + 1, contact_int.ROW] if i + 1 < m else N
        for c in range(6):
            CF[i, contact.J + c] = 0.0
        if CI[i, contact_int.PAIR] == limits.MOTOR:
            CF[i, contact.J], CF[i, contact.J + 1], CF[i, contact.J + 2] = V[5, r], V[5, r + 1], V[5, r + 2]
            CI[i, contact_int.MODE] = contact_mode.NONE
        else:
            nx, ny, nz = CF[i, contact.MIDDLE], CF[i, contact.MIDDLE + 1], CF[i, contact.MIDDLE + 2]
            tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
            ln, lt, ls = V[5, r], V[5, r + 1], V[5, r + 2]
            mode, _, _ = block_mode(r + 1, 5, V, RI, RF)
            CI[i, contact_int.MODE] = mode
            if mode != contact_mode.NONE:
                CF[i, contact.J] = ln * nx + lt * tx + ls * sx
                CF[i, contact.J + 1] = ln * ny + lt * ty + ls * sy
                CF[i, contact.J + 2] = ln * nz + lt * tz + ls * sz
                q = r + 3
                if q < end and RI[q, row_int.KIND] == row_kind.ROLLING:
                    CF[i, contact.K] += V[5, q] * tx + V[5, q + 1] * sx
                    CF[i, contact.K + 1] += V[5, q] * ty + V[5, q + 1] * sy
                    CF[i, contact.K + 2] += V[5, q] * tz + V[5, q + 1] * sz
                    q += 2
                if q < end:
                    CF[i, contact.K] += V[5, q] * nx
                    CF[i, contact.K + 1] += V[5, q] * ny
                    CF[i, contact.K + 2] += V[5, q] * nz
        apply_contact(i, 1.0, CI, CF, X, P, G)
    return error
