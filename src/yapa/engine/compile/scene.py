"""A case compiled to arrays: what a run starts from, and what each of the case's numbers touches.

Inside, a body's place is its centre of mass and its axes are the principal ones; the geometry's ``offsets`` and ``axes`` lead back.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from yapa.case.body_size import overall_size, scaled_lengths
from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import BODY_SCALARS, get_number, numbers
from yapa.case.rotations import normalised, orientation_of
from yapa.case.scene import Body
from yapa.case.shapes.base import Posed
from yapa.engine.compile.geometry import Geometry
from yapa.engine.compile.launch import launch_body, rolls_on
from yapa.engine.compile.mass_properties import (
    combine_mass,
    principal_axes,
    quaternion_of,
    quaternion_product,
    rotation_matrix,
    solid_of,
)
from yapa.engine.compile.pair_materials import COLUMNS, PairMaterials
from yapa.engine.compile.shape_properties import drag_area, shape_info
from yapa.engine.compile.solver_config import CROWD_STEP, write_config
from yapa.engine.kernels import layout as L
from yapa.engine.kernels.dynamics.forces import registry
from yapa.motion import Array, BodyInfo

MOTIONS = {"static": L.motion_kind.STATIC, "dynamic": L.motion_kind.DYNAMIC, "kinematic": L.motion_kind.KINEMATIC}
LOCKS = {"x": 1, "y": 2, "z": 4, "rotation_x": 8, "rotation_y": 16, "rotation_z": 32}


class CompiledScene:
    """A compiled case.

    Raises
    ------
    Unsupported
        If the case asks for what this engine cannot do.
    """

    def __init__(self, case: Case) -> None:
        self.case = case
        self.names = sorted(case.bodies)  # whatever the order in the file, the sums are the same
        self.bodies = [case.bodies[name] for name in self.names]
        filed = [self.names.index(name) for name in case.bodies]
        self.filed = None if filed == sorted(filed) else np.array(filed)
        """Rows of the bodies in the order of the case, where that is another."""
        self.base = numbers(case)
        self.paths_of = [_keys_of(name) for name in self.names]
        self.force_driven = [i for i, body in enumerate(self.bodies) if _has_mass(body)]
        self.resting = [i for i, body in enumerate(self.bodies) if body.motion == "static"]
        n = len(self.names)
        self.state = np.zeros((n, 16))
        self.props = np.zeros((n, L.body.COUNT + registry.COLUMNS))
        self.materials = PairMaterials(case, self.base)
        self.keys = self._compile_keyframes()
        self._groups = _groups_of(case)
        self.geometry = Geometry.of(self.bodies, self.materials.surfaces)
        self.cfg = np.zeros(L.config.COUNT)
        profile = case.profile
        write_config(profile, self.cfg)
        self._touched: dict[str, tuple[list[int], list[int], bool]] = {}
        self.drag_areas = [drag_area(list(body.shapes)) if body.motion == "dynamic" else 0.0 for body in self.bodies]
        self._fill(self.base, range(n), self.state, self.props, self.cfg, self.geometry)
        self._turned_bodies = [i for i in self.force_driven if self.geometry.axes[i, 0] != 1.0]
        self.stepped = profile.kind == "stepped"
        shapes = len(self.geometry.GI)
        heavy = sum(len(self.bodies[i].shapes) for i in self.force_driven)
        self.pairs = max(heavy * (heavy - 1) // 2 + heavy * (shapes - heavy), 1)
        """Pairs of shapes that may meet: what has no mass never meets its like."""
        self.uses_broad_phase = len(self.force_driven) > 3 and shapes * (shapes - 1) // 2 > 60
        round_only = all(s.is_round or s.is_endless for body in self.bodies for s in body.shapes)
        if profile.kind == "precise" and not (len(self.force_driven) <= 3 and round_only):
            self.cfg[L.config.OUTER] = min(profile.step, CROWD_STEP)

    def meets(self, i: int, j: int) -> bool:
        """Return whether two bodies do not pass through each other by their groups.

        Parameters
        ----------
        i : index of one body
        j : index of the other
        """
        return bool(int(self.props[i, L.body.MEETS]) >> int(self.props[j, L.body.GROUP]) & 1)

    # -- what a path touches -----------------------------------------------------------------

    def affected_rows(self, path: str) -> tuple[list[int], list[int], bool]:
        """Return rows of bodies and of laws that a path's value enters, and whether it changes a shape.

        Parameters
        ----------
        path : path of the number
        """
        if path in self._touched:
            return self._touched[path]
        get_number(self.case, path)
        bodies: list[int] = []
        laws: list[int] = []
        reshapes = False
        parts = parse_path(path)
        if parts.section == "bodies":
            i = self.names.index(parts.owner)
            bodies = [i] + [j for j, body in enumerate(self.bodies) if body.placed_under == parts.owner
                            or (parts.quantity == "tilt" and rolls_on(body) == parts.owner)]
            reshapes = parts.quantity in ("radius", "size", "length")
        elif parts.section in ("surfaces", "pairs"):
            laws = self.materials.rows_of(path)
        elif parts.section == "air" or (parts.section == "constants" and registry.COLUMNS):
            bodies = list(range(len(self.bodies)))
        self._touched[path] = (bodies, laws, reshapes)
        return self._touched[path]

    def pairs_meeting_by(self, path: str) -> list[set[str]]:
        """Return pairs of bodies whose contact a path's value enters.

        Parameters
        ----------
        path : path of the number
        """
        wanted = [set(self.materials.pairs[k]) for k in self.affected_rows(path)[1]]
        out = []
        for i, one in enumerate(self.bodies):
            for j in range(i + 1, len(self.bodies)):
                if any({s.surface, t.surface} in wanted for s in one.shapes for t in self.bodies[j].shapes):
                    out.append({self.names[i], self.names[j]})
        return out

    def law_between(self, one: str, two: str) -> dict[str, float]:
        """Return what happens where two surfaces meet, by quantity.

        Parameters
        ----------
        one : one surface
        two : the other
        """
        return self.law_with({}, one, two)

    def law_with(self, values: Mapping[str, float], one: str, two: str) -> dict[str, float]:
        """Return the same with other values.

        Parameters
        ----------
        values : path → value, SI units
        one : one surface
        two : the other
        """
        rows = self.materials.rows.copy()
        if values:
            self.materials.write(self.materials.entries_affected_by(values), {**self.base, **values}, rows)
        return {quantity: float(rows[self.materials.pairs.index((one, two)), column]) for quantity, column in COLUMNS.items()}

    def surfaces_meeting_by(self, path: str) -> list[tuple[str, str]]:
        """Return pairs of surfaces whose law a path's value enters.

        Parameters
        ----------
        path : path of the number
        """
        return [self.materials.pairs[k] for k in self.affected_rows(path)[1]]

    # -- laying out --------------------------------------------------------------------------

    def _compile_keyframes(self) -> Array:
        rows: list[Array] = []
        self._first_key = [0] * len(self.bodies)
        for i, body in enumerate(self.bodies):
            self._first_key[i] = len(rows)
            keys = list(body.keyframes)
            for k, key in enumerate(keys):
                row = np.zeros(L.key.COUNT)
                q = np.array(normalised(key.orientation))
                row[0], row[1:4], row[4:8] = key.time, key.position, q
                if k + 1 < len(keys):
                    after = keys[k + 1]
                    h = after.time - key.time
                    row[8:11] = (np.array(after.position) - np.array(key.position)) / h
                    d = quaternion_product(np.array(normalised(after.orientation)), q * [1, -1, -1, -1])
                    d = d if d[0] >= 0 else -d
                    size = float(np.linalg.norm(d[1:]))
                    if size > 0:
                        row[11:14] = d[1:] / size * 2 * np.arctan2(size, d[0]) / h
                rows.append(row)
            if keys:  # a last row that never ends, so that a search stops
                rows.append(np.concatenate([[1e300], rows[-1][1:8], np.zeros(6)]))
        return np.array(rows) if rows else np.zeros((1, L.key.COUNT))

    # -- numbers to arrays -------------------------------------------------------------------

    def _fill(
        self, num: Mapping[str, float], bodies: Iterable[int], S: Array, P: Array, cfg: Array, geometry: Geometry,
    ) -> None:
        cfg[L.config.GRAVITY + 2] = -num["gravity"]
        for c, axis in enumerate("xyz"):
            cfg[L.config.WIND + c] = num[f"air.wind.{axis}"]
        late = []
        for i in bodies:
            if self.bodies[i].placed_under is not None:
                late.append(i)
            else:
                self._fill_body(i, num, S, P, geometry)
        for i in late:
            self._fill_body(i, num, S, P, geometry)
            self._place_support_under(i, S, geometry)

    def _shape_with(self, i: int, k: int, num: Mapping[str, float]) -> Posed:
        """Shape k of body i with the sizes in ``num`` (only the first shape's are numbers of the case)."""
        shape, wanted = self._edges_of(i, k, num), num.get(f"bodies.{self.names[i]}.size")
        if wanted is None:
            return shape
        whole = overall_size(self._with_edges(i, num)) or wanted
        return shape.model_copy(update=scaled_lengths(shape.__dict__, wanted / whole))

    def _with_edges(self, i: int, num: Mapping[str, float]) -> Body:
        shapes = tuple(self._edges_of(i, k, num) for k in range(len(self.bodies[i].shapes)))
        return self.bodies[i].model_copy(update={"shapes": shapes})

    def _edges_of(self, i: int, k: int, num: Mapping[str, float]) -> Posed:
        """The same without a size over all."""
        shape, base = self.bodies[i].shapes[k], f"bodies.{self.names[i]}"
        if k > 0:
            return shape
        return shape.with_size_numbers({name: num[f"{base}.{name}"] for name in shape.size_numbers()})

    def _fill_body(self, i: int, num: Mapping[str, float], S: Array, P: Array, geometry: Geometry) -> None:
        body, keys = self.bodies[i], self.paths_of[i]
        shapes = [self._shape_with(i, k, num) for k in range(len(body.shapes))]
        row = np.zeros(L.body.COUNT + registry.COLUMNS)
        heavy = _has_mass(body)
        row[L.body.MOTION] = MOTIONS[body.motion] if body.max_force is None else L.motion_kind.PUSHED
        row[L.body.INERTIA : L.body.INERTIA + 3] = 1.0
        centre, axes = np.zeros(3), np.eye(3)
        if heavy:
            whole = combine_mass([solid_of(shape, body.hollow) for shape in shapes])
            if body.density is not None:
                volume = sum(solid_of(shape, False).measure for shape in shapes)
                mass = num[keys["density"]] * volume
            else:
                mass = num[keys["mass"]]
            centre = whole.centre
            given = body.inertia
            moments, axes = (np.array(given), np.eye(3)) if given is not None else principal_axes(mass * whole.inertia)
            row[L.body.INV_MASS] = 1.0 / mass
            row[L.body.INERTIA : L.body.INERTIA + 3] = moments
            lock = sum(LOCKS[name] for name in set(body.locked_axes))
            if body.max_force is not None:
                lock |= 56
                row[L.body.PUSH] = body.max_force
            row[L.body.LOCK] = lock
            row[L.body.IM : L.body.IM + 3] = [0.0 if lock >> c & 1 else 1.0 / mass for c in range(3)]
            if body.max_force is None:
                row[L.body.LIN_DAMP], row[L.body.ANG_DAMP] = num[keys["linear_damping"]], num[keys["angular_damping"]]
                row[L.body.DRAG] = 0.5 * num["air.density"] * num[keys["drag_coefficient"]] * drag_area(shapes)
                row[L.body.GRAVITY] = num[keys["gravity_multiplier"]]
            if registry.COLUMNS:
                row[L.body.COUNT :] = registry.parameters_of(self.case, self.names[i], num)
            one = shapes[0]
            centred = len(shapes) == 1 and one.is_ball and not any(one.position) and not any(one.surface_velocity)
            row[L.body.BALL] = float(centred and moments[0] == moments[1] == moments[2] and lock < 8)
        elif body.motion == "kinematic":
            row[L.body.BALL] = 1.0
        if body.motion == "kinematic":
            row[L.body.KEY0], row[L.body.KEYS] = self._first_key[i], len(body.keyframes) + 1
            path = self.keys[self._first_key[i] : self._first_key[i] + len(body.keyframes)]
            row[L.body.PATH_SPEED] = np.linalg.norm(path[:, L.key.VELOCITY : L.key.VELOCITY + 3], axis=1).max()
            row[L.body.PATH_SPIN] = np.linalg.norm(path[:, L.key.OMEGA : L.key.OMEGA + 3], axis=1).max()
        orientation = quaternion_of(axes) if not np.array_equal(axes, np.eye(3)) else np.array([1.0, 0.0, 0.0, 0.0])
        geometry.offsets[i], geometry.axes[i] = centre, orientation
        row[L.body.GROUP], row[L.body.MEETS] = self._groups[body.group]
        row[L.body.EXTENT : L.body.EXTENT + 3] = shapes[0].extent()
        reach, thin = geometry.fill(i, shapes, centre, axes)
        row[L.body.REACH], row[L.body.THIN] = reach, thin
        state = np.zeros(16)
        q = self.orientation_at(i, num)
        if body.keyframes:
            q, place = np.array(normalised(body.keyframes[0].orientation)), np.array(body.keyframes[0].position)
        else:
            place = np.array([num[key] for key in keys["position"]]) if body.placed_under is None else np.zeros(3)
        state[3:7] = quaternion_product(q, orientation)
        state[0:3] = place + rotation_matrix(q) @ centre
        P[i], S[i] = row, state
        if heavy and body.max_force is None:
            launch_body(self, i, num, S)
        elif heavy:
            first = self.keys[self._first_key[i]]
            S[i, 7:10] = first[8:11] if first[0] <= 0.0 else 0.0  # before its first key at rest

    def orientation_at(self, i: int, num: Mapping[str, float]) -> Array:
        """Return the orientation of a body (w, x, y, z): its own, unless a tilt stands among the values.

        Parameters
        ----------
        i : index of the body
        num : path → value of every number
        """
        keys = self.paths_of[i]["tilt"]
        if all(num.get(key) == self.base.get(key) for key in keys):
            return np.array(normalised(self.bodies[i].orientation))
        return np.array(orientation_of([num[key] for key in keys]))

    def _place_support_under(self, i: int, S: Array, geometry: Geometry) -> None:
        """Place a plane under the start of a body, touching it."""
        j = self.names.index(self.bodies[i].placed_under or "")
        s = geometry.shapes_of[i][0]
        n = rotation_matrix(S[i, 3:7]) @ geometry.GF[s, L.shape.B : L.shape.B + 3]
        S[i, :3] = S[j, :3] - geometry.depth(j, n, S) * n - rotation_matrix(S[i, 3:7]) @ geometry.GF[s, L.shape.A : L.shape.A + 3]

    # -- what a motion knows ------------------------------------------------------------------

    def accounts(
        self, S: Array, P: Array, geometry: Geometry | None = None, values: Mapping[str, float] | None = None
    ) -> tuple[BodyInfo, ...]:
        """Return what a motion knows of its bodies, from states and properties, and the shapes and values it ran with.

        Parameters
        ----------
        S : (n, 16) states of the bodies
        P : (n, columns) properties of the bodies
        geometry : shapes in the frames of their bodies
        values : path → value, SI units
        """
        frames, num = geometry or self.geometry, {**self.base, **(values or {})}
        rows = []
        for i, body in enumerate(self.bodies):
            heavy = P[i, L.body.INV_MASS] > 0
            q = quaternion_product(S[i, 3:7], frames.axes[i] * [1, -1, -1, -1])
            shapes = (self._shape_with(i, k, num) for k in range(len(body.shapes)))
            rows.append(BodyInfo(
                self.names[i], body.motion != "static", body.shapes[0].kind,
                tuple(P[i, L.body.EXTENT : L.body.EXTENT + 3].tolist()),
                float(P[i, L.body.REACH]), 1.0 / float(P[i, L.body.INV_MASS]) if heavy else None,
                tuple(S[i, :3].tolist()), tuple(q.tolist()), is_kinematic=body.motion == "kinematic",
                inertia=tuple(P[i, L.body.INERTIA : L.body.INERTIA + 3].tolist()) if heavy else None,
                axes=tuple(frames.axes[i].tolist()), gravity_multiplier=float(P[i, L.body.GRAVITY]),
                shapes=tuple(shape_info(shape, frames.offsets[i]) for shape in shapes)))
        return tuple(rows)


def _groups_of(case: Case) -> dict[str, tuple[int, int]]:
    """Number of every collision group, and a bit for each group that it meets."""
    names = sorted({body.group for body in case.bodies.values()})
    apart = {frozenset(pair) for pair in case.collision_exclusions}
    return {name: (i, sum(1 << k for k, other in enumerate(names) if frozenset((name, other)) not in apart))
            for i, name in enumerate(names)}


def _has_mass(body: Body) -> bool:
    """Whether forces move a body: it is dynamic, or pushed with limited force."""
    return body.motion == "dynamic" or body.max_force is not None


def _keys_of(name: str) -> dict[str, Any]:
    """The paths of a body's numbers, made once."""
    base = f"bodies.{name}"
    keys: dict[str, Any] = {key: f"{base}.{key}" for key in (*BODY_SCALARS, "density", "speed", "elevation", "azimuth", "radius")}
    keys.update({key: [f"{base}.{key}.{axis}" for axis in "xyz"] for key in ("position", "velocity", "angular_velocity", "tilt")})
    return keys
