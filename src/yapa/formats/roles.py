"""Which column is what: a guess from names, units and the numbers themselves, always shown, never silent."""

from __future__ import annotations

import re
from typing import Literal

import numpy as np

from yapa.case.importing import Import, Role
from yapa.formats.tables import Table

LENGTHS = {"m": 1.0, "cm": 0.01, "mm": 0.001, "km": 1000.0, "µm": 1e-6, "um": 1e-6, "in": 0.0254, "ft": 0.3048, "px": 1.0}
TIMES = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "min": 60.0}
ANGLES = {"rad": 1.0, "deg": np.pi / 180, "°": np.pi / 180, "rev": 2 * np.pi, "turn": 2 * np.pi}
_WORDS = {
    "sec": "s",
    "secs": "s",
    "second": "s",
    "seconds": "s",
    "msec": "ms",
    "millisecond": "ms",
    "milliseconds": "ms",
    "meter": "m",
    "meters": "m",
    "metre": "m",
    "metres": "m",
    "degree": "deg",
    "degrees": "deg",
    "radian": "rad",
    "radians": "rad",
    "pixel": "px",
    "pixels": "px",
    "centimeter": "cm",
    "millimeter": "mm",
    "pix": "px",
}
_NAMES: tuple[tuple[Role, str], ...] = (
    ("time", r"(t|time|zeit|temps|tiempo|timestamp|clock|sec|seconds)"),
    ("frame", r"(frame|frames|f|index|i|n|no|nr|step|bild)"),
    ("qw", r"(qw|quat_?w|orientation_?w|rot_?w|q0)"),
    ("qx", r"(qx|quat_?x|orientation_?x|rot_?x|q1)"),
    ("qy", r"(qy|quat_?y|orientation_?y|rot_?y|q2)"),
    ("qz", r"(qz|quat_?z|orientation_?z|rot_?z|q3)"),
    ("angle", r"(angle|theta|phi|rotation|rot|winkel|pitch|roll)"),
    ("x", r"(x|pos_?x|position_?x|x_?pos|px|x_?coord|loc_?x|location_?x|tx|center_?x|centre_?x|horizontal)"),
    ("y", r"(y|pos_?y|position_?y|y_?pos|py|y_?coord|loc_?y|location_?y|ty|center_?y|centre_?y)"),
    ("z", r"(z|pos_?z|position_?z|z_?pos|pz|z_?coord|loc_?z|location_?z|tz|center_?z|centre_?z|height|h|elevation|vertical)"),
    ("body", r"(body|object|id|name|track|label|particle|marker|target)"),
)


def number(cell: str, decimal: str = ".") -> float:
    """A cell's number, NaN for none."""
    text = cell.strip().replace("\u2212", "-").strip("'")
    if decimal == ",":
        text = text.replace(".", "").replace(",", ".") if text.count(",") == 1 else text
    try:
        return float(text)
    except ValueError:
        return float("nan")


def is_number(cell: str) -> bool:
    """Whether a cell is a number with either decimal mark."""
    return not np.isnan(number(cell)) or not np.isnan(number(cell, ",")) if cell.strip() else False


def split_name(cell: str) -> tuple[str, str | None]:
    """A header cell as name and unit: ``x (mm)``, ``t [s]``, ``time_ms``, ``height/m``, ``angle in deg``."""
    text = cell.strip().strip('"').lower()
    found = re.match(r"^(.*?)[\s_]*(?:\[\s*(.+?)\s*\]|\(\s*(.+?)\s*\)|/\s*(\S+)|\bin\s+(\S+)|,\s*(\S+))\s*$", text)
    unit = next((g for g in found.groups()[1:] if g), None) if found else None
    name = found[1] if found else text
    if unit is None:
        tail = re.match(r"^(.+?)[\s_-]+(ms|s|sec|seconds|mm|cm|m|px|pixels?|deg|rad|us)$", text)
        if tail:
            name, unit = tail[1], tail[2]
    name = re.sub(r"[\s\-.]+", "_", name.strip(" _:"))
    unit = _WORDS.get(unit, unit) if unit else None
    known = unit in LENGTHS or unit in TIMES or unit in ANGLES
    return name, unit if known else None


def find_first(table: Table) -> int:
    """The first row of numbers: from it on, rows have as many numbers as most."""
    counts = [sum(is_number(cell) for cell in row) for row in table.rows[:2000]]
    usual = int(np.median([c for c in counts if c > 0] or [0]))
    for i, c in enumerate(counts):
        if c >= max(2, usual - 1) and (i + 1 >= len(counts) or counts[i + 1] >= max(2, usual - 1)):
            return i
    return 0


def find_decimal(table: Table, first: int) -> Literal[".", ","]:
    """A comma where cells read as numbers only with it."""
    with_comma = with_point = 0
    for row in table.rows[first : first + 200]:
        for cell in row:
            with_comma += bool(re.fullmatch(r"\s*[-+]?\d*,\d+(?:[eE][-+]?\d+)?\s*", cell))
            with_point += bool(re.fullmatch(r"\s*[-+]?\d*\.\d+(?:[eE][-+]?\d+)?\s*", cell))
    return "," if with_comma > with_point else "."


