"""Passing by: how near the centre comes to a point or another centre, when, how fast, and several points in order.

Distances are searched on the motion's own curve between knots, then narrowed by golden section.
"""

from __future__ import annotations

import numpy as np

from yapa.motion import Array, Motion, rising
from yapa.outcomes.asked import Asked
from yapa.outcomes.value import OutcomeValue, absent


def _distance(motion: Motion, body: str, asked: Asked, times: Array) -> Array:
    """Distance [m] of the centre from what is asked for, shape (T,)."""
    here = motion.path(body).place(times)
    if asked.point is not None:
        there = np.array(asked.point)[None]
    elif asked.partner in motion.paths:
        there = motion.path(asked.partner or "").place(times)
    else:
        there = np.array(motion.account(asked.partner or "").place)[None]
    return np.asarray(np.linalg.norm(here - there, axis=1))


def nearest(motion: Motion, body: str, asked: Asked, start: float | None = None) -> tuple[float, float]:
    """Least distance [m] and its time [s], from a time on."""
    from scipy.optimize import minimize_scalar

    knots = motion.path(body).between(motion.times[0] if start is None else start, motion.end)
    fine = rising(knots, 0.5 * (knots[1:] + knots[:-1]))
    d = _distance(motion, body, asked, fine)
    i = int(np.argmin(d))
    lo, hi = fine[max(i - 1, 0)], fine[min(i + 1, len(fine) - 1)]
    if hi <= lo:
        return float(d[i]), float(fine[i])
    found = minimize_scalar(lambda t: float(_distance(motion, body, asked, np.array([t]))[0]), bounds=(lo, hi), method="bounded",
                            options={"xatol": 1e-10 * max(1.0, hi)})
    return min((float(found.fun), float(found.x)), (float(d[i]), float(fine[i])))


def miss(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Nearest approach of the centre [m]."""
    if asked.point is None and asked.partner not in motion.names:
        return absent(f"the motion does not tell where {asked.partner} is", 0.0, 0.0)
    return OutcomeValue(nearest(motion, body, asked)[0], motion.noise)


def passage_time(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """When it is nearest to a point [s]."""
    gap, when = nearest(motion, body, asked)
    speed = float(np.linalg.norm(motion.path(body).velocity(np.array([when]))[0]))
    # near the least distance the curve is flat: a noise of the distance moves its place by the root of twice the two
    return OutcomeValue(when, float(max(motion.noise, np.sqrt(2 * gap * motion.noise)) / max(speed, 1e-3)))


def passage_speed(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Speed where it is nearest to a point [m/s]."""
    from yapa.outcomes.travel import speed_noise

    _, when = nearest(motion, body, asked)
    return OutcomeValue(float(np.linalg.norm(motion.path(body).velocity(np.array([when]))[0])), speed_noise(motion))


def waypoints(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Greatest miss [m] of points passed in this order: each is looked for from where the one before was passed."""
    worst, start = 0.0, float(motion.times[0])
    for point in asked.points:
        if start >= motion.end:
            return absent(f"the clip ends before {point}", worst, 1.0)
        gap, start = nearest(motion, body, Asked(point=point), start)
        worst = max(worst, gap)
    return OutcomeValue(worst, motion.noise)
