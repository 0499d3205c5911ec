"""Global search by differential evolution, for scenes of which no closed form gives a start.

SciPy's differential evolution (Storn and Price, J. Global Optim. 11, 1997) on the unit box, a generation at a time in threads or
by an executor. Half of the first generation stands around the best so far, half fills the box (Sobol). It ends once a vector agrees
with the evidence as closely as noise allows; a descent does the rest. The generations depend on the seed only, not on the threads.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.optimize import Bounds, differential_evolution
from scipy.stats import qmc

from yapa.fitting.optimise.jacobian import Point
from yapa.fitting.optimise.optimiser import Found, Optimiser, Report, begun
from yapa.fitting.problem.evaluator import ParallelEvaluator
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

MAX_GENERATIONS = 80
"""of the population"""
NEAR_SPREAD = 0.08
"""Of the box: how far the first half of a population stands around the best so far."""


@dataclass(frozen=True)
class DifferentialEvolution(Optimiser):
    """Search all over the ranges, or near the best so far.

    Parameters
    ----------
    runs : evaluates the rows of a generation together
    seed : of random numbers
    good : clipped mean squared residual that ends the search
    generations : how many at most
    near : of the box, how far the first half (without ``everywhere``, all) of the population stands around the start
    everywhere : whether half of the members begin all over the ranges
    met : every vector met is put here
    """

    runs: ParallelEvaluator
    seed: int
    good: float
    generations: int = MAX_GENERATIONS
    near: float = NEAR_SPREAD
    everywhere: bool = True
    met: list[Point] | None = None

    def minimise(self, problem: FitProblem, start: Array | Point, report: Report | None = None) -> Found:
        """Return the best vector found.

        Parameters
        ----------
        problem : the least-squares problem
        start : near it some members begin
        report : is called with the best so far after every generation
        """
        around = begun(problem, start)
        count = len(problem.unknowns)
        size = 32 if count <= 4 else 64
        rng = np.random.default_rng(self.seed)
        box = qmc.Sobol(count, rng=rng).random(size)
        nearby = size // 2 if self.everywhere else size
        first = np.clip(around.p[:count] + self.near * rng.normal(size=(nearby, count)), 0.0, 1.0)
        box[: len(first)] = first
        box[0] = around.p[:count]
        best = around

        def costs(columns: Array, /) -> Any:
            nonlocal best
            rows = np.column_stack([columns.T, np.zeros((columns.shape[1], problem.offsets))])
            out = np.empty(len(rows))
            for k, r in enumerate(self.runs.residuals(rows)):
                p, r = with_zeros(problem, rows[k], r)
                out[k] = 0.5 * float(r @ r)
                point = Point(p, r, float(out[k]))
                if self.met is not None:
                    self.met.append(point)
                if point.cost < best.cost:
                    best = point
            if report is not None:
                report(best)
            return out

        def enough(_x: Array, _convergence: Any, /) -> bool:
            return best.clipped <= self.good

        differential_evolution(
            costs, Bounds(np.zeros(count), np.ones(count)), maxiter=self.generations, init=box, tol=1e-8, atol=1e-8,
            mutation=(0.4, 0.9), recombination=0.8, polish=False, vectorized=True, updating="deferred", callback=enough, rng=rng)  # type: ignore[arg-type]
        return Found(best, best.clipped <= self.good)


def with_zeros(problem: FitProblem, p: Array, r: Array) -> tuple[Array, Array]:
    """Return a vector and its residuals with every free zero of an angle laid at the median.

    Parameters
    ----------
    problem : the least-squares problem
    p : vector of unknowns, in their unit box, then angle offsets
    r : residuals in standard deviations
    """
    if not problem.offsets:
        return p, r
    p, r = p.copy(), r.copy()
    for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
        if e.data.angle is not None and e.offset is not None:
            here = place.angle
            seen = np.isfinite(e.data.angle)
            middle = float(np.median(r[here][seen])) if seen.any() else 0.0
            r[here] = np.where(seen, r[here] - middle, r[here])
            p[len(problem.unknowns) + e.offset] -= middle * e.data.sigma_angle
    return p, r
