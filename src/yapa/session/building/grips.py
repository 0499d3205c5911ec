"""Grips of a body: what the hand can take of it on the stage, where each is, along what it moves, and the number it stands for.

They are those of the start: where a body stands at t = 0.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yapa.case import Body
from yapa.case.rotations import rotation_matrix_of
from yapa.motion import Array
from yapa.session.building.gestures.launch import ARROW_SECONDS
from yapa.session.building.placing import place_of, reach_towards
from yapa.session.building.scene_edits import start_velocity
from yapa.session.building.stock import is_endless

STEM = 30.0
"""pixels from a body to its grips for lifting and turning"""
ARROW = 34.0
"""pixels of the arrow of a body at rest"""
LOOKED_ALONG = 0.94
"""cosine between a grip's way and the line of sight: beyond it the grip is not shown"""
BOX_EDGES = (("length", "size.x"), ("depth", "size.y"), ("height", "size.z"))


@dataclass(frozen=True)
class Grip:
    """Something of a body that the hand can take.

    Attributes
    ----------
    name : as it is called on the screen
    gesture : what a drag of it does
    place : (3,) where it is [m]
    foot : (3,) where it hangs on the body [m]
    axis : (3,) along which it moves, or about which it turns
    part : the number it changes, as in the body's path; empty for the launch arrow
    """

    name: str
    gesture: str
    place: Array
    foot: Array
    axis: Array
    part: str = ""


def grips_of(body: Body, right: Array, eye: Array, pixel: float) -> list[Grip]:
    """Return the grips of a body as it starts, in the order in which Tab walks them.

    Parameters
    ----------
    body : the body
    right, eye : (3,) of the picture, and towards the eye
    pixel : of how many metres a pixel is
    """
    found = [*_launch(body, right, pixel), *_lift(body, pixel), *_turn(body, right, eye, pixel), *_sizes(body)]
    return [grip for grip in found if grip.gesture in ("launch", "turn") or abs(grip.axis @ eye) < LOOKED_ALONG]


def _launch(body: Body, right: Array, pixel: float) -> Iterator[Grip]:
    if body.motion == "dynamic":
        foot, v = np.array(place_of(body)), ARROW_SECONDS * start_velocity(body)
        long = float(np.linalg.norm(v)) > 4 * pixel
        way = v / np.linalg.norm(v) if long else right
        yield Grip("launch", "launch", foot + (v if long else ARROW * pixel * right), foot, way)


def _lift(body: Body, pixel: float) -> Iterator[Grip]:
    if not is_endless(body):
        z = np.array([0.0, 0.0, 1.0])
        top = np.array(place_of(body)) + reach_towards(body, z) * z
        yield Grip("lift", "lift", top + STEM * pixel * z, top, z, "position.z")


def _turn(body: Body, right: Array, eye: Array, pixel: float) -> Iterator[Grip]:
    """About the axis of the world that one looks along most nearly, so that the grip goes around in the picture."""
    k = int(np.argmax(np.abs(eye)))
    axis = np.eye(3)[k]
    out = right - (right @ axis) * axis
    out = out / np.linalg.norm(out)
    centre = np.array(place_of(body))
    edge = centre if is_endless(body) else centre - reach_towards(body, -out) * out
    yield Grip("turn", "turn", edge - STEM * pixel * out, edge, axis, f"tilt.{'xyz'[k]}")


def _sizes(body: Body) -> Iterator[Grip]:
    if is_endless(body):
        return
    z, centre, shape = np.array([0.0, 0.0, 1.0]), np.array(place_of(body)), body.shapes[0]
    axes = rotation_matrix_of(body.orientation) @ rotation_matrix_of(shape.orientation)
    if len(body.shapes) > 1 or not shape.sizes:
        top = centre + reach_towards(body, z) * z
        yield Grip("size over all", "size", top, top, z, "size")
        return
    if shape.sizes == ("radius",):
        top = centre + reach_towards(body, z) * z
        yield Grip("radius", "size", top, top, z, "radius")
        return
    edges = BOX_EDGES if shape.kind == "box" else (("radius", "radius"), (None, None), ("length", "length"))
    for k, (name, part) in enumerate(edges):
        if name is None or part is None:
            continue
        for side in (1.0, -1.0):
            axis = side * axes[:, k]
            face = centre + reach_towards(body, axis) * axis
            yield Grip(name if side > 0 else f"{name}, other end", "size", face, face, axis, part)
