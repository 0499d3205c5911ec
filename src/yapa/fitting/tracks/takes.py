"""One fit over several takes: shared unknowns once, own unknowns once a take.

Every take is fitted alone first (its own reading of the tracks, its own outliers); that gives the start: the shared
numbers as means weighted by 1/σ², the own ones as found. Then all residuals are stacked,

    minimise Σ_takes |r_i(shared, own_i, zeros of angles_i)|²  (+ |r(targets)|² at the case's own numbers),

by bounded least squares in the unit box (Branch, Coleman, Li, SIAM J. Sci. Comput. 21, 1999), and the covariance is
s² (JᵀJ)⁻¹ at the end. A shared number that the takes together do not hold to a third of its range is not determined.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from yapa.case.model import Case
from yapa.case.takes import Take, case_of
from yapa.case.unknowns import Estimate, Unknown, from_unit, to_unit
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import FitResult, Progress
from yapa.fitting.problem.target_residuals import judge
from yapa.motion import Array

CLEAN = 6.0
"""σ: samples further off after the takes' own fits are outliers, and left out."""
HELD = 1 / 3


@dataclass
class _Part:
    """One take (or, without a take, the targets): its problem and where its unknowns stand in the joint vector."""

    take: Take | None
    problem: FitProblem
    places: np.ndarray
    zeros: slice
    weights: Array


def fit_takes(
    case: Case, alone: Callable[[Case], FitResult], progress: Callable[[Progress], None] | None = None,
    cancel: Cancel | None = None, limit: int | None = None,
) -> FitResult:
    """Fit a case with takes.

    Parameters
    ----------
    alone : fits one take
    limit : simulations of the joint fit, of every take
    """
    from scipy.optimize import least_squares

    begun, stop = time.perf_counter(), cancel or Cancel()
    free = [u for u in case.unknowns if not u.locked]
    singles: list[FitResult] = []
    simulations = 0
    for k, take in enumerate(case.takes):
        if progress is not None:
            progress(Progress(f"take {take.name}", None, simulations, {}, 0.7 * k / len(case.takes)))
        singles.append(alone(case_of(case, take)))
        simulations += singles[-1].simulations
    columns, joint = _columns(case, free)
    start = _start(case, columns, joint, singles)
    ended = next((s.stopped for s in singles if s.stopped in ("cancelled", "limit reached")), None)
    if ended is not None:
        return _stopped_early(case, columns, joint, start, singles, simulations, time.perf_counter() - begun, ended)
    try:
        parts, start = _parts(case, columns, free, singles, start, stop)
    except Cancelled as why:
        return _stopped_early(case, columns, joint, start, singles, simulations, time.perf_counter() - begun, why.status)
    for part in parts:
        part.problem.limit = limit
    stopped = "converged"
    x = start
    if stopped == "converged":
        try:
            def stacked(p: Array) -> Array:
                return _residuals(parts, p)

            found = least_squares(stacked, np.clip(start, 1e-9, 1 - 1e-9), bounds=(0.0, 1.0), x_scale="jac",
                                  diff_step=np.full(len(start), 1e-6), xtol=1e-12, ftol=1e-12, gtol=1e-12, max_nfev=60)
            x = found.x
            stopped = "converged" if found.status > 0 else "not converged"
        except Cancelled as why:
            stopped = why.status
    try:
        return _finished(case, columns, joint, parts, x, singles, simulations, begun, stopped)
    except Cancelled as why:
        return _stopped_early(case, columns, joint, x, singles, simulations, time.perf_counter() - begun, why.status)


def _finished(
    case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], parts: list[_Part], x: Array,
    singles: list[FitResult], simulations: int, begun: float, stopped: str,
) -> FitResult:
    """The result at the end of the joint fit, with its covariance."""
    r, J = _at(parts, x)
    dof = max(len(r) - len(x), 1)
    s2 = max(float(r @ r) / dof, 1.0)
    cov = s2 * np.linalg.pinv(J.T @ J)
    estimates: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {take.name: {} for take in case.takes}
    for (name, path), k in columns.items():
        e = _estimate(joint[k], float(x[k]), float(np.sqrt(max(cov[k, k], 0.0))))
        (estimates if name is None else own[name])[path] = e
    simulations += sum(part.problem.simulations for part in parts)
    tracked = [part for part in parts if part.take is not None]
    sizes = [part.problem.track_residuals for part in tracked]
    squares = sum(float((_part_residuals(part, x)[:n] ** 2).sum()) for part, n in zip(tracked, sizes, strict=True))
    used = sum(float((np.isfinite(part.problem.residual_times) & (part.weights[:n] > 0)).sum())
               for part, n in zip(tracked, sizes, strict=True))
    misfit = float(np.sqrt(squares / max(used, 1.0)))
    targets = []
    if case.targets:
        problem = parts[-1].problem
        values = {path: e.value for path, e in estimates.items()}
        targets = [judge(t, body, reading) for t, body, reading in problem.target_readings(values)]
    findings = [f"take {take.name}: {f}" for take, s in zip(case.takes, singles, strict=True) for f in s.findings[:2]]
    findings += _disagreements(case, estimates, singles)
    return FitResult(estimates, misfit, simulations, time.perf_counter() - begun, stopped,
                     sum(s.outliers for s in singles), targets, findings, own)


def _stopped_early(
    case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], x: Array, singles: list[FitResult],
    simulations: int, seconds: float, stopped: str,
) -> FitResult:
    """The best so far of a fit that was stopped: values without uncertainty."""
    estimates: dict[str, Estimate] = {}
    own: dict[str, dict[str, Estimate]] = {take.name: {} for take in case.takes}
    for (name, path), k in columns.items():
        e = Estimate(value=from_unit(joint[k], float(x[k])), determined=False, reason="stopped before its uncertainty was known")
        (estimates if name is None else own[name])[path] = e
    misfits = [s.misfit for s in singles if s.misfit is not None]
    return FitResult(estimates, max(misfits, default=None), simulations, seconds, stopped, own=own)


