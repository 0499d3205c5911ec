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

Chain: a few Gauss-Seidel sweeps where there is no guess; Newton on the law, with W + εD in place of W in its matrix
only, so that each step is a proximal one (what W cannot tell apart moves as little as it may, and stays evenly spread),
ten full steps and then damped ones, keeping the best. Where that fails: sweeps and ε from 1e-2 down, then a
few other starts, with other d and ε and always the same ones, then ε from 1e-1 in nine steps, friction grown from none,
and more other starts. The best of all is returned with its error. (Acary, Brémond, Huber, On solving contact problems
with Coulomb friction, 2018, compares such chains.)

Row kinds in ``RI[row, 0]``: 0 normal, 1 first row of a friction block, 2 of a rolling block,
3 of a spinning block, 4 another row of the block before, 5 first row of a block with a bound of its
own. ``RI[row, 1]``: the normal row it hangs on; 2: rows in the block; 3: FREE, SLIPS or HITS; 4: what it does,
5: the rows of a step (both set here).
``RF[row]``: dynamic and static coefficient (or the bound), and the given direction.
"""

from math import sqrt

from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES2, far, kernel
from yapa.engine.kernels.layout import contact_mode, row, row_int, row_kind, slip_state, unknowns
from yapa.engine.kernels.math.simd import dot_fours, less_four, less_four_rows

EPSILON = 1e-9
DONE, ENOUGH = 3e-15, 1e-11
"""Errors, as shares of the largest term: nothing left to gain; no need of a fallback."""
FAR = 1e-3
"""A guess that misses by more is swept first."""
QUICK, SHAKES, FRICTION_STEPS = 14, 140, 8


@kernel
def lu_solve(n, A, x):
    """Solve A x = x by Gaussian elimination with partial pivoting; 0 if singular, 2 if nearly.

    A needs room for four columns more."""
    wide = (n + 4) & -4  # x stands beside A, and rows are whole fours
    for i in range(n):
        A[i, n] = x[i]
        for j in range(n + 1, wide):
            A[i, j] = 0.0
    most, least = 0.0, 1e300
    for first in range(0, n, 4):  # four columns, then what they take from all the others at once
        past = first + 4
        for k in range(first, min(past, n)):
            best, row = 0.0, k
            for i in range(k, n):
                if abs(A[i, k]) > best:
                    best, row = abs(A[i, k]), i
            if best < 1e-300:
                return 0
            most, least = max(most, best), min(least, best)
            if row != k:
                for j in range(first, n + 1):
                    A[k, j], A[row, j] = A[row, j], A[k, j]
            inv, nil = 1.0 / A[k, k], k - first
            x1 = A[k, first + 1] if nil < 1 else 0.0
            x2 = A[k, first + 2] if nil < 2 else 0.0
            x3 = A[k, first + 3] if nil < 3 else 0.0
            for i in range(k + 1, n):
                f = A[i, k] * inv
                less_four(A, i, first, f, 0.0, x1, x2, x3)
                A[i, k] = f
        if past > n:
            break
        for k in range(first + 1, past):
            less_four_rows(A, k, first, past, wide, A[k, first], A[k, first + 1] if k > first + 1 else 0.0,
                           A[k, first + 2] if k > first + 2 else 0.0, 0.0)
        for i in range(past, n):
            less_four_rows(A, i, first, past, wide, A[i, first], A[i, first + 1], A[i, first + 2], A[i, first + 3])
    for k in range(n - 1, -1, -1):
        whole, total = min((k + 4) & -4, n), A[k, n]
        for j in range(k + 1, whole):
            total -= A[k, j] * x[j]
        past = whole + ((n - whole) & -4)
        total -= dot_fours(A, k, x, whole, past)
        for j in range(past, n):
            total -= A[k, j] * x[j]
        x[k] = total / A[k, k]
    return 1 if least > 1e-6 * most else 2


@kernel
def _lay_scales(N, metric, V, W, RI):
    """The diagonal d that makes a block's velocities impulses: its own for a normal, the mean for others, times ``metric``."""
    for r in range(N):
        if RI[r, row_int.KIND] != row_kind.MORE:
            total, most, count = 0.0, 0.0, RI[r, row_int.SIZE]
            for a in range(r, r + count):
                total += W[a, a]
                most = max(most, W[a, a])
            V[unknowns.SCALE, r] = metric * total / count
            V[unknowns.INV_SCALE, r], V[unknowns.INV_SWEEP, r] = 1.0 / V[unknowns.SCALE, r], 1.0 / most


