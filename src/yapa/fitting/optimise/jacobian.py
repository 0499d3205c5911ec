"""Residuals and their derivative at a vector.

The Jacobian is by forward differences of 1e-7 of the box, turned inward at an upper bound; the engine is smooth to 1e-9 and
better, so they agree with central ones to four digits. In a stepped profile outcomes are jagged, and differences are central and
wider than the teeth. Angle offsets enter linearly and cost no simulation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.problem.problem import FitProblem
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


def jacobian(problem: FitProblem, p: Array, r: Array, horizon: float | None = None, central: bool = False,
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
    for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
        if e.data.angle is not None and e.offset is not None:
            seen = np.isfinite(e.data.angle)
            if horizon is not None:
                seen = seen & (e.data.t <= horizon)
            w = 1.0 if problem.robust_weights is None else problem.robust_weights[place.angle]
            J[place.angle, count + e.offset] = seen * w / e.data.sigma_angle
    return J


def evaluate(problem: FitProblem, p: Array, horizon: float | None = None) -> Point:
    """Residuals at a vector."""
    r = problem.residuals(p, horizon)
    return Point(p, r, 0.5 * float(r @ r))


def with_best_offsets(problem: FitProblem, p: Array) -> Array:
    """The vector with each angle offset at its best for these unknowns."""
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
