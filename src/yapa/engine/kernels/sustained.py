"""Sustained contact over a substep: constant forces that meet the contact law at its end.

The unknowns are the impulses of the substep, applied as constant forces at the arms of its
middle; the law is asked for at the arms of its end. For a sphere on a plane both coincide with
the start and one pass is exact. Otherwise passes repeat until the held normal speeds vanish
(second order in the substep).

A contact that slips at the start slips over the whole substep; where its slip (or its rolling)
comes to zero inside, the substep is cut there, so the next one may grip or hold.
"""

from math import sqrt

from yapa.engine.kernels.corners import solve_contacts
from yapa.engine.kernels.flight import advance_place, decay_factors, place_at, turn_at
from yapa.engine.kernels.gaps import frame, gap_and_rate
from yapa.engine.kernels.impacts import add_contact
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    ANG_DAMP,
    ARM_A,
    ARM_B,
    C_A,
    C_B,
    C_FEATURE,
    C_MODE,
    C_PAIR,
    C_ROLLING,
    C_SLIPPING,
    END_A,
    END_B,
    FORCE,
    INV_MASS,
    LIN_DAMP,
    MODE_NONE,
    NO_SLIP,
    NORMAL,
    RATE,
    ROLL0,
    ROLL1,
    ROLL_DIR,
    ROLLING,
    SLIP0,
    SLIP1,
    SLIP_DIR,
    STILL,
    TORQUE,
    TOUCH,
    J,
    K,
)
from yapa.engine.kernels.solve import relative, rolling


@kernel
def gather(S, P, pi, pf, CI, CF, H):
    """Rows of all pairs that touch and neither part nor strike. ``H`` holds the forces of the last substep, a guess."""
    m = 0
    for p in range(pi.shape[0]):
        for f in range(pi[p, 3]):
            gap = add_contact(m, p, f, pi, CI, CF, S, P)
            if gap > TOUCH or abs(CF[m, RATE]) > STILL:
                continue
            for c in range(6):
                CF[m, J + c] = H[8 * p + f, c]
            ux, uy, uz = relative(m, CI, CF, S)
            nx, ny, nz = CF[m, NORMAL], CF[m, NORMAL + 1], CF[m, NORMAL + 2]
            un = ux * nx + uy * ny + uz * nz
            ux, uy, uz = ux - un * nx, uy - un * ny, uz - un * nz
            u = sqrt(ux * ux + uy * uy + uz * uz)
            CF[m, SLIP0] = u
            if u > NO_SLIP:
                CI[m, C_SLIPPING] = 1
                CF[m, SLIP_DIR], CF[m, SLIP_DIR + 1], CF[m, SLIP_DIR + 2] = ux / u, uy / u, uz / u
            CF[m, ROLL0] = 0.0
            if pf[p, ROLLING] > 0.0:
                rx, ry, rz = rolling(m, CI, CF, S)
                r = sqrt(rx * rx + ry * ry + rz * rz)
                CF[m, ROLL0] = r
                if r > 1e-7:
                    CI[m, C_ROLLING] = 1
                    CF[m, ROLL_DIR], CF[m, ROLL_DIR + 1], CF[m, ROLL_DIR + 2] = rx / r, ry / r, rz / r
            m += 1
            if m >= CI.shape[0] - 1:
                return m
    return m


@kernel
def _load_forces(m, n, h, CI, CF, D):
    """Contact impulses as constant forces and torques over the substep."""
    for q in range(n):
        for c in range(6):
            D[q, FORCE + c] = 0.0
    for i in range(m):
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        jx, jy, jz = CF[i, J] / h, CF[i, J + 1] / h, CF[i, J + 2] / h
        kx, ky, kz = CF[i, K] / h, CF[i, K + 1] / h, CF[i, K + 2] / h
        mx, my, mz = ny * kz - nz * ky, nz * kx - nx * kz, nx * ky - ny * kx
        for side in range(2):
            q = CI[i, C_A] if side == 0 else CI[i, C_B]
            o = ARM_A if side == 0 else ARM_B
            sign = 1.0 if side == 0 else -1.0
            rx, ry, rz = CF[i, o], CF[i, o + 1], CF[i, o + 2]
            D[q, FORCE] += sign * jx
            D[q, FORCE + 1] += sign * jy
            D[q, FORCE + 2] += sign * jz
            D[q, TORQUE] += sign * (ry * jz - rz * jy + mx)
            D[q, TORQUE + 1] += sign * (rz * jx - rx * jz + my)
            D[q, TORQUE + 2] += sign * (rx * jy - ry * jx + mz)


