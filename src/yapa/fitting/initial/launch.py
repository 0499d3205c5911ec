"""Start place, velocity and spin: the first flight at time zero, or a parabola through the first frames."""

from __future__ import annotations

import numpy as np

from yapa.case.scene import Direction, LaunchAngles
from yapa.fitting.initial.seen import Guess, ObservedTrack, gravity_of
from yapa.tracking.ballistic import clear_of_outliers


def guess_launch(guess: Guess, seen: ObservedTrack) -> None:
    """Offer position, velocity, speed and spin of one body.

    Parameters
    ----------
    guess : starting values so far
    seen : the track reconstructed as a motion
    """
    data, base = seen.data, f"bodies.{seen.body}"
    end = min(seen.first_contact, float(data.t[0]) + 0.3 * (data.t[-1] - data.t[0]))
    rows = np.flatnonzero(np.isfinite(data.x).all(axis=1))
    rows = rows[clear_of_outliers(data.t[rows], data.x[rows][:, np.array(data.shown)], data.sigma)]
    good = np.isin(np.arange(len(data.t)), rows)
    inside = good & (data.t <= end)
    if inside.sum() < 5:
        inside = np.flatnonzero(good)[:8]
    path = seen.motion.trajectory(seen.body)
    t, x = data.t[inside], data.x[inside]
    if seen.motion.contacts and seen.first_contact < data.t[-1] and len(path.t) > 2 and not seen.motion.contact_intervals:
        at, g = np.array([data.t[0]]), gravity_of(guess.problem)
        v = path.velocity(at)[0] - g * at
        x0 = path.position(at)[0] - v * at - 0.5 * g * at**2
    else:
        if len(t) < 2:
            return  # too few whole frames to say where it was, or how fast
        fit = np.polyfit(t, x, min(2, max(len(t) - 3, 1)))
        x0, v = fit[-1], fit[-2]
    for i, axis in enumerate("xyz"):
        guess.offer(f"{base}.position.{axis}", x0[i])
        guess.offer(f"{base}.velocity.{axis}", v[i])
    velocity = guess.problem.case.bodies[seen.body].velocity
    if isinstance(velocity, LaunchAngles) and velocity.axes == "world":
        guess.offer(f"{base}.speed", float(np.linalg.norm(v)))
        guess.offer(f"{base}.elevation", float(np.arctan2(v[2], np.hypot(v[0], v[1]))))
        guess.offer(f"{base}.azimuth", float(np.arctan2(v[1], v[0])))
    if isinstance(velocity, Direction):
        d = np.array(velocity.direction) / np.linalg.norm(velocity.direction)
        guess.offer(f"{base}.speed", float(v @ d))
    if data.angle is not None:
        few = np.isfinite(data.angle) & (data.t <= end)
        rows = np.flatnonzero(few)[: (40 if seen.motion.contacts else 8)]
        if len(rows) >= 3:
            guess.offer(f"{base}.angular_velocity.y", np.polyfit(data.t[rows], data.angle[rows], 1)[0])
