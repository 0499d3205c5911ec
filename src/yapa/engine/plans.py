"""What values of numbers change in a compiled case, and writing them: planned once for a set of paths, done every run.

A fit changes the same few numbers thousands of times. Most of them are single entries: a component of a start velocity,
of a spin or a place, a number of a law. Only what is more than that is worked out again from the body's own model.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from yapa.case.scene import Body, Capsule, Cylinder, Direction, NaturalRoll, Plane, Sphere
from yapa.engine.kernels import layout as L
from yapa.engine.laws import Source
from yapa.engine.shape_facts import unit
from yapa.engine.solids import turn_matrix
from yapa.errors import Unsupported
from yapa.motion import Array

if TYPE_CHECKING:
    from yapa.engine.program import Program

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


def plan_of(program: Program, paths: tuple[str, ...]) -> Plan:
    """What these paths touch in a program."""
    touched = {path: program.touches(path) for path in paths}
    rows = {path: found for path in paths if (found := _single(program, path)) is not None}
    launches = {path for path in paths if _only_launches(path)}
    places = {path for path in paths if _only_places(program, path)}
    brakes = {path for path in paths if path.split(".")[-1] in BRAKES}
    bodies = sorted({i for path in paths if path not in launches | brakes | places for i in touched[path][0]})
    single = [(path, *at) for path, at in rows.items() if at[0] not in bodies]
    done = {path for path, _, _ in single}
    return Plan(
        single, bodies,
        sorted({touched[path][0][0] for path in launches - done} - set(bodies)),
        sorted({touched[path][0][0] for path in places - done} - set(bodies)),
        sorted({touched[path][0][0] for path in brakes if touched[path][0]} - set(bodies)), program.book.cells_of(paths),
        any(not (touched[path][0] or touched[path][1]) for path in paths),
        any(touched[path][2] for path in paths) or any(len(program.bodies[i].shapes) > 1 for i in bodies),
        not set(bodies).isdisjoint(program.resting))


def write_parts(program: Program, plan: Plan, num: Mapping[str, float], S: Array, P: Array) -> None:
    """Start velocities, places and brakes that a plan touches, from numbers."""
    for i in plan.launched:
        launch_body(program, i, num, S)
    for i in plan.placed:
        place_body(program, i, num, S)
    for i in plan.braked:
        brake_body(program, i, num, P)


def _single(program: Program, path: str) -> tuple[int, int] | None:
    """Row and column of the state where a path's value stands as it is, if there is one and nothing else depends on it."""
    parts = path.split(".")
    if parts[0] != "bodies" or len(parts) != 4 or parts[2] not in COLUMN:
        return None
    i = program.names.index(parts[1])
    body = program.bodies[i]
    if body.motion != "dynamic" or isinstance(body.velocity, Direction) or isinstance(body.spin, NaturalRoll):
        return None
    if parts[2] in LOCKED and LOCKED[parts[2]].format(parts[3]) in body.locked:
        return None
    if parts[2] == "position" and (not _only_places(program, path) or program.geometry.offsets[i].any()):
        return None
    return i, COLUMN[parts[2]] + "xyz".index(parts[3])


def _only_launches(path: str) -> bool:
    """Whether a path is a start velocity or spin of a body and touches nothing else."""
    return ".velocity." in path or ".spin." in path or path.endswith(".speed")


def _only_places(program: Program, path: str) -> bool:
    """Whether a path is a start place of a moving body under which nothing is laid."""
    parts = path.split(".")
    if parts[0] != "bodies" or parts[2] != "position":
        return False
    i = program.names.index(parts[1])
    return i in program.movers and not any(body.under == parts[1] for body in program.bodies)


def place_body(program: Program, i: int, num: Mapping[str, float], S: Array) -> None:
    """Where a body starts; its centre of mass stays where it is in the body."""
    body = program.bodies[i]
    q = np.array(unit(body.path[0].orientation if body.path else body.orientation))
    S[i, 0:3] = [num[key] for key in program.paths_of[i]["position"]]
    S[i, 0:3] += turn_matrix(q) @ program.geometry.offsets[i]


def launch_body(program: Program, i: int, num: Mapping[str, float], S: Array) -> None:
    """Start velocity and spin."""
    body, paths = program.bodies[i], program.paths_of[i]
    S[i, 7:10] = velocity = _velocity(body, paths, num)
    S[i, 10:13] = _spin(program, body, paths, num, velocity)


def brake_body(program: Program, i: int, num: Mapping[str, float], P: Array) -> None:
    """Damping, drag and the pull of gravity of a body that forces move."""
    if program.bodies[i].motion != "dynamic":
        return
    paths = program.paths_of[i]
    P[i, L.LIN_DAMP], P[i, L.ANG_DAMP] = num[paths["linear_damping"]], num[paths["angular_damping"]]
    P[i, L.GRAVITY] = num[paths["gravity_multiplier"]]
    P[i, L.DRAG] = 0.5 * num["air.density"] * num[paths["drag_coefficient"]] * program.drag_areas[i]


def _velocity(body: Body, paths: dict, num: Mapping[str, float]) -> list[float]:
    if isinstance(body.velocity, Direction):
        velocity = [num[paths["speed"]] * c for c in unit(body.velocity.direction)]
    else:
        velocity = [num[key] for key in paths["velocity"]]
    return [0.0 if axis in body.locked else v for axis, v in zip("xyz", velocity, strict=True)]


def _spin(program: Program, body: Body, paths: dict, num: Mapping[str, float], v: list[float]) -> list[float]:
    if not isinstance(body.spin, NaturalRoll):
        spin = [num[key] for key in paths["spin"]]
    else:
        support = program.case.bodies[body.spin.rolls_on].shapes[0]
        if not isinstance(support, Plane) or not isinstance(body.shapes[0], Sphere | Capsule | Cylinder):
            raise Unsupported(f"{paths['spin'][0][:-2]}: natural roll needs a sphere, a capsule or a cylinder on a plane")
        n, r = unit(support.normal), num[paths["radius"]]
        spin = [(n[1] * v[2] - n[2] * v[1]) / r, (n[2] * v[0] - n[0] * v[2]) / r, (n[0] * v[1] - n[1] * v[0]) / r]
    return [0.0 if f"turn {axis}" in body.locked else w for axis, w in zip("xyz", spin, strict=True)]
