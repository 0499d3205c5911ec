"""Which contacts slip and which grip: alternatives that a local search cannot see from each other.

A contact grips when μ is at least its critical value, slip / ((1 + 1/κ)(1 + e) approach) with
κ = I/(m r²), 3.5 for a solid sphere. Where a fit ended, the critical values of its contacts cut
the range of friction into intervals; inside each the motion is smooth in μ. So the fit is tried
again from the intervals next to where it stands, and from the plateau above them all, where
every contact grips and friction says nothing more. The plateau is preferred unless half the
squared misfit worsens by 4.5 or more: that keeps a fit from stopping on the edge between slide
and grip with a false certainty.
"""

from __future__ import annotations

from collections.abc import Callable, Collection

import numpy as np

from yapa.case.unknowns import Unknown
from yapa.engine.simulate import Sampling
from yapa.fitting.descent import descend
from yapa.fitting.problem import Problem, from_unit, to_unit
from yapa.fitting.refine import Point
from yapa.motion import Array, Motion

PLATEAU_PRICE = 4.5


def friction_unknowns(problem: Problem) -> list[int]:
    """Indices of the unknowns that are a friction."""
    return [j for j, u in enumerate(problem.unknowns) if u.path.split(".")[-1] in ("friction", "dynamic_friction")]


def critical_frictions(problem: Problem, motion: Motion, path: str) -> list[float]:
    """Critical values, on the scale of the unknown, of the contacts that its friction enters."""
    mine = problem.program.pairs_meeting_by(path)
    present = _pair_friction(problem, path)
    out = []
    for c in motion.contacts:
        if {c.body, c.partner} in mine and c.approach > 0.02 and motion.account(c.body).kind == "sphere":
            both = 2 if c.partner in motion.paths else 1
            mu = c.slip_before / (3.5 * both * (c.approach + c.rebound))
            out.append(mu / present)
    return sorted(v for v in out if v > 1e-6)


def _pair_friction(problem: Problem, path: str) -> float:
    """How much the pair's friction moves when the unknown moves by one: 1 for a pair's value, 1/2 for a mean."""
    if path.startswith("pairs."):
        return 1.0
    surfaces = problem.program.surfaces_meeting_by(path)
    own = path.split(".")[1]
    if problem.case.pairing.friction == "mean" and surfaces and not all(a == b == own for a, b in surfaces):
        return 0.5
    return 1.0


def _alternatives(unknown: Unknown, value: float, critical: list[float]) -> list[float]:
    """Values to start from: the middles of the intervals around, and the plateau last."""
    inside = [c for c in critical if unknown.low < c < unknown.high]
    edges = [max(unknown.low, 0.0), *inside]
    middles = [0.5 * (a + b) for a, b in zip(edges, edges[1:], strict=False) if b - a > 1e-6 * unknown.high]
    here = int(np.searchsorted(inside, value))
    near = sorted(range(len(middles)), key=lambda k: abs(k - here))[:4]
    return [middles[k] for k in near]


def plateau_value(unknown: Unknown, critical: list[float]) -> float:
    """A friction at which every contact grips, well inside the range."""
    top = max([c for c in critical if c < unknown.high], default=unknown.low)
    return top + 0.6 * (unknown.high - top)


def try_patterns(problem: Problem, best: Point, report: Callable[[Point], None] | None = None,
                 compared: Collection[str] = (), gripping: bool = True) -> Point:
    """The best point over slip/grip patterns of each friction that is unknown.

    Parameters
    ----------
    compared : frictions whose likely patterns were all tried as starts; of these only the plateau is left to compare
    gripping : whether among those that every contact grips is likely
    """
    for j in friction_unknowns(problem):
        unknown = problem.unknowns[j]
        known = unknown.path in compared and best.clipped < 1.3
        if known and not gripping:
            continue
        motion = problem.motion(problem.values(best.p), *span_of(problem))
        critical = critical_frictions(problem, motion, unknown.path)
        value = from_unit(unknown, best.p[j])
        below = [c for c in critical if c < unknown.high]
        if known:
            others = [0.97 * below[-1]] if below and value > below[-1] else []
        else:
            others = _alternatives(unknown, value, critical)
        for other in others:
            found = descend(problem, with_entry(best.p, j, to_unit(unknown, other)), most=15, report=report,
                            hopeless=best.cost + PLATEAU_PRICE).point
            if found.cost < best.cost:
                best = found
        best = _prefer_plateau(problem, best, j, critical)
    return best


def _prefer_plateau(problem: Problem, best: Point, j: int, critical: list[float]) -> Point:
    unknown = problem.unknowns[j]
    value = from_unit(unknown, best.p[j])
    if critical and value > 1.05 * max(critical):
        return best  # there already
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    scale = max(1.0, 2 * best.cost / max(len(best.r) - problem.size, 1))
    limit = best.cost + PLATEAU_PRICE * scale
    start = with_entry(best.p, j, to_unit(unknown, plateau_value(unknown, critical)))
    plateau = descend(problem, start, most=12, fixed=hold, hopeless=limit).point
    return plateau if plateau.cost < limit else best


def span_of(problem: Problem) -> tuple[Sampling, float]:
    """The times a motion is wanted at, and its end."""
    times = problem.times if len(problem.times) else problem.target_times
    return Sampling(times), float(times[-1])


def with_entry(p: Array, j: int, u: float) -> Array:
    """A vector with one entry changed."""
    q = p.copy()
    q[j] = u
    return q
