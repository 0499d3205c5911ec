"""From a table to a track: units, frames, axes, gaps, order; every refusal names its row."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from yapa.case.evidence import Samples
from yapa.case.importing import Import
from yapa.errors import InputError, Problem, bad_input
from yapa.formats.csv_track import LEAST_SAMPLES, MAX_PROBLEMS, MOST_SAMPLES
from yapa.formats.roles import ANGLES, LENGTHS, TIMES, guess, number
from yapa.formats.tables import Table, read_table
from yapa.motion import Array


@dataclass(frozen=True)
class Imported:
    """A track from a file: its samples, how it was read, why so, and notices."""

    samples: Samples
    how: Import
    why: tuple[str, ...]
    bodies: tuple[str, ...]


def inspect_file(path: Path) -> tuple[Table, Import, list[str]]:
    """What a file holds and how it would be read.

    Raises
    ------
    InputError
        If it is no table.
    """
    table = read_table(path)
    how, why = guess(table)
    return table, how, why


def import_track(path: Path, how: Import | None = None, **changes: object) -> Imported:
    """Read a track from any table file.

    Parameters
    ----------
    how : as a case keeps it; by default as it is guessed
    changes : fields of :class:`Import` that are said otherwise

    Raises
    ------
    InputError
        With up to eight problems, by row.
    """
    why: list[str] = []
    if how is None:
        table, how, why = inspect_file(path)
    else:
        table = read_table(path, how.sheet, how.delimiter)
    how = how.model_copy(update=changes)
    where = str(path)
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
        Problem(f"{where}, row {lines[i + 1]}", f"time {t[i + 1]:g} after {t[i]:g}", "rising times; add --sort, or remove the row")
        for i in np.flatnonzero(np.diff(t) <= 0)[:MAX_PROBLEMS]
    ]
    if problems:
        raise InputError(problems)
    if len(t) < LEAST_SAMPLES:
        raise bad_input(where, f"{len(t)} samples", f"at least {LEAST_SAMPLES} samples")
    x, y, z = _places(columns, how, where)
    stride = -(-len(t) // MOST_SAMPLES)
    if stride > 1:
        why.append(f"{len(t)} rows, of which every {stride}th is used")
    shift = how.shift - (t[0] if t[0] + how.shift < 0 else 0.0)
    if t[0] + how.shift < 0:
        why.append(f"times begin at {t[0]:g} s; they are counted from there")
    angle = _angle(columns, how, why)
    cells = {
        name: _column(values[::stride]) for name, values in (("x", x), ("y", y), ("z", z), ("angle", angle)) if values is not None
    }
    return Imported(Samples(t=tuple((t + shift)[::stride].tolist()), **cells), how, tuple(why), tuple(bodies))


def _column(values: Array) -> tuple[float | None, ...]:
    return tuple(None if np.isnan(v) else float(v) for v in values)


def _bodies(table: Table, how: Import) -> list[str]:
    if "body" not in how.columns:
        return []
    k = how.columns["body"]
    return sorted({row[k].strip() for row in table.rows[how.first :] if len(row) > k and row[k].strip()})


def _numbers(table: Table, how: Import, where: str) -> tuple[dict[str, Array], list[int]]:
    """Numbers of the wanted columns and the lines they stand on; an empty cell is a gap."""
    wanted = {role: k for role, k in how.columns.items() if role != "body"}
    rows, lines, problems = [], [], []
    for row, line in zip(table.rows[how.first :], table.lines[how.first :], strict=True):
        if how.body is not None and (len(row) <= how.columns["body"] or row[how.columns["body"]].strip() != how.body):
            continue
        values = []
        for role, k in wanted.items():
            cell = row[k].strip() if k < len(row) else ""
            value = number(cell, how.decimal)
            if cell and not np.isfinite(value) and cell.lower() not in ("nan", "na", "n/a", "null", "none", "-", "--", "?"):
                problems.append(
                    Problem(f"{where}, row {line}, column {k + 1} ({role})", repr(cell[:40]), "a number, or nothing for a gap")
                )
            if role in ("time", "frame") and not np.isfinite(value) and not problems:
                problems.append(Problem(f"{where}, row {line}", "no time", "a number in every row"))
            values.append(value if np.isfinite(value) else np.nan)
        if len(problems) >= MAX_PROBLEMS:
            break
        rows.append(values)
        lines.append(line)
    if problems:
        raise InputError(problems)
    if not rows:
        raise bad_input(where, "no row of numbers", "rows of numbers below the header")
    data = np.array(rows, dtype=float)
    return {role: data[:, k] for k, role in enumerate(wanted)}, lines


def _times(columns: dict[str, Array], how: Import, where: str) -> Array:
    if "time" in columns:
        unit = how.units.get("time", "s")
        if unit not in TIMES:
            raise bad_input(where, f"the time unit {unit!r}", f"one of {', '.join(TIMES)}")
        return columns["time"] * TIMES[unit]
    if how.rate is None:
        raise bad_input(where, "frame numbers without a rate", "frames a second; say them with --rate NUMBER")
    frames = columns["frame"]
    return (frames - frames[0]) / how.rate


def _places(columns: dict[str, Array], how: Import, where: str) -> tuple[Array | None, Array | None, Array | None]:
    """x, y, z [m] with z upright."""
    got: dict[str, Array | None] = {}
    for role in ("x", "y", "z"):
        if role not in columns:
            got[role] = None
            continue
        unit = how.units.get(role, "m")  # type: ignore[call-overload]
        if unit not in LENGTHS:
            raise bad_input(where, f"the unit {unit!r} of {role}", f"one of {', '.join(LENGTHS)}")
        factor = LENGTHS[unit]
        if unit == "px":
            if how.scale is None:
                raise bad_input(where, f"{role} in pixels", "a scale in metres a pixel; say it with --scale NUMBER")
            factor = how.scale
        got[role] = columns[role] * (
            how.scale if how.scale is not None and unit != "px" and how.units.get(role) is None else factor
        )  # type: ignore[call-overload]
    x, y, z = got["x"], got["y"], got["z"]
    if how.up == "y":  # right-handed: x stays, y stands upright, z comes forward
        x, y, z = x, (None if z is None else -z), y
    if how.y_down and z is not None:
        z = -z
    return x, y, z


def _angle(columns: dict[str, Array], how: Import, why: list[str]) -> Array | None:
    """Angle about +y [rad], unwrapped: given, or the twist of a quaternion."""
    if "angle" in columns:
        given = columns["angle"] * ANGLES.get(how.units.get("angle", "rad"), 1.0)
        good = np.isfinite(given)
        out = np.full(len(given), np.nan)
        out[good] = np.unwrap(given[good])
        return out
    if not {"qw", "qx", "qy", "qz"} <= set(columns):
        return None
    q = np.column_stack([columns[k] for k in ("qw", "qx", "qy", "qz")])
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
