"""What a fit reports while it runs and when it ends."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from yapa.case.estimate_text import sentence
from yapa.case.evidence import Target
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.case.quantities import label_of, quantity_of
from yapa.case.unknowns import Estimate, Unknown

if TYPE_CHECKING:
    from yapa.fitting.confidence.model_errors import Explanation


@dataclass(frozen=True)
class Progress:
    """An event of a running fit: what it does, its best so far, and how many simulations that took."""

    phase: str
    misfit: float | None
    simulations: int
    values: dict[str, float]
    share: float


@dataclass(frozen=True)
class TargetReport:
    """A target beside what the values give."""

    target: Target
    body: str
    now: float | None
    met: bool
    miss: float | None
    """Signed miss in tolerances; None where the event is missing."""
    missing: str | None = None

    @property
    def how_missed(self) -> str:
        """By how much, in the outcome's own unit, or why there is nothing to compare."""
        if self.missing is not None or self.miss is None:
            return f"({self.missing or 'missed'})"
        unit = OUTCOME_SPECS[self.target.outcome].unit
        return f"by {abs(self.miss) * self.target.tolerance:.3g}{' ' + unit if unit else ''}"


@dataclass(frozen=True)
class Answer:
    """Another answer that the evidence does not tell from the one given: its values, and by how much half the squared misfit
    is higher (negative: lower, where a plateau was preferred)."""

    values: dict[str, float]
    away: float
    plateau: str | None = None
    """The path of a number that says nothing there from its value on, on the side away from the answer given."""
    stds: Mapping[str, float] = field(default_factory=dict)
    """Its own standard deviations."""

    def differs_from(self, told: Mapping[str, Estimate]) -> bool:
        """Whether it says something else: a number more than three deviations off, or outside its bounds."""
        for path, e in told.items():
            value = self.values.get(path, e.value)
            if e.determined and e.std is not None:
                if abs(value - e.value) > 3 * e.std:
                    return True
            elif (e.low is not None and value < e.low) or (e.high is not None and value > e.high):
                return True
        return False

    @property
    def words(self) -> str:
        """A sentence."""
        told = ", ".join(f"{label_of(path)} {value:.4g}{' ' + unit if (unit := quantity_of(path).unit) else ''}"
                         for path, value in self.values.items())
        way = f"{self.away:.1f} higher" if self.away >= 0 else f"{-self.away:.1f} lower"
        return f"a second answer agrees about as well (half the squared misfit {way}): {told}"


def widened(told: Mapping[str, Estimate], also: Sequence[Answer], ranges: Mapping[str, tuple[float, float]]
            ) -> dict[str, Estimate]:
    """Estimates that are no more certain than the answers beside them allow: where those differ, only bounds are told."""
    out = dict(told)
    for answer in also:
        for path, e in out.items():
            value = answer.values.get(path, e.value)
            if not e.determined or e.std is None or abs(value - e.value) <= 3 * e.std:
                continue
            here, there = 1.96 * e.std, 1.96 * answer.stds.get(path, e.std)
            low, high = min(value - there, e.value - here), max(value + there, e.value + here)
            bounds = {"low": low if low > ranges[path][0] else None, "high": high if high < ranges[path][1] else None}
            if answer.plateau == path:
                bounds["low" if value < e.value else "high"] = None
            out[path] = Estimate(value=e.value, determined=False, **bounds,
                                 reason=f"two answers agree about as well, {e.value:.4g} and {value:.4g}")
    return out


@dataclass(frozen=True)
class FitResult:
    """The end of a fit.

    Attributes
    ----------
    estimates : path → estimate
    misfit : root mean square residual over the tracks in σ; None without tracks
    simulations, seconds : what it cost
    stopped : "converged", "not converged" or "cancelled"
    outliers : samples judged outliers, left out of the misfit
    targets : each target beside its outcome
    findings : sentences worth telling
    own : take → path → estimate, of unknowns that every take has for itself
    explained : the error of the model that explains what is left over, if one does, with the edit that frees it
    also : answers that the evidence does not tell from this one, the nearest in misfit first
    """

    estimates: dict[str, Estimate]
    misfit: float | None
    simulations: int
    seconds: float
    stopped: str
    outliers: int = 0
    targets: list[TargetReport] = field(default_factory=list)
    findings: list[str] = field(default_factory=list)
    own: dict[str, dict[str, Estimate]] = field(default_factory=dict)
    also: list[Answer] = field(default_factory=list)
    explained: list[Explanation] = field(default_factory=list)

    @property
    def values(self) -> dict[str, float]:
        """Path → value."""
        return {path: e.value for path, e in self.estimates.items()}

    def sentences(self) -> list[str]:
        """One sentence an unknown, honest about what cannot be told."""
        return [sentence(path, e) for path, e in self.estimates.items()]

    def as_dict(self) -> dict[str, Any]:
        """JSON-ready."""
        return {
            "values": {path: e.model_dump(exclude={"reason"} if e.reason is None else None)
                       for path, e in self.estimates.items()},
            "misfit": self.misfit,
            "simulations": self.simulations,
            "seconds": round(self.seconds, 4),
            "stopped": self.stopped,
            "outliers": self.outliers,
            "targets": [
                {"target": t.target.label, "condition": t.target.condition, "wanted": t.target.value, "upper": t.target.upper,
                 "tolerance": t.target.tolerance, "now": t.now,
                 "met": t.met, "missing": t.missing}
                for t in self.targets
            ],
            "findings": self.findings,
            **({"also": [{"values": a.values, "half_squared_misfit_above": round(a.away, 4)} for a in self.also]}
               if self.also else {}),
            **({"explained": [{"kind": e.kind, "path": e.path, "value": e.value, "std": e.std,
                               "half_squared_misfit_gained": round(e.gain, 4)} for e in self.explained]} if self.explained else {}),
            **({"takes": {name: {path: e.model_dump() for path, e in told.items()} for name, told in self.own.items()}}
               if self.own else {}),
        }


def at_walls(unknowns: Sequence[Unknown], values: Mapping[str, float]) -> list[str]:
    """Sentences on unknowns that stand at an end of their range, where what they are may go on beyond it."""
    out = []
    for unknown in unknowns:
        value, quantity = values[unknown.path], quantity_of(unknown.path)
        near = 1e-6 * (unknown.high - unknown.low)
        for end, most in ((unknown.low, quantity.least), (unknown.high, quantity.most)):
            if abs(value - end) < near and abs(end - most) > near:
                out.append(f"{label_of(unknown.path)} stands at the end of its range, {end:.4g}: widen it if it should go on")
    return out