@kernel
def _bound(r, lam, V, RI, RF):
    """Radius of a block's disc, dynamic and static."""
    if RI[r, row_int.KIND] == row_kind.BOUNDED:
        return RF[r, row.DYNAMIC], RF[r, row.DYNAMIC]
    normal = max(V[lam, RI[r, row_int.NORMAL_ROW]], 0.0)
    return RF[r, row.DYNAMIC] * normal, (RF[r, row.DYNAMIC] if RI[r, row_int.SLIPPING] == slip_state.HITS
                                         else RF[r, row.STATIC]) * normal


@kernel
def block_mode(r, lam, V, RI, RF):
    """MODE_GRIP, MODE_SLIP (or MODE_NONE where the normal is open) of a block, |s| and the dynamic bound."""
    n = RI[r, row_int.NORMAL_ROW]
    if RI[r, row_int.KIND] != row_kind.BOUNDED and V[lam, n] - V[unknowns.SPEED, n] * V[unknowns.INV_SCALE, n] <= 0.0:
        return contact_mode.NONE, 0.0, 0.0
    over = V[unknowns.INV_SCALE, r]
    size = 0.0
    for e in range(RI[r, row_int.SIZE]):
        s = V[lam, r + e] - V[unknowns.SPEED, r + e] * over
        size += s * s
    size = sqrt(size)
    slip, grip = _bound(r, lam, V, RI, RF)
    if RI[r, row_int.SLIPPING] == slip_state.SLIPS:
        return contact_mode.SLIP, size, slip
    if size <= grip or size == 0.0:
        return contact_mode.GRIP, size, slip
    return contact_mode.SLIP, size, slip


@kernel
def _toward(r, e, lam, size, V, RI, RF):
    """Component ``e`` of the direction of a slipping block's impulse."""
    if RI[r, row_int.SLIPPING] == slip_state.SLIPS:
        return -RF[r, row.GIVEN + e]
    return (V[lam, r + e] - V[unknowns.SPEED, r + e] * V[unknowns.INV_SCALE, r]) / size


@kernel
def _times(a, N, lam, V, W):
    """Row ``a`` of W λ, in four sums: each waits for its own last term only."""
    whole = N & -4
    total = dot_fours(W, a, V[lam], 0, whole)
    for c in range(whole, N):
        total += W[a, c] * V[lam, c]
    return total


@kernel
def _speeds(N, lam, V, W, RI, shift):
    """u = W λ + b, with ``shift`` the terms of ε and of the proximal step."""
    for a in range(N):
        total = V[unknowns.FREE, a] + _times(a, N, lam, V, W)
        if shift != 0.0:
            total += shift * W[a, a] * (V[lam, a] - V[unknowns.HELD, a])
        V[unknowns.SPEED, a] = total


@kernel
def law_error(N, lam, V, W, RI, RF):
    """How far λ is from the law, as a velocity; row V_SPEED holds the velocities.

    What every block does stays in ``RI[:, 4]`` and in rows V_SIZE, V_BOUND and V_TOWARD, for the next step.
    """
    worst = 0.0
    for r in range(N):
        what = RI[r, row_int.KIND]
        if what == row_kind.MORE:
            continue
        if what == row_kind.NORMAL:
            RI[r, row_int.MODE] = (contact_mode.GRIP if V[lam, r] - V[unknowns.SPEED, r] * V[unknowns.INV_SCALE, r] > 0.0
                                   else contact_mode.NONE)
            worst = max(worst, abs(min(V[lam, r] * W[r, r], V[unknowns.SPEED, r])))
            continue
        mode, size, bound = block_mode(r, lam, V, RI, RF)
        RI[r, row_int.MODE], V[unknowns.SIZE, r], V[unknowns.BOUND, r] = mode, size, bound
        d = V[unknowns.SCALE, r]
        for e in range(RI[r, row_int.SIZE]):
            if mode == contact_mode.NONE:
                miss = abs(V[lam, r + e]) * d
            elif mode == contact_mode.GRIP:
                miss = abs(V[unknowns.SPEED, r + e])
            else:
                V[unknowns.TOWARD, r + e] = _toward(r, e, lam, size, V, RI, RF)
                miss = abs(V[lam, r + e] - bound * V[unknowns.TOWARD, r + e]) * d
            worst = max(worst, miss)
    return worst


