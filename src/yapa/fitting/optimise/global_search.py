"""A population search, for scenes of which no closed form gives a start.

SciPy's differential evolution (Storn and Price, J. Global Optim. 11, 1997) on the unit box, a generation at a time in threads or
by an executor. Half of the first generation stands around the best so far, half fills the box (Sobol). It ends once a vector agrees
with the evidence as closely as noise allows; a descent does the rest. The generations depend on the seed only, not on the threads.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.optimize import Bounds, differential_evolution
from scipy.stats import qmc

from yapa.fitting.optimise.jacobian import Point
from yapa.fitting.problem.evaluator import Runs
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

GENERATIONS = 80
NEAR = 0.08
"""Of the box: how far the first half of a population stands around the best so far."""


def search_population(
    problem: FitProblem, runs: Runs, around: Point, seed: int, good: float, report: Callable[[Point], None] | None = None, *,
    generations: int = GENERATIONS, near: float = NEAR, everywhere: bool = True, met: list[Point] | None = None,
) -> Point:
    """The best vector found.

    Parameters
    ----------
    good : clipped mean squared residual that ends the search
    met : every vector met is put here
    near : of the box, how far the first half (without ``everywhere``, all) of the population stands around the best so far
    """
    count = len(problem.unknowns)
    size = 32 if count <= 4 else 64
    rng = np.random.default_rng(seed)
    box = qmc.Sobol(count, rng=rng).random(size)
    nearby = size // 2 if everywhere else size
    first = np.clip(around.p[:count] + near * rng.normal(size=(nearby, count)), 0.0, 1.0)
    box[: len(first)] = first
    box[0] = around.p[:count]
    best = around

    def costs(columns: Array, /) -> Any:
        nonlocal best
        rows = np.column_stack([columns.T, np.zeros((columns.shape[1], problem.offsets))])
        out = np.empty(len(rows))
        for k, r in enumerate(runs.residuals(rows)):
            p, r = with_zeros(problem, rows[k], r)
            out[k] = 0.5 * float(r @ r)
            point = Point(p, r, float(out[k]))
            if met is not None:
                met.append(point)
            if point.cost < best.cost:
                best = point
        if report is not None:
            report(best)
        return out

    def enough(_x: Array, _convergence: Any, /) -> bool:
        return best.clipped <= good

    differential_evolution(
        costs, Bounds(np.zeros(count), np.ones(count)), maxiter=generations, init=box, tol=1e-8, atol=1e-8,
        mutation=(0.4, 0.9), recombination=0.8, polish=False, vectorized=True, updating="deferred", callback=enough, rng=rng)  # type: ignore[arg-type]
    return best


def with_zeros(problem: FitProblem, p: Array, r: Array) -> tuple[Array, Array]:
    """A vector and its residuals with every free zero of an angle laid at the median."""
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
