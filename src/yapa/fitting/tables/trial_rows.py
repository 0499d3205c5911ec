"""Residuals of a table of trials: every row is the case with its settings, run alone; equal settings are run once.

A measured value y of an outcome f with standard deviation σ gives (f − y)/σ. Where the outcome does not occur, the value that
stands in
for it goes on changing, and its graded shortfall counts beside it.
"""

from __future__ import annotations

import copy
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np

from yapa.case.bounds import MAX_DURATION, MAX_STEPS
from yapa.case.changed_numbers import with_links
from yapa.case.evidence import Target
from yapa.case.expressions import Expression, parse_expression
from yapa.case.model import Case
from yapa.case.outcome_specs import unit_of
from yapa.case.outcome_text import FORMULA, is_reference, parse_formula, parse_reference
from yapa.case.parameters import get_number, out_of_bounds
from yapa.case.quantities import quantity_of
from yapa.case.table_columns import MAX_PROBLEMS, TableColumns
from yapa.case.trial_table import Measured, TrialTable
from yapa.case.units import Dimension, si_unit
from yapa.case.unknowns import Unknown, from_unit_box
from yapa.engine.batch import BLOCK
from yapa.engine.kernels.layout import run_code
from yapa.engine.simulate import READ_RATE, motion_of, program_for, sample_times
from yapa.errors import InputError, InputIssue, bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled, LimitReached
from yapa.motion import Array, Motion
from yapa.outcomes import read_target
from yapa.outcomes.judging import target_body
from yapa.outcomes.target_form import SHORTFALL_TOLERANCE

MAX_KEPT = 50_000
"""runs whose outcomes are kept"""
ROW = "row"
"""in place of a column: every row has an unknown for itself"""


@dataclass(frozen=True)
class MeasuredColumn:
    """One measured outcome of all rows.

    Attributes
    ----------
    text : the outcome, or arithmetic of outcomes, constants and columns, in words
    unit : SI unit of it
    arithmetic : what is compared with the measured value
    terms : outcomes in it, by name
    y : (N,) measured values [SI], NaN where there is none
    sigma : (N,) standard deviations [SI], None where they are found
    """

    text: str
    unit: str
    arithmetic: Expression
    terms: dict[str, Target]
    y: Array
    sigma: Array | None


