"""What values of numbers change in a compiled case, and writing them: planned once for a set of paths, done every run.

A fit changes the same few numbers thousands of times. Most of them are single entries: a component of a start velocity,
of a spin or a place, a number of a law. Only what is more than that is worked out again from the body's own model.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from yapa.case.scene import Direction, NaturalRoll
from yapa.engine.kernels import layout as L
from yapa.engine.laws import Source
from yapa.engine.scene import CompiledScene, launch_body
from yapa.engine.shape_facts import unit
from yapa.engine.solids import turn_matrix
from yapa.motion import Array

BRAKES = ("linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")
COLUMN = {"position": 0, "velocity": 7, "spin": 10}
LOCKED = {"velocity": "{}", "spin": "turn {}"}


@dataclass(frozen=True)
class Plan:
    """What a set of paths touches.

    Attributes
    ----------
    single : path, row and column of the state, of what is one entry of it
    bodies : rows to fill again from the model; ``launched``, ``placed`` and ``braked`` need only that much
    cells : of laws
    fields : whether gravity or wind change
    """

    single: list[tuple[str, int, int]]
    bodies: list[int]
    launched: list[int]
    placed: list[int]
    braked: list[int]
    cells: list[tuple[int, int, Source]]
    fields: bool
    reshapes: bool
    moves_resting: bool

    @cached_property
    def in_place(self) -> bool:
        """Whether every body starts where it does in the case."""
        return not (self.bodies or self.placed) and all(column > 2 for _, _, column in self.single)

    @cached_property
    def simple(self) -> bool:
        """Whether single entries are all."""
        return not (self.bodies or self.launched or self.placed or self.braked or self.cells or self.fields)


def plan_of(scene: CompiledScene, paths: tuple[str, ...]) -> Plan:
    """What these paths touch in a scene."""
    touched = {path: scene.touches(path) for path in paths}
    rows = {path: found for path in paths if (found := _single(scene, path)) is not None}
    launches = {path for path in paths if _only_launches(path)}
    places = {path for path in paths if _only_places(scene, path)}
    brakes = {path for path in paths if path.split(".")[-1] in BRAKES}
    bodies = sorted({i for path in paths if path not in launches | brakes | places for i in touched[path][0]})
    single = [(path, *at) for path, at in rows.items() if at[0] not in bodies]
    done = {path for path, _, _ in single}
    return Plan(
        single, bodies,
        sorted({touched[path][0][0] for path in launches - done} - set(bodies)),
        sorted({touched[path][0][0] for path in places - done} - set(bodies)),
        sorted({touched[path][0][0] for path in brakes if touched[path][0]} - set(bodies)), scene.book.cells_of(paths),
        any(not (touched[path][0] or touched[path][1]) for path in paths),
        any(touched[path][2] for path in paths) or any(len(scene.bodies[i].shapes) > 1 for i in bodies),
        not set(bodies).isdisjoint(scene.resting))


def write_parts(scene: CompiledScene, plan: Plan, num: Mapping[str, float], S: Array, P: Array) -> None:
    """Start velocities, places and brakes that a plan touches, from numbers."""
    for i in plan.launched:
        launch_body(scene, i, num, S)
    for i in plan.placed:
        place_body(scene, i, num, S)
    for i in plan.braked:
        brake_body(scene, i, num, P)


def _single(scene: CompiledScene, path: str) -> tuple[int, int] | None:
    """Row and column of the state where a path's value stands as it is, if there is one and nothing else depends on it."""
    parts = path.split(".")
    if parts[0] != "bodies" or len(parts) != 4 or parts[2] not in COLUMN:
        return None
    i = scene.names.index(parts[1])
    body = scene.bodies[i]
    if body.motion != "dynamic" or isinstance(body.velocity, Direction) or isinstance(body.spin, NaturalRoll):
        return None
    if parts[2] in LOCKED and LOCKED[parts[2]].format(parts[3]) in body.locked:
        return None
    if parts[2] == "position" and (not _only_places(scene, path) or scene.geometry.offsets[i].any()):
        return None
    return i, COLUMN[parts[2]] + "xyz".index(parts[3])


def _only_launches(path: str) -> bool:
    """Whether a path is a start velocity or spin of a body and touches nothing else."""
    return ".velocity." in path or ".spin." in path or path.endswith(".speed")


def _only_places(scene: CompiledScene, path: str) -> bool:
    """Whether a path is a start place of a moving body under which nothing is laid."""
    parts = path.split(".")
    if parts[0] != "bodies" or parts[2] != "position":
        return False
    i = scene.names.index(parts[1])
    return i in scene.movers and not any(body.under == parts[1] for body in scene.bodies)


def place_body(scene: CompiledScene, i: int, num: Mapping[str, float], S: Array) -> None:
    """Where a body starts; its centre of mass stays where it is in the body."""
    body = scene.bodies[i]
    q = np.array(unit(body.path[0].orientation if body.path else body.orientation))
    S[i, 0:3] = [num[key] for key in scene.paths_of[i]["position"]]
    S[i, 0:3] += turn_matrix(q) @ scene.geometry.offsets[i]





def brake_body(scene: CompiledScene, i: int, num: Mapping[str, float], P: Array) -> None:
    """Damping, drag and the pull of gravity of a body that forces move."""
    if scene.bodies[i].motion != "dynamic":
        return
    paths = scene.paths_of[i]
    P[i, L.LIN_DAMP], P[i, L.ANG_DAMP] = num[paths["linear_damping"]], num[paths["angular_damping"]]
    P[i, L.GRAVITY] = num[paths["gravity_multiplier"]]
    P[i, L.DRAG] = 0.5 * num["air.density"] * num[paths["drag_coefficient"]] * scene.drag_areas[i]
