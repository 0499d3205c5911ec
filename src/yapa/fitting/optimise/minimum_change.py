"""Minimum change: of the solutions that meet the targets, the one nearest to the present values.

Iterate u ← u₀ + J⁺(J(u - u₀) - r): of all vectors that meet the linearised targets, the one nearest to the start u₀ (Euclidean,
in the unit box). J⁺ is damped (λ = 1e-4), steps are at most 0.35 of the box and halved until the misses shrink, and unknowns that
would leave the box are held at its wall. After a step that went as foretold J is corrected by it (Broyden) instead of measured
again. A point that meets the targets but could stand nearer is left for a nearer one that misses them by little, and the
iteration goes on from there.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from yapa.fitting.optimise.differences import broyden, forward
from yapa.fitting.optimise.jacobian import COARSE_STEP, DIFFERENCE_STEP, Point, evaluate, jacobian
from yapa.fitting.optimise.optimiser import Found, Optimiser, Report, begun
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

TARGET_TOLERANCE = 1e-3
"""Targets are met to a thousandth of their tolerance."""
MAX_STEP = 0.35
"""of the unit box: longest step"""
DAMPING = 1e-4
"""of the minimum-norm step, relative to the largest singular value"""
STEP_TOLERANCE = 1e-4
"""Of the box: a solution that moves less is the nearest."""


def minimum_norm_step(u: Array, home: Array, r: Array, J: Array) -> Array:
    """Return the next vector: meets the linearised targets, nearest to home, inside the box.

    Parameters
    ----------
    u : vector in the unit box
    home : vector that the solution stays near
    r : residuals in standard deviations
    J : (N, P) Jacobian of the residuals
    """
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
    """Return whether all targets are met to the full.

    Parameters
    ----------
    point : an evaluated point
    """
    return bool(np.abs(point.r).max() < TARGET_TOLERANCE)


def meets_with_margin(problem: FitProblem, point: Point) -> bool:
    """Return whether all targets are met well inside their tolerances, though not to the full: an outcome may be jagged there.

    Parameters
    ----------
    problem : the least-squares problem
    point : an evaluated point
    """
    return len(point.r) == len(problem.acceptance_band) and bool((np.abs(point.r) <= problem.acceptance_band).all())


@dataclass(frozen=True)
class MinimumChange(Optimiser):
    """Meets the targets, staying as near home as they allow.

    Parameters
    ----------
    home : (P,) vector that the solution stays near
    most : steps at most
    """

    home: Array
    most: int = 25

    def minimise(self, problem: FitProblem, start: Array | Point, report: Report | None = None) -> Found:
        """Return the point that was reached, settled where it meets the targets to the full.

        Parameters
        ----------
        problem : the targets
        start : where it begins
        report : is called with every better point
        """
        home = self.home
        here = begun(problem, start)
        best = here
        if solved(here) and np.array_equal(here.p, home):
            return Found(here, True)
        J, fresh = jacobian(problem, here.p, here.r), True
        for _ in range(self.most):
            step = minimum_norm_step(here.p, home, here.r, J) - here.p
            size = float(np.linalg.norm(step))
            if size < 1e-9:
                break
            step *= min(1.0, MAX_STEP / size)
            there = _tried(problem, here, step, home)
            if there is None:
                if fresh:
                    break
                J, fresh = jacobian(problem, here.p, here.r), True
                continue
            moved = there.p - here.p
            foretold = here.r + J @ moved
            close = np.linalg.norm(there.r - foretold) < 0.3 * np.linalg.norm(here.r) + TARGET_TOLERANCE
            good = close and not _switched(here, there)
            settled = solved(here) and solved(there) and float(np.linalg.norm(moved)) < STEP_TOLERANCE
            if good:
                J = broyden(J, moved, there.r - here.r)
            here, fresh = there, False
            if _better(here, best, home):
                best = here
                if report is not None:
                    report(best)
            if settled:
                break
            if not good:
                J, fresh = jacobian(problem, here.p, here.r), True
        return Found(best, solved(best), J)


def _switched(a: Point, b: Point) -> bool:
    """Whether a target came into play or went out of it."""
    return bool(((np.abs(a.r) < 1e-12) != (np.abs(b.r) < 1e-12)).any())


def _tried(problem: FitProblem, here: Point, step: Array, home: Array) -> Point | None:
    """The first of ever shorter steps that helps."""
    step_fraction = 1.0
    for _ in range(6):
        there = evaluate(problem, np.clip(here.p + step_fraction * step, 0, 1))
        if there.cost < here.cost * (1 - 0.1 * step_fraction):
            return there
        if solved(here) and np.linalg.norm(there.p - home) < np.linalg.norm(here.p - home) and np.abs(there.r).max() < 0.5:
            return there
        step_fraction *= 0.4
    return None


def _better(here: Point, best: Point, home: Array) -> bool:
    if solved(here) != solved(best):
        return solved(here)
    if solved(here):
        return bool(np.linalg.norm(here.p - home) < np.linalg.norm(best.p - home))
    return here.cost < best.cost


@dataclass(frozen=True)
class ClosestSolution(Optimiser):
    """Walks along the solutions to where they come nearest to home.

    Half the squared change is minimised under the targets as constraints (SciPy's SLSQP), since bounds that are met have no slope
    of their own.

    Parameters
    ----------
    home : (P,) vector that the solution comes near
    most : steps at most
    """

    home: Array
    most: int = 30

    def minimise(self, problem: FitProblem, start: Array | Point, report: Report | None = None) -> Found:
        """Return the nearest point that meets the targets, or, not settled, the start if none is nearer.

        Parameters
        ----------
        problem : the targets
        start : a point that meets them
        report : is called with the nearer point
        """
        home, point = self.home, begun(problem, start)
        cached = _Constraints(problem)
        tried: list[Array] = []

        def passed(u: Array) -> None:
            tried.append(np.clip(u, 0.0, 1.0))

        constraints: Any = [
            {"type": kind, "fun": lambda u, k=k: cached.at(u)[k], "jac": lambda u, k=k: cached.slopes(u)[k]}
            for k, kind in enumerate(("eq", "ineq")) if len(cached.at(point.p)[k])]

        def change(u: Array) -> tuple[float, Array]:
            return 0.5 * float((u - home) @ (u - home)), u - home

        from scipy.optimize import minimize

        search: Any = minimize
        search(change, point.p, jac=True, method="SLSQP", bounds=[(0.0, 1.0)] * len(home), constraints=constraints, callback=passed,
               options={"maxiter": self.most, "ftol": 1e-7})
        before = float(np.linalg.norm(point.p - home))
        for u in reversed(tried):
            if np.linalg.norm(u - home) < before - STEP_TOLERANCE:
                there = evaluate(problem, u)
                if meets_with_margin(problem, there):
                    if report is not None:
                        report(there)
                    return Found(there, True)
        return Found(point, False)


class _Constraints:
    """Misses and room of the targets, and their slopes, kept for the vector asked for last."""

    def __init__(self, problem: FitProblem) -> None:
        self.problem = problem
        self._at: tuple[Array, tuple[Array, Array]] | None = None
        self._slopes: tuple[Array, tuple[Array, Array]] | None = None

    def at(self, u: Array) -> tuple[Array, Array]:
        u = np.clip(u, 0.0, 1.0)
        if self._at is None or not np.array_equal(self._at[0], u):
            self._at = (u.copy(), self.problem.constraint_slack(u))
        return self._at[1]

    def slopes(self, u: Array) -> tuple[Array, Array]:
        u = np.clip(u, 0.0, 1.0)
        if self._slopes is None or not np.array_equal(self._slopes[0], u):
            here, step = self.at(u), COARSE_STEP if self.problem.coarse else DIFFERENCE_STEP
            both = np.concatenate(here)
            J = np.array([forward(lambda q: np.concatenate(self.problem.constraint_slack(q)), u, both, j, step)
                          for j in range(len(u))]).T
            self._slopes = (u.copy(), (J[: len(here[0])], J[len(here[0]) :]))
        return self._slopes[1]
