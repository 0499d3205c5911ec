"""What the host needs to know of a shape: its polytope, extent, drag area, and how it is shown."""

from __future__ import annotations

from functools import lru_cache
from math import pi, sqrt

import numpy as np

from yapa.case.scene import Box, Capsule, Cylinder, Hull, Plane, Posed, Sphere
from yapa.engine.solids import Polytope, polytope_of_box, polytope_of_cylinder, polytope_of_points, solid_of
from yapa.motion import Array, ShapeAccount


def unit(v: tuple[float, ...]) -> tuple[float, ...]:
    """A vector of length one."""
    n = sqrt(sum(c * c for c in v))
    return tuple(c / n for c in v)


def polytope_of(shape: Posed) -> Polytope | None:
    """Vertices and faces of a shape in its own axes, where it has any; of equal shapes the same."""
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
    """Radius, half edges or normal of a body's first shape."""
    if isinstance(shape, Sphere | Capsule | Cylinder):
        return (shape.radius,) * 3
    if isinstance(shape, Box):
        return tuple(e / 2 for e in shape.size)
    if isinstance(shape, Plane):
        return unit(shape.normal)
    assert isinstance(shape, Hull)
    return tuple((np.ptp(np.array(shape.points), axis=0) / 2).tolist())


def drag_area(shapes: list[Posed]) -> float:
    """πr² for a sphere, a quarter of the surface for other convex shapes (the mean of their shadows)."""
    if len(shapes) == 1 and isinstance(shapes[0], Sphere):
        return pi * shapes[0].radius ** 2
    return sum(solid_of(shape, True).measure for shape in shapes) / 4


def account_of(shape: Posed, offset: Array) -> ShapeAccount:
    """What the stage draws of a shape: its outline as it really collides, about the centre of mass."""
    body_of = polytope_of_points(shape.points) if isinstance(shape, Hull) else None
    size = {
        "sphere": lambda s: (s.radius,), "box": lambda s: s.size, "capsule": lambda s: (s.radius, s.length),
        "cylinder": lambda s: (s.radius, s.length), "hull": lambda s: (), "plane": lambda s: unit(s.normal),
    }[shape.kind](shape)  # type: ignore[attr-defined]
    at = np.array(shape.at) - offset
    return ShapeAccount(shape.kind, tuple(size), tuple(at.tolist()), unit(shape.turned), shape.clearance,  # type: ignore[arg-type, attr-defined]
                        None if body_of is None else body_of.vertices, () if body_of is None else body_of.loops)
