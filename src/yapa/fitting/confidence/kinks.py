"""Intervals near the friction at which a body sticks on its slope, where the misfit has a kink.

Below it what has stopped creeps back, and half the squared misfit rises steeply; above, it stays, and little depends on friction.
The curvature at an answer on one side says nothing of the other. So where the kink is within a few deviations the other side is
looked at too: friction held further and further beyond, the other unknowns fitted again, until half the squared misfit has risen by
the 1.92 of a 95% interval, times what is left over and how it hangs together. What the other unknowns are there is held by their
intervals too.
"""

from __future__ import annotations

import numpy as np

from yapa.case.unknowns import Estimate, to_unit_box
from yapa.fitting.confidence.covariance import covariance_at, estimates
from yapa.fitting.confidence.levels import NORMAL_95, RISE_95
from yapa.fitting.optimise.jacobian import Point
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.slip_stick_modes import friction_unknowns, noise_scale, slopes_below, span_of

NEAR = 6.0
"""Deviations from a kink within which its other side is looked at."""
BEYOND = (0.005, 0.01, 0.02, 0.04, 0.08, 0.16)
"""Of the critical friction: how far beyond."""


def widen_across_sticking(problem: FitProblem, best: Point, estimates_of: dict[str, Estimate]) -> dict[str, Estimate]:
    """Return estimates of frictions near a kink, and of what goes with them, their intervals taken on to its other side.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    estimates_of : estimates so far
    """
    out = dict(estimates_of)
    for j in friction_unknowns(problem):
        unknown, estimate = problem.unknowns[j], estimates_of[problem.unknowns[j].path]
        if not estimate.determined or not estimate.std:
            continue
        motion = problem.motion(problem.values(best.p), *span_of(problem))
        for critical in slopes_below(problem, motion, unknown.path):
            if abs(estimate.value - critical) < NEAR * estimate.std and unknown.low < critical < unknown.high:
                reach, beyond = _beyond(problem, best, j, estimate, critical)
                out[unknown.path] = _wider(estimate, reach, reach)
                if beyond is not None:
                    out |= _of_both_sides(problem, beyond, {path: e for path, e in out.items() if path != unknown.path})
    return {path: e for path, e in out.items() if e is not estimates_of[path]}


def _beyond(problem: FitProblem, best: Point, j: int, estimate: Estimate, critical: float) -> tuple[float, Point | None]:
    """The friction on the other side at which the evidence ends, and the lowest of the answers there that it allows."""
    unknown, way = problem.unknowns[j], 1 if estimate.value < critical else -1
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    limit = best.cost + RISE_95 * noise_scale(problem, best)
    reach, start, lowest = estimate.value, best.p, None
    for share in BEYOND:
        value = critical * (1 + way * share)
        if not unknown.low < value < unknown.high:
            break
        start = start.copy()
        start[j] = to_unit_box(unknown, value)
        held = LevenbergMarquardt(most=12, fixed=hold).minimise(problem, start).point
        reach = value  # the first beyond the limit is an end too: no tighter than was looked at
        if held.cost > limit:
            break
        if lowest is None or held.cost < lowest.cost:
            lowest = held
        start = held.p
    return reach, lowest


def _of_both_sides(problem: FitProblem, beyond: Point, estimates_of: dict[str, Estimate]) -> dict[str, Estimate]:
    """Estimates whose intervals hold those of an answer on the other side too."""
    there = estimates(problem, beyond, covariance_at(problem, beyond))
    return {path: _wider(e, there[path].low, there[path].high) for path, e in estimates_of.items()
            if path in there and e.determined and there[path].determined}


def _wider(estimate: Estimate, *ends: float | None) -> Estimate:
    """An estimate whose interval holds these values too, and whose deviation allows for it."""
    held = [estimate.value, *(end for end in (*ends, estimate.low, estimate.high) if end is not None)]
    low, high = min(held), max(held)
    wide = max(high - estimate.value, estimate.value - low)
    return estimate.model_copy(update={"low": low, "high": high, "std": max(estimate.std or 0.0, wide / NORMAL_95)})
