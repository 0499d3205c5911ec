"""Moving: on the face a body stands on, on to the next face under the pointer, else in the plane of the picture."""

from __future__ import annotations

import numpy as np

from yapa.session.building import scene_edits
from yapa.session.building.gestures.base import Held, Snapping
from yapa.session.building.placing import flush, reach_towards, tidy
from yapa.session.building.rays import Ray
from yapa.session.building.snapping import snapped
from yapa.session.edits import Edit


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit:
    """Return the move that has a body where the pointer is.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what places are rounded to
    """
    body, orientation = held.body, held.body.orientation
    hits = [] if snapping.in_picture or held.face is None else held.under(ray)
    if hits and held.face is not None:
        face = hits[0]
        if float(face.normal @ held.face.normal) < 1 - 1e-6:
            orientation = flush(face.normal, orientation)
            body = body.model_copy(update={"orientation": orientation})
        place = face.point + reach_towards(body, -face.normal) * face.normal
        normal = face.normal
    else:
        there = ray.at_plane(held.grabbed, ray.direction)
        place = held.place + (0 if there is None else there - held.grabbed)
        normal = ray.direction
    place = snapped(held.case, held.name, body, place, normal, snapping.step)
    turned = orientation if orientation != held.body.orientation else None
    return scene_edits.move_body(held.name, np.array([tidy(c) for c in place]), turned)
