"""The words of the declaration: columns, vectors, tables, lists of tables, and enumerations."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Column:
    """One number, or several side by side.

    Attributes
    ----------
    name : of the first of them
    meaning : one line
    unit : SI, or empty where it has none
    parts : names of the single numbers, where they have names of their own
    width : how many numbers
    of : the table whose row they are
    """

    name: str
    meaning: str
    unit: str = ""
    parts: tuple[str, ...] = ()
    width: int = 1
    of: Table | None = None

    @property
    def size(self) -> int:
        """How many numbers it takes."""
        return max(self.width, len(self.parts))


@dataclass(frozen=True)
class Table:
    """Rows of float64 or int64 numbers.

    Attributes
    ----------
    name : of the module that holds its columns
    meaning : what a row stands for, one line
    columns : in their order
    whole : whether the numbers are whole
    called : how the kernels call the array
    """

    name: str
    meaning: str
    columns: tuple[Column, ...]
    whole: bool = False
    called: str = ""

    def at(self, name: str) -> int:
        """Return where a column begins.

        Parameters
        ----------
        name : name of the column
        """
        return self.places()[name]

    def places(self) -> dict[str, int]:
        """Return column → where it begins, and part → where it is."""
        out: dict[str, int] = {}
        at = 0
        for column in self.columns:
            out[column.name] = at
            out |= {part: at + k for k, part in enumerate(column.parts)}
            at += column.size
        return out

    def dtype(self) -> np.dtype[np.void]:
        """Return the structured type of a row, its fields the columns in small letters."""
        kind = np.int64 if self.whole else np.float64
        fields: list[tuple[Any, ...]] = []
        for c in self.columns:
            fields.append((c.name.lower(), c.of.dtype()) if c.of else (c.name.lower(), kind, (c.size,) if c.size > 1 else ()))
        return np.dtype(fields)

    def records(self, rows: NDArray[Any]) -> NDArray[np.void]:
        """Return rows of the table as records that are read by name; no copy.

        Parameters
        ----------
        rows : (N, count), C-contiguous
        """
        return rows.view(self.dtype())[:, 0] if len(rows) else np.zeros(0, self.dtype())

    def rows(self, count: int) -> NDArray[Any]:
        """Return so many rows of zeros.

        Parameters
        ----------
        count : how many
        """
        return np.zeros((count, self.count), np.int64 if self.whole else np.float64)

    @property
    def count(self) -> int:
        """How many numbers a row has."""
        return sum(c.size for c in self.columns)


@dataclass(frozen=True)
class Choice:
    """An enumeration: names of the whole numbers from ``first`` on, unless told otherwise.

    Attributes
    ----------
    name : of the module that holds it
    meaning : what it tells apart, one line
    values : name → number
    """

    name: str
    meaning: str
    values: tuple[tuple[str, int], ...]


def number(name: str, meaning: str, unit: str = "") -> Column:
    """Return a column of one number.

    Parameters
    ----------
    name : its name
    meaning : one line
    unit : SI
    """
    return Column(name, meaning, unit)


def vector(name: str, meaning: str, unit: str = "", parts: str = "", width: int = 3) -> Column:
    """Return a column of several numbers, three unless told otherwise.

    Parameters
    ----------
    name : its name
    meaning : one line
    unit : SI
    parts : names of the single numbers, with spaces between
    width : how many
    """
    return Column(name, meaning, unit, tuple(parts.split()), width)


def record(name: str, meaning: str, of: Table) -> Column:
    """Return a column that holds a row of another table.

    Parameters
    ----------
    name : its name
    meaning : one line
    of : the other table
    """
    return Column(name, f"`{of.name}` {meaning}", width=of.count, of=of)


def choice(name: str, meaning: str, names: str, first: int = 0) -> Choice:
    """Return an enumeration of names in their order.

    Parameters
    ----------
    name : its name
    meaning : one line
    names : with spaces between
    first : number of the first
    """
    return Choice(name, meaning, tuple((n, first + k) for k, n in enumerate(names.split())))
