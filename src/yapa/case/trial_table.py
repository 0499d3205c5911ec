"""A table of trials: one row a trial, with what was set and what was measured."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from pydantic import Field, model_validator

from yapa.case.base import Model
from yapa.case.evidence import Wanted
from yapa.case.expressions import Expression, parse_expression
from yapa.case.parameter_path import PathText
from yapa.errors import InputError

MIN_ROWS, MAX_ROWS = 2, 2000
"""of a table of trials"""
ExpressionText = Annotated[str, Field(min_length=1, max_length=400)]
ColumnName = Annotated[str, Field(min_length=1, max_length=200)]
Cell = Wanted | str | None


class Measured(Model):
    """What a column measured: an outcome in words (or arithmetic of outcomes, constants and columns), and its value.

    ``value`` and ``sigma`` are arithmetic of columns; without ``sigma`` the scatter is found.
    """

    outcome: Annotated[str, Field(min_length=1, max_length=400)]
    value: ExpressionText
    sigma: ExpressionText | None = None


class TrialTable(Model):
    """Rows of trials. Each is the case with the settings of the row, run alone.

    Either ``columns`` stand in the case (name → cells), or ``file`` names a table beside it. ``settings`` say what arithmetic of
    columns each number of the case has in a row, ``measured`` which outcomes were measured. Every unknown is shared by all rows,
    but
    for those of ``free_per``: column → unknowns that each of its values (a day, a ball, a row) has for itself. ``units`` are those
    of columns, where neither their name nor the arithmetic says them.
    """

    file: str | None = None
    columns: dict[ColumnName, tuple[Cell, ...]] | None = None
    units: dict[ColumnName, str] = {}
    settings: dict[PathText, ExpressionText] = {}
    measured: Annotated[tuple[Measured, ...], Field(min_length=1, max_length=20)]
    free_per: dict[ColumnName, tuple[PathText, ...]] = {}

    @model_validator(mode="after")
    def _consistent(self) -> TrialTable:
        if self.file is None and self.columns is None:
            raise ValueError('a table needs "columns" or a "file"')
        lengths = {name: len(cells) for name, cells in (self.columns or {}).items()}
        if len(set(lengths.values())) > 1:
            raise ValueError(f"columns of different lengths: {', '.join(f'{name} {n}' for name, n in lengths.items())}")
        if lengths and not MIN_ROWS <= self.rows <= MAX_ROWS:
            raise ValueError(f"{self.rows} rows; a table of trials has from {MIN_ROWS} to {MAX_ROWS:,}")
        try:
            for _ in self.expressions():
                pass
        except InputError as error:
            raise ValueError(f"{error.problems[0].found}; {error.problems[0].expected}") from None
        return self

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(next(iter(self.columns.values()), ())) if self.columns else 0

    def expressions(self) -> Iterator[tuple[str, Expression]]:
        """Return what each expression is for, and the expression.

        Raises
        ------
        InputError
            If one cannot be read.
        """
        for path, text in self.settings.items():
            yield f"the setting of {path}", parse_expression(text)
        for measured in self.measured:
            yield f"the measured {measured.outcome}", parse_expression(measured.value)
            if measured.sigma is not None:
                yield f"the σ of {measured.outcome}", parse_expression(measured.sigma)
