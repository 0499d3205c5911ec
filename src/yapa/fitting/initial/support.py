"""Friction and rolling resistance from decelerations on a support.

Along the support, with s the pull of gravity along it and N that of gravity into it (per mass):
sliding, the speed changes at s ∓ μ N; a sphere that rolls changes at (5/7)(s ∓ c_rr N).
"""

from __future__ import annotations

import numpy as np

from yapa.fitting.initial.seen import Guess, ObservedTrack, gravity_of
from yapa.motion import Array
from yapa.motion.contacts import SlipState


def _runs(t: Array, x: Array, v_sign: Array) -> list[tuple[float, float, float]]:
    """(sign of travel, acceleration, weight) of stretches of one direction."""
    out = []
    start = 0
    for k in range(1, len(t) + 1):
        if k == len(t) or v_sign[k] != v_sign[start]:
            if k - start >= 5:
                a = 2 * np.polyfit(t[start:k], x[start:k], 2)[0]
                out.append((float(v_sign[start]), float(a), float((t[k - 1] - t[start]) ** 2)))
            start = k
    return out


def guess_support(guess: Guess, seen: ObservedTrack) -> None:
    """Offer friction and rolling resistance of a body that stays on its support.

    Parameters
    ----------
    guess : starting values so far
    seen : the track reconstructed as a motion
    """
    if seen.support is None or seen.support_body is None or not seen.motion.contact_intervals:
        return
    g, n = gravity_of(guess.problem), seen.support.normal
    pressing = -float(g @ n)
    along_pull = g - (g @ n) * n
    sphere = seen.motion.body(seen.body).kind == "sphere"
    path = seen.motion.trajectory(seen.body)
    phases = seen.motion.contact_intervals_of(seen.body)
    slides = [p for p in phases if p.mode == SlipState.SLIP]
    friction, resistance = [], []
    for phase in phases if sphere else slides:
        t = seen.data.t[(seen.data.t >= phase.start) & (seen.data.t <= phase.end)]
        if len(t) < 5:
            continue
        v = path.velocity(t)
        d = v[np.argmax(np.linalg.norm(v, axis=1))]
        d = d / max(float(np.linalg.norm(d)), 1e-9)
        moving = np.linalg.norm(v, axis=1) > max(0.02, 0.02 * float(np.linalg.norm(v, axis=1).max()))
        if moving.sum() < 5:
            continue
        raw = np.column_stack([np.interp(t, seen.data.t, c) for c in np.nan_to_num(seen.data.x).T])
        for sign, a, weight in _runs(t[moving], (raw @ d)[moving], np.sign(v @ d)[moving]):
            pull = float(along_pull @ d)
            if not sphere or phase.mode == SlipState.SLIP:
                friction.append((-sign * (a - pull) / pressing, weight))
            elif phase.mode == SlipState.STICK:
                resistance.append((-sign * (a * 7 / 5 - pull) / pressing, weight))
    for name, found in (("friction", friction), ("rolling_resistance", resistance)):
        if found:
            values, weights = np.array(found).T
            guess.offer_pair(seen.body, seen.support_body, name, max(0.0, float(np.average(values, weights=weights))))
    if sphere and resistance and not friction:
        guess.offer_pair(seen.body, seen.support_body, "friction", 0.3)
