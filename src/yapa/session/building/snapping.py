"""What a place in a face is rounded to: beside a neighbour, in line with its edges or its middle, else the grid."""

from __future__ import annotations

import numpy as np

from yapa.case import Body, Case
from yapa.motion import Array
from yapa.session.building.placing import place_of, reach_towards
from yapa.session.building.stock import is_endless

CATCHES = 0.4
"""of a step of the grid: within it a neighbour's edge wins over the grid"""
MAX_NEIGHBOURS = 60
"""bodies that are looked at, the first ones"""
LEVEL = 0.01
"""of the normal along an axis of the world: below it the axis lies in the face"""


def extent(body: Body, axis: int) -> tuple[float, float]:
    """Return how far a body reaches down and up from its origin along an axis of the world [m].

    Parameters
    ----------
    body : the body
    axis : 0, 1 or 2
    """
    along = np.eye(3)[axis]
    return -reach_towards(body, -along), reach_towards(body, along)


def snapped(case: Case, name: str, body: Body, place: Array, normal: Array, step: float) -> Array:
    """Return a place with every coordinate along the face rounded.

    Parameters
    ----------
    case : the case
    name : of the body that is placed; it does not snap to itself
    body : as it is turned now
    place : (3,) where its origin would be [m]
    normal : (3,) of the face, or of the picture
    step : of the grid [m]; 0: the place as it is
    """
    if not step:
        return place
    others = [(np.array(place_of(other)), other) for n, other in case.bodies.items() if n != name and not is_endless(other)]
    out = np.array(place, dtype=float)
    for axis in range(3):
        if abs(normal[axis]) >= LEVEL:
            continue
        near = [] if is_endless(body) else _coordinates(body, place, axis, others[:MAX_NEIGHBOURS])
        best = min(near, key=lambda c: abs(c - place[axis]), default=np.inf)
        on_grid = round(place[axis] / step) * step
        out[axis] = best if abs(best - place[axis]) < CATCHES * step else on_grid
    return out


def _coordinates(body: Body, place: Array, axis: int, others: list[tuple[Array, Body]]) -> list[float]:
    """Coordinates of the origin along an axis at which the body is beside another, or in line with it."""
    low, high = extent(body, axis)
    out = []
    for at, other in others:
        their_low, their_high = (at[axis] + c for c in extent(other, axis))
        out += [their_low - low, their_high - high, 0.5 * (their_low + their_high) - 0.5 * (low + high)]
        if _face_each_other(body, place, at, other, axis):
            out += [their_high - low, their_low - high]
    return out


def _face_each_other(body: Body, place: Array, at: Array, other: Body, axis: int) -> bool:
    """Whether two bodies would meet if one were moved along an axis."""
    for across in range(3):
        if across != axis:
            (a, b), (c, d) = extent(body, across), extent(other, across)
            if place[across] + a >= at[across] + d or place[across] + b <= at[across] + c:
                return False
    return True
