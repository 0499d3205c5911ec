"""Inside a zone: how deep the centre is in it, at the end, or at the worst moment. Negative outside."""

from __future__ import annotations

import numpy as np

from yapa.motion import Array, Motion, rising
from yapa.outcomes.asked import Asked
from yapa.outcomes.value import OutcomeValue


def depth(places: Array, asked: Asked) -> Array:
    """Distance [m] to the nearest face from inside; minus the distance to the zone from outside. Shape (T,)."""
    low, high = (np.array(corner) for corner in asked.zone or ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0)))
    margins = np.minimum(places - low, high - places)
    outside = np.linalg.norm(np.minimum(margins, 0.0), axis=1)
    return np.where(outside > 0, -outside, margins.min(axis=1))


def inside(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Depth at the end [m]."""
    return OutcomeValue(float(depth(motion.path(body).place(np.array([motion.end])), asked)[0]), motion.noise)


def stays_inside(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Least depth [m]."""
    from scipy.optimize import minimize_scalar

    path = motion.path(body)
    knots = path.between(float(motion.times[0]), motion.end)
    fine = rising(knots, 0.5 * (knots[1:] + knots[:-1]))
    depths = depth(path.place(fine), asked)
    i = int(np.argmin(depths))
    lo, hi = fine[max(i - 1, 0)], fine[min(i + 1, len(fine) - 1)]
    worst = float(depths[i])
    if hi > lo:
        found = minimize_scalar(lambda t: float(depth(path.place(np.array([t])), asked)[0]), bounds=(lo, hi), method="bounded",
                                options={"xatol": 1e-10 * max(1.0, hi)})
        worst = min(worst, float(found.fun))
    return OutcomeValue(worst, 2 * motion.noise)
