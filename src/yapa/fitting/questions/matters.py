"""Which numbers matter for an outcome: near where they stand, and over their ranges.

Near: the change of the outcome when a number moves by a tenth of its range, by a central difference. Over the ranges: the total
index of
Sobol' (Mathematics and Computers in Simulation 55, 2001), the share of the outcome's variance that is lost when a number is known,
as SciPy
estimates it (Saltelli et al., Computer Physics Communications 181, 2010).
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from scipy.stats import sobol_indices, uniform

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.quantities import label_of
from yapa.case.units import amount_text
from yapa.fitting.explore.sweep import Axis, axis_of
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.questions.outcomes_at import OutcomesAt
from yapa.motion import Array

SAMPLES = 256
"""of the global ranking, a power of two; runs are so many times two more than there are numbers"""
STEP = 0.05
"""of its range: how far a number moves to either side"""
ROUNDOFF = 1e-9
"""relative range of an outcome below which it does not change"""
NOTHING = 1e-3
"""of the greatest effect: below it a number does not matter"""


@dataclass(frozen=True)
class Importance:
    """How one number matters.

    Attributes
    ----------
    path : of the number
    effect : change of the outcome [its unit] for a tenth of the number's range, near where it stands
    share : total index over the ranges, from 0 to 1
    """

    path: str
    effect: float
    share: float


@dataclass(frozen=True)
class Matters:
    """Numbers ranked by how they matter for an outcome, the most important over the ranges first."""

    outcome: str
    unit: str
    ranking: list[Importance]
    missing: float
    """Share of the runs in which the outcome did not occur; what stands in for it was used there."""
    simulations: int

    @property
    def words(self) -> str:
        """A sentence."""
        strong = [one for one in self.ranking if one.share > 0.05]
        weak = [label_of(one.path) for one in self.ranking if not one.share > NOTHING and abs(one.effect) <= self._negligible]
        if not strong:
            return f"none of these numbers changes {self.outcome}"
        out = f"{self.outcome} depends on " + ", then ".join(f"{label_of(one.path)} ({100 * one.share:.0f}%)" for one in strong)
        return out + (f"; {', '.join(weak)} {'do' if len(weak) > 1 else 'does'} not matter" if weak else "")

    @property
    def _negligible(self) -> float:
        return NOTHING * max((abs(one.effect) for one in self.ranking), default=0.0)

    def bars(self, width: int = 30) -> list[str]:
        """Return a line a number, with a bar as long as its share.

        Parameters
        ----------
        width : letters of a whole bar
        """
        name = max((len(label_of(one.path)) for one in self.ranking), default=0)
        out = []
        for one in self.ranking:
            bar = "█" * round(width * one.share)
            change = f"{amount_text(one.effect, self.unit, '+.3g')} for a tenth of its range"
            out.append(f"{label_of(one.path):<{name}}  {bar:<{width}} {100 * one.share:3.0f}%  {change}")
        return out

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return asdict(self) | {"words": self.words}


def what_matters(
    case: Case, outcome: Target, paths: list[str] | None = None, *, samples: int = SAMPLES, cancel: Cancel | None = None,
    threads: int | None = None,
) -> Matters:
    """Return how numbers matter for an outcome, near where they stand and over their ranges.

    Parameters
    ----------
    case : the case
    outcome : what it is about; what is wanted of it does not count
    paths : of the numbers; by default the unknowns
    samples : of the global ranking, a power of two
    cancel : stops the work where it is set
    threads : runs side by side

    Returns
    -------
    The numbers, the most important first.

    Raises
    ------
    InputError
        If there is no such number or outcome.
    Cancelled
        If it was stopped.
    """
    axes = [axis_of(case, path) for path in (paths or [u.path for u in case.unknowns if not u.fixed])]
    asked = outcome.model_copy(update={"condition": "happens"})
    outcomes = OutcomesAt(case, [asked], cancel, threads)
    gone = [0, 0]

    def read(fractions: Array) -> Array:
        rows = [{axis.path: float(axis.at(np.array([f]))[0]) for axis, f in zip(axes, row, strict=True)} for row in fractions]
        found = [one[0] for one in outcomes.at(rows)]
        gone[0] += sum(one.value is None for one in found)
        gone[1] += len(found)
        return np.array([one.value_or_surrogate for one in found])

    effects = _effects(axes, outcomes.present([axis.path for axis in axes]), read)
    shares = _shares(axes, read, samples, case.seed)
    ranking = sorted((Importance(axis.path, effect, share) for axis, effect, share in zip(axes, effects, shares, strict=True)),
                     key=lambda one: (-one.share, -abs(one.effect)))
    return Matters(asked.label, asked.unit, ranking, gone[0] / max(gone[1], 1), outcomes.simulations)


def _effects(axes: list[Axis], present: dict[str, float], read: object) -> list[float]:
    """Change of the outcome for a tenth of every range, near the present numbers."""
    assert callable(read)
    here = np.array([_fraction(axis, present[axis.path]) for axis in axes])
    rows = []
    for k in range(len(axes)):
        low, high = here.copy(), here.copy()
        low[k], high[k] = max(here[k] - STEP, 0.0), min(here[k] + STEP, 1.0)
        rows += [low, high]
    found = read(np.array(rows))
    return [float((found[2 * k + 1] - found[2 * k]) * 2 * STEP / max(rows[2 * k + 1][k] - rows[2 * k][k],
                                                                     1e-12)) for k in range(len(axes))]


def _fraction(axis: Axis, value: float) -> float:
    f = np.log(value / axis.low) / np.log(axis.high / axis.low) if axis.log else (value - axis.low) / (axis.high - axis.low)
    return float(min(max(f, 0.0), 1.0))


def _shares(axes: list[Axis], read: object, samples: int, seed: int) -> list[float]:
    """Total indices over the ranges."""
    assert callable(read)
    first = read(np.random.default_rng(seed).random((16, len(axes))))
    if np.ptp(first) <= ROUNDOFF * max(float(np.abs(first).max()), 1e-12):
        return [0.0] * len(axes)
    several = max(len(axes), 2)  # SciPy wants two; a second that nothing hears of is no other
    found: Any = sobol_indices(func=lambda x: read(x[: len(axes)].T), n=samples, dists=[uniform()] * several,  # type: ignore[list-item]
                               rng=np.random.default_rng(seed))
    return [min(max(float(v), 0.0),
                1.0) if np.isfinite(v) else 0.0 for v in np.atleast_1d(np.asarray(found.total_order))[: len(axes)]]
