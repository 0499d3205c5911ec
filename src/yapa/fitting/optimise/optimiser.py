"""The one interface of the optimisers: an object of options that minimises a problem from a start."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.optimise.least_squares import LeastSquares
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

Report = Callable[[Point], None]
"""Hears every point that is better than those before it."""


@dataclass(frozen=True)
class Found:
    """Where an optimiser ended, whether nothing more is to be gained there, and the last Jacobian it measured or corrected."""

    point: Point
    settled: bool
    J: Array | None = None


class Optimiser(Protocol):
    """Minimises the residuals of a problem; its options are the fields of the class that implements it."""

    def minimise(self, problem: FitProblem, start: Array | Point, report: Report | None = None) -> Found:
        """Return where it ended.

        Parameters
        ----------
        problem : the residuals, their unknowns and bounds
        start : (P,) vector, unknowns in the unit box, or a point already evaluated
        report : is called with every better point
        """
        ...


def bounds_of(problem: LeastSquares) -> tuple[Array, Array]:
    """Return the lowest and highest entries of a vector: the unit box for unknowns, none for free zeros of angles.

    Parameters
    ----------
    problem : the least-squares problem

    Returns
    -------
    Two arrays (P,).
    """
    count = problem.size - problem.offsets
    return (np.concatenate([np.zeros(count), np.full(problem.offsets, -np.inf)]),
            np.concatenate([np.ones(count), np.full(problem.offsets, np.inf)]))


def begun(problem: LeastSquares, start: Array | Point) -> Point:
    """Return a start as an evaluated point, inside the bounds.

    Parameters
    ----------
    problem : the least-squares problem
    start : (P,) vector or a point already evaluated
    """
    return start if isinstance(start, Point) else evaluate(problem, np.clip(start, *bounds_of(problem)))
