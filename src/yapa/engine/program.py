"""Running a compiled case: a ``Program`` is made once and run many times.

A fit calls :meth:`Program.run` with values for its unknowns thousands of times; only the rows of bodies and laws that a value
touches are written again. A run writes only on its thread's workspace and on copies.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from time import perf_counter

import numpy as np

from yapa.case.model import Case
from yapa.engine.compiled import entries
from yapa.engine.geometry import Geometry
from yapa.engine.kernels import layout as L
from yapa.engine.plans import Plan, plan_of, write_parts
from yapa.engine.scene import CompiledScene
from yapa.engine.solids import (
    multiply,
)
from yapa.engine.tables import table_of
from yapa.engine.workspace import Workspace
from yapa.motion import Array, BodyAccount

MAX_LOG_ROWS = 400_000
MAX_PAIRS = 4_000_000
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


class Program(CompiledScene):
    """A compiled case that can be run, by several threads at once.

    Raises
    ------
    Unsupported
        If the case asks for what this engine cannot do.
    """

    def __init__(self, case: Case) -> None:
        super().__init__(case)
        self.spent = 0.0
        """s in compiled code so far, of all threads: what a further thread could have shared."""
        self._accounts: tuple[BodyAccount, ...] | None = None
        self._plans: dict[tuple[str, ...], Plan] = {}
        self.local = threading.local()

    def as_filed(self, states: Array) -> Array:
        """States (T, n, 16) in the order of the case's bodies."""
        return states if self.filed is None else states[:, self.filed]

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
