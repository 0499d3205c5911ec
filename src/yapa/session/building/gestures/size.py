"""Sizes: the face across stays where it is, or the centre; what was given of mass and density is kept."""

from __future__ import annotations

import numpy as np

from yapa.case import Case, get_number
from yapa.case.changed_numbers import with_numbers
from yapa.motion import Array
from yapa.session.building.gestures.base import Held, Snapping, rounded
from yapa.session.building.placing import moved_to, place_of, reach_towards, tidy, with_body
from yapa.session.building.rays import Ray
from yapa.session.edits import Edit

MIN_SIZE = 1e-3
"""m: no size is made smaller by hand"""
HALVED = ("radius",)
"""sizes that are measured from the centre: they grow by half of what a face is moved"""


def sized(name: str, part: str, size: float, axis: Array, *, about_centre: bool = False) -> Edit:
    """Return the edit that gives a body another size.

    Parameters
    ----------
    name : name of the body
    part : which of its sizes, as in its path: "radius", "length", "size.x", "size"
    size : the new size [m]
    axis : (3,) from the face across, which stays, towards the one that is moved
    about_centre : whether the centre stays in its place
    """
    path = f"bodies.{name}.{part}"

    def change(case: Case) -> Case:
        body = case.bodies[name]
        was = get_number(case, path)
        after = with_numbers(case, {path: tidy(size)})
        if about_centre:
            return after
        if part == "size":
            by = (size / was - 1.0) * reach_towards(body, -axis)
        else:
            by = (size - was) * (1.0 if part in HALVED else 0.5)
        return with_body(after, name, moved_to(after.bodies[name], np.array(place_of(body)) + by * axis))

    return Edit(f"{part.split('.')[0]} of {name}", change)


def follow(held: Held, ray: Ray, snapping: Snapping) -> Edit | None:
    """Return the change of size that has the grip where the pointer is; None where one looks along the way it goes.

    Parameters
    ----------
    held : the body under the hand
    ray : where the pointer looks
    snapping : what lengths are rounded to
    """
    out = ray.along(held.grabbed, held.axis)
    if out is None:
        return None
    was = get_number(held.case, f"bodies.{held.name}.{held.part}")
    grown = out if not snapping.about_centre else 2.0 * out
    grown = grown / 2.0 if held.part in HALVED else grown
    size = max(rounded(was + grown, snapping.step), snapping.step or MIN_SIZE, MIN_SIZE)
    return sized(held.name, held.part, size, held.axis, about_centre=snapping.about_centre)
