"""Points where a signed outcome changes its sign: a plank that tips one way on one side of them, and the other way on the other.

A wish for little tilt has no slope that leads there from afar: on either side the plank lies on its stop. The turn about y has a
sign, and
a sign change between two values of a number is closed in by halving.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import CATALOGUE

SIGNED = {"tilt": "turn", "topple": "turn", "side angle": "turn"}
"""outcomes whose size alone is wanted, and the one that has their sign"""
POINTS, HALVINGS = 17, 20
"""looked at over the range of a number, and halvings of a bracket"""


def sign_changes(problem: FitProblem, home: Array) -> Iterator[Point]:
    """Yield points where a signed outcome of a target changes its sign along one of the unknowns.

    Parameters
    ----------
    problem : with targets
    home : vector to look from

    Returns
    -------
    Evaluated points, along one unknown after the other.
    """
    for target, body in problem.targets:
        name = SIGNED.get(target.outcome)
        if name is None or target.each is not None or target.condition not in ("at most", "equal", "within"):
            continue
        query = OutcomeQuery(time=target.time)

        def sign(p: Array, name: str = name, body: str = body, query: OutcomeQuery = query) -> float:
            value = CATALOGUE[name].read(problem.motion(problem.values(p)), body, query)
            return float(np.sign(value.value_or_surrogate))

        for j in range(len(problem.unknowns)):
            grid = np.linspace(0.0, 1.0, POINTS)
            found = [sign(_at(home, j, float(u))) for u in grid]
            for k in np.flatnonzero(np.array(found[1:]) * np.array(found[:-1]) < 0):
                low, high, left = float(grid[k]), float(grid[k + 1]), found[k]
                for _ in range(HALVINGS):
                    middle = 0.5 * (low + high)
                    low, high = (middle, high) if sign(_at(home, j, middle)) == left else (low, middle)
                yield evaluate(problem, _at(home, j, 0.5 * (low + high)))


def _at(p: Array, j: int, u: float) -> Array:
    q = p.copy()
    q[j] = u
    return q
