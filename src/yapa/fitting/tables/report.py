"""What a fit to a table of trials says beside its numbers: scatter, levels, rows that stand out, lack of fit, constants that
count."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any

from yapa.case.quantities import label_of
from yapa.case.units import amount_text

SIGNIFICANCE = 0.05
"""below this probability an excess is no chance"""


@dataclass(frozen=True)
class Scatter:
    """How far measured values of one outcome lie from what is predicted, as a standard deviation [SI]; given, or found."""

    outcome: str
    unit: str
    value: float
    count: int
    found: bool


@dataclass(frozen=True)
class Level:
    """Rows with the same settings.

    Attributes
    ----------
    outcome, unit : what was measured
    settings : number of every setting, by path [SI]
    rows : numbers of the rows, from 1
    measured, predicted : mean of the measured values, and what is predicted [SI]
    left_out : what a fit without this level predicts for it [SI]
    """

    outcome: str
    unit: str
    settings: dict[str, float]
    rows: tuple[int, ...]
    measured: float
    predicted: float
    left_out: float

    @property
    def residual(self) -> float:
        """Measured less predicted [SI]."""
        return self.measured - self.predicted


@dataclass(frozen=True)
class StandingOut:
    """The row that lies furthest off: its studentised residual, and the probability of one as far among so many (Bonferroni)."""

    row: int
    outcome: str
    residual: float
    unit: str
    studentised: float
    p: float

    @property
    def is_outlier(self) -> bool:
        """Whether it is further off than chance explains."""
        return self.p < SIGNIFICANCE


@dataclass(frozen=True)
class FTest:
    """An F test: the ratio, its degrees of freedom, and the probability of one as large by chance."""

    F: float
    dof: tuple[int, int]
    p: float

    def __str__(self) -> str:
        return f"F({self.dof[0]}, {self.dof[1]}) = {self.F:.4g}, p = {self.p:.3g}"


@dataclass(frozen=True)
class Adequacy:
    """Whether the model explains the levels as well as replicates allow.

    Attributes
    ----------
    judged_by : "replicates", "sigma" or "nothing"
    test : lack of fit over replicates; None where it is judged otherwise
    chi2, dof, p : where σ is given and nothing was repeated
    """

    judged_by: str
    test: FTest | None = None
    chi2: float | None = None
    dof: int | None = None
    p: float | None = None

    @property
    def adequate(self) -> bool | None:
        """Whether it does; None where that cannot be judged."""
        p = self.test.p if self.test is not None else self.p
        return None if p is None else p >= SIGNIFICANCE

    @property
    def words(self) -> str:
        """A sentence."""
        if self.adequate is None:
            return "adequacy cannot be judged: no setting was measured twice, and σ is not given"
        verdict = "adequate" if self.adequate else "not adequate: the levels are further off than repeats explain"
        if self.test is not None:
            return f"lack of fit {self.test}: {verdict}"
        if not self.adequate:
            verdict = "not adequate: the rows are further off than σ explains"
        return f"χ²({self.dof}) = {self.chi2:.4g}, p = {self.p:.3g}: {verdict}"


@dataclass(frozen=True)
class ConstantTest:
    """Whether the evidence needs a free constant: an F test against the fit in which it has its neutral value."""

    path: str
    kept_at: float
    test: FTest

    @property
    def words(self) -> str:
        """A sentence."""
        needed = "it is needed" if self.test.p < SIGNIFICANCE else "the rows do not need it"
        return f"{label_of(self.path)} against {self.kept_at:g}: {self.test}; {needed}"


@dataclass(frozen=True)
class TableReport:
    """What a fit says of its table of trials.

    Attributes
    ----------
    rows, values, levels : how many rows, measured values and distinct settings there are
    dof : degrees of freedom left
    scatter : of every measured outcome
    by_level : levels, in the order of the table
    stands_out : the row that lies furthest off
    adequacy : whether the model explains the levels
    constants : tests of the free constants
    correlations : pairs of unknowns and their correlation, the strongest first
    missing : outcomes that did not occur, as sentences
    """

    rows: int
    values: int
    levels: int
    dof: int
    scatter: list[Scatter]
    by_level: list[Level]
    stands_out: StandingOut | None
    adequacy: Adequacy
    constants: list[ConstantTest] = field(default_factory=list)
    correlations: list[tuple[str, str, float]] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)

    def sentences(self) -> list[str]:
        """Return what is worth telling, a sentence each."""
        out = [f"{s.outcome}: scatter {amount_text(s.value, s.unit, '.3g')} ({'found' if s.found else 'given'}, "
               f"{s.count} values)" for s in self.scatter]
        out.append(self.adequacy.words)
        out += [test.words for test in self.constants]
        if self.stands_out is not None and self.stands_out.is_outlier:
            s = self.stands_out
            out.append(f"row {s.row} stands out: {s.outcome} is off by {amount_text(s.residual, s.unit, '+.3g')}, "
                       f"{abs(s.studentised):.1f} deviations (p = {s.p:.2g}); look at it before it is believed")
        out += [f"{label_of(a)} and {label_of(b)} go together (correlation {r:+.3f}): rows that change one alone would part them"
                for a, b, r in self.correlations if abs(r) > 0.95]
        return [*out, *self.missing]

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return {
            "rows": self.rows, "values": self.values, "levels": self.levels, "dof": self.dof,
            "scatter": [asdict(s) for s in self.scatter],
            "by_level": [asdict(level) | {"residual": level.residual} for level in self.by_level],
            "stands_out": None if self.stands_out is None else asdict(self.stands_out) | {"is_outlier": self.stands_out.is_outlier},
            "adequacy": asdict(self.adequacy) | {"adequate": self.adequacy.adequate},
            "constants": [asdict(test) for test in self.constants],
            "correlations": [list(c) for c in self.correlations], "missing": self.missing,
        }
