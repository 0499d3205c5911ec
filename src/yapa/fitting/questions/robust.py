"""Numbers for which targets hold in most of slightly varied starts.

The 10% quantile of the margin over 64 draws of the jitter, the same for every point, is made as large as it can be within the
ranges of the
unknowns: Sobol points, then the simplex of Nelder and Mead. The answer is judged on 400 draws it has not seen: "met" where the
targets hold
in at least 90% of them, "surely" where the lower end of Wilson's 95% interval does.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from scipy.optimize import minimize
from scipy.stats import binomtest, qmc

from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.quantities import quantity_of
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.questions.outcomes_at import OutcomesAt
from yapa.motion import Array

DRAWS, FRESH = 64, 400
"""draws that are fixed for the search, and those it is judged on"""
QUANTILE, WANTED = 0.1, 0.9
"""of the margins that is made largest, and the share of draws in which the targets are to hold"""
POINTS, STEPS = 32, 60
"""of the first look; and looks of the simplex, an unknown"""


@dataclass(frozen=True)
class Robust:
    """Numbers for which targets hold in most of slightly varied starts.

    Attributes
    ----------
    values : path → value
    quantile : the 10% quantile of the margin over the fixed draws [tolerances]
    met, count : in how many of the fresh draws the targets hold, of how many
    low, high : Wilson's 95% interval of the share
    before : share of the fresh draws in which they hold at the case's own numbers
    simulations, stopped : what it cost, and how it ended
    """

    values: dict[str, float]
    quantile: float
    met: int
    count: int
    low: float
    high: float
    before: float
    simulations: int
    stopped: str

    @property
    def share(self) -> float:
        """Of the fresh draws in which the targets hold."""
        return self.met / self.count if self.count else 0.0

    @property
    def verdict(self) -> str:
        """``surely``, ``met`` or ``missed``."""
        return "surely" if self.low >= WANTED else "met" if self.share >= WANTED else "missed"

    @property
    def words(self) -> str:
        """A sentence."""
        sure = {"surely": "surely in at least", "met": "in at least, though not surely,", "missed": "not in"}[self.verdict]
        return (f"the targets hold in {self.share:.1%} of {self.count} varied starts ({self.low:.1%} to {self.high:.1%}), {sure} "
                f"{WANTED:.0%}; before it was {self.before:.1%}")

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return asdict(self) | {"share": self.share, "verdict": self.verdict, "words": self.words}


def robust(case: Case, jitter: Mapping[str, float], *, cancel: Cancel | None = None, threads: int | None = None) -> Robust:
    """Return the numbers for which the targets of a case hold in most of slightly varied starts.

    Parameters
    ----------
    case : with a free unknown and a target
    jitter : path → standard deviation of a number from run to run [SI units]
    cancel : stops it where it is set; the best so far is judged
    threads : runs side by side

    Returns
    -------
    The numbers and how often the targets hold there.

    Raises
    ------
    InputError
        If nothing is free, nothing wanted, or a number of the jitter is not there.
    """
    unknowns = [u for u in case.unknowns if not u.fixed]
    if not unknowns or not case.targets:
        raise bad_input("case", "no free number" if not unknowns else "no target", "an unknown that is not locked, and a target")
    if not jitter or any(not s > 0 for s in jitter.values()):
        raise bad_input("jitter", "nothing that varies", "PATH=σ, such as bodies.ball.velocity.x=0.02; σ above zero")
    base = {path: get_number(case, path) for path in jitter}
    outcomes = OutcomesAt(case, case.targets, cancel, threads)
    rng = np.random.default_rng(case.seed)
    fixed, fresh = (rng.normal(size=(count, len(jitter))) for count in (DRAWS, FRESH))

    def values_at(p: Array) -> dict[str, float]:
        return {u.path: from_unit_box(u, float(v)) for u, v in zip(unknowns, p, strict=True)}

    def margins(p: Array, draws: Array) -> Array:
        values = values_at(p)
        rows = []
        for draw in draws:
            row = dict(values)
            for (path, sigma), z in zip(jitter.items(), draw, strict=True):
                least, most = quantity_of(path).least, quantity_of(path).most
                row[path] = min(max(values.get(path, base[path]) + sigma * z, least), most)
            rows.append(row)
        return np.array(outcomes.margins(rows))

    seen: list[tuple[float, Array]] = []

    def look(p: Array) -> float:
        p = np.clip(p, 0.0, 1.0)
        cost = -float(np.quantile(margins(p, fixed), QUANTILE))
        seen.append((cost, p))
        return cost

    start = np.array([to_unit_box(u, get_number(case, u.path)) for u in unknowns])
    stopped = "converged"
    try:
        for p in np.vstack([start, qmc.Sobol(len(unknowns), rng=np.random.default_rng(case.seed)).random(POINTS)]):
            look(p)
        minimize(look, min(seen, key=lambda one: one[0])[1], method="Nelder-Mead", bounds=[(0.0, 1.0)] * len(unknowns),
                 options={"xatol": 1e-4, "fatol": 1e-3, "maxfev": STEPS * len(unknowns)})
    except Cancelled:
        stopped = "cancelled"
    cost, point = min(seen, key=lambda one: one[0]) if seen else (np.inf, start)
    if stopped == "cancelled":
        return Robust(values_at(point), -cost, 0, 0, 0.0, 1.0, 0.0, outcomes.simulations, stopped)
    met = int((margins(point, fresh) >= 0).sum())
    before = float((margins(start, fresh) >= 0).mean())
    likely = binomtest(met, FRESH).proportion_ci(method="wilson")
    return Robust(values_at(point), -cost, met, FRESH, float(likely.low), float(likely.high), before, outcomes.simulations, stopped)