@kernel
def _newton_step(N, V, W, A, RI, RF, epsilon):
    """One step from λ in row V_NOW (velocities in V_SPEED) into V_STEP; 0 if the matrix is singular."""
    active, rest = 0, 0.0  # rows whose impulse is not simply taken away; the others are eliminated beforehand
    for r in range(N):
        if RI[r, row_int.KIND] == row_kind.MORE:
            continue
        mode = RI[r, row_int.MODE]
        for a in range(r, r + RI[r, row_int.SIZE]):
            V[unknowns.STEP, a] = -V[unknowns.NOW, a]
            if mode == contact_mode.NONE:
                rest += abs(V[unknowns.NOW, a])
                V[unknowns.REST, a] = V[unknowns.STEP, a]
            else:
                V[unknowns.REST, a] = 0.0
                RI[active, row_int.ACTIVE] = a
                active += 1
    if active == 0:
        for a in range(N):
            V[unknowns.STEP, a] = 0.0
        return 1
    x, whole = V[unknowns.ACTIVE], active == N
    i = 0
    for r in range(N):
        if RI[r, row_int.KIND] == row_kind.MORE or RI[r, row_int.MODE] == contact_mode.NONE:
            continue
        count, n = RI[r, row_int.SIZE], RI[r, row_int.NORMAL_ROW]
        if RI[r, row_int.MODE] == contact_mode.GRIP:
            for a in range(r, r + count):
                if whole:
                    for k in range(N):
                        A[i, k] = W[a, k]
                else:
                    for k in range(active):
                        A[i, k] = W[a, RI[k, row_int.ACTIVE]]
                x[i] = -V[unknowns.SPEED, a]
                if rest > 0.0:
                    x[i] -= _times(a, N, unknowns.REST, V, W)
                A[i, i] += epsilon * W[a, a]
                i += 1
            continue
        # d(λ - c λ_n ŝ) = dλ - c ŝ dλ_n - k (I - ŝŝ')(dλ - W dλ / d), all times d
        d, size, bound = V[unknowns.SCALE, r], V[unknowns.SIZE, r], V[unknowns.BOUND, r]
        k0 = 0.0 if RI[r, row_int.SLIPPING] == slip_state.SLIPS else min(bound / size, 1.0)
        first = i
        for e in range(count):
            te = V[unknowns.TOWARD, r + e]
            x[i] = -d * (V[unknowns.NOW, r + e] - bound * te)
            for k in range(active):
                A[i, k] = 0.0
            if k0 != 0.0:
                for g in range(count):
                    m = k0 * ((1.0 if g == e else 0.0) - te * V[unknowns.TOWARD, r + g])
                    if whole:
                        for k in range(N):
                            A[i, k] += m * W[r + g, k]
                    else:
                        for k in range(active):
                            A[i, k] += m * W[r + g, RI[k, row_int.ACTIVE]]
                    A[i, first + g] -= m * d
                    if rest > 0.0:
                        x[i] -= m * _times(r + g, N, unknowns.REST, V, W)
            A[i, i] += d
            if RI[r, row_int.KIND] != row_kind.BOUNDED:  # its normal stands before it among the active rows
                k = first - 1
                while RI[k, row_int.ACTIVE] != n:
                    k -= 1
                A[i, k] -= d * RF[r, row.DYNAMIC] * te
            i += 1
    told = lu_solve(active, A, x)
    if told == 0:
        return 0
    V[unknowns.FULL_RANK, 0] = 1.0 if told == 1 else 0.0
    for k in range(active):
        V[unknowns.STEP, RI[k, row_int.ACTIVE]] = x[k]
    for a in range(N):
        V[unknowns.STEP, a] += V[unknowns.NOW, a]
    return 1


@kernel
def _sweep(N, V, W, RI, RF, times):
    """Block Gauss-Seidel on row V_NOW: normals exactly, blocks by the scalar metric. Stops when nothing moves."""
    for it in range(times):
        moved, most = 0.0, 0.0
        for r in range(N):
            what = RI[r, row_int.KIND]
            if what == row_kind.MORE:
                continue
            count = RI[r, row_int.SIZE]
            for e in range(count):
                V[unknowns.SPEED, r + e] = V[unknowns.FREE, r + e] + _times(r + e, N, unknowns.NOW, V, W)
            if what == row_kind.NORMAL:
                new = max(0.0, V[unknowns.NOW, r] - V[unknowns.SPEED, r] * V[unknowns.INV_SWEEP, r])
                moved = max(moved, abs(new - V[unknowns.NOW, r]))
                most = max(most, new)
                V[unknowns.NOW, r] = new
                continue
            slip, grip = _bound(r, unknowns.NOW, V, RI, RF)
            size = 0.0
            for e in range(count):
                V[unknowns.STEP, e] = V[unknowns.NOW, r + e] - V[unknowns.SPEED, r + e] * V[unknowns.INV_SWEEP, r]
                size += V[unknowns.STEP, e] ** 2
            size = sqrt(size)
            for e in range(count):
                if RI[r, row_int.SLIPPING] == slip_state.SLIPS:
                    new = -slip * RF[r, row.GIVEN + e]
                elif size <= grip:
                    new = V[unknowns.STEP, e]
                else:
                    new = V[unknowns.STEP, e] * slip / size
                moved = max(moved, abs(new - V[unknowns.NOW, r + e]))
                V[unknowns.NOW, r + e] = new
        if moved <= 1e-16 * most:
            break


