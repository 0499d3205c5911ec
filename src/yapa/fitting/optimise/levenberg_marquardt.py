"""Levenberg-Marquardt least squares near an answer in the unit box, sparing with simulations.

Minimise ½|r(p)|², r linearised by J. A step solves

    (JᵀJ + λ D) s = -Jᵀ r,      D = diag(JᵀJ), entries at a wall that the step would leave held there,

is clipped to the box, and kept where it lowers the cost; λ follows the ratio of the true to the predicted decrease (Nielsen,
1999). After a step that went as predicted, J is not measured again but corrected by it (Broyden, Math. Comp. 19, 1965):

    J ← J + (r⁺ - r - J s) sᵀ / (sᵀ s);

it is measured anew (one simulation an unknown) when a step disappoints, and once before the end. The search ends when the
decrease still predicted is a hundredth of what noise alone moves: half a squared misfit of 0.01 is 0.14 of a standard deviation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.optimise.differences import broyden
from yapa.fitting.optimise.jacobian import Point, evaluate, jacobian
from yapa.fitting.optimise.least_squares import LeastSquares
from yapa.fitting.optimise.optimiser import Found, Optimiser, Report, begun, bounds_of
from yapa.motion import Array

COST_TOLERANCE = 0.01
"""of half the squared residuals: a smaller gain ends the descent"""
MAX_STEP = 0.3
"""Of the box: the longest step in any unknown."""


@dataclass(frozen=True)
class LevenbergMarquardt(Optimiser):
    """Descent from a start that is close.

    Parameters
    ----------
    most : steps at most
    fixed : (P,) mask of entries to hold
    enough : decrease of the cost that is not worth another step
    hopeless : give up once the cost that two more good steps could reach is above this
    reach : a cost that is all that is asked for
    J : a Jacobian to begin with instead of measuring it
    """

    most: int = 25
    fixed: NDArray[np.bool_] | None = None
    enough: float = COST_TOLERANCE
    hopeless: float | None = None
    reach: float | None = None
    J: Array | None = None

    def minimise(self, problem: LeastSquares, start: Array | Point, report: Report | None = None) -> Found:
        """Descend from a start.

        Parameters
        ----------
        problem : the least-squares problem
        start : where it begins
        report : is called with every better point

        Returns
        -------
        Where the descent ended.
        """
        low, high = bounds_of(problem)
        held = np.zeros(problem.size, bool) if self.fixed is None else self.fixed
        enough, reach = self.enough, self.reach
        here = begun(problem, start)
        if reach is not None and here.cost <= reach:
            return Found(here, True, self.J)
        fresh = self.J is None
        slope = jacobian(problem, here.p, here.r, fixed=held) if self.J is None else self.J
        damping, growth = 1e-4, 2.0
        settled = False
        for step in range(self.most):
            if reach is not None and here.cost <= reach:
                break
            s, predicted = _step(here, slope, damping, held, low, high)
            if predicted <= enough * max(1.0, 2 * here.cost / max(len(here.r) - problem.size, 1)):
                if fresh or predicted <= 0.05 * enough:
                    settled = True
                    break
                slope, fresh = jacobian(problem, here.p, here.r, fixed=held), True
                continue
            if self.hopeless is not None and step >= 2 and here.cost - 2 * predicted > self.hopeless:
                break
            there = evaluate(problem, here.p + s)
            ratio = (here.cost - there.cost) / predicted
            if ratio > 1e-3:
                if ratio < 0.5:
                    stale = True
                else:
                    slope = broyden(slope, s, there.r - here.r)
                    stale = False
                here, fresh = there, False
                if report is not None:
                    report(here)
                damping *= max(0.1, 1 - (2 * ratio - 1) ** 3)
                growth = 2.0
                if stale:
                    slope, fresh = jacobian(problem, here.p, here.r, fixed=held), True
            elif not fresh:
                slope, fresh = jacobian(problem, here.p, here.r, fixed=held), True
            else:
                damping *= growth
                growth *= 2.0
                if damping > 1e8:
                    settled = True
                    break
        return Found(here, settled, slope)


def _step(here: Point, J: Array, damping: float, held: NDArray[np.bool_], low: Array, high: Array) -> tuple[Array, float]:
    """The damped step inside the box and the decrease it predicts."""
    H, g = J.T @ J, J.T @ here.r
    D = np.maximum(np.diag(H), 1e-12 * max(float(np.diag(H).max()), 1e-300))
    free = ~held & ~((here.p <= low) & (g > 0)) & ~((here.p >= high) & (g < 0))
    s = np.zeros(len(here.p))
    for _ in range(len(s)):
        if not free.any():
            break
        k = np.flatnonzero(free)
        rest = np.flatnonzero(~free)
        A = H[np.ix_(k, k)] + damping * np.diag(D[k])
        s[k] = np.linalg.lstsq(A, -g[k] - H[np.ix_(k, rest)] @ s[rest], rcond=1e-14)[0]
        out = free & ((here.p + s < low - 1e-15) | (here.p + s > high + 1e-15))
        if not out.any():
            break
        s[out] = np.clip(here.p[out] + s[out], low[out], high[out]) - here.p[out]
        free &= ~out
    longest = float(np.abs(s[np.isfinite(low)]).max(initial=0.0))
    if longest > MAX_STEP:
        s *= MAX_STEP / longest
    s = np.clip(here.p + s, low, high) - here.p
    change = J @ s
    return s, float(-(here.r @ change) - 0.5 * change @ change)
