"""Contact impulses: the local law of one contact, and sweeps over several.

Law
---
Normal: end speed >= target, impulse >= 0, one of them met with equality (Signorini; target is
-e times the approach speed in an impact, 0 in sustained contact). Tangential: Coulomb's round
cone, |J_t| <= μ J_n, sticking if the impulse that stops the slip lies inside, otherwise sliding
at the bound against the slip. Rolling: an angular impulse of at most c_rr J_n R_eff against the
relative rolling rate, holding it at zero where it can.

For two round bodies the tangential problem splits into one isotropic 2x2 problem for the slip u
and the rolling velocity ρ = (ω_a - ω_b) x n:

    Δu = k_t J - k_x K        Δρ = -k_x J + k_r K
    k_t = 1/m_a + 1/m_b + r_a²/I_a + r_b²/I_b,  k_r = 1/I_a + 1/I_b,  k_x = r_a/I_a - r_b/I_b

whose four modes (stick or slip, roll held or not) are tried in closed form. (Johnson, Contact
Mechanics, ch. 8; Moreau 1988; Acary and Brogliato, Numerical Methods for Nonsmooth Dynamical
Systems, 2008.) Corners of a box are solved in ``corners``.

Several contacts are swept (block Gauss-Seidel) until no impulse moves any more.
"""

from math import sqrt

from yapa.engine.kernels.flight import rotate
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    ARM_A,
    ARM_B,
    BOX_PLANE,
    C_A,
    C_B,
    C_MODE,
    C_PAIR,
    C_ROLLING,
    C_SLIPPING,
    DYNAMIC,
    END_A,
    END_B,
    EXTENT,
    INERTIA,
    INV_MASS,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    NORMAL,
    REFF,
    ROLL_DIR,
    ROLLING,
    SLIP_DIR,
    STATIC,
    TARGET,
    J,
    K,
)


@kernel
def inverse_inertia(b, X, P, lx, ly, lz):
    """World I⁻¹ applied to a vector, at the orientation in ``X``."""
    i1, i2, i3 = P[b, INERTIA], P[b, INERTIA + 1], P[b, INERTIA + 2]
    if i1 == i2 and i2 == i3:
        return lx / i1, ly / i1, lz / i1
    q0, q1, q2, q3 = X[b, 3], X[b, 4], X[b, 5], X[b, 6]
    bx, by, bz = rotate(q0, -q1, -q2, -q3, lx, ly, lz)
    return rotate(q0, q1, q2, q3, bx / i1, by / i2, bz / i3)


@kernel
def push(b, sign, jx, jy, jz, rx, ry, rz, mx, my, mz, X, P, G):
    """Give body ``b`` an impulse at an arm and an angular impulse; ``G`` scales for damping over a substep."""
    im = P[b, INV_MASS]
    if im == 0.0:
        return
    fl, fa = sign * G[b, 0], sign * G[b, 1]
    X[b, 7] += fl * im * jx
    X[b, 8] += fl * im * jy
    X[b, 9] += fl * im * jz
    tx, ty, tz = ry * jz - rz * jy + mx, rz * jx - rx * jz + my, rx * jy - ry * jx + mz
    ox, oy, oz = inverse_inertia(b, X, P, tx, ty, tz)
    X[b, 10] += fa * ox
    X[b, 11] += fa * oy
    X[b, 12] += fa * oz


@kernel
def apply_contact(i, sign, CI, CF, X, P, G):
    """Add (or with sign -1 take back) the impulses of contact ``i`` to the velocities in ``X``."""
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    jx, jy, jz = CF[i, J], CF[i, J + 1], CF[i, J + 2]
    kx, ky, kz = CF[i, K], CF[i, K + 1], CF[i, K + 2]
    mx, my, mz = ny * kz - nz * ky, nz * kx - nx * kz, nx * ky - ny * kx
    push(CI[i, C_A], sign, jx, jy, jz, CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2], mx, my, mz, X, P, G)
    push(CI[i, C_B], -sign, jx, jy, jz, CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2], mx, my, mz, X, P, G)


@kernel
def relative(i, CI, CF, X):
    """Velocity of a's contact point relative to b's, at the end-of-step arms."""
    a, b = CI[i, C_A], CI[i, C_B]
    ax, ay, az = CF[i, END_A], CF[i, END_A + 1], CF[i, END_A + 2]
    bx, by, bz = CF[i, END_B], CF[i, END_B + 1], CF[i, END_B + 2]
    return (
        X[a, 7] - X[b, 7] + X[a, 11] * az - X[a, 12] * ay - X[b, 11] * bz + X[b, 12] * by,
        X[a, 8] - X[b, 8] + X[a, 12] * ax - X[a, 10] * az - X[b, 12] * bx + X[b, 10] * bz,
        X[a, 9] - X[b, 9] + X[a, 10] * ay - X[a, 11] * ax - X[b, 10] * by + X[b, 11] * bx,
    )


@kernel
def rolling(i, CI, CF, X):
    """The relative rolling velocity per unit radius, (ω_a - ω_b) x n."""
    a, b = CI[i, C_A], CI[i, C_B]
    ox, oy, oz = X[a, 10] - X[b, 10], X[a, 11] - X[b, 11], X[a, 12] - X[b, 12]
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    return oy * nz - oz * ny, oz * nx - ox * nz, ox * ny - oy * nx


@kernel
def _unit(x, y, z):
    n = sqrt(x * x + y * y + z * z)
    if n < 1e-300:
        return 0.0, 0.0, 0.0, 0.0
    return x / n, y / n, z / n, n


