"""Trust: how far a result holds, all checks together.

What the evidence cannot tell, and what would; whether the outcomes move at half the step; in what share of slightly varied starts
every target is still met; whether a take that was left out is predicted; and profile curves of the unknowns asked for.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from yapa.case.changed_numbers import with_numbers
from yapa.case.estimate_text import digits, sentence
from yapa.case.model import Case
from yapa.case.parameter_path import canonical_path
from yapa.case.quantities import label_of
from yapa.fitting.confidence.covariance import covariance_at
from yapa.fitting.confidence.experiment_suggestions import ExperimentSuggestion, suggest_experiments
from yapa.fitting.confidence.identifiability import UndeterminedDirection, undetermined_directions
from yapa.fitting.confidence.likelihood_profile import LikelihoodProfile, likelihood_profile
from yapa.fitting.confidence.robustness import (
    LeaveOneOut,
    RobustnessResult,
    StepSensitivity,
    halve_step,
    leave_one_out,
    perturb_starts,
)
from yapa.fitting.optimise.jacobian import evaluate, with_best_offsets
from yapa.fitting.problem.cancel import Cancel, Cancelled, LimitReached
from yapa.fitting.problem.problem import MAX_SIMULATIONS, FitProblem
from yapa.fitting.problem.result import FitResult, Progress
from yapa.fitting.tracks.fit_case import fit


@dataclass(frozen=True)
class ValidationReport:
    """Everything the checks say, and the fit they are about."""

    result: FitResult
    together: list[UndeterminedDirection] = field(default_factory=list)
    suggestions: list[ExperimentSuggestion] = field(default_factory=list)
    stepping: StepSensitivity | None = None
    held: RobustnessResult | None = None
    left_out: list[LeaveOneOut] = field(default_factory=list)
    curves: list[LikelihoodProfile] = field(default_factory=list)
    stopped: str = "complete"
    """Or why it was not: "cancelled", "limit reached". What was not checked is None or empty."""

    def sentences(self, has_targets: bool) -> list[str]:
        """Return what it comes to, in plain words.

        Parameters
        ----------
        has_targets : whether the case has targets
        """
        out = list(self.result.sentences())
        out += [f"take {take}: {sentence(path, e)}" for take, estimates in self.result.own.items() for path, e in estimates.items()]
        out += self.result.table.sentences() if self.result.table is not None else []
        out += [c.words for c in self.together if not any(c.words in line for line in out)]
        out += [f"to tell {label_of(s.path)}: {s.words}" for s in self.suggestions]
        if self.stepping is not None and self.stepping.moved is not None:
            out.append(f"at half the step no target moves by more than {self.stepping.moved:.2g} of its tolerance")
        if self.held is None:
            out.append("stopped before everything was checked")
        elif has_targets:
            out.append(f"{self.held.met} of {self.held.count} slightly varied starts still meet every target "
                       f"({self.held.low:.0%} to {self.held.high:.0%} with 95% confidence)")
        else:
            widest = sorted(self.held.spread.items(), key=lambda item: -item[1][1] / max(abs(item[1][0]), 1e-3))[:2]
            out += [f"{name} is {digits(m, s)} ± {s:.2g} over slightly varied starts" for name, (m, s) in widest if s > 0]
        for take in self.left_out:
            verdict = "holds" if take.misfit < 1.5 * max(take.alone, 1.0) else "does not hold"
            out.append(f"{take.name}, left out: misfit {take.misfit:.2f} from the others' numbers, {take.alone:.2f} by its own: "
                       f"it {verdict}")
        return out

    def as_dict(self, has_targets: bool) -> dict[str, Any]:
        """Return it JSON-ready.

        Parameters
        ----------
        has_targets : whether the case has targets
        """
        return {
            "fit": self.result.as_dict(), "sentences": self.sentences(has_targets),
            "together": [asdict(c) for c in self.together], "suggestions": [asdict(s) for s in self.suggestions],
            "half_step": None if self.stepping is None else {"rows": [list(row) for row in self.stepping.rows],
                                                             "moved": self.stepping.moved},
            "varied_starts": None if self.held is None else asdict(self.held) | {"share": self.held.share},
            "stopped": self.stopped,
            "left_out": [asdict(t) for t in self.left_out],
            "curves": [{"path": c.path, "values": c.values.tolist(), "rise": c.rise.tolist(),
                        "others": {k: v.tolist() for k, v in c.others.items()}} for c in self.curves],
        }


def trust(
    case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *, curves: tuple[str, ...] = (),
    count: int = 60, seed: int | None = None, threads: int | None = None, executor: Executor | None = None,
    limit: int = MAX_SIMULATIONS,
) -> ValidationReport:
    """Fit a case and check the result. Never raises for a stop: what was checked until then is kept.

    Parameters
    ----------
    case : with at least one free unknown, and tracks or targets
    progress : called with a :class:`Progress` while it goes on, from another thread
    cancel : stops it where it is set
    curves : paths of unknowns of which profile curves are wanted
    count : starts that are varied as a hand would (1 mm, 1% of the launch)
    seed : of the varied starts; the case's own if left out
    threads : simulations side by side
    executor : runs batches of simulations
    limit : simulations of the fit at most

    Returns
    -------
    Trust
        The fit, its directions that are not determined, outcomes at half the step, varied starts, takes left out, profile curves.

    Raises
    ------
    InputError
        If nothing is free, there is no evidence, or a curve is wanted of what is no free unknown.

    Notes
    -----
    Leave-one-out by takes (Stone, Journal of the Royal Statistical Society B 36, 1974); the share of varied starts with Wilson's
    interval
    (Journal of the American Statistical Association 22, 1927); profile likelihood.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> checked = trust(load(DATA / "orange-drop.yapa"), count=2)
    >>> checked.result.stopped
    'converged'
    >>> len(checked.sentences(False)) > 0
    True
    """
    stop = cancel or Cancel()
    result = fit(case, progress, stop, executor=executor, threads=threads, limit=limit)
    found = ValidationReport(result)
    if result.stopped in (Cancelled.status, LimitReached.status):
        return replace(found, stopped=result.stopped)
    fitted = with_numbers(case, result.values)
    one = fitted.for_take(fitted.takes[0]) if fitted.takes else fitted
    try:
        if one.tracks and case.table is None:
            problem = FitProblem(one, stop)
            point = evaluate(problem, with_best_offsets(problem, problem.vector(result.values)))
            unsure = {path for path, e in result.estimates.items() if not e.determined}
            together = [c for c in undetermined_directions(problem, point,
                                                           covariance_at(problem, point).weak) if not unsure.isdisjoint(c.paths)]
            found = replace(found, together=together,
                            suggestions=suggest_experiments(problem, result.estimates))
            for path in map(canonical_path, curves):
                e = result.estimates.get(path)
                curve = likelihood_profile(problem, result.values, path, e.std if e is not None else None)
                found = replace(found, curves=[*found.curves, curve])
        seed = fitted.seed if seed is None else seed
        varied = perturb_starts(fitted, count, seed, threads=threads, executor=executor, cancel=stop)
        found = replace(found, held=varied)
        found = replace(found, stepping=halve_step(fitted, stop))
        return replace(found, left_out=leave_one_out(fitted, stop))
    except Cancelled as why:
        return replace(found, stopped=why.status)
