"""Compiling a case to arrays, and running it: ``Program`` is made once and run many times.

A fit calls :meth:`Program.run` with values for its unknowns thousands of times; only the rows of
bodies and laws that a value touches are written again.

Inside, a body's place is its centre of mass and its axes are the principal ones; the geometry's
``offsets`` and ``axes`` lead back. A run writes only on its thread's workspace and on copies.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from time import perf_counter

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import BODY_SCALARS, get_number, numbers, orientation_of
from yapa.case.scene import Body, Box, Capsule, Cylinder, Posed, Sphere
from yapa.engine.compiled import entries
from yapa.engine.geometry import KINDS, Geometry
from yapa.engine.kernels import layout as L
from yapa.engine.laws import COLUMNS, LawBook
from yapa.engine.plans import Plan, launch_body, plan_of, write_parts
from yapa.engine.settings import CROWD_STEP, settle_profile
from yapa.engine.shape_facts import account_of, drag_area, extent_of, unit
from yapa.engine.solids import (
    combined,
    multiply,
    principal_axes,
    quaternion_of,
    solid_of,
    turn_matrix,
)
from yapa.engine.tables import table_of
from yapa.engine.workspace import Workspace
from yapa.motion import Array, BodyAccount

MAX_LOG_ROWS = 400_000
MAX_PAIRS = 4_000_000
MOTIONS = {"static": L.STATIC_BODY, "dynamic": L.DYNAMIC_BODY, "kinematic": L.KINEMATIC_BODY}
LOCKS = {"x": 1, "y": 2, "z": 4, "turn x": 8, "turn y": 16, "turn z": 32}
STATUS = {
    L.OK: "complete",
    L.CANCELLED: "cancelled",
    L.LOG_FULL: "too many contacts to log",
    L.PAIRS_FULL: "too many pairs of shapes near each other",
    L.NOT_FINITE: "a place went out of all bounds",
    L.NO_END: "more than a million impacts in one step",
}
_NEVER = np.zeros(1, np.int64)
"""A cancel flag that nobody sets."""


@dataclass(frozen=True, slots=True)
class Crowds:
    """What a run tells of its crowds: rows of bodies, J, s and m (see ``CFG_CROWD_AT`` and those after it)."""

    at: float
    energy: float
    change: float
    bounced: bool
    depth: float
    depth_at: float
    deep: tuple[int, int]
    given: bool
    bodies: tuple[int, ...]


@dataclass(slots=True)
class RawRun:
    """What the kernel left: sampled states and logs."""

    times: Array
    states: Array
    contacts: Array
    phases: Array
    code: int
    steps: int
    crowded: int
    handovers: int
    overlap: float
    culprit: int
    gravity: float
    accounts: Callable[[], tuple[BodyAccount, ...]]
    crowds: Crowds | None = None


class Program:
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
        self.movers = [i for i, body in enumerate(self.bodies) if _has_mass(body)]
        self.resting = [i for i, body in enumerate(self.bodies) if body.motion == "static"]
        n = len(self.names)
        self.state = np.zeros((n, 16))
        self.props = np.zeros((n, L.P_COLUMNS))
        self.book = LawBook(case, self.base)
        self.keys = self._lay_keys()
        self._groups = _groups_of(case)
        self.geometry = Geometry.of(self.bodies, self.book.surfaces)
        self.cfg = np.zeros(L.CFG_COLUMNS)
        profile = case.profile
        settle_profile(profile, self.cfg)
        self._touched: dict[str, tuple[list[int], list[int], bool]] = {}
        self.spent = 0.0
        """s in compiled code so far, of all threads: what a further thread could have shared."""
        self._accounts: tuple[BodyAccount, ...] | None = None
        self._plans: dict[tuple[str, ...], Plan] = {}
        self.local = threading.local()
        self.drag_areas = [drag_area(list(body.shapes)) if body.motion == "dynamic" else 0.0 for body in self.bodies]
        self._fill(self.base, range(n), self.state, self.props, self.cfg, self.geometry)
        self._turned_bodies = [i for i in self.movers if self.geometry.axes[i, 0] != 1.0]
        self.stepped = profile.kind == "stepped"
        shapes = len(self.geometry.GI)
        heavy = sum(len(self.bodies[i].shapes) for i in self.movers)
        self.pairs = max(heavy * (heavy - 1) // 2 + heavy * (shapes - heavy), 1)
        """Pairs of shapes that may meet: what has no mass never meets its like."""
        self.sweeping = len(self.movers) > 3 and shapes * (shapes - 1) // 2 > 60
        round_only = all(s.kind in ("sphere", "capsule", "plane") for body in self.bodies for s in body.shapes)
        if profile.kind == "precise" and not (len(self.movers) <= 3 and round_only):
            self.cfg[L.CFG_OUTER] = min(profile.step, CROWD_STEP)

    def as_filed(self, states: Array) -> Array:
        """States (T, n, 16) in the order of the case's bodies."""
        return states if self.filed is None else states[:, self.filed]

    def meets(self, i: int, j: int) -> bool:
        """Whether two bodies do not pass through each other by their groups."""
        return bool(int(self.props[i, L.MEETS]) >> int(self.props[j, L.GROUP]) & 1)

    # -- what a path touches -----------------------------------------------------------------

    def touches(self, path: str) -> tuple[list[int], list[int], bool]:
        """Rows of bodies and of laws that a path's value enters, and whether it changes a shape."""
        if path in self._touched:
            return self._touched[path]
        get_number(self.case, path)
        bodies: list[int] = []
        laws: list[int] = []
        reshapes = False
        parts = path.split(".")
        if parts[0] == "bodies":
            i = self.names.index(parts[1])
            bodies = [i] + [j for j, body in enumerate(self.bodies) if body.under == parts[1]]
            reshapes = parts[2] in ("radius", "size", "length")
        elif parts[0] in ("surfaces", "pairs"):
            laws = self.book.rows_of(path)
        elif parts[0] == "air":
            bodies = list(range(len(self.bodies)))
        self._touched[path] = (bodies, laws, reshapes)
        return self._touched[path]

    def pairs_meeting_by(self, path: str) -> list[set[str]]:
        """Pairs of bodies whose contact a path's value enters."""
        wanted = [set(self.book.pairs[k]) for k in self.touches(path)[1]]
        out = []
        for i, one in enumerate(self.bodies):
            for j in range(i + 1, len(self.bodies)):
                if any({s.surface, t.surface} in wanted for s in one.shapes for t in self.bodies[j].shapes):
                    out.append({self.names[i], self.names[j]})
        return out

    def law_between(self, one: str, two: str) -> dict[str, float]:
        """What happens where two surfaces meet, by quantity."""
        return self.law_with({}, one, two)

    def law_with(self, values: Mapping[str, float], one: str, two: str) -> dict[str, float]:
        """The same with other values."""
        rows = self.book.rows.copy()
        if values:
            self.book.fill(self.book.cells_of(values), {**self.base, **values}, rows)
        return {quantity: float(rows[self.book.pairs.index((one, two)), column]) for quantity, column in COLUMNS.items()}

    def start_gaps(self) -> list[tuple[int, int, float]]:
        """Bodies of all pairs that can meet, and how far apart their shapes start [m]."""
        space = self.workspace()
        space.grow_pairs(self.pairs)
        space.scene = space.scene_of(self.geometry.arrays, self.keys)
        space.shape_order[0, : len(self.geometry.GI)] = np.arange(len(self.geometry.GI))
        space.S[:] = self.state
        space.cfg[:] = self.cfg
        space.point(L.CALL_SCENE, space.scene)
        space.point(L.CALL_PROPS, self.props)
        out = np.zeros((space.pairs, 1))
        into = table_of((out,))
        n = entries().gaps_at(space.call_at, len(self.book.surfaces), into.ctypes.data)
        pairs = space.Q[:n, [L.Q_BA, L.Q_BB]].tolist()
        return [(a, b, gap) for (a, b), gap in zip(pairs, out[:n, 0].tolist(), strict=True)]

    def surfaces_meeting_by(self, path: str) -> list[tuple[str, str]]:
        """Pairs of surfaces whose law a path's value enters."""
        return [self.book.pairs[k] for k in self.touches(path)[1]]

    # -- laying out --------------------------------------------------------------------------

    def _lay_keys(self) -> Array:
        rows: list[Array] = []
        self._first_key = [0] * len(self.bodies)
        for i, body in enumerate(self.bodies):
            self._first_key[i] = len(rows)
            keys = list(body.path)
            for k, key in enumerate(keys):
                row = np.zeros(L.KEY_COLUMNS)
                q = np.array(unit(key.orientation))
                row[0], row[1:4], row[4:8] = key.time, key.position, q
                if k + 1 < len(keys):
                    after = keys[k + 1]
                    h = after.time - key.time
                    row[8:11] = (np.array(after.position) - np.array(key.position)) / h
                    d = multiply(np.array(unit(after.orientation)), q * [1, -1, -1, -1])
                    d = d if d[0] >= 0 else -d
                    size = float(np.linalg.norm(d[1:]))
                    if size > 0:
                        row[11:14] = d[1:] / size * 2 * np.arctan2(size, d[0]) / h
                rows.append(row)
            if keys:  # a last row that never ends, so that a search stops
                rows.append(np.concatenate([[1e300], rows[-1][1:8], np.zeros(6)]))
        return np.array(rows) if rows else np.zeros((1, L.KEY_COLUMNS))

    # -- numbers to arrays -------------------------------------------------------------------

    def _fill(
        self, num: Mapping[str, float], bodies: Iterable[int], S: Array, P: Array, cfg: Array, geometry: Geometry,
    ) -> None:
        cfg[L.CFG_GX + 2] = -num["gravity"]
        for c, axis in enumerate("xyz"):
            cfg[L.CFG_WX + c] = num[f"air.wind.{axis}"]
        late = []
        for i in bodies:
            if self.bodies[i].under is not None:
                late.append(i)
            else:
                self._fill_body(i, num, S, P, geometry)
        for i in late:
            self._fill_body(i, num, S, P, geometry)
            self._lay_under(i, S, geometry)

    def _shape_with(self, i: int, k: int, num: Mapping[str, float]) -> Posed:
        """Shape k of body i with the sizes in ``num`` (only the first shape's are numbers of the case)."""
        shape = self.bodies[i].shapes[k]
        if k > 0:
            return shape
        base = f"bodies.{self.names[i]}"
        if isinstance(shape, Sphere):
            return shape.model_copy(update={"radius": num[f"{base}.radius"]})
        if isinstance(shape, Box):
            return shape.model_copy(update={"size": tuple(num[f"{base}.size.{axis}"] for axis in "xyz")})
        if isinstance(shape, Capsule | Cylinder):
            return shape.model_copy(update={"radius": num[f"{base}.radius"], "length": num[f"{base}.length"]})
        return shape

    def _fill_body(self, i: int, num: Mapping[str, float], S: Array, P: Array, geometry: Geometry) -> None:
        body, keys = self.bodies[i], self.paths_of[i]
        shapes = [self._shape_with(i, k, num) for k in range(len(body.shapes))]
        row = np.zeros(L.P_COLUMNS)
        heavy = _has_mass(body)
        row[L.MOTION] = MOTIONS[body.motion] if body.push_limit is None else L.PUSHED_BODY
        row[L.INERTIA : L.INERTIA + 3] = 1.0
        centre, axes = np.zeros(3), np.eye(3)
        if heavy:
            whole = combined([solid_of(shape, body.shell) for shape in shapes])
            if body.density is not None:
                volume = sum(solid_of(shape, False).measure for shape in shapes)
                mass = num[keys["density"]] * volume
            else:
                mass = num[keys["mass"]]
            centre = whole.centre
            given = body.inertia
            moments, axes = (np.array(given), np.eye(3)) if given is not None else principal_axes(mass * whole.inertia)
            row[L.INV_MASS] = 1.0 / mass
            row[L.INERTIA : L.INERTIA + 3] = moments
            lock = sum(LOCKS[name] for name in set(body.locked))
            if body.push_limit is not None:
                lock |= 56
                row[L.PUSH] = body.push_limit
            row[L.LOCK] = lock
            row[L.IM : L.IM + 3] = [0.0 if lock >> c & 1 else 1.0 / mass for c in range(3)]
            if body.push_limit is None:
                row[L.LIN_DAMP], row[L.ANG_DAMP] = num[keys["linear_damping"]], num[keys["angular_damping"]]
                row[L.DRAG] = 0.5 * num["air.density"] * num[keys["drag_coefficient"]] * drag_area(shapes)
                row[L.GRAVITY] = num[keys["gravity_multiplier"]]
            one = shapes[0]
            centred = len(shapes) == 1 and isinstance(one, Sphere) and not any(one.at) and not any(one.belt)
            row[L.BALL] = float(centred and moments[0] == moments[1] == moments[2] and lock < 8)
        elif body.motion == "kinematic":
            row[L.BALL] = 1.0
        if body.motion == "kinematic":
            row[L.KEY0], row[L.KEYS] = self._first_key[i], len(body.path) + 1
        turn = quaternion_of(axes) if not np.array_equal(axes, np.eye(3)) else np.array([1.0, 0.0, 0.0, 0.0])
        geometry.offsets[i], geometry.axes[i] = centre, turn
        row[L.KIND] = KINDS[body.shapes[0].kind]
        row[L.GROUP], row[L.MEETS] = self._groups[body.group]
        row[L.EXTENT : L.EXTENT + 3] = extent_of(shapes[0])
        reach, thin = geometry.fill(i, shapes, centre, axes)
        row[L.REACH], row[L.THIN] = reach, thin
        state = np.zeros(16)
        q = self._turned(i, num)
        if body.path:
            q, place = np.array(unit(body.path[0].orientation)), np.array(body.path[0].position)
        else:
            place = np.array([num[key] for key in keys["position"]]) if body.under is None else np.zeros(3)
        state[3:7] = multiply(q, turn)
        state[0:3] = place + turn_matrix(q) @ centre
        P[i], S[i] = row, state
        if heavy and body.push_limit is None:
            launch_body(self, i, num, S)
        elif heavy:
            S[i, 7:10] = self.keys[self._first_key[i], 8:11]  # a pushed body starts as its path does

    def _turned(self, i: int, num: Mapping[str, float]) -> Array:
        """The orientation of a body: its own, unless a tilt stands among the values."""
        keys = self.paths_of[i]["tilt"]
        if all(num.get(key) == self.base.get(key) for key in keys):
            return np.array(unit(self.bodies[i].orientation))
        return np.array(orientation_of([num[key] for key in keys]))

    def _lay_under(self, i: int, S: Array, geometry: Geometry) -> None:
        """Place a plane under the start of a body, touching it."""
        j = self.names.index(self.bodies[i].under or "")
        s = geometry.shapes_of[i][0]
        n = turn_matrix(S[i, 3:7]) @ geometry.GF[s, L.G_B : L.G_B + 3]
        S[i, :3] = S[j, :3] - geometry.depth(j, n, S) * n - turn_matrix(S[i, 3:7]) @ geometry.GF[s, L.G_A : L.G_A + 3]

    # -- running -----------------------------------------------------------------------------

    def _new_workspace(self) -> Workspace:
        space = Workspace(len(self.names), len(self.geometry.GI), len(self.movers), self.sweeping, self.pairs)
        space.W = self.book.rows.copy()
        space.scene = space.scene_of(self.geometry.arrays, self.keys)
        return space

    def workspace(self) -> Workspace:
        """What this thread's runs write on."""
        space: Workspace | None = getattr(self.local, "space", None)
        if space is None:
            space = self.local.space = self._new_workspace()
        return space

    def run(
        self, values: Mapping[str, float] | None, times: Array, end: float, cancel: np.ndarray | None = None,
        keep: bool = True, lean: bool | None = None,
    ) -> RawRun:
        """Run with these values in place of the case's own.

        Parameters
        ----------
        values : path → number
        times : (T,) rising sample times [s]
        end : when the run ends [s]
        cancel : (1,) int64; set its element to stop the run
        keep : with False the sampled states are only good until this thread's next run (a fit reads
            them at once, and touching fresh memory costs as much as the motion itself)
        lean : spheres have their spin and turn, but not their orientation; so where states are not kept, unless said otherwise
        """
        space = self.workspace()
        P, geometry, start, out = self.lay(space, values, times, end, cancel, keep, not keep if lean is None else lean)
        run_at, surfaces, sweeping = entries().run_at, len(self.book.surfaces), int(self.sweeping)
        while True:
            begun = perf_counter()
            run_at(space.call_at, surfaces, sweeping)
            self.spent += perf_counter() - begun
            code = space.status.item(L.ST_CODE)
            if code == L.LOG_FULL and space.log_rows < MAX_LOG_ROWS:
                space.grow_logs(4 * space.log_rows)
            elif code == L.PAIRS_FULL and space.pairs < MAX_PAIRS:
                space.grow_pairs(2 * space.pairs)
                space.scene = space.scene_of(self.geometry.arrays, self.keys)
                space.point(L.CALL_SCENE, space.scene if geometry is self.geometry else space.scene_of(geometry.arrays, self.keys))
            else:
                break
            space.S[:] = start
            space.status[:] = 0
        return self._report(space, values, times, P, geometry, start, out)

    @property
    def light(self) -> bool:
        """Whether runs are so short that handing them over one by one is felt."""
        return len(self.names) <= 6 and not self.sweeping

    def run_block(
        self, rows: Sequence[Mapping[str, float]], times: Array, end: float, cancel: np.ndarray | None = None, lean: bool = True,
    ) -> Iterator[RawRun]:
        """Several runs in one compiled call, while other threads go on; each as :meth:`run` with ``keep=False`` gives it.

        What a run gives is good until the next block of this thread.
        """
        spaces, calls = self._block(len(rows))
        prepared = [self.lay(space, values, times, end, cancel, False, lean) for space, values in zip(spaces, rows, strict=False)]
        begun = perf_counter()
        entries().run_many_at(calls.ctypes.data, len(rows), len(self.book.surfaces), int(self.sweeping))
        self.spent += perf_counter() - begun
        for space, values, (P, geometry, start, out) in zip(spaces, rows, prepared, strict=False):
            if space.status.item(L.ST_CODE) in (L.LOG_FULL, L.PAIRS_FULL):
                yield self.run(values, times, end, cancel, False, lean)
            else:
                yield self._report(space, values, times, P, geometry, start, out)

    def _block(self, count: int) -> tuple[list[Workspace], np.ndarray]:
        """Workspaces of this thread for a block, their calls the rows of one table."""
        spaces, calls = getattr(self.local, "block", ([], np.zeros((0, 0), np.int64)))
        if len(spaces) < count:
            spaces = [self._new_workspace() for _ in range(count)]
            calls = np.array([space.call for space in spaces])
            for space, row in zip(spaces, calls, strict=True):
                space.call, space.call_at = row, row.ctypes.data
            self.local.block = (spaces, calls)
        return spaces, calls

    def lay(
        self, space: Workspace, values: Mapping[str, float] | None, times: Array, end: float, cancel: np.ndarray | None,
        keep: bool = False, lean: bool = True,
    ) -> tuple[Array, Geometry, Array, Array]:
        """Lay a run out in a workspace: the properties and shapes it runs with, the states it starts from, room for samples."""
        S, P, cfg, geometry = space.S, self.props, space.cfg, self.geometry
        S[...] = self.state
        if space.fields_changed:
            cfg[...] = self.cfg
            space.fields_changed = False
        if space.laws_changed:
            space.W[...] = self.book.rows
            space.laws_changed = False
        moved = False
        if values:
            P, geometry, moved = self._with_values(values, space)
        cfg[L.CFG_END] = end if not self.stepped else cfg[L.CFG_STEP] * np.ceil(end / cfg[L.CFG_STEP] - 1e-9)
        cfg[L.CFG_LEAN] = float(lean)
        start = S.copy()
        out = np.empty((len(times), len(self.names), 16)) if keep else space.samples(len(times))
        if keep or moved or not space.resting_laid:
            for i in self.resting:
                out[:, i] = start[i]
            space.resting_laid = not (keep or moved)
        space.status.fill(0)
        space.point(L.CALL_SCENE, space.scene if geometry is self.geometry else space.scene_of(geometry.arrays, self.keys))
        space.point(L.CALL_PROPS, P)
        space.point(L.CALL_TIMES, times)
        space.point(L.CALL_OUT, out)
        space.point(L.CALL_CANCEL, cancel if cancel is not None else _NEVER)
        return P, geometry, start, out

    def _report(
        self, space: Workspace, values: Mapping[str, float] | None, times: Array, P: Array, geometry: Geometry, start: Array,
        out: Array,
    ) -> RawRun:
        """What a run left in its workspace."""
        told = space.status.tolist()
        done = told[L.ST_SAMPLES]
        if done == 0 and len(times):  # stopped before its first sample: what is known is the start
            times, out = np.zeros(1), start[None].copy()
        elif done < len(times):
            times, out = times[:done], out[:done]
        if self._turned_bodies or geometry is not self.geometry:
            out = self._own_axes(out, geometry)
        return RawRun(times, out, space.clog[: told[L.ST_CONTACTS]].copy(), space.plog[: told[L.ST_PHASES]].copy(),
                      told[L.ST_CODE], told[L.ST_STEPS], told[L.ST_CROWDED], told[L.ST_HANDOVERS],
                      space.cfg.item(L.CFG_OVERLAP), told[L.ST_BODY], space.cfg.item(L.CFG_GX + 2),
                      (lambda: self._own_accounts(start, values)) if P is self.props
                      else lambda: self.accounts(start, P, geometry, values),
                      self._crowds(space) if told[L.ST_CROWDED] else None)

    def _crowds(self, space: Workspace) -> Crowds:
        told = space.cfg[L.CFG_CROWD_AT :].tolist()
        at, energy, change, bounced, depth, depth_at, a, b, given = told
        handed = tuple(np.flatnonzero(space.handed_over * (self.props[:, L.INV_MASS] > 0)).tolist())
        return Crowds(at, energy, change, bounced > 0, depth, depth_at, (int(a), int(b)), given > 0, handed)

    def _own_accounts(self, start: Array, values: Mapping[str, float] | None) -> tuple[BodyAccount, ...]:
        """The accounts of the case's own bodies, made once; of one that starts elsewhere, with its place."""
        if self._accounts is None:
            self._accounts = self.accounts(self.state, self.props)
        if not values or self.plan(tuple(values)).in_place:
            return self._accounts
        changed = start[:, :3] != self.state[:, :3]
        if not changed.any():
            return self._accounts
        moved = changed.any(axis=1).nonzero()[0].tolist()
        accounts = list(self._accounts)
        for i in moved:
            accounts[i] = replace(accounts[i], place=tuple(start[i, :3].tolist()))
        return tuple(accounts)

    def plan(self, paths: tuple[str, ...]) -> Plan:
        """What values at these paths touch, worked out once."""
        if paths not in self._plans:
            self._plans[paths] = plan_of(self, paths)
        return self._plans[paths]

    def _with_values(self, values: Mapping[str, float], space: Workspace) -> tuple[Array, Geometry, bool]:
        """Write these values over the case's own in a workspace; the properties and shapes to run with, and whether
        anything that rests was moved."""
        P, geometry = self.props, self.geometry
        plan = self.plan(tuple(values))
        S = space.S
        for path, i, column in plan.single:
            S[i, column] = values[path]
        if plan.simple:
            return P, geometry, False
        num = {**self.base, **values}
        if plan.bodies or plan.braked:
            P = P.copy()
            if plan.reshapes:
                geometry = geometry.copy()
        if plan.bodies or plan.fields:
            space.fields_changed = True
            self._fill(num, plan.bodies, S, P, space.cfg, geometry)
        if plan.cells:
            self.book.fill(plan.cells, num, space.W)
            space.laws_changed = True
        write_parts(self, plan, num, S, P)
        return P, geometry, plan.moves_resting

    def _own_axes(self, states: Array, geometry: Geometry) -> Array:
        """Orientations of the bodies' own axes in place of the principal ones."""
        for i in self._turned_bodies if geometry is self.geometry else self.movers:
            if geometry.axes[i, 0] != 1.0:
                states[:, i, 3:7] = multiply(states[:, i, 3:7], geometry.axes[i] * [1, -1, -1, -1])
        return states

    def accounts(
        self, S: Array, P: Array, geometry: Geometry | None = None, values: Mapping[str, float] | None = None
    ) -> tuple[BodyAccount, ...]:
        """What a motion knows of its bodies, from states and properties, and the shapes and values it ran with."""
        frames, num = geometry or self.geometry, {**self.base, **(values or {})}
        rows = []
        for i, body in enumerate(self.bodies):
            heavy = P[i, L.INV_MASS] > 0
            q = multiply(S[i, 3:7], frames.axes[i] * [1, -1, -1, -1])
            shapes = (self._shape_with(i, k, num) for k in range(len(body.shapes)))
            rows.append(BodyAccount(
                self.names[i], body.motion != "static", body.shapes[0].kind, tuple(P[i, L.EXTENT : L.EXTENT + 3].tolist()),
                float(P[i, L.REACH]), 1.0 / float(P[i, L.INV_MASS]) if heavy else None,
                tuple(S[i, :3].tolist()), tuple(q.tolist()), driven=body.motion == "kinematic",
                inertia=tuple(P[i, L.INERTIA : L.INERTIA + 3].tolist()) if heavy else None,
                axes=tuple(frames.axes[i].tolist()), gravity_multiplier=float(P[i, L.GRAVITY]),
                shapes=tuple(account_of(shape, frames.offsets[i]) for shape in shapes)))
        return tuple(rows)


def _groups_of(case: Case) -> dict[str, tuple[int, int]]:
    """Number of every collision group, and a bit for each group that it meets."""
    names = sorted({body.group for body in case.bodies.values()})
    apart = {frozenset(pair) for pair in case.apart}
    return {name: (i, sum(1 << k for k, other in enumerate(names) if frozenset((name, other)) not in apart))
            for i, name in enumerate(names)}


def _has_mass(body: Body) -> bool:
    """Whether forces move a body: it is dynamic, or pushed with limited force."""
    return body.motion == "dynamic" or body.push_limit is not None


def _keys_of(name: str) -> dict:
    """The paths of a body's numbers, made once."""
    base = f"bodies.{name}"
    keys: dict = {key: f"{base}.{key}" for key in (*BODY_SCALARS, "density", "speed", "radius")}
    keys.update({key: [f"{base}.{key}.{axis}" for axis in "xyz"] for key in ("position", "velocity", "spin", "tilt")})
    return keys
