"""One and the same track written in many ways."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

RATE = 120.0
T = np.arange(60) / RATE
X, Z = 0.2 + 1.5 * T, 0.9 + 2.0 * T - 4.9 * T**2
ANGLE = 3.0 * T
GAP = 17
"""A frame without places."""


def cells(values: np.ndarray, digits: int = 9, gap: bool = True) -> list[str]:
    out = [f"{v:.{digits}f}" for v in values]
    if gap:
        out[GAP] = ""
    return out


def text(
    path: Path,
    header: list[str],
    columns: list[list[str]],
    mark: str = ",",
    before: str = "",
    comma: bool = False,
    encoding: str = "utf-8",
    quote: bool = False,
    end: str = "\n",
) -> None:
    rows = [header] if header else []
    rows += [list(row) for row in zip(*columns, strict=True)]
    if comma:
        rows = [[cell.replace(".", ",") if any(c.isdigit() for c in cell) else cell for cell in row] for row in rows]
    if quote:
        rows = [[f'"{cell}"' for cell in row] for row in rows]
    path.write_bytes((before + end.join(mark.join(row) for row in rows) + end).encode(encoding))


def layouts() -> Iterator[tuple[str, Callable[[Path], None], dict[str, object]]]:
    """Name, writer, and what must be said when it is read."""
    t, x, z, a = cells(T, gap=False), cells(X), cells(Z), cells(ANGLE)
    for mark, word in ((",", "commas"), (";", "semicolons"), ("\t", "tabs"), ("|", "bars")):
        for comma in (False, True):
            if mark == "," and comma:
                continue
            for head, names in (
                ("plain", ["time", "x", "z"]),
                ("units", ["t [s]", "x [m]", "z [m]"]),
                ("long", ["Time (s)", "pos_x", "pos_z"]),
            ):
                yield (
                    f"{word} {head}{' decimal commas' if comma else ''}",
                    lambda p, m=mark, n=names, c=comma: text(p, n, [t, x, z], m, comma=c),
                    {},
                )
    for unit, factor in (("mm", 1000.0), ("cm", 100.0)):
        yield (
            f"{unit} in brackets",
            lambda p, u=unit, f=factor: text(p, ["t (s)", f"x ({u})", f"z ({u})"], [t, cells(X * f), cells(Z * f)]),
            {},
        )
        yield (
            f"{unit} as a tail",
            lambda p, u=unit, f=factor: text(p, ["t_s", f"x_{u}", f"z_{u}"], [t, cells(X * f), cells(Z * f)]),
            {},
        )
        yield (
            f"{unit} in a row of units",
            lambda p, u=unit, f=factor: text(p, [], [["t", "s", *t], ["x", u, *cells(X * f)], ["z", u, *cells(Z * f)]], ";"),
            {},
        )
        yield (
            f"{unit} after a slash",
            lambda p, u=unit, f=factor: text(p, ["t/s", f"x/{u}", f"z/{u}"], [t, cells(X * f), cells(Z * f)], "\t"),
            {},
        )
    yield "milliseconds", lambda p: text(p, ["t_ms", "x", "z"], [cells(T * 1000, gap=False), x, z]), {}
    yield (
        "time in ms bracket",
        lambda p: text(p, ["time [ms]", "x [mm]", "z [mm]"], [cells(T * 1000, gap=False), cells(X * 1e3), cells(Z * 1e3)]),
        {},
    )
    frames = [str(k) for k in range(len(T))]
    yield "frames, rate in a comment", lambda p: text(p, ["frame", "x", "z"], [frames, x, z], before="# fps: 120\n"), {}
    yield "frames, rate said", lambda p: text(p, ["frame", "x", "z"], [frames, x, z]), {"rate": RATE}
    yield (
        "frames from one",
        lambda p: text(p, ["Frame", "x", "z"], [[str(k + 1) for k in range(len(T))], x, z], ";"),
        {"rate": RATE},
    )
    yield (
        "comments before",
        lambda p: text(p, ["t", "x", "z", "quality"], [t, x, z, ["1"] * 60], before="# plate 3\n# second take\n"),
        {},
    )
    yield (
        "lines of words before",
        lambda p: text(p, ["time", "x", "z"], [t, x, z], ";", before="Recorded at the chute\nOperator;none\n\n"),
        {},
    )
    yield "no header", lambda p: text(p, [], [t, cells(X, gap=False), cells(Z, gap=False)]), {}
    yield "no header, spaces", lambda p: text(p, [], [t, cells(X, gap=False), cells(Z, gap=False)], "   "), {}
    yield "no header, decimal commas", lambda p: text(p, [], [t, cells(X, gap=False), cells(Z, gap=False)], ";", comma=True), {}
    yield "quoted", lambda p: text(p, ["time", "x", "z", "note"], [t, x, z, ["a, b"] * 60], quote=True), {}
    yield "CRLF", lambda p: text(p, ["time", "x", "z"], [t, x, z], ";", end="\r\n"), {}
    yield "byte-order mark", lambda p: text(p, ["time", "x", "z"], [t, x, z], encoding="utf-8-sig"), {}
    yield "UTF-16", lambda p: text(p, ["time", "x", "z"], [t, x, z], "\t", encoding="utf-16"), {}
    yield "Latin-1", lambda p: text(p, ["time", "x", "z", "Güte"], [t, x, z, x], ";", encoding="latin-1"), {}
    yield "columns in another order", lambda p: text(p, ["z", "confidence", "x", "t"], [z, ["0.9"] * 60, x, t]), {}
    yield "upright is y", lambda p: text(p, ["time", "x", "y"], [t, x, z]), {}
    yield "y up with z forward", lambda p: text(p, ["time", "x", "y", "z"], [t, x, z, ["0.0"] * 60]), {"up": "y"}
    yield ("pixels down", lambda p: text(p, ["t", "x_px", "y_px"], [t, cells(X / 0.002), cells(-Z / 0.002)]), {"pixel_size": 0.002})
    yield (
        "pixels, scale in a comment",
        lambda p: text(p, ["t", "x [px]", "y [px]"], [t, cells(X / 0.002), cells(-Z / 0.002)], before="% scale: 0.002\n"),
        {},
    )
    yield "angle in degrees", lambda p: text(p, ["t", "x", "z", "angle_deg"], [t, x, z, cells(np.degrees(ANGLE))]), {}
    yield "angle in radians", lambda p: text(p, ["time", "x", "z", "theta"], [t, x, z, a]), {}
    half = ANGLE / 2
    quaternion = [cells(np.cos(half)), cells(0 * half), cells(np.sin(half)), cells(0 * half)]
    yield "quaternion", lambda p: text(p, ["time", "x", "z", "qw", "qx", "qy", "qz"], [t, x, z, *quaternion]), {}
    yield "gaps as nan", lambda p: text(p, ["time", "x", "z"], [t, [c or "nan" for c in x], [c or "NaN" for c in z]], ";"), {}
    yield "gaps as a dash", lambda p: text(p, ["time", "x", "z"], [t, [c or "-" for c in x], [c or "-" for c in z]], "\t"), {}
    yield (
        "several bodies, long",
        lambda p: text(
            p,
            ["time", "body", "x", "z"],
            [
                [v for v in t for _ in range(2)],
                ["lemon", "orange"] * 60,
                [c for v in x for c in ("9.0", v)],
                [c for v in z for c in ("9.0", v)],
            ],
        ),
        {"body": "orange"},
    )
    yield ("rows out of order", lambda p: text(p, ["time", "x", "z"], [v[30:] + v[:30] for v in (t, x, z)], ";"), {"sorted": True})
    yield "shifted times", lambda p: text(p, ["time", "x", "z"], [cells(T + 5.0, gap=False), x, z], ";"), {"time_offset": -5.0}
    yield "times before zero", lambda p: text(p, ["time", "x", "z"], [cells(T - 0.5, gap=False), x, z], ";"), {}
    yield (
        "exponents",
        lambda p: text(p, ["time", "x", "z"], [[f"{v:.9e}" for v in T], [f"{v:.9e}" for v in X], [f"{v:.9e}" for v in Z]], ";"),
        {},
    )
    wide = ["time", "lemon x", "lemon z", "x", "z"]
    yield "wide, by column", lambda p: text(p, wide, [t, x[::-1], z, x, z], ";"), {"planar": True}
    yield "semicolons at the ends", lambda p: text(p, ["time", "x", "z", ""], [t, x, z, [""] * 60], ";"), {}
    yield "empty lines between", lambda p: text(p, ["time", "x", "z"], [t, x, z], ";", end="\n\n"), {}
    yield "capital names", lambda p: text(p, ["TIME", "X", "Z"], [t, x, z], "\t"), {}
    yield "Parquet", _parquet({"time": T, "x": X, "z": Z}), {}
    yield "Parquet in millimetres", _parquet({"t_ms": T * 1000, "x_mm": X * 1000, "z_mm": Z * 1000}), {}
    yield "Parquet of frames", _parquet({"frame": np.arange(60), "x": X, "z": Z}), {"rate": RATE}


def _parquet(columns: dict[str, np.ndarray]) -> Callable[[Path], None]:
    return lambda path: pq.write_table(pa.table(columns), path)
