"""Wanting a body to be somewhere at the play head's time: its three coordinates there, as targets."""

from __future__ import annotations

import numpy as np

from yapa.case import Case, Target
from yapa.session.building.asking import tolerance_for
from yapa.session.building.gestures.base import Held, Snapping
from yapa.session.building.rays import Ray, on_grid
from yapa.session.edits import Edit


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the wish that a body passes the pointer's place at the play head's time, in place of one for the same time.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what places are rounded to
    """
    there = ray.at_plane(held.grabbed, ray.direction)
    if there is None:
        return None
    place = on_grid(there, ray.direction, snapping.step)
    time, name = round(held.time, 6), held.name
    tolerance = tolerance_for(float(np.linalg.norm(place - held.place)), snapping.step / 12.0)

    def change(case: Case) -> Case:
        wanted = tuple(Target(outcome=axis, body=name, time=time, value=round(float(c), 6), tolerance=tolerance)
                       for axis, c in zip("xyz", place, strict=True))
        kept = tuple(t for t in case.targets if not (t.body == name and t.outcome in ("x", "y", "z") and t.time == time))
        return case.model_copy(update={"targets": (*kept, *wanted)})

    return Edit(f"{name} passes here at {time:g} s", change)
