"""The end of a fit: its values with their intervals, and what is said of it."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

import numpy as np

from yapa.case.unknowns import Estimate, from_unit_box
from yapa.fitting.confidence.covariance import covariance_at, estimates
from yapa.fitting.confidence.kinks import widen_across_sticking
from yapa.fitting.confidence.model_errors import explain
from yapa.fitting.confidence.residual_diagnostics import diagnose
from yapa.fitting.problem.cancel import Cancelled, FitStatus
from yapa.fitting.problem.left_over import column_residuals, correlations_of
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import FitResult, TargetReport, widened
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.tracks.noise import noises_read_again, read_noises
from yapa.fitting.tracks.verdict import Verdict

if TYPE_CHECKING:
    from yapa.fitting.tracks.fit import Fit


def result_of(search: Fit, stopped: str, begun: float) -> FitResult:
    """Return the result of a fit that ended: how sure its values are, what explains what is left over, and what to say of it.

    Parameters
    ----------
    search : the fit
    stopped : how it ended
    begun : when it began, by the performance counter [s]
    """
    problem = search.problem
    if search.best is None:
        start = {u.path: Estimate(value=from_unit_box(u, v), determined=False, reason="stopped before anything was found")
                 for u, v in zip(problem.unknowns, problem.vector(), strict=False)}
        return FitResult(start, None, problem.simulations, time.perf_counter() - begun, stopped,
                         findings=_why_stopped(search.problem, stopped))
    if stopped in (FitStatus.CANCELLED, FitStatus.LIMIT_REACHED):
        found_estimates = {path: Estimate(value=v, determined=False, reason="stopped before its uncertainty was known")
                for path, v in problem.values(search.best.p).items()}
        return FitResult(found_estimates, problem.misfit_of(search.best.r, search.keep), problem.simulations,
                         time.perf_counter() - begun, stopped, findings=_why_stopped(search.problem, stopped))
    try:
        search.enter("how sure", 0.85)
        sure = covariance_at(problem, search.best, search.met)
        found_estimates = estimates(problem, search.best, sure)
        verdict = Verdict(problem, search.best, search.keep, search.tried, search.others(search.best))
        plain = verdict.plain
        found_estimates |= read_noises(problem, plain, search.keep)
        misfit = problem.misfit_of(plain, search.keep)
        targets = target_reports(problem, problem.values(search.best.p))
        remarks = problem.remarks(problem.values(search.best.p))
        search.enter("what explains it", 0.95)
        explained, carried = explain(problem, search.best, sure.J)
        outliers = 0 if search.keep is None else int((~search.keep).sum())
        also = verdict.runners_up(found_estimates)
        found_estimates = widened(found_estimates, also, {u.path: (u.low, u.high) for u in problem.unknowns})
        found_estimates |= widen_across_sticking(problem, search.best, found_estimates)
        other_profile = verdict.profile_is_another(misfit, outliers)
    except Cancelled as stop:
        return result_of(search, stop.status, begun)
    if other_profile is not None:
        found_estimates = {path: Estimate(value=e.value, determined=False,
                                          reason="the stepped profile is not that of the recording")
                for path, e in found_estimates.items()}
    findings = [answer.words for answer in also]
    findings += ([other_profile] if other_profile is not None else verdict.findings(found_estimates, misfit, targets))
    if problem.tracks:
        findings += verdict.where_it_is_off() + noises_read_again(problem)
        kept = plain if search.keep is None else np.where(search.keep, plain[: problem.track_residuals], 0.0)
        findings += diagnose(problem, problem.values(search.best.p), kept[: problem.track_residuals], search.seen_tracks)
    if stopped == FitStatus.NOT_REACHABLE:
        findings = [f"not reachable: nothing that may change moves {t.target.label}; the nearest misses {t.how_missed}"
                    for t in targets if not t.met] + findings
    findings = [str(e) for e in explained] + findings + [words for words in carried if words]
    values = int((np.isfinite(problem.template) & (True if search.keep is None else search.keep)).sum()) + len(problem.targets)
    return FitResult(found_estimates, misfit, problem.simulations, time.perf_counter() - begun, stopped, outliers, targets,
                     findings + remarks, also=also, explained=explained, dof=max(values - problem.size, 0),
                     correlations=correlations_of([u.path for u in problem.unknowns], sure.cov),
                     residuals=column_residuals(problem, plain, search.keep))


def _why_stopped(problem: FitProblem, stopped: str) -> list[str]:
    if stopped != FitStatus.LIMIT_REACHED:
        return []
    return [f"stopped after {problem.limit:,} simulations, the most it may take: fewer unknowns, narrower ranges or a "
            "higher limit may let it end"]


def target_reports(problem: FitProblem, values: dict[str, float]) -> list[TargetReport]:
    """Return each target beside its outcome at these values.

    Parameters
    ----------
    problem : the least-squares problem
    values : path → value, SI units
    """
    return [
        evaluate_target(t, body, r)
        for t, body, r in problem.target_readings(values)
    ]
