"""Multi-experiment fit, one fit over several takes: shared unknowns once, own unknowns once a take.

Every take is fitted alone first (its own reading of the tracks, its own outliers); that gives the start: the shared
numbers as means weighted by 1/σ², the own ones as found. Then all residuals are stacked,

    minimise Σ_takes |r_i(shared, own_i, zeros of angles_i)|²  (+ |r(targets)|² at the case's own numbers),

by bounded least squares in the unit box (Branch, Coleman, Li, SIAM J. Sci. Comput. 21, 1999), and the covariance is
s² (JᵀJ)⁻¹ at the end. Another answer of one take is held against all of them: the shared numbers it tells stay, all others
are fitted again; where nothing tells it from the best, no number is more certain than both allow. A shared number that the
takes together do not hold to a third of its range is not determined.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from yapa.case.model import Case
from yapa.case.unknowns import Estimate, Unknown, from_unit_box, to_unit_box
from yapa.fitting.confidence.levels import NORMAL_95
from yapa.fitting.optimise.differences import central
from yapa.fitting.problem.cancel import Cancel, Cancelled, FitStatus
from yapa.fitting.problem.left_over import column_residuals, correlations_of
from yapa.fitting.problem.result import Answer, FitResult, Progress, has_evidence, widened
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.tracks.take_parts import Part, columns_of, part_residuals, parts_of, start_of
from yapa.motion import Array

DIFFERENCE_STEP = 1e-6
"""of the unit box: to either side"""
UNTOLD, UNTOLD_VARIANCE = 1e-9, 1e6
"""of the largest singular value: a direction below it is told by nothing; and its variance, in the unit box"""
NEAR, BETTER = 4.5, 0.5
"""half squares: an answer that is higher by less is not told from the best (three deviations); one lower by more is better"""
HELD_SHARE = 1 / 3
"""of a joint correction that a take keeps where it goes too far"""


def fit_takes(
    case: Case, alone: Callable[[Case], FitResult], progress: Callable[[Progress], None] | None = None,
    cancel: Cancel | None = None, limit: int | None = None,
) -> FitResult:
    """Fit a case with takes.

    Parameters
    ----------
    case : the case
    progress : called with how far the work is
    cancel : stops the work where it is set
    alone : fits one take
    limit : simulations of the joint fit, of every take

    Returns
    -------
    The result over all takes.
    """
    begun, stop = time.perf_counter(), cancel or Cancel()
    free = [u for u in case.unknowns if not u.fixed]
    singles: list[FitResult] = []
    simulations = 0
    for k, take in enumerate(case.takes):
        if progress is not None:
            progress(Progress(f"take {take.name}", None, simulations, {}, 0.7 * k / len(case.takes)))
        singles.append(alone(case.for_take(take)))
        simulations += singles[-1].simulations
    columns, joint = columns_of(case, free)
    start = start_of(case, columns, joint, singles)
    ended = next((s.stopped for s in singles if s.stopped in (FitStatus.CANCELLED, FitStatus.LIMIT_REACHED)), None)
    if ended is not None:
        return _stopped_early(case, columns, joint, start, singles, simulations, time.perf_counter() - begun, ended)
    try:
        parts, start = parts_of(case, columns, singles, start, stop)
    except Cancelled as why:
        return _stopped_early(case, columns, joint, start, singles, simulations, time.perf_counter() - begun, why.status)
    for part in parts:
        part.problem.limit = limit
    shared = _shared(columns)
    best = _End(start, float("inf"), False)
    try:
        every = np.arange(len(start))
        best = _solved(parts, start, every)
        others = []
        for take, single in zip(case.takes, singles, strict=True):
            for answer in _alternatives_with_evidence(single, shared):
                held = [k for path, k in shared.items() if path in answer.values]
                begin = _moved_to(columns, joint, best.x, take.name, answer)
                others.append((answer, _solved(parts, begin, np.delete(every, held))))
        for _, end in others:  # what one take takes for second best is better for all of them
            if end.cost < best.cost - BETTER:
                best = min(best, _solved(parts, end.x, every), key=lambda end: end.cost)
        stopped = FitStatus.CONVERGED if best.converged else FitStatus.NOT_CONVERGED
        return _finished(case, columns, joint, parts, best, others, singles, simulations, begun, stopped)
    except Cancelled as why:
        return _stopped_early(case, columns, joint, best.x, singles, simulations, time.perf_counter() - begun, why.status)


def _shared(columns: dict[tuple[str | None, str], int]) -> dict[str, int]:
    """Path → place in the joint vector, of the numbers that all takes share."""
    return {path: k for (name, path), k in columns.items() if name is None}


def _finished(
    case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], parts: list[Part], best: _End,
    others: list[tuple[Answer, _End]], singles: list[FitResult], simulations: int, begun: float, stopped: str,
) -> FitResult:
    """The result at the best end of the joint fit, with its covariance; no more certain than other answers allow."""
    x = best.x
    cov, s2, dof = _spread_at(parts, x)
    estimates: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {take.name: {} for take in case.takes}
    for (name, path), k in columns.items():
        e = _estimate(joint[k], float(x[k]), float(np.sqrt(max(cov[k, k], 0.0))))
        (estimates if name is None else own[name])[path] = e
    simulations += sum(part.problem.simulations for part in parts)
    tracked = [part for part in parts if part.take is not None]
    sizes = [part.problem.track_residuals for part in tracked]
    squares = sum(float((part_residuals(part, x)[:n] ** 2).sum()) for part, n in zip(tracked, sizes, strict=True))
    used = sum(float((np.isfinite(part.problem.residual_times) & (part.weights[:n] > 0)).sum())
               for part, n in zip(tracked, sizes, strict=True))
    misfit = float(np.sqrt(squares / max(used, 1.0)))
    targets = []
    if case.targets:
        problem = parts[-1].problem
        values = {path: e.value for path, e in estimates.items()}
        targets = [evaluate_target(t, body, reading) for t, body, reading in problem.target_readings(values)]
    shared = _shared(columns)
    also = _runners_up(shared, best, others, s2, estimates)
    estimates = widened(estimates, also, {path: (joint[k].low, joint[k].high) for path, k in shared.items()})
    findings = [answer.words for answer in also]
    findings += [f"{_called(take.name)}: {f}" for take, s in zip(case.takes, singles, strict=True)
                 for f in [f for f in s.findings if f not in [answer.words for answer in s.also]][:2]]
    findings += _disagreements(case, estimates, singles)
    among = np.asarray(cov[np.ix_(list(shared.values()), list(shared.values()))], dtype=float)
    columns_left = [column for part, n in zip(tracked, sizes, strict=True)
                    for column in column_residuals(part.problem, part_residuals(part, x)[:n], part.weights[:n] > 0)]
    return FitResult(estimates, misfit, simulations, time.perf_counter() - begun, stopped,
                     sum(s.outliers for s in singles), targets, findings, own, also=also,
                     explained=sorted((e for s in singles for e in s.explained), key=lambda e: -e.gain), dof=dof,
                     correlations=correlations_of(list(shared), among), residuals=columns_left)


def _inverse_of_squares(J: Array) -> Array:
    """(JᵀJ)⁻¹, with a large variance in place of an infinite one along what no residual tells."""
    _, S, V = np.linalg.svd(J, full_matrices=J.shape[0] < J.shape[1])
    S = np.append(S, np.zeros(len(V) - len(S)))
    least = UNTOLD * max(float(S[0]), 1e-300)
    told = least < S
    return np.asarray(V.T @ np.diag(np.where(told, 1.0 / np.where(told, S, 1.0) ** 2, UNTOLD_VARIANCE)) @ V)


def _called(name: str) -> str:
    return name if name.startswith("take") else f"take {name}"


@dataclass(frozen=True)
class _End:
    """Where a joint fit ended from one start: its vector, half its squares, whether it came to an end."""

    x: Array
    cost: float
    converged: bool


def _solved(parts: list[Part], start: Array, among: NDArray[np.intp]) -> _End:
    """The nearest end from a start, of the numbers at some places of the joint vector."""
    from scipy.optimize import least_squares

    def stacked(p: Array) -> Array:
        whole = start.copy()
        whole[among] = p
        return _residuals(parts, whole)

    if not len(among):
        return _End(start, 0.5 * float((stacked(start[among]) ** 2).sum()), True)
    found = least_squares(stacked, np.clip(start[among], 1e-9, 1 - 1e-9), bounds=(0.0, 1.0), x_scale="jac",
                          diff_step=np.full(len(among), 1e-6), xtol=1e-12, ftol=1e-12, gtol=1e-12, max_nfev=60)
    x = start.copy()
    x[among] = found.x
    return _End(x, float(found.cost), found.status > 0)


def _moved_to(columns: dict[tuple[str | None, str], int], joint: list[Unknown], x: Array, take: str, answer: Answer) -> Array:
    """A joint vector with the shared numbers of another answer of one take, and what of that answer is the take's own."""
    moved = x.copy()
    for (name, path), k in columns.items():
        if name in (None, take) and path in answer.values:
            moved[k] = to_unit_box(joint[k], answer.values[path])
    return moved


