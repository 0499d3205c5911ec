"""Energy kept over a motion, and what ended it."""

from __future__ import annotations

import numpy as np

from yapa.motion import Motion
from yapa.motion.contacts import SlipState
from yapa.motion.definitions import REST_SPEED
from yapa.outcomes.kinds.rest import rest_time
from yapa.outcomes.kinds.travel import speed_noise
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


@outcome("energy kept", "", "energy at the end over that at the start, heights from its lowest place", at_time=True)
def energy_kept(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Energy of moving and of height (from its lowest place) at the end, over that at the start; turning where it is known."""
    path = motion.trajectory(body)
    account = motion.body(body)
    ends = np.array([float(motion.times[0]), motion.end])
    low = -path.maximum_along(motion.gravity / max(float(np.linalg.norm(motion.gravity)), 1e-12), *ends)[0]
    size = float(np.linalg.norm(motion.gravity))
    up = -motion.gravity / size if size > 0 else np.zeros(3)
    v, w, h = path.velocity(ends), path.angular_velocity(ends), path.position(ends) @ up
    each = 0.5 * (v**2).sum(axis=1) + size * account.gravity_multiplier * (h - low)
    if account.inertia is not None and account.mass is not None:
        each = each + 0.5 * (np.array(account.inertia).mean() / account.mass) * (w**2).sum(axis=1)
    if each[0] <= 1e-12:
        return missing_event("it has no energy at the start", 1.0, 0.0)
    std = 0.0
    if motion.measured:
        std = float(np.hypot(2 * speed_noise(motion) * np.linalg.norm(v, axis=1).max(), 4 * size * motion.noise) * 1.5 / each[0])
    return OutcomeValue(float(each[1] / each[0]), std)


def ending(motion: Motion, body: str) -> str:
    """Return what ended the motion of a body, in words.

    Parameters
    ----------
    motion : simulated or measured
    body : name of the body

    Returns
    -------
    str
        Such as "its bounces died away", "friction stopped it", or why it never rests.

    Raises
    ------
    KeyError
        If the motion has no such body.

    Notes
    -----
    Rest as in ``docs/outcomes.md``; the last contacts and intervals of contact before it say what ended the motion.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-drop.yapa").model_copy(update={"duration": 4.0})
    >>> ending(simulate(case), "orange")
    'its bounces died away'
    """
    rest = rest_time(motion, body, OutcomeQuery())
    if rest.value is None:
        return rest.missing or "still moving"
    if rest.value <= motion.times[0] + 1e-9:
        return "it never moved"
    phases = [p for p in motion.contact_intervals_of(body) if p.start <= rest.value + 1e-9]
    last_hits = [c for c in motion.contacts_of(body) if c.time <= rest.value + 1e-9]
    at = min(rest.value, motion.end)
    v = float(np.linalg.norm(motion.trajectory(body).velocity(np.array([max(at - 0.02, float(motion.times[0]))]))[0]))
    held = [p for p in phases if p.end >= at - 0.02]
    if len(last_hits) > 2 and last_hits[-1].time > at - 0.2:
        return "its bounces died away"
    if held and held[-1].mode == SlipState.SLIP:
        return "friction stopped it"
    if held and motion.body(body).kind in ("sphere", "cylinder", "capsule") and v > REST_SPEED:
        return "rolling resistance or damping stopped it"
    if last_hits and last_hits[-1].time > at - 0.5:
        return "a contact stopped it"
    return "damping stopped it" if not held else "friction stopped it"
