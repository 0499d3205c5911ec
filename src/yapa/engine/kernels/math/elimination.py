"""Gaussian elimination, four columns at a time (Golub, Van Loan, Matrix Computations, ch. 3)."""

from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.math.simd import dot_fours, less_four, less_four_rows


@part
def _append_column(n, wide, A, x):
    """Write x beside A, and zeros up to whole fours."""
    for i in range(n):
        A[i, n] = x[i]
        for j in range(n + 1, wide):
            A[i, j] = 0.0


@part
def _eliminate_four(n, first, most, least, A):
    """Eliminate within four columns, from the rows below each. Returns the largest and the least pivot so far; 0 if one is none."""
    past = first + 4
    for k in range(first, min(past, n)):
        best, row = 0.0, k
        for i in range(k, n):
            if abs(A[i, k]) > best:
                best, row = abs(A[i, k]), i
        if best < 1e-300:
            return most, 0.0
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
    return most, least


@part
def _take_from_others(n, first, wide, A):
    """What four columns take from all those after them, at once."""
    past = first + 4
    for k in range(first + 1, past):
        less_four_rows(A, k, first, past, wide, A[k, first], A[k, first + 1] if k > first + 1 else 0.0,
                       A[k, first + 2] if k > first + 2 else 0.0, 0.0)
    for i in range(past, n):
        less_four_rows(A, i, first, past, wide, A[i, first], A[i, first + 1], A[i, first + 2], A[i, first + 3])


@part
def _substitute_back(n, A, x):
    """x of the triangle that is left, from its last row up."""
    for k in range(n - 1, -1, -1):
        whole, total = min((k + 4) & -4, n), A[k, n]
        for j in range(k + 1, whole):
            total -= A[k, j] * x[j]
        past = whole + ((n - whole) & -4)
        total -= dot_fours(A, k, x, whole, past)
        for j in range(past, n):
            total -= A[k, j] * x[j]
        x[k] = total / A[k, k]


@kernel
def lu_solve(n, A, x):
    """Solve A x = x by Gaussian elimination with partial pivoting; 0 if singular, 2 if nearly.

    A needs room for four columns more.
    """
    wide = (n + 4) & -4  # x stands beside A, and rows are whole fours
    _append_column(n, wide, A, x)
    most, least = 0.0, 1e300
    for first in range(0, n, 4):
        most, least = _eliminate_four(n, first, most, least, A)
        if least == 0.0:
            return 0
        if first + 4 > n:
            break
        _take_from_others(n, first, wide, A)
    _substitute_back(n, A, x)
    return 1 if least > 1e-6 * most else 2
