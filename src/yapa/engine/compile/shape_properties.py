"""What the host needs to know of the shapes of a body: its drag area, and how they are shown."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case.rotations import normalised
from yapa.case.shapes.base import Posed
from yapa.engine.compile.mass_properties import solid_of
from yapa.motion import Array, ShapeInfo


def drag_area(shapes: Sequence[Posed]) -> float:
    """Return the area that air meets: of one shape its own, of several a quarter of all their surfaces.

    Parameters
    ----------
    shapes : shapes of the body
    """
    return shapes[0].shadow if len(shapes) == 1 else sum(solid_of(shape, True).measure for shape in shapes) / 4


def shape_info(shape: Posed, offset: Array) -> ShapeInfo:
    """Return what the stage draws of a shape: its outline as it really collides, about the centre of mass.

    Parameters
    ----------
    shape : the shape
    offset : (3,) centre of mass in the body's axes [m]
    """
    body_of = shape.outline()
    at = np.array(shape.position) - offset
    return ShapeInfo(shape.name, shape.shown_size, tuple(at.tolist()), normalised(shape.orientation), shape.contact_margin,  # type: ignore[arg-type]
                        None if body_of is None else body_of.vertices, () if body_of is None else body_of.loops)
