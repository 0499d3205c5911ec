"""How far a motion is from what a target wants: residuals a fit can follow, and whether it is met.

Every target gives residuals: how far the value is outside what is wanted, in tolerances, and how far a missing
event is from happening. Bounds are hinges. A number of bounces is a hinge on the rebound speed of the last one wanted or
of the one too many. An event that must never happen is pushed to later, and out.
"""

from __future__ import annotations

import numpy as np

from yapa.case.evidence import Target
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.fitting.problem.result import TargetReport
from yapa.motion import Array, Motion, rising
from yapa.outcomes import read_target
from yapa.outcomes.asked import Asked
from yapa.outcomes.bounces import excess, rebound_at, short_of
from yapa.outcomes.passages import nearest
from yapa.outcomes.value import OutcomeValue

INSIDE = 0.02
"""Of a tolerance: how far inside a bound is aimed at."""
SLACK = 1e-3
"""Of a tolerance: room that is left where a target is met and has no more to say."""
SHORTFALL_TOLERANCE = 0.02
"""A missing event counts this much of a logarithm of speed as one tolerance."""


def outside(target: Target, value: float) -> float:
    """How far a value is from what is wanted, in units of the outcome: negative below, positive above, 0 inside."""
    low, high = wanted_range(target)
    if target.condition == "equal":
        return value - target.value
    if value < low:
        return value - low
    return value - high if value > high else 0.0


def wanted_range(target: Target) -> tuple[float, float]:
    """The least and the greatest value that meet a target."""
    infinite = float("inf")
    if target.condition == "equal":
        return target.value - target.tolerance, target.value + target.tolerance
    if target.condition == "within":
        return target.value, target.upper if target.upper is not None else infinite
    if target.condition == "at least":
        return target.value, infinite
    return (-infinite, target.value) if target.condition == "at most" else (-infinite, infinite)


def target_residual(motion: Motion, target: Target, body: str) -> Array:
    """Residuals of a target: misses in tolerances, then a graded shortfall. As many for a target whatever the motion.

    A bound is aimed at a fiftieth of its tolerance inside, so that what is found meets it. A point to be passed gives the
    components of its miss, a zone the depth to each of its faces, since their greatest has no slope that a search can follow.
    """
    if target.outcome == "waypoints" and target.condition in ("at most", "within"):
        return _waypoints(motion, target, body)
    if target.outcome in ("inside", "stays inside") and target.condition == "at least":
        return _faces(motion, target, body)
    reading = read_target(motion, body, target)
    short = reading.shortfall / SHORTFALL_TOLERANCE
    if target.condition == "happens":
        return np.array([0.0, short])
    if target.condition == "never":
        if reading.value is None:
            return np.zeros(2)
        later = max(0.0, motion.end - reading.value) / motion.end if OUTCOME_SPECS[target.outcome].unit == "s" else 0.0
        return np.array([(1.0 + later) / SHORTFALL_TOLERANCE, 0.0])
    if target.outcome == "bounces":
        return _bounce_count(motion, target, body)
    return np.array([_aimed(target, reading.guide) / target.tolerance, short])


def room(motion: Motion, target: Target, body: str) -> tuple[Array, Array]:
    """What a target still has to give: misses that are to be zero, and room inside its bounds that is to stay above zero.

    Unlike the residuals these go on changing inside the bounds, so that a search can walk along them. In tolerances; as many
    for a target whatever the motion.
    """
    none = np.zeros(0)
    if target.outcome == "waypoints" and target.condition in ("at most", "within"):
        misses, late = _passes(motion, target, body)
        allowed = max(wanted_range(target)[1] - INSIDE * target.tolerance, 0.0)
        return none, np.array([*((allowed - np.linalg.norm(misses, axis=1)) / target.tolerance), SLACK - late])
    if target.outcome in ("inside", "stays inside") and target.condition == "at least":
        return none, np.minimum(_depths(motion, target, body) / target.tolerance, 10.0)
    if target.outcome == "bounces" or target.condition in ("happens", "never"):
        return none, SLACK - np.abs(target_residual(motion, target, body))
    reading = read_target(motion, body, target)
    here = SLACK - reading.shortfall / SHORTFALL_TOLERANCE
    if target.condition == "equal":
        return np.array([(reading.guide - target.value) / target.tolerance]), np.array([here])
    low, high = wanted_range(target)
    margin = min(INSIDE * target.tolerance, 0.1 * (high - low))
    ends = np.array([reading.guide - low - margin, high - margin - reading.guide]) / target.tolerance
    return none, np.array([*np.minimum(ends, 10.0), here])


