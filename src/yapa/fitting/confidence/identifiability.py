"""What the evidence knows only together: undetermined directions of the Jacobian, in words.

Along a direction d of the unit box that the evidence does not feel, unknowns change by factors: their logarithms by
e_k = d_k s_k / x_k, s_k the size of the box. For two unknowns x, y the combination that stays as it is, and so is known,
is x^(e_y) y^(-e_x): their ratio where e_x = e_y, their product where e_x = -e_y, else a ratio with a power.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.case.quantities import kind_of, label_of, quantity_of
from yapa.case.unknowns import from_unit_box
from yapa.fitting.optimise.jacobian import Point
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

SHARE = 0.12
"""Of the longest part of a direction: unknowns with less are not in it."""


@dataclass(frozen=True)
class UndeterminedDirection:
    """Unknowns of which only a combination is known, and how to say so."""

    paths: tuple[str, ...]
    words: str


def undetermined_directions(problem: FitProblem, best: Point, weak: list[Array]) -> list[UndeterminedDirection]:
    """Return every undetermined direction that more than one unknown takes part in.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    weak : (K, P) undetermined directions of the Jacobian
    """
    out = []
    for direction in weak:
        d = direction[: len(problem.unknowns)]
        if not np.abs(d).max() > 1e-9:
            continue
        inside = [int(k) for k in np.flatnonzero(np.abs(d) > SHARE * np.abs(d).max())]
        if len(inside) < 2:
            continue
        inside.sort(key=lambda k: (kind_of(problem.unknowns[k].path) != "mass", -abs(d[k])))
        out.append(UndeterminedDirection(tuple(problem.unknowns[k].path for k in inside), _words(problem, best, d, inside)))
    return out


def _words(problem: FitProblem, best: Point, d: Array, inside: list[int]) -> str:
    paths = [problem.unknowns[k].path for k in inside]
    names = _names(paths)
    heavy = any(kind_of(p) == "mass" for p in paths)
    mend = "fix one of them" + (", or add a collision with a body of known mass" if heavy else "")
    if len(inside) > 2:
        return f"only combinations of {', '.join(names[:-1])} and {names[-1]} are known: {mend}"
    rates = [_relative(problem, best, k, d[k]) for k in inside]
    if any(r is None for r in rates):
        way = "one rises as the other falls" if d[inside[0]] * d[inside[1]] < 0 else "both rise together"
        return f"only {names[0]} with {names[1]} is known ({way} without a trace): {mend}"
    a, b = (float(r) for r in rates if r is not None)
    power = a / b
    if abs(power - 1) < 0.2:
        return f"only {names[0]}/{names[1]} is known: {mend}"
    if abs(power + 1) < 0.2:
        return f"only the product of {names[0]} and {names[1]} is known: {mend}"
    word = f"{names[0]} over the power {abs(power):.2g} of {names[1]}" if power > 0 else (
        f"{names[0]} times the power {abs(power):.2g} of {names[1]}")
    return f"only {word} is known: {mend}"


def _relative(problem: FitProblem, best: Point, k: int, change: float) -> float | None:
    """The part of a direction as a change of the logarithm of the unknown; None near zero, where it has none."""
    unknown = problem.unknowns[k]
    value = from_unit_box(unknown, best.p[k])
    if unknown.transform == "log":
        return float(change * np.log(unknown.high / unknown.low))
    if abs(value) < 0.02 * (unknown.high - unknown.low):
        return None
    return float(change * (unknown.high - unknown.low) / value)


def _names(paths: list[str]) -> list[str]:
    """Short names where they tell the unknowns apart, whole ones otherwise."""
    short = [quantity_of(p).label for p in paths]
    return short if len(set(short)) == len(short) else [label_of(p) for p in paths]
