"""Reading a track from CSV: columns ``t,x,y,z`` and optionally ``angle``.

SI units; ``angle`` in rad about +y, unwrapped. A missing coordinate is zero, an empty cell is a
gap. Every fault is named with its row; nothing is half read.
"""

from __future__ import annotations

import csv
from array import array
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from math import isfinite, nan
from pathlib import Path

from pydantic import ValidationError

from yapa.case.evidence import Samples
from yapa.case.importing import ImportSettings
from yapa.case.validation import input_error
from yapa.errors import InputError, InputIssue, bad_input
from yapa.files import open_regular
from yapa.formats.tracks.opening import opened
from yapa.formats.tracks.table import MAX_BYTES, refuse_many

COLUMNS = ("t", "x", "y", "z", "angle")
"""names of plain columns"""
MIN_SAMPLES = 5
"""of a track"""
MAX_SAMPLES = 20_000
"""Longer tracks are thinned evenly, with a notice: a fit gains nothing from more."""
MAX_PROBLEMS = 8
"""that are told of one file"""


@dataclass
class TrackFile:
    """What a file gave: samples, and notices for the person."""

    samples: Samples
    notices: list[str] = field(default_factory=list)
    columns: list[str] = field(default_factory=list)
    how: ImportSettings | None = None


def read_track(path: Path) -> TrackFile:
    """Read a CSV track.

    Parameters
    ----------
    path : the file

    Returns
    -------
    The samples and notices.

    Raises
    ------
    InputError
        With up to eight problems: file, row, what was found, what was expected.
    """
    where = str(path)
    with opened(path, MAX_BYTES, "a CSV file", "a header row t,x,y,z and at least 5 rows of numbers") as head:
        if b"\0" in head:
            raise bad_input(where, "binary data", "a CSV file in UTF-8 text")
        with open_regular(path) as raw:
            refuse_many(where, sum(block.count(b"\n") for block in iter(lambda: raw.read(1 << 20), b"")))
        try:
            with path.open(encoding="utf-8-sig", newline="") as text:
                return _parse(csv.reader(text), where)
        except UnicodeDecodeError:
            raise bad_input(where, "bytes that are not UTF-8", "UTF-8 text; save it again as UTF-8") from None
        except csv.Error as error:
            raise bad_input(where, f"broken CSV ({error})", "rows of comma-separated numbers") from None
    raise AssertionError("opened always answers")


def checked_samples(cells: Mapping[str, object], where: str) -> Samples:
    """Return samples from columns.

    Parameters
    ----------
    cells : cells of the table
    where : what the text or file is called in messages

    Raises
    ------
    InputError
        With the first few values that no sample can have.
    """
    try:
        return Samples.model_validate(cells)
    except ValidationError as error:
        raise InputError(input_error(error, where).problems[:MAX_PROBLEMS], where) from None


def _header(row: list[str], where: str) -> list[str]:
    names = [cell.strip().lower() for cell in row]
    numeric = [n for n in names if _number(n) is not None]
    if numeric:
        raise bad_input(f"{where}, row 1", f"the number {numeric[0]} in the header", "column names, such as t,x,y,z")
    problems = []
    for name in names:
        if name not in COLUMNS:
            shown = name or "(empty)"
            problems.append(InputIssue(f"{where}, row 1", f"the column {shown!r}",
                                       "only t, x, y, z and angle; rename or remove it"))
    for name in set(names):
        if names.count(name) > 1:
            problems.append(InputIssue(f"{where}, row 1", f"the column {name!r} twice", "each column once"))
    if "t" not in names:
        problems.append(InputIssue(f"{where}, row 1", ", ".join(names)[:60] or "nothing", "a column t with times in seconds"))
    if not set(names) & {"x", "y", "z", "angle"}:
        problems.append(InputIssue(f"{where}, row 1", "no coordinate", "at least one of the columns x, y, z, angle"))
    if problems:
        raise InputError(problems)
    return names


def _number(cell: str) -> float | None:
    try:
        return float(cell) if "_" not in cell else None
    except ValueError:
        return None


def _parse(rows: Iterable[list[str]], where: str) -> TrackFile:
    iterator = iter(rows)
    names = _header(next((r for r in iterator if r), []), where)
    data = {name: array("d") for name in names}
    problems: list[InputIssue] = []
    last = -float("inf")
    for number, row in enumerate(iterator, start=2):
        if not row or (len(row) == 1 and not row[0].strip()):
            continue
        at = f"{where}, row {number}"
        if len(row) != len(names):
            problems.append(InputIssue(at, f"{len(row)} cells", f"{len(names)} cells, as in the header"))
        else:
            for name, cell in zip(names, row, strict=True):
                value = _cell(name, cell.strip(), at, problems)
                if name == "t" and isfinite(value):
                    if value <= last:
                        problems.append(InputIssue(at, f"time {value:g} after {last:g}",
                                                "rising times; sort the rows and remove repeats"))
                    if value < 0:
                        problems.append(InputIssue(at, f"time {value:g}", "times from zero on; take the start off"))
                    last = value
                data[name].append(value)
        if len(problems) >= MAX_PROBLEMS:
            break
    if problems:
        raise InputError(problems)
    count = len(data["t"])
    if count < MIN_SAMPLES:
        raise bad_input(where, f"{count} samples", f"at least {MIN_SAMPLES} samples")
    notices = []
    stride = -(-count // MAX_SAMPLES)
    if stride > 1:
        notices.append(f"{where}: {count} rows were thinned to every {stride}th; {-(-count // stride)} samples are used")
    columns = {
        name: tuple(None if v != v else v for v in values[::stride]) for name, values in data.items() if name != "t"
    }
    for name, values in columns.items():
        if all(v is None for v in values):
            raise bad_input(where, f"no number in column {name}", "at least some numbers; remove the column if unused")
    return TrackFile(checked_samples({"t": tuple(data["t"][::stride]), **columns}, where), notices, names)


def _cell(name: str, cell: str, at: str, problems: list[InputIssue]) -> float:
    if not cell:
        if name == "t":
            problems.append(InputIssue(at, "an empty time", "a number in seconds"))
        return nan
    value = _number(cell)
    if value is None:
        hint = "a number with a point for decimals" if "," in cell or ";" in cell else "a number; leave the cell empty for a gap"
        problems.append(InputIssue(f"{at}, column {name}", repr(cell[:40]), hint))
        return nan
    if not isfinite(value):
        problems.append(InputIssue(f"{at}, column {name}", cell[:40], "a finite number; leave the cell empty for a gap"))
        return nan
    return value