def well_within(target: Target) -> Array:
    """For every residual of a target, up to where it is met well: a quarter of a tolerance, or of what a bound is aimed inside."""
    if target.outcome == "waypoints" and target.condition in ("at most", "within"):
        return np.full(3 * len(target.points) + 1, 0.5 * INSIDE)
    if target.outcome in ("inside", "stays inside") and target.condition == "at least":
        return np.full(7, 0.7 * INSIDE)
    if target.outcome == "bounces":
        return np.full(2, 0.5)
    if target.condition == "equal":
        return np.array([0.25, 0.5 * INSIDE])
    return np.array([0.7 * INSIDE, 0.5 * INSIDE])


def _aimed(target: Target, value: float) -> float:
    """How far a value is outside what is aimed at: bounds a little inside."""
    if target.condition == "equal":
        return value - target.value
    low, high = wanted_range(target)
    margin = min(INSIDE * target.tolerance, 0.1 * (high - low))
    if value < low + margin:
        return value - low - margin
    return value - high + margin if value > high - margin else 0.0


def _bounce_count(motion: Motion, target: Target, body: str) -> Array:
    """Two hinges: the last bounce wanted is to count, one more is not to."""
    low, high = wanted_range(target)
    below = above = 0.0
    if np.isfinite(low) and low > 0:
        below = short_of(motion, body, int(np.ceil(low - 1e-9)))
    if np.isfinite(high):
        more = rebound_at(motion, body, int(np.floor(high + 1e-9)) + 1)
        above = 0.0 if more is None or more.time > motion.end else excess(motion, more.speed)
    return np.array([below, above]) / SHORTFALL_TOLERANCE


def _passes(motion: Motion, target: Target, body: str) -> tuple[Array, float]:
    """By how much every point is missed (n, 3) [m], one after the other; and how many came too late to be passed."""
    out, start, late = [], float(motion.times[0]), 0.0
    for point in target.points:
        when = motion.end
        if start < motion.end:
            _, when = nearest(motion, body, Asked(point=point), start)
        else:
            late += 1.0
        out.append(motion.path(body).place(np.array([when]))[0] - np.array(point))
        start = when
    return np.array(out).reshape(-1, 3), late


def _waypoints(motion: Motion, target: Target, body: str) -> Array:
    allowed = max(wanted_range(target)[1] - INSIDE * target.tolerance, 0.0)
    misses, late = _passes(motion, target, body)
    size = np.maximum(np.linalg.norm(misses, axis=1, keepdims=True), 1e-12)
    return np.array([*(misses * np.maximum(0.0, 1.0 - allowed / size) / target.tolerance).ravel(), late])


def _depths(motion: Motion, target: Target, body: str) -> Array:
    """How much deeper than wanted a body is behind each face of a zone, shape (6,) [m]."""
    low, high = (np.array(corner) for corner in target.zone or ((0.0,) * 3, (0.0,) * 3))
    path = motion.path(body)
    end = np.array([motion.end if target.at is None else target.at])
    times = end
    if target.outcome == "stays inside":
        knots = path.between(float(motion.times[0]), motion.end)
        times = rising(knots, 0.5 * (knots[1:] + knots[:-1]))
    places = path.place(times)
    depth = np.concatenate([(places - low).min(axis=0), (high - places).min(axis=0)])
    return np.asarray(depth - target.value - INSIDE * target.tolerance)


def _faces(motion: Motion, target: Target, body: str) -> Array:
    return np.array([*(np.minimum(_depths(motion, target, body), 0.0) / target.tolerance), 0.0])


def met(target: Target, reading: OutcomeValue) -> bool:
    """Whether a target is met."""
    if target.condition == "never":
        return reading.value is None
    if reading.value is None:
        return False
    low, high = wanted_range(target)
    slack = 1e-9 * max(1.0, abs(target.tolerance))  # of rounding
    return low - slack <= reading.value <= high + slack


def missed_by(target: Target, reading: OutcomeValue) -> float | None:
    """How far a value is outside what is wanted, or None where there is no value to compare."""
    if reading.value is None or target.condition in ("happens", "never"):
        return None
    return abs(outside(target, reading.value))


def judge(target: Target, body: str, reading: OutcomeValue) -> TargetReport:
    """A target beside what happens."""
    miss = None if missed_by(target, reading) is None else outside(target, reading.value or 0.0) / target.tolerance
    return TargetReport(target, body, reading.value, met(target, reading), miss, reading.missing)
