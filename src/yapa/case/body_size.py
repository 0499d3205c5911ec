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
    spans = [np.add.outer((-1.0, 1.0), np.zeros(3)) * _half(shape) + _centre(shape) for shape in body.shapes]
    return float((np.max([s[1] for s in spans], axis=0) - np.min([s[0] for s in spans], axis=0)).max())


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


def _points(shape: Hull) -> Array:
    return np.asarray(np.array(shape.points) @ rotation_matrix_of(shape.orientation).T)


def _centre(shape: Posed) -> Array:
    """Middle of the edges of a shape along the body's axes."""
    if isinstance(shape, Hull):
        points = _points(shape)
        return np.asarray(0.5 * (points.max(axis=0) + points.min(axis=0)) + shape.position)
    return np.array(shape.position)


def _half(shape: Posed) -> Array:
    """Half its edges along the body's axes."""
    if isinstance(shape, Hull):
        return np.asarray(0.5 * np.ptp(_points(shape), axis=0))
    turned = rotation_matrix_of(shape.orientation)
    if isinstance(shape, Box):
        return np.asarray(np.abs(turned) @ (0.5 * np.array(shape.size)))
    radius, length = getattr(shape, "radius", 0.0), getattr(shape, "length", 0.0)
    along = np.abs(turned[:, 2])
    if isinstance(shape, Cylinder):
        return np.asarray(radius * np.sqrt(np.maximum(1.0 - along**2, 0.0)) + 0.5 * length * along)
    return np.asarray(radius + 0.5 * length * along)