def _columns(case: Case, free: list[Unknown]) -> tuple[dict[tuple[str | None, str], int], list[Unknown]]:
    """Place in the joint vector of every (take or None, path), and the unknown that stands there."""
    columns: dict[tuple[str | None, str], int] = {}
    joint: list[Unknown] = []
    for u in free:
        owners = [take.name for take in case.takes if u.path in take.own]
        names: list[str | None] = [*owners] if len(owners) == len(case.takes) else [None, *owners]
        for name in names:
            columns[name, u.path] = len(joint)
            joint.append(u)
    return columns, joint


def _start(case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], singles: list[FitResult]) -> Array:
    start = np.zeros(len(joint))
    for (name, path), k in columns.items():
        told = [s.estimates[path] for take, s in zip(case.takes, singles, strict=True)
                if (path in take.own) == (name is not None) and name in (None, take.name)]
        values = np.array([to_unit(joint[k], e.value) for e in told])
        weights = np.array([1.0 / max(e.std or 0.0, 1e-9) ** 2 if e.determined and e.std else 1e-12 for e in told])
        start[k] = float(values @ weights / weights.sum()) if len(told) else 0.5
    return start


def _parts(
    case: Case, columns: dict[tuple[str | None, str], int], free: list[Unknown], singles: list[FitResult], start: Array,
    cancel: Cancel,
) -> tuple[list[_Part], Array]:
    """Problems of all takes, and the start with the zeros of their angles behind it."""
    parts: list[_Part] = []
    at = len(start)
    zeros: list[float] = []
    for take, single in zip(case.takes, singles, strict=True):
        problem = FitProblem(case_of(case, take), cancel)
        places = np.array([columns[take.name if u.path in take.own else None, u.path] for u in free])
        span = slice(at, at + problem.offsets)
        at += problem.offsets
        p = problem.vector(single.values)
        r = problem.residuals(p)
        for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
            if e.offset is not None and place.angle is not None:  # the zero of an angle that is free: laid on the simulation
                zeros.append(-float(np.median(r[place.angle])) * e.data.sigma_angle)
                p[len(problem.unknowns) + e.offset] = zeros[-1]
        r = problem.residuals(p)
        parts.append(_Part(take, problem, places, span, (np.abs(r) <= CLEAN).astype(float)))
    if case.targets:
        problem = FitProblem(case.model_copy(update={"tracks": (), "takes": ()}), cancel)
        shared = [columns.get((None, u.path), -1) for u in free]
        parts.append(_Part(None, problem, np.array(shared), slice(at, at), np.ones(len(problem.residuals(problem.vector())))))
    return parts, np.concatenate([start, _packed(np.array(zeros))])


def _packed(zeros: Array) -> Array:
    """Zeros of angles into the unit box: ±100 rad."""
    return 0.5 + zeros / 200.0


def _part_residuals(part: _Part, x: Array) -> Array:
    problem = part.problem
    p = np.empty(problem.size)
    p[: len(part.places)] = np.where(part.places >= 0, x[part.places], problem.vector()[: len(part.places)])
    p[len(part.places) :] = (x[part.zeros] - 0.5) * 200.0
    return problem.residuals(p) * part.weights


def _residuals(parts: list[_Part], x: Array) -> Array:
    return np.concatenate([_part_residuals(part, x) for part in parts])


def _at(parts: list[_Part], x: Array) -> tuple[Array, Array]:
    """Residuals and their central differences."""
    r = _residuals(parts, x)
    J = np.empty((len(r), len(x)))
    for k in range(len(x)):
        step = 1e-6
        up, down = x.copy(), x.copy()
        up[k], down[k] = min(x[k] + step, 1.0), max(x[k] - step, 0.0)
        J[:, k] = (_residuals(parts, up) - _residuals(parts, down)) / (up[k] - down[k])
    return r, J


def _estimate(unknown: Unknown, u: float, std: float) -> Estimate:
    value = from_unit(unknown, u)
    scale = value * float(np.log(unknown.high / unknown.low)) if unknown.scale == "log" else unknown.high - unknown.low
    if std > HELD or std == 0.0:
        return Estimate(value=value, determined=False, reason="the takes together do not tell it")
    s = std * scale
    return Estimate(value=value, std=s, low=max(value - 1.96 * s, unknown.low), high=min(value + 1.96 * s, unknown.high))


def _disagreements(case: Case, estimates: dict[str, Estimate], singles: list[FitResult]) -> list[str]:
    """Takes whose own value of a shared number is far from what all say together."""
    out = []
    for path, e in estimates.items():
        for take, single in zip(case.takes, singles, strict=True):
            mine = single.estimates.get(path)
            if path in take.own or mine is None or mine.std is None or e.std is None or not mine.determined:
                continue
            off = abs(mine.value - e.value) / float(np.hypot(mine.std, e.std))
            if off > 4.0:
                out.append(f"take {take.name} alone says {path} {mine.value:.4g}, {off:.1f} of its deviations from all together")
    return out


def with_takes(case: Case, result: FitResult) -> Case:
    """The case with every take's own values written into it."""
    takes = tuple(take.model_copy(update={"values": {**take.values, **{
        path: e.value for path, e in result.own.get(take.name, {}).items()}}}) for take in case.takes)
    return case.model_copy(update={"takes": takes})


def shown(case: Case) -> Case:
    """What one simulation can stand beside: of a case with takes the first, with the case's targets."""
    return case_of(case, case.takes[0]).model_copy(update={"targets": case.targets}) if case.takes else case
