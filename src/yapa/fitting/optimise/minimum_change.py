"""Targets: of the solutions, the one nearest to the present values.

Iterate u ← u₀ + J⁺(J(u - u₀) - r): of all vectors that meet the linearised targets, the one nearest to the start u₀ (Euclidean,
in the unit box). J⁺ is damped (λ = 1e-4), steps are at most 0.35 of the box and halved until the misses shrink, and unknowns that
would leave the box are held at its wall. After a step that went as foretold J is corrected by it (Broyden) instead of measured
again. A point that meets the targets but could stand nearer is left for a nearer one that misses them by little, and the
iteration goes on from there.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from yapa.fitting.optimise.jacobian import COARSE, STEP, Point, evaluate, jacobian
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

GOOD = 1e-3
"""Targets are met to a thousandth of their tolerance."""
LONGEST = 0.35
DAMPING = 1e-4
SETTLED = 1e-4
"""Of the box: a solution that moves less is the nearest."""


def pulled_step(u: Array, home: Array, r: Array, J: Array) -> Array:
    """The next vector: meets the linearised targets, nearest to home, inside the box."""
    rows = np.abs(J).max(axis=1) > 1e-9
    J, r = J[rows], r[rows]
    free = np.ones(len(u), bool)
    target = u.copy()
    for _ in range(len(u)):
        A = J[:, free]
        want = A @ (u - home)[free] - r - J[:, ~free] @ (target - u)[~free]
        # each target on its own scale, so that the damping is alike for all
        size = np.maximum(np.linalg.norm(A, axis=1), 1e-9)
        A, want = A / size[:, None], want / size
        target[free] = home[free] + A.T @ np.linalg.solve(A @ A.T + DAMPING**2 * np.eye(len(r)), want)
        outside = free & ((target < 0) | (target > 1))
        if not outside.any():
            break
        target[outside] = np.clip(target[outside], 0, 1)
        free &= ~outside
        if not free.any():
            break
    return np.clip(target, 0.0, 1.0)


def solved(point: Point) -> bool:
    """Whether all targets are met to the full."""
    return bool(np.abs(point.r).max() < GOOD)


def met_well(problem: FitProblem, point: Point) -> bool:
    """Whether all targets are met well inside their tolerances, though not to the full: an outcome may be jagged there."""
    return len(point.r) == len(problem.well) and bool((np.abs(point.r) <= problem.well).all())


def pull_towards(problem: FitProblem, start: Array | Point, home: Array, most: int = 25,
                 report: Callable[[Point], None] | None = None) -> Point:
    """Meet the targets from a start, staying as near home as they allow."""
    here = start if isinstance(start, Point) else evaluate(problem, start)
    best = here
    if solved(here) and np.array_equal(here.p, home):
        return here
    J, fresh = jacobian(problem, here.p, here.r), True
    for _ in range(most):
        step = pulled_step(here.p, home, here.r, J) - here.p
        size = float(np.linalg.norm(step))
        if size < 1e-9:
            break
        step *= min(1.0, LONGEST / size)
        there = _tried(problem, here, step, home)
        if there is None:
            if fresh:
                break
            J, fresh = jacobian(problem, here.p, here.r), True
            continue
        moved = there.p - here.p
        foretold = here.r + J @ moved
        good = np.linalg.norm(there.r - foretold) < 0.3 * np.linalg.norm(here.r) + GOOD and not _switched(here, there)
        settled = solved(here) and solved(there) and float(np.linalg.norm(moved)) < SETTLED
        if good:
            J = J + np.outer((there.r - foretold) / float(moved @ moved), moved)
        here, fresh = there, False
        if _better(here, best, home):
            best = here
            if report is not None:
                report(best)
        if settled:
            break
        if not good:
            J, fresh = jacobian(problem, here.p, here.r), True
    return best


def _switched(a: Point, b: Point) -> bool:
    """Whether a target came into play or went out of it."""
    return bool(((np.abs(a.r) < 1e-12) != (np.abs(b.r) < 1e-12)).any())


def _tried(problem: FitProblem, here: Point, step: Array, home: Array) -> Point | None:
    """The first of ever shorter steps that helps."""
    share = 1.0
    for _ in range(6):
        there = evaluate(problem, np.clip(here.p + share * step, 0, 1))
        if there.cost < here.cost * (1 - 0.1 * share):
            return there
        if solved(here) and np.linalg.norm(there.p - home) < np.linalg.norm(here.p - home) and np.abs(there.r).max() < 0.5:
            return there
        share *= 0.4
    return None


def _better(here: Point, best: Point, home: Array) -> bool:
    if solved(here) != solved(best):
        return solved(here)
    if solved(here):
        return bool(np.linalg.norm(here.p - home) < np.linalg.norm(best.p - home))
    return here.cost < best.cost


def walk_nearer(problem: FitProblem, point: Point, home: Array, most: int = 30) -> Point:
    """Along the solutions from one of them to where they come nearest to home: half the squared change under the targets as
    constraints (SciPy's SLSQP), since bounds that are met have no slope of their own. The point itself if nothing nearer meets
    the targets."""
    laid = _Laid(problem)
    tried: list[Array] = []

    def passed(u: Array) -> None:
        tried.append(np.clip(u, 0.0, 1.0))

    constraints: Any = [
        {"type": kind, "fun": lambda u, k=k: laid.at(u)[k], "jac": lambda u, k=k: laid.slopes(u)[k]}
        for k, kind in enumerate(("eq", "ineq")) if len(laid.at(point.p)[k])]

    def change(u: Array) -> tuple[float, Array]:
        return 0.5 * float((u - home) @ (u - home)), u - home

    from scipy.optimize import minimize

    search: Any = minimize
    search(change, point.p, jac=True, method="SLSQP", bounds=[(0.0, 1.0)] * len(home), constraints=constraints, callback=passed,
           options={"maxiter": most, "ftol": 1e-7})
    before = float(np.linalg.norm(point.p - home))
    for u in reversed(tried):
        if np.linalg.norm(u - home) < before - SETTLED:
            there = evaluate(problem, u)
            if met_well(problem, there):
                return there
    return point


class _Laid:
    """Misses and room of the targets, and their slopes, kept for the vector asked for last."""

    def __init__(self, problem: FitProblem) -> None:
        self.problem = problem
        self._at: tuple[Array, tuple[Array, Array]] | None = None
        self._slopes: tuple[Array, tuple[Array, Array]] | None = None

    def at(self, u: Array) -> tuple[Array, Array]:
        u = np.clip(u, 0.0, 1.0)
        if self._at is None or not np.array_equal(self._at[0], u):
            self._at = (u.copy(), self.problem.room(u))
        return self._at[1]

    def slopes(self, u: Array) -> tuple[Array, Array]:
        u = np.clip(u, 0.0, 1.0)
        if self._slopes is None or not np.array_equal(self._slopes[0], u):
            here, columns = self.at(u), []
            step = COARSE if self.problem.coarse else STEP
            for j in range(len(u)):
                q = u.copy()
                q[j] += step if u[j] + step <= 1.0 else -step
                there = self.problem.room(q)
                columns.append([(there[k] - here[k]) / (q[j] - u[j]) for k in range(2)])
            misses, rooms = (np.array([c[k] for c in columns]).T for k in range(2))
            self._slopes = (u.copy(), (misses, rooms))
        return self._slopes[1]
