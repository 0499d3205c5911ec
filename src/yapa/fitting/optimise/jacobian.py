"""The Jacobian: residuals and their finite-difference derivatives at a vector.

The Jacobian is by forward differences of 1e-7 of the box, turned inward at an upper bound; the engine is smooth to 1e-9 and
better, so they agree with central ones to four digits. In a stepped profile outcomes are jagged, and differences are central and
wider than the teeth. Angle offsets enter linearly and cost no simulation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.optimise import differences
from yapa.fitting.optimise.least_squares import LeastSquares
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

POOR = 1.3
"""Mean clipped squared residual above which an answer is poor: it is held against others, and more is tried."""
DIFFERENCE_STEP = 1e-7
"""of the unit box: of a finite difference"""
COARSE_STEP = 3e-3
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


def jacobian(problem: LeastSquares, p: Array, r: Array, horizon: float | None = None, central: bool = False,
             fixed: NDArray[np.bool_] | None = None) -> Array:
    """Return derivative of the residuals by the vector; columns of fixed entries are left zero.

    Parameters
    ----------
    problem : the least-squares problem
    p : vector of unknowns, in their unit box, then angle offsets
    r : residuals in standard deviations
    horizon : time [s] beyond which residuals are zero
    central : whether differences are taken on both sides
    fixed : (P,) entries that stay
    """
    def residuals(q: Array) -> Array:
        return problem.residuals(q, horizon)

    count = problem.size - problem.offsets
    J = np.zeros((len(r), problem.size))
    for j in range(count):
        if fixed is not None and fixed[j]:
            continue
        fine = COARSE_STEP if problem.coarse else DIFFERENCE_STEP
        step = max(1e-5, fine) if central else fine
        if (central or problem.coarse) and step <= p[j] <= 1 - step:
            J[:, j] = differences.central(residuals, p, j, step)
        else:
            J[:, j] = differences.forward(residuals, p, r, j, fine)
    if problem.offsets:
        J[:, count:] = problem.slopes_of_zeros(len(r), horizon)
    return J


def evaluate(problem: LeastSquares, p: Array, horizon: float | None = None) -> Point:
    """Return residuals at a vector.

    Parameters
    ----------
    problem : the least-squares problem
    p : vector of unknowns, in their unit box, then angle offsets
    horizon : time [s] beyond which residuals are zero
    """
    r = problem.residuals(p, horizon)
    return Point(p, r, 0.5 * float(r @ r))


def with_best_offsets(problem: FitProblem, p: Array) -> Array:
    """Return the vector with each angle offset at its best for these unknowns.

    Parameters
    ----------
    problem : the least-squares problem
    p : vector of unknowns, in their unit box, then angle offsets
    """
    if not problem.offsets:
        return p
    p = p.copy()
    p[len(problem.unknowns) :] = 0.0
    r = problem.residuals(p)
    for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
        if place.angle is not None and e.offset is not None:
            early = r[place.angle.start : place.angle.start + max(5, place.frames // 20)]
            p[len(problem.unknowns) + e.offset] = -float(np.median(early)) * e.data.sigma_angle
    return p