@far(REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2, REAL, REAL, REAL, WHOLE, REAL)
def _newton(N, V, W, A, RI, RF, epsilon, shift, loose, most, goal):
    """Up to ``most`` steps with W + εD, on the law with ``shift`` D (λ - λ_held) added to its velocities
    until it is met to ``loose``.

    Leaves the best of its iterates in V_NOW and returns its error there.
    """
    least, before = 1e300, 1e300
    for it in range(most):
        _speeds(N, unknowns.NOW, V, W, RI, shift)
        e = law_error(N, unknowns.NOW, V, W, RI, RF)
        if shift != 0.0 and e <= loose:
            shift, least, before = 0.0, 1e300, 1e300
            continue
        if e < least:
            least = e
            for a in range(N):
                V[unknowns.INNER, a] = V[unknowns.NOW, a]
        if e <= goal or (e <= 30.0 * goal and e > 0.3 * before) or _newton_step(N, V, W, A, RI, RF, epsilon) == 0:
            break
        before = e
        share = 1.0
        if it >= 10:  # halve the step until the error falls
            for a in range(N):
                V[unknowns.SAVED, a] = V[unknowns.NOW, a]
            for _ in range(6):
                for a in range(N):
                    V[unknowns.NOW, a] = V[unknowns.SAVED, a] + share * (V[unknowns.STEP, a] - V[unknowns.SAVED, a])
                _speeds(N, unknowns.NOW, V, W, RI, shift)
                if law_error(N, unknowns.NOW, V, W, RI, RF) < e:
                    break
                share *= 0.5
        else:
            for a in range(N):
                V[unknowns.NOW, a] = V[unknowns.STEP, a]
    for a in range(N):
        V[unknowns.NOW, a] = V[unknowns.INNER, a]
    return least


@kernel
def _keep_better(N, V, W, RI, RF, best):
    """Judge V_NOW; keep it if it is the best so far. Returns the best error."""
    _speeds(N, unknowns.NOW, V, W, RI, 0.0)
    e = law_error(N, unknowns.NOW, V, W, RI, RF)
    if e < best:
        for a in range(N):
            V[unknowns.BEST, a] = V[unknowns.NOW, a]
        return e
    return best


@kernel
def _largest_term(N, V, W):
    """The largest |b| + |W||λ| at the best impulses: what rounding is measured against."""
    most = 1e-300
    for a in range(N):
        total = abs(V[unknowns.FREE, a])
        for c in range(N):
            total += abs(W[a, c] * V[unknowns.BEST, c])
        most = max(most, total)
    return most


@kernel
def _polish(N, V, W, A, RI, RF, best, scale, most):
    """Steps on the law itself from V_NOW. Returns the best error."""
    e = _newton(N, V, W, A, RI, RF, EPSILON, 0.0, 0.0, most, 0.2 * DONE * scale)
    if e < best:
        best = e
        for a in range(N):
            V[unknowns.BEST, a] = V[unknowns.NOW, a]
    return best


@kernel
def _even_out(N, V, W, A, RI, RF, best, scale):
    """Of the impulses that W cannot tell from the best, those nearest to the guess. Returns their error."""
    for a in range(N):
        V[unknowns.HELD, a] = V[unknowns.START, a]
    e = _newton(N, V, W, A, RI, RF, EPSILON, EPSILON, 1e-3 * EPSILON * scale, 5, 0.2 * DONE * scale)
    if e > max(best, 1e-13 * scale):
        return best
    for a in range(N):
        V[unknowns.BEST, a] = V[unknowns.NOW, a]
    return e


