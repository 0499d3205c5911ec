"""Tracks as strangers have them: columns × scales × gaps × motions × rates × rounding, from a seed.

What they are of makes no sense as often as it does: pixels taken for metres, a column that is constant, four rows, leaps.
"""

from __future__ import annotations

import numpy as np

from yapa.case import Samples

COLUMNS = ("xyz", "xz", "z", "x", "xy", "yz", "xz+angle", "angle")
SCALES = (1.0, 1e-3, 0.01, 100.0, 700.0, 1e5)
MOTIONS = ("drop", "throw", "roll", "still", "leaps", "walk", "ramp")
ROWS = (5, 6, 9, 30, 90, 240)
RATES = (5.0, 25.0, 60.0, 240.0, 10_000.0)
GAPS = ("none", "some", "one column", "most", "a long one", "first", "last")
MARKS = ("none", "spike", "frozen", "rounded", "offset")


def bounces(t: np.ndarray, height: float, e: float) -> np.ndarray:
    """Height of a ball that is dropped and bounces, in closed form."""
    z, g = np.zeros_like(t), 9.81
    begin, v = -np.sqrt(2 * height / g), np.sqrt(2 * g * height)
    for _ in range(40):
        end = begin + 2 * v / g
        inside = (t >= begin) & (t < end)
        z[inside] = v * (t[inside] - begin) - g * (t[inside] - begin) ** 2 / 2
        begin, v = end, e * v
    return z


def strange_track(seed: int) -> tuple[str, Samples]:
    """What a track is, in words, and its samples."""
    rng = np.random.default_rng(seed)
    columns, scale, motion, rows, rate, gaps, mark = (
        kinds[int(rng.integers(len(kinds)))] for kinds in (COLUMNS, SCALES, MOTIONS, ROWS, RATES, GAPS, MARKS))
    t = np.arange(rows) / rate
    if rng.random() < 0.3:
        t = t + rng.uniform(0.0, 3.0)
    x = {
        "drop": np.column_stack([0 * t, 0 * t, bounces(t, 1.0, 0.6)]),
        "throw": np.column_stack([1.5 * t, 0.2 * t, bounces(t, 0.8, 0.7)]),
        "roll": np.column_stack([0.8 * t - 0.1 * t**2, 0 * t, 0 * t + 0.0365]),
        "still": np.tile([0.3, 0.0, 0.1], (rows, 1)),
        "leaps": rng.normal(size=(rows, 3)),
        "walk": np.cumsum(0.01 * rng.normal(size=(rows, 3)), axis=0),
        "ramp": np.column_stack([0.5 * t**2, 0 * t, 1.0 - 0.1 * t**2]),
    }[motion] * scale
    if motion not in ("still",) and rng.random() < 0.7:
        x = x + 0.001 * scale * rng.normal(size=x.shape)
    x[rng.integers(rows)] += {"spike": 5.0 * scale, "offset": 0.0}.get(mark, 0.0)
    if mark == "frozen":
        x[rows // 2 :] = x[rows // 2]
    if mark == "rounded":
        x = np.round(x / (0.01 * scale)) * 0.01 * scale
    if mark == "offset":
        x = x - x[0] + 1000.0
    angle = np.cumsum(rng.normal(size=rows)) * 0.3
    hidden = np.zeros((rows, 4), bool)
    if gaps == "some":
        hidden[rng.random(rows) < 0.2] = True
    elif gaps == "one column":
        hidden[rng.random(rows) < 0.3, int(rng.integers(4))] = True
    elif gaps == "most":
        hidden[rng.random(rows) < 0.8] = True
    elif gaps == "a long one":
        hidden[rows // 3 : 2 * rows // 3] = True
    elif gaps == "first":
        hidden[: rows // 4] = True
    elif gaps == "last":
        hidden[-rows // 4 :] = True
    kept = {}
    for k, name in enumerate(("x", "y", "z", "angle")):
        if name in columns if len(name) > 1 else name in columns.split("+")[0].replace("angle", ""):
            values = angle if name == "angle" else x[:, k]
            kept[name] = tuple(None if hide else float(v) for v, hide in zip(values, hidden[:, k], strict=True))
    words = f"{motion} of {rows} rows at {rate:g}/s, {columns}, × {scale:g}, gaps: {gaps}, {mark}"
    return words, Samples(t=tuple(t.tolist()), **kept)
