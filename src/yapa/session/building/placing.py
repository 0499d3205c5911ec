"""Where a body stands: flush with a face or upright, touching it, moved out along its normal where something is in the way."""

from __future__ import annotations

import numpy as np

from yapa.case import Body, Case
from yapa.case.body_size import support
from yapa.case.rotations import rotation_matrix_of
from yapa.engine.compile.mass_properties import quaternion_product
from yapa.findings.gaps import gaps_at_start
from yapa.motion import Array
from yapa.session.building.stock import is_endless

TOUCHING = 1e-9
"""m: overlaps up to it are contact"""
MOST_STEPS = 60
"""that a body is moved out"""
LEAST_STEP = 1e-4
"""m: of moving out"""


def flush(normal: Array, orientation: tuple[float, ...] = (1.0, 0.0, 0.0, 0.0)) -> tuple[float, float, float, float]:
    """Return the orientation that has a body's upright axis along a normal: the shortest turn from where it is.

    Parameters
    ----------
    normal : (3,) unit vector
    orientation : of the body (w, x, y, z)
    """
    upright = rotation_matrix_of(orientation)[:, 2]
    axis, cosine = np.cross(upright, normal), float(np.dot(upright, normal))
    if cosine < -1 + 1e-12:
        axis, cosine = np.cross(upright, [1.0, 0.0, 0.0] if abs(upright[0]) < 0.9 else [0.0, 1.0, 0.0]), -1.0
        turn = np.array([0.0, *(axis / np.linalg.norm(axis))])
    else:
        turn = np.array([1.0 + cosine, *axis])
        turn = turn / np.linalg.norm(turn)
    w, x, y, z = quaternion_product(turn, np.array(orientation))
    return tidy(w), tidy(x), tidy(y), tidy(z)


def tidy(value: float) -> float:
    """Return a number without what rounding left of a short one: at most twelve digits behind the point.

    Parameters
    ----------
    value : the number
    """
    return round(float(value), 12) + 0.0


def reach_towards(body: Body, direction: Array) -> float:
    """Return how far a body reaches from its origin along a direction of the world [m].

    Parameters
    ----------
    body : the body
    direction : (3,) unit vector
    """
    return support(body, rotation_matrix_of(body.orientation).T @ direction)


def stood_on(body: Body, point: Array, normal: Array, *, upright: bool = False) -> Body:
    """Return a body that stands on a face, touching it; an endless one goes through the point.

    Parameters
    ----------
    body : the body
    point : (3,) of the face [m]
    normal : (3,) its outward normal
    upright : whether it keeps its orientation, in place of lying flush
    """
    if is_endless(body):
        return moved_to(body, point)
    turn = (1.0, 0.0, 0.0, 0.0) if upright else flush(normal)  # a slope keeps its slope to what it stands on
    standing = quaternion_product(np.array(turn), np.array(body.orientation))
    turned = body.model_copy(update={"orientation": tuple(tidy(c) for c in standing)})
    return moved_to(turned, point + reach_towards(turned, -normal) * normal)


def moved_to(body: Body, place: Array) -> Body:
    """Return a body at another place; one that follows a path takes its path along.

    Parameters
    ----------
    body : the body
    place : (3,) of its origin [m]; of a path, of its first key
    """
    at = tidy(place[0]), tidy(place[1]), tidy(place[2])
    if not body.keyframes:
        return body.model_copy(update={"position": at})
    by = np.subtract(at, body.keyframes[0].position)
    keys = tuple(key.model_copy(update={"position": tuple(tidy(c) for c in np.add(key.position, by))}) for key in body.keyframes)
    return body.model_copy(update={"keyframes": keys, "position": at})


def place_of(body: Body) -> tuple[float, float, float]:
    """Return where a body starts [m].

    Parameters
    ----------
    body : the body
    """
    return body.keyframes[0].position if body.keyframes else body.position


def with_body(case: Case, name: str, body: Body) -> Case:
    """Return the case with a body in place of the one of that name, or beside the others.

    Parameters
    ----------
    case : the case
    name : name of the body
    body : the body
    """
    return case.model_copy(update={"bodies": {**case.bodies, name: body}})


def moved_out(case: Case, name: str, normal: Array) -> Case:
    """Return the case with a body moved out along a normal until it overlaps nothing.

    Parameters
    ----------
    case : the case
    name : name of the body
    normal : (3,) unit vector
    """
    if is_endless(case.bodies[name]):
        return case
    for _ in range(MOST_STEPS):
        deepest = min((gap for pair, gap in gaps_at_start(case).items() if name in pair), default=0.0)
        if deepest >= -TOUCHING:
            break
        body = case.bodies[name]
        there = moved_to(body, np.array(place_of(body)) + max(-deepest, LEAST_STEP) * normal)
        case = with_body(case, name, there)
    return case
