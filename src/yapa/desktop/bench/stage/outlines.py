"""The outline of a shape as it is seen: the hull of its projected points, in places of the world."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case.rotations import rotation_matrix_of
from yapa.desktop.bench.stage.camera import View
from yapa.motion import Array, Motion, ShapeInfo

EMPTY = np.array([[-0.8, 0.0, -0.1], [0.8, 0.0, 0.9]])
"""what is seen where nothing has a size [m]"""
RING = np.linspace(0, 2 * np.pi, 33)[:-1]


def _turned(q: Array, points: Array) -> Array:
    return np.asarray(points @ rotation_matrix_of(q.tolist()).T)


def outline(shape: ShapeInfo, state: Array, view: View) -> Array:
    """Return places (N, 3) whose pixels go around a shape once."""
    right, up, _ = view.axes()
    away = np.array([shape.position])
    centre = state[:3] + (_turned(state[3:7], away)[0] if away.any() else 0.0)
    if shape.kind == "sphere":
        return np.asarray(centre + shape.size[0] * (np.outer(np.cos(RING), right) + np.outer(np.sin(RING), up)))
    own = _turned(state[3:7], _turned(np.array(shape.orientation), _points(shape))) + centre
    if shape.kind == "capsule":  # balls at both ends
        ring = shape.size[0] * (np.outer(np.cos(RING), right) + np.outer(np.sin(RING), up))
        own = np.concatenate([end + ring for end in (own[: len(RING)].mean(axis=0), own[len(RING) :].mean(axis=0))])
    from scipy.spatial import ConvexHull, QhullError  # takes longer to import than a picture to draw

    flat = np.column_stack([own @ right, own @ up])
    try:
        return np.asarray(own[ConvexHull(flat).vertices])
    except QhullError:  # seen edge-on
        k = np.argsort(flat @ np.ones(2))
        return np.asarray(own[[k[0], k[-1]]])


def _points(shape: ShapeInfo) -> Array:
    if shape.vertices is not None:
        return shape.vertices
    if shape.kind == "box":
        half = np.array(shape.size) / 2
        return np.array([[half[c] if k >> c & 1 else -half[c] for c in range(3)] for k in range(8)])
    if shape.kind == "plane":
        return np.zeros((1, 3))
    ring = shape.size[0] * np.column_stack([np.cos(RING), np.sin(RING), np.zeros(len(RING))])
    return np.concatenate([ring + [0, 0, s * shape.size[1] / 2] for s in (-1, 1)])


def scene_points(motion: Motion, measured: Sequence[Array], view: View) -> tuple[Array, float]:
    """Return places (N, 3) that a picture of a scene should hold, and how far the largest body reaches [m]."""
    reach = max((a.bounding_radius for a in motion.bodies if a.is_movable and a.bounding_radius > 0), default=0.1)
    points = [motion.states[:, motion.names.index(n), :3] for n in motion.names if motion.body(n).is_movable]
    points += [x[np.isfinite(x).all(axis=1)] for x in measured]
    for k, a in enumerate(motion.bodies):
        if not a.is_movable and a.kind != "plane":
            points += [outline(shape, motion.states[0, k], view) for shape in a.shapes]
    return (np.concatenate(points) if points else EMPTY), reach
