"""Turning about an axis of the world, in steps of five degrees; a body that stands on a face goes on touching it."""

from __future__ import annotations

import numpy as np

from yapa.engine.compile.mass_properties import quaternion_product
from yapa.session.building import scene_edits
from yapa.session.building.gestures.base import Held, Snapping, rounded
from yapa.session.building.placing import reach_towards, tidy
from yapa.session.building.rays import Ray
from yapa.session.building.stock import is_endless
from yapa.session.edits import Edit


def turned(held: Held, angle: float) -> Edit:
    """Return the edit that has a body turned by an angle about the axis that is held.

    Parameters
    ----------
    held : the body under the hand
    angle : how far [rad]
    """
    body = held.body
    by = np.array([np.cos(angle / 2), *(np.sin(angle / 2) * held.axis)])
    w, x, y, z = (tidy(c) for c in quaternion_product(by, np.array(body.orientation)))
    place = held.place
    if held.face is not None and not is_endless(body):
        n = held.face.normal
        moved = body.model_copy(update={"orientation": (w, x, y, z)})
        place = place + (reach_towards(moved, -n) - reach_towards(body, -n)) * n
    return scene_edits.move_body(held.name, np.array([tidy(c) for c in place]), (w, x, y, z))


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the turn that has the grip where the pointer is; None where one looks along the plane it turns in.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what angles are rounded to
    """
    there = ray.at_plane(held.place, held.axis)
    if there is None:
        return None
    a, b = held.grabbed - held.place, there - held.place
    a = a - (a @ held.axis) * held.axis
    angle = float(np.arctan2(np.cross(a, b) @ held.axis, a @ b))
    return turned(held, rounded(angle, snapping.angle))
