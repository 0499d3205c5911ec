"""How sure: covariance, what the evidence cannot tell, and one-sided bounds.

Covariance: [Σr²/(N-p)] (JᵀJ)⁻¹ max(1, (1+ρ)/(1-ρ)), over the residuals r that were kept, ρ their
lag-1 autocorrelation within tracks.

What cannot be told: the singular values of J in box units, floored at 1 (the range itself is
then all that is known); an unknown whose standard deviation stays above a tenth of its range is
undetermined. A saturating one, such as friction above the grip limit, gets a one-sided 95% bound
by a profile: the value at which half the squared misfit, the others fitted again, has risen by
1.645²/2.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.quantities import label_of
from yapa.case.unknowns import Estimate, from_unit_box
from yapa.fitting.confidence.identifiability import undetermined_directions
from yapa.fitting.confidence.levels import NORMAL_95, RISE_95
from yapa.fitting.confidence.residual_diagnostics import autocorrelation_factor
from yapa.fitting.optimise.jacobian import Point, jacobian
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.slip_stick_modes import friction_unknowns
from yapa.motion import Array

UNDETERMINED = 0.1
"""Share of the range above which a standard deviation says nothing."""
RISE_ONE_SIDED = 0.5 * 1.645**2
"""of half the squared misfit: a one-sided bound of 95%"""


@dataclass(frozen=True)
class CovarianceResult:
    """Covariance of the vector, standard deviations with floored singular values, weak directions, and the Jacobian."""

    cov: Array
    std: Array
    floored: Array
    weak: list[Array]
    J: Array


def covariance_at(problem: FitProblem, best: Point, met: Sequence[Point] = ()) -> CovarianceResult:
    """Return covariance and identifiability at the best point.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    met : vectors around it. In a stepped profile slopes across the teeth of the steps are too steep, so a standard deviation is at
        least what those vectors spread that agree with the evidence as well as 95% of the interval's would.
    """
    J = jacobian(problem, best.p, best.r, central=True)
    used = np.abs(J).sum(axis=1) > 0
    n, p = int(used.sum()), problem.size
    scale = float(best.r @ best.r) / max(n - p, 1)
    if not problem.tracks:
        scale = 1.0
    scale *= autocorrelation_factor(problem, best.r)
    _, s, Vt = np.linalg.svd(J, full_matrices=False)
    s = np.concatenate([s, np.zeros(p - len(s))]) if len(s) < p else s
    Vt = Vt if Vt.shape[0] == p else np.linalg.svd(J, full_matrices=True)[2]
    floor = np.maximum(s / np.sqrt(max(scale, 1e-300)), 1.0)
    floored = np.sqrt((Vt.T**2 / floor**2).sum(axis=1))
    strong = s > 1e-7 * max(float(s[0]), 1e-300)
    inverse = np.where(strong, 1.0 / np.where(strong, s, 1.0) ** 2, 0.0)
    cov = (Vt.T * inverse) @ Vt * scale
    weak = [Vt[k] for k in range(p) if floor[k] <= 1.0 / UNDETERMINED]
    std = np.sqrt(np.maximum(np.diag(cov), 0.0))
    alike = [point.p for point in met if point.cost < best.cost + RISE_95 * scale]
    if len(alike) > 1:
        half = 0.5 * np.ptp(np.array([*alike, best.p]), axis=0) / NORMAL_95
        std = np.where(np.arange(p) < len(problem.unknowns), np.maximum(std, half), std)
        floored = np.maximum(floored, np.where(np.arange(p) < len(problem.unknowns), half, 0.0))
    return CovarianceResult(cov, std, floored, weak, J)


def estimates(problem: FitProblem, best: Point, sure: CovarianceResult) -> dict[str, Estimate]:
    """Return one estimate for each unknown, honest about those that cannot be told.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    sure : covariance of the unknowns at the answer
    """
    out: dict[str, Estimate] = {}
    for j, unknown in enumerate(problem.unknowns):
        value = from_unit_box(unknown, best.p[j])
        slope = (from_unit_box(unknown, min(1.0, best.p[j] + 1e-6)) - from_unit_box(unknown, max(0.0, best.p[j] - 1e-6))) / (
            min(1.0, best.p[j] + 1e-6) - max(0.0, best.p[j] - 1e-6))
        if sure.floored[j] <= UNDETERMINED:
            std = float(sure.std[j] * slope)
            low, high = value - NORMAL_95 * std, value + NORMAL_95 * std
            if unknown.transform == "log" and value > 0:
                low, high = value * np.exp(-NORMAL_95 * std / value), value * np.exp(NORMAL_95 * std / value)
            out[unknown.path] = Estimate(
                value=value, std=std, low=max(unknown.low, low) if low < unknown.low <= value else low, high=high)
        else:
            out[unknown.path] = _undetermined(problem, best, sure, j, value)
    return out


def _undetermined(problem: FitProblem, best: Point, sure: CovarianceResult, j: int, value: float) -> Estimate:
    unknown = problem.unknowns[j]
    low = profile_bound(problem, best, j, downwards=True)
    high = profile_bound(problem, best, j, downwards=False)
    name = label_of(unknown.path)
    together = next((c for c in undetermined_directions(problem, best, sure.weak) if unknown.path in c.paths), None)
    if j in friction_unknowns(problem) and high is None and low is None:
        reason = "friction does not change what was asked for here"
    elif j in friction_unknowns(problem) and high is None:
        reason = f"every contact grips, so any friction above {low or unknown.low:.3g} gives the same motion"
    elif parse_path(unknown.path).quantity == "angular_velocity" and (low is None) != (high is None) and together is None:
        side = f"above {low:.3g}" if low is not None else f"below {high:.3g}"
        reason = f"every contact slides to its end, so any spin {side} gives the same motion"
    elif together is not None:
        reason = together.words
    elif parse_path(unknown.path).quantity == "mass":
        reason = "mass does not change this motion: there is no drag, no fluid and no collision that depends on it"
    elif low is not None or high is not None:
        reason = f"the evidence tells only a bound of {name}"
    else:
        reason = f"{name} does not change anything that was measured"
    return Estimate(value=value, std=None, low=low, high=high, determined=False, reason=reason)


def profile_bound(problem: FitProblem, best: Point, j: int, downwards: bool) -> float | None:
    """Return One-sided 95% bound of an unknown, the others fitted again; None if its range holds none.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    j : index of the unknown
    downwards : whether the bound is below
    """
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    scale = max(1.0, 2 * best.cost / max(len(best.r) - problem.size, 1)) if problem.tracks else 1.0
    scale *= autocorrelation_factor(problem, best.r)
    limit = best.cost + RISE_ONE_SIDED * scale
    end = 0.0 if downwards else 1.0

    near = best.p

    def allowed(u: float) -> bool:
        nonlocal near
        q = near.copy()
        q[j] = u
        found = LevenbergMarquardt(most=8, fixed=hold, reach=limit, hopeless=limit).minimise(problem, q).point
        if found.cost <= limit:
            near = found.p
        return found.cost <= limit

    if allowed(end):
        return None
    inside, outside = best.p[j], end
    for _ in range(16):
        middle = 0.5 * (inside + outside)
        if allowed(middle):
            inside = middle
        else:
            outside = middle
        if abs(inside - outside) < 1e-6 + 0.02 * min(abs(outside - best.p[j]), 0.05 + abs(inside - end)):
            break
    return from_unit_box(problem.unknowns[j], outside)
