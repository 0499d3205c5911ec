"""Least squares from one start: SciPy's trust-region reflective method on the unit box.

The Jacobian is by forward differences of 1e-7 of the box, turned inward at an upper bound; the
engine is smooth to 1e-9 and better, so they agree with central ones to four digits. In a stepped profile outcomes are
jagged, and differences are central and wider than the teeth. Angle
offsets enter linearly and cost no simulation.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.problem import Problem
from yapa.motion import Array

POOR = 1.3
"""Mean clipped squared residual above which an answer is poor: it is held against others, and more is tried."""
STEP = 1e-7
COARSE = 3e-3
"""Of the box: differences in a stepped profile, wider than the teeth of its outcomes."""


@dataclass(frozen=True)
class Point:
    """A vector with its residuals and half their square."""

    p: Array
    r: Array
    cost: float

    @property
    def clipped(self) -> float:
        """Mean of residuals squared, each clipped at 9: outliers do not rule it."""
        return float(np.mean(np.minimum(self.r**2, 9.0)))


def jacobian(problem: Problem, p: Array, r: Array, horizon: float | None = None, central: bool = False,
             fixed: NDArray[np.bool_] | None = None) -> Array:
    """Derivative of the residuals by the vector; columns of fixed entries are left zero."""
    count = len(problem.unknowns)
    J = np.zeros((len(r), problem.size))
    for j in range(count):
        if fixed is not None and fixed[j]:
            continue
        fine = COARSE if problem.coarse else STEP
        step = max(1e-5, fine) if central else fine
        q = p.copy()
        if (central or problem.coarse) and step <= p[j] <= 1 - step:
            q[j] = p[j] + step
            ahead = problem.residuals(q, horizon)
            q[j] = p[j] - step
            J[:, j] = (ahead - problem.residuals(q, horizon)) / (2 * step)
            continue
        step = fine if p[j] + fine <= 1.0 else -fine
        q[j] = p[j] + step
        J[:, j] = (problem.residuals(q, horizon) - r) / step
    row = 0
    for e in problem.evidence:
        row += len(e.rows) * len(e.columns)
        if e.data.angle is not None:
            if e.offset is not None:
                seen = np.isfinite(e.data.angle)
                if horizon is not None:
                    seen = seen & (e.data.t <= horizon)
                w = 1.0 if problem.robust_weights is None else problem.robust_weights[row : row + len(e.rows)]
                J[row : row + len(e.rows), count + e.offset] = seen * w / e.data.sigma_angle
            row += len(e.rows)
    return J


def evaluate(problem: Problem, p: Array, horizon: float | None = None) -> Point:
    """Residuals at a vector."""
    r = problem.residuals(p, horizon)
    return Point(p, r, 0.5 * float(r @ r))


def with_best_offsets(problem: Problem, p: Array) -> Array:
    """The vector with each angle offset at its best for these unknowns."""
    if not problem.offsets:
        return p
    p = p.copy()
    p[len(problem.unknowns) :] = 0.0
    r = problem.residuals(p)
    row = 0
    for e in problem.evidence:
        row += len(e.rows) * len(e.columns)
        if e.data.angle is not None:
            if e.offset is not None:
                early = slice(row, row + max(5, len(e.rows) // 20))
                p[len(problem.unknowns) + e.offset] = -float(np.median(r[early])) * e.data.sigma_angle
            row += len(e.rows)
    return p


def refine(
    problem: Problem,
    start: Array,
    horizon: float | None = None,
    most: int = 40,
    fixed: NDArray[np.bool_] | None = None,
    report: Callable[[Point], None] | None = None,
) -> tuple[Point, bool]:
    """Least squares from a start. Returns the best point met and whether it is stationary.

    Parameters
    ----------
    fixed : (P,) mask of entries to hold
    """
    from scipy.optimize import least_squares

    free = np.ones(problem.size, bool) if fixed is None else ~fixed
    low = np.concatenate([np.zeros(len(problem.unknowns)), np.full(problem.offsets, -np.inf)])
    high = np.concatenate([np.ones(len(problem.unknowns)), np.full(problem.offsets, np.inf)])
    best = evaluate(problem, np.clip(start, low, high), horizon)
    if not free.any():
        return best, True
    whole = best.p.copy()
    last: list[Point] = [best]

    def residuals(x: Array) -> Array:
        nonlocal best
        p = whole.copy()
        p[free] = x
        point = last[0] if np.array_equal(p, last[0].p) else evaluate(problem, p, horizon)
        last[0] = point
        if point.cost < best.cost:
            best = point
            if report is not None:
                report(best)
        return point.r

    def derivative(x: Array) -> Array:
        p = whole.copy()
        p[free] = x
        r = last[0].r if np.array_equal(p, last[0].p) else problem.residuals(p, horizon)
        return jacobian(problem, p, r, horizon)[:, free]

    inside = np.clip(best.p[free], low[free] + 1e-9, high[free] - 1e-9)
    result = least_squares(
        residuals, inside, derivative, bounds=(low[free], high[free]), method="trf", x_scale="jac", ftol=1e-7,
        xtol=1e-10, gtol=1e-9, max_nfev=most,
    )
    return best, result.status > 0
