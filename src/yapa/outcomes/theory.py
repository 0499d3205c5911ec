"""Closed forms, what an outcome should be by theory, where the situation is simple enough for one.

Predictions are made from what a motion itself shows (its first contact, its first slide) and the numbers of the case,
and stand beside the measured outcome; a gap tells that something else acts (drag, spin, a wrong number).

    bounce series       apex k = e^2k h,  Δt = 2 e^k t₁,  rest at t₁ (1 + e) / (1 - e)      (drop from h, t₁ = √(2h/g))
    sliding stop        s = v² / (2 μ g),  t = v / (μ g)
    slide to roll       t = 2 v / ((7 μ - 5 c_rr) g)   for a solid sphere
    rolling stop        s = v² / (2 · 5/7 c_rr g)
    flight              apex v² / (2 g) above the contact it leaves at v
    central hit         (1 + e) m₁ / (m₁ + m₂) v  of a body at rest
(Goldsmith, Impact; Johnson, Contact Mechanics)
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from yapa.motion import Contact, Motion
from yapa.motion.contacts import SlipState
from yapa.outcomes.kinds.contact import felt_contacts

Laws = Callable[[str, str], Mapping[str, float]]
"""The numbers of the contact of two bodies: restitution, friction, dynamic_friction, rolling_resistance."""


@dataclass(frozen=True)
class Prediction:
    """A closed form's value for an outcome, and which form it is."""

    value: float
    form: str


def predictions(motion: Motion, body: str, law: Laws) -> dict[str, Prediction]:
    """Return outcome name → prediction, for the situations that are recognised.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    law : material parameters of two bodies
    """
    g = abs(float(motion.gravity[2])) * motion.body(body).gravity_multiplier
    if g <= 0:
        return {}
    hits = [c for c in felt_contacts(motion, body, None) if abs(float(c.normal[2])) > 0.999]
    out: dict[str, Prediction] = {}
    if hits and len(hits) == len(felt_contacts(motion, body, None)):
        out |= _series(motion, body, hits, law, g)
    out |= _on_support(motion, body, law, g)
    out |= _central_hit(motion, body, law)
    return out


def _other(contact: Contact, body: str) -> str:
    return contact.partner if contact.body == body else contact.body


def _series(motion: Motion, body: str, hits: list[Contact], law: Laws, g: float) -> dict[str, Prediction]:
    """From the first approach on: every rise, every time, and the end."""
    first = hits[0]
    e = law(body, _other(first, body))["restitution"]
    out, v, t = {}, first.approach, first.time
    for k in range(1, 6):
        v *= e
        if v * v / (2 * g) < 0.005:
            break
        out[f"apex {k}"] = Prediction(v * v / (2 * g), "e^2k h")
        out[f"bounce time {k}"] = Prediction(t, "t₁ + Σ 2 eᵏ v / g")
        t += 2 * v / g
    if e < 1:
        straight = float(np.linalg.norm(motion.trajectory(body).velocity_after[0][:2])) < 1e-6
        if straight:
            out["rest time"] = Prediction(first.time + 2 * e * first.approach / (g * (1 - e)), "t₁ + 2 e v / (g (1 - e))")
    return out


def _on_support(motion: Motion, body: str, law: Laws, g: float) -> dict[str, Prediction]:
    phases = [p for p in motion.contact_intervals_of(body) if abs(float(p.normal[2])) > 0.999]
    if not phases or (felt_contacts(motion, body, None) and felt_contacts(motion, body, None)[-1].time > phases[0].start + 1e-6):
        return {}
    first, path, account = phases[0], motion.trajectory(body), motion.body(body)
    partner = first.partner if first.body == body else first.body
    numbers = law(body, partner)
    mu, c = numbers["dynamic_friction"], numbers["rolling_resistance"]
    at = np.array([first.start + 1e-9])
    v, w = path.velocity(at)[0], path.angular_velocity(at)[0]
    speed = float(np.linalg.norm(v[:2]))
    if account.kind == "box" and first.mode == SlipState.SLIP and mu > 0:
        return {"slide distance": Prediction(speed**2 / (2 * mu * g), "v² / (2 μ g)"),
                "slide time": Prediction(speed / (mu * g), "v / (μ g)")}
    if account.kind != "sphere" or speed == 0:
        return {}
    if first.mode == SlipState.SLIP and float(np.linalg.norm(w)) < 1e-6 and 7 * mu > 5 * c:
        return {"slide to roll": Prediction(2 * speed / ((7 * mu - 5 * c) * g), "2 v / ((7 μ - 5 c) g)")}
    if first.mode == SlipState.STICK and c > 0:
        return {"roll distance": Prediction(speed**2 / (2 * 5 / 7 * c * g), "v² / (2 · 5/7 c g)")}
    return {}


def _central_hit(motion: Motion, body: str, law: Laws) -> dict[str, Prediction]:
    """What a body at rest leaves with when another hits it in the middle."""
    hits = felt_contacts(motion, body, None)
    if not hits:
        return {}
    c, mine = hits[0], motion.body(body)
    other = _other(c, body)
    if other not in motion.names or motion.body(other).mass is None or mine.mass is None or not motion.body(other).is_movable:
        return {}
    before = motion.trajectory(body).velocity(np.array([c.time - 1e-9]))[0]
    if float(np.linalg.norm(before)) > 1e-6 or c.slip_before > 1e-3 * c.approach:
        return {}
    m1, m2 = motion.body(other).mass or 0.0, mine.mass
    speed = (1 + law(body, other)["restitution"]) * m1 / (m1 + m2) * c.approach
    return {"peak speed": Prediction(speed, "(1 + e) m₁ / (m₁ + m₂) v")}
