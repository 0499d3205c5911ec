"""The fit of a case with a table of trials.

Least squares over all rows, and over the case's own tracks and targets beside them; σ of a measured column that is not given is
the root
mean square of what is left over, found together with the numbers. Intervals are those of the linearised problem in the unit box, by
Student's t where σ is found, by the normal distribution where it is given; where the rows are further off than a given σ explains,
they are
widened by the excess.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from scipy import stats

from yapa.case.model import Case
from yapa.case.quantities import label_of
from yapa.case.unknowns import Estimate, Unknown, from_unit_box, to_unit_box
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled, FitStatus
from yapa.fitting.problem.result import Answer, FitResult, Progress, TargetReport, at_walls, widened
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.tables.joint import ELSEWHERE, JointProblem, joint_problem
from yapa.fitting.tables.report import ConstantTest, FTest, TableReport
from yapa.fitting.tables.statistics import Value, adequacy_of, furthest, hat_of, levels_of, scatters, values_of
from yapa.fitting.tracks.take_parts import vector_of
from yapa.motion import Array

MAX_PASSES = 8
"""times that σ is found again from what is left over"""
SCALE_TOLERANCE = 1e-6
"""relative change of a σ below which it is found"""
HELD_SHARE = 1 / 3
"""of its range: an unknown that is known no better than this is not determined"""
AS_GOOD = 2.0
"""half squared residuals: an answer that is worse by less is told beside"""
POOR = 0.001
"""probability of the squared residuals below which given σ are too small"""


def fit_table(
    case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, threads: int | None = None,
    limit: int | None = None,
) -> FitResult:
    """Fit a case with a table of trials.

    Parameters
    ----------
    case : with a table whose columns are read
    progress : called with how far the work is
    cancel : stops it where it is set; the best so far is the result
    threads : runs side by side
    limit : simulations of every part

    Returns
    -------
    The result, with a :class:`TableReport`.

    Raises
    ------
    InputError
        If nothing is free, or the table cannot be used.
    """
    begun, stop = time.perf_counter(), cancel or Cancel()
    if case.table is not None and case.table.columns is None:
        raise bad_input("table", "no rows", "a table whose file is read")
    problem = joint_problem(case, stop, threads, limit)
    x = problem.start
    try:
        _show_progress(progress, "scanning the ranges", problem, x, 0.1)
        x, settled, others = problem.search(case.seed)
        for k in range(MAX_PASSES):
            _show_progress(progress, "fitting the rows", problem, x, 0.4 + 0.05 * k)
            if not _rescaled(problem, x) or not _weights_matter(problem):
                break
            x, _, settled = problem.descend(x)
        _show_progress(progress, "judging the fit", problem, x, 0.9)
        return _finished(problem, x, others, begun, FitStatus.CONVERGED if settled else FitStatus.NOT_CONVERGED)
    except Cancelled as why:
        return _stopped(problem, x, begun, why.status)


def _show_progress(progress: Callable[[Progress], None] | None, phase: str, problem: JointProblem, x: Array,
                   fraction: float) -> None:
    if progress is not None:
        values = {path: from_unit_box(problem.unknowns[k], float(x[k])) for (owner, path),
                  k in problem.columns.items() if owner is None}
        progress(Progress(phase, None, problem.simulations, values, fraction))


def _misses(problem: JointProblem, x: Array, values: list[Value]) -> Array:
    """Predicted less measured of every value [SI]."""
    every = [part.misses(x) for part in problem.rows]
    return np.array([every[v.part][v.column][v.row] for v in values])


def _rescaled(problem: JointProblem, x: Array) -> bool:
    """Find σ of measured columns again; whether any has changed."""
    values = values_of(problem.rows)
    changed = False
    for curves in problem.curves:
        changed |= curves.rescaled(x, len(problem.free()), len(values) + curves.count)
    if not problem.rows:
        return changed
    found = scatters(problem.rows, _misses(problem, x, values), values, _count_in_rows(problem))
    for c, column in enumerate(problem.rows[0].measured):
        one = next((s for s in found if s.outcome == column.text and s.found), None)
        if one is None or column.sigma is not None:
            continue
        size = max(one.value, 1e-9 * max(abs(float(np.nanmax(np.abs(column.y)))), 1e-9))
        changed |= abs(size - problem.rows[0].scales[c]) > SCALE_TOLERANCE * size
        for part in problem.rows:
            part.scales[c] = size
    return changed


def _reweighted(problem: JointProblem, before: list[float]) -> Array:
    """What residuals at an earlier σ of every measured column are to be multiplied with."""
    out = []
    before = list(before)
    of_rows = [before.pop(0) for _ in (problem.rows[0].scales if problem.rows else [])]
    for part in problem.rows:
        for c, used in enumerate(part.used):
            found = part.measured[c].sigma is None
            out.append(np.full(int(used.sum()), of_rows[c] / part.scales[c] if found else 1.0))
        out.append(np.ones(part.count))
    out.append(np.ones(sum(len(part.weights) for part in problem.parts)))
    out += [np.full(int(used.sum()), before.pop(0) / scale) for part in problem.curves
            for used, scale in zip(part.used, part.scales, strict=True)]
    return np.concatenate(out)


def _weights_matter(problem: JointProblem) -> bool:
    """Whether a σ that is found moves the numbers: not where it weighs all there is alike."""
    several = sum(len(part.curves) for part in problem.curves) + (len(problem.rows[0].measured) if problem.rows else 0)
    return several > 1 or bool(problem.parts)


def _count_in_rows(problem: JointProblem) -> int:
    """How many unknowns the rows have."""
    return len({int(slot) for part in problem.rows for slot in part.slots.ravel()} - set(problem.fixed))


def _finished(problem: JointProblem, x: Array, others: list[Array], begun: float, status: str) -> FitResult:
    values = values_of(problem.rows)
    x, r, J = problem.polished(x)
    before = [*(problem.rows[0].scales if problem.rows else []), *(scale for part in problem.curves for scale in part.scales)]
    _rescaled(problem, x)
    weights = _reweighted(problem, before)
    r, J = r * weights, J * weights[:, None]
    n = len(values)
    at = _places_of_values(problem)
    e, Je = r[at], J[at]
    given = all(column.sigma is not None for part in problem.rows[:1] for column in part.measured) and all(
        curve.sigma is not None for part in problem.curves for curve in part.curves)
    beside = len(r) - 2 * n
    dof = max(n + beside - len(problem.free()), 1)
    squares = float(r @ r)
    factor = 1.0
    if given and stats.chi2.sf(squares, dof) < POOR:
        factor = squares / dof
    reach = float(stats.norm.ppf(0.975)) if given else float(stats.t.ppf(0.975, dof))
    std, correlation = _covariance(J, factor, problem.free())
    estimates, own = _estimates(problem, x, std, reach)
    also = _also(problem, x, others, squares, dof)
    estimates = widened(estimates, also, {u.path: (u.low, u.high) for u in problem.case.unknowns})
    report = _report(problem, x, e, Je, given, correlation) if problem.rows else None
    targets: list[TargetReport] = []
    mean_squares = [float(np.mean(part.residuals(x) ** 2)) for part in problem.curves]
    for part in problem.parts:
        if part.problem.tracks:
            m = part.problem.misfit_of(part.problem.residuals(vector_of(part, x)))
            mean_squares += [] if m is None else [m**2]
        here = {u.path: from_unit_box(u, float(x[k])) for u, k in zip(part.problem.unknowns, part.places, strict=True)}
        targets += [evaluate_target(t, body, reading) for t, body, reading in part.problem.target_readings(here)]
    misfit = float(np.sqrt(np.mean(mean_squares))) if mean_squares else None
    shared = {path: e_.value for path, e_ in estimates.items()}
    findings = at_walls([u for u in problem.case.unknowns if u.path in shared], shared)
    findings += [answer.words for answer in also]
    return FitResult(estimates, misfit, problem.simulations, time.perf_counter() - begun, status, 0, targets, findings, own, also,
                     table=report, dof=dof, correlations=_correlations(problem, correlation))


def _report(problem: JointProblem, x: Array, e: Array, Je: Array, given: bool, correlation: Array) -> TableReport:
    """What there is to say of the rows."""
    values, unknowns = values_of(problem.rows), _count_in_rows(problem)
    Q = hat_of(Je[:, problem.free()])
    n = len(values)
    return TableReport(
        int(sum(len(part.rows) for part in problem.rows)), n, len({v.level for v in values}), n - unknowns,
        scatters(problem.rows, _misses(problem, x, values), values, unknowns), levels_of(problem.rows, e, Q, values),
        furthest(problem.rows, e, Q, values), adequacy_of(e, values, unknowns, given),
        _constants(problem, x, e, n - unknowns, given),
        _correlations(problem, correlation), _missing(problem, x))


def _places_of_values(problem: JointProblem) -> np.ndarray:
    """Where the residuals of measured values stand among all residuals: not their shortfalls."""
    at, out = 0, []
    for part in problem.rows:
        out += list(range(at, at + part.count))
        at += 2 * part.count
    return np.array(out, int)


def _covariance(J: Array, factor: float, free: np.ndarray) -> tuple[Array, Array]:
    """Standard deviations in the unit box, and correlations; what nothing tells has its whole range."""
    size = J.shape[1]
    std, correlation = np.zeros(size), np.eye(size)
    if not len(free):
        return std, correlation
    _, s, Vt = np.linalg.svd(J[:, free], full_matrices=False)
    cov = factor * (Vt.T / np.maximum(s, 1.0) ** 2) @ Vt
    own = np.sqrt(np.maximum(np.diag(cov), 0.0))
    std[free] = own
    correlation[np.ix_(free, free)] = cov / np.maximum(np.outer(own, own), 1e-300)
    return std, correlation


def _estimates(problem: JointProblem, x: Array, std: Array, reach: float) -> tuple[dict[str, Estimate],
                                                                                   dict[str, dict[str, Estimate]]]:
    shared: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {}
    for (owner, path), k in problem.columns.items():
        estimate = _estimate(problem.unknowns[k], float(x[k]), float(std[k]), reach)
        if owner is None:
            shared[path] = estimate
        else:
            own.setdefault(owner, {})[path] = estimate
    return shared, own


def _estimate(unknown: Unknown, u: float, std: float, reach: float) -> Estimate:
    value = from_unit_box(unknown, u)
    if std > HELD_SHARE:
        return Estimate(value=value, determined=False, reason=f"the evidence does not tell {label_of(unknown.path)}")
    slope = value * float(np.log(unknown.high / unknown.low)) if unknown.transform == "log" else unknown.high - unknown.low
    return Estimate(value=value, std=std * abs(slope), low=from_unit_box(unknown, u - reach * std),
                    high=from_unit_box(unknown, u + reach * std))


def _also(problem: JointProblem, x: Array, others: list[Array], squares: float, dof: int) -> list[Answer]:
    """Other ends that agree about as well once every row is followed."""
    out: list[Answer] = []
    scale = max(squares / dof, 1.0)
    for start in others:
        end, cost, _ = problem.descend(start)
        away = (cost - 0.5 * squares) / scale
        values = {path: from_unit_box(problem.unknowns[k], float(end[k])) for (owner, path),
                  k in problem.columns.items() if owner is None}
        if away < AS_GOOD and np.abs(end - x).max() > ELSEWHERE and all(values != answer.values for answer in out):
            out.append(Answer(values, away))
    return out


def _constants(problem: JointProblem, x: Array, e: Array, dof: int, given: bool) -> list[ConstantTest]:
    """Each free constant held at its neutral value, everything else fitted again."""
    out: list[ConstantTest] = []
    if dof < 1:
        return out
    for (owner, path), k in problem.columns.items():
        if owner is not None or not path.startswith("constants."):
            continue
        kept = problem.case.constants[path.removeprefix("constants.")].neutral
        unknown = problem.unknowns[k]
        if not unknown.low <= kept <= unknown.high:
            continue
        cost = problem.with_fixed(k, to_unit_box(unknown, kept), x)
        here = problem.residuals(x)
        gained = max(2 * cost - float(here @ here), 0.0)
        ratio = gained if given else gained / (float(e @ e) / dof)
        p = float(stats.chi2.sf(ratio, 1)) if given else float(stats.f.sf(ratio, 1, dof))
        out.append(ConstantTest(path, kept, FTest(ratio, (1, dof), p)))
    return out


def _correlations(problem: JointProblem, correlation: Array) -> list[tuple[str, str, float]]:
    """Pairs of shared unknowns, the strongest first."""
    places = [(path, k) for (owner, path), k in problem.columns.items() if owner is None]
    pairs = [(a, b, float(correlation[i, j])) for n, (a, i) in enumerate(places) for b, j in places[n + 1 :]]
    return sorted(pairs, key=lambda pair: -abs(pair[2]))


def _missing(problem: JointProblem, x: Array) -> list[str]:
    """Which rows have an outcome that does not occur at the end, and why."""
    out = []
    for part in problem.rows:
        short = part.outcomes(x)[1]
        for t, (name, target) in enumerate(part.terms.items()):
            rows = np.flatnonzero(short[:, t] > 0)
            if len(rows):
                from yapa.outcomes import read_target

                why = read_target(part.motion(int(rows[0]), x), part.bodies[name], target).missing or "it is missing"
                numbers = ", ".join(str(int(part.rows[k]) + 1) for k in rows[:6]) + (" …" if len(rows) > 6 else "")
                out.append(f"row{'s' if len(rows) > 1 else ''} {numbers}: {name} does not occur ({why})")
    return out


def _stopped(problem: JointProblem, x: Array, begun: float, status: str) -> FitResult:
    """The best so far of a fit that was stopped: values without uncertainty."""
    shared: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {}
    for (owner, path), k in problem.columns.items():
        estimate = Estimate(value=from_unit_box(problem.unknowns[k], float(x[k])), determined=False,
                            reason="stopped before its uncertainty was known")
        if owner is None:
            shared[path] = estimate
        else:
            own.setdefault(owner, {})[path] = estimate
    return FitResult(shared, None, problem.simulations, time.perf_counter() - begun, status, own=own)
