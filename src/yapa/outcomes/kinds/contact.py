"""Single contacts: when contact k is, how fast, at what angle, and what it kept.

Contact k is the k-th of the body's contacts, with a partner the k-th with that one. On a motion whose
contact log is quiet below 1 cm/s, presses slower than that are no contacts. A missing contact has a
graded value (0 speed, or the end of the clip) and falls short by one for each contact missing.
"""

from __future__ import annotations

from math import asin, hypot, pi

import numpy as np

from yapa.motion import Contact, Motion
from yapa.motion.definitions import MIN_IMPACT_SPEED
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


def felt_contacts(motion: Motion, body: str, partner: str | None) -> list[Contact]:
    """Return the contacts of a body, or those with one partner.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    partner : the other body
    """
    return [c for c in motion.contacts_of(body)
            if c.approach >= MIN_IMPACT_SPEED and (partner is None or partner in (c.body, c.partner))]


def count_contacts(motion: Motion, body: str) -> int:
    """Return how many contacts of a body are counted.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    return len(felt_contacts(motion, body, None))


def _contact(motion: Motion, body: str, query: OutcomeQuery) -> Contact | OutcomeValue:
    every = felt_contacts(motion, body, query.partner)
    if len(every) >= query.k:
        return every[query.k - 1]
    on = f" with {query.partner}" if query.partner else ""
    return missing_event(f"there is no contact {query.k}{on}; there are {len(every)}", 0.0, float(query.k - len(every)))


@outcome("contacts", "", "how many contacts there are", optional=("partner",), integer=True)
def contacts(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Number of contacts."""
    count = len(felt_contacts(motion, body, query.partner))
    last = motion.contacts_of(body)[-1:] if motion.measured else []
    if last and not last[0].rebound > 0.3:
        return OutcomeValue(None, None, f"{count} were seen; slower ones do not show in a track", float(count))
    return OutcomeValue(float(count), 0.0)


@outcome("contact time", "s", "when contact k happens", required=("index",), optional=("partner",), count=count_contacts)
def contact_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time of contact k [s]."""
    c = _contact(motion, body, query)
    if isinstance(c, OutcomeValue):
        return missing_event(c.missing or "", motion.end, c.shortfall)
    return OutcomeValue(c.time, c.time_std)


@outcome("impact speed", "m/s", "approach speed at contact k", required=("index",), optional=("partner",), count=count_contacts)
def impact_speed(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Approach speed along the normal [m/s]."""
    c = _contact(motion, body, query)
    return c if isinstance(c, OutcomeValue) else OutcomeValue(c.approach, c.speed_std)


@outcome("rebound speed", "m/s", "separation speed after contact k",
         required=("index",), optional=("partner",), count=count_contacts)
