"""Throwing: the arrow's tip says how fast and where to."""

from __future__ import annotations

import numpy as np

from yapa.case.scene import Direction, LaunchAngles
from yapa.motion import Array
from yapa.session.building import scene_edits
from yapa.session.building.gestures.base import Held, Snapping, rounded
from yapa.session.building.placing import tidy
from yapa.session.building.rays import Ray, nice_step
from yapa.session.edits import Edit

ARROW_SECONDS = 0.2
"""of flight that a launch arrow is long"""


def launched(held: Held, velocity: Array) -> Edit:
    """Return the edit that gives a body a start velocity, by its parts or by its angles, as it was given before.

    Parameters
    ----------
    held : the body under the hand
    velocity : (3,) [m/s]
    """
    v = [tidy(c) for c in velocity]
    now = held.body.velocity
    if isinstance(now, LaunchAngles | Direction):
        own = isinstance(now, LaunchAngles) and now.axes == "body"
        return scene_edits.launch(held.name, scene_edits.by_angles(held.body, np.array(v), own=own))
    return scene_edits.launch(held.name, (v[0], v[1], v[2]))


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the launch whose arrow ends where the pointer is; None where one looks along the picture.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what lengths are rounded to
    """
    tip = ray.at_plane(held.grabbed, ray.direction)
    if tip is None:
        return None
    grid = nice_step(snapping.step / ARROW_SECONDS) if snapping.step else 0.0
    return launched(held, np.array([rounded(c, grid) for c in (tip - held.grabbed) / ARROW_SECONDS]))
