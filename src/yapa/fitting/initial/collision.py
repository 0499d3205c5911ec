"""Mass ratio and restitution from two tracks that jump together.

Momentum along the line of the jump: m_a Δv_a = -m_b Δv_b; e = speed apart / speed together.
"""

from __future__ import annotations

import numpy as np

from yapa.fitting.initial.seen import Guess, ObservedTrack
from yapa.motion import Array


def _speeds(seen: ObservedTrack, when: float, line: Array) -> tuple[float, float]:
    """Speed along a line just before and just after a time, by straight lines through ten frames."""
    data = seen.data
    out = []
    for inside in ((data.t < when) & (data.t > when - 10.5 / data.rate), (data.t > when) & (data.t < when + 10.5 / data.rate)):
        good = inside & np.isfinite(data.x).all(axis=1)
        out.append(float(np.polyfit(data.t[good], data.x[good] @ line, 1)[0]) if good.sum() > 2 else np.nan)
    return out[0], out[1]


def guess_collisions(guess: Guess, tracks: list[ObservedTrack]) -> None:
    """Offer masses and restitution of pairs of moving bodies.

    Parameters
    ----------
    guess : starting values so far
    tracks : measured tracks
    """
    case = guess.problem.case
    for i, one in enumerate(tracks):
        for two in tracks[i + 1 :]:
            if one.body == two.body:
                continue
            for a in one.motion.contacts:
                near = [b for b in two.motion.contacts if abs(b.time - a.time) < 4 / min(one.data.rate, two.data.rate)]
                if not near:
                    continue
                line = a.normal / max(float(np.linalg.norm(a.normal)), 1e-12)
                when = 0.5 * (a.time + near[0].time)
                (va, va2), (vb, vb2) = _speeds(one, when, line), _speeds(two, when, line)
                if not abs(va - vb) > 1e-3:
                    continue
                guess.offer_pair(one.body, two.body, "restitution", min(1.0, max(0.0, (vb2 - va2) / (va - vb))))
                ratio = -(vb2 - vb) / (va2 - va) if va2 != va else np.nan
                if ratio > 0:
                    guess.offer(f"bodies.{one.body}.mass", case.bodies[two.body].mass * ratio)
                    guess.offer(f"bodies.{two.body}.mass", case.bodies[one.body].mass / ratio)
                break
