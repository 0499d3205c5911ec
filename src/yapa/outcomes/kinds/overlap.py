"""How deep a body goes into another at worst, at the samples of the motion.

Against a plane with normal n through p, a shape reaches h(−n) from its centre against n, h its support function:

    sphere r;   capsule r + ½ l |n·u|;   cylinder r √(1 - (n·u)²) + ½ l |n·u|;   box Σ ½ e_i |n·a_i|;   hull max(−n·v)

and its overlap is h − (c − p)·n. Two spheres overlap by r₁ + r₂ − |c₁ − c₂|. Below zero nothing touches: it is then the nearest
gap, with a minus. Between other shapes it is not told. On a track the sizes are those that were told, and the noise is in the
answer.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from yapa.motion import Array, Motion, ShapeInfo
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event

if TYPE_CHECKING:
    from scipy.spatial.transform import Rotation


@outcome("overlap", "m", "how deep it goes into another body at worst; below zero the nearest gap", optional=("partner",))
def overlap(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Deepest overlap [m] with a partner, or with any body it is told of."""
    others = [query.partner] if query.partner else [n for n in motion.names if n != body]
    found = [d for name in others if name in motion.names and (d := _deepest(motion, body, str(name))) is not None]
    if not found:
        return missing_event("its overlap is told only with planes, and between spheres", 0.0, 0.0)
    return OutcomeValue(max(found), 3 * motion.noise)


def _deepest(motion: Motion, one: str, two: str) -> float | None:
    """Deepest overlap of any two shapes of two bodies; None where no pair of them is told."""
    worst: float | None = None
    for a in motion.body(one).shapes:
        for b in motion.body(two).shapes:
            deep = _pair(motion, (one, a), (two, b))
            if deep is not None:
                worst = deep if worst is None else max(worst, deep)
    return worst


def _pair(motion: Motion, one: tuple[str, ShapeInfo], two: tuple[str, ShapeInfo]) -> float | None:
    if one[1].kind == "plane" and two[1].kind != "plane":
        return _pair(motion, two, one)
    (a, shape), (b, other) = one, two
    clear = shape.contact_margin + other.contact_margin
    ca, _ = posed(motion, a, shape)
    cb, turned = posed(motion, b, other)
    if other.kind == "plane" and shape.kind != "plane":
        n = turned.apply(np.array(other.size))
        return float((reach(motion, a, shape, n) - ((ca - cb) * n).sum(axis=1)).max()) + clear
    if shape.kind == other.kind == "sphere":
        return float((shape.size[0] + other.size[0] - np.linalg.norm(ca - cb, axis=1)).max()) + clear
    return None


def posed(motion: Motion, body: str, shape: ShapeInfo) -> tuple[Array, Rotation]:
    """Return the centre of a shape at every sample (T, 3), and how it is turned there.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    shape : one of its shapes
    """
    from scipy.spatial.transform import Rotation

    states = motion.outcome_samples[1][:, motion.names.index(body)]
    rotation = Rotation.from_quat(states[:, 3:7], scalar_first=True)
    place = states[:, :3] + rotation.apply(np.array(shape.position))
    return place, rotation * Rotation.from_quat(shape.orientation, scalar_first=True)


def reach(motion: Motion, body: str, shape: ShapeInfo, n: Array, row: int | None = None) -> Array:
    """Return how far a shape reaches from its centre against directions [m]: its support function at −n.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    shape : one of its shapes
    n : (T, 3) a direction for every sample, or (N, 3) directions at one sample
    row : that sample
    """
    _, turned = posed(motion, body, shape)
    local = (turned if row is None else turned[row]).inv().apply(n)
    if shape.vertices is not None:
        return np.asarray((-local @ shape.vertices.T).max(axis=1))
    if shape.kind == "sphere":
        return np.full(len(n), shape.size[0])
    if shape.kind == "box":
        return np.asarray(np.abs(local) @ (0.5 * np.array(shape.size)))
    radius, length = shape.size[0], shape.size[1]
    along = np.abs(local[:, 2])
    if shape.kind == "capsule":
        return np.asarray(radius + 0.5 * length * along)
    return np.asarray(radius * np.sqrt(np.maximum(1.0 - along**2, 0.0)) + 0.5 * length * along)
