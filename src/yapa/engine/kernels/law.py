"""The contact law of one island, solved to rounding: normal, friction, rolling and spinning at once.

Unknown are impulses λ; velocities are u = W λ + b. Rows come in blocks, each contact with a normal
row n, two tangent rows, and where it resists them two rolling rows and one spinning row. The law
(Signorini, and Coulomb's round cone) is Alart and Curnier's (Comput. Methods Appl. Mech. Eng. 92,
1991), with d the diagonal of W in a block and s = λ - u/d:

    open    s_n <= 0                     λ of the whole contact = 0
    stick   |s_t| <= c_s λ_n             u_t = 0
    slip    otherwise                    λ_t = c_d λ_n s_t/|s_t|     (u_n = 0 in both)

with c the friction coefficient for tangents, and coefficient times effective radius for rolling and
spinning. A block whose direction is given (it slips over the whole substep) has λ_t = -c_d λ_n d.

Chain: Newton on W + εD from the guess, ten full steps keeping the best, then damped ones, and where
that fails once more after Gauss-Seidel sweeps; proximal steps b - εDλ_before take the error of ε out
and keep the even spread of force among contacts that W cannot tell apart; then, where that fails, ε
from 1e-1 down to 1e-9, friction grown from none, and last long sweeps. The best of all is returned
with its error. (Acary, Brémond, Huber, On solving contact problems with Coulomb friction, 2018,
compares such chains.)

Row kinds in ``RI[row, 0]``: 0 normal, 1 first row of a friction block, 2 of a rolling block,
3 of a spinning block, 4 another row of the block before, 5 first row of a block with a bound of its
own. ``RI[row, 1]``: the normal row it hangs on; 2: rows in the block; 3: FREE, SLIPS or HITS.
``RF[row]``: dynamic and static coefficient (or the bound), and the given direction.
"""

from math import sqrt

from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES2, far, kernel
from yapa.engine.kernels.layout import HITS, MODE_GRIP, MODE_NONE, MODE_SLIP, SLIPS

NORMAL_ROW, FRICTION_ROW, ROLLING_ROW, SPINNING_ROW, MORE_ROW, BOUNDED_ROW = 0, 1, 2, 3, 4, 5
RI_COLUMNS, RF_COLUMNS = 4, 6
V_FREE, V_NOW, V_STEP, V_HELD, V_SPEED, V_BEST, V_INNER, V_START, V_ACTIVE = 0, 1, 2, 3, 4, 5, 6, 7, 9
V_ROWS = 11
EPSILON = 1e-9
DONE, GOOD, ENOUGH = 3e-15, 1e-13, 1e-11
"""Errors, as shares of the largest term: nothing left to gain; not worth another proximal step; no need of a fallback."""
FRICTION_STEPS = 8


@kernel
def lu_solve(n, A, x):
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
def _scale(r, W, RI):
    """The diagonal that makes a block's velocities impulses: its own for a normal, the mean for others."""
    k = RI[r, 2]
    total = 0.0
    for e in range(k):
        total += W[r + e, r + e]
    return total / k


@kernel
def _bound(r, lam, V, RI, RF):
    """Radius of a block's disc, dynamic and static."""
    if RI[r, 0] == BOUNDED_ROW:
        return RF[r, 0], RF[r, 0]
    normal = max(V[lam, RI[r, 1]], 0.0)
    return RF[r, 0] * normal, (RF[r, 0] if RI[r, 3] == HITS else RF[r, 1]) * normal


@kernel
def block_mode(r, lam, V, W, RI, RF):
    """MODE_GRIP, MODE_SLIP (or MODE_NONE where the normal is open) of a block, |s| and the dynamic bound."""
    n = RI[r, 1]
    if RI[r, 0] != BOUNDED_ROW and V[lam, n] - V[V_SPEED, n] / W[n, n] <= 0.0:
        return MODE_NONE, 0.0, 0.0
    d = _scale(r, W, RI)
    size = 0.0
    for e in range(RI[r, 2]):
        s = V[lam, r + e] - V[V_SPEED, r + e] / d
        size += s * s
    size = sqrt(size)
    slip, grip = _bound(r, lam, V, RI, RF)
    if RI[r, 3] == SLIPS:
        return MODE_SLIP, size, slip
    if size <= grip or size == 0.0:
        return MODE_GRIP, size, slip
    return MODE_SLIP, size, slip