def _alternatives_with_evidence(single: FitResult, shared: Iterable[str]) -> list[Answer]:
    """The other answers of one take, without the shared numbers that it tells nothing of."""
    silent = {path for path in shared if path in single.estimates and not has_evidence(single.estimates[path])}
    return [replace(answer, values={path: v for path, v in answer.values.items() if path not in silent}) for answer in single.also]


def _spread_at(parts: list[Part], x: Array) -> tuple[Array, float, int]:
    """Covariance in the unit box, the scale of the squares, and the degrees of freedom."""
    r, J = _at(parts, x)
    dof = max(len(r) - len(x), 1)
    s2 = max(float(r @ r) / dof, 1.0)
    return s2 * _inverse_of_squares(J), s2, dof


def _runners_up(shared: Iterable[str], best: _End, others: list[tuple[Answer, _End]], s2: float,
                found: dict[str, Estimate]) -> list[Answer]:
    """Answers of one take that all takes together do not tell from the best, with other shared numbers; two at most."""
    out: list[Answer] = []
    for answer, end in sorted(others, key=lambda pair: pair[1].cost):
        values = {path: answer.values[path] for path in shared if path in answer.values}
        here = replace(answer, values=values, away=(end.cost - best.cost) / s2)
        if values and here.away < NEAR and here.differs_from(found) and not any(_alike(values, a.values, found) for a in out):
            out.append(here)
    return out[:2]


