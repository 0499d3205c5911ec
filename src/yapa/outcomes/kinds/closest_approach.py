"""Passing by: how near the centre comes to a point or another centre, when, how fast, and several points in order.

Distances are searched on the motion's own curve between knots, then narrowed by golden section.
"""

from __future__ import annotations

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array, Motion, rising
from yapa.outcomes.kinds.travel import speed_noise
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.target_form import BOUND_MARGIN, SLACK, ReadTarget, wanted_range
from yapa.outcomes.value import OutcomeValue, missing_event


def _distance(motion: Motion, body: str, query: OutcomeQuery, times: Array) -> Array:
    """Distance [m] of the centre from what is asked for, shape (T,)."""
    here = motion.trajectory(body).position(times)
    if query.point is not None:
        there = np.array(query.point)[None]
    elif query.partner in motion.trajectories:
        there = motion.trajectory(query.partner or "").position(times)
    else:
        there = np.array(motion.body(query.partner or "").position)[None]
    return np.asarray(np.linalg.norm(here - there, axis=1))


def nearest(motion: Motion, body: str, query: OutcomeQuery, start: float | None = None) -> tuple[float, float]:
    """Return least distance [m] and its time [s], from a time on.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    query : arguments of the outcome
    start : time from which it counts [s]; from the start of the motion if left out
    """
    from scipy.optimize import minimize_scalar

    knots = motion.trajectory(body).knots_between(motion.times[0] if start is None else start, motion.end)
    fine = rising(knots, 0.5 * (knots[1:] + knots[:-1]))
    d = _distance(motion, body, query, fine)
    i = int(np.argmin(d))
    lo, hi = fine[max(i - 1, 0)], fine[min(i + 1, len(fine) - 1)]
    if hi <= lo:
        return float(d[i]), float(fine[i])
    found = minimize_scalar(lambda t: float(_distance(motion, body, query, np.array([t]))[0]), bounds=(lo, hi), method="bounded",
                            options={"xatol": 1e-10 * max(1.0, hi)})
    return min((float(found.fun), float(found.x)), (float(d[i]), float(fine[i])))


@outcome("miss", "m", "how near its centre comes to a point, or to another body's centre", one_of=("point", "partner"))
def miss(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Nearest approach of the centre [m]."""
    if query.point is None and query.partner not in motion.names:
        return missing_event(f"the motion does not tell where {query.partner} is", 0.0, 0.0)
    return OutcomeValue(nearest(motion, body, query)[0], motion.noise)


@outcome("passage time", "s", "when it is nearest to a point", required=("point",))
def passage_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """When it is nearest to a point [s]."""
    gap, when = nearest(motion, body, query)
    speed = float(np.linalg.norm(motion.trajectory(body).velocity(np.array([when]))[0]))
    # near the least distance the curve is flat: a noise of the distance moves its place by the root of twice the two
    return OutcomeValue(when, float(max(motion.noise, np.sqrt(2 * gap * motion.noise)) / max(speed, 1e-3)))


@outcome("passage speed", "m/s", "its speed where it is nearest to a point", required=("point",))
def passage_speed(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Speed where it is nearest to a point [m/s]."""
    _, when = nearest(motion, body, query)
    return OutcomeValue(float(np.linalg.norm(motion.trajectory(body).velocity(np.array([when]))[0])), speed_noise(motion))


class Waypoints:
    """The components of every miss, since the greatest miss has no slope that a search can follow; and points not passed in
    time."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """See :class:`TargetForm`."""
        misses, late = self._misses(motion, target, body)
        size = np.maximum(np.linalg.norm(misses, axis=1, keepdims=True), 1e-12)
        return np.array([*(misses * np.maximum(0.0, 1.0 - self._allowed(target) / size) / target.tolerance).ravel(), late])

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """See :class:`TargetForm`."""
        misses, late = self._misses(motion, target, body)
        rooms = (self._allowed(target) - np.linalg.norm(misses, axis=1)) / target.tolerance
        return np.zeros(0), np.array([*rooms, SLACK - late])

    def acceptance(self, target: Target) -> Array:
        """See :class:`TargetForm`."""
        return np.full(3 * len(target.waypoints) + 1, 0.5 * BOUND_MARGIN)

    @staticmethod
    def _allowed(target: Target) -> float:
        return max(wanted_range(target)[1] - BOUND_MARGIN * target.tolerance, 0.0)

    @staticmethod
    def _misses(motion: Motion, target: Target, body: str) -> tuple[Array, float]:
        """By how much every point is missed (n, 3) [m], one after the other; and how many came too late to be passed."""
        out, start, late = [], float(motion.times[0]), 0.0
        for point in target.waypoints:
            when = motion.end
            if start < motion.end:
                _, when = nearest(motion, body, OutcomeQuery(point=point), start)
            else:
                late += 1.0
            out.append(motion.trajectory(body).position(np.array([when]))[0] - np.array(point))
            start = when
        return np.array(out).reshape(-1, 3), late


WAYPOINTS = Waypoints()


@outcome("waypoints", "m", "the greatest miss of points passed in this order",
         required=("waypoints",), forms={"at most": WAYPOINTS, "within": WAYPOINTS})
def waypoints(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Greatest miss [m] of points passed in this order: each is looked for from where the one before was passed."""
    worst, start = 0.0, float(motion.times[0])
    for point in query.waypoints:
        if start >= motion.end:
            return missing_event(f"the clip ends before {point}", worst, 1.0)
        gap, start = nearest(motion, body, OutcomeQuery(point=point), start)
        worst = max(worst, gap)
    return OutcomeValue(worst, motion.noise)
