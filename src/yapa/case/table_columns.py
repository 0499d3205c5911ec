"""The columns of a table of trials as numbers in SI units, and arithmetic of them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from yapa.case.expressions import Expression
from yapa.case.trial_table import Cell, TrialTable
from yapa.case.units import Dimension, si_unit
from yapa.errors import InputError, InputIssue, bad_input

Array = NDArray[np.float64]
MAX_PROBLEMS = 8
"""told of one table"""


class TableColumns:
    """Columns of a table of trials.

    Parameters
    ----------
    table : with its columns
    constants : name → dimension of the constants that stand in its arithmetic

    Raises
    ------
    InputError
        If units contradict each other.
    """

    def __init__(self, table: TrialTable, constants: Mapping[str, Dimension]) -> None:
        self.table = table
        self.cells: dict[str, tuple[Cell, ...]] = table.columns or {}
        self.constants = constants
        self.units = dict(table.units)
        for what, expression in table.expressions():
            for name, unit in expression.units.items():
                if name in constants:
                    raise bad_input(f"table, {what}", f"the unit {unit} behind the constant {name}", "its name alone")
                if self.units.setdefault(name, unit) != unit:
                    raise bad_input(f"table, {what}", f"{name} in {unit}",
                                    f"one unit of a column; elsewhere it is in {self.units[name]}")

    def numbers(self, name: str) -> Array:
        """Return a column [SI units], NaN where a cell is empty.

        Parameters
        ----------
        name : of the column

        Raises
        ------
        InputError
            If a cell is no number: by row.
        """
        factor = si_unit(self.units.get(name, "")).factor
        out = np.full(self.table.rows, np.nan)
        wrong = []
        for k, cell in enumerate(self.cells[name]):
            if isinstance(cell, str):
                wrong.append(InputIssue(f"table, row {k + 1}, {name}", repr(cell), "a number, or an empty cell"))
            elif cell is not None:
                out[k] = cell * factor
        if wrong:
            raise InputError(wrong[:MAX_PROBLEMS])
        return out

    def dimension(self, name: str) -> Dimension | None:
        """Return the dimension of a column or constant, None where its unit is not known.

        Parameters
        ----------
        name : of the column or constant
        """
        if name in self.constants:
            return self.constants[name]
        return si_unit(self.units[name]).dimension if name in self.units else None

    def values(self, expression: Expression, unit: str, what: str) -> Array:
        """Return what arithmetic of columns gives in every row [SI units]; NaN where a cell is empty.

        Parameters
        ----------
        expression : the arithmetic
        unit : SI unit of what it stands for
        what : what it stands for, in messages

        Raises
        ------
        InputError
            If its dimension is another one.
        """
        known: dict[str, Dimension | None] = {name: self.dimension(name) for name in expression.names}
        found, wanted = expression.dimension(known), si_unit(unit).dimension
        if found is not None and found != wanted:
            raise bad_input(f"table, {what}", f"{expression.text.strip()!r}, which is in {found or 'no unit'}", unit or "no unit")
        value = expression.value({name: self.numbers(name) for name in expression.names})
        return np.broadcast_to(np.asarray(value, dtype=float), (self.table.rows,)).copy()
