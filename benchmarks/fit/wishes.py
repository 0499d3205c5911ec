"""Wanted outcomes: whether they are met, for how many simulations, and how near the nearest solution is."""

from __future__ import annotations

import numpy as np

from benchmarks.fit.wanted import drawn
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.optimise.minimum_change import ClosestSolution, MinimumChange, meets_with_margin
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.targets.search import Search
from yapa.fitting.targets.solve import solve


def first(job: tuple[str, int]) -> tuple[bool, int]:
    """Whether the first solution meets every target, and its simulations."""
    name, seed = job
    search = Search(drawn(name, np.random.default_rng([seed, 3])))
    point = search.first_solution()
    return search.solution(point).met, search.first or search.problem.simulations


def nearness(job: tuple[str, int, int]) -> float | None:
    """Change of the nearest solution over that of a brute-force search: many random starts, a walk to the nearest from each."""
    name, seed, starts = job
    case = drawn(name, np.random.default_rng([seed, 3]))
    found = solve(case)
    if not found.found:
        return None
    problem = FitProblem(case)
    home, rng = problem.vector(), np.random.default_rng(seed)
    best = np.inf
    for _ in range(starts):
        point = LevenbergMarquardt(most=12, reach=0.05, enough=1e-6).minimise(problem, rng.random(len(home))).point
        if point.cost > 400:
            continue
        point = MinimumChange(home, most=40).minimise(problem, point).point
        if meets_with_margin(problem, point):
            point = ClosestSolution(home).minimise(problem, point).point
            best = min(best, float(np.linalg.norm(point.p - home)))
    return found.found[0].change / best if np.isfinite(best) else None