@kernel
def advance_all(n, h, S, P, D, E, cfg):
    """Every moving body over the substep, under the forces in ``D``."""
    for b in range(n):
        if P[b, INV_MASS] > 0.0:
            advance_place(b, h, S, P, D, E, cfg)
            turn_at(b, h, S, P, D, E)


@kernel
def hold(m, n, h, passes, S, P, pi, pf, CI, CF, D, E, X, G, N, which, cfg):
    """Solve the contacts over a substep ``h`` and advance to its end.

    On entry the impulses in ``CF`` are a guess; on return they are the solution, ``E`` holds the
    end states and ``D`` the dense output. The end velocities of a pass already contain the guess,
    so the sweep only moves impulses where the law is not yet met.
    """
    for b in range(n):
        _, fl, _ = decay_factors(P[b, LIN_DAMP], h)
        _, fa, _ = decay_factors(P[b, ANG_DAMP], h)
        G[b, 0], G[b, 1] = fl / h, fa / h
    for k in range(passes):
        if k > 0:
            _middle_and_end(m, n, h, S, P, pi, CI, CF, D, E, X)
        _load_forces(m, n, h, CI, CF, D)
        advance_all(n, h, S, P, D, E, cfg)
        solve_contacts(m, CI, CF, E, P, pi, pf, G, N, which)
        _load_forces(m, n, h, CI, CF, D)
        advance_all(n, h, S, P, D, E, cfg)
        if _normal_error(m, pi, P, CI, E) < 0.01 * STILL:
            break
    for i in range(m):
        ux, uy, uz = relative(i, CI, CF, E)
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        un = ux * nx + uy * ny + uz * nz
        if CI[i, C_SLIPPING] == 1:
            CF[i, SLIP1] = ux * CF[i, SLIP_DIR] + uy * CF[i, SLIP_DIR + 1] + uz * CF[i, SLIP_DIR + 2]
        else:
            CF[i, SLIP1] = sqrt((ux - un * nx) ** 2 + (uy - un * ny) ** 2 + (uz - un * nz) ** 2)
        CF[i, ROLL1] = CF[i, ROLL0]
        if CI[i, C_ROLLING] == 1:
            rx, ry, rz = rolling(i, CI, CF, E)
            CF[i, ROLL1] = rx * CF[i, ROLL_DIR] + ry * CF[i, ROLL_DIR + 1] + rz * CF[i, ROLL_DIR + 2]


@kernel
def _normal_error(m, pi, P, CI, E):
    """Largest normal speed left at the end in a contact that is held."""
    worst = 0.0
    for i in range(m):
        if CI[i, C_MODE] != MODE_NONE:
            kind = pi[CI[i, C_PAIR], 2]
            _, rate = gap_and_rate(kind, CI[i, C_A], CI[i, C_B], CI[i, C_FEATURE], E, P)
            worst = max(worst, abs(rate))
    return worst


