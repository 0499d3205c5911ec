"""Profile curves: how much worse the best fit becomes as one unknown is held at other values, the others fitted again.

The rise of half the squared misfit is ½ at one standard deviation, 1.92 at the ends of the 95% interval where it is a parabola; a
flat side is a value that the evidence does not bound.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.errors import bad_input
from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array


@dataclass(frozen=True)
class LikelihoodProfile:
    """Values of one unknown, the rise of half the squared misfit there, and the others' values (path → values)."""

    path: str
    values: Array
    rise: Array
    others: dict[str, Array]


def likelihood_profile(problem: FitProblem, values: dict[str, float], path: str, std: float | None = None, count: int = 15
                  ) -> LikelihoodProfile:
    """Return a curve of an unknown around fitted values.

    Parameters
    ----------
    problem : the least-squares problem
    path : path of the number
    count : how many
    values : path → fitted value
    std : of the unknown; the curve goes three of them to both sides, or over the whole range without one

    Raises
    ------
    InputError
        If the path is no free unknown.
    """
    index = next((k for k, u in enumerate(problem.unknowns) if u.path == path), None)
    if index is None:
        raise bad_input("path", repr(path), "one of the free unknowns: " + ", ".join(u.path for u in problem.unknowns))
    unknown = problem.unknowns[index]
    best = LevenbergMarquardt(most=15, enough=1e-3).minimise(problem, _start(problem, values)).point
    middle = best.p[index]
    low, high = 0.0, 1.0
    if std is not None:
        here = from_unit_box(unknown, middle)
        low, high = (to_unit_box(unknown, v) for v in (max(here - 3 * std, unknown.low), min(here + 3 * std, unknown.high)))
    grid = np.unique(np.concatenate([np.linspace(low, high, count), [middle]]))
    points = {float(middle): best}
    for side in (grid[grid > middle], grid[grid < middle][::-1]):
        near = best
        for u in side:
            near = points[float(u)] = _held(problem, near, index, float(u))
    ordered = [points[float(u)] for u in grid]
    names = [u.path for u in problem.unknowns]
    found = [problem.values(p.p) for p in ordered]
    return LikelihoodProfile(path, np.array([from_unit_box(unknown, float(u)) for u in grid]),
                        np.array([p.cost for p in ordered]) - min(p.cost for p in ordered),
                        {name: np.array([t[name] for t in found]) for name in names if name != path})


def _start(problem: FitProblem, values: dict[str, float]) -> Point:
    from yapa.fitting.optimise.jacobian import with_best_offsets

    return evaluate(problem, with_best_offsets(problem, problem.vector(values)))


def _held(problem: FitProblem, near: Point, index: int, u: float) -> Point:
    hold = np.zeros(problem.size, bool)
    hold[index] = True
    p = near.p.copy()
    p[index] = u
    return LevenbergMarquardt(most=10, fixed=hold).minimise(problem, p).point