@kernel
def _toward(r, e, lam, d, size, V, RI, RF):
    """Component ``e`` of the direction of a slipping block's impulse."""
    if RI[r, 3] == SLIPS:
        return -RF[r, 2 + e]
    return (V[lam, r + e] - V[V_SPEED, r + e] / d) / size


@kernel
def _speeds(N, lam, V, W, RI, shift):
    """u = W λ + b, with ``shift`` the terms of ε and of the proximal step."""
    for a in range(N):
        total = V[V_FREE, a]
        for c in range(N):
            total += W[a, c] * V[lam, c]
        if shift != 0.0:
            total += shift * W[a, a] * (V[lam, a] - V[V_HELD, a])
        V[V_SPEED, a] = total


@kernel
def law_error(N, lam, V, W, RI, RF):
    """How far λ is from the law, as a velocity; row V_SPEED holds the velocities."""
    worst = 0.0
    for r in range(N):
        what = RI[r, 0]
        if what == MORE_ROW:
            continue
        if what == NORMAL_ROW:
            worst = max(worst, abs(min(V[lam, r] * W[r, r], V[V_SPEED, r])))
            continue
        mode, size, bound = block_mode(r, lam, V, W, RI, RF)
        d = _scale(r, W, RI)
        for e in range(RI[r, 2]):
            if mode == MODE_NONE:
                miss = abs(V[lam, r + e]) * d
            elif mode == MODE_GRIP:
                miss = abs(V[V_SPEED, r + e])
            else:
                miss = abs(V[lam, r + e] - bound * _toward(r, e, lam, d, size, V, RI, RF)) * d
            worst = max(worst, miss)
    return worst


@kernel
def _newton_step(N, V, W, A, RI, RF, epsilon):
    """One step from λ in row V_NOW (velocities in V_SPEED) into V_STEP; 0 if the matrix is singular."""
    active = 0  # rows whose impulse is not simply taken away; the others are eliminated beforehand
    for r in range(N):
        what = RI[r, 0]
        if what == MORE_ROW:
            continue
        if what == NORMAL_ROW:
            if V[V_NOW, r] - V[V_SPEED, r] / W[r, r] <= 0.0:
                V[V_STEP, r] = -V[V_NOW, r]
            else:
                V[V_ACTIVE, active] = r
                active += 1
                for c in range(N):
                    A[r, c] = W[r, c]
                A[r, r] += epsilon * W[r, r]
                V[V_STEP, r] = -V[V_SPEED, r]
            continue
        mode, size, bound = block_mode(r, V_NOW, V, W, RI, RF)
        d = _scale(r, W, RI)
        count, n = RI[r, 2], RI[r, 1]
        for e in range(count):
            a = r + e
            if mode == MODE_NONE:
                V[V_STEP, a] = -V[V_NOW, a]
                continue
            V[V_ACTIVE, active] = a
            active += 1
            if mode == MODE_GRIP:
                for c in range(N):
                    A[a, c] = W[a, c]
                A[a, a] += epsilon * W[a, a]
                V[V_STEP, a] = -V[V_SPEED, a]
            else:
                # d(λ - c λ_n ŝ) = dλ - c ŝ dλ_n - k (I - ŝŝ')(dλ - W dλ / d), all times d
                te = _toward(r, e, V_NOW, d, size, V, RI, RF)
                k = 0.0 if RI[r, 3] == SLIPS else min(bound / size, 1.0)
                for c in range(N):
                    A[a, c] = 0.0
                for g in range(count):
                    m = k * ((1.0 if g == e else 0.0) - te * _toward(r, g, V_NOW, d, size, V, RI, RF))
                    if m != 0.0:
                        for c in range(N):
                            A[a, c] += m * W[r + g, c]
                        A[a, r + g] -= m * d
                A[a, a] += d
                if what != BOUNDED_ROW:
                    A[a, n] -= d * RF[r, 0] * te
                V[V_STEP, a] = -d * (V[V_NOW, a] - bound * te)
    if active == N:
        if lu_solve(N, A, V[V_STEP]) == 0:
            return 0
    else:
        x = V[V_ACTIVE + 1]
        for i in range(active):
            a = int(V[V_ACTIVE, i])
            total = V[V_STEP, a]
            k = 0
            for c in range(N):
                if k < active and c == int(V[V_ACTIVE, k]):
                    A[i, k] = A[a, c]
                    k += 1
                else:
                    total -= A[a, c] * V[V_STEP, c]
            x[i] = total
        if lu_solve(active, A, x) == 0:
            return 0
        for i in range(active):
            V[V_STEP, int(V[V_ACTIVE, i])] = x[i]
    for a in range(N):
        V[V_STEP, a] += V[V_NOW, a]
    return 1