@kernel
def _middle_and_end(m, n, h, S, P, pi, CI, CF, D, E, X):
    """Arms of the middle, arms and normals of the end, as the last pass predicts them."""
    for b in range(n):
        if P[b, INV_MASS] > 0.0:
            place_at(b, 0.5 * h, D, X)
            turn_at(b, 0.5 * h, S, P, D, X)
    for i in range(m):
        kind, a, b, f = pi[CI[i, C_PAIR], 2], CI[i, C_A], CI[i, C_B], CI[i, C_FEATURE]
        _, nx, ny, nz, ax, ay, az, bx, by, bz = frame(kind, a, b, f, X, P)
        CF[i, ARM_A], CF[i, ARM_A + 1], CF[i, ARM_A + 2] = ax, ay, az
        CF[i, ARM_B], CF[i, ARM_B + 1], CF[i, ARM_B + 2] = bx, by, bz
        _, nx, ny, nz, ax, ay, az, bx, by, bz = frame(kind, a, b, f, E, P)
        CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2] = nx, ny, nz
        CF[i, END_A], CF[i, END_A + 1], CF[i, END_A + 2] = ax, ay, az
        CF[i, END_B], CF[i, END_B + 1], CF[i, END_B + 2] = bx, by, bz


@kernel
def crossing(m, h, CI, CF):
    """The earliest time in the substep at which slip or rolling of a contact comes to zero, or h."""
    first = h
    for i in range(m):
        if CI[i, C_MODE] == MODE_NONE:
            continue
        if CI[i, C_SLIPPING] == 1 and CF[i, SLIP1] < -1e-13:
            first = min(first, h * CF[i, SLIP0] / (CF[i, SLIP0] - CF[i, SLIP1]))
        if CI[i, C_ROLLING] == 1 and CF[i, ROLL1] < -1e-12:
            first = min(first, h * CF[i, ROLL0] / (CF[i, ROLL0] - CF[i, ROLL1]))
    return first


@kernel
def rescale(m, factor, CI, CF):
    """Impulses of a guess for a substep of another length."""
    for i in range(m):
        for c in range(6):
            CF[i, J + c] *= factor


@kernel
def settle(m, S, P, pi, CI, CF):
    """Take out the rounding and third-order drift of held gaps: shift along the normal, no energy made."""
    for i in range(m):
        if CI[i, C_MODE] == MODE_NONE:
            continue
        p = CI[i, C_PAIR]
        low = 1.0
        for k in range(m):
            if CI[k, C_PAIR] == p and CI[k, C_MODE] != MODE_NONE:
                gap, nx, ny, nz, _, _, _, _, _, _ = frame(pi[p, 2], CI[k, C_A], CI[k, C_B], CI[k, C_FEATURE], S, P)
                low = min(low, gap)
        if abs(low) < 1e-5:
            a, b = CI[i, C_A], CI[i, C_B]
            share = P[a, INV_MASS] / (P[a, INV_MASS] + P[b, INV_MASS])
            _, nx, ny, nz, _, _, _, _, _, _ = frame(pi[p, 2], a, b, CI[i, C_FEATURE], S, P)
            S[a, 0] -= share * low * nx
            S[a, 1] -= share * low * ny
            S[a, 2] -= share * low * nz
            S[b, 0] += (1.0 - share) * low * nx
            S[b, 1] += (1.0 - share) * low * ny
            S[b, 2] += (1.0 - share) * low * nz


@kernel
def part_at_start(S, P, pi):
    """Move bodies that overlap at the start apart along the normal. Returns the deepest overlap."""
    deepest = 0.0
    for _ in range(4):
        for p in range(pi.shape[0]):
            a, b = pi[p, 0], pi[p, 1]
            for f in range(pi[p, 3]):
                gap, nx, ny, nz, _, _, _, _, _, _ = frame(pi[p, 2], a, b, f, S, P)
                if gap < -TOUCH:
                    deepest = max(deepest, -gap)
                    share = P[a, INV_MASS] / (P[a, INV_MASS] + P[b, INV_MASS])
                    S[a, 0] -= share * gap * nx
                    S[a, 1] -= share * gap * ny
                    S[a, 2] -= share * gap * nz
                    S[b, 0] += (1.0 - share) * gap * nx
                    S[b, 1] += (1.0 - share) * gap * ny
                    S[b, 2] += (1.0 - share) * gap * nz
    return deepest
