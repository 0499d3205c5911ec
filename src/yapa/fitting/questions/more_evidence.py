"""How much more evidence of the same kind would narrow an interval, and by how much.

Information adds: with m takes, or rows, of which each tells as much as those there are, n more of them narrow a standard deviation
by
√(m / (m + n)); where σ is found the quantile of Student's t falls too. What is unknown beside (an own launch of every take) is
counted in,
for its share of the information falls out of every take alike.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from math import ceil, sqrt
from typing import Any

from scipy import stats

from yapa.case.model import Case
from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import amount_text
from yapa.fitting.problem.result import FitResult

TIMES_THE_PRESENT = 1000
"""times the evidence there is: beyond it more of the same is no way"""


@dataclass(frozen=True)
class MoreEvidence:
    """How an interval narrows with more evidence of the same kind.

    Attributes
    ----------
    path, unit : of the number
    kind : "take", "row" or "recording"
    present : how many there are
    half_width : of its 95% interval now
    to_halve : how many more halve it; None where more of the same never does
    """

    path: str
    unit: str
    kind: str
    present: int
    half_width: float
    to_halve: int | None

    dof: int | None = None
    """Degrees of freedom there are now, where σ is found."""

    def half_width_after(self, more: int) -> float:
        """Return the half width of the 95% interval expected after more evidence.

        Parameters
        ----------
        more : how many more
        """
        return self.half_width * _narrowed(self.present, more, self.dof)

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return asdict(self) | {"words": self.words}

    @property
    def words(self) -> str:
        """A sentence."""
        half = amount_text(self.half_width, self.unit, ".2g")
        if self.to_halve is None:
            return f"{label_of(self.path)}: more of the same does not halve ± {half}"
        kind, there = self.kind + ("" if self.to_halve == 1 else "s"), "is" if self.present == 1 else "are"
        more = f"{self.to_halve} more {kind} like the {self.present} there {there}"
        return f"{label_of(self.path)}: {more} would halve ± {half}"


def how_much_more(case: Case, result: FitResult) -> list[MoreEvidence]:
    """Return how many more takes or rows of the same kind would halve every interval.

    Parameters
    ----------
    case : the case that was fitted
    result : what the fit found
    """
    dof: int | None = None
    if result.table is not None:
        kind, present = "row", result.table.rows
        dof = result.table.dof if any(s.found for s in result.table.scatter) else None
    elif case.takes:
        kind, present = "take", len(case.takes)
    else:
        kind, present = "recording", max(len({track.name for track in case.tracks}), 1)
    out = []
    for path, e in result.estimates.items():
        if not e.determined or e.low is None or e.high is None:
            continue
        more = next((n for n in _counts(present) if _narrowed(present, n, dof) <= 0.5), None)
        out.append(MoreEvidence(path, quantity_of(path).unit, kind, present, 0.5 * (e.high - e.low), more, dof))
    return out


def _counts(present: int) -> range:
    return range(1, TIMES_THE_PRESENT * present + 1)


def _narrowed(present: int, more: int, dof: int | None) -> float:
    ratio = sqrt(present / (present + more))
    if dof is not None and dof > 0:
        each = ceil(dof / present) if dof >= present else 1
        ratio *= float(stats.t.ppf(0.975, dof + more * each) / stats.t.ppf(0.975, dof))
    return ratio
