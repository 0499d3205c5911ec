"""Targets: of the solutions, the one nearest to the present values.

Iterate u ← u₀ + J⁺(J(u - u₀) - r): of all vectors that meet the linearised targets, the one
nearest to the start u₀ (Euclidean, in the unit box). J⁺ is damped (λ = 1e-4), steps are at most
0.35 of the box and halved until the misses shrink, and unknowns that would leave the box are held
at its wall. Where the present values lead nowhere, Sobol points are tried in order of distance,
and what they find is pulled back towards the present values by the same iteration.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.stats import qmc

from yapa.fitting.problem import Problem
from yapa.fitting.refine import Point, evaluate, jacobian, refine
from yapa.motion import Array

GOOD = 1e-3
"""Targets are met to a thousandth of their tolerance."""
LONGEST = 0.35
DAMPING = 1e-4


def _pulled_step(u: Array, home: Array, r: Array, J: Array) -> Array:
    """The next vector: meets the linearised targets, nearest to home, inside the box."""
    free = np.ones(len(u), bool)
    target = u.copy()
    for _ in range(len(u)):
        A = J[:, free]
        want = J[:, free] @ (u - home)[free] - r - J[:, ~free] @ (target - u)[~free]
        inner = A @ A.T + DAMPING * np.eye(len(r)) * max(1.0, float(np.trace(A @ A.T)) / max(len(r), 1) * 1e-6)
        step = A.T @ np.linalg.solve(inner, want)
        target[free] = home[free] + step
        outside = free & ((target < 0) | (target > 1))
        if not outside.any():
            break
        target[outside] = np.clip(target[outside], 0, 1)
        free &= ~outside
        if not free.any():
            break
    return np.clip(target, 0.0, 1.0)


def _solved(point: Point) -> bool:
    return bool(np.abs(point.r).max() < GOOD)


def pull_towards(problem: Problem, start: Array, home: Array, most: int = 25,
                 report: Callable[[Point], None] | None = None) -> Point:
    """Meet the targets from a start, staying as near home as they allow."""
    here = evaluate(problem, start)
    best = here
    for _ in range(most):
        J = jacobian(problem, here.p, here.r)
        goal = _pulled_step(here.p, home, here.r, J)
        step = goal - here.p
        size = float(np.linalg.norm(step))
        if size < 1e-9:
            break
        step *= min(1.0, LONGEST / size)
        share = 1.0
        for _ in range(6):
            there = evaluate(problem, np.clip(here.p + share * step, 0, 1))
            if there.cost < here.cost * (1 - 0.1 * share) or (_solved(here) and _solved(there)):
                break
            share *= 0.5
        else:
            if there.cost >= here.cost:
                break
        moved = float(np.linalg.norm(there.p - here.p))
        here = there
        if here.cost < best.cost or (_solved(here) and np.linalg.norm(here.p - home) < np.linalg.norm(best.p - home)):
            best = here
            if report is not None:
                report(best)
        if _solved(here) and moved < 1e-5:
            break
    return best


def nearest_solution(problem: Problem, report: Callable[[Point], None] | None = None) -> tuple[Point, bool]:
    """The solution nearest to the present values, and whether the targets are met to the full."""
    home = problem.vector()
    best = pull_towards(problem, home, home, report=report)
    if _solved(best):
        return best, True
    sobol = qmc.Sobol(len(home), seed=problem.case.seed).random(16)
    for start in sorted(sobol, key=lambda s: float(np.linalg.norm(s - home))):
        found, _ = refine(problem, start, most=12)
        if found.cost < 0.5 * best.cost or np.abs(found.r).max() < 0.5:
            pulled = pull_towards(problem, found.p, home, report=report)
            found = pulled if pulled.cost <= found.cost else found
        if found.cost < best.cost:
            best = found
            if report is not None:
                report(best)
        if _solved(best):
            return best, True
    return best, False
