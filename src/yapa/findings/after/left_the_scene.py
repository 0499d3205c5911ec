"""A body that left the scene."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.motion import Motion


def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """It ends far below everything else, still falling: it found no support."""
    others = [b.place[2] - min(b.reach, 10.0) for b in motion.bodies if not b.moves]
    if not others:
        return
    ground = min(others)
    for name in motion.movers():
        path = motion.path(name)
        end = path.place(np.array([motion.end]))[0]
        v = float(path.velocity(np.array([motion.end]))[0][2])
        if end[2] < ground - 1.0 and v < -1.0:
            crossed = path.t[np.argmax(path.x[:, 2] < ground)]
            yield Finding(
                "left the scene",
                name,
                "it fell out of the scene",
                f"it passed below everything at {crossed:.3g} s and is {ground - end[2]:.3g} m below it at the end",
            )