@kernel
def _sweep(N, V, W, RI, RF, times):
    """Block Gauss-Seidel on row V_NOW: normals exactly, blocks by the scalar metric. Stops when nothing moves."""
    for it in range(times):
        moved, most = 0.0, 0.0
        for r in range(N):
            what = RI[r, 0]
            if what == MORE_ROW:
                continue
            count = RI[r, 2]
            for e in range(count):
                total = V[V_FREE, r + e]
                for c in range(N):
                    total += W[r + e, c] * V[V_NOW, c]
                V[V_SPEED, r + e] = total
            if what == NORMAL_ROW:
                new = max(0.0, V[V_NOW, r] - V[V_SPEED, r] / W[r, r])
                moved = max(moved, abs(new - V[V_NOW, r]))
                most = max(most, new)
                V[V_NOW, r] = new
                continue
            d = 0.0
            for e in range(count):
                d = max(d, W[r + e, r + e])
            slip, grip = _bound(r, V_NOW, V, RI, RF)
            size = 0.0
            for e in range(count):
                V[V_STEP, e] = V[V_NOW, r + e] - V[V_SPEED, r + e] / d
                size += V[V_STEP, e] ** 2
            size = sqrt(size)
            for e in range(count):
                if RI[r, 3] == SLIPS:
                    new = -slip * RF[r, 2 + e]
                elif size <= grip:
                    new = V[V_STEP, e]
                else:
                    new = V[V_STEP, e] * slip / size
                moved = max(moved, abs(new - V[V_NOW, r + e]))
                V[V_NOW, r + e] = new
        if moved <= 1e-16 * most:
            break


@far(REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2, REAL, WHOLE, REAL)
def _newton(N, V, W, A, RI, RF, epsilon, most, goal):
    """Up to ``most`` steps on W + εD; leaves the best of its iterates in V_NOW and returns its error there."""
    inner = 1e300
    for it in range(most):
        _speeds(N, V_NOW, V, W, RI, epsilon)
        e = law_error(N, V_NOW, V, W, RI, RF)
        if e < inner:
            inner = e
            for a in range(N):
                V[V_INNER, a] = V[V_NOW, a]
        if e <= goal or _newton_step(N, V, W, A, RI, RF, epsilon) == 0:
            break
        share = 1.0
        if it >= 10:  # halve the step until the error falls
            for a in range(N):
                V[V_HELD + 5, a] = V[V_NOW, a]
            for _ in range(6):
                for a in range(N):
                    V[V_NOW, a] = V[V_HELD + 5, a] + share * (V[V_STEP, a] - V[V_HELD + 5, a])
                _speeds(N, V_NOW, V, W, RI, epsilon)
                if law_error(N, V_NOW, V, W, RI, RF) < e:
                    break
                share *= 0.5
        else:
            for a in range(N):
                V[V_NOW, a] = V[V_STEP, a]
    for a in range(N):
        V[V_NOW, a] = V[V_INNER, a]
    return inner


@kernel
def _keep_better(N, V, W, RI, RF, best):
    """Judge V_NOW without ε; keep it if it is the best so far. Returns the best error."""
    _speeds(N, V_NOW, V, W, RI, 0.0)
    e = law_error(N, V_NOW, V, W, RI, RF)
    if e < best:
        for a in range(N):
            V[V_BEST, a] = V[V_NOW, a]
        return e
    return best


