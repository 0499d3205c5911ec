"""Scan of local minima along the restitution, beside the one where a fit ended: a body with corners has many answers, and a
descent finds the next one.

A crate that lands on an edge turns, and which corner meets the floor next, and when, depends on how it left. The misfit along the
restitution is therefore no single valley but a comb of them, a few hundredths apart, each smooth inside. So the comb is looked
over: the cost at values around the best, everything else held; then a descent from each of the lowest dents.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.slip_stick_modes import span_of, with_entry
from yapa.motion import Motion

REACH = 0.08
"""how far to both sides of the best restitutions are looked over"""
SPACING = 0.005
"""how finely"""
N_MINIMA = 4
"""Of the lowest, that are descended into."""
N_RESCANS = 4
"""How often it is looked again, from a better one."""
MIN_HARD_APPROACH = 0.05
"""m/s: slower approaches turn nothing."""


def scan_restitutions(problem: FitProblem, best: Point, report: Callable[[Point], None] | None = None) -> Point:
    """Return the best point over the dents of the cost beside a restitution that is unknown, where bodies with corners meet by it.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    report : is called with every better point
    """
    for j, unknown in enumerate(problem.unknowns):
        if parse_path(unknown.path).quantity != "restitution":
            continue
        if not _turns(problem, problem.motion(problem.values(best.p), *span_of(problem)), unknown.path):
            continue
        for _ in range(N_RESCANS):
            found = _lowest_dent(problem, best, j, report)
            if found is best:
                break
            best = found
    return best


def _lowest_dent(problem: FitProblem, best: Point, j: int, report: Callable[[Point], None] | None) -> Point:
    """The best point over the dents along entry ``j``, or the one that was given."""
    unknown = problem.unknowns[j]
    here = from_unit_box(unknown, best.p[j])
    low, high = max(unknown.low, here - REACH), min(unknown.high, here + REACH)
    values = np.linspace(low, high, max(3, round((high - low) / SPACING) + 1))
    row = [evaluate(problem, with_entry(best.p, j, to_unit_box(unknown, float(v)))) for v in values]
    cost = np.array([np.inf, *(point.cost for point in row), np.inf])
    dents = np.flatnonzero((cost[1:-1] <= cost[:-2]) & (cost[1:-1] <= cost[2:]))
    for k in sorted(dents.tolist(), key=lambda k: row[k].cost)[:N_MINIMA]:
        if abs(values[k] - here) < SPACING:
            continue  # the dent it is in
        found = LevenbergMarquardt(most=12, hopeless=best.cost + 2.0).minimise(problem, row[k], report).point
        if found.cost < best.cost:
            best = found
    return best


def _turns(problem: FitProblem, motion: Motion, path: str) -> bool:
    """Whether a body that is not round meets something hard by the law of this path."""
    mine = problem.program.pairs_meeting_by(path)
    cornered = {body.name for body in motion.bodies if body.is_movable and body.kind != "sphere"}
    return any({c.body, c.partner} in mine and c.approach > MIN_HARD_APPROACH and cornered & {c.body,
                                                                                              c.partner} for c in motion.contacts)
