"""Trust-region least squares from one start: SciPy's reflective method on the unit box."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.optimise.jacobian import Point, evaluate, jacobian
from yapa.fitting.optimise.optimiser import Found, Optimiser, Report, bounds_of
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array


@dataclass(frozen=True)
class TrustRegion(Optimiser):
    """Least squares from a start that may be far, over a growing part of the motion.

    Parameters
    ----------
    horizon : time [s] beyond which residuals are zero
    most : evaluations at most
    fixed : (P,) mask of entries to hold
    """

    horizon: float | None = None
    most: int = 40
    fixed: NDArray[np.bool_] | None = None

    def minimise(self, problem: FitProblem, start: Array | Point, report: Report | None = None) -> Found:
        """Return the best point met and whether it is stationary.

        Parameters
        ----------
        problem : the least-squares problem
        start : where it begins
        report : is called with every better point
        """
        from scipy.optimize import least_squares

        horizon = self.horizon
        free = np.ones(problem.size, bool) if self.fixed is None else ~self.fixed
        low, high = bounds_of(problem)
        best = evaluate(problem, np.clip(start.p if isinstance(start, Point) else start, low, high), horizon)
        if not free.any():
            return Found(best, True)
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
            xtol=1e-10, gtol=1e-9, max_nfev=self.most,
        )
        return Found(best, result.status > 0)
