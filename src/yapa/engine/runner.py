"""Running a compiled case: a ``Program`` is made once and run many times.

A fit calls :meth:`Program.run` with values for its unknowns thousands of times; only the rows of bodies and laws that a value
touches are written again. A run writes only on its thread's workspace and on copies.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from time import perf_counter

import numpy as np

from yapa.case.model import Case
from yapa.engine.compile.geometry import Geometry
from yapa.engine.compile.mass_properties import (
    quaternion_product,
)
from yapa.engine.compile.meetings import check_meetings
from yapa.engine.compile.scene import CompiledScene
from yapa.engine.compile.updates import UpdatePlan, update_plan_of, write_updates
from yapa.engine.compile.workspace import Workspace
from yapa.engine.jit.pointers import pointer_table
from yapa.engine.jit.runtime import entries
from yapa.engine.kernels import layout as L
from yapa.motion import Array, BodyInfo

MAX_LOG_ROWS = 400_000
"""contacts that are logged in a run"""
MAX_PAIRS = 4_000_000
"""pairs of shapes near each other"""
STATUS = {
    L.run_code.OK: "complete",
    L.run_code.CANCELLED: "cancelled",
    L.run_code.LOG_FULL: "too many contacts to log",
    L.run_code.PAIRS_FULL: "too many pairs of shapes near each other",
    L.run_code.NOT_FINITE: "a place or a speed (above 1e9 m/s) went out of all bounds",
    L.run_code.NO_END: "more than a million impacts in one step",
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
    work: float
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
    soft_steps: int
    regime_switches: int
    initial_overlap: float
    failed_body: int
    gravity: float
    bodies: Callable[[], tuple[BodyInfo, ...]]
    crowds: Crowds | None = None
    constants: Mapping[str, float] = field(default_factory=dict)
    unfinished: bool = False
    """Whether it ended because its budget of time was spent."""


@contextmanager
def set_after(seconds: float | None, flag: np.ndarray | None) -> Iterator[None]:
    """Set a flag after some seconds, unless what is done within has ended before; without a flag do nothing.

    Parameters
    ----------
    seconds : until it is set
    flag : (1,) int64

    Returns
    -------
    A context.
    """
    if seconds is None or flag is None:
        yield
        return
    timer = threading.Timer(seconds, flag.__setitem__, (0, 1))
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        timer.cancel()


class Program(CompiledScene):
    """A compiled case that can be run, by several threads at once.

    Raises
    ------
    Unsupported
        If the case asks for what this engine cannot do.
    """

    def __init__(self, case: Case) -> None:
        super().__init__(case)
        self.compiled_seconds = 0.0
        """s in compiled code so far, of all threads: what a further thread could have shared."""
        self._accounts: tuple[BodyInfo, ...] | None = None
        self._plans: dict[tuple[str, ...], UpdatePlan] = {}
        self.local = threading.local()

    def as_filed(self, states: Array) -> Array:
        """Return states (T, n, 16) in the order of the case's bodies.

        Parameters
        ----------
        states : (T, n, 16) states
        """
        return states if self.filed is None else states[:, self.filed]

    def start_gaps(self) -> list[tuple[int, int, float]]:
        """Return bodies of all pairs that can meet, and how far apart their shapes start [m]."""
        space = self.workspace()
        space.grow_pairs(self.pairs)
        space.scene = space.scene_of(self.geometry.arrays, self.keys)
        space.shape_order[0, : len(self.geometry.GI)] = np.arange(len(self.geometry.GI))
        space.S[:] = self.state
        space.cfg[:] = self.cfg
        space.point(L.call_table.SCENE, space.scene)
        space.point(L.call_table.BODIES, self.props)
        out = np.zeros((space.pairs, 1))
        into = pointer_table((out,))
        n = entries().gaps_at(space.call_at, len(self.materials.surfaces), into.ctypes.data)
        pairs = space.Q[:n, [L.pair.BODY_A, L.pair.BODY_B]].tolist()
        return [(a, b, gap) for (a, b), gap in zip(pairs, out[:n, 0].tolist(), strict=True)]

    # -- running -----------------------------------------------------------------------------

    def _new_workspace(self) -> Workspace:
        check_meetings(self.names, self.geometry.GI, self.props)
        space = Workspace(len(self.names), len(self.geometry.GI), len(self.force_driven), self.uses_broad_phase, self.pairs)
        space.W = self.materials.rows.copy()
        space.scene = space.scene_of(self.geometry.arrays, self.keys)
        return space

    def workspace(self) -> Workspace:
        """Return what this thread's runs write on."""
        space: Workspace | None = getattr(self.local, "space", None)
        if space is None:
            space = self.local.space = self._new_workspace()
        return space

    def run(
        self, values: Mapping[str, float] | None, times: Array, end: float, cancel: np.ndarray | None = None,
        keep: bool = True, lean: bool | None = None, budget: float | None = None,
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
        budget : the run ends where it is after so many seconds of computing, in place of hearing ``cancel``; None: whole

        Returns
        -------
        States and logs.
        """
        space = self.workspace()
        spent = None if budget is None else np.zeros(1, np.int64)
        heard = cancel if spent is None else spent
        P, geometry, start, out = self.prepare_run(space, values, times, end, heard, keep, not keep if lean is None else lean)
        with set_after(budget, spent):
            self._run_to_end(space, geometry, start)
        raw = self._report(space, values, times, P, geometry, start, out)
        raw.unfinished = spent is not None and raw.code == L.run_code.CANCELLED
        return raw

    def _run_to_end(self, space: Workspace, geometry: Geometry, start: Array) -> None:
        """Run what is laid out in a workspace; again with more room where its logs are full."""
        run_at, surfaces, sweeping = entries().run_at, len(self.materials.surfaces), int(self.uses_broad_phase)
        while True:
            begun = perf_counter()
            run_at(space.call_at, surfaces, sweeping)
            self.compiled_seconds += perf_counter() - begun
            code = space.status.item(L.run_status.CODE)
            if code == L.run_code.LOG_FULL and space.log_rows < MAX_LOG_ROWS:
                space.grow_logs(4 * space.log_rows)
            elif code == L.run_code.PAIRS_FULL and space.pairs < MAX_PAIRS:
                space.grow_pairs(2 * space.pairs)
                space.scene = space.scene_of(self.geometry.arrays, self.keys)
                space.point(L.call_table.SCENE,
                            space.scene if geometry is self.geometry else space.scene_of(geometry.arrays, self.keys))
            else:
                break
            space.S[:] = start
            space.status[:] = 0

    @property
    def is_small(self) -> bool:
        """Whether runs are so short that handing them over one by one is felt."""
        return len(self.names) <= 6 and not self.uses_broad_phase

    def run_block(
        self, rows: Sequence[Mapping[str, float]], times: Array, end: float, cancel: np.ndarray | None = None, lean: bool = True,
    ) -> Iterator[RawRun]:
        """Several runs in one compiled call, while other threads go on; each as :meth:`run` with ``keep=False`` gives it.

        What a run gives is good until the next block of this thread.

        Parameters
        ----------
        rows : rows of numbers
        times : (T,) times [s]
        end : end of the run [s]
        cancel : stops the work where it is set
        lean : whether orientations are left out

        Returns
        -------
        One raw run after another.
        """
        spaces, calls = self._block(len(rows))
        prepared = [self.prepare_run(space, values, times, end, cancel, False, lean) for space,
                    values in zip(spaces, rows, strict=False)]
        begun = perf_counter()
        entries().run_many_at(calls.ctypes.data, len(rows), len(self.materials.surfaces), int(self.uses_broad_phase))
        self.compiled_seconds += perf_counter() - begun
        for space, values, (P, geometry, start, out) in zip(spaces, rows, prepared, strict=False):
            if space.status.item(L.run_status.CODE) in (L.run_code.LOG_FULL, L.run_code.PAIRS_FULL):
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

    def prepare_run(
        self, space: Workspace, values: Mapping[str, float] | None, times: Array, end: float, cancel: np.ndarray | None,
        keep: bool = False, lean: bool = True,
    ) -> tuple[Array, Geometry, Array, Array]:
        """Lay a run out in a workspace: the properties and shapes it runs with, the states it starts from, room for samples.

        Parameters
        ----------
        space : scratch arrays of this thread
        values : path → value, SI units
        times : (T,) times [s]
        end : end of the run [s]
        cancel : stops the work where it is set
        keep : whether samples are kept beyond the next run
        lean : whether orientations are left out

        Returns
        -------
        Properties, shapes, states at the start and samples of the run.
        """
        S, P, cfg, geometry = space.S, self.props, space.cfg, self.geometry
        S[...] = self.state
        if space.fields_changed:
            cfg[...] = self.cfg
            space.fields_changed = False
        if space.laws_changed:
            space.W[...] = self.materials.rows
            space.laws_changed = False
        moved = False
        if values:
            P, geometry, moved = self._with_values(values, space)
        cfg[L.config.END] = end if not self.stepped else cfg[L.config.STEP] * np.ceil(end / cfg[L.config.STEP] - 1e-9)
        cfg[L.config.LEAN] = float(lean)
        start = S.copy()
        out = np.empty((len(times), len(self.names), 16)) if keep else space.samples(len(times))
        if keep or moved or not space.resting_written:
            for i in self.resting:
                out[:, i] = start[i]
            space.resting_written = not (keep or moved)
        space.status.fill(0)
        space.point(L.call_table.SCENE, space.scene if geometry is self.geometry else space.scene_of(geometry.arrays, self.keys))
        space.point(L.call_table.BODIES, P)
        space.point(L.call_table.TIMES, times)
        space.point(L.call_table.OUT, out)
        space.point(L.call_table.CANCEL, cancel if cancel is not None else _NEVER)
        return P, geometry, start, out

    def _report(
        self, space: Workspace, values: Mapping[str, float] | None, times: Array, P: Array, geometry: Geometry, start: Array,
        out: Array,
    ) -> RawRun:
        """What a run left in its workspace."""
        status = space.status.tolist()
        done = status[L.run_status.SAMPLES]
        if done == 0 and len(times):  # stopped before its first sample: what is known is the start
            times, out = np.zeros(1), start[None].copy()
        elif done < len(times):
            times, out = times[:done], out[:done]
        if self._turned_bodies or geometry is not self.geometry:
            out = self._own_axes(out, geometry)
        report = L.run_status
        return RawRun(times, out, space.clog[: status[report.CONTACTS]].copy(), space.plog[: status[report.PHASES]].copy(),
                      status[report.CODE], status[report.STEPS], status[report.SOFT_STEPS], status[report.HANDOVERS],
                      space.cfg.item(L.config.OVERLAP), status[report.BODY], space.cfg.item(L.config.GRAVITY + 2),
                      (lambda: self._own_accounts(start, values)) if P is self.props
                      else lambda: self.accounts(start, P, geometry, values),
                      self._crowds(space) if status[L.run_status.SOFT_STEPS] else None,
                      self._constants_with(values) if self.case.constants else {})

    def _constants_with(self, values: Mapping[str, float] | None) -> dict[str, float]:
        """The constants of the case, with those that are given in place of its own."""
        given = values or {}
        return {name: given.get(f"constants.{name}", own.value) for name, own in self.case.constants.items()}

    def _crowds(self, space: Workspace) -> Crowds:
        status = space.cfg[L.config.SOFT_AT : L.config.SOFT_WORK + 1].tolist()
        at, energy, change, bounced, depth, depth_at, a, b, work = status
        handed = tuple(np.flatnonzero(space.handed_over * (self.props[:, L.body.INV_MASS] > 0)).tolist())
        return Crowds(at, energy, change, bounced > 0, depth, depth_at, (int(a), int(b)), work, handed)

    def _own_accounts(self, start: Array, values: Mapping[str, float] | None) -> tuple[BodyInfo, ...]:
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
            accounts[i] = replace(accounts[i], position=tuple(start[i, :3].tolist()))
        return tuple(accounts)

    def plan(self, paths: tuple[str, ...]) -> UpdatePlan:
        """Return what values at these paths touch, worked out once.

        Parameters
        ----------
        paths : paths of numbers
        """
        if paths not in self._plans:
            self._plans[paths] = update_plan_of(self, paths)
        return self._plans[paths]

    def _with_values(self, values: Mapping[str, float], space: Workspace) -> tuple[Array, Geometry, bool]:
        """Write these values over the case's own in a workspace; the properties and shapes to run with, and whether
        anything that rests was moved."""
        P, geometry = self.props, self.geometry
        plan = self.plan(tuple(values))
        S = space.S
        for path, i, column in plan.scalar_entries:
            S[i, column] = values[path]
        if plan.simple:
            return P, geometry, False
        num = {**self.base, **values}
        if plan.bodies or plan.drag_terms:
            P = P.copy()
            if plan.changes_geometry:
                geometry = geometry.copy()
        if plan.bodies or plan.fields:
            space.fields_changed = True
            self._fill(num, plan.bodies, S, P, space.cfg, geometry)
        if plan.material_entries:
            self.materials.write(plan.material_entries, num, space.W)
            space.laws_changed = True
        write_updates(self, plan, num, S, P)
        return P, geometry, plan.moves_static

    def _own_axes(self, states: Array, geometry: Geometry) -> Array:
        """Orientations of the bodies' own axes in place of the principal ones."""
        for i in self._turned_bodies if geometry is self.geometry else self.force_driven:
            if geometry.axes[i, 0] != 1.0:
                states[:, i, 3:7] = quaternion_product(states[:, i, 3:7], geometry.axes[i] * [1, -1, -1, -1])
        return states
