"""Shadows: the outline of a body from above, laid along gravity onto the face below it, softer the higher it is."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from yapa.desktop.bench.stage.camera import View
from yapa.desktop.bench.stage.outlines import outline
from yapa.motion import Array, Motion
from yapa.session.building.picking import hits_along

MAX_SHADOWS = 40
"""bodies that have one"""
LAYERS = ((1.12, 0.25), (1.0, 0.6), (0.86, 1.1))
"""size of each layer, and how dark it is; each lies over the one before"""
FROM_ABOVE = View((0.0, 0.0, 0.0), 1.0, 0.0, 1.5707)
LIGHT, INTENSITY = (-0.5, -0.9, 1.6), 0.6
"""where the light of the stage comes from, and how strong it is"""
AMBIENT, DIFFUSE = 0.62, 0.7
"""of what is lit"""
LIFT = 2e-3
"""of the shadow's size: how far it lies above its face"""


@dataclass(frozen=True)
class Shadow:
    """A polygon (N, 3) on a face of a body, by its row, how dark it is, and how light that face is without it."""

    points: Array
    darkness: float
    on: int
    lit: float = 1.0


def lit(normal: Array) -> float:
    """How light a face is, of its own tone."""
    towards = np.array(LIGHT) / np.linalg.norm(LIGHT)
    return min(AMBIENT + DIFFUSE * INTENSITY * max(float(normal @ towards), 0.0), 1.0)


class Shade:
    """The shadows that were laid last: they are found anew where something moved."""

    def __init__(self) -> None:
        self._bodies: tuple[object, ...] = ()
        self._key: tuple[object, ...] = ()
        self._found: list[Shadow] = []

    def of(self, motion: Motion, states: Array, hidden: Collection[int] = ()) -> list[Shadow]:
        """The shadows at these states (n, 16)."""
        key = states[:, :7].tobytes(), frozenset(hidden)
        if motion.bodies is not self._bodies or key != self._key:
            self._bodies, self._key, self._found = motion.bodies, key, shadows(motion, states, hidden)
        return self._found


def shadows(motion: Motion, states: Array, hidden: Collection[int] = ()) -> list[Shadow]:
    """The shadows of everything that moves, at these states (n, 16)."""
    out: list[Shadow] = []
    down = np.array([0.0, 0.0, -1.0])
    moving = [k for k, info in enumerate(motion.bodies) if info.is_movable and k not in hidden][:MAX_SHADOWS]
    for k in moving:
        others = [i for i in range(len(states)) if i != k and i not in hidden]
        hits = hits_along(tuple(motion.bodies[i] for i in others), states[others], states[k, :3], down)
        if not hits or hits[0].normal[2] < 0.2:
            continue
        face = hits[0]
        on = motion.names.index(face.body)
        for shape in motion.bodies[k].shapes:
            seen = outline(shape, states[k], FROM_ABOVE)
            if len(seen) < 3:
                continue
            middle = seen.mean(axis=0)
            size = float(np.ptp(seen[:, :2], axis=0).max())
            height = max(float(states[k, 2] - face.point[2]), 0.0)
            soft = 1.0 + 0.5 * min(height / max(size, 1e-9), 2.0)
            for order, (scale, part) in enumerate(LAYERS, start=1):
                points = middle + (1.0 + (scale - 1.0) * soft * 1.5) * (seen - middle)
                flat = points[:, :2] - face.point[:2]
                points[:, 2] = face.point[2] - flat @ face.normal[:2] / face.normal[2] + order * LIFT * size
                out.append(Shadow(points, part / soft, on, 1.0 if motion.bodies[on].kind == "plane" else lit(face.normal)))
    return out
