"""From a table to a track: units, frames, axes, gaps, order; every refusal names its row."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import ValidationError

from yapa.case.evidence import Samples
from yapa.case.importing import ImportSettings, Role
from yapa.case.validation import input_error
from yapa.errors import InputError, InputIssue, bad_input
from yapa.formats.tracks import readers as _readers  # noqa: F401  (registers the readers)
from yapa.formats.tracks.columns import AXES, KINDS, Guess, Questions, guess
from yapa.formats.tracks.decimals import GAPS, numbers_of
from yapa.formats.tracks.plain_csv import MAX_PROBLEMS, MAX_SAMPLES, MIN_SAMPLES, checked_samples
from yapa.formats.tracks.registry import read_table
from yapa.formats.tracks.table import Table
from yapa.formats.units import UNITS, find_unit, symbols
from yapa.motion import Array


@dataclass(frozen=True)
class Imported:
    """A track from a file: its samples, how it was read, why so, and notices."""

    samples: Samples
    how: ImportSettings
    why: tuple[str, ...]
    bodies: tuple[str, ...]


@dataclass(frozen=True)
class ImportOverrides:
    """What a person says of a file of measurements.

    Attributes
    ----------
    columns : role → number of the column, from 0
    units : role → symbol of its unit
    planar : whether columns that are not known are no positions
    fields : other fields of :class:`ImportSettings`, such as ``rate`` [1/s] or ``pixel_size`` [m]

    Notes
    -----
    Roles, units and what is guessed without a word stand in ``docs/evidence.md``.

    Examples
    --------
    >>> ImportOverrides(columns={"time": 0, "z": 2}, units={"z": "cm"}).units["z"]
    'cm'
    """

    columns: Mapping[Role, int] = field(default_factory=dict)
    units: Mapping[Role, str] = field(default_factory=dict)
    planar: bool = False
    fields: Mapping[str, Any] = field(default_factory=dict)

    def over(self, how: ImportSettings) -> ImportSettings:
        """Return a reading with what was said in place of what was guessed.

        Parameters
        ----------
        how : settings of the import

        Raises
        ------
        InputError
            If a field cannot be what was said.
        """
        taken = set(self.columns.values())
        columns = {role: k for role, k in how.columns.items() if k not in taken} | dict(self.columns)
        moved = {role for role in self.columns if how.columns.get(role) != self.columns[role]}
        units = {role: unit for role, unit in how.units.items() if role not in moved} | dict(self.units)
        changes = {"columns": columns, "units": units, **self.fields}
        if "up" not in self.fields and self.columns:
            changes["up"] = "y" if "y" in columns and "z" not in columns else how.up if "z" not in self.columns else "z"
        if "y_down" not in self.fields and any(units.get(role) == "px" for role in AXES):
            changes["y_down"] = True
        try:
            return ImportSettings.model_validate({**how.model_dump(), **changes})
        except ValidationError as error:
            raise input_error(error, "how the file is read") from None

    def settle(self, table: Table, found: Guess) -> ImportSettings:
        """Return the reading of a table, once this is said of it.

        Parameters
        ----------
        table : rows of cells
        found : how the table would be read, as far as it can be guessed

        Raises
        ------
        Questions
            Where only a person can say what is meant, and has not.
        """
        named = {role: unit for role, k in self.columns.items() if (unit := found.unit_of(k, role)) is not None}
        how = replace(self, units={**named, **self.units}).over(found.how)
        fields = {*self.fields, *(["planar"] if self.planar else [])}
        if problems := found.open_questions(fields, self.columns, set(self.units), table.where):
            raise Questions(problems[:MAX_PROBLEMS], table, how, found.why)
        return how


def inspect_file(path: Path, overrides: ImportOverrides | None = None) -> tuple[Table, Guess]:
    """Return what a file holds and how it would be read.

    Parameters
    ----------
    path : the file
    overrides : what a person says of the file

    Raises
    ------
    InputError
        If it is no table.
    """
    fields = overrides.fields if overrides is not None else {}
    table = read_table(path, fields.get("sheet"), fields.get("delimiter"))
    return table, guess(table)


def import_track(path: Path, how: ImportSettings | None = None, overrides: ImportOverrides | None = None,
                 **fields: object) -> Imported:
    """Read a track from any table file.

    Parameters
    ----------
    path : the file
    how : as a case keeps it; by default as it is guessed
    overrides : what a person says otherwise
    fields : more of what is said, as fields of :class:`ImportSettings`

    Returns
    -------
    The samples, how they were read, why so, and the bodies of the file.

    Raises
    ------
    Questions
        Where only a person can say what is meant.
    InputError
        With up to eight problems, by row.
    """
    overrides = overrides or ImportOverrides()
    overrides = ImportOverrides(overrides.columns, overrides.units, overrides.planar, {**overrides.fields, **fields})
    if how is None:
        table, found = inspect_file(path, overrides)
        how, why = overrides.settle(table, found), list(found.why)
    else:
        how, why = overrides.over(how), []
        table = read_table(path, how.sheet, how.delimiter)
    return track_of(table, how, why)


def track_of(table: Table, how: ImportSettings, why: list[str]) -> Imported:
    """Return the track that a table holds, read in this way.

    Parameters
    ----------
    table : rows of cells
    how : settings of the import
    why : reasons for what was guessed, to be added to

    Raises
    ------
    InputError
        With up to eight problems, by row.
    """
    where = table.where
    if "time" not in how.columns and "frame" not in how.columns:
        raise bad_input(
            where, "no column of times or frames", "one that rises from row to row; say which with --column time=NUMBER"
        )
    if not set(how.columns) & {"x", "y", "z", "angle", "qw"}:
        raise bad_input(where, "no column of places", "at least one; say which with --column x=NUMBER")
    bodies = _bodies(table, how)
    if len(bodies) > 1 and how.body is None:
        raise bad_input(where, f"several bodies: {', '.join(bodies[:8])}", "one of them; say which with --body NAME")
    if how.body is not None and how.body not in bodies:
        raise bad_input(where, f"no body {how.body!r}", f"one of {', '.join(bodies[:8]) or 'none; there is no body column'}")
    columns, lines = _numbers(table, how, where)
    t = _times(columns, how, where)
    order = np.argsort(t, kind="stable")
    if how.sorted:
        t, lines = t[order], [lines[i] for i in order]
        columns = {role: values[order] for role, values in columns.items()}
    problems = [
        InputIssue(f"{where}, row {lines[i + 1]}", f"time {t[i + 1]:g} after {t[i]:g}",
                   "rising times; add --sort, or remove the row")
        for i in np.flatnonzero(np.diff(t) <= 0)[:MAX_PROBLEMS]
    ]
    if problems:
        raise InputError(problems)
    if len(t) < MIN_SAMPLES:
        raise bad_input(where, f"{len(t)} samples", f"at least {MIN_SAMPLES} samples")
    x, y, z = _places(columns, how, where)
    stride = -(-len(t) // MAX_SAMPLES)
    if stride > 1:
        why.append(f"{len(t)} rows, of which every {stride}th is used")
    shift = how.time_offset - (t[0] if t[0] + how.time_offset < 0 else 0.0)
    if t[0] + how.time_offset < 0:
        why.append(f"times begin at {t[0]:g} s; they are counted from there")
    angle = _angle(columns, how, why, where)
    cells = {
        name: _column(values[::stride]) for name, values in (("x", x), ("y", y), ("z", z), ("angle", angle)) if values is not None
    }
    samples = checked_samples({"t": tuple((t + shift)[::stride].tolist()), **cells}, where)
    return Imported(samples, how, tuple(why), tuple(bodies))


def _column(values: Array) -> tuple[float | None, ...]:
    return tuple(None if np.isnan(v) else float(v) for v in values)


def _bodies(table: Table, how: ImportSettings) -> list[str]:
    if "body" not in how.columns:
        return []
    k = how.columns["body"]
    return sorted({row[k].strip() for row in table.rows[how.first :] if len(row) > k and row[k].strip()})


def _numbers(table: Table, how: ImportSettings, where: str) -> tuple[dict[Role, Array], list[int]]:
    """Numbers of the wanted columns and the lines they stand on; an empty cell is a gap."""
    wanted = {role: k for role, k in how.columns.items() if role != "body"}
    rows, lines = table.rows[how.first :], table.lines[how.first :]
    if how.body is not None:
        k = how.columns["body"]
        mine = [i for i, row in enumerate(rows) if len(row) > k and row[k].strip() == how.body]
        rows, lines = [rows[i] for i in mine], [lines[i] for i in mine]
    if not rows:
        raise bad_input(where, "no row of numbers", "rows of numbers below the header")
    columns: dict[Role, Array] = {}
    problems: list[tuple[int, InputIssue]] = []
    for role, k in wanted.items():
        cells = [row[k] if k < len(row) else "" for row in rows]
        values = numbers_of(cells, how.decimal)
        for i in np.flatnonzero(np.isnan(values)):
            cell = cells[i].strip()
            if cell.lower() not in GAPS:
                at = f"{where}, row {lines[i]}, column {k + 1} ({role})"
                problems.append((lines[i], InputIssue(at, repr(cell[:40]), "a number, or nothing for a gap")))
            elif role in ("time", "frame"):
                problems.append((lines[i], InputIssue(f"{where}, row {lines[i]}", "no time", "a number in every row")))
            if len(problems) >= 4 * MAX_PROBLEMS:
                break
        columns[role] = values
    if problems:
        raise InputError([problem for _, problem in sorted(problems, key=lambda pair: pair[0])[:MAX_PROBLEMS]])
    return columns, lines


def _factor(how: ImportSettings, role: Role, where: str) -> float:
    """What a number of a column is in m, s or rad."""
    unit = how.units.get(role)
    if unit is None:
        return 1.0
    symbol, kind = find_unit(unit), KINDS[role]
    if symbol is None or UNITS[symbol].kind is not kind:
        raise bad_input(where, f"the {kind} unit {unit!r} of {role}", f"one of {', '.join(symbols(kind))}")
    return UNITS[symbol].factor


def _times(columns: dict[Role, Array], how: ImportSettings, where: str) -> Array:
    if "time" in columns:
        return columns["time"] * _factor(how, "time", where)
    if how.rate is None:
        raise bad_input(where, "frame numbers without a rate", "frames a second; say them with --rate NUMBER")
    frames = columns["frame"]
    return np.asarray((frames - frames[0]) / how.rate)


def _places(columns: dict[Role, Array], how: ImportSettings, where: str) -> tuple[Array | None, Array | None, Array | None]:
    """x, y, z [m] with z upright."""
    got: dict[Role, Array | None] = {}
    for role in AXES:
        if role not in columns:
            got[role] = None
            continue
        factor = _factor(how, role, where)
        unit = how.units.get(role)
        if unit is not None and find_unit(unit) == "px" and how.pixel_size is None:
            raise bad_input(where, f"{role} in pixels", "a scale in metres a pixel; say it with --scale NUMBER")
        if how.pixel_size is not None and (unit is None or find_unit(unit) == "px"):
            factor = how.pixel_size
        got[role] = columns[role] * factor
    x, y, z = got["x"], got["y"], got["z"]
    if how.up == "y":  # right-handed: x stays, y stands upright, z comes forward
        x, y, z = x, (None if z is None else -z), y
    if how.y_down and z is not None:
        z = -z
    return x, y, z


def _angle(columns: dict[Role, Array], how: ImportSettings, why: list[str], where: str) -> Array | None:
    """Angle about +y [rad], unwrapped: given, or the twist of a quaternion."""
    if "angle" in columns:
        given = columns["angle"] * _factor(how, "angle", where)
        good = np.isfinite(given)
        out = np.full(len(given), np.nan)
        out[good] = np.unwrap(given[good])
        return out
    if not {"qw", "qx", "qy", "qz"} <= set(columns):
        return None
    q = np.column_stack([columns["qw"], columns["qx"], columns["qy"], columns["qz"]])
    if how.up == "y":
        q = q[:, [0, 1, 3, 2]] * [1, 1, -1, 1]
    size = np.linalg.norm(q, axis=1)
    good = np.isfinite(size) & (size > 1e-9)
    out = np.full(len(q), np.nan)
    out[good] = np.unwrap(2 * np.arctan2(q[good, 2], q[good, 0]))
    other = np.degrees(2 * np.arcsin(np.clip(np.hypot(q[good, 1], q[good, 3]) / size[good], 0, 1)))
    if len(other) and np.ptp(other) > 5:
        why.append(f"of the orientation only the turn about y is used; up to {other.max():.0f}° are about other axes")
    return out
