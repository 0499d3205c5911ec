"""All corner contacts of one box at once, by a semismooth Newton method.

Unknown are the impulses λ of m contacts, each in its own frame (normal, two tangents), with
contact velocities u = W λ + b (b: velocities without the impulses, targets taken off). The law is
Alart and Curnier's (Comput. Methods Appl. Mech. Eng. 92, 1991): with s = λ - u/d, d the diagonal,

    open   s_n <= 0           λ = 0
    stick  |s_t| <= μ_s λ_n   u = 0
    slip   otherwise          u_n = 0,  λ_t = μ_d λ_n s_t / |s_t|

A flat box has more contacts than it needs, so W is singular; W + ε D with ε = 1e-9 is solved, and
proximal steps (b - ε D λ_before) take the error of ε out again, keeping the even spread of force.
"""

from math import sqrt

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    BOX_PLANE,
    C_A,
    C_MODE,
    C_PAIR,
    C_SLIPPING,
    DYNAMIC,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    NORMAL,
    SLIP_DIR,
    STATIC,
    TARGET,
    J,
)
from yapa.engine.kernels.solve import apply_contact, relative, response, sweep_contacts

EPSILON = 1e-9


@kernel
def tangents(nx, ny, nz):
    """Two unit vectors that make a right-handed frame with the normal."""
    if abs(nx) < 0.6:
        tx, ty, tz = 1.0 - nx * nx, -nx * ny, -nx * nz
    else:
        tx, ty, tz = -ny * nx, 1.0 - ny * ny, -ny * nz
    n = 1.0 / sqrt(tx * tx + ty * ty + tz * tz)
    tx, ty, tz = tx * n, ty * n, tz * n
    return tx, ty, tz, ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx


@kernel
def _lu_solve(n, A, x):
    """Solve A x = x in place by Gaussian elimination with partial pivoting; 0 if singular."""
    for k in range(n):
        best, row = 0.0, k
        for i in range(k, n):
            if abs(A[i, k]) > best:
                best, row = abs(A[i, k]), i
        if best < 1e-300:
            return 0
        if row != k:
            for j in range(k, n):
                A[k, j], A[row, j] = A[row, j], A[k, j]
            x[k], x[row] = x[row], x[k]
        inv = 1.0 / A[k, k]
        for i in range(k + 1, n):
            f = A[i, k] * inv
            if f != 0.0:
                for j in range(k + 1, n):
                    A[i, j] -= f * A[k, j]
                x[i] -= f * x[k]
    for k in range(n - 1, -1, -1):
        total = x[k]
        for j in range(k + 1, n):
            total -= A[k, j] * x[j]
        x[k] = total / A[k, k]
    return 1


@kernel
def _frames(m, which, CI, CF, X, P, G, W, V):
    """Fill W (rows and columns in contact frames) and b (``V[0]``, impulses taken out)."""
    for r in range(m):
        i = which[r]
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
        ux, uy, uz = relative(i, CI, CF, X)
        V[0, 3 * r] = ux * nx + uy * ny + uz * nz - CF[i, TARGET]
        V[0, 3 * r + 1] = ux * tx + uy * ty + uz * tz
        V[0, 3 * r + 2] = ux * sx + uy * sy + uz * sz
        jx, jy, jz = CF[i, J], CF[i, J + 1], CF[i, J + 2]
        V[1, 3 * r] = jx * nx + jy * ny + jz * nz
        V[1, 3 * r + 1] = jx * tx + jy * ty + jz * tz
        V[1, 3 * r + 2] = jx * sx + jy * sy + jz * sz
        for c in range(m):
            k = which[c]
            mx, my, mz = CF[k, NORMAL], CF[k, NORMAL + 1], CF[k, NORMAL + 2]
            ax, ay, az, bx, by, bz = tangents(mx, my, mz)
            for e in range(3):
                dx = mx if e == 0 else (ax if e == 1 else bx)
                dy = my if e == 0 else (ay if e == 1 else by)
                dz = mz if e == 0 else (az if e == 1 else bz)
                wx, wy, wz = response(i, k, CI, CF, X, P, G, dx, dy, dz)
                W[3 * r, 3 * c + e] = wx * nx + wy * ny + wz * nz
                W[3 * r + 1, 3 * c + e] = wx * tx + wy * ty + wz * tz
                W[3 * r + 2, 3 * c + e] = wx * sx + wy * sy + wz * sz


