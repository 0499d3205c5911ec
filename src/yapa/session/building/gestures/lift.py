"""Lifting: straight up or down, in steps of the grid above where a body was; near the face below it, on to that face."""

from __future__ import annotations

import numpy as np

from yapa.session.building import scene_edits
from yapa.session.building.gestures.base import Held, Snapping, rounded
from yapa.session.building.placing import reach_towards, tidy
from yapa.session.building.rays import Ray
from yapa.session.edits import Edit

UP = np.array([0.0, 0.0, 1.0])


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the move that has a body as high as the pointer is; None where one looks along the way it goes.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what places are rounded to
    """
    up = ray.along(held.grabbed, UP)
    if up is None:
        return None
    place = held.place + rounded(up, snapping.step) * UP
    if snapping.step:
        below = held.under(Ray(held.place + max(up, 0.0) * UP, -UP))
        if below:
            stands = below[0].point[2] + reach_towards(held.body, -UP)
            if abs(stands - held.place[2] - up) < snapping.step / 2:
                place[2] = stands
    return scene_edits.move_body(held.name, np.array([tidy(c) for c in place]))