class TrialRows:
    """The rows of a table of trials, or some of them.

    Parameters
    ----------
    case : with a table; its numbers hold where neither a row nor an unknown says otherwise
    unknowns : what may change
    slots : (N, U) place in the joint vector of every unknown in every row
    rows : which rows, from 0
    cancel : stops the work where it is set
    threads : runs side by side

    Raises
    ------
    InputError
        If a setting is missing or out of bounds, by row, or a column cannot be used.
    """

    def __init__(self, case: Case, unknowns: Sequence[Unknown], slots: np.ndarray, rows: np.ndarray, cancel: Cancel,
                 threads: int | None = None) -> None:
        table = case.table
        assert table is not None
        self.case, self.unknowns, self.slots, self.rows, self.cancel = case, list(unknowns), slots, rows, cancel
        self.threads = threads or os.cpu_count() or 1
        self.simulations = 0
        self.limit: int | None = None
        columns = columns_of_table(case)
        self.program = program_for(case)
        self.settings = settings_of(case, table, columns)
        self.measured = [_measured(case, columns, item) for item in table.measured]
        self.terms = {name: target for column in self.measured for name, target in column.terms.items()}
        self.bodies = {name: target_body(case, target) for name, target in self.terms.items()}
        names = {name for column in self.measured for name in column.arithmetic.names} - set(self.terms) - set(case.constants)
        self.columns = {name: columns.numbers(name)[rows] for name in sorted(names)}
        self.scales = [_rough_scale(column.y[rows]) for column in self.measured]
        self.used = [np.isfinite(column.y[rows]) for column in self.measured]
        if not any(used.any() for used in self.used):
            raise bad_input("table", "no measured value", "one value or more")
        self._paths = list(self.settings)
        keys = [(*(self.settings[path][row] for path in self._paths), *slots[k].tolist()) for k, row in enumerate(rows)]
        self.runs: list[int] = []
        """The row, of those used, whose settings each distinct run has."""
        first: dict[tuple[float, ...], int] = {}
        self.run_of = np.zeros(len(rows), int)
        for k, key in enumerate(keys):
            if key not in first:
                first[key] = len(self.runs)
                self.runs.append(k)
            self.run_of[k] = first[key]
        times = [t.time for t in self.terms.values() if t.time is not None]
        times += [float(np.nanmax(c.y[rows])) for c,
                  used in zip(self.measured, self.used, strict=True) if c.unit == "s" and used.any()]
        longest = min(MAX_DURATION, MAX_STEPS * case.profile.step)
        self.end = max(case.duration, min(1.5 * max(times, default=0.0), longest))
        self.times = sample_times(self.end, READ_RATE)
        self._kept: dict[tuple[float, ...], tuple[Array, Array]] = {}

    def only(self, which: np.ndarray) -> TrialRows:
        """Return the same rows, of which only some count.

        Parameters
        ----------
        which : (N,) which of them count
        """
        out = copy.copy(self)
        out.used = [used & which for used in self.used]
        out.scales = list(self.scales)
        return out

    def thinned(self, most: int) -> TrialRows:
        """Return some of the rows, spread evenly, with at most so many distinct settings.

        Parameters
        ----------
        most : distinct settings
        """
        if len(self.runs) <= most:
            keep = np.arange(len(self.runs))
        else:
            keep = np.unique(np.linspace(0, len(self.runs) - 1, most).round().astype(int))
        which = np.array([k for k in range(len(self.rows)) if self.run_of[k] in set(keep.tolist())], int)
        out = copy.copy(self)
        out.rows, out.slots, out.used = self.rows[which], self.slots[which], [used[which] for used in self.used]
        out.columns = {name: values[which] for name, values in self.columns.items()}
        place = {int(run): i for i, run in enumerate(keep)}
        back = {int(k): i for i, k in enumerate(which)}
        out.run_of = np.array([place[int(self.run_of[k])] for k in which], int)
        out.runs = [back[self.runs[int(run)]] for run in keep]
        out.simulations = 0
        return out

    @property
    def count(self) -> int:
        """How many measured values there are."""
        return int(sum(used.sum() for used in self.used))

    def values_of(self, k: int, x: Array) -> dict[str, float]:
        """Return path → number of a row.

        Parameters
        ----------
        k : which of the rows that are used
        x : joint vector
        """
        free = {u.path: from_unit_box(u, float(x[slot])) for u, slot in zip(self.unknowns, self.slots[k], strict=True)}
        return with_links(self.case, {**{path: float(self.settings[path][self.rows[k]]) for path in self._paths}, **free})

    def motion(self, k: int, x: Array) -> Motion:
        """Return the motion of a row.

        Parameters
        ----------
        k : which of the rows that are used
        x : joint vector
        """
        return motion_of(self.program, self.program.run(self.values_of(k, x), self.times, self.end, self.cancel.flag))

    def outcomes(self, x: Array) -> tuple[Array, Array]:
        """Return every term at every row, (N, T), with what stands in for missing ones, and its shortfall.

        Parameters
        ----------
        x : joint vector

        Raises
        ------
        Cancelled
            If stopping was asked for.
        LimitReached
            If the limit on simulations is reached.
        """
        self.cancel.raise_if_cancelled()
        sets = [{path: value for path, value in self.values_of(k,
                                                               x).items() if not path.startswith("constants.")} for k in self.runs]
        keys = [tuple(values.values()) for values in sets]
        todo = [i for i, key in enumerate(keys) if key not in self._kept]
        if self.limit is not None and self.simulations + len(todo) > self.limit:
            raise LimitReached
        if len(self._kept) + len(todo) > MAX_KEPT:
            self._kept.clear()
            todo = list(range(len(keys)))
        size = max(1, min(BLOCK, -(-len(todo) // (2 * self.threads))))
        count = -(-len(todo) // size)
        blocks = [todo[i::count] for i in range(count)]  # rows are often sorted, and those at one end take longer
        if len(blocks) > 1 and self.threads > 1:
            with ThreadPoolExecutor(self.threads) as pool:
                found = list(pool.map(lambda block: self._block([sets[i] for i in block]), blocks))
        else:
            found = [self._block([sets[i] for i in block]) for block in blocks]
        for block, answers in zip(blocks, found, strict=True):
            for i, answer in zip(block, answers, strict=True):
                self._kept[keys[i]] = answer
        self.simulations += len(todo)
        values = np.array([self._kept[key][0] for key in keys])
        short = np.array([self._kept[key][1] for key in keys])
        return values[self.run_of], short[self.run_of]

    def _block(self, sets: list[dict[str, float]]) -> list[tuple[Array, Array]]:
        """What every term is in each of some runs, and its shortfall."""
        out = []
        if self.program.is_small:
            raws = self.program.run_block(sets, self.times, self.end, self.cancel.flag)
        else:
            raws = (self.program.run(values, self.times, self.end, self.cancel.flag, False) for values in sets)
        for raw in raws:
            if raw.code == run_code.CANCELLED:
                raise Cancelled
            motion = motion_of(self.program, raw)
            read = [read_target(motion, self.bodies[name], target) for name, target in self.terms.items()]
            out.append((np.array([r.value_or_surrogate for r in read]), np.array([r.shortfall for r in read])))
        return out

    def predicted(self, x: Array) -> tuple[list[Array], list[Array]]:
        """Return what each measured column is predicted to be in every row [SI], and the shortfall of what does not occur.

        Parameters
        ----------
        x : joint vector
        """
        values, short = self.outcomes(x)
        terms = {name: values[:, k] for k, name in enumerate(self.terms)}
        where = {name: k for k, name in enumerate(self.terms)}
        out, lacks = [], []
        for column in self.measured:
            known: dict[str, Any] = {**self.columns, **self._constants(x), **{name: terms[name] for name in column.terms}}
            value = np.broadcast_to(np.asarray(column.arithmetic.value(known), dtype=float), (len(self.rows),))
            out.append(np.nan_to_num(value, nan=0.0, posinf=1e9, neginf=-1e9))
            lacks.append(np.max([short[:, where[name]] for name in column.terms],
                                axis=0) if column.terms else np.zeros(len(self.rows)))
        return out, lacks

    def _constants(self, x: Array) -> dict[str, Array | float]:
        """Every constant, by row where it is unknown."""
        out: dict[str, Array | float] = {name: own.value for name, own in self.case.constants.items()}
        for j, u in enumerate(self.unknowns):
            if u.path.startswith("constants."):
                out[u.path.removeprefix("constants.")] = np.array([from_unit_box(u, float(v)) for v in x[self.slots[:, j]]])
        for path in self._paths:
            if path.startswith("constants."):
                out[path.removeprefix("constants.")] = self.settings[path][self.rows]
        return out

    def sigmas(self, k: int) -> Array:
        """Return the standard deviation of every value of a measured column [SI].

        Parameters
        ----------
        k : which measured column
        """
        own = self.measured[k].sigma
        return np.full(len(self.rows), self.scales[k]) if own is None else own[self.rows]

    def misses(self, x: Array) -> list[Array]:
        """Return predicted less measured of every measured column [SI], NaN where nothing was measured.

        Parameters
        ----------
        x : joint vector
        """
        return [value - column.y[self.rows] for value, column in zip(self.predicted(x)[0], self.measured, strict=True)]

    def residuals(self, x: Array) -> Array:
        """Return residuals in σ of every measured value, then their graded shortfalls.

        Parameters
        ----------
        x : joint vector
        """
        values, lacks = self.predicted(x)
        first, second = [], []
        for k, (value, lack, used) in enumerate(zip(values, lacks, self.used, strict=True)):
            first.append((value[used] - self.measured[k].y[self.rows][used]) / self.sigmas(k)[used])
            second.append(lack[used] / SHORTFALL_TOLERANCE)
        return np.concatenate([*first, *second])


def columns_of_table(case: Case) -> TableColumns:
    """Return the columns of a case's table.

    Parameters
    ----------
    case : with a table whose columns are read
    """
    assert case.table is not None
    return TableColumns(case.table, {name: si_unit(own.unit).dimension for name, own in case.constants.items()})


def settings_of(case: Case, table: TrialTable, columns: TableColumns) -> dict[str, Array]:
    """Return path → (N,) numbers [SI] that the rows set.

    Parameters
    ----------
    case : the case
    table : its table
    columns : columns of the table

    Raises
    ------
    InputError
        If a setting is missing or out of bounds, by row.
    """
    out: dict[str, Array] = {}
    wrong: list[InputIssue] = []
    for path, text in table.settings.items():
        get_number(case, path)
        values = columns.values(parse_expression(text), quantity_of(path).unit, f"the setting of {path}")
        for k, value in enumerate(values):
            if not np.isfinite(value):
                wrong.append(InputIssue(f"table, row {k + 1}", f"no number for {path} ({text})",
                                        "a setting in every row; remove the row"))
            elif words := out_of_bounds(path, float(value)):
                wrong.append(InputIssue(f"table, row {k + 1}", words[0], "a number in its bounds; is the unit right?"))
        out[path] = values
    if wrong:
        raise InputError(wrong[:MAX_PROBLEMS])
    return out


def _measured(case: Case, columns: TableColumns, item: Measured) -> MeasuredColumn:
    """A measured column: names in its arithmetic are columns and constants first, then outcomes."""
    known = {*columns.cells, *case.constants}
    arithmetic = parse_formula(item.outcome)
    terms: dict[str, Target] = {}
    for name in arithmetic.names:
        if name in known:
            continue
        if not is_reference(name):
            parse_reference(name)  # which says what is wrong
        terms[name] = parse_reference(name)
    if not terms:
        raise bad_input(f"table, measured {item.outcome!r}", "no outcome in it", "an outcome, such as 'landing x 1'")
    dimensions: dict[str, Dimension | None] = {name: columns.dimension(name) for name in arithmetic.names if name in known}
    dimensions |= {name: si_unit(unit_of(target.outcome) if target.outcome != FORMULA else target.unit).dimension
                   for name, target in terms.items()}
    own = [unit_of(target.outcome) for target in terms.values()]
    dimension = arithmetic.dimension(dimensions)
    unit = own[0] if len(arithmetic.names) == 1 else "" if dimension is None else str(dimension)
    y = columns.values(parse_expression(item.value), unit, f"the measured {item.outcome}")
    sigma = None if item.sigma is None else columns.values(parse_expression(item.sigma), unit, f"the σ of {item.outcome}")
    if sigma is not None:
        wrong = [InputIssue(f"table, row {k + 1}, σ of {item.outcome}", "no number above zero" if not s > 0 else f"{s:g}",
                            "a σ above zero")
                 for k, (s, value) in enumerate(zip(sigma, y,
                                                    strict=True)) if np.isfinite(value) and not (s > 0 and np.isfinite(s))]
        if wrong:
            raise InputError(wrong[:MAX_PROBLEMS])
    return MeasuredColumn(item.outcome, unit, arithmetic, terms, y, sigma)


def _rough_scale(y: Array) -> float:
    """A tenth of how far measured values are from each other, before anything better is known."""
    seen = y[np.isfinite(y)]
    if not len(seen):
        return 1.0
    return max(0.1 * float(np.std(seen)), 1e-3 * float(np.abs(seen).max()), 1e-9)