@kernel
def _mode(r, i, lam, V, W, CI, mu, grip):
    """Open, stick or slip, with s_t and its length."""
    dn, dt = W[3 * r, 3 * r], 0.5 * (W[3 * r + 1, 3 * r + 1] + W[3 * r + 2, 3 * r + 2])
    sn = V[lam, 3 * r] - V[4, 3 * r] / dn
    st, ss = V[lam, 3 * r + 1] - V[4, 3 * r + 1] / dt, V[lam, 3 * r + 2] - V[4, 3 * r + 2] / dt
    size = sqrt(st * st + ss * ss)
    if sn <= 0.0:
        return MODE_NONE, dn, dt, st, ss, size
    if CI[i, C_SLIPPING] == 1:
        return MODE_SLIP, dn, dt, st, ss, size
    bound = mu if CI[i, C_SLIPPING] == 2 else grip
    if size <= bound * max(V[lam, 3 * r], 0.0) or size == 0.0:
        return MODE_GRIP, dn, dt, st, ss, size
    return MODE_SLIP, dn, dt, st, ss, size


@kernel
def _direction(i, r, CI, CF, st, ss, size):
    """Unit tangent of the friction impulse of a slipping contact, in its frame."""
    if CI[i, C_SLIPPING] != 1:
        return st / size, ss / size
    nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
    tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
    dx, dy, dz = CF[i, SLIP_DIR], CF[i, SLIP_DIR + 1], CF[i, SLIP_DIR + 2]
    et, es = -(dx * tx + dy * ty + dz * tz), -(dx * sx + dy * sy + dz * sz)
    n = sqrt(et * et + es * es)
    return et / n, es / n


@kernel
def _velocities(m, lam, V, W, shift):
    """u = (W + εD) λ + b - εD λ_before into row 4 (shift 1), or u = W λ + b (shift 0)."""
    for a in range(3 * m):
        total = V[0, a]
        for c in range(3 * m):
            total += W[a, c] * V[lam, c]
        r = a // 3
        d = (W[3 * r, 3 * r] + W[3 * r + 1, 3 * r + 1] + W[3 * r + 2, 3 * r + 2]) / 3.0
        V[4, a] = total + shift * EPSILON * d * (V[lam, a] - V[3, a])


@kernel
def _error(m, which, lam, CI, CF, V, W, pf):
    """How far λ is from the law, in m/s; row 4 holds the velocities."""
    worst = 0.0
    for r in range(m):
        i = which[r]
        p = CI[i, C_PAIR]
        mode, dn, dt, st, ss, size = _mode(r, i, lam, V, W, CI, pf[p, DYNAMIC], pf[p, STATIC])
        ln, lt, ls = V[lam, 3 * r], V[lam, 3 * r + 1], V[lam, 3 * r + 2]
        if mode == MODE_NONE:
            e = max(abs(ln) * dn, max(abs(lt), abs(ls)) * dt)
        else:
            e = abs(V[4, 3 * r])
            if mode == MODE_GRIP:
                e = max(e, max(abs(V[4, 3 * r + 1]), abs(V[4, 3 * r + 2])))
            else:
                et, es = _direction(i, r, CI, CF, st, ss, size)
                f = pf[p, DYNAMIC] * ln
                e = max(e, max(abs(lt - f * et), abs(ls - f * es)) * dt)
        worst = max(worst, e)
    return worst


@kernel
def _newton_step(m, which, CI, CF, V, W, A, pf):
    """One step from λ in row 1 (velocities in row 4) into row 2; 0 if the matrix is singular."""
    size3 = 3 * m
    for r in range(m):
        i = which[r]
        p = CI[i, C_PAIR]
        mu = pf[p, DYNAMIC]
        mode, dn, dt, st, ss, size = _mode(r, i, 1, V, W, CI, mu, pf[p, STATIC])
        d = (W[3 * r, 3 * r] + W[3 * r + 1, 3 * r + 1] + W[3 * r + 2, 3 * r + 2]) / 3.0
        for e in range(3):
            a = 3 * r + e
            if mode == MODE_NONE:
                for c in range(size3):
                    A[a, c] = 0.0
                A[a, a] = d
                V[2, a] = -d * V[1, a]
            else:
                for c in range(size3):
                    A[a, c] = W[a, c]
                A[a, a] += EPSILON * d
                V[2, a] = -V[4, a]
        if mode == MODE_SLIP:
            et, es = _direction(i, r, CI, CF, st, ss, size)
            ln, lt, ls = V[1, 3 * r], V[1, 3 * r + 1], V[1, 3 * r + 2]
            k = 0.0 if CI[i, C_SLIPPING] == 1 else min(mu * max(ln, 0.0) / size, 1.0)
            # d(λ_t - μ λ_n ŝ) = dλ_t - μ ŝ dλ_n - k (I - ŝŝ')(dλ_t - W_t dλ / d_t), all times d_t
            mtt, mts, mss = k * (1.0 - et * et), -k * et * es, k * (1.0 - es * es)
            for c in range(size3):
                wt, ws = W[3 * r + 1, c], W[3 * r + 2, c]
                A[3 * r + 1, c] = mtt * wt + mts * ws
                A[3 * r + 2, c] = mts * wt + mss * ws
            A[3 * r + 1, 3 * r + 1] += dt * (1.0 - mtt)
            A[3 * r + 1, 3 * r + 2] -= dt * mts
            A[3 * r + 2, 3 * r + 2] += dt * (1.0 - mss)
            A[3 * r + 2, 3 * r + 1] -= dt * mts
            A[3 * r + 1, 3 * r] -= dt * mu * et
            A[3 * r + 2, 3 * r] -= dt * mu * es
            V[2, 3 * r + 1] = -dt * (lt - mu * ln * et)
            V[2, 3 * r + 2] = -dt * (ls - mu * ln * es)
    if _lu_solve(size3, A, V[2]) == 0:
        return 0
    for a in range(size3):
        V[2, a] += V[1, a]
    return 1


