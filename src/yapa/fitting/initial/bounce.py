"""Restitution and friction from the speeds across each contact; drag from the shared drag of the flights.

e is the weighted median of rebound/approach. A contact's friction impulse over its normal impulse
is |Δv_t|/Δv_n: μ where it slips, less where it grips, so the largest is the guess. Drag: k m = ½ ρ C_d A.
"""

from __future__ import annotations

import numpy as np

from yapa.fitting.initial.seen import Guess, ObservedTrack


def guess_bounces(guess: Guess, seen: ObservedTrack) -> None:
    """Offer restitution, friction and drag.

    Parameters
    ----------
    guess : starting values so far
    seen : the track reconstructed as a motion
    """
    contacts = [c for c in seen.motion.contacts if c.partner == seen.support_body and c.rebound > 0 and c.approach > 0]
    if contacts and seen.support_body is not None:
        ratios = np.array([c.rebound / c.approach for c in contacts])
        weights = np.array([c.approach for c in contacts])
        order = np.argsort(ratios)
        half = np.searchsorted(np.cumsum(weights[order]), 0.5 * weights.sum())
        guess.offer_pair(seen.body, seen.support_body, "restitution", float(ratios[order][half]))
        path = seen.motion.trajectory(seen.body)
        rates = []
        for c in contacts:
            k = int(np.argmin(np.abs(path.t - c.time)))
            dv = path.velocity_after[k] - path.velocity_before[k]
            dn = float(dv @ c.normal)
            rates.append(float(np.linalg.norm(dv - dn * c.normal)) / max(dn, 1e-9))
        guess.offer_pair(seen.body, seen.support_body, "friction", max(rates))


def guess_drag(guess: Guess, seen: ObservedTrack, k: float) -> None:
    """Offer the drag coefficient, or the mass where the coefficient is known.

    Parameters
    ----------
    guess : starting values so far
    seen : the track reconstructed as a motion
    k : rate at which drag slows a flight, per length [1/m]
    """
    body = guess.problem.case.bodies[seen.body]
    account = seen.motion.body(seen.body)
    base = f"bodies.{seen.body}"
    area = np.pi * account.bounding_radius**2
    density = guess.problem.case.fields.air.density
    if account.kind != "sphere" or density <= 0:
        return
    guess.offer(f"{base}.drag_coefficient", max(1e-3, 2 * k * body.mass / (density * area)))
    if body.drag_coefficient > 0 and k > 0:
        guess.offer(f"{base}.mass", 0.5 * density * body.drag_coefficient * area / k)