def guess(table: Table) -> tuple[Import, list[str]]:
    """How a table would be read, and the reasons in words."""
    first = find_first(table)
    decimal = find_decimal(table, first)
    why = list(table.said)
    if decimal == ",":
        why.append("decimal commas")
    columns, units = _by_names(table, first)
    if columns:
        why.append("columns by their names: " + ", ".join(f"{role} is column {k + 1}" for role, k in columns.items()))
    else:
        columns = _by_numbers(table, first, decimal)
        why.append("no header; columns by their numbers: " + ", ".join(f"{role} is column {k + 1}" for role, k in columns.items()))
    rate, scale = _from_comments(table)
    for text in table.comments + [" ".join(row) for row in table.rows[:first]]:
        for role, unit in re.findall(
            r"\b(time|t|x|y|z|angle|length|position)s?\s*(?:in|:|=|unit|units)\s*(ms|s|mm|cm|m|px|deg|rad)\b", text.lower()
        ):
            for key in {"length": ("x", "y", "z"), "position": ("x", "y", "z"), "t": ("time",)}.get(role, (role,)):
                if key in columns and key not in units:
                    units[key] = unit  # type: ignore[index]
    up: Literal["y", "z"] = "y" if "y" in columns and "z" not in columns else "z"
    if up == "y" and "y" in columns:
        why.append("no z: y is taken to stand upright")
    pixels = any(units.get(role) == "px" for role in ("x", "y", "z"))
    if pixels:
        why.append("pixels, growing downwards" + ("" if scale else "; they need a scale in metres a pixel"))
    unit_words = ", ".join(f"{role} in {unit}" for role, unit in units.items())
    why.append(f"units: {unit_words}" if units else "no units given: metres, seconds and radians are taken")
    if "time" not in columns and "frame" in columns:
        why.append(f"frame numbers at {rate:g} a second" if rate else "frame numbers; they need a rate")
    if "body" in columns:
        names = sorted({row[columns["body"]] for row in table.rows[first:] if len(row) > columns["body"]})
        why.append(f"several bodies: {', '.join(names[:8])}" if len(names) > 1 else f"one body: {names[0] if names else '-'}")
    return Import(
        sheet=table.sheet,
        delimiter=table.delimiter,
        decimal=decimal,
        first=first,
        columns=columns,
        units=units,  # type: ignore[arg-type]
        rate=rate,
        scale=scale,
        y_down=pixels,
        up=up,
    ), why  # type: ignore[arg-type]


def _by_names(table: Table, first: int) -> tuple[dict[Role, int], dict[Role, str]]:
    for row in reversed(table.rows[max(0, first - 3) : first]):
        columns: dict[Role, int] = {}
        units: dict[Role, str] = {}
        unit_row = table.rows[first - 1] if row is not table.rows[first - 1] else None
        for k, cell in enumerate(row):
            name, unit = split_name(cell)
            for role, pattern in _NAMES:
                if role not in columns and re.fullmatch(pattern, name):
                    columns[role] = k
                    below = unit_row[k].strip(" []()").lower() if unit_row is not None and k < len(unit_row) else None
                    below = _WORDS.get(below, below) if below else None
                    unit = unit or (below if below in LENGTHS or below in TIMES or below in ANGLES else None)
                    if unit is not None:
                        units[role] = unit
                    break
        if ("time" in columns or "frame" in columns) and set(columns) & {"x", "y", "z", "angle", "qw"}:
            return columns, units
    return {}, {}


def _by_numbers(table: Table, first: int, decimal: str) -> dict[Role, int]:
    """The first column that only rises is time (or frames), those after it x, y, z, or x, z where there are two."""
    rows = table.rows[first : first + 500]
    width = min(len(row) for row in rows)
    numbers = np.array([[number(cell, decimal) for cell in row[:width]] for row in rows])
    for k in range(width):
        column = numbers[:, k]
        seen = column[np.isfinite(column)]
        if len(seen) > 2 and (np.diff(seen) > 0).all():
            steps = np.diff(seen)
            frames = bool((steps == 1).all() and seen[0] in (0.0, 1.0))
            rest = [j for j in range(width) if j != k and np.isfinite(numbers[:, j]).any()]
            names: tuple[Role, ...] = ("x", "y", "z", "angle") if len(rest) > 2 else (("x", "z") if len(rest) == 2 else ("z",))
            return {"frame" if frames else "time": k, **dict(zip(names, rest, strict=False))}
    return {}


def _from_comments(table: Table) -> tuple[float | None, float | None]:
    """A frame rate and a scale that a comment or a line above the numbers gives."""
    text = "\n".join(table.comments + [" ".join(row) for row in table.rows[:20]]).lower()
    rate = re.search(
        r"(?:fps|frame\s*rate|frames?\s*(?:per|/|a)\s*s(?:econd)?|hz)\D{0,4}([\d.]+)|([\d.]+)\s*(?:fps|hz|frames?\s*(?:per|/|a)\s*s)",
        text,
    )
    scale = re.search(r"(?:scale|m\s*/\s*px|metres?\s*(?:per|a)\s*pixel|m\s*per\s*px)\D{0,6}([\d.]+(?:e-?\d+)?)", text)
    value = next((g for g in rate.groups() if g), None) if rate else None
    return (
        float(value) if value and re.fullmatch(r"\d+\.?\d*", value) and float(value) > 0 else None,
        float(scale[1]) if scale and re.fullmatch(r"\d*\.?\d+(?:e-?\d+)?", scale[1]) and float(scale[1]) > 0 else None,
    )
