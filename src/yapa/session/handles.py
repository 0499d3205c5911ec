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
from yapa.outcomes.kinds.bounce import up_of

MAX_BOUNCES = 5
"""bounces with handles"""
NEAR = 0.02
"""m: what lands or rests nearer to its start has no handle"""
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


def rounded_value(value: float, tolerance: float) -> float:
    """Return a value with the digits that its tolerance can tell: a tenth of its leading one at the coarsest.

    Parameters
    ----------
    value : its value
    tolerance : its tolerance
    """
    return round(value, 1 - math.floor(math.log10(tolerance)))


def handles_of(motion: Motion) -> list[Handle]:
    """Return handles of every body that moves by forces, in the order of time.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    out: list[Handle] = []
    for body in motion.dynamic_bodies():
        if body not in motion.trajectories:
            continue
        path, up = motion.trajectory(body), up_of(motion)
        counted = [b for b in rebounds(motion, body) if b.counted][:MAX_BOUNCES]
        places = path.position(np.array([float(motion.times[0]), *(b.top_time for b in counted), motion.end]))
        start, end = places[0], places[-1]
        for k, (b, top) in enumerate(zip(counted, places[1:-1], strict=True), start=1):
            apex = read(motion, "apex", body, k)
            if apex.value is not None:
                out.append(Handle(_want("apex", body, apex.value, k), top, up))
            landing, (far, way) = read(motion, "landing", body, k), _level(b.place - start, up)
            if landing.value is not None and far > NEAR:
                out.append(Handle(_want("landing", body, landing.value, k), b.contact.point, way))
        rest, travel = read(motion, "rest time", body), read(motion, "travel", body)
        if rest.value is not None and travel.value is not None and travel.value > NEAR:
            out.append(Handle(_want("travel", body, travel.value, None), end, _level(end - start, up)[1]))
    return out


def _level(away: Array, up: Array) -> tuple[float, Array]:
    """How far away something is on the level [m], and in which direction."""
    away = away - (away @ up) * up
    far = float(np.linalg.norm(away))
    return far, away / far if far > 0 else away


def _want(outcome: str, body: str, value: float, index: int | None) -> Target:
    return Target(outcome=outcome, body=body, index=index, value=value, tolerance=TOLERANCE)
