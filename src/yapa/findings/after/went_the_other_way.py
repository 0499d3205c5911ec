"""It ends up the other way from its launch."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, movers
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.info import Severity


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Thrown one way along the ground, found the other way."""
    for name in movers(case):
        path = motion.trajectory(name)
        v, ends = path.velocity_after[0][:2], path.position(np.array([0.0, motion.end]))[:, :2]
        way = ends[1] - ends[0]
        size = float(np.linalg.norm(v) * np.linalg.norm(way))
        if np.linalg.norm(v) > 0.05 and np.linalg.norm(way) > 0.01 and float(v @ way) < -0.3 * size:
            hits = [c for c in motion.contacts_of(name) if abs(float(c.normal[2])) < 0.7]
            spin = float(np.linalg.norm(path.omega_after[0]))
            why = (
                f"it bounced back from {hits[0].partner if hits[0].body == name else hits[0].body} at {hits[0].time:.3g} s"
                if hits
                else f"its spin of {spin:.3g} rad/s drives it back"
                if spin > 0
                else "the slope brings it back"
            )
            yield Finding(
                "went the other way",
                name,
                f"it was launched one way and ends {np.linalg.norm(way):.3g} m the other way",
                why,
                Severity.NOTE,
            )
