"""Newton's method on the contact law.

A step solves the law made linear where it stands (Alart, Curnier 1991), with W + εD in place of W in its matrix only, so that it
is a proximal one: what W cannot tell apart moves as little as it may. Ten full steps, then damped ones.
"""

from yapa.engine.kernels.contact.contact_law import LAW, copy_vector, law_error, speeds_of, times_row
from yapa.engine.kernels.jit import REAL, WHOLE, far, kernel, part
from yapa.engine.kernels.layout import contact_mode, row, row_int, row_kind, slip_state, unknowns
from yapa.engine.kernels.math.elimination import lu_solve

FULL_STEPS, HALVINGS = 10, 6


@part
def _sort_out(N, law):
    """Which rows are active: the impulses of the others are simply taken away. How many are, and how much is taken away."""
    V, RI = law.V, law.RI
    active, rest = 0, 0.0
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
    return active, rest


@part
def _grip_rows(i, r, active, N, rest, epsilon, law):
    """The equations of a block that neither moves nor turns, from row ``i`` of the matrix on: (W + εD) Δλ = -u."""
    A, W, V, RI = law.A, law.W, law.V, law.RI
    x = V[unknowns.ACTIVE]
    for a in range(r, r + RI[r, row_int.SIZE]):
        if active == N:
            for k in range(N):
                A[i, k] = W[a, k]
        else:
            for k in range(active):
                A[i, k] = W[a, RI[k, row_int.ACTIVE]]
        x[i] = -V[unknowns.SPEED, a]
        if rest > 0.0:
            x[i] -= times_row(a, N, unknowns.REST, law)
        A[i, i] += epsilon * W[a, a]
        i += 1


@part
def _add_row(i, share, a, active, N, law):
    """Add a share of a row of W to a row of the matrix."""
    A, W, RI = law.A, law.W, law.RI
    if active == N:
        for k in range(N):
            A[i, k] += share * W[a, k]
    else:
        for k in range(active):
            A[i, k] += share * W[a, RI[k, row_int.ACTIVE]]


@part
def _slip_rows(first, r, active, N, rest, law):
    """The equations of a block that slips, from row ``first`` of the matrix on:

    d(λ - c λ_n ŝ) = dλ - c ŝ dλ_n - k (I - ŝŝ')(dλ - W dλ / d), all times d."""
    A, V, RI, RF = law.A, law.V, law.RI, law.RF
    x, count = V[unknowns.ACTIVE], RI[r, row_int.SIZE]
    d, size, bound = V[unknowns.SCALE, r], V[unknowns.SIZE, r], V[unknowns.BOUND, r]
    turns = 0.0 if RI[r, row_int.SLIPPING] == slip_state.SLIPS else min(bound / size, 1.0)
    for e in range(count):
        i, toward = first + e, V[unknowns.TOWARD, r + e]
        x[i] = -d * (V[unknowns.NOW, r + e] - bound * toward)
        for k in range(active):
            A[i, k] = 0.0
        if turns != 0.0:
            for g in range(count):
                share = turns * ((1.0 if g == e else 0.0) - toward * V[unknowns.TOWARD, r + g])
                _add_row(i, share, r + g, active, N, law)
                A[i, first + g] -= share * d
                if rest > 0.0:
                    x[i] -= share * times_row(r + g, N, unknowns.REST, law)
        A[i, i] += d
        if RI[r, row_int.KIND] != row_kind.BOUNDED:  # its normal stands before it among the active rows
            k = first - 1
            while RI[k, row_int.ACTIVE] != RI[r, row_int.NORMAL_ROW]:
                k -= 1
            A[i, k] -= d * RF[r, row.DYNAMIC] * toward


@kernel
def _newton_step(N, epsilon, law):
    """One step from λ in the vector NOW (velocities in SPEED) into STEP; 0 if the matrix is singular."""
    V, RI = law.V, law.RI
    active, rest = _sort_out(N, law)
    if active == 0:
        for a in range(N):
            V[unknowns.STEP, a] = 0.0
        return 1
    i = 0
    for r in range(N):
        if RI[r, row_int.KIND] == row_kind.MORE or RI[r, row_int.MODE] == contact_mode.NONE:
            continue
        if RI[r, row_int.MODE] == contact_mode.GRIP:
            _grip_rows(i, r, active, N, rest, epsilon, law)
        else:
            _slip_rows(i, r, active, N, rest, law)
        i += RI[r, row_int.SIZE]
    x = V[unknowns.ACTIVE]
    told = lu_solve(active, law.A, x)
    if told == 0:
        return 0
    V[unknowns.FULL_RANK, 0] = 1.0 if told == 1 else 0.0
    for k in range(active):
        V[unknowns.STEP, RI[k, row_int.ACTIVE]] = x[k]
    for a in range(N):
        V[unknowns.STEP, a] += V[unknowns.NOW, a]
    return 1


@part
def _damped(N, error, shift, law):
    """Take a step that is halved until the error falls."""
    V, share = law.V, 1.0
    copy_vector(N, unknowns.NOW, unknowns.SAVED, law)
    for _ in range(HALVINGS):
        for a in range(N):
            V[unknowns.NOW, a] = V[unknowns.SAVED, a] + share * (V[unknowns.STEP, a] - V[unknowns.SAVED, a])
        speeds_of(N, unknowns.NOW, shift, law)
        if law_error(N, unknowns.NOW, law) < error:
            break
        share *= 0.5


@far(REAL, WHOLE, LAW, REAL, REAL, REAL, WHOLE, REAL)
def newton(N, law, epsilon, shift, loose, most, goal):
    """Up to ``most`` steps with W + εD, on the law with ``shift`` D (λ - λ_held) added to its velocities
    until it is met to ``loose``.

    Leaves the best of its iterates in the vector NOW and returns its error there.
    """
    least, before = 1e300, 1e300
    for it in range(most):
        speeds_of(N, unknowns.NOW, shift, law)
        e = law_error(N, unknowns.NOW, law)
        if shift != 0.0 and e <= loose:
            shift, least, before = 0.0, 1e300, 1e300
            continue
        if e < least:
            least = e
            copy_vector(N, unknowns.NOW, unknowns.INNER, law)
        if e <= goal or (e <= 30.0 * goal and e > 0.3 * before) or _newton_step(N, epsilon, law) == 0:
            break
        before = e
        if it >= FULL_STEPS:
            _damped(N, e, shift, law)
        else:
            copy_vector(N, unknowns.STEP, unknowns.NOW, law)
    copy_vector(N, unknowns.INNER, unknowns.NOW, law)
    return least