@far(REAL, WHOLE, WHOLE, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2, REAL, REAL)
def _shake(first, last, N, V, W, A, RI, RF, best, scale):
    """From other starts around the best and elsewhere, always the same ones. Returns the best error."""
    typical = 0.0
    for a in range(N):
        V[unknowns.START, a] = V[unknowns.BEST, a]
        typical = max(typical, abs(V[unknowns.BEST, a]))
    seed = 1 + first
    for k in range(first, last):
        for a in range(N):
            seed = (1103515245 * seed + 12345) % 2147483648
            share = seed / 2147483648.0
            if k % 2 == 0:
                V[unknowns.NOW, a] = V[unknowns.START, a] * 2.0 * share
            else:
                V[unknowns.NOW, a] = typical * (share if RI[a, row_int.KIND] == row_kind.NORMAL else 2.0 * share - 1.0)
        _sweep(N, V, W, RI, RF, 2 + 5 * (k % 4))
        metric = 1.0 if k % 3 == 0 else (0.1 if k % 3 == 1 else 10.0)
        _lay_scales(N, metric, V, W, RI)
        _newton(N, V, W, A, RI, RF, 1e-5 if k % 2 == 0 else EPSILON, 0.0, 0.0, 20, 0.2 * DONE * scale)
        _lay_scales(N, 1.0, V, W, RI)
        best = _keep_better(N, V, W, RI, RF, best)
        if best <= ENOUGH * scale:
            break
    return best


@far(REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2)
def solve_law(N, V, W, A, RI, RF):
    """Solve the law; impulses in row V_BEST, velocities in V_SPEED.

    On entry row V_FREE holds b and V_NOW a guess. Returns the error relative to the largest term.
    """
    for a in range(N):
        V[unknowns.START, a], V[unknowns.BEST, a] = V[unknowns.NOW, a], V[unknowns.NOW, a]
    _lay_scales(N, 1.0, V, W, RI)
    V[unknowns.FULL_RANK, 0] = 0.0
    best = _keep_better(N, V, W, RI, RF, 1e300)
    scale = _largest_term(N, V, W)
    if best <= DONE * scale:
        return best / scale
    for attempt in range(2):
        swept = attempt == 1 or best > FAR * scale
        if swept:  # the guess led nowhere, or is none: sweep from it first
            for a in range(N):
                V[unknowns.NOW, a] = V[unknowns.START, a]
            _sweep(N, V, W, RI, RF, 12 if attempt == 0 else 40)  # a sweep costs a seventh of a step
            best = _keep_better(N, V, W, RI, RF, best)
            scale = _largest_term(N, V, W)
        if attempt == 1:  # and then through problems ever less regularised
            for a in range(N):
                V[unknowns.HELD, a] = 0.0
            epsilon = 1e-2
            for _ in range(4):
                _newton(N, V, W, A, RI, RF, epsilon, epsilon, 0.0, 14, 1e-5 * scale)
                epsilon *= 1e-2
        best = _polish(N, V, W, A, RI, RF, best, scale, 12 if attempt == 0 else 22)
        scale = _largest_term(N, V, W)
        if best <= ENOUGH * scale:
            if swept and V[unknowns.FULL_RANK, 0] == 0.0:
                best = _even_out(N, V, W, A, RI, RF, best, scale)
            break
    if best > ENOUGH * scale:
        best = _shake(0, QUICK, N, V, W, A, RI, RF, best, scale)
    if best > ENOUGH * scale:  # from far: a strongly regularised problem first
        for a in range(N):
            V[unknowns.NOW, a], V[unknowns.HELD, a] = 0.0, 0.0
        epsilon = 1e-1
        for _ in range(9):
            _newton(N, V, W, A, RI, RF, epsilon, epsilon, 0.0, 18, 0.2 * DONE * scale)
            epsilon *= 0.1
        best = _polish(N, V, W, A, RI, RF, best, scale, 22)
    if best > ENOUGH * scale:  # friction grown from none
        for a in range(N):
            V[unknowns.NOW, a], V[unknowns.HELD, a] = 0.0, 0.0
        share = 0.0
        for step in range(FRICTION_STEPS + 1):
            grown = (step + 1e-6) / (FRICTION_STEPS + 1e-6)
            factor = grown if step == 0 else grown / share
            share = grown
            for r in range(N):
                if RI[r, row_int.KIND] != row_kind.BOUNDED:
                    RF[r, row.DYNAMIC] *= factor
                    RF[r, row.STATIC] *= factor
            _newton(N, V, W, A, RI, RF, 1e-6, 1e-6, 0.0, 18, 0.2 * DONE * scale)
        best = _polish(N, V, W, A, RI, RF, best, scale, 22)
    if best > ENOUGH * scale:
        best = _shake(QUICK, SHAKES, N, V, W, A, RI, RF, best, scale)
    _speeds(N, unknowns.BEST, V, W, RI, 0.0)
    return best / _largest_term(N, V, W)
