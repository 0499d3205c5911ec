"""Where a driven body is at the play head's time: a key of its path, there already or new."""

from __future__ import annotations

from yapa.case.scene import Keyframe
from yapa.session.building import driven_paths
from yapa.session.building.gestures.base import Held, Snapping
from yapa.session.building.placing import tidy
from yapa.session.building.rays import Ray, on_grid
from yapa.session.edits import Edit

SAME_TIME = 1e-3
"""s: a key nearer to the play head is the one that is moved"""


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the path that has a driven body where the pointer is, at the play head's time.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what places are rounded to
    """
    there = ray.at_plane(held.grabbed, ray.direction)
    if there is None:
        return None
    x, y, z = (tidy(c) for c in on_grid(there, ray.direction, snapping.step))
    keys = held.body.keyframes or (Keyframe(time=0.0, position=held.body.position, orientation=held.body.orientation),)
    before = [key for key in keys if key.time <= held.time + SAME_TIME]
    turned = (before or list(keys))[-1].orientation
    kept = [key for key in keys if abs(key.time - held.time) > SAME_TIME]
    fresh = Keyframe(time=round(held.time, 6), position=(x, y, z), orientation=turned)
    return driven_paths.set_path(held.name, [*kept, fresh])