def _alike(a: dict[str, float], b: dict[str, float], found: dict[str, Estimate]) -> bool:
    """Whether two answers are the same within the estimates' deviations."""
    return all(abs(a[path] - b[path]) <= 3 * (found[path].std or 0.0) for path in a if path in b)


def _stopped_early(
    case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], x: Array, singles: list[FitResult],
    simulations: int, seconds: float, stopped: str,
) -> FitResult:
    """The best so far of a fit that was stopped: values without uncertainty."""
    estimates: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {take.name: {} for take in case.takes}
    for (name, path), k in columns.items():
        e = Estimate(value=from_unit_box(joint[k], float(x[k])), determined=False,
                     reason="stopped before its uncertainty was known")
        (estimates if name is None else own[name])[path] = e
    misfits = [s.misfit for s in singles if s.misfit is not None]
    return FitResult(estimates, max(misfits, default=None), simulations, seconds, stopped, own=own)


def _residuals(parts: list[Part], x: Array) -> Array:
    return np.concatenate([part_residuals(part, x) for part in parts])


def _at(parts: list[Part], x: Array) -> tuple[Array, Array]:
    """Residuals and their central differences."""
    r = _residuals(parts, x)
    J = np.empty((len(r), len(x)))
    for k in range(len(x)):
        J[:, k] = central(lambda q: _residuals(parts, q), x, k, DIFFERENCE_STEP)
    return r, J


def _estimate(unknown: Unknown, u: float, std: float) -> Estimate:
    value = from_unit_box(unknown, u)
    scale = value * float(np.log(unknown.high / unknown.low)) if unknown.transform == "log" else unknown.high - unknown.low
    if std > HELD_SHARE or std == 0.0:
        return Estimate(value=value, determined=False, reason="the takes together do not tell it")
    s = std * scale
    return Estimate(value=value, std=s, low=max(value - NORMAL_95 * s, unknown.low), high=min(value + NORMAL_95 * s, unknown.high))


def _disagreements(case: Case, estimates: dict[str, Estimate], singles: list[FitResult]) -> list[str]:
    """Takes whose own value of a shared number is far from what all say together."""
    out = []
    for path, e in estimates.items():
        for take, single in zip(case.takes, singles, strict=True):
            mine = single.estimates.get(path)
            if path in take.free_per_take or mine is None or mine.std is None or e.std is None or not mine.determined:
                continue
            off = abs(mine.value - e.value) / float(np.hypot(mine.std, e.std))
            if off > 4.0:
                out.append(f"take {take.name} alone says {path} {mine.value:.4g}, {off:.1f} of its deviations from all together")
    return out


def with_takes(case: Case, result: FitResult) -> Case:
    """Return the case with every take's own values written into it.

    Parameters
    ----------
    case : the case
    result : what the fit found
    """
    takes = tuple(take.model_copy(update={"values": {**take.values, **{
        path: e.value for path, e in result.own.get(take.name, {}).items()}}}) for take in case.takes)
    return case.model_copy(update={"takes": takes})


def shown(case: Case) -> Case:
    """Return what one simulation can stand beside: of a case with takes the first, with the case's targets.

    Parameters
    ----------
    case : the case
    """
    return case.for_take(case.takes[0]).model_copy(update={"targets": case.targets}) if case.takes else case
