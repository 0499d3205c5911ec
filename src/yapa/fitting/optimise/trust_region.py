"""Least squares from one start: SciPy's trust-region reflective method on the unit box."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.optimise.jacobian import Point, evaluate, jacobian
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array


def refine(
    problem: FitProblem,
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
