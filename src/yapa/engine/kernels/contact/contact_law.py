"""The contact law of one island: normal, friction, rolling and spinning at once, and how far impulses are from it.

Unknown are impulses λ; velocities are u = W λ + b. Rows come in blocks, each contact with a normal
row n, two tangent rows, and where it resists them two rolling rows and one spinning row. The law
(Signorini, and Coulomb's round cone) is Alart and Curnier's (Comput. Methods Appl. Mech. Eng. 92,
1991), with d the diagonal of W in a block and s = λ - u/d:

    open    s_n <= 0                     λ of the whole contact = 0
    stick   |s_t| <= c_s λ_n             u_t = 0
    slip    otherwise                    λ_t = c_d λ_n s_t/|s_t|     (u_n = 0 in both)

with c the friction coefficient for tangents, and coefficient times effective radius for rolling and
spinning. A block whose direction is given (it slips over the whole substep) has λ_t = -c_d λ_n d.

``RI`` holds what each row is and does (``layout.row_int``, the kinds in ``layout.row_kind``), ``RF`` its bounds and directions
(``layout.row``), ``V`` vectors of all rows (``layout.unknowns``); ``lam`` is the number of the vector that holds λ.
"""

from collections import namedtuple
from math import sqrt

from numba import types

from yapa.engine.kernels.jit import REALS2, WHOLES2, kernel
from yapa.engine.kernels.layout import contact_mode, row, row_int, row_kind, slip_state, unknowns
from yapa.engine.kernels.math.simd import dot_fours

Law = namedtuple("Law", "V W A RI RF")
"""The handle of the rows of an island: vectors, the matrix W, room for another, and what the rows are."""
LAW = types.NamedTuple((REALS2, REALS2, REALS2, WHOLES2, REALS2), Law)


@kernel
def copy_vector(N, source, target, law):
    """One of the vectors into another."""
    for a in range(N):
        law.V[target, a] = law.V[source, a]


@kernel
def clear_vector(N, target, law):
    """Zeros into one of the vectors."""
    for a in range(N):
        law.V[target, a] = 0.0


@kernel
def set_block_scales(N, metric, law):
    """The diagonal d that makes a block's velocities impulses: its own for a normal, the mean for others, times ``metric``."""
    V, W, RI = law.V, law.W, law.RI
    for r in range(N):
        if RI[r, row_int.KIND] != row_kind.MORE:
            total, most, count = 0.0, 0.0, RI[r, row_int.SIZE]
            for a in range(r, r + count):
                total += W[a, a]
                most = max(most, W[a, a])
            V[unknowns.SCALE, r] = metric * total / count
            V[unknowns.INV_SCALE, r], V[unknowns.INV_SWEEP, r] = 1.0 / V[unknowns.SCALE, r], 1.0 / most


@kernel
def bound_of(r, lam, law):
    """Radius of a block's disc, dynamic and static."""
    RI, RF = law.RI, law.RF
    if RI[r, row_int.KIND] == row_kind.BOUNDED:
        return RF[r, row.DYNAMIC], RF[r, row.DYNAMIC]
    normal = max(law.V[lam, RI[r, row_int.NORMAL_ROW]], 0.0)
    grip = RF[r, row.DYNAMIC] if RI[r, row_int.SLIPPING] == slip_state.HITS else RF[r, row.STATIC]
    return RF[r, row.DYNAMIC] * normal, grip * normal


@kernel
def block_mode(r, lam, law):
    """Grip or slip (or neither, where the normal is open) of a block, |s| and the dynamic bound."""
    V, RI = law.V, law.RI
    n = RI[r, row_int.NORMAL_ROW]
    if RI[r, row_int.KIND] != row_kind.BOUNDED and V[lam, n] - V[unknowns.SPEED, n] * V[unknowns.INV_SCALE, n] <= 0.0:
        return contact_mode.NONE, 0.0, 0.0
    over = V[unknowns.INV_SCALE, r]
    size = 0.0
    for e in range(RI[r, row_int.SIZE]):
        s = V[lam, r + e] - V[unknowns.SPEED, r + e] * over
        size += s * s
    size = sqrt(size)
    slip, grip = bound_of(r, lam, law)
    if RI[r, row_int.SLIPPING] == slip_state.SLIPS:
        return contact_mode.SLIP, size, slip
    if size <= grip or size == 0.0:
        return contact_mode.GRIP, size, slip
    return contact_mode.SLIP, size, slip


@kernel
def _toward(r, e, lam, size, law):
    """Component ``e`` of the direction of a slipping block's impulse."""
    V = law.V
    if law.RI[r, row_int.SLIPPING] == slip_state.SLIPS:
        return -law.RF[r, row.GIVEN + e]
    return (V[lam, r + e] - V[unknowns.SPEED, r + e] * V[unknowns.INV_SCALE, r]) / size


@kernel
def times_row(a, N, lam, law):
    """Row ``a`` of W λ, in four sums: each waits for its own last term only."""
    V, W, whole = law.V, law.W, N & -4
    total = dot_fours(W, a, V[lam], 0, whole)
    for c in range(whole, N):
        total += W[a, c] * V[lam, c]
    return total


@kernel
def speeds_of(N, lam, shift, law):
    """u = W λ + b, with ``shift`` the terms of ε and of the proximal step."""
    V, W = law.V, law.W
    for a in range(N):
        total = V[unknowns.FREE, a] + times_row(a, N, lam, law)
        if shift != 0.0:
            total += shift * W[a, a] * (V[lam, a] - V[unknowns.HELD, a])
        V[unknowns.SPEED, a] = total


@kernel
def law_error(N, lam, law):
    """How far λ is from the law, as a velocity; the vector SPEED holds the velocities.

    What every block does stays in ``row_int.MODE`` and in the vectors SIZE, BOUND and TOWARD, for the next step.
    """
    V, W, RI = law.V, law.W, law.RI
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
        mode, size, bound = block_mode(r, lam, law)
        RI[r, row_int.MODE], V[unknowns.SIZE, r], V[unknowns.BOUND, r] = mode, size, bound
        d = V[unknowns.SCALE, r]
        for e in range(RI[r, row_int.SIZE]):
            if mode == contact_mode.NONE:
                miss = abs(V[lam, r + e]) * d
            elif mode == contact_mode.GRIP:
                miss = abs(V[unknowns.SPEED, r + e])
            else:
                V[unknowns.TOWARD, r + e] = _toward(r, e, lam, size, law)
                miss = abs(V[lam, r + e] - bound * V[unknowns.TOWARD, r + e]) * d
            worst = max(worst, miss)
    return worst


@kernel
def keep_better(N, best, law):
    """Judge the vector NOW; keep it if it is the best so far. Returns the best error."""
    speeds_of(N, unknowns.NOW, 0.0, law)
    e = law_error(N, unknowns.NOW, law)
    if e < best:
        copy_vector(N, unknowns.NOW, unknowns.BEST, law)
        return e
    return best


@kernel
def largest_term(N, law):
    """The largest |b| + |W||λ| at the best impulses: what rounding is measured against."""
    V, W = law.V, law.W
    most = 1e-300
    for a in range(N):
        total = abs(V[unknowns.FREE, a])
        for c in range(N):
            total += abs(W[a, c] * V[unknowns.BEST, c])
        most = max(most, total)
    return most
