"""What the host needs to know of a shape: its polytope, extent, drag area, and how it is shown."""

from __future__ import annotations

from functools import lru_cache
from math import pi, sqrt

import numpy as np

from yapa.case.scene import Box, Capsule, Cylinder, Hull, Plane, Posed, Sphere
from yapa.engine.compile.mass_properties import Polytope, polytope_of_box, polytope_of_cylinder, polytope_of_points, solid_of
from yapa.motion import Array, ShapeInfo


def normalised(v: tuple[float, ...]) -> tuple[float, ...]:
    """Return a vector of length one.

    Parameters
    ----------
    v : a vector that is not zero
    """
    n = sqrt(sum(c * c for c in v))
    return tuple(c / n for c in v)


def polytope_of(shape: Posed) -> Polytope | None:
    """Return vertices and faces of a shape in its own axes, where it has any; of equal shapes the same.

    Parameters
    ----------
    shape : the shape
    """
    if isinstance(shape, Box):
        return _of_box(shape.size)
    if isinstance(shape, Cylinder):
        return _of_cylinder(shape.radius, shape.length)
    return polytope_of_points(shape.points) if isinstance(shape, Hull) else None


@lru_cache(maxsize=4096)
def _of_box(size: tuple[float, float, float]) -> Polytope:
    return polytope_of_box(np.array(size) / 2)


@lru_cache(maxsize=512)
def _of_cylinder(radius: float, length: float) -> Polytope:
    return polytope_of_cylinder(radius, length)


def extent_of(shape: Posed) -> tuple[float, ...]:
    """Return radius, half edges or normal of a body's first shape.

    Parameters
    ----------
    shape : the shape
    """
    if isinstance(shape, Sphere | Capsule | Cylinder):
        return (shape.radius,) * 3
    if isinstance(shape, Box):
        return tuple(e / 2 for e in shape.size)
    if isinstance(shape, Plane):
        return normalised(shape.normal)
    assert isinstance(shape, Hull)
    return tuple((np.ptp(np.array(shape.points), axis=0) / 2).tolist())


def drag_area(shapes: list[Posed]) -> float:
    """Return πr² for a sphere, a quarter of the surface for other convex shapes (the mean of their shadows).

    Parameters
    ----------
    shapes : shapes of the body
    """
    if len(shapes) == 1 and isinstance(shapes[0], Sphere):
        return pi * shapes[0].radius ** 2
    return sum(solid_of(shape, True).measure for shape in shapes) / 4


def shape_info(shape: Posed, offset: Array) -> ShapeInfo:
    """Return what the stage draws of a shape: its outline as it really collides, about the centre of mass.

    Parameters
    ----------
    shape : the shape
    offset : (3,) centre of mass in the body's axes [m]
    """
    body_of = polytope_of_points(shape.points) if isinstance(shape, Hull) else None
    if isinstance(shape, Sphere):
        size: tuple[float, ...] = (shape.radius,)
    elif isinstance(shape, Capsule | Cylinder):
        size = (shape.radius, shape.length)
    elif isinstance(shape, Box):
        size = shape.size
    else:
        size = tuple(normalised(shape.normal)) if isinstance(shape, Plane) else ()
    at = np.array(shape.position) - offset
    return ShapeInfo(shape.kind, tuple(size), tuple(at.tolist()), normalised(shape.orientation), shape.contact_margin,  # type: ignore[arg-type, attr-defined]
                        None if body_of is None else body_of.vertices, () if body_of is None else body_of.loops)
