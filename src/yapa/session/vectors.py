"""What can be shown of a motion beside its picture: arrows and points at one time, a row of the registry each."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from yapa.case.rotations import rotation_matrix_of
from yapa.motion import Array, Motion

SPAN = 0.1
"""s of travel that an arrow of velocity is long"""
RECENT = 0.15
"""s for which a contact is shown after it happened"""
LONGEST = 0.25
"""m of the arrow of the hardest contact"""
STROKE = 0.1
"""m of an arrow that only points"""


@dataclass(frozen=True)
class Arrow:
    """An arrow in the scene; without a length it is a point.

    Attributes
    ----------
    body : whose it is
    place : (3,) where it begins [m]
    vector : (3,) from there [m]
    words : what is written at its tip
    dashes : how its line is drawn, told apart without a colour: 0 solid, 1 dashed, 2 dotted
    """

    body: str
    place: Array
    vector: Array
    words: str = ""
    dashes: int = 0


@dataclass(frozen=True)
class Vectors:
    """One thing that can be shown: how it is called, what it means, and its arrows at a time [s] of a motion."""

    name: str
    meaning: str
    make: Callable[[Motion, float], Iterator[Arrow]]


def _when(time: float) -> Array:
    return np.array([time])


def _velocities(motion: Motion, time: float) -> Iterator[Arrow]:
    for name in motion.dynamic_bodies():
        path = motion.trajectory(name)
        v = path.velocity(_when(time))[0]
        speed = float(np.linalg.norm(v))
        if speed > 1e-3:
            yield Arrow(name, path.position(_when(time))[0], SPAN * v, f"{speed:.3g} m/s")


def _centres(motion: Motion, time: float) -> Iterator[Arrow]:
    for name in motion.dynamic_bodies():
        yield Arrow(name, motion.trajectory(name).position(_when(time))[0], np.zeros(3))


def _axes(motion: Motion, time: float) -> Iterator[Arrow]:
    row = int(np.clip(np.searchsorted(motion.times, time), 0, len(motion.times) - 1))
    for k, name in enumerate(motion.names):
        if motion.bodies[k].kind != "plane":
            state = motion.states[row, k]
            turn = rotation_matrix_of(state[3:7])
            reach = 1.3 * motion.bodies[k].bounding_radius
            for axis, letter in enumerate("xyz"):
                yield Arrow(name, state[:3], reach * turn[:, axis], letter, axis)


def _normals(motion: Motion, time: float) -> Iterator[Arrow]:
    for c in motion.contacts:
        if 0 <= time - c.time <= RECENT:
            yield Arrow(c.body, c.point, STROKE * np.asarray(c.normal))
    for name in motion.dynamic_bodies():
        for held in motion.contact_intervals_of(name):
            if held.body == name and held.start <= time <= held.end:
                centre = motion.trajectory(name).position(_when(time))[0]
                yield Arrow(name, centre, STROKE * np.asarray(held.normal), str(held.mode), 1)


def _impulses(motion: Motion, time: float) -> Iterator[Arrow]:
    top = max((c.normal_impulse or 0.0 for c in motion.contacts), default=0.0)
    for c in motion.contacts:
        if c.normal_impulse and 0 <= time - c.time <= RECENT:
            yield Arrow(c.body, c.point, LONGEST * c.normal_impulse / top * np.asarray(c.normal), f"{c.normal_impulse:.3g} N s")


def _facing(motion: Motion, time: float) -> Iterator[Arrow]:
    for body in motion.bodies:
        if body.kind == "plane":
            yield Arrow(body.name, np.array(body.position), STROKE * np.array(body.half_extents), body.name)


VECTORS: tuple[Vectors, ...] = (
    Vectors("velocity", "How fast and where to: as long as it goes in 0.1 s", _velocities),
    Vectors("centre of mass", "The point that a free body turns about", _centres),
    Vectors("axes", "The body's own axes: x solid, y dashed, z dotted", _axes),
    Vectors("contact normals", "Across the face, of contacts of the last 0.15 s and of those that hold", _normals),
    Vectors("impulses", "How hard contacts of the last 0.15 s were, the hardest of the clip 25 cm long", _impulses),
    Vectors("facing", "The side of each endless plane that bodies are on", _facing),
)
"""Everything that can be shown, in the order of the ticks."""
