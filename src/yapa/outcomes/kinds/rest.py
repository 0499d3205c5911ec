"""Rest time: when a motion is over.

The moment after which speed and r·|ω| stay below 5 mm/s, r the farthest point of the body; where
a bounce series ends the motion, the limit of that series: last counted contact
+ 2 v_rebound / (g_n (1 - e)), g_n gravity along the support's normal. On a measured motion the
least speed is raised to three of its own σ; where it ends in a slide or a roll that slows evenly,
the places say when: along the way s = s₀ - A max(0, t₀ - t)² by least squares, so 5 mm/s are
reached at t₀ - 5 mm/s / 2A, with the deviation of t₀.
"""

from __future__ import annotations

import numpy as np

from yapa.motion import Motion
from yapa.motion.definitions import REST_SPEED
from yapa.outcomes.kinds.bounce import bounces
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


def _motion_left(motion: Motion, body: str) -> tuple[np.ndarray, np.ndarray]:
    """Times of the knots and the larger of speed and r|ω| there."""
    path = motion.trajectory(body)
    reach = motion.body(body).bounding_radius
    speed = np.linalg.norm(path.velocity_after, axis=1)
    turning = reach * np.linalg.norm(path.omega_after, axis=1)
    if motion.measured:
        turning = np.zeros_like(turning)  # the angle's noise would drown it
    return path.t, np.maximum(speed, turning)


@outcome("rest time", "s", "when it has come to rest", whole_motion=True, first_look=True)
def rest_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Rest time [s]."""
    t, left = _motion_left(motion, body)
    least = REST_SPEED
    if motion.measured:
        rate = 1.0 / float(np.median(np.diff(motion.times)))
        least = max(least, 3 * motion.noise * rate * np.sqrt(12.0 / 31**3))
    series = _series_limit(motion, body)
    moving = np.flatnonzero(left >= least)
    if not len(moving):
        return OutcomeValue(float(t[0]), 0.0)
    last = int(moving[-1])
    if series is not None and _ends_in_series(motion, body, series, t, left, least):
        if series <= motion.end:
            count = bounces(motion, body)[-1]
            return OutcomeValue(series, 3 * count.contact.time_std if motion.measured else 0.0)
        return missing_event(f"still bouncing at the end of the clip; it would rest at {series:.3g} s", series, 0.0)
    slowed = _by_deceleration(motion, body, float(t[last])) if motion.measured else None
    if slowed is not None:
        return slowed
    if last == len(t) - 1:
        graded = _extrapolated(t, left)
        return missing_event(f"still moving at the end of the clip ({left[-1]:.3g} m/s)", graded, 0.0)
    a, b = left[last], left[last + 1]
    when = t[last] + (t[last + 1] - t[last]) * (a - least) / (a - b) if a > b else t[last + 1]
    std = 0.5 / (1.0 / float(np.median(np.diff(motion.times)))) * 15 if motion.measured else 0.0
    return OutcomeValue(float(when), std)


def _by_deceleration(motion: Motion, body: str, about: float) -> OutcomeValue | None:
    """When an even deceleration ends, from the places of the last slide or roll; None where they are no such motion."""
    from scipy.optimize import minimize_scalar

    rate = 1.0 / float(np.median(np.diff(motion.times)))
    path = motion.trajectory(body)

    def moved_in(a: float, b: float) -> np.ndarray:
        place = path.position(np.array([a, b]))
        return np.asarray(place[1] - place[0])

    phases = [p for p in motion.contact_intervals_of(body) if p.end - p.start > 14 / rate
              and np.linalg.norm(moved_in(p.start, min(p.end, about))) > 8 * motion.noise]
    if motion.noise <= 0 or not phases:
        return None
    about = min(about, phases[-1].end)
    first = max(phases[-1].start + 8 / rate, about - 1.5)
    if any(c.time > first for c in motion.contacts_of(body)):
        return None
    times, states = motion.times, motion.states[:, motion.names.index(body), :3]
    inside = times >= first
    t, x, moved = times[inside], states[inside], moved_in(first, about)
    if (t < about).sum() < 12 or (t > about).sum() < 6 or np.linalg.norm(moved) < 8 * motion.noise:
        return None
    s = x @ (moved / np.linalg.norm(moved))

    def fitted(end: float) -> tuple[float, np.ndarray, np.ndarray]:
        A = np.column_stack([np.ones(len(t)), -np.maximum(end - t, 0.0) ** 2])
        solved = np.linalg.lstsq(A, s, rcond=None)[0]
        return float(((A @ solved - s) ** 2).sum()), solved, A

    span = about - 0.2, min(about + 1.0, float(t[-1]))
    end = float(minimize_scalar(lambda at: fitted(at)[0], bounds=span, method="bounded").x)
    left, (_, bend), A = fitted(end)
    if bend <= 0 or np.sqrt(left / len(t)) > 2 * motion.noise or end > t[-1] - 4 / rate:
        return None
    J = np.column_stack([A, -2 * bend * np.maximum(end - t, 0.0)]) / motion.noise
    std = float(np.sqrt(np.linalg.pinv(J.T @ J)[2, 2]))
    return OutcomeValue(end - REST_SPEED / (2 * float(bend)), std)


def _series_limit(motion: Motion, body: str) -> float | None:
    counted = bounces(motion, body)
    if not counted:
        return None
    contact = counted[-1].contact
    ratio = contact.rebound / contact.approach if contact.approach > 0 else 0.0
    pull = abs(float(motion.gravity @ contact.normal))
    if ratio >= 1.0 or pull == 0.0:
        return None
    return float(contact.time + 2 * contact.rebound / (pull * (1 - ratio)))


def _ends_in_series(
    motion: Motion, body: str, series: float, t: np.ndarray, left: np.ndarray, least: float
) -> bool:
    """Whether nothing but the bounces keeps the body moving at the series' limit."""
    path = motion.trajectory(body)
    normal = bounces(motion, body)[-1].contact.normal
    at = min(series + 1e-3, float(t[-1]))
    v = path.velocity(np.array([at]))[0]
    across = v - (v @ normal) * normal
    spin = path.angular_velocity(np.array([at]))[0]
    turning = 0.0 if motion.measured else motion.body(body).bounding_radius * np.linalg.norm(spin)
    return bool(max(float(np.linalg.norm(across)), float(turning)) < max(least, 4 * REST_SPEED * motion.measured))


def _extrapolated(t: np.ndarray, left: np.ndarray) -> float:
    """When the speed would come to zero if it went on falling as it did over the last quarter."""
    from_ = int(np.searchsorted(t, t[-1] - 0.25 * (t[-1] - t[0])))
    slope = (left[-1] - left[from_]) / max(t[-1] - t[from_], 1e-9)
    if slope >= -1e-6:
        return float(t[-1] * 4)
    return float(min(t[-1] - left[-1] / slope, 10 * t[-1]))
