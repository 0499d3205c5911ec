"""What of a motion can be taken hold of and pulled: tops, landings, contact times, the rest, a passage at the play head, a tilt.

A handle stands where its outcome is seen: on the stage, along a direction in which a pull changes it, by how much a metre; on a
curve; or on the time axis, along time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from yapa.case.evidence import Target
from yapa.case.rotations import rotation_matrix_of
from yapa.motion import Array, Motion
from yapa.outcomes import read, rebounds
from yapa.outcomes.kinds.bounce import up_of

MAX_BOUNCES = 5
"""bounces with handles"""
NEAR = 0.02
"""m: what lands or rests nearer to its start has no handle"""
TOLERANCE = 0.005
"""m: of the target that a pull writes."""
TIME_TOLERANCE = 0.005
"""s: of one that asks when"""
ANGLE_TOLERANCE = math.radians(1.0)
SMALLEST_VALUE = 0.001
"""of an outcome that cannot be zero"""
ALONG = 0.9
"""of a direction: so much along x it is seen on the curve of travel"""
MIN_TILT = 0.02
"""rad of a body that has tilted"""
NOWHERE = np.full(3, np.nan)
PASSAGE_OFFSET = 2.0
"""radii beside the body that a handle of its passage stands"""


@dataclass(frozen=True)
class Handle:
    """An outcome that can be pulled.

    Attributes
    ----------
    target : asks for it, at its present value
    place, along : where it is on the stage (3,) [m], and the direction it grows along; NaN where it is not
    gain : by how much it grows a metre
    time : when it is seen [s]
    curve, level : the curve it stands on, and where on it [the curve's unit]; "" where it stands on none
    in_time : whether it is pulled along the time axis
    least : the smallest value it can have
    """

    target: Target
    place: Array
    along: Array
    gain: float = 1.0
    time: float = 0.0
    curve: str = ""
    level: float = 0.0
    in_time: bool = False
    least: float = -math.inf

    @property
    def is_on_stage(self) -> bool:
        """Whether it stands on the stage."""
        return bool(np.isfinite(self.place).all())

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
                out.append(Handle(_want("apex", body, apex.value, k), top, up, time=b.top_time, curve="height", level=float(top[2]),
                                  least=SMALLEST_VALUE))
            landing, (far, way) = read(motion, "landing", body, k), _level(b.place - start, up)
            if landing.value is not None and far > NEAR:
                out.append(Handle(_want("landing", body, landing.value, k), b.contact.point, way, time=b.contact.time,
                                  curve="travel" if abs(way[0]) > ALONG else "", level=float(b.place[0]), least=SMALLEST_VALUE))
            when = _want("bounce time", body, b.contact.time, k, TIME_TOLERANCE)
            out.append(Handle(when, NOWHERE, NOWHERE, time=b.contact.time, in_time=True, least=SMALLEST_VALUE))
        rest, travel = read(motion, "rest time", body), read(motion, "travel", body)
        if rest.value is not None:
            out.append(Handle(_want("rest time", body, rest.value, None, TIME_TOLERANCE), NOWHERE, NOWHERE, time=rest.value,
                              in_time=True, least=SMALLEST_VALUE))
        if rest.value is not None and travel.value is not None and travel.value > NEAR:
            way = _level(end - start, up)[1]
            out.append(Handle(_want("travel", body, travel.value, None), end, way, time=motion.end,
                              curve="travel" if abs(way[0]) > ALONG else "", level=float(end[0]), least=SMALLEST_VALUE))
        out += _tilts(motion, body)
    return out


def _tilts(motion: Motion, body: str) -> list[Handle]:
    """How far a body has tilted at the end: pulled along the way its top leans."""
    info = motion.body(body)
    tilt = read(motion, "tilt", body)
    if info.kind == "sphere" or tilt.value is None or not MIN_TILT < tilt.value < math.pi - MIN_TILT:
        return []
    row = motion.names.index(body)
    first, last = (rotation_matrix_of(motion.states[k, row, 3:7].tolist()) for k in (0, -1))
    leant = last @ first.T @ np.array([0.0, 0.0, 1.0])
    reach = info.bounding_radius
    way = np.array([0.0, 0.0, -1.0]) + (leant[2]) * leant
    way = way / np.linalg.norm(way)
    want = Target(outcome="tilt", body=body, value=tilt.value, tolerance=ANGLE_TOLERANCE)
    return [Handle(want, motion.states[-1, row, :3] + reach * leant, way, gain=1.0 / reach, time=motion.end, least=0.0)]


def passage_handles(motion: Motion, time: float) -> list[Handle]:
    """Return handles of where each body is at a time: one upwards, one along x; at the start and the end none.

    Parameters
    ----------
    motion : simulated motion
    time : of the play head [s]
    """
    if not 0.0 < time < motion.end:
        return []
    out = []
    for body in motion.dynamic_bodies():
        if body in motion.trajectories:
            place, reach = motion.trajectory(body).position(np.array([time]))[0], PASSAGE_OFFSET * motion.body(body).bounding_radius
            for outcome, axis, curve in (("z", 2, "height"), ("x", 0, "travel")):
                along = np.eye(3)[axis]
                want = Target(outcome=outcome, body=body, time=round(time, 4), value=float(place[axis]), tolerance=TOLERANCE)
                out.append(Handle(want, place + reach * along, along, time=time, curve=curve, level=float(place[axis])))
    return out


def _level(away: Array, up: Array) -> tuple[float, Array]:
    """How far away something is on the level [m], and in which direction."""
    away = away - (away @ up) * up
    far = float(np.linalg.norm(away))
    return far, away / far if far > 0 else away


def _want(outcome: str, body: str, value: float, index: int | None, tolerance: float = TOLERANCE) -> Target:
    return Target(outcome=outcome, body=body, index=index, value=value, tolerance=tolerance)