@kernel
def solve_corners(m, which, CI, CF, X, P, pi, pf, G, N):
    """Solve contacts ``which[:m]``, all of one box; impulses into ``CF``, velocities into ``X``.

    ``N`` is scratch of shape (3, 72, 72); returns how far the law is missed [m/s].
    """
    W, A, V = N[0], N[1], N[2]
    _frames(m, which, CI, CF, X, P, G, W, V)
    size = 3 * m
    scale = 1e-30
    for a in range(size):
        for c in range(size):
            V[0, a] -= W[a, c] * V[1, c]
        scale = max(scale, abs(V[0, a]))
    for a in range(size):
        V[3, a], V[5, a] = V[1, a], V[1, a]
    best = 1e300
    for refine in range(10):
        inner = 1e300
        for it in range(14):
            _velocities(m, 1, V, W, 1.0)
            e = _error(m, which, 1, CI, CF, V, W, pf)
            if e < inner:
                inner = e
                for a in range(size):
                    V[6, a] = V[1, a]
            if e <= 1e-14 * scale or _newton_step(m, which, CI, CF, V, W, A, pf) == 0:
                break
            share = 1.0 if it < 10 else 0.5
            for a in range(size):
                V[1, a] += share * (V[2, a] - V[1, a])
        for a in range(size):
            V[1, a] = V[6, a]
        _velocities(m, 1, V, W, 0.0)
        e = _error(m, which, 1, CI, CF, V, W, pf)
        if e < best:
            best = e
            for a in range(size):
                V[5, a] = V[1, a]
        elif refine > 2:
            break
        if best <= 2e-14 * scale:
            break
        for a in range(size):
            V[3, a] = V[1, a]
    for r in range(m):
        apply_contact(which[r], -1.0, CI, CF, X, P, G)
    _velocities(m, 5, V, W, 0.0)
    for r in range(m):
        i = which[r]
        p = CI[i, C_PAIR]
        mode, _, _, _, _, _ = _mode(r, i, 5, V, W, CI, pf[p, DYNAMIC], pf[p, STATIC])
        CI[i, C_MODE] = mode
        nx, ny, nz = CF[i, NORMAL], CF[i, NORMAL + 1], CF[i, NORMAL + 2]
        tx, ty, tz, sx, sy, sz = tangents(nx, ny, nz)
        ln, lt, ls = V[5, 3 * r], V[5, 3 * r + 1], V[5, 3 * r + 2]
        if mode == MODE_NONE:
            ln, lt, ls = 0.0, 0.0, 0.0
        CF[i, J] = ln * nx + lt * tx + ls * sx
        CF[i, J + 1] = ln * ny + lt * ty + ls * sy
        CF[i, J + 2] = ln * nz + lt * tz + ls * sz
        apply_contact(i, 1.0, CI, CF, X, P, G)
    return best / scale


@kernel
def solve_contacts(m, CI, CF, X, P, pi, pf, G, N, which):
    """All contacts: boxes one by one by Newton (they do not meet each other), spheres by sweeping."""
    boxes = 0
    for i in range(m):
        if pi[CI[i, C_PAIR], 2] == BOX_PLANE:
            boxes += 1
    if boxes < m:
        sweep_contacts(m, CI, CF, X, P, pi, pf, G, 3000)
    if boxes == 0:
        return
    for b in range(P.shape[0]):
        k = 0
        for i in range(m):
            if CI[i, C_A] == b and pi[CI[i, C_PAIR], 2] == BOX_PLANE and k < 24:
                which[k] = i
                k += 1
        if k > 0:
            solve_corners(k, which, CI, CF, X, P, pi, pf, G, N)
