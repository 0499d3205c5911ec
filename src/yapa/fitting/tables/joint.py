"""One least-squares problem of a table of trials, of curves, and whatever evidence stands beside it.

The joint vector holds every shared unknown once, and every unknown that a value of a column, or a take, has for itself once each,
all in
their unit box; the free zeros of angles of tracks stand behind them. All residuals are stacked,

    minimise |r(rows)|² + Σ |r(tracks, targets of the case and of its takes)|².
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from scipy.stats import qmc

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.quantities import NOISES, kind_of
from yapa.case.takes import Take
from yapa.case.unknowns import Unknown, to_unit_box
from yapa.errors import bad_input
from yapa.fitting.optimise.differences import forward
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tables.curve_part import CurvePart
from yapa.fitting.tables.trial_rows import ROW, TrialRows
from yapa.fitting.tracks.take_parts import Part, part_residuals
from yapa.motion import Array

Owner = str | None
FINAL_STEP = 1e-6
"""of the unit box: of the finite differences at the end"""
N_SCANNED = (8, 8, 16, 32, 32, 64)
"""points of a first scan of the box, by how many unknowns there are"""
N_DESCENTS = 2
"""of the best scanned points, those that are followed where the first two descents end at different places"""
SCAN_ROWS = 8
"""distinct rows that a first scan looks at"""
APART, PROMISING = 0.25, 3.0
"""of the unit box: how far a start must lie from an end to be followed too; and times the cost there that it may have at most"""
ELSEWHERE = 0.02
"""of the unit box: an end further off is another"""
ROUGH, EXACT = 0.1, 1e-2
"""gain of half the squared residuals that ends a descent: with some of the rows, and with all"""
POLISHINGS = 2
"""Gauss-Newton steps at the end"""
SMALL = 0.05
"""σ: a step that changes the residuals by less leaves the Jacobian as it is"""
MAX_STEPS = 60
"""of one descent"""


@dataclass
class JointProblem:
    """Rows and other evidence with one joint vector.

    Attributes
    ----------
    case : the case
    columns : (owner or None, path) → place in the joint vector
    unknowns : the unknown at every place
    rows : parts of the table, each with rows of one take (or of none)
    parts : tracks and targets of the case and of its takes
    curves : curves of the case
    start : (P,) the case's own numbers
    """

    case: Case
    columns: dict[tuple[Owner, str], int]
    unknowns: list[Unknown]
    rows: list[TrialRows]
    parts: list[Part]
    curves: list[CurvePart]
    start: Array
    fixed: dict[int, float] = field(default_factory=dict)
    """Places that are held, and where."""
    offsets: int = 0
    coarse: bool = False

    @property
    def count(self) -> int:
        """How many unknowns there are; the zeros of angles stand behind them."""
        return len(self.unknowns)

    @property
    def simulations(self) -> int:
        """Simulations spent so far."""
        return (sum(part.simulations for part in self.rows) + sum(part.problem.simulations for part in self.parts)
                + sum(part.simulations for part in self.curves))

    @property
    def size(self) -> int:
        """Entries of a joint vector."""
        return len(self.start)

    def residuals(self, p: Array, horizon: float | None = None) -> Array:
        """Return all residuals [σ]: those of the rows first.

        Parameters
        ----------
        p : joint vector
        horizon : not used: everything counts
        """
        return np.concatenate([*(part.residuals(p) for part in self.rows), *(part_residuals(part, p) for part in self.parts),
                               *(part.residuals(p) for part in self.curves)])

    def slopes_of_zeros(self, rows: int, horizon: float | None = None) -> Array:
        """See :class:`LeastSquares`: zeros of angles stand in the unit box here, so that there are none apart.

        Parameters
        ----------
        rows : how many residuals there are
        horizon : not used
        """
        return np.zeros((rows, 0))

    def free(self) -> np.ndarray:
        """Return the places that are not held, (F,)."""
        return np.array([k for k in range(self.size) if k not in self.fixed], int)

    def descend(self, x: Array, gain: float = EXACT) -> tuple[Array, float, bool]:
        """Return where least squares end from a start, half the squared residuals there, and whether they settled.

        Parameters
        ----------
        x : joint vector
        gain : of half the squared residuals, in units of what is left of them a value: not worth another step
        """
        start = x.copy()
        held = np.zeros(self.size, bool)
        for k, value in self.fixed.items():
            start[k], held[k] = value, True
        found = LevenbergMarquardt(most=MAX_STEPS, fixed=held, enough=gain).minimise(self, start)
        return found.point.p, found.point.cost, found.settled

    def polished(self, x: Array) -> tuple[Array, Array, Array]:
        """Return a vector after one more Gauss-Newton step, its residuals, and their finite differences (R, P).

        Parameters
        ----------
        x : joint vector, close to where the descent ends
        """
        free = self.free()
        r = self.residuals(x)
        for _ in range(POLISHINGS):
            J = np.zeros((len(r), len(x)))
            for k in free:
                J[:, k] = forward(self.residuals, x, r, k, FINAL_STEP)
            step = np.zeros(len(x))
            step[free] = np.linalg.lstsq(J[:, free], -r, rcond=1e-9)[0]
            there = np.clip(x + step, 0.0, 1.0)
            after = self.residuals(there)
            if float(after @ after) >= float(r @ r):
                break
            x, r = there, after
            if float(np.linalg.norm(J @ step)) < SMALL * max(1.0, float(np.sqrt(2 * self.cost(x) / max(len(r), 1)))):
                break
        return x, r, J

    def search(self, seed: int) -> tuple[Array, bool, list[Array]]:
        """Return the best, whether it settled, and other ends: the best of several descents: from the case's own numbers, and from
        the best points of a scan of the box.

        They follow some of the rows; the best then follows all.

        Parameters
        ----------
        seed : of the scan
        """
        thin = [part.thinned(SCAN_ROWS) for part in self.rows]
        some = replace(self, rows=thin)
        scanned = some.scanned(seed)
        first, *others = sorted([(some.cost(self.start), self.start), *scanned], key=lambda pair: pair[0])
        ends = [some.descend(first[1], ROUGH)]
        for cost, start in others[:N_DESCENTS]:
            if cost < PROMISING * max(ends[0][1], 1.0) and min(np.abs(start - end[0]).max() for end in ends) > APART:
                ends.append(some.descend(start, ROUGH))
        self._count(some)
        ends.sort(key=lambda end: end[1])
        x, _, settled = self.descend(ends[0][0])
        return x, settled, [end for end, _, _ in ends[1:] if np.abs(end - ends[0][0]).max() > ELSEWHERE]

    def with_fixed(self, place: int, value: float, x: Array) -> float:
        """Return half the squared residuals with one more entry held, everything else fitted again.

        Parameters
        ----------
        place : of the entry
        value : its value in the unit box
        x : joint vector to begin with
        """
        other = replace(self, fixed={**self.fixed, place: value})
        some = other._thinned()
        near = some.descend(x, ROUGH)[0]
        self._count(some)
        return other.descend(near)[1]

    def _thinned(self) -> JointProblem:
        """The same with some of the rows."""
        thin = [part.thinned(SCAN_ROWS) for part in self.rows]
        return replace(self, rows=thin)

    def _count(self, some: JointProblem) -> None:
        """Count the simulations of some of the rows as those of all."""
        for part, whole in zip(some.rows, self.rows, strict=True):
            whole.simulations += part.simulations

    def cost(self, x: Array) -> float:
        """Return half the squared residuals.

        Parameters
        ----------
        x : joint vector
        """
        r = self.residuals(x)
        return 0.5 * float(r @ r)

    def scanned(self, seed: int) -> list[tuple[float, Array]]:
        """Return the best points of a scan of the box, with their cost.

        Parameters
        ----------
        seed : of the scan
        """
        points = qmc.Sobol(self.count, rng=np.random.default_rng(seed)).random(N_SCANNED[min(self.count, len(N_SCANNED)) - 1])
        costs = []
        for u in points:
            x = self.start.copy()
            x[: self.count] = u
            costs.append(self.cost(x))
        out = []
        for k in np.argsort(costs)[:N_DESCENTS]:
            x = self.start.copy()
            x[: self.count] = points[k]
            out.append((costs[k], x))
        return out


def joint_problem(case: Case, cancel: Cancel, threads: int | None = None, limit: int | None = None) -> JointProblem:
    """Return the joint problem of a case with a table of trials.

    Parameters
    ----------
    case : with a table whose columns are read, or curves
    cancel : stops the work where it is set
    threads : runs side by side
    limit : simulations after which nothing more is run, of every part

    Raises
    ------
    InputError
        If nothing is free, or the table cannot be used.
    """
    table = case.table
    count = table.rows if table is not None else 0
    free = [u for u in case.unknowns if not u.fixed and kind_of(u.path) not in NOISES]
    if not free:
        raise bad_input("unknowns", "no free number", "at least one unknown that is not locked")
    groups = {path: column for column, paths in table.free_per.items() for path in paths} if table is not None else {}
    cells = table.columns or {} if table is not None else {}
    take_of = {row - 1: take for take in case.takes for row in take.rows}
    columns: dict[tuple[Owner, str], int] = {}
    unknowns: list[Unknown] = []
    start: list[float] = []

    def place(owner: Owner, unknown: Unknown, value: float) -> int:
        if (owner, unknown.path) not in columns:
            columns[owner, unknown.path] = len(unknowns)
            unknowns.append(unknown)
            start.append(to_unit_box(unknown, value))
        return columns[owner, unknown.path]

    slots = np.zeros((count, len(free)), int)
    for row in range(count):
        take = take_of.get(row)
        for j, u in enumerate(free):
            owner = _owner(u.path, groups, cells, row, take)
            slots[row, j] = place(owner, u, get_number(case, u.path))
    parts: list[tuple[Take | None, FitProblem, np.ndarray]] = []
    for take in case.takes:
        if take.tracks or take.targets:
            problem = FitProblem(case.for_take(take), cancel, limit=limit)
            parts.append((take, problem, np.array([
                place(take.name if u.path in take.free_per_take else None, u,
                      get_number(case, u.path)) for u in problem.unknowns])))
    alone = case.model_copy(update={"takes": (), "table": None, "curves": (), **({"tracks": ()} if case.takes else {})})
    if alone.tracks or alone.targets:
        problem = FitProblem(alone, cancel, limit=limit)
        parts.append((None, problem, np.array([place(None, u, get_number(case, u.path)) for u in problem.unknowns])))
    rows = [TrialRows(with_numbers(case, take.values) if take is not None and take.values else case, free, slots[which], which,
                      cancel,
                      threads)
            for take, which in _rows_by_take(case, count)]
    for part in rows:
        part.limit = limit
    curves = []
    if case.curves:
        places = np.array([place(None, u, get_number(case, u.path)) for u in free])
        curves.append(CurvePart(case, free, places, cancel))
        curves[0].limit = limit
    at, made = len(unknowns), []
    for take, problem, places in parts:
        span = slice(at, at + problem.offsets)
        at += problem.offsets
        made.append(Part(take, problem, places, span, np.ones(len(problem.residuals(problem.vector())))))
    return JointProblem(case, columns, unknowns, rows, made, curves, np.concatenate([start, np.full(at - len(unknowns), 0.5)]))


def _owner(path: str, groups: dict[str, str], cells: dict[str, tuple[float | str | None, ...]], row: int,
           take: Take | None) -> Owner:
    """Whose an unknown is in a row: a take's, a value's of a column, or everybody's."""
    if take is not None and path in take.free_per_take:
        return take.name
    column = groups.get(path)
    if column is None:
        return None
    if column == ROW and ROW not in cells:
        return f"row {row + 1}"
    cell = cells[column][row]
    if cell is None:
        raise bad_input(f"table, row {row + 1}", f"an empty cell in {column}", f"a value: every one of {column} has its own {path}")
    return f"{column} {cell:g}" if isinstance(cell, float) else f"{column} {cell}"


def _rows_by_take(case: Case, count: int) -> list[tuple[Take | None, np.ndarray]]:
    """The rows of every take, from 0, and those of none."""
    out: list[tuple[Take | None, np.ndarray]] = [(take, np.array([r - 1 for r in take.rows])) for take in case.takes if take.rows]
    taken = {row for _, rows in out for row in rows.tolist()}
    rest = np.array([row for row in range(count) if row not in taken], int)
    return [*out, (None, rest)] if len(rest) else out
