"""A table of measurements: rows of cells, and how large one may be."""

from __future__ import annotations

from dataclasses import dataclass, field

from yapa.errors import bad_input

MAX_BYTES = 100_000_000
"""of text, and of what a spreadsheet or a Parquet file unpacks to"""
MAX_ROWS = 1_050_000
"""of a table"""
MAX_CELLS = 5_000_000
"""of a table"""
MAX_COLUMNS = 2_000
"""of a table"""
MAX_LINE = 1_000_000
"""letters of a line of text"""


@dataclass
class Table:
    """Rows of cells as text, with what was found out about the file.

    ``lines`` are the numbers of the rows in the file, from 1, for messages; ``where`` is its name.
    """

    rows: list[list[str]]
    lines: list[int]
    comments: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    delimiter: str | None = None
    sheet: str | None = None
    sheets: tuple[str, ...] = ()
    where: str = "the table"


def refuse_many(where: str, rows: int, columns: int = 1) -> None:
    """Refuse a table of more rows, columns or cells than are read.

    Parameters
    ----------
    where : what the text or file is called in messages
    rows : how many rows
    columns : how many columns

    Raises
    ------
    InputError
        With both numbers.
    """
    if rows > MAX_ROWS:
        raise bad_input(where, f"{rows:,} rows", f"at most {MAX_ROWS:,}; thin it first, a fit gains nothing from more")
    if columns > MAX_COLUMNS:
        raise bad_input(where, f"a row of {columns:,} cells", f"at most {MAX_COLUMNS:,} columns")
    if rows * columns > MAX_CELLS:
        raise bad_input(where, f"{rows:,} rows of {columns:,} cells", f"at most {MAX_CELLS:,} cells; thin it first")


def first_line(error: Exception) -> str:
    """Return the first line of what a reader says of a broken file, or its kind.

    Parameters
    ----------
    error : what was raised
    """
    return next(iter(str(error).splitlines()), type(error).__name__)[:80]


def cell_text(value: object) -> str:
    """Return a value as a cell.

    Parameters
    ----------
    value : its value
    """
    return repr(value) if isinstance(value, float) else str(value)