@kernel
def _largest_term(N, V, W):
    """The largest |b| + |W||λ| at the best impulses: what rounding is measured against."""
    most = 1e-300
    for a in range(N):
        total = abs(V[V_FREE, a])
        for c in range(N):
            total += abs(W[a, c] * V[V_BEST, c])
        most = max(most, total)
    return most


@kernel
def _polish(N, V, W, A, RI, RF, best, scale):
    """Proximal steps from V_NOW until the error is rounding. Returns the best error."""
    for _ in range(6):
        before = best
        for a in range(N):
            V[V_HELD, a] = V[V_NOW, a]
        inner = _newton(N, V, W, A, RI, RF, EPSILON, 22, 0.2 * DONE * scale)
        best = _keep_better(N, V, W, RI, RF, best)
        if best <= GOOD * scale or (inner > 1e-9 * scale and best == before):
            break
    return best


@far(REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2)
def solve_law(N, V, W, A, RI, RF):
    """Solve the law; impulses in row V_BEST, velocities in V_SPEED.

    On entry row V_FREE holds b and V_NOW a guess. Returns the error relative to the largest term.
    """
    for a in range(N):
        V[V_START, a] = V[V_NOW, a]
        V[V_HELD, a] = V[V_NOW, a]
        V[V_BEST, a] = V[V_NOW, a]
    best = _keep_better(N, V, W, RI, RF, 1e300)
    scale = _largest_term(N, V, W)
    if best <= DONE * scale:
        return best / scale
    for attempt in range(2):
        if attempt == 1:  # the guess led nowhere: sweep from it first
            for a in range(N):
                V[V_NOW, a] = V[V_START, a]
            _sweep(N, V, W, RI, RF, 12)
            best = _keep_better(N, V, W, RI, RF, best)
            scale = _largest_term(N, V, W)
        for a in range(N):
            V[V_HELD, a] = V[V_NOW, a]
        for _ in range(9):
            before = best
            inner = _newton(N, V, W, A, RI, RF, EPSILON, 12 if attempt == 0 else 22, 0.2 * DONE * scale)
            best = _keep_better(N, V, W, RI, RF, best)
            scale = _largest_term(N, V, W)
            if best <= DONE * scale or (best <= GOOD * scale and best > 0.3 * before) or inner > 1e-7 * scale:
                break
            for a in range(N):
                V[V_HELD, a] = V[V_NOW, a]
        if best <= ENOUGH * scale:
            break
    if best > ENOUGH * scale:  # from far: a strongly regularised problem first
        for a in range(N):
            V[V_NOW, a], V[V_HELD, a] = 0.0, 0.0
        epsilon = 1e-1
        for _ in range(9):
            _newton(N, V, W, A, RI, RF, epsilon, 18, 0.2 * DONE * scale)
            epsilon *= 0.1
        best = _polish(N, V, W, A, RI, RF, best, scale)
    if best > ENOUGH * scale:  # friction grown from none
        for a in range(N):
            V[V_NOW, a], V[V_HELD, a] = 0.0, 0.0
        share = 0.0
        for step in range(FRICTION_STEPS + 1):
            grown = (step + 1e-6) / (FRICTION_STEPS + 1e-6)
            factor = grown if step == 0 else grown / share
            share = grown
            for r in range(N):
                if RI[r, 0] != BOUNDED_ROW:
                    RF[r, 0] *= factor
                    RF[r, 1] *= factor
            _newton(N, V, W, A, RI, RF, 1e-6, 18, 0.2 * DONE * scale)
        best = _polish(N, V, W, A, RI, RF, best, scale)
    if best > ENOUGH * scale:
        for a in range(N):
            V[V_NOW, a] = V[V_BEST, a]
        for k in range(12):
            if k % 4 == 3:  # shake: another start, always the same one
                for a in range(N):
                    V[V_NOW, a] = V[V_BEST, a] * (0.5 + ((7 * a + 3 * k) % 11) / 11.0)
            _sweep(N, V, W, RI, RF, 40)
            best = _keep_better(N, V, W, RI, RF, best)
            best = _polish(N, V, W, A, RI, RF, best, scale)
            if best <= ENOUGH * scale:
                break
    _speeds(N, V_BEST, V, W, RI, 0.0)
    return best / _largest_term(N, V, W)
