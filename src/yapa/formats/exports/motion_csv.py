"""Samples of a motion as CSV."""

from __future__ import annotations

import csv

from yapa.formats.exports.lines import Lines
from yapa.formats.exports.registry import Exported, exporter
from yapa.motion import Motion


def motion_csv(motion: Motion) -> str:
    """Return samples of every moving body, driven ones too: t, then name.x … name.angle; SI units, angle about +y.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    names = [body.name for body in motion.bodies if body.is_movable or body.is_kinematic]
    out = Lines()
    writer = csv.writer(out, lineterminator="\n")
    fields = ("x", "y", "z", "vx", "vy", "vz", "qw", "qx", "qy", "qz", "wx", "wy", "wz", "angle")
    columns = [0, 1, 2, 7, 8, 9, 3, 4, 5, 6, 10, 11, 12, 14]
    writer.writerow(["t", *(f"{name}.{field}" for name in names for field in fields)])
    index = [motion.names.index(name) for name in names]
    for k, t in enumerate(motion.times):
        writer.writerow([f"{t:.9g}", *(f"{motion.states[k, i, c]:.9g}" for i in index for c in columns)])
    return "".join(out.text)


@exporter("motion", ".csv", "samples of every moving body: places, velocities, orientations and angular velocities against time")
def _write(exported: Exported) -> str:
    return motion_csv(exported.motion)
