"""Single contacts: when contact k is, how fast, at what angle, and what it kept.

Contact k is the k-th of the body's contacts, with a partner the k-th with that one. On a motion whose
contact log is quiet below 1 cm/s, presses slower than that are no contacts. A missing contact has a
graded value (0 speed, or the end of the clip) and falls short by one for each contact missing.
"""

from __future__ import annotations

from math import asin, hypot, pi

import numpy as np

from yapa.motion import Contact, Motion
from yapa.outcomes.asked import Asked
from yapa.outcomes.value import OutcomeValue, absent

HEARD = 0.01
"""m/s: slower approaches are presses."""


def heard(motion: Motion, body: str, partner: str | None) -> list[Contact]:
    """The contacts of a body, or those with one partner."""
    return [c for c in motion.contacts_of(body) if c.approach >= HEARD and (partner is None or partner in (c.body, c.partner))]


def _contact(motion: Motion, body: str, asked: Asked) -> Contact | OutcomeValue:
    every = heard(motion, body, asked.partner)
    if len(every) >= asked.k:
        return every[asked.k - 1]
    on = f" with {asked.partner}" if asked.partner else ""
    return absent(f"there is no contact {asked.k}{on}; there are {len(every)}", 0.0, float(asked.k - len(every)))


def contacts(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Number of contacts."""
    count = len(heard(motion, body, asked.partner))
    last = motion.contacts_of(body)[-1:] if motion.measured else []
    if last and not last[0].rebound > 0.3:
        return OutcomeValue(None, None, f"{count} were seen; slower ones do not show in a track", float(count))
    return OutcomeValue(float(count), 0.0)


def contact_time(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Time of contact k [s]."""
    c = _contact(motion, body, asked)
    if isinstance(c, OutcomeValue):
        return absent(c.missing or "", motion.end, c.shortfall)
    return OutcomeValue(c.time, c.time_std)


def impact_speed(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Approach speed along the normal [m/s]."""
    c = _contact(motion, body, asked)
    return c if isinstance(c, OutcomeValue) else OutcomeValue(c.approach, c.speed_std)


def rebound_speed(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Separation speed along the normal [m/s]."""
    c = _contact(motion, body, asked)
    if isinstance(c, OutcomeValue):
        return c
    return _unresolved() if np.isnan(c.rebound) else OutcomeValue(c.rebound, c.speed_std)


def kept_restitution(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Rebound over approach speed."""
    c = _contact(motion, body, asked)
    if isinstance(c, OutcomeValue):
        return c
    if np.isnan(c.rebound) or c.approach <= 3 * c.speed_std:
        return _unresolved()
    e = c.rebound / c.approach
    return OutcomeValue(e, c.speed_std / c.approach * hypot(1.0, e))


def impact_energy(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """½ m × approach speed² [J]."""
    c, mass = _contact(motion, body, asked), motion.account(body).mass
    if isinstance(c, OutcomeValue):
        return c
    if mass is None:
        return absent("the mass is not known", 0.0, 0.0)
    return OutcomeValue(0.5 * mass * c.approach**2, mass * c.approach * c.speed_std)


def contact_slip(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Slip of the surfaces just before contact k [m/s]; of the centre where a track knows no spin."""
    c = _contact(motion, body, asked)
    if isinstance(c, OutcomeValue):
        return c
    if motion.measured and motion.account(body).kind != "box":
        path = motion.path(body)
        if not path.spin_leaving.any():
            return absent("the track has no angle, and the surface turns", 0.0, 0.0)
        row = int(np.argmin(np.abs(path.t - c.time)))
        _, normal = c.seen_from(body)
        v = path.arriving[row] - motion.account(body).reach * np.cross(path.spin_arriving[row], normal)
        noise = motion.account(body).reach * float(np.hypot(*path_noise(motion, body)))
        return OutcomeValue(float(np.linalg.norm(v - (v @ normal) * normal)), float(np.hypot(2 * c.speed_std, noise)))
    return OutcomeValue(c.slip_before, 2 * c.speed_std)


def path_noise(motion: Motion, body: str) -> tuple[float, float]:
    """σ of spins read off a track, from two sides of a contact [rad/s]."""
    from yapa.outcomes.poses import spin_noise

    one = spin_noise(motion, body)
    return one, one


def impact_angle(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Angle [rad] between the path of the centre and the surface; a right angle is head on."""
    c = _contact(motion, body, asked)
    if isinstance(c, OutcomeValue):
        return c
    path = motion.path(body)
    row = int(np.argmin(np.abs(path.t - c.time)))
    v, normal = path.arriving[row], c.seen_from(body)[1]
    speed = float(np.linalg.norm(v))
    if speed < HEARD or not np.isfinite(speed):
        return _unresolved()
    return OutcomeValue(asin(min(1.0, abs(float(v @ normal)) / speed)) if speed > 0 else pi / 2, 1.3 * c.speed_std / speed)


def hit(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Time [s] of the first touch of a body, hard or soft; missed, it falls short by the gap of the centres' nearest approach."""
    partner = asked.partner or ""
    times = [c.time for c in motion.contacts_of(body) if partner in (c.body, c.partner)]
    times += [p.start for p in motion.phases_of(body) if partner in (p.body, p.partner)]
    if times:
        first = min(times)
        std = next((c.time_std for c in motion.contacts_of(body) if c.time == first), 0.0)
        return OutcomeValue(first, std)
    from yapa.outcomes.passages import nearest

    if partner not in motion.names:
        return absent(f"it never touches {partner}", motion.end, 1.0)
    gap, when = nearest(motion, body, asked)
    sizes = motion.account(body).reach + (motion.account(partner).reach if partner in motion.names else 0.0)
    sizes = sizes if np.isfinite(sizes) and sizes < 1e3 else motion.account(body).reach
    return absent(f"it never touches {partner}; their centres come within {gap:.3g} m", when, max(gap, 1e-3) / max(sizes, 1e-3))


def flight_time(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Time in the air between contact k and the next one [s]."""
    every = heard(motion, body, None)
    if len(every) > asked.k:
        a, b = every[asked.k - 1], every[asked.k]
        return OutcomeValue(b.time - a.time, hypot(a.time_std, b.time_std))
    return absent(f"there is no flight {asked.k}; there are {max(len(every) - 1, 0)}", 0.0, float(asked.k + 1 - len(every)))


def _unresolved() -> OutcomeValue:
    return OutcomeValue(None, None, "not resolved by the track", 0.0, 0.0)
