"""What values of numbers change in a compiled case, and writing them: planned once for a set of paths, done every run.

A fit changes the same few numbers thousands of times. Most of them are single entries: a component of a start velocity,
of a spin or a place, a number of a law. Only what is more than that is worked out again from the body's own model.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.rotations import normalised
from yapa.case.scene import NaturalRoll
from yapa.engine.compile.launch import launch_body
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.compile.pair_materials import Source
from yapa.engine.compile.scene import CompiledScene
from yapa.engine.kernels import layout as L
from yapa.motion import Array

BRAKES = ("linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")
COLUMN = {"position": 0, "velocity": 7, "angular_velocity": 10}
LOCKED = {"velocity": "{}", "angular_velocity": "rotation_{}"}


@dataclass(frozen=True)
class UpdatePlan:
    """What a set of paths touches.

    Attributes
    ----------
    single : path, row and column of the state, of what is one entry of it
    bodies : rows to fill again from the model; ``launched``, ``placed`` and ``braked`` need only that much
    cells : of laws
    fields : whether gravity or wind change
    """

    scalar_entries: list[tuple[str, int, int]]
    bodies: list[int]
    initial_velocities: list[int]
    positions: list[int]
    drag_terms: list[int]
    material_entries: list[tuple[int, int, Source]]
    fields: bool
    changes_geometry: bool
    moves_static: bool

    @cached_property
    def in_place(self) -> bool:
        """Whether every body starts where it does in the case."""
        return not (self.bodies or self.positions) and all(column > 2 for _, _, column in self.scalar_entries)

    @cached_property
    def simple(self) -> bool:
        """Whether single entries are all."""
        return not (self.bodies or self.initial_velocities or self.positions
                    or self.drag_terms or self.material_entries or self.fields)


def update_plan_of(scene: CompiledScene, paths: tuple[str, ...]) -> UpdatePlan:
    """Return what these paths touch in a scene.

    Parameters
    ----------
    scene : the compiled scene
    paths : paths of numbers
    """
    touched = {path: scene.affected_rows(path) for path in paths}
    rows = {path: found for path in paths if (found := _single(scene, path)) is not None}
    launches = {path for path in paths if _only_launches(path)}
    places = {path for path in paths if _only_places(scene, path)}
    brakes = {path for path in paths if parse_path(path).quantity in BRAKES}
    bodies = sorted({i for path in paths if path not in launches | brakes | places for i in touched[path][0]})
    single = [(path, *at) for path, at in rows.items() if at[0] not in bodies]
    done = {path for path, _, _ in single}
    return UpdatePlan(
        single, bodies,
        sorted({touched[path][0][0] for path in launches - done} - set(bodies)),
        sorted({touched[path][0][0] for path in places - done} - set(bodies)),
        sorted({touched[path][0][0] for path in brakes if touched[path][0]} - set(bodies)),
        scene.materials.entries_affected_by(paths),
        any(not (touched[path][0] or touched[path][1]) for path in paths),
        any(touched[path][2] for path in paths) or any(len(scene.bodies[i].shapes) > 1 for i in bodies),
        not set(bodies).isdisjoint(scene.resting))


def write_updates(scene: CompiledScene, plan: UpdatePlan, num: Mapping[str, float], S: Array, P: Array) -> None:
    """Start velocities, places and brakes that a plan touches, from numbers.

    Parameters
    ----------
    scene : the compiled scene
    plan : which entries change
    num : path → value of every number
    S : (n, 16) states of the bodies
    P : (n, columns) properties of the bodies
    """
    for i in plan.initial_velocities:
        launch_body(scene, i, num, S)
    for i in plan.positions:
        place_body(scene, i, num, S)
    for i in plan.drag_terms:
        brake_body(scene, i, num, P)


def _single(scene: CompiledScene, path: str) -> tuple[int, int] | None:
    """Row and column of the state where a path's value stands as it is, if there is one and nothing else depends on it."""
    parts = parse_path(path)
    if parts.section != "bodies" or not parts.axis or parts.quantity not in COLUMN:
        return None
    i = scene.names.index(parts.owner)
    body = scene.bodies[i]
    if body.motion != "dynamic" or not isinstance(body.velocity, tuple) or isinstance(body.angular_velocity, NaturalRoll):
        return None
    if parts.quantity in LOCKED and LOCKED[parts.quantity].format(parts.axis) in body.locked_axes:
        return None
    if parts.quantity == "position" and (not _only_places(scene, path) or scene.geometry.offsets[i].any()):
        return None
    return i, COLUMN[parts.quantity] + "xyz".index(parts.axis)


def _only_launches(path: str) -> bool:
    """Whether a path is a start velocity or spin of a body and touches nothing else."""
    return parse_path(path).quantity in ("velocity", "angular_velocity", "speed", "elevation", "azimuth")


def _only_places(scene: CompiledScene, path: str) -> bool:
    """Whether a path is a start place of a moving body under which nothing is laid."""
    parts = parse_path(path)
    if parts.section != "bodies" or parts.quantity != "position":
        return False
    i = scene.names.index(parts.owner)
    return i in scene.force_driven and not any(body.placed_under == parts.owner for body in scene.bodies)


def place_body(scene: CompiledScene, i: int, num: Mapping[str, float], S: Array) -> None:
    """Where a body starts; its centre of mass stays where it is in the body.

    Parameters
    ----------
    scene : the compiled scene
    i : index of the body
    num : path → value of every number
    S : (n, 16) states of the bodies
    """
    body = scene.bodies[i]
    q = np.array(normalised(body.keyframes[0].orientation if body.keyframes else body.orientation))
    S[i, 0:3] = [num[key] for key in scene.paths_of[i]["position"]]
    S[i, 0:3] += rotation_matrix(q) @ scene.geometry.offsets[i]


def brake_body(scene: CompiledScene, i: int, num: Mapping[str, float], P: Array) -> None:
    """Damping, drag and the pull of gravity of a body that forces move.

    Parameters
    ----------
    scene : the compiled scene
    i : index of the body
    num : path → value of every number
    P : (n, columns) properties of the bodies
    """
    if scene.bodies[i].motion != "dynamic":
        return
    paths = scene.paths_of[i]
    P[i, L.body.LIN_DAMP], P[i, L.body.ANG_DAMP] = num[paths["linear_damping"]], num[paths["angular_damping"]]
    P[i, L.body.GRAVITY] = num[paths["gravity_multiplier"]]
    P[i, L.body.DRAG] = 0.5 * num["air.density"] * num[paths["drag_coefficient"]] * scene.drag_areas[i]
