"""The size of a body as one number: its longest edge over all its shapes, along its own axes; changing it scales them all alike."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt

from yapa.case.rotations import rotation_matrix_of
from yapa.case.scene import Body

Array = npt.NDArray[np.float64]
LENGTHS = ("position", "radius", "length", "size", "points")
"""what is scaled of a shape, by its keys"""


def overall_size(body: Body) -> float | None:
    """Return the longest edge of a body over all its shapes [m]; None where it has none, as a plane.

    Parameters
    ----------
    body : the body
    """
    if any(shape.is_endless for shape in body.shapes):
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
    return max(float(np.dot(shape.position, direction)) + shape.reach(rotation_matrix_of(shape.orientation).T @ direction)
               for shape in body.shapes)


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
