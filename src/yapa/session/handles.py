"""What of a motion can be taken hold of and pulled: tops after bounces, landings, and the place of rest.

A handle stands where its outcome is seen, and says along which direction a pull changes it, by how much a metre.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array, Motion
from yapa.outcomes import read, rebounds
from yapa.outcomes.bounces import up_of

MOST = 5
TOLERANCE = 0.005
"""m: of the target that a pull writes."""


@dataclass(frozen=True)
class Handle:
    """An outcome that can be pulled: its target at the present value, where it is, and the direction it grows along."""

    target: Target
    place: Array
    along: Array

    @property
    def name(self) -> str:
        """``orange apex 2``."""
        return self.target.label


def told_value(value: float, tolerance: float) -> float:
    """A value with the digits that its tolerance can tell: a tenth of its leading one at the coarsest."""
    return round(value, 1 - math.floor(math.log10(tolerance)))


def handles_of(motion: Motion) -> list[Handle]:
    """Handles of every body that moves by forces, in the order of time."""
    out: list[Handle] = []
    for body in motion.movers():
        if body not in motion.paths:
            continue
        path, up = motion.path(body), up_of(motion)
        start = path.place(np.array([float(motion.times[0])]))[0]
        counted = [b for b in rebounds(motion, body) if b.counted][:MOST]
        for k, b in enumerate(counted, start=1):
            apex = read(motion, "apex", body, k)
            if apex.value is not None:
                out.append(Handle(_want("apex", body, apex.value, k), path.place(np.array([b.top_time]))[0], up))
            away = b.place - start
            away = away - (away @ up) * up
            far = float(np.linalg.norm(away))
            landing = read(motion, "landing", body, k)
            if landing.value is not None and far > 0.02:
                out.append(Handle(_want("landing", body, landing.value, k), b.contact.point, away / far))
        rest = read(motion, "rest time", body)
        travel = read(motion, "travel", body)
        if rest.value is not None and travel.value is not None and travel.value > 0.02:
            end = path.place(np.array([motion.end]))[0]
            away = end - start
            away = away - (away @ up) * up
            out.append(Handle(_want("travel", body, travel.value, None), end, away / float(np.linalg.norm(away))))
    return out


def _want(outcome: str, body: str, value: float, index: int | None) -> Target:
    return Target(outcome=outcome, body=body, index=index, value=value, tolerance=TOLERANCE)