def rebound_speed(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Separation speed along the normal [m/s]."""
    c = _contact(motion, body, query)
    if isinstance(c, OutcomeValue):
        return c
    return _unresolved() if np.isnan(c.rebound) else OutcomeValue(c.rebound, c.speed_std)


@outcome("kept restitution", "", "rebound over approach speed at contact k",
         required=("index",), optional=("partner",), count=count_contacts)
def kept_restitution(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Rebound over approach speed."""
    c = _contact(motion, body, query)
    if isinstance(c, OutcomeValue):
        return c
    if np.isnan(c.rebound) or c.approach <= 3 * c.speed_std:
        return _unresolved()
    e = c.rebound / c.approach
    return OutcomeValue(e, c.speed_std / c.approach * hypot(1.0, e))


@outcome("impact energy", "J", "energy of the approach at contact k, of the body's mass alone",
         required=("index",), optional=("partner",), count=count_contacts)
def impact_energy(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """½ m × approach speed² [J]."""
    c, mass = _contact(motion, body, query), motion.body(body).mass
    if isinstance(c, OutcomeValue):
        return c
    if mass is None:
        return missing_event("the mass is not known", 0.0, 0.0)
    return OutcomeValue(0.5 * mass * c.approach**2, mass * c.approach * c.speed_std)


@outcome("contact slip", "m/s", "slip of the surfaces just before contact k",
         required=("index",), optional=("partner",), count=count_contacts)
def contact_slip(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Slip of the surfaces just before contact k [m/s]; of the centre where a track knows no spin."""
    c = _contact(motion, body, query)
    if isinstance(c, OutcomeValue):
        return c
    if motion.measured and motion.body(body).kind != "box":
        path = motion.trajectory(body)
        if not path.omega_after.any():
            return missing_event("the track has no angle, and the surface turns", 0.0, 0.0)
        row = int(np.argmin(np.abs(path.t - c.time)))
        _, normal = c.seen_from(body)
        v = path.velocity_before[row] - motion.body(body).bounding_radius * np.cross(path.omega_before[row], normal)
        noise = motion.body(body).bounding_radius * float(np.hypot(*path_noise(motion, body)))
        return OutcomeValue(float(np.linalg.norm(v - (v @ normal) * normal)), float(np.hypot(2 * c.speed_std, noise)))
    return OutcomeValue(c.slip_before, 2 * c.speed_std)


def path_noise(motion: Motion, body: str) -> tuple[float, float]:
    """Return σ of spins read off a track, from two sides of a contact [rad/s].

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    from yapa.outcomes.kinds.pose import spin_noise

    one = spin_noise(motion, body)
    return one, one


@outcome("impact angle", "rad", "angle between the path and the surface at contact k",
         required=("index",), optional=("partner",), count=count_contacts)
def impact_angle(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Angle [rad] between the path of the centre and the surface; a right angle is head on."""
    c = _contact(motion, body, query)
    if isinstance(c, OutcomeValue):
        return c
    path = motion.trajectory(body)
    row = int(np.argmin(np.abs(path.t - c.time)))
    v, normal = path.velocity_before[row], c.seen_from(body)[1]
    speed = float(np.linalg.norm(v))
    if speed < MIN_IMPACT_SPEED or not np.isfinite(speed):
        return _unresolved()
    return OutcomeValue(asin(min(1.0, abs(float(v @ normal)) / speed)) if speed > 0 else pi / 2, 1.3 * c.speed_std / speed)


@outcome("hit", "s", "when it first touches a body", required=("partner",))
def hit(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time [s] of the first touch of a body, hard or soft; missed, it falls short by the gap of the centres' nearest approach."""
    partner = query.partner or ""
    times = [c.time for c in motion.contacts_of(body) if partner in (c.body, c.partner)]
    times += [p.start for p in motion.contact_intervals_of(body) if partner in (p.body, p.partner)]
    if times:
        first = min(times)
        std = next((c.time_std for c in motion.contacts_of(body) if c.time == first), 0.0)
        return OutcomeValue(first, std)
    from yapa.outcomes.kinds.closest_approach import nearest

    if partner not in motion.names:
        return missing_event(f"it never touches {partner}", motion.end, 1.0)
    gap, when = nearest(motion, body, query)
    sizes = motion.body(body).bounding_radius + (motion.body(partner).bounding_radius if partner in motion.names else 0.0)
    sizes = sizes if np.isfinite(sizes) and sizes < 1e3 else motion.body(body).bounding_radius
    return missing_event(f"it never touches {partner}; their centres come within {gap:.3g} m", when,
                         max(gap, 1e-3) / max(sizes, 1e-3))


@outcome("flight time", "s", "how long it is in the air between contact k and the next", required=("index",), count=count_contacts)
def flight_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time in the air between contact k and the next one [s]."""
    every = felt_contacts(motion, body, None)
    if len(every) > query.k:
        a, b = every[query.k - 1], every[query.k]
        return OutcomeValue(b.time - a.time, hypot(a.time_std, b.time_std))
    return missing_event(f"there is no flight {query.k}; there are {max(len(every) - 1, 0)}", 0.0, float(query.k + 1 - len(every)))


def _unresolved() -> OutcomeValue:
    return OutcomeValue(None, None, "not resolved by the track", 0.0, 0.0)
