"""Intervals of a friction near the one at which a body sticks on its slope, where the misfit has a kink.

Below it what has stopped creeps back, and half the squared misfit rises steeply; above, it stays, and little depends on friction.
The curvature at an answer on one side says nothing of the other. So where the kink is within a few deviations the other side is
looked at too: friction held further and further beyond, the other unknowns fitted again, until half the squared misfit has risen by
the 1.92 of a 95% interval, times what is left over and how it hangs together.
"""

from __future__ import annotations

import numpy as np

from yapa.case.unknowns import Estimate, to_unit
from yapa.fitting.descent import descend
from yapa.fitting.patterns import friction_unknowns, noise_scale, slopes_below, span_of
from yapa.fitting.problem import Problem
from yapa.fitting.refine import Point

NEAR = 6.0
"""Deviations from a kink within which its other side is looked at."""
BEYOND = (0.005, 0.01, 0.02, 0.04, 0.08, 0.16)
"""Of the critical friction: how far beyond."""
RISE, NORMAL = 1.92, 1.96
"""Of half the squared misfit, and in deviations: an end of a 95% interval."""


def widen_across_sticking(problem: Problem, best: Point, told: dict[str, Estimate]) -> dict[str, Estimate]:
    """Estimates of frictions near a kink, their intervals taken on to its other side."""
    out = {}
    for j in friction_unknowns(problem):
        unknown, estimate = problem.unknowns[j], told[problem.unknowns[j].path]
        if not estimate.determined or not estimate.std:
            continue
        motion = problem.motion(problem.values(best.p), *span_of(problem))
        for critical in slopes_below(problem, motion, unknown.path):
            if abs(estimate.value - critical) < NEAR * estimate.std and unknown.low < critical < unknown.high:
                out[unknown.path] = _widened(problem, best, j, estimate, critical)
    return out


def _widened(problem: Problem, best: Point, j: int, estimate: Estimate, critical: float) -> Estimate:
    unknown, way = problem.unknowns[j], 1 if estimate.value < critical else -1
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    limit = best.cost + RISE * noise_scale(problem, best)
    reach, start = estimate.value, best.p
    for share in BEYOND:
        value = critical * (1 + way * share)
        if not unknown.low < value < unknown.high:
            break
        start = start.copy()
        start[j] = to_unit(unknown, value)
        held = descend(problem, start, most=12, fixed=hold).point
        reach = value  # the first beyond the limit is an end too: no tighter than was looked at
        if held.cost > limit:
            break
        start = held.p
    low, high = estimate.low, estimate.high
    if way > 0:
        high = max(reach, estimate.value if high is None else high)
    else:
        low = min(reach, estimate.value if low is None else low)
    wide = max(abs(end - estimate.value) for end in (low, high) if end is not None)
    return estimate.model_copy(update={"low": low, "high": high, "std": max(estimate.std or 0.0, wide / NORMAL)})
