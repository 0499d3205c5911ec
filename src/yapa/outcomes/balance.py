"""Energy and momentum balance of a motion: what every contact took or gave, and what happened to energy and momentum between
contacts.

Of a contact, in the frame of the world, for the body and its partner where that moves:

    e    = rebound / approach                        effective restitution, of the speeds along the normal
    ΔE   = Σ ½ m (v⁺² - v⁻²) + ½ I (w⁺² - w⁻²)        energy [J]; below zero it is lost
    Δp   = m (v⁺ - v⁻)                               momentum of the body [N s], along the normal and across it

and between two contacts, with h the height against gravity,

    ΔE   = Δ(½ m v² + ½ I w²) + m g Δh               what drag, damping, friction or a pusher took or gave
    Δp   = m Δv - m g Δt                             what anything but gravity did to the momentum

``I`` is the mean of the principal moments: exact for a sphere, and for any body between two times only an estimate of
the part that turning holds. A body whose mass is not known is booked as one kilogram, and says so.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.motion import Array, Contact, Motion


@dataclass(frozen=True)
class ContactEntry:
    """One contact: effective restitution, energy [J] and momentum [N s]; of one kilogram where ``assumed``."""

    time: float
    body: str
    partner: str
    restitution: float
    energy_before: float
    energy_change: float
    momentum_normal: float
    momentum_across: float
    assumed: bool


@dataclass(frozen=True)
class FlightEntry:
    """A stretch between contacts: energy [J] and momentum [N s] that gravity does not account for."""

    start: float
    end: float
    body: str
    energy_before: float
    energy_change: float
    momentum_change: float
    assumed: bool


def contact_book(motion: Motion, body: str) -> list[ContactEntry]:
    """Return an entry for every contact the body takes part in, in time order.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    return [_entry(motion, body, c) for c in motion.contacts_of(body) if motion.times[0] <= c.time <= motion.end]


def flight_book(motion: Motion, body: str) -> list[FlightEntry]:
    """Return an entry for every stretch between two contacts of the body, and before the first and after the last.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    edges = [float(motion.times[0]), *(c.time for c in motion.contacts_of(body)), motion.end]
    mass, inertia, assumed = _heavy(motion, body)
    path, account = motion.trajectory(body), motion.body(body)
    gravity = motion.gravity * account.gravity_multiplier
    out = []
    for a, b in zip(edges, edges[1:], strict=False):
        if b - a < 1e-6:
            continue
        _, v0, _, w0 = _sides(motion, body, a)
        v1, _, w1, _ = _sides(motion, body, b)
        x0, x1 = path.position(np.array([a, b]))
        before = 0.5 * mass * float(v0 @ v0) + 0.5 * inertia * float(w0 @ w0)
        after = 0.5 * mass * float(v1 @ v1) + 0.5 * inertia * float(w1 @ w1)
        out.append(FlightEntry(a, b, body, before, after - before - mass * float(gravity @ (x1 - x0)),
                               float(np.linalg.norm(mass * (v1 - v0 - gravity * (b - a)))), assumed))
    return out


def _entry(motion: Motion, body: str, contact: Contact) -> ContactEntry:
    before = after = 0.0
    assumed = False
    for name in (contact.body, contact.partner):
        if name not in motion.trajectories or motion.body(name).is_kinematic:
            continue
        mass, inertia, unknown = _heavy(motion, name)
        assumed |= unknown
        v0, v1, w0, w1 = _sides(motion, name, contact.time)
        before += 0.5 * mass * float(v0 @ v0) + 0.5 * inertia * float(w0 @ w0)
        after += 0.5 * mass * float(v1 @ v1) + 0.5 * inertia * float(w1 @ w1)
    _, normal = contact.seen_from(body)
    v0, v1, _, _ = _sides(motion, body, contact.time)
    given = _heavy(motion, body)[0] * (v1 - v0)
    along = float(given @ normal)
    e = contact.rebound / contact.approach if contact.approach > 0 else float("nan")
    return ContactEntry(contact.time, body, contact.partner if contact.body == body else contact.body, e, before, after - before,
                        along, float(np.linalg.norm(given - along * normal)), assumed)


def _heavy(motion: Motion, body: str) -> tuple[float, float, bool]:
    """Mass, mean moment, and whether they are of one assumed kilogram."""
    account = motion.body(body)
    if account.mass is None:
        return 1.0, 0.0, True
    return account.mass, float(np.mean(account.inertia)) if account.inertia is not None else 0.0, False


def _sides(motion: Motion, body: str, when: float) -> tuple[Array, Array, Array, Array]:
    """Velocity and spin arriving and leaving at a time."""
    path = motion.trajectory(body)
    k = int(np.argmin(np.abs(path.t - when)))
    if abs(path.t[k] - when) < 1e-9:
        return path.velocity_before[k], path.velocity_after[k], path.omega_before[k], path.omega_after[k]
    at = np.array([when])
    v, w = path.velocity(at)[0], path.angular_velocity(at)[0]
    return v, v, w, w
