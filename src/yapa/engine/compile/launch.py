"""How a body starts: its velocity, given by components, a direction or angles, and its spin, given or that of a natural roll.

A ball of radius r that rolls at velocity v on a support with outward normal n turns at ω = n × v / r.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import numpy as np

from yapa.case.launch_angles import parts_of
from yapa.case.rotations import normalised
from yapa.case.scene import Body, Direction, LaunchAngles, NaturalRoll
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.errors import Unsupported
from yapa.motion import Array

if TYPE_CHECKING:
    from yapa.engine.compile.scene import CompiledScene

_UPRIGHT = (1.0, 0.0, 0.0, 0.0)


def rolls_on(body: Body) -> str | None:
    """Return the support on which the spin of a body is that of a natural roll, None where its spin is given.

    Parameters
    ----------
    body : the body
    """
    return body.angular_velocity.rolling_on if isinstance(body.angular_velocity, NaturalRoll) else None


def launch_body(scene: CompiledScene, i: int, num: Mapping[str, float], S: Array) -> None:
    """Write the start velocity and spin of a body.

    Parameters
    ----------
    scene : the compiled scene
    i : index of the body
    num : path → value of every number
    S : (n, 16) states of the bodies
    """
    body, paths = scene.bodies[i], scene.paths_of[i]
    S[i, 7:10] = velocity = _velocity(scene, i, body, paths, num)
    S[i, 10:13] = _spin(scene, body, paths, num, velocity)


def _velocity(scene: CompiledScene, i: int, body: Body, paths: dict[str, Any], num: Mapping[str, float]) -> list[float]:
    if isinstance(body.velocity, Direction):
        velocity = [num[paths["speed"]] * c for c in normalised(body.velocity.direction)]
    elif isinstance(body.velocity, LaunchAngles):
        speed, up, around = num[paths["speed"]], num[paths["elevation"]], num[paths["azimuth"]]
        velocity = parts_of(speed, up, around)
        if body.velocity.axes == "body":
            velocity = (rotation_matrix(scene.orientation_at(i, num)) @ np.array(velocity)).tolist()
    else:
        velocity = [num[key] for key in paths["velocity"]]
    return [0.0 if axis in body.locked_axes else v for axis, v in zip("xyz", velocity, strict=True)]


def _spin(scene: CompiledScene, body: Body, paths: dict[str, Any], num: Mapping[str, float], v: list[float]) -> list[float]:
    if not isinstance(body.angular_velocity, NaturalRoll):
        spin = [num[key] for key in paths["angular_velocity"]]
    else:
        where = paths["angular_velocity"][0][:-2]
        if not body.shapes[0].rolls:
            raise Unsupported(f"{where}: natural roll needs a sphere, a capsule or a cylinder")
        n, r = _normal(scene, body.angular_velocity.rolling_on, num, where), num[paths["radius"]]
        spin = [(n[1] * v[2] - n[2] * v[1]) / r, (n[2] * v[0] - n[0] * v[2]) / r, (n[0] * v[1] - n[1] * v[0]) / r]
    return [0.0 if f"rotation_{axis}" in body.locked_axes else w for axis, w in zip("xyz", spin, strict=True)]


def _normal(scene: CompiledScene, support: str, num: Mapping[str, float], where: str) -> tuple[float, ...]:
    """The outward normal of a support in the world: of a plane, or of the face with corners that looks up most."""
    j = scene.names.index(support)
    shape, turned = scene.bodies[j].shapes[0], scene.orientation_at(j, num)
    normal, solid = shape.dimensions().normal, shape.polytope()
    if normal is not None and tuple(turned) == _UPRIGHT and shape.orientation == _UPRIGHT:
        return normal
    if shape.has_faces:
        turn = rotation_matrix(turned) @ rotation_matrix(normalised(shape.orientation))
        faces = [np.array(normal)] if normal is not None or solid is None else list(solid.planes[:, :3])
        return tuple(max((turn @ face for face in faces), key=lambda face: face[2]).tolist())
    raise Unsupported(f"{where}: natural roll on {support}, a {shape.kind}; it needs a plane, a box or a hull")
