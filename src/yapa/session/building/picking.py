"""What is under the pointer: the bodies that a ray meets, the nearest first, with the place and the face it meets.

A ray o + t d meets a convex shape of faces n·x ≤ h where t is at least every (h − n·o)/(n·d) of faces it enters and at most those
of faces it leaves; spheres and the sides of cylinders and capsules by their quadratics, in the axes of the shape.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.motion import Array, BodyInfo, Motion, ShapeInfo

PARALLEL = 1e-12
"""of a ray to a face: it never meets it"""


@dataclass(frozen=True)
class Hit:
    """Where a ray meets a body: the distance [m], the place [m] and the outward normal of the face."""

    body: str
    distance: float
    point: Array
    normal: Array


def hits_along(bodies: tuple[BodyInfo, ...], states: Array, origin: Array, direction: Array) -> list[Hit]:
    """Return where a ray meets bodies, the nearest first, one place for each.

    Parameters
    ----------
    bodies : what is known of the bodies
    states : (n, 16) their states
    origin : (3,) where the ray begins [m]
    direction : (3,) unit vector
    """
    out = []
    along = (states[:, :3] - origin) @ direction
    aside = states[:, :3] - origin - along[:, None] * direction
    apart = np.sqrt(np.einsum("ij,ij->i", aside, aside))
    for info, state, away, behind in zip(bodies, states, apart.tolist(), along.tolist(), strict=True):
        if info.kind != "plane" and (away > info.bounding_radius or behind < -info.bounding_radius):
            continue
        found = [hit for shape in info.shapes for hit in _of_shape(info.name, shape, state, origin, direction)]
        if found:
            out.append(min(found, key=lambda hit: hit.distance))
    return sorted(out, key=lambda hit: hit.distance)


def hits_in(motion: Motion, row: int, origin: Array, direction: Array, without: str | None = None) -> list[Hit]:
    """Return where a ray meets the bodies of a motion at one of its samples, the nearest first.

    Parameters
    ----------
    motion : simulated or measured motion
    row : of the sample
    origin : (3,) where the ray begins [m]
    direction : (3,) unit vector
    without : a body that is left out
    """
    kept = [k for k, name in enumerate(motion.names) if name != without]
    return hits_along(tuple(motion.bodies[k] for k in kept), motion.states[row][kept], origin, direction)


def _of_shape(name: str, shape: ShapeInfo, state: Array, origin: Array, direction: Array) -> Iterator[Hit]:
    turned = rotation_matrix(state[3:7])
    axes = turned @ rotation_matrix(np.array(shape.orientation))
    centre = state[:3] + turned @ np.array(shape.position)
    o, d = axes.T @ (origin - centre), axes.T @ direction
    met = _local(shape, o, d)
    if met is not None:
        t, n = met
        yield Hit(name, t, origin + t * direction, axes @ n)


def _local(shape: ShapeInfo, o: Array, d: Array) -> tuple[float, Array] | None:
    """Distance and normal in the axes of a shape; None where the ray misses it."""
    if shape.vertices is not None:
        return _faces(*_faces_of(shape), o, d)
    if shape.kind == "sphere":
        return _ball(o, d, shape.size[0])
    if shape.kind == "plane":
        normal = np.array(shape.size)
        along = float(d @ normal)
        t = -float(o @ normal) / along if along < -PARALLEL else -1.0
        return (t, normal) if t > 0 else None
    if shape.kind == "box":
        return _faces(np.vstack([np.eye(3), -np.eye(3)]), np.tile(np.array(shape.size) / 2, 2), o, d)
    radius, half = shape.size[0], shape.size[1] / 2
    if shape.kind == "cylinder":
        return _round(o, d, radius, half)
    met = [_side(o, d, radius, half)]
    for end in (-half, half):
        met.append(_ball(o - np.array([0.0, 0.0, end]), d, radius))
    found = [one for one in met if one is not None]
    return min(found, key=lambda one: one[0]) if found else None


def _faces(normals: Array, heights: Array, o: Array, d: Array) -> tuple[float, Array] | None:
    along, over = normals @ d, heights - normals @ o
    if bool(((np.abs(along) <= PARALLEL) & (over < 0)).any()):
        return None
    enter, leave = along < -PARALLEL, along > PARALLEL
    if not enter.any():
        return None
    ways = np.full(len(along), -np.inf)
    ways[enter] = over[enter] / along[enter]
    k = int(np.argmax(ways))
    out = float((over[leave] / along[leave]).min()) if leave.any() else np.inf
    return (float(ways[k]), normals[k]) if 0 < ways[k] <= out else None


def _faces_of(shape: ShapeInfo) -> tuple[Array, Array]:
    assert shape.vertices is not None
    return _faces_through(np.ascontiguousarray(shape.vertices, dtype=float).tobytes(), shape.loops)


@lru_cache(maxsize=256)
def _faces_through(places: bytes, loops: tuple[tuple[int, ...], ...]) -> tuple[Array, Array]:
    vertices = np.frombuffer(places).reshape(-1, 3)
    normals, heights = [], []
    for loop in loops:
        a, b, c = (vertices[k] for k in loop[:3])
        n = np.cross(b - a, c - a)
        n = n / np.linalg.norm(n)
        n = n if float((vertices @ n).max()) - float(n @ a) < float(n @ a) - float((vertices @ n).min()) else -n
        normals.append(n)
        heights.append(float(n @ a))
    return np.array(normals), np.array(heights)


def _ball(o: Array, d: Array, radius: float) -> tuple[float, Array] | None:
    b, c = float(o @ d), float(o @ o) - radius**2
    root = b * b - c
    t = -b - np.sqrt(root) if root >= 0 else -1.0
    return (float(t), (o + t * d) / radius) if t > 0 else None


def _side(o: Array, d: Array, radius: float, half: float) -> tuple[float, Array] | None:
    a, b, c = float(d[:2] @ d[:2]), float(o[:2] @ d[:2]), float(o[:2] @ o[:2]) - radius**2
    root = b * b - a * c
    if a <= PARALLEL or root < 0:
        return None
    t = (-b - np.sqrt(root)) / a
    at = o + t * d
    return (float(t), np.array([at[0], at[1], 0.0]) / radius) if t > 0 and abs(at[2]) <= half else None


def _round(o: Array, d: Array, radius: float, half: float) -> tuple[float, Array] | None:
    met = _side(o, d, radius, half)
    if abs(d[2]) > PARALLEL:
        end = -half if d[2] > 0 else half
        t = (end - o[2]) / d[2]
        at = o + t * d
        if t > 0 and at[0] ** 2 + at[1] ** 2 <= radius**2 and (met is None or t < met[0]):
            return float(t), np.array([0.0, 0.0, np.sign(end)])
    return met
