"""What a fit reports while it runs and when it ends."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from html import escape
from typing import TYPE_CHECKING, Any

from yapa.case.estimate_text import digits, sentence
from yapa.case.evidence import Target
from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import amount_text, as_shown
from yapa.case.unknowns import Estimate, Unknown
from yapa.fitting.confidence.levels import NORMAL_95
from yapa.fitting.problem.left_over import ColumnResiduals, together

if TYPE_CHECKING:
    from yapa.fitting.confidence.model_errors import Explanation
    from yapa.fitting.tables.report import TableReport


TWO_ANSWERS = "two answers agree about as well"
"""Why a number is not determined although the evidence bears on it."""


@dataclass(frozen=True)
class Progress:
    """An event of a running fit: what it does, its best so far, and how many simulations that took."""

    phase: str
    misfit: float | None
    simulations: int
    values: dict[str, float]
    fraction: float


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
        return f"by {amount_text(abs(self.miss) * self.target.tolerance, self.target.unit, '.3g')}"


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

    def differs_from(self, estimates: Mapping[str, Estimate]) -> bool:
        """Return whether it says something else: a number more than three deviations off, or outside its bounds.

        Parameters
        ----------
        estimates : estimates of the other answer
        """
        for path, e in estimates.items():
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
        numbers = ", ".join(f"{label_of(path)} {amount_text(value, quantity_of(path).unit)}" for path, value in self.values.items())
        way = f"{self.away:.1f} higher" if self.away >= 0 else f"{-self.away:.1f} lower"
        return f"a second answer agrees about as well (half the squared misfit {way}): {numbers}"


def has_evidence(estimate: Estimate) -> bool:
    """Return whether the evidence says something of a number: one value, or two.

    Parameters
    ----------
    estimate : what a fit says of it
    """
    return estimate.determined or (estimate.reason or "").startswith(TWO_ANSWERS)


def widened(estimates: Mapping[str, Estimate], also: Sequence[Answer], ranges: Mapping[str, tuple[float, float]]
            ) -> dict[str, Estimate]:
    """Return estimates that are no more certain than the answers beside them allow: where those differ, only bounds are told.

    Parameters
    ----------
    estimates : estimates of the answer
    also : answers beside it
    ranges : path → range
    """
    out = dict(estimates)
    for answer in also:
        for path, e in out.items():
            value = answer.values.get(path, e.value)
            if not e.determined or e.std is None or abs(value - e.value) <= 3 * e.std:
                continue
            here, there = NORMAL_95 * e.std, NORMAL_95 * answer.stds.get(path, e.std)
            low, high = min(value - there, e.value - here), max(value + there, e.value + here)
            bounds = {"low": low if low > ranges[path][0] else None, "high": high if high < ranges[path][1] else None}
            if answer.plateau == path:
                bounds["low" if value < e.value else "high"] = None
            out[path] = Estimate(value=e.value, determined=False, **bounds,
                                 reason=f"{TWO_ANSWERS}, {e.value:.4g} and {value:.4g}")
    return out


@dataclass(frozen=True)
class FitResult:
    """The end of a fit.

    Attributes
    ----------
    estimates : path → estimate
    misfit : root mean square residual over the tracks in σ; None without tracks
    simulations, seconds : what it cost
    stopped : "converged", "not converged", "not reachable" (nothing that may change moves what is wanted), "limit reached" or
        "cancelled"
    outliers : samples judged outliers, left out of the misfit
    targets : each target beside its outcome
    findings : sentences worth telling
    own : take → path → estimate, of unknowns that every take has for itself
    explained : the error of the model that explains what is left over, if one does, with the edit that frees it
    table : what it says of the table of trials, where the case has one
    dof : degrees of freedom: values that count less numbers found; None where the fit did not end
    correlations : pairs of unknowns and their correlation, the strongest first
    residuals : of every column of every track
    also : answers that the evidence does not tell from this one, the nearest in misfit first

    Notes
    -----
    Values and intervals are in SI units; ``as_dict`` is JSON, with the keys of ``docs/api.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> result = fit(load(DATA / "orange-drop.yapa"))
    >>> result.misfit < 1.3
    True
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
    table: TableReport | None = None
    dof: int | None = None
    correlations: list[tuple[str, str, float]] = field(default_factory=list)
    residuals: list[ColumnResiduals] = field(default_factory=list)

    @property
    def values(self) -> dict[str, float]:
        """Path → value."""
        return {path: e.value for path, e in self.estimates.items()}

    def __repr__(self) -> str:
        numbers = ", ".join(sentence(path, e).split(" (")[0] for path, e in list(self.estimates.items())[:4])
        misfit = "" if self.misfit is None else f", misfit {self.misfit:.3g}"
        return f"<FitResult {self.stopped}{misfit}: {numbers}{' …' if len(self.estimates) > 4 else ''}>"

    def summary(self) -> str:
        """Return a page of text: the numbers, how it ended, targets, rows, and what is worth telling."""
        misfit = "no tracks" if self.misfit is None else f"misfit {self.misfit:.3f}"
        lines = [f"{self.stopped}; {misfit}; {self.simulations} simulations in {self.seconds:.2f} s"]
        lines += [f"  {text}" for text in self.sentences()]
        lines += [f"  {owner}: {sentence(path, e)}" for owner, own in self.own.items() for path, e in own.items()]
        for t in self.targets:
            lines.append(f"target {t.target.label}: wanted {t.target.wanted}, {'met' if t.met else f'missed {t.how_missed}'}")
        if self.dof is not None and self.table is None:
            lines.append(f"{self.dof} degrees of freedom")
        lines += [f"residuals of {column}" for column in self.residuals]
        lines += [] if self.table is not None else together(self.correlations)
        if self.table is not None:
            lines.append(f"{self.table.values} values in {self.table.rows} rows, {self.table.levels} levels, "
                         f"{self.table.dof} degrees of freedom")
            lines += self.table.sentences()
        return "\n".join([*lines, *self.findings])

    def _repr_html_(self) -> str:
        """A table for notebooks."""
        rows = ""
        for path, e in self.estimates.items():
            value, unit = as_shown(e.value, quantity_of(path).unit)
            std = None if e.std is None else as_shown(e.std, quantity_of(path).unit)[0]
            rows += (f"<tr><td>{escape(label_of(path))}</td><td>{digits(value, std) if e.determined else 'undetermined'}</td>"
                     f"<td>{'' if std is None else f'± {std:.2g}'}</td><td>{escape(unit)}</td></tr>")
        return f"<table>{rows}</table><p>{escape(self.summary().splitlines()[0])}</p>"

    def sentences(self) -> list[str]:
        """Return one sentence an unknown, honest about what cannot be told."""
        return [sentence(path, e) for path, e in self.estimates.items()]

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
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
            **({"takes": {name: {path: e.model_dump() for path, e in estimates.items()} for name, estimates in self.own.items()}}
               if self.own else {}),
            **({"dof": self.dof} if self.dof is not None else {}),
            **({"correlations": [list(c) for c in self.correlations]} if self.correlations else {}),
            **({"residuals": [asdict(c) for c in self.residuals]} if self.residuals else {}),
            **({"table": self.table.as_dict()} if self.table is not None else {}),
        }


def at_walls(unknowns: Sequence[Unknown], values: Mapping[str, float]) -> list[str]:
    """Return sentences on unknowns that stand at an end of their range, where what they are may go on beyond it.

    Parameters
    ----------
    unknowns : numbers that may change
    values : path → value, SI units
    """
    out = []
    for unknown in unknowns:
        value, quantity = values[unknown.path], quantity_of(unknown.path)
        near = 1e-6 * (unknown.high - unknown.low)
        for end, most in ((unknown.low, quantity.least), (unknown.high, quantity.most)):
            if abs(value - end) < near and abs(end - most) > near:
                out.append(f"{label_of(unknown.path)} stands at the end of its range, {end:.4g}: widen it if it should go on")
    return out