@kernel
def _round_contact(i, CI, CF, X, P, pf, G):
    a, b, p = CI[i, C_A], CI[i, C_B], CI[i, C_PAIR]
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    ima, imb = P[a, INV_MASS], P[b, INV_MASS]
    ra = P[a, EXTENT]
    rb = CF[i, ARM_B] * nx + CF[i, ARM_B + 1] * ny + CF[i, ARM_B + 2] * nz
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
    rx, ry, rz = rolling(i, CI, CF, X)
    mu = pf[p, DYNAMIC]
    grip = mu if CI[i, C_SLIPPING] == 2 else pf[p, STATIC]
    bound = pf[p, ROLLING] * jn * pf[p, REFF]
    slips = CI[i, C_SLIPPING] == 1
    rolls = CI[i, C_ROLLING] == 1
    jx, jy, jz, qx, qy, qz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    mode = MODE_GRIP
    for attempt in range(4):
        free_slip = slips or attempt >= 2
        free_roll = rolls or attempt == 1 or attempt == 3 or bound == 0.0
        if free_roll:
            if rolls:
                dx, dy, dz = CF[i, ROLL_DIR], CF[i, ROLL_DIR + 1], CF[i, ROLL_DIR + 2]
            else:
                # where it would roll if nothing resisted, friction at its limit of this mode
                if free_slip:
                    ex, ey, ez, _ = _unit(ux, uy, uz)
                    fx, fy, fz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
                else:
                    fx, fy, fz = -ux / kt, -uy / kt, -uz / kt
                dx, dy, dz, _ = _unit(rx - kx * fx, ry - kx * fy, rz - kx * fz)
            qx, qy, qz = -bound * dx, -bound * dy, -bound * dz
            if free_slip:
                if slips:
                    ex, ey, ez = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
                else:
                    ex, ey, ez, _ = _unit(ux - kx * qx, uy - kx * qy, uz - kx * qz)
                jx, jy, jz = -mu * jn * ex, -mu * jn * ey, -mu * jn * ez
            else:
                jx, jy, jz = -(ux - kx * qx) / kt, -(uy - kx * qy) / kt, -(uz - kx * qz) / kt
        elif free_slip:
            if slips:
                ex, ey, ez = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
            else:
                ex, ey, ez, _ = _unit(ux, uy, uz)
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
    return jn * nx + jx, jn * ny + jy, jn * nz + jz, qx, qy, qz


@kernel
def response(i, k, CI, CF, X, P, G, jx, jy, jz):
    """Velocity change at contact ``i`` (end arms) from an impulse at contact ``k`` (its own arms); one body."""
    a = CI[i, C_A]
    ax, ay, az = CF[k, ARM_A], CF[k, ARM_A + 1], CF[k, ARM_A + 2]
    im, fl, fa = P[a, INV_MASS], G[a, 0], G[a, 1]
    ox, oy, oz = inverse_inertia(a, X, P, ay * jz - az * jy, az * jx - ax * jz, ax * jy - ay * jx)
    ex, ey, ez = CF[i, END_A], CF[i, END_A + 1], CF[i, END_A + 2]
    return (
        fl * im * jx + fa * (oy * ez - oz * ey),
        fl * im * jy + fa * (oz * ex - ox * ez),
        fl * im * jz + fa * (ox * ey - oy * ex),
    )


@kernel
def sweep_contacts(n, CI, CF, X, P, pi, pf, G, limit):
    """Sweep until no impulse moves by more than rounding. Returns the sweeps used.

    The velocities in ``X`` must already contain the impulses in ``CF``.
    """
    for sweep in range(limit):
        moved, size = 0.0, 0.0
        for i in range(n):
            if pi[CI[i, C_PAIR], 2] == BOX_PLANE:
                continue
            apply_contact(i, -1.0, CI, CF, X, P, G)
            ox, oy, oz = CF[i, J], CF[i, J + 1], CF[i, J + 2]
            px, py, pz = CF[i, K], CF[i, K + 1], CF[i, K + 2]
            jx, jy, jz, kx, ky, kz = _round_contact(i, CI, CF, X, P, pf, G)
            CF[i, J], CF[i, J + 1], CF[i, J + 2] = jx, jy, jz
            CF[i, K], CF[i, K + 1], CF[i, K + 2] = kx, ky, kz
            apply_contact(i, 1.0, CI, CF, X, P, G)
            moved = max(moved, abs(jx - ox) + abs(jy - oy) + abs(jz - oz) + abs(kx - px) + abs(ky - py) + abs(kz - pz))
            size = max(size, abs(jx) + abs(jy) + abs(jz))
        if n == 1 or moved <= 2e-15 * size:
            return sweep + 1
    return limit


@kernel
def kinetic_energy(n, X, P):
    """Of all moving bodies, at the velocities in ``X``."""
    total = 0.0
    for b in range(n):
        im = P[b, INV_MASS]
        if im > 0.0:
            total += (X[b, 7] ** 2 + X[b, 8] ** 2 + X[b, 9] ** 2) / im
            bx, by, bz = rotate(X[b, 3], -X[b, 4], -X[b, 5], -X[b, 6], X[b, 10], X[b, 11], X[b, 12])
            total += P[b, INERTIA] * bx * bx + P[b, INERTIA + 1] * by * by + P[b, INERTIA + 2] * bz * bz
    return 0.5 * total
