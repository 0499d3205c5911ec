"""The size of a body as one number: its longest edge over all its shapes, along its own axes; changing it scales them all alike."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt

from yapa.case.rotations import rotation_matrix_of
from yapa.case.scene import Body, Box, Cylinder, Hull, Plane, Posed

Array = npt.NDArray[np.float64]
LENGTHS = ("position", "radius", "length", "size", "points")
"""what is scaled of a shape, by its keys"""


def overall_size(body: Body) -> float | None:
    """Return the longest edge of a body over all its shapes [m]; None where it has none, as a plane.

    Parameters
    ----------
    body : the body
    """
    if any(isinstance(shape, Plane) for shape in body.shapes):
        return None
    axes = np.eye(3)
    return float(max(support(body, axis) + support(body, -axis) for axis in axes))


def support(body: Body, direction: Array) -> float:
    """Return how far a body reaches from its origin along a direction of its own axes [m]; infinite for a plane.

    Parameters
    ----------
    body : the body
    direction : (3,) unit vector
    """
    return max(float(np.dot(shape.position, direction)) + _reach(shape, direction) for shape in body.shapes)


def scaled_lengths(shape: Mapping[str, Any], factor: float) -> dict[str, Any]:
    """Return every length of a shape, and its place in the body, multiplied.

    Parameters
    ----------
    shape : fields of the shape and their values
    factor : of the lengths
    """
    return {key: _times(factor, shape[key]) for key in LENGTHS if key in shape}


def _times(factor: float, value: Any) -> Any:
    return type(value)(_times(factor, part) for part in value) if isinstance(value, list | tuple) else factor * value


def _reach(shape: Posed, direction: Array) -> float:
    """The support function of a shape about its own centre."""
    if isinstance(shape, Plane):
        return float("inf")
    local = rotation_matrix_of(shape.orientation).T @ direction
    if isinstance(shape, Hull):
        return float((np.array(shape.points) @ local).max())
    if isinstance(shape, Box):
        return float(np.abs(local) @ (0.5 * np.array(shape.size)))
    radius, length = getattr(shape, "radius", 0.0), getattr(shape, "length", 0.0)
    along = abs(float(local[2]))
    if isinstance(shape, Cylinder):
        return float(radius * np.sqrt(max(1.0 - along**2, 0.0)) + 0.5 * length * along)
    return float(radius + 0.5 * length * along)
