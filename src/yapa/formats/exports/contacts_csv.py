"""The contact log of a motion as CSV."""

from __future__ import annotations

import csv

import numpy as np

from yapa.formats.exports.lines import Lines
from yapa.formats.exports.registry import Exported, exporter
from yapa.motion import Motion


def contacts_csv(motion: Motion) -> str:
    """Return the contact log: one row a contact.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    out = Lines()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["t", "body", "partner", "x", "y", "z", "nx", "ny", "nz", "approach_speed", "rebound_speed",
                     "slip_before", "slip_after", "normal_impulse", "friction_impulse"])
    for c in motion.contacts:
        row = [c.time, *np.asarray(c.point), *np.asarray(c.normal), c.approach, c.rebound, c.slip_before, c.slip_after]
        impulses = ["" if v is None else f"{v:.9g}" for v in (c.normal_impulse, c.friction_impulse)]
        writer.writerow([f"{row[0]:.9g}", c.body, c.partner, *(f"{v:.9g}" for v in row[1:]), *impulses])
    return "".join(out.text)


@exporter("contacts", ".csv", "the contact log: times, bodies, points, normals, speeds and impulses")
def _write(exported: Exported) -> str:
    return contacts_csv(exported.motion)
