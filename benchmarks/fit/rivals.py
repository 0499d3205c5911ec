"""Well-known general methods on the same simulator and truths: least squares from many starts, and differential evolution."""

from __future__ import annotations

import numpy as np
from scipy.optimize import differential_evolution, least_squares
from scipy.stats import qmc

from benchmarks.fit.thrown import SETS, case_of, drawn, excess_of, recorded, wanted
from yapa.fitting.problem.problem import FitProblem


def _problem(name: str, seed: int):
    hard, what = SETS[name]
    rng = np.random.default_rng([seed, 7, len(name)])
    throw, end = drawn(rng, hard)
    samples, late = recorded(rng, throw, end, float(rng.choice([120.0, 240.0])), what)
    case = case_of(samples, what.late, end)
    return FitProblem(case), wanted(throw, late, case)


def many_starts(job: tuple[str, int]) -> tuple[bool, int]:
    """Ten Sobol starts of SciPy's least squares."""
    problem, truth = _problem(*job)
    best = None
    for u in qmc.Sobol(problem.size, seed=job[1]).random(16)[:10]:
        found = least_squares(problem.residuals, u, bounds=(0, 1), x_scale="jac", diff_step=1e-7, max_nfev=40)
        if best is None or found.cost < best.cost:
            best = found
    return excess_of(problem, problem.values(best.x), truth) < 4.0 + 0.5 * len(truth), problem.simulations


def evolution(job: tuple[str, int]) -> tuple[bool, int]:
    """SciPy's differential evolution with its polish."""
    problem, truth = _problem(*job)
    found = differential_evolution(
        lambda u: float(problem.residuals(u) @ problem.residuals(u)),
        [(0, 1)] * problem.size,
        maxiter=60,
        popsize=10,
        rng=job[1],
        polish=True,
        tol=1e-6,
    )
    return excess_of(problem, problem.values(found.x), truth) < 4.0 + 0.5 * len(truth), problem.simulations
