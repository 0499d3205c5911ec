"""The numbers that make an outcome largest or smallest within their ranges.

Sobol points over the box of the unknowns, then the simplex of Nelder and Mead (Computer Journal 7, 1965) within the box from the
best of
them: an outcome need not be smooth for it. Targets of the case that are missed count against a point, an event that is missing by
its
shortfall.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from scipy.optimize import minimize
from scipy.stats import qmc

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.units import amount_text
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.problem.result import at_walls
from yapa.fitting.questions.outcomes_at import OutcomesAt
from yapa.motion import Array
from yapa.outcomes import OutcomeValue

POINTS, FOLLOWED = 64, 3
"""of the first look, and how many of the best are followed"""
STEPS = 200
"""simulations of one simplex at most"""
CLOSE = 1e-5
"""of the box: a simplex smaller than this has ended"""


@dataclass(frozen=True)
class Best:
    """The numbers that make an outcome largest or smallest.

    Attributes
    ----------
    outcome, unit : what was asked for
    largest : whether the largest was, else the smallest
    values : path → value
    value : the outcome there; None where it does not occur
    before : the outcome at the case's own numbers
    simulations : what it cost
    stopped : "converged" or "cancelled"
    notes : sentences worth telling
    """

    outcome: str
    unit: str
    largest: bool
    values: dict[str, float]
    value: float | None
    before: float | None
    simulations: int
    stopped: str
    notes: list[str] = field(default_factory=list)

    @property
    def words(self) -> str:
        """A sentence."""
        if self.value is None:
            return f"{self.outcome} occurs nowhere that was looked"
        was = "it does not occur now" if self.before is None else f"now {amount_text(self.before, self.unit, '.5g')}"
        most = "largest" if self.largest else "smallest"
        return f"the {most} {self.outcome} is {amount_text(self.value, self.unit, '.6g')} ({was})"

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return asdict(self) | {"words": self.words}


def best(case: Case, outcome: Target, *, largest: bool = True, cancel: Cancel | None = None, threads: int | None = None) -> Best:
    """Return the numbers that make an outcome largest or smallest within the ranges of the unknowns.

    Parameters
    ----------
    case : with at least one free unknown; its targets are kept as well as can be
    outcome : what is to be largest or smallest; what is wanted of it does not count
    largest : whether the largest is asked for, else the smallest
    cancel : stops it where it is set; the best so far is the answer
    threads : runs side by side

    Returns
    -------
    The numbers and the outcome there.

    Raises
    ------
    InputError
        If nothing is free.
    """
    unknowns = [u for u in case.unknowns if not u.fixed]
    if not unknowns:
        raise bad_input("unknowns", "no free number", "at least one unknown that is not locked")
    asked = outcome.model_copy(update={"condition": "happens"})
    outcomes = OutcomesAt(case, [asked, *case.targets], cancel, threads)
    sign = -1.0 if largest else 1.0

    def values_at(p: Array) -> dict[str, float]:
        return {u.path: from_unit_box(u, float(v)) for u, v in zip(unknowns, p, strict=True)}

    def cost(read: list[OutcomeValue]) -> float:
        scale = max(abs(read[0].value_or_surrogate), 1e-9)
        missed = sum(max(0.0, -outcomes.margin_of_one(k + 1, value)) for k, value in enumerate(read[1:]))
        return sign * read[0].value_or_surrogate + (10.0 * read[0].shortfall + missed) * scale

    start = np.array([to_unit_box(u, get_number(case, u.path)) for u in unknowns])
    seen: list[tuple[float, Array, list[OutcomeValue]]] = []

    def look(points: Array) -> list[float]:
        read = outcomes.at([values_at(p) for p in points])
        costs = [cost(one) for one in read]
        seen.extend(zip(costs, points, read, strict=True))
        return costs

    def look_once(p: Array) -> float:
        return look(np.clip(p, 0.0, 1.0)[None])[0]

    stopped = "converged"
    try:
        look(np.vstack([start, qmc.Sobol(len(unknowns), rng=np.random.default_rng(case.seed)).random(POINTS)]))
        for _, point, _ in sorted(seen, key=lambda one: one[0])[:FOLLOWED]:
            minimize(look_once, point, method="Nelder-Mead", bounds=[(0.0, 1.0)] * len(unknowns),
                     options={"xatol": CLOSE, "fatol": 0.0, "maxfev": STEPS * len(unknowns)})
    except Cancelled:
        stopped = "cancelled"
    if not seen:
        return Best(asked.label, asked.unit, largest, values_at(start), None, None, outcomes.simulations, stopped)
    _, point, read = min(seen, key=lambda one: one[0])
    values = values_at(point)
    notes = at_walls(unknowns, values)
    notes += [f"{t.label} is missed there: wanted {t.wanted}" for k,
              t in enumerate(case.targets) if outcomes.margin_of_one(k + 1, read[k + 1]) < 0]
    return Best(asked.label, asked.unit, largest, values, read[0].value, seen[0][2][0].value, outcomes.simulations, stopped, notes)
