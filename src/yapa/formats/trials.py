"""Tables of trials from files: one row a trial, named columns, numbers or words in the cells.

A row of names stands above the numbers; a unit in brackets behind a name is the column's (``height (cm)``). Everything else is as
the
readers of tables of measurements read it: delimiters, sheets, decimal marks, empty cells.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from pathlib import Path

from yapa.case.trial_table import MAX_ROWS, MIN_ROWS, Cell
from yapa.case.units import si_unit
from yapa.errors import InputError, InputIssue, bad_input
from yapa.formats.tracks import readers as readers
from yapa.formats.tracks.columns import decimal_of
from yapa.formats.tracks.decimals import Mark, is_number, number
from yapa.formats.tracks.registry import read_table

MAX_PROBLEMS = 8
"""told of one file"""
_TITLE = re.compile(r"^(.*?)[\s_]*(?:\[\s*([^\[\]]+?)\s*\]|\(\s*([^()]+?)\s*\))$")


@dataclass(frozen=True)
class TrialFile:
    """A table of trials from a file: its columns, the units that their names carry, and notices."""

    columns: dict[str, tuple[Cell, ...]]
    units: dict[str, str]
    notices: list[str]


def read_trials(path: Path, sheet: str | None = None, most: int = MAX_ROWS) -> TrialFile:
    """Return the table of trials in a file.

    Parameters
    ----------
    path : the file
    sheet : of a spreadsheet
    most : rows at most

    Raises
    ------
    InputError
        If it is no table with names of columns, or has too few or too many rows.
    """
    table = read_table(path, sheet)
    rows = [(line, row) for line, row in zip(table.lines, table.rows, strict=False) if any(cell.strip() for cell in row)]
    if not rows or any(is_number(cell) for cell in rows[0][1]):
        raise bad_input(str(path), "a first row without names",
                        "a row of names above the numbers, such as height (cm), distance (mm)")
    titles = [cell.strip().strip('"').strip() for cell in rows[0][1]]
    while titles and not titles[-1]:
        titles.pop()
    names, units = [], {}
    for k, title in enumerate(titles):
        name, unit = _named(title)
        name = name or f"column {k + 1}"
        names.append(name)
        if unit is not None:
            units[name] = unit
    twice = sorted({name for name in names if names.count(name) > 1})
    if twice:
        raise bad_input(str(path), f"two columns named {twice[0]!r}", "a name of its own for each column")
    body = rows[1:]
    if not MIN_ROWS <= len(body) <= most:
        raise bad_input(str(path), f"{len(body)} rows of trials", f"from {MIN_ROWS} to {most:,}")
    wide = [InputIssue(f"{path}, row {line}", f"{len(row)} cells", f"{len(names)}, as many as names")
            for line, row in body if any(cell.strip() for cell in row[len(names) :])]
    if wide:
        raise InputError(wide[:MAX_PROBLEMS])
    mark, _ = decimal_of(table, 1)
    if mark is None:
        raise bad_input(str(path), "commas that may part thousands or decimals", "numbers with one kind of decimal mark")
    columns = {name: tuple(_cell(row[k] if k < len(row) else "", mark) for _, row in body) for k, name in enumerate(names)}
    return TrialFile(columns, units, [f"{path}: {len(body)} rows; columns {', '.join(names)}"])


def _named(title: str) -> tuple[str, str | None]:
    """The name in a title, and the unit in brackets behind it, if it is one."""
    found = _TITLE.match(title)
    if found is None or not found[1].strip():
        return title, None
    unit = (found[2] or found[3]).strip()
    try:
        si_unit(unit)
    except InputError:
        return title, None
    return found[1].strip(), unit


def _cell(text: str, mark: Mark) -> Cell:
    text = text.strip()
    if not text or text.lower() in ("na", "nan", "n/a", "-", "–"):
        return None
    value = number(text, mark)
    return value if math.isfinite(value) else text
