"""Writing motions and contact logs as CSV."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np

from yapa.case.evidence import Samples
from yapa.files import write_atomically
from yapa.motion import Motion


class _Lines:
    def __init__(self) -> None:
        self.text: list[str] = []

    def write(self, line: str) -> None:
        self.text.append(line)


def motion_csv(motion: Motion) -> str:
    """Samples of every moving body: t, then name.x … name.angle; SI units, angle about +y."""
    names = motion.movers()
    out = _Lines()
    writer = csv.writer(out, lineterminator="\n")
    fields = ("x", "y", "z", "vx", "vy", "vz", "qw", "qx", "qy", "qz", "wx", "wy", "wz", "angle")
    columns = [0, 1, 2, 7, 8, 9, 3, 4, 5, 6, 10, 11, 12, 14]
    writer.writerow(["t", *(f"{name}.{field}" for name in names for field in fields)])
    index = [motion.names.index(name) for name in names]
    for k, t in enumerate(motion.times):
        writer.writerow([f"{t:.9g}", *(f"{motion.states[k, i, c]:.9g}" for i in index for c in columns)])
    return "".join(out.text)


def contacts_csv(motion: Motion) -> str:
    """The contact log: one row a contact."""
    out = _Lines()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["t", "body", "partner", "x", "y", "z", "nx", "ny", "nz", "approach_speed", "rebound_speed",
                     "slip_before", "slip_after", "normal_impulse", "friction_impulse"])
    for c in motion.contacts:
        row = [c.time, *np.asarray(c.point), *np.asarray(c.normal), c.approach, c.rebound, c.slip_before, c.slip_after]
        impulses = ["" if v is None else f"{v:.9g}" for v in (c.normal_impulse, c.friction_impulse)]
        writer.writerow([f"{row[0]:.9g}", c.body, c.partner, *(f"{v:.9g}" for v in row[1:]), *impulses])
    return "".join(out.text)


def samples_csv(samples: Samples) -> str:
    """A track as plain columns t, x, y, z, angle; gaps are empty."""
    names = [name for name in ("x", "y", "z", "angle") if getattr(samples, name) is not None]
    lines = [",".join(["t", *names])]
    for k, t in enumerate(samples.t):
        cells = (getattr(samples, name)[k] for name in names)
        lines.append(",".join([repr(t), *("" if v is None else repr(v) for v in cells)]))
    return "\n".join(lines) + "\n"


def write_text(path: Path, text: str) -> None:
    """Write a text file atomically."""
    write_atomically(path, text)
