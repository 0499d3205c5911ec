"""Inside a zone: how deep the centre is in it, at the end, or at the worst moment. Negative outside."""

from __future__ import annotations

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array, Motion, rising
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.target_form import BOUND_MARGIN, MAX_SLACK, ReadTarget
from yapa.outcomes.value import OutcomeValue


def depth(places: Array, query: OutcomeQuery) -> Array:
    """Return distance [m] to the nearest face from inside; minus the distance to the zone from outside. Shape (T,).

    Parameters
    ----------
    places : (T, 3) [m]
    query : arguments of the outcome
    """
    low, high = (np.array(corner) for corner in query.region or ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0)))
    margins = np.minimum(places - low, high - places)
    outside = np.linalg.norm(np.minimum(margins, 0.0), axis=1)
    return np.asarray(np.where(outside > 0, -outside, margins.min(axis=1)))


class AtEnd:
    """The depth behind each face of the region, since the least depth has no slope that a search can follow."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """See :class:`TargetForm`."""
        return np.array([*(np.minimum(self._depths(motion, target, body), 0.0) / target.tolerance), 0.0])

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """See :class:`TargetForm`."""
        return np.zeros(0), np.minimum(self._depths(motion, target, body) / target.tolerance, MAX_SLACK)

    def acceptance(self, target: Target) -> Array:
        """See :class:`TargetForm`."""
        return np.full(7, 0.7 * BOUND_MARGIN)

    def _depths(self, motion: Motion, target: Target, body: str) -> Array:
        """How much deeper than wanted a body is behind each face of the region, shape (6,) [m]."""
        low, high = (np.array(corner) for corner in target.region or ((0.0,) * 3, (0.0,) * 3))
        places = motion.trajectory(body).position(self._times(motion, target, body))
        depth = np.concatenate([(places - low).min(axis=0), (high - places).min(axis=0)])
        return np.asarray(depth - target.value - BOUND_MARGIN * target.tolerance)

    def _times(self, motion: Motion, target: Target, body: str) -> Array:
        return np.array([motion.end if target.time is None else target.time])


class Throughout(AtEnd):
    """The same at the worst moment of the motion."""

    def _times(self, motion: Motion, target: Target, body: str) -> Array:
        knots = motion.trajectory(body).knots_between(float(motion.times[0]), motion.end)
        return rising(knots, 0.5 * (knots[1:] + knots[:-1]))


@outcome("inside", "m", "how deep its centre is inside a zone at the end",
         required=("region",), at_time=True, forms={"at least": AtEnd()})
def inside(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Depth at the end [m]."""
    return OutcomeValue(float(depth(motion.trajectory(body).position(np.array([motion.end])), query)[0]), motion.noise)


@outcome("stays inside", "m", "the least depth of its centre inside a zone, over the whole motion",
         required=("region",), whole_motion=True, forms={"at least": Throughout()})
def stays_inside(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Least depth [m]."""
    from scipy.optimize import minimize_scalar

    path = motion.trajectory(body)
    knots = path.knots_between(float(motion.times[0]), motion.end)
    fine = rising(knots, 0.5 * (knots[1:] + knots[:-1]))
    depths = depth(path.position(fine), query)
    i = int(np.argmin(depths))
    lo, hi = fine[max(i - 1, 0)], fine[min(i + 1, len(fine) - 1)]
    worst = float(depths[i])
    if hi > lo:
        found = minimize_scalar(lambda t: float(depth(path.position(np.array([t])), query)[0]), bounds=(lo, hi), method="bounded",
                                options={"xatol": 1e-10 * max(1.0, hi)})
        worst = min(worst, float(found.fun))
    return OutcomeValue(worst, 2 * motion.noise)
